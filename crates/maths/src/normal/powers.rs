//! Arithmetic of fractions; powers, roots, absolute values and logarithms in the normal form.

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use super::poly::{join, multiply_exponents};
use super::{Atom, Exponent, Fraction, Kernel, Monomial, Normaliser, Outcome, Poly, Stop};

impl Normaliser {
    pub(crate) fn add_fractions(&mut self, a: &Fraction, b: &Fraction) -> Outcome<Fraction> {
        if a.bottom == b.bottom {
            return Ok(Fraction {
                top: a.top.add(&b.top)?,
                bottom: a.bottom.clone(),
            });
        }
        let left = self.mul(&a.top, &b.bottom)?;
        let right = self.mul(&b.top, &a.bottom)?;
        Ok(Fraction {
            top: left.add(&right)?,
            bottom: self.mul(&a.bottom, &b.bottom)?,
        })
    }

    pub(crate) fn mul_fractions(&mut self, a: &Fraction, b: &Fraction) -> Outcome<Fraction> {
        if !a.bottom.is_one() && a.bottom == b.top {
            return Ok(Fraction {
                top: a.top.clone(),
                bottom: b.bottom.clone(),
            });
        }
        if !b.bottom.is_one() && b.bottom == a.top {
            return Ok(Fraction {
                top: b.top.clone(),
                bottom: a.bottom.clone(),
            });
        }
        let top = self.mul(&a.top, &b.top)?;
        let bottom = self.mul(&a.bottom, &b.bottom)?;
        self.settled(top, bottom)
    }

    pub(crate) fn invert(&mut self, a: &Fraction) -> Outcome<Fraction> {
        if self.vanishes(&a.top)? {
            return Err(Stop::NoValue);
        }
        self.settled(a.bottom.clone(), a.top.clone())
    }

    /// A bottom of one term moves up, so that most fractions are polynomials.
    fn settled(&mut self, top: Poly, bottom: Poly) -> Outcome<Fraction> {
        if bottom.is_zero() {
            return Err(Stop::NoValue);
        }
        if let Some((monomial, coefficient)) = bottom.single() {
            let inverse: Monomial = monomial.iter().map(|(k, e)| (*k, -e)).collect();
            let moved = top.shifted(&inverse)?.scaled(&coefficient.recip());
            return Ok(Fraction::poly(self.reduced(moved)?));
        }
        let content = bottom.content();
        let content = if bottom.leading_is_negative() {
            -content
        } else {
            content
        };
        Ok(Fraction {
            top: top.scaled(&content.recip()),
            bottom: bottom.scaled(&content.recip()),
        })
    }

    pub(crate) fn power_whole(&mut self, base: &Fraction, n: &BigInt) -> Outcome<Fraction> {
        let n = n.to_i64().ok_or(Stop::TooBig)?;
        if n == 0 {
            return if self.vanishes(&base.top)? {
                Err(Stop::NoValue)
            } else {
                Ok(Fraction::constant(BigRational::one()))
            };
        }
        if n < 0 {
            let flipped = self.invert(base)?;
            return self.power_whole(&flipped, &BigInt::from(-n));
        }
        let top = self.whole_power(&base.top, n)?;
        let bottom = self.whole_power(&base.bottom, n)?;
        self.settled(top, bottom)
    }

    fn whole_power(&mut self, base: &Poly, n: i64) -> Outcome<Poly> {
        if let Some((monomial, coefficient)) = base.single() {
            let c = crate::exact::whole_power(coefficient, &n.into()).ok_or(Stop::TooBig)?;
            if crate::exact::bits(&c) > crate::limits::MAX_COEFFICIENT_BITS {
                return Err(Stop::TooBig);
            }
            let mut raised = Vec::with_capacity(monomial.len());
            for (k, e) in monomial {
                raised.push((*k, multiply_exponents(e, &Exponent::from(n))?));
            }
            return self.reduced(Poly::term(raised, c));
        }
        self.whole_power_of(base, n)
    }

    /// `base^(p/q)`, real wherever the typed power is.
    pub(crate) fn power_rational(&mut self, base: &Fraction, power: &BigRational) -> Outcome<Fraction> {
        if power.is_integer() {
            return self.power_whole(base, power.numer());
        }
        let q = power.denom().to_i64().filter(|q| *q <= 64).ok_or(Stop::TooBig)?;
        let root = self.root(base, q)?;
        self.power_whole(&root, power.numer())
    }

    fn root(&mut self, of: &Fraction, q: i64) -> Outcome<Fraction> {
        if of.bottom.is_one() {
            return Ok(Fraction::poly(self.root_of_poly(&of.top, q)?));
        }
        // (n/d)^(1/q) = (n d^(q−1))^(1/q) / |d|, without the bars where q is odd.
        if q > 3 {
            return Err(Stop::TooBig);
        }
        let more = self.whole_power(&of.bottom, q - 1)?;
        let inside = self.mul(&of.top, &more)?;
        let top = Fraction::poly(self.root_of_poly(&inside, q)?);
        let bottom = if q % 2 == 0 {
            self.abs_of_poly(&of.bottom)?
        } else {
            of.bottom.clone()
        };
        let bottom = self.invert(&Fraction::poly(bottom))?;
        self.mul_fractions(&top, &bottom)
    }

    fn root_of_poly(&mut self, poly: &Poly, q: i64) -> Outcome<Poly> {
        if poly.is_zero() {
            return Ok(Poly::zero());
        }
        let odd = q.is_odd();
        let content = if odd && poly.leading_is_negative() {
            -poly.content()
        } else {
            poly.content()
        };
        let inner = poly.scaled(&content.recip());
        let scale = self.root_of_number(&content.abs(), q)?;
        let scale = if content.is_negative() {
            scale.negated()
        } else {
            scale
        };
        let root = match inner.single() {
            Some((monomial, c)) if c.is_one() => {
                let monomial = monomial.clone();
                self.root_of_monomial(&monomial, q)?
            }
            _ => {
                let (common, rest) = self.apart(&inner, |n, k, e| odd || n.never_negative(k, e))?;
                let root = self.based(&rest, q);
                if common.is_empty() {
                    root
                } else {
                    let outside = self.root_of_monomial(&common, q)?;
                    self.mul(&outside, &root)?
                }
            }
        };
        self.mul(&scale, &root)
    }

    /// What every term has as a factor, as far as it is real and wanted, and what is left.
    fn apart(
        &self,
        poly: &Poly,
        wanted: impl Fn(&Self, u32, &Exponent) -> bool,
    ) -> Outcome<(Monomial, Poly)> {
        let mut terms = poly.terms.keys();
        let Some(first) = terms.next() else {
            return Ok((Monomial::new(), poly.clone()));
        };
        let mut common = first.clone();
        for other in terms {
            let shared = |(k, e): (u32, Exponent)| {
                let (_, f) = other.iter().find(|(other, _)| *other == k)?;
                Some((k, e.min(*f)))
            };
            common = common.into_iter().filter_map(shared).collect();
        }
        common.retain(|(k, e)| {
            let real = !matches!(
                self.kernel(*k),
                Some(Kernel::I | Kernel::Cis(_) | Kernel::HalfTurn) | None
            );
            real && wanted(self, *k, e)
        });
        let inverse: Monomial = common.iter().map(|(k, e)| (*k, -e)).collect();
        let rest = poly.shifted(&inverse)?;
        Ok((common, rest))
    }

    fn based(&mut self, inner: &Poly, q: i64) -> Poly {
        let id = self.intern(Kernel::Base(inner.clone()));
        Poly::kernel(id, Exponent::new(1, q))
    }

    fn root_of_monomial(&mut self, monomial: &Monomial, q: i64) -> Outcome<Poly> {
        let mut out = Poly::one();
        let mut unsure: Monomial = Vec::new();
        for (k, e) in monomial {
            if matches!(
                self.kernel(*k),
                Some(Kernel::I | Kernel::Cis(_) | Kernel::HalfTurn) | None
            ) {
                return Err(Stop::TooBig);
            }
            let part = multiply_exponents(e, &Exponent::new(1, q))?;
            if q.is_odd() || self.never_negative(*k, e) {
                out = self.mul(&out, &Poly::kernel(*k, part))?;
            } else if e.is_integer() && e.to_integer().is_even() {
                let size = self.abs_kernel(*k)?;
                let size = self.poly_power(&size, &part)?;
                out = self.mul(&out, &size)?;
            } else {
                unsure.push((*k, *e));
            }
        }
        match unsure.as_slice() {
            [] => Ok(out),
            // x^e ≥ 0 with e odd says x ≥ 0.
            [(k, e)] => {
                let part = multiply_exponents(e, &Exponent::new(1, q))?;
                self.mul(&out, &Poly::kernel(*k, part))
            }
            _ => {
                let inner = Poly::term(unsure, BigRational::one());
                let root = self.based(&inner, q);
                self.mul(&out, &root)
            }
        }
    }

    fn poly_power(&mut self, poly: &Poly, e: &Exponent) -> Outcome<Poly> {
        let Some((monomial, c)) = poly.single().filter(|(_, c)| c.is_one()) else {
            return Err(Stop::TooBig);
        };
        let mut raised = Vec::new();
        for (k, x) in monomial {
            raised.push((*k, multiply_exponents(x, e)?));
        }
        self.reduced(Poly::term(raised, c.clone()))
    }

    /// Whether `kernel^e` cannot be negative where it has a value.
    fn never_negative(&self, k: u32, e: &Exponent) -> bool {
        if e.denom().is_even() {
            return true;
        }
        match self.kernel(k) {
            Some(Kernel::Variable(name)) => self.positive.contains(name),
            Some(Kernel::Pi | Kernel::Prime(_) | Kernel::Exp(_) | Kernel::Abs(_)) => true,
            _ => false,
        }
    }

    /// The root of a positive rational, its primes taken apart.
    fn root_of_number(&mut self, value: &BigRational, q: i64) -> Outcome<Poly> {
        let mut monomial: Monomial = Vec::new();
        let mut coefficient = BigRational::one();
        for (n, sign) in [(value.numer(), 1), (value.denom(), -1)] {
            for (p, count) in prime_factors(n)? {
                let e = Exponent::new(sign * count, q);
                if e.is_integer() {
                    let part = crate::exact::whole_power(&BigRational::from(p), &e.to_integer().into());
                    coefficient *= part.ok_or(Stop::TooBig)?;
                } else {
                    let id = self.intern(Kernel::Prime(p));
                    monomial = join(&monomial, &vec![(id, e)])?;
                }
            }
        }
        self.reduced(Poly::term(monomial, coefficient))
    }

    pub(crate) fn abs(&mut self, of: &Fraction) -> Outcome<Fraction> {
        let top = self.abs_of_poly(&of.top)?;
        let bottom = self.abs_of_poly(&of.bottom)?;
        self.settled(top, bottom)
    }

    fn abs_of_poly(&mut self, poly: &Poly) -> Outcome<Poly> {
        let Some((monomial, c)) = poly.single() else {
            if poly.is_zero() {
                return Ok(Poly::zero());
            }
            let content = if poly.leading_is_negative() {
                -poly.content()
            } else {
                poly.content()
            };
            let inner = poly.scaled(&content.recip());
            let (common, rest) = self.apart(&inner, |_, _, _| true)?;
            let id = self.intern(Kernel::Abs(rest));
            let size = Poly::kernel(id, Exponent::one()).scaled(&content.abs());
            if common.is_empty() {
                return Ok(size);
            }
            let outside = self.abs_of_poly(&Poly::term(common, BigRational::one()))?;
            return self.mul(&outside, &size);
        };
        let (monomial, c) = (monomial.clone(), c.abs());
        let mut out = Poly::constant(c);
        for (k, e) in &monomial {
            let plain = self.never_negative(*k, e) || (e.is_integer() && e.to_integer().is_even());
            let part = if plain {
                Poly::kernel(*k, *e)
            } else {
                let size = self.abs_kernel(*k)?;
                self.poly_power(&size, e)?
            };
            out = self.mul(&out, &part)?;
        }
        Ok(out)
    }

    fn abs_kernel(&mut self, k: u32) -> Outcome<Poly> {
        match self.kernel(k) {
            None | Some(Kernel::I | Kernel::Cis(_) | Kernel::HalfTurn) => Err(Stop::TooBig),
            _ if self.never_negative(k, &Exponent::one()) => Ok(Poly::kernel(k, Exponent::one())),
            _ => {
                let id = self.intern(Kernel::Abs(Poly::kernel(k, Exponent::one())));
                Ok(Poly::kernel(id, Exponent::one()))
            }
        }
    }

    /// ln|f|, taken apart into the factors that are at hand.
    pub(crate) fn ln_abs(&mut self, of: &Fraction) -> Outcome<Fraction> {
        let top = self.ln_abs_of_poly(&of.top)?;
        let bottom = self.ln_abs_of_poly(&of.bottom)?;
        Ok(Fraction::poly(top.add(&bottom.negated())?))
    }

    fn ln_abs_of_poly(&mut self, poly: &Poly) -> Outcome<Poly> {
        if poly.is_zero() {
            return Err(Stop::NoValue);
        }
        let content = poly.content();
        let content = if poly.leading_is_negative() {
            -content
        } else {
            content
        };
        let inner = poly.scaled(&content.recip());
        let mut out = self.ln_of_number(&content.abs())?;
        match inner.single() {
            Some((monomial, _)) => {
                for (k, e) in monomial.clone() {
                    let part = self.ln_abs_of_kernel(k)?;
                    let e = BigRational::new((*e.numer()).into(), (*e.denom()).into());
                    out = out.add(&part.scaled(&e))?;
                }
            }
            None => {
                let (common, rest) = self.apart(&inner, |_, _, _| true)?;
                if !common.is_empty() {
                    out = out.add(&self.ln_abs_of_poly(&Poly::term(common, BigRational::one()))?)?;
                }
                let id = self.intern(Kernel::LnAbs(rest));
                out = out.add(&Poly::kernel(id, Exponent::one()))?;
            }
        }
        Ok(out)
    }

    fn ln_abs_of_kernel(&mut self, k: u32) -> Outcome<Poly> {
        match self.kernel(k).cloned() {
            Some(Kernel::Exp(Atom::Monomial(m))) => Ok(Poly::term(m, BigRational::one())),
            Some(Kernel::Base(p) | Kernel::Abs(p)) => self.ln_abs_of_poly(&p),
            Some(Kernel::Prime(p)) => self.ln_of_number(&BigRational::from(p)),
            None | Some(Kernel::I | Kernel::Cis(_) | Kernel::HalfTurn | Kernel::Exp(_)) => Err(Stop::TooBig),
            Some(_) => {
                let id = self.intern(Kernel::LnAbs(Poly::kernel(k, Exponent::one())));
                Ok(Poly::kernel(id, Exponent::one()))
            }
        }
    }

    fn ln_of_number(&mut self, value: &BigRational) -> Outcome<Poly> {
        let mut out = Poly::zero();
        for (n, sign) in [(value.numer(), 1), (value.denom(), -1)] {
            for (p, count) in prime_factors(n)? {
                let id = self.intern(Kernel::LnAbs(Poly::constant(BigRational::from(p))));
                let c = BigRational::from(BigInt::from(sign * count));
                out = out.add(&Poly::kernel(id, Exponent::one()).scaled(&c))?;
            }
        }
        Ok(out)
    }

    /// |p|^r for the polynomial inside a logarithm.
    pub(crate) fn abs_power(&mut self, p: &Poly, r: &Exponent) -> Outcome<Fraction> {
        let power = BigRational::new((*r.numer()).into(), (*r.denom()).into());
        let even = r.is_integer() && r.to_integer().is_even();
        let base = if even { p.clone() } else { self.abs_of_poly(p)? };
        self.power_rational(&Fraction::poly(base), &power)
    }
}

/// Prime factors with their multiplicities. What is left after trial division counts as one prime.
fn prime_factors(n: &BigInt) -> Outcome<Vec<(BigInt, i64)>> {
    let mut left = n.abs();
    if left.bits() > 256 {
        return Err(Stop::TooBig);
    }
    let mut found = Vec::new();
    let mut p = 2u32;
    while p <= 1_000 && BigInt::from(p) * p <= left {
        let mut count = 0;
        loop {
            let (q, r) = left.div_rem(&BigInt::from(p));
            if !r.is_zero() {
                break;
            }
            left = q;
            count += 1;
        }
        if count > 0 {
            found.push((BigInt::from(p), count));
        }
        p += if p == 2 { 1 } else { 2 };
    }
    if !left.is_one() && !left.is_zero() {
        let root = left.sqrt();
        if &root * &root == left {
            found.push((root, 2));
        } else {
            found.push((left, 1));
        }
    }
    Ok(found)
}
