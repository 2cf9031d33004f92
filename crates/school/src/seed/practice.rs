//! Practice and reading that were done before the demo starts.

use std::sync::Arc;

use coursework::{
    CheckedPart, Command, Event, PracticeCandidate, PracticeEvent, PracticeGoal, Recorded, Target, choose,
    decide, fold, fold_on, fold_run,
};
use marking::{Item, Question};
use sqlx::PgPool;
use store::{Append, Derived, PersonId, QuestionId, RunId};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

use super::WorldError;
use super::script::mistyped;
use super::world::{Answer, WorldPractice, WorldReading};
use crate::School;
use crate::marks::mark_parts;
use crate::practice::drawn;

/// Practice on skills, of the student's own accord.
pub(super) async fn practise(
    school: &School,
    student: PersonId,
    script: &WorldPractice,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    let goal = PracticeGoal {
        skills: vec![script.skill.clone()],
        target: Target::Score(coursework::SOLID),
        question: None,
    };
    let at = now + Duration::days(script.in_days);
    let run = store::start_run(&school.pool, student, &goal, at).await?;
    play(school, run, &goal, &script.answers, at).await
}

/// Practice that an assignment sets.
pub(super) async fn practise_assignment(
    school: &School,
    assignment_id: Uuid,
    student: PersonId,
    answers: &[Answer],
    at: OffsetDateTime,
) -> Result<(), WorldError> {
    let pool = &school.pool;
    let stored = school.assignment(assignment_id, None).await?;
    let assignment = &stored.assignment;
    let goal = assignment
        .settings
        .goal
        .as_ref()
        .and_then(coursework::Goal::practice);
    let goal = goal.ok_or("it sets no practice")?;
    let work = store::start_work(pool, assignment_id, student).await?;
    let state = fold(assignment, &store::events_of(pool, work).await?);
    let opened = decide(assignment, &state, &Command::Open { seeds: Vec::new() }, at)?;
    if !opened.is_empty() {
        let first = |(number, event): (u32, &Event)| Recorded {
            number,
            at,
            event: event.clone(),
        };
        let new: Vec<Recorded> = (state.last_event + 1..).zip(&opened).map(first).collect();
        let after = fold_on(assignment, &state, &new).ok_or("opening corrects no key")?;
        let addition = Append {
            assignment: assignment_id,
            version: stored.version,
            student,
            work: Some(work),
            last: state.last_event,
            events: &opened,
            after: Derived::of(assignment, &after),
            at,
            by_student: false,
            session: None,
        };
        store::append(pool, &addition).await?;
    }
    let run = store::run_for_work(pool, student, work, &goal, at).await?;
    play(school, run, &goal, answers, at).await
}

/// Draws and answers one question after the other, as the student would have.
async fn play(
    school: &School,
    run_id: RunId,
    goal: &PracticeGoal,
    answers: &[Answer],
    mut at: OffsetDateTime,
) -> Result<(), WorldError> {
    let mut questions = school.bank().await?;
    questions.retain(|(_, q)| q.is_drawn());
    let candidate = |(_, q): &(QuestionId, Arc<Question>)| PracticeCandidate {
        question: q.id.clone(),
        skills: q.skills.clone(),
    };
    let candidates: Vec<PracticeCandidate> = questions.iter().map(candidate).collect();
    let mut tx = school.pool.begin().await?;
    for (number, answer) in (1u64..).zip(answers) {
        let run = fold_run(&store::lock_run(&mut tx, run_id).await?);
        let (place, skill) = choose(goal, &candidates, &run, |_| 0).ok_or("nothing to practise")?;
        let (version, question) = questions.get(place).ok_or("nothing to practise")?;
        let earlier: Vec<u64> = run.drawn.iter().map(|d| d.seed).collect();
        let seed = marking::next_seed(question, number * 7_919, &earlier)?;
        let drawn = drawn(*version, question, seed, skill);
        let open = run.after(&drawn, at);
        store::append_practice(&mut tx, run_id, &drawn, &open, at).await?;
        at += Duration::minutes(3);
        let item = marking::render(question, seed)?;
        let checked = checked(&item, *answer);
        let done = open.after(&checked, at);
        store::append_practice(&mut tx, run_id, &checked, &done, at).await?;
    }
    tx.commit().await.map_err(WorldError::from)
}

/// The right answer, or one that is not: marked, never just said to be so.
fn checked(item: &Item, answer: Answer) -> PracticeEvent {
    let give = |part: &marking::ItemPart| {
        let response = match answer {
            Answer::Right => part.typed_key(),
            Answer::Wrong => mistyped(part, 0),
        };
        (part.id.clone(), response)
    };
    let given = item.parts.iter().map(give).collect();
    let parts: Vec<CheckedPart> = mark_parts(item, given).iter().map(CheckedPart::new).collect();
    let right = parts.iter().all(|p| p.score >= 1.0);
    PracticeEvent::Checked { parts, right }
}

pub(super) async fn read(
    pool: &PgPool,
    student: PersonId,
    script: &WorldReading,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    let at = now + Duration::days(script.in_days);
    for page in &script.pages {
        store::put_page(pool, student, page, 0, true, at).await?;
    }
    for (page, step) in &script.left_at {
        store::put_page(pool, student, page, *step, false, at).await?;
    }
    Ok(())
}
