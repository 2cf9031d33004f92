use actix_web::{HttpResponse, get, post, web};
use coursework::{Command, HandIn, WhichCounts, decide, forecast, recorded_now, score_so_far};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::views::{ScoreView, Stone, drafts_for, stone};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

/// A hand-in that stands.
#[derive(Serialize, ToSchema)]
pub(crate) struct HandInView {
    pub number: u32,
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    pub late: bool,
    pub score: ScoreView,
    pub taken_off: u8,
}

impl From<&HandIn> for HandInView {
    fn from(h: &HandIn) -> Self {
        let score = ScoreView::from(&h.recorded);
        HandInView {
            number: h.number,
            at: h.at,
            late: h.late,
            score,
            taken_off: h.recorded.taken_off,
        }
    }
}

/// What handing in now would do.
#[derive(Serialize, ToSchema)]
pub(crate) struct PreviewView {
    title: String,
    /// Why handing in is not possible now.
    refusal: Option<String>,
    questions: Vec<PreviewQuestion>,
    /// What would be recorded now, and what of it was taken off.
    would_record: ScoreView,
    taken_off: u8,
    late: bool,
    recorded: Option<ScoreView>,
    best_counts: bool,
    hand_ins_used: usize,
    hand_ins_allowed: Option<u32>,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    forecast: Option<ForecastView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PreviewQuestion {
    question: usize,
    points: f64,
    of: u32,
    stone: Stone,
    /// Parts with nothing entered and nothing right.
    empty_parts: Vec<String>,
    /// Parts with something entered that was not checked.
    unchecked_parts: Vec<String>,
    parts: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ForecastView {
    questions: usize,
    percent: f64,
}

/// What handing in now would record.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = PreviewView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/hand-in")]
pub(crate) async fn preview(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PreviewView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let refusal = decide(&desk.assignment, &desk.work, &Command::HandIn, desk.now).err();
    if refusal == Some(coursework::Refusal::NotOpened) {
        return Err(coursework::Refusal::NotOpened.into());
    }
    let drafts = match desk.work_id {
        Some(work) => store::drafts_of(&site.pool, work).await?,
        None => Vec::new(),
    };
    let score = score_so_far(&desk.assignment, &desk.work);
    let mut questions = Vec::with_capacity(score.questions.len());
    for (question, (state, scored)) in desk.work.questions.iter().zip(&score.questions).enumerate() {
        let mine = drafts_for(&drafts, question, state);
        let mut empty_parts = Vec::new();
        let mut unchecked_parts = Vec::new();
        let set = state.current();
        for part in set.iter().flat_map(|s| &s.parts).filter(|p| !p.right) {
            let draft = mine.iter().find(|d| d.part == part.id && !d.response.is_empty());
            let tried = set.is_some_and(|s| draft.is_some_and(|d| s.has_tried(&part.id, &d.response)));
            match draft {
                None if part.last.is_none() => empty_parts.push(part.id.clone()),
                Some(_) if !tried => unchecked_parts.push(part.id.clone()),
                _ => {}
            }
        }
        questions.push(PreviewQuestion {
            question,
            points: scored.points,
            of: scored.of,
            stone: stone(state, desk.assignment.max_attempts(question), &mine),
            empty_parts,
            unchecked_parts,
            parts: set.map_or(0, |s| s.parts.len()),
        });
    }
    let would = recorded_now(&desk.assignment, &desk.work, desk.now);
    let settings = &desk.assignment.settings;
    Ok(web::Json(PreviewView {
        title: desk.stored.head.title.clone(),
        refusal: refusal.map(|r| r.to_string()),
        questions,
        would_record: (&would).into(),
        taken_off: would.taken_off,
        late: desk.now > settings.due,
        recorded: desk
            .work
            .counting_hand_in(&desk.assignment)
            .map(|h| ScoreView::from(&h.recorded)),
        best_counts: settings.which_counts == WhichCounts::Best,
        hand_ins_used: desk.work.standing_hand_ins().count(),
        hand_ins_allowed: settings.hand_ins,
        closes: settings.closes,
        forecast: forecast(&desk.assignment, &score).map(|f| ForecastView {
            questions: f.questions,
            percent: f.percent,
        }),
    }))
}

/// Hands in: fixes the recorded score.
#[utoipa::path(path = "/api/assignments/{id}/hand-in", params(("id" = Uuid, Path)),
    responses((status = 200, body = HandInView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/hand-in")]
pub(crate) async fn hand_in(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<HandInView>, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    desk.run(&site, &who.0, &Command::HandIn).await?;
    let last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .ok_or(ApiError::NotFound)?;
    Ok(web::Json(last.into()))
}

/// Takes the last hand-in back.
#[utoipa::path(path = "/api/assignments/{id}/take-back", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/take-back")]
pub(crate) async fn take_back(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let mut desk = Desk::find(&site, *id, &who.0).await?;
    desk.run(&site, &who.0, &Command::TakeBack).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The receipt of a hand-in, with its assignment's title.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceiptView {
    title: String,
    class_title: String,
    hand_in: HandInView,
    taken_back: bool,
    recorded: Option<ScoreView>,
    best_counts: bool,
    can_take_back: bool,
    can_carry_on: bool,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
}

/// A receipt by its number.
#[utoipa::path(path = "/api/assignments/{id}/receipts/{number}",
    params(("id" = Uuid, Path), ("number" = u32, Path)),
    responses((status = 200, body = ReceiptView), (status = 404, body = Problem)))]
#[get("/assignments/{id}/receipts/{number}")]
pub(crate) async fn receipt(
    site: web::Data<Site>,
    who: SignedIn,
    path: web::Path<(Uuid, u32)>,
) -> Result<web::Json<ReceiptView>, ApiError> {
    let (id, number) = path.into_inner();
    let desk = Desk::find(&site, id, &who.0).await?;
    let found = desk
        .work
        .hand_ins
        .iter()
        .find(|h| h.number == number)
        .ok_or(ApiError::NotFound)?;
    let is_last = desk
        .work
        .standing_hand_ins()
        .next_back()
        .is_some_and(|h| h.number == number);
    let settings = &desk.assignment.settings;
    let is_open = desk.now < settings.closes;
    Ok(web::Json(ReceiptView {
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        hand_in: found.into(),
        taken_back: found.taken_back,
        recorded: desk
            .work
            .counting_hand_in(&desk.assignment)
            .map(|h| ScoreView::from(&h.recorded)),
        best_counts: settings.which_counts == WhichCounts::Best,
        can_take_back: is_last && is_open,
        can_carry_on: is_open,
        closes: settings.closes,
    }))
}
