//! What a process holds so that it need not load and parse it again: questions, which never change; sets drawn from them;
//! assignments by version; and works, whose events are only ever added to. All of it is bounded, and all of it can be
//! dropped at any moment.

use std::collections::BTreeMap;
use std::sync::{Arc, OnceLock};
use std::time::Instant;

use coursework::{Attempt, Recorded, Run, Work, fold_run};
use marking::{Item, Question};
use quick_cache::sync::Cache;
use sqlx::PgConnection;
use store::{
    Draft, PageRead, PersonId, QuestionId, RunId, SlipNote, StartFound, StoreError, VisitedWork, WorkId,
};
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;
use crate::stored::Stored;

/// Questions: some 5 kB each.
const QUESTIONS: usize = 4_000;
/// Sets of questions: some 10 kB each.
const ITEMS: usize = 12_000;
const ASSIGNMENTS: usize = 4_000;
const WORKS: usize = 20_000;
/// Digests of works: some 3 kB each.
const DIGESTS: usize = 40_000;
const SESSIONS: usize = 50_000;
const PEOPLE: usize = 4_000;

/// A work as far as its events are held.
#[derive(Clone)]
pub(crate) struct KnownWork {
    pub id: WorkId,
    /// Of the assignment that it was folded with.
    pub version: i32,
    pub work: Arc<Work>,
    pub events: Chunks,
    pub drafts: Arc<Vec<Draft>>,
    /// How often drafts had been kept when these were read.
    pub drafts_at: i64,
    pub attempts: Attempts,
}

/// The digest of a work, at its last event.
#[derive(Clone)]
pub(crate) struct KnownDigest {
    pub id: WorkId,
    pub version: i32,
    pub work: Arc<Work>,
    pub drafts: Arc<Vec<Draft>>,
    /// How often drafts had been kept when these were read; below 0 where they were not.
    pub drafts_at: i64,
    pub attempts: Attempts,
}

/// The attempts in a work, worked out when they are first asked for.
pub(crate) type Attempts = Arc<OnceLock<Vec<Attempt>>>;

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

/// What a person has beside their assignments, as of a number of changes.
pub(crate) struct Beside {
    at: i64,
    pub runs: Vec<(RunId, Option<WorkId>, Arc<Run>)>,
    pub pages: Vec<PageRead>,
    pub notes: Vec<SlipNote>,
    pub starts: Vec<StartFound>,
    /// Of each recording: the share that was seen, and whether it is done.
    pub watched: BTreeMap<Uuid, (f64, bool)>,
}

pub(crate) struct Held {
    questions: Cache<Uuid, Arc<Question>>,
    items: Cache<(Uuid, u64), Arc<Item>>,
    assignments: Cache<Uuid, Arc<Stored>>,
    works: Cache<(Uuid, Uuid), Arc<KnownWork>>,
    digests: Cache<(Uuid, Uuid), Arc<KnownDigest>>,
    /// Whose session it was when it was last looked up, and when that was.
    sessions: Cache<[u8; 32], (PersonId, Instant)>,
    beside: Cache<Uuid, Arc<Beside>>,
}

impl Held {
    pub fn new() -> Self {
        Held {
            questions: Cache::new(QUESTIONS),
            items: Cache::new(ITEMS),
            assignments: Cache::new(ASSIGNMENTS),
            works: Cache::new(WORKS),
            digests: Cache::new(DIGESTS),
            sessions: Cache::new(SESSIONS),
            beside: Cache::new(PEOPLE),
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

    pub fn session(&self, token_hash: &[u8; 32]) -> Option<(PersonId, Instant)> {
        self.sessions.get(token_hash)
    }

    pub fn keep_session(&self, token_hash: [u8; 32], person: PersonId) {
        self.sessions.insert(token_hash, (person, Instant::now()));
    }

    pub fn forget_session(&self, token_hash: &[u8; 32]) {
        self.sessions.remove(token_hash);
    }

    /// Some sessions were ended, whichever.
    pub fn forget_sessions(&self) {
        self.sessions.clear();
    }

    pub fn assignment(&self, id: Uuid) -> Option<Arc<Stored>> {
        self.assignments.get(&id)
    }
}

fn render(question: &Question, seed: u64) -> Result<Item, SchoolError> {
    marking::render(question, seed).map_err(|error| SchoolError::Undrawable {
        question: question.id.clone(),
        error,
    })
}

impl School {
    /// Where a work stands, if it is held as of its last event: whole, or as its digest.
    pub(crate) fn held_digest(
        &self,
        assignment: Uuid,
        student: PersonId,
        found: &VisitedWork,
        version: i32,
    ) -> Option<Arc<KnownDigest>> {
        let place = (assignment, student.0);
        let stands = |id: WorkId, at: i32, work: &Work| {
            id == found.id && at == version && work.last_event == found.last_event
        };
        let whole = self.held().works.get(&place);
        let Some(whole) = whole.filter(|w| stands(w.id, w.version, &w.work)) else {
            let digest = self.held().digests.get(&place)?;
            return stands(digest.id, digest.version, &digest.work).then_some(digest);
        };
        let digest = Arc::new(KnownDigest {
            id: whole.id,
            version,
            work: whole.work.clone(),
            drafts: whole.drafts.clone(),
            drafts_at: whole.drafts_at,
            attempts: whole.attempts.clone(),
        });
        Some(digest)
    }

    pub(crate) fn keep_digest(&self, assignment: Uuid, student: PersonId, known: Arc<KnownDigest>) {
        self.held().digests.insert((assignment, student.0), known);
    }

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

    /// What a person has beside their assignments: practice, pages, notes.
    ///
    /// # Errors
    /// What the database said.
    pub(crate) async fn beside(&self, person: PersonId) -> Result<Arc<Beside>, SchoolError> {
        let ask = async |db: &mut PgConnection| store::beside_at(db, person).await;
        let at = self.lanes.read(ask).await?;
        if let Some(held) = self.held().beside.get(&person.0).filter(|b| b.at == at) {
            return Ok(held);
        }
        let mut runs = Vec::new();
        for run in store::reading(|| store::runs_of(&self.pool, person)).await? {
            let state = match run.state {
                Some(state) => state,
                None => self.run_made_anew(run.id).await?,
            };
            runs.push((run.id, run.work, Arc::new(state)));
        }
        let beside = Arc::new(Beside {
            // What is read now may be newer already: then it is read again next time.
            at,
            runs,
            pages: store::reading(|| store::pages_of(&self.pool, person)).await?,
            notes: store::reading(|| store::slip_notes(&self.pool, person)).await?,
            starts: store::reading(|| store::starts_of(&self.pool, person)).await?,
            watched: store::reading(|| store::watched_by(&self.pool, person))
                .await?
                .into_iter()
                .map(|(id, stops, watched)| (id, (stops.share(&watched), stops.is_done(&watched))))
                .collect(),
        });
        self.held().beside.insert(person.0, beside.clone());
        Ok(beside)
    }

    /// Folds a run whose digest is of another event or form, and writes it down for the next time.
    async fn run_made_anew(&self, run: RunId) -> Result<Run, SchoolError> {
        let events = store::reading(|| store::practice_events(&self.pool, run)).await?;
        let state = fold_run(&events);
        store::put_run_digest(&self.pool, run, &state).await?;
        Ok(state.digest())
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
        let item = Arc::new(self.compute(person, move || render(&source, seed)).await??);
        self.held().items.insert((id.0, seed), item.clone());
        Ok(item)
    }

    /// Draws set A of every question of an assignment; the items stay at hand for the board that is opened next.
    ///
    /// # Errors
    /// `Undrawable` for a question with a fault.
    pub async fn draw_first_sets(
        &self,
        stored: &Arc<Stored>,
        base: u64,
        person: PersonId,
    ) -> Result<Vec<u64>, SchoolError> {
        let source = stored.clone();
        let draw = move || -> Result<Vec<(u64, Item)>, SchoolError> {
            let seeds = source.first_seeds(base)?;
            let mut drawn = Vec::with_capacity(seeds.len());
            for (seed, (_, question)) in seeds.into_iter().zip(&source.questions) {
                drawn.push((seed, render(question, seed)?));
            }
            Ok(drawn)
        };
        let drawn = self.compute(person, draw).await??;
        let mut seeds = Vec::with_capacity(drawn.len());
        for ((seed, item), (id, _)) in drawn.into_iter().zip(&stored.questions) {
            self.held().items.insert((id.0, seed), Arc::new(item));
            seeds.push(seed);
        }
        Ok(seeds)
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
        let stored = self.load_assignments(&[id]).await?.pop();
        let stored = stored.ok_or(SchoolError::NotFound)?;
        if version.is_some_and(|wanted| wanted != stored.version) {
            return Err(StoreError::Conflict.into());
        }
        Ok(stored)
    }

    /// Assignments at versions, in their order; those that are not held in two statements.
    ///
    /// # Errors
    /// `NotFound` where there is none; a conflict where one has moved on from its version.
    pub(crate) async fn assignments(&self, wanted: &[(Uuid, i32)]) -> Result<Vec<Arc<Stored>>, SchoolError> {
        let mut known: BTreeMap<Uuid, Arc<Stored>> = BTreeMap::new();
        let mut missing: Vec<Uuid> = Vec::new();
        for (id, version) in wanted {
            match self.held().assignments.get(id).filter(|s| s.version == *version) {
                Some(stored) => drop(known.insert(*id, stored)),
                None => missing.push(*id),
            }
        }
        if !missing.is_empty() {
            let loaded = self.load_assignments(&missing).await?;
            known.extend(loaded.into_iter().map(|s| (s.head.id, s)));
        }
        let find = |(id, version): &(Uuid, i32)| {
            let stored = known.get(id).ok_or(SchoolError::NotFound)?;
            if stored.version == *version {
                Ok(stored.clone())
            } else {
                Err(StoreError::Conflict.into())
            }
        };
        wanted.iter().map(find).collect()
    }

    async fn load_assignments(&self, ids: &[Uuid]) -> Result<Vec<Arc<Stored>>, SchoolError> {
        let found = store::reading(|| store::find_assignments(&self.pool, ids)).await?;
        let mut needed: Vec<QuestionId> = found.iter().flat_map(|a| a.questions.clone()).collect();
        needed.sort_unstable_by_key(|q| q.0);
        needed.dedup();
        let loaded = self.questions(&needed).await?;
        let find = |id: &QuestionId| {
            let place = loaded.binary_search_by_key(&id.0, |(known, _)| known.0).ok()?;
            loaded.get(place).cloned()
        };
        let mut replies = store::reading(|| store::replies_in(&self.pool, ids)).await?;
        let mut all = Vec::with_capacity(found.len());
        for one in found {
            let questions: Option<Vec<_>> = one.questions.iter().map(find).collect();
            let questions = questions
                .ok_or_else(|| SchoolError::Inside("a question of an assignment is missing".into()))?;
            let (mine, others) = replies.into_iter().partition(|r| r.assignment == one.head.id);
            replies = others;
            let stored = Arc::new(Stored::new(one, questions, mine));
            self.held().assignments.insert(stored.head.id, stored.clone());
            all.push(stored);
        }
        Ok(all)
    }
}
