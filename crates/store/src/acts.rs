//! What teachers did that touches a student's work, score or account.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// What a teacher did that touches a student.
#[derive(Clone, Debug)]
pub struct Act<'a> {
    pub class: Uuid,
    pub assignment: Option<Uuid>,
    pub student: Option<PersonId>,
    pub by: PersonId,
    pub did: &'a str,
    pub why: &'a str,
}

/// # Errors
/// What the database said.
pub async fn put_act(db: impl PgExecutor<'_>, act: &Act<'_>, at: OffsetDateTime) -> Result<()> {
    sqlx::query!(
        "insert into acts (id, class_id, assignment_id, student_id, by_id, at, did, why)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        Uuid::now_v7(),
        act.class,
        act.assignment,
        act.student.map(|s| s.0),
        act.by.0,
        at,
        act.did,
        act.why
    )
    .execute(db)
    .await?;
    Ok(())
}

/// An act, with names.
#[derive(Clone, Debug)]
pub struct NamedAct {
    pub at: OffsetDateTime,
    pub by: String,
    pub did: String,
    pub why: String,
    pub student: Option<String>,
    pub assignment: Option<String>,
}

/// The latest acts in a class, the newest first.
///
/// # Errors
/// What the database said.
pub async fn acts_in(db: impl PgExecutor<'_>, class: Uuid, most: i64) -> Result<Vec<NamedAct>> {
    let rows = sqlx::query_as!(
        NamedAct,
        r#"select t.at, b.display_name as "by!", t.did as "did!", t.why as "why!",
            s.display_name as "student?", a.title as "assignment?"
           from acts t join people b on b.id = t.by_id
           left join people s on s.id = t.student_id
           left join assignments a on a.id = t.assignment_id
           where t.class_id = $1 order by t.at desc, t.id desc limit $2"#,
        class,
        most
    )
    .fetch_all(db)
    .await?;
    Ok(rows)
}
