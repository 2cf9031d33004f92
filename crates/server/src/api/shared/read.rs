//! How an entry reads.

use std::sync::Arc;

use marking::{Item, LONGEST_RESPONSE, ResponseFault};
use school::{School, SchoolError};
use serde::Serialize;
use store::PersonId;
use utoipa::ToSchema;

use crate::http::error::ApiError;

/// Bytes of an entry that is read in less time than handing it to another thread takes.
const READ_AT_ONCE: usize = 80;

/// How an entry reads; nothing about whether it is right.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReadView {
    /// LaTeX; empty if it cannot be read.
    reads_as: String,
    speech: String,
    cautions: Vec<String>,
    problem: Option<ProblemPlace>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ProblemPlace {
    pub words: String,
    /// First character that is wrong, and the one past the last.
    pub start: usize,
    pub end: usize,
}

impl From<marking::Draft> for ReadView {
    fn from(draft: marking::Draft) -> Self {
        let problem = draft.problem;
        ReadView {
            reads_as: draft.reads_as,
            speech: draft.speech,
            cautions: draft.cautions,
            problem: problem.map(|(words, start, end)| ProblemPlace { words, start, end }),
        }
    }
}

/// How an entry for a part of a question reads; `part/place` for one of the places of a part that has several.
pub(crate) async fn read_in(
    school: &School,
    person: PersonId,
    item: Arc<Item>,
    part: String,
    entry: String,
) -> Result<ReadView, ApiError> {
    check_length(&entry)?;
    let at_once = entry.len() <= READ_AT_ONCE;
    let read = move || match part.split_once('/') {
        Some((part, place)) => item.find_part(part)?.posed.read_at(place, &entry),
        None => item.find_part(&part)?.posed.read(&entry),
    };
    let read = if at_once {
        read()
    } else {
        school.compute(person, read).await?
    };
    Ok(read.ok_or(SchoolError::NotFound)?.into())
}

/// What is only read is bounded as what is kept.
pub(crate) fn check_length(entry: &str) -> Result<(), ResponseFault> {
    if entry.len() > LONGEST_RESPONSE && entry.chars().count() > LONGEST_RESPONSE {
        return Err(ResponseFault::TooLong);
    }
    Ok(())
}
