//! Marking one question's entries while working.

use marking::Response;
use time::OffsetDateTime;

use crate::command::Decision;
use crate::event::{Checked, CheckedPart, Event, MarkedPart};
use crate::refusal::Refusal;
use crate::score::recorded_now;
use crate::settings::Assignment;
use crate::terms::{may_see, may_work, part_is_out, terms, waits_for};
use crate::work::Work;

/// Checks on one set that cost nothing and are kept. What cannot be judged costs no try, so that nothing else bounds
/// them; a hundred are more than anybody needs to find a bracket.
pub const MOST_UNJUDGED: usize = 100;

/// What has to be marked before a check can be decided.
#[derive(Clone, Debug, PartialEq)]
pub struct ToMark {
    pub question: usize,
    pub set: usize,
    pub seed: u64,
    pub parts: Vec<(String, Response)>,
    /// What was given before on this set, for what follows from it.
    pub earlier: Vec<(String, Response)>,
    /// As it stands, because nothing can be added any more; else what is unfinished is only said.
    pub at_end: bool,
}

/// Whether what is typed may be kept now.
///
/// # Errors
/// Why it may not.
pub fn may_draft(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    set: usize,
    part: &str,
    now: OffsetDateTime,
) -> Result<(), Refusal> {
    may_work(assignment, work, now)?;
    may_see(assignment, work, question)?;
    let state = work.questions.get(question).ok_or(Refusal::NoSuchQuestion)?;
    if set.checked_add(1) != Some(state.sets.len()) {
        return Err(Refusal::OldSet);
    }
    let current = state.current().ok_or(Refusal::NoSuchQuestion)?;
    if current.parts.iter().any(|p| p.id == part) {
        Ok(())
    } else {
        Err(Refusal::NoSuchPart)
    }
}

/// Says what a check would mark, or why it would not, before any marking is done.
///
/// # Errors
/// Why the check is refused; no try is used.
pub fn prepare_check(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    responses: &[(String, Response)],
    now: OffsetDateTime,
) -> Result<ToMark, Refusal> {
    may_work(assignment, work, now)?;
    may_see(assignment, work, question)?;
    let state = work.questions.get(question).ok_or(Refusal::NoSuchQuestion)?;
    let set = state.current().ok_or(Refusal::NoSuchQuestion)?;
    if assignment.is_simultaneous() {
        return Err(Refusal::CheckedAtHandIn);
    }
    if responses
        .iter()
        .any(|(id, _)| !set.parts.iter().any(|p| p.id == *id))
    {
        return Err(Refusal::NoSuchPart);
    }
    if assignment.items.get(question).is_some_and(|i| i.is_by_hand()) {
        return Err(Refusal::MarkedByTeacher);
    }
    if set.is_right() {
        return Err(Refusal::AllRight);
    }
    if set.solution_shown {
        return Err(Refusal::SetEnded);
    }
    let open: Vec<&str> = set
        .parts
        .iter()
        .filter(|p| !p.right && !assignment.is_by_hand(question, &p.id))
        .filter(|p| !part_is_out(assignment, question, set, &p.id))
        .filter(|p| waits_for(assignment, question, set, &p.id).is_none())
        .map(|p| p.id.as_str())
        .collect();
    if open.is_empty() || set.tries_left(assignment.max_attempts(question)) == Some(0) {
        return Err(Refusal::NoTriesLeft);
    }
    let mut parts: Vec<(String, Response)> = Vec::new();
    for (id, response) in responses {
        let wanted = open.contains(&id.as_str()) && !response.is_empty();
        if wanted && !parts.iter().any(|(known, _)| known == id) {
            parts.push((id.clone(), response.clone()));
        }
    }
    if parts.is_empty() {
        return Err(Refusal::NothingEntered);
    }
    let needs_all = assignment.items.get(question).is_some_and(|i| i.all_parts_needed);
    if needs_all && parts.len() < open.len() {
        return Err(Refusal::Incomplete);
    }
    if parts.iter().all(|(id, response)| set.has_tried(id, response)) {
        return Err(Refusal::AlreadyTried);
    }
    Ok(ToMark {
        question,
        set: state.sets.len() - 1,
        seed: set.seed,
        parts,
        earlier: set.given(),
        at_end: false,
    })
}

pub(crate) fn check(
    assignment: &Assignment,
    work: &Work,
    (question, set): (usize, usize),
    parts: &[MarkedPart],
    now: OffsetDateTime,
) -> Decision {
    // Fresh numbers were taken while this was marked: the verdicts are not those of the new set.
    if work
        .questions
        .get(question)
        .is_some_and(|q| q.sets.len() != set + 1)
    {
        return Err(Refusal::OldSet);
    }
    let responses: Vec<(String, Response)> = parts
        .iter()
        .map(|p| (p.part.clone(), p.response.clone()))
        .collect();
    let wanted = prepare_check(assignment, work, question, &responses, now)?;
    let checked = checked(work, &wanted, parts, false);
    let set = work.questions.get(question).and_then(|q| q.current());
    let unjudged = set.map_or(0, |s| s.tries.iter().filter(|t| !t.used_a_try).count());
    if !checked.used_a_try && unjudged >= MOST_UNJUDGED {
        return Err(Refusal::TooManyUnjudged);
    }
    let checked = Event::Checked(checked);
    // A check that came before the end while the clock was already handing in: what was recorded takes it in.
    let clock_was_first = match (work.time_up_at, terms(assignment, work).time_ends) {
        (Some(_), Some(end)) => now < end && work.standing_hand_ins().next_back().is_some_and(|h| h.by_time),
        _ => false,
    };
    if !clock_was_first {
        return Ok(vec![checked]);
    }
    let after = work.with(assignment, std::slice::from_ref(&checked), now);
    let late = now > terms(assignment, work).due;
    let recorded = recorded_now(assignment, &after, now);
    Ok(vec![
        checked,
        Event::TakenBack,
        Event::HandedIn {
            late,
            recorded,
            by_time: true,
        },
    ])
}

/// The event of a check, with whether it uses up a try.
pub(crate) fn checked(work: &Work, wanted: &ToMark, parts: &[MarkedPart], at_hand_in: bool) -> Checked {
    let set = work.questions.get(wanted.question).and_then(|q| q.current());
    // Each part once, whatever was sent.
    let marked_as_wanted =
        |(id, r): &(String, Response)| parts.iter().find(|p| p.part == *id && p.response == *r);
    let marked: Vec<&MarkedPart> = wanted.parts.iter().filter_map(marked_as_wanted).collect();
    let costs = |p: &&MarkedPart| p.verdict.costs && set.is_some_and(|s| !s.has_tried(&p.part, &p.response));
    Checked {
        question: wanted.question,
        set: wanted.set,
        used_a_try: marked.iter().any(costs),
        parts: marked.into_iter().map(CheckedPart::new).collect(),
        at_hand_in,
    }
}
