//! The student's own lines beside their slips.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SlipNote {
    /// The work or the run of practice.
    pub source: Uuid,
    pub event: u32,
    pub note: String,
}

pub async fn slip_notes(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<SlipNote>> {
    let rows = sqlx::query!(
        "select source, event, note from slip_notes where person_id = $1",
        person.0
    )
    .fetch_all(db)
    .await?;
    let note = |source, event, note| SlipNote {
        source,
        event: u32::try_from(event).unwrap_or(0),
        note,
    };
    Ok(rows
        .into_iter()
        .map(|r| note(r.source, r.event, r.note))
        .collect())
}

pub async fn put_slip_note(
    db: impl PgExecutor<'_>,
    person: PersonId,
    note: &SlipNote,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into slip_notes (person_id, source, event, note, written_at) values ($1, $2, $3, $4, $5)
         on conflict (person_id, source, event) do update set note = $4, written_at = $5",
        person.0,
        note.source,
        i32::try_from(note.event).unwrap_or(i32::MAX),
        note.note,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}
