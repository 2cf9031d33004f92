//! The slip book: what went wrong, one's own words on it, and fresh numbers to mend it.

pub(crate) mod export;
mod item;
pub(crate) mod review;

use actix_web::{HttpResponse, get, post, put, web};
use coursework::{CheckedPart, PracticeGoal, Refusal, SlipEntry, Standing, Target};
use marking::Block;
use school::practice::draw;
use school::{Book, Learner, School, SchoolError};
use serde::{Deserialize, Serialize};
use store::{PersonId, SlipNote};
use time::OffsetDateTime;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use self::item::slip_item;
use super::shared::run::Started;
use super::shared::verdict::{TryPartView, given_view};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Slips of one page.
const PAGE: usize = 25;

/// Which slips are asked for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum WhichSlips {
    /// Open ones, and mended ones that have come back.
    ToMend,
    Mended,
    #[default]
    All,
}

impl WhichSlips {
    fn takes(self, slip: &SlipEntry, now: OffsetDateTime) -> bool {
        match self {
            WhichSlips::ToMend => slip.standing.is_due(now),
            WhichSlips::Mended => slip.standing != Standing::Open,
            WhichSlips::All => true,
        }
    }
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct SlipsQuery {
    #[serde(default)]
    which: WhichSlips,
    /// How many of them were shown already.
    #[serde(default)]
    after: usize,
    /// One that is shown whatever page it is on: its source and its event, with a full stop between them.
    chosen: Option<String>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SlipsView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    open: usize,
    /// Mended ones that have come back.
    back: usize,
    /// All that there are.
    slips_in_all: usize,
    which: WhichSlips,
    /// Those that were asked for, on all pages.
    of_these: usize,
    /// A page of them, the newest first.
    slips: Vec<SlipView>,
    /// The one that was chosen, if there is such a slip.
    chosen: Option<SlipView>,
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
    text: Vec<Block>,
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
    school: &School,
    person: PersonId,
    book: &Book,
    slip: &SlipEntry,
    wrong: &[CheckedPart],
    now: OffsetDateTime,
) -> Result<SlipView, ApiError> {
    let attempt = &slip.attempt;
    let source = book.source(slip)?;
    let (question, item) = slip_item(school, person, book, slip).await?;
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
        question: attempt.question.to_string(),
        title,
        where_from: source.title.clone(),
        class: source.class.clone(),
        at: attempt.at,
        text: item.text.clone(),
        given: wrong
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

/// The slip book, a page of it at a time, the newest slip first.
#[utoipa::path(path = "/api/slips", params(SlipsQuery),
    responses((status = 200, body = SlipsView), (status = 400, body = Problem), (status = 401, body = Problem)))]
#[get("/slips")]
pub(crate) async fn get_slips(
    school: web::Data<School>,
    who: SignedIn,
    query: web::Query<SlipsQuery>,
) -> Result<web::Json<SlipsView>, ApiError> {
    let now = school.now();
    let book = Book::load(&school, who.0.id).await?;
    let of_these: Vec<&SlipEntry> = book.slips.iter().filter(|s| query.which.takes(s, now)).collect();
    let mut shown: Vec<&SlipEntry> = of_these.iter().copied().skip(query.after).take(PAGE).collect();
    let on_page = shown.len();
    shown.extend(query.chosen.as_deref().and_then(|name| book.find(name)));
    let wrong = book.wrong_parts(&school, &shown).await?;
    let mut slips = Vec::with_capacity(shown.len());
    for (slip, wrong) in shown.into_iter().zip(&wrong) {
        slips.push(slip_view(&school, who.0.id, &book, slip, wrong, now).await?);
    }
    let chosen = slips.split_off(on_page).pop();
    Ok(web::Json(SlipsView {
        now,
        open: book.open().count(),
        back: book.back(now).count(),
        slips_in_all: book.slips.len(),
        which: query.which,
        of_these: of_these.len(),
        slips,
        chosen,
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
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<NoteRequest>,
) -> Result<HttpResponse, ApiError> {
    let NoteRequest { source, event, note } = body.into_inner();
    if note.chars().count() > LONGEST_NOTE {
        return Err(ApiError::Unusable(
            "This note is too long to keep: 2,000 characters at most.".into(),
        ));
    }
    let book = Book::load(&school, who.0.id).await?;
    book.slip(source, event).ok_or(SchoolError::NotFound)?;
    let note = SlipNote {
        source,
        event,
        note: note.replace('\0', ""),
    };
    let person: PersonId = who.0.id;
    store::put_slip_note(&school.pool, person, &note, school.now()).await?;
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
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<TryAgainRequest>,
) -> Result<web::Json<Started>, ApiError> {
    let question = body.into_inner().question;
    let book = Book::load(&school, who.0.id).await?;
    if !book.slips.iter().any(|s| *s.attempt.question == *question) {
        return Err(ApiError::NotFound);
    }
    let version = store::find_question_by_slug(&school.pool, &question)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let found = school.question(version).await?;
    if !found.is_drawn() {
        return Err(Refusal::NothingToPractise.into());
    }
    let goal = PracticeGoal {
        skills: found.skills.clone(),
        target: Target::Right(1),
        question: Some(question),
    };
    let learner = Learner::load(&school, who.0.id).await?;
    let run = store::start_run(&school.pool, who.0.id, &goal, school.now()).await?;
    draw(&school, run, &goal, &learner, who.0.id).await?;
    Ok(web::Json(Started { id: run.0 }))
}
