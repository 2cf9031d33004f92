//! A plane as a student has it: which objects are right, whatever points they were set by.

use std::collections::BTreeMap;

use super::{AxisView, ObjectKind, PlaneView, short};
use crate::bank::Inline;
use crate::interaction::slots::{from_json, is_json};
use crate::interaction::{Member, Posed, Right, Shown, plain_line, share};
use crate::response::{Plot, Response};
use crate::verdict::{Marking, Outcome};

pub(super) struct Key {
    pub id: String,
    pub label: String,
    pub plot: Plot,
    pub kind: ObjectKind,
}

impl Key {
    pub fn points(&self) -> Vec<(f64, f64)> {
        self.plot.points.iter().filter_map(coordinates).collect()
    }
}

pub(super) struct PosedPlane {
    pub view: PlaneView,
    pub keys: Vec<Key>,
    pub tolerance: f64,
}

/// A coordinate as it was typed or set.
fn coordinate(text: &str) -> Option<f64> {
    let names = maths::Names::new([]).ok()?;
    let read = maths::read_expression(text, &maths::ReadOptions::number(&names)).ok()?;
    maths::approximate(&read.tree).ok().filter(|v| v.is_finite())
}

fn coordinates(point: &(String, String)) -> Option<(f64, f64)> {
    Some((coordinate(&point.0)?, coordinate(&point.1)?))
}

type Point = (f64, f64);

impl PosedPlane {
    fn objects<'a>(&self, response: &'a Response) -> Option<&'a BTreeMap<String, Plot>> {
        match response {
            Response::Plotted { objects } => Some(objects),
            _ => None,
        }
    }

    fn near(&self, a: f64, b: f64) -> bool {
        (a - b).abs() <= self.tolerance + 1e-9 * (1.0 + b.abs())
    }

    fn at(&self, a: Point, b: Point) -> bool {
        self.near(a.0, b.0) && self.near(a.1, b.1)
    }

    /// Whether two lines are the same: where the key is steep, by x at the lower and upper edge, else by y at both sides.
    fn same_line(&self, a: (Point, Point), key: (Point, Point)) -> bool {
        let (dx, dy) = (key.1.0 - key.0.0, key.1.1 - key.0.1);
        let turned = |p: Point| (p.1, p.0);
        let y = self.view.y.as_ref().map_or((0.0, 1.0), |y| (y.from, y.to));
        let (a, key, edges) = if dy.abs() > dx.abs() {
            ((turned(a.0), turned(a.1)), (turned(key.0), turned(key.1)), y)
        } else {
            (a, key, (self.view.x.from, self.view.x.to))
        };
        let value = |(p, q): (Point, Point), x: f64| p.1 + (q.1 - p.1) / (q.0 - p.0) * (x - p.0);
        if (a.1.0 - a.0.0).abs() < 1e-12 {
            return false;
        }
        // Points that are typed within their tolerance turn a line about; it is held to that at the edges of the plane.
        [edges.0, edges.1]
            .into_iter()
            .all(|x| self.near(value(a, x), value(key, x)))
    }

    fn is_right(&self, key: &Key, plot: &Plot) -> bool {
        let given: Vec<Point> = plot.points.iter().filter_map(coordinates).collect();
        let wanted = key.points();
        if given.len() != wanted.len() {
            return false;
        }
        match (key.kind, given.as_slice(), wanted.as_slice()) {
            (ObjectKind::Line, [a, b], [c, d]) => self.same_line((*a, *b), (*c, *d)),
            (ObjectKind::Segment, [a, b], [c, d]) => {
                (self.at(*a, *c) && self.at(*b, *d)) || (self.at(*a, *d) && self.at(*b, *c))
            }
            (ObjectKind::Circle, [a, b], [c, d]) => {
                let radius = |m: &Point, r: &Point| (m.0 - r.0).hypot(m.1 - r.1);
                self.at(*a, *c) && self.near(radius(a, b), radius(c, d))
            }
            (ObjectKind::Parabola, [a, b], [c, d]) => {
                let bend = |v: &Point, p: &Point| (p.1 - v.1) / ((p.0 - v.0) * (p.0 - v.0));
                let off = |v: &Point, p: &Point, x: f64| v.1 + bend(v, p) * (x - v.0) * (x - v.0);
                // At its vertex, and one to the right of it.
                (a.0 - b.0).abs() > 1e-12
                    && self.at(*a, *c)
                    && self.near(off(a, b, a.0 + 1.0), off(c, d, c.0 + 1.0))
            }
            (ObjectKind::HalfPlane, [a, b, i], [c, d, j]) => {
                let side = |p: &Point| (d.0 - c.0) * (p.1 - c.1) - (d.1 - c.1) * (p.0 - c.0);
                self.same_line((*a, *b), (*c, *d)) && side(i) * side(j) > 0.0 && plot.open == key.plot.open
            }
            (ObjectKind::Interval, [a, b], [c, d]) => {
                let open = |n: usize| plot.open.get(n).copied().unwrap_or(false);
                let (low, high) = if a.0 <= b.0 {
                    ((a.0, open(0)), (b.0, open(1)))
                } else {
                    ((b.0, open(1)), (a.0, open(0)))
                };
                let wanted = |n: usize| key.plot.open.get(n).copied().unwrap_or(false);
                self.near(low.0, c.0) && self.near(high.0, d.0) && low.1 == wanted(0) && high.1 == wanted(1)
            }
            (_, given, wanted) => given.iter().zip(wanted).all(|(a, b)| self.at(*a, *b)),
        }
    }

    fn words(&self, key: &Key, plot: &Plot) -> Vec<Inline> {
        let shown: Vec<String> = match key.kind {
            ObjectKind::Interval => {
                let open = |n: usize| plot.open.get(n).copied().unwrap_or(false);
                let ends: Vec<&str> = plot.points.iter().map(|p| p.0.as_str()).collect();
                vec![format!(
                    "{}{}{}",
                    if open(0) { '(' } else { '[' },
                    ends.join(", "),
                    if open(1) { ')' } else { ']' }
                )]
            }
            _ => plot.points.iter().map(|(x, y)| format!("({x}, {y})")).collect(),
        };
        let edge = match (key.kind, plot.open.first()) {
            (ObjectKind::HalfPlane, Some(true)) => ", without its edge",
            (ObjectKind::HalfPlane, _) => ", with its edge",
            _ => "",
        };
        vec![Inline::Text(format!("{}: {}{edge}", key.label, shown.join(", ")))]
    }
}

impl Posed for PosedPlane {
    fn shown(&self) -> Shown {
        Shown::Plane(self.view.clone())
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let objects = self.objects(response)?;
        for key in &self.keys {
            let wanted = key.plot.points.len();
            let plot = objects.get(&key.id);
            let given = plot.map(|p| p.points.as_slice()).unwrap_or_default();
            let set = given
                .iter()
                .filter(|p| !p.0.trim().is_empty() && !p.1.trim().is_empty())
                .count();
            if set < wanted {
                let words = match (set, wanted) {
                    (0, _) => format!("{} is not set yet.", key.label),
                    (_, 2) => format!("{} still needs its second point.", key.label),
                    _ => format!("{} has {set} of its {wanted} points.", key.label),
                };
                return Some(words);
            }
            let bad = given
                .iter()
                .flat_map(|p| [&p.0, &p.1])
                .find(|text| coordinate(text).is_none());
            if let Some(text) = bad {
                return Some(format!("{}: {text} can't be read as a number.", key.label));
            }
            let points: Vec<Point> = given.iter().filter_map(coordinates).collect();
            if let [a, b, ..] = points.as_slice()
                && key.kind != ObjectKind::Sketch
                && (a.0 - b.0).abs() < 1e-12
                && (a.1 - b.1).abs() < 1e-12
            {
                return Some(format!("{}: two of its points are the same.", key.label));
            }
        }
        None
    }

    /// A share for each object.
    fn mark(&self, response: &Response) -> Option<Marking> {
        let objects = self.objects(response)?;
        let right = |key: &&Key| objects.get(&key.id).is_some_and(|plot| self.is_right(key, plot));
        let count = self.keys.iter().filter(right).count();
        let marking = Marking::shared(share(count, 0, self.keys.len()));
        Some(match marking.outcome {
            Outcome::Partial => marking.note(format!("{count} of {} are right.", self.keys.len())),
            _ => marking,
        })
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let Some(objects) = self.objects(response) else {
            return Vec::new();
        };
        let one = |key: &Key| {
            Some(Member {
                id: key.id.clone(),
                right: self.is_right(key, objects.get(&key.id)?),
                ..Member::default()
            })
        };
        self.keys.iter().filter_map(one).collect()
    }

    fn key(&self) -> Response {
        Response::Plotted {
            objects: self.keys.iter().map(|k| (k.id.clone(), k.plot.clone())).collect(),
        }
    }

    fn right(&self) -> Right {
        Right {
            choices: self.chosen(&self.key()),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let objects = self.objects(response).into_iter().flatten();
        let line =
            |(id, plot): (&String, &Plot)| Some(self.words(self.keys.iter().find(|k| k.id == *id)?, plot));
        objects.filter_map(line).collect()
    }

    fn in_words(&self, response: &Response) -> String {
        self.chosen(response)
            .iter()
            .map(|l| plain_line(l))
            .collect::<Vec<_>>()
            .join("; ")
    }

    fn is_readable(&self, response: &Response) -> bool {
        self.unfinished(response).is_none()
    }

    /// The response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        from_json(text).filter(|json| is_json(text) && matches!(json, Response::Plotted { .. }))
    }

    /// The last object's last point one step too high, or too far on a number line.
    fn mistaken(&self) -> Response {
        let Response::Plotted { mut objects } = self.key() else {
            return self.key();
        };
        let last = self.keys.last();
        let plot = last.and_then(|k| objects.get_mut(&k.id));
        let inside = last.is_some_and(|k| k.kind == ObjectKind::HalfPlane);
        if let Some(point) = plot.and_then(|p| {
            if inside {
                p.points.first_mut()
            } else {
                p.points.last_mut()
            }
        }) {
            let moved = |text: &str| {
                coordinate(text)
                    .map(|v| short(v + self.view.snap).unwrap_or_else(|| (v + self.view.snap).to_string()))
            };
            if self.view.y.is_none() {
                point.0 = moved(&point.0).unwrap_or_default();
            } else {
                point.1 = moved(&point.1).unwrap_or_default();
                if last.is_some_and(|k| k.kind == ObjectKind::Circle) {
                    point.0 = moved(&point.0).unwrap_or_default();
                }
            }
        }
        Response::Plotted { objects }
    }

    fn answer(&self) -> String {
        self.in_words(&self.key())
    }

    fn faults(&self) -> Vec<String> {
        let mut faults = Vec::new();
        let inside = |v: f64, axis: &AxisView| (axis.from - 1e-9..=axis.to + 1e-9).contains(&v);
        for key in &self.keys {
            for (x, y) in key.points() {
                if !inside(x, &self.view.x) || self.view.y.as_ref().is_some_and(|axis| !inside(y, axis)) {
                    faults.push(format!(
                        "`{}` cannot be set: ({x}, {y}) is off the plane",
                        key.label
                    ));
                }
                let on_grid = |v: f64, from: f64| {
                    let steps = (v - from) / self.view.snap;
                    (steps - steps.round()).abs() * self.view.snap <= self.tolerance + 1e-9
                };
                let off_y = self.view.y.as_ref().is_some_and(|axis| !on_grid(y, axis.from));
                if !on_grid(x, self.view.x.from) || off_y {
                    faults.push(format!(
                        "`{}` cannot be dragged into place: ({x}, {y}) is between the steps",
                        key.label
                    ));
                }
            }
        }
        faults
    }
}
