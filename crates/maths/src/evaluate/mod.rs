//! The value of a tree at a point, exactly where it is rational, else enclosed.
//!
//! What is returned surely holds the value. Where it can't be told whether there is one (a square root of something that
//! may lie on either side of zero), what it would be is enclosed all the same, and the evaluator is in doubt: a bound
//! tells two values apart just as well as a value.

mod functions;
mod powers;
mod show;
#[cfg(test)]
mod tests;

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Zero};

use crate::budget::spend;
use crate::exact::{bits, factorial};
use crate::interval::{Context, End, Interval};
use crate::limits::MAX_FACTORIAL;
use crate::tree::{Constant, Expr, Factor, Joint, Term};

pub use show::{Ball, approximate, approximate_fast, enclosed, evaluate_precisely};

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
    /// What one step costs at this precision.
    step: u64,
    in_doubt: bool,
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
            step: 1 + u64::try_from(precision / 64).unwrap_or(1) * 4,
            in_doubt: false,
            kind: std::marker::PhantomData,
        }
    }

    /// The enclosure of a tree's value.
    pub fn interval(&mut self, expr: &Expr) -> Result<Interval<S>, Undefined> {
        self.in_doubt = false;
        let value = self.value(expr)?;
        self.enclose(&value)
    }

    /// Whether there may be no value where the last one was enclosed.
    pub fn is_in_doubt(&self) -> bool {
        self.in_doubt
    }

    /// Counts the cost of a function, some hundred times that of a sum where ends are long.
    fn charge(&self, steps: u64) -> Result<(), Undefined> {
        if spend(steps) {
            Ok(())
        } else {
            Err(Undefined::Unknown)
        }
    }

    fn charge_function(&self) -> Result<(), Undefined> {
        let words = u64::try_from(self.cx.precision / 64).unwrap_or(1);
        self.charge(if words == 0 {
            2
        } else {
            20 + 12 * words * words.min(8)
        })
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
        self.charge(1 + bits(&value) / 256)?;
        if bits(&value) <= self.exact_bits {
            Ok(Value::Exact(value))
        } else {
            self.within(Interval::rational(&value, &self.cx))
        }
    }

    pub fn value(&mut self, expr: &Expr) -> Outcome<S> {
        self.charge(self.step)?;
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
                self.charge_function()?;
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
        self.charge_function()?;
        let v = self.enclose(power)?.exp(&mut self.cx);
        self.within(v)
    }

    fn ln(&mut self, value: &Value<S>) -> Outcome<S> {
        match self.sign(value) {
            Some(Ordering::Greater) => {
                if matches!(value, Value::Exact(v) if v.is_one()) {
                    return Ok(Value::Exact(BigRational::zero()));
                }
                self.charge_function()?;
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
            // Between two whole numbers there is none; around one it cannot be told.
            Value::Within(i) if i.floor().is_some_and(|low| !i.holds(&low, &self.cx)) => {
                Err(Undefined::NoValue)
            }
            Value::Within(_) => Err(Undefined::Unknown),
        }
    }
}
