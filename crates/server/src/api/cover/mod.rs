//! The cover sheet: what an assignment asks, before work on it.

mod rules;

use std::sync::Arc;

use actix_web::{get, web};
use coursework::{Checking, HandInNeeds, Navigation, WhichCounts, terms};
use school::{Desk, Learner, School};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use self::rules::{ReleaseRule, WorkingRule};
use super::shared::goal::GoalView;
use super::shared::hand_in::{HandInView, hand_in_view, results_at};
use super::shared::kind::{KindView, LateView, late_view};
use super::shared::skill::{SkillBrief, brief};
use super::shared::state::{ScoreView, StateView, questions_left, recorded_view, score_view, state_view};
use super::shared::tools::ToolsView;
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

/// What an assignment asks, before work on it.
#[derive(Serialize, ToSchema)]
pub(crate) struct CoverView {
    id: Uuid,
    title: String,
    class_title: String,
    kind: KindView,
    counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    /// The due date or closing is this student's own.
    dates_moved: bool,
    late: LateView,
    questions: usize,
    questions_left: usize,
    points: u32,
    max_tries: Option<u32>,
    /// Questions with tries of their own, from 1, with how many.
    own_tries: Vec<OwnTries>,
    max_sets: Option<u32>,
    checked_while_working: bool,
    linear: bool,
    going_back: bool,
    allow_skipping: bool,
    hints: bool,
    hint_cost: u8,
    worked_example: bool,
    working: WorkingRule,
    results: ReleaseRule,
    /// Minutes this student has, and per cent of what the others have.
    time_limit_seconds: Option<i64>,
    time_percent: u32,
    #[serde(with = "time::serde::rfc3339::option")]
    time_ends: Option<OffsetDateTime>,
    best_counts: bool,
    needs_every_question: bool,
    hand_ins_allowed: Option<u32>,
    hand_ins: Vec<HandInView>,
    pass_mark: Option<u8>,
    tools: ToolsView,
    /// Something has to be typed here, and this student has not typed an answer yet.
    typing_offer: bool,
    /// What it asks for, where it has no questions of its own.
    goal: Option<GoalView>,
    skills: Vec<SkillBrief>,
    note: Option<String>,
    state: StateView,
    score_so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    is_open: bool,
    closed_because: Option<String>,
    can_practise: bool,
    /// Whether all questions may be printed at once.
    can_print: bool,
    last_event: u32,
    class_id: Uuid,
    /// What the teacher asks for before this is opened.
    first: Option<String>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct OwnTries {
    /// From 1.
    question: usize,
    tries: u32,
}

/// The skills it touches: of its goal in their order, or of its questions.
fn skills_of(desk: &Desk) -> Vec<String> {
    if let Some(goal) = &desk.assignment.settings.goal {
        return goal.skills().to_vec();
    }
    let questions = desk.stored.questions.iter();
    let mut skills: Vec<String> = questions.flat_map(|(_, q)| q.skills.clone()).collect();
    // In the order of their file, what stands on nothing first.
    let place = |id: &String| school::skills().iter().position(|s| s.id == *id);
    skills.sort_by_key(|id| (place(id).is_none(), place(id), id.clone()));
    skills.dedup();
    skills
}

/// Whether answers are typed in it: of a goal it is not known before its questions are drawn.
fn has_typed_parts(desk: &Desk) -> bool {
    let practises = desk
        .assignment
        .settings
        .goal
        .as_ref()
        .is_some_and(|g| g.practice().is_some());
    let typed = |p: &marking::Part| p.interaction.is_typed();
    practises
        || desk
            .stored
            .questions
            .iter()
            .any(|(_, q)| q.parts.iter().any(typed))
}

/// The cover sheet.
#[utoipa::path(path = "/api/assignments/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = CoverView), (status = 401, body = Problem), (status = 404, body = Problem)))]
#[get("/assignments/{id}")]
pub(crate) async fn cover(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<CoverView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let learner = Learner::load(&school, desk.student).await?;
    let skills = skills_of(&desk).iter().map(|id| brief(&learner, id)).collect();
    let mut work = desk.work.clone();
    Arc::make_mut(&mut work).progress =
        learner.progress(desk.stored.head.class_id, &desk.assignment, desk.work_id);
    let typing_offer = has_typed_parts(&desk) && !learner.has_typed;
    let recorded = recorded_view(&desk.assignment, &desk.work, desk.now);
    let visible = recorded.is_some();
    let closed = coursework::may_add(&desk.assignment, &desk.work, desk.now).err();
    let class = desk.stored.head.class_id;
    let first = match desk.work.opened_at {
        Some(_) => None,
        None => match school::units::first(&school, *id, desk.student).await? {
            Some(item) => school::units::title_of_material(&school, &item.material).await?,
            None => None,
        },
    };
    let linear = settings.navigation != Navigation::Nonlinear;
    Ok(web::Json(CoverView {
        id: *id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        kind: settings.kind.into(),
        counts: settings.counts,
        now: desk.now,
        opens: terms.opens,
        due: terms.due,
        closes: terms.closes,
        dates_moved: terms.due != settings.due || desk.work.exception.closes.is_some(),
        late: late_view(settings.late, &terms),
        questions: desk.assignment.items.len(),
        questions_left: questions_left(&desk.assignment, &desk.work, &desk.drafts, desk.now),
        goal: work.progress.as_ref().map(Into::into),
        points: desk.assignment.total_points(),
        max_tries: settings.max_attempts,
        own_tries: settings
            .question_attempts
            .iter()
            .map(|(q, n)| OwnTries {
                question: q + 1,
                tries: *n,
            })
            .collect(),
        max_sets: settings.max_sets,
        checked_while_working: settings.checking == Checking::Individual,
        linear,
        going_back: settings.navigation != Navigation::Linear { going_back: false },
        allow_skipping: settings.allow_skipping,
        hints: settings.hints,
        hint_cost: settings.hint_cost,
        worked_example: settings.worked_example,
        working: settings.show_solution.into(),
        results: settings.release.into(),
        time_limit_seconds: settings
            .time_limit
            .map(|m| i64::from(m) * 60 * i64::from(terms.time_percent) / 100),
        time_percent: terms.time_percent,
        time_ends: terms.time_ends,
        best_counts: settings.which_counts == WhichCounts::Best,
        needs_every_question: settings.hand_in_needs == HandInNeeds::EveryQuestionAttempted,
        hand_ins_allowed: terms.hand_ins,
        hand_ins: desk
            .work
            .standing_hand_ins()
            .map(|h| hand_in_view(h, visible))
            .collect(),
        pass_mark: settings.pass_mark,
        tools: settings.tools.into(),
        typing_offer,
        skills,
        note: settings.note.clone(),
        state: state_view(&desk.assignment, &desk.work, desk.now),
        score_so_far: score_view(&desk.assignment, &work, desk.now),
        recorded,
        results_at: results_at(&desk.assignment, &desk.work, desk.now)
            .filter(|_| desk.work.counting_hand_in(&desk.assignment).is_some()),
        is_open: closed.is_none(),
        closed_because: closed.map(|r| r.to_string()),
        can_practise: settings.goal.is_none() && desk.now >= terms.closes,
        can_print: settings.goal.is_none() && !linear && desk.work.opened_at.is_some(),
        class_id: class,
        first,
        last_event: desk.work.last_event,
    }))
}
