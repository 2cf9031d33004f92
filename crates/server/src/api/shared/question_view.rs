//! A question as its page shows it.

use marking::{Block, Response, Shown, ShownExhibit};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;

use super::state::Stone;
use super::verdict::{TryPartView, VerdictView};

#[derive(Serialize, ToSchema)]
pub(crate) struct QuestionView {
    /// From 0.
    pub question: usize,
    pub points: u32,
    /// `None` while verdicts are not released.
    pub points_so_far: Option<f64>,
    /// A, B, C…
    pub set: String,
    pub set_number: usize,
    pub max_tries: Option<u32>,
    pub tries_left: Option<u32>,
    pub sets_left: Option<u32>,
    pub stone: Stone,
    /// Why nothing of it is shown: it is not reached, or left behind.
    pub locked: Option<String>,
    pub text: Vec<Block>,
    /// Documents beside the question.
    pub exhibits: Vec<ShownExhibit>,
    pub parts: Vec<PartView>,
    /// Parts that are still closed, each with the one after which it opens.
    pub waiting: Vec<WaitingPart>,
    /// Nothing more can be checked on this set.
    pub set_over: bool,
    /// Nothing was wrong in it in the end.
    pub all_right: bool,
    pub help: HelpView,
    /// Why fresh numbers can't be taken now; `None` if they can.
    pub fresh_refusal: Option<String>,
    /// Every set with its tries, the first one first.
    pub sets: Vec<SetView>,
    pub calculator: bool,
    /// Pages of its skills, to be opened beside it.
    pub reading: Vec<ReadingView>,
}

/// A page that belongs to a question.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReadingView {
    pub skill: String,
    pub title: String,
}

/// What helps with a question, as far as it was asked for.
#[derive(Default, Serialize, ToSchema)]
pub(crate) struct HelpView {
    pub hints: Vec<Vec<Block>>,
    pub hints_left: usize,
    /// Per cent of what is earned after it, for one hint.
    pub hint_cost: u8,
    pub has_example: bool,
    pub example_seen: bool,
    /// The full working, once it was shown.
    pub working: Option<Vec<Vec<Block>>>,
    /// Why the working can't be shown now; `None` if it can.
    pub working_refusal: Option<String>,
    /// Showing it now would end the set although it could still be checked.
    pub working_ends_set: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PartView {
    pub id: String,
    pub prompt: Vec<Block>,
    pub entry: Shown,
    pub draft: Option<DraftView>,
    pub verdict: Option<VerdictView>,
    pub right: bool,
    /// Its own tries are used up.
    pub out: bool,
    /// The teacher marks it, once it was handed in.
    pub by_hand: bool,
    /// Tries at this part alone, where it has fewer than the question.
    pub tries_left: Option<u32>,
    /// Members that were given on this set before and are not right, by id: wrong picks stay marked.
    pub wrong_before: Vec<String>,
}

/// A part that is not open yet: nothing of it is shown.
#[derive(Serialize, ToSchema)]
pub(crate) struct WaitingPart {
    pub id: String,
    /// The part that has to be right first, or out of tries.
    pub after: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct DraftView {
    pub revision: i64,
    pub response: Response,
}

/// One set of a question: what it asked, and every try on it.
#[derive(Serialize, ToSchema)]
pub(crate) struct SetView {
    pub set: String,
    pub text: Vec<Block>,
    pub hints: usize,
    pub solution_shown: bool,
    pub tries: Vec<TryView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TryView {
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    pub used_a_try: bool,
    pub at_hand_in: bool,
    pub parts: Vec<TryPartView>,
}
