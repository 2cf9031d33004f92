//! What a process holds so that it need not load and parse it again: questions, which never change; sets drawn from them;
//! assignments by version; and works, whose events are only ever added to. All of it is bounded, and all of it can be
//! dropped at any moment.

use std::sync::Arc;

use coursework::{Recorded, Work};
use marking::{Item, Question};
use quick_cache::sync::Cache;
use store::{PersonId, QuestionId, StoreError, WorkId};
use uuid::Uuid;

use crate::School;
use crate::desk::Stored;
use crate::error::SchoolError;

/// Questions: some 5 kB each.
const QUESTIONS: usize = 4_000;
/// Sets of questions: some 10 kB each.
const ITEMS: usize = 12_000;
const ASSIGNMENTS: usize = 4_000;
const WORKS: usize = 20_000;
const SESSIONS: usize = 50_000;

/// A work as far as its events are held.
#[derive(Clone)]
pub(crate) struct KnownWork {
    pub id: WorkId,
    /// Of the assignment that it was folded with.
    pub version: i32,
    pub work: Arc<Work>,
    pub events: Chunks,
}

/// Events in the pieces in which they came.
#[derive(Clone, Default)]
pub(crate) struct Chunks(Vec<Arc<Vec<Recorded>>>);

impl Chunks {
    pub fn push(&mut self, events: Vec<Recorded>) {
        if !events.is_empty() {
            self.0.push(Arc::new(events));
        }
    }

    pub fn all(&self) -> Vec<Recorded> {
        self.0.iter().flat_map(|c| c.iter().cloned()).collect()
    }
}

pub(crate) struct Held {
    questions: Cache<Uuid, Arc<Question>>,
    items: Cache<(Uuid, u64), Arc<Item>>,
    assignments: Cache<Uuid, Arc<Stored>>,
    works: Cache<(Uuid, Uuid), Arc<KnownWork>>,
    /// Whose session it was when it was last looked up; the database is asked each time all the same.
    sessions: Cache<[u8; 32], PersonId>,
}

impl Held {
    pub fn new() -> Self {
        Held {
            questions: Cache::new(QUESTIONS),
            items: Cache::new(ITEMS),
            assignments: Cache::new(ASSIGNMENTS),
            works: Cache::new(WORKS),
            sessions: Cache::new(SESSIONS),
        }
    }

    pub fn work(&self, assignment: Uuid, student: PersonId) -> Option<Arc<KnownWork>> {
        self.works.get(&(assignment, student.0))
    }

    pub fn keep_work(&self, assignment: Uuid, student: PersonId, known: Arc<KnownWork>) {
        // Of two requests at once, the one that saw more stays.
        let newer = |old: &Arc<KnownWork>| {
            old.id == known.id && old.version == known.version && old.work.last_event > known.work.last_event
        };
        if !self.work(assignment, student).as_ref().is_some_and(newer) {
            self.works.insert((assignment, student.0), known);
        }
    }

    pub fn session(&self, token_hash: &[u8; 32]) -> Option<PersonId> {
        self.sessions.get(token_hash)
    }

    pub fn keep_session(&self, token_hash: [u8; 32], person: PersonId) {
        self.sessions.insert(token_hash, person);
    }
}

impl School {
    /// A version of a question.
    ///
    /// # Errors
    /// `NotFound` if there is none.
    pub async fn question(&self, id: QuestionId) -> Result<Arc<Question>, SchoolError> {
        if let Some(question) = self.held().questions.get(&id.0) {
            return Ok(question);
        }
        let found = store::reading(|| store::find_question(&self.pool, id)).await?;
        let question = Arc::new(found.ok_or(SchoolError::NotFound)?);
        self.held().questions.insert(id.0, question.clone());
        Ok(question)
    }

    /// Several versions, those that are not held in one statement.
    ///
    /// # Errors
    /// What the database said.
    pub async fn questions(
        &self,
        ids: &[QuestionId],
    ) -> Result<Vec<(QuestionId, Arc<Question>)>, SchoolError> {
        let held = &self.held().questions;
        let missing: Vec<Uuid> = ids
            .iter()
            .map(|id| id.0)
            .filter(|id| held.get(id).is_none())
            .collect();
        let mut loaded = Vec::new();
        if !missing.is_empty() {
            for (id, question) in store::reading(|| store::find_questions(&self.pool, &missing)).await? {
                let question = Arc::new(question);
                held.insert(id.0, question.clone());
                loaded.push((id, question));
            }
        }
        let find = |id: &QuestionId| {
            let fresh = loaded
                .iter()
                .find(|(known, _)| known == id)
                .map(|(_, q)| q.clone());
            Some((*id, fresh.or_else(|| held.get(&id.0))?))
        };
        Ok(ids.iter().filter_map(find).collect())
    }

    /// The newest version of every question of the bank.
    ///
    /// # Errors
    /// What the database said.
    pub async fn bank(&self) -> Result<Vec<(QuestionId, Arc<Question>)>, SchoolError> {
        let newest = store::reading(|| store::newest_versions(&self.pool)).await?;
        self.questions(&newest).await
    }

    /// A question with the numbers of a seed in place; drawn once, whoever asks.
    ///
    /// # Errors
    /// `Undrawable` if the question has a fault.
    pub async fn item(
        &self,
        id: QuestionId,
        question: &Arc<Question>,
        seed: u64,
        person: PersonId,
    ) -> Result<Arc<Item>, SchoolError> {
        if let Some(item) = self.held().items.get(&(id.0, seed)) {
            return Ok(item);
        }
        let source = question.clone();
        let drawn = self
            .compute(person, move || marking::render(&source, seed))
            .await?;
        let item = Arc::new(drawn.map_err(|error| SchoolError::Undrawable {
            question: question.id.clone(),
            error,
        })?);
        self.held().items.insert((id.0, seed), item.clone());
        Ok(item)
    }

    /// An assignment at a version; at whatever it is at now if none is named.
    ///
    /// # Errors
    /// `NotFound` if there is none; a conflict where it has moved on from the version.
    pub async fn assignment(&self, id: Uuid, version: Option<i32>) -> Result<Arc<Stored>, SchoolError> {
        let fits = |stored: &Arc<Stored>| version == Some(stored.version);
        if let Some(stored) = self.held().assignments.get(&id).filter(fits) {
            return Ok(stored);
        }
        let found = store::reading(|| store::find_assignment(&self.pool, id)).await?;
        let found = found.ok_or(SchoolError::NotFound)?;
        let questions = self.questions(&found.questions).await?;
        if questions.len() != found.questions.len() {
            return Err(SchoolError::Inside(
                "a question of an assignment is missing".into(),
            ));
        }
        let stored = Arc::new(Stored::new(found, questions));
        self.held().assignments.insert(id, stored.clone());
        if version.is_some_and(|wanted| wanted != stored.version) {
            return Err(StoreError::Conflict.into());
        }
        Ok(stored)
    }
}
