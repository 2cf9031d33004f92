//! Marking the parts of one question, and numbers from the operating system.

use std::sync::Arc;

use coursework::{MarkedPart, ToMark};
use marking::program::{Job, ProgramFault, Report, Reports};
use marking::{Item, Question, Response};
use runner::{NotRun, Place};
use store::PersonId;

use crate::School;
use crate::error::SchoolError;

/// The verdicts on what was given, before tries are used; what names no part of the question is left out.
pub fn mark_parts(item: &Item, parts: Vec<(String, Response)>) -> Vec<MarkedPart> {
    mark_beside(item, parts, Vec::new(), false)
}

impl School {
    /// Numbers of a question that are none of those named: earlier ones, and those that stand in an open homework.
    ///
    /// # Errors
    /// `Undrawable` if the question has a fault.
    pub async fn seed_apart(
        &self,
        person: PersonId,
        question: &Arc<Question>,
        base: u64,
        earlier: Vec<u64>,
        open: Vec<u64>,
    ) -> Result<Option<u64>, SchoolError> {
        let source = question.clone();
        let drawn = move || marking::seed_apart(&source, base, &earlier, &open);
        let found = self.compute(person, drawn).await?;
        found.map_err(|error| SchoolError::Undrawable {
            question: question.id.clone(),
            error,
        })
    }

    /// Runs the programs among what was given: marking is handed what came of them, and starts none itself.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too many wait; then nothing is used up.
    pub(crate) async fn run_programs(
        &self,
        person: PersonId,
        item: &Item,
        given: &[(String, Response)],
    ) -> Result<Reports, SchoolError> {
        let mut reports = Reports::default();
        for (id, response) in given {
            let jobs = item
                .find_part(id)
                .map(|p| p.posed.job_of(response))
                .unwrap_or_default();
            for job in jobs {
                let report = self.run_program(person, job.clone()).await?;
                let away = report
                    .ended
                    .as_ref()
                    .is_some_and(|e| e.kind == ProgramFault::Runner);
                if away {
                    return Err(SchoolError::Busy);
                }
                reports.add(job, report);
            }
        }
        Ok(reports)
    }

    /// Runs a program for somebody, in its turn.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too many wait.
    pub async fn run_program(&self, person: PersonId, job: Job) -> Result<Report, SchoolError> {
        runner::run_waiting(job, person.0).await.map_err(|e| match e {
            NotRun::Busy => SchoolError::Busy,
            NotRun::Ended(e) => SchoolError::Inside(e.to_string()),
        })
    }

    /// How many programs of others are before somebody's; none where it does not wait.
    pub fn place_of_program(&self, person: PersonId) -> Option<usize> {
        match runner::place_of(person.0) {
            Place::Waiting(before) => Some(before),
            Place::NotWaiting => None,
        }
    }

    /// The verdicts on what somebody gave, before tries are used.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs waits already.
    pub async fn mark(
        &self,
        person: PersonId,
        item: &Arc<Item>,
        given: Vec<(String, Response)>,
    ) -> Result<Vec<MarkedPart>, SchoolError> {
        let reports = self.run_programs(person, item, &given).await?;
        let item = item.clone();
        self.compute_beside(person, reports, move || mark_parts(&item, given))
            .await
    }
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
