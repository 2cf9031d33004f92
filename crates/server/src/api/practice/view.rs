//! A run of practice as it stands.

use std::sync::Arc;

use actix_web::web;
use coursework::{CheckedPart, Refusal, may_work};
use marking::Question;
use school::practice::{entered_in, find_run, last_item};
use school::{Glance, Learner, School, title_of};
use serde::Serialize;
use store::{EnteredInRun, Person};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::answer::{RightAnswer, right_answer};
use super::super::shared::goal::GoalView;
use super::super::shared::hand_in::{HandInView, hand_in_view};
use super::super::shared::loose::loose_question;
use super::super::shared::question::reading_of;
use super::super::shared::question_view::{DraftView, QuestionView};
use super::super::shared::skill::{SkillBrief, brief};
use super::super::shared::state::{ScoreView, recorded_view};
use crate::http::error::ApiError;

#[derive(Serialize, ToSchema)]
pub(crate) struct PracticeRunView {
    id: Uuid,
    goal: GoalView,
    /// The skills of the goal as they stand.
    skills: Vec<SkillBrief>,
    answered: u32,
    /// What it was set by, if it was.
    assignment: Option<RunAssignment>,
    /// What the question is practised for.
    skill: String,
    question: QuestionView,
    /// The question was answered: nothing more is checked, the answer and the working are shown.
    answered_now: bool,
    right_now: bool,
    answers: Vec<RightAnswer>,
}

/// The assignment that a run was set by.
#[derive(Serialize, ToSchema)]
pub(crate) struct RunAssignment {
    id: Uuid,
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    /// Why nothing can be added any more.
    closed_because: Option<String>,
    /// What handing in now would record, per cent.
    would_record: f64,
    recorded: Option<ScoreView>,
    /// Those that stand.
    hand_ins: Vec<HandInView>,
}

fn run_assignment(desk: &mut Glance, learner: &Learner) -> RunAssignment {
    let progress = learner.progress(desk.stored.head.class_id, &desk.assignment, desk.work_id);
    Arc::make_mut(&mut desk.work).progress = progress;
    let (assignment, work) = (&desk.assignment, &desk.work);
    RunAssignment {
        id: desk.stored.head.id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        due: coursework::terms(assignment, work).due,
        closed_because: may_work(assignment, work, desk.now).err().map(|r| r.to_string()),
        would_record: coursework::recorded_now(assignment, work, desk.now).percent(),
        recorded: recorded_view(assignment, work, desk.now),
        hand_ins: work.standing_hand_ins().map(|h| hand_in_view(h, true)).collect(),
    }
}

/// The run as it stands; `unjudged` are verdicts that cost nothing and are not kept.
pub(super) async fn view(
    school: &School,
    person: &Person,
    id: Uuid,
    unjudged: &[CheckedPart],
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let standing = find_run(school, id, person.id).await?;
    let (source, item) = last_item(school, &standing.run, person.id).await?;
    let entered = entered_in(school, &standing).await?;
    let (goal, run) = (standing.goal, standing.run);
    let mut desks = Glance::all(school, person.id).await?;
    let learner = Learner::of(school, person.id, &desks).await?;
    let work = learner.run(id).and_then(|r| r.work);
    let desk = desks.iter_mut().find(|d| work.is_some() && d.work_id == work);
    let progress = learner.measure(&goal.goal(), run.count(), false);
    let drawn = run.drawn.last().ok_or(Refusal::NothingDrawn)?;
    let checked = drawn.answered.as_ref();
    let marked = checked.map_or(unjudged, |c| &c.parts);
    let shows_working = checked.is_some() && !learner.withholds_working(&source.id);
    let number = run.drawn.len().to_string();
    Ok(web::Json(PracticeRunView {
        id,
        goal: (&progress).into(),
        skills: goal.skills.iter().map(|s| brief(&learner, s)).collect(),
        answered: run.answered(),
        assignment: desk.map(|d| run_assignment(d, &learner)),
        skill: title_of(&drawn.skill),
        question: at_hand(
            loose_question(0, source.points, number, &item, marked, shows_working),
            &source,
            entered.as_ref(),
        ),
        answered_now: checked.is_some(),
        right_now: checked.is_some_and(|c| c.right),
        answers: if checked.is_some() {
            item.parts.iter().map(right_answer).collect()
        } else {
            Vec::new()
        },
    }))
}

/// The question with its pages, and with what was entered before in its fields.
fn at_hand(mut question: QuestionView, source: &Question, entered: Option<&EnteredInRun>) -> QuestionView {
    question.reading = reading_of(source);
    for part in &mut question.parts {
        let found = entered.and_then(|e| e.parts.iter().find(|(id, _)| *id == part.id));
        part.draft = found.map(|(_, response)| DraftView {
            revision: entered.map_or(0, |e| e.revision),
            response: response.clone(),
        });
    }
    question
}
