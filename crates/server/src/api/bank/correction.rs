//! A question in use is corrected: whose scores change is said before it is done.

use actix_web::{get, post, web};
use school::School;
use school::regrade::{self, RegradeError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::api::classes::note;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// Whose scores a correction would change, before it is made.
#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionView {
    /// Assignments of yours that use an older version.
    assignments: Vec<String>,
    changes: Vec<CorrectionChange>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionChange {
    student: String,
    assignment: String,
    before: f64,
    after: f64,
}

fn refused(error: RegradeError) -> ApiError {
    match error {
        RegradeError::School(e) => e.into(),
        RegradeError::Store(e) => e.into(),
        RegradeError::NoQuestion(_) => ApiError::NotFound,
        // Said as it is: what to do about it stands in it.
        other => ApiError::Unusable(format!("{other}")),
    }
}

/// The assignments of this teacher's that use an older version of a question.
async fn behind(school: &School, who: &Teacher, slug: &str) -> Result<Vec<Uuid>, ApiError> {
    let newest = store::find_question_by_slug(&school.pool, slug)
        .await?
        .ok_or(ApiError::NotFound)?;
    let mine = store::taught_by(&school.pool, who.0.id).await?;
    let uses = store::uses_of(&school.pool, slug).await?;
    let mut ids: Vec<Uuid> = uses
        .into_iter()
        .filter(|u| u.version != newest && mine.contains(&u.assignment))
        .map(|u| u.assignment)
        .collect();
    ids.dedup();
    Ok(ids)
}

/// Says whose scores change, and by how much, if the newest version is put in place where an older one is used.
#[utoipa::path(path = "/api/bank/{slug}/correction", params(("slug" = String, Path)),
    responses((status = 200, body = CorrectionView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/bank/{slug}/correction")]
pub(crate) async fn get_correction(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
) -> Result<web::Json<CorrectionView>, ApiError> {
    let among = behind(&school, &who, &slug).await?;
    let mut assignments = Vec::new();
    for id in &among {
        let stored = school.assignment(*id, None).await?;
        assignments.push(format!("{} ({})", stored.head.title, stored.head.class_title));
    }
    let mut changes = Vec::new();
    for change in regrade::preview(&school, &slug, &among).await.map_err(refused)? {
        let student = store::find_person(&school.pool, change.student).await?;
        let stored = school.assignment(change.assignment, None).await?;
        changes.push(CorrectionChange {
            student: student.map(|p| p.display_name).unwrap_or_default(),
            assignment: stored.head.title.clone(),
            before: change.before,
            after: change.after,
        });
    }
    Ok(web::Json(CorrectionView { assignments, changes }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct MakeCorrection {
    why: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionMade {
    /// Works that are marked differently now.
    changed: usize,
}

/// Puts the newest version in place where this teacher's assignments use an older one, and marks every response anew. The
/// students concerned are told.
#[utoipa::path(path = "/api/bank/{slug}/correction", params(("slug" = String, Path)), request_body = MakeCorrection,
    responses((status = 200, body = CorrectionMade), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/{slug}/correction")]
pub(crate) async fn make_correction(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<MakeCorrection>,
) -> Result<web::Json<CorrectionMade>, ApiError> {
    let why = body.why.trim();
    if why.is_empty() || why.chars().count() > 500 || why.contains('\0') {
        return Err(ApiError::Unusable(
            "Write a reason, of 500 characters at most.".into(),
        ));
    }
    let among = behind(&school, &who, &slug).await?;
    let changes = regrade::preview(&school, &slug, &among).await.map_err(refused)?;
    let by = regrade::Corrector { who: who.0.id.0, why };
    let done = regrade::correct(&school, &slug, Some(&among), Some(by))
        .await
        .map_err(refused)?;
    for change in changes {
        let Some(found) = store::find_set_assignment(&school.pool, change.assignment).await? else {
            continue;
        };
        let act = store::Act {
            class: found.class,
            assignment: Some(change.assignment),
            student: Some(change.student),
            by: who.0.id,
            did: "corrected a question",
            why,
        };
        note(&school, act).await?;
    }
    Ok(web::Json(CorrectionMade {
        changed: done.changed,
    }))
}
