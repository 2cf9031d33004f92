//! What holds for one student at one instant: dates with exceptions, time, order, release.

use time::OffsetDateTime;

use crate::refusal::Refusal;
use crate::settings::{Assignment, Checking, LateRule, Navigation, Release, ShowSolution};
use crate::work::{SetState, Work};

/// The dates and counts that hold for one student.
#[derive(Clone, Debug, PartialEq)]
pub struct Terms {
    pub opens: OffsetDateTime,
    pub due: OffsetDateTime,
    pub closes: OffsetDateTime,
    pub hand_ins: Option<u32>,
    /// Per cent of the time limit.
    pub time_percent: u32,
    /// Sets of numbers for one question.
    pub max_sets: Option<u32>,
    /// When a timed assignment ends, once it was opened.
    pub time_ends: Option<OffsetDateTime>,
}

/// The settings with this student's exceptions.
pub fn terms(assignment: &Assignment, work: &Work) -> Terms {
    let (settings, own) = (&assignment.settings, &work.exception);
    let due = own.due.unwrap_or(settings.due);
    // Closing never comes before due, whichever of the two was moved.
    let closes = own.closes.unwrap_or(settings.closes).max(due);
    let time_percent = own.time_percent.unwrap_or(100);
    let last = if settings.late == LateRule::NotAccepted {
        due
    } else {
        closes
    };
    let time_ends = match (work.opened_at, settings.time(time_percent)) {
        (Some(opened), Some(limit)) => Some((opened + limit).min(last)),
        _ => None,
    };
    Terms {
        opens: settings.opens,
        due,
        closes,
        hand_ins: settings.hand_ins.map(|n| n.saturating_add(own.more_hand_ins)),
        max_sets: settings.max_sets.map(|n| n.saturating_add(own.more_sets)),
        time_percent,
        time_ends,
    }
}

/// When the clock has to hand in this work, if it has to.
pub fn time_up_due(assignment: &Assignment, work: &Work) -> Option<OffsetDateTime> {
    let ends = terms(assignment, work).time_ends?;
    match work.time_up_at {
        Some(done) if done >= ends => None,
        _ => Some(ends),
    }
}

/// How long a check can have waited for the turn of the clock on the same work.
const WAITED_AT_MOST: time::Duration = time::Duration::minutes(1);

/// Whether this student's work may be changed now.
///
/// # Errors
/// Why it may not.
pub fn may_work(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Result<(), Refusal> {
    let terms = terms(assignment, work);
    if now < terms.opens {
        return Err(Refusal::NotOpenYet);
    }
    // What the clock has ended stays ended where it is set back afterwards; a check that arrived a moment before the end
    // and waited for the clock's own turn still counts.
    let ended = |end: OffsetDateTime| {
        now >= end
            || work
                .time_up_at
                .is_some_and(|done| done >= end && now + WAITED_AT_MOST < done)
    };
    if terms.time_ends.is_some_and(ended) {
        return Err(Refusal::TimeUp);
    }
    if now >= terms.closes {
        return Err(Refusal::Closed);
    }
    if assignment.settings.release == Release::AfterDue
        && assignment.is_simultaneous()
        && results_released(assignment, work, now)
    {
        return Err(Refusal::ResultsOut);
    }
    Ok(())
}

/// Whether anything that is entered now can still come to count: where all is checked at hand-in, a hand-in must be left.
///
/// # Errors
/// Why it cannot.
pub fn may_add(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Result<(), Refusal> {
    may_work(assignment, work, now)?;
    let max = terms(assignment, work).hand_ins;
    if assignment.is_simultaneous() && max.is_some_and(|max| work.hand_ins_used() >= max) {
        return Err(Refusal::NoHandInsLeft);
    }
    Ok(())
}

/// Whether a question may be seen and worked now: in linear mode only what is reached.
///
/// # Errors
/// Why it may not.
pub fn may_see(assignment: &Assignment, work: &Work, question: usize) -> Result<(), Refusal> {
    if work.opened_at.is_none() {
        return Err(Refusal::NotOpened);
    }
    if question >= work.questions.len() {
        return Err(Refusal::NoSuchQuestion);
    }
    match assignment.settings.navigation {
        Navigation::Linear { .. } if question > work.reached => Err(Refusal::NotReached),
        Navigation::Linear { going_back: false } if question < work.reached => Err(Refusal::LeftBehind),
        _ => Ok(()),
    }
}

/// Whether verdicts and score of what was handed in may be shown.
pub fn results_released(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> bool {
    work.standing_hand_ins().next().is_some()
        && match assignment.settings.release {
            Release::AtOnce | Release::AtHandIn => true,
            Release::AfterDue => now >= terms(assignment, work).due,
        }
}

/// Whether verdicts and the score so far may be shown: while working, or once results are released.
pub fn verdicts_visible(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> bool {
    assignment.settings.checking == Checking::Individual || results_released(assignment, work, now)
}

/// Uses of Check that cost a try, where that may be told: while nothing is released, their number would say what was right.
pub fn tries_shown(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> u32 {
    if verdicts_visible(assignment, work, now) {
        work.tries_used()
    } else {
        0
    }
}

/// Whether the recorded score may be shown.
pub fn score_visible(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> bool {
    results_released(assignment, work, now)
}

/// Whether the working of a question's current set may be shown, and by that end the set.
///
/// # Errors
/// Why it may not, and when it may.
pub fn may_show_solution(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    now: OffsetDateTime,
) -> Result<(), Refusal> {
    let set = work
        .questions
        .get(question)
        .and_then(|q| q.current())
        .ok_or(Refusal::NoSuchQuestion)?;
    if !verdicts_visible(assignment, work, now) {
        return Err(if assignment.settings.show_solution == ShowSolution::Never {
            Refusal::NoSolution
        } else {
            Refusal::CheckedAtHandIn
        });
    }
    match assignment.settings.show_solution {
        ShowSolution::OnRequest => Ok(()),
        ShowSolution::WhenTriesRunOut if set_is_over(assignment, question, set) => Ok(()),
        ShowSolution::WhenTriesRunOut => Err(Refusal::SolutionAfterTries),
        ShowSolution::AfterFullCredit if set.is_right() => Ok(()),
        ShowSolution::AfterFullCredit => Err(Refusal::SolutionAfterCredit),
        ShowSolution::AfterDue if now >= terms(assignment, work).due => Ok(()),
        ShowSolution::AfterDue => Err(Refusal::SolutionAfterDue),
        ShowSolution::Never => Err(Refusal::NoSolution),
    }
}

/// Whether the working of a set is open to look back at: it was shown, or nothing can be gained from it any more.
pub fn solution_open(assignment: &Assignment, work: &Work, set: &SetState, now: OffsetDateTime) -> bool {
    if set.solution_shown {
        return true;
    }
    let over = matches!(
        may_work(assignment, work, now),
        Err(Refusal::Closed | Refusal::TimeUp | Refusal::ResultsOut)
    ) && now >= terms(assignment, work).due;
    if !over || (!verdicts_visible(assignment, work, now) && work.standing_hand_ins().next().is_some()) {
        return false;
    }
    match assignment.settings.show_solution {
        ShowSolution::Never => false,
        ShowSolution::AfterFullCredit => set.is_right(),
        ShowSolution::OnRequest | ShowSolution::WhenTriesRunOut | ShowSolution::AfterDue => true,
    }
}

/// Whether nothing more can be checked on a set: all right, the working seen, or no tries left.
pub fn set_is_over(assignment: &Assignment, question: usize, set: &SetState) -> bool {
    set.is_right()
        || set.solution_shown
        || set.tries_left(assignment.max_attempts(question)) == Some(0)
        || set
            .parts
            .iter()
            .all(|p| p.right || part_is_out(assignment, question, set, &p.id))
}

/// The earlier part that a part still waits for: it opens once that is right, or has no tries left. Where nothing is told
/// before hand-in, every part is open.
pub fn waits_for<'a>(
    assignment: &'a Assignment,
    question: usize,
    set: &SetState,
    part: &str,
) -> Option<&'a str> {
    if assignment.is_simultaneous() {
        return None;
    }
    let parts = &assignment.items.get(question)?.parts;
    let earlier = parts.iter().find(|p| p.id == part)?.opens_after.as_deref()?;
    let right = set.parts.iter().any(|p| p.id == earlier && p.right);
    let open = right || set.solution_shown || part_is_out(assignment, question, set, earlier);
    (!open).then_some(earlier)
}

/// Whether a part's own tries on a set are used up.
pub fn part_is_out(assignment: &Assignment, question: usize, set: &SetState, part: &str) -> bool {
    if assignment.is_simultaneous() {
        return false;
    }
    let item = assignment.items.get(question);
    let max = item
        .and_then(|i| i.parts.iter().find(|p| p.id == part))
        .and_then(|p| p.max_attempts);
    let used = set
        .parts
        .iter()
        .find(|p| p.id == part)
        .map_or(0, |p| p.tries_used);
    max.is_some_and(|max| used >= max)
}
