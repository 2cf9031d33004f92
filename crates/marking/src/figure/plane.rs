//! A plane with curves, points, vectors and shaded regions; a number line.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::{Canvas, Ink, Side};
use super::{At, Drawn, Pen, listed, ticks, written};
use crate::answer::NumberText;
use crate::bank::RenderError;

type Pair = (NumberText, NumberText);

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Plane {
    /// From, to.
    pub x: Pair,
    pub y: Pair,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    x_step: Option<NumberText>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    y_step: Option<NumberText>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    x_label: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    y_label: String,
    /// Height over width of the sheet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    shape: Option<f64>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    curves: Vec<Curve>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    points: Vec<Spot>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    segments: Vec<Stretch>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    vectors: Vec<Stretch>,
    /// Corners of shaded regions.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    regions: Vec<Vec<Pair>>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Curve {
    /// y as an expression in x.
    y: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    from: Option<NumberText>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    to: Option<NumberText>,
    /// Said in the text alternative; what it is, not where.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    name: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Spot {
    at: Pair,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    label: String,
    #[serde(default)]
    side: At,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Stretch {
    from: Pair,
    to: Pair,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    label: String,
    #[serde(default)]
    side: At,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    dashed: bool,
}

const WIDTH: f64 = 420.0;
const MARGIN: (f64, f64) = (44.0, 34.0);

/// A step of 1, 2 or 5 times a power of ten that gives about ten places.
fn even_step(from: f64, to: f64) -> f64 {
    let raw = (to - from) / 10.0;
    let ten = 10f64.powf(raw.log10().floor());
    let over = raw / ten;
    ten * if over <= 1.001 {
        1.0
    } else if over <= 2.001 {
        2.0
    } else if over <= 5.001 {
        5.0
    } else {
        10.0
    }
}

fn pair((a, b): (f64, f64)) -> Pair {
    (NumberText::Decimal(a), NumberText::Decimal(b))
}

impl Plane {
    /// With nothing on it.
    pub fn empty(x: (f64, f64), y: (f64, f64), x_label: &str, y_label: &str) -> Self {
        Plane {
            x: pair(x),
            y: pair(y),
            x_step: None,
            y_step: None,
            x_label: x_label.to_owned(),
            y_label: y_label.to_owned(),
            shape: Some(1.0),
            curves: Vec::new(),
            points: Vec::new(),
            segments: Vec::new(),
            vectors: Vec::new(),
            regions: Vec::new(),
        }
    }

    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (x0, x1) = pen.point(&self.x)?;
        let (y0, y1) = pen.point(&self.y)?;
        if x1 <= x0 || y1 <= y0 {
            return Err(RenderError::unfit("a plane whose axes do not rise"));
        }
        let height = (WIDTH * self.shape.unwrap_or(0.75)).clamp(160.0, 560.0);
        let (sx, sy) = (
            (WIDTH - 2.0 * MARGIN.0) / (x1 - x0),
            (height - 2.0 * MARGIN.1) / (y1 - y0),
        );
        let place = move |x: f64, y: f64| (MARGIN.0 + (x - x0) * sx, height - MARGIN.1 - (y - y0) * sy);
        let step = |given: &Option<NumberText>, from, to| match given {
            Some(step) => pen.number(step),
            None => Ok(even_step(from, to)),
        };
        let (dx, dy) = (step(&self.x_step, x0, x1)?, step(&self.y_step, y0, y1)?);
        let mut canvas = Canvas::new(WIDTH, height);
        let mut said: Vec<String> = Vec::new();
        for region in &self.regions {
            let corners = region
                .iter()
                .map(|p| pen.point(p))
                .collect::<Result<Vec<_>, _>>()?;
            let on_sheet: Vec<(f64, f64)> = corners.iter().map(|(x, y)| place(*x, *y)).collect();
            canvas.path(&on_sheet, Ink::Shade, true);
            let corners: Vec<String> = corners.iter().map(|p| at_words(*p)).collect();
            said.push(format!("a shaded region with the corners {}", listed(&corners)));
        }
        axes(&mut canvas, ((x0, x1, dx), (y0, y1, dy)), &place);
        canvas.label(
            &pen.words(&self.x_label)?,
            (WIDTH - 20.0, place(0.0, y0.max(0.0).min(y1)).1),
            Side::Above,
        );
        canvas.label(
            &pen.words(&self.y_label)?,
            (place(x0.max(0.0).min(x1), 0.0).0, MARGIN.1 - 8.0),
            Side::Above,
        );
        for curve in &self.curves {
            let from = curve.from.as_ref().map_or(Ok(x0), |n| pen.number(n))?;
            let to = curve.to.as_ref().map_or(Ok(x1), |n| pen.number(n))?;
            for piece in sampled(&pen.key(&curve.y)?, (from, to), (y0, y1))? {
                let on_sheet: Vec<(f64, f64)> = piece.iter().map(|(x, y)| place(*x, *y)).collect();
                canvas.path(&on_sheet, Ink::Main, false);
            }
            said.push(if curve.name.is_empty() {
                "a curve".into()
            } else {
                pen.words(&curve.name)?
            });
        }
        for stretch in &self.segments {
            said.push(draw_stretch(&mut canvas, stretch, pen, &place, false)?);
        }
        for stretch in &self.vectors {
            said.push(draw_stretch(&mut canvas, stretch, pen, &place, true)?);
        }
        for spot in &self.points {
            let at = pen.point(&spot.at)?;
            let label = pen.words(&spot.label)?;
            canvas.dot(place(at.0, at.1), Ink::Second, true);
            canvas.label(&label, place(at.0, at.1), spot.side.into());
            said.push(format!("the point {label} {}", at_words(at)).replace("  ", " "));
        }
        let range = |from: f64, to: f64| format!("from {} to {}", written(from), written(to));
        let alt = format!(
            "A plane, x {}, y {}{}{}.",
            range(x0, x1),
            range(y0, y1),
            if said.is_empty() { "" } else { ": " },
            listed(&said)
        );
        Ok(Drawn {
            canvas,
            alt,
            place: Box::new(place),
        })
    }
}

fn at_words((x, y): (f64, f64)) -> String {
    format!("({}, {})", written(x), written(y))
}

fn draw_stretch(
    canvas: &mut Canvas,
    stretch: &Stretch,
    pen: &Pen,
    place: &dyn Fn(f64, f64) -> (f64, f64),
    arrow: bool,
) -> Result<String, RenderError> {
    let (from, to) = (pen.point(&stretch.from)?, pen.point(&stretch.to)?);
    let (a, b) = (place(from.0, from.1), place(to.0, to.1));
    if arrow {
        canvas.arrow(a, b, Ink::Second);
    } else if stretch.dashed {
        canvas.dashed(a, b, Ink::Line);
    } else {
        canvas.line(a, b, Ink::Second);
    }
    let label = pen.words(&stretch.label)?;
    canvas.label(
        &label,
        (f64::midpoint(a.0, b.0), f64::midpoint(a.1, b.1)),
        stretch.side.into(),
    );
    let what = if arrow { "an arrow" } else { "a line" };
    let name = if label.is_empty() {
        String::new()
    } else {
        format!(" {label}")
    };
    Ok(format!(
        "{what}{name} from {} to {}",
        at_words(from),
        at_words(to)
    ))
}

type Scale = (f64, f64, f64);

fn axes(
    canvas: &mut Canvas,
    ((x0, x1, dx), (y0, y1, dy)): (Scale, Scale),
    place: &dyn Fn(f64, f64) -> (f64, f64),
) {
    // The axes stand at zero where zero is on the sheet.
    let (ax, ay) = (0f64.max(x0).min(x1), 0f64.max(y0).min(y1));
    let first = |from: f64, step: f64| (from / step - 1e-9).ceil() * step;
    for x in ticks(first(x0, dx), x1, dx) {
        canvas.line(place(x, y0), place(x, y1), Ink::Faint);
        if (x - ax).abs() > dx * 1e-6 || ax == x0 {
            canvas.label(&written(x), place(x, ay), Side::Below);
        }
    }
    for y in ticks(first(y0, dy), y1, dy) {
        canvas.line(place(x0, y), place(x1, y), Ink::Faint);
        if (y - ay).abs() > dy * 1e-6 {
            canvas.label(&written(y), place(ax, y), Side::Left);
        }
    }
    canvas.arrow(place(x0, ay), place(x1, ay), Ink::Line);
    canvas.arrow(place(ax, y0), place(ax, y1), Ink::Line);
}

/// A curve in pieces: where it has no value, or leaves the sheet, it is broken off.
fn sampled(
    expression: &str,
    (from, to): (f64, f64),
    (y0, y1): (f64, f64),
) -> Result<Vec<Vec<(f64, f64)>>, RenderError> {
    const STEPS: u32 = 160;
    let names = maths::Names::new(["x"]).map_err(|e| RenderError::unfit(&e))?;
    let tree = maths::read_expression(expression, &maths::ReadOptions::new(&names))
        .map_err(|_| RenderError::unfit(&format!("the curve `{expression}`")))?
        .tree;
    let room = (y1 - y0) * 0.02;
    let mut pieces: Vec<Vec<(f64, f64)>> = vec![Vec::new()];
    for n in 0..=STEPS {
        let x = from + (to - from) * f64::from(n) / f64::from(STEPS);
        let at = num_rational::BigRational::from_float(x).map(|r| maths::Expr::rational(&r));
        let y = at.and_then(|at| maths::approximate(&tree.substitute("x", &at)).ok());
        match (
            y.filter(|y| (y0 - room..=y1 + room).contains(y)),
            pieces.last_mut(),
        ) {
            (Some(y), Some(piece)) => piece.push((x, y)),
            (None, Some(piece)) if !piece.is_empty() => pieces.push(Vec::new()),
            _ => {}
        }
    }
    pieces.retain(|p| p.len() > 1);
    Ok(pieces)
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct NumberLine {
    from: NumberText,
    to: NumberText,
    step: NumberText,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    points: Vec<LineSpot>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    intervals: Vec<LineStretch>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    unit: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct LineSpot {
    at: NumberText,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    label: String,
}

/// From one number to another; an end that is left out goes on to the arrow.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct LineStretch {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    from: Option<NumberText>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    to: Option<NumberText>,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    open_from: bool,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    open_to: bool,
}

impl NumberLine {
    /// With nothing on it.
    pub fn empty((from, to): (f64, f64), unit: &str) -> Self {
        NumberLine {
            from: NumberText::Decimal(from),
            to: NumberText::Decimal(to),
            step: NumberText::Decimal(even_step(from, to)),
            points: Vec::new(),
            intervals: Vec::new(),
            unit: unit.to_owned(),
        }
    }

    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (from, to, step) = (
            pen.number(&self.from)?,
            pen.number(&self.to)?,
            pen.number(&self.step)?,
        );
        if to <= from || step <= 0.0 {
            return Err(RenderError::unfit("a number line that does not rise"));
        }
        let scale = (WIDTH - 60.0) / (to - from);
        let place = move |x: f64, _: f64| (30.0 + (x - from) * scale, 52.0);
        let mut canvas = Canvas::new(WIDTH, 88.0);
        let mut said = Vec::new();
        canvas.arrow((8.0, 52.0), (WIDTH - 6.0, 52.0), Ink::Line);
        for x in ticks(from, to, step) {
            let (px, py) = place(x, 0.0);
            canvas.line((px, py - 5.0), (px, py + 5.0), Ink::Line);
            canvas.label(&written(x), (px, py + 3.0), Side::Below);
        }
        for stretch in &self.intervals {
            let ends = |given: &Option<NumberText>| given.as_ref().map(|n| pen.number(n)).transpose();
            let (a, b) = (ends(&stretch.from)?, ends(&stretch.to)?);
            let left = a.map_or((10.0, 52.0), |x| place(x, 0.0));
            let right = b.map_or((WIDTH - 8.0, 52.0), |x| place(x, 0.0));
            canvas.line(left, right, Ink::Main);
            let mut end = |at: Option<f64>, open: bool| {
                if let Some(x) = at {
                    canvas.dot(place(x, 0.0), Ink::Main, !open);
                }
            };
            end(a, stretch.open_from);
            end(b, stretch.open_to);
            let word = |open| if open { "an open" } else { "a filled" };
            let from = a.map_or("from the left".into(), |x| {
                format!("from {} circle at {}", word(stretch.open_from), written(x))
            });
            let to = b.map_or("on to the right".into(), |x| {
                format!("to {} circle at {}", word(stretch.open_to), written(x))
            });
            said.push(format!("a thick line {from} {to}"));
        }
        for spot in &self.points {
            let at = pen.number(&spot.at)?;
            let label = pen.words(&spot.label)?;
            canvas.dot(place(at, 0.0), Ink::Second, true);
            canvas.label(&label, place(at, 0.0), Side::Above);
            said.push(if label.is_empty() {
                format!("a point at {}", written(at))
            } else {
                format!("the point {label} at {}", written(at))
            });
        }
        let unit = pen.words(&self.unit)?;
        canvas.label(&unit, (WIDTH - 22.0, 48.0), Side::Above);
        let colon = if said.is_empty() { "" } else { ": " };
        let alt = format!(
            "A number line from {} to {}{colon}{}.",
            written(from),
            written(to),
            listed(&said)
        );
        Ok(Drawn {
            canvas,
            alt,
            place: Box::new(place),
        })
    }
}
