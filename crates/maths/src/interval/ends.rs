//! The two kinds of end of an enclosure: `f64`, and big floats of any precision.

use std::cmp::Ordering;

use astro_float::{BigFloat, RoundingMode, Sign};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::ToPrimitive;

use super::{Context, End};

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
