//! What points show: where the two differ, where the entry has no value, and in which parts of the domain they agree.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::sync::Arc;

use astro_float::BigFloat;
use num_rational::BigRational;

use super::pieces::{Cell, Parts, UNKNOWN};
use super::sampler::Sampler;
use super::{Budget, Equality, Evidence, Stop};
use crate::evaluate::{Evaluator, Point, Undefined};
use crate::interval::{Context, End, Interval};
use crate::tree::Expr;

/// Points kept of one part for the last word, of each kind.
const KEPT: usize = 6;
/// Bits of the enclosures that have the last word, one after the other until a point is decided.
const LADDER: [usize; 3] = [192, 768, 2_048];
/// Two enclosures say the same only if they are this much narrower than what they enclose: seven digits for the fast
/// ones, which are held against longer ones afterwards, then twenty.
const TIGHT: i64 = 24;
const SURE: i64 = 66;
/// And narrower than 2^-66 beside one: what is added to something huge must not drown in it.
const NARROW: i64 = -66;
/// The first point of a part is held against the other side to 150 digits: what is multiplied by something tiny shows.
const THOROUGH: i64 = 500;
/// Where it is asked whether both are as good as zero.
const ZERO_BITS: usize = 768;
/// Below 2^-700 at the last precision, where both would have been told from zero, both are zero.
const NOTHING: i64 = -700;
/// Parts of the domain that are looked at; more come only from mischief.
const MOST_PARTS: usize = 48;

/// What one point says.
enum Found {
    Different,
    /// To so many bits.
    Agree(i64),
    /// The key has no value here.
    NoKey,
    /// The key has one, the entry none.
    Strike,
    /// It cannot be told; `key` says whether at least the key's value is known.
    Open {
        key: bool,
    },
}

/// How closely two enclosures have to agree.
#[derive(Clone, Copy)]
struct Wanted {
    /// Beside their size.
    bits: i64,
    /// Also beside one: what is added to something huge must not drown in it.
    narrow: bool,
}

impl Wanted {
    fn bits(bits: i64) -> Self {
        Wanted { bits, narrow: false }
    }
}

#[derive(Default)]
struct Part {
    agreed: Vec<Point>,
    open: Vec<Point>,
}

/// Points held against key and entry, by the part of the domain they lie in.
pub(super) struct Trial<'a> {
    sampler: &'a Sampler<'a>,
    key: &'a Expr,
    entry: &'a Expr,
    parts: Parts,
    seen: BTreeMap<Cell, Part>,
    /// Points where both agree closely, and where both have values at all.
    pub agreed: usize,
    pub both_defined: usize,
    key_defined: usize,
    entry_defined: usize,
    struck: Vec<Point>,
}

impl<'a> Trial<'a> {
    pub fn new(sampler: &'a Sampler<'a>, key: &'a Expr, entry: &'a Expr, parts: Parts) -> Self {
        Trial {
            sampler,
            key,
            entry,
            parts,
            seen: BTreeMap::new(),
            agreed: 0,
            both_defined: 0,
            key_defined: 0,
            entry_defined: 0,
            struck: Vec::new(),
        }
    }

    /// Looks at points with fast enclosures; a verdict if one of them decides.
    pub fn run(&mut self, points: &[Point]) -> Option<Equality> {
        for point in points {
            if Budget::is_spent() {
                return None;
            }
            let found = self.look::<f64>(point, 53, Wanted::bits(TIGHT), true);
            match found {
                Found::Different => return Some(different(point)),
                Found::NoKey => {}
                Found::Strike => {
                    if let Some(verdict) = self.strike(point) {
                        return Some(verdict);
                    }
                }
                Found::Agree(_) | Found::Open { .. } => {
                    let cell = self.parts.cell(point, self.sampler.whole);
                    if self.seen.len() >= MOST_PARTS && !self.seen.contains_key(&cell) {
                        continue;
                    }
                    let part = self.seen.entry(cell).or_default();
                    let agrees = matches!(found, Found::Agree(_));
                    self.agreed += usize::from(agrees);
                    let list = if agrees { &mut part.agreed } else { &mut part.open };
                    if list.len() < KEPT {
                        list.push(point.clone());
                    }
                }
            }
        }
        None
    }

    /// One without a value may lie at a single point, where that does not matter: it counts where points close by on one
    /// side are without one as well. Whole numbers have nothing close by; three of them count.
    fn strike(&mut self, point: &Point) -> Option<Equality> {
        if self.struck.contains(point) {
            return None;
        }
        self.struck.push(point.clone());
        let counts = if self.sampler.is_whole_only() {
            self.struck.len() >= 3
        } else {
            let sides = self.sampler.sides(point);
            sides
                .iter()
                .any(|side| !side.is_empty() && side.iter().all(|p| self.is_struck(p)))
        };
        counts.then(|| undefined(point))
    }

    /// Whether the key has a value at a point, and the entry none.
    fn is_struck(&mut self, point: &Point) -> bool {
        let found = self.look::<BigFloat>(point, LADDER[0], Wanted::bits(SURE), false);
        matches!(found, Found::Strike)
    }

    fn look<S: End>(&mut self, point: &Point, precision: usize, wanted: Wanted, counted: bool) -> Found {
        let mut evaluator = Evaluator::<S>::new(point, self.sampler.whole, precision);
        let a = evaluator.interval(self.key);
        let key_doubtful = evaluator.is_in_doubt();
        let b = evaluator.interval(self.entry);
        let entry_doubtful = evaluator.is_in_doubt();
        if counted {
            self.key_defined += usize::from(a.is_ok() && !key_doubtful);
            self.entry_defined += usize::from(b.is_ok() && !entry_doubtful);
            self.both_defined += usize::from(a.is_ok() && b.is_ok() && !key_doubtful && !entry_doubtful);
        }
        match (a, b) {
            (Err(Undefined::NoValue), _) => Found::NoKey,
            (Ok(a), Ok(b)) if disjoint(&a, &b) => match (key_doubtful, entry_doubtful) {
                (false, false) => Found::Different,
                // If the entry has a value here at all, it is another one.
                (false, true) => Found::Strike,
                (true, _) => Found::Open { key: false },
            },
            (Ok(a), Ok(b)) => {
                let bits = shared_bits(&a, &b, &evaluator.cx);
                let width = a.width_log2(&evaluator.cx).max(b.width_log2(&evaluator.cx));
                let narrow = !wanted.narrow || bits == i64::MAX || width <= NARROW;
                let doubtful = key_doubtful || entry_doubtful;
                match bits {
                    bits if bits >= wanted.bits && narrow && !doubtful => Found::Agree(bits),
                    _ => Found::Open { key: !key_doubtful },
                }
            }
            (Ok(_), Err(Undefined::NoValue)) if !key_doubtful => Found::Strike,
            (Ok(_), Err(_)) => Found::Open { key: !key_doubtful },
            (Err(Undefined::Unknown), _) => Found::Open { key: false },
        }
    }

    /// Parts of the domain that no point fell into yet are looked for: a piece may be below zero in a narrow place.
    pub fn find_parts(&mut self, base: &[Point]) -> Option<Equality> {
        let mut found: Vec<(Cell, Point)> = Vec::new();
        for point in base.iter().take(2).flat_map(|p| self.sampler.scan(p)) {
            if Budget::is_spent() || self.seen.len() + found.len() >= MOST_PARTS {
                break;
            }
            let cell = self.parts.cell(&point, self.sampler.whole);
            if !self.seen.contains_key(&cell) && found.iter().filter(|(c, _)| *c == cell).count() < 2 {
                found.push((cell, point));
            }
        }
        let points: Vec<Point> = found.into_iter().map(|(_, point)| point).collect();
        self.run(&points)
    }

    /// A part of the domain that only one or two points fell into gets more of them.
    pub fn fill_parts(&mut self) -> Option<Equality> {
        let thin: Vec<(Cell, Point)> = self
            .seen
            .iter()
            .filter(|(_, part)| part.agreed.len() < 2)
            .filter_map(|(cell, part)| {
                let point = part.agreed.first().or(part.open.first())?;
                Some((cell.clone(), point.clone()))
            })
            .collect();
        for (cell, point) in thin {
            let near: Vec<Point> = self
                .sampler
                .near(&point)
                .into_iter()
                .filter(|p| self.parts.cell(p, self.sampler.whole) == cell)
                .collect();
            if let Some(verdict) = self.run(&near) {
                return Some(verdict);
            }
        }
        None
    }

    /// The last word on a point, with more digits until it is decided.
    fn resolve(&mut self, point: &Point, proved: bool, first: bool, patient: bool) -> Found {
        let mut last = Found::Open { key: false };
        // Where the normal form has proved the two the same, only whether both have values is asked.
        let sure = Wanted {
            bits: if proved { i64::MIN } else { SURE },
            narrow: first && !proved,
        };
        let thorough = Wanted {
            bits: THOROUGH,
            narrow: true,
        };
        let [short, long, longest] = LADDER;
        let steps = match (first && patient, proved) {
            (true, false) => [(long, thorough), (long, sure), (longest, sure)],
            _ => [(short, sure), (long, sure), (long, sure)],
        };
        for (precision, wanted) in steps {
            if Budget::is_spent() {
                return last;
            }
            last = self.look::<BigFloat>(point, precision, wanted, false);
            if !matches!(last, Found::Open { .. }) {
                return last;
            }
            if precision == long && !(first && patient) {
                break;
            }
        }
        if self.both_are_nothing(point) {
            Found::Agree(-NOTHING)
        } else {
            last
        }
    }

    /// Whether both have a value at one of some points, where the fast numbers are too short to hold it.
    pub fn both_have_a_value(&self, points: &[Point]) -> bool {
        let has_value = |point: &Point, tree: &Expr| {
            let mut evaluator = Evaluator::<BigFloat>::new(point, self.sampler.whole, LADDER[0]);
            evaluator.interval(tree).is_ok() && !evaluator.is_in_doubt()
        };
        points
            .iter()
            .any(|point| has_value(point, self.key) && has_value(point, self.entry))
    }

    /// Whether both are as good as zero where they would have been told from it.
    fn both_are_nothing(&self, point: &Point) -> bool {
        let mut evaluator = Evaluator::<BigFloat>::new(point, self.sampler.whole, ZERO_BITS);
        [self.key, self.entry].into_iter().all(|tree| {
            let value = evaluator.interval(tree);
            value.is_ok_and(|v| !evaluator.is_in_doubt() && v.log2() < NOTHING)
        })
    }

    /// The last word, at high precision, part by part.
    pub fn settle(mut self, proved: &Result<bool, Stop>) -> Equality {
        let is_proved = *proved == Ok(true);
        let seen = std::mem::take(&mut self.seen);
        let (mut points, mut bits, mut undecided) = (0, i64::MAX, false);
        let many = seen.len() > 6;
        for (cell, part) in &seen {
            let agreed = part.agreed.iter().take(if many { 2 } else { 4 });
            let open = part.open.iter().take(4);
            let (mut good, mut unclear, mut key_known) = (0, 0, false);
            for point in agreed.chain(open) {
                match self.resolve(point, is_proved, good == 0, unclear < 2) {
                    Found::Different => return different(point),
                    Found::NoKey => {}
                    Found::Strike => {
                        if let Some(verdict) = self.strike(point) {
                            return verdict;
                        }
                    }
                    Found::Agree(shared) => {
                        good += 1;
                        bits = bits.min(shared);
                    }
                    Found::Open { key } => {
                        unclear += 1;
                        key_known |= key;
                    }
                }
            }
            points += good;
            // Where not even the key can be worked out, there is nothing to hold an entry against.
            undecided |= unclear > good && (key_known || good > 0) && !self.is_single(cell, part);
        }
        if self.sampler.is_whole_only() && self.struck.len() >= 2 {
            return self
                .struck
                .first()
                .map_or(Equality::new(false, Evidence::Undecided), undefined);
        }
        if points == 0 && !Budget::is_spent() {
            return Equality::new(false, self.without_points(*proved == Err(Stop::NoValue)));
        }
        if undecided || Budget::is_spent() || points == 0 {
            return Equality::new(false, Evidence::Undecided);
        }
        if is_proved {
            return Equality::new(true, Evidence::ProvedEqual);
        }
        let digits = u32::try_from(bits.clamp(0, 10_000) * 3 / 10).unwrap_or(0);
        Equality::new(true, Evidence::Agreed { points, digits })
    }

    /// Whether a part is nothing but single points at which something is zero without being known to be, as `sin(pi x)` at
    /// whole numbers: close by on both sides other parts begin. Single points are left aside.
    fn is_single(&self, cell: &Cell, part: &Part) -> bool {
        let parted = |point: &Point| {
            let sides = self.sampler.sides(point);
            sides.iter().any(|side| !side.is_empty())
                && sides
                    .iter()
                    .flatten()
                    .all(|p| self.parts.cell(p, self.sampler.whole) != *cell)
        };
        cell.contains(&UNKNOWN) && part.agreed.is_empty() && part.open.iter().all(parted)
    }

    fn without_points(&self, no_value: bool) -> Evidence {
        match (self.key_defined > 0, self.entry_defined > 0) {
            (false, _) if !no_value => Evidence::KeyHasNoValue,
            (true, false) if !self.struck.is_empty() || no_value => Evidence::EntryHasNoValue,
            _ if no_value => Evidence::EntryHasNoValue,
            _ => Evidence::Undecided,
        }
    }
}

pub(super) fn witness(point: &Point) -> Vec<(Arc<str>, BigRational)> {
    point.iter().map(|(k, v)| (k.clone(), v.clone())).collect()
}

fn different(point: &Point) -> Equality {
    let witness = witness(point);
    Equality::new(false, Evidence::ProvedDifferent { witness })
}

fn undefined(point: &Point) -> Equality {
    let witness = witness(point);
    Equality::new(false, Evidence::Undefined { witness })
}

fn disjoint<S: End>(a: &Interval<S>, b: &Interval<S>) -> bool {
    a.hi.order(&b.lo) == Ordering::Less || b.hi.order(&a.lo) == Ordering::Less
}

/// Bits that both enclosures share, beside the size of what they enclose.
fn shared_bits<S: End>(a: &Interval<S>, b: &Interval<S>, cx: &Context) -> i64 {
    let is_zero = |i: &Interval<S>| i.sign(cx) == Some(Ordering::Equal);
    if is_zero(a) && is_zero(b) {
        return i64::MAX;
    }
    let size = a.log2().max(b.log2());
    size - a.width_log2(cx).max(b.width_log2(cx))
}
