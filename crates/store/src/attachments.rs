//! Files and recordings that belong to an answer a person marks.

use sqlx::{PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::to_stored;
use crate::works::WorkId;

/// A file with its bytes.
#[derive(Clone, Debug, PartialEq)]
pub struct Attachment {
    pub name: String,
    /// What it is by its content.
    pub media_type: String,
    pub bytes: Vec<u8>,
}

/// Keeps a file, unless the question has `most` already. The work is locked meanwhile, so that parallel ones count too.
///
/// # Errors
/// What the database said.
pub async fn add_attachment(
    pool: &PgPool,
    work: WorkId,
    question: usize,
    file: &Attachment,
    most: i64,
    now: OffsetDateTime,
) -> Result<Option<Uuid>> {
    let question = to_stored(question)?;
    let mut tx = pool.begin().await?;
    sqlx::query!("select id from works where id = $1 for update", work.0)
        .fetch_one(&mut *tx)
        .await?;
    let id = sqlx::query_scalar!(
        "insert into attachments (id, work_id, question, name, media_type, bytes, added_at)
         select $1, $2, $3, $4, $5, $6, $7
         where (select count(*) from attachments where work_id = $2 and question = $3) < $8
         returning id",
        Uuid::now_v7(),
        work.0,
        question,
        file.name,
        file.media_type,
        file.bytes,
        now,
        most
    )
    .fetch_optional(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(id)
}

/// A file, if it belongs to work of this student's.
///
/// # Errors
/// What the database said.
pub async fn find_attachment(
    db: impl PgExecutor<'_>,
    student: PersonId,
    id: Uuid,
) -> Result<Option<Attachment>> {
    let found = sqlx::query_as!(
        Attachment,
        "select a.name, a.media_type, a.bytes from attachments a join works w on w.id = a.work_id
         where a.id = $1 and w.student_id = $2",
        id,
        student.0
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// Whether all of these files belong to this work.
///
/// # Errors
/// What the database said.
pub async fn are_attached(db: impl PgExecutor<'_>, work: WorkId, ids: &[Uuid]) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select count(distinct id) as "count!" from attachments where work_id = $1 and id = any($2)"#,
        work.0,
        ids
    )
    .fetch_one(db)
    .await?;
    let mut wanted = ids.to_vec();
    wanted.sort_unstable();
    wanted.dedup();
    Ok(usize::try_from(found).unwrap_or(0) == wanted.len())
}

/// Deletes a file of this work.
///
/// # Errors
/// What the database said.
pub async fn delete_attachment(db: impl PgExecutor<'_>, work: WorkId, id: Uuid) -> Result<bool> {
    let done = sqlx::query!(
        "delete from attachments where id = $1 and work_id = $2",
        id,
        work.0
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}
