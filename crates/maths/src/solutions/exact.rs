//! Equations of polynomials, fractions of them and absolute values, exactly.

use std::cmp::Ordering;
use std::sync::Arc;

use num_rational::BigRational;
use num_traits::{One, ToPrimitive, Zero};

use super::poly::{Poly, Root};
use crate::equality::{Domain, Range};
use crate::exact::exact_value;
use crate::tree::{Expr, Function, Joint};

/// Absolute values in one equation; each doubles the cases.
const MOST_BARS: usize = 4;

/// A fraction, with everything that was divided by on the way.
struct Ratio {
    top: Poly,
    bottom: Poly,
    /// Zero exactly where some division is by zero.
    divisors: Poly,
}

impl Ratio {
    fn poly(top: Poly) -> Ratio {
        let one = || Poly::constant(BigRational::one());
        Ratio {
            top,
            bottom: one(),
            divisors: one(),
        }
    }

    fn add(&self, other: &Ratio, minus: bool) -> Option<Ratio> {
        let divisors = self.divisors.mul(&other.divisors)?;
        if self.bottom == other.bottom {
            let top = self.top.add(&other.top, minus);
            return Some(Ratio {
                top,
                bottom: self.bottom.clone(),
                divisors,
            });
        }
        let top = self
            .top
            .mul(&other.bottom)?
            .add(&other.top.mul(&self.bottom)?, minus);
        Some(Ratio {
            top,
            bottom: self.bottom.mul(&other.bottom)?,
            divisors,
        })
    }

    fn mul(&self, other: &Ratio) -> Option<Ratio> {
        Some(Ratio {
            top: self.top.mul(&other.top)?,
            bottom: self.bottom.mul(&other.bottom)?,
            divisors: self.divisors.mul(&other.divisors)?,
        })
    }

    fn inverted(self) -> Option<Ratio> {
        let divisors = self.divisors.mul(&self.top)?;
        Some(Ratio {
            top: self.bottom,
            bottom: self.top,
            divisors,
        })
    }
}

/// The tree as a fraction of polynomials in the variable, if it is one.
fn ratio(expr: &Expr, variable: &str) -> Option<Ratio> {
    if !expr.mentions(variable) {
        return Some(Ratio::poly(Poly::constant(exact_value(expr)?)));
    }
    match expr {
        Expr::Variable(_) => Some(Ratio::poly(Poly::variable())),
        Expr::Positive(e) | Expr::Group(e) => ratio(e, variable),
        Expr::Negative(e) => Ratio::poly(Poly::constant(-BigRational::one())).mul(&ratio(e, variable)?),
        Expr::Percent(e) => {
            let hundredth = BigRational::new(1.into(), 100.into());
            Ratio::poly(Poly::constant(hundredth)).mul(&ratio(e, variable)?)
        }
        Expr::Sum(terms) => terms
            .iter()
            .try_fold(Ratio::poly(Poly::new(Vec::new())), |sum, term| {
                sum.add(&ratio(&term.expr, variable)?, term.minus)
            }),
        Expr::Product(factors) => factors.iter().try_fold(
            Ratio::poly(Poly::constant(BigRational::one())),
            |product, factor| {
                let next = ratio(&factor.expr, variable)?;
                product.mul(&if factor.joint == Joint::Over {
                    next.inverted()?
                } else {
                    next
                })
            },
        ),
        Expr::Power(base, exponent) => {
            let n = exact_value(exponent)
                .filter(BigRational::is_integer)?
                .to_integer()
                .to_i64()?;
            let base = ratio(base, variable)?;
            let base = if n < 0 { base.inverted()? } else { base };
            if n == 0 {
                // 0⁰ has no value.
                let one = Poly::constant(BigRational::one());
                let divisors = base.divisors.mul(&base.top)?;
                return Some(Ratio {
                    top: one.clone(),
                    bottom: one,
                    divisors,
                });
            }
            (1..n.unsigned_abs()).try_fold(
                Ratio {
                    top: base.top.clone(),
                    bottom: base.bottom.clone(),
                    divisors: base.divisors.clone(),
                },
                |power, _| power.mul(&base),
            )
        }
        _ => None,
    }
}

/// The innermost absolute value of the variable.
fn innermost_bars<'a>(expr: &'a Expr, variable: &str) -> Option<&'a Expr> {
    let inside = expr
        .children()
        .into_iter()
        .find_map(|c| innermost_bars(c, variable));
    if inside.is_some() {
        return inside;
    }
    match expr {
        Expr::Call(Function::Abs, args) => args.first().filter(|a| a.mentions(variable)),
        _ => None,
    }
}

/// The tree with the bars around `inner` taken for `by`.
fn without_bars(expr: &Expr, inner: &Expr, by: &Expr) -> Expr {
    match expr {
        Expr::Call(Function::Abs, args) if args.first() == Some(inner) => Expr::Group(Box::new(by.clone())),
        other => other.map_children(&mut |c| without_bars(c, inner, by)),
    }
}

/// All real solutions of `expr = 0` in the domain. `None` if it is not of this kind, has a stretch of solutions, or is too
/// much work.
pub(super) fn solutions(expr: &Expr, variable: &Arc<str>, domain: &Domain) -> Option<Vec<Root>> {
    let mut found = Vec::new();
    branch(expr, variable, &mut Vec::new(), &mut found)?;
    let mut kept: Vec<Root> = Vec::new();
    for root in found {
        let mut known = false;
        for other in &kept {
            known |= root.is_same(other)?;
        }
        if !known && is_allowed(&root, domain.range(variable))? {
            kept.push(root);
        }
    }
    Some(kept)
}

/// `signs`: what must not be negative for this case to hold.
fn branch(expr: &Expr, variable: &str, signs: &mut Vec<Expr>, found: &mut Vec<Root>) -> Option<()> {
    if let Some(inner) = innermost_bars(expr, variable).cloned() {
        if signs.len() == MOST_BARS {
            return None;
        }
        for case in [inner.clone(), inner.clone().negate()] {
            let opened = without_bars(expr, &inner, &case);
            signs.push(Expr::Group(Box::new(case)));
            branch(&opened, variable, signs, found)?;
            signs.pop();
        }
        return Some(());
    }
    let whole = ratio(expr, variable)?;
    if whole.top.is_zero() {
        return None;
    }
    'roots: for root in whole.top.roots()? {
        if root.sign_of(&whole.divisors)? == Ordering::Equal {
            continue;
        }
        for sign in signs.iter() {
            let sign = ratio(sign, variable)?;
            let value = sign.top.mul(&sign.bottom)?;
            if root.sign_of(&value)? == Ordering::Less {
                continue 'roots;
            }
        }
        found.push(root);
    }
    Some(())
}

fn is_allowed(root: &Root, range: &Range) -> Option<bool> {
    let zero = BigRational::zero();
    let to_zero = root.compare(&zero)?;
    Some(match range {
        Range::Real => true,
        Range::Positive => to_zero == Ordering::Greater,
        Range::Nonnegative => to_zero != Ordering::Less,
        Range::Integer => root.is_whole()?,
        Range::PositiveInteger => to_zero == Ordering::Greater && root.is_whole()?,
        Range::NonnegativeInteger => to_zero != Ordering::Less && root.is_whole()?,
        Range::Between(low, high) => {
            root.compare(low)? != Ordering::Less && root.compare(high)? != Ordering::Greater
        }
    })
}

/// Whether two lists hold the same numbers.
pub(super) fn are_same(a: &[Root], b: &[Root]) -> Option<bool> {
    if a.len() != b.len() {
        return Some(false);
    }
    for root in a {
        let mut here = false;
        for other in b {
            here |= root.is_same(other)?;
        }
        if !here {
            return Some(false);
        }
    }
    Some(true)
}
