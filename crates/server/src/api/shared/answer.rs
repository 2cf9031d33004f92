//! The right answer of a part, once nothing can be gained from it any more.

use marking::{ItemPart, PartKind};
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
            // Worked out where it is a number, with its unit; else the key as it reads.
            let unit = block.unit.as_ref().map(|u| format!(" {u}")).unwrap_or_default();
            let worked_out = marking::calculate(&block.key.text(), None)
                .ok()
                .filter(|_| block.form.is_none())
                .map(|found| marker.read(&format!("{}{unit}", found.near.unwrap_or(found.result))))
                .filter(|read| read.problem.is_none());
            let read = worked_out.unwrap_or_else(|| match part.key_response() {
                marking::Response::Text(key) => {
                    let tidy = marking::tidy_signs(&key);
                    // Only where it still says the same.
                    let same = marker.mark(&tidy).score >= 1.0;
                    marker.read(if same { &tidy } else { &key })
                }
                marking::Response::Choices(_) => marking::Draft::default(),
            });
            (latex, speech) = (read.reads_as, read.speech);
        }
    }
    RightAnswer {
        part: part.id.clone(),
        latex,
        speech,
        choices,
    }
}
