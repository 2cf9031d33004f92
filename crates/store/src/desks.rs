//! All of a student's assignments, in one statement; and the events and drafts that a server does not hold yet, in two more.

use std::collections::BTreeMap;

use coursework::Recorded;
use marking::Response;
use sqlx::PgExecutor;
use sqlx::types::Json;
use uuid::Uuid;

use crate::Result;
use crate::drafts::Draft;
use crate::people::PersonId;
use crate::small::{event_to_stored, from_stored};
use crate::visit::{Visited, by_work, head_columns};
use crate::works::WorkId;

/// An assignment of a student's, with where their work stands; its events and drafts are left out.
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
        let work = head_columns!(r).work()?;
        all.push(DeskRow {
            assignment: r.assignment,
            visited: Visited {
                version: r.version,
                work,
            },
        });
    }
    Ok(all)
}

/// The drafts of several works.
pub async fn drafts_of_all(db: impl PgExecutor<'_>, works: &[WorkId]) -> Result<BTreeMap<Uuid, Vec<Draft>>> {
    let works: Vec<Uuid> = works.iter().map(|w| w.0).collect();
    let rows = sqlx::query!(
        r#"select work_id, question, set_number, part, revision, response as "response: Json<Response>", saved_at
           from drafts where work_id = any($1) order by work_id, question, set_number, part"#,
        &works
    )
    .fetch_all(db)
    .await?;
    let mut found: BTreeMap<Uuid, Vec<Draft>> = BTreeMap::new();
    for r in rows {
        found.entry(r.work_id).or_default().push(Draft {
            question: from_stored(r.question)?,
            set: from_stored(r.set_number)?,
            part: r.part,
            revision: r.revision,
            response: r.response.0,
            saved_at: r.saved_at,
        });
    }
    Ok(found)
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
    by_work!(rows)
}
