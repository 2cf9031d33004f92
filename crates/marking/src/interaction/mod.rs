//! How a part is answered. A kind is one file here, named as in QTI 3: what stands of it in a question's file ([`Spec`]),
//! and the part as one student has it ([`Posed`]). Nothing else in the workspace asks which kind a part is of;
//! `docs/answers.md` says how to add one.

mod choice;
mod text_entry;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use self::choice::{Choice, ShownChoice, SimpleChoice};
pub use self::text_entry::{KeyView, TextEntry};
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::mark::Draft;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// How a part is answered, as its file says it. One line a kind, here and in [`Interaction::spec`] and [`Shown`].
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "interaction", rename_all = "snake_case")]
pub enum Interaction {
    TextEntry(TextEntry),
    Choice(Choice),
}

impl Interaction {
    fn spec(&self) -> &(dyn Spec + 'static) {
        match self {
            Interaction::TextEntry(spec) => spec,
            Interaction::Choice(spec) => spec,
        }
    }
}

impl std::ops::Deref for Interaction {
    type Target = dyn Spec;

    fn deref(&self) -> &(dyn Spec + 'static) {
        self.spec()
    }
}

/// A part as the student sees it: nothing of its key.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
#[schema(as = EntryView)]
pub enum Shown {
    Typed(text_entry::Field),
    Choice(choice::Choices),
}

/// The right answer of a part.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Right {
    /// LaTeX, where it is maths.
    pub latex: String,
    pub speech: String,
    /// The texts of the right choices.
    pub choices: Vec<Vec<Inline>>,
}

/// What stored responses and seeds rest on: while it is the same, they mean what they meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Shape {
    pub kind: &'static str,
    pub ids: Vec<String>,
    pub shuffled: bool,
}

/// A wrong answer that is known: how it is told, and how a student would give it.
pub struct Known {
    pub is_it: Box<dyn Fn(&Response) -> bool + Send + Sync>,
    pub response: Response,
}

/// What a kind says in a question's file, and what it must be able to do.
pub trait Spec {
    /// # Errors
    /// What is wrong with the block in part `part` of a file, or with a reply in it.
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError>;

    /// The probability of getting it right by guessing; `typed` for what is typed.
    fn guess(&self, typed: f64) -> f64;

    /// Maths or words are typed in it: how to type is worth explaining, and answers are many.
    fn is_typed(&self) -> bool {
        false
    }

    fn shape(&self) -> Shape;

    /// Whether the right answer can be another one with other numbers.
    fn may_vary(&self) -> bool;

    /// The part with the numbers of a set in place.
    ///
    /// # Errors
    /// What is wrong with the question.
    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError>;

    /// The wrong answer that a reply is meant for.
    ///
    /// # Errors
    /// What is wrong with the question.
    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError>;
}

/// A part as one set has it.
pub trait Posed: Send + Sync {
    /// Without its key.
    fn shown(&self) -> Shown;

    /// The verdict on a response; `None` for one that belongs to another kind.
    fn mark(&self, response: &Response) -> Option<Marking>;

    /// The right answer as it stands in the file, with its unit, where one is asked for.
    fn key(&self) -> Response;

    /// The right answer as a student would give it; need not be accepted.
    fn typed_key(&self) -> Response {
        self.key()
    }

    /// The right answer, to be shown once nothing can be gained from it.
    fn right(&self) -> Right;

    /// The texts of what was chosen in a response.
    fn chosen(&self, _response: &Response) -> Vec<Vec<Inline>> {
        Vec::new()
    }

    /// A response in words, for the slip book and exports.
    fn in_words(&self, response: &Response) -> String;

    /// How an entry reads, where something is typed.
    fn read(&self, _entry: &str) -> Option<Draft> {
        None
    }

    /// Whether the marker could make something of a response.
    fn is_readable(&self, _response: &Response) -> bool {
        true
    }

    /// A response that a line of text stands for, if it stands for one.
    fn parse_response(&self, text: &str) -> Option<Response>;

    /// A wrong answer such as students give.
    fn mistaken(&self) -> Response;

    /// The right answer as text, to tell sets apart: numbers by what they come to.
    fn answer(&self) -> String;

    /// Whether it has the same answer as the same part of another set, however it is written.
    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.mark(&other.key())
            .is_some_and(|m| m.outcome == Outcome::Correct)
    }

    /// What an author has to mend, beyond a key that is not accepted.
    fn faults(&self) -> Vec<String> {
        Vec::new()
    }
}

/// Text of one line.
fn one_line(blocks: Vec<Block>) -> Result<Vec<Inline>, RenderError> {
    let mut blocks = blocks.into_iter();
    match (blocks.next(), blocks.next()) {
        (Some(Block::Paragraph { content }), None) => Ok(content),
        _ => Err(RenderError::unfit("more than one line in a choice")),
    }
}
