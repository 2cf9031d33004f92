//! Paper copies, and what is written on them.

use serde_json::Value;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::{Person, PersonId, Role};
use crate::small::to_stored;
use crate::works::WorkId;

/// A student's paper copy of an assignment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PaperCopy {
    pub code: String,
    /// What its numbers are drawn from, where nothing was opened before.
    pub base: u64,
}

/// Gives somebody a paper copy, the one they have if there is one.
///
/// # Errors
/// What the database said.
pub async fn paper_copy(
    db: impl PgExecutor<'_>,
    assignment: Uuid,
    student: PersonId,
    new: &PaperCopy,
    now: OffsetDateTime,
) -> Result<PaperCopy> {
    let row = sqlx::query!(
        r#"with made as (
            insert into paper_copies (assignment_id, student_id, code, base, made_at) values ($1, $2, $3, $4, $5)
            on conflict (assignment_id, student_id) do nothing returning code, base
           )
           select code as "code!", base as "base!" from made
           union all select code, base from paper_copies where assignment_id = $1 and student_id = $2
           limit 1"#,
        assignment,
        student.0,
        new.code,
        new.base.cast_signed(),
        now
    )
    .fetch_one(db)
    .await?;
    Ok(PaperCopy {
        code: row.code,
        base: row.base.cast_unsigned(),
    })
}

/// What the numbers of a paper copy are drawn from, where somebody has one.
///
/// # Errors
/// What the database said.
pub async fn paper_base(db: impl PgExecutor<'_>, assignment: Uuid, student: PersonId) -> Result<Option<u64>> {
    let base = sqlx::query_scalar!(
        "select base from paper_copies where assignment_id = $1 and student_id = $2",
        assignment,
        student.0
    )
    .fetch_optional(db)
    .await?;
    Ok(base.map(i64::cast_unsigned))
}

/// The students whose work an assignment is, by name.
///
/// # Errors
/// What the database said.
pub async fn students_of_assignment(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<Person>> {
    let rows = sqlx::query!(
        "select p.id, p.user_name, p.display_name from may_work m join people p on p.id = m.person_id
         where m.assignment_id = $1 and m.role = 'student' order by p.display_name, p.id",
        assignment
    )
    .fetch_all(db)
    .await?;
    let student = |id, user_name, display_name| Person {
        id: PersonId(id),
        user_name,
        display_name,
        role: Role::Student,
    };
    Ok(rows
        .into_iter()
        .map(|r| student(r.id, r.user_name, r.display_name))
        .collect())
}

/// What was written on the paper copy of one question.
#[derive(Clone, Debug, PartialEq)]
pub struct PaperInk {
    pub question: usize,
    pub revision: i64,
    pub marks: Value,
}

/// # Errors
/// What the database said.
pub async fn paper_ink_of(db: impl PgExecutor<'_>, work: WorkId) -> Result<Vec<PaperInk>> {
    let rows = sqlx::query!(
        "select question, revision, marks from paper_ink where work_id = $1 order by question",
        work.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| PaperInk {
            question: usize::try_from(r.question).unwrap_or(0),
            revision: r.revision,
            marks: r.marks,
        })
        .collect())
}

/// Keeps what was written, if nobody else has written since the revision that it is based on. Gives the new revision, or
/// `None` if another window was first.
///
/// # Errors
/// What the database said.
pub async fn save_paper_ink(
    db: impl PgExecutor<'_>,
    work: WorkId,
    ink: &PaperInk,
    now: OffsetDateTime,
) -> Result<Option<i64>> {
    let revision = sqlx::query_scalar!(
        "insert into paper_ink (work_id, question, revision, marks, saved_at)
         select $1, $2, 1, $4, $5 where $3::bigint = 0
            or exists (select 1 from paper_ink where work_id = $1 and question = $2)
         on conflict (work_id, question) do update
         set revision = paper_ink.revision + 1, marks = $4, saved_at = $5
         where paper_ink.revision = $3
         returning revision",
        work.0,
        to_stored(ink.question)?,
        ink.revision,
        ink.marks,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(revision)
}
