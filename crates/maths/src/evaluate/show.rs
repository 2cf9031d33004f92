//! Values of constants as numbers, for showing and for tests.

use astro_float::BigFloat;

use super::{Evaluator, Point, SAMPLED_BITS, Undefined};
use crate::tree::Expr;

/// A value with its error, for showing and for tests: the middle as `f64`, and the width as a power of two.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ball {
    pub middle: f64,
    pub width_log2: i64,
}

fn no_whole(_: &str) -> bool {
    false
}

/// The value of a tree without variables, to about 15 digits.
///
/// # Errors
/// [`Undefined`] if it has none, or none that fits an `f64`.
pub fn approximate(expr: &Expr) -> Result<f64, Undefined> {
    let ball = evaluate_precisely(expr, 128)?;
    Ok(ball.middle)
}

/// The value of a tree without variables at a precision in bits.
///
/// # Errors
/// [`Undefined`] if it has none, or it could not be told.
pub fn evaluate_precisely(expr: &Expr, precision: usize) -> Result<Ball, Undefined> {
    let point = Point::new();
    let mut evaluator = Evaluator::<BigFloat>::new(&point, &no_whole, precision);
    let interval = evaluator.interval(expr)?;
    let width_log2 = interval.width_log2(&evaluator.cx);
    let middle = to_f64(&interval.lo).ok_or(Undefined::Unknown)?;
    Ok(Ball { middle, width_log2 })
}

pub(crate) fn to_f64(v: &BigFloat) -> Option<f64> {
    if v.is_zero() {
        return Some(0.0);
    }
    let (words, _, sign, exponent, _) = v.as_raw_parts()?;
    if !(-1000..1020).contains(&exponent) {
        return None;
    }
    let top = *words.last()?;
    #[expect(
        clippy::cast_precision_loss,
        reason = "the top word alone carries more than an f64 keeps"
    )]
    let fraction = top as f64 / 18_446_744_073_709_551_616.0;
    let value = libm::ldexp(fraction, exponent);
    Some(if sign == astro_float::Sign::Neg {
        -value
    } else {
        value
    })
}

/// Two numbers between which the value of a tree without variables surely lies; `None` if it has none, or where that can't be
/// told quickly.
pub fn enclosed(expr: &Expr) -> Option<(f64, f64)> {
    let point = Point::new();
    let mut evaluator = Evaluator::<f64>::new(&point, &no_whole, 53);
    evaluator.exact_bits = SAMPLED_BITS;
    let i = evaluator.interval(expr).ok()?;
    (!evaluator.is_in_doubt()).then_some((i.lo, i.hi))
}

/// The value of a tree without variables as an `f64`, quickly; `None` if it has none or is out of range.
pub fn approximate_fast(expr: &Expr) -> Option<f64> {
    let point = Point::new();
    let mut evaluator = Evaluator::<f64>::new(&point, &no_whole, 53);
    evaluator.exact_bits = SAMPLED_BITS;
    let i = evaluator.interval(expr).ok()?;
    if i.lo <= 0.0 && i.hi >= 0.0 {
        return Some(0.0);
    }
    Some(f64::midpoint(i.lo, i.hi))
}
