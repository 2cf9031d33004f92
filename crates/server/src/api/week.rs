use std::collections::BTreeMap;

use actix_web::{get, web};
use coursework::{
    Candidate, Choice, Kind, LateRule, Level, NoticeKind, SOLID, Waiting, Why, next, notices, state, terms,
};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::goals::GoalView;
use super::hand_in::results_at;
use super::skills::{SkillBrief, brief};
use super::views::{ScoreView, StateView, questions_left, recorded_view, score_view, state_view};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::skills::skills;
use crate::slip_book::Book;

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

/// What waits in the slip book.
#[derive(Serialize, ToSchema)]
pub(crate) struct WeekSlips {
    open: usize,
    /// Questions whose mended slips have come back, the one that came first before the others.
    back: Vec<BackView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BackView {
    /// Its place in the slip book.
    source: Uuid,
    event: u32,
    title: String,
    /// How many slips at this question have come back.
    slips: usize,
    #[serde(with = "time::serde::rfc3339")]
    since: OffsetDateTime,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct FadingView {
    skill: SkillBrief,
    #[serde(with = "time::serde::rfc3339")]
    since: OffsetDateTime,
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

/// The single most useful thing to do now, and why.
#[derive(Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum NextView {
    Work {
        assignment: Uuid,
        title: String,
        class_title: String,
        why: String,
        action: Action,
    },
    /// Slips that came back; `until` is put after the words, if it is there.
    Slips {
        why: String,
        #[serde(with = "time::serde::rfc3339::option")]
        until: Option<OffsetDateTime>,
    },
    Fading {
        skill: String,
        title: String,
        why: String,
        #[serde(with = "time::serde::rfc3339::option")]
        until: Option<OffsetDateTime>,
    },
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

/// Skills that are fading, the first one first.
fn fading(learner: &Learner) -> Vec<FadingView> {
    let one = |skill: &marking::Skill| {
        let mastery = learner.mastery(&skill.id);
        let since = mastery.faded_at.filter(|_| mastery.level == Level::Fading)?;
        let skill = brief(learner, &skill.id);
        Some(FadingView { skill, since })
    };
    let mut all: Vec<FadingView> = skills().iter().filter_map(one).collect();
    all.sort_by_key(|f| f.since);
    all
}

async fn week_slips(site: &Site, book: &Book, now: OffsetDateTime) -> Result<WeekSlips, ApiError> {
    let titles = store::question_titles(&site.pool).await?;
    let title_of = |question: &str| {
        let found = titles.iter().find(|(id, _)| id == question);
        found.map_or_else(|| question.to_owned(), |(_, title)| title.clone())
    };
    let mut by_question: BTreeMap<&str, BackView> = BTreeMap::new();
    for (slip, since) in book.back(now) {
        let question = slip.attempt.question.as_str();
        if let Some(known) = by_question.get_mut(question) {
            known.slips += 1;
            known.since = known.since.min(since);
            continue;
        }
        let view = BackView {
            source: book.source(slip)?.id,
            event: slip.attempt.event,
            title: title_of(question),
            slips: 1,
            since,
        };
        by_question.insert(question, view);
    }
    let mut back: Vec<BackView> = by_question.into_values().collect();
    back.sort_by_key(|b| b.since);
    Ok(WeekSlips {
        open: book.open().count(),
        back,
    })
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
        goal: desk.work.progress.as_ref().map(Into::into),
        score_so_far: score_view(&desk.assignment, &desk.work, desk.now),
        recorded,
        results_at: results_at(desk).filter(|_| handed_in.is_some()),
        handed_in_at: handed_in.map(|h| h.at),
        handed_in_late: handed_in.is_some_and(|h| h.late),
        action,
    }
}

fn counted(n: usize, one: &str, many: &str) -> String {
    match n {
        1 => format!("one {one}"),
        n => format!("{n} {many}"),
    }
}

fn are_left(n: usize) -> String {
    let verb = if n == 1 { "is" } else { "are" };
    format!("{} {verb} left", counted(n, "question", "questions"))
}

/// What is left to do in an assignment, as it asks for it.
fn left_words(entry: &WeekEntry, left: usize) -> String {
    match &entry.goal {
        None => are_left(left),
        Some(goal) => format!("{} % of the goal is reached", goal.percent.floor()),
    }
}

fn work_words(entry: &WeekEntry, why: Why) -> String {
    match why {
        Why::ClockRuns => "Its time is running.".to_owned(),
        Why::OnlyHandIn if entry.goal.is_some() => "The goal is reached; it only has to be handed in.".into(),
        Why::OnlyHandIn => "Everything is worked out; it only has to be handed in.".into(),
        Why::Overdue { left, begun: true } => format!("It is overdue, and {}.", left_words(entry, left)),
        Why::Overdue { begun: false, .. } => "It is overdue and was not opened yet.".into(),
        Why::DueFirst { left, begun: true } => {
            let left = left_words(entry, left);
            format!("Of what is open it has to be gone on with first: {left}.")
        }
        Why::DueFirst { .. } if entry.goal.is_some() => {
            "Of what is open it has to be begun first; it was not opened yet.".into()
        }
        Why::DueFirst { left, begun: false } => {
            let left = counted(left, "question", "questions");
            format!("Of what is open it has to be begun first: {left}, not opened yet.")
        }
        Why::Practice { left } => {
            let left = left_words(entry, left);
            format!("Nothing that counts is waiting. This is practice: {left}.")
        }
    }
}

fn next_view(entries: &[WeekEntry], fading: &[FadingView], choice: Choice) -> Option<NextView> {
    let before = |until: Option<OffsetDateTime>| match until {
        Some(_) => "Nothing that counts has to be begun before",
        None => "Nothing that counts is waiting.",
    };
    Some(match choice {
        Choice::Work(place, why) => {
            let entry = entries.get(place)?;
            NextView::Work {
                assignment: entry.id,
                title: entry.title.clone(),
                class_title: entry.class_title.clone(),
                why: work_words(entry, why),
                action: entry.action,
            }
        }
        Choice::SlipsBack { count, until, .. } => {
            let came = if count == 1 {
                "One slip you mended has come back".into()
            } else {
                format!("{count} slips you mended have come back")
            };
            NextView::Slips {
                why: format!("{came} to be tried again. {}", before(until)),
                until,
            }
        }
        Choice::Fading { until, .. } => {
            let first = &fading.first()?.skill;
            NextView::Fading {
                skill: first.id.clone(),
                title: first.title.clone(),
                why: format!(
                    "It was solid and has faded to {} of {SOLID}; a few right answers bring it back. {}",
                    first.score,
                    before(until)
                ),
                until,
            }
        }
    })
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
