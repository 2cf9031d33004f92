use maths::Evidence;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What came of an entry.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Outcome {
    Correct,
    Partial,
    WrongForm,
    Incorrect,
    Unreadable,
    /// Something is still to be given; nothing is judged.
    Unfinished,
    /// A person marks it; until then it earns nothing.
    Waiting,
}

impl Outcome {
    pub fn name(self) -> &'static str {
        match self {
            Outcome::Correct => "correct",
            Outcome::Partial => "partial",
            Outcome::WrongForm => "wrong_form",
            Outcome::Incorrect => "incorrect",
            Outcome::Unreadable => "unreadable",
            Outcome::Unfinished => "unfinished",
            Outcome::Waiting => "waiting",
        }
    }

    /// Whether it uses up a try where the author has not said otherwise.
    pub fn costs_a_try(self) -> bool {
        matches!(self, Outcome::Correct | Outcome::Partial | Outcome::Incorrect)
    }

    /// Whether there is something to judge.
    pub fn is_judged(self) -> bool {
        !matches!(self, Outcome::Unreadable | Outcome::Unfinished | Outcome::Waiting)
    }

    /// Whether it goes in with what is handed in where only what can be judged does: the machine or a person judges it.
    pub fn is_taken(self) -> bool {
        self.is_judged() || self == Outcome::Waiting
    }
}

/// The most likely reason of a wrong answer, shown to be true.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Slip {
    Sign,
    Reciprocal,
    Factor,
    PowerOfTen,
    AngleMode,
    RoundedEarly,
    ExactWanted,
    AddedConstant,
    Swapped,
    Endpoint,
    MissingMember,
    ExtraMember,
    WrongDimension,
    UnitScale,
    MisreadOrder,
}

impl Slip {
    pub fn name(self) -> &'static str {
        match self {
            Slip::Sign => "sign",
            Slip::Reciprocal => "reciprocal",
            Slip::Factor => "factor",
            Slip::PowerOfTen => "power_of_ten",
            Slip::AngleMode => "angle_mode",
            Slip::RoundedEarly => "rounded_early",
            Slip::ExactWanted => "exact_wanted",
            Slip::AddedConstant => "added_constant",
            Slip::Swapped => "swapped",
            Slip::Endpoint => "endpoint",
            Slip::MissingMember => "missing_member",
            Slip::ExtraMember => "extra_member",
            Slip::WrongDimension => "wrong_dimension",
            Slip::UnitScale => "unit_scale",
            Slip::MisreadOrder => "misread_order",
        }
    }
}

/// A hint at what went wrong that does not give the answer away.
pub fn slip_words(slip: Slip) -> &'static str {
    match slip {
        Slip::Sign => "Look at the signs.",
        Slip::Reciprocal => "This looks upside down: check what is divided by what.",
        Slip::Factor => "It is off by a small whole factor: check what was multiplied or divided.",
        Slip::PowerOfTen => "It is off by a power of ten: check the decimal point and the unit prefix.",
        Slip::AngleMode => "Check whether your calculator is set to degrees or radians.",
        Slip::RoundedEarly => "Very close: keep more digits until the last step.",
        Slip::ExactWanted => "An exact value is wanted here, not a rounded decimal.",
        Slip::AddedConstant => "It is off by an added number.",
        Slip::Swapped => "The right values are here, in another order.",
        Slip::Endpoint => "The interval is right; check which ends belong to it.",
        Slip::MissingMember => "What is here is right; something is still missing.",
        Slip::ExtraMember => "Everything right is here, and something more that is not.",
        Slip::WrongDimension => "This unit measures something else.",
        Slip::UnitScale => "The number fits another unit: check the unit.",
        Slip::MisreadOrder => {
            "It was read in another order than you may have meant. Look at how it reads, and use brackets."
        }
    }
}

/// The verdict on one entry.
#[derive(Clone, Debug, PartialEq)]
pub struct Marking {
    pub outcome: Outcome,
    /// 0 to 1.
    pub score: f64,
    /// LaTeX of the entry as it was read; empty if it was not.
    pub reads_as: String,
    /// The same in words, for a screen reader.
    pub speech: String,
    /// In a student's words; cautions first.
    pub notes: Vec<String>,
    pub slip: Option<Slip>,
    /// Where an unreadable entry went wrong, in characters from its start: first, and past the last.
    pub at: Option<(usize, usize)>,
    /// How the outcome is known; for tests and logs.
    pub evidence: Option<Evidence>,
    /// What each check of a program found.
    pub checks: Vec<CheckLine>,
}

/// What one check of a program found.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = CheckLineView)]
pub struct CheckLine {
    pub id: String,
    /// What it looks for.
    pub say: String,
    pub share: u32,
    pub met: bool,
    /// What it found.
    pub words: String,
    /// What the program was given, where that may be shown.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub input: Option<String>,
    /// What was expected, and what came.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub expected: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub actual: Option<String>,
}

impl Marking {
    pub(crate) fn new(outcome: Outcome) -> Self {
        let score = if outcome == Outcome::Correct { 1.0 } else { 0.0 };
        Marking {
            outcome,
            score,
            reads_as: String::new(),
            speech: String::new(),
            notes: Vec::new(),
            slip: None,
            at: None,
            evidence: None,
            checks: Vec::new(),
        }
    }

    /// Right, partly right or not, by a share from 0 to 1.
    pub(crate) fn shared(share: f64) -> Self {
        let outcome = match share {
            s if s >= 1.0 => Outcome::Correct,
            s if s > 0.0 => Outcome::Partial,
            _ => Outcome::Incorrect,
        };
        Marking {
            score: share.clamp(0.0, 1.0),
            ..Marking::new(outcome)
        }
    }

    pub(crate) fn unreadable(error: &maths::ReadError) -> Self {
        let mut marking = Marking::new(Outcome::Unreadable);
        marking.notes.push(maths::error_words(&error.kind));
        marking.at = Some((error.span.start, error.span.end));
        marking
    }

    pub(crate) fn note(mut self, note: impl Into<String>) -> Self {
        self.notes.push(note.into());
        self
    }

    pub(crate) fn slipped(mut self, slip: Option<Slip>) -> Self {
        self.slip = slip;
        self
    }

    pub(crate) fn known_by(mut self, evidence: Evidence) -> Self {
        self.evidence = Some(evidence);
        self
    }
}
