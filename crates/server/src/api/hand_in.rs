use actix_web::{HttpResponse, get, post, web};
use coursework::{
    Checking, Command, GoalProgress, HandIn, Release, WhichCounts, decide, forecast, recorded_now,
    score_so_far, score_visible, terms, verdicts_visible,
};
use marking::{PartKind, Response};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::goals::GoalView;
use super::views::{ScoreView, Stone, drafts_for, recorded_view, stone};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;

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
    /// Parts with something entered that can't be read.
    unreadable_parts: Vec<String>,
    parts: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ForecastView {
    questions: usize,
    percent: f64,
}

/// When results show, if that is later.
pub(crate) fn results_at(desk: &Desk) -> Option<OffsetDateTime> {
    let due = terms(&desk.assignment, &desk.work).due;
    (desk.assignment.settings.release == Release::AfterDue && desk.now < due).then_some(due)
}

/// How far an assignment's goal is reached now, if it has one.
async fn progress(site: &Site, who: &SignedIn, desk: &Desk) -> Result<Option<GoalProgress>, ApiError> {
    if desk.assignment.settings.goal.is_none() {
        return Ok(None);
    }
    Ok(Learner::load(site, &who.0).await?.progress(desk))
}

/// What handing in now would record.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = PreviewView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/hand-in")]
pub(crate) async fn preview(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PreviewView>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    desk.work.progress = progress(&site, &who, &desk).await?;
    let marked = if desk.assignment.is_simultaneous() {
        desk.mark_drafts(&site).await?
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
    let drafts = desk.drafts(&site).await?;
    for question in 0..score.questions.len() {
        questions.push(preview_question(&desk, &site, question, &drafts).await?);
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
        results_at: results_at(&desk),
        can_take_back: checks || results_at(&desk).is_some(),
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

async fn preview_question(
    desk: &Desk,
    site: &Site,
    question: usize,
    drafts: &[store::Draft],
) -> Result<PreviewQuestion, ApiError> {
    let state = desk.work.questions.get(question).ok_or(ApiError::NotFound)?;
    let visible = verdicts_visible(&desk.assignment, &desk.work, desk.now);
    let mine = drafts_for(drafts, question, state);
    let (mut empty_parts, mut unchecked_parts, mut unreadable_parts) = (Vec::new(), Vec::new(), Vec::new());
    let set = state.current();
    let item = desk.item(site, question).await?;
    let is_open = |p: &&coursework::PartState| !(visible && p.right);
    for part in set.iter().flat_map(|s| &s.parts).filter(is_open) {
        let draft = mine.iter().find(|d| d.part == part.id && !d.response.is_empty());
        let tried = set.is_some_and(|s| draft.is_some_and(|d| s.has_tried(&part.id, &d.response)));
        match draft {
            None if part.last.is_none() || !visible => empty_parts.push(part.id.clone()),
            Some(draft) if !tried => {
                let unreadable = match (item.find_part(&part.id).map(|p| &p.kind), &draft.response) {
                    (Some(PartKind::Entry { marker, .. }), Response::Text(entry)) => {
                        marker.read(entry).problem.is_some()
                    }
                    _ => false,
                };
                let list = if unreadable {
                    &mut unreadable_parts
                } else {
                    &mut unchecked_parts
                };
                list.push(part.id.clone());
            }
            _ => {}
        }
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
        unreadable_parts,
        parts: set.map_or(0, |s| s.parts.len()),
    })
}

/// Hands in: fixes the recorded score.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = HandInView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/hand-in")]
pub(crate) async fn hand_in(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<HandInView>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let command = match progress(&site, &who, &desk).await? {
        Some(progress) => Command::HandInProgress { progress },
        None if desk.assignment.is_simultaneous() => {
            let marked = desk.mark_drafts(&site).await?;
            Command::HandIn { marked }
        }
        None => Command::HandIn { marked: Vec::new() },
    };
    desk.run(&site, &command).await?;
    let last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .ok_or(ApiError::NotFound)?;
    let visible = score_visible(&desk.assignment, &desk.work, desk.now);
    Ok(web::Json(hand_in_view(last, visible)))
}

/// Takes the last hand-in back.
#[utoipa::path(path = "/api/assignments/{id}/take-back", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/take-back")]
pub(crate) async fn take_back(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    desk.run(&site, &Command::TakeBack).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The receipt of a hand-in, with its assignment's title.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceiptView {
    title: String,
    class_title: String,
    /// The score is progress to a goal, not points.
    towards_goal: bool,
    hand_in: HandInView,
    taken_back: bool,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    best_counts: bool,
    can_take_back: bool,
    can_carry_on: bool,
    hand_ins_left: Option<u32>,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
}

/// A receipt by its number.
#[utoipa::path(path = "/api/assignments/{id}/receipts/{number}",
    params(("id" = Uuid, Path), ("number" = u32, Path)),
    responses((status = 200, body = ReceiptView), (status = 404, body = Problem)))]
#[get("/assignments/{id}/receipts/{number}")]
pub(crate) async fn receipt(
    site: web::Data<Site>,
    who: SignedIn,
    path: web::Path<(Uuid, u32)>,
) -> Result<web::Json<ReceiptView>, ApiError> {
    let (id, number) = path.into_inner();
    let desk = Desk::find(&site, id, &who.0).await?;
    let found = desk
        .work
        .hand_ins
        .iter()
        .find(|h| h.number == number)
        .ok_or(ApiError::NotFound)?;
    let is_last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .is_some_and(|h| h.number == number);
    let can_take_back = decide(&desk.assignment, &desk.work, &Command::TakeBack, desk.now).is_ok();
    let can_carry_on = coursework::may_add(&desk.assignment, &desk.work, desk.now).is_ok();
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let visible = score_visible(&desk.assignment, &desk.work, desk.now);
    let used = desk.work.hand_ins_used();
    Ok(web::Json(ReceiptView {
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        towards_goal: settings.goal.is_some(),
        hand_in: hand_in_view(found, visible),
        taken_back: found.taken_back,
        recorded: recorded_view(&desk.assignment, &desk.work, desk.now),
        results_at: results_at(&desk),
        best_counts: settings.which_counts == WhichCounts::Best,
        can_take_back: is_last && can_take_back,
        can_carry_on,
        hand_ins_left: terms.hand_ins.map(|max| max.saturating_sub(used)),
        closes: terms.closes,
    }))
}
