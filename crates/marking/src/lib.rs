//! An answer block and an entry become a verdict; questions are read from files and their numbers drawn.
//! Pure: no clock, no input or output; randomness comes as a seed.
//!
//! ```
//! use marking::{AnswerBlock, Marker, Outcome};
//! let block: AnswerBlock = serde_json::from_str(r#"{"kind": "number", "key": "sqrt(8)"}"#).unwrap();
//! let marking = Marker::new(&block).unwrap().mark("2sqrt(2)");
//! assert_eq!(marking.outcome, Outcome::Correct);
//! ```
#![cfg_attr(not(test), deny(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing))]

mod answer;
mod bank;
mod calculator;
mod figure;
mod guide;
pub mod interaction;
mod line;
mod mark;
pub mod program;
mod response;
mod rubric;
mod typing;
mod verdict;
mod written;
mod wrong;

pub use answer::{
    AnswerBlock, CaseRule, ConstantLetter, DomainSpec, FaultyBlock, FormName, Key, Kind, MustBe, NumberText,
    SameRule, Tolerance, UpTo,
};
pub use bank::*;
pub use calculator::{Calculated, CalculatorError, calculate};
pub use figure::{Drawing, Figure};
pub use guide::{
    Example as GuideExample, Topic as GuideTopic, can_be_typed, read_for_guide, read_in_writing, typing_guide,
};
pub use interaction::{Interaction, Member, Posed, Shown, Spec};
pub use line::mark_line;
pub use mark::{Draft, Marker};
pub use maths::entry_from_latex;
pub use response::{LONGEST_RESPONSE, Plot, Response, ResponseFault, parse_responses};
pub use rubric::{RubricLine, rubric_points};
pub use typing::{Typed, TypingTask, typing_tasks};
pub use verdict::{CheckLine, Marking, Outcome, Slip, slip_words};
pub use written::{AttachedFile, Written};
pub use wrong::{Likeness, WrongEntry, WrongGroup, group_wrong, is_doubtful, is_like};
