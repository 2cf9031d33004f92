//! Practice on skills: a question at a time, always on fresh numbers, towards a goal.

pub(crate) mod closed;
pub(crate) mod goals;
mod view;

use actix_web::{get, post, put, web};
use coursework::{MOST_RIGHT, PracticeGoal, Refusal, SOLID, Target};
use marking::Response;
use school::practice::{check, draw, find_run, last_item, may_go_on};
use school::{Learner, School, SchoolError, find_skill, skills};
use serde::{Deserialize, Serialize};
use store::EnteredInRun;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use self::view::{PracticeRunView, view};
use super::shared::given::{GivenPart, responses};
use super::shared::read::{ReadView, read_in};
use super::shared::run::Started;
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct StartRequest {
    skills: Vec<String>,
    /// A number right on fresh numbers; without one, the goal is that every skill is solid.
    right: Option<u32>,
}

/// Begins a run of practice.
#[utoipa::path(path = "/api/practice", request_body = StartRequest,
    responses((status = 200, body = Started), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[post("/practice")]
pub(crate) async fn start(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<StartRequest>,
) -> Result<web::Json<Started>, ApiError> {
    let StartRequest {
        skills: wanted,
        right,
    } = body.into_inner();
    if wanted.is_empty() || wanted.len() > skills().len() {
        return Err(ApiError::Unusable("Name the skills to practise.".into()));
    }
    let learner = Learner::load(&school, who.0.id).await?;
    for id in &wanted {
        let skill = find_skill(id).ok_or(SchoolError::NotFound)?;
        if !learner.missing(skill).is_empty() {
            return Err(Refusal::SkillLocked.into());
        }
    }
    let target = right.map_or(Target::Score(SOLID), |n| Target::Right(n.clamp(1, MOST_RIGHT)));
    let goal = PracticeGoal {
        skills: wanted,
        target,
        question: None,
    };
    let run = store::start_run(&school.pool, who.0.id, &goal, school.now()).await?;
    draw(&school, run, &goal, &learner, who.0.id).await?;
    Ok(web::Json(Started { id: run.0 }))
}

/// A run of practice with its question.
#[utoipa::path(path = "/api/practice/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem)))]
#[get("/practice/{id}")]
pub(crate) async fn get_run(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    view(&school, &who.0, *id, &[]).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeRead {
    part: String,
    entry: String,
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/practice/{id}/read", params(("id" = Uuid, Path)), request_body = PracticeRead,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
#[post("/practice/{id}/read")]
pub(crate) async fn read_entry(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<PracticeRead>,
) -> Result<web::Json<ReadView>, ApiError> {
    let standing = find_run(&school, *id, who.0.id).await?;
    let (_, item) = last_item(&school, &standing.run, who.0.id).await?;
    let PracticeRead { part, entry } = body.into_inner();
    Ok(web::Json(read_in(&school, who.0.id, item, part, entry).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeAnswer {
    parts: Vec<GivenPart>,
}

/// Checks the answer to the question of a run, once. What cannot be read, is empty or has the wrong form costs nothing.
#[utoipa::path(path = "/api/practice/{id}/check", params(("id" = Uuid, Path)), request_body = PracticeAnswer,
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/practice/{id}/check")]
pub(crate) async fn check_answer(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<PracticeAnswer>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let standing = find_run(&school, *id, who.0.id).await?;
    let given = responses(body.into_inner().parts)?;
    let unjudged = check(&school, &who.0, &standing, given).await?;
    view(&school, &who.0, *id, &unjudged).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct EnteredRequest {
    /// Which question of the run, from 1.
    number: usize,
    /// The revision that the fields started from; 0 for ones that were empty.
    based_on: i64,
    parts: Vec<GivenPart>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum EnteredView {
    Saved {
        revision: i64,
        #[serde(with = "time::serde::rfc3339")]
        at: OffsetDateTime,
    },
    /// Another window wrote here first: what stands there now.
    Elsewhere { revision: i64, parts: Vec<EnteredPart> },
    /// The question was answered or passed meanwhile: there is nothing to keep any more.
    Over,
}

impl EnteredView {
    pub(crate) fn elsewhere(revision: i64, parts: &[(String, Response)]) -> Self {
        let part = |(id, response): &(String, Response)| EnteredPart {
            id: id.clone(),
            response: response.clone(),
        };
        EnteredView::Elsewhere {
            revision,
            parts: parts.iter().map(part).collect(),
        }
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct EnteredPart {
    id: String,
    response: Response,
}

/// Keeps what stands in the fields and was not checked yet.
#[utoipa::path(path = "/api/practice/{id}/entered", params(("id" = Uuid, Path)), request_body = EnteredRequest,
    responses((status = 200, body = EnteredView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/practice/{id}/entered")]
pub(crate) async fn put_entered(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<EnteredRequest>,
) -> Result<web::Json<EnteredView>, ApiError> {
    let EnteredRequest {
        number,
        based_on,
        parts,
    } = body.into_inner();
    let parts = responses(parts)?;
    let standing = find_run(&school, *id, who.0.id).await?;
    if standing.run.open().is_none() || number != standing.run.drawn.len() {
        return Ok(web::Json(EnteredView::Over));
    }
    let (entered, at) = (
        EnteredInRun {
            number,
            revision: based_on,
            parts,
        },
        school.now(),
    );
    if let Some(revision) = store::put_entered(&school.pool, standing.id, &entered, at).await? {
        return Ok(web::Json(EnteredView::Saved { revision, at }));
    }
    let there = store::find_entered(&school.pool, standing.id).await?;
    let Some(there) = there.filter(|e| e.number == number) else {
        return Ok(web::Json(EnteredView::Over));
    };
    Ok(web::Json(EnteredView::elsewhere(there.revision, &there.parts)))
}

/// Goes on to the next question; also after the goal.
#[utoipa::path(path = "/api/practice/{id}/next", params(("id" = Uuid, Path)),
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/practice/{id}/next")]
pub(crate) async fn go_on(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let standing = find_run(&school, *id, who.0.id).await?;
    may_go_on(&school, standing.id, &who.0).await?;
    let learner = Learner::load(&school, who.0.id).await?;
    draw(&school, standing.id, &standing.goal, &learner, who.0.id).await?;
    view(&school, &who.0, *id, &[]).await
}
