//! Practice runs and their events.

use std::collections::BTreeMap;

use coursework::{PracticeEvent, PracticeGoal, RecordedPractice, Run};
use marking::Response;
use sqlx::{PgConnection, PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::digests::{FORM, written};
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored, from_stored, to_stored};
use crate::works::WorkId;
use crate::{Result, StoreError};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RunId(pub Uuid);

pub async fn start_run(
    db: impl PgExecutor<'_>,
    person: PersonId,
    goal: &PracticeGoal,
    now: OffsetDateTime,
) -> Result<RunId> {
    let id = sqlx::query_scalar!(
        "insert into practice_runs (id, person_id, goal, started_at) values ($1, $2, $3, $4) returning id",
        Uuid::now_v7(),
        person.0,
        serde_json::to_value(goal)?,
        now
    )
    .fetch_one(db)
    .await?;
    Ok(RunId(id))
}

/// The run that belongs to a work; the first call begins it.
pub async fn run_for_work(
    pool: &PgPool,
    person: PersonId,
    work: WorkId,
    goal: &PracticeGoal,
    now: OffsetDateTime,
) -> Result<RunId> {
    sqlx::query!(
        "insert into practice_runs (id, person_id, goal, started_at, work_id) values ($1, $2, $3, $4, $5)
         on conflict (work_id) where work_id is not null do nothing",
        Uuid::now_v7(),
        person.0,
        serde_json::to_value(goal)?,
        now,
        work.0
    )
    .execute(pool)
    .await?;
    let id = sqlx::query_scalar!("select id from practice_runs where work_id = $1", work.0)
        .fetch_one(pool)
        .await?;
    Ok(RunId(id))
}

/// The assignment that a run was set for, if it was.
pub async fn assignment_of_run(db: impl PgExecutor<'_>, run: RunId) -> Result<Option<Uuid>> {
    let found = sqlx::query_scalar!(
        "select w.assignment_id from practice_runs r join works w on w.id = r.work_id where r.id = $1",
        run.0
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// Runs in which a question was drawn.
pub async fn runs_on(db: impl PgExecutor<'_>, question: &str) -> Result<Vec<RunId>> {
    let ids = sqlx::query_scalar!(
        "select distinct run_id from practice_events where body->>'kind' = 'drawn' and body->>'question' = $1",
        question
    )
    .fetch_all(db)
    .await?;
    Ok(ids.into_iter().map(RunId).collect())
}

/// A run's goal, if the run is this person's.
pub async fn find_run(
    db: impl PgExecutor<'_>,
    run: Uuid,
    person: PersonId,
) -> Result<Option<(RunId, PracticeGoal)>> {
    let goal = sqlx::query_scalar!(
        "select goal from practice_runs where id = $1 and person_id = $2",
        run,
        person.0
    )
    .fetch_optional(db)
    .await?;
    Ok(match goal {
        Some(goal) => Some((RunId(run), serde_json::from_value(goal)?)),
        None => None,
    })
}

/// Locks a run until the transaction ends, and gives its events.
pub async fn lock_run(tx: &mut PgConnection, run: RunId) -> Result<Vec<RecordedPractice>> {
    sqlx::query!("select id from practice_runs where id = $1 for update", run.0)
        .fetch_one(&mut *tx)
        .await?;
    practice_events(tx, run).await
}

pub async fn practice_events(db: impl PgExecutor<'_>, run: RunId) -> Result<Vec<RecordedPractice>> {
    let rows = sqlx::query!(
        "select number, at, body from practice_events where run_id = $1 order by number",
        run.0
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| recorded(r.number, r.at, r.body))
        .collect()
}

fn recorded(number: i32, at: OffsetDateTime, body: serde_json::Value) -> Result<RecordedPractice> {
    Ok(RecordedPractice {
        number: event_from_stored(number)?,
        at,
        event: serde_json::from_value(body)?,
    })
}

/// The events of several runs, by run.
pub async fn practice_events_of(
    db: impl PgExecutor<'_>,
    runs: &[RunId],
) -> Result<BTreeMap<Uuid, Vec<RecordedPractice>>> {
    let runs: Vec<Uuid> = runs.iter().map(|r| r.0).collect();
    let rows = sqlx::query!(
        "select run_id, number, at, body from practice_events where run_id = any($1) order by run_id, number",
        &runs
    )
    .fetch_all(db)
    .await?;
    let mut found: BTreeMap<Uuid, Vec<RecordedPractice>> = BTreeMap::new();
    for r in rows {
        let one = recorded(r.number, r.at, r.body)?;
        found.entry(r.run_id).or_default().push(one);
    }
    Ok(found)
}

/// Adds the event after which a run stands as `after`. The run must be locked.
pub async fn append_practice(
    tx: &mut PgConnection,
    run: RunId,
    event: &PracticeEvent,
    after: &Run,
    now: OffsetDateTime,
) -> Result<()> {
    let number = event_to_stored(after.last_event)?;
    let done = sqlx::query!(
        "with changed as (
            update people set beside_at = beside_at + 1
            where id = (select person_id from practice_runs where id = $1)
         ), digested as (
            insert into run_digests (run_id, last_event, form, body) values ($1, $2, $5, $6)
            on conflict (run_id) do update
                set last_event = excluded.last_event, form = excluded.form, body = excluded.body
         )
         insert into practice_events (run_id, number, at, body) values ($1, $2, $3, $4) on conflict do nothing",
        run.0,
        number,
        now,
        serde_json::to_value(event)?,
        FORM,
        written(after)?
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict);
    }
    Ok(())
}

/// What stands in the fields of the `number`th question of a run, by part.
#[derive(Clone, Debug, PartialEq)]
pub struct EnteredInRun {
    pub number: usize,
    /// Counts the times it was kept; what a browser sends is based on one.
    pub revision: i64,
    pub parts: Vec<(String, Response)>,
}

pub async fn find_entered(db: impl PgExecutor<'_>, run: RunId) -> Result<Option<EnteredInRun>> {
    let row = sqlx::query!(
        "select number, entered, revision from practice_entered where run_id = $1",
        run.0
    )
    .fetch_optional(db)
    .await?;
    let Some(row) = row else { return Ok(None) };
    Ok(Some(EnteredInRun {
        number: from_stored(row.number)?,
        revision: row.revision,
        parts: serde_json::from_value(row.entered)?,
    }))
}

/// Keeps what stands in the fields, unless another window has written since the revision it is based on, or a later
/// question's fields stand there. Gives the new revision.
pub async fn put_entered(
    db: impl PgExecutor<'_>,
    run: RunId,
    entered: &EnteredInRun,
    now: OffsetDateTime,
) -> Result<Option<i64>> {
    let revision = sqlx::query_scalar!(
        "insert into practice_entered (run_id, number, entered, saved_at, revision) values ($1, $2, $3, $4, 1)
         on conflict (run_id) do update set
            number = $2, entered = $3, saved_at = $4,
            revision = case when practice_entered.number = $2 then practice_entered.revision + 1 else 1 end
         where practice_entered.number < $2 or (practice_entered.number = $2 and practice_entered.revision = $5)
         returning revision",
        run.0,
        to_stored(entered.number)?,
        serde_json::to_value(&entered.parts)?,
        now,
        entered.revision
    )
    .fetch_optional(db)
    .await?;
    Ok(revision)
}
