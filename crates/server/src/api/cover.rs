use actix_web::{get, web};
use coursework::{Checking, HandInNeeds, LateRule, WhichCounts, score_so_far};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::hand_in::HandInView;
use super::views::{ScoreView, StateView, state_view};
use super::week::KindView;
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

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
    late: LateView,
    questions: usize,
    points: u32,
    max_tries: Option<u32>,
    max_sets: Option<u32>,
    checked_while_working: bool,
    best_counts: bool,
    needs_every_question: bool,
    hand_ins_allowed: Option<u32>,
    hand_ins: Vec<HandInView>,
    pass_mark: Option<u8>,
    skills: Vec<String>,
    note: Option<String>,
    state: StateView,
    score_so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    is_open: bool,
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

/// The cover sheet.
#[utoipa::path(path = "/api/assignments/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = CoverView), (status = 401, body = Problem), (status = 404, body = Problem)))]
#[get("/assignments/{id}")]
pub(crate) async fn cover(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<CoverView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let settings = &desk.assignment.settings;
    let late = match settings.late {
        _ if settings.closes <= settings.due => LateView::NoLateTime,
        LateRule::Flagged => LateView::Flagged,
        LateRule::PercentOff(percent) => LateView::PercentOff { percent },
        LateRule::NotAccepted => LateView::NotAccepted,
    };
    let mut skills: Vec<String> = desk
        .stored
        .questions
        .iter()
        .flat_map(|(_, q)| q.skills.clone())
        .collect();
    skills.sort();
    skills.dedup();
    let score = score_so_far(&desk.assignment, &desk.work);
    Ok(web::Json(CoverView {
        id: *id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        kind: settings.kind.into(),
        counts: settings.counts,
        now: desk.now,
        opens: settings.opens,
        due: settings.due,
        closes: settings.closes,
        late,
        questions: desk.assignment.items.len(),
        points: desk.assignment.total_points(),
        max_tries: settings.max_attempts,
        max_sets: settings.max_sets,
        checked_while_working: settings.checking == Checking::Individual,
        best_counts: settings.which_counts == WhichCounts::Best,
        needs_every_question: settings.hand_in_needs == HandInNeeds::EveryQuestionAttempted,
        hand_ins_allowed: settings.hand_ins,
        hand_ins: desk.work.standing_hand_ins().map(HandInView::from).collect(),
        pass_mark: settings.pass_mark,
        skills,
        note: settings.note.clone(),
        state: state_view(&desk.assignment, &desk.work, desk.now),
        score_so_far: desk.work.opened_at.map(|_| ScoreView::from(&score)),
        recorded: desk
            .work
            .counting_hand_in(&desk.assignment)
            .map(|h| ScoreView::from(&h.recorded)),
        is_open: settings.opens <= desk.now && desk.now < settings.closes,
    }))
}
