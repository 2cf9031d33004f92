//! How a question went before, in the classes one teaches.

use actix_web::{get, web};
use coursework::{QuestionWent, Work, question_went};
use school::School;
use serde::Serialize;
use store::WorkId;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// How a question went before, over one's own classes.
#[derive(Default, Serialize, ToSchema)]
pub(crate) struct WentBefore {
    /// Assignments in which somebody tried it.
    assignments: u32,
    tried: u32,
    right_first: u32,
    right_in_the_end: u32,
    sets: u32,
    checks: u32,
    hints: u32,
}

impl WentBefore {
    fn add(&mut self, went: &QuestionWent) {
        self.assignments += 1;
        self.tried += went.tried;
        self.right_first += went.right_first;
        self.right_in_the_end += went.right_in_the_end;
        self.sets += went.sets;
        self.checks += went.checks;
        self.hints += went.hints;
    }
}

/// How a question went before: counts over all assignments of one's own classes that it is in, in whatever version.
#[utoipa::path(path = "/api/bank/{slug}/went", params(("slug" = String, Path)),
    responses((status = 200, body = WentBefore), (status = 404, body = Problem)))]
#[get("/bank/{slug}/went")]
pub(crate) async fn went_before(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
) -> Result<web::Json<WentBefore>, ApiError> {
    if store::find_question_by_slug(&school.pool, &slug).await?.is_none() {
        return Err(ApiError::NotFound);
    }
    let mine: Vec<Uuid> = store::taught_by(&school.pool, who.0.id).await?;
    let mut before = WentBefore::default();
    for used in store::uses_of(&school.pool, &slug).await? {
        if !mine.contains(&used.assignment) {
            continue;
        }
        let works = store::works_on(&school.pool, used.assignment).await?;
        let works: Vec<WorkId> = works.into_iter().map(|(work, _)| work).collect();
        // Digests say all that is counted; what was entered is not looked at.
        let digests = store::digests_of(&school.pool, &works).await?;
        let states: Vec<&Work> = digests.values().map(|d| &d.state).collect();
        let went = question_went(states.into_iter(), used.position);
        if went.tried > 0 {
            before.add(&went);
        }
    }
    Ok(web::Json(before))
}
