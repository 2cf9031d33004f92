//! What a class's sheet shows of one student's work on one assignment, small enough to be kept beside it.

use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

use crate::score::score_so_far;
use crate::settings::Assignment;
use crate::state::{State, state};
use crate::terms::terms;
use crate::work::Work;

/// A cell of the class sheet. It goes on being right as time passes: the states that are still to come are in it.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct SheetCell {
    /// From when (Unix seconds) the work is in which state, if nothing else happens; the first one from the beginning.
    pub states: Vec<(i64, State)>,
    /// Per cent recorded by the hand-in that counts.
    pub recorded: Option<f64>,
    /// Points of it that a person still has to decide on.
    pub waiting: f64,
    /// Per cent as the work stands.
    pub so_far: f64,
    /// The hand-in that counts came after the due date.
    pub late: bool,
    pub hand_ins: u32,
    /// Checks that used up a try.
    pub tries: u32,
    /// Sets of numbers, those of the first opening included.
    pub sets: u32,
    pub hints: u32,
    /// When it is due for this student (Unix seconds).
    pub due: i64,
}

impl SheetCell {
    /// The state at an instant.
    pub fn state(&self, now: OffsetDateTime) -> State {
        let now = now.unix_timestamp();
        let at = self.states.iter().rev().find(|(from, _)| *from <= now);
        at.map_or(State::NotOpened, |(_, state)| *state)
    }
}

/// The cell of a work.
pub fn sheet_cell(assignment: &Assignment, work: &Work) -> SheetCell {
    let terms = terms(assignment, work);
    let mut turns: Vec<OffsetDateTime> = [Some(terms.due), Some(terms.closes), terms.time_ends]
        .into_iter()
        .flatten()
        .collect();
    // Results may be released when the assignment is due for everybody, too.
    turns.extend([assignment.settings.due, assignment.settings.closes]);
    turns.sort_unstable();
    turns.dedup();
    let mut states = vec![(i64::MIN, state(assignment, work, OffsetDateTime::UNIX_EPOCH))];
    for turn in turns {
        // Whole seconds: a state that begins within one begins with the next.
        let from = turn.unix_timestamp() + i64::from(turn.nanosecond() > 0);
        let then = OffsetDateTime::from_unix_timestamp(from).map_or(turn, |t| t.max(turn));
        let next = state(assignment, work, then);
        if states.last().is_none_or(|(_, last)| *last != next) {
            states.push((from, next));
        }
    }
    let counting = work.counting_hand_in(assignment);
    let sets = || work.questions.iter().flat_map(|q| &q.sets);
    let sum = |of: &dyn Fn(&crate::work::SetState) -> usize| {
        u32::try_from(sets().map(of).sum::<usize>()).unwrap_or(u32::MAX)
    };
    SheetCell {
        states,
        recorded: counting.map(|h| h.recorded.percent()),
        waiting: counting.map_or(0.0, |h| h.recorded.waiting),
        so_far: score_so_far(assignment, work).percent(),
        late: counting.is_some_and(|h| h.late),
        hand_ins: work.hand_ins_used(),
        tries: sum(&|s| s.tries.iter().filter(|t| t.used_a_try).count()),
        sets: sum(&|_| 1),
        hints: sum(&|s| s.hints),
        due: terms.due.unix_timestamp(),
    }
}
