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
    pub head: WorkHead,
    /// Those after the number that was asked for.
    pub events: Vec<Recorded>,
    pub drafts: Vec<Draft>,
}

/// What the holder of a session finds at an assignment, with the events after number `known`. `None` without a session.
pub async fn find_visit(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
    assignment: Uuid,
    known: u32,
) -> Result<Option<Visit>> {
    let known = i32::try_from(known).unwrap_or(0);
    let found = sqlx::query_file!("src/sql/visit.sql", token_hash, now, assignment, known)
        .fetch_optional(db)
        .await?;
    let Some(r) = found else { return Ok(None) };
    let person = Person {
        id: PersonId(r.person_id),
        user_name: r.user_name,
        display_name: r.display_name,
        role: Role::of(&r.role),
    };
    let Some(version) = r.version else {
        return Ok(Some(Visit {
            person,
            visited: None,
        }));
    };
    let Some(work_id) = r.work_id else {
        let visited = Some(Visited { version, work: None });
        return Ok(Some(Visit { person, visited }));
    };
    let drafts = Drafts {
        questions: r.draft_questions.unwrap_or_default(),
        sets: r.draft_sets.unwrap_or_default(),
        parts: r.draft_parts.unwrap_or_default(),
        revisions: r.draft_revisions.unwrap_or_default(),
        responses: r.draft_responses.unwrap_or_default(),
        saved: r.draft_saved.unwrap_or_default(),
    };
    let work = VisitedWork {
        id: WorkId(work_id),
        last_event: event_from_stored(r.last_event.unwrap_or(0))?,
        head: WorkHead {
            seen_event: event_from_stored(r.seen_event.unwrap_or(0))?,
            seen_note: r.seen_note,
            result_seen: r.result_seen.unwrap_or(false),
            active_seconds: r.active_seconds.unwrap_or(0),
        },
        events: recorded(
            r.numbers.unwrap_or_default(),
            r.ats.unwrap_or_default(),
            r.bodies.unwrap_or_default(),
        )?,
        drafts: drafts.rows()?,
    };
    let visited = Some(Visited {
        version,
        work: Some(work),
    });
    Ok(Some(Visit { person, visited }))
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
pub(crate) struct Drafts {
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
