//! Trees → normal form.

mod functions;
mod waves;

use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::exact::exact_value;
use crate::normal::{Atom, Exponent, Fraction, Kernel, Normaliser, Outcome, Poly, SparseTerms, Stop};
use crate::tree::{Constant, Expr, Joint};

fn half() -> BigRational {
    BigRational::new(1.into(), 2.into())
}

impl Normaliser {
    /// The normal form of a tree.
    pub(crate) fn fraction(&mut self, expr: &Expr) -> Outcome<Fraction> {
        self.spend(1)?;
        match expr {
            Expr::Number(l) => {
                if crate::exact::bits(&l.value) > crate::limits::MAX_COEFFICIENT_BITS {
                    return Err(Stop::TooBig);
                }
                Ok(Fraction::constant(l.value.clone()))
            }
            Expr::Mixed(..) => exact_value(expr).map(Fraction::constant).ok_or(Stop::NoValue),
            Expr::Constant(c) => self.constant(*c),
            Expr::Variable(name) => {
                let id = self.intern(Kernel::Variable(name.clone()));
                Ok(Fraction::poly(Poly::kernel(id, Exponent::one())))
            }
            Expr::Negative(e) => {
                let f = self.fraction(e)?;
                Ok(Fraction {
                    top: f.top.negated(),
                    bottom: f.bottom,
                })
            }
            Expr::Positive(e) | Expr::Group(e) => self.fraction(e),
            Expr::Sum(terms) => {
                let mut total = Fraction::constant(BigRational::zero());
                for term in terms {
                    let f = self.fraction(&term.expr)?;
                    let f = if term.minus {
                        Fraction {
                            top: f.top.negated(),
                            bottom: f.bottom,
                        }
                    } else {
                        f
                    };
                    total = self.add_fractions(&total, &f)?;
                }
                Ok(total)
            }
            Expr::Product(factors) => {
                let mut total = Fraction::constant(BigRational::one());
                for factor in factors {
                    let f = self.fraction(&factor.expr)?;
                    let f = if factor.joint == Joint::Over {
                        self.invert(&f)?
                    } else {
                        f
                    };
                    total = self.mul_fractions(&total, &f)?;
                }
                Ok(total)
            }
            Expr::Power(base, exponent) => self.power(base, exponent),
            Expr::Percent(e) => {
                let f = self.fraction(e)?;
                Ok(Fraction {
                    top: f.top.scaled(&BigRational::new(1.into(), 100.into())),
                    bottom: f.bottom,
                })
            }
            Expr::Degrees(e) => {
                let f = self.fraction(e)?;
                let pi = self.constant(Constant::Pi)?;
                let f = self.mul_fractions(&f, &pi)?;
                Ok(Fraction {
                    top: f.top.scaled(&BigRational::new(1.into(), 180.into())),
                    bottom: f.bottom,
                })
            }
            Expr::Factorial(e) => {
                if let Some(v) = exact_value(expr) {
                    return Ok(Fraction::constant(v));
                }
                let f = self.fraction(e)?;
                let id = self.intern(Kernel::Factorial(f));
                Ok(Fraction::poly(Poly::kernel(id, Exponent::one())))
            }
            Expr::Call(function, args) => self.call(*function, args),
        }
    }

    fn constant(&mut self, c: Constant) -> Outcome<Fraction> {
        let kernel = match c {
            Constant::Pi => Kernel::Pi,
            Constant::E => Kernel::Exp(Atom::Monomial(Vec::new())),
            Constant::I => Kernel::I,
            Constant::Infinity => return Err(Stop::TooBig),
        };
        let id = self.intern(kernel);
        Ok(Fraction::poly(Poly::kernel(id, Exponent::one())))
    }

    fn power(&mut self, base: &Expr, exponent: &Expr) -> Outcome<Fraction> {
        let e = self.fraction(exponent)?;
        if let Some(r) = e.as_constant() {
            return self.constant_power(base, &r);
        }
        if matches!(base.bare(), Expr::Constant(Constant::E)) {
            return self.exp(&e);
        }
        let b = self.fraction(base)?;
        let whole = exponent.variables().iter().any(|v| self.whole.contains(v));
        let safe = !whole || self.is_surely_positive(&b);
        if safe {
            let ln = self.ln_abs(&b)?;
            let product = self.mul_fractions(&e, &ln)?;
            return self.exp(&product);
        }
        let id = self.intern(Kernel::Power(b, e));
        Ok(Fraction::poly(Poly::kernel(id, Exponent::one())))
    }

    fn constant_power(&mut self, base: &Expr, r: &BigRational) -> Outcome<Fraction> {
        // (b^n)^r with n even and r an even root is |b|^(nr).
        if r.denom().is_even()
            && let Expr::Power(inner, n) = base.bare()
            && let Some(n) = exact_value(n).filter(|n| n.is_integer() && n.numer().is_even())
        {
            let inner = self.fraction(inner)?;
            let size = self.abs(&inner)?;
            return self.power_rational(&size, &(n * r));
        }
        // With both odd it is b^(nr), whatever the sign of b.
        if r.denom().is_odd()
            && let Expr::Power(inner, n) = base.bare()
            && let Some(n) = exact_value(n).filter(|n| n.is_integer() && n.numer().is_odd())
            && (&n * r).is_integer()
        {
            let inner = self.fraction(inner)?;
            return self.power_rational(&inner, &(n * r));
        }
        let b = self.fraction(base)?;
        self.power_rational(&b, r)
    }

    fn is_surely_positive(&self, f: &Fraction) -> bool {
        if let Some(c) = f.as_constant() {
            return c.is_positive();
        }
        let Some((monomial, c)) = f.top.single().filter(|_| f.bottom.is_one()) else {
            return false;
        };
        c.is_positive()
            && monomial.iter().all(|(k, _)| match self.kernel(*k) {
                Some(Kernel::Variable(name)) => self.positive.contains(name),
                Some(Kernel::Pi | Kernel::Prime(_) | Kernel::Exp(_)) => true,
                _ => false,
            })
    }
}

impl Normaliser {
    /// A tree as a polynomial in its variables, if it is one: exponents by variable, and coefficients.
    pub(crate) fn polynomial(&mut self, expr: &Expr) -> Option<SparseTerms> {
        let f = self.fraction(expr).ok()?;
        if !f.bottom.is_one() {
            return None;
        }
        self.in_variables(&f.top)
    }

    pub(crate) fn in_variables(&self, poly: &Poly) -> Option<SparseTerms> {
        let mut out = Vec::new();
        for (monomial, c) in &poly.terms {
            let mut powers = Vec::new();
            for (k, e) in monomial {
                let Some(Kernel::Variable(name)) = self.kernel(*k) else {
                    return None;
                };
                let e = e.is_integer().then(|| e.to_integer().to_u32()).flatten()?;
                powers.push((name.clone(), e));
            }
            out.push((powers, c.clone()));
        }
        Some(out)
    }
}

/// A fraction as rational × one with whole, coprime coefficients on top and a positive first one.
fn scaled_out(f: &Fraction) -> (BigRational, Fraction) {
    let content = f.top.content();
    let content = if f.top.leading_is_negative() {
        -content
    } else {
        content
    };
    let unit = Fraction {
        top: f.top.scaled(&content.recip()),
        bottom: f.bottom.clone(),
    };
    (content, unit)
}
