//! Points of the domain, the same for the same pair on every machine.

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{FromPrimitive, Signed, ToPrimitive};

use super::breaks::{breaks_along, places_beside};
use super::domain::{Domain, Range};
use super::pieces::{gather_literals, gather_pieces};
use crate::evaluate::{Evaluator, Point};
use crate::print::text;
use crate::tree::Expr;

/// The same for the same pair, on every machine (FNV-1a).
pub(super) fn seed(key: &Expr, entry: &Expr) -> u64 {
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

pub(super) struct Sampler<'a> {
    pub names: &'a [Arc<str>],
    pub domain: &'a Domain,
    pub whole: &'a dyn Fn(&str) -> bool,
    pub seed: u64,
}

/// Whole numbers are not tried further out.
const MOST_WHOLE: i64 = 3_000_000;
/// Points beside zeros, of all variables.
const MOST_BESIDE: usize = 90;

fn is_factorial(expr: &Expr) -> bool {
    matches!(expr, Expr::Factorial(_))
}

fn dyadic(n: i64, shift: u32) -> BigRational {
    BigRational::new(BigInt::from(n), BigInt::from(1) << shift)
}

impl Sampler<'_> {
    /// Points of all sizes and signs that the domain allows. Round 0 stays near 1, where everything has a value.
    pub(super) fn points(&self, count: usize, round: u64) -> Vec<Point> {
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

    /// The neighbourhood of a point at every scale, one variable after the other: for parts that are narrow.
    pub(super) fn scan(&self, around: &Point) -> Vec<Point> {
        let mut points = Vec::new();
        for name in self
            .names
            .iter()
            .filter(|n| matches!(self.domain.range(n), Range::Real))
        {
            let tiny = (3..24u32).map(|shift| dyadic(3, shift));
            let near = (1..=40i64).map(|n| dyadic(5 * n + 1, 5));
            let close = (1..=80i64).map(|n| dyadic(n, 6));
            for size in tiny.chain(close).chain(near) {
                for value in [size.clone(), -size] {
                    let mut point = around.clone();
                    point.insert(name.clone(), value);
                    points.push(point);
                }
            }
        }
        points
    }

    /// Many points in small places and at whole numbers, for keys with values in few places.
    pub(super) fn dense_points(&self) -> Vec<Point> {
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
    pub(super) fn points_at_literals(&self, key: &Expr, entry: &Expr) -> Vec<Point> {
        let mut sizes: Vec<BigRational> = Vec::new();
        gather_literals(key, &mut sizes);
        gather_literals(entry, &mut sizes);
        sizes.retain(|v| v.to_f64().is_some_and(|f| (4.0..1e9).contains(&f)));
        if key.any(&is_factorial) || entry.any(&is_factorial) {
            sizes.retain(|v| v.to_f64().is_some_and(|f| f < 150.0));
        }
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
                points.extend(self.whole_points_at(name, &sizes));
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

    /// Whole numbers at and around the numbers that occur: something may begin or end at any of them.
    fn whole_points_at(&self, name: &Arc<str>, sizes: &[BigRational]) -> Vec<Point> {
        let mut values: Vec<BigInt> = Vec::new();
        for size in sizes {
            let at = size.floor().to_integer();
            if at > BigInt::from(MOST_WHOLE) {
                continue;
            }
            for beside in [-2, -1, 0, 1, 2] {
                values.push(&at + BigInt::from(beside));
            }
            values.push(&at / BigInt::from(2));
            values.push(&at * BigInt::from(2) + BigInt::from(1));
            values.push(&at * BigInt::from(3) + BigInt::from(2));
        }
        values.sort();
        values.dedup();
        let Some(base) = self.points(1, 2).into_iter().next() else {
            return Vec::new();
        };
        let least = match self.domain.range(name) {
            Range::PositiveInteger => Some(1),
            Range::NonnegativeInteger => Some(0),
            _ => None,
        };
        let mirrored = least
            .is_none()
            .then(|| values.iter().map(|v| -v.clone()).collect::<Vec<_>>());
        values.extend(mirrored.unwrap_or_default());
        values
            .into_iter()
            .filter(|v| least.is_none_or(|l| *v >= BigInt::from(l)))
            .map(|v| {
                let mut point = base.clone();
                point.insert(name.clone(), BigRational::from(v));
                point
            })
            .collect()
    }

    /// Points beside the places where something inside bars, a root or a logarithm is zero, found exactly, whatever the
    /// distance between them; along each variable, the others held at one of some points.
    pub(super) fn beside_zeros(&self, key: &Expr, entry: &Expr, held: &[Point]) -> Vec<Point> {
        let mut points = Vec::new();
        let lines = if self.names.len() == 1 { 1 } else { 2 };
        for name in self.names.iter().take(3) {
            for others in held.iter().take(lines) {
                let breaks = breaks_along(key, entry, name, others);
                if breaks.is_empty() {
                    continue;
                }
                let (low, high) = self.ends(name);
                let mut places = places_beside(&breaks, low.as_ref(), high.as_ref());
                if self.domain.is_whole(name) {
                    let around = |v: &BigRational| {
                        let at = v.floor();
                        [-1, 0, 1, 2].map(|n| &at + BigRational::from(BigInt::from(n)))
                    };
                    places = places
                        .iter()
                        .map(BigRational::floor)
                        .chain(breaks.iter().flat_map(|(_, at)| around(at)))
                        .collect();
                }
                places.sort();
                places.dedup();
                for place in places {
                    let fits = low.as_ref().is_none_or(|l| place >= *l) && self.allows(name, &place);
                    if fits {
                        let mut point = others.clone();
                        point.insert(name.clone(), place);
                        points.push(point);
                    }
                }
            }
        }
        points.truncate(MOST_BESIDE);
        points
    }

    /// The ends of a variable's domain.
    fn ends(&self, name: &str) -> (Option<BigRational>, Option<BigRational>) {
        let whole = |n: i64| Some(BigRational::from(BigInt::from(n)));
        match self.domain.range(name) {
            Range::Real | Range::Integer => (None, None),
            Range::Positive | Range::Nonnegative | Range::NonnegativeInteger => (whole(0), None),
            Range::PositiveInteger => (whole(1), None),
            Range::Between(low, high) => (Some(low.clone()), Some(high.clone())),
        }
    }

    /// Points on both sides of the places where something inside bars, a root or a logarithm changes its sign.
    pub(super) fn around_breaks(&self, key: &Expr, entry: &Expr, known: &[Point]) -> Vec<Point> {
        let [name] = self.names else { return Vec::new() };
        if self.domain.is_whole(name) {
            return Vec::new();
        }
        let mut pieces = Vec::new();
        gather_pieces(key, &mut pieces);
        gather_pieces(entry, &mut pieces);
        pieces.truncate(12);
        let mut grid: Vec<BigRational> = known.iter().filter_map(|p| p.get(name).cloned()).collect();
        // What happens only around a number that was typed shows at that number.
        let mut literals = Vec::new();
        gather_literals(key, &mut literals);
        gather_literals(entry, &mut literals);
        literals.truncate(12);
        grid.extend(
            literals
                .iter()
                .map(|v| -v.clone())
                .chain(literals.iter().cloned()),
        );
        grid.retain(|v| self.allows(name, v));
        grid.sort();
        grid.dedup();
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

    /// No variable has anything between two of its values.
    pub(super) fn is_whole_only(&self) -> bool {
        self.names.iter().all(|name| self.domain.is_whole(name))
    }

    /// Points very close to one, on one side and on the other. Each variable moves by a step of its own, so that no line on
    /// which two of them are equal is followed.
    pub(super) fn sides(&self, point: &Point) -> [Vec<Point>; 2] {
        let moved = |sign: i64, shift: u32| {
            let step = |place: usize, value: &BigRational| {
                let size = value.abs() + BigRational::from(BigInt::from(1));
                size * dyadic(sign * (2 * i64::try_from(place).unwrap_or(0) + 3), shift)
            };
            let coordinate = |(place, (name, value)): (usize, (&Arc<str>, &BigRational))| {
                let still = self.domain.is_whole(name);
                let value = if still {
                    value.clone()
                } else {
                    value + step(place, value)
                };
                (name.clone(), value)
            };
            point.iter().enumerate().map(coordinate).collect::<Point>()
        };
        let inside = |p: &Point| p.iter().all(|(name, value)| self.allows(name, value));
        [1, -1].map(|sign| {
            [34, 31]
                .map(|shift| moved(sign, shift))
                .into_iter()
                .filter(inside)
                .collect()
        })
    }

    /// A few points close to one, whole numbers left as they are.
    pub(super) fn near(&self, point: &Point) -> Vec<Point> {
        let moved = |n: i64| {
            let stretch = dyadic(64 + n, 6);
            let coordinate = |(name, value): (&Arc<str>, &BigRational)| {
                let still = self.domain.is_whole(name);
                let value = if still { value.clone() } else { value * &stretch };
                (name.clone(), value)
            };
            point.iter().map(coordinate).collect::<Point>()
        };
        let inside = |p: &Point| p.iter().all(|(name, value)| self.allows(name, value));
        [1, -1, 5, -5]
            .into_iter()
            .map(moved)
            .filter(|p| p != point && inside(p))
            .collect()
    }

    pub(super) fn allows(&self, name: &str, value: &BigRational) -> bool {
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
