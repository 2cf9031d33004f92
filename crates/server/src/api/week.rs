use actix_web::{get, web};
use coursework::{Kind, fold, score_so_far};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::views::{ScoreView, StateView, Stone, drafts_for, state_view, stone};
use super::work::assignment_of;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct WeekView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    assignments: Vec<WeekEntry>,
    next: Option<NextView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct WeekEntry {
    id: Uuid,
    title: String,
    class_title: String,
    kind: KindView,
    counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    state: StateView,
    questions: usize,
    questions_left: usize,
    score_so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    action: Action,
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum KindView {
    Homework,
    Quiz,
    Practice,
}

impl From<Kind> for KindView {
    fn from(k: Kind) -> Self {
        match k {
            Kind::Homework => KindView::Homework,
            Kind::Quiz => KindView::Quiz,
            Kind::Practice => KindView::Practice,
        }
    }
}

#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Action {
    Open,
    CarryOn,
    HandIn,
    Look,
}

/// The single most useful thing to do now, and why.
#[derive(Serialize, ToSchema)]
pub(crate) struct NextView {
    assignment: Uuid,
    title: String,
    why: String,
    action: Action,
}

/// The home page.
#[utoipa::path(path = "/api/week", responses((status = 200, body = WeekView), (status = 401, body = Problem)))]
#[get("/week")]
pub(crate) async fn week(site: web::Data<Site>, who: SignedIn) -> Result<web::Json<WeekView>, ApiError> {
    let now = OffsetDateTime::now_utc();
    let mut assignments = Vec::new();
    for head in store::assignments_of(&site.pool, who.0.id).await? {
        let Some(stored) = store::find_assignment(&site.pool, head.id, who.0.id).await? else {
            continue;
        };
        let assignment = assignment_of(&stored);
        let (events, drafts) = match store::find_work(&site.pool, head.id, who.0.id).await? {
            Some(work) => (
                store::events_of(&site.pool, work).await?,
                store::drafts_of(&site.pool, work).await?,
            ),
            None => (Vec::new(), Vec::new()),
        };
        let work = fold(&assignment, &events);
        let score = score_so_far(&assignment, &work);
        let done = work.questions.iter().enumerate().filter(|(i, q)| {
            let mine = drafts_for(&drafts, *i, q);
            matches!(
                stone(q, assignment.max_attempts(*i), &mine),
                Stone::Right | Stone::NoTriesLeft
            )
        });
        let questions_left = assignment.items.len() - done.count();
        let state = state_view(&assignment, &work, now);
        assignments.push(WeekEntry {
            id: head.id,
            title: head.title,
            class_title: head.class_title,
            kind: head.settings.kind.into(),
            counts: head.settings.counts,
            opens: head.settings.opens,
            due: head.settings.due,
            closes: head.settings.closes,
            state,
            questions: assignment.items.len(),
            questions_left,
            score_so_far: work.opened_at.map(|_| ScoreView::from(&score)),
            recorded: work
                .counting_hand_in(&assignment)
                .map(|h| ScoreView::from(&h.recorded)),
            action: action_for(state, questions_left),
        });
    }
    let next = next_of(&assignments, now);
    Ok(web::Json(WeekView {
        now,
        assignments,
        next,
    }))
}

fn action_for(state: StateView, left: usize) -> Action {
    match state {
        StateView::NotOpened => Action::Open,
        StateView::UnderWay if left == 0 => Action::HandIn,
        StateView::UnderWay => Action::CarryOn,
        StateView::HandedIn | StateView::Closed | StateView::ClosedNothingHandedIn => Action::Look,
    }
}

/// The open assignment that is due first and not handed in.
fn next_of(assignments: &[WeekEntry], now: OffsetDateTime) -> Option<NextView> {
    let waiting = |a: &&WeekEntry| {
        matches!(a.state, StateView::NotOpened | StateView::UnderWay) && a.opens <= now && now < a.closes
    };
    let first = assignments.iter().filter(waiting).min_by_key(|a| a.due)?;
    let why = match (first.state, first.questions_left) {
        (StateView::UnderWay, 0) => "Everything is worked out; it only has to be handed in.".to_owned(),
        (StateView::UnderWay, 1) => "It is due first, and one question is left.".to_owned(),
        (StateView::UnderWay, n) => format!("It is due first, and {n} questions are left."),
        _ if first.due < now => "It is overdue and was not opened yet.".to_owned(),
        _ => "It is due first and was not opened yet.".to_owned(),
    };
    Some(NextView {
        assignment: first.id,
        title: first.title.clone(),
        why,
        action: first.action,
    })
}
