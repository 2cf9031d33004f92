//! A corrected question: all stored responses are marked anew, each work in one transaction; the earlier verdicts and
//! scores stay in the record, and the students concerned are told.

use std::collections::BTreeMap;
use std::fmt;

use coursework::{
    Checked, CheckedPart, Correction, Event, MarkedPart, PracticeEvent, Remark, fold, fold_run,
};
use marking::{Interaction, Item, Part, Question};
use sqlx::PgPool;
use store::{QuestionId, QuestionUse, RunId, WorkId};
use time::OffsetDateTime;

use crate::api::{assignment_for, set_derived};

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
pub async fn regrade(pool: &PgPool, slug: &str) -> Result<Regraded, String> {
    let fail = |e: store::StoreError| e.to_string();
    let newest = store::find_question_by_slug(pool, slug)
        .await
        .map_err(fail)?
        .ok_or_else(|| format!("there is no question `{slug}`; load its file first"))?;
    let question = store::find_question(pool, newest)
        .await
        .map_err(fail)?
        .ok_or_else(|| format!("`{slug}` has no content"))?;
    let uses = store::uses_of(pool, slug).await.map_err(fail)?;
    for place in uses.iter().filter(|u| u.version != newest) {
        let old = store::find_question(pool, place.version).await.map_err(fail)?;
        if let Some(old) = old {
            same_sets(&old, &question)?;
        }
    }
    let mut done = Regraded::default();
    for place in &uses {
        // First the version, so that no check is marked by the old key any more; then each work.
        store::set_version(pool, place, newest).await.map_err(fail)?;
        done.assignments += 1;
        for (work, _) in store::works_on(pool, place.assignment).await.map_err(fail)? {
            done.works += 1;
            done.changed += usize::from(regrade_work(pool, place, newest, work, &question).await?);
        }
    }
    for run in store::runs_on(pool, slug).await.map_err(fail)? {
        done.runs_changed += usize::from(regrade_run(pool, run, newest, &question).await?);
    }
    Ok(done)
}

/// Marks a run's answers to a question anew. What was handed in of it stays as it was recorded.
async fn regrade_run(
    pool: &PgPool,
    run_id: RunId,
    version: QuestionId,
    question: &Question,
) -> Result<bool, String> {
    let fail = |e: store::StoreError| e.to_string();
    let mut tx = pool.begin().await.map_err(|e| e.to_string())?;
    let run = fold_run(&store::lock_run(&mut tx, run_id).await.map_err(fail)?);
    let version = version.0.to_string();
    let mut last = run.last_event;
    for (nth, drawn) in (1..).zip(&run.drawn).filter(|(_, d)| d.question == question.id) {
        let Some((_, parts, _)) = drawn.checked.as_ref().filter(|_| drawn.version != version) else {
            continue;
        };
        if let Some(old) = find_version(pool, &drawn.version).await? {
            same_sets(&old, question)?;
        }
        let item = marking::render(question, drawn.seed).map_err(|e| e.to_string())?;
        let again = mark_again(&item, parts);
        if again.iter().map(judged).eq(parts.iter().map(judged)) {
            continue;
        }
        let right = again.iter().all(|p| p.score >= 1.0);
        let event = PracticeEvent::Corrected {
            nth,
            version: version.clone(),
            parts: again,
            right,
        };
        store::append_practice(&mut tx, run_id, last, &event, OffsetDateTime::now_utc())
            .await
            .map_err(fail)?;
        last += 1;
    }
    tx.commit().await.map_err(|e| e.to_string())?;
    Ok(last > run.last_event)
}

async fn find_version(pool: &PgPool, version: &str) -> Result<Option<Question>, String> {
    let Ok(id) = version.parse() else { return Ok(None) };
    store::find_question(pool, QuestionId(id))
        .await
        .map_err(|e| e.to_string())
}

/// The same responses by this item's key.
fn mark_again(item: &Item, parts: &[CheckedPart]) -> Vec<CheckedPart> {
    let again = |given: &CheckedPart| {
        let verdict = item.find_part(&given.part)?.mark(&given.response);
        Some(CheckedPart::new(&MarkedPart {
            part: given.part.clone(),
            response: given.response.clone(),
            verdict,
        }))
    };
    parts.iter().filter_map(again).collect()
}

/// What marking comes to.
fn judged(part: &CheckedPart) -> (marking::Outcome, u64) {
    (part.outcome, part.score.to_bits())
}

/// Whether the same seeds still give the same sets, so that stored responses mean what they meant.
fn same_sets(old: &Question, new: &Question) -> Result<(), String> {
    let slug = &new.id;
    if old.numbers != new.numbers || old.conditions != new.conditions {
        return Err(format!(
            "`{slug}`: its numbers changed, so responses to the old ones can't be marked by it. Give the question a new id."
        ));
    }
    let shape = |p: &Part| match &p.interaction {
        Interaction::TextEntry { .. } => (p.id.clone(), Vec::new(), false),
        Interaction::Choice { choices, shuffle, .. } => (
            p.id.clone(),
            choices.iter().map(|c| c.id.clone()).collect(),
            *shuffle,
        ),
    };
    if !old.parts.iter().map(shape).eq(new.parts.iter().map(shape)) {
        return Err(format!(
            "`{slug}`: its parts or choices changed, so stored responses can't be marked by it. Give the question a new id."
        ));
    }
    Ok(())
}

async fn regrade_work(
    pool: &PgPool,
    place: &QuestionUse,
    version: QuestionId,
    work_id: WorkId,
    question: &Question,
) -> Result<bool, String> {
    let fail = |e: store::StoreError| e.to_string();
    let stored = store::find_any_assignment(pool, place.assignment)
        .await
        .map_err(fail)?;
    let stored = stored.ok_or("an assignment went away")?;
    let assignment = assignment_for(&stored);
    let mut tx = pool.begin().await.map_err(|e| e.to_string())?;
    let events = store::lock_work(&mut tx, work_id).await.map_err(fail)?;
    let before = fold(&assignment, &events);
    let mut items: BTreeMap<u64, Item> = BTreeMap::new();
    let mut remarked = Vec::new();
    // What counts for each check now: the newest marking of it.
    let mut standing: BTreeMap<u32, (Checked, Vec<CheckedPart>, bool)> = BTreeMap::new();
    for recorded in &events {
        match &recorded.event {
            Event::Checked(c) if c.question == place.position => {
                standing.insert(recorded.number, (c.clone(), c.parts.clone(), c.used_a_try));
            }
            Event::KeyCorrected(c) if c.question == place.position => {
                for remark in &c.remarked {
                    if let Some((_, parts, used)) = standing.get_mut(&remark.event) {
                        parts.clone_from(&remark.parts);
                        *used = remark.used_a_try;
                    }
                }
            }
            _ => {}
        }
    }
    for (event, (checked, parts, used_a_try)) in standing {
        let sets = before.questions.get(place.position).map(|q| &q.sets);
        let Some(seed) = sets.and_then(|s| s.get(checked.set)).map(|s| s.seed) else {
            continue;
        };
        if let std::collections::btree_map::Entry::Vacant(empty) = items.entry(seed) {
            empty.insert(marking::render(question, seed).map_err(|e| e.to_string())?);
        }
        let Some(item) = items.get(&seed) else { continue };
        let again = mark_again(item, &checked.parts);
        if again.iter().map(judged).eq(parts.iter().map(judged)) {
            continue;
        }
        // A check that was judged stays a try; one that cost nothing before costs nothing now.
        let used_a_try = used_a_try && again.iter().any(|p| p.costs);
        remarked.push(Remark {
            event,
            parts: again,
            used_a_try,
        });
    }
    if remarked.is_empty() {
        return Ok(false);
    }
    let correction = Correction {
        question: place.position,
        version: version.0.to_string(),
        remarked,
    };
    let now = OffsetDateTime::now_utc();
    let happened = [Event::KeyCorrected(correction)];
    store::append(&mut tx, work_id, before.last_event, &happened, now)
        .await
        .map_err(fail)?;
    let events = store::events_of(&mut *tx, work_id).await.map_err(fail)?;
    set_derived(&mut tx, work_id, &assignment, &fold(&assignment, &events))
        .await
        .map_err(fail)?;
    tx.commit().await.map_err(|e| e.to_string())?;
    Ok(true)
}
