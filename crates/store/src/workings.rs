//! Notes, ink and pictures, kept with a question of a student's work.

use sqlx::{PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::small::to_stored;
use crate::works::WorkId;

/// Notes and ink of one question.
#[derive(Clone, Debug, PartialEq)]
pub struct Workings {
    pub revision: i64,
    pub notes: String,
    pub ink: serde_json::Value,
}

/// A picture without its bytes.
#[derive(Clone, Debug, PartialEq)]
pub struct PictureHead {
    pub id: Uuid,
    pub added_at: OffsetDateTime,
    pub size: i64,
}

pub async fn find_workings(
    db: impl PgExecutor<'_>,
    work: WorkId,
    question: usize,
) -> Result<Option<Workings>> {
    let row = sqlx::query!(
        "select revision, notes, ink from workings where work_id = $1 and question = $2",
        work.0,
        to_stored(question)?
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Workings {
        revision: r.revision,
        notes: r.notes,
        ink: r.ink,
    }))
}

/// The revision of what is written with a question; 0 where nothing is.
///
/// # Errors
/// What the database said.
pub async fn workings_revision(db: impl PgExecutor<'_>, work: WorkId, question: usize) -> Result<i64> {
    let found = sqlx::query_scalar!(
        "select revision from workings where work_id = $1 and question = $2",
        work.0,
        to_stored(question)?
    )
    .fetch_optional(db)
    .await?;
    Ok(found.unwrap_or(0))
}

/// Keeps notes and ink if nobody else has written since the revision they are based on. Gives the new revision, or
/// `None` if another window was first.
pub async fn save_workings(
    db: impl PgExecutor<'_>,
    work: WorkId,
    question: usize,
    workings: &Workings,
    now: OffsetDateTime,
) -> Result<Option<i64>> {
    let revision = sqlx::query_scalar!(
        "insert into workings (work_id, question, revision, notes, ink, saved_at)
         select $1, $2, 1, $4, $5, $6 where $3::bigint = 0
            or exists (select 1 from workings where work_id = $1 and question = $2)
         on conflict (work_id, question) do update
         set revision = workings.revision + 1, notes = $4, ink = $5, saved_at = $6
         where workings.revision = $3
         returning revision",
        work.0,
        to_stored(question)?,
        workings.revision,
        workings.notes,
        workings.ink,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(revision)
}

/// Keeps a picture, unless the question has `most` already. The work is locked meanwhile, so that parallel ones count too.
pub async fn add_picture(
    pool: &PgPool,
    work: WorkId,
    question: usize,
    media_type: &str,
    bytes: &[u8],
    most: i64,
    now: OffsetDateTime,
) -> Result<Option<Uuid>> {
    let question = to_stored(question)?;
    let mut tx = pool.begin().await?;
    sqlx::query!("select id from works where id = $1 for update", work.0)
        .fetch_one(&mut *tx)
        .await?;
    let id = sqlx::query_scalar!(
        "insert into pictures (id, work_id, question, media_type, bytes, added_at)
         select $1, $2, $3, $4, $5, $6
         where (select count(*) from pictures where work_id = $2 and question = $3) < $7
         returning id",
        Uuid::now_v7(),
        work.0,
        question,
        media_type,
        bytes,
        now,
        most
    )
    .fetch_optional(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(id)
}

pub async fn pictures_of(db: impl PgExecutor<'_>, work: WorkId, question: usize) -> Result<Vec<PictureHead>> {
    let rows = sqlx::query!(
        r#"select id, added_at, octet_length(bytes)::bigint as "size!" from pictures
           where work_id = $1 and question = $2 order by added_at, id"#,
        work.0,
        to_stored(question)?
    )
    .fetch_all(db)
    .await?;
    let head = |id, added_at, size| PictureHead { id, added_at, size };
    Ok(rows.into_iter().map(|r| head(r.id, r.added_at, r.size)).collect())
}

/// A picture's type and bytes, if it belongs to this work.
pub async fn find_picture(
    db: impl PgExecutor<'_>,
    work: WorkId,
    id: Uuid,
) -> Result<Option<(String, Vec<u8>)>> {
    let row = sqlx::query!(
        "select media_type, bytes from pictures where id = $1 and work_id = $2",
        id,
        work.0
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.media_type, r.bytes)))
}

pub async fn delete_picture(db: impl PgExecutor<'_>, work: WorkId, id: Uuid) -> Result<bool> {
    let done = sqlx::query!("delete from pictures where id = $1 and work_id = $2", id, work.0)
        .execute(db)
        .await?;
    Ok(done.rows_affected() > 0)
}

/// Whether a student lets the teacher see the workings of a work.
///
/// # Errors
/// What the database said.
pub async fn shares_workings(db: impl PgExecutor<'_>, work: WorkId) -> Result<bool> {
    let shares = sqlx::query_scalar!("select shares_workings from works where id = $1", work.0)
        .fetch_optional(db)
        .await?;
    Ok(shares.unwrap_or(false))
}

/// # Errors
/// What the database said.
pub async fn set_shares_workings(db: impl PgExecutor<'_>, work: WorkId, shares: bool) -> Result<()> {
    sqlx::query!(
        "update works set shares_workings = $2 where id = $1",
        work.0,
        shares
    )
    .execute(db)
    .await?;
    Ok(())
}
