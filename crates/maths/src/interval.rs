//! Enclosures: a value is known to lie between two ends. Two kinds of end share one arithmetic: `f64`, fast and
//! enough to tell most different things apart, and big floats of any precision for the rest.
//!
//! Ends of + − × ÷ √ are rounded outward. Functions (exp, ln, sin, cos, atan) come from libraries with a stated
//! error; the ends are widened by more than that. `libm` is used for `f64`, not the platform's, so that every
//! machine finds the same.

use std::cmp::Ordering;

use astro_float::{BigFloat, Consts, RoundingMode, Sign};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{ToPrimitive, Zero};

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

impl End for f64 {
    fn from_rational(value: &BigRational, up: bool, _: &Context) -> Self {
        if value.is_integer() && value.numer().bits() <= 52 {
            return value.numer().to_f64().unwrap_or(f64::NAN);
        }
        // A quotient that underflows comes out as zero, which its neighbours on both sides enclose.
        let near = value.to_f64().unwrap_or(f64::NAN);
        if up { near.next_up() } else { near.next_down() }
    }
    fn add(&self, other: &Self, up: bool, _: &Context) -> Self {
        let sum = self + other;
        if *self == 0.0 || *other == 0.0 {
            return sum;
        }
        if up { sum.next_up() } else { sum.next_down() }
    }
    fn mul(&self, other: &Self, up: bool, _: &Context) -> Self {
        if *self == 0.0 || *other == 0.0 {
            return 0.0;
        }
        if *other == 1.0 {
            return *self;
        }
        let product = self * other;
        if up {
            product.next_up()
        } else {
            product.next_down()
        }
    }
    fn div(&self, other: &Self, up: bool, _: &Context) -> Self {
        if *self == 0.0 {
            return 0.0;
        }
        let quotient = self / other;
        if up {
            quotient.next_up()
        } else {
            quotient.next_down()
        }
    }
    fn sqrt(&self, up: bool, _: &Context) -> Self {
        if *self <= 0.0 {
            return 0.0;
        }
        let root = libm::sqrt(*self);
        if up { root.next_up() } else { root.next_down() }
    }
    fn negated(&self) -> Self {
        -self
    }
    fn exp(&self, up: bool, _: &mut Context) -> Self {
        let v = libm::exp(*self);
        // Below the normal numbers the error is absolute, not relative: that is what the smallest of them is added for.
        if up {
            v * (1.0 + 8.0 * f64::EPSILON) + f64::MIN_POSITIVE
        } else {
            (v * (1.0 - 8.0 * f64::EPSILON) - f64::MIN_POSITIVE).max(0.0)
        }
    }
    fn ln(&self, up: bool, _: &mut Context) -> Self {
        widened(libm::log(*self), up)
    }
    fn atan(&self, up: bool, _: &mut Context) -> Self {
        widened(libm::atan(*self), up)
    }
    fn sin(&self, up: bool, _: &mut Context) -> Self {
        widened(libm::sin(*self), up)
    }
    fn cos(&self, up: bool, _: &mut Context) -> Self {
        widened(libm::cos(*self), up)
    }
    fn pi(up: bool, _: &mut Context) -> Self {
        if up {
            std::f64::consts::PI.next_up()
        } else {
            std::f64::consts::PI
        }
    }
    fn order(&self, other: &Self) -> Ordering {
        self.partial_cmp(other).unwrap_or(Ordering::Equal)
    }
    fn is_usable(&self) -> bool {
        self.is_finite() && self.abs() < 1e290
    }
    fn floor(&self) -> Option<BigInt> {
        #[expect(clippy::cast_possible_truncation, reason = "checked against 2^53")]
        (self.abs() < 9e15).then(|| BigInt::from(libm::floor(*self) as i64))
    }
    fn log2(&self) -> i64 {
        if *self == 0.0 {
            -1_000_000
        } else {
            i64::from(libm::ilogb(*self)) + 1
        }
    }
}

fn widened(v: f64, up: bool) -> f64 {
    let by = v.abs() * 8.0 * f64::EPSILON + f64::MIN_POSITIVE;
    if up { v + by } else { v - by }
}

fn direction(up: bool) -> RoundingMode {
    if up { RoundingMode::Up } else { RoundingMode::Down }
}

/// Eight bits more than the library's last place, relative to the larger of the value and 1.
fn widened_big(v: &BigFloat, up: bool, cx: &Context) -> BigFloat {
    let exponent = v.exponent().unwrap_or(0).max(1);
    let shift = i32::try_from(cx.precision).unwrap_or(i32::MAX) - 8;
    let mut by = BigFloat::from_i8(1, 64);
    by.set_exponent(exponent.saturating_sub(shift));
    v.add(&if up { by } else { by.neg() }, cx.precision, direction(up))
}

/// A result that underflowed says nothing: zero would say too much.
fn unless_lost(result: BigFloat, not_zero: bool) -> BigFloat {
    if not_zero && (result.is_zero() || result.is_subnormal()) {
        BigFloat::nan(None)
    } else {
        result
    }
}

fn whole_big(n: &BigInt) -> BigFloat {
    let (sign, digits) = n.to_u64_digits();
    if digits.is_empty() {
        return BigFloat::from_i8(0, 64);
    }
    let sign = if sign == num_bigint::Sign::Minus {
        Sign::Neg
    } else {
        Sign::Pos
    };
    let exponent = i32::try_from(digits.len() * 64).unwrap_or(i32::MAX);
    BigFloat::from_words(&digits, sign, exponent)
}

/// Arguments past these cost too much to reduce, and nothing a student means gets there.
const LARGEST_ANGLE_BITS: i32 = 600;
const LARGEST_EXPONENT_BITS: i32 = 28;

impl End for BigFloat {
    fn from_rational(value: &BigRational, up: bool, cx: &Context) -> Self {
        whole_big(value.numer()).div(&whole_big(value.denom()), cx.precision, direction(up))
    }
    fn add(&self, other: &Self, up: bool, cx: &Context) -> Self {
        BigFloat::add(self, other, cx.precision, direction(up))
    }
    fn mul(&self, other: &Self, up: bool, cx: &Context) -> Self {
        let product = BigFloat::mul(self, other, cx.precision, direction(up));
        unless_lost(product, !self.is_zero() && !other.is_zero())
    }
    fn div(&self, other: &Self, up: bool, cx: &Context) -> Self {
        let quotient = BigFloat::div(self, other, cx.precision, direction(up));
        unless_lost(quotient, !self.is_zero())
    }
    fn sqrt(&self, up: bool, cx: &Context) -> Self {
        if self.is_zero() || self.is_negative() {
            return BigFloat::from_i8(0, 64);
        }
        BigFloat::sqrt(self, cx.precision, direction(up))
    }
    fn negated(&self) -> Self {
        BigFloat::neg(self)
    }
    fn exp(&self, up: bool, cx: &mut Context) -> Self {
        if self.exponent().is_none_or(|e| e > LARGEST_EXPONENT_BITS) {
            return BigFloat::nan(None);
        }
        let p = cx.precision;
        let v = cx.with_consts(|cc| BigFloat::exp(self, p, RoundingMode::None, cc));
        let v = unless_lost(v.unwrap_or_else(|| BigFloat::nan(None)), true);
        let mut by = v.clone();
        if let Some(e) = v.exponent() {
            by.set_exponent(e.saturating_sub(i32::try_from(p).unwrap_or(i32::MAX) - 8));
        }
        v.add(&if up { by } else { by.neg() }, p, direction(up))
    }
    fn ln(&self, up: bool, cx: &mut Context) -> Self {
        let p = cx.precision;
        let v = cx.with_consts(|cc| BigFloat::ln(self, p, RoundingMode::None, cc));
        widened_big(&v.unwrap_or_else(|| BigFloat::nan(None)), up, cx)
    }
    fn atan(&self, up: bool, cx: &mut Context) -> Self {
        let p = cx.precision;
        let v = cx.with_consts(|cc| BigFloat::atan(self, p, RoundingMode::None, cc));
        widened_big(&v.unwrap_or_else(|| BigFloat::nan(None)), up, cx)
    }
    fn sin(&self, up: bool, cx: &mut Context) -> Self {
        if self.exponent().is_none_or(|e| e > LARGEST_ANGLE_BITS) {
            return BigFloat::nan(None);
        }
        let p = cx.precision;
        let v = cx.with_consts(|cc| BigFloat::sin(self, p, RoundingMode::None, cc));
        widened_big(&v.unwrap_or_else(|| BigFloat::nan(None)), up, cx)
    }
    fn cos(&self, up: bool, cx: &mut Context) -> Self {
        if self.exponent().is_none_or(|e| e > LARGEST_ANGLE_BITS) {
            return BigFloat::nan(None);
        }
        let p = cx.precision;
        let v = cx.with_consts(|cc| BigFloat::cos(self, p, RoundingMode::None, cc));
        widened_big(&v.unwrap_or_else(|| BigFloat::nan(None)), up, cx)
    }
    fn pi(up: bool, cx: &mut Context) -> Self {
        let p = cx.precision;
        let v = cx.with_consts(|cc| cc.pi(p, RoundingMode::None));
        widened_big(&v.unwrap_or_else(|| BigFloat::nan(None)), up, cx)
    }
    fn order(&self, other: &Self) -> Ordering {
        BigFloat::cmp(self, other).map_or(Ordering::Equal, |o| o.cmp(&0))
    }
    fn is_usable(&self) -> bool {
        !self.is_nan() && !self.is_inf()
    }
    fn floor(&self) -> Option<BigInt> {
        let (words, _, sign, exponent, _) = self.as_raw_parts()?;
        let total = i64::try_from(words.len() * 64).ok()?;
        let digits: Vec<u32> = words
            .iter()
            .flat_map(|w| [(*w & 0xffff_ffff) as u32, (*w >> 32) as u32])
            .collect();
        let mantissa = BigInt::from_slice(num_bigint::Sign::Plus, &digits);
        let mantissa = if sign == Sign::Neg { -mantissa } else { mantissa };
        let shift = total - i64::from(exponent);
        if shift < -8192 {
            return None;
        }
        Some(if shift >= 0 {
            mantissa >> shift.unsigned_abs()
        } else {
            mantissa << shift.unsigned_abs()
        })
    }
    fn log2(&self) -> i64 {
        if self.is_zero() {
            -1_000_000_000
        } else {
            self.exponent().map_or(1_000_000_000, i64::from)
        }
    }
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
        let corner = |a: &S, b: &S| (a.mul(b, false, cx), a.mul(b, true, cx));
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

    /// The divisor must not hold zero.
    pub fn div(&self, other: &Self, cx: &Context) -> Self {
        let corner = |a: &S, b: &S| (a.div(b, false, cx), a.div(b, true, cx));
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
