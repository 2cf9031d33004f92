//! Loading an assignment with one student's work on it, and changing that work in one transaction.

use coursework::{Assignment, Command, ItemRef, PartRef, Work, decide, fold};
use marking::Item;
use store::{Person, StoredAssignment, WorkId};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Site;
use crate::error::ApiError;

/// An assignment as one student sees it.
pub(crate) struct Desk {
    pub stored: StoredAssignment,
    pub assignment: Assignment,
    pub work_id: Option<WorkId>,
    pub work: Work,
    pub now: OffsetDateTime,
}

pub(crate) fn assignment_of(stored: &StoredAssignment) -> Assignment {
    let item = |q: &marking::Question| ItemRef {
        points: q.points,
        parts: q
            .parts
            .iter()
            .map(|p| PartRef {
                id: p.id.clone(),
                share: p.share,
            })
            .collect(),
        max_attempts: None,
    };
    Assignment {
        settings: stored.head.settings.clone(),
        items: stored.questions.iter().map(|(_, q)| item(q)).collect(),
    }
}

impl Desk {
    /// # Errors
    /// `NotFound` unless the person is in the assignment's class.
    pub async fn find(site: &Site, id: Uuid, person: &Person) -> Result<Desk, ApiError> {
        let stored = store::find_assignment(&site.pool, id, person.id)
            .await?
            .ok_or(ApiError::NotFound)?;
        let assignment = assignment_of(&stored);
        let work_id = store::find_work(&site.pool, id, person.id).await?;
        let events = match work_id {
            Some(work) => store::events_of(&site.pool, work).await?,
            None => Vec::new(),
        };
        let work = fold(&assignment, &events);
        Ok(Desk {
            stored,
            assignment,
            work_id,
            work,
            now: OffsetDateTime::now_utc(),
        })
    }

    /// Runs a command: locks the work, decides on its newest state, appends, and folds again.
    pub async fn run(&mut self, site: &Site, person: &Person, command: &Command) -> Result<(), ApiError> {
        let work_id = match self.work_id {
            Some(id) => id,
            None => store::start_work(&site.pool, self.stored.head.id, person.id).await?,
        };
        self.work_id = Some(work_id);
        let mut tx = site.pool.begin().await?;
        let events = store::lock_work(&mut tx, work_id).await?;
        let work = fold(&self.assignment, &events);
        let happened = decide(&self.assignment, &work, command, self.now)?;
        store::append(&mut tx, work_id, work.last_event, &happened, self.now).await?;
        let events = store::events_of(&mut *tx, work_id).await?;
        tx.commit().await?;
        self.work = fold(&self.assignment, &events);
        Ok(())
    }

    /// The question with this student's numbers in place.
    pub async fn item(&self, site: &Site, question: usize) -> Result<Item, ApiError> {
        let seed = self
            .work
            .questions
            .get(question)
            .and_then(|q| q.current())
            .map(|s| s.seed);
        let (Some(seed), Some((_, source))) = (seed, self.stored.questions.get(question)) else {
            return Err(ApiError::NotFound);
        };
        let source = source.clone();
        let item = site.compute(move || marking::render(&source, seed)).await?;
        item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))
    }
}

/// Fresh seeds from the operating system, below 2^53 so that every JSON reader keeps them whole.
pub(crate) fn new_seeds(count: usize) -> Result<Vec<u64>, ApiError> {
    let mut seeds = Vec::with_capacity(count);
    for _ in 0..count {
        let mut bytes = [0u8; 8];
        getrandom::fill(&mut bytes).map_err(|e| ApiError::Inside(e.to_string()))?;
        seeds.push(u64::from_le_bytes(bytes) >> 11);
    }
    Ok(seeds)
}
