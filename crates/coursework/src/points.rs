//! Scores, question by question.

use serde::{Deserialize, Serialize};

/// A score that can explain itself.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Score {
    pub points: f64,
    pub of: u32,
    pub questions: Vec<QuestionScore>,
}

impl Score {
    /// Points that a person still has to decide on.
    pub fn waiting(&self) -> f64 {
        // A sum of nothing would be the negative nothing.
        self.questions
            .iter()
            .map(|q| q.waiting)
            .fold(0.0, |all, one| all + one)
    }

    /// 0 to 100.
    pub fn percent(&self) -> f64 {
        if self.of == 0 {
            0.0
        } else {
            100.0 * self.points / f64::from(self.of)
        }
    }
}

/// One question's score: the best over its sets, and where it came from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct QuestionScore {
    pub points: f64,
    pub of: u32,
    /// 0 for set A; `None` before the first check.
    pub set: Option<usize>,
    /// The check of that set on which the last point came.
    pub on_try: Option<u32>,
    /// Hints that had been taken on that set by then.
    pub hints: usize,
    /// Points that hints cost.
    pub hint_points: f64,
    pub by_teacher: bool,
    /// Points of it that a person still has to decide on.
    #[serde(default)]
    pub waiting: f64,
}
