//! Handing in, taking back, receipts.

pub(crate) mod preview;

use actix_web::{HttpResponse, get, post, web};
use coursework::{Command, End, GoalProgress, WhichCounts, decide, score_visible, terms};
use school::{Desk, Learner, School, SchoolError};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::hand_in::{HandInView, hand_in_view, results_at};
use super::shared::state::{ScoreView, recorded_view};
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

/// How far an assignment's goal is reached now, if it has one.
async fn progress(school: &School, desk: &Desk) -> Result<Option<GoalProgress>, ApiError> {
    if desk.assignment.settings.goal.is_none() {
        return Ok(None);
    }
    Ok(Learner::load(school, desk.student).await?.progress(
        desk.stored.head.class_id,
        &desk.assignment,
        desk.work_id,
    ))
}

/// Hands in: fixes the recorded score.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = HandInView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/hand-in")]
pub(crate) async fn hand_in(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<HandInView>, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    match progress(&school, &desk).await? {
        Some(progress) => desk.run(&school, &Command::HandInProgress { progress }).await?,
        None if desk.assignment.is_simultaneous() || desk.assignment.needs_a_person() => {
            desk.run_with_drafts(&school, End::Student, &|marked| Command::HandIn { marked })
                .await?;
        }
        None => desk.run(&school, &Command::HandIn { marked: Vec::new() }).await?,
    }
    let last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .ok_or(SchoolError::NotFound)?;
    let visible = score_visible(&desk.assignment, &desk.work, desk.now);
    Ok(web::Json(hand_in_view(last, visible)))
}

/// Takes the last hand-in back.
#[utoipa::path(path = "/api/assignments/{id}/take-back", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/take-back")]
pub(crate) async fn take_back(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = who.desk(&school, *id).await?;
    desk.run(&school, &Command::TakeBack).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The receipt of a hand-in, with its assignment's title.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceiptView {
    title: String,
    class_title: String,
    /// The score is progress to a goal, not points.
    towards_goal: bool,
    hand_in: HandInView,
    taken_back: bool,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    best_counts: bool,
    can_take_back: bool,
    can_carry_on: bool,
    hand_ins_left: Option<u32>,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
}

/// A receipt by its number.
#[utoipa::path(path = "/api/assignments/{id}/receipts/{number}",
    params(("id" = Uuid, Path), ("number" = u32, Path)),
    responses((status = 200, body = ReceiptView), (status = 404, body = Problem)))]
#[get("/assignments/{id}/receipts/{number}")]
pub(crate) async fn receipt(
    school: web::Data<School>,
    who: Visitor,
    path: web::Path<(Uuid, u32)>,
) -> Result<web::Json<ReceiptView>, ApiError> {
    let (id, number) = path.into_inner();
    let desk = who.desk(&school, id).await?;
    let found = desk
        .work
        .hand_ins
        .iter()
        .find(|h| h.number == number)
        .ok_or(SchoolError::NotFound)?;
    let is_last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .is_some_and(|h| h.number == number);
    let can_take_back = decide(&desk.assignment, &desk.work, &Command::TakeBack, desk.now).is_ok();
    let can_carry_on = coursework::may_add(&desk.assignment, &desk.work, desk.now).is_ok();
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    let visible = score_visible(&desk.assignment, &desk.work, desk.now);
    let used = desk.work.hand_ins_used();
    Ok(web::Json(ReceiptView {
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        towards_goal: settings.goal.is_some(),
        hand_in: hand_in_view(found, visible),
        taken_back: found.taken_back,
        recorded: recorded_view(&desk.assignment, &desk.work, desk.now),
        results_at: results_at(&desk.assignment, &desk.work, desk.now),
        best_counts: settings.which_counts == WhichCounts::Best,
        can_take_back: is_last && can_take_back,
        can_carry_on,
        hand_ins_left: terms.hand_ins.map(|max| max.saturating_sub(used)),
        closes: terms.closes,
    }))
}
