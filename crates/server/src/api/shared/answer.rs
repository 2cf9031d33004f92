//! The right answer of a part, once nothing can be gained from it any more.

use marking::{Inline, ItemPart};
use serde::Serialize;
use utoipa::ToSchema;

/// The right answer of a part, beside the student's own.
#[derive(Serialize, ToSchema)]
pub(crate) struct RightAnswer {
    part: String,
    /// LaTeX, for a typed part.
    latex: String,
    speech: String,
    /// The texts of the right choices.
    choices: Vec<Vec<Inline>>,
}

pub(crate) fn right_answer(part: &ItemPart) -> RightAnswer {
    let right = part.posed.right();
    RightAnswer {
        part: part.id.clone(),
        latex: right.latex,
        speech: right.speech,
        choices: right.choices,
    }
}
