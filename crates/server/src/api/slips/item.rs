//! The question of a slip as it stood then.

use std::sync::Arc;

use coursework::SlipEntry;
use marking::{Item, Question};
use school::{Book, School, SchoolError};
use store::{PersonId, QuestionId};

pub(super) async fn slip_item(
    school: &School,
    person: PersonId,
    book: &Book,
    slip: &SlipEntry,
) -> Result<(Arc<Question>, Arc<Item>), SchoolError> {
    let (source, attempt) = (book.source(slip)?, &slip.attempt);
    let mut versions = source.versions.iter().rev();
    let (_, version) = versions
        .find(|(id, _)| **id == *attempt.question)
        .ok_or(SchoolError::NotFound)?;
    let version = QuestionId(*version);
    let question = school.question(version).await?;
    let item = school.item(version, &question, attempt.seed, person).await?;
    Ok((question, item))
}
