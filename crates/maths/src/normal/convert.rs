//! Trees → normal form.

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use super::{Atom, Exponent, Fraction, Kernel, Monomial, Normaliser, Outcome, Poly, SparseTerms, Stop};
use crate::exact::exact_value;
use crate::tree::{Constant, Expr, Function, Joint};

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

    /// e^f: each term of the exponent is a kernel of its own.
    pub(crate) fn exp(&mut self, f: &Fraction) -> Outcome<Fraction> {
        if !f.bottom.is_one() {
            let (scale, unit) = scaled_out(f);
            let id = self.intern(Kernel::Exp(Atom::Fraction(unit)));
            return Ok(Fraction::poly(Poly::kernel(id, Self::exponent(&scale)?)));
        }
        let mut out = Fraction::constant(BigRational::one());
        for (monomial, coefficient) in f.top.terms.clone() {
            let r = Self::exponent(&coefficient)?;
            let factor = match self.logarithm_alone(&monomial) {
                Some(inside) => self.abs_power(&inside, &r)?,
                None => {
                    let id = self.intern(Kernel::Exp(Atom::Monomial(monomial)));
                    Fraction::poly(Poly::kernel(id, r))
                }
            };
            out = self.mul_fractions(&out, &factor)?;
        }
        Ok(out)
    }

    fn logarithm_alone(&self, monomial: &Monomial) -> Option<Poly> {
        match monomial.as_slice() {
            [(k, e)] if e.is_one() => match self.kernel(*k) {
                Some(Kernel::LnAbs(p)) => Some(p.clone()),
                _ => None,
            },
            _ => None,
        }
    }

    /// e^(if).
    fn cis(&mut self, f: &Fraction) -> Outcome<Fraction> {
        if !f.bottom.is_one() {
            let (scale, unit) = scaled_out(f);
            let id = self.intern(Kernel::Cis(Atom::Fraction(unit)));
            return Ok(Fraction::poly(Poly::kernel(id, Self::exponent(&scale)?)));
        }
        let pi = self.intern(Kernel::Pi);
        let mut out = Fraction::constant(BigRational::one());
        for (monomial, coefficient) in f.top.terms.clone() {
            let factor = if monomial == vec![(pi, Exponent::one())] {
                let id = self.intern(Kernel::HalfTurn);
                // Whole turns go first, so that the exponent is small whatever was typed.
                let two = BigRational::from(BigInt::from(2));
                let r = &coefficient - (&coefficient / &two).floor() * &two;
                let turn = Poly::kernel(id, Self::exponent(&r)?);
                Fraction::poly(self.reduced(turn)?)
            } else if coefficient.is_integer()
                && coefficient.numer().is_even()
                && self.is_whole_turns(&monomial, pi)
            {
                Fraction::constant(BigRational::one())
            } else if let Some(arc) = self.arc_alone(&monomial, &coefficient)? {
                arc
            } else {
                let id = self.intern(Kernel::Cis(Atom::Monomial(monomial)));
                Fraction::poly(Poly::kernel(id, Self::exponent(&coefficient)?))
            };
            out = self.mul_fractions(&out, &factor)?;
        }
        Ok(out)
    }

    /// π times whole numbers.
    fn is_whole_turns(&self, monomial: &Monomial, pi: u32) -> bool {
        let counts = |(k, e): &(u32, Exponent)| match self.kernel(*k) {
            _ if *k == pi => e.is_one(),
            Some(Kernel::Variable(name)) => self.whole.contains(name) && e.is_integer() && e.is_positive(),
            _ => false,
        };
        monomial.len() > 1 && monomial.iter().any(|(k, _)| *k == pi) && monomial.iter().all(counts)
    }

    /// e^(in·arcsin u) = (√(1−u²) + iu)^n, e^(in·arctan u) = ((1 + iu)/√(1+u²))^n.
    fn arc_alone(&mut self, monomial: &Monomial, n: &BigRational) -> Outcome<Option<Fraction>> {
        let (function, u) = match monomial.as_slice() {
            [(k, e)] if e.is_one() => match self.kernel(*k) {
                Some(Kernel::Call(f @ (Function::Arcsin | Function::Arctan), args)) => match args.first() {
                    Some(u) => (*f, u.clone()),
                    None => return Ok(None),
                },
                _ => return Ok(None),
            },
            _ => return Ok(None),
        };
        if !n.is_integer() || n.numer().abs() > BigInt::from(8) {
            return Ok(None);
        }
        let one = Fraction::constant(BigRational::one());
        let i = self.constant(Constant::I)?;
        let iu = self.mul_fractions(&i, &u)?;
        let square = self.mul_fractions(&u, &u)?;
        let unit = if function == Function::Arcsin {
            let rest = Fraction {
                top: square.top.negated(),
                bottom: square.bottom,
            };
            let rest = self.add_fractions(&one, &rest)?;
            let root = self.power_rational(&rest, &half())?;
            self.add_fractions(&root, &iu)?
        } else {
            let rest = self.add_fractions(&one, &square)?;
            let root = self.power_rational(&rest, &half())?;
            let root = self.invert(&root)?;
            let top = self.add_fractions(&one, &iu)?;
            self.mul_fractions(&top, &root)?
        };
        if n.is_negative() {
            // The unit has size 1: its inverse is its conjugate, with iu negative.
            let flipped = self.invert(&unit)?;
            return self.power_whole(&flipped, &n.numer().abs()).map(Some);
        }
        self.power_whole(&unit, n.numer()).map(Some)
    }

    /// (cos u, sin u).
    fn waves(&mut self, f: &Fraction) -> Outcome<(Fraction, Fraction)> {
        let up = self.cis(f)?;
        let minus = Fraction {
            top: f.top.negated(),
            bottom: f.bottom.clone(),
        };
        let down = self.cis(&minus)?;
        let scale = |f: Fraction, by: &BigRational| Fraction {
            top: f.top.scaled(by),
            bottom: f.bottom,
        };
        let sum = self.add_fractions(&up, &down)?;
        let difference = self.add_fractions(&up, &scale(down, &-BigRational::one()))?;
        let i = self.constant(Constant::I)?;
        let sin = self.mul_fractions(&difference, &i)?;
        Ok((scale(sum, &half()), scale(sin, &-half())))
    }

    fn call(&mut self, function: Function, args: &[Expr]) -> Outcome<Fraction> {
        use Function as F;
        let (Some(first), second) = (args.first(), args.get(1)) else {
            return Err(Stop::TooBig);
        };
        match (function, second) {
            (F::Sqrt, _) => self.constant_power(first, &half()),
            (F::Cbrt, _) => self.constant_power(first, &BigRational::new(1.into(), 3.into())),
            (F::Root, Some(x)) => match exact_value(first) {
                Some(k) if k.is_integer() && !k.is_zero() => self.constant_power(x, &k.recip()),
                _ => Err(Stop::TooBig),
            },
            (F::Ln, _) => self.ln(first),
            (F::Log, _) => self.log(&Expr::whole(10), first),
            (F::LogBase, Some(x)) => self.log(first, x),
            (F::Exp, _) => {
                let f = self.fraction(first)?;
                self.exp(&f)
            }
            (F::Abs, _) => {
                let f = self.fraction(first)?;
                self.abs(&f)
            }
            (F::Min | F::Max, _) => self.extreme(function, args),
            _ => {
                let f = self.fraction(first)?;
                self.call_one(function, &f)
            }
        }
    }

    fn call_one(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
        use Function as F;
        match function {
            F::Sin | F::Cos | F::Tan | F::Sec | F::Csc | F::Cot => {
                let (cos, sin) = self.waves(f)?;
                self.ratio_of(function, &cos, &sin)
            }
            F::Sinh | F::Cosh | F::Tanh | F::Sech | F::Csch | F::Coth => self.hyperbolic(function, f),
            F::Arccos => {
                let arcsin = self.call_one(F::Arcsin, f)?;
                self.quarter_turn_less(&arcsin)
            }
            F::Arccot => {
                let arctan = self.call_one(F::Arctan, f)?;
                self.quarter_turn_less(&arctan)
            }
            F::Arcsec => {
                let r = self.invert(f)?;
                self.call_one(F::Arccos, &r)
            }
            F::Arccsc => {
                let r = self.invert(f)?;
                self.call_one(F::Arcsin, &r)
            }
            F::Arsinh | F::Arcosh | F::Artanh => self.inverse_hyperbolic(function, f),
            _ => self.opaque(function, f),
        }
    }

    /// A function without rules here: odd ones lose a leading minus.
    fn opaque(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
        let odd = matches!(function, Function::Arcsin | Function::Arctan);
        if odd && f.top.is_zero() {
            return Ok(Fraction::constant(BigRational::zero()));
        }
        if odd && f.top.leading_is_negative() {
            let plus = Fraction {
                top: f.top.negated(),
                bottom: f.bottom.clone(),
            };
            let id = self.intern(Kernel::Call(function, vec![plus]));
            return Ok(Fraction::poly(Poly::kernel(id, Exponent::one()).negated()));
        }
        let id = self.intern(Kernel::Call(function, vec![f.clone()]));
        Ok(Fraction::poly(Poly::kernel(id, Exponent::one())))
    }

    fn ratio_of(&mut self, function: Function, cos: &Fraction, sin: &Fraction) -> Outcome<Fraction> {
        use Function as F;
        let one = Fraction::constant(BigRational::one());
        let (top, bottom) = match function {
            F::Sin => return Ok(sin.clone()),
            F::Cos => return Ok(cos.clone()),
            F::Tan => (sin, cos),
            F::Cot => (cos, sin),
            F::Sec => (&one, cos),
            _ => (&one, sin),
        };
        let inverse = self.invert(bottom)?;
        self.mul_fractions(top, &inverse)
    }

    fn hyperbolic(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
        use Function as F;
        let up = self.exp(f)?;
        let down = self.invert(&up)?;
        let minus = Fraction {
            top: down.top.negated(),
            bottom: down.bottom.clone(),
        };
        let scale = |f: Fraction| Fraction {
            top: f.top.scaled(&half()),
            bottom: f.bottom,
        };
        let cosh = scale(self.add_fractions(&up, &down)?);
        let sinh = scale(self.add_fractions(&up, &minus)?);
        let as_wave = match function {
            F::Sinh => F::Sin,
            F::Cosh => F::Cos,
            F::Tanh => F::Tan,
            F::Sech => F::Sec,
            F::Csch => F::Csc,
            _ => F::Cot,
        };
        self.ratio_of(as_wave, &cosh, &sinh)
    }

    fn inverse_hyperbolic(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
        let one = Fraction::constant(BigRational::one());
        let minus = Fraction {
            top: f.top.negated(),
            bottom: f.bottom.clone(),
        };
        if function == Function::Artanh {
            let (top, bottom) = (self.add_fractions(&one, f)?, self.add_fractions(&one, &minus)?);
            let bottom = self.invert(&bottom)?;
            let ratio = self.mul_fractions(&top, &bottom)?;
            let ln = self.ln_abs(&ratio)?;
            return Ok(Fraction {
                top: ln.top.scaled(&half()),
                bottom: ln.bottom,
            });
        }
        let sign = if function == Function::Arcosh {
            -BigRational::one()
        } else {
            BigRational::one()
        };
        let square = self.mul_fractions(f, f)?;
        let inside = self.add_fractions(&square, &Fraction::constant(sign))?;
        let root = self.power_rational(&inside, &half())?;
        let sum = self.add_fractions(f, &root)?;
        self.ln_abs(&sum)
    }

    fn quarter_turn_less(&mut self, f: &Fraction) -> Outcome<Fraction> {
        let pi = self.constant(Constant::Pi)?;
        let quarter = Fraction {
            top: pi.top.scaled(&half()),
            bottom: pi.bottom,
        };
        let minus = Fraction {
            top: f.top.negated(),
            bottom: f.bottom.clone(),
        };
        self.add_fractions(&quarter, &minus)
    }

    /// The logarithm walks through products and powers as typed, before they are multiplied out.
    fn ln(&mut self, expr: &Expr) -> Outcome<Fraction> {
        match expr.bare() {
            Expr::Product(factors) => {
                let mut total = Fraction::constant(BigRational::zero());
                for factor in factors {
                    let part = self.ln(&factor.expr)?;
                    let part = if factor.joint == Joint::Over {
                        Fraction {
                            top: part.top.negated(),
                            bottom: part.bottom,
                        }
                    } else {
                        part
                    };
                    total = self.add_fractions(&total, &part)?;
                }
                Ok(total)
            }
            Expr::Negative(e) => self.ln(e),
            Expr::Power(base, exponent) if exact_value(exponent).is_some() => {
                let ln = self.ln(base)?;
                let r = exact_value(exponent).unwrap_or_else(BigRational::one);
                Ok(Fraction {
                    top: ln.top.scaled(&r),
                    bottom: ln.bottom,
                })
            }
            Expr::Call(Function::Sqrt, args) if args.len() == 1 => {
                let ln = self.ln(args.first().ok_or(Stop::TooBig)?)?;
                Ok(Fraction {
                    top: ln.top.scaled(&half()),
                    bottom: ln.bottom,
                })
            }
            Expr::Call(Function::Abs, args) if args.len() == 1 => {
                self.ln(args.first().ok_or(Stop::TooBig)?)
            }
            other => {
                let f = self.fraction(other)?;
                self.ln_abs(&f)
            }
        }
    }

    fn log(&mut self, base: &Expr, argument: &Expr) -> Outcome<Fraction> {
        let top = self.ln(argument)?;
        let bottom = self.ln(base)?;
        let inverse = self.invert(&bottom)?;
        self.mul_fractions(&top, &inverse)
    }

    /// min and max of two: (a + b ∓ |a − b|)/2.
    fn extreme(&mut self, function: Function, args: &[Expr]) -> Outcome<Fraction> {
        let mut best: Option<Fraction> = None;
        for arg in args {
            let next = self.fraction(arg)?;
            best = Some(match best {
                None => next,
                Some(b) => {
                    let minus = Fraction {
                        top: next.top.negated(),
                        bottom: next.bottom.clone(),
                    };
                    let difference = self.add_fractions(&b, &minus)?;
                    let gap = self.abs(&difference)?;
                    let gap = if function == Function::Min {
                        Fraction {
                            top: gap.top.negated(),
                            bottom: gap.bottom,
                        }
                    } else {
                        gap
                    };
                    let sum = self.add_fractions(&b, &next)?;
                    let total = self.add_fractions(&sum, &gap)?;
                    Fraction {
                        top: total.top.scaled(&half()),
                        bottom: total.bottom,
                    }
                }
            });
        }
        best.ok_or(Stop::TooBig)
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
