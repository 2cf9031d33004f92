//! Points of the domain, the same for the same pair on every machine.

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{FromPrimitive, Signed, ToPrimitive};

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
