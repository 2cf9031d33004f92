//! Checking a question, and what the board shows after it.

use actix_web::{post, web};
use coursework::{Command, prepare_check};
use school::{Desk, School};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::given::{GivenPart, responses};
use super::super::shared::question::question_view;
use super::super::shared::question_view::QuestionView;
use super::super::shared::state::{ScoreView, score_view};
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct CheckRequest {
    question: usize,
    parts: Vec<GivenPart>,
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
    pub async fn of(
        desk: &Desk,
        school: &School,
        question: usize,
    ) -> Result<web::Json<BoardUpdate>, ApiError> {
        Ok(web::Json(BoardUpdate {
            used_a_try: false,
            reached: desk.work.reached,
            question: question_view(desk, school, question).await?,
            score: score_view(&desk.assignment, &desk.work, desk.now),
        }))
    }
}

/// Marks one question's entries.
#[utoipa::path(path = "/api/assignments/{id}/check", params(("id" = Uuid, Path)), request_body = CheckRequest,
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/check")]
pub(crate) async fn check(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<CheckRequest>,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let CheckRequest { question, parts } = body.into_inner();
    let given = responses(parts)?;
    let check = async |desk: &mut Desk| {
        let wanted = prepare_check(&desk.assignment, &desk.work, question, &given, desk.now)?;
        let set = wanted.set;
        let parts = desk.mark(&school, wanted).await?.parts;
        let before = desk.work.tries_used();
        desk.run(&school, &Command::Check { question, set, parts })
            .await?;
        let mut update = BoardUpdate::of(desk, &school, question).await?;
        update.used_a_try = desk.work.tries_used() > before;
        Ok(update)
    };
    who.on_desk(&school, *id, check).await
}
