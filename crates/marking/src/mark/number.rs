use maths::{
    Caution, Equality, Evidence, Expr, Function, Names, NumberForm, ReadError, ReadErrorKind, ReadOptions,
    Undefined, Unit, compare, exact_value, has_number_form, split_complex,
};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{Signed, ToPrimitive, Zero};

use super::entry::{drop_name, is_blank, nothing_entered, shifted};
use super::measure::{Measure, unit_latex, unit_speech};
use super::{Shown, names_of, read_key, slips, without_value, wrong_form};
use crate::answer::{AnswerBlock, FaultyBlock, FormName, NumberText, Tolerance};
use crate::verdict::{Marking, Outcome, Slip};

/// How a number is marked.
pub(crate) struct NumberRule {
    names: Names,
    key: Expr,
    /// Between which numbers the key and the tolerance around it surely lie, where that is quickly told: most wrong entries,
    /// and what they might have been meant as, are far outside.
    near: Option<(f64, f64)>,
    width: Option<(f64, f64)>,
    key_is_zero: bool,
    complex: bool,
    bound: Option<Bound>,
    form: Option<NumberForm>,
    measure: Option<Measure>,
}

/// A number as typed, with its unit if it has one.
struct Typed {
    tree: Expr,
    unit: Option<Unit>,
    cautions: Vec<Caution>,
}

/// A tolerance, the exact numbers read.
pub(crate) enum Bound {
    Absolute(Expr),
    Relative(Expr),
    Significant(u32),
}

impl NumberRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let variables = block.variables.clone().unwrap_or_default();
        let names = names_of(&variables, block.complex)?;
        let key = read_key(&block.key.text(), &ReadOptions::number(&names), block.complex)?;
        let bound = block.tolerance.as_ref().map(bound_of).transpose()?;
        let key_is_zero = maths::sign_of_constant(&key).is_ok_and(|(s, _)| s == std::cmp::Ordering::Equal);
        if matches!(bound, Some(Bound::Significant(_))) && key_is_zero {
            return Err(FaultyBlock::SignificantOfZero);
        }
        let near = maths::enclosed(&key);
        let width = bound.as_ref().and_then(|b| width_near(b, &key, near?));
        let form = block.form.map(|f| form_of(f, block)).transpose()?;
        let measure = Measure::of(block)?;
        let complex = block.complex;
        Ok(Self {
            names,
            key,
            near,
            width,
            key_is_zero,
            complex,
            bound,
            form,
            measure,
        })
    }

    fn parse(&self, entry: &str, other_reading: bool) -> Result<Typed, ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        let (rest, dropped) = drop_name(entry);
        if self.form == Some(NumberForm::Scientific) && is_power_of_ten_run_on(rest) {
            return Err(ReadError::new(
                ReadErrorKind::PowerOfTenRunOn,
                0,
                entry.chars().count(),
            ));
        }
        let options = ReadOptions {
            other_reading,
            ..ReadOptions::number(&self.names)
        };
        if let Some((reading, unit)) = self.measure.as_ref().and_then(|m| m.split(rest, &options)) {
            return Ok(Typed {
                tree: reading.tree,
                unit: Some(unit),
                cautions: reading.cautions,
            });
        }
        match maths::read_expression(rest, &options) {
            Ok(reading) => Ok(Typed {
                tree: reading.tree,
                unit: None,
                cautions: reading.cautions,
            }),
            Err(error) => {
                let error = match &self.measure {
                    Some(measure) => measure.as_unit_error(rest, error, &options),
                    None => as_word_after_number(rest, error, &options),
                };
                Err(shifted(error, dropped))
            }
        }
    }

    fn show(&self, typed: &Typed) -> Shown {
        let mut shown = Shown::of(&typed.tree, &typed.cautions);
        if let Some(unit) = typed.unit.as_ref().filter(|u| !u.shown.is_empty()) {
            shown
                .latex
                .push_str(&format!("\\,\\mathrm{{{}}}", unit_latex(&unit.shown)));
            shown.speech.push_str(&format!(" {}", unit_speech(&unit.shown)));
        }
        shown
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        Ok(self.show(&self.parse(entry, false)?))
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let typed = match self.parse(entry, false) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = self.show(&typed);
        let length = entry.chars().count();
        if self.complex {
            return shown.onto(self.mark_complex(&typed.tree, length));
        }
        if let Err(why) = maths::has_value(&typed.tree) {
            return shown.onto(without_value(why, length));
        }
        let Some(value) = self.converted(&typed) else {
            let slip = Slip::WrongDimension;
            let marking = Marking::new(Outcome::Incorrect).note(crate::verdict::slip_words(slip));
            return shown.onto(marking.slipped(Some(slip)));
        };
        let judged = match self.accepts(&self.key, &value) {
            Ok(judged) => judged,
            Err(why) => return shown.onto(without_value(why, length)),
        };
        if judged.equal {
            return shown.onto(self.in_form(&typed).known_by(judged.evidence));
        }
        shown.onto(self.wrong(entry, &typed, &value).known_by(judged.evidence))
    }

    /// The entry in the key's unit; `None` for a unit of another dimension.
    fn converted(&self, typed: &Typed) -> Option<Expr> {
        match (&self.measure, &typed.unit) {
            (Some(wanted), Some(mine)) => wanted.converted(&typed.tree, mine),
            _ => Some(typed.tree.clone()),
        }
    }

    fn in_form(&self, typed: &Typed) -> Marking {
        if self.measure.as_ref().is_some_and(|m| !m.shown) && typed.unit.is_none() {
            return wrong_form("The unit is missing.");
        }
        match self.form {
            Some(form) if !has_number_form(&typed.tree, form) => wrong_form(form_words(form)),
            _ => Marking::new(Outcome::Correct),
        }
    }

    fn wrong(&self, entry: &str, typed: &Typed, value: &Expr) -> Marking {
        let accepted = |key: &Expr, entry: &Expr| self.accepts(key, entry).is_ok_and(|j| j.equal);
        if typed.unit.is_some() && *value != typed.tree && accepted(&self.key, &typed.tree) {
            return Marking::new(Outcome::Incorrect).slipped(Some(Slip::UnitScale));
        }
        let doubtful = typed.cautions.iter().any(|c| c.kind.has_other_reading());
        let other = if doubtful {
            self.parse(entry, true).ok()
        } else {
            None
        };
        let other = other.and_then(|t| self.converted(&t));
        let slip = slips::of_number(&slips::NumberSlips {
            key: &self.key,
            entry: value,
            key_is_zero: self.key_is_zero,
            near: self.near,
            tolerance: self.bound.is_some(),
            other: other.as_ref(),
            accepts: &accepted,
        });
        let marking = Marking::new(Outcome::Incorrect).slipped(slip);
        if slip == Some(Slip::ExactWanted) {
            return marking.note(crate::verdict::slip_words(Slip::ExactWanted));
        }
        marking
    }

    /// Whether an entry surely is or is not within the tolerance of the key; `None` where that takes a closer look.
    fn at_a_glance(&self, key: &Expr, entry: &Expr) -> Option<bool> {
        let key_itself = std::ptr::eq(key, &self.key);
        let (low, high) = if key_itself {
            self.near
        } else {
            maths::enclosed(key)
        }?;
        let (from, to) = maths::enclosed(entry)?;
        // How far they are apart, at least and at most; a step outward for each rounding.
        let least = (low - to).max(from - high).next_down();
        let most = (high - from).max(to - low).next_up();
        let (narrow, wide) = match &self.bound {
            None => (-1.0, 0.0),
            Some(_) if key_itself => self.width?,
            Some(bound) => width_near(bound, key, (low, high))?,
        };
        if least > wide {
            Some(false)
        } else if most < narrow {
            Some(true)
        } else {
            None
        }
    }

    /// Whether an entry counts as this key, within the tolerance.
    pub(crate) fn accepts(&self, key: &Expr, entry: &Expr) -> Result<Equality, Undefined> {
        if let Some(equal) = self.at_a_glance(key, entry) {
            let evidence = if equal {
                Evidence::ProvedEqual
            } else {
                Evidence::ProvedDifferent { witness: Vec::new() }
            };
            return Ok(Equality { equal, evidence });
        }
        let Some(bound) = &self.bound else {
            let judged = compare(key, entry, &maths::Domain::default());
            return match judged.evidence {
                Evidence::EntryHasNoValue => Err(Undefined::NoValue),
                Evidence::Undecided => Err(Undefined::Unknown),
                _ => Ok(judged),
            };
        };
        let size = Expr::call(Function::Abs, key.clone());
        let width = match bound {
            Bound::Absolute(width) => width.clone(),
            Bound::Relative(part) => part.clone().times(size),
            Bound::Significant(figures) => match half_unit(key, *figures) {
                Some(width) => Expr::rational(&width),
                None => return Err(Undefined::Unknown),
            },
        };
        let equal = maths::within(entry, key, &width)?;
        let evidence = if equal {
            Evidence::ProvedEqual
        } else {
            Evidence::ProvedDifferent { witness: Vec::new() }
        };
        Ok(Equality { equal, evidence })
    }

    fn mark_complex(&self, tree: &Expr, length: usize) -> Marking {
        let (Some(key), Some(entry)) = (split_complex(&self.key), split_complex(tree)) else {
            return without_value(Undefined::Unknown, length);
        };
        for part in [&entry.re, &entry.im] {
            if let Err(why) = maths::has_value(part) {
                return without_value(why, length);
            }
        }
        let domain = maths::Domain::default();
        let re = compare(&key.re, &entry.re, &domain);
        let im = compare(&key.im, &entry.im, &domain);
        for judged in [&re, &im] {
            match judged.evidence {
                Evidence::EntryHasNoValue => return without_value(Undefined::NoValue, length),
                Evidence::Undecided => return without_value(Undefined::Unknown, length),
                _ => {}
            }
        }
        if re.equal && im.equal {
            return Marking::new(Outcome::Correct).known_by(im.evidence);
        }
        let slip = slips::of_complex(&key, &entry);
        let evidence = if re.equal { im.evidence } else { re.evidence };
        Marking::new(Outcome::Incorrect).slipped(slip).known_by(evidence)
    }
}

/// `5.4x10-3`: ten, and what was meant for its exponent behind it. Read as it stands it would be a difference.
fn is_power_of_ten_run_on(text: &str) -> bool {
    let bare: String = text.chars().filter(|c| !c.is_whitespace()).collect();
    let bare = bare.to_lowercase();
    let Some((front, after)) = bare.rsplit_once("10") else {
        return false;
    };
    let exponent = after.strip_prefix(['-', '−', '–', '+']).unwrap_or_default();
    let front = front.strip_suffix(['x', '×', '*', '·', '⋅']).unwrap_or_default();
    let is_number =
        |t: &str| t.chars().any(|c| c.is_ascii_digit()) && t.chars().all(|c| c.is_ascii_digit() || c == '.');
    is_number(front.trim_start_matches(['-', '−'])) && is_number(exponent)
}

/// An unknown word behind a number, where nothing is wanted but the number: `14 clicks`, `£240`, `73 dB`.
fn as_word_after_number(text: &str, error: ReadError, options: &ReadOptions) -> ReadError {
    let trimmed = text.trim().trim_end_matches('.');
    let digits = |c: char| c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '−' | '/' | ' ' | '+');
    let (number, word) = match trimmed.find(|c: char| !digits(c)) {
        // A sign of money in front.
        Some(0) => {
            let first = trimmed.chars().next().filter(|c| "£€$".contains(*c));
            let Some(sign) = first else { return error };
            let (sign, number) = trimmed.split_at(sign.len_utf8());
            (number, sign)
        }
        Some(at) => trimmed.split_at(at),
        None => return error,
    };
    let is_word = word.chars().any(char::is_alphabetic) || word == "£" || word == "€" || word == "$";
    let plain = word
        .chars()
        .all(|c| c.is_alphabetic() || c.is_whitespace() || "£€$-²³^2/()".contains(c));
    if !is_word || !plain || number.trim().is_empty() || maths::read_expression(number, options).is_err() {
        return error;
    }
    let kind = ReadErrorKind::WordAfterNumber(word.trim().to_owned());
    ReadError::new(kind, 0, text.chars().count())
}

/// Between which numbers a tolerance surely lies; `None` where that is not quickly told.
fn width_near(bound: &Bound, key: &Expr, near: (f64, f64)) -> Option<(f64, f64)> {
    match bound {
        Bound::Absolute(width) => maths::enclosed(width),
        Bound::Relative(part) => {
            let (low, high) = maths::enclosed(part)?;
            let least = if near.0 <= 0.0 && near.1 >= 0.0 {
                0.0
            } else {
                near.0.abs().min(near.1.abs())
            };
            let most = near.0.abs().max(near.1.abs());
            Some(((low * least).next_down(), (high * most).next_up()))
        }
        Bound::Significant(figures) => maths::enclosed(&Expr::rational(&half_unit(key, *figures)?)),
    }
}

fn form_of(name: FormName, block: &AnswerBlock) -> Result<NumberForm, FaultyBlock> {
    Ok(match name {
        FormName::Integer => NumberForm::Integer,
        FormName::Decimal => NumberForm::Decimal,
        FormName::Fraction => NumberForm::Fraction,
        FormName::LowestTerms => NumberForm::LowestTerms,
        FormName::Mixed => NumberForm::Mixed,
        FormName::Scientific => NumberForm::Scientific,
        FormName::SimplestRoot => NumberForm::SimplestRoot,
        _ => return Err(FaultyBlock::FormOfOtherKind { kind: block.kind }),
    })
}

fn form_words(form: NumberForm) -> &'static str {
    match form {
        NumberForm::Integer => "Write it as a whole number, worked out.",
        NumberForm::Decimal => "Write it as a decimal.",
        NumberForm::Fraction => "Write it as a fraction a/b.",
        NumberForm::LowestTerms => "Write it as a fraction in lowest terms.",
        NumberForm::Mixed => "Write it as a mixed number in lowest terms, like 2 1/3.",
        NumberForm::Scientific => "Write it in scientific notation: a x 10^n with a from 1 to below 10.",
        NumberForm::SimplestRoot => {
            "Simplify the root: take every square out of it, and leave no root below the fraction line."
        }
    }
}

fn bound_of(tolerance: &Tolerance) -> Result<Bound, FaultyBlock> {
    let exact = |n: &NumberText| match n.exact() {
        Some(v) if !v.is_negative() => Ok(Expr::rational(&v)),
        _ => Err(FaultyBlock::BadTolerance),
    };
    Ok(match tolerance {
        Tolerance::Absolute(n) => Bound::Absolute(exact(n)?),
        Tolerance::Relative(n) => Bound::Relative(exact(n)?),
        Tolerance::Decimals(places) if *places <= 100 => Bound::Absolute(Expr::rational(
            &(BigRational::new(1.into(), 2.into()) * power_of_ten(-i64::from(*places))),
        )),
        Tolerance::Significant(figures) if (1..=100).contains(figures) => Bound::Significant(*figures),
        Tolerance::Decimals(_) | Tolerance::Significant(_) => return Err(FaultyBlock::BadTolerance),
    })
}

pub(crate) fn power_of_ten(n: i64) -> BigRational {
    let size = usize::try_from(n.unsigned_abs()).unwrap_or(0).min(5_000);
    let power = BigRational::from(num_traits::pow(BigInt::from(10), size));
    if n < 0 { power.recip() } else { power }
}

/// Half a unit of a significant figure of the key.
fn half_unit(key: &Expr, figures: u32) -> Option<BigRational> {
    let leading = leading_place(key)?;
    Some(BigRational::new(1.into(), 2.into()) * power_of_ten(leading - i64::from(figures) + 1))
}

/// n with 10^n ≤ |key| < 10^(n+1).
fn leading_place(key: &Expr) -> Option<i64> {
    let guess = match exact_value(key) {
        Some(v) if v.is_zero() => return None,
        Some(v) => {
            let bits = i64::try_from(v.numer().bits()).ok()? - i64::try_from(v.denom().bits()).ok()?;
            (bits.to_f64()? * std::f64::consts::LOG10_2).floor()
        }
        None => maths::approximate(key).ok()?.abs().log10().floor(),
    };
    if !guess.is_finite() || guess.abs() > 4_000.0 {
        return None;
    }
    #[expect(clippy::cast_possible_truncation, reason = "bounded just above")]
    let n = guess as i64 - 1;
    let size = Expr::call(Function::Abs, key.clone());
    // The guess is at most two places low.
    for place in n..n + 4 {
        let next = Expr::rational(&power_of_ten(place + 1));
        let (order, _) = maths::compare_constants(&size, &next).ok()?;
        if order == std::cmp::Ordering::Less {
            return Some(place);
        }
    }
    None
}
