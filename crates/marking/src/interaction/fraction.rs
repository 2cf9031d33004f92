//! A fraction in boxes, with a whole part in front where it is mixed; it can be typed in one line as well.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::text_entry::{Field, PosedTextEntry, TextEntry};
use super::{Known, Posed, Right, Shape, Shown, Spec, faulty};
use crate::answer::{AnswerBlock, Kind};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::mark::Draft;
use crate::response::Response;
use crate::verdict::Marking;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Fraction {
    /// A number or an expression.
    pub answer: Box<AnswerBlock>,
    pub label: String,
    /// With a box for a whole part.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub mixed: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FractionView {
    field: Field,
    mixed: bool,
}

impl Fraction {
    fn entry(&self) -> TextEntry {
        TextEntry {
            answer: self.answer.clone(),
            label: self.label.clone(),
        }
    }
}

impl Spec for Fraction {
    fn check(&self, part: &str, _replies: &[Reply]) -> Result<(), FormatError> {
        if !matches!(self.answer.kind, Kind::Number | Kind::Expression) {
            return Err(faulty(part, "a fraction is a number or an expression"));
        }
        Ok(())
    }

    fn guess(&self, typed: f64) -> f64 {
        typed
    }

    fn is_typed(&self) -> bool {
        true
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "fraction",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        Ok(Box::new(PosedFraction {
            entry: self.entry().posed(part, set)?,
            mixed: self.mixed,
        }))
    }

    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        self.entry().known(part, to, drawn)
    }
}

struct PosedFraction {
    entry: PosedTextEntry,
    mixed: bool,
}

impl Posed for PosedFraction {
    fn shown(&self) -> Shown {
        Shown::Fraction(FractionView {
            field: self.entry.field(),
            mixed: self.mixed,
        })
    }

    /// A box above or below the bar that is empty.
    fn unfinished(&self, response: &Response) -> Option<String> {
        let Response::Text(text) = response else {
            return None;
        };
        let text = text.trim();
        // Boxes leave no blank behind the bar: `2 /4` is a whole part with nothing above it, `3 / 8` is typed so.
        let above = text.starts_with('/') || (self.mixed && text.contains(" /") && !text.contains(" / "));
        let words = match (above, text.ends_with('/')) {
            (true, true) => "The top and the bottom are still empty.",
            (true, false) => "Nothing stands above the bar yet.",
            (false, true) => "Nothing stands below the bar yet.",
            (false, false) => return None,
        };
        Some(words.to_owned())
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        self.entry.mark(response)
    }

    fn key(&self) -> Response {
        self.entry.key()
    }

    fn typed_key(&self) -> Response {
        self.entry.typed_key()
    }

    fn right(&self) -> Right {
        self.entry.right()
    }

    fn in_words(&self, response: &Response) -> String {
        self.entry.in_words(response)
    }

    fn read(&self, entry: &str) -> Option<Draft> {
        self.entry.read(entry)
    }

    fn is_readable(&self, response: &Response) -> bool {
        self.unfinished(response).is_none() && self.entry.is_readable(response)
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        self.entry.parse_response(text)
    }

    fn mistaken(&self) -> Response {
        self.entry.mistaken()
    }

    fn answer(&self) -> String {
        self.entry.answer()
    }

    fn faults(&self) -> Vec<String> {
        self.entry.faults()
    }
}
