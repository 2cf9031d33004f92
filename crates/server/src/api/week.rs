use actix_web::{get, web};
use coursework::{Candidate, Kind, LateRule, NoticeKind, Why, next, notices, state, terms};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::hand_in::results_at;
use super::views::{ScoreView, StateView, questions_left, recorded_view, score_view, state_view};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

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
    /// The result is there to be read.
    Result,
    /// It has closed, and can be practised.
    Practise,
    /// It is not open yet.
    Wait,
}

/// The single most useful thing to do now, and why.
#[derive(Serialize, ToSchema)]
pub(crate) struct NextView {
    assignment: Uuid,
    title: String,
    class_title: String,
    why: String,
    action: Action,
}

/// Something that happened to a student's work without them.
#[derive(Serialize, ToSchema)]
pub(crate) struct NoticeView {
    assignment: Uuid,
    title: String,
    words: String,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    /// An instant that the words speak of, put after them.
    #[serde(with = "time::serde::rfc3339::option")]
    instant: Option<OffsetDateTime>,
    /// What looking at it marks as seen.
    event: u32,
    note: bool,
    result: bool,
    /// The result page says more about it; else the cover sheet does.
    on_result_page: bool,
}

/// The home page.
#[utoipa::path(path = "/api/week", responses((status = 200, body = WeekView), (status = 401, body = Problem)))]
#[get("/week")]
pub(crate) async fn week(site: web::Data<Site>, who: SignedIn) -> Result<web::Json<WeekView>, ApiError> {
    let now = site.now();
    let mut assignments = Vec::new();
    let mut candidates = Vec::new();
    let mut told = Vec::new();
    for desk in Desk::all(&site, &who.0).await? {
        let drafts = desk.drafts(&site).await?;
        let left = questions_left(&desk.assignment, &desk.work, &drafts, now);
        let candidate = candidate(&desk, left);
        told.extend(notices_of(&desk, &site).await?);
        assignments.push(week_entry(&desk, left, candidate.is_waiting(now)));
        candidates.push(candidate);
    }
    told.sort_by_key(|n| std::cmp::Reverse(n.at));
    let next = next(&candidates, now).and_then(|(i, why)| Some(next_view(assignments.get(i)?, why)));
    assignments.sort_by_key(|a| (a.due, a.id));
    Ok(web::Json(WeekView {
        now,
        to_do: assignments.iter().filter(|a| a.waiting).count(),
        assignments,
        next,
        notices: told,
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
        score_so_far: score_view(&desk.assignment, &desk.work, desk.now),
        recorded,
        results_at: results_at(desk).filter(|_| handed_in.is_some()),
        handed_in_at: handed_in.map(|h| h.at),
        handed_in_late: handed_in.is_some_and(|h| h.late),
        action,
    }
}

fn questions_words(left: usize) -> String {
    match left {
        1 => "one question is left".into(),
        n => format!("{n} questions are left"),
    }
}

fn next_view(entry: &WeekEntry, why: Why) -> NextView {
    let why = match why {
        Why::ClockRuns => "Its time is running.".to_owned(),
        Why::OnlyHandIn => "Everything is worked out; it only has to be handed in.".into(),
        Why::Overdue { left, begun: true } => format!("It is overdue, and {}.", questions_words(left)),
        Why::Overdue { begun: false, .. } => "It is overdue and was not opened yet.".into(),
        Why::DueFirst { left, begun: true } => {
            format!(
                "Of what is open it has to be gone on with first: {}.",
                questions_words(left)
            )
        }
        Why::DueFirst { left, begun: false } => {
            let many = if left == 1 { "question" } else { "questions" };
            format!("Of what is open it has to be begun first: {left} {many}, not opened yet.")
        }
        Why::Practice { left } => {
            format!(
                "Nothing that counts is waiting. This is practice: {}.",
                questions_words(left)
            )
        }
    };
    NextView {
        assignment: entry.id,
        title: entry.title.clone(),
        class_title: entry.class_title.clone(),
        why,
        action: entry.action,
    }
}

async fn notices_of(desk: &Desk, site: &Site) -> Result<Vec<NoticeView>, ApiError> {
    let head = match desk.work_id {
        Some(work) => store::get_head(&site.pool, work).await?,
        None => store::WorkHead::default(),
    };
    let view = |words: String, at, instant, event, note, result, on_result_page| NoticeView {
        assignment: desk.stored.head.id,
        title: desk.stored.head.title.clone(),
        words,
        at,
        instant,
        event,
        note,
        result,
        on_result_page,
    };
    let mut all = Vec::new();
    for told in notices(
        &desk.assignment,
        &desk.events,
        head.seen_event,
        head.result_seen,
        desk.now,
    ) {
        let (words, instant) = notice_words(
            &told.kind,
            coursework::score_visible(&desk.assignment, &desk.work, desk.now),
        );
        let result = told.kind == NoticeKind::ResultsOut;
        let on_result_page = matches!(
            told.kind,
            NoticeKind::ResultsOut
                | NoticeKind::KeyCorrected { .. }
                | NoticeKind::ScoredByTeacher { .. }
                | NoticeKind::TimeUp { .. }
        );
        all.push(view(
            words,
            told.at,
            instant,
            told.event,
            false,
            result,
            on_result_page,
        ));
    }
    let settings = &desk.assignment.settings;
    if settings.note.is_some() && settings.note != head.seen_note && settings.opens <= desk.now {
        let words = "A note from your teacher stands on the cover sheet.".to_owned();
        all.push(view(words, settings.opens, None, 0, true, false, false));
    }
    Ok(all)
}

fn notice_words(kind: &NoticeKind, score_visible: bool) -> (String, Option<OffsetDateTime>) {
    let points = |p: f64| (p * 100.0).round() / 100.0;
    match kind {
        NoticeKind::KeyCorrected {
            question,
            before,
            after,
        } => {
            let change = match (before, after) {
                (Some(b), Some(a)) if score_visible && b.round() == a.round() => {
                    format!(" Your recorded score stays at {} %.", a.round())
                }
                (Some(b), Some(a)) if score_visible => {
                    format!(
                        " Your recorded score went from {} % to {} %.",
                        b.round(),
                        a.round()
                    )
                }
                _ => String::new(),
            };
            let words = format!(
                "The key of question {} was wrong and has been corrected; what you had given was marked again.{change}",
                question + 1
            );
            (words, None)
        }
        NoticeKind::ScoredByTeacher {
            question,
            points: p,
            of,
            ..
        } if score_visible => (
            format!(
                "Your teacher marked question {}: {} of {of} points.",
                question + 1,
                points(*p)
            ),
            None,
        ),
        NoticeKind::ScoredByTeacher { question, .. } => {
            (format!("Your teacher marked question {}.", question + 1), None)
        }
        NoticeKind::DueMoved(to) => ("Your due date was moved to".into(), Some(*to)),
        NoticeKind::ClosingMoved(to) => ("For you it stays open until".into(), Some(*to)),
        NoticeKind::MoreTime(percent) => (format!("You have {percent} % of the time limit."), None),
        NoticeKind::MoreHandIns(1) => ("You have one more hand-in.".into(), None),
        NoticeKind::MoreHandIns(n) => (format!("You have {n} more hand-ins."), None),
        NoticeKind::TimeUp { handed_in: true } => (
            "Time ran out, and what you had entered by then was handed in for you.".into(),
            None,
        ),
        NoticeKind::TimeUp { handed_in: false } => {
            ("Time ran out. What you had handed in before stands.".into(), None)
        }
        NoticeKind::ResultsOut => ("The results are out.".into(), None),
    }
}
