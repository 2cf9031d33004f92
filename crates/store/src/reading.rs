//! Which pages a student has opened and read, and which typing tasks were done. Neither is scored.

use sqlx::PgExecutor;
use time::OffsetDateTime;

use crate::Result;
use crate::people::PersonId;
use crate::small::{from_stored, to_stored};

/// A page as one student left it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PageRead {
    pub skill: String,
    /// The step to open it at again, from 0.
    pub step: usize,
    pub opened_at: OffsetDateTime,
    /// When it was first read to the end.
    pub read_at: Option<OffsetDateTime>,
}

pub async fn pages_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<PageRead>> {
    let rows = sqlx::query!(
        "select skill, step, opened_at, read_at from pages_read where person_id = $1 order by skill",
        person.0
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(PageRead {
                skill: r.skill,
                step: from_stored(r.step)?,
                opened_at: r.opened_at,
                read_at: r.read_at,
            })
        })
        .collect()
}

/// Keeps where a page was left; once read to the end it stays read.
pub async fn put_page(
    db: impl PgExecutor<'_>,
    person: PersonId,
    skill: &str,
    step: usize,
    read: bool,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with changed as (update people set beside_at = beside_at + 1 where id = $1)
         insert into pages_read (person_id, skill, step, opened_at, read_at)
         values ($1, $2, $3, $4::timestamptz, case when $5 then $4::timestamptz end)
         on conflict (person_id, skill) do update
         set step = $3, read_at = coalesce(pages_read.read_at, excluded.read_at)",
        person.0,
        skill,
        to_stored(step)?,
        now,
        read
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The typing tasks that were done.
pub async fn typing_done(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<String>> {
    let tasks = sqlx::query_scalar!("select task from typing_done where person_id = $1", person.0)
        .fetch_all(db)
        .await?;
    Ok(tasks)
}

pub async fn put_typing_done(
    db: impl PgExecutor<'_>,
    person: PersonId,
    task: &str,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into typing_done (person_id, task, done_at) values ($1, $2, $3) on conflict do nothing",
        person.0,
        task,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}
