use marking::{CheckLine, Outcome, Response, ResponseVerdict, Slip};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::goal::GoalProgress;
use crate::settings::Exception;

/// What happened in one student's work on one assignment. Only ever added to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Event {
    /// The first opening: fixes the seed of set A of every question.
    Opened {
        seeds: Vec<u64>,
    },
    Checked(Checked),
    HintTaken {
        question: usize,
        set: usize,
    },
    ExampleSeen {
        question: usize,
    },
    /// Ends the set.
    SolutionShown {
        question: usize,
        set: usize,
    },
    FreshNumbers {
        question: usize,
        seed: u64,
    },
    /// In linear mode: this question is reached now.
    MovedOn {
        to: usize,
    },
    /// How far the goal was reached, just before it was handed in.
    Measured(GoalProgress),
    HandedIn {
        late: bool,
        recorded: RecordedScore,
        /// The clock did it.
        #[serde(default)]
        by_time: bool,
    },
    TakenBack,
    TimeUp,
    ScoredByTeacher {
        question: usize,
        points: f64,
        #[serde(default)]
        note: String,
        /// Who gave them; nobody is named in what came from a script.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Uuid>,
        /// How they were given to the parts that a person marks; nothing where they were given as one.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        parts: Vec<PartPoints>,
    },
    ExceptionGiven(Exception),
    KeyCorrected(Correction),
}

/// What a teacher gave one part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PartPoints {
    pub part: String,
    pub points: f64,
    /// The lines of its rubric that were met, from 0.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub met: Vec<usize>,
}

/// A corrected question: what its stored responses are worth now. The earlier verdicts stay in their own events.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Correction {
    pub question: usize,
    /// Of the question's content; the same correction is made once.
    pub version: String,
    pub remarked: Vec<Remark>,
    /// Who made it, and why; nobody is named in what came from the command line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<Uuid>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
}

/// A check, marked anew.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Remark {
    /// The number of its event.
    pub event: u32,
    pub parts: Vec<CheckedPart>,
    pub used_a_try: bool,
}

/// The entries of one question, with what the marker said.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Checked {
    pub question: usize,
    /// 0 for set A.
    pub set: usize,
    pub parts: Vec<CheckedPart>,
    pub used_a_try: bool,
    /// Marked because the work was handed in, or time was up.
    #[serde(default)]
    pub at_hand_in: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CheckedPart {
    pub part: String,
    pub response: Response,
    pub outcome: Outcome,
    /// 0 to 1.
    pub score: f64,
    /// LaTeX of the entry as read.
    pub reads_as: String,
    #[serde(default)]
    pub speech: String,
    pub notes: Vec<String>,
    pub slip: Option<Slip>,
    #[serde(default)]
    pub at: Option<(usize, usize)>,
    /// Which of the part's replies it was given.
    #[serde(default)]
    pub reply: Option<usize>,
    /// Whether this part's share of the check counted as a try.
    #[serde(default)]
    pub costs: bool,
    /// What each check of a program found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<CheckLine>,
}

impl CheckedPart {
    pub fn is_typed(&self) -> bool {
        self.response.is_typed()
    }

    /// Judged, and not right.
    pub fn is_wrong(&self) -> bool {
        self.outcome.costs_a_try() && self.score < 1.0
    }

    /// A marked response, as it is kept.
    pub fn new(marked: &MarkedPart) -> Self {
        let m = &marked.verdict.marking;
        CheckedPart {
            part: marked.part.clone(),
            response: marked.response.clone(),
            outcome: m.outcome,
            score: m.score,
            reads_as: m.reads_as.clone(),
            speech: m.speech.clone(),
            notes: m.notes.clone(),
            slip: m.slip,
            at: m.at,
            reply: marked.verdict.reply,
            checks: m.checks.clone(),
            costs: marked.verdict.costs,
        }
    }
}

/// A response with its verdict.
#[derive(Clone, Debug, PartialEq)]
pub struct MarkedPart {
    pub part: String,
    pub response: Response,
    pub verdict: ResponseVerdict,
}

/// What a hand-in fixed.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct RecordedScore {
    pub points: f64,
    pub of: u32,
    /// Per cent taken off for lateness.
    pub taken_off: u8,
    /// Points that a person still has to decide on.
    #[serde(default)]
    pub waiting: f64,
}

impl RecordedScore {
    /// 0 to 100.
    pub fn percent(&self) -> f64 {
        if self.of == 0 {
            0.0
        } else {
            100.0 * self.points / f64::from(self.of)
        }
    }
}

/// An event with its place and the server's instant.
#[derive(Clone, Debug, PartialEq)]
pub struct Recorded {
    pub number: u32,
    pub at: OffsetDateTime,
    pub event: Event,
}
