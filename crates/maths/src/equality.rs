//! Whether an entry is the same function as the key, and how that is known.
//!
//! 1. A few points with fast enclosures: most different entries are shown different there, by a witness.
//! 2. The normal form: most equal entries are proved equal.
//! 3. Points over the whole domain, first with fast enclosures, then at 192 bits. What still agrees everywhere is
//!    called equal, with the number of points and digits.
//!
//! The entry must have a value wherever the key has one, single points aside.

use std::collections::BTreeMap;
use std::sync::Arc;

use astro_float::BigFloat;
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{FromPrimitive, Signed, ToPrimitive, Zero};

use crate::evaluate::{Evaluator, Point, Undefined};
use crate::exact::exact_value;
use crate::interval::{Context, Interval};
use crate::normal::{Normaliser, Stop};
use crate::print::text;
use crate::tree::{Expr, Function, Joint};
use crate::value::{Precision, compare_constants, sign_of_constant};

/// What a variable may be.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub enum Range {
    #[default]
    Real,
    Positive,
    Nonnegative,
    Integer,
    PositiveInteger,
    NonnegativeInteger,
    /// From the first to the second, both included.
    Between(BigRational, BigRational),
}

/// Ranges by variable; a variable without one is any real number.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Domain(pub BTreeMap<Arc<str>, Range>);

impl Domain {
    fn range(&self, name: &str) -> &Range {
        self.0.get(name).unwrap_or(&Range::Real)
    }

    pub(crate) fn is_whole(&self, name: &str) -> bool {
        matches!(
            self.range(name),
            Range::Integer | Range::PositiveInteger | Range::NonnegativeInteger
        )
    }

    fn is_positive(&self, name: &str) -> bool {
        match self.range(name) {
            Range::Positive | Range::Nonnegative | Range::PositiveInteger | Range::NonnegativeInteger => true,
            Range::Between(low, _) => !low.is_negative(),
            Range::Real | Range::Integer => false,
        }
    }

    pub(crate) fn normaliser(&self) -> Normaliser {
        let pick =
            |test: &dyn Fn(&str) -> bool| self.0.keys().filter(|n| test(n)).cloned().collect::<Vec<_>>();
        Normaliser::new(pick(&|n| self.is_positive(n)), pick(&|n| self.is_whole(n)))
    }
}

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

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Equality {
    pub equal: bool,
    pub evidence: Evidence,
}

impl Equality {
    fn new(equal: bool, evidence: Evidence) -> Self {
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
    let mut trial = Trial::default();
    let first = sampler.points(10, 0);
    if let Some(verdict) = trial.run(&sampler, key, entry, &first) {
        return verdict;
    }
    if trial.valid > 0 && key.without_groups() == entry.without_groups() {
        return Equality::new(true, Evidence::ProvedEqual);
    }
    let proved = domain.normaliser().proves_equal(key, entry);
    let total = is_total(entry);
    if proved == Ok(true) && total && trial.valid > 0 {
        return Equality::new(true, Evidence::ProvedEqual);
    }
    let mut more = sampler.points(40, 1);
    more.extend(sampler.points_at_literals(key, entry));
    more.extend(sampler.around_breaks(key, entry, &more));
    if let Some(verdict) = trial.run(&sampler, key, entry, &more) {
        return verdict;
    }
    if trial.valid < 6 {
        let dense = sampler.dense_points();
        if let Some(verdict) = trial.run(&sampler, key, entry, &dense) {
            return verdict;
        }
    }
    if trial.strikes >= 2 {
        return Equality::new(
            false,
            Evidence::Undefined {
                witness: trial.strike.unwrap_or_default(),
            },
        );
    }
    if proved == Ok(true) && trial.valid > 0 {
        return Equality::new(true, Evidence::ProvedEqual);
    }
    trial.settle(&sampler, key, entry, proved == Err(Stop::NoValue))
}

fn compare_fixed(key: &Expr, entry: &Expr) -> Equality {
    let (point, whole) = (Point::new(), |_: &str| false);
    let quick = |e: &Expr| Evaluator::<f64>::new(&point, &whole, 53).interval(e);
    if let (Ok(a), Ok(b)) = (quick(key), quick(entry)) {
        if a.hi < b.lo || b.hi < a.lo {
            return Equality::new(false, Evidence::ProvedDifferent { witness: Vec::new() });
        }
        // Both have values, so what the normal form proves holds.
        if exact_value(entry).is_none() && Domain::default().normaliser().proves_equal(key, entry) == Ok(true)
        {
            return Equality::new(true, Evidence::ProvedEqual);
        }
    }
    match compare_constants(key, entry) {
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

/// What the points have shown so far.
#[derive(Default)]
struct Trial {
    /// Points where both have values that may be equal.
    valid: usize,
    /// Points where only the entry has none.
    strikes: usize,
    strike: Option<Vec<(Arc<str>, BigRational)>>,
    struck: Vec<Point>,
    key_defined: usize,
    entry_defined: usize,
    kept: Vec<Point>,
    unclear: Vec<Point>,
}

impl Trial {
    fn run(&mut self, sampler: &Sampler, key: &Expr, entry: &Expr, points: &[Point]) -> Option<Equality> {
        for point in points {
            let mut evaluator = Evaluator::<f64>::new(point, sampler.whole, 53);
            let a = evaluator.interval(key);
            let b = evaluator.interval(entry);
            self.key_defined += usize::from(a.is_ok());
            self.entry_defined += usize::from(b.is_ok());
            match (a, b) {
                (Ok(a), Ok(b)) => {
                    if a.hi < b.lo || b.hi < a.lo {
                        return Some(different(point));
                    }
                    self.valid += 1;
                    if self.kept.len() < 64 {
                        self.kept.push(point.clone());
                    }
                }
                (Ok(_), Err(Undefined::NoValue)) => {
                    if self.struck.contains(point) {
                        continue;
                    }
                    self.struck.push(point.clone());
                    self.strikes += 1;
                    self.strike = Some(witness(point));
                    if self.strikes >= 3 {
                        return Some(Equality::new(
                            false,
                            Evidence::Undefined {
                                witness: witness(point),
                            },
                        ));
                    }
                }
                (Err(Undefined::NoValue), _) => {}
                (Err(Undefined::Unknown), _) | (Ok(_), Err(Undefined::Unknown)) => {
                    if self.unclear.len() < 12 {
                        self.unclear.push(point.clone());
                    }
                }
            }
        }
        None
    }

    /// The last word, at high precision.
    fn settle(&self, sampler: &Sampler, key: &Expr, entry: &Expr, no_value: bool) -> Equality {
        let mut points = 0;
        let mut digits = u32::MAX;
        let mut entry_only_missing = 0;
        let spread = self.kept.len().div_ceil(8).max(1);
        let chosen = self
            .kept
            .iter()
            .step_by(spread)
            .take(8)
            .chain(self.unclear.iter().take(6));
        for point in chosen {
            let mut evaluator = Evaluator::<BigFloat>::new(point, sampler.whole, 192);
            let a = evaluator.interval(key);
            let b = evaluator.interval(entry);
            match (a, b) {
                (Ok(a), Ok(b)) => {
                    if disjoint(&a, &b) {
                        return different(point);
                    }
                    points += 1;
                    digits = digits.min(shared_digits(&a, &b, &evaluator.cx));
                }
                (Ok(_), Err(Undefined::NoValue)) => entry_only_missing += 1,
                _ => {}
            }
        }
        if points == 0 {
            let evidence = match (self.key_defined > 0, self.entry_defined > 0) {
                (false, _) if !no_value => Evidence::KeyHasNoValue,
                (true, false) if entry_only_missing > 0 || self.strikes > 0 || no_value => {
                    Evidence::EntryHasNoValue
                }
                _ if no_value => Evidence::EntryHasNoValue,
                _ => Evidence::Undecided,
            };
            return Equality::new(false, evidence);
        }
        Equality::new(true, Evidence::Agreed { points, digits })
    }
}

fn witness(point: &Point) -> Vec<(Arc<str>, BigRational)> {
    point.iter().map(|(k, v)| (k.clone(), v.clone())).collect()
}

fn different(point: &Point) -> Equality {
    Equality::new(
        false,
        Evidence::ProvedDifferent {
            witness: witness(point),
        },
    )
}

fn disjoint(a: &Interval<BigFloat>, b: &Interval<BigFloat>) -> bool {
    use crate::interval::End;
    a.hi.order(&b.lo) == std::cmp::Ordering::Less || b.hi.order(&a.lo) == std::cmp::Ordering::Less
}

fn shared_digits(a: &Interval<BigFloat>, b: &Interval<BigFloat>, cx: &Context) -> u32 {
    let size = a.log2().max(1);
    let spread = a.width_log2(cx).max(b.width_log2(cx));
    u32::try_from((size - spread).clamp(0, 10_000) * 3 / 10).unwrap_or(0)
}

/// A value everywhere, single points aside: nothing in it is partial.
fn is_total(expr: &Expr) -> bool {
    use Function as F;
    !expr.any(&|e| match e {
        Expr::Power(base, exponent) => match exact_value(exponent) {
            Some(r) => !r.is_integer() && (r.denom() % 2i32).is_zero() && base.has_variable(),
            None => base.has_variable() || exact_value(base).is_none_or(|b| !b.is_positive()) && !is_e(base),
        },
        Expr::Call(
            F::Sqrt
            | F::Root
            | F::Ln
            | F::Log
            | F::LogBase
            | F::Arcsin
            | F::Arccos
            | F::Arcsec
            | F::Arccsc
            | F::Arcosh
            | F::Artanh,
            args,
        ) => args.iter().any(Expr::has_variable),
        Expr::Factorial(inner) => inner.has_variable(),
        _ => false,
    })
}

fn is_e(expr: &Expr) -> bool {
    matches!(expr.bare(), Expr::Constant(crate::tree::Constant::E))
}

/// The same for the same pair, on every machine (FNV-1a).
fn seed(key: &Expr, entry: &Expr) -> u64 {
    let mut hash = 0xcbf2_9ce4_8422_2325_u64;
    for byte in text(key).bytes().chain([0]).chain(text(entry).bytes()) {
        hash = (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3);
    }
    hash
}

/// SplitMix64 (Steele, Lea, Flood 2014).
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    fn below(&mut self, n: u64) -> i64 {
        i64::try_from(self.next() % n.max(1)).unwrap_or(0)
    }
}

struct Sampler<'a> {
    names: &'a [Arc<str>],
    domain: &'a Domain,
    whole: &'a dyn Fn(&str) -> bool,
    seed: u64,
}

fn dyadic(n: i64, shift: u32) -> BigRational {
    BigRational::new(BigInt::from(n), BigInt::from(1) << shift)
}

impl Sampler<'_> {
    /// Points of all sizes and signs that the domain allows. Round 0 stays near 1, where everything has a value.
    fn points(&self, count: usize, round: u64) -> Vec<Point> {
        let mut numbers = Numbers(self.seed ^ round.wrapping_mul(0x5851_f42d_4c95_7f2d));
        (0..count)
            .map(|i| {
                let place = |j: usize| i64::try_from(i + 7 * j).unwrap_or(0);
                let values = self.names.iter().enumerate().map(|(j, name)| {
                    let value = self.draw(self.domain.range(name), place(j), i >> j, round, &mut numbers);
                    (name.clone(), value)
                });
                values.collect()
            })
            .collect()
    }

    fn draw(
        &self,
        range: &Range,
        place: i64,
        signs: usize,
        round: u64,
        numbers: &mut Numbers,
    ) -> BigRational {
        let negative = signs % 2 == 1;
        // Sizes 2^-5 … 2^9 in turn, near 1 first.
        let size = |numbers: &mut Numbers| {
            let exponents: &[i64] = if round == 0 {
                &[0, 1, -1, 2, 0, 1]
            } else {
                &[0, -2, 3, 1, -4, 5, 2, -1, 7, 4, -3, 9]
            };
            let index = usize::try_from(place).unwrap_or(0) % exponents.len();
            let exponent = exponents.get(index).copied().unwrap_or(0);
            let mantissa = 1024 + numbers.below(1023) + 1;
            let value = BigRational::new(BigInt::from(mantissa), BigInt::from(1024));
            let scale = BigRational::from(BigInt::from(2)).pow(i32::try_from(exponent).unwrap_or(0));
            value * scale
        };
        let whole = |numbers: &mut Numbers| {
            let near = place + numbers.below(2);
            BigInt::from(if round == 0 {
                near % 7
            } else {
                near % 23 + if place % 11 == 10 { 20 } else { 0 }
            })
        };
        match range {
            Range::Real => {
                let v = size(numbers);
                if negative { -v } else { v }
            }
            Range::Positive | Range::Nonnegative => size(numbers),
            Range::Integer => {
                let v = BigRational::from(whole(numbers));
                if negative { -v } else { v }
            }
            Range::PositiveInteger => BigRational::from(whole(numbers) + 1),
            Range::NonnegativeInteger => BigRational::from(whole(numbers)),
            Range::Between(low, high) => {
                let part = dyadic(numbers.below(1023) + 1, 10);
                low + (high - low) * part
            }
        }
    }

    /// Many points in small places and at whole numbers, for keys with values in few places.
    fn dense_points(&self) -> Vec<Point> {
        let mut numbers = Numbers(self.seed ^ 0xabcd);
        let mut points = Vec::new();
        for i in 0..160i64 {
            let values = self.names.iter().map(|name| {
                let range = self.domain.range(name);
                let value = match range {
                    Range::Real if i % 4 == 3 => BigRational::from(BigInt::from(numbers.below(13) - 2)),
                    Range::Real => dyadic(numbers.below(8191) - 4095, 10 + u32::try_from(i % 4).unwrap_or(0)),
                    _ => self.draw(range, i, usize::try_from(i).unwrap_or(0), 1, &mut numbers),
                };
                (name.clone(), value)
            });
            points.push(values.collect());
        }
        points
    }

    /// Points of the sizes of the numbers that occur, and far out: what happens at x = 1000 is seen there.
    fn points_at_literals(&self, key: &Expr, entry: &Expr) -> Vec<Point> {
        let mut sizes: Vec<BigRational> = Vec::new();
        gather_literals(key, &mut sizes);
        gather_literals(entry, &mut sizes);
        sizes.retain(|v| v.to_f64().is_some_and(|f| (4.0..1e9).contains(&f)));
        sizes.sort();
        sizes.dedup();
        sizes.truncate(6);
        sizes.push(BigRational::from(BigInt::from(5_000)));
        let scales = [
            dyadic(1401, 10),
            dyadic(627, 10),
            dyadic(-1401, 10),
            dyadic(3211, 10),
        ];
        let values: Vec<BigRational> = sizes
            .iter()
            .flat_map(|v| scales.iter().map(move |s| v * s))
            .collect();
        let mut points = Vec::new();
        for (i, name) in self.names.iter().enumerate().take(3) {
            if self.domain.is_whole(name) {
                continue;
            }
            let base = self.points(values.len(), 2 + u64::try_from(i).unwrap_or(0));
            for (value, mut point) in values.iter().zip(base) {
                if self.allows(name, value) {
                    point.insert(name.clone(), value.clone());
                    points.push(point);
                }
            }
        }
        points
    }

    /// Points on both sides of the places where something inside bars, a root or a logarithm changes its sign.
    fn around_breaks(&self, key: &Expr, entry: &Expr, known: &[Point]) -> Vec<Point> {
        let [name] = self.names else { return Vec::new() };
        if self.domain.is_whole(name) {
            return Vec::new();
        }
        let mut pieces = Vec::new();
        gather_pieces(key, &mut pieces);
        gather_pieces(entry, &mut pieces);
        pieces.truncate(12);
        let mut grid: Vec<BigRational> = known.iter().filter_map(|p| p.get(name).cloned()).collect();
        grid.sort();
        let mut breaks: Vec<BigRational> = Vec::new();
        for piece in &pieces {
            for pair in grid.windows(2) {
                if let [a, b] = pair
                    && let Some(at) = self.crossing(piece, name, a, b)
                {
                    breaks.push(at);
                }
            }
        }
        breaks.sort();
        breaks.truncate(24);
        let mut places: Vec<BigRational> = Vec::new();
        for (i, at) in breaks.iter().enumerate() {
            for step in [dyadic(1, 6), dyadic(1, 2)] {
                places.push(at + &step);
                places.push(at - &step);
            }
            if let Some(next) = breaks.get(i + 1) {
                places.push((at + next) / BigInt::from(2));
            }
        }
        places
            .into_iter()
            .filter(|v| self.allows(name, v))
            .map(|v| std::iter::once((name.clone(), v)).collect())
            .collect()
    }

    fn allows(&self, name: &str, value: &BigRational) -> bool {
        match self.domain.range(name) {
            Range::Positive | Range::Nonnegative => value.is_positive(),
            Range::Between(low, high) => low <= value && value <= high,
            _ => true,
        }
    }

    fn crossing(
        &self,
        piece: &Expr,
        name: &Arc<str>,
        a: &BigRational,
        b: &BigRational,
    ) -> Option<BigRational> {
        let sign = |at: &BigRational| {
            let point: Point = std::iter::once((name.clone(), at.clone())).collect();
            let mut evaluator = Evaluator::<f64>::new(&point, self.whole, 53);
            let value = evaluator.interval(piece).ok()?;
            value.sign(&evaluator.cx)
        };
        let (mut low, mut high) = (a.clone(), b.clone());
        let below = sign(&low)?;
        if sign(&high)? == below {
            return None;
        }
        for _ in 0..24 {
            let middle = (&low + &high) / BigInt::from(2);
            match sign(&middle) {
                Some(s) if s == below => low = middle,
                _ => high = middle,
            }
        }
        let near = high.to_f64()?;
        BigRational::from_f64((near * 65536.0).round() / 65536.0)
    }
}

fn gather_literals(expr: &Expr, into: &mut Vec<BigRational>) {
    if let Expr::Number(l) = expr {
        into.push(l.value.clone());
    }
    for child in expr.children() {
        gather_literals(child, into);
    }
}

/// What stands inside bars, roots, logarithms, and the differences min and max decide by.
fn gather_pieces(expr: &Expr, into: &mut Vec<Expr>) {
    use Function as F;
    match expr {
        Expr::Call(F::Abs | F::Sqrt | F::Ln | F::Log, args) => {
            into.extend(args.first().filter(|a| a.has_variable()).cloned());
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

/// Looks for parts without variables that have no value: `1/0`, `0^0`, `ln(0)`, `√(−1)`.
///
/// # Errors
/// [`Undefined::NoValue`] if there is one, [`Undefined::Unknown`] if one is too large to work out.
pub fn has_value(expr: &Expr) -> Result<(), Undefined> {
    use Function as F;
    if exact_value(expr).is_some() {
        return Ok(());
    }
    for child in expr.children() {
        has_value(child)?;
    }
    let sign = |e: &Expr| {
        if e.has_variable() {
            Ok(None)
        } else {
            sign_of_constant(e).map(|(s, _)| Some(s))
        }
    };
    let none = |bad: bool| if bad { Err(Undefined::NoValue) } else { Ok(()) };
    let equal = Some(std::cmp::Ordering::Equal);
    let less = Some(std::cmp::Ordering::Less);
    match expr {
        Expr::Product(factors) => {
            for factor in factors.iter().filter(|f| f.joint == Joint::Over) {
                none(sign(&factor.expr)? == equal)?;
            }
        }
        Expr::Power(base, exponent) => {
            let (b, e) = (sign(base)?, sign(exponent)?);
            none(b == equal && (e == equal || e == less))?;
            if b == less {
                let even = exact_value(exponent).map(|r| (r.denom() % 2i32).is_zero());
                none(even == Some(true) || even.is_none() && !exponent.has_variable())?;
            }
        }
        Expr::Call(F::Sqrt, args) => none(args.iter().any(|a| matches!(sign(a), Ok(s) if s == less)))?,
        Expr::Call(F::Ln | F::Log | F::LogBase, args) => {
            for arg in args {
                let s = sign(arg)?;
                none(s == equal || s == less)?;
            }
        }
        _ => {}
    }
    if expr.has_variable() {
        return Ok(());
    }
    match sign_of_constant(expr) {
        Ok(_) => Ok(()),
        Err(e) => Err(e),
    }
}

/// A point of the domain at which both trees have a value, in a fixed order of trying.
pub fn common_point(a: &Expr, b: &Expr, domain: &Domain) -> Option<Vec<(Arc<str>, BigRational)>> {
    let is_nothing = |e: &Expr| exact_value(e).is_some_and(|v| v.is_zero());
    if is_nothing(a) || is_nothing(b) {
        return None;
    }
    let mut names = a.variables();
    names.extend(b.variables());
    names.sort();
    names.dedup();
    let whole = |name: &str| domain.is_whole(name);
    let sampler = Sampler {
        names: &names,
        domain,
        whole: &whole,
        seed: 1,
    };
    let small: Vec<Point> = (1..=3i64)
        .map(|n| {
            let place = |(i, name): (usize, &Arc<str>)| {
                let k = n + i64::try_from(i).unwrap_or(0);
                (name.clone(), BigRational::from(BigInt::from(k)))
            };
            names.iter().enumerate().map(place).collect::<Point>()
        })
        .filter(|p| p.iter().all(|(n, v)| sampler.allows(n, v)))
        .collect();
    let usable = |point: &Point| {
        let defined = |e: &Expr| Evaluator::<f64>::new(point, &whole, 53).interval(e);
        matches!((defined(a), defined(b)), (Ok(x), Ok(y)) if away(&x) && away(&y))
    };
    // A round is drawn only when the one before held nothing.
    let mut found = small.into_iter().find(&usable);
    for round in 0..3 {
        if found.is_some() {
            break;
        }
        let points = if round < 2 {
            sampler.points(24, round)
        } else {
            sampler.dense_points()
        };
        found = points.into_iter().find(&usable);
    }
    found.map(|p| witness(&p))
}

/// Surely not zero.
fn away(i: &Interval<f64>) -> bool {
    i.lo > 0.0 || i.hi < 0.0
}
