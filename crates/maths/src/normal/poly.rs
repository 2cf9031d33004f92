//! Sums of products of kernels with rational exponents and rational coefficients.

use std::collections::BTreeMap;

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::{BigRational, Ratio};
use num_traits::{One, Signed, Zero};

use super::Stop;
use crate::budget::spend;
use crate::exact::bits;
use crate::limits::{MAX_COEFFICIENT_BITS, MAX_TERMS};

pub(crate) type Exponent = Ratio<i64>;

/// Words of 64 bits of a coefficient's numerator and denominator: what working with it costs goes by them.
fn words(a: &BigRational) -> u64 {
    (a.numer().bits() + a.denom().bits()) / 64
}

/// What a product costs beyond a step; reducing it to lowest terms costs the square of its words, several times over.
fn pay(a: &BigRational, b: &BigRational) {
    let (a_words, b_words) = (words(a), words(b));
    // Taking, copying and giving back what holds them, and the products of their words.
    let product = (a_words + b_words) / 3 + a_words * b_words / 32;
    let reduced = if a.is_integer() && b.is_integer() {
        0
    } else {
        (a_words + b_words).pow(2) / 2
    };
    if product + reduced > 0 {
        spend(product + reduced);
    }
}

/// The product; of whole numbers without looking for a common divisor.
fn times(a: &BigRational, b: &BigRational) -> BigRational {
    pay(a, b);
    if a.is_integer() && b.is_integer() {
        return BigRational::new_raw(a.numer() * b.numer(), BigInt::one());
    }
    if a.is_integer() && b.numer().is_one() {
        // Taking out a content: it divides without a rest.
        let (quotient, rest) = a.numer().div_rem(b.denom());
        if rest.is_zero() {
            return BigRational::new_raw(quotient, BigInt::one());
        }
    }
    a * b
}

/// The sum; of whole numbers without looking for a common divisor.
fn plus(a: &BigRational, b: &BigRational) -> BigRational {
    pay(a, b);
    if a.is_integer() && b.is_integer() {
        BigRational::new_raw(a.numer() + b.numer(), BigInt::one())
    } else {
        a + b
    }
}

/// Kernels with their exponents, sorted by kernel; no exponent is zero.
pub(crate) type Monomial = Vec<(u32, Exponent)>;

#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub(crate) struct Poly {
    pub terms: BTreeMap<Monomial, BigRational>,
}

pub(crate) fn add_exponents(a: &Exponent, b: &Exponent) -> Result<Exponent, Stop> {
    use num_traits::CheckedAdd;
    a.checked_add(b)
        .filter(|e| e.denom().abs() < 1 << 20 && e.numer().abs() < 1 << 40)
        .ok_or(Stop::TooBig)
}

pub(crate) fn multiply_exponents(a: &Exponent, b: &Exponent) -> Result<Exponent, Stop> {
    use num_traits::CheckedMul;
    a.checked_mul(b)
        .filter(|e| e.denom().abs() < 1 << 20 && e.numer().abs() < 1 << 40)
        .ok_or(Stop::TooBig)
}

/// The product of two monomials.
pub(crate) fn join(a: &Monomial, b: &Monomial) -> Result<Monomial, Stop> {
    let mut out = Vec::with_capacity(a.len() + b.len());
    let (mut left, mut right) = (a.iter().peekable(), b.iter().peekable());
    loop {
        match (left.peek(), right.peek()) {
            (Some(x), Some(y)) if x.0 == y.0 => {
                let e = add_exponents(&x.1, &y.1)?;
                if !e.is_zero() {
                    out.push((x.0, e));
                }
                left.next();
                right.next();
            }
            (Some(x), Some(y)) if x.0 < y.0 => {
                out.push(**x);
                left.next();
            }
            (_, Some(y)) => {
                out.push(**y);
                right.next();
            }
            (Some(x), None) => {
                out.push(**x);
                left.next();
            }
            (None, None) => return Ok(out),
        }
    }
}

impl Poly {
    pub fn zero() -> Self {
        Self::default()
    }

    pub fn constant(value: BigRational) -> Self {
        Self::term(Vec::new(), value)
    }

    pub fn one() -> Self {
        Self::constant(BigRational::one())
    }

    pub fn term(monomial: Monomial, coefficient: BigRational) -> Self {
        let mut terms = BTreeMap::new();
        if !coefficient.is_zero() {
            terms.insert(monomial, coefficient);
        }
        Self { terms }
    }

    pub fn kernel(id: u32, exponent: Exponent) -> Self {
        let monomial = if exponent.is_zero() {
            Vec::new()
        } else {
            vec![(id, exponent)]
        };
        Self::term(monomial, BigRational::one())
    }

    pub fn is_zero(&self) -> bool {
        self.terms.is_empty()
    }

    pub fn as_constant(&self) -> Option<BigRational> {
        match self.terms.len() {
            0 => Some(BigRational::zero()),
            1 => self.terms.get(&Vec::new()).cloned(),
            _ => None,
        }
    }

    pub fn is_one(&self) -> bool {
        self.as_constant().is_some_and(|c| c.is_one())
    }

    pub fn single(&self) -> Option<(&Monomial, &BigRational)> {
        if self.terms.len() == 1 {
            self.terms.iter().next()
        } else {
            None
        }
    }

    pub fn insert(&mut self, monomial: Monomial, coefficient: &BigRational) -> Result<(), Stop> {
        use std::collections::btree_map::Entry;
        match self.terms.entry(monomial) {
            Entry::Vacant(v) => {
                if !coefficient.is_zero() {
                    v.insert(coefficient.clone());
                }
            }
            Entry::Occupied(mut o) => {
                let sum = plus(o.get(), coefficient);
                if sum.is_zero() {
                    o.remove();
                } else {
                    *o.get_mut() = sum;
                }
            }
        }
        if self.terms.len() > MAX_TERMS || bits(coefficient) > MAX_COEFFICIENT_BITS {
            return Err(Stop::TooBig);
        }
        Ok(())
    }

    pub fn add(&self, other: &Self) -> Result<Self, Stop> {
        let mut sum = self.clone();
        for (m, c) in &other.terms {
            sum.insert(m.clone(), c)?;
        }
        Ok(sum)
    }

    pub fn scaled(&self, by: &BigRational) -> Self {
        if by.is_zero() {
            return Self::zero();
        }
        if by.is_one() {
            return self.clone();
        }
        Self {
            terms: self
                .terms
                .iter()
                .map(|(m, c)| (m.clone(), times(c, by)))
                .collect(),
        }
    }

    pub fn negated(&self) -> Self {
        self.scaled(&-BigRational::one())
    }

    /// The product as it stands, relations between kernels not yet used.
    pub fn raw_mul(&self, other: &Self) -> Result<Self, Stop> {
        let mut product = Self::zero();
        for (a, x) in &self.terms {
            for (b, y) in &other.terms {
                product.insert(join(a, b)?, &times(x, y))?;
            }
        }
        Ok(product)
    }

    /// Every term times one monomial.
    pub fn shifted(&self, by: &Monomial) -> Result<Self, Stop> {
        let mut out = Self::zero();
        for (m, c) in &self.terms {
            out.insert(join(m, by)?, c)?;
        }
        Ok(out)
    }

    /// The largest positive rational that divides every coefficient to a whole number.
    pub fn content(&self) -> BigRational {
        let mut top = BigInt::zero();
        let mut bottom = BigInt::one();
        for c in self.terms.values() {
            spend(words(c).pow(2) / 2);
            top = top.gcd(c.numer());
            bottom = bottom.lcm(c.denom());
        }
        if top.is_zero() {
            BigRational::one()
        } else {
            BigRational::new(top, bottom)
        }
    }

    pub fn leading_is_negative(&self) -> bool {
        self.terms.values().next_back().is_some_and(Signed::is_negative)
    }
}
