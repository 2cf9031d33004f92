//! Enclosures: a value is known to lie between two ends. Two kinds of end share one arithmetic: `f64`, fast and
//! enough to tell most different things apart, and big floats of any precision for the rest.
//!
//! Ends of + − × ÷ √ are rounded outward. Functions (exp, ln, sin, cos, atan) come from libraries with a stated
//! error; the ends are widened by more than that. `libm` is used for `f64`, not the platform's, so that every
//! machine finds the same.

mod ends;
#[cfg(test)]
mod tests;

use std::cmp::Ordering;

use astro_float::Consts;
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Zero;

/// Working precision in bits and the constants found so far.
pub(crate) struct Context {
    pub precision: usize,
    consts: Option<Consts>,
}

impl Context {
    pub fn new(precision: usize) -> Self {
        Self {
            precision,
            consts: None,
        }
    }

    fn with_consts<T>(&mut self, work: impl FnOnce(&mut Consts) -> T) -> Option<T> {
        if self.consts.is_none() {
            self.consts = Consts::new().ok();
        }
        self.consts.as_mut().map(work)
    }
}

/// One end of an enclosure. `up` says which way to round.
pub(crate) trait End: Clone {
    fn from_rational(value: &BigRational, up: bool, cx: &Context) -> Self;
    fn add(&self, other: &Self, up: bool, cx: &Context) -> Self;
    fn mul(&self, other: &Self, up: bool, cx: &Context) -> Self;
    fn div(&self, other: &Self, up: bool, cx: &Context) -> Self;
    fn sqrt(&self, up: bool, cx: &Context) -> Self;
    fn negated(&self) -> Self;
    /// The function's value, moved outward past the library's error.
    fn exp(&self, up: bool, cx: &mut Context) -> Self;
    fn ln(&self, up: bool, cx: &mut Context) -> Self;
    fn atan(&self, up: bool, cx: &mut Context) -> Self;
    fn sin(&self, up: bool, cx: &mut Context) -> Self;
    fn cos(&self, up: bool, cx: &mut Context) -> Self;
    fn pi(up: bool, cx: &mut Context) -> Self;
    fn order(&self, other: &Self) -> Ordering;
    fn is_usable(&self) -> bool;
    fn floor(&self) -> Option<BigInt>;
    /// Exponent of two, roughly: |value| < 2^n. Zero gives a very small one.
    fn log2(&self) -> i64;
}

/// A closed enclosure of a real value.
#[derive(Clone)]
pub(crate) struct Interval<S> {
    pub lo: S,
    pub hi: S,
}

fn least<S: End>(a: S, b: S) -> S {
    if a.order(&b) == Ordering::Greater { b } else { a }
}

fn greatest<S: End>(a: S, b: S) -> S {
    if a.order(&b) == Ordering::Less { b } else { a }
}

impl<S: End> Interval<S> {
    pub fn rational(value: &BigRational, cx: &Context) -> Self {
        Self {
            lo: S::from_rational(value, false, cx),
            hi: S::from_rational(value, true, cx),
        }
    }

    pub fn whole(value: i64, cx: &Context) -> Self {
        Self::rational(&BigRational::from(BigInt::from(value)), cx)
    }

    pub fn pi(cx: &mut Context) -> Self {
        Self {
            lo: S::pi(false, cx),
            hi: S::pi(true, cx),
        }
    }

    /// `None` if an end overflowed.
    pub fn usable(self) -> Option<Self> {
        (self.lo.is_usable() && self.hi.is_usable()).then_some(self)
    }

    fn zero(cx: &Context) -> S {
        S::from_rational(&BigRational::zero(), false, cx)
    }

    /// `Some(Less)` if surely negative, and so on; `None` if the enclosure holds zero and more.
    pub fn sign(&self, cx: &Context) -> Option<Ordering> {
        let zero = Self::zero(cx);
        match (self.lo.order(&zero), self.hi.order(&zero)) {
            (Ordering::Greater, _) => Some(Ordering::Greater),
            (_, Ordering::Less) => Some(Ordering::Less),
            (Ordering::Equal, Ordering::Equal) => Some(Ordering::Equal),
            _ => None,
        }
    }

    pub fn neg(&self) -> Self {
        Self {
            lo: self.hi.negated(),
            hi: self.lo.negated(),
        }
    }

    pub fn add(&self, other: &Self, cx: &Context) -> Self {
        Self {
            lo: self.lo.add(&other.lo, false, cx),
            hi: self.hi.add(&other.hi, true, cx),
        }
    }

    pub fn sub(&self, other: &Self, cx: &Context) -> Self {
        self.add(&other.neg(), cx)
    }

    pub fn mul(&self, other: &Self, cx: &Context) -> Self {
        self.corners(other, |a, b, up| a.mul(b, up, cx))
    }

    /// The divisor must not hold zero.
    pub fn div(&self, other: &Self, cx: &Context) -> Self {
        self.corners(other, |a, b, up| a.div(b, up, cx))
    }

    /// From the least to the greatest of what an operation gives for the ends, each rounded outward.
    fn corners(&self, other: &Self, of: impl Fn(&S, &S, bool) -> S) -> Self {
        let corner = |a: &S, b: &S| (of(a, b, false), of(a, b, true));
        let corners = [
            corner(&self.lo, &other.lo),
            corner(&self.lo, &other.hi),
            corner(&self.hi, &other.lo),
            corner(&self.hi, &other.hi),
        ];
        let [(mut lo, mut hi), rest @ ..] = corners;
        for (down, up) in rest {
            lo = least(lo, down);
            hi = greatest(hi, up);
        }
        Self { lo, hi }
    }

    pub fn abs(&self, cx: &Context) -> Self {
        match self.sign(cx) {
            Some(Ordering::Less) => self.neg(),
            Some(_) => self.clone(),
            None => Self {
                lo: Self::zero(cx),
                hi: greatest(self.lo.negated(), self.hi.clone()),
            },
        }
    }

    pub fn min(&self, other: &Self) -> Self {
        Self {
            lo: least(self.lo.clone(), other.lo.clone()),
            hi: least(self.hi.clone(), other.hi.clone()),
        }
    }

    pub fn max(&self, other: &Self) -> Self {
        Self {
            lo: greatest(self.lo.clone(), other.lo.clone()),
            hi: greatest(self.hi.clone(), other.hi.clone()),
        }
    }

    /// A lower end below zero counts as zero: the caller has seen that the value is not negative.
    pub fn sqrt(&self, cx: &Context) -> Self {
        Self {
            lo: self.lo.sqrt(false, cx),
            hi: self.hi.sqrt(true, cx),
        }
    }

    pub fn exp(&self, cx: &mut Context) -> Self {
        Self {
            lo: self.lo.exp(false, cx),
            hi: self.hi.exp(true, cx),
        }
    }

    /// The argument must be positive.
    pub fn ln(&self, cx: &mut Context) -> Self {
        Self {
            lo: self.lo.ln(false, cx),
            hi: self.hi.ln(true, cx),
        }
    }

    pub fn atan(&self, cx: &mut Context) -> Self {
        Self {
            lo: self.lo.atan(false, cx),
            hi: self.hi.atan(true, cx),
        }
    }

    /// sin (or cos) at the middle, widened by half the width: neither is ever steeper than 1.
    pub fn wave(&self, cosine: bool, cx: &mut Context) -> Self {
        let half = BigRational::new(1.into(), 2.into());
        let half = Interval::<S>::rational(&half, cx);
        let middle = self.lo.add(&self.hi, false, cx).mul(&half.lo, false, cx);
        let reach = greatest(
            self.hi.add(&middle.negated(), true, cx),
            middle.add(&self.lo.negated(), true, cx),
        );
        let one = S::from_rational(&BigRational::from(BigInt::from(1)), false, cx);
        let (lo, hi) = if cosine {
            (middle.cos(false, cx), middle.cos(true, cx))
        } else {
            (middle.sin(false, cx), middle.sin(true, cx))
        };
        Self {
            lo: greatest(lo.add(&reach.negated(), false, cx), one.negated()),
            hi: least(hi.add(&reach, true, cx), one),
        }
    }

    pub fn floor(&self) -> Option<BigInt> {
        let (low, high) = (self.lo.floor()?, self.hi.floor()?);
        (low == high).then_some(low)
    }

    /// Whether a whole number lies in it.
    pub fn holds(&self, whole: &BigInt, cx: &Context) -> bool {
        let at = Self::rational(&BigRational::from(whole.clone()), cx);
        self.lo.order(&at.hi) != Ordering::Greater && at.lo.order(&self.hi) != Ordering::Greater
    }

    /// Whether its lower end may be this whole number.
    pub fn starts_at(&self, whole: &BigInt, cx: &Context) -> bool {
        self.lo
            .order(&S::from_rational(&BigRational::from(whole.clone()), true, cx))
            != Ordering::Greater
    }

    /// |value| < 2^n.
    pub fn log2(&self) -> i64 {
        self.lo.log2().max(self.hi.log2())
    }

    /// Width < 2^n.
    pub fn width_log2(&self, cx: &Context) -> i64 {
        self.hi.add(&self.lo.negated(), true, cx).log2()
    }
}
