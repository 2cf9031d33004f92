//! Hints, worked examples, the working, and fresh numbers.

use actix_web::{post, web};
use coursework::{Command, Refusal};
use school::{School, SchoolError};
use uuid::Uuid;

use super::check::BoardUpdate;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

type Place = web::Path<(Uuid, usize)>;

/// Takes the next hint.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/hint",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/hint")]
pub(crate) async fn hint(
    school: web::Data<School>,
    who: Visitor,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = who.desk(&school, id).await?;
    let available = desk.source(question)?.help.hints.len();
    desk.run(&school, &Command::TakeHint { question, available })
        .await?;
    BoardUpdate::of(&desk, &school, question).await
}

/// Shows the working of the current set, which ends it.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/working",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/working")]
pub(crate) async fn working(
    school: web::Data<School>,
    who: Visitor,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = who.desk(&school, id).await?;
    if desk.source(question)?.help.working.is_empty() {
        return Err(Refusal::NoSolution.into());
    }
    desk.run(&school, &Command::ShowSolution { question }).await?;
    BoardUpdate::of(&desk, &school, question).await
}

/// The next set of the question.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/fresh-numbers",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/fresh-numbers")]
pub(crate) async fn fresh_numbers(
    school: web::Data<School>,
    who: Visitor,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = who.desk(&school, id).await?;
    coursework::may_work(&desk.assignment, &desk.work, desk.now)?;
    coursework::may_take_fresh_numbers(&desk.assignment, &desk.work, question)?;
    let earlier = desk.work.seeds(question);
    let base = earlier.first().copied().unwrap_or_default();
    let source = desk.source(question)?.clone();
    let id = source.id.clone();
    let seed = school
        .compute(desk.student, move || marking::next_seed(&source, base, &earlier))
        .await?
        .map_err(|error| SchoolError::Undrawable { question: id, error })?;
    desk.run(&school, &Command::FreshNumbers { question, seed })
        .await?;
    BoardUpdate::of(&desk, &school, question).await
}
