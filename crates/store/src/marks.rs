//! Passages of reading pages that students marked.

use marking::Quote;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// A marked passage with its note.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PageMark {
    pub id: Uuid,
    pub skill: String,
    pub quote: Quote,
    pub note: String,
    pub made_at: OffsetDateTime,
    pub changed_at: OffsetDateTime,
}

/// All that somebody marked, the oldest first; of one page, or of all.
///
/// # Errors
/// What the database said.
pub async fn page_marks(
    db: impl PgExecutor<'_>,
    person: PersonId,
    skill: Option<&str>,
) -> Result<Vec<PageMark>> {
    let rows = sqlx::query!(
        r#"select id, skill, quote as "quote: Json<Quote>", note, made_at, changed_at from page_marks
           where person_id = $1 and ($2::text is null or skill = $2) order by made_at, id"#,
        person.0,
        skill
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| PageMark {
            id: r.id,
            skill: r.skill,
            quote: r.quote.0,
            note: r.note,
            made_at: r.made_at,
            changed_at: r.changed_at,
        })
        .collect())
}

/// Marks a passage, unless there are as many marks as there may be. Says whether it was marked.
///
/// # Errors
/// What the database said.
pub async fn add_page_mark(
    db: impl PgExecutor<'_>,
    person: PersonId,
    mark: &PageMark,
    most: i64,
) -> Result<bool> {
    let done = sqlx::query!(
        "insert into page_marks (id, person_id, skill, quote, note, made_at, changed_at)
         select $1, $2, $3, $4, $5, $6, $6 where (select count(*) from page_marks where person_id = $2) < $7",
        mark.id,
        person.0,
        mark.skill,
        Json(&mark.quote) as _,
        mark.note,
        mark.made_at,
        most
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Writes the note of a mark anew; says whether there is such a mark of theirs.
///
/// # Errors
/// What the database said.
pub async fn set_mark_note(
    db: impl PgExecutor<'_>,
    person: PersonId,
    id: Uuid,
    note: &str,
    now: OffsetDateTime,
) -> Result<bool> {
    let done = sqlx::query!(
        "update page_marks set note = $3, changed_at = $4 where id = $1 and person_id = $2",
        id,
        person.0,
        note,
        now
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// # Errors
/// What the database said.
pub async fn drop_page_mark(db: impl PgExecutor<'_>, person: PersonId, id: Uuid) -> Result<bool> {
    let done = sqlx::query!(
        "delete from page_marks where id = $1 and person_id = $2",
        id,
        person.0
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}
