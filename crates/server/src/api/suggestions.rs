//! Skills that a teacher suggests, until they are reached; and those a student wishes for.

use actix_web::{HttpResponse, get, put, web};
use coursework::SOLID;
use school::{Learner, School, SchoolError, find_skill};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::skill::{SkillBrief, brief};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct SuggestionsView {
    /// What was suggested and is not reached yet, the newest first.
    suggested: Vec<SuggestedSkill>,
    /// Skills that one would like to work on.
    wished: Vec<String>,
}

/// A skill that a teacher would like one to reach.
#[derive(Serialize, ToSchema)]
pub(crate) struct SuggestedSkill {
    id: Uuid,
    skill: SkillBrief,
    why: String,
    by: String,
    class_title: String,
}

/// Whether a skill was ever reached: fading takes it back from nobody.
pub(crate) fn was_reached(learner: &Learner, skill: &str) -> bool {
    learner.course(skill).iter().any(|(_, score)| *score >= SOLID)
}

/// What teachers suggest that one has not reached yet, and what one wishes for.
#[utoipa::path(path = "/api/suggestions",
    responses((status = 200, body = SuggestionsView), (status = 401, body = Problem)))]
#[get("/suggestions")]
pub(crate) async fn get_suggestions(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<SuggestionsView>, ApiError> {
    let wished = store::wishes_of(&school.pool, who.0.id).await?;
    let mut all = store::suggestions_for(&school.pool, who.0.id).await?;
    all.retain(|s| find_skill(&s.skill).is_some());
    if all.is_empty() {
        return Ok(web::Json(SuggestionsView {
            suggested: Vec::new(),
            wished,
        }));
    }
    let learner = Learner::load(&school, who.0.id).await?;
    all.retain(|s| !was_reached(&learner, &s.skill));
    let view = |s: store::Suggestion| SuggestedSkill {
        id: s.id,
        skill: brief(&learner, &s.skill),
        why: s.why,
        by: s.by,
        class_title: s.class_title,
    };
    Ok(web::Json(SuggestionsView {
        suggested: all.into_iter().map(view).collect(),
        wished,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct WishRequest {
    on: bool,
}

/// Says that one would like to work on a skill, or no more. Teachers see by how many a skill is wished for.
#[utoipa::path(path = "/api/skills/{skill}/wish", params(("skill" = String, Path)), request_body = WishRequest,
    responses((status = 204), (status = 404, body = Problem)))]
#[put("/skills/{skill}/wish")]
pub(crate) async fn set_wish(
    school: web::Data<School>,
    who: SignedIn,
    skill: web::Path<String>,
    body: web::Json<WishRequest>,
) -> Result<HttpResponse, ApiError> {
    let skill = find_skill(&skill).ok_or(SchoolError::NotFound)?;
    store::set_wish(&school.pool, who.0.id, &skill.id, body.on, school.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}
