//! Where something inside bars, a root or a logarithm is zero, exactly: another branch of the same function begins there.
//! Signs at a grid of points would miss two such places between the same two points, and by luck find them.

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{FromPrimitive, One, Signed, ToPrimitive, Zero};

use super::pieces::gather_pieces;
use crate::budget::spend;
use crate::evaluate::Point;
use crate::exact::exact_value;
use crate::solutions::{Poly, Root};
use crate::tree::{Expr, Joint};

/// Pieces of one pair that are looked at.
const MOST_PIECES: usize = 16;
/// Degree of a piece whose zeros are found.
const MOST_DEGREE: usize = 16;
/// Whole powers that are multiplied out.
const MOST_POWER: i64 = 12;

/// Zeros and poles of the pieces of a pair along one variable, the others held at a point: intervals that hold one each,
/// in rising order, with room between them.
pub(super) fn breaks_along(
    key: &Expr,
    entry: &Expr,
    name: &Arc<str>,
    others: &Point,
) -> Vec<(BigRational, BigRational)> {
    let mut pieces = Vec::new();
    gather_pieces(key, &mut pieces);
    gather_pieces(entry, &mut pieces);
    let mut all = Poly::constant(BigRational::one());
    let mut seen: Vec<Poly> = Vec::new();
    for piece in pieces.iter().take(MOST_PIECES) {
        let Some((top, bottom)) = fraction(piece, name, others) else {
            continue;
        };
        for poly in [top, bottom] {
            if poly.degree() == 0 || poly.degree() > MOST_DEGREE {
                continue;
            }
            let poly = poly.square_free();
            if !seen.contains(&poly) {
                seen.push(poly);
            }
        }
    }
    // One polynomial with all zeros, so that they are told apart from each other as well.
    for poly in &seen {
        match all.mul(poly) {
            Some(product) => all = product,
            None => break,
        }
    }
    let mut roots = all.roots().unwrap_or_default();
    roots.sort_by(|a, b| a.place().0.cmp(b.place().0));
    apart(roots)
}

/// Each root in an interval of its own, small beside the gaps between them.
fn apart(mut roots: Vec<Root>) -> Vec<(BigRational, BigRational)> {
    // A zero at nought can't be told from it by its size.
    let at_nought: Vec<bool> = roots
        .iter()
        .map(|r| r.compare(&BigRational::zero()) == Some(std::cmp::Ordering::Equal))
        .collect();
    for _ in 0..60 {
        let places: Vec<(BigRational, BigRational)> = roots
            .iter()
            .map(|r| (r.place().0.clone(), r.place().1.clone()))
            .collect();
        let wide = |i: usize| {
            let Some((low, high)) = places.get(i) else {
                return false;
            };
            let width = high - low;
            let gap_before = i.checked_sub(1).and_then(|j| places.get(j)).map(|p| low - &p.1);
            let gap_after = places.get(i + 1).map(|p| &p.0 - high);
            let large = !at_nought.get(i).copied().unwrap_or(false)
                && width.clone() * BigInt::from(16) > low.abs().max(high.abs());
            let tight = |gap: Option<BigRational>| gap.is_some_and(|g| g < &width * BigInt::from(16));
            large || width > BigRational::new(1.into(), 256.into()) || tight(gap_before) || tight(gap_after)
        };
        let again: Vec<usize> = (0..places.len()).filter(|i| wide(*i)).collect();
        if again.is_empty() || !spend(40) {
            return places;
        }
        for i in again {
            if let Some(root) = roots.get_mut(i) {
                root.halve();
            }
        }
    }
    roots
        .iter()
        .map(|r| (r.place().0.clone(), r.place().1.clone()))
        .collect()
}

/// A piece as a fraction of two polynomials in one variable. Numbers that are not rational are taken as near as fast numbers
/// hold them: what is asked for are points beside a zero, not the zero.
fn fraction(expr: &Expr, name: &Arc<str>, others: &Point) -> Option<(Poly, Poly)> {
    if !spend(4) {
        return None;
    }
    let one = || Poly::constant(BigRational::one());
    if !expr.has_variable() {
        let value = match exact_value(expr) {
            Some(value) => value,
            None => BigRational::from_f64(crate::approximate(expr).ok()?)?,
        };
        return Some((Poly::constant(value), one()));
    }
    match expr {
        Expr::Group(inner) | Expr::Positive(inner) => fraction(inner, name, others),
        Expr::Negative(inner) => {
            let (top, bottom) = fraction(inner, name, others)?;
            Some((Poly::constant(BigRational::zero()).add(&top, true), bottom))
        }
        Expr::Percent(inner) => {
            let (top, bottom) = fraction(inner, name, others)?;
            Some((
                top,
                bottom.mul(&Poly::constant(BigRational::from(BigInt::from(100))))?,
            ))
        }
        Expr::Variable(mine) if mine == name => Some((Poly::variable(), one())),
        Expr::Variable(other) => Some((Poly::constant(others.get(other)?.clone()), one())),
        Expr::Sum(terms) => {
            let mut sum = (Poly::constant(BigRational::zero()), one());
            for term in terms {
                let (top, bottom) = fraction(&term.expr, name, others)?;
                let cross = (sum.0.mul(&bottom)?, top.mul(&sum.1)?);
                sum = (cross.0.add(&cross.1, term.minus), sum.1.mul(&bottom)?);
            }
            Some(sum)
        }
        Expr::Product(factors) => {
            let mut product = (one(), one());
            for factor in factors {
                let (mut top, mut bottom) = fraction(&factor.expr, name, others)?;
                if factor.joint == Joint::Over {
                    std::mem::swap(&mut top, &mut bottom);
                }
                product = (product.0.mul(&top)?, product.1.mul(&bottom)?);
            }
            Some(product)
        }
        Expr::Power(base, exponent) => {
            let exponent = exact_value(exponent)?;
            let (mut top, mut bottom) = fraction(base, name, others)?;
            // For zeros alone: of any power they are those of the base, and of a negative one its poles.
            if exponent.is_negative() {
                std::mem::swap(&mut top, &mut bottom);
            }
            let times = match exponent.abs() {
                e if e.is_integer() => e.to_integer().to_i64().filter(|n| *n <= MOST_POWER)?,
                _ => return None,
            };
            let mut raised = (one(), one());
            for _ in 0..times {
                raised = (raised.0.mul(&top)?, raised.1.mul(&bottom)?);
            }
            Some(raised)
        }
        _ => None,
    }
}

/// Places beside the breaks and between them, and on both sides of all. `low` and `high` are the ends of the domain.
pub(super) fn places_beside(
    breaks: &[(BigRational, BigRational)],
    low: Option<&BigRational>,
    high: Option<&BigRational>,
) -> Vec<BigRational> {
    let two = BigInt::from(2);
    let inside =
        |b: &&(BigRational, BigRational)| low.is_none_or(|l| b.1 >= *l) && high.is_none_or(|h| b.0 <= *h);
    let breaks: Vec<&(BigRational, BigRational)> = breaks.iter().filter(inside).collect();
    let mut places = Vec::new();
    let (Some(first), Some(last)) = (breaks.first(), breaks.last()) else {
        return places;
    };
    let size = |v: &BigRational| v.abs() / BigInt::from(64) + BigRational::new(1.into(), 64.into());
    match low {
        Some(low) => places.push((low + &first.0) / &two),
        None => places.extend([
            &first.0 - size(&first.0),
            &first.0 - BigRational::from(BigInt::from(4)),
        ]),
    }
    for pair in breaks.windows(2) {
        let [before, after] = pair else { continue };
        let gap = &after.0 - &before.1;
        // In the middle and near both ends: a branch is told from its neighbour at any of them.
        for eighths in [1, 4, 7] {
            places.push(&before.1 + &gap * BigRational::new(eighths.into(), 8.into()));
        }
    }
    match high {
        Some(high) => places.push((high + &last.1) / &two),
        None => places.extend([
            &last.1 + size(&last.1),
            &last.1 + BigRational::from(BigInt::from(4)),
            &last.1 * BigInt::from(3) + BigRational::one(),
        ]),
    }
    places
}
