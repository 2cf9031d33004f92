//! Polynomials with whole coefficients: greatest common divisors, and whether one can be factored over the rationals.

#[cfg(test)]
mod tests;

use std::collections::BTreeMap;
use std::sync::Arc;

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::normal::SparseTerms;

/// Exponents by variable, in a fixed order of variables → coefficient.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct WholePoly {
    pub terms: BTreeMap<Vec<u32>, BigInt>,
    pub variables: usize,
}

/// Past these the questions are not decided, and an entry gets the benefit of the doubt.
const MAX_DEGREE: u32 = 12;
const MAX_PRODUCTS: usize = 40_000;

impl WholePoly {
    fn zero(variables: usize) -> Self {
        Self {
            terms: BTreeMap::new(),
            variables,
        }
    }

    fn constant(value: BigInt, variables: usize) -> Self {
        let mut poly = Self::zero(variables);
        poly.add_term(vec![0; variables], value);
        poly
    }

    /// Whole coefficients without a common factor, and the rational that was taken out.
    pub fn primitive(terms: &SparseTerms, names: &[Arc<str>]) -> (Self, BigRational) {
        let denominators = terms.iter().fold(BigInt::one(), |l, (_, c)| l.lcm(c.denom()));
        let mut poly = Self::zero(names.len());
        for (powers, c) in terms {
            let mut exponents = vec![0; names.len()];
            for (name, e) in powers {
                if let Some(slot) = names
                    .iter()
                    .position(|n| n == name)
                    .and_then(|i| exponents.get_mut(i))
                {
                    *slot = *e;
                }
            }
            poly.add_term(exponents, c.numer() * (&denominators / c.denom()));
        }
        let content = poly.content();
        let scaled = poly.divided(&content);
        (scaled, BigRational::new(content, denominators))
    }

    fn add_term(&mut self, exponents: Vec<u32>, c: BigInt) {
        let slot = self.terms.entry(exponents.clone()).or_default();
        *slot += c;
        if slot.is_zero() {
            self.terms.remove(&exponents);
        }
    }

    pub fn is_zero(&self) -> bool {
        self.terms.is_empty()
    }

    pub fn is_constant(&self) -> bool {
        self.terms.keys().all(|e| e.iter().all(|x| *x == 0))
    }

    /// Greatest common divisor of the coefficients, with the sign of the last one.
    pub fn content(&self) -> BigInt {
        let gcd = self.terms.values().fold(BigInt::zero(), |g, c| g.gcd(c));
        let negative = self.terms.values().next_back().is_some_and(Signed::is_negative);
        if gcd.is_zero() {
            BigInt::one()
        } else if negative {
            -gcd
        } else {
            gcd
        }
    }

    fn divided(&self, by: &BigInt) -> Self {
        Self {
            terms: self.terms.iter().map(|(e, c)| (e.clone(), c / by)).collect(),
            variables: self.variables,
        }
    }

    fn degree(&self, v: usize) -> u32 {
        self.terms
            .keys()
            .filter_map(|e| e.get(v))
            .max()
            .copied()
            .unwrap_or(0)
    }

    pub fn total_degree(&self) -> u32 {
        self.terms.keys().map(|e| e.iter().sum()).max().unwrap_or(0)
    }

    fn times(&self, other: &Self) -> Option<Self> {
        if self.terms.len() * other.terms.len() > MAX_PRODUCTS {
            return None;
        }
        let mut out = Self::zero(self.variables);
        for (a, x) in &self.terms {
            for (b, y) in &other.terms {
                out.add_term(a.iter().zip(b).map(|(p, q)| p + q).collect(), x * y);
            }
        }
        Some(out)
    }

    fn minus(&self, other: &Self) -> Self {
        let mut out = self.clone();
        for (e, c) in &other.terms {
            out.add_term(e.clone(), -c);
        }
        out
    }

    /// Coefficients by the power of one variable, which is gone from them.
    fn by_power(&self, v: usize) -> BTreeMap<u32, Self> {
        let mut out: BTreeMap<u32, Self> = BTreeMap::new();
        for (e, c) in &self.terms {
            let mut rest = e.clone();
            let power = rest.get_mut(v).map_or(0, std::mem::take);
            out.entry(power)
                .or_insert_with(|| Self::zero(self.variables))
                .add_term(rest, c.clone());
        }
        out
    }

    fn shifted(&self, v: usize, by: u32) -> Self {
        let shift = |e: &Vec<u32>| {
            let mut e = e.clone();
            if let Some(x) = e.get_mut(v) {
                *x += by;
            }
            e
        };
        Self {
            terms: self.terms.iter().map(|(e, c)| (shift(e), c.clone())).collect(),
            variables: self.variables,
        }
    }

    /// Exact division; `None` if it does not go.
    fn exactly_by(&self, divisor: &Self) -> Option<Self> {
        let mut rest = self.clone();
        let mut quotient = Self::zero(self.variables);
        let (lead, c) = divisor.terms.iter().next_back()?;
        for _ in 0..2_000 {
            let Some((top, x)) = rest.terms.iter().next_back() else {
                return Some(quotient);
            };
            let exponents: Option<Vec<u32>> = top.iter().zip(lead).map(|(a, b)| a.checked_sub(*b)).collect();
            let (q, r) = x.div_rem(c);
            if !r.is_zero() {
                return None;
            }
            let mut term = Self::zero(self.variables);
            term.add_term(exponents?, q);
            rest = rest.minus(&term.times(divisor)?);
            for (e, c) in term.terms {
                quotient.add_term(e, c);
            }
        }
        None
    }
}

/// The greatest common divisor, up to sign. Primitive remainder sequence (Knuth, TAOCP 2, 4.6.1), recursively by
/// variable. `None` past the bounds.
pub(crate) fn gcd(a: &WholePoly, b: &WholePoly) -> Option<WholePoly> {
    if a.is_zero() {
        return Some(b.clone());
    }
    if b.is_zero() {
        return Some(a.clone());
    }
    if a.total_degree() > MAX_DEGREE || b.total_degree() > MAX_DEGREE {
        return None;
    }
    let numbers = WholePoly::constant(a.content().gcd(&b.content()), a.variables);
    let Some(v) = (0..a.variables).find(|v| a.degree(*v) > 0 || b.degree(*v) > 0) else {
        return Some(numbers);
    };
    let (content_a, content_b) = (content_in(a, v)?, content_in(b, v)?);
    let content = gcd(&content_a, &content_b)?;
    let (mut x, mut y) = (a.exactly_by(&content_a)?, b.exactly_by(&content_b)?);
    if x.degree(v) < y.degree(v) {
        std::mem::swap(&mut x, &mut y);
    }
    for _ in 0..64 {
        if y.is_zero() {
            let primitive = x.exactly_by(&content_in(&x, v)?)?;
            return primitive.times(&content);
        }
        if y.degree(v) == 0 {
            return Some(content);
        }
        let r = pseudo_remainder(&x, &y, v)?;
        x = y;
        y = if r.is_zero() {
            r
        } else {
            r.exactly_by(&content_in(&r, v)?)?
        };
    }
    None
}

/// The gcd of the coefficients, the polynomial being seen in one variable.
fn content_in(p: &WholePoly, v: usize) -> Option<WholePoly> {
    let mut content = WholePoly::zero(p.variables);
    for c in p.by_power(v).values() {
        content = gcd(&content, c)?;
    }
    Some(content)
}

fn pseudo_remainder(a: &WholePoly, b: &WholePoly, v: usize) -> Option<WholePoly> {
    let mut rest = a.clone();
    let lead = b.by_power(v).into_values().next_back()?;
    while !rest.is_zero() && rest.degree(v) >= b.degree(v) {
        let top = rest.by_power(v).into_values().next_back()?;
        let shift = rest.degree(v) - b.degree(v);
        rest = rest.times(&lead)?.minus(&b.times(&top)?.shifted(v, shift));
    }
    Some(rest)
}

/// Whether a primitive polynomial of positive degree can be factored over the rationals. `None` if not decided.
pub(crate) fn is_reducible(p: &WholePoly) -> Option<bool> {
    let used: Vec<usize> = (0..p.variables).filter(|v| p.degree(*v) > 0).collect();
    let [main, others @ ..] = used.as_slice() else {
        return Some(false);
    };
    if p.total_degree() == 1 {
        return Some(false);
    }
    for v in &used {
        if !content_in(p, *v)?.is_constant() {
            return Some(true);
        }
    }
    // Linear in some variable, with nothing to take out: it cannot be a product.
    if used.iter().any(|v| p.degree(*v) == 1) {
        return Some(false);
    }
    if others.is_empty() {
        return univariate_reducible(p, *main);
    }
    // Hilbert: an irreducible polynomial stays irreducible for most values of the other variables.
    let degree = p.degree(*main);
    let mut decided = 0;
    for round in 0..10i64 {
        let mut q = p.clone();
        for (i, v) in others.iter().enumerate() {
            let place = i64::try_from(i).unwrap_or(0);
            q = put(&q, *v, &BigInt::from(2 + round * 3 + place * 5));
        }
        if q.degree(*main) != degree {
            continue;
        }
        let content = q.content();
        match univariate_reducible(&q.divided(&content), *main) {
            Some(false) => return Some(false),
            Some(true) => decided += 1,
            None => {}
        }
    }
    (decided > 3).then_some(true)
}

fn put(p: &WholePoly, v: usize, value: &BigInt) -> WholePoly {
    let mut out = WholePoly::zero(p.variables);
    for (e, c) in &p.terms {
        let mut rest = e.clone();
        let power = rest.get_mut(v).map_or(0, std::mem::take);
        out.add_term(rest, c * num_traits::pow(value.clone(), power as usize));
    }
    out
}

/// Finds all complex roots, joins every small choice of them to a polynomial, rounds it, and divides exactly.
fn univariate_reducible(p: &WholePoly, v: usize) -> Option<bool> {
    let degree = usize::try_from(p.degree(v)).ok()?;
    if degree <= 1 {
        return Some(false);
    }
    if degree > 10 {
        return None;
    }
    let derivative = derivative(p, v);
    if gcd(p, &derivative)?.degree(v) > 0 {
        return Some(true);
    }
    let powers = p.by_power(v);
    let coefficient = |k: u32| {
        powers
            .get(&k)
            .and_then(|c| c.terms.values().next().cloned())
            .unwrap_or_default()
    };
    let lead = coefficient(u32::try_from(degree).ok()?);
    let scale = lead.to_f64()?;
    let mut monic = Vec::with_capacity(degree + 1);
    for k in 0..=degree {
        monic.push(coefficient(u32::try_from(k).ok()?).to_f64()? / scale);
    }
    let roots = all_roots(&monic)?;
    for choice in 1u32..(1 << degree) {
        let size = choice.count_ones() as usize;
        if size == 0 || size * 2 > degree {
            continue;
        }
        let mut product = vec![(scale, 0.0)];
        for (i, root) in roots.iter().enumerate() {
            if choice & (1 << i) != 0 {
                product = times_root(&product, *root);
            }
        }
        if let Some(candidate) = rounded(&product, v, p.variables)
            && p.exactly_by(&candidate.divided(&candidate.content())).is_some()
        {
            return Some(true);
        }
    }
    Some(false)
}

fn derivative(p: &WholePoly, v: usize) -> WholePoly {
    let mut out = WholePoly::zero(p.variables);
    for (e, c) in &p.terms {
        let mut lower = e.clone();
        let Some(x) = lower.get_mut(v).filter(|x| **x > 0) else {
            continue;
        };
        let factor = BigInt::from(*x);
        *x -= 1;
        out.add_term(lower, c * factor);
    }
    out
}

type Complex = (f64, f64);

fn product_of(a: Complex, b: Complex) -> Complex {
    (a.0 * b.0 - a.1 * b.1, a.0 * b.1 + a.1 * b.0)
}

/// Coefficients, highest first, times (x − root).
fn times_root(p: &[Complex], root: Complex) -> Vec<Complex> {
    let mut out = p.to_vec();
    out.push((0.0, 0.0));
    for (i, c) in p.iter().enumerate() {
        let part = product_of(*c, root);
        if let Some(slot) = out.get_mut(i + 1) {
            *slot = (slot.0 - part.0, slot.1 - part.1);
        }
    }
    out
}

fn rounded(p: &[Complex], v: usize, variables: usize) -> Option<WholePoly> {
    let mut out = WholePoly::zero(variables);
    let degree = p.len() - 1;
    for (i, (re, im)) in p.iter().enumerate() {
        let near = re.round();
        let slack = 1e-4 * re.abs().max(1.0);
        if im.abs() > slack || (re - near).abs() > slack || near.abs() > 1e12 {
            return None;
        }
        let mut exponents = vec![0; variables];
        *exponents.get_mut(v)? = u32::try_from(degree - i).ok()?;
        #[expect(clippy::cast_possible_truncation, reason = "bounded just above")]
        out.add_term(exponents, BigInt::from(near as i64));
    }
    Some(out)
}

/// Durand–Kerner, all roots at once, from monic coefficients, lowest first.
fn all_roots(monic: &[f64]) -> Option<Vec<Complex>> {
    let degree = monic.len().checked_sub(1)?;
    let reach = 1.0 + monic.iter().take(degree).fold(0.0f64, |m, c| m.max(c.abs()));
    let mut roots: Vec<Complex> = Vec::with_capacity(degree);
    for k in 0..degree {
        #[expect(clippy::cast_precision_loss, reason = "at most 10")]
        let angle = 0.4 + std::f64::consts::TAU * k as f64 / degree as f64;
        let size = reach.min(4.0) * 0.6;
        roots.push((size * libm::cos(angle), size * libm::sin(angle)));
    }
    for _ in 0..400 {
        let mut moved = 0.0f64;
        for i in 0..degree {
            let x = *roots.get(i)?;
            let value = monic.iter().rev().fold((0.0, 0.0), |acc, c| {
                let next = product_of(acc, x);
                (next.0 + c, next.1)
            });
            let mut below = (1.0, 0.0);
            for (j, other) in roots.iter().enumerate() {
                if j != i {
                    below = product_of(below, (x.0 - other.0, x.1 - other.1));
                }
            }
            let size = below.0 * below.0 + below.1 * below.1;
            if size == 0.0 {
                return None;
            }
            let step = product_of(value, (below.0 / size, -below.1 / size));
            moved = moved.max(step.0.abs() + step.1.abs());
            *roots.get_mut(i)? = (x.0 - step.0, x.1 - step.1);
        }
        if moved < 1e-14 {
            return Some(roots);
        }
    }
    Some(roots)
}
