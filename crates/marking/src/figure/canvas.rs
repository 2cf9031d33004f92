//! Lines, shapes and labels on a sheet, as SVG in the colours of the page.

use std::fmt::Write as _;

/// Height of a label's letters, in pixels, and the width that a letter takes on average.
const LETTER: (f64, f64) = (15.0, 8.1);

/// What a line or shape is, for its colour and width: the page's style sheet says which.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Ink {
    /// Grids and guide lines.
    Faint,
    /// Axes, outlines, wires.
    Line,
    /// What the figure is about.
    Main,
    /// Beside it, the second of two.
    Second,
    /// A surface.
    Fill,
    /// A surface that is shaded.
    Shade,
}

impl Ink {
    fn class(self) -> &'static str {
        match self {
            Ink::Faint => "fig-faint",
            Ink::Line => "fig-line",
            Ink::Main => "fig-main",
            Ink::Second => "fig-second",
            Ink::Fill => "fig-fill",
            Ink::Shade => "fig-shade",
        }
    }
}

/// Where a label stands, seen from its point.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Side {
    Above,
    Below,
    Left,
    Right,
    On,
}

#[derive(Clone, Debug)]
struct Label {
    text: String,
    left: f64,
    top: f64,
    width: f64,
}

/// A sheet of so many pixels; x to the right, y down.
#[derive(Debug)]
pub(crate) struct Canvas {
    width: f64,
    height: f64,
    shapes: String,
    labels: Vec<Label>,
}

impl Canvas {
    pub fn new(width: f64, height: f64) -> Self {
        Canvas {
            width,
            height,
            shapes: String::new(),
            labels: Vec::new(),
        }
    }

    pub fn line(&mut self, from: (f64, f64), to: (f64, f64), ink: Ink) {
        self.path(&[from, to], ink, false);
    }

    /// Broken, for what is hidden or only a help.
    pub fn dashed(&mut self, from: (f64, f64), to: (f64, f64), ink: Ink) {
        let _ = write!(
            self.shapes,
            r#"<path class="{} fig-dashed" d="M{:.1} {:.1}L{:.1} {:.1}"/>"#,
            ink.class(),
            from.0,
            from.1,
            to.0,
            to.1
        );
    }

    /// A line through points, closed or not.
    pub fn path(&mut self, points: &[(f64, f64)], ink: Ink, closed: bool) {
        let mut d = String::new();
        for (n, (x, y)) in points.iter().enumerate() {
            let _ = write!(d, "{}{x:.1} {y:.1}", if n == 0 { 'M' } else { 'L' });
        }
        if closed {
            d.push('Z');
        }
        let _ = write!(self.shapes, r#"<path class="{}" d="{d}"/>"#, ink.class());
    }

    pub fn arrow(&mut self, from: (f64, f64), to: (f64, f64), ink: Ink) {
        self.line(from, to, ink);
        let (dx, dy) = (to.0 - from.0, to.1 - from.1);
        let length = dx.hypot(dy).max(1e-9);
        let (ux, uy) = (dx / length, dy / length);
        let wing = |turn: f64| {
            (
                to.0 - 10.0 * ux + turn * 4.5 * uy,
                to.1 - 10.0 * uy - turn * 4.5 * ux,
            )
        };
        self.path(&[wing(1.0), to, wing(-1.0)], ink, false);
    }

    pub fn circle(&mut self, middle: (f64, f64), radius: f64, ink: Ink) {
        let _ = write!(
            self.shapes,
            r#"<circle class="{}" cx="{:.1}" cy="{:.1}" r="{radius:.1}"/>"#,
            ink.class(),
            middle.0,
            middle.1
        );
    }

    /// A point: filled, or only its rim.
    pub fn dot(&mut self, at: (f64, f64), ink: Ink, filled: bool) {
        let _ = write!(
            self.shapes,
            r#"<circle class="{} {}" cx="{:.1}" cy="{:.1}" r="4.5"/>"#,
            ink.class(),
            if filled { "fig-full" } else { "fig-hollow" },
            at.0,
            at.1
        );
    }

    /// An arc about a point from one angle to another, anticlockwise; angles in radians from the x axis, as on paper.
    pub fn arc(&mut self, middle: (f64, f64), radius: f64, from: f64, to: f64, ink: Ink) {
        let steps = 24u32;
        let at = |n: u32| {
            let angle = from + (to - from) * f64::from(n) / f64::from(steps);
            (middle.0 + radius * angle.cos(), middle.1 - radius * angle.sin())
        };
        let points: Vec<(f64, f64)> = (0..=steps).map(at).collect();
        self.path(&points, ink, false);
    }

    pub fn rect(&mut self, corner: (f64, f64), size: (f64, f64), ink: Ink) {
        let (x, y) = corner;
        let (w, h) = size;
        self.path(&[(x, y), (x + w, y), (x + w, y + h), (x, y + h)], ink, true);
    }

    /// A picture over the whole sheet; `data` is base64.
    pub fn image(&mut self, kind: &str, data: &str) {
        let _ = write!(
            self.shapes,
            r#"<image href="data:{kind};base64,{data}" width="{:.0}" height="{:.0}"/>"#,
            self.width, self.height
        );
    }

    pub fn label(&mut self, text: &str, at: (f64, f64), side: Side) {
        let count = text.chars().count();
        if count == 0 {
            return;
        }
        let width = LETTER.1 * f64::from(u32::try_from(count).unwrap_or(u32::MAX)) + 2.0;
        let (left, top) = match side {
            Side::Above => (at.0 - width / 2.0, at.1 - LETTER.0 - 7.0),
            Side::Below => (at.0 - width / 2.0, at.1 + 6.0),
            Side::Left => (at.0 - width - 8.0, at.1 - LETTER.0 / 2.0),
            Side::Right => (at.0 + 8.0, at.1 - LETTER.0 / 2.0),
            Side::On => (at.0 - width / 2.0, at.1 - LETTER.0 / 2.0),
        };
        self.labels.push(Label {
            text: text.to_owned(),
            left,
            top,
            width,
        });
    }

    /// Labels that overlap, or stand over the edge.
    pub fn faults(&self) -> Vec<String> {
        let mut faults = Vec::new();
        for (n, a) in self.labels.iter().enumerate() {
            let inside = a.left > -3.0
                && a.top > -3.0
                && a.left + a.width < self.width + 3.0
                && a.top + LETTER.0 < self.height + 3.0;
            if !inside {
                faults.push(format!("the label `{}` stands over the edge", a.text));
            }
            for b in self.labels.iter().skip(n + 1) {
                let apart = a.left + a.width <= b.left
                    || b.left + b.width <= a.left
                    || a.top + LETTER.0 - 2.0 <= b.top
                    || b.top + LETTER.0 - 2.0 <= a.top;
                if !apart {
                    faults.push(format!("the labels `{}` and `{}` overlap", a.text, b.text));
                }
            }
        }
        faults
    }

    pub fn svg(&self) -> String {
        let mut out = format!(
            r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {:.0} {:.0}" class="fig" aria-hidden="true">{}"#,
            self.width, self.height, self.shapes
        );
        for label in &self.labels {
            let _ = write!(
                out,
                r#"<text class="fig-text" x="{:.1}" y="{:.1}" text-anchor="middle">{}</text>"#,
                label.left + label.width / 2.0,
                label.top + LETTER.0 - 3.0,
                escaped(&label.text)
            );
        }
        out.push_str("</svg>");
        out
    }

    pub fn size(&self) -> (f64, f64) {
        (self.width, self.height)
    }
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
}
