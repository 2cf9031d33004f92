use std::collections::BTreeMap;

use coursework::{Event, Recorded};
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::digests::{Derived, FORM, written};
use crate::drafts::Draft;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored, to_stored};
use crate::visit::{VisitedWork, head_columns};
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
pub(crate) const LONGEST_PAUSE_SECONDS: f64 = 150.0;

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

fn recorded(number: i32, at: OffsetDateTime, body: serde_json::Value) -> Result<Recorded> {
    let event: Event = serde_json::from_value(body)?;
    Ok(Recorded {
        number: event_from_stored(number)?,
        at,
        event,
    })
}

/// Events to be added to a student's work, and what is derived from them.
#[derive(Clone, Debug)]
pub struct Append<'a> {
    pub assignment: Uuid,
    /// The version of the assignment that it was decided on.
    pub version: i32,
    pub student: PersonId,
    /// `None` where there is none yet.
    pub work: Option<WorkId>,
    /// The number of the last event that it was decided on.
    pub last: u32,
    pub events: &'a [Event],
    /// What they come to, with all that were before.
    pub after: Derived<'a>,
    pub at: OffsetDateTime,
    /// The student did it: a sign of life.
    pub by_student: bool,
    /// The hash of the token of the session that asks, where it was not looked up yet.
    pub session: Option<&'a [u8]>,
}

/// What came of adding events.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Appended {
    pub work: WorkId,
    /// How often drafts of the work had been kept by then.
    pub drafts_at: i64,
}

/// Adds events and what is derived from them, in one statement.
///
/// # Errors
/// [`StoreError::Conflict`] where the work or the assignment has moved on, or the session is not its student's: load and
/// decide again.
pub async fn append(db: impl PgExecutor<'_>, a: &Append<'_>) -> Result<Appended> {
    let before = event_to_stored(a.last)?;
    let mut numbers = Vec::with_capacity(a.events.len());
    let mut bodies = Vec::with_capacity(a.events.len());
    for (number, event) in (a.last + 1..).zip(a.events) {
        numbers.push(event_to_stored(number)?);
        bodies.push(Json(event));
    }
    let last = *numbers.last().ok_or(StoreError::Conflict)?;
    let digest = written(a.after.state)?;
    let sheet = serde_json::to_value(&a.after.sheet)?;
    let Some(work) = a.work else {
        let work = WorkId(Uuid::now_v7());
        let begun = sqlx::query_file!(
            "src/sql/begin.sql",
            work.0,
            a.assignment,
            a.student.0,
            last,
            a.after.ends_at,
            a.after.recorded_percent,
            a.version,
            a.at,
            &numbers,
            &bodies as _,
            FORM,
            digest,
            sheet
        );
        let all = begun.execute(db).await?.rows_affected() == u64::try_from(a.events.len()).unwrap_or(0);
        return if all {
            Ok(Appended { work, drafts_at: 0 })
        } else {
            Err(StoreError::Conflict)
        };
    };
    let pause = a.by_student.then_some(LONGEST_PAUSE_SECONDS);
    let moved = sqlx::query_file_scalar!(
        "src/sql/append.sql",
        work.0,
        before,
        last,
        a.after.ends_at,
        a.after.recorded_percent,
        a.version,
        a.at,
        &numbers,
        pause,
        &bodies as _,
        a.session,
        a.assignment,
        a.student.0,
        FORM,
        digest,
        sheet
    );
    let drafts_at = moved.fetch_optional(db).await?.ok_or(StoreError::Conflict)?;
    Ok(Appended { work, drafts_at })
}

/// Locks a work until the transaction ends, if it is still at an event; gives the drafts in it.
///
/// # Errors
/// [`StoreError::Conflict`] where it has moved on.
pub async fn lock_at(tx: &mut PgConnection, work: WorkId, last: u32) -> Result<Vec<Draft>> {
    let held = sqlx::query_scalar!(
        "select id from works where id = $1 and last_event = $2 for update",
        work.0,
        event_to_stored(last)?
    )
    .fetch_optional(&mut *tx)
    .await?;
    held.ok_or(StoreError::Conflict)?;
    crate::drafts::drafts_of(tx, work).await
}

/// Where a student's work on an assignment stands, without its events and drafts.
pub async fn visited_work(
    db: impl PgExecutor<'_>,
    assignment: Uuid,
    student: PersonId,
) -> Result<Option<VisitedWork>> {
    let found = sqlx::query!(
        r#"select id as "work_id?", last_event as "last_event?", drafts_at as "drafts_at?",
            seen_event as "seen_event?", seen_note, result_seen as "result_seen?", active_seconds as "active_seconds?"
           from works where assignment_id = $1 and student_id = $2"#,
        assignment,
        student.0
    )
    .fetch_optional(db)
    .await?;
    match found {
        Some(r) => head_columns!(r).work(),
        None => Ok(None),
    }
}

/// Waits until every statement that had begun before this one is over: what they saw may have been older.
pub async fn wait_for_earlier(pool: &PgPool) -> Result<()> {
    for _ in 0..500 {
        let earlier = sqlx::query_scalar!(
            r#"select count(*) as "count!" from pg_stat_activity
               where datname = current_database() and pid <> pg_backend_pid() and state <> 'idle'
                 and backend_type = 'client backend' and xact_start < now()"#
        )
        .fetch_one(pool)
        .await?;
        if earlier == 0 {
            return Ok(());
        }
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
    Ok(())
}

/// Takes works whose clock ran out by an instant, the oldest first: each is taken by one server, and comes back after
/// `again` if it could not be ended, so that it cannot hold up the others.
pub async fn take_ended(
    db: impl PgExecutor<'_>,
    instant: OffsetDateTime,
    again: OffsetDateTime,
) -> Result<Vec<Ending>> {
    let rows = sqlx::query!(
        "update works set not_before = $2 where id in (
            select id from works where ends_at <= $1 and (not_before is null or not_before <= $1)
            order by ends_at limit 100 for update skip locked)
         returning id, assignment_id, student_id",
        instant,
        again
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
        event_to_stored(event)?,
        note,
        result
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A sign of life, with the question one is at where that is known: the time since the last one is counted, unless it was
/// long.
pub async fn note_activity(
    db: impl PgExecutor<'_>,
    work: WorkId,
    question: Option<usize>,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with since as (
            select id, case when active_at is not null and extract(epoch from $2 - active_at) between 0 and $3::float8
                then extract(epoch from $2 - active_at)::bigint else 0 end as seconds
            from works where id = $1)
         update works w set active_at = $2, active_seconds = active_seconds + s.seconds,
            question_seconds = case when $4::int is null then w.question_seconds else w.question_seconds ||
                jsonb_build_object($4::int::text, coalesce((w.question_seconds->>($4::int::text))::bigint, 0) + s.seconds)
                end
         from since s where w.id = s.id",
        work.0,
        now,
        LONGEST_PAUSE_SECONDS,
        question.map(to_stored).transpose()?
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Seconds that students spent with the questions of an assignment: a line a student, by the question's place.
pub async fn question_seconds(
    db: impl PgExecutor<'_>,
    assignment: Uuid,
) -> Result<Vec<BTreeMap<usize, i64>>> {
    let rows = sqlx::query_scalar!(
        r#"select w.question_seconds as "seconds: Json<BTreeMap<usize, i64>>" from works w
           join assignments a on a.id = w.assignment_id
           join studies s on s.person_id = w.student_id and s.class_id = a.class_id where w.assignment_id = $1"#,
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| r.0).collect())
}

/// The recorded scores of everybody on some assignments, in per cent, in rising order, without names.
pub async fn recorded_scores(
    db: impl PgExecutor<'_>,
    assignments: &[Uuid],
) -> Result<BTreeMap<Uuid, Vec<f64>>> {
    let rows = sqlx::query!(
        r#"select w.assignment_id, array_agg(w.recorded_percent order by w.recorded_percent) as "scores!"
           from works w join assignments a on a.id = w.assignment_id
           join studies s on s.person_id = w.student_id and s.class_id = a.class_id
           where w.assignment_id = any($1) and w.recorded_percent is not null
           group by w.assignment_id"#,
        assignments
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| (r.assignment_id, r.scores)).collect())
}

/// The works on an assignment with their students; what a made-up student did is none.
pub async fn works_on(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<(WorkId, PersonId)>> {
    let rows = sqlx::query!(
        "select w.id, w.student_id from works w join people p on p.id = w.student_id
         where w.assignment_id = $1 and p.role <> 'preview' order by w.id",
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (WorkId(r.id), PersonId(r.student_id)))
        .collect())
}
