//! Practice on skills: what is drawn next, and what comes of an answer.

use std::sync::Arc;

use coursework::{
    Answer, CheckedPart, PARAMETERS, PracticeCandidate, PracticeEvent, PracticeGoal, Refusal, Run, answer,
    choose, fold_run, may_work, prepare_answer,
};
use marking::{Item, Question, Response};
use store::{EnteredInRun, Person, PersonId, QuestionId, RunId, StoreError};
use uuid::Uuid;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::learner::Learner;
use crate::marks::random_number;

/// Earlier sets of a question that a new one is held against; more would only take longer.
const MOST_EARLIER: usize = 12;
/// Times that a draw is tried again because another window was first.
const MOST_TURNS: usize = 16;

/// What is kept of a question that was drawn.
pub fn drawn(version: QuestionId, question: &Question, seed: u64, skill: String) -> PracticeEvent {
    PracticeEvent::Drawn {
        question: question.id.clone(),
        version: version.0.to_string(),
        seed,
        skill,
        skills: question.skills.clone(),
        guess: question.guess(PARAMETERS.guess_typed),
    }
}

/// A run of practice as it stands.
pub struct StandingRun {
    pub id: RunId,
    pub goal: PracticeGoal,
    pub run: Run,
}

/// # Errors
/// `NotFound` unless the run is this person's.
pub async fn find_run(school: &School, id: Uuid, person: PersonId) -> Result<StandingRun, SchoolError> {
    let found = store::reading(|| store::find_run(&school.pool, id, person)).await?;
    let (id, goal) = found.ok_or(SchoolError::NotFound)?;
    let run = fold_run(&store::practice_events(&school.pool, id).await?);
    Ok(StandingRun { id, goal, run })
}

/// The question of a run that was drawn last, and its set.
///
/// # Errors
/// A refusal where nothing is drawn.
pub async fn last_item(
    school: &School,
    run: &Run,
    person: PersonId,
) -> Result<(Arc<Question>, Arc<Item>), SchoolError> {
    let drawn = run.drawn.last().ok_or(Refusal::NothingDrawn)?;
    let version = QuestionId(drawn.version.parse().map_err(|_| SchoolError::NotFound)?);
    let question = school.question(version).await?;
    let item = school.item(version, &question, drawn.seed, person).await?;
    Ok((question, item))
}

/// Refuses what is added to a run whose assignment has ended.
///
/// # Errors
/// Why nothing may be added.
pub async fn may_go_on(school: &School, run: RunId, person: &Person) -> Result<(), SchoolError> {
    if let Some(id) = store::assignment_of_run(&school.pool, run).await? {
        let desk = Desk::load(school, id, person.id).await?;
        may_work(&desk.assignment, &desk.work, desk.now)?;
    }
    Ok(())
}

/// Draws the next question of a run, unless one waits for an answer.
///
/// # Errors
/// A refusal where nothing can be drawn.
pub async fn draw(
    school: &School,
    run_id: RunId,
    goal: &PracticeGoal,
    learner: &Learner,
    person: PersonId,
) -> Result<(), SchoolError> {
    let fits = |q: &Question| {
        goal.question
            .as_ref()
            .map_or(goal.skills.iter().any(|s| q.skills.contains(s)), |id| q.id == *id)
    };
    let mut questions = school.bank().await?;
    questions.retain(|(_, q)| q.is_drawn() && fits(q));
    let kept = questions.iter().any(|(_, q)| learner.is_kept_for_quiz(&q.id));
    let mut nothing = if kept {
        Refusal::KeptForQuiz
    } else {
        Refusal::NothingToPractise
    };
    questions.retain(|(_, q)| !learner.is_kept_for_quiz(&q.id));
    for _ in 0..MOST_TURNS {
        let run = fold_run(&store::practice_events(&school.pool, run_id).await?);
        if run.open().is_some() {
            return Ok(());
        }
        let candidate = |(_, q): &(QuestionId, Arc<Question>)| PracticeCandidate {
            question: q.id.clone(),
            skills: q.skills.clone(),
        };
        let candidates: Vec<PracticeCandidate> = questions.iter().map(candidate).collect();
        let (place, skill) = choose(goal, &candidates, &run, |skill| learner.score(skill)).ok_or(nothing)?;
        let (version, question) = questions.get(place).cloned().ok_or(nothing)?;
        let Some(seed) = fresh_seed(school, &question, &run, run_id, learner, person).await? else {
            // Too little room beside what is open in a homework: another question is taken.
            nothing = Refusal::NoOtherNumbers;
            questions.retain(|(_, q)| q.id != question.id);
            continue;
        };
        let event = drawn(version, &question, seed, skill);
        let mut tx = school.pool.begin().await?;
        let newest = fold_run(&store::lock_run(&mut tx, run_id).await?);
        // Another window may have drawn meanwhile: then that question stands.
        if newest.last_event == run.last_event {
            let after = newest.after(&event, school.now());
            store::append_practice(&mut tx, run_id, &event, &after, school.now()).await?;
            tx.commit().await?;
            return Ok(());
        }
    }
    Err(StoreError::Conflict.into())
}

/// Never a set twice: not in this run, nor in those before it; and never the numbers that stand in an open homework.
async fn fresh_seed(
    school: &School,
    question: &Arc<Question>,
    run: &Run,
    run_id: RunId,
    learner: &Learner,
    person: PersonId,
) -> Result<Option<u64>, SchoolError> {
    let before = learner.runs.iter().filter(|r| r.id != run_id);
    let mut earlier: Vec<u64> = before
        .flat_map(|r| &r.run.drawn)
        .chain(&run.drawn)
        .filter(|d| d.question == question.id)
        .map(|d| d.seed)
        .collect();
    let older = earlier.len().saturating_sub(MOST_EARLIER);
    earlier.drain(..older);
    let open = learner.open_sets(&question.id).unwrap_or_default().to_vec();
    school
        .seed_apart(person, question, random_number()?, earlier, open)
        .await
}

/// Checks the answer to the open question of a run, once. Gives the verdicts on what could not be judged, if something
/// could not: then nothing was used up.
///
/// # Errors
/// Why it is refused.
pub async fn check(
    school: &School,
    person: &Person,
    standing: &StandingRun,
    responses: Vec<(String, Response)>,
) -> Result<Vec<CheckedPart>, SchoolError> {
    may_go_on(school, standing.id, person).await?;
    let (_, item) = last_item(school, &standing.run, person.id).await?;
    let ids: Vec<&str> = item.parts.iter().map(|p| p.id.as_str()).collect();
    let given = prepare_answer(&standing.run, &ids, &responses)?;
    let marked = school.mark(person.id, &item, given).await?;
    let event = match answer(&standing.run, &ids, &marked)? {
        Answer::Unjudged(parts) => return Ok(parts),
        Answer::Judged(event) => event,
    };
    let mut tx = school.pool.begin().await?;
    let newest = fold_run(&store::lock_run(&mut tx, standing.id).await?);
    if newest.last_event != standing.run.last_event {
        return Err(Refusal::Answered.into());
    }
    let after = newest.after(&event, school.now());
    store::append_practice(&mut tx, standing.id, &event, &after, school.now()).await?;
    tx.commit().await?;
    Ok(Vec::new())
}

/// What stands in the fields of the open question and was not checked.
///
/// # Errors
/// What the database said.
pub async fn entered_in(
    school: &School,
    standing: &StandingRun,
) -> Result<Option<EnteredInRun>, SchoolError> {
    let entered = store::find_entered(&school.pool, standing.id).await?;
    let run = &standing.run;
    Ok(entered.filter(|e| e.number == run.drawn.len() && run.open().is_some()))
}
