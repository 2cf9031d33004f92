//! A whole installation, table by table, as JSON: out of one database and into another of the same version.

use futures_util::TryStreamExt;
use sqlx::{AssertSqlSafe, PgPool, Postgres, Transaction};

use crate::{MIGRATOR, Result};

/// Every table that moves, such that what one refers to stands before it.
pub const TABLES: &[&str] = &[
    "world_anchor",
    "classes",
    "people",
    "class_members",
    "questions",
    "assignments",
    "assignment_questions",
    "works",
    "events",
    "drafts",
    "workings",
    "pictures",
    "attachments",
    "paper_copies",
    "paper_ink",
    "practice_runs",
    "practice_events",
    "practice_entered",
    "placings",
    "placing_events",
    "slip_notes",
    "pages_read",
    "typing_done",
    "term_cards",
    "page_marks",
    "recordings",
    "recording_pieces",
    "watchings",
    "watch_acts",
    "reviews",
    "heard",
    "suggested_skills",
    "wished_skills",
    "threads",
    "messages",
    "threads_read",
    "teacher_replies",
    "kept_marks",
    "acts",
    "texts",
    "calendars",
    "api_tokens",
    "portals",
    "portal_deployments",
    "lti_keys",
    "portal_people",
    "portal_courses",
    "portal_lines",
    "portal_scores",
];

/// Tables that stay behind: who is signed in at the moment, and what is worked out anew.
pub const LEFT_BEHIND: &[&str] = &[
    "sessions",
    "sign_in_tries",
    "sign_in_addresses",
    "secrets",
    "sign_in_links",
    "lti_states",
    "portal_arrivals",
    "work_digests",
    "run_digests",
    "_sqlx_migrations",
];

/// The version of the database that this program works with.
pub fn schema_version() -> i64 {
    MIGRATOR.iter().map(|m| m.version).max().unwrap_or(0)
}

/// The names of the tables there are.
///
/// # Errors
/// What the database said.
pub async fn tables(pool: &PgPool) -> Result<Vec<String>> {
    let names = sqlx::query_scalar!(
        r#"select table_name as "name!" from information_schema.tables
           where table_schema = 'public' and table_type = 'BASE TABLE' order by 1"#
    )
    .fetch_all(pool)
    .await?;
    Ok(names)
}

/// Everything in one moment's state: each row of each table as JSON, in the order of [`TABLES`].
///
/// # Errors
/// What the database said, or what `each` could not do.
pub async fn read_all<E>(
    pool: &PgPool,
    mut each: impl FnMut(&str, &str) -> std::result::Result<(), E>,
) -> Result<std::result::Result<(), E>> {
    let mut tx = pool.begin().await?;
    sqlx::query("set transaction isolation level repeatable read, read only")
        .execute(&mut *tx)
        .await?;
    for table in TABLES {
        let sql = format!("select to_jsonb(t)::text from {table} t order by 1");
        let mut rows = sqlx::query_scalar::<_, String>(AssertSqlSafe(sql)).fetch(&mut *tx);
        while let Some(row) = rows.try_next().await? {
            if let Err(error) = each(table, &row) {
                return Ok(Err(error));
            }
        }
    }
    tx.commit().await?;
    Ok(Ok(()))
}

/// Whether nobody and nothing is in the database yet.
///
/// # Errors
/// What the database said.
pub async fn is_untouched(pool: &PgPool) -> Result<bool> {
    for table in TABLES {
        let sql = format!("select exists(select 1 from {table})");
        if sqlx::query_scalar::<_, bool>(AssertSqlSafe(sql))
            .fetch_one(pool)
            .await?
        {
            return Ok(false);
        }
    }
    Ok(true)
}

/// Puts rows of a table in, as they were read.
///
/// # Errors
/// What the database said: a row that does not fit puts none in.
pub async fn put_rows(tx: &mut Transaction<'_, Postgres>, table: &str, rows: &[String]) -> Result<()> {
    let Some(table) = TABLES.iter().find(|t| **t == table) else {
        return Err(crate::StoreError::OutOfRange);
    };
    let sql = format!(
        "insert into {table} select r.* from unnest($1::text[]) line,
         lateral jsonb_populate_record(null::{table}, line::jsonb) r"
    );
    sqlx::query(AssertSqlSafe(sql))
        .bind(rows)
        .execute(&mut **tx)
        .await?;
    Ok(())
}
