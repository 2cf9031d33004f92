//! The value of a tree at a point, exactly where it is rational, else enclosed.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::sync::Arc;

use astro_float::BigFloat;
use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::exact::{bits, exact_call, exact_root, factorial, whole_power};
use crate::interval::{Context, End, Interval};
use crate::limits::MAX_FACTORIAL;
use crate::tree::{Constant, Expr, Factor, Function, Joint, Term};

/// Why there is no value at a point.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Undefined {
    /// Surely none: a division by zero, a root or logarithm outside its domain.
    NoValue,
    /// It could not be told at this precision, or the value is out of range.
    Unknown,
}

pub(crate) type Point = BTreeMap<Arc<str>, BigRational>;

/// A value: exact while it stays rational and short.
#[derive(Clone)]
pub(crate) enum Value<S> {
    Exact(BigRational),
    Within(Interval<S>),
}

type Outcome<S> = Result<Value<S>, Undefined>;

/// Exact values longer than this are enclosed while sampling; constants are kept to the full bound.
const SAMPLED_BITS: u64 = 160;

pub(crate) struct Evaluator<'a, S> {
    point: &'a Point,
    /// Variables that stand for whole numbers: their powers of negative bases have values.
    whole: &'a dyn Fn(&str) -> bool,
    pub cx: Context,
    exact_bits: u64,
    kind: std::marker::PhantomData<S>,
}

impl<'a, S: End> Evaluator<'a, S> {
    pub fn new(point: &'a Point, whole: &'a dyn Fn(&str) -> bool, precision: usize) -> Self {
        let exact_bits = if point.is_empty() {
            crate::limits::MAX_EXACT_BITS
        } else {
            SAMPLED_BITS
        };
        Self {
            point,
            whole,
            cx: Context::new(precision),
            exact_bits,
            kind: std::marker::PhantomData,
        }
    }

    /// The enclosure of a tree's value.
    pub fn interval(&mut self, expr: &Expr) -> Result<Interval<S>, Undefined> {
        let value = self.value(expr)?;
        self.enclose(&value)
    }

    fn enclose(&self, value: &Value<S>) -> Result<Interval<S>, Undefined> {
        match value {
            Value::Exact(v) => Interval::rational(v, &self.cx).usable().ok_or(Undefined::Unknown),
            Value::Within(i) => Ok(i.clone()),
        }
    }

    fn within(&self, interval: Interval<S>) -> Outcome<S> {
        interval.usable().map(Value::Within).ok_or(Undefined::Unknown)
    }

    fn exact(&self, value: BigRational) -> Outcome<S> {
        if bits(&value) <= self.exact_bits {
            Ok(Value::Exact(value))
        } else {
            self.within(Interval::rational(&value, &self.cx))
        }
    }

    pub fn value(&mut self, expr: &Expr) -> Outcome<S> {
        match expr {
            Expr::Number(l) => self.exact(l.value.clone()),
            Expr::Mixed(w, n, d) => {
                if d.is_zero() {
                    return Err(Undefined::NoValue);
                }
                self.exact(BigRational::from(w.clone()) + BigRational::new(n.clone(), d.clone()))
            }
            Expr::Constant(Constant::Pi) => Ok(Value::Within(Interval::pi(&mut self.cx))),
            Expr::Constant(Constant::E) => {
                let one = Interval::whole(1, &self.cx);
                let e = one.exp(&mut self.cx);
                self.within(e)
            }
            Expr::Constant(_) => Err(Undefined::Unknown),
            Expr::Variable(name) => match self.point.get(name) {
                Some(v) => self.exact(v.clone()),
                None => Err(Undefined::Unknown),
            },
            Expr::Negative(e) => Ok(match self.value(e)? {
                Value::Exact(v) => Value::Exact(-v),
                Value::Within(i) => Value::Within(i.neg()),
            }),
            Expr::Positive(e) | Expr::Group(e) => self.value(e),
            Expr::Sum(terms) => self.sum(terms),
            Expr::Product(factors) => self.product(factors),
            Expr::Power(base, exponent) => self.power(base, exponent),
            Expr::Call(function, args) => self.call(*function, args),
            Expr::Factorial(e) => self.factorial(e),
            Expr::Percent(e) => {
                let hundred = Value::Exact(BigRational::from(BigInt::from(100)));
                let v = self.value(e)?;
                self.divide(&v, &hundred)
            }
            Expr::Degrees(e) => {
                let v = self.value(e)?;
                if matches!(&v, Value::Exact(r) if r.is_zero()) {
                    return Ok(v);
                }
                let pi = Value::Within(Interval::pi(&mut self.cx));
                let turn = self.multiply(&v, &pi)?;
                self.divide(&turn, &Value::Exact(BigRational::from(BigInt::from(180))))
            }
        }
    }

    fn sum(&mut self, terms: &[Term]) -> Outcome<S> {
        let mut total = Value::Exact(BigRational::zero());
        for term in terms {
            let value = self.value(&term.expr)?;
            total = self.add(&total, &value, term.minus)?;
        }
        Ok(total)
    }

    fn add(&mut self, a: &Value<S>, b: &Value<S>, minus: bool) -> Outcome<S> {
        if let (Value::Exact(x), Value::Exact(y)) = (a, b) {
            return self.exact(if minus { x - y } else { x + y });
        }
        let (x, y) = (self.enclose(a)?, self.enclose(b)?);
        self.within(if minus {
            x.sub(&y, &self.cx)
        } else {
            x.add(&y, &self.cx)
        })
    }

    fn multiply(&mut self, a: &Value<S>, b: &Value<S>) -> Outcome<S> {
        if let (Value::Exact(x), Value::Exact(y)) = (a, b) {
            return self.exact(x * y);
        }
        let (x, y) = (self.enclose(a)?, self.enclose(b)?);
        self.within(x.mul(&y, &self.cx))
    }

    fn divide(&mut self, a: &Value<S>, b: &Value<S>) -> Outcome<S> {
        if let Value::Exact(y) = b {
            if y.is_zero() {
                return Err(Undefined::NoValue);
            }
            if let Value::Exact(x) = a {
                return self.exact(x / y);
            }
        }
        let (x, y) = (self.enclose(a)?, self.enclose(b)?);
        if y.sign(&self.cx).is_none_or(|s| s == Ordering::Equal) {
            return Err(Undefined::Unknown);
        }
        self.within(x.div(&y, &self.cx))
    }

    fn product(&mut self, factors: &[Factor]) -> Outcome<S> {
        let mut total = Value::Exact(BigRational::one());
        for factor in factors {
            let value = self.value(&factor.expr)?;
            total = if factor.joint == Joint::Over {
                self.divide(&total, &value)?
            } else {
                self.multiply(&total, &value)?
            };
        }
        Ok(total)
    }

    fn power(&mut self, base: &Expr, exponent: &Expr) -> Outcome<S> {
        let varying = exponent.any(&|e| matches!(e, Expr::Variable(v) if !(self.whole)(v)));
        let power = self.value(exponent)?;
        if matches!(base.bare(), Expr::Constant(Constant::E)) {
            return self.exp(&power);
        }
        let base = self.value(base)?;
        self.raise(&base, &power, varying)
    }

    /// `varying`: the exponent runs through the reals, so the base may not be negative.
    fn raise(&mut self, base: &Value<S>, power: &Value<S>, varying: bool) -> Outcome<S> {
        let base_sign = self.sign(base);
        if let Value::Exact(p) = power {
            if varying && base_sign == Some(Ordering::Less) {
                return Err(Undefined::NoValue);
            }
            return self.raise_rational(base, p);
        }
        match base_sign {
            Some(Ordering::Greater) => {
                let (b, p) = (self.enclose(base)?, self.enclose(power)?);
                let ln = b.ln(&mut self.cx);
                let v = ln.mul(&p, &self.cx).exp(&mut self.cx);
                self.within(v)
            }
            Some(Ordering::Less) => Err(Undefined::NoValue),
            Some(Ordering::Equal) => match self.sign(power) {
                Some(Ordering::Greater) => Ok(Value::Exact(BigRational::zero())),
                Some(_) => Err(Undefined::NoValue),
                None => Err(Undefined::Unknown),
            },
            None => Err(Undefined::Unknown),
        }
    }

    /// A rational power in lowest terms: real for negative bases where its denominator is odd.
    fn raise_rational(&mut self, base: &Value<S>, p: &BigRational) -> Outcome<S> {
        if let Value::Exact(b) = base {
            if b.is_zero() {
                return if p.is_positive() {
                    Ok(Value::Exact(BigRational::zero()))
                } else {
                    Err(Undefined::NoValue)
                };
            }
            let short = p
                .numer()
                .abs()
                .to_u64()
                .is_some_and(|n| n.saturating_mul(bits(b)) <= 2 * self.exact_bits);
            if p.is_integer() {
                if let Some(v) = short.then(|| whole_power(b, p.numer())).flatten() {
                    return self.exact(v);
                }
            } else if let Some(k) = p.denom().to_u32()
                && k <= 64
                && let Some(root) = exact_root(b, k)
                && let Some(v) = whole_power(&root, p.numer())
            {
                return self.exact(v);
            }
        }
        if p.is_zero() {
            return match self.sign(base) {
                Some(Ordering::Equal) => Err(Undefined::NoValue),
                Some(_) => Ok(Value::Exact(BigRational::one())),
                None => Err(Undefined::Unknown),
            };
        }
        let b = self.enclose(base)?;
        if p.is_integer() {
            if let Some(n) = p.numer().abs().to_u32().filter(|n| *n <= 4096) {
                let positive = self.repeated(&b, n)?;
                if p.is_positive() {
                    return self.within(positive);
                }
                return self.divide(&Value::Exact(BigRational::one()), &Value::Within(positive));
            }
        } else if p.denom().is_even() && b.sign(&self.cx) == Some(Ordering::Less) {
            return Err(Undefined::NoValue);
        }
        let (negative, size) = match b.sign(&self.cx) {
            Some(Ordering::Greater) => (false, b),
            Some(Ordering::Less) => (p.numer().is_odd(), b.neg()),
            // A square root of something that touches zero: its lower end is zero.
            None if *p == BigRational::new(1.into(), 2.into()) && self.touches_zero(&b) => {
                let root = b.sqrt(&self.cx);
                return self.within(root);
            }
            _ => return Err(Undefined::Unknown),
        };
        let result = if *p == BigRational::new(1.into(), 2.into()) {
            size.sqrt(&self.cx)
        } else {
            let ln = size.ln(&mut self.cx);
            ln.mul(&Interval::rational(p, &self.cx), &self.cx)
                .exp(&mut self.cx)
        };
        self.within(if negative { result.neg() } else { result })
    }

    /// So close to zero, on both sides, that it can be taken to be zero itself.
    fn touches_zero(&self, b: &Interval<S>) -> bool {
        let precision = i64::try_from(self.cx.precision).unwrap_or(i64::MAX);
        self.cx.precision > 64 && b.log2() < -(precision * 3 / 4)
    }

    fn repeated(&mut self, base: &Interval<S>, n: u32) -> Result<Interval<S>, Undefined> {
        let base = if n.is_multiple_of(2) {
            base.abs(&self.cx)
        } else {
            base.clone()
        };
        let mut result: Option<Interval<S>> = None;
        let mut square = base;
        let mut left = n;
        while left > 0 {
            if left % 2 == 1 {
                result = Some(match result {
                    Some(r) => r.mul(&square, &self.cx),
                    None => square.clone(),
                });
            }
            left /= 2;
            if left > 0 {
                square = square.mul(&square, &self.cx).usable().ok_or(Undefined::Unknown)?;
            }
        }
        result
            .unwrap_or_else(|| Interval::whole(1, &self.cx))
            .usable()
            .ok_or(Undefined::Unknown)
    }

    fn sign(&self, value: &Value<S>) -> Option<Ordering> {
        match value {
            Value::Exact(v) => Some(v.cmp(&BigRational::zero())),
            Value::Within(i) => i.sign(&self.cx),
        }
    }

    fn exp(&mut self, power: &Value<S>) -> Outcome<S> {
        if matches!(power, Value::Exact(p) if p.is_zero()) {
            return Ok(Value::Exact(BigRational::one()));
        }
        let v = self.enclose(power)?.exp(&mut self.cx);
        self.within(v)
    }

    fn ln(&mut self, value: &Value<S>) -> Outcome<S> {
        match self.sign(value) {
            Some(Ordering::Greater) => {
                if matches!(value, Value::Exact(v) if v.is_one()) {
                    return Ok(Value::Exact(BigRational::zero()));
                }
                let v = self.enclose(value)?.ln(&mut self.cx);
                self.within(v)
            }
            Some(_) => Err(Undefined::NoValue),
            None => Err(Undefined::Unknown),
        }
    }

    fn factorial(&mut self, e: &Expr) -> Outcome<S> {
        match self.value(e)? {
            Value::Exact(n) => match factorial(&n) {
                Some(v) => self.exact(v),
                None if n.is_integer() && n > BigRational::from(BigInt::from(MAX_FACTORIAL)) => {
                    Err(Undefined::Unknown)
                }
                None => Err(Undefined::NoValue),
            },
            Value::Within(_) => Err(Undefined::NoValue),
        }
    }

    fn call(&mut self, function: Function, args: &[Expr]) -> Outcome<S> {
        let values = args
            .iter()
            .map(|a| self.value(a))
            .collect::<Result<Vec<_>, _>>()?;
        let exact: Option<Vec<BigRational>> = values
            .iter()
            .map(|v| {
                if let Value::Exact(r) = v {
                    Some(r.clone())
                } else {
                    None
                }
            })
            .collect();
        if let Some(v) = exact.and_then(|args| exact_call(function, &args)) {
            return self.exact(v);
        }
        match values.as_slice() {
            [one] => self.call_one(function, one),
            [first, second] if function == Function::Root => self.root(first, second),
            [base, argument] if function == Function::LogBase => self.log(base, argument),
            all if matches!(function, Function::Min | Function::Max) => self.extreme(function, all),
            _ => Err(Undefined::Unknown),
        }
    }

    fn root(&mut self, k: &Value<S>, of: &Value<S>) -> Outcome<S> {
        match k {
            Value::Exact(k) if k.is_integer() && !k.is_zero() => self.raise_rational(of, &k.recip()),
            Value::Exact(_) => Err(Undefined::NoValue),
            Value::Within(_) => Err(Undefined::Unknown),
        }
    }

    fn log(&mut self, base: &Value<S>, argument: &Value<S>) -> Outcome<S> {
        let (top, bottom) = (self.ln(argument)?, self.ln(base)?);
        self.divide(&top, &bottom)
    }

    fn extreme(&mut self, function: Function, all: &[Value<S>]) -> Outcome<S> {
        let mut best: Option<Interval<S>> = None;
        for value in all {
            let next = self.enclose(value)?;
            best = Some(match best {
                None => next,
                Some(b) if function == Function::Min => b.min(&next),
                Some(b) => b.max(&next),
            });
        }
        best.map(Value::Within).ok_or(Undefined::NoValue)
    }

    fn call_one(&mut self, function: Function, x: &Value<S>) -> Outcome<S> {
        use Function as F;
        let one = Value::Exact(BigRational::one());
        match function {
            F::Sqrt => self.raise_rational(x, &BigRational::new(1.into(), 2.into())),
            F::Cbrt => self.raise_rational(x, &BigRational::new(1.into(), 3.into())),
            F::Ln => self.ln(x),
            F::Log => self.log(&Value::Exact(BigRational::from(BigInt::from(10))), x),
            F::Exp => self.exp(x),
            F::Abs => {
                let v = self.enclose(x)?.abs(&self.cx);
                self.within(v)
            }
            F::Floor | F::Ceil => {
                let v = self.enclose(x)?;
                let low = v.floor().ok_or(Undefined::Unknown)?;
                Ok(Value::Exact(BigRational::from(if function == F::Floor {
                    low
                } else {
                    low + 1
                })))
            }
            F::Sin | F::Cos => {
                let v = self.enclose(x)?.wave(function == F::Cos, &mut self.cx);
                self.within(v)
            }
            F::Tan => self.wave_quotient(x, false, Some(true)),
            F::Cot => self.wave_quotient(x, true, Some(false)),
            F::Sec => self.wave_quotient_of_one(x, true),
            F::Csc => self.wave_quotient_of_one(x, false),
            F::Arcsin => self.arcsin(x),
            F::Arccos => {
                let a = self.arcsin(x)?;
                let half_turn = self.half_turn()?;
                self.add(&half_turn, &a, true)
            }
            F::Arctan => {
                let v = self.enclose(x)?.atan(&mut self.cx);
                self.within(v)
            }
            F::Arccot => {
                let a = self.enclose(x)?.atan(&mut self.cx);
                let half_turn = self.half_turn()?;
                self.add(&half_turn, &Value::Within(a), true)
            }
            F::Arcsec => {
                let r = self.divide(&one, x)?;
                self.call_one(F::Arccos, &r)
            }
            F::Arccsc => {
                let r = self.divide(&one, x)?;
                self.call_one(F::Arcsin, &r)
            }
            F::Sinh | F::Cosh | F::Tanh | F::Sech | F::Csch | F::Coth => self.hyperbolic(function, x),
            F::Arsinh | F::Arcosh | F::Artanh => self.inverse_hyperbolic(function, x),
            F::Root | F::LogBase | F::Min | F::Max => match (function, x) {
                (F::Min | F::Max, v) => Ok(v.clone()),
                _ => Err(Undefined::Unknown),
            },
        }
    }

    fn half_turn(&mut self) -> Outcome<S> {
        let pi = Value::Within(Interval::pi(&mut self.cx));
        self.divide(&pi, &Value::Exact(BigRational::from(BigInt::from(2))))
    }

    fn wave_quotient(&mut self, x: &Value<S>, top_cos: bool, bottom_cos: Option<bool>) -> Outcome<S> {
        let x = self.enclose(x)?;
        let top = x.wave(top_cos, &mut self.cx);
        let bottom = x.wave(bottom_cos.unwrap_or(true), &mut self.cx);
        self.divide(&Value::Within(top), &Value::Within(bottom))
    }

    fn wave_quotient_of_one(&mut self, x: &Value<S>, cosine: bool) -> Outcome<S> {
        let bottom = self.enclose(x)?.wave(cosine, &mut self.cx);
        self.divide(&Value::Exact(BigRational::one()), &Value::Within(bottom))
    }

    /// `atan(x / √(1 − x²))`; the ends ±1 are met exactly.
    fn arcsin(&mut self, x: &Value<S>) -> Outcome<S> {
        if let Value::Exact(v) = x {
            let size = v.abs();
            if size.is_one() {
                let half = self.half_turn()?;
                return if v.is_negative() {
                    self.add(&Value::Exact(BigRational::zero()), &half, true)
                } else {
                    Ok(half)
                };
            }
            if size > BigRational::one() {
                return Err(Undefined::NoValue);
            }
        }
        let one = Value::Exact(BigRational::one());
        let square = self.raise_rational(x, &BigRational::from(BigInt::from(2)))?;
        let rest = self.add(&one, &square, true)?;
        match self.sign(&rest) {
            Some(Ordering::Less) => return Err(Undefined::NoValue),
            Some(Ordering::Greater) => {}
            _ => return Err(Undefined::Unknown),
        }
        let root = self.raise_rational(&rest, &BigRational::new(1.into(), 2.into()))?;
        let ratio = self.divide(x, &root)?;
        let v = self.enclose(&ratio)?.atan(&mut self.cx);
        self.within(v)
    }

    fn hyperbolic(&mut self, function: Function, x: &Value<S>) -> Outcome<S> {
        use Function as F;
        let up = self.exp(x)?;
        let one = Value::Exact(BigRational::one());
        let two = Value::Exact(BigRational::from(BigInt::from(2)));
        let down = self.divide(&one, &up)?;
        let sinh_2 = self.add(&up, &down, true)?;
        let cosh_2 = self.add(&up, &down, false)?;
        match function {
            F::Sinh => self.divide(&sinh_2, &two),
            F::Cosh => self.divide(&cosh_2, &two),
            F::Tanh => self.divide(&sinh_2, &cosh_2),
            F::Sech => self.divide(&two, &cosh_2),
            F::Csch => self.divide(&two, &sinh_2),
            _ => self.divide(&cosh_2, &sinh_2),
        }
    }

    fn inverse_hyperbolic(&mut self, function: Function, x: &Value<S>) -> Outcome<S> {
        let one = Value::Exact(BigRational::one());
        let half = BigRational::new(1.into(), 2.into());
        if function == Function::Artanh {
            let (top, bottom) = (self.add(&one, x, false)?, self.add(&one, x, true)?);
            let (a, b) = (self.ln(&top)?, self.ln(&bottom)?);
            let difference = self.add(&a, &b, true)?;
            return self.multiply(&difference, &Value::Exact(half));
        }
        let square = self.raise_rational(x, &BigRational::from(BigInt::from(2)))?;
        if function == Function::Arcosh {
            let over = self.add(x, &one, true)?;
            if self.sign(&over) == Some(Ordering::Less) {
                return Err(Undefined::NoValue);
            }
        }
        let inside = self.add(&square, &one, function == Function::Arcosh)?;
        let root = self.raise_rational(&inside, &half)?;
        if function == Function::Arsinh && self.sign(x) == Some(Ordering::Less) {
            // −ln(√(x²+1) − x) does not cancel.
            let sum = self.add(&root, x, true)?;
            let ln = self.ln(&sum)?;
            return self.add(&Value::Exact(BigRational::zero()), &ln, true);
        }
        let sum = self.add(&root, x, false)?;
        self.ln(&sum)
    }
}

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
