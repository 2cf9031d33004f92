//! Whether two equations have the same real solutions.
//!
//! Polynomials, fractions of them and absolute values are decided exactly (square-free parts, Sturm's theorem). For the
//! rest, zeros between −1000 and 1000 are found where the sign changes and where the value only touches zero, and pinned
//! to 24 digits. With several variables, one at a time is solved for at values of the others.

mod exact;
mod found;
mod plain;
mod poly;

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Signed;

use crate::budget::{Budget, note_undecided};
use crate::equality::{Domain, Range};
use crate::tree::Expr;
use found::{Curve, MOST_ZEROS};
pub(crate) use poly::{Poly, Root};

/// Values of the other variables at which an equation is solved for one.
const ROUNDS: i64 = 6;

/// Whether `a = 0` and `b = 0` have the same real solutions over the domain. `None` where it cannot be told; that is noted
/// for whoever watches.
///
/// ```
/// # use maths::*;
/// # use std::sync::Arc;
/// let names = Names::new(["x"]).unwrap();
/// let tree = |t| read_expression(t, &ReadOptions::new(&names)).unwrap().tree;
/// let same = |a, b| same_solutions(&tree(a), &tree(b), names.variables(), &Domain::default());
/// assert_eq!(same("(x-2)^2", "x - 2"), Some(true));
/// assert_eq!(same("(x-2)^2", "x + 2"), Some(false));
/// ```
pub fn same_solutions(a: &Expr, b: &Expr, names: &[Arc<str>], domain: &Domain) -> Option<bool> {
    let decided = decide(a, b, names, domain);
    if decided.is_none() {
        note_undecided();
    }
    decided
}

fn decide(a: &Expr, b: &Expr, names: &[Arc<str>], domain: &Domain) -> Option<bool> {
    let used: Vec<&Arc<str>> = names.iter().filter(|n| a.mentions(n) || b.mentions(n)).collect();
    if let [only] = used.as_slice() {
        return Some(in_one_variable(a, b, only, domain)?.0);
    }
    let mut seen = 0;
    for variable in &used {
        for round in 0..ROUNDS {
            let others = used.iter().filter(|n| *n != variable).enumerate();
            let (mut left, mut right) = (a.clone(), b.clone());
            for (i, name) in others {
                let value = Expr::rational(&place(round, i, domain.range(name)));
                (left, right) = (left.substitute(name, &value), right.substitute(name, &value));
            }
            let (same, solutions) = in_one_variable(&left, &right, variable, domain)?;
            if !same {
                return Some(false);
            }
            seen += solutions;
        }
    }
    // Nowhere a solution: nothing was held against anything.
    (seen > 0).then_some(true)
}

/// Whether the solutions are the same, and how many there are.
fn in_one_variable(a: &Expr, b: &Expr, variable: &Arc<str>, domain: &Domain) -> Option<(bool, usize)> {
    let exact = |e: &Expr| exact::solutions(e, variable, domain);
    if let (Some(x), Some(y)) = (exact(a), exact(b)) {
        return Some((exact::are_same(&x, &y)?, x.len()));
    }
    if Budget::is_spent() {
        return None;
    }
    let zeros = |expr: &Expr| Curve { expr, name: variable }.zeros(domain);
    let (x, y) = (zeros(a)?, zeros(b)?);
    if x.len() > MOST_ZEROS && y.len() > MOST_ZEROS {
        return None;
    }
    if !found::are_same(&x, &y) {
        return Some((false, x.len()));
    }
    // Two that were not seen to have any are not seen to have the same.
    (!x.is_empty()).then_some((true, x.len()))
}

/// A value for a variable that is not solved for: of both signs and several sizes, as its range allows.
fn place(round: i64, i: usize, range: &Range) -> BigRational {
    let i = i64::try_from(i).unwrap_or(0);
    let n = 3 + round * 5 + i * 7;
    // Below 1 in every other round: circles and the like have solutions only there.
    let size = BigRational::new(
        BigInt::from(n),
        BigInt::from(if round % 2 == 0 { 4 + round } else { 40 + round }),
    );
    match range {
        Range::Real if round % 3 == 1 => -size,
        Range::Between(low, high) => low + (high - low) * BigRational::new((1 + round).into(), 8.into()),
        Range::Integer | Range::PositiveInteger | Range::NonnegativeInteger => {
            BigRational::from(BigInt::from(1 + round + i))
        }
        _ => size.abs(),
    }
}

#[cfg(test)]
mod tests;
