//! All of a student's assignments, in one statement; and the events that a server does not hold yet, in another.

use std::collections::BTreeMap;

use coursework::Recorded;
use marking::Response;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored};
use crate::visit::{Drafts, Visited, VisitedWork, recorded};
use crate::works::{WorkHead, WorkId};

/// An assignment of a student's, with where their work stands; its events are left out.
#[derive(Clone, Debug)]
pub struct DeskRow {
    pub assignment: Uuid,
    pub visited: Visited,
}

pub async fn desks_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<DeskRow>> {
    let rows = sqlx::query_file!("src/sql/desks.sql", person.0)
        .fetch_all(db)
        .await?;
    let mut all = Vec::with_capacity(rows.len());
    for r in rows {
        let drafts = Drafts {
            questions: r.draft_questions.unwrap_or_default(),
            sets: r.draft_sets.unwrap_or_default(),
            parts: r.draft_parts.unwrap_or_default(),
            revisions: r.draft_revisions.unwrap_or_default(),
            responses: r.draft_responses.unwrap_or_default(),
            saved: r.draft_saved.unwrap_or_default(),
        };
        let work = match r.work_id {
            None => None,
            Some(id) => Some(VisitedWork {
                id: WorkId(id),
                last_event: event_from_stored(r.last_event.unwrap_or(0))?,
                head: WorkHead {
                    seen_event: event_from_stored(r.seen_event.unwrap_or(0))?,
                    seen_note: r.seen_note,
                    result_seen: r.result_seen.unwrap_or(false),
                    active_seconds: r.active_seconds.unwrap_or(0),
                },
                events: Vec::new(),
                drafts: drafts.rows()?,
            }),
        };
        let visited = Visited {
            version: r.version,
            work,
        };
        all.push(DeskRow {
            assignment: r.assignment,
            visited,
        });
    }
    Ok(all)
}

/// The events of several works, each after a number of its own.
pub async fn events_after(
    db: impl PgExecutor<'_>,
    after: &[(WorkId, u32)],
) -> Result<BTreeMap<Uuid, Vec<Recorded>>> {
    let works: Vec<Uuid> = after.iter().map(|(work, _)| work.0).collect();
    let numbers = after
        .iter()
        .map(|(_, n)| event_to_stored(*n))
        .collect::<Result<Vec<i32>>>()?;
    let rows = sqlx::query!(
        r#"select e.work_id, e.number, e.at, e.body as "body: Json<coursework::Event>"
           from unnest($1::uuid[], $2::int[]) as k (work_id, number)
           join events e on e.work_id = k.work_id and e.number > k.number
           order by e.work_id, e.number"#,
        &works,
        &numbers
    )
    .fetch_all(db)
    .await?;
    let mut found: BTreeMap<Uuid, Vec<Recorded>> = BTreeMap::new();
    for r in rows {
        let one = recorded(vec![r.number], vec![r.at], vec![r.body])?;
        found.entry(r.work_id).or_default().extend(one);
    }
    Ok(found)
}
