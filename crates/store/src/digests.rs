//! Works and runs of practice without what was entered in them, as they are written down beside their events: enough for
//! the pages that look across all of a student's work, without reading all of it.

use std::collections::BTreeMap;

use coursework::{Assignment, Run, SheetCell, Work, sheet_cell, time_up_due};
use serde::Serialize;
use serde::de::DeserializeOwned;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::practice::RunId;
use crate::small::{event_from_stored, event_to_stored};
use crate::works::WorkId;

/// How a digest is written: MessagePack of [`Work`] or [`Run`]. To be raised whenever what they write down changes, so that
/// older ones are made anew and not misread.
pub const FORM: i32 = 3;

pub(crate) fn written(state: &impl Serialize) -> Result<Vec<u8>> {
    rmp_serde::to_vec(state).map_err(|e| crate::StoreError::Unwritable(e.to_string()))
}

/// What cannot be read is made anew.
fn read<T: DeserializeOwned>(form: i32, body: &[u8]) -> Option<T> {
    (form == FORM).then(|| rmp_serde::from_slice(body).ok()).flatten()
}

/// The digest of a work, at an event and a version of its assignment.
#[derive(Clone, Debug, PartialEq)]
pub struct WorkDigest {
    pub work: WorkId,
    pub last_event: u32,
    pub version: i32,
    pub state: Work,
}

/// The digests of works that have one which can be read, by work.
///
/// # Errors
/// What the database said.
pub async fn digests_of(db: impl PgExecutor<'_>, works: &[WorkId]) -> Result<BTreeMap<Uuid, WorkDigest>> {
    let works: Vec<Uuid> = works.iter().map(|w| w.0).collect();
    let rows = sqlx::query!(
        "select work_id, last_event, version, form, body from work_digests where work_id = any($1)",
        &works
    )
    .fetch_all(db)
    .await?;
    let mut found = BTreeMap::new();
    for r in rows {
        if let Some(state) = read(r.form, &r.body) {
            let digest = WorkDigest {
                work: WorkId(r.work_id),
                last_event: event_from_stored(r.last_event)?,
                version: r.version,
                state,
            };
            found.insert(r.work_id, digest);
        }
    }
    Ok(found)
}

/// What is derived from a work's events.
#[derive(Clone, Debug)]
pub struct Derived<'a> {
    pub state: &'a Work,
    /// When the clock has to end it.
    pub ends_at: Option<OffsetDateTime>,
    /// Nothing while a person still has to decide on a part of it.
    pub recorded_percent: Option<f64>,
    /// What a class's sheet shows of it.
    pub sheet: SheetCell,
}

impl<'a> Derived<'a> {
    pub fn of(assignment: &Assignment, state: &'a Work) -> Self {
        let counting = state.counting_hand_in(assignment);
        Derived {
            state,
            ends_at: time_up_due(assignment, state),
            recorded_percent: counting
                .filter(|h| h.recorded.waiting == 0.0)
                .map(|h| h.recorded.percent()),
            sheet: sheet_cell(assignment, state),
        }
    }
}

/// Writes down what is derived from a work's events, folded with a version of its assignment, unless either has moved on
/// meanwhile: then it was written by what moved it. Says whether it was written.
///
/// # Errors
/// What the database said.
pub async fn put_derived(
    db: impl PgExecutor<'_>,
    work: WorkId,
    version: i32,
    derived: Derived<'_>,
) -> Result<bool> {
    let done = sqlx::query_file!(
        "src/sql/put_derived.sql",
        work.0,
        event_to_stored(derived.state.last_event)?,
        version,
        FORM,
        written(derived.state)?,
        derived.ends_at,
        derived.recorded_percent,
        serde_json::to_value(&derived.sheet)?
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// A run of practice as its digest has it.
#[derive(Clone, Debug, PartialEq)]
pub struct DigestedRun {
    pub id: RunId,
    /// The work that it was set for, if it was.
    pub work: Option<WorkId>,
    /// `None` where there is no digest of its last event that can be read.
    pub state: Option<Run>,
}

/// The runs of a person in which something happened, the oldest first.
///
/// # Errors
/// What the database said.
pub async fn runs_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<DigestedRun>> {
    let rows = sqlx::query!(
        r#"select r.id, r.work_id, l.last_event as "last_event!", d.last_event as "digest_at?", d.form as "form?", d.body as "body?"
           from practice_runs r
           join lateral (select max(number) as last_event from practice_events e where e.run_id = r.id) l
             on l.last_event is not null
           left join run_digests d on d.run_id = r.id
           where r.person_id = $1 order by r.started_at, r.id"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    let mut runs = Vec::with_capacity(rows.len());
    for r in rows {
        let standing = r.form.zip(r.body).filter(|_| r.digest_at == Some(r.last_event));
        runs.push(DigestedRun {
            id: RunId(r.id),
            work: r.work_id.map(WorkId),
            state: standing.and_then(|(form, body)| read(form, &body)),
        });
    }
    Ok(runs)
}

/// Writes down a run's digest, unless the run has moved on.
///
/// # Errors
/// What the database said.
pub async fn put_run_digest(db: impl PgExecutor<'_>, run: RunId, state: &Run) -> Result<bool> {
    let done = sqlx::query!(
        "insert into run_digests (run_id, last_event, form, body)
         select $1, $2, $3, $4 where $2 = (select max(number) from practice_events where run_id = $1)
         on conflict (run_id) do update
            set last_event = excluded.last_event, form = excluded.form, body = excluded.body
            where run_digests.last_event <= excluded.last_event",
        run.0,
        event_to_stored(state.last_event)?,
        FORM,
        written(state)?
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// A work to be looked at again.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WorkPlace {
    pub work: WorkId,
    pub assignment: Uuid,
}

/// Works in the order of their ids, after one of them; for going through all of them.
///
/// # Errors
/// What the database said.
pub async fn works_after(
    db: impl PgExecutor<'_>,
    after: Option<WorkId>,
    most: i64,
) -> Result<Vec<WorkPlace>> {
    let rows = sqlx::query!(
        "select id, assignment_id from works where $1::uuid is null or id > $1 order by id limit $2",
        after.map(|w| w.0),
        most
    )
    .fetch_all(db)
    .await?;
    let place = |(id, assignment)| WorkPlace {
        work: WorkId(id),
        assignment,
    };
    Ok(rows.into_iter().map(|r| place((r.id, r.assignment_id))).collect())
}

/// Runs in the order of their ids, after one of them.
///
/// # Errors
/// What the database said.
pub async fn runs_after(db: impl PgExecutor<'_>, after: Option<RunId>, most: i64) -> Result<Vec<RunId>> {
    let ids = sqlx::query_scalar!(
        "select id from practice_runs where $1::uuid is null or id > $1 order by id limit $2",
        after.map(|r| r.0),
        most
    )
    .fetch_all(db)
    .await?;
    Ok(ids.into_iter().map(RunId).collect())
}
