//! Marking the parts of one question, and numbers from the operating system.

use coursework::{MarkedPart, ToMark};
use marking::{Item, ItemPart, Response, ResponseVerdict};

use crate::error::SchoolError;

/// The verdicts on what was given, before tries are used; what names no part of the question is left out.
pub fn mark_parts(item: &Item, parts: Vec<(String, Response)>) -> Vec<MarkedPart> {
    verdicts(item, parts, ItemPart::mark)
}

/// The verdicts on what a work has to have marked.
pub(crate) fn mark_wanted(item: &Item, wanted: ToMark) -> Vec<MarkedPart> {
    if wanted.at_end {
        verdicts(item, wanted.parts, ItemPart::mark_as_it_stands)
    } else {
        mark_parts(item, wanted.parts)
    }
}

fn verdicts(
    item: &Item,
    parts: Vec<(String, Response)>,
    mark: impl Fn(&ItemPart, &Response) -> ResponseVerdict,
) -> Vec<MarkedPart> {
    let mark = |(part, response): (String, Response)| {
        let verdict = mark(item.find_part(&part)?, &response);
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
