//! Points that a teacher keeps to give them out with the rest.

use coursework::PartPoints;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored, from_stored, to_stored};

/// Points for a question of a student's that are not given out yet.
#[derive(Clone, Debug, PartialEq)]
pub struct KeptMark {
    pub question: usize,
    pub student: PersonId,
    /// The number of the hand-in that was looked at.
    pub hand_in: u32,
    pub points: f64,
    pub parts: Vec<PartPoints>,
    pub note: String,
    pub by: PersonId,
    pub at: OffsetDateTime,
}

/// Keeps points, in the place of what was kept for the same answer.
///
/// # Errors
/// What the database said.
pub async fn keep_mark(db: impl PgExecutor<'_>, assignment: Uuid, mark: &KeptMark) -> Result<()> {
    sqlx::query!(
        "insert into kept_marks (assignment_id, question, student_id, hand_in, points, parts, note, by_id, at)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
         on conflict (assignment_id, question, student_id) do update set
            hand_in = excluded.hand_in, points = excluded.points, parts = excluded.parts, note = excluded.note,
            by_id = excluded.by_id, at = excluded.at",
        assignment,
        to_stored(mark.question)?,
        mark.student.0,
        event_to_stored(mark.hand_in)?,
        mark.points,
        Json(&mark.parts) as _,
        mark.note,
        mark.by.0,
        mark.at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// What is kept in an assignment, question by question.
///
/// # Errors
/// What the database said.
pub async fn kept_marks(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<KeptMark>> {
    let rows = sqlx::query!(
        r#"select question, student_id, hand_in, points, parts as "parts: Json<Vec<PartPoints>>", note, by_id, at
           from kept_marks where assignment_id = $1 order by question, student_id"#,
        assignment
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(KeptMark {
                question: from_stored(r.question)?,
                student: PersonId(r.student_id),
                hand_in: event_from_stored(r.hand_in)?,
                points: r.points,
                parts: r.parts.0,
                note: r.note,
                by: PersonId(r.by_id),
                at: r.at,
            })
        })
        .collect()
}

/// Forgets what is kept for an answer.
///
/// # Errors
/// What the database said.
pub async fn drop_kept_mark(
    db: impl PgExecutor<'_>,
    assignment: Uuid,
    question: usize,
    student: PersonId,
) -> Result<()> {
    sqlx::query!(
        "delete from kept_marks where assignment_id = $1 and question = $2 and student_id = $3",
        assignment,
        to_stored(question)?,
        student.0
    )
    .execute(db)
    .await?;
    Ok(())
}
