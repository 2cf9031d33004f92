//! Values that are plain rational arithmetic, worked exactly.

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::budget::spend;
use crate::limits::{MAX_EXACT_BITS, MAX_FACTORIAL};
use crate::tree::{Expr, Function, Joint};

pub(crate) fn bits(value: &BigRational) -> u64 {
    value.numer().bits().max(value.denom().bits())
}

pub(crate) fn bounded(value: BigRational) -> Option<BigRational> {
    (spend(bits(&value) / 128) && bits(&value) <= MAX_EXACT_BITS).then_some(value)
}

/// `base ^ exponent` for a whole exponent, unless the result would be too large, or has no value.
pub(crate) fn whole_power(base: &BigRational, exponent: &BigInt) -> Option<BigRational> {
    if base.is_zero() {
        return exponent.is_positive().then(BigRational::zero);
    }
    if base.is_one() {
        return Some(BigRational::one());
    }
    if *base == -BigRational::one() {
        return Some(if (exponent % 2i32).is_zero() {
            BigRational::one()
        } else {
            -BigRational::one()
        });
    }
    let size = exponent.abs().to_u64()?;
    if size.checked_mul(bits(base))? > MAX_EXACT_BITS + bits(base) {
        return None;
    }
    let size = usize::try_from(size).ok()?;
    let power = num_traits::pow(base.clone(), size);
    bounded(if exponent.is_negative() {
        power.recip()
    } else {
        power
    })
}

/// The exact `k`th root, if it is rational. Negative values have one where `k` is odd.
pub(crate) fn exact_root(value: &BigRational, k: u32) -> Option<BigRational> {
    if k == 0 || (value.is_negative() && k.is_multiple_of(2)) || k > 512 {
        return None;
    }
    let root = |n: &BigInt| {
        let r = n.nth_root(k);
        (num_traits::pow(r.clone(), k as usize) == *n).then_some(r)
    };
    let (top, bottom) = (root(value.numer())?, root(value.denom())?);
    (!bottom.is_zero()).then(|| BigRational::new(top, bottom))
}

/// `base ^ (p/q)`, where that is rational.
pub(crate) fn rational_power(base: &BigRational, exponent: &BigRational) -> Option<BigRational> {
    if exponent.is_integer() {
        return whole_power(base, &exponent.to_integer());
    }
    if base.is_zero() {
        return exponent.is_positive().then(BigRational::zero);
    }
    let root = exact_root(base, exponent.denom().to_u32()?)?;
    whole_power(&root, exponent.numer())
}

pub(crate) fn factorial(n: &BigRational) -> Option<BigRational> {
    if !n.is_integer() || n.is_negative() {
        return None;
    }
    let n = n.to_integer().to_u64().filter(|n| *n <= MAX_FACTORIAL)?;
    Some(BigRational::from((1..=n).fold(BigInt::one(), |acc, k| acc * k)))
}

/// The exact value of a tree of rational arithmetic without variables; `None` if it is not one, has no value, or
/// is too large to keep (8,192 bits).
///
/// ```
/// # use maths::*;
/// let names = Names::new([]).unwrap();
/// let tree = read_expression("2^10 - 0.5", &ReadOptions::new(&names)).unwrap().tree;
/// assert_eq!(exact_value(&tree).unwrap().to_string(), "2047/2");
/// ```
pub fn exact_value(expr: &Expr) -> Option<BigRational> {
    if !spend(1) {
        return None;
    }
    match expr {
        Expr::Number(l) => Some(l.value.clone()),
        Expr::Mixed(w, n, d) => {
            (!d.is_zero()).then(|| BigRational::from(w.clone()) + BigRational::new(n.clone(), d.clone()))
        }
        Expr::Constant(_) | Expr::Variable(_) | Expr::Degrees(_) => None,
        Expr::Negative(e) => Some(-exact_value(e)?),
        Expr::Positive(e) | Expr::Group(e) => exact_value(e),
        Expr::Sum(terms) => {
            let mut total = BigRational::zero();
            for term in terms {
                let value = exact_value(&term.expr)?;
                total = bounded(if term.minus { total - value } else { total + value })?;
            }
            Some(total)
        }
        Expr::Product(factors) => {
            let mut total = BigRational::one();
            for factor in factors {
                let value = exact_value(&factor.expr)?;
                if factor.joint == Joint::Over && value.is_zero() {
                    return None;
                }
                total = bounded(if factor.joint == Joint::Over {
                    total / value
                } else {
                    total * value
                })?;
            }
            Some(total)
        }
        Expr::Power(base, exponent) => rational_power(&exact_value(base)?, &exact_value(exponent)?),
        Expr::Factorial(e) => factorial(&exact_value(e)?),
        Expr::Percent(e) => Some(exact_value(e)? / BigInt::from(100)),
        Expr::Call(function, args) => {
            let values = args.iter().map(exact_value).collect::<Option<Vec<_>>>()?;
            exact_call(*function, &values)
        }
    }
}

/// Functions whose value at a rational is rational, where it is.
pub(crate) fn exact_call(function: Function, args: &[BigRational]) -> Option<BigRational> {
    use Function as F;
    let first = args.first()?;
    match function {
        F::Sqrt => exact_root(first, 2),
        F::Cbrt => exact_root(first, 3),
        F::Root => {
            let k = first
                .is_integer()
                .then(|| first.to_integer().to_i64())
                .flatten()?;
            let root = exact_root(args.get(1)?, u32::try_from(k.unsigned_abs()).ok()?)?;
            if k > 0 {
                Some(root)
            } else {
                (!root.is_zero()).then(|| root.recip())
            }
        }
        F::Abs => Some(first.abs()),
        F::Floor => Some(first.floor()),
        F::Ceil => Some(first.ceil()),
        F::Min => args.iter().min().cloned(),
        F::Max => args.iter().max().cloned(),
        F::Sin | F::Tan | F::Arcsin | F::Arctan | F::Sinh | F::Tanh | F::Arsinh | F::Artanh => {
            first.is_zero().then(BigRational::zero)
        }
        F::Cos | F::Sec | F::Cosh | F::Sech | F::Exp => first.is_zero().then(BigRational::one),
        F::Ln | F::Arccos | F::Arcosh => first.is_one().then(BigRational::zero),
        F::Log => exact_log(&BigRational::from(BigInt::from(10)), first),
        F::LogBase => exact_log(first, args.get(1)?),
        _ => None,
    }
}

/// `log_base(value)` where it is a whole number or a fraction with a small denominator.
fn exact_log(base: &BigRational, value: &BigRational) -> Option<BigRational> {
    if !base.is_positive() || base.is_one() || !value.is_positive() {
        return None;
    }
    if value.is_one() {
        return Some(BigRational::zero());
    }
    let ln = |r: &BigRational| Some(r.numer().to_f64()?.ln() - r.denom().to_f64()?.ln());
    let guess = ln(value)? / ln(base)?;
    if !guess.is_finite() || guess.abs() > 2000.0 {
        return None;
    }
    for q in 1..=6u32 {
        let p = (guess * f64::from(q)).round();
        #[expect(clippy::cast_possible_truncation, reason = "bounded just above")]
        let p = BigInt::from(p as i64);
        let right = num_traits::pow(value.clone(), q as usize);
        if whole_power(base, &p).is_some_and(|left| left == right) {
            return Some(BigRational::new(p, q.into()));
        }
    }
    None
}
