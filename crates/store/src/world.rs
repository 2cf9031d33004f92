//! What only the demo world does: its dates move on with the days.

use std::collections::BTreeMap;

use coursework::Event;
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::Result;

/// The instant from which the world's dates are counted; the first call sets it.
pub async fn world_anchor(pool: &PgPool, now: OffsetDateTime) -> Result<OffsetDateTime> {
    sqlx::query!(
        "insert into world_anchor (at) values ($1) on conflict do nothing",
        now
    )
    .execute(pool)
    .await?;
    let at = sqlx::query_scalar!("select at from world_anchor")
        .fetch_one(pool)
        .await?;
    Ok(at)
}

/// Moves every date in the database on by whole days, in one transaction.
pub async fn move_world(pool: &PgPool, days: i32) -> Result<()> {
    let by = Duration::days(i64::from(days));
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "update world_anchor set at = at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("update events set at = at + make_interval(days => $1)", days)
        .execute(&mut *tx)
        .await?;
    sqlx::query!(
        "update drafts set saved_at = saved_at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update works set ends_at = ends_at + make_interval(days => $1), active_at = active_at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update practice_events set at = at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update practice_runs set started_at = started_at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update pages_read set opened_at = opened_at + make_interval(days => $1), read_at = read_at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "with t as (update threads set opened_at = opened_at + make_interval(days => $1)),
         r as (update threads_read set read_at = read_at + make_interval(days => $1)),
         a as (update acts set at = at + make_interval(days => $1))
         update messages set at = at + make_interval(days => $1)",
        days
    )
    .execute(&mut *tx)
    .await?;
    for row in sqlx::query!("select id, settings from assignments")
        .fetch_all(&mut *tx)
        .await?
    {
        let mut settings: coursework::Settings = serde_json::from_value(row.settings)?;
        settings.opens += by;
        settings.due += by;
        settings.closes += by;
        let settings = serde_json::to_value(&settings)?;
        sqlx::query!(
            "update assignments set settings = $2, version = version + 1 where id = $1",
            row.id,
            settings
        )
        .execute(&mut *tx)
        .await?;
    }
    let given =
        sqlx::query!("select work_id, number, body from events where body->>'kind' = 'exception_given'")
            .fetch_all(&mut *tx)
            .await?;
    for row in given {
        let Event::ExceptionGiven(mut exception) = serde_json::from_value(row.body)? else {
            continue;
        };
        exception.due = exception.due.map(|d| d + by);
        exception.closes = exception.closes.map(|d| d + by);
        sqlx::query!(
            "update events set body = $3 where work_id = $1 and number = $2",
            row.work_id,
            row.number,
            serde_json::to_value(Event::ExceptionGiven(exception))?
        )
        .execute(&mut *tx)
        .await?;
    }
    // They hold instants, and are made anew.
    sqlx::query!("delete from work_digests").execute(&mut *tx).await?;
    sqlx::query!("delete from run_digests").execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(())
}

/// Sets the time a student is said to have spent, and how it went to the questions.
pub async fn set_active_seconds(
    db: impl sqlx::PgExecutor<'_>,
    work: crate::WorkId,
    seconds: i64,
    by_question: &BTreeMap<usize, i64>,
) -> Result<()> {
    sqlx::query!(
        "update works set active_seconds = $2, question_seconds = $3 where id = $1",
        work.0,
        seconds,
        sqlx::types::Json(by_question) as _
    )
    .execute(db)
    .await?;
    Ok(())
}
