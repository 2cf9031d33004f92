//! The word beside an assignment.

use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

use crate::settings::{Assignment, Release};
use crate::terms::{results_released, terms};
use crate::work::Work;

/// The word beside an assignment.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum State {
    NotOpened,
    UnderWay,
    HandedIn,
    /// Handed in and ended; the results, or some of them, are still to come.
    WithTheTeacher,
    /// Handed in, ended, and the results are out.
    Marked,
    /// Past closing, and nothing was handed in.
    Closed,
}

/// Where the assignment stands for this student.
pub fn state(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> State {
    let terms = terms(assignment, work);
    let handed_in = work.standing_hand_ins().next().is_some();
    let ended = now >= terms.closes
        || terms.time_ends.is_some_and(|end| now >= end)
        || (assignment.is_simultaneous() && terms.hand_ins.is_some_and(|max| work.hand_ins_used() >= max));
    let waits = work
        .counting_hand_in(assignment)
        .is_some_and(|h| h.recorded.waiting > 0.0);
    match (handed_in, results_released(assignment, work, now)) {
        (true, true) if ended && waits => State::WithTheTeacher,
        (true, true) if ended => State::Marked,
        (true, true) if assignment.settings.release == Release::AfterDue && !waits => State::Marked,
        (true, false) if ended => State::WithTheTeacher,
        (true, _) => State::HandedIn,
        _ if now >= terms.closes => State::Closed,
        _ if work.opened_at.is_some() => State::UnderWay,
        _ => State::NotOpened,
    }
}
