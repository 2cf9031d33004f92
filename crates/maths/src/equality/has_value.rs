//! Whether there is a value at all, and where two trees have one.

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Zero;

use super::Domain;
use super::sampler::Sampler;
use super::trial::witness;
use crate::evaluate::{Evaluator, Point, Undefined};
use crate::exact::exact_value;
use crate::interval::Interval;
use crate::tree::{Expr, Function, Joint};
use crate::value::sign_of_constant;

/// Looks for parts without variables that have no value: `1/0`, `0^0`, `ln(0)`, `√(−1)`.
///
/// # Errors
/// [`Undefined::NoValue`] if there is one, [`Undefined::Unknown`] if one is too large to work out.
pub fn has_value(expr: &Expr) -> Result<(), Undefined> {
    use Function as F;
    if exact_value(expr).is_some() {
        return Ok(());
    }
    for child in expr.children() {
        has_value(child)?;
    }
    let sign = |e: &Expr| {
        if e.has_variable() {
            Ok(None)
        } else {
            sign_of_constant(e).map(|(s, _)| Some(s))
        }
    };
    let none = |bad: bool| if bad { Err(Undefined::NoValue) } else { Ok(()) };
    let equal = Some(std::cmp::Ordering::Equal);
    let less = Some(std::cmp::Ordering::Less);
    match expr {
        Expr::Product(factors) => {
            for factor in factors.iter().filter(|f| f.joint == Joint::Over) {
                none(sign(&factor.expr)? == equal)?;
            }
        }
        Expr::Power(base, exponent) => {
            let (b, e) = (sign(base)?, sign(exponent)?);
            none(b == equal && (e == equal || e == less))?;
            if b == less {
                let even = exact_value(exponent).map(|r| (r.denom() % 2i32).is_zero());
                none(even == Some(true) || even.is_none() && !exponent.has_variable())?;
            }
        }
        Expr::Call(F::Sqrt, args) => none(args.iter().any(|a| matches!(sign(a), Ok(s) if s == less)))?,
        Expr::Call(F::Ln | F::Log | F::LogBase, args) => {
            for arg in args {
                let s = sign(arg)?;
                none(s == equal || s == less)?;
            }
        }
        _ => {}
    }
    if expr.has_variable() {
        return Ok(());
    }
    match sign_of_constant(expr) {
        Ok(_) => Ok(()),
        Err(e) => Err(e),
    }
}

/// A point of the domain at which both trees have a value, in a fixed order of trying.
pub fn common_point(a: &Expr, b: &Expr, domain: &Domain) -> Option<Vec<(Arc<str>, BigRational)>> {
    let is_nothing = |e: &Expr| exact_value(e).is_some_and(|v| v.is_zero());
    if is_nothing(a) || is_nothing(b) {
        return None;
    }
    let mut names = a.variables();
    names.extend(b.variables());
    names.sort();
    names.dedup();
    let whole = |name: &str| domain.is_whole(name);
    let sampler = Sampler {
        names: &names,
        domain,
        whole: &whole,
        seed: 1,
    };
    let small: Vec<Point> = (1..=3i64)
        .map(|n| {
            let place = |(i, name): (usize, &Arc<str>)| {
                let k = n + i64::try_from(i).unwrap_or(0);
                (name.clone(), BigRational::from(BigInt::from(k)))
            };
            names.iter().enumerate().map(place).collect::<Point>()
        })
        .filter(|p| p.iter().all(|(n, v)| sampler.allows(n, v)))
        .collect();
    let usable = |point: &Point| {
        let defined = |e: &Expr| Evaluator::<f64>::new(point, &whole, 53).interval(e);
        matches!((defined(a), defined(b)), (Ok(x), Ok(y)) if away(&x) && away(&y))
    };
    // A round is drawn only when the one before held nothing.
    let mut found = small.into_iter().find(&usable);
    for round in 0..3 {
        if found.is_some() {
            break;
        }
        let points = if round < 2 {
            sampler.points(24, round)
        } else {
            sampler.dense_points()
        };
        found = points.into_iter().find(&usable);
    }
    found.map(|p| witness(&p))
}

/// Surely not zero.
fn away(i: &Interval<f64>) -> bool {
    i.lo > 0.0 || i.hi < 0.0
}
