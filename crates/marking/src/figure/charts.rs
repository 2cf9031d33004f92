//! Bars and box plots.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::canvas::{Canvas, Ink, Side};
use super::{Drawn, Pen, listed, ticks, written};
use crate::answer::NumberText;
use crate::bank::RenderError;

const WIDTH: f64 = 420.0;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Bars {
    bars: Vec<Bar>,
    /// The scale: its top and its step.
    top: NumberText,
    step: NumberText,
    /// What is counted, and in what.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    of: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Bar {
    label: String,
    value: NumberText,
}

impl Bars {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (top, step) = (pen.number(&self.top)?, pen.number(&self.step)?);
        if top <= 0.0 || step <= 0.0 || self.bars.is_empty() {
            return Err(RenderError::unfit("bars without a scale, or none at all,"));
        }
        let count = f64::from(u32::try_from(self.bars.len()).unwrap_or(1));
        let (left, bottom, high) = (52.0, 226.0, 186.0);
        let wide = (WIDTH - left - 12.0) / count;
        let place = move |x: f64, y: f64| (left + x * wide, bottom - y / top * high);
        let mut canvas = Canvas::new(WIDTH, 256.0);
        for y in ticks(0.0, top, step) {
            canvas.line(
                place(0.0, y),
                place(count, y),
                if y == 0.0 { Ink::Line } else { Ink::Faint },
            );
            canvas.label(&written(y), place(0.0, y), Side::Left);
        }
        let mut said = Vec::new();
        let mut n = 0.0;
        for bar in &self.bars {
            let value = pen.number(&bar.value)?;
            let label = pen.words(&bar.label)?;
            if !(0.0..=top).contains(&value) {
                return Err(RenderError::unfit(&format!(
                    "the bar `{label}`, which is off the scale,"
                )));
            }
            let (x, y) = place(n + 0.2, value);
            canvas.rect((x, y), (wide * 0.6, bottom - y), Ink::Shade);
            canvas.label(&label, place(n + 0.5, 0.0), Side::Below);
            said.push(format!("{label} {}", written(value)));
            n += 1.0;
        }
        let of = pen.words(&self.of)?;
        canvas.label(&of, (WIDTH / 2.0, 26.0), Side::Above);
        let what = if of.is_empty() {
            "Bars".to_owned()
        } else {
            format!("Bars, {of}")
        };
        Ok(Drawn {
            canvas,
            alt: format!("{what}: {}.", listed(&said)),
            place: Box::new(place),
        })
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct BoxPlot {
    from: NumberText,
    to: NumberText,
    step: NumberText,
    boxes: Vec<FiveNumbers>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    unit: String,
}

/// Lowest, lower quartile, median, upper quartile, highest.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct FiveNumbers {
    label: String,
    numbers: [NumberText; 5],
}

impl BoxPlot {
    pub fn draw(&self, pen: &Pen) -> Result<Drawn, RenderError> {
        let (from, to, step) = (
            pen.number(&self.from)?,
            pen.number(&self.to)?,
            pen.number(&self.step)?,
        );
        if to <= from || step <= 0.0 {
            return Err(RenderError::unfit("a box plot without a scale"));
        }
        let (left, row) = (96.0, 54.0);
        let rows = f64::from(u32::try_from(self.boxes.len()).unwrap_or(1));
        let base = 14.0 + rows * row;
        let scale = (WIDTH - left - 24.0) / (to - from);
        let place = move |x: f64, y: f64| (left + (x - from) * scale, 14.0 + y * row);
        let mut canvas = Canvas::new(WIDTH, base + 40.0);
        for x in ticks(from, to, step) {
            let at = place(x, 0.0).0;
            canvas.line((at, 10.0), (at, base), Ink::Faint);
            canvas.label(&written(x), (at, base), Side::Below);
        }
        canvas.line((left, base), (WIDTH - 20.0, base), Ink::Line);
        let unit = pen.words(&self.unit)?;
        canvas.label(&unit, (44.0, base), Side::Below);
        let mut said = Vec::new();
        let mut y = 0.5;
        for five in &self.boxes {
            let label = pen.words(&five.label)?;
            let all = five
                .numbers
                .iter()
                .map(|n| pen.number(n))
                .collect::<Result<Vec<_>, _>>()?;
            let [low, q1, median, q3, high] = all.as_slice() else {
                continue;
            };
            let at = |x: f64| place(x, y);
            canvas.label(&label, (44.0, at(from).1), Side::On);
            canvas.line(at(*low), at(*q1), Ink::Line);
            canvas.line(at(*q3), at(*high), Ink::Line);
            for end in [low, high] {
                let (x, m) = at(*end);
                canvas.line((x, m - 8.0), (x, m + 8.0), Ink::Line);
            }
            let (x, m) = at(*q1);
            canvas.rect((x, m - 14.0), (at(*q3).0 - x, 28.0), Ink::Shade);
            let (x, m) = at(*median);
            canvas.line((x, m - 14.0), (x, m + 14.0), Ink::Main);
            let words = [
                ("lowest", low),
                ("lower quartile", q1),
                ("median", median),
                ("upper quartile", q3),
                ("highest", high),
            ];
            let words: Vec<String> = words
                .iter()
                .map(|(w, n)| format!("{w} {}", written(**n)))
                .collect();
            said.push(format!("{label}: {}", listed(&words)));
            y += 1.0;
        }
        Ok(Drawn {
            canvas,
            alt: format!("Box plots. {}.", said.join(". ")),
            place: Box::new(place),
        })
    }
}
