//! A corrected question: all stored responses are marked anew, each work in one transaction; the earlier verdicts and
//! scores stay in the record, and the students concerned are told.

use std::collections::BTreeMap;
use std::fmt;
use std::sync::Arc;

use coursework::{
    CheckedPart, Correction, Event, PracticeEvent, Recorded, Remark, fold, fold_run, standing_checks,
};
use marking::program::Reports;
use marking::{Item, Part, Question, RenderError, Response};
use store::{Append, Derived, PersonId, QuestionId, QuestionUse, RunId, StoreError, WorkId};

use crate::School;
use crate::error::SchoolError;
use crate::marks::mark_beside;

/// Why responses were not marked anew.
#[derive(Debug, thiserror::Error)]
pub enum RegradeError {
    #[error("there is no question `{0}`; load its file first")]
    NoQuestion(String),
    #[error(
        "`{0}`: its numbers changed, so responses to the old ones can't be marked by it. Give the question a new id."
    )]
    NumbersChanged(String),
    #[error(
        "`{0}`: its parts or choices changed, so stored responses can't be marked by it. Give the question a new id."
    )]
    PartsChanged(String),
    #[error(transparent)]
    Undrawable(#[from] RenderError),
    #[error(transparent)]
    School(#[from] SchoolError),
    #[error(transparent)]
    Store(#[from] StoreError),
}

impl From<sqlx::Error> for RegradeError {
    fn from(error: sqlx::Error) -> Self {
        RegradeError::Store(error.into())
    }
}

/// What a correction did.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Regraded {
    pub assignments: usize,
    pub works: usize,
    /// Works whose marking changed.
    pub changed: usize,
    /// Runs of practice whose marking changed.
    pub runs_changed: usize,
}

impl fmt::Display for Regraded {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        write!(
            f,
            "{} assignments, {} works looked at, {} marked differently now; {} runs of practice too",
            self.assignments, self.works, self.changed, self.runs_changed
        )
    }
}

/// Puts the newest version of a question in place wherever it is used, and marks every stored response by it. It can be
/// run again after it was cut off.
///
/// # Errors
/// If there is no such question, if more than its marking, texts and help changed, or what the database said.
pub async fn regrade(school: &School, slug: &str) -> Result<Regraded, RegradeError> {
    correct(school, slug, None, None).await
}

/// Who corrects a question, and why.
#[derive(Clone, Copy, Debug)]
pub struct Corrector<'a> {
    pub who: uuid::Uuid,
    pub why: &'a str,
}

/// What a correction would do to one student's work.
#[derive(Clone, Debug, PartialEq)]
pub struct WouldChange {
    pub assignment: uuid::Uuid,
    pub student: PersonId,
    /// Per cent: recorded where something was handed in, as it stands otherwise.
    pub before: f64,
    pub after: f64,
}

/// What putting the newest version of a question in place in some assignments would do, without doing it.
///
/// # Errors
/// As for [`regrade`].
pub async fn preview(
    school: &School,
    slug: &str,
    among: &[uuid::Uuid],
) -> Result<Vec<WouldChange>, RegradeError> {
    let pool = &school.pool;
    let none = || RegradeError::NoQuestion(slug.to_owned());
    let newest = store::find_question_by_slug(pool, slug).await?.ok_or_else(none)?;
    let question = store::find_question(pool, newest).await?.ok_or_else(none)?;
    let mut changes = Vec::new();
    for place in store::uses_of(pool, slug).await? {
        if place.version == newest || !among.contains(&place.assignment) {
            continue;
        }
        if let Some(old) = store::find_question(pool, place.version).await? {
            same_sets(&old, &question)?;
        }
        for (work, student) in store::works_on(pool, place.assignment).await? {
            let mut items = BTreeMap::new();
            let Some(again) = remarked(school, &place, newest, work, &question, &mut items, None).await?
            else {
                continue;
            };
            let percent = |work: &coursework::Work| match work.counting_hand_in(&again.stored.assignment) {
                Some(h) => h.recorded.percent(),
                None => coursework::score_so_far(&again.stored.assignment, work).percent(),
            };
            changes.push(WouldChange {
                assignment: place.assignment,
                student,
                before: percent(&again.before),
                after: percent(&again.after),
            });
        }
    }
    Ok(changes)
}

/// As [`regrade`], in some assignments only where they are named, and with who did it and why.
///
/// # Errors
/// As for [`regrade`].
pub async fn correct(
    school: &School,
    slug: &str,
    among: Option<&[uuid::Uuid]>,
    by: Option<Corrector<'_>>,
) -> Result<Regraded, RegradeError> {
    let pool = &school.pool;
    let none = || RegradeError::NoQuestion(slug.to_owned());
    let newest = store::find_question_by_slug(pool, slug).await?.ok_or_else(none)?;
    let question = store::find_question(pool, newest).await?.ok_or_else(none)?;
    let mut uses = store::uses_of(pool, slug).await?;
    uses.retain(|u| among.is_none_or(|among| among.contains(&u.assignment)));
    for place in uses.iter().filter(|u| u.version != newest) {
        if let Some(old) = store::find_question(pool, place.version).await? {
            same_sets(&old, &question)?;
        }
    }
    let mut done = Regraded::default();
    for place in &uses {
        // First the version, so that no check is marked by the old key any more; those that had begun before are waited
        // for; then each work.
        if place.version != newest {
            store::set_version(pool, place, newest).await?;
        }
        store::wait_for_earlier(pool).await?;
        done.assignments += 1;
        for (work, student) in store::works_on(pool, place.assignment).await? {
            done.works += 1;
            let changed = regrade_work(school, place, newest, (work, student), &question, by).await?;
            done.changed += usize::from(changed);
        }
    }
    // Practice belongs to no assignment of one teacher's: it is marked anew only where everything is.
    let runs = match among {
        Some(_) => Vec::new(),
        None => store::runs_on(pool, slug).await?,
    };
    for run in runs {
        done.runs_changed += usize::from(regrade_run(school, run, newest, &question).await?);
    }
    Ok(done)
}

/// Marks a run's answers to a question anew. What was handed in of it stays as it was recorded.
async fn regrade_run(
    school: &School,
    run_id: RunId,
    version: QuestionId,
    question: &Question,
) -> Result<bool, RegradeError> {
    let run = fold_run(&store::practice_events(&school.pool, run_id).await?);
    let version = version.0.to_string();
    let mut events = Vec::new();
    for (nth, drawn) in (1..).zip(&run.drawn).filter(|(_, d)| d.question == question.id) {
        let Some(answered) = drawn.answered.as_ref().filter(|_| drawn.version != version) else {
            continue;
        };
        if let Some(old) = find_version(school, &drawn.version).await? {
            same_sets(&old, question)?;
        }
        let item = rendered(school, question, drawn.seed).await?;
        let again = mark_again(school, &item, &answered.parts, Vec::new(), false).await?;
        if again.iter().map(judged).eq(answered.parts.iter().map(judged)) {
            continue;
        }
        let right = again.iter().all(|p| p.score >= 1.0);
        events.push(PracticeEvent::Corrected {
            nth,
            version: version.clone(),
            parts: again,
            right,
        });
    }
    // Marked outside the transaction; what was answered meanwhile is answered to the new key.
    let mut tx = school.pool.begin().await?;
    let mut run = fold_run(&store::lock_run(&mut tx, run_id).await?);
    for event in &events {
        run = run.after(event, school.now());
        store::append_practice(&mut tx, run_id, event, &run, school.now()).await?;
    }
    tx.commit().await?;
    Ok(!events.is_empty())
}

async fn find_version(school: &School, version: &str) -> Result<Option<Question>, RegradeError> {
    let Ok(id) = version.parse() else { return Ok(None) };
    Ok(store::find_question(&school.pool, QuestionId(id)).await?)
}

/// The same responses by this item's key, beside what was given for other parts before.
async fn mark_again(
    school: &School,
    item: &Arc<Item>,
    parts: &[CheckedPart],
    earlier: Vec<(String, Response)>,
    at_end: bool,
) -> Result<Vec<CheckedPart>, SchoolError> {
    let given: Vec<_> = parts
        .iter()
        .map(|p| (p.part.clone(), p.response.clone()))
        .collect();
    let all: Vec<_> = given.iter().chain(&earlier).cloned().collect();
    let reports = school.run_programs(FOR_ALL, item, &all).await?;
    let item = item.clone();
    let marked = move || mark_beside(&item, given, earlier, at_end);
    let marked = school.compute_for_all(reports, marked).await?;
    Ok(marked.iter().map(CheckedPart::new).collect())
}

/// Whose programs run while answers are marked anew: one at a time, in turn with those of people.
const FOR_ALL: PersonId = PersonId(uuid::Uuid::nil());

/// A question with the numbers of a seed, off the async threads.
async fn rendered(school: &School, question: &Question, seed: u64) -> Result<Arc<Item>, RegradeError> {
    let question = question.clone();
    let drawn = move || marking::render(&question, seed);
    Ok(Arc::new(
        school.compute_for_all(Reports::default(), drawn).await??,
    ))
}

/// What marking comes to.
fn judged(part: &CheckedPart) -> (marking::Outcome, u64) {
    (part.outcome, part.score.to_bits())
}

/// Whether the same seeds still give the same sets, so that stored responses mean what they meant.
fn same_sets(old: &Question, new: &Question) -> Result<(), RegradeError> {
    let slug = &new.id;
    if old.numbers != new.numbers || old.conditions != new.conditions {
        return Err(RegradeError::NumbersChanged(slug.clone()));
    }
    let shape = |p: &Part| (p.id.clone(), p.interaction.shape());
    if !old.parts.iter().map(shape).eq(new.parts.iter().map(shape)) {
        return Err(RegradeError::PartsChanged(slug.clone()));
    }
    Ok(())
}

/// Times that a work is looked at again because it moved on meanwhile.
const MOST_TURNS: usize = 32;

/// A work with a question marked anew, before it is kept.
struct Again {
    stored: std::sync::Arc<crate::stored::Stored>,
    before: coursework::Work,
    after: coursework::Work,
    happened: [Event; 1],
    at: time::OffsetDateTime,
}

/// Marks the responses of a work to a question by its new version. `None` where nothing comes out differently.
async fn remarked(
    school: &School,
    place: &QuestionUse,
    version: QuestionId,
    work: WorkId,
    question: &Question,
    items: &mut BTreeMap<u64, Arc<Item>>,
    by: Option<Corrector<'_>>,
) -> Result<Option<Again>, RegradeError> {
    let stored = school.assignment(place.assignment, None).await?;
    let mut events = store::events_of(&school.pool, work).await?;
    let before = fold(&stored.assignment, &events);
    let sets = before.questions.get(place.position).map(|q| q.sets.as_slice());
    for set in sets.unwrap_or_default() {
        if let std::collections::btree_map::Entry::Vacant(empty) = items.entry(set.seed) {
            empty.insert(rendered(school, question, set.seed).await?);
        }
    }
    let mut remarked = Vec::new();
    let mut earlier: BTreeMap<(usize, String), Response> = BTreeMap::new();
    let standing = standing_checks(&events);
    for (event, checked) in standing.into_iter().filter(|(_, c)| c.question == place.position) {
        let seed = sets.and_then(|s| s.get(checked.set)).map(|s| s.seed);
        let Some(item) = seed.and_then(|seed| items.get(&seed)) else {
            continue;
        };
        let before = earlier.iter().filter(|((set, _), _)| *set == checked.set);
        let before = before
            .map(|((_, part), given)| (part.clone(), given.clone()))
            .collect();
        let again = mark_again(school, item, &checked.parts, before, checked.at_hand_in).await?;
        earlier.extend(
            checked
                .parts
                .iter()
                .map(|p| ((checked.set, p.part.clone()), p.response.clone())),
        );
        if again.iter().map(judged).eq(checked.parts.iter().map(judged)) {
            continue;
        }
        // A check that was judged stays a try; one that cost nothing before costs nothing now.
        let used_a_try = checked.used_a_try && again.iter().any(|p| p.costs);
        remarked.push(Remark {
            event,
            parts: again,
            used_a_try,
        });
    }
    if remarked.is_empty() {
        return Ok(None);
    }
    let correction = Correction {
        question: place.position,
        version: version.0.to_string(),
        remarked,
        by: by.map(|b| b.who),
        why: by.map(|b| b.why.to_owned()).unwrap_or_default(),
    };
    let happened = [Event::KeyCorrected(correction)];
    let (last, at) = (before.last_event, school.now());
    events.push(Recorded {
        number: last + 1,
        at,
        event: happened[0].clone(),
    });
    let after = fold(&stored.assignment, &events);
    Ok(Some(Again {
        stored,
        before,
        after,
        happened,
        at,
    }))
}

async fn regrade_work(
    school: &School,
    place: &QuestionUse,
    version: QuestionId,
    (work, student): (WorkId, PersonId),
    question: &Question,
    by: Option<Corrector<'_>>,
) -> Result<bool, RegradeError> {
    let mut items: BTreeMap<u64, Arc<Item>> = BTreeMap::new();
    for _ in 0..MOST_TURNS {
        let found = remarked(school, place, version, work, question, &mut items, by).await?;
        let Some(again) = found else { return Ok(false) };
        let addition = Append {
            assignment: place.assignment,
            version: again.stored.version,
            student,
            work: Some(work),
            last: again.before.last_event,
            events: &again.happened,
            after: Derived::of(&again.stored.assignment, &again.after),
            at: again.at,
            by_student: false,
            session: None,
        };
        match store::append(&school.pool, &addition).await {
            Ok(_) => return Ok(true),
            Err(StoreError::Conflict) => {}
            Err(other) => return Err(other.into()),
        }
    }
    Err(StoreError::Conflict.into())
}
