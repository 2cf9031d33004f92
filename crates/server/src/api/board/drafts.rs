//! What is typed, kept and read.

use actix_web::{post, put, web};
use coursework::{may_draft, may_see, terms};
use marking::Response;
use school::{Desk, School};
use serde::{Deserialize, Serialize};
use store::SaveDraft;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::read::{ReadView, read_in};
use super::super::shared::state::{Stone, stone};
use super::files::own_files;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct ReadRequest {
    question: usize,
    part: String,
    entry: String,
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/assignments/{id}/read", params(("id" = Uuid, Path)), request_body = ReadRequest,
    responses((status = 200, body = ReadView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/read")]
pub(crate) async fn read(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<ReadRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let mut desk = who.desk_to_read_at(&school, *id).await?;
    let ReadRequest {
        question,
        part,
        entry,
    } = body.into_inner();
    let closed = desk.now >= terms(&desk.assignment, &desk.work).closes;
    if !closed && may_see(&desk.assignment, &desk.work, question).is_err() && !desk.is_certain() {
        // It may have been reached on another server since.
        desk = who.desk(&school, *id).await?;
    }
    if !closed {
        may_see(&desk.assignment, &desk.work, question)?;
    }
    // How an entry reads does not depend on the numbers; in practice after closing there may be no set.
    let set = desk.work.questions.get(question).and_then(|q| q.current());
    let item = desk.item_of(&school, question, set.map_or(0, |s| s.seed)).await?;
    Ok(web::Json(
        read_in(&school, desk.student, item, part, entry).await?,
    ))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SaveRequest {
    question: usize,
    set_number: usize,
    part: String,
    /// The revision the field started from; 0 for one that was empty.
    based_on: i64,
    response: Response,
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
    Elsewhere { revision: i64, response: Response },
}

/// Keeps what is typed.
#[utoipa::path(path = "/api/assignments/{id}/drafts", params(("id" = Uuid, Path)), request_body = SaveRequest,
    responses((status = 200, body = SaveView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[put("/assignments/{id}/drafts")]
pub(crate) async fn save(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<SaveRequest>,
) -> Result<web::Json<SaveView>, ApiError> {
    let body = body.into_inner();
    let (question, set) = (body.question, body.set_number);
    let response = body.response.within_bounds()?;
    let draft = SaveDraft {
        question,
        set,
        part: &body.part,
        based_on: body.based_on,
        response: &response,
    };
    if !response.files().is_empty() {
        own_files(&school, &who.desk(&school, *id).await?, &response).await?;
    }
    let part = body.part.as_str();
    let allowed = |d: &Desk| may_draft(&d.assignment, &d.work, question, set, part, d.now);
    let keep = async |desk: &mut Desk| {
        if let Some(revision) = desk.save_draft(&school, &draft, allowed).await? {
            return Ok(web::Json(SaveView::Saved {
                revision,
                at: desk.now,
                stone: stone(&desk.assignment, &desk.work, question, &desk.drafts, desk.now),
            }));
        }
        let same_place = |d: &&store::Draft| d.question == question && d.set == set && d.part == part;
        let there = desk.drafts.iter().find(same_place);
        let revision = there.map_or(0, |d| d.revision);
        let response = there.map(|d| d.response.clone()).unwrap_or_default();
        Ok(web::Json(SaveView::Elsewhere { revision, response }))
    };
    who.on_desk(&school, *id, keep).await
}
