//! Polynomials in one variable with rational coefficients, and their real roots, exactly: square-free parts and the
//! theorem of Sturm (Basu, Pollack, Roy, *Algorithms in Real Algebraic Geometry*, 2006, chapter 2).

use std::cmp::Ordering;

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

use crate::budget::spend;

/// Coefficients, the constant one first; the last is not zero.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Poly(Vec<BigRational>);

/// Higher degrees than anyone's answer has.
const MOST_DEGREE: usize = 48;

impl Poly {
    pub fn new(mut coefficients: Vec<BigRational>) -> Poly {
        while coefficients.last().is_some_and(Zero::is_zero) {
            coefficients.pop();
        }
        Poly(coefficients)
    }

    pub fn constant(value: BigRational) -> Poly {
        Poly::new(vec![value])
    }

    /// The variable itself.
    pub fn variable() -> Poly {
        Poly(vec![BigRational::zero(), BigRational::one()])
    }

    pub fn is_zero(&self) -> bool {
        self.0.is_empty()
    }

    pub fn degree(&self) -> usize {
        self.0.len().saturating_sub(1)
    }

    fn leading(&self) -> BigRational {
        self.0.last().cloned().unwrap_or_else(BigRational::zero)
    }

    pub fn add(&self, other: &Poly, minus: bool) -> Poly {
        let length = self.0.len().max(other.0.len());
        let at = |p: &Poly, i: usize| p.0.get(i).cloned().unwrap_or_else(BigRational::zero);
        let sum = |i| {
            let (a, b) = (at(self, i), at(other, i));
            if minus { a - b } else { a + b }
        };
        Poly::new((0..length).map(sum).collect())
    }

    /// `None` past the bounds of degree and work.
    pub fn mul(&self, other: &Poly) -> Option<Poly> {
        if self.is_zero() || other.is_zero() {
            return Some(Poly(Vec::new()));
        }
        let work = u64::try_from(self.0.len() * other.0.len()).unwrap_or(u64::MAX);
        if self.degree() + other.degree() > MOST_DEGREE || !spend(4 * work) {
            return None;
        }
        let mut product = vec![BigRational::zero(); self.0.len() + other.0.len() - 1];
        for (i, a) in self.0.iter().enumerate() {
            for (j, b) in other.0.iter().enumerate() {
                if let Some(place) = product.get_mut(i + j) {
                    *place += a * b;
                }
            }
        }
        Some(Poly::new(product))
    }

    pub fn derivative(&self) -> Poly {
        let one = |(i, c): (usize, &BigRational)| c * BigInt::from(i);
        Poly::new(self.0.iter().enumerate().skip(1).map(one).collect())
    }

    pub fn at(&self, x: &BigRational) -> BigRational {
        self.0
            .iter()
            .rev()
            .fold(BigRational::zero(), |sum, c| sum * x + c)
    }

    fn sign_at(&self, x: &BigRational) -> Ordering {
        self.at(x).cmp(&BigRational::zero())
    }

    /// The same up to a positive factor, with whole coefficients that share none.
    fn primitive(&self) -> Poly {
        let common = self.0.iter().fold(BigInt::one(), |lcm, c| lcm.lcm(c.denom()));
        let whole: Vec<BigInt> = self.0.iter().map(|c| c.numer() * (&common / c.denom())).collect();
        let content = whole.iter().fold(BigInt::zero(), |gcd, n| gcd.gcd(n));
        if content.is_zero() {
            return self.clone();
        }
        Poly::new(
            whole
                .into_iter()
                .map(|n| BigRational::from(n / &content))
                .collect(),
        )
    }

    /// Quotient and remainder; the divisor is not zero.
    fn divide(&self, by: &Poly) -> (Poly, Poly) {
        let mut rest = self.0.clone();
        let mut quotient = vec![BigRational::zero(); (self.0.len() + 1).saturating_sub(by.0.len())];
        let lead = by.leading();
        while rest.len() >= by.0.len() && !rest.is_empty() {
            let shift = rest.len() - by.0.len();
            let factor = rest.last().cloned().unwrap_or_else(BigRational::zero) / &lead;
            for (i, c) in by.0.iter().enumerate() {
                if let Some(place) = rest.get_mut(shift + i) {
                    *place -= &factor * c;
                }
            }
            rest.pop();
            if let Some(place) = quotient.get_mut(shift) {
                *place = factor;
            }
            // What cancelled with it goes too, but each step takes at least one term.
            while rest.len() >= by.0.len() && rest.last().is_some_and(Zero::is_zero) {
                rest.pop();
            }
        }
        (Poly::new(quotient), Poly::new(rest))
    }

    /// The greatest common divisor, up to a factor.
    pub fn gcd(&self, other: &Poly) -> Poly {
        let (mut a, mut b) = (self.primitive(), other.primitive());
        while !b.is_zero() {
            let (_, rest) = a.divide(&b);
            a = b;
            b = rest.primitive();
        }
        a
    }

    /// The polynomial with the same roots, each once.
    pub fn square_free(&self) -> Poly {
        if self.degree() < 2 {
            return self.primitive();
        }
        let repeated = self.gcd(&self.derivative());
        self.divide(&repeated).0.primitive()
    }

    /// All real roots, the smallest first. `None` where the work is too much.
    pub fn roots(&self) -> Option<Vec<Root>> {
        let poly = self.square_free();
        if poly.degree() == 0 {
            return Some(Vec::new());
        }
        let sturm = Sturm::of(&poly)?;
        let lead = poly.leading();
        let largest = poly.0.iter().map(|c| (c / &lead).abs()).max()?;
        let reach = (largest + BigRational::one()).ceil();
        let mut waiting = vec![(-reach.clone(), reach)];
        let mut found = Vec::new();
        while let Some((low, high)) = waiting.pop() {
            if !spend(40) {
                return None;
            }
            match sturm.count(&low, &high) {
                0 => {}
                1 => found.push(Root {
                    poly: poly.clone(),
                    sturm: sturm.clone(),
                    low,
                    high,
                }),
                _ => {
                    let middle = (&low + &high) / BigInt::from(2);
                    waiting.push((middle.clone(), high));
                    waiting.push((low, middle));
                }
            }
        }
        Some(found)
    }
}

/// The chain of a square-free polynomial: the sign changes lost between two places are the roots between them.
#[derive(Clone, Debug)]
struct Sturm(Vec<Poly>);

impl Sturm {
    fn of(poly: &Poly) -> Option<Sturm> {
        let mut chain = vec![poly.clone(), poly.derivative().primitive()];
        while let [.., a, b] = chain.as_slice() {
            let work = u64::try_from(a.0.len() * a.0.len()).unwrap_or(u64::MAX);
            if !spend(10 * work) {
                return None;
            }
            let (_, rest) = a.divide(b);
            if rest.is_zero() {
                break;
            }
            let next = Poly(Vec::new()).add(&rest.primitive(), true);
            chain.push(next);
        }
        Some(Sturm(chain))
    }

    fn changes(&self, x: &BigRational) -> usize {
        spend(u64::try_from(4 * self.0.len() * self.0.len()).unwrap_or(u64::MAX));
        let signs: Vec<Ordering> = self
            .0
            .iter()
            .map(|p| p.sign_at(x))
            .filter(|s| *s != Ordering::Equal)
            .collect();
        signs
            .windows(2)
            .filter(|pair| pair.first() != pair.last())
            .count()
    }

    /// Roots above `low`, up to and with `high`.
    fn count(&self, low: &BigRational, high: &BigRational) -> usize {
        self.changes(low).saturating_sub(self.changes(high))
    }
}

/// A real algebraic number: the one root of a square-free polynomial above `low`, up to and with `high`.
#[derive(Clone, Debug)]
pub(crate) struct Root {
    poly: Poly,
    sturm: Sturm,
    low: BigRational,
    high: BigRational,
}

impl Root {
    /// Above the first, up to and with the second.
    pub fn place(&self) -> (&BigRational, &BigRational) {
        (&self.low, &self.high)
    }

    pub fn halve(&mut self) {
        let middle = (&self.low + &self.high) / BigInt::from(2);
        if self.sturm.count(&self.low, &middle) == 1 {
            self.high = middle;
        } else {
            self.low = middle;
        }
    }

    /// `None` where the work is too much.
    pub fn compare(&self, to: &BigRational) -> Option<Ordering> {
        let mut root = self.clone();
        loop {
            if *to <= root.low {
                return Some(Ordering::Greater);
            }
            if *to > root.high {
                return Some(Ordering::Less);
            }
            if root.poly.at(to).is_zero() {
                return Some(Ordering::Equal);
            }
            if !spend(20) {
                return None;
            }
            root.halve();
        }
    }

    /// The sign of a polynomial there.
    pub fn sign_of(&self, other: &Poly) -> Option<Ordering> {
        if other.is_zero() {
            return Some(Ordering::Equal);
        }
        let common = self.poly.gcd(other).square_free();
        if common.degree() > 0 && Sturm::of(&common)?.count(&self.low, &self.high) > 0 {
            return Some(Ordering::Equal);
        }
        let free = other.square_free();
        if free.degree() == 0 {
            return Some(other.sign_at(&self.high));
        }
        let sturm = Sturm::of(&free)?;
        let mut root = self.clone();
        while sturm.count(&root.low, &root.high) > 0 {
            if !spend(20) {
                return None;
            }
            root.halve();
        }
        Some(other.sign_at(&root.high))
    }

    pub fn is_same(&self, other: &Root) -> Option<bool> {
        let common = self.poly.gcd(&other.poly).square_free();
        let low = (&self.low).max(&other.low);
        let high = (&self.high).min(&other.high);
        if common.degree() == 0 || low >= high {
            return Some(false);
        }
        Some(Sturm::of(&common)?.count(low, high) > 0)
    }

    pub fn is_whole(&self) -> Option<bool> {
        let mut root = self.clone();
        while &root.high - &root.low >= BigRational::one() {
            if !spend(20) {
                return None;
            }
            root.halve();
        }
        // At most one whole number lies above `low`, up to and with `high`.
        let candidate = root.high.floor();
        Some(candidate > root.low && root.poly.at(&candidate).is_zero())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn poly(coefficients: &[i64]) -> Poly {
        Poly::new(
            coefficients
                .iter()
                .map(|c| BigRational::from(BigInt::from(*c)))
                .collect(),
        )
    }

    fn whole(n: i64) -> BigRational {
        BigRational::from(BigInt::from(n))
    }

    #[test]
    fn a_double_root_is_one_root() {
        // (x − 2)² (x + 1)
        let roots = poly(&[4, 0, -3, 1]).roots().unwrap();
        assert_eq!(roots.len(), 2);
        assert_eq!(roots[0].compare(&whole(-1)), Some(Ordering::Equal));
        assert_eq!(roots[1].compare(&whole(2)), Some(Ordering::Equal));
    }

    #[test]
    fn no_real_root_is_none() {
        assert!(poly(&[1, 0, 1]).roots().unwrap().is_empty());
        assert!(poly(&[5]).roots().unwrap().is_empty());
    }

    #[test]
    fn irrational_roots_are_told_from_what_lies_close() {
        let root = &poly(&[-2, 0, 1]).roots().unwrap()[1];
        let near = BigRational::new(
            BigInt::from(1_414_213_562_373_095_i64),
            BigInt::from(1_000_000_000_000_000_i64),
        );
        assert_eq!(root.compare(&near), Some(Ordering::Greater));
        // x⁴ − 5x² + 6 has the same root; x² − 2.000001 has not.
        let same = poly(&[6, 0, -5, 0, 1]).roots().unwrap();
        assert_eq!(same.iter().filter(|r| r.is_same(root) == Some(true)).count(), 1);
        let other = poly(&[-2_000_001, 0, 1_000_000]).roots().unwrap();
        assert!(other.iter().all(|r| r.is_same(root) == Some(false)));
    }

    #[test]
    fn the_sign_of_another_polynomial_at_a_root_is_exact() {
        let root = &poly(&[-2, 0, 1]).roots().unwrap()[1];
        assert_eq!(root.sign_of(&poly(&[-2, 0, 1])), Some(Ordering::Equal));
        assert_eq!(root.sign_of(&poly(&[-3, 2])), Some(Ordering::Less));
        assert_eq!(root.sign_of(&poly(&[-14, 10])), Some(Ordering::Greater));
        assert_eq!(root.sign_of(&poly(&[7])), Some(Ordering::Greater));
    }

    #[test]
    fn whole_roots_are_known_as_such() {
        let whole_or_not: Vec<Option<bool>> = poly(&[6, -5, 1])
            .roots()
            .unwrap()
            .iter()
            .map(Root::is_whole)
            .collect();
        assert_eq!(whole_or_not, [Some(true), Some(true)]);
        assert_eq!(poly(&[-1, 2]).roots().unwrap()[0].is_whole(), Some(false));
    }

    #[test]
    fn products_and_remainders_agree() {
        let (a, b) = (poly(&[1, 2, 3]), poly(&[-1, 4]));
        let product = a.mul(&b).unwrap();
        let (quotient, rest) = product.divide(&b);
        assert_eq!(quotient, a);
        assert!(rest.is_zero());
        assert_eq!(product.gcd(&a).primitive(), a.primitive());
    }
}
