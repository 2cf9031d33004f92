//! Values in floating point, without bounds of their error: to find where zeros may lie. What is found is held against
//! enclosures afterwards.

use std::sync::Arc;

use num_traits::ToPrimitive;

use crate::budget::spend;
use crate::exact::exact_value;
use crate::tree::{Constant, Expr, Function, Joint};

/// About the value of a tree; `None` where there is none.
pub(super) fn value(expr: &Expr, name: &Arc<str>, x: f64) -> Option<f64> {
    if !spend(1) {
        return None;
    }
    let of = |e: &Expr| value(e, name, x);
    let found = match expr {
        Expr::Number(l) => l.value.to_f64()?,
        Expr::Mixed(..) => exact_value(expr)?.to_f64()?,
        Expr::Constant(Constant::Pi) => std::f64::consts::PI,
        Expr::Constant(Constant::E) => std::f64::consts::E,
        Expr::Constant(_) => return None,
        Expr::Variable(v) if v == name => x,
        Expr::Variable(_) => return None,
        Expr::Negative(e) => -of(e)?,
        Expr::Positive(e) | Expr::Group(e) => of(e)?,
        Expr::Sum(terms) => terms.iter().try_fold(0.0, |sum, t| {
            let v = of(&t.expr)?;
            Some(if t.minus { sum - v } else { sum + v })
        })?,
        Expr::Product(factors) => factors.iter().try_fold(1.0, |product, f| {
            let v = of(&f.expr)?;
            Some(if f.joint == Joint::Over {
                product / v
            } else {
                product * v
            })
        })?,
        Expr::Power(base, exponent) => power(of(base)?, exponent, of(exponent)?)?,
        Expr::Percent(e) => of(e)? / 100.0,
        Expr::Degrees(e) => of(e)?.to_radians(),
        Expr::Factorial(_) => exact_value(expr)?.to_f64()?,
        Expr::Call(function, args) => {
            let args = args.iter().map(of).collect::<Option<Vec<f64>>>()?;
            call(*function, &args)?
        }
    };
    found.is_finite().then_some(found)
}

fn power(base: f64, exponent: &Expr, value: f64) -> Option<f64> {
    if base >= 0.0 {
        return Some(libm::pow(base, value));
    }
    let exact = exact_value(exponent)?;
    let odd = |n: &num_bigint::BigInt| n.bit(0);
    if !odd(exact.denom()) {
        return None;
    }
    let size = libm::pow(-base, value);
    Some(if odd(exact.numer()) { -size } else { size })
}

fn call(function: Function, args: &[f64]) -> Option<f64> {
    use Function as F;
    let first = *args.first()?;
    let second = || args.get(1).copied();
    Some(match function {
        F::Sin => libm::sin(first),
        F::Cos => libm::cos(first),
        F::Tan => libm::tan(first),
        F::Sec => 1.0 / libm::cos(first),
        F::Csc => 1.0 / libm::sin(first),
        F::Cot => libm::cos(first) / libm::sin(first),
        F::Arcsin => libm::asin(first),
        F::Arccos => libm::acos(first),
        F::Arctan => libm::atan(first),
        F::Arcsec => libm::acos(1.0 / first),
        F::Arccsc => libm::asin(1.0 / first),
        F::Arccot => std::f64::consts::FRAC_PI_2 - libm::atan(first),
        F::Sinh => libm::sinh(first),
        F::Cosh => libm::cosh(first),
        F::Tanh => libm::tanh(first),
        F::Sech => 1.0 / libm::cosh(first),
        F::Csch => 1.0 / libm::sinh(first),
        F::Coth => 1.0 / libm::tanh(first),
        F::Arsinh => libm::asinh(first),
        F::Arcosh => libm::acosh(first),
        F::Artanh => libm::atanh(first),
        F::Sqrt => libm::sqrt(first),
        F::Cbrt => libm::cbrt(first),
        F::Root => {
            let (k, of) = (first, second()?);
            let odd = k % 2.0 != 0.0;
            if of < 0.0 && odd {
                -libm::pow(-of, 1.0 / k)
            } else {
                libm::pow(of, 1.0 / k)
            }
        }
        F::Ln => libm::log(first),
        F::Log => libm::log10(first),
        F::LogBase => libm::log(second()?) / libm::log(first),
        F::Exp => libm::exp(first),
        F::Abs => first.abs(),
        F::Floor => libm::floor(first),
        F::Ceil => libm::ceil(first),
        F::Min => args.iter().copied().fold(f64::INFINITY, f64::min),
        F::Max => args.iter().copied().fold(f64::NEG_INFINITY, f64::max),
    })
}
