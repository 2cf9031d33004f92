//! The right answer of a part, once nothing can be gained from it any more.

use marking::{ItemPart, Kind, PartKind};
use serde::Serialize;
use utoipa::ToSchema;

use super::prose::{InlineView, line};

/// The right answer of a part, beside the student's own.
#[derive(Serialize, ToSchema)]
pub(crate) struct RightAnswer {
    part: String,
    /// LaTeX, for a typed part.
    latex: String,
    speech: String,
    /// The texts of the right choices.
    choices: Vec<Vec<InlineView>>,
}

pub(crate) fn right_answer(part: &ItemPart) -> RightAnswer {
    let (mut latex, mut speech, mut choices) = (String::new(), String::new(), Vec::new());
    match &part.kind {
        PartKind::Choice { shown, correct, .. } => {
            let right = shown.iter().filter(|c| correct.contains(&c.id));
            choices = right.map(|c| line(&c.text)).collect();
        }
        PartKind::Entry { block, marker, .. } => {
            if let marking::Response::Text(typed) = part.typed_key() {
                let unit = block
                    .unit
                    .as_ref()
                    .filter(|_| block.unit_shown && block.kind == Kind::Number);
                let read = marker.read(&unit.map_or(typed.clone(), |u| format!("{typed} {u}")));
                (latex, speech) = (read.reads_as, read.speech);
            }
        }
    }
    RightAnswer {
        part: part.id.clone(),
        latex,
        speech,
        choices,
    }
}
