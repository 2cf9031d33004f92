//! Points, lines, circles, parabolas, half planes, intervals and sketches that are set on a plane or a number line (a
//! graphic interaction of QTI's portable custom kind). Marked from coordinates: a line or a curve by what it is, not by the
//! points that it was drawn through.

mod posed;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use self::posed::{Key, PosedPlane};
use super::{Known, Posed, Shape, Spec, check_ids, faulty};
use crate::answer::NumberText;
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::figure::Drawing;
use crate::response::Plot;

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
