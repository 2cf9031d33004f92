//! Marking the parts of one question, and numbers from the operating system.

use coursework::MarkedPart;
use marking::{Item, Response};

use crate::error::SchoolError;

/// The verdicts on what was given; what names no part of the question is left out.
pub fn mark_parts(item: &Item, parts: Vec<(String, Response)>) -> Vec<MarkedPart> {
    let mark = |(part, response): (String, Response)| {
        let verdict = item.find_part(&part)?.mark(&response);
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
