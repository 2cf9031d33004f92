//! Exponentials, and sines and cosines as exponentials of what is imaginary.

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed};

use super::{half, scaled_out};
use crate::normal::{Atom, Exponent, Fraction, Kernel, Monomial, Normaliser, Outcome, Poly};
use crate::tree::{Constant, Function};

impl Normaliser {
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

    pub(super) fn logarithm_alone(&self, monomial: &Monomial) -> Option<Poly> {
        match monomial.as_slice() {
            [(k, e)] if e.is_one() => match self.kernel(*k) {
                Some(Kernel::LnAbs(p)) => Some(p.clone()),
                _ => None,
            },
            _ => None,
        }
    }

    /// e^(if).
    pub(super) fn cis(&mut self, f: &Fraction) -> Outcome<Fraction> {
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
    pub(super) fn is_whole_turns(&self, monomial: &Monomial, pi: u32) -> bool {
        let counts = |(k, e): &(u32, Exponent)| match self.kernel(*k) {
            _ if *k == pi => e.is_one(),
            Some(Kernel::Variable(name)) => self.whole.contains(name) && e.is_integer() && e.is_positive(),
            _ => false,
        };
        monomial.len() > 1 && monomial.iter().any(|(k, _)| *k == pi) && monomial.iter().all(counts)
    }

    /// e^(in·arcsin u) = (√(1−u²) + iu)^n, e^(in·arctan u) = ((1 + iu)/√(1+u²))^n.
    pub(super) fn arc_alone(&mut self, monomial: &Monomial, n: &BigRational) -> Outcome<Option<Fraction>> {
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
    pub(super) fn waves(&mut self, f: &Fraction) -> Outcome<(Fraction, Fraction)> {
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
}
