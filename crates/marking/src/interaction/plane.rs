//! Points, lines, circles, parabolas, half planes, intervals and sketches that are set on a plane or a number line (a
//! graphic interaction of QTI's portable custom kind). Marked from coordinates: a line or a curve by what it is, not by the
//! points that it was drawn through.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{from_json, is_json};
use super::{Known, Member, Posed, Right, Shape, Shown, Spec, check_ids, faulty, plain_line, share};
use crate::answer::NumberText;
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::figure::Drawing;
use crate::response::{Plot, Response};
use crate::verdict::{Marking, Outcome};

type Pair = (NumberText, NumberText);

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plane {
    /// From, to.
    pub x: Pair,
    /// Left out for a number line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub y: Option<Pair>,
    /// What dragged points snap to; typed ones need not.
    pub snap: NumberText,
    /// How far off a coordinate may be; nothing if left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<NumberText>,
    pub objects: Vec<Object>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub x_label: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub y_label: String,
}

/// What is to be set, with where it is right.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Object {
    pub id: String,
    pub label: String,
    #[serde(flatten)]
    pub draw: Draw,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "draw", rename_all = "snake_case", deny_unknown_fields)]
pub enum Draw {
    Point {
        at: Pair,
    },
    /// Through two points that lie on it; any two are right for the student.
    Line {
        through: [Pair; 2],
    },
    /// Its ends, either first.
    Segment {
        ends: [Pair; 2],
    },
    Circle {
        centre: Pair,
        radius: NumberText,
    },
    /// With its vertex, and another point that lies on it.
    Parabola {
        vertex: Pair,
        through: Pair,
    },
    /// Its edge through two points, and a point inside it.
    HalfPlane {
        edge: [Pair; 2],
        inside: Pair,
        /// The edge does not belong to it.
        #[serde(default)]
        strict: bool,
    },
    /// On a number line.
    Interval {
        from: NumberText,
        to: NumberText,
        #[serde(default)]
        open_from: bool,
        #[serde(default)]
        open_to: bool,
    },
    /// The values of a function at these places; a curve is drawn through them.
    Sketch {
        points: Vec<Pair>,
    },
}

impl Draw {
    /// How many points the student sets.
    fn count(&self) -> usize {
        match self {
            Draw::Point { .. } => 1,
            Draw::Line { .. }
            | Draw::Segment { .. }
            | Draw::Circle { .. }
            | Draw::Parabola { .. }
            | Draw::Interval { .. } => 2,
            Draw::HalfPlane { .. } => 3,
            Draw::Sketch { points } => points.len(),
        }
    }

    fn name(&self) -> ObjectKind {
        match self {
            Draw::Point { .. } => ObjectKind::Point,
            Draw::Line { .. } => ObjectKind::Line,
            Draw::Segment { .. } => ObjectKind::Segment,
            Draw::Circle { .. } => ObjectKind::Circle,
            Draw::Parabola { .. } => ObjectKind::Parabola,
            Draw::HalfPlane { .. } => ObjectKind::HalfPlane,
            Draw::Interval { .. } => ObjectKind::Interval,
            Draw::Sketch { .. } => ObjectKind::Sketch,
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ObjectKind {
    Point,
    Line,
    Segment,
    Circle,
    Parabola,
    HalfPlane,
    Interval,
    Sketch,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlaneView {
    /// The empty plane, with its grid and axes.
    drawing: Drawing,
    /// From, to, and pixels: where the first and the last number are.
    x: AxisView,
    /// Nothing for a number line.
    y: Option<AxisView>,
    snap: f64,
    objects: Vec<ObjectView>,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct AxisView {
    from: f64,
    to: f64,
    /// Pixels of the drawing at both ends.
    at_from: f64,
    at_to: f64,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ObjectView {
    id: String,
    label: String,
    kind: ObjectKind,
    /// How many points it takes.
    points: usize,
    /// x of each point, where that is given.
    fixed_x: Vec<f64>,
}

impl Spec for Plane {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.objects.iter().map(|o| o.id.as_str()))?;
        if self.objects.is_empty() {
            return Err(faulty(part, "nothing is to be set"));
        }
        let on_line = |o: &&Object| matches!(o.draw, Draw::Interval { .. } | Draw::Point { .. });
        let all_on_line = self.objects.iter().all(|o| on_line(&o));
        let any_interval = self
            .objects
            .iter()
            .any(|o| matches!(o.draw, Draw::Interval { .. }));
        if self.y.is_none() != any_interval || (self.y.is_none() && !all_on_line) {
            return Err(faulty(
                part,
                "intervals belong on a number line, which has no `y`; all else on a plane",
            ));
        }
        match replies.first() {
            Some(reply) => Err(FormatError::ReplyToNothing {
                part: part.to_owned(),
                to: reply.to.clone(),
            }),
            None => Ok(()),
        }
    }

    fn guess(&self, typed: f64) -> f64 {
        typed
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "plane",
            ids: self
                .objects
                .iter()
                .map(|o| format!("{}:{}", o.id, o.draw.count()))
                .collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let value = |n: &NumberText| set.value(n);
        let (x0, x1) = (value(&self.x.0)?, value(&self.x.1)?);
        let ends = self
            .y
            .as_ref()
            .map(|(a, b)| Ok::<_, RenderError>((value(a)?, value(b)?)))
            .transpose()?;
        let snap = value(&self.snap)?;
        if snap <= 0.0 {
            return Err(RenderError::unfit("a plane that snaps to nothing"));
        }
        let drawn = crate::figure::empty_plane(set, (x0, x1), ends, (&self.x_label, &self.y_label))?;
        let ((ax, ay), (bx, by)) = (
            (drawn.place)(x0, ends.map_or(0.0, |e| e.0)),
            (drawn.place)(x1, ends.map_or(0.0, |e| e.1)),
        );
        let mut keys = Vec::new();
        for object in &self.objects {
            keys.push(Key {
                id: object.id.clone(),
                label: set.words(&object.label)?,
                plot: key_of(set, &object.draw)?,
                kind: object.draw.name(),
            });
        }
        let object = |k: &Key| ObjectView {
            id: k.id.clone(),
            label: k.label.clone(),
            kind: k.kind,
            points: k.plot.points.len(),
            fixed_x: if k.kind == ObjectKind::Sketch {
                k.points().iter().map(|p| p.0).collect()
            } else {
                Vec::new()
            },
        };
        Ok(Box::new(PosedPlane {
            view: PlaneView {
                drawing: drawn.drawing(),
                x: AxisView {
                    from: x0,
                    to: x1,
                    at_from: ax,
                    at_to: bx,
                },
                y: ends.map(|(from, to)| AxisView {
                    from,
                    to,
                    at_from: ay,
                    at_to: by,
                }),
                snap,
                objects: keys.iter().map(object).collect(),
            },
            keys,
            tolerance: self.tolerance.as_ref().map(value).transpose()?.unwrap_or(0.0),
        }))
    }

    fn known(&self, _part: &str, _to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        Err(RenderError::unfit("a reply to what is set on a plane"))
    }
}

/// The points by which an object is right.
fn key_of(set: &Set, draw: &Draw) -> Result<Plot, RenderError> {
    let number = |n: &NumberText| -> Result<String, RenderError> {
        set.value(n)?;
        let text = set.key(&n.text())?;
        // Decimals where they are exact, as a student would type them.
        Ok(short(set.value(n)?).unwrap_or(text))
    };
    let point = |p: &Pair| Ok::<_, RenderError>((number(&p.0)?, number(&p.1)?));
    let mut plot = Plot::default();
    match draw {
        Draw::Point { at } => plot.points.push(point(at)?),
        Draw::Line { through: two } | Draw::Segment { ends: two } => {
            for p in two {
                plot.points.push(point(p)?);
            }
        }
        Draw::Circle { centre, radius } => {
            let (x, y) = point(centre)?;
            let rim = set.value(&centre.0)? + set.value(radius)?;
            let rim = short(rim).unwrap_or_else(|| rim.to_string());
            plot.points = vec![(x, y.clone()), (rim, y)];
        }
        Draw::Parabola { vertex, through } => plot.points = vec![point(vertex)?, point(through)?],
        Draw::HalfPlane { edge, inside, strict } => {
            for p in edge.iter().chain([inside]) {
                plot.points.push(point(p)?);
            }
            plot.open = vec![*strict];
        }
        Draw::Interval {
            from,
            to,
            open_from,
            open_to,
        } => {
            plot.points = vec![(number(from)?, "0".into()), (number(to)?, "0".into())];
            plot.open = vec![*open_from, *open_to];
        }
        Draw::Sketch { points } => {
            for p in points {
                plot.points.push(point(p)?);
            }
        }
    }
    Ok(plot)
}

/// A number with up to three decimals, if that is all of it.
fn short(n: f64) -> Option<String> {
    let text = format!("{n:.3}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    let exact = (text.parse::<f64>().ok()? - n).abs() < 1e-12 * n.abs().max(1.0);
    exact.then(|| {
        if text == "-0" {
            "0".to_owned()
        } else {
            text.to_owned()
        }
    })
}

struct Key {
    id: String,
    label: String,
    plot: Plot,
    kind: ObjectKind,
}

impl Key {
    fn points(&self) -> Vec<(f64, f64)> {
        self.plot.points.iter().filter_map(coordinates).collect()
    }
}

struct PosedPlane {
    view: PlaneView,
    keys: Vec<Key>,
    tolerance: f64,
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
