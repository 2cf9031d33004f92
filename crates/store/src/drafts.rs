use marking::Response;
use sqlx::PgExecutor;
use time::OffsetDateTime;

use crate::Result;
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

/// What came of keeping a draft.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Saved {
    /// At this revision.
    At(i64),
    /// Another window wrote in the field since.
    Elsewhere,
    /// The work has moved on since it was decided that this may be kept.
    MovedOn,
}

/// Keeps a draft, if the work is still at event `last` and nobody else has written in the field since the revision that
/// the draft is based on. Notes a sign of life.
pub async fn save_draft(
    db: impl PgExecutor<'_>,
    work: WorkId,
    last: u32,
    draft: &SaveDraft<'_>,
    now: OffsetDateTime,
) -> Result<Saved> {
    let row = sqlx::query_file!(
        "src/sql/save_draft.sql",
        work.0,
        event_to_stored(last)?,
        to_stored(draft.question)?,
        to_stored(draft.set)?,
        draft.part,
        draft.based_on,
        serde_json::to_value(draft.response)?,
        now,
        LONGEST_PAUSE_SECONDS
    )
    .fetch_one(db)
    .await?;
    Ok(match (row.alive, row.revision) {
        (false, _) => Saved::MovedOn,
        (true, Some(revision)) => Saved::At(revision),
        (true, None) => Saved::Elsewhere,
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
