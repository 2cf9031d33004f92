//! A review for a test: questions one has slipped at, on fresh numbers. Nothing of it is recorded.

use std::collections::BTreeSet;

use actix_web::{get, post, web};
use coursework::{SlipEntry, draw_review};
use school::{Book, Glance, Learner, School, random_number};
use serde::{Deserialize, Serialize};
use store::{PersonId, Review};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Questions that a review may have.
const LONGEST: usize = 40;

/// What a review can be drawn from.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReviewChoices {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    classes: Vec<ReviewClass>,
    longest: usize,
    /// Questions slipped at that are kept for a quiz which is still open.
    kept_for_quizzes: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ReviewClass {
    title: String,
    /// Questions slipped at that have other numbers.
    questions: usize,
    #[serde(with = "time::serde::rfc3339")]
    first: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    last: OffsetDateTime,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct ReviewRequest {
    /// Titles of classes; "Practice" for practice on skills.
    classes: Vec<String>,
    #[serde(with = "time::serde::rfc3339::option", default)]
    from: Option<OffsetDateTime>,
    /// Up to and without it.
    #[serde(with = "time::serde::rfc3339::option", default)]
    until: Option<OffsetDateTime>,
    length: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ReviewView {
    /// Its questions are asked for by it; what their numbers are drawn with stays behind.
    id: Uuid,
    questions: Vec<ReviewQuestion>,
    /// Different ones among them.
    different: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ReviewQuestion {
    question: String,
    title: String,
    slips: usize,
    open: bool,
}

/// Slips that can be tried on other numbers, with the class of each.
struct Drawable {
    book: Book,
    titles: Vec<(String, String)>,
    kept_for_quizzes: usize,
}

impl Drawable {
    async fn load(school: &School, person: PersonId) -> Result<Drawable, ApiError> {
        let desks = Glance::all(school, person).await?;
        let learner = Learner::of(school, person, &desks).await?;
        let book = Book::of(&desks, &learner);
        let bank = school.bank().await?;
        let titles = bank
            .into_iter()
            .filter(|(_, q)| q.is_drawn() && !learner.is_kept_for_quiz(&q.id))
            .map(|(_, q)| (q.id.clone(), q.title.clone()))
            .collect();
        let slipped: BTreeSet<&str> = book.slips.iter().map(|s| &*s.attempt.question).collect();
        let kept_for_quizzes = slipped
            .into_iter()
            .filter(|q| learner.is_kept_for_quiz(q))
            .count();
        Ok(Drawable {
            book,
            titles,
            kept_for_quizzes,
        })
    }

    fn title(&self, question: &str) -> Option<&str> {
        let found = self.titles.iter().find(|(id, _)| id == question);
        found.map(|(_, title)| title.as_str())
    }

    /// Slips with their class; practice on skills has none.
    fn slips(&self) -> impl Iterator<Item = (&SlipEntry, Option<&str>)> {
        self.book
            .slips
            .iter()
            .filter(|s| self.title(&s.attempt.question).is_some())
            .map(|s| {
                (
                    s,
                    self.book
                        .source(s)
                        .ok()
                        .and_then(|source| source.class.as_deref()),
                )
            })
    }
}

/// What a review can be drawn from: the classes and dates of one's slips.
#[utoipa::path(path = "/api/review", responses((status = 200, body = ReviewChoices), (status = 401, body = Problem)))]
#[get("/review")]
pub(crate) async fn review_choices(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<ReviewChoices>, ApiError> {
    let drawable = Drawable::load(&school, who.0.id).await?;
    let mut classes: Vec<(ReviewClass, Vec<&str>)> = Vec::new();
    for (slip, class) in drawable.slips() {
        let title = class.unwrap_or("Practice");
        let (at, question) = (slip.attempt.at, &*slip.attempt.question);
        let place = classes
            .iter()
            .position(|(c, _)| c.title == title)
            .unwrap_or_else(|| {
                let fresh = ReviewClass {
                    title: title.to_owned(),
                    questions: 0,
                    first: at,
                    last: at,
                };
                classes.push((fresh, Vec::new()));
                classes.len() - 1
            });
        let Some((found, questions)) = classes.get_mut(place) else {
            continue;
        };
        found.first = found.first.min(at);
        found.last = found.last.max(at);
        if !questions.contains(&question) {
            questions.push(question);
            found.questions += 1;
        }
    }
    let mut classes: Vec<ReviewClass> = classes.into_iter().map(|(c, _)| c).collect();
    classes.sort_by(|a, b| a.title.cmp(&b.title));
    Ok(web::Json(ReviewChoices {
        now: school.now(),
        classes,
        longest: LONGEST,
        kept_for_quizzes: drawable.kept_for_quizzes,
    }))
}

/// Draws a review. Nothing that is answered in it is recorded; that it was drawn is kept until others are, so that it can be
/// gone on with after a reload.
#[utoipa::path(path = "/api/review", request_body = ReviewRequest,
    responses((status = 200, body = ReviewView), (status = 400, body = Problem)))]
#[post("/review")]
pub(crate) async fn draw_a_review(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<ReviewRequest>,
) -> Result<web::Json<ReviewView>, ApiError> {
    let wanted = body.into_inner();
    if !(1..=LONGEST).contains(&wanted.length) {
        let words = format!("A review has 1 to {LONGEST} questions.");
        return Err(ApiError::Unusable(words));
    }
    if matches!((wanted.from, wanted.until), (Some(from), Some(until)) if from >= until) {
        return Err(ApiError::Unusable(
            "The first day has to come before the last one.".into(),
        ));
    }
    let drawable = Drawable::load(&school, who.0.id).await?;
    let slips: Vec<&SlipEntry> = drawable
        .slips()
        .filter(|(slip, class)| {
            let at = slip.attempt.at;
            wanted.classes.iter().any(|c| c == class.unwrap_or("Practice"))
                && wanted.from.is_none_or(|from| at >= from)
                && wanted.until.is_none_or(|until| at < until)
        })
        .map(|(slip, _)| slip)
        .collect();
    let items = draw_review(&slips, wanted.length);
    let mut different: Vec<&str> = items.iter().map(|i| i.question.as_str()).collect();
    different.sort_unstable();
    different.dedup();
    let review = Review {
        id: Uuid::now_v7(),
        salt: random_number()?,
        questions: items.iter().map(|i| i.question.clone()).collect(),
    };
    store::put_review(&school.pool, who.0.id, &review, school.now()).await?;
    Ok(web::Json(ReviewView {
        id: review.id,
        different: different.len(),
        questions: items
            .iter()
            .map(|item| ReviewQuestion {
                question: item.question.clone(),
                title: drawable.title(&item.question).unwrap_or_default().to_owned(),
                slips: item.slips,
                open: item.open,
            })
            .collect(),
    }))
}
