//! Why an answer is wrong, where that can be shown.

use maths::{
    ComplexParts, Constant, Domain, Expr, Factor, Function, Joint, LiteralStyle, Term, compare, exact_value,
};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{Signed, Zero};

use super::number::power_of_ten;
use crate::verdict::Slip;

pub(crate) struct NumberSlips<'a> {
    pub key: &'a Expr,
    pub entry: &'a Expr,
    pub key_is_zero: bool,
    /// Between which numbers the key surely lies, where that is quickly told.
    pub near: Option<(f64, f64)>,
    pub tolerance: bool,
    /// The entry read in the other order, where a caution named one.
    pub other: Option<&'a Expr>,
    /// Whether an entry counts as a key, within the tolerance.
    pub accepts: &'a dyn Fn(&Expr, &Expr) -> bool,
}

/// The first slip of the contract's table that holds for a number.
pub(crate) fn of_number(s: &NumberSlips) -> Option<Slip> {
    looking_for_a_reason(|| number_slip(s))
}

/// Nothing that stays undecided while a reason is looked for changes the verdict.
pub(crate) fn looking_for_a_reason<T>(look: impl FnOnce() -> T) -> T {
    maths::watching_decisions(look).0
}

fn number_slip(s: &NumberSlips) -> Option<Slip> {
    let key_is_zero = s.key_is_zero;
    let fits = |key: Expr| (s.accepts)(&key, s.entry);
    if !key_is_zero && (s.accepts)(s.key, &s.entry.clone().negate()) {
        return Some(Slip::Sign);
    }
    if sign_flips(s.entry)
        .iter()
        .any(|flipped| (s.accepts)(s.key, flipped))
        || (exact_value(s.key).is_none() && sign_flips(s.key).into_iter().any(&fits))
    {
        return Some(Slip::Sign);
    }
    if !key_is_zero && let Some(slip) = scale_slip(s) {
        return Some(slip);
    }
    if other_angles(s.key).into_iter().any(&fits)
        || other_angles(s.entry).iter().any(|e| (s.accepts)(s.key, e))
    {
        return Some(Slip::AngleMode);
    }
    if s.tolerance && !key_is_zero && !surely_further_off(s) {
        let part = Expr::rational(&BigRational::new(2.into(), 100.into()));
        let width = part.times(Expr::call(Function::Abs, s.key.clone()));
        if maths::within(s.entry, s.key, &width).unwrap_or(false) {
            return Some(Slip::RoundedEarly);
        }
    }
    if !s.tolerance && is_rounded(s.key, s.entry) {
        return Some(Slip::ExactWanted);
    }
    s.other
        .filter(|other| (s.accepts)(s.key, other))
        .map(|_| Slip::MisreadOrder)
}

/// Whether the entry is surely more than 2 % off, told quickly.
fn surely_further_off(s: &NumberSlips) -> bool {
    let (Some((low, high)), Some((from, to))) = (s.near, maths::enclosed(s.entry)) else {
        return false;
    };
    (low - to).max(from - high) > 0.020_001 * low.abs().max(high.abs())
}

/// Off by a factor. The entry is scaled back, not the key, so that the tolerance stays what it is.
fn scale_slip(s: &NumberSlips) -> Option<Slip> {
    let middle = |(low, high): (f64, f64)| f64::midpoint(low, high);
    let (e, k) = (middle(maths::enclosed(s.entry)?), middle(s.near?));
    if e == 0.0 || k == 0.0 {
        return None;
    }
    // A first look in floating point leaves few candidates; a wide tolerance leaves more.
    let slack = if s.tolerance { 0.5 } else { 1e-6 };
    let near = |ratio: f64| (e / k / ratio - 1.0).abs() <= slack;
    let back = |entry: Expr| (s.accepts)(s.key, &entry);
    if (e * k - 1.0).abs() <= slack && back(Expr::whole(1).over(s.entry.clone())) {
        return Some(Slip::Reciprocal);
    }
    for k in 2..=9i32 {
        let size = f64::from(k);
        if near(size) && back(s.entry.clone().over(Expr::whole(k)))
            || near(1.0 / size) && back(s.entry.clone().times(Expr::whole(k)))
        {
            return Some(Slip::Factor);
        }
    }
    let tenfold = (1..=12i32).flat_map(|n| [n, -n]).any(|n| {
        near(10f64.powi(n))
            && back(
                s.entry
                    .clone()
                    .times(Expr::rational(&power_of_ten(i64::from(-n)))),
            )
    });
    tenfold.then_some(Slip::PowerOfTen)
}

/// Terms of a sum that are turned round one by one.
const MOST_TERMS: usize = 24;

/// The tree with one term of its outermost sum turned round, each in turn.
pub(crate) fn sign_flips(expr: &Expr) -> Vec<Expr> {
    let Expr::Sum(terms) = expr.bare() else {
        return Vec::new();
    };
    // One turned sign among more terms than these is not what went wrong.
    if terms.len() > MOST_TERMS {
        return Vec::new();
    }
    (0..terms.len())
        .map(|i| {
            let flip = |(j, t): (usize, &Term)| Term {
                minus: t.minus != (i == j),
                expr: t.expr.clone(),
            };
            let flipped: Vec<Term> = terms.iter().enumerate().map(flip).collect();
            // The first term's own sign is not printed, so zero stands before it.
            let mut all = vec![Term {
                minus: false,
                expr: Expr::whole(0),
            }];
            all.extend(flipped);
            Expr::Sum(all)
        })
        .collect()
}

/// What degrees for radians, or radians for degrees, would have given.
pub(crate) fn other_angles(expr: &Expr) -> Vec<Expr> {
    let trig = |f: Function| {
        use Function as F;
        matches!(f, F::Sin | F::Cos | F::Tan | F::Sec | F::Csc | F::Cot)
    };
    let arc = |f: Function| {
        use Function as F;
        matches!(
            f,
            F::Arcsin | F::Arccos | F::Arctan | F::Arcsec | F::Arccsc | F::Arccot
        )
    };
    if !expr.any(&|e| matches!(e, Expr::Call(f, _) if trig(*f) || arc(*f))) {
        return Vec::new();
    }
    let half_turn = || Expr::Constant(Constant::Pi).over(Expr::whole(180));
    let mut found = vec![turned(expr, &|f, arg| {
        if trig(f) {
            Some((Expr::Degrees(Box::new(arg.clone())), None))
        } else {
            None
        }
    })];
    found.push(turned(expr, &|f, arg| {
        if trig(f) && arg.any(&|e| matches!(e, Expr::Degrees(_))) {
            Some((without_degrees(arg), None))
        } else {
            None
        }
    }));
    found.push(turned(expr, &|f, arg| {
        if arc(f) {
            Some((arg.clone(), Some(Expr::whole(1).over(half_turn()))))
        } else {
            None
        }
    }));
    found.push(turned(expr, &|f, arg| {
        if arc(f) {
            Some((arg.clone(), Some(half_turn())))
        } else {
            None
        }
    }));
    found.retain(|e| e != expr);
    found
}

type Turn<'a> = &'a dyn Fn(Function, &Expr) -> Option<(Expr, Option<Expr>)>;

fn turned(expr: &Expr, turn: Turn) -> Expr {
    if let Expr::Call(function, args) = expr
        && let [argument] = args.as_slice()
        && let Some((argument, scale)) = turn(*function, argument)
    {
        let call = Expr::call(*function, argument);
        return match scale {
            Some(scale) => Expr::Group(Box::new(call.times(scale))),
            None => call,
        };
    }
    expr.map_children(&mut |c| turned(c, turn))
}

fn without_degrees(expr: &Expr) -> Expr {
    match expr {
        Expr::Degrees(e) => without_degrees(e),
        other => other.map_children(&mut without_degrees),
    }
}

/// A decimal that is the key rounded, or cut off, at its last place.
fn is_rounded(key: &Expr, entry: &Expr) -> bool {
    let (negative, literal) = match entry.bare() {
        Expr::Number(l) => (false, l),
        Expr::Negative(e) => match e.bare() {
            Expr::Number(l) => (true, l),
            _ => return false,
        },
        _ => return false,
    };
    if literal.style != LiteralStyle::Decimal || literal.value.is_zero() {
        return false;
    }
    let places = literal.typed.split_once('.').map_or(0, |(_, f)| f.len());
    let unit = power_of_ten(-i64::try_from(places).unwrap_or(0));
    let value = if negative {
        -literal.value.clone()
    } else {
        literal.value.clone()
    };
    let half = Expr::rational(&(&unit / BigInt::from(2)));
    if maths::within(entry, key, &half).unwrap_or(false) {
        return true;
    }
    // Cut off: the key lies between the entry and the next unit away from zero.
    let next = if value.is_negative() {
        &value - &unit
    } else {
        &value + &unit
    };
    let above = |a: &Expr, b: &BigRational| {
        maths::compare_constants(a, &Expr::rational(b))
            .map(|(o, _)| o)
            .unwrap_or(std::cmp::Ordering::Equal)
    };
    let (low, high) = if value < next {
        (&value, &next)
    } else {
        (&next, &value)
    };
    above(key, low) == std::cmp::Ordering::Greater && above(key, high) == std::cmp::Ordering::Less
}

pub(crate) fn of_complex(key: &ComplexParts, entry: &ComplexParts) -> Option<Slip> {
    let same = |a: &Expr, b: &Expr| compare(a, b, &Domain::default()).equal;
    let negative = |a: &Expr, b: &Expr| same(&a.clone().negate(), b);
    let (re, im) = (same(&key.re, &entry.re), same(&key.im, &entry.im));
    let (re_off, im_off) = (negative(&key.re, &entry.re), negative(&key.im, &entry.im));
    ((re && im_off) || (re_off && im) || (re_off && im_off)).then_some(Slip::Sign)
}

/// The first slip that holds for an expression; `fits` is whether an entry counts as a key.
pub(crate) fn of_expression(
    key: &Expr,
    entry: &Expr,
    other: Option<&Expr>,
    domain: &Domain,
    fits: &dyn Fn(&Expr, &Expr) -> bool,
) -> Option<Slip> {
    looking_for_a_reason(|| expression_slip(key, entry, other, domain, fits))
}

fn expression_slip(
    key: &Expr,
    entry: &Expr,
    other: Option<&Expr>,
    domain: &Domain,
    fits: &dyn Fn(&Expr, &Expr) -> bool,
) -> Option<Slip> {
    let one = || Expr::whole(1);
    if fits(&key.clone().negate(), entry)
        || sign_flips(entry).iter().any(|flipped| fits(key, flipped))
        || sign_flips(key).iter().any(|flipped| fits(flipped, entry))
    {
        return Some(Slip::Sign);
    }
    if fits(&one().over(key.clone()), entry) {
        return Some(Slip::Reciprocal);
    }
    if let Some(ratio) = constant_ratio(key, entry, domain, fits) {
        return Some(ratio);
    }
    if other_angles(key).iter().any(|k| fits(k, entry)) || other_angles(entry).iter().any(|e| fits(key, e)) {
        return Some(Slip::AngleMode);
    }
    if fits_with_constant(key, entry, domain) {
        return Some(Slip::AddedConstant);
    }
    other.filter(|other| fits(key, other)).map(|_| Slip::MisreadOrder)
}

/// The factor between two functions, read off at one point and then held against the rest.
fn constant_ratio(
    key: &Expr,
    entry: &Expr,
    domain: &Domain,
    fits: &dyn Fn(&Expr, &Expr) -> bool,
) -> Option<Slip> {
    let at = maths::common_point(key, entry, domain)?;
    let value = |e: &Expr| maths::approximate(&at_point(e, &at)).ok().filter(|v| *v != 0.0);
    let ratio = value(entry)? / value(key)?;
    let near = |r: f64| (ratio / r - 1.0).abs() < 1e-9;
    for k in 2..=9i64 {
        #[expect(clippy::cast_precision_loss, reason = "2 to 9")]
        let k_f = k as f64;
        if near(k_f) && fits(&key.clone().times(Expr::whole(k)), entry) {
            return Some(Slip::Factor);
        }
        if near(1.0 / k_f) && fits(&key.clone().over(Expr::whole(k)), entry) {
            return Some(Slip::Factor);
        }
    }
    for n in (1..=12).flat_map(|n| [n, -n]) {
        let power = i32::try_from(n).unwrap_or(0);
        if near(10f64.powi(power)) && fits(&key.clone().times(Expr::rational(&power_of_ten(n))), entry) {
            return Some(Slip::PowerOfTen);
        }
    }
    None
}

/// A tree with its variables put in place by values.
pub(crate) fn at_point(expr: &Expr, point: &[(std::sync::Arc<str>, BigRational)]) -> Expr {
    point.iter().fold(expr.clone(), |e, (name, value)| {
        e.substitute(name, &Expr::rational(value))
    })
}

/// Whether the entry is the key and one added number, over the whole domain.
pub(crate) fn fits_with_constant(key: &Expr, entry: &Expr, domain: &Domain) -> bool {
    let Some(at) = maths::common_point(key, entry, domain) else {
        return false;
    };
    let gap = at_point(entry, &at).minus(at_point(key, &at));
    compare(&key.clone().plus(gap), entry, domain).equal
}

/// Whether the entry is the key times one number that is not zero.
pub(crate) fn fits_with_factor(key: &Expr, entry: &Expr, domain: &Domain) -> bool {
    let Some(at) = maths::common_point(key, entry, domain) else {
        return false;
    };
    let (k, e) = (at_point(key, &at), at_point(entry, &at));
    let is_zero = |v: &Expr| !maths::sign_of_constant(v).is_ok_and(|(s, _)| s != std::cmp::Ordering::Equal);
    if is_zero(&k) || is_zero(&e) {
        return false;
    }
    let scaled = Expr::Product(vec![
        Factor {
            joint: Joint::Times,
            expr: Expr::Group(Box::new(key.clone())),
        },
        Factor {
            joint: Joint::Times,
            expr: Expr::Group(Box::new(e)),
        },
        Factor {
            joint: Joint::Over,
            expr: Expr::Group(Box::new(k)),
        },
    ]);
    compare(&scaled, entry, domain).equal
}
