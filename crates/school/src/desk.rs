//! An assignment with one student's work on it: loaded in one statement, changed in one.

use std::sync::Arc;

use coursework::{
    Assignment, Command, Entered, Event, ItemRef, MarkedQuestion, PartRef, Recorded, Refusal, ToMark, Work,
    decide, fold, fold_on, time_up_due, to_mark_at_end,
};
use marking::{Item, Question};
use store::{
    Append, AssignmentHead, DeskRow, Draft, Person, PersonId, QuestionId, SaveDraft, Saved, StoreError,
    StoredAssignment, Visited, WorkHead, WorkId,
};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;
use crate::held::{Chunks, KnownWork};
use crate::marks::{evidence_name, mark_parts};

/// Times that a command is decided anew because someone else was first. Each time someone was: with as many as this
/// at once on one work, something is wrong.
const MOST_TURNS: usize = 64;

/// An assignment with its questions, as every student's desk shares it.
pub struct Stored {
    pub head: AssignmentHead,
    pub version: i32,
    pub assignment: Arc<Assignment>,
    pub questions: Vec<(QuestionId, Arc<Question>)>,
}

impl Stored {
    pub(crate) fn new(found: StoredAssignment, questions: Vec<(QuestionId, Arc<Question>)>) -> Self {
        let part = |p: &marking::Part| PartRef {
            id: p.id.clone(),
            share: p.share,
            max_attempts: p.max_attempts,
        };
        let item = |q: &Question| ItemRef {
            points: q.points,
            parts: q.parts.iter().map(part).collect(),
            all_parts_needed: q.all_parts_needed,
        };
        let assignment = Assignment {
            settings: found.head.settings.clone(),
            items: questions.iter().map(|(_, q)| item(q)).collect(),
        };
        Stored {
            head: found.head,
            version: found.version,
            assignment: Arc::new(assignment),
            questions,
        }
    }

    /// The seeds of set A of every question: none shows the worked example's numbers.
    ///
    /// # Errors
    /// `Undrawable` for a question with a fault.
    pub fn first_seeds(&self, base: u64) -> Result<Vec<u64>, SchoolError> {
        let mut seeds = Vec::with_capacity(self.questions.len());
        for (place, (_, question)) in (1u64..).zip(&self.questions) {
            let base = base.wrapping_add(place.wrapping_mul(0x9e37_79b9_7f4a_7c15));
            let seed = marking::next_seed(question, base, &[]);
            seeds.push(seed.map_err(|error| SchoolError::Undrawable {
                question: question.id.clone(),
                error,
            })?);
        }
        Ok(seeds)
    }
}

/// An assignment as one student has it.
pub struct Desk {
    pub stored: Arc<Stored>,
    pub assignment: Arc<Assignment>,
    pub student: PersonId,
    pub work_id: Option<WorkId>,
    pub work: Arc<Work>,
    pub head: WorkHead,
    pub drafts: Vec<Draft>,
    pub now: OffsetDateTime,
    events: Chunks,
}

pub fn entered(drafts: &[Draft]) -> Vec<Entered> {
    let one = |d: &Draft| Entered {
        question: d.question,
        set: d.set,
        part: d.part.clone(),
        response: d.response.clone(),
    };
    drafts.iter().map(one).collect()
}

impl Desk {
    /// What the holder of a session finds at an assignment, and who they are.
    ///
    /// # Errors
    /// `NotSignedIn` without a session, `NotFound` outside the assignment's class.
    pub async fn find(
        school: &School,
        id: Uuid,
        token_hash: [u8; 32],
    ) -> Result<(Desk, Person), SchoolError> {
        let now = school.now();
        let hint = school
            .held()
            .session(&token_hash)
            .and_then(|who| school.held().work(id, who));
        let known = hint.as_ref().map_or(0, |k| k.work.last_event);
        let ask = || store::find_visit(&school.pool, &token_hash, now, id, known);
        let visit = store::reading(ask).await?.ok_or(SchoolError::NotSignedIn)?;
        school.held().keep_session(token_hash, visit.person.id);
        let visited = visit.visited.ok_or(SchoolError::NotFound)?;
        let desk = Self::with(school, id, visit.person.id, visited, hint, now).await?;
        Ok((desk, visit.person))
    }

    /// Every assignment of a person's classes, in one statement, and one more where something is not held yet.
    ///
    /// # Errors
    /// What the database said.
    pub async fn all(school: &School, person: PersonId) -> Result<Vec<Desk>, SchoolError> {
        let now = school.now();
        let mut rows = store::reading(|| store::desks_of(&school.pool, person)).await?;
        let known = |row: &DeskRow| school.held().work(row.assignment, person);
        let stale = |row: &DeskRow| {
            let work = row.visited.work.as_ref()?;
            let held = known(row).filter(|k| k.id == work.id && k.version == row.visited.version);
            let from = held.map_or(0, |k| k.work.last_event);
            (from < work.last_event).then_some((work.id, from))
        };
        let wanted: Vec<(WorkId, u32)> = rows.iter().filter_map(stale).collect();
        if !wanted.is_empty() {
            let mut events = store::reading(|| store::events_after(&school.pool, &wanted)).await?;
            for work in rows.iter_mut().filter_map(|r| r.visited.work.as_mut()) {
                work.events = events.remove(&work.id.0).unwrap_or_default();
            }
        }
        let mut desks = Vec::with_capacity(rows.len());
        for row in rows {
            let hint = known(&row);
            desks.push(Self::with(school, row.assignment, person, row.visited, hint, now).await?);
        }
        desks.sort_by_key(|d| (d.stored.head.settings.due, d.stored.head.id));
        Ok(desks)
    }

    /// Whoever asks: for the clock, and after someone else was first.
    ///
    /// # Errors
    /// `NotFound` if there is no such assignment.
    pub async fn load(school: &School, id: Uuid, student: PersonId) -> Result<Desk, SchoolError> {
        let mut desk = Self::bare(school, id, student).await?;
        desk.end_if_time_is_up(school).await?;
        Ok(desk)
    }

    async fn bare(school: &School, id: Uuid, student: PersonId) -> Result<Desk, SchoolError> {
        let now = school.now();
        let stored = school.assignment(id, None).await?;
        let work = match store::find_work(&school.pool, id, student).await? {
            None => None,
            Some(work) => {
                let events = store::events_of(&school.pool, work).await?;
                Some(store::VisitedWork {
                    id: work,
                    last_event: events.last().map_or(0, |e| e.number),
                    head: store::get_head(&school.pool, work).await?,
                    events,
                    drafts: store::drafts_of(&school.pool, work).await?,
                })
            }
        };
        let version = stored.version;
        Self::build(school, stored, student, Visited { version, work }, None, now).await
    }

    async fn with(
        school: &School,
        id: Uuid,
        student: PersonId,
        visited: Visited,
        hint: Option<Arc<KnownWork>>,
        now: OffsetDateTime,
    ) -> Result<Desk, SchoolError> {
        let stored = school.assignment(id, Some(visited.version)).await?;
        let mut desk = Self::build(school, stored, student, visited, hint, now).await?;
        desk.end_if_time_is_up(school).await?;
        Ok(desk)
    }

    async fn build(
        school: &School,
        stored: Arc<Stored>,
        student: PersonId,
        visited: Visited,
        hint: Option<Arc<KnownWork>>,
        now: OffsetDateTime,
    ) -> Result<Desk, SchoolError> {
        let assignment = stored.assignment.clone();
        let mut desk = Desk {
            stored,
            assignment,
            student,
            work_id: None,
            work: Arc::default(),
            head: WorkHead::default(),
            drafts: Vec::new(),
            now,
            events: Chunks::default(),
        };
        let Some(found) = visited.work else {
            return Ok(desk);
        };
        desk.work_id = Some(found.id);
        desk.head = found.head;
        desk.drafts = found.drafts;
        let fits = |k: &Arc<KnownWork>| k.id == found.id && k.version == desk.stored.version;
        let first_new = found.events.first().map(|e| e.number);
        match hint {
            Some(known) if fits(&known) && first_new.is_none_or(|n| n == known.work.last_event + 1) => {
                desk.work = known.work.clone();
                desk.events = known.events.clone();
                if !found.events.is_empty() {
                    desk.take_in(found.events);
                    desk.keep(school);
                }
            }
            _ => {
                // Nothing usable is held: from the beginning.
                let whole =
                    first_new.is_none_or(|n| n == 1) && (first_new.is_some() || found.last_event == 0);
                let events = if whole {
                    found.events
                } else {
                    store::reading(|| store::events_of(&school.pool, found.id)).await?
                };
                desk.work = Arc::new(fold(&desk.assignment, &events));
                desk.events.push(events);
                desk.keep(school);
            }
        }
        Ok(desk)
    }

    /// Goes on from what is folded with what was added since.
    fn take_in(&mut self, new: Vec<Recorded>) {
        let folded = fold_on(&self.assignment, &self.work, &new);
        self.events.push(new);
        self.work = Arc::new(folded.unwrap_or_else(|| fold(&self.assignment, &self.events.all())));
    }

    fn keep(&self, school: &School) {
        let Some(id) = self.work_id else { return };
        let known = KnownWork {
            id,
            version: self.stored.version,
            work: self.work.clone(),
            events: self.events.clone(),
        };
        school
            .held()
            .keep_work(self.stored.head.id, self.student, Arc::new(known));
    }

    /// Everything that happened in this work.
    pub fn events(&self) -> Vec<Recorded> {
        self.events.all()
    }

    async fn reload(&mut self, school: &School) -> Result<(), SchoolError> {
        let newest = Self::bare(school, self.stored.head.id, self.student).await?;
        if newest.stored.version != self.stored.version {
            // A question that was corrected since would be marked by the old key.
            return Err(StoreError::Conflict.into());
        }
        // What reached the server before the end counts as of then.
        *self = Desk {
            now: self.now,
            ..newest
        };
        Ok(())
    }

    async fn end_if_time_is_up(&mut self, school: &School) -> Result<(), SchoolError> {
        if time_up_due(&self.assignment, &self.work).is_none_or(|end| end > self.now) {
            return Ok(());
        }
        match self
            .run_with_drafts(school, &|marked| Command::TimeUp { marked })
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
    pub async fn mark_drafts(&self, school: &School) -> Result<Vec<MarkedQuestion>, SchoolError> {
        let mut marked = Vec::new();
        for wanted in to_mark_at_end(&self.assignment, &self.work, &entered(&self.drafts)) {
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
        let parts = school
            .compute(self.student, move || mark_parts(&item, wanted.parts))
            .await?;
        for m in &parts {
            let marking = &m.verdict.marking;
            tracing::info!(
                work = ?self.work_id.map(|w| w.0), question, part = m.part, outcome = marking.outcome.name(),
                evidence = marking.evidence.as_ref().map(evidence_name), "marked"
            );
        }
        Ok(MarkedQuestion { question, parts })
    }

    /// Runs a command of the student's: decides on what is known, appends, and decides again where someone was first.
    ///
    /// # Errors
    /// Why it is refused; then nothing is changed.
    pub async fn run(&mut self, school: &School, command: &Command) -> Result<(), SchoolError> {
        for _ in 0..MOST_TURNS {
            let happened = decide(&self.assignment, &self.work, command, self.now)?;
            if happened.is_empty() {
                return Ok(());
            }
            let after = self.after(&happened);
            match store::append(&school.pool, &self.addition(&happened, &after, true)).await {
                Ok(work) => {
                    self.took(school, work, happened, after);
                    return Ok(());
                }
                Err(StoreError::Conflict) => self.reload(school).await?,
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
        command: &(dyn Fn(Vec<MarkedQuestion>) -> Command + Sync),
    ) -> Result<(), SchoolError> {
        for _ in 0..MOST_TURNS {
            let marked = self.mark_drafts(school).await?;
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
            if standing != self.drafts {
                self.drafts = standing;
                continue;
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

    fn addition<'a>(&self, events: &'a [Event], after: &Work, by_student: bool) -> Append<'a> {
        Append {
            assignment: self.stored.head.id,
            version: self.stored.version,
            student: self.student,
            work: self.work_id,
            last: self.work.last_event,
            events,
            at: self.now,
            ends_at: time_up_due(&self.assignment, after),
            recorded_percent: after
                .counting_hand_in(&self.assignment)
                .map(|h| h.recorded.percent()),
            by_student,
        }
    }

    fn took(&mut self, school: &School, work: WorkId, happened: Vec<Event>, after: Work) {
        let new = self.numbered(&happened);
        self.work_id = Some(work);
        self.events.push(new);
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
            match store::save_draft(&school.pool, work, self.work.last_event, draft, self.now).await? {
                Saved::At(revision) => {
                    self.put_in(draft, revision);
                    return Ok(Some(revision));
                }
                Saved::Elsewhere => {
                    self.drafts = store::drafts_of(&school.pool, work).await?;
                    return Ok(None);
                }
                Saved::MovedOn => self.reload(school).await?,
            }
        }
        Err(StoreError::Conflict.into())
    }

    fn put_in(&mut self, saved: &SaveDraft<'_>, revision: i64) {
        let same = |d: &Draft| d.question == saved.question && d.set == saved.set && d.part == saved.part;
        self.drafts.retain(|d| !same(d));
        self.drafts.push(Draft {
            question: saved.question,
            set: saved.set,
            part: saved.part.to_owned(),
            revision,
            response: saved.response.clone(),
            saved_at: self.now,
        });
    }

    /// # Errors
    /// `NotFound` for no such question.
    pub fn source(&self, question: usize) -> Result<&Arc<Question>, SchoolError> {
        let (_, source) = self.stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        Ok(source)
    }

    /// The question with the numbers of a seed in place.
    ///
    /// # Errors
    /// `NotFound` for no such question.
    pub async fn item_of(
        &self,
        school: &School,
        question: usize,
        seed: u64,
    ) -> Result<Arc<Item>, SchoolError> {
        let (id, source) = self.stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        school.item(*id, source, seed, self.student).await
    }

    /// The question with this student's newest numbers in place.
    ///
    /// # Errors
    /// `NotFound` for no such question, or before it was opened.
    pub async fn item(&self, school: &School, question: usize) -> Result<Arc<Item>, SchoolError> {
        let set = self.work.questions.get(question).and_then(|q| q.current());
        let seed = set.map(|s| s.seed).ok_or(SchoolError::NotFound)?;
        self.item_of(school, question, seed).await
    }

    /// The seeds of a question's sets.
    pub fn seeds(&self, question: usize) -> Vec<u64> {
        let state = self.work.questions.get(question);
        state
            .map(|q| q.sets.iter().map(|s| s.seed).collect())
            .unwrap_or_default()
    }
}
