//! Questions as files: their format, the drawing of their numbers, and what a student sees of them.

mod beside;
mod by_hand;
mod draw;
mod fill;
mod format;
mod page;
mod prose;
mod quote;
mod render;
mod sets;
mod skills;
#[cfg(test)]
mod tests;
mod tidy;

pub use beside::{Exhibit, Recording, ShownExhibit, Sound};
pub use by_hand::by_hand;
pub use draw::{Dice, DrawError, Drawn, draw};
pub use format::{
    FormatError, Help, NumberSpec, Part, Question, Reply, WorkedExample, parse_question, question_schema,
};
pub use page::{Page, PageBlock, PageFault, PageStep, Term, parse_page};
pub use prose::{Block, Gap, Inline, note, plain};
pub(crate) use prose::{gaps, lines_mut};
pub use quote::{Found, LONGEST_AROUND, LONGEST_QUOTE, Quote};
pub(crate) use render::fill_key;
pub use render::{Item, ItemPart, ItemReply, RenderError, ResponseVerdict, Set, figure_faults, render};
pub use sets::{Example, example_try_seed, is_apart, next_seed, round_seed, seed_apart, worked_example};
pub use skills::{Skill, SkillFault, check_skills, parse_skills, strata};
pub use tidy::tidy_signs;
