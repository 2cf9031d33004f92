//! One assignment on Week.

use coursework::terms;
use school::Glance;
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::goal::GoalView;
use super::super::shared::hand_in::results_at;
use super::super::shared::kind::{KindView, LateView, late_view};
use super::super::shared::state::{ScoreView, StateView, recorded_view, score_view, state_view};
use super::action::Action;

#[derive(Serialize, ToSchema)]
pub(crate) struct WeekEntry {
    pub id: Uuid,
    pub title: String,
    pub class_id: Uuid,
    pub class_title: String,
    pub kind: KindView,
    counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    pub due: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    /// The due date is this student's own.
    due_moved: bool,
    late: LateView,
    #[serde(with = "time::serde::rfc3339::option")]
    time_ends: Option<OffsetDateTime>,
    time_limit: Option<u32>,
    pub state: StateView,
    /// Something needs doing here now.
    pub waiting: bool,
    pub questions: usize,
    pub questions_left: usize,
    /// How far its goal is reached, where it has one instead of questions.
    pub goal: Option<GoalView>,
    score_so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    /// When the counting hand-in came, and whether it was late.
    #[serde(with = "time::serde::rfc3339::option")]
    handed_in_at: Option<OffsetDateTime>,
    handed_in_late: bool,
    pub action: Action,
    /// What the teacher asks for before it is opened.
    pub first: Option<String>,
}

pub(super) fn week_entry(
    desk: &Glance,
    questions_left: usize,
    waiting: bool,
    first: Option<String>,
) -> WeekEntry {
    let head = &desk.stored.head;
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let state = state_view(&desk.assignment, &desk.work, desk.now);
    let handed_in = desk.work.counting_hand_in(&desk.assignment);
    let recorded = recorded_view(&desk.assignment, &desk.work, desk.now);
    let action = match state {
        StateView::NotOpened if desk.now < terms.opens => Action::Wait,
        StateView::NotOpened if first.is_some() => Action::First,
        StateView::NotOpened if questions_left == 0 => Action::HandIn,
        StateView::NotOpened => Action::Open,
        StateView::UnderWay if questions_left == 0 => Action::HandIn,
        StateView::UnderWay => Action::CarryOn,
        StateView::Marked => Action::Result,
        StateView::HandedIn | StateView::WithTheTeacher => Action::Look,
        StateView::ClosedNothingHandedIn => Action::Practise,
    };
    WeekEntry {
        id: head.id,
        title: head.title.clone(),
        class_id: head.class_id,
        class_title: head.class_title.clone(),
        kind: settings.kind.into(),
        counts: settings.counts,
        opens: terms.opens,
        due: terms.due,
        closes: terms.closes,
        due_moved: terms.due != settings.due,
        late: late_view(settings.late, &terms),
        time_ends: terms.time_ends,
        time_limit: settings.time_limit,
        state,
        waiting,
        questions: desk.assignment.items.len(),
        questions_left,
        goal: desk.work.progress.as_ref().map(Into::into),
        score_so_far: score_view(&desk.assignment, &desk.work, desk.now),
        recorded,
        results_at: results_at(&desk.assignment, &desk.work, desk.now).filter(|_| handed_in.is_some()),
        handed_in_at: handed_in.map(|h| h.at),
        handed_in_late: handed_in.is_some_and(|h| h.late),
        action,
        first,
    }
}
