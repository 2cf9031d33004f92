use time::OffsetDateTime;
use uuid::Uuid;

use crate::check::check;
use crate::command::{Command, Decision};
use crate::event::{Event, PartPoints};
use crate::hand_in::{hand_in, hand_in_progress, take_back, time_up};
use crate::refusal::Refusal;
use crate::settings::{Assignment, Exception, Navigation};
use crate::terms::{may_see, may_show_solution, may_work, set_is_over, terms};
use crate::work::Work;

/// Turns a command into what happened, or a refusal that changes nothing.
///
/// # Errors
/// Why the command is refused.
pub fn decide(assignment: &Assignment, work: &Work, command: &Command, now: OffsetDateTime) -> Decision {
    if let Command::TimeUp { marked } = command {
        return time_up(assignment, work, marked, now);
    }
    if let Command::Score {
        question,
        points,
        note,
        by,
        parts,
        hand_in,
    } = command
    {
        return score(
            assignment,
            work,
            (*question, *points),
            parts,
            (note, *by),
            *hand_in,
        );
    }
    if let Command::GiveException(given) = command {
        return give_exception(assignment, given);
    }
    may_work(assignment, work, now)?;
    if let Command::Open { seeds } = command {
        return Ok(match work.opened_at {
            Some(_) => Vec::new(),
            None => vec![Event::Opened { seeds: seeds.clone() }],
        });
    }
    if work.opened_at.is_none() {
        return match command {
            // What counts towards a goal may have come before it was opened: handing in opens it.
            Command::HandInProgress { progress } => {
                let opened = Event::Opened { seeds: Vec::new() };
                let after = work.with(assignment, std::slice::from_ref(&opened), now);
                let mut events = hand_in_progress(assignment, &after, progress, now)?;
                events.insert(0, opened);
                Ok(events)
            }
            _ => Err(Refusal::NotOpened),
        };
    }
    match command {
        Command::Check { question, set, parts } => check(assignment, work, (*question, *set), parts, now),
        Command::TakeHint { question, available } => take_hint(assignment, work, *question, *available),
        Command::SeeExample { question, available } => {
            may_see(assignment, work, *question)?;
            if !assignment.settings.worked_example || !available {
                return Err(Refusal::NoExample);
            }
            let seen = work.questions.get(*question).is_some_and(|q| q.example_seen);
            Ok(if seen {
                Vec::new()
            } else {
                vec![Event::ExampleSeen { question: *question }]
            })
        }
        Command::ShowSolution { question } => {
            may_see(assignment, work, *question)?;
            may_show_solution(assignment, work, *question, now)?;
            let state = work.questions.get(*question).ok_or(Refusal::NoSuchQuestion)?;
            let shown = state.current().is_some_and(|s| s.solution_shown);
            let set = state.sets.len().saturating_sub(1);
            Ok(if shown {
                Vec::new()
            } else {
                vec![Event::SolutionShown {
                    question: *question,
                    set,
                }]
            })
        }
        Command::FreshNumbers { question, seed } => {
            may_take_fresh_numbers(assignment, work, *question)?;
            Ok(vec![Event::FreshNumbers {
                question: *question,
                seed: *seed,
            }])
        }
        Command::MoveOn { to, answered } => move_on(assignment, work, *to, *answered),
        Command::HandIn { marked } => hand_in(assignment, work, marked, now),
        Command::HandInProgress { progress } => hand_in_progress(assignment, work, progress, now),
        Command::TakeBack => take_back(assignment, work, now),
        Command::Open { .. } | Command::TimeUp { .. } | Command::Score { .. } | Command::GiveException(_) => {
            Ok(Vec::new())
        }
    }
}

/// A share of the points may be no short decimal: a third of one is given as 0.33 or 0.34.
const ROUNDING: f64 = 0.005;

/// The teacher's points for what counts now. They can be given and changed at any time, also after the end.
fn score(
    assignment: &Assignment,
    work: &Work,
    (question, points): (usize, f64),
    parts: &[PartPoints],
    (note, by): (&str, Uuid),
    hand_in: u32,
) -> Decision {
    let item = assignment.items.get(question).ok_or(Refusal::NoSuchQuestion)?;
    let counting = work
        .counting_hand_in(assignment)
        .ok_or(Refusal::NothingHandedIn)?;
    if counting.number != hand_in {
        return Err(Refusal::HandedInAgain);
    }
    if !points.is_finite() || points < 0.0 || points > f64::from(item.points) {
        return Err(Refusal::PointsOutOfRange);
    }
    for given in parts {
        let part = item.parts.iter().find(|p| p.id == given.part && p.by_hand);
        let worth = part.map_or(0.0, |p| item.worth(p));
        if !given.points.is_finite() || given.points < 0.0 || given.points > worth + ROUNDING {
            return Err(Refusal::PointsOutOfRange);
        }
    }
    let note = note.trim();
    let stands = work.by_teacher.get(&question);
    if stands.is_some_and(|s| {
        s.points.to_bits() == points.to_bits() && s.note == note && s.parts.as_slice() == parts
    }) {
        return Ok(Vec::new());
    }
    Ok(vec![Event::ScoredByTeacher {
        question,
        points,
        note: note.to_owned(),
        by: Some(by),
        parts: parts.to_vec(),
    }])
}

/// Per cent of a time limit that may be given: up to four times as much.
const TIME_PERCENT: std::ops::RangeInclusive<u32> = 100..=400;
/// More than this nobody means.
const MOST_MORE: u32 = 50;

fn give_exception(assignment: &Assignment, given: &Exception) -> Decision {
    if given.is_empty() {
        return Err(Refusal::EmptyException);
    }
    if given.time_percent.is_some_and(|p| !TIME_PERCENT.contains(&p))
        || given.more_hand_ins > MOST_MORE
        || given.more_sets > MOST_MORE
    {
        return Err(Refusal::ExceptionOutOfRange);
    }
    let opens = assignment.settings.opens;
    if [given.due, given.closes]
        .into_iter()
        .flatten()
        .any(|at| at <= opens)
    {
        return Err(Refusal::DueBeforeOpening);
    }
    Ok(vec![Event::ExceptionGiven(given.clone())])
}

fn take_hint(assignment: &Assignment, work: &Work, question: usize, available: usize) -> Decision {
    may_see(assignment, work, question)?;
    if !assignment.settings.hints {
        return Err(Refusal::HintsOff);
    }
    let state = work.questions.get(question).ok_or(Refusal::NoSuchQuestion)?;
    let set = state.current().ok_or(Refusal::NoSuchQuestion)?;
    if set.hints >= available {
        return Err(Refusal::NoMoreHints);
    }
    Ok(vec![Event::HintTaken {
        question,
        set: state.sets.len() - 1,
    }])
}

/// Whether the next set of a question may be drawn.
///
/// # Errors
/// Why it may not.
pub fn may_take_fresh_numbers(assignment: &Assignment, work: &Work, question: usize) -> Result<(), Refusal> {
    may_see(assignment, work, question)?;
    let state = work.questions.get(question).ok_or(Refusal::NoSuchQuestion)?;
    let set = state.current().ok_or(Refusal::NoSuchQuestion)?;
    let max = terms(assignment, work).max_sets;
    if assignment.is_simultaneous() || max == Some(1) {
        return Err(Refusal::NoFreshNumbers);
    }
    let item = assignment.items.get(question);
    if item.is_some_and(|i| i.parts.iter().any(|p| p.by_hand)) {
        return Err(Refusal::NumbersStay);
    }
    if !set_is_over(assignment, question, set) {
        return Err(Refusal::SetNotEnded);
    }
    let used = u32::try_from(state.sets.len()).unwrap_or(u32::MAX);
    if max.is_some_and(|max| used >= max) {
        return Err(Refusal::NoSetsLeft);
    }
    Ok(())
}

fn move_on(assignment: &Assignment, work: &Work, to: usize, answered: bool) -> Decision {
    if assignment.settings.navigation == Navigation::Nonlinear {
        return Err(Refusal::AnyOrder);
    }
    if to <= work.reached {
        may_see(assignment, work, to)?;
        return Ok(Vec::new());
    }
    if to >= work.questions.len() {
        return Err(Refusal::NoSuchQuestion);
    }
    if to > work.reached + 1 {
        return Err(Refusal::NotReached);
    }
    let touched = work.questions.get(work.reached).is_some_and(|q| q.is_touched());
    if !assignment.settings.allow_skipping && !answered && !touched {
        return Err(Refusal::AnswerFirst);
    }
    Ok(vec![Event::MovedOn { to }])
}
