//! What changes a work: decided on what is known, and decided again where someone was first.

use std::sync::Arc;

use coursework::{
    Command, End, Event, MarkedQuestion, Recorded, Refusal, ToMark, Work, decide, fold, fold_on, time_up_due,
    to_mark_at_end,
};
use marking::Response;
use sqlx::PgConnection;
use store::{Append, Derived, Draft, SaveDraft, Saved, Standing, StoreError, WorkId};

use super::{Desk, entered};
use crate::School;
use crate::error::SchoolError;
use crate::marks::{evidence_name, mark_wanted};

/// Times that a command is decided anew because someone else was first. Each time someone was: with as many as this
/// at once on one work, something is wrong.
const MOST_TURNS: usize = 64;
/// Stands for drafts that are not known to be all: they are read again.
const UNKNOWN: i64 = -1;

/// Whether the same stands in the same fields: a field's revision moves on with whatever is kept in it.
fn same_drafts(a: &[Draft], b: &[Draft]) -> bool {
    let places = |d: &Draft| (d.question, d.set, d.part.clone(), d.revision);
    a.iter().map(places).eq(b.iter().map(places))
}

impl Desk {
    pub(super) async fn end_if_time_is_up(&mut self, school: &School) -> Result<(), SchoolError> {
        if time_up_due(&self.assignment, &self.work).is_none_or(|end| end > self.now) {
            return Ok(());
        }
        match self
            .run_with_drafts(school, End::Clock, &|marked| Command::TimeUp { marked })
            .await
        {
            Ok(()) => {
                tracing::info!(work = ?self.work_id.map(|w| w.0), "time was up: ended by the clock");
                Ok(())
            }
            // Another request or another server was first.
            Err(SchoolError::Refused(Refusal::TimeNotUp)) => Ok(()),
            Err(other) => Err(other),
        }
    }

    /// Marks what stands in the fields, as far as handing in takes it in.
    ///
    /// # Errors
    /// If a question cannot be drawn.
    pub async fn mark_drafts(&self, school: &School, end: End) -> Result<Vec<MarkedQuestion>, SchoolError> {
        let mut marked = Vec::new();
        for wanted in to_mark_at_end(&self.assignment, &self.work, &entered(&self.drafts), end) {
            marked.push(self.mark(school, wanted).await?);
        }
        Ok(marked)
    }

    /// Marks responses to the current set of a question, off the async threads.
    ///
    /// # Errors
    /// `NotFound` for no such question, `Busy` where too much of this student's waits.
    pub async fn mark(&self, school: &School, wanted: ToMark) -> Result<MarkedQuestion, SchoolError> {
        let question = wanted.question;
        let item = self.item_of(school, question, wanted.seed).await?;
        let all: Vec<_> = wanted.parts.iter().chain(&wanted.earlier).cloned().collect();
        let reports = school.run_programs(self.student, &item, &all).await?;
        let parts = school
            .compute_beside(self.student, reports, move || mark_wanted(&item, wanted))
            .await?;
        for m in &parts {
            let Some(evidence) = &m.verdict.marking.evidence else {
                continue;
            };
            // What was proved is proved; what was not is worth looking at again.
            if !evidence.is_proof() {
                tracing::info!(
                    work = ?self.work_id.map(|w| w.0), question, part = m.part,
                    outcome = m.verdict.marking.outcome.name(), evidence = evidence_name(evidence), "marked"
                );
            }
        }
        Ok(MarkedQuestion { question, parts })
    }

    /// Runs a command of the student's: decides on what is known, appends, and decides again where someone was first.
    ///
    /// # Errors
    /// Why it is refused; then nothing is changed.
    pub async fn run(&mut self, school: &School, command: &Command) -> Result<(), SchoolError> {
        self.run_as(school, command, true).await
    }

    /// Runs a command of the teacher's: no sign of life of the student's.
    ///
    /// # Errors
    /// Why it is refused; then nothing is changed.
    pub async fn run_for_teacher(&mut self, school: &School, command: &Command) -> Result<(), SchoolError> {
        self.run_as(school, command, false).await
    }

    async fn run_as(
        &mut self,
        school: &School,
        command: &Command,
        by_student: bool,
    ) -> Result<(), SchoolError> {
        for _ in 0..MOST_TURNS {
            let happened = decide(&self.assignment, &self.work, command, self.now)?;
            if happened.is_empty() {
                return if self.claim.is_some() {
                    Err(StoreError::Conflict.into())
                } else {
                    Ok(())
                };
            }
            let after = self.after(&happened);
            let addition = self.addition(&happened, &after, by_student);
            let appended = school
                .lanes
                .run(async |db| store::append(db, &addition).await)
                .await;
            match appended {
                Ok(appended) => {
                    self.claim = None;
                    if appended.drafts_at != self.drafts_at && self.work_id.is_some() {
                        self.drafts = Arc::new(store::drafts_of(&school.pool, appended.work).await?);
                        self.drafts_at = appended.drafts_at;
                    }
                    self.took(school, appended.work, happened, after);
                    return Ok(());
                }
                Err(StoreError::Conflict) if self.claim.is_none() => self.reload(school).await?,
                Err(other) => return Err(other.into()),
            }
        }
        Err(StoreError::Conflict.into())
    }

    /// Runs a command that takes in what stands in the fields. What is marked is held against the drafts once nobody can
    /// write any more: one that was saved in between is marked too.
    ///
    /// # Errors
    /// Why it is refused; then nothing is changed.
    pub async fn run_with_drafts(
        &mut self,
        school: &School,
        end: End,
        command: &(dyn Fn(Vec<MarkedQuestion>) -> Command + Sync),
    ) -> Result<(), SchoolError> {
        if self.claim.is_some() {
            return Err(StoreError::Conflict.into());
        }
        for _ in 0..MOST_TURNS {
            let marked = self.mark_drafts(school, end).await?;
            let happened = decide(&self.assignment, &self.work, &command(marked), self.now)?;
            let work = self.work_id.ok_or(Refusal::NotOpened)?;
            let after = self.after(&happened);
            let mut tx = school.pool.begin().await?;
            let standing = match store::lock_at(&mut tx, work, self.work.last_event).await {
                Ok(drafts) => drafts,
                Err(StoreError::Conflict) => {
                    drop(tx);
                    self.reload(school).await?;
                    continue;
                }
                Err(other) => return Err(other.into()),
            };
            if !same_drafts(&standing, &self.drafts) {
                self.drafts = Arc::new(standing);
                self.drafts_at = UNKNOWN;
                continue;
            }
            if happened.is_empty() {
                return Ok(());
            }
            match store::append(&mut *tx, &self.addition(&happened, &after, false)).await {
                Ok(_) => {
                    tx.commit().await?;
                    self.took(school, work, happened, after);
                    return Ok(());
                }
                Err(StoreError::Conflict) => {
                    drop(tx);
                    self.reload(school).await?;
                }
                Err(other) => return Err(other.into()),
            }
        }
        Err(StoreError::Conflict.into())
    }

    fn after(&self, happened: &[Event]) -> Work {
        let new = self.numbered(happened);
        fold_on(&self.assignment, &self.work, &new).unwrap_or_else(|| {
            let mut events = self.events.all();
            events.extend(new);
            fold(&self.assignment, &events)
        })
    }

    fn numbered(&self, happened: &[Event]) -> Vec<Recorded> {
        let numbers = self.work.last_event + 1..;
        numbers
            .zip(happened)
            .map(|(number, event)| Recorded {
                number,
                at: self.now,
                event: event.clone(),
            })
            .collect()
    }

    fn addition<'a>(&'a self, events: &'a [Event], after: &'a Work, by_student: bool) -> Append<'a> {
        Append {
            assignment: self.stored.head.id,
            version: self.stored.version,
            student: self.student,
            work: self.work_id,
            last: self.work.last_event,
            events,
            after: Derived::of(&self.assignment, after),
            at: self.now,
            by_student,
            session: self.claim.as_ref().map(<[u8; 32]>::as_slice),
        }
    }

    fn took(&mut self, school: &School, work: WorkId, happened: Vec<Event>, after: Work) {
        let new = self.numbered(&happened);
        self.work_id = Some(work);
        self.events.push(new);
        self.attempts = Arc::default();
        self.work = Arc::new(after);
        self.keep(school);
    }

    /// Keeps what is typed, if it may be: `allowed` is asked on the newest state. Gives the revision, or `None` where
    /// another window was first; then the drafts are those that stand.
    ///
    /// # Errors
    /// Why it may not be kept.
    pub async fn save_draft(
        &mut self,
        school: &School,
        draft: &SaveDraft<'_>,
        allowed: impl Fn(&Desk) -> Result<(), Refusal>,
    ) -> Result<Option<i64>, SchoolError> {
        for _ in 0..MOST_TURNS {
            allowed(self)?;
            let work = self.work_id.ok_or(Refusal::NotOpened)?;
            let standing = Standing {
                assignment: self.stored.head.id,
                student: self.student,
                work,
                last: self.work.last_event,
                version: self.stored.version,
                session: self.claim.as_ref().map(<[u8; 32]>::as_slice),
            };
            let now = self.now;
            let keep = async |db: &mut PgConnection| store::save_draft(db, &standing, draft, now).await;
            let saved = school.lanes.run(keep).await?;
            if saved != Saved::MovedOn {
                self.claim = None;
            }
            match saved {
                Saved::At { revision, drafts_at } => {
                    // Another field may have been kept in between: then what is held here is not all.
                    let next = self.drafts_at + 1 == drafts_at;
                    self.drafts_at = if next { drafts_at } else { UNKNOWN };
                    self.put_in(draft, revision, draft.response.clone());
                    self.keep(school);
                    return Ok(Some(revision));
                }
                Saved::Elsewhere { revision, response } => {
                    if let Some(response) = response {
                        self.put_in(draft, revision, response);
                    }
                    return Ok(None);
                }
                Saved::MovedOn if self.claim.is_some() => return Err(StoreError::Conflict.into()),
                Saved::MovedOn => self.reload(school).await?,
            }
        }
        Err(StoreError::Conflict.into())
    }

    /// In the order in which drafts are read.
    fn put_in(&mut self, at: &SaveDraft<'_>, revision: i64, response: Response) {
        let drafts = Arc::make_mut(&mut self.drafts);
        let place = |d: &Draft| (d.question, d.set, d.part.as_str()).cmp(&(at.question, at.set, at.part));
        let new = Draft {
            question: at.question,
            set: at.set,
            part: at.part.to_owned(),
            revision,
            response,
            saved_at: self.now,
        };
        match drafts.binary_search_by(place) {
            Ok(there) => {
                if let Some(old) = drafts.get_mut(there) {
                    *old = new;
                }
            }
            Err(there) => drafts.insert(there, new),
        }
    }
}
