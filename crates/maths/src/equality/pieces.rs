//! What divides the domain into parts: where something inside bars, a root or a logarithm changes its sign, another branch
//! of the same function begins.

use std::cmp::Ordering;
use std::sync::Arc;

use astro_float::BigFloat;
use num_rational::BigRational;
use num_traits::Zero;

use crate::evaluate::{Evaluator, Point};
use crate::exact::exact_value;
use crate::tree::{Expr, Function};

/// The signs of the pieces and of the variables at a point: points with the same signs lie in the same part.
pub(super) type Cell = Vec<i8>;

/// The sign of a piece that can't be told.
pub(super) const UNKNOWN: i8 = 2;
/// Pieces that are told apart; so many make more parts than anyone's answer has.
const MOST_PIECES: usize = 8;

/// How the domain is divided.
pub(super) struct Parts {
    pieces: Vec<Expr>,
    names: Vec<Arc<str>>,
}

impl Parts {
    pub fn none() -> Self {
        Parts {
            pieces: Vec::new(),
            names: Vec::new(),
        }
    }

    pub fn of(key: &Expr, entry: &Expr, names: &[Arc<str>]) -> Self {
        let mut pieces: Vec<Expr> = Vec::new();
        gather_pieces(key, &mut pieces);
        gather_pieces(entry, &mut pieces);
        let mut different: Vec<Expr> = Vec::new();
        for piece in pieces {
            if !different.contains(&piece) && different.len() < MOST_PIECES {
                different.push(piece);
            }
        }
        let names = names.iter().take(3).cloned().collect();
        Parts {
            pieces: different,
            names,
        }
    }

    pub fn cell(&self, point: &Point, whole: &dyn Fn(&str) -> bool) -> Cell {
        let mut evaluator = Evaluator::<f64>::new(point, whole, 53);
        let mut signs = Cell::with_capacity(self.pieces.len() + self.names.len());
        // What is too large or too small for the fast numbers belongs to the same part all the same.
        let longer = |piece: &Expr| {
            let mut evaluator = Evaluator::<BigFloat>::new(point, whole, 192);
            evaluator.interval(piece).ok().and_then(|v| v.sign(&evaluator.cx))
        };
        for piece in &self.pieces {
            let fast = evaluator.interval(piece).ok().and_then(|v| v.sign(&evaluator.cx));
            let sign = fast.or_else(|| longer(piece));
            signs.push(match sign {
                Some(Ordering::Less) => -1,
                Some(Ordering::Equal) => 0,
                Some(Ordering::Greater) => 1,
                None => UNKNOWN,
            });
        }
        let zero = BigRational::zero();
        let side = |name: &Arc<str>| point.get(name).map_or(2, |v| v.cmp(&zero) as i8);
        signs.extend(self.names.iter().map(side));
        signs
    }
}

pub(super) fn gather_literals(expr: &Expr, into: &mut Vec<BigRational>) {
    if let Expr::Number(l) = expr {
        into.push(l.value.clone());
    }
    for child in expr.children() {
        gather_literals(child, into);
    }
}

/// What stands inside bars, roots, logarithms, and the differences min and max decide by.
pub(super) fn gather_pieces(expr: &Expr, into: &mut Vec<Expr>) {
    use Function as F;
    match expr {
        Expr::Call(F::Abs | F::Sqrt | F::Cbrt | F::Ln | F::Log, args) => {
            into.extend(args.first().filter(|a| a.has_variable()).cloned());
        }
        Expr::Call(F::Root | F::LogBase, args) => {
            into.extend(args.get(1).filter(|a| a.has_variable()).cloned());
        }
        Expr::Call(F::Min | F::Max, args) => {
            for pair in args.windows(2) {
                if let [a, b] = pair {
                    into.push(a.clone().minus(b.clone()));
                }
            }
        }
        Expr::Power(base, e) if exact_value(e).is_none_or(|r| !r.is_integer()) && base.has_variable() => {
            into.push((**base).clone());
        }
        _ => {}
    }
    for child in expr.children() {
        gather_pieces(child, into);
    }
}
