//! Giving points: at once, or kept and given out with the rest.

use actix_web::{post, put, web};
use coursework::{Command, PartPoints, Refusal, decide};
use school::{Desk, School, SchoolError, Stored};
use serde::{Deserialize, Serialize};
use store::{Act, KeptMark, Person};
use utoipa::ToSchema;
use uuid::Uuid;

use super::answer::{AnswerToMark, Counted, answer};
use crate::api::classes::note;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// Characters of a note on one answer: two pages.
const LONGEST_NOTE: usize = 4_000;
/// Parts of one question, and lines of a rubric, that are taken.
const MOST_PARTS: usize = 50;

#[derive(Deserialize, ToSchema)]
pub(crate) struct GivePoints {
    /// For the question as a whole; nothing where they come from its parts.
    #[serde(default)]
    points: Option<f64>,
    #[serde(default)]
    note: String,
    /// How they were given to the parts that a person marks, where they were.
    #[serde(default)]
    parts: Vec<PartToGive>,
    /// The number of the hand-in that was looked at.
    hand_in: u32,
    /// They are not given out yet, but released with the rest.
    #[serde(default)]
    keep: bool,
}

/// Points for a part that a person marks.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PartToGive {
    part: String,
    /// Nothing where they come from the lines that are met.
    #[serde(default)]
    points: Option<f64>,
    /// The lines of its rubric that were met, from 0.
    #[serde(default)]
    met: Vec<usize>,
}

/// What came of releasing what was kept.
#[derive(Serialize, ToSchema)]
pub(crate) struct Released {
    released: usize,
    /// Names of the students whose points stay kept, since they have handed in again.
    handed_in_since: Vec<String>,
}

/// Gives points for a question of a student's, with a note. They stand at once and can be changed; or they are kept, touch
/// nothing, and are released with the rest.
#[utoipa::path(path = "/api/marking/{id}/{question}/{student}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("student" = Uuid, Path)), request_body = GivePoints,
    responses((status = 200, body = AnswerToMark), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[put("/marking/{id}/{question}/{student}")]
pub(crate) async fn give_points(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, usize, Uuid)>,
    body: web::Json<GivePoints>,
) -> Result<web::Json<AnswerToMark>, ApiError> {
    let (id, question, student) = path.into_inner();
    let stored = who.assignment(&school, id).await?;
    let GivePoints {
        points,
        note,
        parts,
        hand_in,
        keep,
    } = body.into_inner();
    if note.chars().count() > LONGEST_NOTE {
        return Err(ApiError::Unusable(
            "This note is too long: 4,000 characters at most.".into(),
        ));
    }
    if parts.len() > MOST_PARTS || parts.iter().any(|p| p.met.len() > MOST_PARTS) {
        return Err(ApiError::Unusable("No question has so many parts.".into()));
    }
    let student = find_student(&school, id, student).await?;
    let mut desk = Desk::load(&school, id, student.id).await?;
    let counted = Counted::of(&school, question, &desk).await?;
    let part = |p: PartToGive| {
        let mut met = p.met;
        met.sort_unstable();
        met.dedup();
        PartPoints {
            points: counted.points_for(&p.part, p.points, &met),
            part: p.part,
            met,
        }
    };
    let parts: Vec<PartPoints> = parts.into_iter().map(part).collect();
    let points = points.unwrap_or_else(|| {
        let sum = counted.earned() + parts.iter().map(|p| p.points).sum::<f64>();
        (sum * 100.0).round() / 100.0
    });
    let mark = KeptMark {
        question,
        student: student.id,
        hand_in,
        points,
        parts,
        note: note.replace('\0', "").trim().to_owned(),
        by: who.0.id,
        at: school.now(),
    };
    if keep {
        decide(&desk.assignment, &desk.work, &command(&mark), desk.now)?;
        store::keep_mark(&school.pool, id, &mark).await?;
        let shown = answer(&school, question, &(student, desk), Some(&mark)).await?;
        return Ok(web::Json(shown));
    }
    give(&school, &who, &stored, &mut desk, &mark).await?;
    Ok(web::Json(
        answer(&school, question, &(student, desk), None).await?,
    ))
}

async fn find_student(school: &School, assignment: Uuid, student: Uuid) -> Result<Person, ApiError> {
    let students = store::students_at(&school.pool, assignment).await?;
    let found = students.into_iter().find(|s| s.id.0 == student);
    found.ok_or(ApiError::NotFound)
}

fn command(mark: &KeptMark) -> Command {
    Command::Score {
        question: mark.question,
        points: mark.points,
        note: mark.note.clone(),
        by: mark.by.0,
        parts: mark.parts.clone(),
        hand_in: mark.hand_in,
    }
}

async fn give(
    school: &School,
    who: &Teacher,
    stored: &Stored,
    desk: &mut Desk,
    mark: &KeptMark,
) -> Result<(), ApiError> {
    let before = desk.work.last_event;
    desk.run_for_teacher(school, &command(mark)).await?;
    store::drop_kept_mark(&school.pool, stored.head.id, mark.question, mark.student).await?;
    if desk.work.last_event == before {
        return Ok(());
    }
    let did = format!(
        "gave {} for question {}",
        points_said(mark.points),
        mark.question + 1
    );
    let act = Act {
        class: stored.head.class_id,
        assignment: Some(stored.head.id),
        student: Some(mark.student),
        by: who.0.id,
        did: &did,
        why: &mark.note,
    };
    note(school, act).await?;
    tracing::info!(assignment = %stored.head.id, question = mark.question, student = %mark.student.0,
        by = %who.0.id.0, points = mark.points, "marked by a teacher");
    Ok(())
}

fn points_said(points: f64) -> String {
    let rounded = (points * 100.0).round() / 100.0;
    #[expect(clippy::float_cmp, reason = "one point is exactly one")]
    let one = rounded == 1.0;
    format!("{rounded} {}", if one { "point" } else { "points" })
}

/// Gives out all points of an assignment that were kept. Where something was handed in since they were settled on, they
/// stay kept.
#[utoipa::path(path = "/api/marking/{id}/release", params(("id" = Uuid, Path)),
    responses((status = 200, body = Released), (status = 404, body = Problem)))]
#[post("/marking/{id}/release")]
pub(crate) async fn release_kept(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<Released>, ApiError> {
    let stored = who.assignment(&school, *id).await?;
    let mut released = 0;
    let mut handed_in_since = Vec::new();
    for mark in store::kept_marks(&school.pool, *id).await? {
        let student = find_student(&school, *id, mark.student.0).await?;
        let mut desk = Desk::load(&school, *id, mark.student).await?;
        // Whoever marked it gave the points, whoever releases them.
        match give(&school, &who, &stored, &mut desk, &mark).await {
            Ok(()) => released += 1,
            Err(ApiError::School(SchoolError::Refused(
                Refusal::HandedInAgain | Refusal::NothingHandedIn,
            ))) => {
                handed_in_since.push(student.display_name);
            }
            Err(other) => return Err(other),
        }
    }
    handed_in_since.dedup();
    Ok(web::Json(Released {
        released,
        handed_in_since,
    }))
}
