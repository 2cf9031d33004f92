//! Questions as files: their format, the drawing of their numbers, and what a student sees of them.

mod draw;
mod format;
mod prose;
mod render;
#[cfg(test)]
mod tests;

pub use draw::{DrawError, Drawn, draw};
pub use format::{
    Choice, FormatError, Interaction, NumberSpec, Part, Question, parse_question, question_schema,
};
pub use prose::{Block, Inline};
pub use render::{Item, ItemPart, PartKind, RenderError, Response, ResponseVerdict, ShownChoice, render};
