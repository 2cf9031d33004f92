//! Triangles and other polygons with labelled sides and angles; circles.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::{Canvas, Ink, Side};
use super::{Drawn, Pen, listed, written};
use crate::answer::NumberText;
use crate::bank::RenderError;

const WIDTH: f64 = 420.0;
const MARGIN: f64 = 56.0;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Polygon {
    /// Corners, anticlockwise; drawn to scale.
    corners: Vec<(NumberText, NumberText)>,
    /// The names of the corners, if they have any.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    names: Vec<String>,
    /// What stands at the side from each corner to the next; "" for nothing.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    sides: Vec<String>,
    /// What stands in the angle at each corner; "" for nothing, "right" for the sign of a right angle.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    angles: Vec<String>,
    /// What it is: "A tower and its shadow".
    #[serde(default, skip_serializing_if = "String::is_empty")]
    of: String,
}

/// The middle of the corners, the scale and the height of a sheet that takes them.
fn fitted(corners: &[(f64, f64)]) -> (f64, f64, f64, f64) {
    let xs = corners.iter().map(|c| c.0);
    let ys = corners.iter().map(|c| c.1);
    let low = |all: &mut dyn Iterator<Item = f64>| all.fold(f64::INFINITY, f64::min);
    let high = |all: &mut dyn Iterator<Item = f64>| all.fold(f64::NEG_INFINITY, f64::max);
    let (x0, x1) = (low(&mut xs.clone()), high(&mut xs.clone()));
    let (y0, y1) = (low(&mut ys.clone()), high(&mut ys.clone()));
    let (w, h) = ((x1 - x0).max(1e-6), (y1 - y0).max(1e-6));
    let scale = ((WIDTH - 2.0 * MARGIN) / w).min(230.0 / h);
    (
        x0 + (w - (WIDTH - 2.0 * MARGIN) / scale) / 2.0,
        y0,
        scale,
        h * scale + 2.0 * 34.0,
    )
}

impl Polygon {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let corners = self
            .corners
            .iter()
            .map(|c| pen.point(c))
            .collect::<Result<Vec<_>, _>>()?;
        let n = corners.len();
        if n < 3 {
            return Err(RenderError::unfit("a polygon with fewer than three corners"));
        }
        let (x0, y0, scale, height) = fitted(&corners);
        let place = move |x: f64, y: f64| (MARGIN + (x - x0) * scale, height - 34.0 - (y - y0) * scale);
        let on_sheet: Vec<(f64, f64)> = corners.iter().map(|(x, y)| place(*x, *y)).collect();
        let mut canvas = Canvas::new(WIDTH, height);
        let mut said = Vec::new();
        canvas.path(&on_sheet, Ink::Fill, true);
        let count = f64::from(u32::try_from(n).unwrap_or(1));
        let sum = on_sheet.iter().fold((0.0, 0.0), |s, p| (s.0 + p.0, s.1 + p.1));
        let middle = (sum.0 / count, sum.1 / count);
        let names = self
            .names
            .iter()
            .map(|w| pen.words(w))
            .collect::<Result<Vec<_>, _>>()?;
        let name = |i: usize| names.get(i % n).cloned().unwrap_or_default();
        for (i, corner) in on_sheet.iter().enumerate() {
            let (before, after) = (at(&on_sheet, i + n - 1), at(&on_sheet, i + 1));
            if let Some(text) = self.angles.get(i).filter(|t| !t.is_empty()) {
                let text = pen.words(text)?;
                angle(&mut canvas, *corner, (before, after), &text);
                let place = if name(i).is_empty() {
                    format!("corner {}", i + 1)
                } else {
                    name(i)
                };
                said.push(if text == "right" {
                    format!("a right angle at {place}")
                } else {
                    format!("{text} at {place}")
                });
            }
            if let Some(text) = self.sides.get(i).filter(|t| !t.is_empty()) {
                let text = pen.words(text)?;
                let half = (f64::midpoint(corner.0, after.0), f64::midpoint(corner.1, after.1));
                let out = away(half, middle);
                canvas.label(&text, half, out);
                let ends = if name(i).is_empty() {
                    format!("side {}", i + 1)
                } else {
                    format!("{}{}", name(i), name(i + 1))
                };
                said.push(format!("{text} along {ends}"));
            }
            canvas.label(&name(i), *corner, away(*corner, middle));
        }
        let what = match (self.of.is_empty(), n) {
            (false, _) => pen.words(&self.of)?,
            (true, 3) => "A triangle".into(),
            (true, 4) => "A quadrilateral".into(),
            _ => "A polygon".into(),
        };
        let colon = if said.is_empty() { "" } else { ": " };
        Ok(Drawn {
            canvas,
            alt: format!("{what}{colon}{}.", listed(&said)),
            place: Box::new(place),
        })
    }
}

fn at(all: &[(f64, f64)], i: usize) -> (f64, f64) {
    all.get(i % all.len().max(1)).copied().unwrap_or_default()
}

/// The side of a point that looks away from another.
fn away(point: (f64, f64), from: (f64, f64)) -> Side {
    let (dx, dy) = (point.0 - from.0, point.1 - from.1);
    if dx.abs() > dy.abs() * 1.1 {
        if dx > 0.0 { Side::Right } else { Side::Left }
    } else if dy > 0.0 {
        Side::Below
    } else {
        Side::Above
    }
}

fn angle(canvas: &mut Canvas, corner: (f64, f64), (before, after): ((f64, f64), (f64, f64)), text: &str) {
    let unit = |p: (f64, f64)| {
        let (dx, dy) = (p.0 - corner.0, p.1 - corner.1);
        let length = dx.hypot(dy).max(1e-9);
        (dx / length, dy / length)
    };
    let (a, b) = (unit(before), unit(after));
    if text == "right" {
        let r = 13.0;
        let one = (corner.0 + r * a.0, corner.1 + r * a.1);
        let two = (corner.0 + r * b.0, corner.1 + r * b.1);
        let both = (one.0 + r * b.0, one.1 + r * b.1);
        canvas.path(&[one, both, two], Ink::Line, false);
        return;
    }
    let turn = |u: (f64, f64)| (-u.1).atan2(u.0);
    let (from, mut to) = (turn(b), turn(a));
    if to < from {
        to += std::f64::consts::TAU;
    }
    let (from, to) = if to - from > std::f64::consts::PI {
        (to, from + std::f64::consts::TAU)
    } else {
        (from, to)
    };
    canvas.arc(corner, 28.0, from, to, Ink::Second);
    let half = f64::midpoint(from, to);
    // A narrow angle has room further out.
    let reach = if to - from < 0.6 { 62.0 } else { 46.0 };
    canvas.label(
        text,
        (corner.0 + reach * half.cos(), corner.1 - reach * half.sin()),
        Side::On,
    );
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Circle {
    /// What stands at the radius, or at the diameter.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    radius: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    diameter: String,
    /// A sector from one angle to another, in degrees from the right, anticlockwise, with what stands in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    sector: Option<Sector>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    of: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Sector {
    from: NumberText,
    to: NumberText,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    label: String,
}

impl Circle {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (middle, r) = ((WIDTH / 2.0, 136.0), 112.0);
        let place = move |x: f64, y: f64| (middle.0 + x * r, middle.1 - y * r);
        let mut canvas = Canvas::new(WIDTH, 272.0);
        let mut said = Vec::new();
        canvas.circle(middle, r, Ink::Fill);
        canvas.dot(middle, Ink::Line, true);
        if let Some(sector) = &self.sector {
            let (from, to) = (pen.number(&sector.from)?, pen.number(&sector.to)?);
            let steps = 40u32;
            let mut rim = vec![middle];
            for n in 0..=steps {
                let angle = (from + (to - from) * f64::from(n) / f64::from(steps)).to_radians();
                rim.push(place(angle.cos(), angle.sin()));
            }
            canvas.path(&rim, Ink::Shade, true);
            let half = f64::midpoint(from, to).to_radians();
            let label = pen.words(&sector.label)?;
            canvas.label(&label, place(0.55 * half.cos(), 0.55 * half.sin()), Side::On);
            said.push(format!(
                "a shaded sector of {}°{}{label}",
                written(to - from),
                if label.is_empty() { "" } else { ", " }
            ));
        }
        let radius = pen.words(&self.radius)?;
        if !radius.is_empty() {
            let (ux, uy) = (0.94, -0.342);
            canvas.line(middle, place(ux, uy), Ink::Second);
            canvas.label(&radius, place(0.5 * ux, 0.5 * uy), Side::Below);
            said.push(format!("radius {radius}"));
        }
        let diameter = pen.words(&self.diameter)?;
        if !diameter.is_empty() {
            canvas.line(place(-1.0, 0.0), place(1.0, 0.0), Ink::Second);
            canvas.label(&diameter, middle, Side::Above);
            said.push(format!("diameter {diameter}"));
        }
        let what = if self.of.is_empty() {
            "A circle".into()
        } else {
            pen.words(&self.of)?
        };
        let colon = if said.is_empty() { "" } else { ": " };
        Ok(Drawn {
            canvas,
            alt: format!("{what}{colon}{}.", listed(&said)),
            place: Box::new(place),
        })
    }
}
