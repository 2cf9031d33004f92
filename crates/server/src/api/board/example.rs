//! The worked example of a question, and one to try after it.

use actix_web::{post, web};
use coursework::{CheckedPart, Command, Refusal, may_see};
use marking::{Block, Example, Item, Question, Shown};
use school::School;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::given::{GivenPart, responses};
use super::super::shared::loose::loose_question;
use super::super::shared::question_view::QuestionView;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

type Place = web::Path<(Uuid, usize)>;

/// A worked example: a like question with its own numbers, solved in steps.
#[derive(Serialize, ToSchema)]
pub(crate) struct ExampleView {
    text: Vec<Block>,
    parts: Vec<ExamplePart>,
    steps: Vec<Vec<Block>>,
    /// One to try in place.
    try_it: QuestionView,
    round: u64,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ExamplePart {
    id: String,
    prompt: Vec<Block>,
    entry: Shown,
}

/// Shows the worked example of a question; that it was seen is noted.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/example",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = ExampleView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/example")]
pub(crate) async fn example(
    school: web::Data<School>,
    who: Visitor,
    place: Place,
) -> Result<web::Json<ExampleView>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = who.desk(&school, id).await?;
    let source = desk.source(question)?.clone();
    let available = !source.example_steps().is_empty();
    desk.run(&school, &Command::SeeExample { question, available })
        .await?;
    let points = source.points;
    let mine = desk.work.seeds(question);
    let (example, try_item) = school
        .compute(desk.student, move || {
            Some((example_of(&source)?, try_of(&source, 0, &mine)?))
        })
        .await?
        .ok_or(Refusal::NoOtherNumbers)?;
    let part = |p: &marking::ItemPart| ExamplePart {
        id: p.id.clone(),
        prompt: p.prompt.clone(),
        entry: p.posed.shown(),
    };
    Ok(web::Json(ExampleView {
        text: example.item.text.clone(),
        parts: example.item.parts.iter().map(part).collect(),
        steps: example.steps.to_vec(),
        try_it: loose_question(question, points, "Try it".into(), &try_item, &[], false),
        round: 0,
    }))
}

fn example_of(source: &Question) -> Option<Example> {
    marking::worked_example(source).ok().flatten()
}

/// Never the student's own numbers: what is marked here would cost no try there.
fn try_of(source: &Question, round: u64, own: &[u64]) -> Option<Item> {
    let wanted = marking::example_try_seed(source, round, own).ok()?;
    let seed = if marking::is_apart(source, wanted, own).ok()? {
        wanted
    } else {
        marking::seed_apart(source, wanted, &[], own).ok()??
    };
    marking::render(source, seed).ok()
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct TryRequest {
    /// 0 for the first one to try, then the next.
    round: u64,
    parts: Vec<GivenPart>,
}

/// Rounds of the question to try; more would only repeat.
const MOST_ROUNDS: u64 = 1_000;

/// Marks the question to try after a worked example, or gives the next one if nothing is entered. Nothing is recorded.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/example/try",
    params(("id" = Uuid, Path), ("question" = usize, Path)), request_body = TryRequest,
    responses((status = 200, body = QuestionView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/example/try")]
pub(crate) async fn example_try(
    school: web::Data<School>,
    who: Visitor,
    place: Place,
    body: web::Json<TryRequest>,
) -> Result<web::Json<QuestionView>, ApiError> {
    let (id, question) = place.into_inner();
    let desk = who.desk(&school, id).await?;
    may_see(&desk.assignment, &desk.work, question)?;
    let seen = desk.work.questions.get(question).is_some_and(|q| q.example_seen);
    if !seen {
        return Err(Refusal::NoExample.into());
    }
    let source = desk.source(question)?.clone();
    let TryRequest { round, parts } = body.into_inner();
    let mine = desk.work.seeds(question);
    let points = source.points;
    let given = responses(parts)?;
    let drawn = move || try_of(&source, round.min(MOST_ROUNDS), &mine);
    let item = school
        .compute(desk.student, drawn)
        .await?
        .ok_or(Refusal::NoOtherNumbers)?;
    let item = std::sync::Arc::new(item);
    let marked = school.mark(desk.student, &item, given).await?;
    let view = school
        .compute(desk.student, move || {
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            Some(loose_question(
                question,
                points,
                "Try it".into(),
                &item,
                &marked,
                false,
            ))
        })
        .await?;
    Ok(web::Json(view.ok_or(Refusal::NoOtherNumbers)?))
}
