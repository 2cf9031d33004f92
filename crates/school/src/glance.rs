//! All of a student's assignments at a glance: where their work on each stands, without what was entered in it. What a page
//! costs that looks across all of them does not grow with what was done in each.

use std::collections::BTreeMap;
use std::fmt;
use std::sync::Arc;

use coursework::{Assignment, Attempt, Recorded, Work, attempts_in_work, fold, terms, time_up_due};
use sqlx::PgConnection;
use store::{Derived, DeskRow, Draft, PersonId, VisitedWork, WorkHead, WorkId};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::held::{Attempts, KnownDigest};
use crate::stored::Stored;

/// An assignment with the digest of one student's work on it.
pub struct Glance {
    pub stored: Arc<Stored>,
    pub assignment: Arc<Assignment>,
    pub work_id: Option<WorkId>,
    /// Without what was entered: nothing is checked or folded on from here.
    pub work: Arc<Work>,
    pub head: WorkHead,
    /// What is typed and was not checked, while the assignment is open.
    pub drafts: Arc<Vec<Draft>>,
    /// Everything that happened, where something of it is still to be told.
    pub events: Vec<Recorded>,
    pub now: OffsetDateTime,
    /// As it is kept; `None` where there is no work yet.
    known: Option<Arc<KnownDigest>>,
    /// How often drafts of it were kept.
    drafts_at: i64,
}

/// Stands for drafts that were not read.
const UNREAD: i64 = -1;

/// What is known of a work before the database is asked for more.
enum Known {
    Held(Arc<KnownDigest>),
    /// To be read, or to be made where it cannot be read.
    Behind,
    /// There is no work yet.
    Nothing,
}

impl Glance {
    /// Every assignment of a person's classes, the one that is due first before the others: in one statement, and a few more
    /// where something is not held yet.
    ///
    /// # Errors
    /// What the database said.
    pub async fn all(school: &School, person: PersonId) -> Result<Vec<Glance>, SchoolError> {
        let now = school.now();
        let ask = async |db: &mut PgConnection| store::desks_of(db, person).await;
        let rows = school.lanes.read(ask).await?;
        let mut found: Vec<(Arc<Stored>, DeskRow, Known)> = Vec::with_capacity(rows.len());
        let mut behind: Vec<WorkId> = Vec::new();
        let wanted: Vec<(Uuid, i32)> = rows.iter().map(|r| (r.assignment, r.visited.version)).collect();
        let stored = school.assignments(&wanted).await?;
        for (row, stored) in rows.into_iter().zip(stored) {
            let known = match &row.visited.work {
                None => Known::Nothing,
                Some(work) => match school.held_digest(row.assignment, person, work, stored.version) {
                    Some(held) => Known::Held(held),
                    None => {
                        behind.push(work.id);
                        Known::Behind
                    }
                },
            };
            found.push((stored, row, known));
        }
        let mut digests = BTreeMap::new();
        if !behind.is_empty() {
            digests = store::reading(|| store::digests_of(&school.pool, &behind)).await?;
        }
        let mut all = Vec::with_capacity(found.len());
        for (stored, row, known) in found {
            let Some(work) = row.visited.work else {
                all.push(Self::empty(stored, now));
                continue;
            };
            let held = match known {
                Known::Held(held) => held,
                Known::Behind | Known::Nothing => {
                    let digest = digests.remove(&work.id.0);
                    let fits =
                        digest.filter(|d| d.last_event == work.last_event && d.version == stored.version);
                    let state = match fits {
                        Some(digest) => digest.state,
                        None => made_anew(school, &stored, &work).await?,
                    };
                    let known = Arc::new(KnownDigest {
                        id: work.id,
                        version: stored.version,
                        work: Arc::new(state),
                        drafts: Arc::default(),
                        drafts_at: if work.drafts_at == 0 { 0 } else { UNREAD },
                        attempts: Attempts::default(),
                    });
                    school.keep_digest(stored.head.id, person, known.clone());
                    known
                }
            };
            let mut glance = Self::empty(stored, now);
            glance.work_id = Some(work.id);
            glance.head = work.head;
            glance.work = held.work.clone();
            glance.drafts_at = work.drafts_at;
            glance.known = Some(held);
            all.push(glance);
        }
        Self::end_what_is_over(school, person, &mut all).await?;
        Self::add_events(school, &mut all).await?;
        Self::add_drafts(school, person, &mut all).await?;
        all.sort_by_key(|g| (g.stored.head.settings.due, g.stored.head.id));
        Ok(all)
    }

    fn empty(stored: Arc<Stored>, now: OffsetDateTime) -> Glance {
        Glance {
            assignment: stored.assignment.clone(),
            stored,
            work_id: None,
            work: Arc::default(),
            head: WorkHead::default(),
            drafts: Arc::default(),
            events: Vec::new(),
            now,
            known: None,
            drafts_at: 0,
        }
    }

    /// Where the clock has run out, looking at the work ends it.
    async fn end_what_is_over(
        school: &School,
        person: PersonId,
        all: &mut [Glance],
    ) -> Result<(), SchoolError> {
        for glance in all {
            if time_up_due(&glance.assignment, &glance.work).is_none_or(|end| end > glance.now) {
                continue;
            }
            let desk = Desk::load(school, glance.stored.head.id, person).await?;
            glance.work = desk.work.clone();
            glance.known = desk.work_id.map(|id| {
                Arc::new(KnownDigest {
                    id,
                    version: desk.stored.version,
                    work: desk.work.clone(),
                    drafts: desk.drafts.clone(),
                    drafts_at: glance.drafts_at,
                    attempts: Attempts::default(),
                })
            });
        }
        Ok(())
    }

    async fn add_events(school: &School, all: &mut [Glance]) -> Result<(), SchoolError> {
        let told: Vec<(WorkId, u32)> = all
            .iter()
            .filter(|g| g.work.last_told > g.head.seen_event)
            .filter_map(|g| Some((g.work_id?, 0)))
            .collect();
        if told.is_empty() {
            return Ok(());
        }
        let mut events = store::reading(|| store::events_after(&school.pool, &told)).await?;
        for glance in all {
            let found = glance.work_id.and_then(|id| events.remove(&id.0));
            glance.events = found.unwrap_or_default();
        }
        Ok(())
    }

    /// What is typed matters only while it can still be handed in.
    async fn add_drafts(school: &School, person: PersonId, all: &mut [Glance]) -> Result<(), SchoolError> {
        let mut unread: Vec<WorkId> = Vec::new();
        for glance in all.iter_mut() {
            let Some(known) = &glance.known else { continue };
            if glance.now >= terms(&glance.assignment, &glance.work).closes {
                continue;
            }
            if known.drafts_at == glance.drafts_at {
                glance.drafts = known.drafts.clone();
            } else {
                unread.push(known.id);
            }
        }
        if unread.is_empty() {
            return Ok(());
        }
        let mut drafts = store::reading(|| store::drafts_of_all(&school.pool, &unread)).await?;
        for glance in all {
            let Some(known) = glance.known.as_ref().filter(|k| unread.contains(&k.id)) else {
                continue;
            };
            glance.drafts = Arc::new(drafts.remove(&known.id.0).unwrap_or_default());
            // What is read now may be newer already: then it is read again next time.
            let known = KnownDigest {
                drafts: glance.drafts.clone(),
                drafts_at: glance.drafts_at,
                ..KnownDigest::clone(known)
            };
            school.keep_digest(glance.stored.head.id, person, Arc::new(known));
        }
        Ok(())
    }

    /// The judged checks in this work; their source is left at 0.
    pub(crate) fn attempts(&self) -> &[Attempt] {
        let Some(known) = &self.known else { return &[] };
        known.attempts.get_or_init(|| {
            let ids: Vec<Arc<str>> = self
                .stored
                .questions
                .iter()
                .map(|(_, q)| q.id.as_str().into())
                .collect();
            attempts_in_work(&self.work, &ids, 0)
        })
    }
}

/// Folds a work whose digest is of another event, version or form, and writes it down for the next time.
async fn made_anew(school: &School, stored: &Stored, found: &VisitedWork) -> Result<Work, SchoolError> {
    let events = store::reading(|| store::events_of(&school.pool, found.id)).await?;
    let state = fold(&stored.assignment, &events);
    let derived = Derived::of(&stored.assignment, &state);
    // Where it has moved on since, whoever moved it has written it.
    store::put_derived(&school.pool, found.id, stored.version, derived).await?;
    Ok(state.digest())
}

/// What was written again.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Rebuilt {
    pub works: usize,
    pub runs: usize,
}

impl fmt::Display for Rebuilt {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        write!(
            f,
            "{} works and {} runs of practice worked out anew",
            self.works, self.runs
        )
    }
}

/// Works and runs looked at in one go.
const AT_A_TIME: i64 = 500;

/// Folds all work and all practice from nothing, and writes down what is derived from it. Servers may go on meanwhile.
///
/// # Errors
/// What the database said.
pub async fn rebuild(school: &School) -> Result<Rebuilt, SchoolError> {
    let mut done = Rebuilt::default();
    let mut last = None;
    loop {
        let works = store::works_after(&school.pool, last, AT_A_TIME).await?;
        for place in &works {
            let stored = school.assignment(place.assignment, None).await?;
            let events = store::events_of(&school.pool, place.work).await?;
            if !events.is_empty() {
                let state = fold(&stored.assignment, &events);
                let derived = Derived::of(&stored.assignment, &state);
                let written = store::put_derived(&school.pool, place.work, stored.version, derived).await?;
                done.works += usize::from(written);
            }
            last = Some(place.work);
        }
        if works.is_empty() {
            break;
        }
    }
    let mut last = None;
    loop {
        let runs = store::runs_after(&school.pool, last, AT_A_TIME).await?;
        let mut events = store::practice_events_of(&school.pool, &runs).await?;
        for run in &runs {
            if let Some(events) = events.remove(&run.0) {
                let state = coursework::fold_run(&events);
                done.runs += usize::from(store::put_run_digest(&school.pool, *run, &state).await?);
            }
            last = Some(*run);
        }
        if runs.is_empty() {
            return Ok(done);
        }
    }
}
