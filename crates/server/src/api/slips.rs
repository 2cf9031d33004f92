//! The slip book: what went wrong, one's own words on it, and fresh numbers to mend it.

use actix_web::{HttpResponse, get, post, put, web};
use coursework::{PracticeGoal, Refusal, SlipEntry, Standing, Target};
use marking::{Item, Question};
use serde::{Deserialize, Serialize};
use store::{PersonId, QuestionId, SlipNote};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::practice::{Started, draw};
use super::views::{BlockView, TryPartView, given_view, prose};
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::slip_book::Book;

#[derive(Serialize, ToSchema)]
pub(crate) struct SlipsView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    open: usize,
    /// Mended ones that have come back.
    back: usize,
    slips: Vec<SlipView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SlipView {
    /// The work or run, and the number of the check in it.
    source: Uuid,
    event: u32,
    question: String,
    title: String,
    where_from: String,
    class: Option<String>,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    /// What was asked.
    text: Vec<BlockView>,
    /// What was given and was not right.
    given: Vec<TryPartView>,
    note: String,
    mended: bool,
    #[serde(with = "time::serde::rfc3339::option")]
    mended_at: Option<OffsetDateTime>,
    /// When it comes back, or came back.
    #[serde(with = "time::serde::rfc3339::option")]
    comes_back: Option<OffsetDateTime>,
    /// It waits to be tried again now.
    due: bool,
    /// Fresh numbers can be drawn for it.
    can_try: bool,
}

/// The question of a slip as it stood then.
pub(super) async fn slip_item(
    site: &Site,
    book: &Book,
    slip: &SlipEntry,
) -> Result<(Question, Item), ApiError> {
    let (source, attempt) = (book.source(slip)?, &slip.attempt);
    let mut versions = source.versions.iter().rev();
    let (_, version) = versions
        .find(|(id, _)| *id == attempt.question)
        .ok_or(ApiError::NotFound)?;
    let question = store::find_question(&site.pool, QuestionId(*version))
        .await?
        .ok_or(ApiError::NotFound)?;
    let (drawn, seed) = (question.clone(), attempt.seed);
    let item = site.compute(move || marking::render(&drawn, seed)).await?;
    let item = item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
    Ok((question, item))
}

async fn slip_view(
    site: &Site,
    book: &Book,
    slip: &SlipEntry,
    now: OffsetDateTime,
) -> Result<SlipView, ApiError> {
    let attempt = &slip.attempt;
    let source = book.source(slip)?;
    let (question, item) = slip_item(site, book, slip).await?;
    let (title, can_try) = (question.title.clone(), question.is_drawn());
    let (mended_at, comes_back) = match slip.standing {
        Standing::Open => (None, None),
        Standing::Mended { at, comes_back } => (Some(at), comes_back),
    };
    let note = book
        .notes
        .iter()
        .find(|n| n.source == source.id && n.event == attempt.event);
    Ok(SlipView {
        source: source.id,
        event: attempt.event,
        question: attempt.question.clone(),
        title,
        where_from: source.title.clone(),
        class: source.class.clone(),
        at: attempt.at,
        text: prose(&item.text),
        given: attempt
            .wrong
            .iter()
            .map(|p| given_view(p, &item, source.show_slips))
            .collect(),
        note: note.map(|n| n.note.clone()).unwrap_or_default(),
        mended: mended_at.is_some(),
        mended_at,
        comes_back,
        due: slip.standing.is_due(now),
        can_try,
    })
}

/// The slip book, the newest slip first.
#[utoipa::path(path = "/api/slips", responses((status = 200, body = SlipsView), (status = 401, body = Problem)))]
#[get("/slips")]
pub(crate) async fn get_slips(
    site: web::Data<Site>,
    who: SignedIn,
) -> Result<web::Json<SlipsView>, ApiError> {
    let now = site.now();
    let book = Book::load(&site, &who.0).await?;
    let mut slips = Vec::with_capacity(book.slips.len());
    for slip in &book.slips {
        slips.push(slip_view(&site, &book, slip, now).await?);
    }
    Ok(web::Json(SlipsView {
        now,
        open: slips.iter().filter(|s| !s.mended).count(),
        back: slips.iter().filter(|s| s.mended && s.due).count(),
        slips,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NoteRequest {
    source: Uuid,
    event: u32,
    note: String,
}

/// Characters of one's own line: a paragraph.
const LONGEST_NOTE: usize = 2_000;

/// Writes one's own words beside a slip.
#[utoipa::path(path = "/api/slips/note", request_body = NoteRequest,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/slips/note")]
pub(crate) async fn put_note(
    site: web::Data<Site>,
    who: SignedIn,
    body: web::Json<NoteRequest>,
) -> Result<HttpResponse, ApiError> {
    let NoteRequest { source, event, note } = body.into_inner();
    if note.chars().count() > LONGEST_NOTE {
        return Err(ApiError::Unusable(
            "This note is too long to keep: 2,000 characters at most.".into(),
        ));
    }
    let book = Book::load(&site, &who.0).await?;
    let is_it = |s: &&SlipEntry| {
        s.attempt.event == event
            && book
                .sources
                .get(s.attempt.source)
                .is_some_and(|found| found.id == source)
    };
    book.slips.iter().find(is_it).ok_or(ApiError::NotFound)?;
    let note = SlipNote {
        source,
        event,
        note: note.replace('\0', ""),
    };
    let person: PersonId = who.0.id;
    store::put_slip_note(&site.pool, person, &note, site.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct TryAgainRequest {
    question: String,
}

/// Begins a run on this question alone, on fresh numbers: right once, and its slips are mended.
#[utoipa::path(path = "/api/slips/try", request_body = TryAgainRequest,
    responses((status = 200, body = Started), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/slips/try")]
pub(crate) async fn try_again(
    site: web::Data<Site>,
    who: SignedIn,
    body: web::Json<TryAgainRequest>,
) -> Result<web::Json<Started>, ApiError> {
    let question = body.into_inner().question;
    let book = Book::load(&site, &who.0).await?;
    if !book.slips.iter().any(|s| s.attempt.question == question) {
        return Err(ApiError::NotFound);
    }
    let version = store::find_question_by_slug(&site.pool, &question)
        .await?
        .ok_or(ApiError::NotFound)?;
    let found = store::find_question(&site.pool, version)
        .await?
        .ok_or(ApiError::NotFound)?;
    if !found.is_drawn() {
        return Err(Refusal::NothingToPractise.into());
    }
    let goal = PracticeGoal {
        skills: found.skills,
        target: Target::Right(1),
        question: Some(question),
    };
    let run = store::start_run(&site.pool, who.0.id, &goal, site.now()).await?;
    let learner = Learner::load(&site, &who.0).await?;
    draw(&site, run, &goal, &learner).await?;
    Ok(web::Json(Started { id: run.0 }))
}
