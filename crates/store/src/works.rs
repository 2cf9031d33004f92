use coursework::{Event, Recorded};
use sqlx::{PgConnection, PgExecutor};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::people::PersonId;
use crate::{Result, StoreError};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WorkId(pub Uuid);

pub async fn find_work(
    db: impl PgExecutor<'_>,
    assignment: Uuid,
    student: PersonId,
) -> Result<Option<WorkId>> {
    let id = sqlx::query_scalar!(
        "select id from works where assignment_id = $1 and student_id = $2",
        assignment,
        student.0
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(WorkId))
}

/// The work of a student on an assignment, made if it is not there.
pub async fn start_work(db: impl PgExecutor<'_>, assignment: Uuid, student: PersonId) -> Result<WorkId> {
    let id = sqlx::query_scalar!(
        "insert into works (id, assignment_id, student_id) values ($1, $2, $3)
         on conflict (assignment_id, student_id) do update set student_id = excluded.student_id
         returning id",
        Uuid::now_v7(),
        assignment,
        student.0
    )
    .fetch_one(db)
    .await?;
    Ok(WorkId(id))
}

/// Locks the work until the transaction ends, and gives its events.
pub async fn lock_work(tx: &mut PgConnection, work: WorkId) -> Result<Vec<Recorded>> {
    sqlx::query!("select id from works where id = $1 for update", work.0)
        .fetch_one(&mut *tx)
        .await?;
    events_of(tx, work).await
}

pub async fn events_of(db: impl PgExecutor<'_>, work: WorkId) -> Result<Vec<Recorded>> {
    let rows = sqlx::query!(
        "select number, at, body from events where work_id = $1 order by number",
        work.0
    )
    .fetch_all(db)
    .await?;
    let mut events = Vec::with_capacity(rows.len());
    for r in rows {
        let event: Event = serde_json::from_value(r.body)?;
        events.push(Recorded {
            number: u32::try_from(r.number).unwrap_or(0),
            at: r.at,
            event,
        });
    }
    Ok(events)
}

/// Adds events after number `last`. The work must be locked; a number that is taken is a conflict.
pub async fn append(
    tx: &mut PgConnection,
    work: WorkId,
    last: u32,
    events: &[Event],
    now: OffsetDateTime,
) -> Result<()> {
    for (number, event) in (last + 1..).zip(events) {
        let number = i32::try_from(number).map_err(|_| StoreError::Conflict)?;
        let done = sqlx::query!(
            "insert into events (work_id, number, at, body) values ($1, $2, $3, $4) on conflict do nothing",
            work.0,
            number,
            now,
            serde_json::to_value(event)?
        )
        .execute(&mut *tx)
        .await?;
        if done.rows_affected() == 0 {
            return Err(StoreError::Conflict);
        }
    }
    Ok(())
}
