//! The board: an assignment's questions as one student has them.

pub(crate) mod check;
pub(crate) mod drafts;
pub(crate) mod example;
pub(crate) mod files;
pub(crate) mod help;
pub(crate) mod tools;
pub(crate) mod workings;

use actix_web::{HttpResponse, get, post, web};
use coursework::{Command, Navigation, Refusal, may_add, may_work, terms, verdicts_visible};
use school::School;
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use self::check::BoardUpdate;
use super::shared::question::question_view;
use super::shared::question_view::QuestionView;
use super::shared::state::{ScoreView, StateView, score_view, state_view};
use super::shared::tools::ToolsView;
use crate::http::auth::{SignedIn, Visitor};
use crate::http::error::{ApiError, Problem};

/// No assignment has more questions.
const MOST_QUESTIONS: usize = 100;

/// Everything the board shows.
#[derive(Serialize, ToSchema)]
pub(crate) struct BoardView {
    id: Uuid,
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    state: StateView,
    /// Whether anything can still be typed and checked; if not, why.
    is_open: bool,
    closed_because: Option<String>,
    /// Whether answers are checked while working.
    checks: bool,
    /// Whether verdicts are shown.
    verdicts: bool,
    #[serde(with = "time::serde::rfc3339::option")]
    time_ends: Option<OffsetDateTime>,
    linear: bool,
    going_back: bool,
    /// In linear mode: the last question that was reached.
    reached: usize,
    score: Option<ScoreView>,
    tools: ToolsView,
    questions: Vec<QuestionView>,
}

/// Opens the assignment: the first time, this fixes its numbers and starts its clock.
#[utoipa::path(path = "/api/assignments/{id}/open", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/open")]
pub(crate) async fn open(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    may_work(&desk.assignment, &desk.work, desk.now)?;
    if desk.work.opened_at.is_none() {
        school::units::may_begin(&school, *id, desk.student).await?;
        let base = school::paper::base_of(&school, *id, desk.student).await?;
        let seeds = school.draw_first_sets(&desk.stored, base, desk.student).await?;
        desk.run(&school, &Command::Open { seeds }).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The board with every question as this student has it; in linear mode, only what is reached.
#[utoipa::path(path = "/api/assignments/{id}/board", params(("id" = Uuid, Path)),
    responses((status = 200, body = BoardView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/board")]
pub(crate) async fn board(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<BoardView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    if desk.work.opened_at.is_none() {
        return Err(Refusal::NotOpened.into());
    }
    let mut questions = Vec::with_capacity(desk.work.questions.len());
    for question in 0..desk.work.questions.len() {
        questions.push(question_view(&desk, &school, question).await?);
    }
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let closed = may_add(&desk.assignment, &desk.work, desk.now).err();
    Ok(web::Json(BoardView {
        id: *id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        now: desk.now,
        due: terms.due,
        state: state_view(&desk.assignment, &desk.work, desk.now),
        is_open: closed.is_none(),
        closed_because: closed.map(|r| r.to_string()),
        checks: !desk.assignment.is_simultaneous(),
        verdicts: verdicts_visible(&desk.assignment, &desk.work, desk.now),
        time_ends: terms.time_ends,
        linear: settings.navigation != Navigation::Nonlinear,
        going_back: settings.navigation != Navigation::Linear { going_back: false },
        reached: desk.work.reached,
        score: score_view(&desk.assignment, &desk.work, desk.now),
        tools: settings.tools.into(),
        questions,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct MoveOnRequest {
    to: usize,
}

/// In linear mode: goes on to the next question.
#[utoipa::path(path = "/api/assignments/{id}/move-on", params(("id" = Uuid, Path)), request_body = MoveOnRequest,
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/move-on")]
pub(crate) async fn move_on(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<MoveOnRequest>,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    let answered = desk
        .drafts
        .iter()
        .any(|d| d.question == desk.work.reached && !d.response.is_empty());
    let to = body.to;
    desk.run(&school, &Command::MoveOn { to, answered }).await?;
    BoardUpdate::of(&desk, &school, to).await
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct At {
    /// The question that stands there, from 0.
    question: Option<usize>,
}

/// A sign that the board is open before someone.
#[utoipa::path(path = "/api/assignments/{id}/here", params(("id" = Uuid, Path), At),
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/assignments/{id}/here")]
pub(crate) async fn here(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    at: web::Query<At>,
) -> Result<HttpResponse, ApiError> {
    let work = store::find_work(&school.pool, *id, who.0.id)
        .await?
        .ok_or(ApiError::NotFound)?;
    let question = at.question.filter(|q| *q < MOST_QUESTIONS);
    store::note_activity(&school.pool, work, question, school.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}
