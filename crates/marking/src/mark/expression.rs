use std::sync::Arc;

use maths::{
    Caution, Domain, Equality, Evidence, Expr, ExpressionForm, Names, ReadError, ReadOptions, Term, compare,
    has_expression_form, split_complex,
};

use super::entry::{drop_name, is_blank, nothing_entered, shifted};
use super::slips::{self, fits_with_constant, fits_with_factor};
use super::{Shown, domain_of, names_of, read_key, without_value, wrong_form};
use crate::answer::{AnswerBlock, ConstantLetter, FaultyBlock, FormName, UpTo};
use crate::verdict::{Marking, Outcome};

/// How an expression is marked.
pub(crate) struct ExpressionRule {
    /// With the letters a constant of integration may have, where one may stand.
    names: Names,
    letters: Vec<Arc<str>>,
    key: Expr,
    domain: Domain,
    complex: bool,
    up_to: Option<UpTo>,
    letter_required: bool,
    form: Option<ExpressionForm>,
}

impl ExpressionRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let variables = block.variables.clone().unwrap_or_else(|| vec!["x".into()]);
        let plain = names_of(&variables, block.complex)?;
        let key = read_key(&block.key.text(), &ReadOptions::new(&plain), block.complex)?;
        let domain = domain_of(block, &plain)?;
        let mut all = variables.clone();
        let mut letters = Vec::new();
        if block.up_to == Some(UpTo::Constant) {
            for letter in constant_letters(&variables, block.complex) {
                letters.push(Arc::from(letter.as_str()));
                all.push(letter);
            }
        }
        let names = names_of(&all, block.complex)?;
        if !block.complex && matches!(compare(&key, &key, &domain).evidence, Evidence::KeyHasNoValue) {
            return Err(FaultyBlock::KeyWithoutValue {
                key: block.key.text(),
            });
        }
        let form = block.form.map(|f| form_of(f, block)).transpose()?;
        let letter_required = block.constant_letter == Some(ConstantLetter::Required);
        Ok(Self {
            names,
            letters,
            key,
            domain,
            complex: block.complex,
            up_to: block.up_to,
            letter_required,
            form,
        })
    }

    fn parse(&self, entry: &str, other_reading: bool) -> Result<(Expr, Vec<Caution>), ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        let (rest, dropped) = drop_name(entry);
        let options = ReadOptions {
            other_reading,
            ..ReadOptions::new(&self.names)
        };
        let reading = maths::read_expression(rest, &options).map_err(|e| shifted(e, dropped))?;
        Ok((reading.tree, reading.cautions))
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (tree, cautions) = self.parse(entry, false)?;
        Ok(Shown::of(&tree, &cautions))
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (tree, cautions) = match self.parse(entry, false) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = Shown::of(&tree, &cautions);
        let length = entry.chars().count();
        if !self.complex
            && let Err(why) = maths::has_value(&tree)
        {
            return shown.onto(without_value(why, length));
        }
        if self.up_to == Some(UpTo::Constant) {
            return shown.onto(self.mark_up_to_constant(&tree, length));
        }
        let judged = self.judge(&self.key, &tree);
        match judged.evidence {
            Evidence::EntryHasNoValue => return shown.onto(without_value(maths::Undefined::NoValue, length)),
            Evidence::Undecided => return shown.onto(without_value(maths::Undefined::Unknown, length)),
            _ => {}
        }
        if judged.equal {
            return shown.onto(
                self.in_form(&tree, Marking::new(Outcome::Correct))
                    .known_by(judged.evidence),
            );
        }
        let other = cautions
            .iter()
            .any(|c| c.kind.has_other_reading())
            .then(|| self.parse(entry, true));
        let other = other.and_then(Result::ok).map(|(tree, _)| tree);
        let fits = |key: &Expr, entry: &Expr| self.judge(key, entry).equal;
        // Equal where both have values: no slip of the table says that.
        let undefined = matches!(judged.evidence, Evidence::Undefined { .. });
        let slip = if self.complex || undefined {
            None
        } else {
            slips::of_expression(&self.key, &tree, other.as_ref(), &self.domain, &fits)
        };
        shown.onto(
            Marking::new(Outcome::Incorrect)
                .slipped(slip)
                .known_by(judged.evidence),
        )
    }

    fn judge(&self, key: &Expr, entry: &Expr) -> Equality {
        if self.complex {
            return self.judge_complex(key, entry);
        }
        let judged = compare(key, entry, &self.domain);
        if !judged.equal && self.up_to == Some(UpTo::Factor) && fits_with_factor(key, entry, &self.domain) {
            return Equality {
                equal: true,
                ..judged
            };
        }
        judged
    }

    fn judge_complex(&self, key: &Expr, entry: &Expr) -> Equality {
        let (Some(k), Some(e)) = (split_complex(key), split_complex(entry)) else {
            return Equality {
                equal: false,
                evidence: Evidence::Undecided,
            };
        };
        let re = compare(&k.re, &e.re, &self.domain);
        let im = compare(&k.im, &e.im, &self.domain);
        if re.equal { im } else { re }
    }

    fn mark_up_to_constant(&self, tree: &Expr, length: usize) -> Marking {
        let used = self.letters.iter().any(|l| tree.mentions(l));
        let mut terms = Vec::new();
        flatten(tree, false, &mut terms);
        let varies = |e: &Expr| e.variables().iter().any(|v| !self.letters.contains(v));
        let has_letter = |e: &Expr| self.letters.iter().any(|l| e.mentions(l));
        let in_place = terms.iter().all(|t| !has_letter(&t.expr) || !varies(&t.expr));
        let bare = if in_place {
            terms.retain(|t| !has_letter(&t.expr));
            terms.insert(
                0,
                Term {
                    minus: false,
                    expr: Expr::whole(0),
                },
            );
            Expr::Sum(terms)
        } else {
            // The letter sits inside something: judged with it put as 1.
            self.letters
                .iter()
                .fold(tree.clone(), |e, l| e.substitute(l, &Expr::whole(1)))
        };
        if let Err(why) = maths::has_value(&bare) {
            return without_value(why, length);
        }
        let judged = compare(&self.key, &bare, &self.domain);
        match judged.evidence {
            Evidence::EntryHasNoValue => return without_value(maths::Undefined::NoValue, length),
            Evidence::Undecided => return without_value(maths::Undefined::Unknown, length),
            _ => {}
        }
        if !judged.equal && !fits_with_constant(&self.key, &bare, &self.domain) {
            let fits = |key: &Expr, entry: &Expr| fits_with_constant(key, entry, &self.domain);
            let slip = slips::of_expression(&self.key, &bare, None, &self.domain, &fits);
            return Marking::new(Outcome::Incorrect)
                .slipped(slip)
                .known_by(judged.evidence);
        }
        if !in_place {
            return wrong_form("Write the constant as an added letter: … + C.");
        }
        if self.letter_required && !used {
            return wrong_form("The constant of integration is missing: add + C.");
        }
        self.in_form(tree, Marking::new(Outcome::Correct))
            .known_by(judged.evidence)
    }

    fn in_form(&self, tree: &Expr, right: Marking) -> Marking {
        match self.form {
            Some(form) if !has_expression_form(tree, form) => wrong_form(form_words(form)),
            _ => right,
        }
    }
}

fn form_of(name: FormName, block: &AnswerBlock) -> Result<ExpressionForm, FaultyBlock> {
    Ok(match name {
        FormName::Expanded => ExpressionForm::Expanded,
        FormName::Factored => ExpressionForm::Factored,
        FormName::SingleFraction => ExpressionForm::SingleFraction,
        FormName::LowestTerms => ExpressionForm::LowestTerms,
        FormName::NoDecimals => ExpressionForm::NoDecimals,
        _ => return Err(FaultyBlock::FormOfOtherKind { kind: block.kind }),
    })
}

fn form_words(form: ExpressionForm) -> &'static str {
    match form {
        ExpressionForm::Expanded => "Multiply out all brackets and collect like terms.",
        ExpressionForm::Factored => "Write it as a product, factored as far as it goes.",
        ExpressionForm::SingleFraction => "Write it as a single fraction.",
        ExpressionForm::LowestTerms => "Write it as a single fraction in lowest terms.",
        ExpressionForm::NoDecimals => "Write it without decimals, with fractions.",
    }
}

/// Capital letters that are not taken, and c.
fn constant_letters(variables: &[String], complex: bool) -> Vec<String> {
    let taken = |letter: char| {
        let small = letter.to_ascii_lowercase();
        variables
            .iter()
            .any(|v| *v == letter.to_string() || *v == small.to_string())
    };
    let mut letters: Vec<String> = ('A'..='Z')
        .filter(|c| !taken(*c) && *c != 'E' && !(complex && *c == 'I'))
        .map(String::from)
        .collect();
    if !variables.iter().any(|v| v == "c") {
        letters.push("c".into());
    }
    letters
}

/// The terms of the outermost sum, brackets and signs resolved.
fn flatten(expr: &Expr, minus: bool, into: &mut Vec<Term>) {
    match expr {
        Expr::Group(e) | Expr::Positive(e) => flatten(e, minus, into),
        Expr::Negative(e) => flatten(e, !minus, into),
        Expr::Sum(terms) => terms
            .iter()
            .for_each(|t| flatten(&t.expr, minus != t.minus, into)),
        other => into.push(Term {
            minus,
            expr: other.clone(),
        }),
    }
}
