use actix_web::{HttpResponse, get, post, put, web};
use coursework::{Command, MarkedPart, may_draft, prepare_check, score_so_far};
use marking::{PartKind, Response};
use serde::{Deserialize, Serialize};
use store::SaveDraft;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::views::{
    QuestionView, ResponseView, ScoreView, StateView, Stone, drafts_for, question_view, state_view, stone,
};
use super::work::{Desk, new_seeds};
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
    due: OffsetDateTime,
    state: StateView,
    /// Whether anything can still be typed and checked.
    is_open: bool,
    score: ScoreView,
    questions: Vec<QuestionView>,
}

/// Opens the assignment: the first time, this fixes its numbers.
#[utoipa::path(path = "/api/assignments/{id}/open", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/open")]
pub(crate) async fn open(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let seeds = new_seeds(desk.assignment.items.len())?;
    desk.run(&site, &who.0, &Command::Open { seeds }).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The board with every question as this student has it.
#[utoipa::path(path = "/api/assignments/{id}/board", params(("id" = Uuid, Path)),
    responses((status = 200, body = BoardView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/board")]
pub(crate) async fn board(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<BoardView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let Some(work_id) = desk.work_id.filter(|_| desk.work.opened_at.is_some()) else {
        return Err(coursework::Refusal::NotOpened.into());
    };
    let drafts = store::drafts_of(&site.pool, work_id).await?;
    let score = score_so_far(&desk.assignment, &desk.work);
    let mut questions = Vec::with_capacity(desk.work.questions.len());
    for (i, state) in desk.work.questions.iter().enumerate() {
        let item = desk.item(&site, i).await?;
        let points = score.questions.get(i).map_or(0.0, |q| q.points);
        questions.extend(question_view(&desk.assignment, i, state, points, &item, &drafts));
    }
    let settings = &desk.assignment.settings;
    Ok(web::Json(BoardView {
        id: *id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        due: settings.due,
        state: state_view(&desk.assignment, &desk.work, desk.now),
        is_open: settings.opens <= desk.now && desk.now < settings.closes,
        score: (&score).into(),
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
    words: String,
    /// First character that is wrong, and the one past the last.
    start: usize,
    end: usize,
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/assignments/{id}/read", params(("id" = Uuid, Path)), request_body = ReadRequest,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
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
    let item = desk.item(&site, question).await?;
    let draft = site
        .compute(move || match item.find_part(&part).map(|p| &p.kind) {
            Some(PartKind::Entry { marker, .. }) => Some(marker.read(&entry)),
            _ => None,
        })
        .await?
        .ok_or(ApiError::NotFound)?;
    Ok(web::Json(ReadView {
        reads_as: draft.reads_as,
        speech: draft.speech,
        cautions: draft.cautions,
        problem: draft
            .problem
            .map(|(words, start, end)| ProblemPlace { words, start, end }),
    }))
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
    may_draft(&desk.assignment, &desk.work, body.question, &body.part, desk.now)?;
    let work_id = desk.work_id.ok_or(ApiError::NotFound)?;
    let response = Response::from(body.response);
    let save = SaveDraft {
        question: body.question,
        set: body.set_number,
        part: &body.part,
        based_on: body.based_on,
        response: &response,
    };
    let saved = store::save_draft(&site.pool, work_id, &save, desk.now).await?;
    let drafts = store::drafts_of(&site.pool, work_id).await?;
    if let Some(revision) = saved {
        let state = desk.work.questions.get(body.question).ok_or(ApiError::NotFound)?;
        let mine = drafts_for(&drafts, body.question, state);
        let stone = stone(state, desk.assignment.max_attempts(body.question), &mine);
        return Ok(web::Json(SaveView::Saved {
            revision,
            at: desk.now,
            stone,
        }));
    }
    let same_place =
        |d: &&store::Draft| d.question == body.question && d.set == body.set_number && d.part == body.part;
    let there = drafts.iter().find(same_place);
    let revision = there.map_or(0, |d| d.revision);
    let response = there.map_or(ResponseView::Text(String::new()), |d| (&d.response).into());
    Ok(web::Json(SaveView::Elsewhere { revision, response }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct CheckRequest {
    question: usize,
    parts: Vec<CheckPart>,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct CheckPart {
    id: String,
    response: ResponseView,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CheckView {
    used_a_try: bool,
    question: QuestionView,
    score: ScoreView,
}

/// Marks one question's entries.
#[utoipa::path(path = "/api/assignments/{id}/check", params(("id" = Uuid, Path)), request_body = CheckRequest,
    responses((status = 200, body = CheckView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/check")]
pub(crate) async fn check(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<CheckRequest>,
) -> Result<web::Json<CheckView>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let CheckRequest { question, parts } = body.into_inner();
    let responses: Vec<(String, Response)> = parts.into_iter().map(|p| (p.id, p.response.into())).collect();
    let wanted = prepare_check(&desk.assignment, &desk.work, question, &responses, desk.now)?;
    let item = desk.item(&site, question).await?;
    let (item, marked) = site
        .compute(move || {
            let mark = |(id, response): (String, Response)| {
                let verdict = item.find_part(&id)?.mark(&response);
                Some(MarkedPart {
                    part: id,
                    response,
                    verdict,
                })
            };
            let marked: Vec<MarkedPart> = wanted.parts.into_iter().filter_map(mark).collect();
            (item, marked)
        })
        .await?;
    for m in &marked {
        tracing::info!(
            work = ?desk.work_id.map(|w| w.0), question, part = m.part, outcome = m.verdict.marking.outcome.name(),
            evidence = m.verdict.marking.evidence.as_ref().map(evidence_name), "marked"
        );
    }
    let tries_before = tries_used(&desk, question);
    desk.run(
        &site,
        &who.0,
        &Command::Check {
            question,
            parts: marked,
        },
    )
    .await?;
    let work_id = desk.work_id.ok_or(ApiError::NotFound)?;
    let drafts = store::drafts_of(&site.pool, work_id).await?;
    let score = score_so_far(&desk.assignment, &desk.work);
    let points = score.questions.get(question).map_or(0.0, |q| q.points);
    let state = desk.work.questions.get(question).ok_or(ApiError::NotFound)?;
    let view =
        question_view(&desk.assignment, question, state, points, &item, &drafts).ok_or(ApiError::NotFound)?;
    let used_a_try = tries_used(&desk, question) > tries_before;
    Ok(web::Json(CheckView {
        used_a_try,
        question: view,
        score: (&score).into(),
    }))
}

fn tries_used(desk: &Desk, question: usize) -> u32 {
    desk.work
        .questions
        .get(question)
        .and_then(|q| q.current())
        .map_or(0, |s| s.tries_used)
}

fn evidence_name(evidence: &maths::Evidence) -> &'static str {
    use maths::Evidence as E;
    match evidence {
        E::ProvedEqual => "proved equal",
        E::ProvedDifferent { .. } => "proved different",
        E::Agreed { .. } => "agreed",
        E::Undefined { .. } => "undefined where the key is not",
        E::KeyHasNoValue => "key without value",
        E::EntryHasNoValue => "entry without value",
        E::Undecided => "undecided",
    }
}
