//! The student's own lines beside their slips.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored};

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
    let note = |source, event, note| {
        Ok(SlipNote {
            source,
            event: event_from_stored(event)?,
            note,
        })
    };
    rows.into_iter()
        .map(|r| note(r.source, r.event, r.note))
        .collect()
}

pub async fn put_slip_note(
    db: impl PgExecutor<'_>,
    person: PersonId,
    note: &SlipNote,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with changed as (update people set beside_at = beside_at + 1 where id = $1)
         insert into slip_notes (person_id, source, event, note, written_at) values ($1, $2, $3, $4, $5)
         on conflict (person_id, source, event) do update set note = $4, written_at = $5",
        person.0,
        note.source,
        event_to_stored(note.event)?,
        note.note,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}
