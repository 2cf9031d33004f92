//! Paper copies: each student's own numbers, those that they have on the screen. Who has not opened the work yet gets the
//! numbers of their copy once they do.

use std::sync::Arc;

use marking::Item;
use store::{PaperCopy, Person, PersonId};
use uuid::Uuid;

use crate::School;
use crate::classes::new_code;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::marks::random_number;

/// One question of a paper copy.
#[derive(Clone)]
pub struct OnPaper {
    pub question: usize,
    pub points: u32,
    pub item: Arc<Item>,
}

/// A student's paper copy.
#[derive(Clone)]
pub struct Copy {
    pub student: Person,
    pub code: String,
    pub questions: Vec<OnPaper>,
}

/// The paper copy that a student has, made if there is none.
///
/// # Errors
/// What the database said.
pub async fn copy_of(school: &School, assignment: Uuid, student: PersonId) -> Result<PaperCopy, SchoolError> {
    let new = PaperCopy {
        code: new_code()?,
        base: random_number()?,
    };
    Ok(store::paper_copy(&school.pool, assignment, student, &new, school.now()).await?)
}

/// What the first numbers of somebody's work are drawn from: those of their paper copy where they have one.
///
/// # Errors
/// What the database said.
pub async fn base_of(school: &School, assignment: Uuid, student: PersonId) -> Result<u64, SchoolError> {
    match store::paper_base(&school.pool, assignment, student).await? {
        Some(base) => Ok(base),
        None => random_number(),
    }
}

/// A student's paper copy with its questions.
///
/// # Errors
/// What the database said, or `Undrawable` for a question with a fault.
pub async fn copy(school: &School, assignment: Uuid, student: Person) -> Result<Copy, SchoolError> {
    let desk = Desk::load(school, assignment, student.id).await?;
    let copy = copy_of(school, assignment, student.id).await?;
    let seeds: Vec<u64> = if desk.work.opened_at.is_none() {
        school
            .draw_first_sets(&desk.stored, copy.base, student.id)
            .await?
    } else {
        let current = |q: &coursework::QuestionState| q.current().map(|s| s.seed);
        desk.work.questions.iter().filter_map(current).collect()
    };
    let mut questions = Vec::new();
    for (question, seed) in seeds.into_iter().enumerate() {
        let item = desk.item_of(school, question, seed).await?;
        let points = desk.assignment.items.get(question).map_or(0, |i| i.points);
        questions.push(OnPaper {
            question,
            points,
            item,
        });
    }
    Ok(Copy {
        student,
        code: copy.code,
        questions,
    })
}

/// The paper copies of everybody whose work an assignment is.
///
/// # Errors
/// As for [`copy`].
pub async fn copies(school: &School, assignment: Uuid) -> Result<Vec<Copy>, SchoolError> {
    let mut all = Vec::new();
    for student in store::students_of_assignment(&school.pool, assignment).await? {
        all.push(copy(school, assignment, student).await?);
    }
    Ok(all)
}
