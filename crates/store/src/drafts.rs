use marking::Response;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_to_stored, from_stored, to_stored};
use crate::works::{LONGEST_PAUSE_SECONDS, WorkId};

/// What stands in a field.
#[derive(Clone, Debug, PartialEq)]
pub struct Draft {
    pub question: usize,
    pub set: usize,
    pub part: String,
    pub revision: i64,
    pub response: Response,
    pub saved_at: OffsetDateTime,
}

/// What a browser wants kept. `based_on` is the revision its field started from.
#[derive(Clone, Debug)]
pub struct SaveDraft<'a> {
    pub question: usize,
    pub set: usize,
    pub part: &'a str,
    pub based_on: i64,
    pub response: &'a Response,
}

/// The state that something was decided on: it only counts if this still stands.
#[derive(Clone, Copy, Debug)]
pub struct Standing<'a> {
    pub assignment: Uuid,
    pub student: PersonId,
    pub work: WorkId,
    /// The number of its last event.
    pub last: u32,
    /// Of the assignment.
    pub version: i32,
    /// The hash of the token of the session that asks, where it was not looked up yet.
    pub session: Option<&'a [u8]>,
}

/// What came of keeping a draft.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Saved {
    /// At this revision of the field; so often were drafts of the work kept by then.
    At { revision: i64, drafts_at: i64 },
    /// Another window wrote in the field since: what stands there, at its revision.
    Elsewhere {
        revision: i64,
        response: Option<Response>,
    },
    /// The work has moved on since it was decided that this may be kept.
    MovedOn,
}

/// Keeps a draft, if what it was decided on still stands and nobody else has written in the field since the revision that
/// the draft is based on. Notes a sign of life.
pub async fn save_draft(
    db: impl PgExecutor<'_>,
    standing: &Standing<'_>,
    draft: &SaveDraft<'_>,
    now: OffsetDateTime,
) -> Result<Saved> {
    let row = sqlx::query_file!(
        "src/sql/save_draft.sql",
        standing.work.0,
        event_to_stored(standing.last)?,
        to_stored(draft.question)?,
        to_stored(draft.set)?,
        draft.part,
        draft.based_on,
        serde_json::to_value(draft.response)?,
        now,
        LONGEST_PAUSE_SECONDS,
        standing.version,
        standing.session,
        standing.assignment,
        standing.student.0
    )
    .fetch_one(db)
    .await?;
    Ok(match (row.drafts_at, row.revision) {
        (None, _) => Saved::MovedOn,
        (Some(drafts_at), Some(revision)) => Saved::At { revision, drafts_at },
        (Some(_), None) => Saved::Elsewhere {
            revision: row.standing.unwrap_or(0),
            response: row.response.map(|Json(r)| r),
        },
    })
}

pub async fn drafts_of(db: impl PgExecutor<'_>, work: WorkId) -> Result<Vec<Draft>> {
    let rows = sqlx::query!(
        "select question, set_number, part, revision, response, saved_at from drafts where work_id = $1
         order by question, set_number, part",
        work.0
    )
    .fetch_all(db)
    .await?;
    let mut drafts = Vec::with_capacity(rows.len());
    for r in rows {
        drafts.push(Draft {
            question: from_stored(r.question)?,
            set: from_stored(r.set_number)?,
            part: r.part,
            revision: r.revision,
            response: serde_json::from_value(r.response)?,
            saved_at: r.saved_at,
        });
    }
    Ok(drafts)
}
