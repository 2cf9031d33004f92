//! Functions of enclosures.

use std::cmp::Ordering;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

use super::{Evaluator, Outcome, Undefined, Value};
use crate::exact::exact_call;
use crate::interval::{End, Interval};
use crate::tree::{Expr, Function};

impl<S: End> Evaluator<'_, S> {
    pub(super) fn call(&mut self, function: Function, args: &[Expr]) -> Outcome<S> {
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
            F::Floor | F::Ceil => self.step_function(function, x),
            F::Sin | F::Cos => {
                self.charge_function()?;
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
                self.charge_function()?;
                let v = self.enclose(x)?.atan(&mut self.cx);
                self.within(v)
            }
            F::Arccot => {
                self.charge_function()?;
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

    /// Floor or ceiling: one whole number, or the few between which it lies.
    fn step_function(&mut self, function: Function, x: &Value<S>) -> Outcome<S> {
        let v = self.enclose(x)?;
        let (Some(low), Some(high)) = (v.lo.floor(), v.hi.floor()) else {
            return Err(Undefined::Unknown);
        };
        let up = i32::from(function == Function::Ceil);
        // Ends may stand on a whole number, whose ceiling is itself.
        let first = if up == 1 && v.starts_at(&low, &self.cx) {
            low.clone()
        } else {
            low.clone() + up
        };
        let last = high + up;
        if first == last {
            return Ok(Value::Exact(BigRational::from(first)));
        }
        let (first, last) = (BigRational::from(first), BigRational::from(last));
        self.within(Interval {
            lo: S::from_rational(&first, false, &self.cx),
            hi: S::from_rational(&last, true, &self.cx),
        })
    }

    fn half_turn(&mut self) -> Outcome<S> {
        let pi = Value::Within(Interval::pi(&mut self.cx));
        self.divide(&pi, &Value::Exact(BigRational::from(BigInt::from(2))))
    }

    fn wave_quotient(&mut self, x: &Value<S>, top_cos: bool, bottom_cos: Option<bool>) -> Outcome<S> {
        self.charge_function()?;
        self.charge_function()?;
        let x = self.enclose(x)?;
        let top = x.wave(top_cos, &mut self.cx);
        let bottom = x.wave(bottom_cos.unwrap_or(true), &mut self.cx);
        self.divide(&Value::Within(top), &Value::Within(bottom))
    }

    fn wave_quotient_of_one(&mut self, x: &Value<S>, cosine: bool) -> Outcome<S> {
        self.charge_function()?;
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
            _ => return self.arcsin_at_an_end(x),
        }
        let root = self.raise_rational(&rest, &BigRational::new(1.into(), 2.into()))?;
        let ratio = self.divide(x, &root)?;
        self.charge_function()?;
        let v = self.enclose(&ratio)?.atan(&mut self.cx);
        self.within(v)
    }

    /// Around ±1, where it can't be told whether there is a value: a quarter turn bounds it.
    fn arcsin_at_an_end(&mut self, x: &Value<S>) -> Outcome<S> {
        self.in_doubt = true;
        let half = self.half_turn()?;
        let quarter = self.enclose(&half)?;
        let zero = S::from_rational(&BigRational::zero(), false, &self.cx);
        let bound = match self.sign(x) {
            Some(Ordering::Greater) => Interval {
                lo: zero,
                hi: quarter.hi,
            },
            Some(Ordering::Less) => Interval {
                lo: quarter.hi.negated(),
                hi: zero,
            },
            _ => Interval {
                lo: quarter.hi.negated(),
                hi: quarter.hi,
            },
        };
        self.within(bound)
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
