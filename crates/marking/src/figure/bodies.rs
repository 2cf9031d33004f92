//! A body with the forces on it; a gauge with its hand.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::{Canvas, Ink, Side};
use super::{Drawn, Pen, listed, ticks, written};
use crate::answer::NumberText;
use crate::bank::RenderError;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct FreeBody {
    /// What stands on the body.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    body: String,
    forces: Vec<Force>,
    /// The slope of the ground in degrees, if it stands on some.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    ground: Option<NumberText>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Force {
    /// Degrees from the right, anticlockwise.
    angle: NumberText,
    /// Its length beside those of the others.
    size: NumberText,
    label: String,
}

impl FreeBody {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (width, height) = (420.0, 300.0);
        let middle = (width / 2.0, height / 2.0);
        let place = move |x: f64, y: f64| (middle.0 + 100.0 * x, middle.1 - 100.0 * y);
        let mut canvas = Canvas::new(width, height);
        let mut forces = Vec::new();
        for force in &self.forces {
            forces.push((
                pen.number(&force.angle)?,
                pen.number(&force.size)?.abs(),
                pen.words(&force.label)?,
            ));
        }
        let longest = forces.iter().map(|f| f.1).fold(1e-9, f64::max);
        let slope = self.ground.as_ref().map(|g| pen.number(g)).transpose()?;
        let tilt = slope.unwrap_or(0.0).to_radians();
        let turned = |x: f64, y: f64| {
            (
                middle.0 + x * tilt.cos() + y * tilt.sin(),
                middle.1 - x * tilt.sin() + y * tilt.cos(),
            )
        };
        let corners = [
            turned(-34.0, -24.0),
            turned(34.0, -24.0),
            turned(34.0, 24.0),
            turned(-34.0, 24.0),
        ];
        if slope.is_some() {
            canvas.line(turned(-150.0, 24.0), turned(150.0, 24.0), Ink::Line);
        }
        canvas.path(&corners, Ink::Fill, true);
        let body = pen.words(&self.body)?;
        let mut said = Vec::new();
        for (angle, size, label) in &forces {
            let turn = angle.to_radians();
            let (ux, uy) = (turn.cos(), -turn.sin());
            // From the rim of the body outwards, so that nothing hides its name.
            let start = (middle.0 + 26.0 * ux, middle.1 + 26.0 * uy);
            let reach = 26.0 + 20.0 + 68.0 * size / longest;
            let end = (middle.0 + reach * ux, middle.1 + reach * uy);
            canvas.arrow(start, end, Ink::Main);
            let side = if ux > 0.5 {
                Side::Right
            } else if ux < -0.5 {
                Side::Left
            } else if uy > 0.0 {
                Side::Below
            } else {
                Side::Above
            };
            canvas.label(label, end, side);
            said.push(format!("{label} at {}°", written(*angle)));
        }
        canvas.label(&body, middle, Side::On);
        let what = if body.is_empty() {
            "A body".to_owned()
        } else {
            format!("A body, {body}")
        };
        let ground = slope.map_or(String::new(), |s| {
            if s.abs() < 1e-9 {
                " on level ground".into()
            } else {
                format!(" on a slope of {}°", written(s))
            }
        });
        Ok(Drawn {
            canvas,
            alt: format!(
                "{what}{ground}, with forces: {}. Angles are from the right, anticlockwise.",
                listed(&said)
            ),
            place: Box::new(place),
        })
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Gauge {
    from: NumberText,
    to: NumberText,
    /// Between numbers, and between the small lines.
    step: NumberText,
    small: NumberText,
    value: NumberText,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    unit: String,
}

impl Gauge {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (from, to) = (pen.number(&self.from)?, pen.number(&self.to)?);
        let (step, small) = (pen.number(&self.step)?, pen.number(&self.small)?);
        let value = pen.number(&self.value)?;
        if to <= from || step <= 0.0 || small <= 0.0 || !(from..=to).contains(&value) {
            return Err(RenderError::unfit(
                "a gauge without a scale, or with its hand off it,",
            ));
        }
        let middle = (210.0, 170.0);
        // From lower left over the top to lower right.
        let turn = move |v: f64| (210.0 - 240.0 * (v - from) / (to - from)).to_radians();
        let at = move |v: f64, r: f64| (middle.0 + r * turn(v).cos(), middle.1 - r * turn(v).sin());
        let mut canvas = Canvas::new(420.0, 300.0);
        canvas.circle(middle, 128.0, Ink::Fill);
        canvas.arc(middle, 108.0, turn(to), turn(from), Ink::Line);
        for v in ticks(from, to, small) {
            canvas.line(at(v, 108.0), at(v, 101.0), Ink::Line);
        }
        for v in ticks(from, to, step) {
            canvas.line(at(v, 108.0), at(v, 94.0), Ink::Line);
            canvas.label(&written(v), at(v, 78.0), Side::On);
        }
        canvas.line(at(value, -18.0), at(value, 96.0), Ink::Main);
        canvas.dot(middle, Ink::Main, true);
        let unit = pen.words(&self.unit)?;
        canvas.label(&unit, (middle.0, middle.1 + 70.0), Side::On);
        // Where the hand stands, as one would tell somebody on the telephone: the lines beside it.
        let low = ((value - from) / step).floor() * step + from;
        let lines = ((value - low) / small).round();
        let alt = format!(
            "A gauge from {} to {} {unit}, a number every {}, a small line every {}. The hand stands {} small lines past {}.",
            written(from),
            written(to),
            written(step),
            written(small),
            written(lines),
            written(low)
        );
        Ok(Drawn {
            canvas,
            alt,
            place: Box::new(at),
        })
    }
}
