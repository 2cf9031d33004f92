//! Practice on an assignment that has closed: nothing of it is recorded.

use actix_web::{get, post, web};
use coursework::{CheckedPart, Refusal, ShowSolution};
use school::{Desk, Learner, School, SchoolError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::given::{GivenPart, responses};
use super::super::shared::loose::loose_question;
use super::super::shared::question_view::QuestionView;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct PracticeView {
    title: String,
    questions: usize,
    question: QuestionView,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeRequest {
    parts: Vec<GivenPart>,
    /// Shows the working with the verdicts.
    #[serde(default)]
    show_working: bool,
}

/// Sets to practise on after closing; more would only repeat.
const MOST_PRACTICE: u32 = 200;

async fn practice_desk(school: &School, who: &Visitor, id: Uuid) -> Result<Desk, ApiError> {
    let desk = who.desk(school, id).await?;
    if desk.now < coursework::terms(&desk.assignment, &desk.work).closes {
        return Err(Refusal::NotClosedYet.into());
    }
    Ok(desk)
}

/// A question to practise after closing: nothing of it is recorded.
#[utoipa::path(path = "/api/assignments/{id}/practice/{question}/{round}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("round" = u32, Path)),
    responses((status = 200, body = PracticeView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/practice/{question}/{round}")]
pub(crate) async fn practice(
    school: web::Data<School>,
    who: Visitor,
    place: web::Path<(Uuid, usize, u32)>,
) -> Result<web::Json<PracticeView>, ApiError> {
    let none = PracticeRequest {
        parts: Vec::new(),
        show_working: false,
    };
    practise(&school, &who, place.into_inner(), none).await
}

/// Marks what was entered in a question to practise. Nothing is recorded.
#[utoipa::path(path = "/api/assignments/{id}/practice/{question}/{round}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("round" = u32, Path)), request_body = PracticeRequest,
    responses((status = 200, body = PracticeView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/practice/{question}/{round}")]
pub(crate) async fn practice_check(
    school: web::Data<School>,
    who: Visitor,
    place: web::Path<(Uuid, usize, u32)>,
    body: web::Json<PracticeRequest>,
) -> Result<web::Json<PracticeView>, ApiError> {
    practise(&school, &who, place.into_inner(), body.into_inner()).await
}

async fn practise(
    school: &School,
    who: &Visitor,
    (id, question, round): (Uuid, usize, u32),
    body: PracticeRequest,
) -> Result<web::Json<PracticeView>, ApiError> {
    let desk = practice_desk(school, who, id).await?;
    let source = desk.source(question)?.clone();
    let learner = Learner::load(school, desk.student).await?;
    if learner.is_kept_for_quiz(&source.id) {
        return Err(Refusal::KeptForQuiz.into());
    }
    if !learner.may_show(&source) {
        return Err(Refusal::NoOtherNumbers.into());
    }
    // A teacher who never shows the working does not show it on other numbers either.
    let never = desk.assignment.settings.show_solution == ShowSolution::Never;
    let show_working = body.show_working && !never && !learner.withholds_working(&source.id);
    let (title, questions, points) = (
        desk.stored.head.title.clone(),
        desk.assignment.items.len(),
        source.points,
    );
    let round = round.min(MOST_PRACTICE);
    let (own, given) = (desk.work.seeds(question), responses(body.parts)?);
    let open = learner.open_sets(&source.id).unwrap_or_default().to_vec();
    let drawn = source.clone();
    // The same round has the same numbers again; none are those of a set that was worked for the record.
    let base = own.first().copied().unwrap_or(0) ^ 0x5eed;
    let seed = school
        .compute(desk.student, move || {
            marking::round_seed(&drawn, base, round, &own, &open)
        })
        .await?
        .map_err(|error| SchoolError::Undrawable {
            question: source.id.clone(),
            error,
        })?
        .ok_or(Refusal::NoOtherNumbers)?;
    let item = desk.item_of(school, question, seed).await?;
    let marked = school.mark(desk.student, &item, given).await?;
    let view = school
        .compute(desk.student, move || {
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            let set = format!("practice {}", round.saturating_add(1));
            loose_question(question, points, set, &item, &marked, show_working)
        })
        .await?;
    Ok(web::Json(PracticeView {
        title,
        questions,
        question: view,
    }))
}
