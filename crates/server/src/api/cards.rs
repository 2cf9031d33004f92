//! The terms of reading pages as cards. Nothing in them is scored.

use std::collections::BTreeMap;

use actix_web::{get, put, web};
use coursework::{Card, CardStanding, card_standing};
use school::{School, SchoolError, find_page, skills, title_of};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;

use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct CardsView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    /// Pages that name terms.
    pages: Vec<PageCards>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PageCards {
    skill: String,
    title: String,
    class: String,
    cards: Vec<CardView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CardView {
    term: String,
    meaning: String,
    standing: CardStandingView,
    /// When a known one comes back, if it does.
    #[serde(with = "time::serde::rfc3339::option")]
    comes_back: Option<OffsetDateTime>,
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum CardStandingView {
    NotYet,
    Back,
    New,
    Known,
}

fn card_view(term: &marking::Term, standing: CardStanding) -> CardView {
    let (standing, comes_back) = match standing {
        CardStanding::NotYet => (CardStandingView::NotYet, None),
        CardStanding::Back => (CardStandingView::Back, None),
        CardStanding::New => (CardStandingView::New, None),
        CardStanding::Known { comes_back } => (CardStandingView::Known, comes_back),
    };
    CardView {
        term: term.term.clone(),
        meaning: term.meaning.clone(),
        standing,
        comes_back,
    }
}

fn page_cards(
    skill: &marking::Skill,
    seen: &BTreeMap<(String, String), Card>,
    now: OffsetDateTime,
) -> Option<PageCards> {
    let page = find_page(&skill.id).filter(|p| !p.terms.is_empty())?;
    let card = |term: &marking::Term| {
        let known = seen.get(&(skill.id.clone(), term.term.clone())).copied();
        card_view(term, card_standing(known, now))
    };
    Some(PageCards {
        skill: skill.id.clone(),
        title: title_of(&skill.id),
        class: skill.class.clone(),
        cards: page.terms.iter().map(card).collect(),
    })
}

/// The terms of every page, as far as one is with them.
#[utoipa::path(path = "/api/cards", responses((status = 200, body = CardsView), (status = 401, body = Problem)))]
#[get("/cards")]
pub(crate) async fn get_cards(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<CardsView>, ApiError> {
    let seen = store::cards_of(&school.pool, who.0.id).await?;
    let now = school.now();
    Ok(web::Json(CardsView {
        now,
        pages: skills()
            .iter()
            .filter_map(|s| page_cards(s, &seen, now))
            .collect(),
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct CardAnswer {
    skill: String,
    term: String,
    known: bool,
}

/// Keeps whether a term was known.
#[utoipa::path(path = "/api/cards", request_body = CardAnswer,
    responses((status = 200, body = CardView), (status = 404, body = Problem)))]
#[put("/cards")]
pub(crate) async fn put_card(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<CardAnswer>,
) -> Result<web::Json<CardView>, ApiError> {
    let CardAnswer { skill, term, known } = body.into_inner();
    let page = find_page(&skill).ok_or(SchoolError::NotFound)?;
    let found = page
        .terms
        .iter()
        .find(|t| t.term == term)
        .ok_or(SchoolError::NotFound)?;
    let now = school.now();
    let before = store::cards_of(&school.pool, who.0.id).await?;
    let card = Card::after(before.get(&(skill.clone(), term.clone())).copied(), known, now);
    store::put_card(&school.pool, who.0.id, &skill, &term, &card).await?;
    Ok(web::Json(card_view(found, card.standing(now))))
}
