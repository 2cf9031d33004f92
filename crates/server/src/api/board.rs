use actix_web::{HttpResponse, get, post, put, web};
use coursework::{
    Command, Navigation, may_add, may_draft, may_see, may_work, prepare_check, terms, verdicts_visible,
};
use marking::{PartKind, Response};
use serde::{Deserialize, Serialize};
use store::SaveDraft;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::views::{
    QuestionView, ResponseView, ScoreView, StateView, Stone, question_view, score_view, state_view, stone,
};
use super::work::{Desk, first_seeds, random_number};
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

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

#[derive(Serialize, ToSchema)]
pub(crate) struct ToolsView {
    pub calculator: bool,
    pub formula_sheet: bool,
    pub typing_guide: bool,
    pub reading: bool,
}

impl From<coursework::Tools> for ToolsView {
    fn from(tools: coursework::Tools) -> Self {
        ToolsView {
            calculator: tools.calculator,
            formula_sheet: tools.formula_sheet,
            typing_guide: tools.typing_guide,
            reading: tools.reading,
        }
    }
}

/// Opens the assignment: the first time, this fixes its numbers and starts its clock.
#[utoipa::path(path = "/api/assignments/{id}/open", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/open")]
pub(crate) async fn open(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    may_work(&desk.assignment, &desk.work, desk.now)?;
    if desk.work.opened_at.is_none() {
        let (stored, base) = (desk.stored.clone(), random_number()?);
        let seeds = site.compute(move || first_seeds(&stored, base)).await?;
        let seeds = seeds.map_err(ApiError::Inside)?;
        desk.run(&site, &Command::Open { seeds }).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The board with every question as this student has it; in linear mode, only what is reached.
#[utoipa::path(path = "/api/assignments/{id}/board", params(("id" = Uuid, Path)),
    responses((status = 200, body = BoardView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/board")]
pub(crate) async fn board(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<BoardView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    if desk.work.opened_at.is_none() {
        return Err(coursework::Refusal::NotOpened.into());
    }
    let drafts = desk.drafts(&site).await?;
    let mut questions = Vec::with_capacity(desk.work.questions.len());
    for question in 0..desk.work.questions.len() {
        questions.push(question_view(&desk, &site, question, &drafts).await?);
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
pub(crate) struct ReadRequest {
    question: usize,
    part: String,
    entry: String,
}

/// How an entry reads; nothing about whether it is right.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReadView {
    /// LaTeX; empty if it cannot be read.
    reads_as: String,
    speech: String,
    cautions: Vec<String>,
    problem: Option<ProblemPlace>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ProblemPlace {
    pub words: String,
    /// First character that is wrong, and the one past the last.
    pub start: usize,
    pub end: usize,
}

impl From<marking::Draft> for ReadView {
    fn from(draft: marking::Draft) -> Self {
        let problem = draft.problem;
        ReadView {
            reads_as: draft.reads_as,
            speech: draft.speech,
            cautions: draft.cautions,
            problem: problem.map(|(words, start, end)| ProblemPlace { words, start, end }),
        }
    }
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/assignments/{id}/read", params(("id" = Uuid, Path)), request_body = ReadRequest,
    responses((status = 200, body = ReadView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/read")]
pub(crate) async fn read(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<ReadRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let ReadRequest {
        question,
        part,
        entry,
    } = body.into_inner();
    let closed = desk.now >= terms(&desk.assignment, &desk.work).closes;
    if !closed {
        may_see(&desk.assignment, &desk.work, question)?;
    }
    // How an entry reads does not depend on the numbers; in practice after closing there may be no set.
    let set = desk.work.questions.get(question).and_then(|q| q.current());
    let item = desk.item_of(&site, question, set.map_or(0, |s| s.seed)).await?;
    let draft = site
        .compute(move || match item.find_part(&part).map(|p| &p.kind) {
            Some(PartKind::Entry { marker, .. }) => Some(marker.read(&entry)),
            _ => None,
        })
        .await?;
    Ok(web::Json(draft.ok_or(ApiError::NotFound)?.into()))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SaveRequest {
    question: usize,
    set_number: usize,
    part: String,
    /// The revision the field started from; 0 for one that was empty.
    based_on: i64,
    response: ResponseView,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum SaveView {
    Saved {
        revision: i64,
        #[serde(with = "time::serde::rfc3339")]
        at: OffsetDateTime,
        stone: Stone,
    },
    /// Another window wrote here first: what stands there now.
    Elsewhere { revision: i64, response: ResponseView },
}

/// Keeps what is typed.
#[utoipa::path(path = "/api/assignments/{id}/drafts", params(("id" = Uuid, Path)), request_body = SaveRequest,
    responses((status = 200, body = SaveView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[put("/assignments/{id}/drafts")]
pub(crate) async fn save(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<SaveRequest>,
) -> Result<web::Json<SaveView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let body = body.into_inner();
    let (question, set) = (body.question, body.set_number);
    may_draft(&desk.assignment, &desk.work, question, set, &body.part, desk.now)?;
    let work_id = desk.work_id.ok_or(ApiError::NotFound)?;
    let response = Response::from(body.response);
    let save = SaveDraft {
        question,
        set,
        part: &body.part,
        based_on: body.based_on,
        response: &response,
    };
    let saved = store::save_draft(&site.pool, work_id, &save, desk.now).await?;
    store::note_activity(&site.pool, work_id, desk.now).await?;
    let drafts = store::drafts_of(&site.pool, work_id).await?;
    if let Some(revision) = saved {
        return Ok(web::Json(SaveView::Saved {
            revision,
            at: desk.now,
            stone: stone(&desk.assignment, &desk.work, question, &drafts, desk.now),
        }));
    }
    let same_place = |d: &&store::Draft| d.question == question && d.set == set && d.part == body.part;
    let there = drafts.iter().find(same_place);
    let revision = there.map_or(0, |d| d.revision);
    let response = there.map_or(ResponseView::Text(String::new()), |d| (&d.response).into());
    Ok(web::Json(SaveView::Elsewhere { revision, response }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct CheckRequest {
    question: usize,
    parts: Vec<GivenPart>,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct GivenPart {
    pub id: String,
    pub response: ResponseView,
}

pub(crate) fn responses(parts: Vec<GivenPart>) -> Vec<(String, Response)> {
    parts.into_iter().map(|p| (p.id, p.response.into())).collect()
}

/// A question after something was done, with the score that comes of it.
#[derive(Serialize, ToSchema)]
pub(crate) struct BoardUpdate {
    pub used_a_try: bool,
    pub reached: usize,
    pub question: QuestionView,
    pub score: Option<ScoreView>,
}

impl BoardUpdate {
    pub async fn of(desk: &Desk, site: &Site, question: usize) -> Result<web::Json<BoardUpdate>, ApiError> {
        if let Some(work_id) = desk.work_id {
            store::note_activity(&site.pool, work_id, desk.now).await?;
        }
        let drafts = desk.drafts(site).await?;
        Ok(web::Json(BoardUpdate {
            used_a_try: false,
            reached: desk.work.reached,
            question: question_view(desk, site, question, &drafts).await?,
            score: score_view(&desk.assignment, &desk.work, desk.now),
        }))
    }
}

/// Marks one question's entries.
#[utoipa::path(path = "/api/assignments/{id}/check", params(("id" = Uuid, Path)), request_body = CheckRequest,
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/check")]
pub(crate) async fn check(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<CheckRequest>,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let CheckRequest { question, parts } = body.into_inner();
    let wanted = prepare_check(
        &desk.assignment,
        &desk.work,
        question,
        &responses(parts),
        desk.now,
    )?;
    let parts = desk.mark(&site, wanted).await?.parts;
    let before = desk.work.tries_used();
    desk.run(&site, &Command::Check { question, parts }).await?;
    let mut update = BoardUpdate::of(&desk, &site, question).await?;
    update.used_a_try = desk.work.tries_used() > before;
    Ok(update)
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
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<MoveOnRequest>,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let drafts = desk.drafts(&site).await?;
    let answered = drafts
        .iter()
        .any(|d| d.question == desk.work.reached && !d.response.is_empty());
    let to = body.to;
    desk.run(&site, &Command::MoveOn { to, answered }).await?;
    BoardUpdate::of(&desk, &site, to).await
}

/// A sign that the board is open before someone.
#[utoipa::path(path = "/api/assignments/{id}/here", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/assignments/{id}/here")]
pub(crate) async fn here(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let work = store::find_work(&site.pool, *id, who.0.id)
        .await?
        .ok_or(ApiError::NotFound)?;
    store::note_activity(&site.pool, work, site.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}
