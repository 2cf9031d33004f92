//! Constants: sign, comparison, tolerance. Algebraic ones are decided by proof.
//!
//! A value built from whole numbers by + − × ÷, roots and the sine and cosine of rational parts of π is algebraic,
//! and if it is not zero it cannot be arbitrarily small: Burnikel, Funke, Mehlhorn, Schirra and Schmitt, *A separation
//! bound for real algebraic expressions* (ESA 2001; Algorithmica 55, 2009), give `|E| ≥ 1 / (u^(D−1) · l)`. Once an
//! enclosure is narrower than that, zero is proved.

use std::cmp::Ordering;

use astro_float::BigFloat;
use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::evaluate::{Evaluator, Point, Undefined};
use crate::exact::{bits, exact_value};
use crate::limits::MAX_PRECISION;
use crate::tree::{Constant, Expr, Function, Joint};

/// How surely something is known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Precision {
    Proved,
    /// It agrees to so many decimal digits, which is no proof.
    Agreed(u32),
}

fn none_whole(_: &str) -> bool {
    false
}

/// The sign of a tree without variables.
///
/// # Errors
/// [`Undefined::NoValue`] if it has none; [`Undefined::Unknown`] if it is too large or too deep to work out.
///
/// ```
/// # use maths::*;
/// # use std::cmp::Ordering;
/// let names = Names::new([]).unwrap();
/// let tree = |t| read_expression(t, &ReadOptions::new(&names)).unwrap().tree;
/// let zero = tree("sqrt(2) + sqrt(3) - sqrt(5 + 2sqrt(6))");
/// assert_eq!(sign_of_constant(&zero), Ok((Ordering::Equal, Precision::Proved)));
/// ```
pub fn sign_of_constant(expr: &Expr) -> Result<(Ordering, Precision), Undefined> {
    if let Some(v) = exact_value(expr) {
        return Ok((v.cmp(&BigRational::zero()), Precision::Proved));
    }
    let point = Point::new();
    let mut quick = Evaluator::<f64>::new(&point, &none_whole, 53);
    match quick.interval(expr) {
        Ok(i) => {
            let sure = |s: &Ordering| *s != Ordering::Equal && !quick.is_in_doubt();
            if let Some(sign) = i.sign(&quick.cx).filter(sure) {
                return Ok((sign, Precision::Proved));
            }
        }
        Err(Undefined::NoValue) => return Err(Undefined::NoValue),
        Err(Undefined::Unknown) => {}
    }
    let separation = separation(expr);
    let literals = literal_bits(expr);
    let mut closest: Option<i64> = None;
    let mut precision = 128;
    let needed = separation.filter(|s| *s < 6_000);
    let last = needed.map_or(512, |s| usize::try_from(s).unwrap_or(512) + 128) + literals;
    let last = last.min(MAX_PRECISION.max(literals + 512)).max(256);
    loop {
        let mut evaluator = Evaluator::<BigFloat>::new(&point, &none_whole, precision);
        match evaluator.interval(expr) {
            // Whether there is a value at all may show with more digits.
            Ok(_) if evaluator.is_in_doubt() => {}
            Ok(i) => {
                match i.sign(&evaluator.cx) {
                    Some(Ordering::Equal) => return Ok((Ordering::Equal, Precision::Proved)),
                    Some(sign) => return Ok((sign, Precision::Proved)),
                    None => {}
                }
                let size = i.log2();
                if separation.is_some_and(|s| size < -s) {
                    return Ok((Ordering::Equal, Precision::Proved));
                }
                closest = Some(size);
            }
            Err(Undefined::NoValue) => return Err(Undefined::NoValue),
            Err(Undefined::Unknown) => {}
        }
        if precision >= last {
            break;
        }
        precision = (precision * 2).min(last);
    }
    match closest {
        Some(size) if size < -i64::try_from(last / 2).unwrap_or(64) => {
            let digits = u32::try_from(-size * 3 / 10).unwrap_or(u32::MAX);
            Ok((Ordering::Equal, Precision::Agreed(digits)))
        }
        _ => Err(Undefined::Unknown),
    }
}

/// Orders two constants.
///
/// # Errors
/// As [`sign_of_constant`].
pub fn compare_constants(a: &Expr, b: &Expr) -> Result<(Ordering, Precision), Undefined> {
    noted(compare_quietly(a, b))
}

/// What could not be told is noted for whoever watches.
fn noted<T>(found: Result<T, Undefined>) -> Result<T, Undefined> {
    if matches!(found, Err(Undefined::Unknown)) {
        crate::budget::note_undecided();
    }
    found
}

/// As [`compare_constants`], for a part of a decision that may still come out otherwise.
pub(crate) fn compare_quietly(a: &Expr, b: &Expr) -> Result<(Ordering, Precision), Undefined> {
    if let (Some(x), Some(y)) = (exact_value(a), exact_value(b)) {
        return Ok((x.cmp(&y), Precision::Proved));
    }
    if a == b {
        sign_of_constant(a)?;
        return Ok((Ordering::Equal, Precision::Proved));
    }
    sign_of_constant(&a.clone().minus(b.clone()))
}

/// Whether `|a − b| ≤ bound`, the bound being inclusive.
///
/// # Errors
/// As [`sign_of_constant`].
pub fn within(a: &Expr, b: &Expr, bound: &Expr) -> Result<bool, Undefined> {
    if let (Some(x), Some(y), Some(z)) = (exact_value(a), exact_value(b), exact_value(bound)) {
        return Ok((x - y).abs() <= z);
    }
    let distance = Expr::call(Function::Abs, a.clone().minus(b.clone()));
    let sign = noted(sign_of_constant(&bound.clone().minus(distance)))?;
    Ok(sign.0 != Ordering::Less)
}

fn literal_bits(expr: &Expr) -> usize {
    let own = match expr {
        Expr::Number(l) => usize::try_from(bits(&l.value)).unwrap_or(0).saturating_sub(64),
        _ => 0,
    };
    own + expr.children().into_iter().map(literal_bits).sum::<usize>()
}

/// `a + bπ` with rational a and b, if the tree is that.
pub(crate) fn linear_in_pi(expr: &Expr) -> Option<(BigRational, BigRational)> {
    if let Some(v) = exact_value(expr) {
        return Some((v, BigRational::zero()));
    }
    match expr {
        Expr::Constant(Constant::Pi) => Some((BigRational::zero(), BigRational::one())),
        Expr::Negative(e) => linear_in_pi(e).map(|(a, b)| (-a, -b)),
        Expr::Positive(e) | Expr::Group(e) => linear_in_pi(e),
        Expr::Degrees(e) => {
            let (a, b) = linear_in_pi(e)?;
            b.is_zero().then(|| (BigRational::zero(), a / BigInt::from(180)))
        }
        Expr::Sum(terms) => {
            let mut total = (BigRational::zero(), BigRational::zero());
            for term in terms {
                let (a, b) = linear_in_pi(&term.expr)?;
                total = if term.minus {
                    (total.0 - a, total.1 - b)
                } else {
                    (total.0 + a, total.1 + b)
                };
            }
            Some(total)
        }
        Expr::Product(factors) => {
            let mut total = (BigRational::one(), BigRational::zero());
            for factor in factors {
                let (a, b) = linear_in_pi(&factor.expr)?;
                if factor.joint == Joint::Over {
                    if !b.is_zero() || a.is_zero() {
                        return None;
                    }
                    total = (total.0 / &a, total.1 / &a);
                } else if b.is_zero() {
                    total = (total.0 * &a, total.1 * &a);
                } else if total.1.is_zero() {
                    total = (&total.0 * &a, &total.0 * &b);
                } else {
                    return None;
                }
            }
            Some(total)
        }
        _ => None,
    }
}

/// `n` such that a value that is not zero has `|value| > 2^-n`, for algebraic trees.
fn separation(expr: &Expr) -> Option<i64> {
    let mut roots = Vec::new();
    let (u, l) = bounds(expr, &mut roots)?;
    let degree: f64 = roots.iter().map(|(_, d)| *d).product();
    let bound = u.max(0.0) * (degree - 1.0) + l.max(0.0) + 2.0;
    #[expect(clippy::cast_possible_truncation, reason = "checked just here")]
    (bound.is_finite() && bound < 1e9).then(|| bound.ceil() as i64)
}

/// log2 of (u, l) of the separation bound; every different root adds its degree once.
fn bounds(expr: &Expr, roots: &mut Vec<(Expr, f64)>) -> Option<(f64, f64)> {
    if let Some(v) = exact_value(expr) {
        let size = |n: &BigInt| n.bits().to_f64().unwrap_or(f64::INFINITY);
        return Some((
            size(v.numer()),
            if v.denom().is_one() { 0.0 } else { size(v.denom()) },
        ));
    }
    match expr {
        Expr::Negative(e) | Expr::Positive(e) | Expr::Group(e) => bounds(e, roots),
        Expr::Percent(e) => bounds(e, roots).map(|(u, l)| (u, l + 7.0)),
        Expr::Sum(terms) => {
            let mut total: Option<(f64, f64)> = None;
            for term in terms {
                let (u, l) = bounds(&term.expr, roots)?;
                total = Some(total.map_or((u, l), |(tu, tl)| ((tu + l).max(u + tl) + 1.0, tl + l)));
            }
            total
        }
        Expr::Product(factors) => {
            let mut total = (0.0, 0.0);
            for factor in factors {
                let (u, l) = bounds(&factor.expr, roots)?;
                total = if factor.joint == Joint::Over {
                    (total.0 + l, total.1 + u)
                } else {
                    (total.0 + u, total.1 + l)
                };
            }
            Some(total)
        }
        Expr::Power(base, exponent) => {
            let p = exact_value(exponent)?;
            let (n, k) = (p.numer().abs().to_f64()?, p.denom().to_f64()?);
            let (mut u, mut l) = bounds(base, roots)?;
            if !p.is_integer() {
                (u, l) = rooted(u, l, k);
                remember(
                    roots,
                    &Expr::power(
                        (**base).clone(),
                        Expr::rational(&BigRational::new(1.into(), p.denom().clone())),
                    ),
                    k,
                );
            }
            Some(if p.is_negative() {
                (l * n, u * n)
            } else {
                (u * n, l * n)
            })
        }
        Expr::Call(function, args) => call_bounds(expr, *function, args, roots),
        _ => None,
    }
}

fn call_bounds(
    expr: &Expr,
    function: Function,
    args: &[Expr],
    roots: &mut Vec<(Expr, f64)>,
) -> Option<(f64, f64)> {
    use Function as F;
    match function {
        F::Sqrt | F::Cbrt => {
            let k = if function == F::Sqrt { 2.0 } else { 3.0 };
            let (u, l) = bounds(args.first()?, roots)?;
            remember(roots, expr, k);
            Some(rooted(u, l, k))
        }
        F::Root => {
            let k = exact_value(args.first()?)?;
            let size = if k.is_integer() && k.is_positive() {
                k.to_f64()?
            } else {
                return None;
            };
            let (u, l) = bounds(args.get(1)?, roots)?;
            remember(roots, expr, size);
            Some(rooted(u, l, size))
        }
        F::Abs => bounds(args.first()?, roots),
        F::Sin | F::Cos | F::Tan => {
            let (a, b) = linear_in_pi(args.first()?)?;
            if !a.is_zero() {
                return None;
            }
            let quarter = BigRational::new(1.into(), 4.into());
            let turns = b / BigInt::from(2);
            let degree = |turns: &BigRational| {
                let n = turns.denom().to_u64().filter(|n| *n < 100_000)?;
                Some((totient(n) as f64 / 2.0).max(1.0))
            };
            let (cos, sin) = (degree(&turns)?, degree(&(&quarter - &turns))?);
            match function {
                F::Cos => remember(roots, expr, cos),
                F::Sin => remember(roots, expr, sin),
                _ => remember(roots, expr, cos * sin),
            }
            Some(if function == F::Tan {
                (2.0, 2.0)
            } else {
                (1.0, 1.0)
            })
        }
        _ => None,
    }
}

fn rooted(u: f64, l: f64, k: f64) -> (f64, f64) {
    if u >= l {
        ((u + (k - 1.0) * l) / k, l)
    } else {
        (u, ((k - 1.0) * u + l) / k)
    }
}

fn remember(roots: &mut Vec<(Expr, f64)>, root: &Expr, degree: f64) {
    if !roots.iter().any(|(r, _)| r == root) {
        roots.push((root.clone(), degree));
    }
}

fn totient(n: u64) -> u64 {
    (1..=n).filter(|k| k.gcd(&n) == 1).count() as u64
}
