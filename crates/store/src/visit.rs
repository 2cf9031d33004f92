//! One statement to load what a request about an assignment needs.

use coursework::{Event, Recorded};
use marking::Response;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::drafts::Draft;
use crate::people::{Person, PersonId, Role};
use crate::small::{event_from_stored, from_stored};
use crate::works::{WorkHead, WorkId};

/// Who asks for an assignment, and what stands there for them.
#[derive(Clone, Debug)]
pub struct Visit {
    pub person: Person,
    /// `None` unless they are in its class.
    pub visited: Option<Visited>,
}

#[derive(Clone, Debug)]
pub struct Visited {
    pub version: i32,
    pub work: Option<VisitedWork>,
}

#[derive(Clone, Debug)]
pub struct VisitedWork {
    pub id: WorkId,
    pub last_event: u32,
    /// How often drafts of it were kept.
    pub drafts_at: i64,
    pub head: WorkHead,
    /// Its events and drafts, where they were asked for.
    pub whole: Option<(Vec<Recorded>, Vec<Draft>)>,
}

/// Where a work stands, as the statements give it.
pub(crate) struct HeadColumns {
    pub work_id: Option<Uuid>,
    pub last_event: Option<i32>,
    pub drafts_at: Option<i64>,
    pub seen_event: Option<i32>,
    pub seen_note: Option<String>,
    pub result_seen: Option<bool>,
    pub active_seconds: Option<i64>,
}

/// The columns of [`HeadColumns`], taken out of a row.
macro_rules! head_columns {
    ($row:ident) => {
        crate::visit::HeadColumns {
            work_id: $row.work_id,
            last_event: $row.last_event,
            drafts_at: $row.drafts_at,
            seen_event: $row.seen_event,
            seen_note: $row.seen_note,
            result_seen: $row.result_seen,
            active_seconds: $row.active_seconds,
        }
    };
}
pub(crate) use head_columns;

/// The person of a row.
macro_rules! person_column {
    ($row:ident) => {
        Person {
            id: PersonId($row.person_id),
            user_name: $row.user_name,
            display_name: $row.display_name,
            role: Role::of(&$row.role),
        }
    };
}

/// Events of several works as rows, by work.
macro_rules! by_work {
    ($rows:ident) => {{
        let mut found: BTreeMap<Uuid, Vec<Recorded>> = BTreeMap::new();
        for r in $rows {
            let one = crate::visit::recorded(vec![r.number], vec![r.at], vec![r.body])?;
            found.entry(r.work_id).or_default().extend(one);
        }
        Ok(found)
    }};
}
pub(crate) use by_work;

impl HeadColumns {
    pub fn work(self) -> Result<Option<VisitedWork>> {
        let Some(id) = self.work_id else { return Ok(None) };
        Ok(Some(VisitedWork {
            id: WorkId(id),
            last_event: event_from_stored(self.last_event.unwrap_or(0))?,
            drafts_at: self.drafts_at.unwrap_or(0),
            head: WorkHead {
                seen_event: event_from_stored(self.seen_event.unwrap_or(0))?,
                seen_note: self.seen_note,
                result_seen: self.result_seen.unwrap_or(false),
                active_seconds: self.active_seconds.unwrap_or(0),
            },
            whole: None,
        }))
    }
}

fn visit(person: Person, version: Option<i32>, work: Option<VisitedWork>) -> Visit {
    let visited = version.map(|version| Visited { version, work });
    Visit { person, visited }
}

/// What the holder of a session finds at an assignment: where their work stands, without its events and drafts. `None`
/// without a session.
pub async fn find_visit_held(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
    assignment: Uuid,
) -> Result<Option<Visit>> {
    let found = sqlx::query_file!("src/sql/visit_held.sql", token_hash, now, assignment)
        .fetch_optional(db)
        .await?;
    let Some(r) = found else { return Ok(None) };
    let person = person_column!(r);
    let head = head_columns!(r);
    Ok(Some(visit(person, r.version, head.work()?)))
}

/// What the holder of a session finds at an assignment, with all events and drafts. `None` without a session.
pub async fn find_visit(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
    assignment: Uuid,
) -> Result<Option<Visit>> {
    let found = sqlx::query_file!("src/sql/visit.sql", token_hash, now, assignment)
        .fetch_optional(db)
        .await?;
    let Some(r) = found else { return Ok(None) };
    let person = person_column!(r);
    let head = head_columns!(r);
    let mut work = head.work()?;
    if let Some(work) = &mut work {
        let drafts = Drafts {
            questions: r.draft_questions.unwrap_or_default(),
            sets: r.draft_sets.unwrap_or_default(),
            parts: r.draft_parts.unwrap_or_default(),
            revisions: r.draft_revisions.unwrap_or_default(),
            responses: r.draft_responses.unwrap_or_default(),
            saved: r.draft_saved.unwrap_or_default(),
        };
        let events = recorded(
            r.numbers.unwrap_or_default(),
            r.ats.unwrap_or_default(),
            r.bodies.unwrap_or_default(),
        )?;
        work.whole = Some((events, drafts.rows()?));
    }
    Ok(Some(visit(person, r.version, work)))
}

pub(crate) fn recorded(
    numbers: Vec<i32>,
    ats: Vec<OffsetDateTime>,
    bodies: Vec<Json<Event>>,
) -> Result<Vec<Recorded>> {
    let rows = numbers.into_iter().zip(ats).zip(bodies);
    rows.map(|((number, at), Json(event))| {
        Ok(Recorded {
            number: event_from_stored(number)?,
            at,
            event,
        })
    })
    .collect()
}

/// Drafts as they come in one row: a list for each column.
struct Drafts {
    pub questions: Vec<i32>,
    pub sets: Vec<i32>,
    pub parts: Vec<String>,
    pub revisions: Vec<i64>,
    pub responses: Vec<Json<Response>>,
    pub saved: Vec<OffsetDateTime>,
}

impl Drafts {
    pub fn rows(self) -> Result<Vec<Draft>> {
        let places = self.questions.into_iter().zip(self.sets).zip(self.parts);
        let contents = self.revisions.into_iter().zip(self.responses).zip(self.saved);
        places
            .zip(contents)
            .map(
                |(((question, set), part), ((revision, Json(response)), saved_at))| {
                    Ok(Draft {
                        question: from_stored(question)?,
                        set: from_stored(set)?,
                        part,
                        revision,
                        response,
                        saved_at,
                    })
                },
            )
            .collect()
    }
}
