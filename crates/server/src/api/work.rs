//! Loading an assignment with one student's work on it, and changing that work in one transaction.

use coursework::{
    Assignment, Command, Entered, ItemRef, MarkedPart, MarkedQuestion, PartRef, Recorded, Refusal, ToMark,
    Work, decide, fold, time_up_due, to_mark_at_end,
};
use marking::{Item, Question};
use store::{Draft, Person, PersonId, StoreError, StoredAssignment, WorkId};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Site;
use crate::error::ApiError;

/// An assignment as one student sees it.
pub(crate) struct Desk {
    pub stored: StoredAssignment,
    pub assignment: Assignment,
    pub student: PersonId,
    pub work_id: Option<WorkId>,
    pub events: Vec<Recorded>,
    pub work: Work,
    pub now: OffsetDateTime,
}

pub(crate) fn assignment_of(stored: &StoredAssignment) -> Assignment {
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
    Assignment {
        settings: stored.head.settings.clone(),
        items: stored.questions.iter().map(|(_, q)| item(q)).collect(),
    }
}

pub(crate) fn entered(drafts: &[Draft]) -> Vec<Entered> {
    let one = |d: &Draft| Entered {
        question: d.question,
        set: d.set,
        part: d.part.clone(),
        response: d.response.clone(),
    };
    drafts.iter().map(one).collect()
}

impl Desk {
    /// # Errors
    /// `NotFound` unless the person is in the assignment's class.
    pub async fn find(site: &Site, id: Uuid, person: &Person) -> Result<Desk, ApiError> {
        let now = site.now();
        let stored = store::find_assignment(&site.pool, id, person.id)
            .await?
            .ok_or(ApiError::NotFound)?;
        Self::of(site, stored, person.id, now).await
    }

    /// Every assignment of a person's classes.
    pub async fn all(site: &Site, person: &Person) -> Result<Vec<Desk>, ApiError> {
        let now = site.now();
        let mut works = store::works_of(&site.pool, person.id).await?;
        let mut desks = Vec::new();
        for stored in store::whole_assignments_of(&site.pool, person.id).await? {
            let place = works.iter().position(|w| w.assignment == stored.head.id);
            let (work_id, events) = match place.map(|place| works.swap_remove(place)) {
                Some(work) => (Some(work.id), work.events),
                None => (None, Vec::new()),
            };
            desks.push(Self::with(site, stored, person.id, work_id, events, now).await?);
        }
        Ok(desks)
    }

    /// Whoever asks: for the clock and for corrections.
    pub async fn load(site: &Site, id: Uuid, student: PersonId) -> Result<Desk, ApiError> {
        let now = site.now();
        let stored = store::find_any_assignment(&site.pool, id)
            .await?
            .ok_or(ApiError::NotFound)?;
        Self::of(site, stored, student, now).await
    }

    async fn of(
        site: &Site,
        stored: StoredAssignment,
        student: PersonId,
        now: OffsetDateTime,
    ) -> Result<Desk, ApiError> {
        let work_id = store::find_work(&site.pool, stored.head.id, student).await?;
        let events = match work_id {
            Some(work) => store::events_of(&site.pool, work).await?,
            None => Vec::new(),
        };
        Self::with(site, stored, student, work_id, events, now).await
    }

    async fn with(
        site: &Site,
        stored: StoredAssignment,
        student: PersonId,
        work_id: Option<WorkId>,
        events: Vec<Recorded>,
        now: OffsetDateTime,
    ) -> Result<Desk, ApiError> {
        let assignment = assignment_of(&stored);
        let work = fold(&assignment, &events);
        let mut desk = Desk {
            stored,
            assignment,
            student,
            work_id,
            events,
            work,
            now,
        };
        desk.end_if_time_is_up(site).await?;
        Ok(desk)
    }

    async fn end_if_time_is_up(&mut self, site: &Site) -> Result<(), ApiError> {
        if time_up_due(&self.assignment, &self.work).is_none_or(|end| end > self.now) {
            return Ok(());
        }
        let marked = self.mark_drafts(site).await?;
        match self.run(site, &Command::TimeUp { marked }).await {
            Ok(()) => {
                tracing::info!(work = ?self.work_id.map(|w| w.0), "time was up: ended by the clock");
                Ok(())
            }
            // Another request or another server was first.
            Err(ApiError::Refused(Refusal::TimeNotUp)) => {
                if let Some(work) = self.work_id {
                    self.events = store::events_of(&site.pool, work).await?;
                    self.work = fold(&self.assignment, &self.events);
                }
                Ok(())
            }
            Err(other) => Err(other),
        }
    }

    pub async fn drafts(&self, site: &Site) -> Result<Vec<Draft>, ApiError> {
        Ok(match self.work_id {
            Some(work) => store::drafts_of(&site.pool, work).await?,
            None => Vec::new(),
        })
    }

    /// Marks what stands in the fields, as far as handing in takes it in.
    pub async fn mark_drafts(&self, site: &Site) -> Result<Vec<MarkedQuestion>, ApiError> {
        let drafts = entered(&self.drafts(site).await?);
        let mut marked = Vec::new();
        for wanted in to_mark_at_end(&self.assignment, &self.work, &drafts) {
            marked.push(self.mark(site, wanted).await?);
        }
        Ok(marked)
    }

    /// Marks responses to the current set of a question, off the async threads.
    pub async fn mark(&self, site: &Site, wanted: ToMark) -> Result<MarkedQuestion, ApiError> {
        let (_, source) = self
            .stored
            .questions
            .get(wanted.question)
            .ok_or(ApiError::NotFound)?;
        let source = source.clone();
        let question = wanted.question;
        let marked = site
            .compute(move || {
                marking::render(&source, wanted.seed).map(|item| mark_parts(&item, wanted.parts))
            })
            .await?;
        let parts = marked.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
        for m in &parts {
            let marking = &m.verdict.marking;
            tracing::info!(
                work = ?self.work_id.map(|w| w.0), question, part = m.part, outcome = marking.outcome.name(),
                evidence = marking.evidence.as_ref().map(evidence_name), "marked"
            );
        }
        Ok(MarkedQuestion { question, parts })
    }

    /// Runs a command: locks the work, decides on its newest state, appends, and folds again.
    pub async fn run(&mut self, site: &Site, command: &Command) -> Result<(), ApiError> {
        let work_id = match self.work_id {
            Some(id) => id,
            None => store::start_work(&site.pool, self.stored.head.id, self.student).await?,
        };
        self.work_id = Some(work_id);
        let mut tx = site.pool.begin().await?;
        let events = store::lock_work(&mut tx, work_id).await?;
        // A question that was corrected since it was loaded would be marked by the old key.
        let versions = store::question_versions(&mut *tx, self.stored.head.id).await?;
        if !versions.iter().eq(self.stored.questions.iter().map(|(id, _)| id)) {
            return Err(StoreError::Conflict.into());
        }
        let work = fold(&self.assignment, &events);
        let happened = decide(&self.assignment, &work, command, self.now)?;
        store::append(&mut tx, work_id, work.last_event, &happened, self.now).await?;
        let events = store::events_of(&mut *tx, work_id).await?;
        let work = fold(&self.assignment, &events);
        set_derived(&mut tx, work_id, &self.assignment, &work).await?;
        tx.commit().await?;
        self.events = events;
        self.work = work;
        Ok(())
    }

    pub fn source(&self, question: usize) -> Result<&Question, ApiError> {
        let (_, source) = self.stored.questions.get(question).ok_or(ApiError::NotFound)?;
        Ok(source)
    }

    /// The question with the numbers of a seed in place.
    pub async fn item_of(&self, site: &Site, question: usize, seed: u64) -> Result<Item, ApiError> {
        let source = self.source(question)?.clone();
        let item = site.compute(move || marking::render(&source, seed)).await?;
        item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))
    }

    /// The question with this student's newest numbers in place.
    pub async fn item(&self, site: &Site, question: usize) -> Result<Item, ApiError> {
        let set = self.work.questions.get(question).and_then(|q| q.current());
        let seed = set.map(|s| s.seed).ok_or(ApiError::NotFound)?;
        self.item_of(site, question, seed).await
    }
}

/// Keeps what is derived from a work's events beside it.
pub(crate) async fn set_derived(
    tx: &mut sqlx::PgConnection,
    work_id: WorkId,
    assignment: &Assignment,
    work: &Work,
) -> Result<(), StoreError> {
    let recorded = work.counting_hand_in(assignment).map(|h| h.recorded.percent());
    store::set_derived(tx, work_id, time_up_due(assignment, work), recorded).await
}

pub(crate) fn mark_parts(item: &Item, parts: Vec<(String, marking::Response)>) -> Vec<MarkedPart> {
    let mark = |(part, response): (String, marking::Response)| {
        let verdict = item.find_part(&part)?.mark(&response);
        Some(MarkedPart {
            part,
            response,
            verdict,
        })
    };
    parts.into_iter().filter_map(mark).collect()
}

fn evidence_name(evidence: &maths::Evidence) -> &'static str {
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
pub(crate) fn random_number() -> Result<u64, ApiError> {
    let mut bytes = [0u8; 8];
    getrandom::fill(&mut bytes).map_err(|e| ApiError::Inside(e.to_string()))?;
    Ok(u64::from_le_bytes(bytes) >> 11)
}

/// The seeds of set A of every question: none shows the worked example's numbers.
pub(crate) fn first_seeds(stored: &StoredAssignment, base: u64) -> Result<Vec<u64>, String> {
    let mut seeds = Vec::with_capacity(stored.questions.len());
    for (place, (_, question)) in (1u64..).zip(&stored.questions) {
        let base = base.wrapping_add(place.wrapping_mul(0x9e37_79b9_7f4a_7c15));
        let seed = marking::next_seed(question, base, &[]).map_err(|e| format!("`{}`: {e}", question.id))?;
        seeds.push(seed);
    }
    Ok(seeds)
}
