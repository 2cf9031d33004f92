use maths::{
    Caution, Equality, Evidence, Expr, Function, Names, ReadError, ReadOptions, Undefined, compare,
    exact_value, split_complex,
};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{Signed, ToPrimitive, Zero};

use super::entry::{drop_name, is_blank, nothing_entered, shifted};
use super::{Shown, names_of, read_key, slips, without_value};
use crate::answer::{AnswerBlock, FaultyBlock, NumberText, Tolerance};
use crate::verdict::{Marking, Outcome};

/// How a number is marked.
pub(crate) struct NumberRule {
    names: Names,
    key: Expr,
    complex: bool,
    bound: Option<Bound>,
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
        if matches!(bound, Some(Bound::Significant(_)))
            && maths::sign_of_constant(&key).is_ok_and(|(s, _)| s == std::cmp::Ordering::Equal)
        {
            return Err(FaultyBlock::SignificantOfZero);
        }
        Ok(Self {
            names,
            key,
            complex: block.complex,
            bound,
        })
    }

    fn parse(&self, entry: &str) -> Result<(Expr, Vec<Caution>), ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        let (rest, dropped) = drop_name(entry);
        let reading = maths::read_expression(rest, &ReadOptions::number(&self.names))
            .map_err(|e| shifted(e, dropped))?;
        Ok((reading.tree, reading.cautions))
    }

    fn other_reading(&self, entry: &str) -> Option<Expr> {
        let options = ReadOptions {
            other_reading: true,
            ..ReadOptions::number(&self.names)
        };
        maths::read_expression(drop_name(entry).0, &options)
            .ok()
            .map(|r| r.tree)
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (tree, cautions) = self.parse(entry)?;
        Ok(Shown::of(&tree, &cautions))
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (tree, cautions) = match self.parse(entry) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = Shown::of(&tree, &cautions);
        let length = entry.chars().count();
        if self.complex {
            return shown.onto(self.mark_complex(&tree, length));
        }
        if let Err(why) = maths::has_value(&tree) {
            return shown.onto(without_value(why, length));
        }
        let judged = match self.accepts(&self.key, &tree) {
            Ok(judged) => judged,
            Err(why) => return shown.onto(without_value(why, length)),
        };
        if judged.equal {
            return shown.onto(Marking::new(Outcome::Correct).known_by(judged.evidence));
        }
        let other = if cautions.iter().any(|c| c.kind.has_other_reading()) {
            self.other_reading(entry)
        } else {
            None
        };
        let slip = slips::of_number(&slips::NumberSlips {
            key: &self.key,
            entry: &tree,
            tolerance: self.bound.is_some(),
            other: other.as_ref(),
            accepts: &|key, entry| self.accepts(key, entry).is_ok_and(|j| j.equal),
        });
        let mut marking = Marking::new(Outcome::Incorrect)
            .slipped(slip)
            .known_by(judged.evidence);
        if slip == Some(crate::verdict::Slip::ExactWanted) {
            marking = marking.note("An exact value is wanted here, not a rounded decimal.");
        }
        shown.onto(marking)
    }

    /// Whether an entry counts as this key, within the tolerance.
    pub(crate) fn accepts(&self, key: &Expr, entry: &Expr) -> Result<Equality, Undefined> {
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
    let mut n = guess as i64 - 1;
    let size = Expr::call(Function::Abs, key.clone());
    // The guess is at most two places low.
    for _ in 0..4 {
        let next = Expr::rational(&power_of_ten(n + 1));
        let (order, _) = maths::compare_constants(&size, &next).ok()?;
        if order == std::cmp::Ordering::Less {
            return Some(n);
        }
        n += 1;
    }
    None
}
