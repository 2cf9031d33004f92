//! All SQL. Plain functions that take an executor or a transaction; no mocks: tests use the real PostgreSQL.

mod assignments;
mod drafts;
mod people;
mod practice;
mod questions;
mod reading;
mod slips;
mod workings;
mod works;
mod world;

pub use assignments::{
    AssignmentHead, QuestionUse, StoredAssignment, assignments_of, find_any_assignment, find_assignment,
    put_assignment, question_versions, set_version, uses_of, whole_assignments_of,
};
pub use drafts::{Draft, SaveDraft, drafts_of, save_draft};
pub use people::{
    Person, PersonId, Role, add_member, count_recent_failures, create_session, delete_session,
    find_by_session, find_credentials, find_person, put_class, put_person, record_failure,
};
pub use practice::{
    EnteredInRun, RunId, StoredRun, append_practice, assignment_of_run, find_entered, find_run, lock_run,
    practice_events, practice_of, put_entered, run_for_work, runs_on, start_run,
};
pub use questions::{
    QuestionId, find_question, find_question_by_slug, newest_questions, put_question, question_titles,
};
pub use reading::{PageRead, pages_of, put_page, put_typing_done, typing_done};
pub use slips::{SlipNote, put_slip_note, slip_notes};
pub use workings::{
    PictureHead, Workings, add_picture, delete_picture, find_picture, find_workings, pictures_of,
    save_workings,
};
pub use works::{
    Ending, StudentWork, WorkHead, WorkId, append, events_of, find_work, get_head, lock_work, note_activity,
    recorded_scores, set_derived, set_seen, start_work, works_ended_by, works_of, works_on,
};
pub use world::{move_world, set_active_seconds, world_anchor};

use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{ConnectOptions, Connection, PgPool};

/// The schema's history.
pub static MIGRATOR: sqlx::migrate::Migrator = sqlx::migrate!();

#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    #[error(transparent)]
    Sql(#[from] sqlx::Error),
    #[error("migrating the database: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
    #[error("what is stored cannot be read: {0}")]
    Stored(#[from] serde_json::Error),
    /// Another transaction was first.
    #[error("the work has moved on")]
    Conflict,
}

pub type Result<T> = std::result::Result<T, StoreError>;

/// A pool of connections.
///
/// # Errors
/// If the address is no PostgreSQL address, or nothing answers there.
pub async fn connect(url: &str, connections: u32) -> Result<PgPool> {
    let options: PgConnectOptions = url.parse::<PgConnectOptions>()?.disable_statement_logging();
    // Testing every connection before use costs a round trip a request; a dead one shows as an error once.
    let pool = PgPoolOptions::new()
        .max_connections(connections)
        .test_before_acquire(false);
    Ok(pool.connect_with(options).await?)
}

/// Makes the database if it is not there, and brings it to the newest schema.
///
/// # Errors
/// If the server cannot be reached or a migration fails.
pub async fn migrate(url: &str) -> Result<()> {
    let options: PgConnectOptions = url.parse()?;
    let name = options.get_database().unwrap_or("green_slate").to_owned();
    let mut server = options.clone().database("postgres").connect().await?;
    let there: Option<i32> = sqlx::query_scalar("select 1 from pg_database where datname = $1")
        .bind(&name)
        .fetch_optional(&mut server)
        .await?;
    if there.is_none() {
        let quoted = name.replace('"', "\"\"");
        sqlx::raw_sql(sqlx::AssertSqlSafe(format!("create database \"{quoted}\"")))
            .execute(&mut server)
            .await?;
    }
    server.close().await?;
    let mut database = options.connect().await?;
    MIGRATOR.run(&mut database).await?;
    Ok(())
}
