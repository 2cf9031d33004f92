//! An entry that was marked wrong and is accepted: for one student, or for all who gave an equal one. What it does to
//! scores can be seen before it is done; the verdicts that stood stay in the record.

use std::collections::BTreeMap;

use coursework::{Checked, Correction, Event, Recorded, Remark, fold, score_so_far, standing_checks};
use marking::{Item, Outcome, Response};
use store::{Append, Derived, PersonId, StoreError, WorkId};
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;

/// The check that is doubted.
#[derive(Clone, Copy, Debug)]
pub struct Doubted {
    pub assignment: Uuid,
    pub student: PersonId,
    pub question: usize,
    /// The number of its event.
    pub event: u32,
}

/// Who accepts, and why; nothing is done without.
#[derive(Clone, Copy, Debug)]
pub struct By<'a> {
    pub who: Uuid,
    pub why: &'a str,
}

/// What accepting does to one student.
#[derive(Clone, Debug, PartialEq)]
pub struct Change {
    pub student: PersonId,
    /// Per cent: recorded where something was handed in, as it stands otherwise.
    pub before: f64,
    pub after: f64,
}

const MOST_TURNS: usize = 32;

/// What was given in the parts that were not right: by part.
type Given = BTreeMap<String, Response>;

fn not_right(checked: &Checked) -> Given {
    let wrong = checked
        .parts
        .iter()
        .filter(|p| p.outcome.is_judged() && p.score < 1.0);
    wrong.map(|p| (p.part.clone(), p.response.clone())).collect()
}

/// Accepts, or says what accepting would do where `by` is nobody: for the one student, or for all whose numbers and entry
/// are the same. Those whose score it changes come back.
///
/// # Errors
/// `NotFound` if there is no such check, or nothing in it was wrong.
pub async fn accept(
    school: &School,
    doubted: Doubted,
    for_all: bool,
    by: Option<By<'_>>,
) -> Result<Vec<Change>, SchoolError> {
    let works = store::works_on(&school.pool, doubted.assignment).await?;
    let mine = works.iter().find(|(_, s)| *s == doubted.student);
    let (work, _) = *mine.ok_or(SchoolError::NotFound)?;
    let events = store::events_of(&school.pool, work).await?;
    // As it was first judged: what was accepted meanwhile for one can still be accepted for others.
    let first = events.iter().find_map(|r| match &r.event {
        Event::Checked(checked) if r.number == doubted.event => Some(checked.clone()),
        _ => None,
    });
    let checked = first
        .filter(|c| c.question == doubted.question)
        .ok_or(SchoolError::NotFound)?;
    let given = not_right(&checked);
    let item = item_of(school, &doubted, &events, &checked).await?;
    if given.is_empty() {
        return Err(SchoolError::NotFound);
    }
    let mut changes = Vec::new();
    for (work, student) in works {
        if student != doubted.student && !for_all {
            continue;
        }
        let only = (student == doubted.student).then_some(doubted.event);
        let asked = Asked {
            doubted: &doubted,
            item: &item,
            given: &given,
            only: only.filter(|_| !for_all),
        };
        if let Some(change) = in_work(school, &asked, (work, student), by).await? {
            changes.push(change);
        }
    }
    Ok(changes)
}

async fn item_of(
    school: &School,
    doubted: &Doubted,
    events: &[Recorded],
    checked: &Checked,
) -> Result<std::sync::Arc<Item>, SchoolError> {
    let stored = school.assignment(doubted.assignment, None).await?;
    let work = fold(&stored.assignment, events);
    let state = work
        .questions
        .get(doubted.question)
        .ok_or(SchoolError::NotFound)?;
    let set = state.sets.get(checked.set).ok_or(SchoolError::NotFound)?;
    let (id, question) = stored
        .questions
        .get(doubted.question)
        .ok_or(SchoolError::NotFound)?;
    school.item(*id, question, set.seed, doubted.student).await
}

struct Asked<'a> {
    doubted: &'a Doubted,
    item: &'a Item,
    given: &'a Given,
    /// Only this check.
    only: Option<u32>,
}

impl Asked<'_> {
    /// The check with what equals the doubted entry accepted; `None` where nothing in it does.
    fn accepted(&self, event: u32, checked: &Checked, item: &Item) -> Option<Remark> {
        if self.only.is_some_and(|only| only != event) {
            return None;
        }
        let mut parts = checked.parts.clone();
        let mut any = false;
        for part in &mut parts {
            let (Some(mine), Some(theirs)) = (self.item.find_part(&part.part), item.find_part(&part.part))
            else {
                continue;
            };
            let wrong = part.outcome.is_judged() && part.score < 1.0;
            let same_key = self.only.is_some() || mine.posed.key().is_same(&theirs.posed.key());
            let equal = |given: &Response| mine.posed.is_same_answer(given, &part.response);
            if wrong && same_key && self.given.get(&part.part).is_some_and(equal) {
                part.outcome = Outcome::Correct;
                part.score = 1.0;
                part.notes.clear();
                part.slip = None;
                part.reply = None;
                any = true;
            }
        }
        any.then_some(Remark {
            event,
            parts,
            used_a_try: checked.used_a_try,
        })
    }
}

async fn in_work(
    school: &School,
    asked: &Asked<'_>,
    (work, student): (WorkId, PersonId),
    by: Option<By<'_>>,
) -> Result<Option<Change>, SchoolError> {
    let question = asked.doubted.question;
    for _ in 0..MOST_TURNS {
        let stored = school.assignment(asked.doubted.assignment, None).await?;
        let mut events = store::events_of(&school.pool, work).await?;
        let before = fold(&stored.assignment, &events);
        let (id, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        let mut remarked = Vec::new();
        for (event, checked) in standing_checks(&events) {
            let sets = before
                .questions
                .get(question)
                .map(|q| q.sets.as_slice())
                .unwrap_or_default();
            let Some(set) = sets.get(checked.set).filter(|_| checked.question == question) else {
                continue;
            };
            let item = school.item(*id, source, set.seed, student).await?;
            remarked.extend(asked.accepted(event, &checked, &item));
        }
        if remarked.is_empty() {
            return Ok(None);
        }
        let happened = [Event::KeyCorrected(Correction {
            question,
            version: format!("accepted {}", asked.doubted.event),
            remarked,
            by: by.map(|b| b.who),
            why: by.map(|b| b.why.to_owned()).unwrap_or_default(),
        })];
        let (last, at) = (before.last_event, school.now());
        events.push(Recorded {
            number: last + 1,
            at,
            event: happened[0].clone(),
        });
        let after = fold(&stored.assignment, &events);
        let percent = |work: &coursework::Work| match work.counting_hand_in(&stored.assignment) {
            Some(h) => h.recorded.percent(),
            None => score_so_far(&stored.assignment, work).percent(),
        };
        let change = Change {
            student,
            before: percent(&before),
            after: percent(&after),
        };
        if by.is_none() {
            return Ok(Some(change));
        }
        let addition = Append {
            assignment: asked.doubted.assignment,
            version: stored.version,
            student,
            work: Some(work),
            last,
            events: &happened,
            after: Derived::of(&stored.assignment, &after),
            at,
            by_student: false,
            session: None,
        };
        match store::append(&school.pool, &addition).await {
            Ok(_) => return Ok(Some(change)),
            Err(StoreError::Conflict) => {}
            Err(other) => return Err(other.into()),
        }
    }
    Err(StoreError::Conflict.into())
}
