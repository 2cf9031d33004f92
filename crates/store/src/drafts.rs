use marking::Response;
use sqlx::PgExecutor;
use time::OffsetDateTime;

use crate::Result;
use crate::works::WorkId;

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

fn small(n: usize) -> i32 {
    i32::try_from(n).unwrap_or(i32::MAX)
}

/// Keeps a draft if nobody else has written since the revision it is based on. Gives the new revision, or `None` if
/// another window was first.
pub async fn save_draft(
    db: impl PgExecutor<'_>,
    work: WorkId,
    draft: &SaveDraft<'_>,
    now: OffsetDateTime,
) -> Result<Option<i64>> {
    let revision = sqlx::query_scalar!(
        "insert into drafts (work_id, question, set_number, part, revision, response, saved_at)
         select $1, $2, $3, $4, 1, $6, $7 where $5::bigint = 0
            or exists (select 1 from drafts where work_id = $1 and question = $2 and set_number = $3 and part = $4)
         on conflict (work_id, question, set_number, part) do update
         set revision = drafts.revision + 1, response = $6, saved_at = $7
         where drafts.revision = $5
         returning revision",
        work.0,
        small(draft.question),
        small(draft.set),
        draft.part,
        draft.based_on,
        serde_json::to_value(draft.response)?,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(revision)
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
            question: usize::try_from(r.question).unwrap_or(0),
            set: usize::try_from(r.set_number).unwrap_or(0),
            part: r.part,
            revision: r.revision,
            response: serde_json::from_value(r.response)?,
            saved_at: r.saved_at,
        });
    }
    Ok(drafts)
}
