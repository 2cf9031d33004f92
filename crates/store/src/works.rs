use std::collections::BTreeMap;

use coursework::{Event, Recorded};
use sqlx::{PgConnection, PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::people::PersonId;
use crate::{Result, StoreError};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WorkId(pub Uuid);

/// What stands beside a work's events.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct WorkHead {
    pub seen_event: u32,
    /// The teacher's note as it was when it was last looked at.
    pub seen_note: Option<String>,
    pub result_seen: bool,
    pub active_seconds: i64,
}

/// A work whose clock has run out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ending {
    pub work: WorkId,
    pub assignment: Uuid,
    pub student: PersonId,
}

/// Longer than this without a sign of life, the page was left: the time is not counted.
const LONGEST_PAUSE_SECONDS: f64 = 150.0;

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
    rows.into_iter()
        .map(|r| recorded(r.number, r.at, r.body))
        .collect()
}

/// A student's work on one assignment.
#[derive(Clone, Debug)]
pub struct StudentWork {
    pub id: WorkId,
    pub assignment: Uuid,
    pub events: Vec<Recorded>,
}

/// All works of a student with their events, in two statements however many there are.
pub async fn works_of(pool: &PgPool, student: PersonId) -> Result<Vec<StudentWork>> {
    let rows = sqlx::query!(
        "select id, assignment_id from works where student_id = $1",
        student.0
    )
    .fetch_all(pool)
    .await?;
    let mut works: BTreeMap<Uuid, StudentWork> = BTreeMap::new();
    for r in rows {
        let work = StudentWork {
            id: WorkId(r.id),
            assignment: r.assignment_id,
            events: Vec::new(),
        };
        works.insert(r.id, work);
    }
    let rows = sqlx::query!(
        "select e.work_id, e.number, e.at, e.body
         from events e join works w on w.id = e.work_id
         where w.student_id = $1 order by e.work_id, e.number",
        student.0
    )
    .fetch_all(pool)
    .await?;
    for r in rows {
        // One that began since the first statement has its turn the next time.
        let Some(work) = works.get_mut(&r.work_id) else {
            continue;
        };
        work.events.push(recorded(r.number, r.at, r.body)?);
    }
    Ok(works.into_values().collect())
}

fn recorded(number: i32, at: OffsetDateTime, body: serde_json::Value) -> Result<Recorded> {
    let event: Event = serde_json::from_value(body)?;
    let number = u32::try_from(number).unwrap_or(0);
    Ok(Recorded { number, at, event })
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

pub async fn get_head(db: impl PgExecutor<'_>, work: WorkId) -> Result<WorkHead> {
    let r = sqlx::query!(
        "select seen_event, seen_note, result_seen, active_seconds from works where id = $1",
        work.0
    )
    .fetch_one(db)
    .await?;
    Ok(WorkHead {
        seen_event: u32::try_from(r.seen_event).unwrap_or(0),
        seen_note: r.seen_note,
        result_seen: r.result_seen,
        active_seconds: r.active_seconds,
    })
}

/// Keeps what is derived from the events: when the clock ends the work, and the recorded score in per cent.
pub async fn set_derived(
    db: impl PgExecutor<'_>,
    work: WorkId,
    ends_at: Option<OffsetDateTime>,
    recorded_percent: Option<f64>,
) -> Result<()> {
    sqlx::query!(
        "update works set ends_at = $2, recorded_percent = $3 where id = $1",
        work.0,
        ends_at,
        recorded_percent
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Works whose clock ran out by an instant, the oldest first.
pub async fn works_ended_by(db: impl PgExecutor<'_>, instant: OffsetDateTime) -> Result<Vec<Ending>> {
    let rows = sqlx::query!(
        "select id, assignment_id, student_id from works where ends_at <= $1 order by ends_at limit 100",
        instant
    )
    .fetch_all(db)
    .await?;
    let ending = |id, assignment, student| Ending {
        work: WorkId(id),
        assignment,
        student: PersonId(student),
    };
    Ok(rows
        .into_iter()
        .map(|r| ending(r.id, r.assignment_id, r.student_id))
        .collect())
}

/// Notes what a student has looked at: everything up to an event, the note as it stands, the result.
pub async fn set_seen(
    db: impl PgExecutor<'_>,
    work: WorkId,
    event: u32,
    note: Option<&str>,
    result: bool,
) -> Result<()> {
    sqlx::query!(
        "update works set seen_event = greatest(seen_event, $2), seen_note = coalesce($3, seen_note),
            result_seen = result_seen or $4
         where id = $1",
        work.0,
        i32::try_from(event).unwrap_or(i32::MAX),
        note,
        result
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A sign of life: the time since the last one is counted, unless it was long.
pub async fn note_activity(db: impl PgExecutor<'_>, work: WorkId, now: OffsetDateTime) -> Result<()> {
    sqlx::query!(
        "update works set active_at = $2, active_seconds = active_seconds + case
            when active_at is not null and extract(epoch from $2 - active_at) between 0 and $3::float8
            then extract(epoch from $2 - active_at)::bigint else 0 end
         where id = $1",
        work.0,
        now,
        LONGEST_PAUSE_SECONDS
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The recorded scores of everybody on an assignment, in per cent, without names.
pub async fn recorded_scores(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<f64>> {
    let scores = sqlx::query_scalar!(
        r#"select recorded_percent as "percent!" from works
           where assignment_id = $1 and recorded_percent is not null order by recorded_percent"#,
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(scores)
}

/// The works on an assignment with their students.
pub async fn works_on(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<(WorkId, PersonId)>> {
    let rows = sqlx::query!(
        "select id, student_id from works where assignment_id = $1 order by id",
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (WorkId(r.id), PersonId(r.student_id)))
        .collect())
}
