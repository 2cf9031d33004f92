//! The slip book: what went wrong, one's own words on it, and fresh numbers to mend it.

use actix_web::http::header;
use actix_web::{HttpResponse, get, post, put, web};
use coursework::{PracticeGoal, Refusal, SlipEntry, Standing, Target};
use serde::{Deserialize, Serialize};
use store::{PersonId, QuestionId, SlipNote};
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;
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

async fn slip_view(
    site: &Site,
    book: &Book,
    slip: &SlipEntry,
    now: OffsetDateTime,
) -> Result<SlipView, ApiError> {
    let attempt = &slip.attempt;
    let source = book.source(slip)?;
    let version = source
        .versions
        .iter()
        .rev()
        .find(|(id, _)| *id == attempt.question);
    let version = version
        .map(|(_, version)| QuestionId(*version))
        .ok_or(ApiError::NotFound)?;
    let question = store::find_question(&site.pool, version)
        .await?
        .ok_or(ApiError::NotFound)?;
    let (title, can_try, seed) = (question.title.clone(), question.is_drawn(), attempt.seed);
    let item = site.compute(move || marking::render(&question, seed)).await?;
    let item = item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
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

/// A text for a cell: quoted, and never a formula for a spreadsheet.
fn cell(text: &str) -> String {
    let harmless = if text.starts_with(['=', '+', '-', '@', '\t', '\r']) {
        "'"
    } else {
        ""
    };
    format!("\"{harmless}{}\"", text.replace('"', "\"\""))
}

fn entry_words(slip: &SlipEntry) -> String {
    let one = |p: &coursework::CheckedPart| match &p.response {
        marking::Response::Text(text) => format!("({}) {text}", p.part),
        marking::Response::Choices(ids) => format!("({}) {}", p.part, ids.join(", ")),
    };
    slip.attempt.wrong.iter().map(one).collect::<Vec<_>>().join("; ")
}

/// The slip book as a file: CSV (RFC 4180) or Markdown.
#[utoipa::path(path = "/api/slips/export/{format}", params(("format" = String, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/slips/export/{format}")]
pub(crate) async fn export(
    site: web::Data<Site>,
    who: SignedIn,
    format: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let book = Book::load(&site, &who.0).await?;
    let mut rows = Vec::with_capacity(book.slips.len());
    for slip in &book.slips {
        let source = book.source(slip)?;
        let note = book
            .notes
            .iter()
            .find(|n| n.source == source.id && n.event == slip.attempt.event);
        let at = slip
            .attempt
            .at
            .format(&Rfc3339)
            .map_err(|e| ApiError::Inside(e.to_string()))?;
        let standing = if slip.standing == Standing::Open {
            "open"
        } else {
            "mended"
        };
        let note = note.map(|n| n.note.clone()).unwrap_or_default();
        let question = slip.attempt.question.clone();
        rows.push([
            at,
            source.title.clone(),
            question,
            entry_words(slip),
            standing.to_owned(),
            note,
        ]);
    }
    let (kind, name, text) = match format.as_str() {
        "csv" => {
            let line = |row: &[String; 6]| row.iter().map(|c| cell(c)).collect::<Vec<_>>().join(",");
            let head = "when,where,question,what I typed,standing,my note".to_owned();
            let lines: Vec<String> = std::iter::once(head).chain(rows.iter().map(line)).collect();
            (
                "text/csv; charset=utf-8",
                "slip-book.csv",
                lines.join("\r\n") + "\r\n",
            )
        }
        "md" => {
            let entry = |[at, place, question, typed, standing, note]: &[String; 6]| {
                let note = if note.is_empty() {
                    String::new()
                } else {
                    format!("\n- My note: {note}")
                };
                format!(
                    "## {question} ({standing})\n\n- {place}, {at}\n- I typed: `{}`{note}\n",
                    typed.replace('`', "'")
                )
            };
            let entries: Vec<String> = rows.iter().map(entry).collect();
            (
                "text/markdown; charset=utf-8",
                "slip-book.md",
                format!("# Slip book\n\n{}", entries.join("\n")),
            )
        }
        _ => return Err(ApiError::NotFound),
    };
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header((
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .body(text))
}
