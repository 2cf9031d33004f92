//! Where an assignment and its questions stand, in one look; scores where they may be shown.

use coursework::{Assignment, QuestionState, Score, State, Work, score_so_far, state, verdicts_visible};
use serde::Serialize;
use store::Draft;
use time::OffsetDateTime;
use utoipa::ToSchema;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StateView {
    NotOpened,
    UnderWay,
    HandedIn,
    WithTheTeacher,
    Marked,
    ClosedNothingHandedIn,
}

pub(crate) fn state_view(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> StateView {
    view_of(state(assignment, work, now))
}

pub(crate) fn view_of(state: State) -> StateView {
    match state {
        State::NotOpened => StateView::NotOpened,
        State::UnderWay => StateView::UnderWay,
        State::HandedIn => StateView::HandedIn,
        State::WithTheTeacher => StateView::WithTheTeacher,
        State::Marked => StateView::Marked,
        State::Closed => StateView::ClosedNothingHandedIn,
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ScoreView {
    pub percent: f64,
    pub points: f64,
    pub of: u32,
    /// Points of it that the teacher still has to decide on.
    pub waiting: f64,
}

impl From<&Score> for ScoreView {
    fn from(s: &Score) -> Self {
        ScoreView {
            percent: s.percent(),
            points: s.points,
            of: s.of,
            waiting: s.waiting(),
        }
    }
}

impl From<&coursework::RecordedScore> for ScoreView {
    fn from(s: &coursework::RecordedScore) -> Self {
        ScoreView {
            percent: s.percent(),
            points: s.points,
            of: s.of,
            waiting: s.waiting,
        }
    }
}

/// The score as the work stands, where it may be shown.
pub(crate) fn score_view(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Option<ScoreView> {
    let shown = work.opened_at.is_some() && verdicts_visible(assignment, work, now);
    shown.then(|| (&score_so_far(assignment, work)).into())
}

/// The recorded score, where it may be shown.
pub(crate) fn recorded_view(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Option<ScoreView> {
    let shown = coursework::score_visible(assignment, work, now);
    let counting = work.counting_hand_in(assignment).filter(|_| shown);
    counting.map(|h| (&h.recorded).into())
}

/// The state of a question in one look.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Stone {
    Untouched,
    /// Something is typed that was not checked.
    Typed,
    /// Checked, and nothing right yet.
    NotYet,
    Partly,
    Right,
    /// All that is left of it goes to the teacher, and is written.
    ForTheTeacher,
    NoTriesLeft,
    /// In linear mode: not reached, or left behind.
    Locked,
}

/// What a question looks like from outside, given what is typed in it.
pub(crate) fn stone(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    drafts: &[Draft],
    now: OffsetDateTime,
) -> Stone {
    let Some(state) = work.questions.get(question) else {
        return Stone::Untouched;
    };
    let Some(set) = state.current() else {
        return Stone::Untouched;
    };
    if coursework::may_see(assignment, work, question) == Err(coursework::Refusal::NotReached) {
        return Stone::Locked;
    }
    let mine = drafts_for(drafts, question, state);
    let entered = |part: &str| mine.iter().any(|d| d.part == part && !d.response.is_empty());
    if !verdicts_visible(assignment, work, now) {
        let any = set.parts.iter().any(|p| entered(&p.id));
        return if any { Stone::Typed } else { Stone::Untouched };
    }
    if set.is_right() {
        return Stone::Right;
    }
    let out_of_tries = set.solution_shown || set.tries_left(assignment.max_attempts(question)) == Some(0);
    // What was checked and could not be judged still waits to be checked.
    let waits = |d: &&Draft| {
        let open = set.parts.iter().find(|p| p.id == d.part && !p.right);
        let unjudged =
            |last: &coursework::CheckedPart| last.response == d.response && !last.outcome.costs_a_try();
        let tried = set.has_tried(&d.part, &d.response);
        open.is_some_and(|p| !d.response.is_empty() && (!tried || p.last.as_ref().is_some_and(unjudged)))
    };
    let by_hand = |part: &str| assignment.is_by_hand(question, part);
    let for_person = set.parts.iter().any(|p| by_hand(&p.id));
    let settled = |p: &coursework::PartState| match by_hand(&p.id) {
        true => entered(&p.id) || p.waiting,
        false => p.right || coursework::part_is_out(assignment, question, set, &p.id) || out_of_tries,
    };
    if for_person && set.parts.iter().all(settled) {
        return Stone::ForTheTeacher;
    }
    let unchecked = mine.iter().any(waits);
    if coursework::set_is_over(assignment, question, set) {
        Stone::NoTriesLeft
    } else if set.parts.iter().any(|p| p.best > 0.0) {
        Stone::Partly
    } else if unchecked {
        Stone::Typed
    } else if !set.tries.iter().any(|t| t.used_a_try) {
        Stone::Untouched
    } else {
        Stone::NotYet
    }
}

pub(crate) fn drafts_for<'a>(drafts: &'a [Draft], question: usize, state: &QuestionState) -> Vec<&'a Draft> {
    let current = state.sets.len().saturating_sub(1);
    drafts
        .iter()
        .filter(|d| d.question == question && d.set == current)
        .collect()
}

/// Questions that something is still to be done in: the best set is not right, and something can still be gained.
pub(crate) fn questions_left(
    assignment: &Assignment,
    work: &Work,
    drafts: &[Draft],
    now: OffsetDateTime,
) -> usize {
    if work.opened_at.is_none() {
        return assignment.items.len();
    }
    let visible = verdicts_visible(assignment, work, now);
    let score = score_so_far(assignment, work);
    // What goes to the teacher is done once it is written, and has no fresh numbers.
    let for_person = |question: usize| {
        let item = assignment.items.get(question)?;
        item.parts
            .iter()
            .any(|p| p.by_hand)
            .then(|| stone(assignment, work, question, drafts, now) == Stone::ForTheTeacher)
    };
    let is_done = |question: &usize| {
        let full = score
            .questions
            .get(*question)
            .is_some_and(|q| q.points >= f64::from(q.of) - 1e-9);
        let over = || {
            let state = work.questions.get(*question)?;
            let over = coursework::set_is_over(assignment, *question, state.current()?);
            Some(over && coursework::may_take_fresh_numbers(assignment, work, *question).is_err())
        };
        match visible {
            true => full || for_person(*question).unwrap_or_else(|| over().unwrap_or(false)),
            false => matches!(stone(assignment, work, *question, drafts, now), Stone::Typed),
        }
    };
    (0..assignment.items.len()).filter(|q| !is_done(q)).count()
}
