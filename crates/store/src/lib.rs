//! All SQL. Plain functions that take an executor or a transaction; no mocks: tests use the real PostgreSQL.

mod acting;
mod acts;
mod assignments;
mod attachments;
mod cards;
mod classes;
mod coming_in;
mod desk;
mod desks;
mod digests;
mod drafts;
mod forget;
mod installation;
mod kept;
mod lanes;
mod marks;
mod own;
mod paper;
mod people;
mod placings;
mod portal_scores;
mod portals;
mod practice;
mod questions;
mod reading;
mod recordings;
mod reviews;
mod slips;
mod small;
mod suggested;
mod teaching;
mod texts;
mod threads;
mod units;
mod visit;
mod workings;
mod works;
mod world;

pub use acting::{act_as_oneself, act_as_student, acts_as_student, is_preview};
pub use acts::{Act, NamedAct, acts_in, put_act};
pub use assignments::{
    AssignmentHead, QuestionUse, StoredAssignment, find_assignment, find_assignment_by_slug,
    find_assignments, put_assignment, set_version, uses_of,
};
pub use attachments::{Attachment, add_attachment, are_attached, delete_attachment, find_attachment};
pub use cards::{cards_of, put_card};
pub use classes::{
    Class, ClassTerms, Member, TaughtClass, classes_taught, create_class, find_class_by_code,
    find_class_taught, join_class, members_of, set_class, set_group, set_join_code, set_left,
};
pub use coming_in::{
    create_person, end_other_sessions, find_link, find_password, is_empty, is_welcomed, put_link,
    set_own_password, set_password, set_welcomed, use_link,
};
pub use desk::{
    AssignmentChange, SetAssignment, SetQuestion, create_assignment, delete_draft, find_set_assignment,
    give_out, question_uses, save_assignment,
};
pub use desks::{DeskRow, desks_of, drafts_of_all, events_after};
pub use digests::{
    Derived, DigestedRun, FORM, WorkDigest, WorkPlace, digests_of, put_derived, put_run_digest, runs_after,
    runs_of, works_after,
};
pub use drafts::{Draft, SaveDraft, Saved, Standing, drafts_of, save_draft};
pub use forget::{Forgotten, forget_person};
pub use installation::{LEFT_BEHIND, TABLES, is_untouched, put_rows, read_all, schema_version, tables};
pub use kept::{KeptMark, drop_kept_mark, keep_mark, kept_marks};
pub use lanes::Lanes;
pub use marks::{PageMark, add_page_mark, drop_page_mark, page_marks, set_mark_note};
pub use own::{
    ApiToken, Calendar, OwnFile, all_of, all_of_class, api_tokens_of, bytes_kept, calendars_of,
    drop_api_token, drop_calendar, find_calendar, own_file, put_api_token, put_calendar, use_api_token,
    works_by,
};
pub use paper::{
    PaperCopy, PaperInk, paper_base, paper_copy, paper_ink_of, save_paper_ink, students_of_assignment,
};
pub use people::{
    MemberRole, Person, PersonId, Role, TryLimit, add_member, beside_at, count_try, create_session,
    delete_session, find_by_session, find_credentials, find_person, forget_tries, is_right_address,
    note_right_address, put_class, put_person, secret, studies,
};
pub use placings::{
    EnteredInPlacing, PlacedSkills, PlacingState, StartFound, StoredPlacing, append_placing,
    entered_in_placing, place_again, placing_events, placings_by, placings_in, put_entered_in_placing,
    start_placing, starts_of,
};
pub use portal_scores::{
    DueScore, Moved, PortalPlace, ScoreInPortal, UnsettledScore, note_scores_again, portal_answers,
    portal_away, portals_due, put_score_moved, score_leaves, scores_in_portals, take_due_scores,
    unsettled_scores,
};
pub use portals::{
    Portal, PortalChange, PortalCourse, PortalLine, add_portal, class_title, classes_called, come_by_portal,
    courses_of_class, drop_course, due_courses, end_portal, find_arrival, find_course, find_in_portal,
    find_line, find_portal, is_assignment_of, is_name_unlinked, is_portal_away, keys_of_ours, lines_of_class,
    link_in_portal, portals_known, portals_of_person, put_arrival, put_course, put_key_of_ours, put_line,
    put_state, recorded_of, role_in_class, save_asked, set_course_urls, set_left_by_portal, set_line_url,
    subjects_of, take_arrival, take_state,
};
pub use practice::{
    EnteredInRun, RunId, append_practice, assignment_of_run, find_entered, find_run, lock_run,
    practice_events, practice_events_of, put_entered, run_for_work, runs_on, start_run,
};
pub use questions::{
    QuestionId, QuestionVersion, find_question, find_question_by_slug, find_questions, newest_questions,
    newest_versions, put_question, question_titles, set_source, source_of, versions_of,
};
pub use reading::{PageRead, pages_of, put_page, put_typing_done, typing_done};
pub use recordings::{
    PIECE, RecordingHead, StoredRecording, WatchedBy, add_piece, add_recording, drop_broken_uploads,
    find_recording, finish_recording, note_watch_act, pieces, put_watched, recordings, set_recording,
    watch_acts_in_classes_of, watched, watched_by, watched_in_classes_of,
};
pub use reviews::{Review, find_review, put_review};
pub use slips::{SlipNote, checks_at, put_slip_note, slip_notes};
pub use suggested::{
    SuggestTo, Suggestion, drop_suggestion, set_wish, suggest_skill, suggestions_for, suggestions_in,
    wishes_in, wishes_of,
};
pub use teaching::{
    SheetColumn, SheetRow, find_attachment_taught, sheet_columns, sheet_rows, students_at, taught_by, teaches,
};
pub use texts::{TextKind, TextVersion, newest_texts, newest_version, put_text, text_versions};
pub use threads::{
    Message, NewThread, TeacherReply, Thread, add_message, messages_of, open_thread, put_reply, replies_in,
    set_thread, set_thread_read, take_message_back, threads_of, unread_messages,
};
pub use units::{ClassJoined, asked_units_of, classes_joined, heard_by, put_heard, save_units, units_of};
pub use visit::{Visit, Visited, VisitedWork, find_visit, find_visit_held};
pub use workings::{
    PictureHead, Workings, add_picture, delete_picture, find_picture, find_workings, pictures_of,
    save_workings, set_shares_workings, shares_workings, workings_revision,
};
pub use works::{
    Append, Appended, Ending, WorkHead, WorkId, append, events_of, find_work, lock_at, lock_work,
    note_activity, question_seconds, recorded_scores, set_seen, start_work, take_ended, visited_work,
    wait_for_earlier, works_on,
};
pub use world::{move_world, set_active_seconds, world_anchor};

use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{ConnectOptions, Connection, PgPool};
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// The schema's history.
pub static MIGRATOR: sqlx::migrate::Migrator = sqlx::migrate!();

#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    #[error(transparent)]
    Sql(sqlx::Error),
    /// The database does not answer.
    #[error("the database is away: {0}")]
    Away(sqlx::Error),
    /// A number that no row can have.
    #[error("a number is out of range")]
    OutOfRange,
    #[error("migrating the database: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
    #[error("what is stored cannot be read: {0}")]
    Stored(#[from] serde_json::Error),
    #[error("a digest cannot be written: {0}")]
    Unwritable(String),
    /// Another transaction was first.
    #[error("the work has moved on")]
    Conflict,
}

pub type Result<T> = std::result::Result<T, StoreError>;

/// When a connection last broke: those that were open then are looked at before they are used again.
static LAST_BREAK: Mutex<Option<Instant>> = Mutex::new(None);

fn last_break() -> Option<Instant> {
    *LAST_BREAK
        .lock()
        .unwrap_or_else(std::sync::PoisonError::into_inner)
}

fn note_break() {
    *LAST_BREAK
        .lock()
        .unwrap_or_else(std::sync::PoisonError::into_inner) = Some(Instant::now());
}

/// PostgreSQL's codes for "shutting down", "starting up" and the like: class 57, and 08 for connections.
fn is_away(error: &sqlx::Error) -> bool {
    match error {
        sqlx::Error::Io(_)
        | sqlx::Error::PoolTimedOut
        | sqlx::Error::PoolClosed
        | sqlx::Error::WorkerCrashed
        | sqlx::Error::Protocol(_) => true,
        sqlx::Error::Database(e) => e
            .code()
            .is_some_and(|c| c.starts_with("57P") || c.starts_with("08")),
        _ => false,
    }
}

impl From<sqlx::Error> for StoreError {
    fn from(error: sqlx::Error) -> Self {
        if is_away(&error) {
            note_break();
            StoreError::Away(error)
        } else {
            StoreError::Sql(error)
        }
    }
}

/// Asks again, once, where a connection turned out to be broken. For what only reads.
///
/// # Errors
/// What the second time came to.
pub async fn reading<T, F: Future<Output = Result<T>>>(mut ask: impl FnMut() -> F) -> Result<T> {
    match ask().await {
        Err(StoreError::Away(error)) if !matches!(error, sqlx::Error::PoolTimedOut) => ask().await,
        other => other,
    }
}

/// Longer than this nobody waits for a connection: the browser keeps what was typed and tries again.
const LONGEST_WAIT: Duration = Duration::from_secs(3);

/// A pool of connections.
///
/// # Errors
/// If the address is no PostgreSQL address, or nothing answers there.
pub async fn connect(url: &str, connections: u32) -> Result<PgPool> {
    let options: PgConnectOptions = url.parse::<PgConnectOptions>()?.disable_statement_logging();
    // Testing every connection before use costs a round trip a request: only those are tested that were open when another
    // one broke.
    let pool = PgPoolOptions::new()
        .max_connections(connections)
        .acquire_timeout(LONGEST_WAIT)
        .test_before_acquire(false)
        .before_acquire(|connection, about| {
            Box::pin(async move {
                let doubtful = last_break().is_some_and(|at| at.elapsed() < about.age);
                Ok(!doubtful || connection.ping().await.is_ok())
            })
        });
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
