//! Files and recordings with an answer that the teacher marks.

use super::workings::check_room;
use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, delete, get, post, web};
use coursework::{Refusal, may_see, may_work};
use marking::Response;
use school::{Desk, School, SchoolError};
use serde::{Deserialize, Serialize};
use store::Attachment;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::http::auth::{SignedIn, Visitor};
use crate::http::error::{ApiError, Problem, of_payload};
use crate::http::file_type::{kind_of, name_for, plain_name};
use crate::http::ranges::in_ranges;

/// Files kept with one question: more than an answer can have, for what was taken out again and is handed in already.
const MOST_FILES: i64 = 30;

#[derive(Deserialize, IntoParams)]
pub(crate) struct FileName {
    /// As it is called on the student's own machine.
    name: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct KeptFile {
    id: Uuid,
    name: String,
    /// What it is by its content.
    media_type: String,
    size: u64,
}

/// Keeps a file for an answer: a picture, a PDF, text, an office document or a recording, 8 MB at most.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/files",
    params(("id" = Uuid, Path), ("question" = usize, Path), FileName),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = KeptFile), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem), (status = 413, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/files")]
pub(crate) async fn add_file(
    school: web::Data<School>,
    who: Visitor,
    path: web::Path<(Uuid, usize)>,
    query: web::Query<FileName>,
    body: Result<web::Bytes, actix_web::Error>,
) -> Result<web::Json<KeptFile>, ApiError> {
    let (id, question) = path.into_inner();
    let desk = who.desk(&school, id).await?;
    may_work(&desk.assignment, &desk.work, desk.now)?;
    may_see(&desk.assignment, &desk.work, question)?;
    let item = desk
        .assignment
        .items
        .get(question)
        .ok_or(Refusal::NoSuchQuestion)?;
    if !item.parts.iter().any(|p| p.by_hand) {
        return Err(ApiError::Unusable("No files belong to this question.".into()));
    }
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    let bytes = body.map_err(|e| match e.as_error::<actix_web::error::PayloadError>() {
        Some(error) => of_payload(error),
        None => ApiError::Unusable("The file did not arrive complete. Try again.".into()),
    })?;
    if bytes.is_empty() {
        return Err(ApiError::Unusable("This file is empty.".into()));
    }
    let media_type = kind_of(&bytes).ok_or_else(|| {
        let words = "This kind of file can't be kept. Take a picture (PNG, JPEG), a PDF, a text, an office document or a \
            recording.";
        ApiError::Unusable(words.into())
    })?;
    check_room(&school, desk.student, bytes.len()).await?;
    let file = Attachment {
        name: name_for(&plain_name(&query.name), media_type),
        media_type: media_type.to_owned(),
        bytes: bytes.to_vec(),
    };
    let kept = store::add_attachment(&school.pool, work, question, &file, MOST_FILES, desk.now).await?;
    let id = kept.ok_or_else(|| {
        ApiError::Unusable("This question has had thirty files already. Hand in what is there.".into())
    })?;
    store::note_activity(&school.pool, work, None, desk.now).await?;
    Ok(web::Json(KeptFile {
        id,
        name: file.name,
        media_type: file.media_type,
        size: bytes.len() as u64,
    }))
}

/// A file of the student's own, or of a class one teaches. It is given out to be saved or played, never to be run.
#[utoipa::path(path = "/api/files/{file}", params(("file" = Uuid, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "application/octet-stream"), (status = 206),
        (status = 404, body = Problem)))]
#[get("/files/{file}")]
pub(crate) async fn get_file(
    school: web::Data<School>,
    who: SignedIn,
    request: HttpRequest,
    file: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let own = store::find_attachment(&school.pool, who.0.id, *file).await?;
    let found = match own {
        Some(own) => Some(own),
        None => store::find_attachment_taught(&school.pool, who.0.id, *file).await?,
    };
    let found = found.ok_or(SchoolError::NotFound)?;
    let name = header::ContentDisposition {
        disposition: header::DispositionType::Attachment,
        parameters: vec![header::DispositionParam::FilenameExt(header::ExtendedValue {
            charset: header::Charset::Ext("UTF-8".into()),
            language_tag: None,
            value: found.name.into_bytes(),
        })],
    };
    let mut response = in_ranges(&request, found.bytes);
    Ok(response
        .insert_header((header::CONTENT_TYPE, found.media_type))
        .insert_header(name)
        .insert_header((header::CACHE_CONTROL, "private, no-cache"))
        .insert_header((header::CONTENT_SECURITY_POLICY, "default-src 'none'; sandbox"))
        .insert_header(("Cross-Origin-Resource-Policy", "same-origin"))
        .finish())
}

/// Deletes a file that was not handed in; one that was stays with what was handed in.
#[utoipa::path(path = "/api/assignments/{id}/files/{file}",
    params(("id" = Uuid, Path), ("file" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[delete("/assignments/{id}/files/{file}")]
pub(crate) async fn delete_file(
    school: web::Data<School>,
    who: Visitor,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, file) = path.into_inner();
    let desk = who.desk(&school, id).await?;
    may_work(&desk.assignment, &desk.work, desk.now)?;
    let work = desk.work_id.ok_or(ApiError::NotFound)?;
    if was_handed_in(&desk, file) {
        return Ok(HttpResponse::NoContent().finish());
    }
    match store::delete_attachment(&school.pool, work, file).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::NotFound),
    }
}

fn was_handed_in(desk: &Desk, file: Uuid) -> bool {
    let sets = desk.work.questions.iter().flat_map(|q| &q.sets);
    let given = sets
        .flat_map(|s| &s.tries)
        .flat_map(|t| &t.parts)
        .map(|p| &p.response);
    files_of(given).any(|id| id == file)
}

fn files_of<'a>(responses: impl Iterator<Item = &'a Response>) -> impl Iterator<Item = Uuid> {
    responses.flat_map(|r| r.files()).map(|f| f.id)
}

/// That every file an answer names is the student's own, kept with this work.
pub(super) async fn own_files(school: &School, desk: &Desk, response: &Response) -> Result<(), ApiError> {
    let named: Vec<Uuid> = response.files().iter().map(|f| f.id).collect();
    if named.is_empty() {
        return Ok(());
    }
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    if store::are_attached(&school.pool, work, &named).await? {
        Ok(())
    } else {
        Err(ApiError::Unusable(
            "One of these files is not kept with this work any more. Attach it again.".into(),
        ))
    }
}
