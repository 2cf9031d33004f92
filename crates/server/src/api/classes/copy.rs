//! Copying an assignment to another class or term, with its dates moved.

use actix_web::{post, web};
use coursework::{Settings, from_local, moved};
use school::School;
use school::setting::{Chosen, resolve, standing};
use serde::Deserialize;
use store::AssignmentChange;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::setting::{MadeAssignment, Place, find};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct CopyTo {
    class: Uuid,
    /// The day on which the copy is due, `2027-03-01`; its other dates move along.
    due_on: String,
}

/// Copies an assignment to a class one teaches, as a draft with its dates moved.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/copy",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)), request_body = CopyTo,
    responses((status = 200, body = MadeAssignment), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/assignments/{assignment}/copy")]
pub(crate) async fn copy_assignment(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
    body: web::Json<CopyTo>,
) -> Result<web::Json<MadeAssignment>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    let to = who.class(&school, body.class).await?;
    let unusable = |e: coursework::CalendarFault| ApiError::Unusable(format!("Due: {e}."));
    // By days, as the old class's clock counts them; then the same times on the new one's.
    let old_day = coursework::to_local(seen.settings.due, &class.time_zone).map_err(unusable)?;
    let days = days_between(old_day.get(..10).unwrap_or_default(), &body.due_on)
        .ok_or_else(|| ApiError::Unusable("Due: choose a day.".into()))?;
    let there = |at: OffsetDateTime| -> Result<OffsetDateTime, ApiError> {
        let there = moved(at, &class.time_zone, days).map_err(unusable)?;
        let local = coursework::to_local(there, &class.time_zone).map_err(unusable)?;
        from_local(&local, &to.time_zone).map_err(unusable)
    };
    let settings = Settings {
        opens: there(seen.settings.opens)?,
        due: there(seen.settings.due)?,
        closes: there(seen.settings.closes)?,
        ..seen.settings.clone()
    };
    // The newest of each question: the copy is given out later.
    let chosen: Vec<Chosen> = standing(&school, &seen)
        .await?
        .named()
        .into_iter()
        .map(|(slug, points)| Chosen {
            slug,
            points: Some(points),
        })
        .collect();
    let questions = match resolve(&school, None, &chosen).await? {
        Ok(questions) => questions,
        Err(slug) => {
            return Err(ApiError::Unusable(format!(
                "There is no question `{slug}` in the bank any more."
            )));
        }
    };
    let change = AssignmentChange {
        title: &seen.title,
        settings: &settings,
        for_groups: &[],
        for_people: &[],
        questions: &questions.set,
    };
    let id = store::create_assignment(&school.pool, to.id, &change).await?;
    Ok(web::Json(MadeAssignment { id }))
}

fn days_between(from: &str, to: &str) -> Option<i64> {
    let format = time::macros::format_description!("[year]-[month]-[day]");
    let from = time::Date::parse(from, format).ok()?;
    let to = time::Date::parse(to, format).ok()?;
    Some((to - from).whole_days())
}
