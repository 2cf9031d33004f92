//! Assignments with a goal: how far it is reached, and the way to work towards it.

use actix_web::{post, web};
use coursework::{Command, Goal, Refusal};
use school::practice::draw;
use school::{Learner, School, SchoolError};
use uuid::Uuid;

use super::super::shared::run::Started;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

/// Goes on with the practice that an assignment sets, or begins it. What was practised before is still there.
#[utoipa::path(path = "/api/assignments/{id}/practise", params(("id" = Uuid, Path)),
    responses((status = 200, body = Started), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/practise")]
pub(crate) async fn practise_assignment(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<Started>, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    let goal = desk.assignment.settings.goal.clone().ok_or(Refusal::NoGoal)?;
    let nothing = match goal {
        Goal::Start {} => Refusal::StartFirst,
        Goal::Watch { .. } => Refusal::WatchFirst,
        _ => Refusal::OnlyReading,
    };
    let goal = goal.practice().ok_or(nothing)?;
    if desk.work.opened_at.is_none() {
        school::units::may_begin(&school, *id, desk.student).await?;
    }
    desk.run(&school, &Command::Open { seeds: Vec::new() }).await?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    let run = store::run_for_work(&school.pool, desk.student, work, &goal, school.now()).await?;
    let learner = Learner::load(&school, desk.student).await?;
    draw(&school, run, &goal, &learner, desk.student).await?;
    Ok(web::Json(Started { id: run.0 }))
}
