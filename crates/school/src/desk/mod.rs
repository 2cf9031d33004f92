//! An assignment with one student's work on it: loaded in one statement, changed in one.

mod act;
mod load;

use std::sync::Arc;

use coursework::{Assignment, Entered, ItemRef, PartRef, Recorded, Work};
use marking::{Item, Question};
use store::{AssignmentHead, Draft, PersonId, QuestionId, StoredAssignment, WorkHead, WorkId};
use time::OffsetDateTime;

use crate::School;
use crate::error::SchoolError;
use crate::held::{Attempts, Chunks};

/// An assignment with its questions, as every student's desk shares it.
pub struct Stored {
    pub head: AssignmentHead,
    pub version: i32,
    pub assignment: Arc<Assignment>,
    pub questions: Vec<(QuestionId, Arc<Question>)>,
}

impl Stored {
    pub(crate) fn new(found: StoredAssignment, questions: Vec<(QuestionId, Arc<Question>)>) -> Self {
        let part = |p: &marking::Part| PartRef {
            id: p.id.clone(),
            share: p.share,
            max_attempts: p.max_attempts,
        };
        let item = |q: &Question| ItemRef {
            points: q.points,
            parts: q.parts.iter().map(part).collect(),
            all_parts_needed: q.all_parts_needed,
        };
        let assignment = Assignment {
            settings: found.head.settings.clone(),
            items: questions.iter().map(|(_, q)| item(q)).collect(),
        };
        Stored {
            head: found.head,
            version: found.version,
            assignment: Arc::new(assignment),
            questions,
        }
    }

    /// The seeds of set A of every question: none shows the worked example's numbers.
    ///
    /// # Errors
    /// `Undrawable` for a question with a fault.
    pub fn first_seeds(&self, base: u64) -> Result<Vec<u64>, SchoolError> {
        let mut seeds = Vec::with_capacity(self.questions.len());
        for (place, (_, question)) in (1u64..).zip(&self.questions) {
            let base = base.wrapping_add(place.wrapping_mul(0x9e37_79b9_7f4a_7c15));
            let seed = marking::next_seed(question, base, &[]);
            seeds.push(seed.map_err(|error| SchoolError::Undrawable {
                question: question.id.clone(),
                error,
            })?);
        }
        Ok(seeds)
    }
}

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
