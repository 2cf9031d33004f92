//! Handing in, by the student or by the clock, and taking back.

use marking::Response;
use time::OffsetDateTime;

use crate::check::{ToMark, checked};
use crate::command::{Decision, MarkedQuestion};
use crate::event::{Event, MarkedPart, Recorded};
use crate::goal::GoalProgress;
use crate::refusal::Refusal;
use crate::score::recorded_now;
use crate::settings::{Assignment, HandInNeeds, LateRule};
use crate::terms::{results_released, set_is_over, terms, time_up_due, waits_for};
use crate::work::{PartState, SetState, Work};

/// What stands in one field.
#[derive(Clone, Debug, PartialEq)]
pub struct Entered {
    pub question: usize,
    pub set: usize,
    pub part: String,
    pub response: Response,
}

impl Work {
    /// The work as it would be after these events.
    pub(crate) fn with(&self, assignment: &Assignment, events: &[Event], now: OffsetDateTime) -> Work {
        let mut after = self.clone();
        for (number, event) in (self.last_event + 1..).zip(events) {
            let event = event.clone();
            after.apply(
                assignment,
                &Recorded {
                    number,
                    at: now,
                    event,
                },
            );
        }
        after
    }
}

/// Who hands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum End {
    Student,
    Clock,
}

/// The drafts that handing in marks: all of them where everything is checked at hand-in; else what a person marks, and,
/// when time is up, what is complete and could still have been checked.
pub fn to_mark_at_end(assignment: &Assignment, work: &Work, drafts: &[Entered], end: End) -> Vec<ToMark> {
    let mut all = Vec::new();
    let at_hand_in = assignment.is_simultaneous();
    let only_by_hand = !at_hand_in && end == End::Student;
    for (question, state) in work.questions.iter().enumerate() {
        // Where nothing is told before release, what is marked must not depend on what was right.
        let is_over = |s: &&SetState| match at_hand_in {
            true => s.solution_shown,
            false => set_is_over(assignment, question, s),
        };
        let Some(set) = state.current() else {
            continue;
        };
        let over = is_over(&set);
        let number = state.sets.len() - 1;
        let is_open = |p: &&PartState| {
            // The working tells nothing that a person would not see through: what is written stays open.
            let ended = !assignment.is_by_hand(question, &p.id) && (over || only_by_hand);
            !ended && (at_hand_in || (!p.right && waits_for(assignment, question, set, &p.id).is_none()))
        };
        let open: Vec<&PartState> = set.parts.iter().filter(is_open).collect();
        let entered: Vec<(&PartState, &Response)> = open
            .iter()
            .filter_map(|part| {
                let is_it = |d: &&Entered| d.question == question && d.set == number && d.part == part.id;
                let draft = drafts.iter().find(is_it).filter(|d| !d.response.is_empty())?;
                Some((*part, &draft.response))
            })
            .collect();
        let needs_all = !only_by_hand && assignment.items.get(question).is_some_and(|i| i.all_parts_needed);
        let fresh: Vec<(String, Response)> = entered
            .iter()
            .filter(|(part, response)| !set.has_tried(&part.id, response))
            .map(|(part, response)| (part.id.clone(), (*response).clone()))
            .collect();
        let counted = if at_hand_in { entered.len() } else { fresh.len() };
        let incomplete = needs_all && counted < open.len();
        if !fresh.is_empty() && !incomplete {
            all.push(ToMark {
                question,
                set: number,
                seed: set.seed,
                parts: fresh,
                earlier: set.given(),
                at_end: true,
            });
        }
    }
    all
}

/// The events that mark what was entered. Entries that cannot be read are left as they are while tries count.
fn marked_events(assignment: &Assignment, work: &Work, marked: &[MarkedQuestion], end: End) -> Vec<Event> {
    let entered: Vec<Entered> = marked
        .iter()
        .flat_map(|q| {
            let set = work
                .questions
                .get(q.question)
                .map_or(0, |s| s.sets.len().saturating_sub(1));
            q.parts.iter().map(move |p| Entered {
                question: q.question,
                set,
                part: p.part.clone(),
                response: p.response.clone(),
            })
        })
        .collect();
    let mut events = Vec::new();
    for wanted in to_mark_at_end(assignment, work, &entered, end) {
        let Some(given) = marked.iter().find(|q| q.question == wanted.question) else {
            continue;
        };
        let readable = |p: &&MarkedPart| assignment.is_simultaneous() || p.verdict.marking.outcome.is_taken();
        let parts: Vec<MarkedPart> = given.parts.iter().filter(readable).cloned().collect();
        let event = checked(work, &wanted, &parts, true);
        if !event.parts.is_empty() {
            events.push(Event::Checked(event));
        }
    }
    events
}

pub(crate) fn hand_in(
    assignment: &Assignment,
    work: &Work,
    marked: &[MarkedQuestion],
    now: OffsetDateTime,
) -> Decision {
    let settings = &assignment.settings;
    let terms = terms(assignment, work);
    let mut events = marked_events(assignment, work, marked, End::Student);
    // Handing in again with nothing changed in between is the same hand-in: one receipt.
    let last = work.standing_hand_ins().next_back();
    let has_questions = settings.goal.is_none();
    if has_questions && events.is_empty() && last.is_some_and(|h| work.last_change <= h.event) {
        return Ok(Vec::new());
    }
    let late = now > terms.due;
    if late && settings.late == LateRule::NotAccepted {
        return Err(Refusal::LateNotAccepted);
    }
    if terms.hand_ins.is_some_and(|max| work.hand_ins_used() >= max) {
        return Err(Refusal::NoHandInsLeft);
    }
    let after = work.with(assignment, &events, now);
    let untouched = after.questions.iter().any(|q| !q.is_touched());
    if settings.hand_in_needs == HandInNeeds::EveryQuestionAttempted && untouched {
        return Err(Refusal::QuestionsLeft);
    }
    let recorded = recorded_now(assignment, &after, now);
    events.push(Event::HandedIn {
        late,
        recorded,
        by_time: false,
    });
    Ok(events)
}

/// Fixes what was reached so far as the recorded score.
pub(crate) fn hand_in_progress(
    assignment: &Assignment,
    work: &Work,
    progress: &GoalProgress,
    now: OffsetDateTime,
) -> Decision {
    if assignment.settings.goal.is_none() {
        return Err(Refusal::NoGoal);
    }
    let last = work.standing_hand_ins().next_back();
    if last.is_some_and(|h| h.progress.as_ref() == Some(progress)) {
        return Ok(Vec::new());
    }
    let measured = Event::Measured(progress.clone());
    let after = work.with(assignment, std::slice::from_ref(&measured), now);
    let mut events = hand_in(assignment, &after, &[], now)?;
    events.insert(0, measured);
    Ok(events)
}

/// The clock's hand-in: once, at the instant time ended, whenever it is noticed.
pub(crate) fn time_up(
    assignment: &Assignment,
    work: &Work,
    marked: &[MarkedQuestion],
    now: OffsetDateTime,
) -> Decision {
    let ended = time_up_due(assignment, work)
        .filter(|end| *end <= now)
        .ok_or(Refusal::TimeNotUp)?;
    let terms = terms(assignment, work);
    let mut events = marked_events(assignment, work, marked, End::Clock);
    let after = work.with(assignment, &events, now);
    let last = work.standing_hand_ins().next_back();
    let changed = !events.is_empty() || last.is_none_or(|h| work.last_change > h.event);
    let left = terms.hand_ins.is_none_or(|max| work.hand_ins_used() < max);
    events.push(Event::TimeUp);
    if changed && left {
        let late = ended > terms.due;
        let recorded = recorded_now(assignment, &after, ended);
        events.push(Event::HandedIn {
            late,
            recorded,
            by_time: true,
        });
    }
    Ok(events)
}

pub(crate) fn take_back(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Decision {
    if work.standing_hand_ins().next().is_none() {
        return Err(Refusal::NothingToTakeBack);
    }
    // Else handing in and taking back would tell, again and again, what is right.
    if assignment.is_simultaneous() && results_released(assignment, work, now) {
        return Err(Refusal::ResultsSeen);
    }
    Ok(vec![Event::TakenBack])
}
