use marking::{Response, ResponseVerdict};
use time::OffsetDateTime;

use crate::event::{Checked, CheckedPart, Event, RecordedScore};
use crate::score::score_so_far;
use crate::settings::{Assignment, Checking, HandInNeeds, LateRule};
use crate::work::Work;

/// What a student asks for.
#[derive(Clone, Debug, PartialEq)]
pub enum Command {
    /// Seeds of set A, one a question; used only the first time.
    Open {
        seeds: Vec<u64>,
    },
    Check {
        question: usize,
        parts: Vec<MarkedPart>,
    },
    HandIn,
    TakeBack,
}

/// A response with its verdict.
#[derive(Clone, Debug, PartialEq)]
pub struct MarkedPart {
    pub part: String,
    pub response: Response,
    pub verdict: ResponseVerdict,
}

/// What has to be marked before [`Command::Check`] can be decided.
#[derive(Clone, Debug, PartialEq)]
pub struct ToMark {
    pub set: usize,
    pub seed: u64,
    pub parts: Vec<(String, Response)>,
}

/// Why nothing was done. The words are for the student.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    #[error("This assignment is not open yet.")]
    NotOpenYet,
    #[error("This assignment has closed. What you have done is kept, but nothing can be added.")]
    Closed,
    #[error("Open the assignment first.")]
    NotOpened,
    #[error("There is no such question in this assignment.")]
    NoSuchQuestion,
    #[error("There is no such part in this question.")]
    NoSuchPart,
    #[error("Answers in this assignment are checked when you hand in.")]
    CheckedAtHandIn,
    #[error("No tries are left on this set.")]
    NoTriesLeft,
    #[error("Every part of this question is right already.")]
    AllRight,
    #[error("Nothing is entered yet, so nothing was checked. No try was used.")]
    NothingEntered,
    #[error("You have tried this one. No try was used.")]
    AlreadyTried,
    #[error("The due date has passed, and late work is not accepted.")]
    LateNotAccepted,
    #[error("No hand-ins are left.")]
    NoHandInsLeft,
    #[error("Every question has to be attempted before you can hand in.")]
    QuestionsLeft,
    #[error("There is no hand-in to take back.")]
    NothingToTakeBack,
}

impl Refusal {
    /// A stable name for the refusal.
    pub fn code(self) -> &'static str {
        match self {
            Refusal::NotOpenYet => "not_open_yet",
            Refusal::Closed => "closed",
            Refusal::NotOpened => "not_opened",
            Refusal::NoSuchQuestion => "no_such_question",
            Refusal::NoSuchPart => "no_such_part",
            Refusal::CheckedAtHandIn => "checked_at_hand_in",
            Refusal::NoTriesLeft => "no_tries_left",
            Refusal::AllRight => "all_right",
            Refusal::NothingEntered => "nothing_entered",
            Refusal::AlreadyTried => "already_tried",
            Refusal::LateNotAccepted => "late_not_accepted",
            Refusal::NoHandInsLeft => "no_hand_ins_left",
            Refusal::QuestionsLeft => "questions_left",
            Refusal::NothingToTakeBack => "nothing_to_take_back",
        }
    }
}

type Decision = Result<Vec<Event>, Refusal>;

/// Turns a command into what happened, or a refusal that changes nothing.
///
/// # Errors
/// Why the command is refused.
pub fn decide(assignment: &Assignment, work: &Work, command: &Command, now: OffsetDateTime) -> Decision {
    if now < assignment.settings.opens {
        return Err(Refusal::NotOpenYet);
    }
    if now >= assignment.settings.closes {
        return Err(Refusal::Closed);
    }
    match command {
        Command::Open { seeds } => {
            if work.opened_at.is_some() {
                return Ok(Vec::new());
            }
            Ok(vec![Event::Opened { seeds: seeds.clone() }])
        }
        _ if work.opened_at.is_none() => Err(Refusal::NotOpened),
        Command::Check { question, parts } => check(assignment, work, *question, parts, now),
        Command::HandIn => hand_in(assignment, work, now),
        Command::TakeBack => {
            if work.standing_hand_ins().next().is_none() {
                return Err(Refusal::NothingToTakeBack);
            }
            Ok(vec![Event::TakenBack])
        }
    }
}

/// Whether what is typed may be kept now.
///
/// # Errors
/// Why it may not.
pub fn may_draft(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    part: &str,
    now: OffsetDateTime,
) -> Result<(), Refusal> {
    if now >= assignment.settings.closes {
        return Err(Refusal::Closed);
    }
    if work.opened_at.is_none() {
        return Err(Refusal::NotOpened);
    }
    let set = work
        .questions
        .get(question)
        .and_then(|q| q.current())
        .ok_or(Refusal::NoSuchQuestion)?;
    if set.parts.iter().any(|p| p.id == part) {
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
    if now < assignment.settings.opens {
        return Err(Refusal::NotOpenYet);
    }
    if now >= assignment.settings.closes {
        return Err(Refusal::Closed);
    }
    if work.opened_at.is_none() {
        return Err(Refusal::NotOpened);
    }
    let state = work.questions.get(question).ok_or(Refusal::NoSuchQuestion)?;
    let set = state.current().ok_or(Refusal::NoSuchQuestion)?;
    if assignment.settings.checking == Checking::Simultaneous {
        return Err(Refusal::CheckedAtHandIn);
    }
    if responses
        .iter()
        .any(|(id, _)| !set.parts.iter().any(|p| p.id == *id))
    {
        return Err(Refusal::NoSuchPart);
    }
    if set.is_right() {
        return Err(Refusal::AllRight);
    }
    if set.tries_left(assignment.max_attempts(question)) == Some(0) {
        return Err(Refusal::NoTriesLeft);
    }
    let is_right = |id: &str| set.parts.iter().any(|p| p.id == id && p.right);
    let mut parts: Vec<(String, Response)> = Vec::new();
    for (id, response) in responses.iter().filter(|(id, r)| !r.is_empty() && !is_right(id)) {
        if !parts.iter().any(|(known, _)| known == id) {
            parts.push((id.clone(), response.clone()));
        }
    }
    if parts.is_empty() {
        return Err(Refusal::NothingEntered);
    }
    if parts.iter().all(|(id, response)| set.has_tried(id, response)) {
        return Err(Refusal::AlreadyTried);
    }
    Ok(ToMark {
        set: state.sets.len() - 1,
        seed: set.seed,
        parts,
    })
}

fn check(
    assignment: &Assignment,
    work: &Work,
    question: usize,
    parts: &[MarkedPart],
    now: OffsetDateTime,
) -> Decision {
    let responses: Vec<(String, Response)> = parts
        .iter()
        .map(|p| (p.part.clone(), p.response.clone()))
        .collect();
    let wanted = prepare_check(assignment, work, question, &responses, now)?;
    let set = work
        .questions
        .get(question)
        .and_then(|q| q.current())
        .ok_or(Refusal::NoSuchQuestion)?;
    let marked: Vec<&MarkedPart> = parts
        .iter()
        .filter(|p| {
            wanted
                .parts
                .iter()
                .any(|(id, r)| *id == p.part && *r == p.response)
        })
        .collect();
    let used_a_try = marked
        .iter()
        .any(|p| p.verdict.costs && !set.has_tried(&p.part, &p.response));
    let parts = marked
        .into_iter()
        .map(|p| {
            let m = &p.verdict.marking;
            CheckedPart {
                part: p.part.clone(),
                response: p.response.clone(),
                outcome: m.outcome,
                score: m.score,
                reads_as: m.reads_as.clone(),
                speech: m.speech.clone(),
                notes: m.notes.clone(),
                slip: m.slip,
                at: m.at,
            }
        })
        .collect();
    Ok(vec![Event::Checked(Checked {
        question,
        set: wanted.set,
        parts,
        used_a_try,
    })])
}

fn hand_in(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> Decision {
    let settings = &assignment.settings;
    let late = now > settings.due;
    if late && settings.late == LateRule::NotAccepted {
        return Err(Refusal::LateNotAccepted);
    }
    let used = u32::try_from(work.standing_hand_ins().count()).unwrap_or(u32::MAX);
    if settings.hand_ins.is_some_and(|max| used >= max) {
        return Err(Refusal::NoHandInsLeft);
    }
    let untouched = work.questions.iter().any(|q| !q.is_touched());
    if settings.hand_in_needs == HandInNeeds::EveryQuestionAttempted && untouched {
        return Err(Refusal::QuestionsLeft);
    }
    Ok(vec![Event::HandedIn {
        late,
        recorded: recorded_now(assignment, work, now),
    }])
}

/// The score a hand-in at this moment would record.
pub fn recorded_now(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> RecordedScore {
    let score = score_so_far(assignment, work);
    let taken_off = match assignment.settings.late {
        LateRule::PercentOff(percent) if now > assignment.settings.due => percent.min(100),
        _ => 0,
    };
    let points = score.points * f64::from(100 - taken_off) / 100.0;
    RecordedScore {
        points,
        of: score.of,
        taken_off,
    }
}
