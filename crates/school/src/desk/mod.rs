//! An assignment with one student's work on it: loaded in one statement, changed in one.

mod act;
mod load;

use std::sync::Arc;

use coursework::{Assignment, Entered, Recorded, Work};
use marking::{Item, Question};
use store::{Draft, PersonId, WorkHead, WorkId};
use time::OffsetDateTime;

use crate::School;
use crate::error::SchoolError;
use crate::held::{Attempts, Chunks};
use crate::stored::Stored;

/// An assignment as one student has it.
pub struct Desk {
    pub stored: Arc<Stored>,
    pub assignment: Arc<Assignment>,
    pub student: PersonId,
    pub work_id: Option<WorkId>,
    pub work: Arc<Work>,
    pub head: WorkHead,
    pub drafts: Arc<Vec<Draft>>,
    /// How often drafts had been kept when these were read.
    drafts_at: i64,
    /// The hash of a session's token that was not looked up: whatever is changed has to hold it against the database in the
    /// same statement.
    claim: Option<[u8; 32]>,
    pub now: OffsetDateTime,
    events: Chunks,
    attempts: Attempts,
}

pub fn entered(drafts: &[Draft]) -> Vec<Entered> {
    let one = |d: &Draft| Entered {
        question: d.question,
        set: d.set,
        part: d.part.clone(),
        response: d.response.clone(),
    };
    drafts.iter().map(one).collect()
}

impl Desk {
    /// Everything that happened in this work.
    pub fn events(&self) -> Vec<Recorded> {
        self.events.all()
    }

    /// # Errors
    /// `NotFound` for no such question.
    pub fn source(&self, question: usize) -> Result<&Arc<Question>, SchoolError> {
        let (_, source) = self.stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        Ok(source)
    }

    /// The question with the numbers of a seed in place.
    ///
    /// # Errors
    /// `NotFound` for no such question.
    pub async fn item_of(
        &self,
        school: &School,
        question: usize,
        seed: u64,
    ) -> Result<Arc<Item>, SchoolError> {
        let (id, source) = self.stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        school.item(*id, source, seed, self.student).await
    }

    /// The question with this student's newest numbers in place.
    ///
    /// # Errors
    /// `NotFound` for no such question, or before it was opened.
    pub async fn item(&self, school: &School, question: usize) -> Result<Arc<Item>, SchoolError> {
        let set = self.work.questions.get(question).and_then(|q| q.current());
        let seed = set.map(|s| s.seed).ok_or(SchoolError::NotFound)?;
        self.item_of(school, question, seed).await
    }
}
