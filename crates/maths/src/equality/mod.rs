//! Whether an entry is the same function as the key, and how that is known.
//!
//! 1. A few points with fast enclosures: most different entries are shown different there, by a witness.
//! 2. The normal form: most equal entries are proved equal.
//! 3. Points over the whole domain, first with fast enclosures, then at 192 and 768 bits. Only what agreed, closely, at
//!    points of *every* part of the domain that was found is called equal, with the number of points and digits. What
//!    could not be decided is no evidence for either side: then nothing is decided.
//!
//! The entry must have a value wherever the key has one, single points aside.

mod breaks;
mod domain;
mod has_value;
mod pieces;
mod sampler;
mod trial;

use std::sync::Arc;

use num_rational::BigRational;
use num_traits::{Signed, Zero};

use crate::budget::{Budget, note_undecided};
use crate::evaluate::{Evaluator, Point, Undefined};
use crate::exact::exact_value;
use crate::normal::Stop;
use crate::tree::{Constant, Expr, Function, Term};
use crate::value::{Precision, compare_quietly as order_quietly, sign_of_constant};
pub use domain::{Domain, Range};
pub use has_value::{common_point, has_value};
use pieces::Parts;
use sampler::{Sampler, seed};
use trial::Trial;

/// How an outcome is known. Written to logs and tests, not shown to students.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Evidence {
    ProvedEqual,
    /// A point at which the two differ for sure.
    ProvedDifferent {
        witness: Vec<(Arc<str>, BigRational)>,
    },
    /// No proof, but no difference at so many points to so many digits.
    Agreed {
        points: usize,
        digits: u32,
    },
    /// The entry has no value where the key has one.
    Undefined {
        witness: Vec<(Arc<str>, BigRational)>,
    },
    /// The key has no value anywhere that was tried.
    KeyHasNoValue,
    EntryHasNoValue,
    /// Values too large or too deep to compare.
    Undecided,
}

impl Evidence {
    /// Whether it leaves no doubt.
    pub fn is_proof(&self) -> bool {
        matches!(
            self,
            Evidence::ProvedEqual | Evidence::ProvedDifferent { .. } | Evidence::Undefined { .. }
        )
    }
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Equality {
    pub equal: bool,
    pub evidence: Evidence,
}

impl Equality {
    pub(crate) fn new(equal: bool, evidence: Evidence) -> Self {
        Self { equal, evidence }
    }
}

/// Compares an entry with a key over the domain.
///
/// ```
/// # use maths::*;
/// let names = Names::new(["x"]).unwrap();
/// let tree = |t| read_expression(t, &ReadOptions::new(&names)).unwrap().tree;
/// let verdict = compare(&tree("sin(2x)"), &tree("2 sin x cos x"), &Domain::default());
/// assert_eq!(verdict.evidence, Evidence::ProvedEqual);
/// assert!(!compare(&tree("ln(x^2)"), &tree("2 ln x"), &Domain::default()).equal);
/// ```
pub fn compare(key: &Expr, entry: &Expr, domain: &Domain) -> Equality {
    let verdict = compare_quietly(key, entry, domain);
    if verdict.evidence == Evidence::Undecided {
        note_undecided();
    }
    verdict
}

fn compare_quietly(key: &Expr, entry: &Expr, domain: &Domain) -> Equality {
    let mut names = key.variables();
    names.extend(entry.variables());
    names.sort();
    names.dedup();
    if names.is_empty() {
        return compare_fixed(key, entry);
    }
    let whole = |name: &str| domain.is_whole(name);
    let sampler = Sampler {
        names: &names,
        domain,
        whole: &whole,
        seed: seed(key, entry),
    };
    let mut trial = Trial::new(&sampler, key, entry, Parts::none());
    let first = sampler.points(10, 0);
    if let Some(verdict) = trial.run(&first) {
        return verdict;
    }
    if trial.agreed > 0 && key.without_groups() == entry.without_groups() {
        return Equality::new(true, Evidence::ProvedEqual);
    }
    let proved = domain.normaliser().proves_equal(key, entry);
    if proved == Ok(true) && is_total(entry) && (trial.both_defined > 0 || trial.both_have_a_value(&first)) {
        return Equality::new(true, Evidence::ProvedEqual);
    }
    let mut more = first;
    more.extend(sampler.points(40, 1));
    more.extend(sampler.points_at_literals(key, entry));
    more.extend(sampler.around_breaks(key, entry, &more));
    more.extend(sampler.beside_zeros(key, entry, &more));
    let mut trial = Trial::new(&sampler, key, entry, Parts::of(key, entry, &names));
    if let Some(verdict) = trial.run(&more) {
        return verdict;
    }
    if trial.both_defined < 6
        && let Some(verdict) = trial.run(&sampler.dense_points())
    {
        return verdict;
    }
    if let Some(verdict) = trial.find_parts(&more) {
        return verdict;
    }
    if let Some(verdict) = trial.fill_parts() {
        return verdict;
    }
    trial.settle(&proved)
}

fn compare_fixed(key: &Expr, entry: &Expr) -> Equality {
    let (point, whole) = (Point::new(), |_: &str| false);
    let quick = |e: &Expr| {
        let mut evaluator = Evaluator::<f64>::new(&point, &whole, 53);
        let found = evaluator.interval(e);
        found.ok().filter(|_| !evaluator.is_in_doubt())
    };
    if let (Some(a), Some(b)) = (quick(key), quick(entry)) {
        if a.hi < b.lo || b.hi < a.lo {
            return Equality::new(false, Evidence::ProvedDifferent { witness: Vec::new() });
        }
        // Both have values, so what the normal form proves holds.
        if exact_value(entry).is_none() && Domain::default().normaliser().proves_equal(key, entry) == Ok(true)
        {
            return Equality::new(true, Evidence::ProvedEqual);
        }
    }
    match order_quietly(key, entry) {
        Ok((std::cmp::Ordering::Equal, Precision::Proved)) => Equality::new(true, Evidence::ProvedEqual),
        Ok((std::cmp::Ordering::Equal, Precision::Agreed(digits))) => {
            let evidence = match Domain::default().normaliser().proves_equal(key, entry) {
                Ok(true) => Evidence::ProvedEqual,
                _ => Evidence::Agreed { points: 1, digits },
            };
            Equality::new(true, evidence)
        }
        Ok(_) => Equality::new(false, Evidence::ProvedDifferent { witness: Vec::new() }),
        Err(Undefined::NoValue) => {
            let key_fails = sign_of_constant(key) == Err(Undefined::NoValue);
            Equality::new(
                false,
                if key_fails {
                    Evidence::KeyHasNoValue
                } else {
                    Evidence::EntryHasNoValue
                },
            )
        }
        Err(Undefined::Unknown) => match Domain::default().normaliser().proves_equal(key, entry) {
            Ok(true) => Equality::new(true, Evidence::ProvedEqual),
            _ => Equality::new(false, Evidence::Undecided),
        },
    }
}

/// A value everywhere, single points aside: nothing in it is partial, or it is taken of what can't be below zero.
fn is_total(expr: &Expr) -> bool {
    use Function as F;
    !expr.any(&|e| match e {
        Expr::Power(base, exponent) => match exact_value(exponent) {
            Some(r) => {
                !r.is_integer()
                    && (r.denom() % 2i32).is_zero()
                    && base.has_variable()
                    && !is_never_negative(base)
            }
            None => base.has_variable() || exact_value(base).is_none_or(|b| !b.is_positive()) && !is_e(base),
        },
        Expr::Call(F::Sqrt, args) => args.iter().any(|a| a.has_variable() && !is_never_negative(a)),
        Expr::Call(F::Ln | F::Log, args) => args.iter().any(|a| a.has_variable() && !is_above_zero(a)),
        Expr::Call(
            F::Root | F::LogBase | F::Arcsin | F::Arccos | F::Arcsec | F::Arccsc | F::Arcosh | F::Artanh,
            args,
        ) => args.iter().any(Expr::has_variable),
        Expr::Factorial(inner) => inner.has_variable(),
        _ => false,
    })
}

/// Whether its form alone says that it is above zero wherever it has a value.
fn is_above_zero(expr: &Expr) -> bool {
    use Function as F;
    match expr {
        Expr::Group(inner) | Expr::Positive(inner) => is_above_zero(inner),
        Expr::Call(F::Exp | F::Cosh | F::Sech, _) => true,
        Expr::Call(F::Sqrt | F::Cbrt, args) => args.iter().all(is_above_zero),
        Expr::Power(base, _) => is_above_zero(base),
        Expr::Product(factors) => factors.iter().all(|f| is_above_zero(&f.expr)),
        Expr::Sum(terms) => {
            let plus = |t: &Term| !t.minus && is_never_negative(&t.expr);
            terms.iter().all(plus) && terms.iter().any(|t| is_above_zero(&t.expr))
        }
        Expr::Constant(Constant::Pi | Constant::E) => true,
        _ => exact_value(expr).is_some_and(|v| v.is_positive()),
    }
}

/// Whether its form alone says that it is not below zero wherever it has a value.
fn is_never_negative(expr: &Expr) -> bool {
    use Function as F;
    match expr {
        Expr::Group(inner) | Expr::Positive(inner) => is_never_negative(inner),
        Expr::Call(F::Abs | F::Sqrt, _) => true,
        Expr::Call(F::Cbrt, args) => args.iter().all(is_never_negative),
        Expr::Power(base, exponent) => {
            let even = exact_value(exponent).is_some_and(|r| (r.numer() % 2i32).is_zero());
            even || is_never_negative(base)
        }
        Expr::Product(factors) => factors.iter().all(|f| is_never_negative(&f.expr)),
        Expr::Sum(terms) => terms.iter().all(|t| !t.minus && is_never_negative(&t.expr)),
        _ => is_above_zero(expr) || exact_value(expr).is_some_and(|v| v.is_zero()),
    }
}

fn is_e(expr: &Expr) -> bool {
    matches!(expr.bare(), Expr::Constant(Constant::E))
}
