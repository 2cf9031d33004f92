//! Settings as a teacher edits them: dates as the class's clock on the wall shows them, every choice by its name.

use std::collections::BTreeMap;

use coursework::{
    Checking, Goal, HandInNeeds, Kind, LateRule, Navigation, Release, Settings, ShowSolution, Tools,
    WhichCounts, from_local, to_local,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::http::error::ApiError;

/// An enum of the core's, as it is written here.
macro_rules! mirrored {
    ($name:ident of $core:ident { $($variant:ident),* $(,)? }) => {
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
        #[serde(rename_all = "snake_case")]
        pub(crate) enum $name { $($variant),* }

        impl From<$core> for $name {
            fn from(core: $core) -> Self {
                match core { $($core::$variant => $name::$variant),* }
            }
        }

        impl From<$name> for $core {
            fn from(form: $name) -> Self {
                match form { $($name::$variant => $core::$variant),* }
            }
        }
    };
}

mirrored!(SetKind of Kind { Homework, Quiz, Practice, Reading });
mirrored!(SetChecking of Checking { Individual, Simultaneous });
mirrored!(SetSolution of ShowSolution { WhenTriesRunOut, AfterFullCredit, OnRequest, AfterDue, Never });
mirrored!(SetRelease of Release { AtOnce, AtHandIn, AfterDue });
mirrored!(SetCounting of WhichCounts { Best, Last });
mirrored!(SetNeeds of HandInNeeds { Nothing, EveryQuestionAttempted });

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum SetLate {
    Flagged,
    PercentOff,
    NotAccepted,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum SetOrder {
    Any,
    InOrder,
    InOrderNoGoingBack,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum SetGoalKind {
    Level,
    Right,
    Read,
    Start,
    Watch,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub(crate) struct SetGoal {
    pub goal: SetGoalKind,
    pub skills: Vec<String>,
    /// The score that every skill is to reach.
    #[serde(default)]
    pub score: u8,
    /// How many are to be right first time.
    #[serde(default)]
    pub right: u32,
    /// The recording that is to be seen, and its title.
    #[serde(default)]
    pub recording: Option<uuid::Uuid>,
    #[serde(default)]
    pub title: String,
}

/// Settings of an assignment. A count that is missing is unlimited.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub(crate) struct SettingsForm {
    pub kind: SetKind,
    pub counts: bool,
    /// `2027-03-01T23:59`, on the class's clock.
    pub opens: String,
    pub due: String,
    pub closes: String,
    pub late: SetLate,
    pub late_percent: u8,
    pub order: SetOrder,
    pub allow_skipping: bool,
    pub checking: SetChecking,
    pub max_attempts: Option<u32>,
    pub max_sets: Option<u32>,
    pub hints: bool,
    pub hint_cost: u8,
    pub worked_example: bool,
    pub show_solution: SetSolution,
    pub release: SetRelease,
    pub time_limit: Option<u32>,
    pub calculator: bool,
    pub formula_sheet: bool,
    pub typing_guide: bool,
    pub reading: bool,
    pub weight: u32,
    pub hand_ins: Option<u32>,
    pub which_counts: SetCounting,
    pub hand_in_needs: SetNeeds,
    pub pass_mark: Option<u8>,
    pub show_slips: bool,
    pub note: Option<String>,
    pub goal: Option<SetGoal>,
}

fn date(field: &str, local: &str, zone: &str) -> Result<time::OffsetDateTime, ApiError> {
    from_local(local, zone).map_err(|e| ApiError::Unusable(format!("{field}: {e}.")))
}

impl SettingsForm {
    pub fn of(s: &Settings, zone: &str) -> Result<Self, ApiError> {
        let local = |at| to_local(at, zone).map_err(|e| ApiError::Inside(e.to_string()));
        let (late, late_percent) = match s.late {
            LateRule::Flagged => (SetLate::Flagged, 10),
            LateRule::PercentOff(percent) => (SetLate::PercentOff, percent),
            LateRule::NotAccepted => (SetLate::NotAccepted, 10),
        };
        Ok(SettingsForm {
            kind: s.kind.into(),
            counts: s.counts,
            opens: local(s.opens)?,
            due: local(s.due)?,
            closes: local(s.closes)?,
            late,
            late_percent,
            order: match s.navigation {
                Navigation::Nonlinear => SetOrder::Any,
                Navigation::Linear { going_back: true } => SetOrder::InOrder,
                Navigation::Linear { going_back: false } => SetOrder::InOrderNoGoingBack,
            },
            allow_skipping: s.allow_skipping,
            checking: s.checking.into(),
            max_attempts: s.max_attempts,
            max_sets: s.max_sets,
            hints: s.hints,
            hint_cost: s.hint_cost,
            worked_example: s.worked_example,
            show_solution: s.show_solution.into(),
            release: s.release.into(),
            time_limit: s.time_limit,
            calculator: s.tools.calculator,
            formula_sheet: s.tools.formula_sheet,
            typing_guide: s.tools.typing_guide,
            reading: s.tools.reading,
            weight: s.weight,
            hand_ins: s.hand_ins,
            which_counts: s.which_counts.into(),
            hand_in_needs: s.hand_in_needs.into(),
            pass_mark: s.pass_mark,
            show_slips: s.show_slips,
            note: s.note.clone(),
            goal: s.goal.as_ref().map(SetGoal::of),
        })
    }

    /// The settings that are meant. Tries of single questions stand with the questions.
    pub fn settings(
        &self,
        zone: &str,
        question_attempts: BTreeMap<usize, u32>,
    ) -> Result<Settings, ApiError> {
        let note = self.note.as_deref().map(str::trim).filter(|n| !n.is_empty());
        if note.is_some_and(|n| n.chars().count() > 2_000 || n.contains('\0')) {
            return Err(ApiError::Unusable(
                "Your note is too long: 2,000 characters at most.".into(),
            ));
        }
        Ok(Settings {
            kind: self.kind.into(),
            counts: self.counts,
            opens: date("Opens", &self.opens, zone)?,
            due: date("Due", &self.due, zone)?,
            closes: date("Closes", &self.closes, zone)?,
            late: match self.late {
                SetLate::Flagged => LateRule::Flagged,
                SetLate::PercentOff => LateRule::PercentOff(self.late_percent),
                SetLate::NotAccepted => LateRule::NotAccepted,
            },
            navigation: match self.order {
                SetOrder::Any => Navigation::Nonlinear,
                SetOrder::InOrder => Navigation::Linear { going_back: true },
                SetOrder::InOrderNoGoingBack => Navigation::Linear { going_back: false },
            },
            allow_skipping: self.allow_skipping,
            checking: self.checking.into(),
            max_attempts: self.max_attempts,
            question_attempts,
            max_sets: self.max_sets,
            hints: self.hints,
            hint_cost: self.hint_cost,
            worked_example: self.worked_example,
            show_solution: self.show_solution.into(),
            release: self.release.into(),
            time_limit: self.time_limit,
            tools: Tools {
                calculator: self.calculator,
                formula_sheet: self.formula_sheet,
                typing_guide: self.typing_guide,
                reading: self.reading,
            },
            weight: self.weight,
            hand_ins: self.hand_ins,
            which_counts: self.which_counts.into(),
            hand_in_needs: self.hand_in_needs.into(),
            pass_mark: self.pass_mark,
            show_slips: self.show_slips,
            note: note.map(str::to_owned),
            goal: self.goal.as_ref().map(SetGoal::goal),
        })
    }
}

impl SetGoal {
    fn of(goal: &Goal) -> Self {
        let none = SetGoal {
            goal: SetGoalKind::Start,
            skills: goal.skills().to_vec(),
            score: 0,
            right: 0,
            recording: None,
            title: String::new(),
        };
        match goal {
            Goal::Level { score, .. } => SetGoal {
                goal: SetGoalKind::Level,
                score: *score,
                ..none
            },
            Goal::Right { right, .. } => SetGoal {
                goal: SetGoalKind::Right,
                right: *right,
                ..none
            },
            Goal::Read { .. } => SetGoal {
                goal: SetGoalKind::Read,
                ..none
            },
            Goal::Start {} => none,
            Goal::Watch { recording, title } => SetGoal {
                goal: SetGoalKind::Watch,
                recording: Some(*recording),
                title: title.clone(),
                ..none
            },
        }
    }

    fn goal(&self) -> Goal {
        let skills = self.skills.clone();
        match self.goal {
            SetGoalKind::Level => Goal::Level {
                skills,
                score: self.score,
            },
            SetGoalKind::Right => Goal::Right {
                skills,
                right: self.right,
            },
            SetGoalKind::Read => Goal::Read { skills },
            SetGoalKind::Start => Goal::Start {},
            SetGoalKind::Watch => Goal::Watch {
                recording: self.recording.unwrap_or_default(),
                title: self.title.clone(),
            },
        }
    }
}
