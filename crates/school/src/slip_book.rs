//! The slip book of one student, from all of their work and practice.

use coursework::{Attempt, SlipEntry, Standing, Waiting, attempts_in_run, slip_book, verdicts_visible};
use store::{PersonId, SlipNote};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::learner::Learner;

/// Where attempts are kept: a work or a run, and what it is called.
pub struct Source {
    pub id: Uuid,
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
        let desks = Desk::all(school, person).await?;
        let learner = Learner::of(school, person, &desks).await?;
        Ok(Self::of(&desks, &learner))
    }

    /// From the student's desks and practice, where they are at hand.
    pub fn of(desks: &[Desk], learner: &Learner) -> Book {
        let (mut sources, mut attempts): (Vec<Source>, Vec<Attempt>) = (Vec::new(), Vec::new());
        for desk in desks {
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
