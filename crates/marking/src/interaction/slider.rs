//! A value that is set on a scale, or typed beside it (QTI's sliderInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::text_entry::{PosedTextEntry, TextEntry};
use super::{Known, Posed, Right, Shape, Shown, Spec, faulty};
use crate::answer::{AnswerBlock, Kind, NumberText};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::mark::Draft;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Slider {
    /// The ends of the scale and its steps; `{{name}}` may stand in them.
    pub from: NumberText,
    pub to: NumberText,
    pub step: NumberText,
    /// A number; its unit is shown beside the scale.
    pub answer: Box<AnswerBlock>,
    pub label: String,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SliderView {
    label: String,
    from: f64,
    to: f64,
    step: f64,
    /// Decimals that a value on the scale has.
    places: u32,
    unit: Option<String>,
}

impl Slider {
    fn entry(&self) -> TextEntry {
        let mut answer = self.answer.clone();
        // It is printed at the scale.
        answer.unit_shown = answer.unit.is_some();
        TextEntry {
            answer,
            label: self.label.clone(),
        }
    }
}

/// Decimals of a step: 0.25 has two.
fn places(step: f64) -> u32 {
    let mut scaled = step;
    for places in 0..6 {
        if (scaled - scaled.round()).abs() < 1e-9 {
            return places;
        }
        scaled *= 10.0;
    }
    6
}

impl Spec for Slider {
    fn check(&self, part: &str, _replies: &[Reply]) -> Result<(), FormatError> {
        if self.answer.kind != Kind::Number {
            return Err(faulty(part, "a slider sets a number"));
        }
        if self.label.trim().is_empty() {
            return Err(faulty(part, "a slider needs a label"));
        }
        Ok(())
    }

    /// One of the places on the scale, as far as the file itself says how many there are.
    fn guess(&self, typed: f64) -> f64 {
        let number = |key: &NumberText| key.text().parse::<f64>().ok();
        match (number(&self.from), number(&self.to), number(&self.step)) {
            (Some(from), Some(to), Some(step)) if step > 0.0 && to > from => 1.0 / ((to - from) / step + 1.0),
            _ => typed,
        }
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "slider",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let (from, to, step) = (
            set.value(&self.from)?,
            set.value(&self.to)?,
            set.value(&self.step)?,
        );
        if step <= 0.0 || to <= from {
            return Err(RenderError::unfit("a scale that does not rise"));
        }
        Ok(Box::new(PosedSlider {
            entry: self.entry().posed(part, set)?,
            view: SliderView {
                label: set.words(&self.label)?,
                from,
                to,
                step,
                places: places(step),
                unit: self.answer.unit.clone(),
            },
        }))
    }

    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        self.entry().known(part, to, drawn)
    }
}

struct PosedSlider {
    entry: PosedTextEntry,
    view: SliderView,
}

impl PosedSlider {
    fn value(&self, response: &Response) -> Option<f64> {
        let Response::Text(text) = response else {
            return None;
        };
        let names = maths::Names::new([]).ok()?;
        let read = maths::read_expression(text, &maths::ReadOptions::number(&names)).ok()?;
        maths::approximate(&read.tree).ok()
    }

    fn is_on_scale(&self, value: f64) -> bool {
        let edge = 1e-9 * (self.view.to - self.view.from);
        (self.view.from - edge..=self.view.to + edge).contains(&value)
    }
}

impl Posed for PosedSlider {
    fn shown(&self) -> Shown {
        Shown::Slider(self.view.clone())
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let off = self.value(response).is_some_and(|v| !self.is_on_scale(v));
        off.then(|| format!("The scale goes from {} to {}.", self.view.from, self.view.to))
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        self.entry.mark(response)
    }

    fn key(&self) -> Response {
        self.entry.typed_key()
    }

    fn right(&self) -> Right {
        self.entry.right()
    }

    fn in_words(&self, response: &Response) -> String {
        let text = self.entry.in_words(response);
        match &self.view.unit {
            Some(unit) if !text.is_empty() => format!("{text} {unit}"),
            _ => text,
        }
    }

    fn read(&self, entry: &str) -> Option<Draft> {
        self.entry.read(entry)
    }

    fn is_readable(&self, response: &Response) -> bool {
        self.entry.is_readable(response)
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        self.entry.parse_response(text)
    }

    /// The next place on the scale that is not right.
    fn mistaken(&self) -> Response {
        let right = self.value(&self.key()).unwrap_or(self.view.from);
        let places = self.view.places as usize;
        for n in 1..200u32 {
            for value in [
                right + f64::from(n) * self.view.step,
                right - f64::from(n) * self.view.step,
            ] {
                let other = Response::Text(format!("{value:.places$}"));
                let judged = self.mark(&other).map(|m| m.outcome);
                if self.is_on_scale(value) && judged == Some(Outcome::Incorrect) {
                    return other;
                }
            }
        }
        self.entry.mistaken()
    }

    fn answer(&self) -> String {
        self.entry.answer()
    }

    fn faults(&self) -> Vec<String> {
        let mut faults = self.entry.faults();
        match self.value(&self.key()) {
            Some(value) if !self.is_on_scale(value) => {
                faults.push(format!("its key {value} is not on the scale"))
            }
            None => faults.push("its key is no number".into()),
            _ => {}
        }
        faults
    }
}
