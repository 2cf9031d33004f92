//! Zeros of what is no polynomial: looked for in floating point between −1000 and 1000, where the sign changes and where
//! the value only touches zero, then pinned down between rational ends with long enclosures.

use std::cmp::Ordering;
use std::sync::Arc;

use astro_float::BigFloat;
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{FromPrimitive, Signed};

use super::plain::value;
use crate::budget::Budget;
use crate::equality::{Domain, Range};
use crate::evaluate::{Evaluator, Point};
use crate::tree::Expr;

/// Bits of the enclosures that pin zeros down.
const PRECISION: usize = 256;
/// A zero is known to lie between two ends so far apart, beside its size: 2^-80.
const PINNED: u32 = 80;
/// Zeros that are looked at; more come from what goes up and down for ever.
pub(super) const MOST_ZEROS: usize = 40;

/// The difference of the sides of an equation, as a function of one variable.
pub(super) struct Curve<'a> {
    pub expr: &'a Expr,
    pub name: &'a Arc<str>,
}

/// A zero, pinned to 2^-80 of its size.
#[derive(Clone, Debug)]
pub(super) struct FoundZero {
    pub at: BigRational,
}

fn whole(_: &str) -> bool {
    false
}

impl Curve<'_> {
    fn near(&self, x: f64) -> Option<f64> {
        value(self.expr, self.name, x)
    }

    /// The sign at a rational place, if it can be told.
    fn sign(&self, at: &BigRational) -> Option<Ordering> {
        let point: Point = std::iter::once((self.name.clone(), at.clone())).collect();
        let mut evaluator = Evaluator::<BigFloat>::new(&point, &whole, PRECISION);
        let v = evaluator.interval(self.expr).ok()?;
        v.sign(&evaluator.cx).filter(|_| !evaluator.is_in_doubt())
    }

    /// The sign of the slope, from two places close by.
    fn slope_sign(&self, at: &BigRational) -> Option<Ordering> {
        let step = BigRational::new(1.into(), BigInt::from(1) << 100);
        let difference = {
            let up: Point = std::iter::once((self.name.clone(), at + &step)).collect();
            let down: Point = std::iter::once((self.name.clone(), at - &step)).collect();
            let mut evaluator = Evaluator::<BigFloat>::new(&up, &whole, PRECISION);
            let high = evaluator.interval(self.expr).ok()?;
            let mut below = Evaluator::<BigFloat>::new(&down, &whole, PRECISION);
            let low = below.interval(self.expr).ok()?;
            let gap = high.sub(&low, &evaluator.cx);
            gap.sign(&evaluator.cx)?
        };
        Some(difference)
    }

    /// Whether the value there is as good as zero: below 2^-120.
    pub fn vanishes_at(&self, at: &BigRational) -> bool {
        let point: Point = std::iter::once((self.name.clone(), at.clone())).collect();
        let mut evaluator = Evaluator::<BigFloat>::new(&point, &whole, PRECISION);
        evaluator.interval(self.expr).is_ok_and(|v| v.log2() < -120)
    }

    /// The zeros in the domain that are found, at most one more than [`MOST_ZEROS`]. `None` where the work is too much.
    pub fn zeros(&self, domain: &Domain) -> Option<Vec<FoundZero>> {
        let grid = grid();
        let values: Vec<Option<f64>> = grid.iter().map(|x| self.near(*x)).collect();
        let mut found: Vec<FoundZero> = Vec::new();
        for place in 1..grid.len() {
            if Budget::is_spent() {
                return None;
            }
            if found.len() > MOST_ZEROS {
                break;
            }
            let (Some(&a), Some(&b)) = (grid.get(place - 1), grid.get(place)) else {
                continue;
            };
            let (Some(fa), Some(fb)) = (values.get(place - 1).copied()?, values.get(place).copied()?) else {
                continue;
            };
            if fa == 0.0 || fa.signum() != fb.signum() {
                found.extend(self.crossing(a, b, fa));
            }
            let Some(&c) = grid.get(place + 1) else { continue };
            let Some(fc) = values.get(place + 1).copied()? else {
                continue;
            };
            let same_side = fa.signum() == fb.signum() && fb.signum() == fc.signum();
            if same_side && fb.abs() <= fa.abs() && fb.abs() <= fc.abs() {
                found.extend(self.touching(a, c, fa.abs().max(fc.abs())));
            }
        }
        found.sort_by(|a, b| a.at.cmp(&b.at));
        found.dedup_by(|a, b| is_close(&a.at, &b.at));
        found.retain(|z| allows(domain.range(self.name), &z.at));
        Some(found)
    }

    /// Halves an interval in which the sign changes. A pole changes it too, but grows there.
    fn crossing(&self, a: f64, b: f64, fa: f64) -> Option<FoundZero> {
        let (mut low, mut high) = (a, b);
        for _ in 0..80 {
            let middle = f64::midpoint(low, high);
            if middle <= low || middle >= high {
                break;
            }
            let f = self.near(middle)?;
            if f == 0.0 {
                (low, high) = (middle, middle);
                break;
            }
            if f.signum() == fa.signum() {
                low = middle;
            } else {
                high = middle;
            }
        }
        let size = self.near(low)?.abs().min(self.near(high)?.abs());
        if size > fa.abs().max(1.0) {
            return None;
        }
        let at = self.pinned(f64::midpoint(low, high), &|at| self.sign(at))?;
        Some(FoundZero { at })
    }

    /// The place where the size is least, by the golden section; a zero if nothing is left there.
    fn touching(&self, a: f64, c: f64, size: f64) -> Option<FoundZero> {
        const GOLDEN: f64 = 0.618_033_988_749_894_9;
        let (mut low, mut high) = (a, c);
        let at = |x: f64| self.near(x).map(f64::abs);
        for _ in 0..60 {
            let (left, right) = (high - GOLDEN * (high - low), low + GOLDEN * (high - low));
            if at(left)? <= at(right)? {
                high = right;
            } else {
                low = left;
            }
        }
        let middle = f64::midpoint(low, high);
        if at(middle)? > 1e-9 * size.max(f64::MIN_POSITIVE) {
            return None;
        }
        let place = self
            .pinned(middle, &|at| self.slope_sign(at))
            .filter(|at| self.vanishes_at(at))
            // A corner has no slope, but is often a short number.
            .or_else(|| short_numbers(middle).into_iter().find(|at| self.vanishes_at(at)))?;
        Some(FoundZero { at: place })
    }

    /// A place close to `x` where a sign changes, between ends that are 2^-80 of its size apart; or a short number at
    /// which it is zero.
    fn pinned(&self, x: f64, sign: &dyn Fn(&BigRational) -> Option<Ordering>) -> Option<BigRational> {
        for short in short_numbers(x) {
            if sign(&short) == Some(Ordering::Equal) || self.vanishes_at(&short) {
                return Some(short);
            }
        }
        let near = BigRational::from_f64(x)?;
        let reach = BigRational::from_f64(x.abs().max(1e-3) * 1e-7)?;
        let (mut low, mut high) = (&near - &reach, &near + &reach);
        let below = sign(&low)?;
        if sign(&high)? == below {
            return None;
        }
        let narrow = BigRational::from_f64(x.abs().max(1e-3))? / (BigInt::from(1) << PINNED);
        while &high - &low > narrow {
            if Budget::is_spent() {
                return None;
            }
            let middle = (&low + &high) / BigInt::from(2);
            match sign(&middle) {
                Some(s) if s == below => low = middle,
                Some(Ordering::Equal) | None => return Some(middle),
                Some(_) => high = middle,
            }
        }
        Some((low + high) / BigInt::from(2))
    }
}

/// Zeros of one that are zeros of the other, all of them, both ways round.
pub(super) fn are_same(a: &[FoundZero], b: &[FoundZero]) -> bool {
    let in_other = |z: &FoundZero, other: &[FoundZero]| other.iter().any(|o| is_close(&z.at, &o.at));
    a.iter().all(|z| in_other(z, b)) && b.iter().all(|z| in_other(z, a))
}

fn is_close(a: &BigRational, b: &BigRational) -> bool {
    let size = a.abs().max(b.abs()).max(BigRational::new(1.into(), 1_000.into()));
    (a - b).abs() <= size / (BigInt::from(1) << (PINNED - 4))
}

/// Fractions with small denominators close to a value: most zeros of what students meet are such.
fn short_numbers(x: f64) -> Vec<BigRational> {
    let mut all: Vec<BigRational> = Vec::new();
    for d in [1i64, 2, 3, 4, 5, 6, 8, 10, 12, 100, 1_000] {
        #[expect(clippy::cast_precision_loss, reason = "up to a thousand")]
        let n = (x * d as f64).round();
        #[expect(clippy::cast_precision_loss, reason = "up to a thousand")]
        let close = (n / d as f64 - x).abs() <= 1e-6 * x.abs().max(1e-3);
        let Some(n) = BigInt::from_f64(n).filter(|_| close) else {
            continue;
        };
        let short = BigRational::new(n, d.into());
        if !all.contains(&short) {
            all.push(short);
        }
    }
    all.truncate(2);
    all
}

/// Close together around zero, further apart outside; not on round numbers, where functions break off.
fn grid() -> Vec<f64> {
    let place = |k: i32| {
        let t = f64::from(k) / 60.0;
        t.signum() * (t.abs().powi(3) + 0.04 * t.abs()) + 0.001_7
    };
    (-600..=600).map(place).collect()
}

fn allows(range: &Range, at: &BigRational) -> bool {
    match range {
        Range::Real => true,
        Range::Positive => at.is_positive(),
        Range::Nonnegative => !at.is_negative(),
        Range::Integer => at.is_integer(),
        Range::PositiveInteger => at.is_integer() && at.is_positive(),
        Range::NonnegativeInteger => at.is_integer() && !at.is_negative(),
        Range::Between(low, high) => {
            let slack = BigRational::new(1.into(), BigInt::from(1) << 60);
            at >= &(low - &slack) && at <= &(high + &slack)
        }
    }
}

/// About where they lie, for tests.
#[cfg(test)]
pub(super) fn places(zeros: &[FoundZero]) -> Vec<f64> {
    use num_traits::ToPrimitive;
    zeros.iter().map(|z| z.at.to_f64().unwrap_or(f64::NAN)).collect()
}
