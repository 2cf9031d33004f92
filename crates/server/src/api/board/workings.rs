//! Notes, ink and pasted pictures, kept with a question.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use coursework::may_see;
use school::{School, SchoolError};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use store::{PersonId, WorkId, Workings};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::{SignedIn, Visitor};
use crate::http::error::{ApiError, Problem, of_payload};

type Place = web::Path<(Uuid, usize)>;

/// Characters of notes for one question: some ten pages.
const LONGEST_NOTES: usize = 30_000;
/// Bytes of ink for one question, as JSON: some hundred lines of handwriting.
pub(crate) const MOST_INK: usize = 600_000;
/// Strokes of ink, and points of all of them, each of up to x, y and pressure.
const MOST_STROKES: usize = 5_000;
pub(crate) const MOST_POINTS: usize = 60_000;
/// Pictures for one question.
const MOST_PICTURES: i64 = 12;

#[derive(Serialize, ToSchema)]
pub(crate) struct WorkingsView {
    revision: i64,
    notes: String,
    /// Strokes: lists of points, each x, y and pressure.
    #[schema(value_type = Vec<Vec<Vec<f64>>>)]
    ink: Value,
    pictures: Vec<PictureView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PictureView {
    id: Uuid,
    #[serde(with = "time::serde::rfc3339")]
    added_at: OffsetDateTime,
    size: i64,
}

async fn place(
    school: &School,
    who: &Visitor,
    place: Place,
) -> Result<(WorkId, usize, OffsetDateTime), ApiError> {
    let (id, question) = place.into_inner();
    let desk = who.desk(school, id).await?;
    may_see(&desk.assignment, &desk.work, question)?;
    Ok((desk.work_id.ok_or(SchoolError::NotFound)?, question, desk.now))
}

async fn view(school: &School, work: WorkId, question: usize) -> Result<WorkingsView, ApiError> {
    let workings = store::find_workings(&school.pool, work, question).await?;
    let workings = workings.unwrap_or_else(|| Workings {
        revision: 0,
        notes: String::new(),
        ink: Value::Array(Vec::new()),
    });
    let pictures = store::pictures_of(&school.pool, work, question).await?;
    let picture = |p: store::PictureHead| PictureView {
        id: p.id,
        added_at: p.added_at,
        size: p.size,
    };
    Ok(WorkingsView {
        revision: workings.revision,
        notes: workings.notes,
        ink: workings.ink,
        pictures: pictures.into_iter().map(picture).collect(),
    })
}

/// Notes, ink and pictures of a question.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/workings",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = WorkingsView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/questions/{question}/workings")]
pub(crate) async fn get_workings(
    school: web::Data<School>,
    who: Visitor,
    path: Place,
) -> Result<web::Json<WorkingsView>, ApiError> {
    let (work, question, _) = place(&school, &who, path).await?;
    Ok(web::Json(view(&school, work, question).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SaveWorkings {
    /// The revision they are based on; 0 if there were none.
    based_on: i64,
    notes: String,
    ink: Vec<Vec<Vec<f64>>>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum WorkingsSaved {
    Saved {
        revision: i64,
        #[serde(with = "time::serde::rfc3339")]
        at: OffsetDateTime,
    },
    /// Another window wrote here first: this is the newest revision.
    Elsewhere { revision: i64 },
}

/// Keeps notes and ink. They may be written after the end too: nothing of them is marked.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/workings",
    params(("id" = Uuid, Path), ("question" = usize, Path)), request_body = SaveWorkings,
    responses((status = 200, body = WorkingsSaved), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/assignments/{id}/questions/{question}/workings")]
pub(crate) async fn save_workings(
    school: web::Data<School>,
    who: Visitor,
    path: Place,
    body: web::Json<SaveWorkings>,
) -> Result<web::Json<WorkingsSaved>, ApiError> {
    let (work, question, now) = place(&school, &who, path).await?;
    let SaveWorkings { based_on, notes, ink } = body.into_inner();
    if notes.chars().count() > LONGEST_NOTES {
        return Err(ApiError::Unusable(
            "These notes are too long to keep: 30,000 characters at most.".into(),
        ));
    }
    check_strokes(ink.iter().map(Vec::as_slice), ink.len())?;
    let ink = serde_json::json!(ink);
    if ink.to_string().len() > MOST_INK {
        return Err(too_much_ink());
    }
    let workings = Workings {
        revision: based_on,
        notes: notes.replace('\0', ""),
        ink,
    };
    let saved = store::save_workings(&school.pool, work, question, &workings, now).await?;
    store::note_activity(&school.pool, work, None, now).await?;
    Ok(web::Json(match saved {
        Some(revision) => WorkingsSaved::Saved { revision, at: now },
        None => WorkingsSaved::Elsewhere {
            revision: store::workings_revision(&school.pool, work, question).await?,
        },
    }))
}

pub(crate) fn too_much_ink() -> ApiError {
    ApiError::Unusable("This is more ink than can be kept with one question.".into())
}

/// Strokes within bounds, each with a point at least, and each point of two or three numbers.
pub(crate) fn check_strokes<'a>(
    mut strokes: impl Iterator<Item = &'a [Vec<f64>]>,
    count: usize,
) -> Result<(), ApiError> {
    let mut points = 0_usize;
    let fits = count <= MOST_STROKES
        && strokes.all(|stroke| {
            points = points.saturating_add(stroke.len());
            !stroke.is_empty() && points <= MOST_POINTS && stroke.iter().all(|p| matches!(p.len(), 2 | 3))
        });
    if fits {
        Ok(())
    } else if points > MOST_POINTS || count > MOST_STROKES {
        Err(too_much_ink())
    } else {
        Err(ApiError::Unusable(
            "A stroke of ink has points, each of x, y and pressure.".into(),
        ))
    }
}

/// Whether the teacher may see notes and ink of an assignment.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct SharedWorkings {
    shared: bool,
}

/// Whether the teacher may see the workings of this assignment.
#[utoipa::path(path = "/api/assignments/{id}/workings-shared", params(("id" = Uuid, Path)),
    responses((status = 200, body = SharedWorkings), (status = 404, body = Problem)))]
#[get("/assignments/{id}/workings-shared")]
pub(crate) async fn get_shared(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<SharedWorkings>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    let shared = store::shares_workings(&school.pool, work).await?;
    Ok(web::Json(SharedWorkings { shared }))
}

/// Lets the teacher see the workings of this assignment, or no longer.
#[utoipa::path(path = "/api/assignments/{id}/workings-shared", params(("id" = Uuid, Path)),
    request_body = SharedWorkings,
    responses((status = 200, body = SharedWorkings), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/assignments/{id}/workings-shared")]
pub(crate) async fn set_shared(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<SharedWorkings>,
) -> Result<web::Json<SharedWorkings>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    store::set_shares_workings(&school.pool, work, body.shared).await?;
    Ok(body)
}

/// What a picture is by its first bytes, whatever it says it is.
fn media_type(bytes: &[u8]) -> Option<&'static str> {
    match bytes {
        [0x89, b'P', b'N', b'G', b'\r', b'\n', 0x1a, b'\n', ..] => Some("image/png"),
        [0xff, 0xd8, 0xff, ..] => Some("image/jpeg"),
        [b'G', b'I', b'F', b'8', b'7' | b'9', b'a', ..] => Some("image/gif"),
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => Some("image/webp"),
        _ => None,
    }
}

/// Bytes of files and pictures that are kept of one person: a year of homework with a photo of every page.
const MOST_KEPT: i64 = 500_000_000;

pub(crate) async fn check_room(school: &School, person: PersonId, more: usize) -> Result<(), ApiError> {
    let kept = store::bytes_kept(&school.pool, person).await?;
    if kept.saturating_add(i64::try_from(more).unwrap_or(i64::MAX)) <= MOST_KEPT {
        return Ok(());
    }
    Err(ApiError::Unusable(
        "Your files and pictures take up 500 MB, and more can't be kept. Delete some that are not handed in, or ask your teacher.".into(),
    ))
}

/// Keeps a pasted picture: PNG, JPEG, WebP or GIF, 8 MB at most.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/pictures",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = WorkingsView), (status = 400, body = Problem), (status = 413, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/pictures")]
pub(crate) async fn add_picture(
    school: web::Data<School>,
    who: Visitor,
    path: Place,
    body: Result<web::Bytes, actix_web::Error>,
) -> Result<web::Json<WorkingsView>, ApiError> {
    let (work, question, now) = place(&school, &who, path).await?;
    let bytes = body.map_err(|e| match e.as_error::<actix_web::error::PayloadError>() {
        Some(error) => of_payload(error),
        None => ApiError::Unusable("The picture did not arrive complete. Try again.".into()),
    })?;
    let Some(media_type) = media_type(&bytes) else {
        return Err(ApiError::Unusable(
            "This is no picture that can be kept: PNG, JPEG, WebP or GIF.".into(),
        ));
    };
    check_room(&school, who.person(&school).await?.id, bytes.len()).await?;
    let added = store::add_picture(
        &school.pool,
        work,
        question,
        media_type,
        &bytes,
        MOST_PICTURES,
        now,
    )
    .await?;
    if added.is_none() {
        return Err(ApiError::Unusable(
            "There are twelve pictures here already. Delete one first.".into(),
        ));
    }
    Ok(web::Json(view(&school, work, question).await?))
}

/// A picture. It never changes, but whether it may be seen is asked each time.
#[utoipa::path(path = "/api/assignments/{id}/pictures/{picture}",
    params(("id" = Uuid, Path), ("picture" = Uuid, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "image/png"), (status = 304), (status = 404, body = Problem)))]
#[get("/assignments/{id}/pictures/{picture}")]
pub(crate) async fn get_picture(
    school: web::Data<School>,
    who: SignedIn,
    request: HttpRequest,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, picture) = path.into_inner();
    let work = store::find_work(&school.pool, id, who.0.id)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let found = store::find_picture(&school.pool, work, picture).await?;
    let (media_type, bytes) = found.ok_or(SchoolError::NotFound)?;
    let tag = format!("\"{picture}\"");
    let known = request
        .headers()
        .get(header::IF_NONE_MATCH)
        .is_some_and(|v| v.as_bytes() == tag.as_bytes());
    let mut response = if known {
        HttpResponse::NotModified()
    } else {
        HttpResponse::Ok()
    };
    response
        .insert_header((header::ETAG, tag))
        .insert_header((header::CACHE_CONTROL, "private, no-cache"));
    if known {
        return Ok(response.finish());
    }
    Ok(response.content_type(media_type).body(bytes))
}

/// Deletes a picture.
#[utoipa::path(path = "/api/assignments/{id}/pictures/{picture}",
    params(("id" = Uuid, Path), ("picture" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/assignments/{id}/pictures/{picture}")]
pub(crate) async fn delete_picture(
    school: web::Data<School>,
    who: SignedIn,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, picture) = path.into_inner();
    let work = store::find_work(&school.pool, id, who.0.id)
        .await?
        .ok_or(ApiError::NotFound)?;
    match store::delete_picture(&school.pool, work, picture).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::NotFound),
    }
}
