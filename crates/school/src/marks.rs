//! Marking the parts of one question, and numbers from the operating system.

use coursework::{MarkedPart, ToMark};
use marking::{Item, Response};

use crate::error::SchoolError;

/// The verdicts on what was given, before tries are used; what names no part of the question is left out.
pub fn mark_parts(item: &Item, parts: Vec<(String, Response)>) -> Vec<MarkedPart> {
    mark_beside(item, parts, Vec::new(), false)
}

/// The verdicts on what a work has to have marked.
pub(crate) fn mark_wanted(item: &Item, wanted: ToMark) -> Vec<MarkedPart> {
    mark_beside(item, wanted.parts, wanted.earlier, wanted.at_end)
}

/// What is given now stands before what was given earlier.
pub(crate) fn mark_beside(
    item: &Item,
    parts: Vec<(String, Response)>,
    earlier: Vec<(String, Response)>,
    at_end: bool,
) -> Vec<MarkedPart> {
    let others: Vec<(String, Response)> = parts.iter().cloned().chain(earlier).collect();
    let mark = |(part, response): (String, Response)| {
        let verdict = item.mark_beside(&part, &response, &others, at_end)?;
        Some(MarkedPart {
            part,
            response,
            verdict,
        })
    };
    parts.into_iter().filter_map(mark).collect()
}

pub(crate) fn evidence_name(evidence: &maths::Evidence) -> &'static str {
    use maths::Evidence as E;
    match evidence {
        E::ProvedEqual => "proved equal",
        E::ProvedDifferent { .. } => "proved different",
        E::Agreed { .. } => "agreed",
        E::Undefined { .. } => "undefined where the key is not",
        E::KeyHasNoValue => "key without value",
        E::EntryHasNoValue => "entry without value",
        E::Undecided => "undecided",
    }
}

/// A fresh number from the operating system, below 2^53 so that every JSON reader keeps it whole.
///
/// # Errors
/// If the operating system gives none.
pub fn random_number() -> Result<u64, SchoolError> {
    let mut bytes = [0u8; 8];
    getrandom::fill(&mut bytes).map_err(|e| SchoolError::Inside(e.to_string()))?;
    Ok(u64::from_le_bytes(bytes) >> 11)
}
