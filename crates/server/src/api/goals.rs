//! Assignments with a goal: how far it is reached, and the way to work towards it.

use actix_web::{post, web};
use coursework::{Command, GoalLine, GoalProgress, Refusal};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::practice::{Started, draw};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::skills::title_of;

/// How far a goal is reached, and what that is made of.
#[derive(Serialize, ToSchema)]
pub(crate) struct GoalView {
    /// 0 to 100.
    pub percent: f64,
    pub reached: bool,
    pub lines: Vec<GoalLineView>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
pub(crate) enum GoalLineView {
    Skill {
        skill: String,
        title: String,
        score: u8,
        wanted: u8,
    },
    Right {
        right: u32,
        answered: u32,
        wanted: u32,
    },
    Page {
        skill: String,
        title: String,
        read: bool,
    },
}

impl From<&GoalProgress> for GoalView {
    fn from(progress: &GoalProgress) -> Self {
        let line = |line: &GoalLine| match line {
            GoalLine::Skill { skill, score, wanted } => GoalLineView::Skill {
                skill: skill.clone(),
                title: title_of(skill),
                score: *score,
                wanted: *wanted,
            },
            GoalLine::Right {
                right,
                answered,
                wanted,
            } => GoalLineView::Right {
                right: *right,
                answered: *answered,
                wanted: *wanted,
            },
            GoalLine::Page { skill, read } => GoalLineView::Page {
                skill: skill.clone(),
                title: title_of(skill),
                read: *read,
            },
        };
        GoalView {
            percent: (progress.reached * 10_000.0).round() / 100.0,
            reached: progress.is_reached(),
            lines: progress.lines.iter().map(line).collect(),
        }
    }
}

/// Goes on with the practice that an assignment sets, or begins it. What was practised before is still there.
#[utoipa::path(path = "/api/assignments/{id}/practise", params(("id" = Uuid, Path)),
    responses((status = 200, body = Started), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/practise")]
pub(crate) async fn practise_assignment(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<Started>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    let goal = desk.assignment.settings.goal.clone().ok_or(Refusal::NoGoal)?;
    let goal = goal.practice().ok_or(Refusal::OnlyReading)?;
    desk.run(&site, &Command::Open { seeds: Vec::new() }).await?;
    let work = desk.work_id.ok_or(ApiError::NotFound)?;
    let run = store::run_for_work(&site.pool, who.0.id, work, &goal, site.now()).await?;
    let learner = Learner::load(&site, &who.0).await?;
    draw(&site, run, &goal, &learner).await?;
    Ok(web::Json(Started { id: run.0 }))
}
