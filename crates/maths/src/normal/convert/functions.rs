//! The other functions.

use num_rational::BigRational;
use num_traits::{One, Zero};

use super::half;
use crate::exact::exact_value;
use crate::normal::{Exponent, Fraction, Kernel, Normaliser, Outcome, Poly, Stop};
use crate::tree::{Constant, Expr, Function, Joint};

impl Normaliser {
    pub(super) fn call(&mut self, function: Function, args: &[Expr]) -> Outcome<Fraction> {
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

    pub(super) fn call_one(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
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
    pub(super) fn opaque(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
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

    pub(super) fn ratio_of(
        &mut self,
        function: Function,
        cos: &Fraction,
        sin: &Fraction,
    ) -> Outcome<Fraction> {
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

    pub(super) fn hyperbolic(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
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

    pub(super) fn inverse_hyperbolic(&mut self, function: Function, f: &Fraction) -> Outcome<Fraction> {
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

    pub(super) fn quarter_turn_less(&mut self, f: &Fraction) -> Outcome<Fraction> {
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
    pub(super) fn ln(&mut self, expr: &Expr) -> Outcome<Fraction> {
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

    pub(super) fn log(&mut self, base: &Expr, argument: &Expr) -> Outcome<Fraction> {
        let top = self.ln(argument)?;
        let bottom = self.ln(base)?;
        let inverse = self.invert(&bottom)?;
        self.mul_fractions(&top, &inverse)
    }

    /// min and max of two: (a + b ∓ |a − b|)/2.
    pub(super) fn extreme(&mut self, function: Function, args: &[Expr]) -> Outcome<Fraction> {
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
