//! Setting work: what a teacher's change would do is decided by the core, and work that exists is worked out anew.

use std::sync::Arc;

use coursework::{Effect, Settings, effects, fold};
use marking::Question;
use store::{AssignmentChange, Derived, QuestionId, SetAssignment, SetQuestion};

use crate::School;
use crate::error::SchoolError;

/// A question of the bank, by its id there, with the points it is to have.
pub struct Chosen {
    pub slug: String,
    pub points: Option<u32>,
}

/// The questions of an assignment, as they are stored and as they are.
pub struct Resolved {
    pub set: Vec<SetQuestion>,
    pub questions: Vec<Arc<Question>>,
}

impl Resolved {
    /// Ids with points, as the core compares them.
    pub fn named(&self) -> Vec<(String, u32)> {
        let points = self.set.iter().zip(&self.questions);
        points
            .map(|(s, q)| (q.id.clone(), s.points.unwrap_or(q.points)))
            .collect()
    }
}

/// The questions that an assignment has.
///
/// # Errors
/// What the database said.
pub async fn standing(school: &School, seen: &SetAssignment) -> Result<Resolved, SchoolError> {
    let ids: Vec<QuestionId> = seen.questions.iter().map(|q| q.id).collect();
    let questions = school.questions(&ids).await?;
    Ok(Resolved {
        set: seen.questions.clone(),
        questions: questions.into_iter().map(|(_, q)| q).collect(),
    })
}

/// Finds the questions chosen. What an assignment has already stays at its version; what is new comes at the newest.
///
/// # Errors
/// The id of a question that the bank has not.
pub async fn resolve(
    school: &School,
    seen: Option<&SetAssignment>,
    chosen: &[Chosen],
) -> Result<Result<Resolved, String>, SchoolError> {
    let had = match seen {
        Some(seen) => {
            let had = standing(school, seen).await?;
            had.set.into_iter().zip(had.questions).collect()
        }
        None => Vec::new(),
    };
    let bank = school.bank().await?;
    let mut resolved = Resolved {
        set: Vec::new(),
        questions: Vec::new(),
    };
    for one in chosen {
        let kept = had
            .iter()
            .find(|(_, q)| q.id == one.slug)
            .map(|(s, q)| (s.id, q.clone()));
        let found = kept.or_else(|| {
            bank.iter()
                .find(|(_, q)| q.id == one.slug)
                .map(|(id, q)| (*id, q.clone()))
        });
        let Some((id, question)) = found else {
            return Ok(Err(one.slug.clone()));
        };
        resolved.set.push(SetQuestion {
            id,
            points: one.points.filter(|p| *p != question.points),
        });
        resolved.questions.push(question);
    }
    Ok(Ok(resolved))
}

/// What a change would do to work that exists.
///
/// # Errors
/// What the database said.
pub async fn plan(
    school: &School,
    seen: &SetAssignment,
    settings: &Settings,
    questions: &Resolved,
) -> Result<Vec<Effect>, SchoolError> {
    let before = standing(school, seen).await?.named();
    Ok(effects(
        (&seen.settings, &before),
        (settings, &questions.named()),
        (seen.begun, seen.handed_in),
        school.now(),
    ))
}

/// Writes a change, and works out anew what is kept beside the work that exists.
///
/// # Errors
/// A conflict where somebody else was first.
pub async fn save(
    school: &School,
    seen: &SetAssignment,
    change: &AssignmentChange<'_>,
) -> Result<(), SchoolError> {
    store::save_assignment(&school.pool, seen, change).await?;
    let stored = school.assignment(seen.id, None).await?;
    for (work, _) in store::works_on(&school.pool, seen.id).await? {
        let events = store::events_of(&school.pool, work).await?;
        if events.is_empty() {
            continue;
        }
        let state = fold(&stored.assignment, &events);
        let derived = Derived::of(&stored.assignment, &state);
        store::put_derived(&school.pool, work, stored.version, derived).await?;
    }
    Ok(())
}
