//! Questions outside every record: to check oneself in a page, or in a review for a test. Their numbers follow from who
//! asks and for what, so nothing is kept; and nobody can ask for the numbers of an assignment's set.

use actix_web::{post, web};
use coursework::{CheckedPart, Refusal};
use marking::{Item, PartKind, Question};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use store::PersonId;
use utoipa::ToSchema;

use super::board::{GivenPart, ReadView, responses};
use super::views::{QuestionView, RightAnswer, loose_question, right_answer};
use super::work::mark_parts;
use crate::Site;
use crate::api::Desk;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::pages::find_page;
use crate::slip_book::Book;

/// Where a loose question comes from.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(tag = "from", rename_all = "snake_case")]
pub(crate) enum LooseSource {
    /// The nth check of a skill's page, from 0; each round has other numbers.
    Page { skill: String, check: usize, round: u32 },
    /// A question of a review: one the student has slipped at. `salt` is the review's, `place` its place in it.
    Review { question: String, salt: u64, place: u32 },
}

impl LooseSource {
    /// The seed that its numbers are drawn from: of the student, the question and the round, and of no assignment.
    fn base(&self, person: PersonId) -> u64 {
        let mut digest = Sha256::new();
        digest.update(b"loose");
        digest.update(person.0.as_bytes());
        match self {
            LooseSource::Page { skill, check, round } => {
                digest.update(b"page");
                digest.update(skill.as_bytes());
                // As wide on every machine.
                digest.update(u64::try_from(*check).unwrap_or(u64::MAX).to_le_bytes());
                digest.update(round.to_le_bytes());
            }
            LooseSource::Review {
                question,
                salt,
                place,
            } => {
                digest.update(b"review");
                digest.update(question.as_bytes());
                digest.update(salt.to_le_bytes());
                digest.update(place.to_le_bytes());
            }
        }
        let bytes = digest.finalize();
        bytes.iter().take(8).fold(0, |n, b| (n << 8) | u64::from(*b)) >> 11
    }

    /// Whether this student may see the question: one of a review only after slipping at it, none that is kept for a quiz.
    /// Gives whether its working may be shown.
    async fn check_access(&self, site: &Site, who: &SignedIn) -> Result<bool, ApiError> {
        let desks = Desk::all(site, &who.0).await?;
        let learner = Learner::of(site, &who.0, &desks).await?;
        let question = self.slug()?;
        if let LooseSource::Review { .. } = self {
            let book = Book::of(site, &who.0, &desks, &learner).await?;
            let mut slips = book.slips.iter();
            slips
                .find(|s| s.attempt.question == question)
                .ok_or(ApiError::NotFound)?;
        }
        if learner.is_kept_for_quiz(&question) {
            return Err(Refusal::KeptForQuiz.into());
        }
        Ok(!learner.withholds_working(&question))
    }

    fn slug(&self) -> Result<String, ApiError> {
        match self {
            LooseSource::Page { skill, check, .. } => {
                let page = find_page(skill).ok_or(ApiError::NotFound)?;
                Ok(page.checks().nth(*check).ok_or(ApiError::NotFound)?.to_owned())
            }
            LooseSource::Review { question, .. } => Ok(question.clone()),
        }
    }

    async fn question(&self, site: &Site) -> Result<Question, ApiError> {
        let slug = self.slug()?;
        let version = store::find_question_by_slug(&site.pool, &slug)
            .await?
            .ok_or(ApiError::NotFound)?;
        store::find_question(&site.pool, version)
            .await?
            .ok_or(ApiError::NotFound)
    }

    async fn item(&self, site: &Site, who: &SignedIn) -> Result<(Item, String, u32), ApiError> {
        let question = self.question(site).await?;
        let (title, points, base) = (question.title.clone(), question.points, self.base(who.0.id));
        let item = site
            .compute(move || {
                let seed = marking::next_seed(&question, base, &[]).map_err(|e| e.to_string())?;
                marking::render(&question, seed).map_err(|e| e.to_string())
            })
            .await?;
        let item = item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
        Ok((item, title, points))
    }
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct LooseRequest {
    source: LooseSource,
    /// Empty to be shown the question.
    #[serde(default)]
    parts: Vec<GivenPart>,
    /// Ends it: the right answer and the working are shown with the verdicts.
    #[serde(default)]
    show_working: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct LooseView {
    question: QuestionView,
    title: String,
    /// Everything that was given could be judged.
    judged: bool,
    right: bool,
    /// Once it is ended.
    answers: Vec<RightAnswer>,
}

/// A loose question, with what was entered marked. Nothing is recorded.
#[utoipa::path(path = "/api/loose", request_body = LooseRequest,
    responses((status = 200, body = LooseView), (status = 404, body = Problem)))]
#[post("/loose")]
pub(crate) async fn loose(
    site: web::Data<Site>,
    who: SignedIn,
    body: web::Json<LooseRequest>,
) -> Result<web::Json<LooseView>, ApiError> {
    let LooseRequest {
        source,
        parts,
        show_working,
    } = body.into_inner();
    let may_show = source.check_access(&site, &who).await?;
    let (item, title, points) = source.item(&site, &who).await?;
    let given: Vec<_> = responses(parts)
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let view = site
        .compute(move || {
            let marked = mark_parts(&item, given);
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            let judged = marked.len() == item.parts.len() && marked.iter().all(|p| p.costs);
            let right = judged && marked.iter().all(|p| p.score >= 1.0);
            let ended = show_working && (judged || marked.is_empty());
            LooseView {
                title,
                question: loose_question(0, points, "loose".into(), &item, &marked, ended && may_show),
                judged,
                right,
                answers: if ended {
                    item.parts.iter().map(right_answer).collect()
                } else {
                    Vec::new()
                },
            }
        })
        .await?;
    Ok(web::Json(view))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct LooseRead {
    source: LooseSource,
    part: String,
    entry: String,
}

/// Reads an entry as the marker would. It tells nothing of the question but how its answers are typed, so that every
/// key that is pressed need not look through the student's work.
#[utoipa::path(path = "/api/loose/read", request_body = LooseRead,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
#[post("/loose/read")]
pub(crate) async fn loose_read(
    site: web::Data<Site>,
    who: SignedIn,
    body: web::Json<LooseRead>,
) -> Result<web::Json<ReadView>, ApiError> {
    let LooseRead { source, part, entry } = body.into_inner();
    let (item, _, _) = source.item(&site, &who).await?;
    Ok(web::Json(read_in(&site, item, part, entry).await?))
}

/// How an entry for a part of a question reads.
pub(super) async fn read_in(
    site: &Site,
    item: Item,
    part: String,
    entry: String,
) -> Result<ReadView, ApiError> {
    let read = site
        .compute(move || match item.find_part(&part).map(|p| &p.kind) {
            Some(PartKind::Entry { marker, .. }) => Some(marker.read(&entry)),
            _ => None,
        })
        .await?;
    Ok(read.ok_or(ApiError::NotFound)?.into())
}
