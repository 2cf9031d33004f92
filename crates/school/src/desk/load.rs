//! Loading a desk: what a server holds already is only looked after.

use std::sync::Arc;
use std::time::Duration;

use coursework::{Recorded, fold, fold_on, time_up_due};
use sqlx::PgConnection;
use store::{Person, PersonId, StoreError, Visited, VisitedWork, WorkHead};
use time::OffsetDateTime;
use uuid::Uuid;

use super::Desk;
use crate::School;
use crate::error::SchoolError;
use crate::held::{Chunks, KnownWork};
use crate::stored::Stored;

/// How long a session that was looked up is believed where nothing is told but how an entry reads.
const A_MOMENT: Duration = Duration::from_secs(30);

impl Desk {
    /// What the holder of a session finds at an assignment, and who they are.
    ///
    /// # Errors
    /// `NotSignedIn` without a session, `NotFound` outside the assignment's class.
    pub async fn find(
        school: &School,
        id: Uuid,
        token_hash: [u8; 32],
    ) -> Result<(Desk, Person), SchoolError> {
        let now = school.now();
        let who = school.held().session(&token_hash).map(|(who, _)| who);
        let hint = who.and_then(|who| school.held().work(id, who));
        // Of what is held it is asked only whether it still stands; anything else comes whole.
        let visit = if hint.is_some() {
            {
                let ask =
                    async |db: &mut PgConnection| store::find_visit_held(db, &token_hash, now, id).await;
                school.lanes.read(ask).await?
            }
        } else {
            store::reading(|| store::find_visit(&school.pool, &token_hash, now, id)).await?
        };
        let visit = visit.ok_or(SchoolError::NotSignedIn)?;
        school.held().keep_session(token_hash, visit.person.id);
        let visited = visit.visited.ok_or(SchoolError::NotFound)?;
        let stored = school.assignment(id, Some(visited.version)).await?;
        let mut desk = Self::build(school, stored, visit.person.id, visited, hint, now).await?;
        desk.end_if_time_is_up(school).await?;
        Ok((desk, visit.person))
    }

    /// What is held of an assignment for a session, without asking the database: whether it still stands, and whether the
    /// session does, is found out by the statement that changes something. Nothing may be told from it before that.
    /// `None` where not all of it is held, or something is to be done first.
    pub fn held(school: &School, id: Uuid, token_hash: [u8; 32]) -> Option<Desk> {
        let (student, _) = school.held().session(&token_hash)?;
        let known = school.held().work(id, student)?;
        let stored = school.held().assignment(id)?;
        if known.version != stored.version || known.drafts_at < 0 {
            return None;
        }
        let mut desk = Self::empty(stored, student, school.now());
        desk.work_id = Some(known.id);
        desk.drafts_at = known.drafts_at;
        desk.claim = Some(token_hash);
        desk.take_in(Some(&known), Vec::new());
        let due = time_up_due(&desk.assignment, &desk.work).is_some_and(|end| end <= desk.now);
        (!due).then_some(desk)
    }

    /// As [`Desk::held`], where the session was looked up a moment ago: enough to say how an entry reads.
    pub fn held_a_moment_ago(school: &School, id: Uuid, token_hash: [u8; 32]) -> Option<Desk> {
        let (_, since) = school.held().session(&token_hash)?;
        if since.elapsed() > A_MOMENT {
            return None;
        }
        Self::held(school, id, token_hash)
    }

    /// Whether its session and its state were held against the database.
    pub fn is_certain(&self) -> bool {
        self.claim.is_none()
    }

    /// Whoever asks: for the clock, and after someone else was first.
    ///
    /// # Errors
    /// `NotFound` if there is no such assignment.
    pub async fn load(school: &School, id: Uuid, student: PersonId) -> Result<Desk, SchoolError> {
        let mut desk = Self::bare(school, id, student).await?;
        desk.end_if_time_is_up(school).await?;
        Ok(desk)
    }

    async fn bare(school: &School, id: Uuid, student: PersonId) -> Result<Desk, SchoolError> {
        let now = school.now();
        let stored = school.assignment(id, None).await?;
        let work = store::visited_work(&school.pool, id, student).await?;
        let version = stored.version;
        Self::build(school, stored, student, Visited { version, work }, None, now).await
    }

    fn empty(stored: Arc<Stored>, student: PersonId, now: OffsetDateTime) -> Desk {
        let assignment = stored.assignment.clone();
        Desk {
            stored,
            assignment,
            student,
            work_id: None,
            work: Arc::default(),
            head: WorkHead::default(),
            drafts: Arc::default(),
            drafts_at: 0,
            claim: None,
            now,
            events: Chunks::default(),
            attempts: Arc::default(),
        }
    }

    fn at(&mut self, found: &VisitedWork) {
        self.work_id = Some(found.id);
        self.head = found.head.clone();
        self.drafts_at = found.drafts_at;
    }

    async fn build(
        school: &School,
        stored: Arc<Stored>,
        student: PersonId,
        visited: Visited,
        hint: Option<Arc<KnownWork>>,
        now: OffsetDateTime,
    ) -> Result<Desk, SchoolError> {
        let mut desk = Self::empty(stored, student, now);
        let Some(mut found) = visited.work else {
            return Ok(desk);
        };
        desk.at(&found);
        if let Some((events, drafts)) = found.whole.take() {
            desk.drafts = Arc::new(drafts);
            desk.take_in(None, events);
            desk.keep_if_newer(school, None);
            return Ok(desk);
        }
        let held = hint.filter(|k| k.id == found.id && k.version == desk.stored.version);
        let held = held.as_ref();
        if held.is_none_or(|k| k.drafts_at != found.drafts_at) {
            let drafts = store::reading(|| store::drafts_of(&school.pool, found.id)).await?;
            desk.drafts = Arc::new(drafts);
        }
        let from = held.map_or(0, |k| k.work.last_event);
        let mut events = Vec::new();
        if from < found.last_event {
            let after = [(found.id, from)];
            let mut all = store::reading(|| store::events_after(&school.pool, &after)).await?;
            events = all.remove(&found.id.0).unwrap_or_default();
        }
        desk.take_in(held, events);
        desk.keep_if_newer(school, held);
        Ok(desk)
    }

    /// Goes on from what is held with what was added since.
    fn take_in(&mut self, held: Option<&Arc<KnownWork>>, new: Vec<Recorded>) {
        if let Some(held) = held {
            self.work = held.work.clone();
            self.events = held.events.clone();
            self.attempts = held.attempts.clone();
            if held.drafts_at == self.drafts_at {
                self.drafts = held.drafts.clone();
            }
        }
        if new.is_empty() {
            return;
        }
        let folded = fold_on(&self.assignment, &self.work, &new);
        self.attempts = Arc::default();
        self.events.push(new);
        self.work = Arc::new(folded.unwrap_or_else(|| fold(&self.assignment, &self.events.all())));
    }

    fn keep_if_newer(&self, school: &School, held: Option<&Arc<KnownWork>>) {
        let newer =
            |k: &Arc<KnownWork>| k.work.last_event < self.work.last_event || k.drafts_at != self.drafts_at;
        if held.is_none_or(newer) {
            self.keep(school);
        }
    }

    pub(super) fn keep(&self, school: &School) {
        let Some(id) = self.work_id else { return };
        let known = KnownWork {
            id,
            version: self.stored.version,
            work: self.work.clone(),
            events: self.events.clone(),
            drafts: self.drafts.clone(),
            drafts_at: self.drafts_at,
            attempts: self.attempts.clone(),
        };
        school
            .held()
            .keep_work(self.stored.head.id, self.student, Arc::new(known));
    }

    pub(super) async fn reload(&mut self, school: &School) -> Result<(), SchoolError> {
        let newest = Self::bare(school, self.stored.head.id, self.student).await?;
        if newest.stored.version != self.stored.version {
            // A question that was corrected since would be marked by the old key.
            return Err(StoreError::Conflict.into());
        }
        // What reached the server before the end counts as of then.
        *self = Desk {
            now: self.now,
            ..newest
        };
        Ok(())
    }
}
