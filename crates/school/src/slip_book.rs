//! The slip book of one student, from all of their work and practice.

use std::collections::BTreeMap;

use coursework::{
    Attempt, CheckedPart, Run, SlipEntry, Standing, Waiting, attempts_in_run, fold_run, slip_book,
    standing_checks, verdicts_visible,
};
use store::{PersonId, RunId, SlipNote, WorkId};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::learner::Learner;

/// Where attempts are kept: a work or a run, and what it is called.
pub struct Source {
    pub id: Uuid,
    /// It is a work; else it is a run of practice.
    pub is_work: bool,
    pub title: String,
    pub class: Option<String>,
    pub show_slips: bool,
    /// Versions of its questions, by the id of the question.
    pub versions: Vec<(String, Uuid)>,
}

pub struct Book {
    pub sources: Vec<Source>,
    /// The newest first.
    pub slips: Vec<SlipEntry>,
    pub notes: Vec<SlipNote>,
}

impl Book {
    /// # Errors
    /// What the database said.
    pub async fn load(school: &School, person: PersonId) -> Result<Book, SchoolError> {
        let glances = Glance::all(school, person).await?;
        let learner = Learner::of(school, person, &glances).await?;
        Ok(Self::of(&glances, &learner))
    }

    /// From the student's assignments and practice, where they are at hand.
    pub fn of(glances: &[Glance], learner: &Learner) -> Book {
        let (mut sources, mut attempts): (Vec<Source>, Vec<Attempt>) = (Vec::new(), Vec::new());
        for desk in glances {
            let Some(work) = desk
                .work_id
                .filter(|_| verdicts_visible(&desk.assignment, &desk.work, desk.now))
            else {
                continue;
            };
            let versions: Vec<(String, Uuid)> = desk
                .stored
                .questions
                .iter()
                .map(|(version, q)| (q.id.clone(), version.0))
                .collect();
            let source = sources.len();
            let here = |a: &Attempt| Attempt { source, ..a.clone() };
            attempts.extend(desk.attempts().iter().map(here));
            sources.push(Source {
                id: work.0,
                is_work: true,
                title: desk.stored.head.title.clone(),
                class: Some(desk.stored.head.class_title.clone()),
                show_slips: desk.assignment.settings.show_slips,
                versions,
            });
        }
        for practised in &learner.runs {
            let version = |d: &coursework::Drawn| Some((d.question.clone(), d.version.parse().ok()?));
            attempts.extend(attempts_in_run(&practised.run, sources.len()));
            sources.push(Source {
                id: practised.id.0,
                is_work: false,
                title: practised.title.clone(),
                class: practised.class.clone(),
                show_slips: true,
                versions: practised.run.drawn.iter().filter_map(version).collect(),
            });
        }
        Book {
            slips: slip_book(&attempts),
            sources,
            notes: learner.notes.clone(),
        }
    }

    /// # Errors
    /// `NotFound` for a slip of another book.
    pub fn source(&self, slip: &SlipEntry) -> Result<&Source, SchoolError> {
        self.sources.get(slip.attempt.source).ok_or(SchoolError::NotFound)
    }

    /// The slip of a check in a work or a run.
    pub fn slip(&self, source: Uuid, event: u32) -> Option<&SlipEntry> {
        let of = |s: &SlipEntry| self.sources.get(s.attempt.source).map(|found| found.id);
        self.slips
            .iter()
            .find(|s| s.attempt.event == event && of(s) == Some(source))
    }

    /// The slip that is named by its source and its event, with a full stop between them.
    pub fn find(&self, name: &str) -> Option<&SlipEntry> {
        let (source, event) = name.split_once('.')?;
        self.slip(source.parse().ok()?, event.parse().ok()?)
    }

    /// What was given at slips and was not right, in their order. Only the checks themselves are read.
    ///
    /// # Errors
    /// `NotFound` for a slip of another book; what the database said.
    pub async fn wrong_parts(
        &self,
        school: &School,
        slips: &[&SlipEntry],
    ) -> Result<Vec<Vec<CheckedPart>>, SchoolError> {
        let (mut in_works, mut in_runs): (Vec<(WorkId, u32)>, Vec<RunId>) = (Vec::new(), Vec::new());
        for slip in slips {
            let source = self.source(slip)?;
            if source.is_work {
                in_works.push((WorkId(source.id), slip.attempt.event));
            } else {
                in_runs.push(RunId(source.id));
            }
        }
        let (mut works, mut runs) = (BTreeMap::new(), BTreeMap::new());
        if !in_works.is_empty() {
            let events = store::reading(|| store::checks_at(&school.pool, &in_works)).await?;
            let standing = events
                .iter()
                .map(|(work, events)| (*work, standing_checks(events)));
            works = standing.collect();
        }
        if !in_runs.is_empty() {
            let events = store::reading(|| store::practice_events_of(&school.pool, &in_runs)).await?;
            runs = events
                .iter()
                .map(|(run, events)| (*run, fold_run(events)))
                .collect::<BTreeMap<Uuid, Run>>();
        }
        let mut all = Vec::with_capacity(slips.len());
        for slip in slips {
            let (id, event) = (self.source(slip)?.id, slip.attempt.event);
            let in_work = || Some(&works.get(&id)?.get(&event)?.parts);
            let in_run = || Some(&runs.get(&id)?.answered_at(event)?.parts);
            let given = in_work().or_else(in_run).ok_or(SchoolError::NotFound)?;
            all.push(given.iter().filter(|p| p.is_wrong()).cloned().collect());
        }
        Ok(all)
    }

    /// Mended slips that have come back.
    pub fn back(&self, now: OffsetDateTime) -> impl Iterator<Item = (&SlipEntry, OffsetDateTime)> {
        self.slips.iter().filter_map(move |slip| match slip.standing {
            Standing::Mended {
                comes_back: Some(at), ..
            } if at <= now => Some((slip, at)),
            _ => None,
        })
    }

    pub fn open(&self) -> impl Iterator<Item = &SlipEntry> {
        self.slips.iter().filter(|s| s.standing == Standing::Open)
    }

    /// What of it presses on Week.
    pub fn waiting(&self, now: OffsetDateTime) -> Waiting {
        Waiting {
            slips_back: self.back(now).count(),
            slips_since: self.back(now).map(|(_, at)| at).min(),
            ..Waiting::default()
        }
    }
}
