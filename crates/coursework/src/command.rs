//! What is asked for, and what comes of it.

use uuid::Uuid;

use crate::event::{Event, MarkedPart, PartPoints};
use crate::goal::GoalProgress;
use crate::refusal::Refusal;
use crate::settings::Exception;

/// The marked responses of one question's current set.
#[derive(Clone, Debug, PartialEq)]
pub struct MarkedQuestion {
    pub question: usize,
    pub parts: Vec<MarkedPart>,
}

/// What a student, or the clock, asks for.
#[derive(Clone, Debug, PartialEq)]
pub enum Command {
    /// Seeds of set A, one a question; used only the first time.
    Open {
        seeds: Vec<u64>,
    },
    /// `set` is the one that the parts were marked on.
    Check {
        question: usize,
        set: usize,
        parts: Vec<MarkedPart>,
    },
    /// The next hint; `available` is how many the question has.
    TakeHint {
        question: usize,
        available: usize,
    },
    /// `available`: whether the question has a worked example.
    SeeExample {
        question: usize,
        available: bool,
    },
    ShowSolution {
        question: usize,
    },
    /// The seed of the next set, from [`marking::next_seed`].
    FreshNumbers {
        question: usize,
        seed: u64,
    },
    /// In linear mode, to the next question. `answered`: whether anything stands in the one that is left.
    MoveOn {
        to: usize,
        answered: bool,
    },
    /// `marked` is used where all is checked at hand-in.
    HandIn {
        marked: Vec<MarkedQuestion>,
    },
    /// Towards a goal: `progress` is what it is now.
    HandInProgress {
        progress: GoalProgress,
    },
    TakeBack,
    /// The teacher's: points for a question as it was handed in, whatever the marking said.
    Score {
        question: usize,
        points: f64,
        note: String,
        by: Uuid,
        /// How they were given to the parts that a person marks, where they were.
        parts: Vec<PartPoints>,
        /// The number of the hand-in that was looked at.
        hand_in: u32,
    },
    /// The teacher's: what this student has that the others have not.
    GiveException(Exception),
    /// The clock's: `marked` are the drafts that were complete.
    TimeUp {
        marked: Vec<MarkedQuestion>,
    },
}

pub(crate) type Decision = Result<Vec<Event>, Refusal>;
