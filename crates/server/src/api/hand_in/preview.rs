//! What handing in now would do.

use std::sync::Arc;

use actix_web::{get, web};
use coursework::{
    Checking, Command, End, WhichCounts, decide, forecast, recorded_now, score_so_far, terms,
    verdicts_visible,
};
use marking::Response;
use school::{Desk, School, SchoolError};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::goal::GoalView;
use super::super::shared::hand_in::results_at;
use super::super::shared::state::{ScoreView, Stone, drafts_for, recorded_view, stone};
use super::progress;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

/// What handing in now would do.
#[derive(Serialize, ToSchema)]
pub(crate) struct PreviewView {
    title: String,
    /// Why handing in is not possible now.
    refusal: Option<String>,
    questions: Vec<PreviewQuestion>,
    /// Whether answers are checked while working; if not, handing in marks what is entered.
    checks: bool,
    /// What would be recorded now; `None` where handing in marks the answers.
    would_record: Option<ScoreView>,
    taken_off: u8,
    late: bool,
    recorded: Option<ScoreView>,
    best_counts: bool,
    hand_ins_used: usize,
    hand_ins_allowed: Option<u32>,
    /// When the results show, if not at once.
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    /// Whether a hand-in can be taken back again.
    can_take_back: bool,
    needs_every_question: bool,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    forecast: Option<ForecastView>,
    /// How far the goal is reached, where there is one instead of questions.
    goal: Option<GoalView>,
    pass_mark: Option<u8>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PreviewQuestion {
    question: usize,
    points: Option<f64>,
    of: u32,
    stone: Stone,
    /// Parts with nothing entered and nothing right.
    empty_parts: Vec<String>,
    /// Parts with something entered that was not checked.
    unchecked_parts: Vec<String>,
    /// Parts that are written and go to the teacher.
    for_teacher: Vec<String>,
    /// What is still missing in a part that goes in as it stands, in words.
    short: Vec<String>,
    /// Parts with something entered that can't be read.
    unreadable_parts: Vec<String>,
    parts: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ForecastView {
    questions: usize,
    percent: f64,
}

/// What handing in now would record.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = PreviewView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/hand-in")]
pub(crate) async fn preview(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<PreviewView>, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    let reached = progress(&school, &desk).await?;
    Arc::make_mut(&mut desk.work).progress = reached;
    let marked = if desk.assignment.is_simultaneous() || desk.assignment.needs_a_person() {
        desk.mark_drafts(&school, End::Student).await?
    } else {
        Vec::new()
    };
    let command = match desk.work.progress.clone() {
        Some(progress) => Command::HandInProgress { progress },
        None if desk.work.opened_at.is_none() => return Err(coursework::Refusal::NotOpened.into()),
        None => Command::HandIn { marked },
    };
    let refusal = decide(&desk.assignment, &desk.work, &command, desk.now).err();
    let score = score_so_far(&desk.assignment, &desk.work);
    let mut questions = Vec::with_capacity(score.questions.len());
    for question in 0..score.questions.len() {
        questions.push(preview_question(&desk, &school, question).await?);
    }
    let checks = desk.assignment.settings.checking == Checking::Individual;
    let would = recorded_now(&desk.assignment, &desk.work, desk.now);
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let shown = forecast(&desk.assignment, &score).filter(|_| checks);
    Ok(web::Json(PreviewView {
        title: desk.stored.head.title.clone(),
        refusal: refusal.map(|r| r.to_string()),
        questions,
        checks,
        would_record: checks.then(|| (&would).into()),
        taken_off: would.taken_off,
        late: desk.now > terms.due,
        recorded: recorded_view(&desk.assignment, &desk.work, desk.now),
        best_counts: settings.which_counts == WhichCounts::Best,
        hand_ins_used: desk.work.standing_hand_ins().count(),
        hand_ins_allowed: terms.hand_ins,
        results_at: results_at(&desk.assignment, &desk.work, desk.now),
        can_take_back: checks || results_at(&desk.assignment, &desk.work, desk.now).is_some(),
        needs_every_question: settings.hand_in_needs == coursework::HandInNeeds::EveryQuestionAttempted,
        closes: terms.closes,
        forecast: shown.map(|f| ForecastView {
            questions: f.questions,
            percent: f.percent,
        }),
        goal: desk.work.progress.as_ref().map(Into::into),
        pass_mark: settings.pass_mark,
    }))
}

/// What is still missing in what stands in a part.
fn unfinished(item: &marking::Item, part: &coursework::PartState, response: &Response) -> Option<String> {
    let words = item.find_part(&part.id)?.posed.unfinished(response)?;
    Some(match item.parts.len() {
        1 => words,
        _ => format!("({}) {words}", part.id),
    })
}

async fn preview_question(
    desk: &Desk,
    school: &School,
    question: usize,
) -> Result<PreviewQuestion, ApiError> {
    let state = desk.work.questions.get(question).ok_or(SchoolError::NotFound)?;
    let drafts = desk.drafts.as_slice();
    let visible = verdicts_visible(&desk.assignment, &desk.work, desk.now);
    let mine = drafts_for(drafts, question, state);
    let (mut empty_parts, mut unchecked_parts, mut unreadable_parts) = (Vec::new(), Vec::new(), Vec::new());
    let set = state.current();
    let item = desk.item(school, question).await?;
    let is_open = |p: &&coursework::PartState| !(visible && p.right);
    let mut to_read = Vec::new();
    let (mut for_teacher, mut short) = (Vec::new(), Vec::new());
    for part in set.iter().flat_map(|s| &s.parts).filter(is_open) {
        let draft = mine.iter().find(|d| d.part == part.id && !d.response.is_empty());
        let tried = set.is_some_and(|s| draft.is_some_and(|d| s.has_tried(&part.id, &d.response)));
        if desk.assignment.is_by_hand(question, &part.id) {
            match draft {
                Some(draft) => {
                    short.extend(unfinished(&item, part, &draft.response));
                    for_teacher.push(part.id.clone());
                }
                None => empty_parts.push(part.id.clone()),
            }
            continue;
        }
        match draft {
            None if part.last.is_none() || !visible => empty_parts.push(part.id.clone()),
            Some(draft) if !tried && desk.assignment.is_simultaneous() => {
                short.extend(unfinished(&item, part, &draft.response));
                to_read.push((part.id.clone(), draft.response.clone()));
            }
            Some(draft) if !tried => to_read.push((part.id.clone(), draft.response.clone())),
            _ => {}
        }
    }
    let reader = item.clone();
    let read = school
        .compute(desk.student, move || {
            let unreadable = |(id, response): (String, Response)| {
                let bad = reader
                    .find_part(&id)
                    .is_some_and(|p| !p.posed.is_readable(&response));
                (id, bad)
            };
            to_read.into_iter().map(unreadable).collect::<Vec<_>>()
        })
        .await?;
    for (id, unreadable) in read {
        let list = if unreadable {
            &mut unreadable_parts
        } else {
            &mut unchecked_parts
        };
        list.push(id);
    }
    if !desk.assignment.is_simultaneous() {
        unchecked_parts.append(&mut unreadable_parts);
    } else {
        unchecked_parts.clear();
    }
    let score = score_so_far(&desk.assignment, &desk.work);
    let scored = score.questions.get(question);
    Ok(PreviewQuestion {
        question,
        points: scored.map(|q| q.points).filter(|_| visible),
        of: scored.map_or(0, |q| q.of),
        stone: stone(&desk.assignment, &desk.work, question, drafts, desk.now),
        empty_parts,
        unchecked_parts,
        for_teacher,
        short,
        unreadable_parts,
        parts: set.map_or(0, |s| s.parts.len()),
    })
}
