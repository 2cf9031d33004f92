//! A hand-in, and when its results show.

use coursework::{Assignment, HandIn, Release, Work, terms};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;

use super::state::ScoreView;

/// A hand-in that stands.
#[derive(Serialize, ToSchema)]
pub(crate) struct HandInView {
    pub number: u32,
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    pub late: bool,
    /// The clock did it.
    pub by_time: bool,
    /// `None` until results are released.
    pub score: Option<ScoreView>,
    /// What was recorded then, where a correction or the teacher has changed it since.
    pub score_then: Option<ScoreView>,
    pub taken_off: u8,
}

pub(crate) fn hand_in_view(h: &HandIn, visible: bool) -> HandInView {
    let changed = h.recorded != h.recorded_then;
    HandInView {
        number: h.number,
        at: h.at,
        late: h.late,
        by_time: h.by_time,
        score: visible.then(|| (&h.recorded).into()),
        score_then: (visible && changed).then(|| (&h.recorded_then).into()),
        taken_off: h.recorded.taken_off,
    }
}

/// When results show, if that is later.
pub(crate) fn results_at(
    assignment: &Assignment,
    work: &Work,
    now: OffsetDateTime,
) -> Option<OffsetDateTime> {
    let due = terms(assignment, work).due;
    (assignment.settings.release == Release::AfterDue && now < due).then_some(due)
}
