//! Powers and roots of enclosures.

use std::cmp::Ordering;

use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use super::{Evaluator, Outcome, Undefined, Value};
use crate::exact::{bits, exact_root, whole_power};
use crate::interval::{End, Interval};
use crate::tree::{Constant, Expr};

impl<S: End> Evaluator<'_, S> {
    pub(super) fn power(&mut self, base: &Expr, exponent: &Expr) -> Outcome<S> {
        let varying = exponent.any(&|e| matches!(e, Expr::Variable(v) if !(self.whole)(v)));
        let power = self.value(exponent)?;
        if matches!(base.bare(), Expr::Constant(Constant::E)) {
            return self.exp(&power);
        }
        let base = self.value(base)?;
        self.raise(&base, &power, varying)
    }

    /// `varying`: the exponent runs through the reals, so the base may not be negative.
    pub(super) fn raise(&mut self, base: &Value<S>, power: &Value<S>, varying: bool) -> Outcome<S> {
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
                self.charge_function()?;
                self.charge_function()?;
                let ln = b.ln(&mut self.cx).usable().ok_or(Undefined::Unknown)?;
                let v = ln.mul(&p, &self.cx).exp(&mut self.cx);
                self.within(v)
            }
            // A power that is only enclosed may be a fraction for which there is a value.
            Some(Ordering::Less) if !varying => Err(Undefined::Unknown),
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
    pub(super) fn raise_rational(&mut self, base: &Value<S>, p: &BigRational) -> Outcome<S> {
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
            Some(Ordering::Equal) if p.is_positive() => return Ok(Value::Exact(BigRational::zero())),
            Some(Ordering::Equal) => return Err(Undefined::NoValue),
            None if p.is_positive() => return self.root_around_zero(&b, p),
            None => return Err(Undefined::Unknown),
        };
        let result = self.positive_power(&size, p)?;
        self.within(if negative { result.neg() } else { result })
    }

    /// `size^p` of something positive.
    fn positive_power(&mut self, size: &Interval<S>, p: &BigRational) -> Result<Interval<S>, Undefined> {
        if *p == BigRational::new(1.into(), 2.into()) {
            self.charge(self.step)?;
            return Ok(size.sqrt(&self.cx));
        }
        self.charge_function()?;
        self.charge_function()?;
        let ln = size.ln(&mut self.cx).usable().ok_or(Undefined::Unknown)?;
        let power = ln
            .mul(&Interval::rational(p, &self.cx), &self.cx)
            .exp(&mut self.cx);
        power.usable().ok_or(Undefined::Unknown)
    }

    /// `p` is no whole number, and above zero. The root of something between −a and b lies between −√a and √b where
    /// there is one for what is negative, else between 0 and √b: that bound is often enough.
    fn root_around_zero(&mut self, b: &Interval<S>, p: &BigRational) -> Outcome<S> {
        let zero = S::from_rational(&BigRational::zero(), false, &self.cx);
        let mut reach = |end: S| match end.order(&zero) {
            Ordering::Greater => {
                let whole = Interval {
                    lo: end.clone(),
                    hi: end,
                };
                Ok(self.positive_power(&whole, p)?.hi)
            }
            _ => Ok(zero.clone()),
        };
        let (below, above) = (reach(b.lo.negated())?, reach(b.hi.clone())?);
        let (odd_root, odd_power) = (p.denom().is_odd(), p.numer().is_odd());
        let bound = match (odd_root, odd_power) {
            (true, true) => Interval {
                lo: below.negated(),
                hi: above,
            },
            (true, false) => {
                let hi = if below.order(&above) == Ordering::Greater {
                    below
                } else {
                    above
                };
                Interval { lo: zero, hi }
            }
            (false, _) => {
                // So close to zero that it can be taken to be zero itself; else there may be no value.
                if b.lo.order(&zero) == Ordering::Less && !self.touches_zero(b) {
                    self.in_doubt = true;
                }
                Interval { lo: zero, hi: above }
            }
        };
        self.within(bound)
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
            self.charge(2 * self.step)?;
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
}
