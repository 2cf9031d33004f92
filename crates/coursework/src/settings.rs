use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    Homework,
    Quiz,
    Practice,
}

/// What happens between due and closes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LateRule {
    /// Accepted, and flagged.
    Flagged,
    /// So many per cent of the score are taken off.
    PercentOff(u8),
    NotAccepted,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Checking {
    /// Each answer can be checked while working.
    Individual,
    /// All are checked at hand-in.
    Simultaneous,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum WhichCounts {
    Best,
    Last,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum HandInNeeds {
    Nothing,
    EveryQuestionAttempted,
}

/// What a teacher sets. `None` for a count is "unlimited".
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Settings {
    pub kind: Kind,
    /// Towards the grade, or for practice only.
    pub counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    pub opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    pub due: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    pub closes: OffsetDateTime,
    pub late: LateRule,
    pub checking: Checking,
    /// Tries on one set of numbers.
    pub max_attempts: Option<u32>,
    pub max_sets: Option<u32>,
    pub hand_ins: Option<u32>,
    pub which_counts: WhichCounts,
    pub hand_in_needs: HandInNeeds,
    pub pass_mark: Option<u8>,
    /// Whether a wrong answer's likely reason is shown.
    #[serde(default = "yes")]
    pub show_slips: bool,
    pub note: Option<String>,
}

fn yes() -> bool {
    true
}

impl Settings {
    /// A homework with the defaults: three tries, five sets, any number of hand-ins, the best counts.
    pub fn homework(opens: OffsetDateTime, due: OffsetDateTime) -> Self {
        Settings {
            kind: Kind::Homework,
            counts: true,
            opens,
            due,
            closes: due,
            late: LateRule::Flagged,
            checking: Checking::Individual,
            max_attempts: Some(3),
            max_sets: Some(5),
            hand_ins: None,
            which_counts: WhichCounts::Best,
            hand_in_needs: HandInNeeds::Nothing,
            pass_mark: None,
            show_slips: true,
            note: None,
        }
    }
}

/// A question as far as scores and tries need to know it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ItemRef {
    pub points: u32,
    pub parts: Vec<PartRef>,
    /// Tries on one set, if not those of the settings.
    pub max_attempts: Option<u32>,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PartRef {
    pub id: String,
    pub share: u32,
}

/// An assignment: its settings and its questions in order.
#[derive(Clone, Debug, PartialEq)]
pub struct Assignment {
    pub settings: Settings,
    pub items: Vec<ItemRef>,
}

impl Assignment {
    /// Tries on one set of a question; `None` is unlimited.
    pub fn max_attempts(&self, question: usize) -> Option<u32> {
        self.items
            .get(question)
            .and_then(|i| i.max_attempts)
            .or(self.settings.max_attempts)
    }

    pub fn total_points(&self) -> u32 {
        self.items.iter().map(|i| i.points).sum()
    }
}
