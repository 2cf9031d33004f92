//! The home page: what is due, what is next, what happened, what waits.

mod next;
mod notices;
mod waiting;

use actix_web::{get, web};
use coursework::{Candidate, Kind, LateRule, Waiting, next, state, terms};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::goals::GoalView;
use super::hand_in::results_at;
use super::views::{ScoreView, StateView, questions_left, recorded_view, score_view, state_view};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::slip_book::Book;
use next::{NextView, next_view};
use notices::{NoticeView, notices_of};
use waiting::{FadingView, WeekSlips, fading, week_slips};

#[derive(Serialize, ToSchema)]
pub(crate) struct WeekView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    assignments: Vec<WeekEntry>,
    /// How many need doing now.
    to_do: usize,
    next: Option<NextView>,
    /// What happened and was not looked at yet, newest first.
    notices: Vec<NoticeView>,
    slips: WeekSlips,
    /// Skills that are fading, the one that faded first before the others.
    fading: Vec<FadingView>,
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
    /// The due date is this student's own.
    due_moved: bool,
    late: LateView,
    #[serde(with = "time::serde::rfc3339::option")]
    time_ends: Option<OffsetDateTime>,
    time_limit: Option<u32>,
    state: StateView,
    /// Something needs doing here now.
    waiting: bool,
    questions: usize,
    questions_left: usize,
    /// How far its goal is reached, where it has one instead of questions.
    goal: Option<GoalView>,
    score_so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    /// When the counting hand-in came, and whether it was late.
    #[serde(with = "time::serde::rfc3339::option")]
    handed_in_at: Option<OffsetDateTime>,
    handed_in_late: bool,
    action: Action,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "rule", rename_all = "snake_case")]
pub(crate) enum LateView {
    /// It closes when it is due.
    NoLateTime,
    Flagged,
    PercentOff {
        percent: u8,
    },
    NotAccepted,
}

pub(crate) fn late_view(rule: LateRule, terms: &coursework::Terms) -> LateView {
    match rule {
        _ if terms.closes <= terms.due => LateView::NoLateTime,
        LateRule::Flagged => LateView::Flagged,
        LateRule::PercentOff(percent) => LateView::PercentOff { percent },
        LateRule::NotAccepted => LateView::NotAccepted,
    }
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum KindView {
    Homework,
    Quiz,
    Practice,
    Reading,
}

impl From<Kind> for KindView {
    fn from(k: Kind) -> Self {
        match k {
            Kind::Homework => KindView::Homework,
            Kind::Quiz => KindView::Quiz,
            Kind::Practice => KindView::Practice,
            Kind::Reading => KindView::Reading,
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
    /// The result is there to be read.
    Result,
    /// It has closed, and can be practised.
    Practise,
    /// It is not open yet.
    Wait,
}

/// The home page.
#[utoipa::path(path = "/api/week", responses((status = 200, body = WeekView), (status = 401, body = Problem)))]
#[get("/week")]
pub(crate) async fn week(site: web::Data<Site>, who: SignedIn) -> Result<web::Json<WeekView>, ApiError> {
    let now = site.now();
    let mut assignments = Vec::new();
    let mut candidates = Vec::new();
    let mut told = Vec::new();
    let mut desks = Desk::all(&site, &who.0).await?;
    let learner = Learner::of(&site, &who.0, &desks).await?;
    let book = Book::of(&site, &who.0, &desks, &learner).await?;
    for desk in &mut desks {
        desk.work.progress = learner.progress(desk);
        let drafts = desk.drafts(&site).await?;
        let left = match &desk.work.progress {
            Some(progress) => progress.left(),
            None => questions_left(&desk.assignment, &desk.work, &drafts, now),
        };
        let candidate = candidate(desk, left);
        told.extend(notices_of(desk, &site).await?);
        assignments.push(week_entry(desk, left, candidate.is_waiting(now)));
        candidates.push(candidate);
    }
    told.sort_by_key(|n| std::cmp::Reverse(n.at));
    let fading = fading(&learner);
    let beside = Waiting {
        fading: fading.len(),
        fading_since: fading.first().map(|f| f.since),
        ..book.waiting(now)
    };
    let next = next(&candidates, &beside, now).and_then(|choice| next_view(&assignments, &fading, choice));
    assignments.sort_by_key(|a| (a.due, a.id));
    Ok(web::Json(WeekView {
        now,
        to_do: assignments.iter().filter(|a| a.waiting).count(),
        assignments,
        next,
        notices: told,
        slips: week_slips(&site, &book, now).await?,
        fading,
    }))
}

fn candidate(desk: &Desk, questions_left: usize) -> Candidate {
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    Candidate {
        state: state(&desk.assignment, &desk.work, desk.now),
        opens: terms.opens,
        due: terms.due,
        closes: terms.closes,
        counts: settings.counts,
        late_accepted: settings.late != LateRule::NotAccepted,
        questions: desk.assignment.items.len(),
        questions_left,
        time_ends: terms.time_ends,
    }
}

fn week_entry(desk: &Desk, questions_left: usize, waiting: bool) -> WeekEntry {
    let head = &desk.stored.head;
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let state = state_view(&desk.assignment, &desk.work, desk.now);
    let handed_in = desk.work.counting_hand_in(&desk.assignment);
    let recorded = recorded_view(&desk.assignment, &desk.work, desk.now);
    let action = match state {
        StateView::NotOpened if desk.now < terms.opens => Action::Wait,
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
        results_at: results_at(desk).filter(|_| handed_in.is_some()),
        handed_in_at: handed_in.map(|h| h.at),
        handed_in_late: handed_in.is_some_and(|h| h.late),
        action,
    }
}
