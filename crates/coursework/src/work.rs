//! The state of one student's work.

use std::collections::BTreeMap;

use marking::Response;
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

use crate::event::{CheckedPart, RecordedScore};
use crate::goal::GoalProgress;
use crate::points::Score;
use crate::settings::{Assignment, Exception, WhichCounts};

/// The state of one student's work, folded from its events.
///
/// Written down it is the work's digest: all of it but what was entered and what was marked word by word, which only the
/// events hold. Scores, states, evidence and attempts come out of it as out of the work itself; it cannot be folded on.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Work {
    #[serde(with = "crate::instant::option")]
    pub opened_at: Option<OffsetDateTime>,
    pub questions: Vec<QuestionState>,
    pub hand_ins: Vec<HandIn>,
    pub exception: Exception,
    /// In linear mode: the last question that was reached, from 0.
    pub reached: usize,
    /// When the clock last ended this work.
    #[serde(with = "crate::instant::option")]
    pub time_up_at: Option<OffsetDateTime>,
    /// What the teacher gave for a question, whatever the marking said.
    pub by_teacher: BTreeMap<usize, TeacherScore>,
    /// How far the goal was reached when it was last measured.
    pub progress: Option<GoalProgress>,
    /// Number of the last event.
    pub last_event: u32,
    /// Number of the last event that changed what would be recorded.
    pub last_change: u32,
    /// Number of the last event that the student has to be told of.
    pub last_told: u32,
    /// Number of the last correction of a key.
    pub(crate) corrected_at: u32,
    /// The questions before what the hand-in under way has marked.
    #[serde(skip)]
    pub(crate) unmarked: Option<Vec<QuestionState>>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TeacherScore {
    pub points: f64,
    pub note: String,
    pub by: Option<uuid::Uuid>,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    /// How they were given to the parts that a person marks.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<crate::PartPoints>,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct QuestionState {
    /// Set A first; never empty once opened.
    pub sets: Vec<SetState>,
    pub example_seen: bool,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct SetState {
    pub seed: u64,
    pub tries_used: u32,
    pub parts: Vec<PartState>,
    pub tries: Vec<TryRecord>,
    /// Hints taken on this set.
    pub hints: usize,
    /// The working was shown; nothing more can be checked.
    pub solution_shown: bool,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct PartState {
    pub id: String,
    /// Best score so far on this set, 0 to 1, less what hints cost.
    pub best: f64,
    pub right: bool,
    /// The verdict that stands beside the part: the last one, or the right one once there is one.
    #[serde(skip)]
    pub last: Option<CheckedPart>,
    /// The check (1, 2, …) of the best score.
    pub best_try: u32,
    /// Per cent that hints had cost when the best score came.
    pub taken_off: u8,
    pub tries_used: u32,
    /// What was handed in for it waits for a person.
    pub waiting: bool,
}

/// One use of Check.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TryRecord {
    /// The number of its event.
    pub event: u32,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    #[serde(skip)]
    pub parts: Vec<CheckedPart>,
    /// Something in it was judged: it is an attempt.
    pub judged: bool,
    /// Something that was judged was not right: it is a slip.
    pub wrong: bool,
    /// All of the set is right after it.
    pub all_right: bool,
    /// Something in it was typed.
    pub typed: bool,
    pub used_a_try: bool,
    pub at_hand_in: bool,
    pub hints_before: usize,
    /// The worked example had been seen.
    pub example_before: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct HandIn {
    pub number: u32,
    /// The number of its event.
    pub event: u32,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    pub late: bool,
    pub by_time: bool,
    /// What counts now: what was recorded, or what a correction or the teacher has made of it.
    pub recorded: RecordedScore,
    /// What was recorded at the time.
    pub recorded_then: RecordedScore,
    /// Question by question, as it stood.
    pub score: Score,
    /// Towards a goal: what the score is made of.
    pub progress: Option<GoalProgress>,
    pub taken_back: bool,
    /// Where all is checked at hand-in: what was marked before it, to be there again when it is taken back.
    #[serde(skip)]
    pub(crate) before: Vec<QuestionState>,
}

impl Work {
    /// The work as its digest gives it back: without what was entered and what the marker said to it.
    #[must_use]
    pub fn digest(&self) -> Work {
        let mut work = self.clone();
        work.unmarked = None;
        for set in work.questions.iter_mut().flat_map(|q| &mut q.sets) {
            set.parts.iter_mut().for_each(|p| p.last = None);
            set.tries.iter_mut().for_each(|t| t.parts = Vec::new());
        }
        work.hand_ins.iter_mut().for_each(|h| h.before = Vec::new());
        work
    }

    /// Whether something typed was ever checked.
    pub fn has_typed(&self) -> bool {
        let sets = self.questions.iter().flat_map(|q| &q.sets);
        sets.flat_map(|s| &s.tries).any(|t| t.typed)
    }

    /// The seeds of a question's sets.
    pub fn seeds(&self, question: usize) -> Vec<u64> {
        let sets = self.questions.get(question).map(|q| q.sets.as_slice());
        sets.unwrap_or_default().iter().map(|s| s.seed).collect()
    }

    /// The hand-ins that stand.
    pub fn standing_hand_ins(&self) -> impl DoubleEndedIterator<Item = &HandIn> {
        self.hand_ins.iter().filter(|h| !h.taken_back)
    }

    pub fn hand_ins_used(&self) -> u32 {
        u32::try_from(self.standing_hand_ins().count()).unwrap_or(u32::MAX)
    }

    /// The hand-in whose score is recorded.
    pub fn counting_hand_in(&self, assignment: &Assignment) -> Option<&HandIn> {
        match assignment.settings.which_counts {
            WhichCounts::Last => self.standing_hand_ins().next_back(),
            WhichCounts::Best => {
                // Of two that are worth the same, the later one where a person marks: it is what was last written.
                let later = assignment.needs_a_person();
                self.standing_hand_ins()
                    .fold(None, |best: Option<&HandIn>, next| match best {
                        Some(b) if b.recorded.points > next.recorded.points => Some(b),
                        Some(b) if b.recorded.points >= next.recorded.points && !later => Some(b),
                        _ => Some(next),
                    })
            }
        }
    }

    /// Uses of Check that cost a try, over all questions and sets.
    pub fn tries_used(&self) -> u32 {
        self.questions
            .iter()
            .flat_map(|q| &q.sets)
            .map(|s| s.tries_used)
            .sum()
    }
}

impl QuestionState {
    pub fn current(&self) -> Option<&SetState> {
        self.sets.last()
    }

    pub fn is_touched(&self) -> bool {
        self.sets.iter().any(|s| !s.tries.is_empty())
    }
}

impl SetState {
    pub fn is_right(&self) -> bool {
        self.parts.iter().all(|p| p.right)
    }

    /// What was last checked in each part.
    pub fn given(&self) -> Vec<(String, Response)> {
        let last = self.parts.iter().filter_map(|p| p.last.as_ref());
        last.map(|c| (c.part.clone(), c.response.clone())).collect()
    }

    pub fn tries_left(&self, max: Option<u32>) -> Option<u32> {
        max.map(|m| m.saturating_sub(self.tries_used))
    }

    /// Whether this response was already checked for this part on this set.
    pub fn has_tried(&self, part: &str, response: &Response) -> bool {
        self.tries
            .iter()
            .flat_map(|t| &t.parts)
            .any(|p| p.part == part && p.response.is_same(response))
    }
}
