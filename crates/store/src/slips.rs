//! Slips: the checks that they come from, and the student's own lines beside them.

use std::collections::BTreeMap;

use coursework::Recorded;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored};
use crate::visit::by_work;
use crate::works::WorkId;

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

/// Checks of works, each by the number of its event, with every correction of a key in those works: all that says what
/// they count as now. By work, in order.
///
/// # Errors
/// What the database said.
pub async fn checks_at(
    db: impl PgExecutor<'_>,
    places: &[(WorkId, u32)],
) -> Result<BTreeMap<Uuid, Vec<Recorded>>> {
    let works: Vec<Uuid> = places.iter().map(|(work, _)| work.0).collect();
    let numbers = places
        .iter()
        .map(|(_, n)| event_to_stored(*n))
        .collect::<Result<Vec<i32>>>()?;
    let rows = sqlx::query!(
        r#"select e.work_id, e.number, e.at, e.body as "body: Json<coursework::Event>" from events e
           where (e.work_id, e.number) in (select work, number from unnest($1::uuid[], $2::int[]) as k (work, number))
              or (e.work_id = any($1) and e.body->>'kind' = 'key_corrected')
           order by e.work_id, e.number"#,
        &works,
        &numbers
    )
    .fetch_all(db)
    .await?;
    by_work!(rows)
}
