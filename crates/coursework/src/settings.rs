use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use time::{Duration, OffsetDateTime};

use crate::goal::Goal;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    Homework,
    Quiz,
    Practice,
    Reading,
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

/// The order in which questions are worked (QTI's navigation mode).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Navigation {
    #[default]
    Nonlinear,
    /// In order, one after the other.
    Linear { going_back: bool },
}

/// When the working may be seen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ShowSolution {
    /// Once nothing more can be checked on a set.
    WhenTriesRunOut,
    AfterFullCredit,
    /// At any time; it ends the set.
    #[default]
    OnRequest,
    AfterDue,
    Never,
}

/// When verdicts of a hand-in and its score show.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Release {
    #[default]
    AtOnce,
    AtHandIn,
    AfterDue,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Tools {
    pub calculator: bool,
    pub formula_sheet: bool,
    pub typing_guide: bool,
    /// The pages of a question's skills, beside it.
    pub reading: bool,
}

impl Default for Tools {
    fn default() -> Self {
        Tools {
            calculator: true,
            formula_sheet: true,
            typing_guide: true,
            reading: true,
        }
    }
}

/// What one student has that the others have not. Fields that are not set leave the settings as they are.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Exception {
    #[serde(with = "time::serde::rfc3339::option")]
    pub due: Option<OffsetDateTime>,
    #[serde(with = "time::serde::rfc3339::option")]
    pub closes: Option<OffsetDateTime>,
    /// Per cent of the time limit: 125 is a quarter more.
    pub time_percent: Option<u32>,
    pub more_hand_ins: u32,
    /// Sets of numbers for each question, beside those everybody has.
    pub more_sets: u32,
    pub why: String,
    /// The student is told why.
    pub tell_why: bool,
    /// Who gave it; nobody is named in what came from a script.
    pub by: Option<uuid::Uuid>,
}

impl Exception {
    /// Whether it changes anything.
    pub fn is_empty(&self) -> bool {
        self.due.is_none()
            && self.closes.is_none()
            && self.time_percent.is_none()
            && self.more_hand_ins == 0
            && self.more_sets == 0
    }

    /// Takes a later exception in: what it sets replaces, more hand-ins add up.
    pub(crate) fn and(&self, later: &Exception) -> Exception {
        Exception {
            due: later.due.or(self.due),
            closes: later.closes.or(self.closes),
            time_percent: later.time_percent.or(self.time_percent),
            more_hand_ins: self.more_hand_ins.saturating_add(later.more_hand_ins),
            more_sets: self.more_sets.saturating_add(later.more_sets),
            // Each has its own in its event; nothing is worked out from them.
            why: String::new(),
            tell_why: false,
            by: None,
        }
    }
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
    #[serde(default)]
    pub navigation: Navigation,
    /// In linear mode: whether a question may be left unanswered.
    #[serde(default = "yes")]
    pub allow_skipping: bool,
    pub checking: Checking,
    /// Tries on one set of numbers.
    pub max_attempts: Option<u32>,
    /// Tries on one set of single questions, by their place from 0.
    #[serde(default)]
    pub question_attempts: BTreeMap<usize, u32>,
    /// Sets of numbers for one question, the first one included.
    pub max_sets: Option<u32>,
    #[serde(default = "yes")]
    pub hints: bool,
    /// Per cent of what is earned after it, for each hint.
    #[serde(default)]
    pub hint_cost: u8,
    #[serde(default = "yes")]
    pub worked_example: bool,
    #[serde(default)]
    pub show_solution: ShowSolution,
    #[serde(default)]
    pub release: Release,
    /// Minutes from the first opening.
    #[serde(default)]
    pub time_limit: Option<u32>,
    #[serde(default)]
    pub tools: Tools,
    /// In the class's grade, beside the other assignments' weights.
    #[serde(default = "one")]
    pub weight: u32,
    pub hand_ins: Option<u32>,
    pub which_counts: WhichCounts,
    pub hand_in_needs: HandInNeeds,
    pub pass_mark: Option<u8>,
    /// Whether a wrong answer's likely reason is shown.
    #[serde(default = "yes")]
    pub show_slips: bool,
    pub note: Option<String>,
    /// What it asks for, where it has no questions of its own.
    #[serde(default)]
    pub goal: Option<Goal>,
}

fn yes() -> bool {
    true
}

fn one() -> u32 {
    1
}

impl Settings {
    /// A homework with the defaults: three tries, four sets, any number of hand-ins, the best counts.
    pub fn homework(opens: OffsetDateTime, due: OffsetDateTime) -> Self {
        Settings {
            kind: Kind::Homework,
            counts: true,
            opens,
            due,
            closes: due,
            late: LateRule::Flagged,
            navigation: Navigation::Nonlinear,
            allow_skipping: true,
            checking: Checking::Individual,
            question_attempts: BTreeMap::new(),
            hints: true,
            hint_cost: 0,
            worked_example: true,
            show_solution: ShowSolution::OnRequest,
            release: Release::AtOnce,
            time_limit: None,
            tools: Tools::default(),
            weight: 1,
            max_attempts: Some(3),
            max_sets: Some(4),
            hand_ins: None,
            which_counts: WhichCounts::Best,
            hand_in_needs: HandInNeeds::Nothing,
            pass_mark: None,
            show_slips: true,
            note: None,
            goal: None,
        }
    }

    /// A quiz with the defaults: checked at hand-in, one hand-in.
    pub fn quiz(opens: OffsetDateTime, due: OffsetDateTime) -> Self {
        Settings {
            kind: Kind::Quiz,
            checking: Checking::Simultaneous,
            release: Release::AtHandIn,
            show_solution: ShowSolution::AfterDue,
            hand_ins: Some(1),
            which_counts: WhichCounts::Last,
            max_sets: Some(1),
            tools: Tools {
                reading: false,
                ..Tools::default()
            },
            ..Settings::homework(opens, due)
        }
    }

    /// Practice or reading with the defaults: towards a goal, at one's own pace.
    pub fn towards(goal: Goal, opens: OffsetDateTime, due: OffsetDateTime) -> Self {
        let kind = match goal {
            Goal::Read { .. } => Kind::Reading,
            Goal::Level { .. } | Goal::Right { .. } | Goal::Start {} | Goal::Watch { .. } => Kind::Practice,
        };
        Settings {
            kind,
            goal: Some(goal),
            ..Settings::homework(opens, due)
        }
    }

    /// No clock runs towards a goal.
    pub(crate) fn time(&self, percent: u32) -> Option<Duration> {
        let minutes = self.time_limit.filter(|_| self.goal.is_none())?;
        Some(Duration::seconds(
            i64::from(minutes) * 60 * i64::from(percent) / 100,
        ))
    }
}

/// A question as far as scores and tries need to know it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ItemRef {
    pub points: u32,
    pub parts: Vec<PartRef>,
    /// A check needs an entry in every part that is not right yet.
    pub all_parts_needed: bool,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PartRef {
    pub id: String,
    pub share: u32,
    /// Tries at this part on one set, if fewer than at the question.
    pub max_attempts: Option<u32>,
    /// It opens once this part is right, or has no tries left.
    pub opens_after: Option<String>,
    /// A person marks it, once it was handed in.
    pub by_hand: bool,
}

/// An assignment: its settings and its questions in order.
#[derive(Clone, Debug, PartialEq)]
pub struct Assignment {
    pub settings: Settings,
    pub items: Vec<ItemRef>,
}

impl ItemRef {
    /// Nothing of it is marked by the machine.
    pub fn is_by_hand(&self) -> bool {
        self.parts.iter().all(|p| p.by_hand)
    }

    /// The points of one of its parts.
    pub fn worth(&self, part: &PartRef) -> f64 {
        let shares: u32 = self.parts.iter().map(|p| p.share).sum();
        f64::from(part.share) * f64::from(self.points) / f64::from(shares.max(1))
    }
}

impl Assignment {
    /// A person marks this part.
    pub fn is_by_hand(&self, question: usize, part: &str) -> bool {
        let item = self.items.get(question);
        item.is_some_and(|i| i.parts.iter().any(|p| p.id == part && p.by_hand))
    }

    /// A person marks something in it.
    pub fn needs_a_person(&self) -> bool {
        self.items.iter().flat_map(|i| &i.parts).any(|p| p.by_hand)
    }

    /// Tries on one set of a question; `None` is unlimited. Where all is checked at hand-in, hand-ins are what is counted.
    pub fn max_attempts(&self, question: usize) -> Option<u32> {
        if self.settings.checking == Checking::Simultaneous {
            return None;
        }
        let own = self.settings.question_attempts.get(&question).copied();
        own.or(self.settings.max_attempts)
    }

    pub fn is_simultaneous(&self) -> bool {
        self.settings.checking == Checking::Simultaneous
    }

    /// Points of all questions; towards a goal, per cent.
    pub fn total_points(&self) -> u32 {
        if self.settings.goal.is_some() {
            return 100;
        }
        self.items.iter().map(|i| i.points).sum()
    }
}
