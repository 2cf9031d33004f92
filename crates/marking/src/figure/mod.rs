//! Figures that are drawn from a set's numbers: SVG in the colours of the page, with a text alternative made from the same
//! numbers. Lengths in a file are in the figure's own units; a sheet is about 420 pixels wide.

mod bodies;
mod canvas;
mod charts;
mod circuit;
mod image;
mod plane;
mod shapes;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use self::canvas::{Canvas, Side};
use crate::answer::NumberText;
use crate::bank::{RenderError, Set};

/// A figure, as a question's file says it. `{{name}}` may stand in every number and label.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Figure {
    #[serde(flatten)]
    kind: FigureKind,
    /// What it shows, in words, where what is made from its numbers would say too much or too little.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    alt: Option<String>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "figure", rename_all = "snake_case")]
enum FigureKind {
    Plane(plane::Plane),
    NumberLine(plane::NumberLine),
    Polygon(shapes::Polygon),
    Circle(shapes::Circle),
    Bars(charts::Bars),
    BoxPlot(charts::BoxPlot),
    Circuit(circuit::Circuit),
    FreeBody(bodies::FreeBody),
    Gauge(bodies::Gauge),
    Image(image::Image),
}

/// A figure as it is shown.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = FigureView)]
pub struct Drawing {
    /// Made here from numbers and escaped labels.
    pub svg: String,
    pub alt: String,
    /// In pixels.
    pub width: u32,
    pub height: u32,
}

/// What a figure draws with: its numbers and labels, with those of a set in place.
pub(crate) struct Pen<'a, 'b> {
    set: &'a Set<'b>,
}

impl Pen<'_, '_> {
    fn number(&self, given: &NumberText) -> Result<f64, RenderError> {
        self.set.value(given)
    }

    fn point(&self, given: &(NumberText, NumberText)) -> Result<(f64, f64), RenderError> {
        Ok((self.number(&given.0)?, self.number(&given.1)?))
    }

    fn words(&self, given: &str) -> Result<String, RenderError> {
        self.set.words(given)
    }

    fn key(&self, given: &str) -> Result<String, RenderError> {
        self.set.key(given)
    }
}

/// Where a point of the figure's own units is on the sheet.
pub(crate) type Place = Box<dyn Fn(f64, f64) -> (f64, f64) + Send + Sync>;

/// A drawn figure with its places.
pub(crate) struct Drawn {
    pub canvas: Canvas,
    pub alt: String,
    pub place: Place,
}

impl Drawn {
    pub fn drawing(&self) -> Drawing {
        let (width, height) = self.canvas.size();
        #[expect(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            reason = "a few hundred pixels"
        )]
        let whole = |n: f64| n.round().max(1.0) as u32;
        Drawing {
            svg: self.canvas.svg(),
            alt: self.alt.clone(),
            width: whole(width),
            height: whole(height),
        }
    }
}

impl Figure {
    pub(crate) fn draw(&self, set: &Set) -> Result<Drawn, RenderError> {
        let pen = Pen { set };
        let mut drawn = match &self.kind {
            FigureKind::Plane(f) => f.draw(&pen),
            FigureKind::NumberLine(f) => f.draw(&pen),
            FigureKind::Polygon(f) => f.draw(&pen),
            FigureKind::Circle(f) => f.draw(&pen),
            FigureKind::Bars(f) => f.draw(&pen),
            FigureKind::BoxPlot(f) => f.draw(&pen),
            FigureKind::Circuit(f) => f.draw(&pen),
            FigureKind::FreeBody(f) => f.draw(&pen),
            FigureKind::Gauge(f) => f.draw(&pen),
            FigureKind::Image(f) => f.draw(&pen),
        }?;
        if let Some(alt) = &self.alt {
            drawn.alt = pen.words(alt)?;
        }
        Ok(drawn)
    }
}

/// Where a label stands, in a file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum At {
    #[default]
    Above,
    Below,
    Left,
    Right,
}

impl From<At> for Side {
    fn from(at: At) -> Side {
        match at {
            At::Above => Side::Above,
            At::Below => Side::Below,
            At::Left => Side::Left,
            At::Right => Side::Right,
        }
    }
}

/// A number as it is written on a scale: up to three decimals, no more than it needs, a real minus sign.
fn written(n: f64) -> String {
    let text = format!("{n:.3}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    let text = if text == "-0" { "0" } else { text };
    text.replace('-', "\u{2212}")
}

/// "a, b and c".
fn listed(all: &[String]) -> String {
    match all {
        [] => String::new(),
        [one] => one.clone(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}

/// The places of a scale, from its first number to its last.
fn ticks(from: f64, to: f64, step: f64) -> Vec<f64> {
    let mut all = Vec::new();
    let mut n = 0u32;
    while n < 200 {
        let at = from + step * f64::from(n);
        if at > to + step * 1e-6 {
            break;
        }
        all.push(at);
        n += 1;
    }
    all
}

/// A plane, or a number line, with nothing on it.
pub(crate) fn empty_plane(
    set: &Set,
    x: (f64, f64),
    y: Option<(f64, f64)>,
    (x_label, y_label): (&str, &str),
) -> Result<Drawn, RenderError> {
    let pen = Pen { set };
    match y {
        Some(y) => plane::Plane::empty(x, y, x_label, y_label).draw(&pen),
        None => plane::NumberLine::empty(x, x_label).draw(&pen),
    }
}
