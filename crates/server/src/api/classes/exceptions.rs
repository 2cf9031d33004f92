//! Exceptions: moved dates, more time, hand-ins or sets for one student or several, with a reason.

use actix_web::{post, web};
use coursework::{Command, Exception, from_local};
use school::{Desk, School};
use serde::{Deserialize, Serialize};
use store::{Act, MemberRole};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::setting::{Place, find};
use super::{note, on_class};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

const LONGEST_WHY: usize = 500;

/// What one or several students get that the others have not.
#[derive(Deserialize, ToSchema)]
pub(crate) struct GiveException {
    students: Vec<Uuid>,
    /// `2027-03-01T23:59`, on the class's clock; nothing leaves it.
    #[serde(default)]
    due: Option<String>,
    #[serde(default)]
    closes: Option<String>,
    /// Per cent of the time limit: 125 is a quarter more.
    #[serde(default)]
    time_percent: Option<u32>,
    #[serde(default)]
    more_hand_ins: u32,
    #[serde(default)]
    more_sets: u32,
    why: String,
    #[serde(default)]
    tell_why: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ExceptionsGiven {
    given: usize,
}

/// Gives an exception to one student or several, with a reason. They are told what, and why only if that is wished.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/exceptions",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)), request_body = GiveException,
    responses((status = 200, body = ExceptionsGiven), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[post("/classes/{id}/assignments/{assignment}/exceptions")]
pub(crate) async fn give_exception(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
    body: web::Json<GiveException>,
) -> Result<web::Json<ExceptionsGiven>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    let body = body.into_inner();
    let why = body.why.trim();
    if why.is_empty() || why.chars().count() > LONGEST_WHY || why.contains('\0') {
        return Err(ApiError::Unusable(
            "Write a reason, of 500 characters at most.".into(),
        ));
    }
    let date = |local: &Option<String>| -> Result<Option<OffsetDateTime>, ApiError> {
        let read = local.as_deref().map(|l| from_local(l, &class.time_zone));
        read.transpose()
            .map_err(|e| ApiError::Unusable(format!("The date: {e}.")))
    };
    let given = Exception {
        due: date(&body.due)?,
        closes: date(&body.closes)?,
        time_percent: body.time_percent,
        more_hand_ins: body.more_hand_ins,
        more_sets: body.more_sets,
        why: why.to_owned(),
        tell_why: body.tell_why,
        by: Some(who.0.id.0),
    };
    let members = store::members_of(&school.pool, class.id).await?;
    let is_student = |id: &&Uuid| {
        let found = members.iter().find(|m| m.person.id.0 == **id);
        found.is_some_and(|m| m.role == MemberRole::Student && m.left_at.is_none())
    };
    if body.students.is_empty() || !body.students.iter().all(|s| is_student(&s)) {
        return Err(ApiError::Unusable("Choose students of this class.".into()));
    }
    let command = Command::GiveException(given);
    for student in &body.students {
        let student = store::PersonId(*student);
        let mut desk = Desk::load(&school, seen.id, student).await?;
        if desk.work_id.is_none() {
            store::start_work(&school.pool, seen.id, student).await?;
            desk = Desk::load(&school, seen.id, student).await?;
        }
        desk.run_for_teacher(&school, &command).await?;
        let act = on_class(class.id, &who, "gave an exception");
        let (assignment, student) = (Some(seen.id), Some(student));
        note(
            &school,
            Act {
                assignment,
                student,
                why,
                ..act
            },
        )
        .await?;
    }
    Ok(web::Json(ExceptionsGiven {
        given: body.students.len(),
    }))
}
