//! An assignment as it is held: with its questions, at a version.

use std::sync::Arc;

use coursework::{Assignment, ItemRef, PartRef};
use marking::Question;
use store::{AssignmentHead, QuestionId, StoredAssignment, TeacherReply};

use crate::error::SchoolError;

/// An assignment with its questions, as every student's desk shares it.
pub struct Stored {
    pub head: AssignmentHead,
    pub version: i32,
    pub assignment: Arc<Assignment>,
    pub questions: Vec<(QuestionId, Arc<Question>)>,
    /// What the teacher says to wrong entries, in the order in which it was written.
    pub replies: Vec<TeacherReply>,
}

impl Stored {
    pub(crate) fn new(
        found: StoredAssignment,
        questions: Vec<(QuestionId, Arc<Question>)>,
        replies: Vec<TeacherReply>,
    ) -> Self {
        let part = |p: &marking::Part| PartRef {
            id: p.id.clone(),
            share: p.share,
            max_attempts: p.max_attempts,
            opens_after: p.opens_after.clone(),
            by_hand: p.interaction.is_by_hand(),
        };
        let item = |(q, given): (&Question, i32)| ItemRef {
            points: u32::try_from(given).ok().filter(|p| *p > 0).unwrap_or(q.points),
            parts: q.parts.iter().map(part).collect(),
            all_parts_needed: q.all_parts_needed,
        };
        let assignment = Assignment {
            settings: found.head.settings.clone(),
            items: questions
                .iter()
                .map(|(_, q)| q.as_ref())
                .zip(found.points.iter().copied().chain(std::iter::repeat(0)))
                .map(item)
                .collect(),
        };
        Stored {
            head: found.head,
            version: found.version,
            assignment: Arc::new(assignment),
            questions,
            replies,
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
