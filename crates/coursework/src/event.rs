use marking::{Outcome, Response, Slip};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

/// What happened in one student's work on one assignment. Only ever added to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Event {
    /// The first opening: fixes the seed of set A of every question.
    Opened {
        seeds: Vec<u64>,
    },
    Checked(Checked),
    HandedIn {
        late: bool,
        recorded: RecordedScore,
    },
    TakenBack,
}

/// The entries of one question, with what the marker said.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Checked {
    pub question: usize,
    /// 0 for set A.
    pub set: usize,
    pub parts: Vec<CheckedPart>,
    pub used_a_try: bool,
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
}

/// What a hand-in fixed.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct RecordedScore {
    pub points: f64,
    pub of: u32,
    /// Per cent taken off for lateness.
    pub taken_off: u8,
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
