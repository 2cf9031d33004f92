//! Complex values as two real trees.

use num_rational::BigRational;
use num_traits::{Signed, ToPrimitive, Zero};

use crate::exact::exact_value;
use crate::tree::{Constant, Expr, Function, Joint};
use crate::value::sign_of_constant;

/// Real and imaginary part.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ComplexParts {
    pub re: Expr,
    pub im: Expr,
}

fn zero() -> Expr {
    Expr::whole(0)
}

fn is_zero(e: &Expr) -> bool {
    exact_value(e).is_some_and(|v| v.is_zero())
}

impl ComplexParts {
    fn real(re: Expr) -> Self {
        Self { re, im: zero() }
    }

    fn is_real(&self) -> bool {
        is_zero(&self.im)
    }

    fn plus(self, other: Self, minus: bool) -> Self {
        let join = |a: Expr, b: Expr| match (is_zero(&a), is_zero(&b), minus) {
            (_, true, _) => a,
            (true, _, false) => b,
            (true, _, true) => b.negate(),
            (_, _, false) => a.plus(b),
            (_, _, true) => a.minus(b),
        };
        Self {
            re: join(self.re, other.re),
            im: join(self.im, other.im),
        }
    }

    fn times(self, other: &Self) -> Self {
        let product = |a: &Expr, b: &Expr| {
            if is_zero(a) || is_zero(b) {
                zero()
            } else {
                a.clone().times(b.clone())
            }
        };
        let real = Self {
            re: product(&self.re, &other.re),
            im: product(&self.re, &other.im),
        };
        let cross = Self {
            re: product(&self.im, &other.im).negate(),
            im: product(&self.im, &other.re),
        };
        real.plus(cross, false)
    }

    fn over(self, other: &Self) -> Self {
        if other.is_real() {
            let part = |e: Expr| if is_zero(&e) { e } else { e.over(other.re.clone()) };
            // A division by zero has to stay visible in the real part.
            return Self {
                re: self.re.over(other.re.clone()),
                im: part(self.im),
            };
        }
        let conjugate = Self {
            re: other.re.clone(),
            im: other.im.clone().negate(),
        };
        let size = other.square();
        let top = self.times(&conjugate);
        Self {
            re: top.re.over(size.clone()),
            im: top.im.over(size),
        }
    }

    /// `re² + im²`.
    fn square(&self) -> Expr {
        let square = |e: &Expr| Expr::power(e.clone(), Expr::whole(2));
        if self.is_real() {
            square(&self.re)
        } else {
            square(&self.re).plus(square(&self.im))
        }
    }

    fn size(&self) -> Expr {
        Expr::call(Function::Sqrt, self.square())
    }
}

/// Splits a tree in which `i` may occur into its real and imaginary part, variables being real. `None` where a
/// function of a complex value is not known here.
pub fn split_complex(expr: &Expr) -> Option<ComplexParts> {
    match expr {
        Expr::Constant(Constant::I) => Some(ComplexParts {
            re: zero(),
            im: Expr::whole(1),
        }),
        Expr::Number(_) | Expr::Mixed(..) | Expr::Constant(_) | Expr::Variable(_) => {
            Some(ComplexParts::real(expr.clone()))
        }
        Expr::Negative(e) => {
            let p = split_complex(e)?;
            Some(ComplexParts {
                re: p.re.negate(),
                im: p.im.negate(),
            })
        }
        Expr::Positive(e) | Expr::Group(e) => split_complex(e),
        Expr::Sum(terms) => {
            let mut total = ComplexParts::real(zero());
            for term in terms {
                total = total.plus(split_complex(&term.expr)?, term.minus);
            }
            Some(total)
        }
        Expr::Product(factors) => {
            let mut total = ComplexParts::real(Expr::whole(1));
            for (i, factor) in factors.iter().enumerate() {
                let part = split_complex(&factor.expr)?;
                total = match (i, factor.joint) {
                    (0, _) => part,
                    (_, Joint::Over) => total.over(&part),
                    _ => total.times(&part),
                };
            }
            Some(total)
        }
        Expr::Power(base, exponent) => power(base, exponent),
        Expr::Call(function, args) => call(*function, args),
        Expr::Factorial(e) => {
            let p = split_complex(e)?;
            p.is_real()
                .then(|| ComplexParts::real(Expr::Factorial(Box::new(p.re))))
        }
        Expr::Percent(e) => Some(split_complex(e)?.over(&ComplexParts::real(Expr::whole(100)))),
        Expr::Degrees(e) => {
            let p = split_complex(e)?;
            p.is_real()
                .then(|| ComplexParts::real(Expr::Degrees(Box::new(p.re))))
        }
    }
}

fn power(base: &Expr, exponent: &Expr) -> Option<ComplexParts> {
    let power = split_complex(exponent)?;
    if matches!(base.bare(), Expr::Constant(Constant::E)) {
        return Some(exp(power));
    }
    let base = split_complex(base)?;
    let rational = if power.is_real() {
        exact_value(&power.re)
    } else {
        None
    };
    if let Some(n) = rational.as_ref().filter(|n| n.is_integer() && !base.is_real()) {
        let size = n.numer().abs().to_u32().filter(|n| *n <= 32)?;
        let mut product = ComplexParts::real(Expr::whole(1));
        for _ in 0..size {
            product = product.times(&base);
        }
        return Some(if n.is_negative() {
            ComplexParts::real(Expr::whole(1)).over(&product)
        } else {
            product
        });
    }
    if base.is_real() && power.is_real() {
        let half = rational
            .as_ref()
            .is_some_and(|r| *r == BigRational::new(1.into(), 2.into()));
        let even = rational.as_ref().is_some_and(|r| (r.denom() % 2i32).is_zero());
        let negative = !base.re.has_variable()
            && sign_of_constant(&base.re).is_ok_and(|(s, _)| s == std::cmp::Ordering::Less);
        if half && negative {
            return call_root(&base);
        }
        if !(even && negative) {
            return Some(ComplexParts::real(Expr::power(base.re, power.re)));
        }
    }
    if rational.is_some_and(|r| r == BigRational::new(1.into(), 2.into())) {
        return call_root(&base);
    }
    // z^w = exp(w ln z), the principal value.
    Some(exp(power.times(&ln(&base)?)))
}

fn exp(p: ComplexParts) -> ComplexParts {
    let size = Expr::power(Expr::Constant(Constant::E), p.re.clone());
    if p.is_real() {
        return ComplexParts::real(size);
    }
    let unit = is_zero(&p.re);
    let scale = |e: Expr| if unit { e } else { size.clone().times(e) };
    ComplexParts {
        re: scale(Expr::call(Function::Cos, p.im.clone())),
        im: scale(Expr::call(Function::Sin, p.im)),
    }
}

/// ln|z| + i arg z for a constant z.
fn ln(z: &ComplexParts) -> Option<ComplexParts> {
    let im = argument(z)?;
    Some(ComplexParts {
        re: Expr::call(Function::Ln, z.size()),
        im,
    })
}

/// The principal argument of a constant.
fn argument(z: &ComplexParts) -> Option<Expr> {
    use std::cmp::Ordering as O;
    if z.re.has_variable() || z.im.has_variable() {
        return None;
    }
    let (re, im) = (sign_of_constant(&z.re).ok()?.0, sign_of_constant(&z.im).ok()?.0);
    let pi = Expr::Constant(Constant::Pi);
    let slope = || Expr::call(Function::Arctan, z.im.clone().over(z.re.clone()));
    Some(match (re, im) {
        (O::Greater, O::Equal) => zero(),
        (O::Less, O::Equal) => pi,
        (O::Equal, O::Greater) => pi.over(Expr::whole(2)),
        (O::Equal, O::Less) => pi.over(Expr::whole(-2)),
        (O::Equal, O::Equal) => return None,
        (O::Greater, _) => slope(),
        (O::Less, O::Greater) => slope().plus(pi),
        (O::Less, O::Less) => slope().minus(pi),
    })
}

/// The principal square root of a constant.
fn call_root(z: &ComplexParts) -> Option<ComplexParts> {
    use std::cmp::Ordering as O;
    let root = |e: Expr| Expr::call(Function::Sqrt, e);
    if z.is_real() {
        if z.re.has_variable() {
            return Some(ComplexParts::real(root(z.re.clone())));
        }
        return Some(match sign_of_constant(&z.re).ok()?.0 {
            O::Less => ComplexParts {
                re: zero(),
                im: root(z.re.clone().negate()),
            },
            _ => ComplexParts::real(root(z.re.clone())),
        });
    }
    if z.re.has_variable() || z.im.has_variable() {
        return None;
    }
    let two = Expr::whole(2);
    let re = root(z.size().plus(z.re.clone()).over(two.clone()));
    let im = root(z.size().minus(z.re.clone()).over(two));
    let negative = sign_of_constant(&z.im).ok()?.0 == O::Less;
    Some(ComplexParts {
        re,
        im: if negative { im.negate() } else { im },
    })
}

fn call(function: Function, args: &[Expr]) -> Option<ComplexParts> {
    use Function as F;
    let parts = args.iter().map(split_complex).collect::<Option<Vec<_>>>()?;
    let first = parts.first()?;
    match function {
        F::Abs if !first.is_real() => return Some(ComplexParts::real(first.size())),
        F::Exp => return Some(exp(first.clone())),
        F::Sqrt => return call_root(first),
        F::Ln if !first.re.has_variable() => {
            let negative = sign_of_constant(&first.re).is_ok_and(|(s, _)| s == std::cmp::Ordering::Less);
            if !first.is_real() || negative {
                return ln(first);
            }
        }
        F::Sin | F::Cos if !first.is_real() => {
            let (x, y) = (first.re.clone(), first.im.clone());
            let c = |f, e: &Expr| Expr::call(f, e.clone());
            return Some(if function == F::Sin {
                ComplexParts {
                    re: c(F::Sin, &x).times(c(F::Cosh, &y)),
                    im: c(F::Cos, &x).times(c(F::Sinh, &y)),
                }
            } else {
                ComplexParts {
                    re: c(F::Cos, &x).times(c(F::Cosh, &y)),
                    im: c(F::Sin, &x).times(c(F::Sinh, &y)).negate(),
                }
            });
        }
        _ => {}
    }
    if parts.iter().all(ComplexParts::is_real) {
        let real = parts.into_iter().map(|p| p.re).collect();
        return Some(ComplexParts::real(Expr::Call(function, real)));
    }
    None
}
