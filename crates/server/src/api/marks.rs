//! What a student marks in reading pages, with notes.

use actix_web::http::header;
use actix_web::{HttpResponse, delete, get, post, put, web};
use marking::{Found, Quote};
use school::{School, SchoolError, find_page, title_of};
use serde::{Deserialize, Serialize};
use store::PageMark;
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::table::cell;
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Characters of a note, and marks of one person.
const LONGEST_NOTE: usize = 2_000;
const MOST_MARKS: i64 = 2_000;

#[derive(Serialize, ToSchema)]
pub(crate) struct MarksView {
    /// Page by page, in the order in which the passages stand; those whose text changed come last.
    marks: Vec<MarkView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MarkView {
    id: Uuid,
    skill: String,
    title: String,
    quote: Quote,
    note: String,
    #[serde(with = "time::serde::rfc3339")]
    made_at: OffsetDateTime,
    /// Where it stands now; nothing where the text changed there.
    found: Option<Found>,
}

fn view(mark: PageMark) -> MarkView {
    let found = find_page(&mark.skill).and_then(|p| p.find_quote(&mark.quote));
    MarkView {
        id: mark.id,
        title: title_of(&mark.skill),
        skill: mark.skill,
        quote: mark.quote,
        note: mark.note,
        made_at: mark.made_at,
        found,
    }
}

async fn marks(school: &School, who: &SignedIn, skill: Option<&str>) -> Result<Vec<MarkView>, ApiError> {
    let found = store::page_marks(&school.pool, who.0.id, skill).await?;
    let mut all: Vec<MarkView> = found.into_iter().map(view).collect();
    let place = |m: &MarkView| m.found.map_or((usize::MAX, 0, 0), |f| (f.step, f.block, f.start));
    all.sort_by(|a, b| (&a.title, place(a), a.made_at).cmp(&(&b.title, place(b), b.made_at)));
    Ok(all)
}

/// All that one marked.
#[utoipa::path(path = "/api/marks", responses((status = 200, body = MarksView), (status = 401, body = Problem)))]
#[get("/marks")]
pub(crate) async fn get_marks(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<MarksView>, ApiError> {
    Ok(web::Json(MarksView {
        marks: marks(&school, &who, None).await?,
    }))
}

/// What one marked in a page.
#[utoipa::path(path = "/api/pages/{skill}/marks", params(("skill" = String, Path)),
    responses((status = 200, body = MarksView), (status = 404, body = Problem)))]
#[get("/pages/{skill}/marks")]
pub(crate) async fn get_page_marks(
    school: web::Data<School>,
    who: SignedIn,
    skill: web::Path<String>,
) -> Result<web::Json<MarksView>, ApiError> {
    find_page(&skill).ok_or(SchoolError::NotFound)?;
    Ok(web::Json(MarksView {
        marks: marks(&school, &who, Some(&skill)).await?,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NewMark {
    quote: Quote,
    #[serde(default)]
    note: String,
}

fn note_of(note: &str) -> Result<String, ApiError> {
    let note = note.replace('\0', "");
    if note.chars().count() > LONGEST_NOTE {
        return Err(ApiError::Unusable(
            "A note can have 2,000 characters at most.".into(),
        ));
    }
    Ok(note.trim().to_owned())
}

/// Marks a passage of a page.
#[utoipa::path(path = "/api/pages/{skill}/marks", params(("skill" = String, Path)), request_body = NewMark,
    responses((status = 200, body = MarkView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/pages/{skill}/marks")]
pub(crate) async fn add_mark(
    school: web::Data<School>,
    who: SignedIn,
    skill: web::Path<String>,
    body: web::Json<NewMark>,
) -> Result<web::Json<MarkView>, ApiError> {
    let page = find_page(&skill).ok_or(SchoolError::NotFound)?;
    let NewMark { quote, note } = body.into_inner();
    if !quote.is_sound() || page.find_quote(&quote).is_none() {
        return Err(ApiError::Unusable(
            "This passage can't be marked: mark words of one paragraph, 1,000 characters at most.".into(),
        ));
    }
    let now = school.now();
    let mark = PageMark {
        id: Uuid::now_v7(),
        skill: skill.into_inner(),
        quote,
        note: note_of(&note)?,
        made_at: now,
        changed_at: now,
    };
    if !store::add_page_mark(&school.pool, who.0.id, &mark, MOST_MARKS).await? {
        return Err(ApiError::Unusable(
            "You have 2,000 marks. Take some away first.".into(),
        ));
    }
    Ok(web::Json(view(mark)))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct MarkNote {
    note: String,
}

/// Writes the note of a mark.
#[utoipa::path(path = "/api/marks/{id}", params(("id" = Uuid, Path)), request_body = MarkNote,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/marks/{id}")]
pub(crate) async fn put_mark_note(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<MarkNote>,
) -> Result<HttpResponse, ApiError> {
    let note = note_of(&body.note)?;
    match store::set_mark_note(&school.pool, who.0.id, *id, &note, school.now()).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::NotFound),
    }
}

/// Takes a mark away.
#[utoipa::path(path = "/api/marks/{id}", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/marks/{id}")]
pub(crate) async fn delete_mark(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    match store::drop_page_mark(&school.pool, who.0.id, *id).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::NotFound),
    }
}

/// All marks as CSV.
#[utoipa::path(path = "/api/marks.csv",
    responses((status = 200, body = String, content_type = "text/csv"), (status = 401, body = Problem)))]
#[get("/marks.csv")]
pub(crate) async fn get_marks_csv(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<HttpResponse, ApiError> {
    let broken = |e: String| ApiError::Inside(e);
    let mut writer = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .from_writer(Vec::new());
    let mut line = |cells: [String; 5]| {
        let cells = cells.iter().map(|c| cell(c));
        writer.write_record(cells).map_err(|e| broken(e.to_string()))
    };
    line(["page", "marked", "note", "when", "standing"].map(str::to_owned))?;
    for mark in marks(&school, &who, None).await? {
        let at = mark.made_at.format(&Rfc3339).map_err(|e| broken(e.to_string()))?;
        let standing = if mark.found.is_some() {
            "there"
        } else {
            "the text changed here"
        };
        line([mark.title, mark.quote.exact, mark.note, at, standing.into()])?;
    }
    let bytes = writer.into_inner().map_err(|e| broken(e.to_string()))?;
    Ok(HttpResponse::Ok()
        .insert_header((header::CONTENT_TYPE, "text/csv; charset=utf-8"))
        .insert_header((header::CONTENT_DISPOSITION, "attachment; filename=\"marks.csv\""))
        .body(bytes))
}
