//! A normal form in which equal expressions become the same: fractions of polynomials over the rationals whose
//! indeterminates ("kernels") are the variables and what cannot be taken apart further.
//!
//! * Exponentials: every exponent is a sum of rational multiples of monomials, and `exp(m)` is a kernel with rational
//!   exponents, so that the laws of powers become addition (Richardson's and Caviness's exponential canonical form).
//!   `a^u` is `exp(u ln a)`.
//! * Sine and cosine become powers of `cis(m) = e^(im)` with `i² = −1`: Pythagoras, double angles and all sums of
//!   angles hold by themselves. Rational parts of π become roots.
//! * Hyperbolic functions are exponentials; logarithms are `ln|p|` of the factors that were typed.
//! * Roots: `b^r` with `0 ≤ r < 1`; whole powers of `b` are multiplied out.
//! * `|u|` with `|u|² = u²`.
//!
//! Every rule holds wherever its left side has a real value, so a difference that becomes 0 is proved to be 0 there.
//! A difference that does not become 0 says nothing. See Moses, *Algebraic simplification: a guide for the
//! perplexed* (CACM 14, 1971), and Geddes, Czapor and Labahn, *Algorithms for Computer Algebra* (1992), ch. 3.

mod convert;
mod poly;
mod powers;
#[cfg(test)]
mod tests;

use std::sync::Arc;

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::budget::spend;
use crate::limits::MAX_NORMAL_STEPS;
use crate::tree::{Constant, Expr, Function};
pub(crate) use poly::{Exponent, Monomial, Poly};

/// A polynomial in named variables: powers by name, and the coefficient, a term each.
pub(crate) type SparseTerms = Vec<(Vec<(Arc<str>, u32)>, BigRational)>;

/// Why there is no normal form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Stop {
    /// Past a bound, or a construct this form has no rule for.
    TooBig,
    /// A division by something that is zero everywhere.
    NoValue,
}

/// What a kernel stands for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Kernel {
    Variable(Arc<str>),
    Pi,
    /// i, with i² = −1.
    I,
    /// A prime under a root.
    Prime(BigInt),
    /// e^(iπ), whose exponents are taken below 1.
    HalfTurn,
    /// e^m.
    Exp(Atom),
    /// e^(im).
    Cis(Atom),
    /// A polynomial under a root.
    Base(Poly),
    Abs(Poly),
    /// ln|p|.
    LnAbs(Poly),
    Call(Function, Vec<Fraction>),
    Factorial(Fraction),
    Power(Fraction, Fraction),
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Atom {
    Monomial(Monomial),
    Fraction(Fraction),
}

/// A fraction of polynomials in kernels.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fraction {
    pub(crate) top: Poly,
    pub(crate) bottom: Poly,
}

impl Fraction {
    pub(crate) fn poly(top: Poly) -> Self {
        Self {
            top,
            bottom: Poly::one(),
        }
    }

    pub(crate) fn constant(value: BigRational) -> Self {
        Self::poly(Poly::constant(value))
    }

    pub(crate) fn as_constant(&self) -> Option<BigRational> {
        if self.bottom.is_one() {
            self.top.as_constant()
        } else {
            None
        }
    }
}

/// Brings trees into normal form. Key and entry must go through the same one, since it numbers the kernels.
pub struct Normaliser {
    kernels: Vec<Kernel>,
    steps: usize,
    /// Variables that are never negative.
    positive: Vec<Arc<str>>,
    /// Variables that stand for whole numbers.
    whole: Vec<Arc<str>>,
}

type Outcome<T> = Result<T, Stop>;

impl Normaliser {
    pub(crate) fn new(positive: Vec<Arc<str>>, whole: Vec<Arc<str>>) -> Self {
        Self {
            kernels: Vec::new(),
            steps: 0,
            positive,
            whole,
        }
    }

    pub(crate) fn kernel(&self, id: u32) -> Option<&Kernel> {
        self.kernels.get(usize::try_from(id).ok()?)
    }

    pub(crate) fn intern(&mut self, kernel: Kernel) -> u32 {
        let place = self.kernels.iter().position(|k| *k == kernel).unwrap_or_else(|| {
            self.kernels.push(kernel);
            self.kernels.len() - 1
        });
        u32::try_from(place).unwrap_or(u32::MAX)
    }

    fn spend(&mut self, steps: usize) -> Outcome<()> {
        self.steps += steps;
        let paid = spend(3 * u64::try_from(steps).unwrap_or(u64::MAX));
        if !paid || self.steps > MAX_NORMAL_STEPS {
            Err(Stop::TooBig)
        } else {
            Ok(())
        }
    }

    /// Whether the difference of two trees is zero wherever both have values. `false` says nothing.
    pub(crate) fn proves_equal(&mut self, a: &Expr, b: &Expr) -> Outcome<bool> {
        let (a, b) = (self.fraction(a)?, self.fraction(b)?);
        let left = self.mul(&a.top, &b.bottom)?;
        let right = self.mul(&b.top, &a.bottom)?;
        let difference = left.add(&right.negated())?;
        let difference = self.cleared(difference)?;
        self.vanishes(&difference)
    }

    /// All exponents made non-negative, and the relations used; the value's zeros stay what they were.
    fn cleared(&mut self, poly: Poly) -> Outcome<Poly> {
        let mut lowest: Vec<(u32, Exponent)> = Vec::new();
        for monomial in poly.terms.keys() {
            for (k, e) in monomial.iter().filter(|(_, e)| e.is_negative()) {
                match lowest.iter_mut().find(|(id, _)| id == k) {
                    Some((_, low)) if e < low => *low = *e,
                    Some(_) => {}
                    None => lowest.push((*k, *e)),
                }
            }
        }
        if lowest.is_empty() {
            return self.reduced(poly);
        }
        lowest.sort_by_key(|(k, _)| *k);
        // Whole steps, so that a root's exponent stays a fraction of the same root.
        let by: Monomial = lowest.into_iter().map(|(k, e)| (k, -e.floor())).collect();
        let shifted = poly.shifted(&by)?;
        self.reduced(shifted)
    }

    /// Product with the relations used.
    pub(crate) fn mul(&mut self, a: &Poly, b: &Poly) -> Outcome<Poly> {
        self.spend(a.terms.len() * b.terms.len() + 1)?;
        if a.is_one() {
            return Ok(b.clone());
        }
        if b.is_one() {
            return Ok(a.clone());
        }
        let product = a.raw_mul(b)?;
        self.reduced(product)
    }

    /// Uses i² = −1, whole powers under roots, |u|² = u², and e^(iπ) = −1.
    pub(crate) fn reduced(&mut self, poly: Poly) -> Outcome<Poly> {
        if poly.terms.keys().all(|m| self.is_reduced(m)) {
            return Ok(poly);
        }
        let mut out = Poly::zero();
        for (monomial, coefficient) in poly.terms {
            if self.is_reduced(&monomial) {
                out.insert(monomial, &coefficient)?;
                continue;
            }
            let mut rest: Monomial = Vec::new();
            let mut factor = Poly::constant(coefficient);
            for (k, e) in monomial {
                let Some(kernel) = self.kernel(k).cloned() else {
                    return Err(Stop::TooBig);
                };
                match self.excess(&kernel, k, e)? {
                    None => rest.push((k, e)),
                    Some((left, extra)) => {
                        if !left.is_zero() {
                            rest.push((k, left));
                        }
                        self.spend(factor.terms.len() * extra.terms.len())?;
                        factor = factor.raw_mul(&extra)?;
                    }
                }
            }
            let product = factor.shifted(&rest)?;
            let product = self.reduced(product)?;
            out = out.add(&product)?;
        }
        Ok(out)
    }

    fn is_reduced(&self, monomial: &Monomial) -> bool {
        monomial.iter().all(|(k, e)| match self.kernel(*k) {
            Some(Kernel::I | Kernel::Prime(_)) => !e.is_negative() && *e < Exponent::one(),
            Some(Kernel::Base(_)) => *e < Exponent::one(),
            Some(Kernel::HalfTurn) => {
                !e.is_negative() && *e < Exponent::one() && !(e * Exponent::from(12)).is_integer()
            }
            Some(Kernel::Abs(_)) => *e < Exponent::from(2),
            _ => true,
        } || matches!(self.kernel(*k), Some(Kernel::I)) && e.is_one())
    }

    /// What of `kernel^e` can be multiplied out: the exponent that is left, and the factor.
    fn excess(&mut self, kernel: &Kernel, id: u32, e: Exponent) -> Outcome<Option<(Exponent, Poly)>> {
        let whole = e.floor().to_integer();
        let left = e - Exponent::from(whole);
        Ok(match kernel {
            Kernel::I => {
                if !e.is_integer() {
                    return Err(Stop::TooBig);
                }
                let turn = whole.rem_euclid(4);
                let sign = if turn >= 2 {
                    -BigRational::one()
                } else {
                    BigRational::one()
                };
                let left = Exponent::from(turn % 2);
                (left != e).then(|| (left, Poly::constant(sign)))
            }
            Kernel::Prime(p) if whole != 0 => {
                let size = usize::try_from(whole.unsigned_abs()).map_err(|_| Stop::TooBig)?;
                if size > 2_000 {
                    return Err(Stop::TooBig);
                }
                let power = BigRational::from(num_traits::pow(p.clone(), size));
                Some((
                    left,
                    Poly::constant(if whole < 0 { power.recip() } else { power }),
                ))
            }
            Kernel::HalfTurn => {
                let sign = if whole.rem_euclid(2) == 1 {
                    -BigRational::one()
                } else {
                    BigRational::one()
                };
                if (left * Exponent::from(12)).is_integer() {
                    let root = self.root_of_unity((left * Exponent::from(12)).to_integer())?;
                    Some((Exponent::zero(), root.scaled(&sign)))
                } else {
                    (whole != 0).then(|| (left, Poly::constant(sign)))
                }
            }
            Kernel::Base(base) if whole >= 1 => Some((left, self.whole_power_of(base, whole)?)),
            Kernel::Abs(inner) if whole >= 2 => {
                let pairs = whole - whole.rem_euclid(2);
                let left = e - Exponent::from(pairs);
                Some((left, self.whole_power_of(inner, pairs)?))
            }
            _ => {
                let _ = id;
                None
            }
        })
    }

    pub(crate) fn whole_power_of(&mut self, base: &Poly, n: i64) -> Outcome<Poly> {
        let limit = if base.terms.len() > 1 {
            crate::limits::MAX_EXPANDED_POWER
        } else {
            4_096
        };
        if n > limit || n < 0 {
            return Err(Stop::TooBig);
        }
        let mut result = Poly::one();
        let mut square = base.clone();
        let mut left = n;
        while left > 0 {
            if left.is_odd() {
                result = self.mul(&result, &square)?;
            }
            left /= 2;
            if left > 0 {
                square = self.mul(&square.clone(), &square)?;
            }
        }
        Ok(result)
    }

    /// Zero as a polynomial in what varies, the coefficients being algebraic numbers that are decided by proof.
    fn vanishes(&mut self, poly: &Poly) -> Outcome<bool> {
        if poly.is_zero() {
            return Ok(true);
        }
        let mut groups: Vec<(Monomial, Vec<Expr>)> = Vec::new();
        for (monomial, coefficient) in &poly.terms {
            let (fixed, varying): (Monomial, Monomial) =
                monomial.iter().partition(|(k, _)| self.is_algebraic(*k));
            if fixed.is_empty() && monomial.is_empty() && poly.terms.len() == 1 {
                return Ok(false);
            }
            let mut value = Expr::rational(coefficient);
            for (k, e) in &fixed {
                value = value.times(self.algebraic_expr(*k, e)?);
            }
            match groups.iter_mut().find(|(m, _)| *m == varying) {
                Some((_, list)) => list.push(value),
                None => groups.push((varying, vec![value])),
            }
        }
        if groups.iter().any(|(_, list)| list.len() == 1) {
            return Ok(false);
        }
        for (_, list) in groups {
            let terms = list
                .into_iter()
                .map(|expr| crate::tree::Term { minus: false, expr })
                .collect();
            let Some(parts) = crate::complex::split_complex(&Expr::Sum(terms)) else {
                return Ok(false);
            };
            for part in [parts.re, parts.im] {
                let zero = crate::value::sign_of_constant(&part);
                let proved = (std::cmp::Ordering::Equal, crate::value::Precision::Proved);
                if zero != Ok(proved) {
                    return Ok(false);
                }
            }
        }
        Ok(true)
    }

    fn is_algebraic(&self, id: u32) -> bool {
        match self.kernel(id) {
            Some(Kernel::I | Kernel::Prime(_) | Kernel::HalfTurn) => true,
            Some(Kernel::Base(p)) => p.terms.keys().flatten().all(|(k, _)| self.is_algebraic(*k)),
            _ => false,
        }
    }

    fn algebraic_expr(&self, id: u32, e: &Exponent) -> Outcome<Expr> {
        let exponent = BigRational::new((*e.numer()).into(), (*e.denom()).into());
        let power = |base: Expr| Expr::power(base, Expr::rational(&exponent));
        match self.kernel(id) {
            Some(Kernel::I) => Ok(power(Expr::Constant(Constant::I))),
            Some(Kernel::Prime(p)) => Ok(power(Expr::whole(p.clone()))),
            Some(Kernel::HalfTurn) => {
                let angle = || Expr::rational(&exponent).times(Expr::Constant(Constant::Pi));
                let sin = Expr::call(Function::Sin, angle()).times(Expr::Constant(Constant::I));
                Ok(Expr::call(Function::Cos, angle()).plus(sin))
            }
            Some(Kernel::Base(p)) => {
                let mut terms = Vec::new();
                for (monomial, coefficient) in &p.terms {
                    let mut expr = Expr::rational(coefficient);
                    for (k, e) in monomial {
                        expr = expr.times(self.algebraic_expr(*k, e)?);
                    }
                    terms.push(crate::tree::Term { minus: false, expr });
                }
                Ok(power(Expr::Sum(terms)))
            }
            _ => Err(Stop::TooBig),
        }
    }

    /// e^(iπk/12) in roots of 2 and 3.
    fn root_of_unity(&mut self, k: i64) -> Outcome<Poly> {
        let two = self.intern(Kernel::Prime(2.into()));
        let three = self.intern(Kernel::Prime(3.into()));
        let i = self.intern(Kernel::I);
        let half = Exponent::new(1, 2);
        let root = |kernels: &[u32], n: i64, d: i64| {
            let mut monomial: Monomial = kernels.iter().map(|k| (*k, half)).collect();
            monomial.sort_by_key(|(k, _)| *k);
            Poly::term(monomial, BigRational::new(n.into(), d.into()))
        };
        // cos of k·15° for k = 0…6; the rest by symmetry.
        let cos = |k: i64| -> Outcome<Poly> {
            let k = k.rem_euclid(24);
            let k = if k > 12 { 24 - k } else { k };
            let (k, sign) = if k > 6 { (12 - k, -1) } else { (k, 1) };
            let value = match k {
                0 => Poly::one(),
                1 => root(&[two, three], 1, 4).add(&root(&[two], 1, 4))?,
                2 => root(&[three], 1, 2),
                3 => root(&[two], 1, 2),
                4 => Poly::constant(BigRational::new(1.into(), 2.into())),
                5 => root(&[two, three], 1, 4).add(&root(&[two], -1, 4))?,
                _ => Poly::zero(),
            };
            Ok(value.scaled(&BigRational::from(BigInt::from(sign))))
        };
        let sin = cos(6 - k)?;
        cos(k)?.add(&sin.shifted(&vec![(i, Exponent::one())])?)
    }

    pub(crate) fn exponent(value: &BigRational) -> Outcome<Exponent> {
        match (value.numer().to_i64(), value.denom().to_i64()) {
            (Some(n), Some(d)) if n.abs() < 1 << 40 && d < 1 << 20 => Ok(Exponent::new(n, d)),
            _ => Err(Stop::TooBig),
        }
    }
}
