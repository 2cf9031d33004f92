use maths::{
    Caution, Domain, Equality, Evidence, Expr, Names, ReadError, ReadErrorKind, ReadOptions, compare,
};

use super::entry::{is_blank, nothing_entered, shifted};
use super::slips::{fits_with_factor, sign_flips};
use super::split::without_full_stop;
use super::{Shown, domain_of, names_of, without_value, wrong_form};
use crate::answer::{AnswerBlock, FaultyBlock, SameRule};
use crate::verdict::{Marking, Outcome, Slip};

/// How an equation is marked.
pub(crate) struct EquationRule {
    names: Names,
    key: Sides,
    domain: Domain,
    solved_for: Option<String>,
    by_solutions: bool,
}

struct Sides {
    left: Expr,
    right: Expr,
}

impl Sides {
    /// Zero exactly where the equation holds.
    fn difference(&self) -> Expr {
        self.left.clone().minus(self.right.clone())
    }
}

impl EquationRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let variables = block.variables.clone().unwrap_or_else(|| vec!["x".into()]);
        let names = names_of(&variables, block.complex)?;
        let domain = domain_of(block, &names)?;
        let text = block.key.text();
        let (key, _) = parse(&text, &names, false).map_err(|e| FaultyBlock::KeyUnreadable {
            key: text.clone(),
            why: maths::error_words(&e.kind),
        })?;
        let solved_for = match &block.solved_for {
            Some(name) => {
                let canonical = names_of(std::slice::from_ref(name), false)?;
                let name = canonical
                    .variables()
                    .first()
                    .map_or_else(|| name.clone(), ToString::to_string);
                if !names.variables().iter().any(|v| **v == *name) {
                    return Err(FaultyBlock::Other {
                        what: format!("`solved_for: {name}` is not among the variables"),
                    });
                }
                Some(name)
            }
            None => None,
        };
        Ok(Self {
            names,
            key,
            domain,
            solved_for,
            by_solutions: block.same == Some(SameRule::Solutions),
        })
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (sides, cautions) = parse(entry, &self.names, false)?;
        Ok(show(&sides, &cautions))
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (sides, cautions) = match parse(entry, &self.names, false) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = show(&sides, &cautions);
        let difference = sides.difference();
        if let Err(why) = maths::has_value(&difference) {
            return shown.onto(without_value(why, entry.chars().count()));
        }
        let judged = self.judge(&self.key.difference(), &difference);
        if judged.equal {
            if let Some(name) = self.solved_for.as_deref().filter(|name| !is_solved(&sides, name)) {
                return shown.onto(wrong_form(&format!(
                    "Solve it for {name}: {name} = … with no {name} on the other side."
                )));
            }
            return shown.onto(Marking::new(Outcome::Correct).known_by(judged.evidence));
        }
        let other = cautions
            .iter()
            .any(|c| c.kind.has_other_reading())
            .then(|| parse(entry, &self.names, true));
        let other = other.and_then(Result::ok).map(|(s, _)| s.difference());
        let slip = super::slips::looking_for_a_reason(|| self.slip(&sides, other.as_ref()));
        shown.onto(
            Marking::new(Outcome::Incorrect)
                .slipped(slip)
                .known_by(judged.evidence),
        )
    }

    fn slip(&self, sides: &Sides, other: Option<&Expr>) -> Option<Slip> {
        let key = self.key.difference();
        let fits = |d: &Expr| self.judge(&key, d).equal;
        let turned = Sides {
            left: sides.left.clone(),
            right: sides.right.clone().negate(),
        };
        let mut flipped = vec![turned.difference()];
        for left in sign_flips(&sides.left) {
            flipped.push(left.minus(sides.right.clone()));
        }
        for right in sign_flips(&sides.right) {
            flipped.push(sides.left.clone().minus(right));
        }
        if flipped.iter().any(fits) {
            return Some(Slip::Sign);
        }
        other.filter(|d| fits(d)).map(|_| Slip::MisreadOrder)
    }

    fn judge(&self, key: &Expr, entry: &Expr) -> Equality {
        // What only `compare` leaves open is settled below.
        let (judged, _) = maths::watching_decisions(|| compare(key, entry, &self.domain));
        if judged.equal {
            return judged;
        }
        let (equal, undecided) = maths::watching_decisions(|| {
            fits_with_factor(key, entry, &self.domain)
                || (self.by_solutions
                    && maths::same_solutions(key, entry, self.names.variables(), &self.domain) == Some(true))
        });
        if equal {
            let evidence = Evidence::Agreed {
                points: 1,
                digits: 24,
            };
            return Equality { equal, evidence };
        }
        if undecided {
            maths::note_undecided();
            let evidence = Evidence::Undecided;
            return Equality { equal, evidence };
        }
        judged
    }
}

fn show(sides: &Sides, cautions: &[Caution]) -> Shown {
    Shown {
        latex: format!("{} = {}", maths::latex(&sides.left), maths::latex(&sides.right)),
        speech: format!(
            "{} equals {}",
            maths::speech(&sides.left),
            maths::speech(&sides.right)
        ),
        cautions: cautions.to_vec(),
    }
}

fn parse(entry: &str, names: &Names, other_reading: bool) -> Result<(Sides, Vec<Caution>), ReadError> {
    if is_blank(entry) {
        return Err(nothing_entered());
    }
    let text = without_full_stop(entry);
    let length = text.chars().count();
    let Some((left, right)) = text.split_once(['=', '＝']) else {
        // What is wrong inside comes first; else the sign is missing.
        maths::read_expression(text, &ReadOptions::new(names))?;
        return Err(ReadError::new(ReadErrorKind::EqualsMissing, 0, length));
    };
    if right.contains(['=', '＝', '<', '>', '≤', '≥'])
        || left.contains(['<', '>', '≤', '≥', '!', '≠'])
            && !left
                .trim_end()
                .ends_with(|c: char| c.is_alphanumeric() || c == ')')
    {
        return Err(ReadError::new(ReadErrorKind::NotAnEquation, 0, length));
    }
    let options = ReadOptions {
        other_reading,
        ..ReadOptions::new(names)
    };
    let at = left.chars().count();
    let missing = |before: bool| {
        let kind = if before {
            ReadErrorKind::MissingBefore("=".into())
        } else {
            ReadErrorKind::MissingAfter("=".into())
        };
        ReadError::new(kind, at, at + 1)
    };
    if is_blank(left) {
        return Err(missing(true));
    }
    if is_blank(right) {
        return Err(missing(false));
    }
    let l = maths::read_expression(left, &options)?;
    let r = maths::read_expression(right, &options).map_err(|e| shifted(e, at + 1))?;
    let mut cautions = l.cautions;
    cautions.extend(r.cautions);
    Ok((
        Sides {
            left: l.tree,
            right: r.tree,
        },
        cautions,
    ))
}

fn is_solved(sides: &Sides, name: &str) -> bool {
    let alone = |e: &Expr| matches!(e.bare(), Expr::Variable(v) if &**v == name);
    (alone(&sides.left) && !sides.right.mentions(name)) || (alone(&sides.right) && !sides.left.mentions(name))
}
