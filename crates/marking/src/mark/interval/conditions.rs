//! Inequalities that are solved, and others held against the key.

use std::cmp::Ordering;

use maths::{Constant, Expr, compare_constants};
use num_bigint::BigInt;
use num_rational::BigRational;

use super::IntervalRule;
use super::region::{End, Region, Stretch, contains, open_end};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Relation {
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Equal,
    NotEqual,
}

/// What holds between two sides.
pub(super) type Condition = (Expr, Relation, Expr);

impl IntervalRule {
    /// The region of `x < 3` or `3 > x`, the variable standing alone on one side.
    pub(super) fn solved(&self, left: &Expr, relation: Relation, right: &Expr) -> Option<Region> {
        let alone = |e: &Expr| matches!(e.bare(), Expr::Variable(_));
        let (relation, value) = match (alone(left), alone(right)) {
            (true, false) if !right.has_variable() => (relation, right.clone()),
            (false, true) if !left.has_variable() => (mirrored(relation), left.clone()),
            _ => return None,
        };
        let end = |closed: bool| match infinite(&value) {
            Some(_) => open_end(),
            None => End {
                value: Some(value.clone()),
                closed,
            },
        };
        let below = |closed| Stretch {
            low: open_end(),
            high: end(closed),
        };
        let above = |closed| Stretch {
            low: end(closed),
            high: open_end(),
        };
        Some(match relation {
            Relation::Less => vec![below(false)],
            Relation::LessEqual => vec![below(true)],
            Relation::Greater => vec![above(false)],
            Relation::GreaterEqual => vec![above(true)],
            Relation::Equal => vec![Stretch {
                low: end(true),
                high: end(true),
            }],
            Relation::NotEqual => vec![below(false), above(false)],
        })
    }

    /// Holds the unsolved inequality against the key at the key's ends, between them, beside them and beyond.
    pub(super) fn has_these_solutions(&self, alternatives: &[Vec<Condition>]) -> bool {
        let Some(variable) = &self.variable else {
            return false;
        };
        let mut places: Vec<Expr> = Vec::new();
        let ends: Vec<Expr> = self
            .key
            .iter()
            .flat_map(|s| [s.low.value.clone(), s.high.value.clone()])
            .flatten()
            .collect();
        for (i, end) in ends.iter().enumerate() {
            places.push(end.clone());
            for (n, d) in [
                (1i64, 1000i64),
                (-1, 1000),
                (1, 3),
                (-1, 3),
                (7, 2),
                (-7, 2),
                (50, 1),
                (-50, 1),
            ] {
                places.push(
                    end.clone()
                        .plus(Expr::rational(&BigRational::new(n.into(), d.into()))),
                );
            }
            if let Some(next) = ends.get(i + 1) {
                places.push(end.clone().plus(next.clone()).over(Expr::whole(2)));
            }
        }
        for n in -25..=25i64 {
            places.push(Expr::rational(&BigRational::new(
                BigInt::from(n * n * n * 7 + 1),
                BigInt::from(50),
            )));
        }
        places.iter().all(|at| {
            let holds = alternatives
                .iter()
                .any(|all| all.iter().all(|c| condition_holds(c, variable, at)));
            holds == contains(&self.key, at)
        })
    }
}

fn condition_holds((left, relation, right): &Condition, variable: &str, at: &Expr) -> bool {
    let (a, b) = (left.substitute(variable, at), right.substitute(variable, at));
    let Ok((order, _)) = compare_constants(&a, &b) else {
        return false;
    };
    match relation {
        Relation::Less => order == Ordering::Less,
        Relation::LessEqual => order != Ordering::Greater,
        Relation::Greater => order == Ordering::Greater,
        Relation::GreaterEqual => order != Ordering::Less,
        Relation::Equal => order == Ordering::Equal,
        Relation::NotEqual => order != Ordering::Equal,
    }
}

/// `Some(true)` for plus infinity, `Some(false)` for minus.
pub(super) fn infinite(e: &Expr) -> Option<bool> {
    match e.bare() {
        Expr::Constant(Constant::Infinity) => Some(true),
        Expr::Negative(inner) => infinite(inner).map(|plus| !plus),
        _ => None,
    }
}

fn mirrored(relation: Relation) -> Relation {
    match relation {
        Relation::Less => Relation::Greater,
        Relation::LessEqual => Relation::GreaterEqual,
        Relation::Greater => Relation::Less,
        Relation::GreaterEqual => Relation::LessEqual,
        same => same,
    }
}

pub(super) fn relation_latex(r: Relation) -> &'static str {
    match r {
        Relation::Less => "<",
        Relation::LessEqual => "\\le",
        Relation::Greater => ">",
        Relation::GreaterEqual => "\\ge",
        Relation::Equal => "=",
        Relation::NotEqual => "\\ne",
    }
}
