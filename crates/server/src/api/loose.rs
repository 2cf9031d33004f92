//! Questions outside every record: to check oneself in a page, or in a review for a test. Their numbers follow from who
//! asks and for what, so nothing is kept; and nobody can ask for the numbers of an assignment's set.

use std::sync::Arc;

use actix_web::{post, web};
use coursework::{CheckedPart, Refusal};
use marking::{Item, Question};
use school::{Glance, Learner, School, SchoolError, find_page};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use store::{PersonId, QuestionId};
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::answer::{RightAnswer, right_answer};
use super::shared::given::{GivenPart, responses};
use super::shared::loose::loose_question;
use super::shared::question_view::QuestionView;
use super::shared::read::{ReadView, read_in};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Where a loose question comes from.
#[derive(Clone, Deserialize, ToSchema)]
#[serde(tag = "from", rename_all = "snake_case")]
pub(crate) enum LooseSource {
    /// The nth check of a skill's page, from 0; each round has other numbers.
    Page { skill: String, check: usize, round: u32 },
    /// A step of the nth worked example of a skill's page.
    Walk { skill: String, walk: usize, step: usize },
    /// A question of a stop of a recording that was come to.
    Stop {
        recording: Uuid,
        stop: String,
        question: usize,
    },
    /// A question of a review that the server has drawn: its place in it, from 0.
    Review { review: Uuid, place: usize },
}

/// A loose question that this person may see.
struct Found {
    id: QuestionId,
    question: Arc<Question>,
    seed: u64,
    /// Whether its working may be shown.
    may_show: bool,
}

/// A number that follows from who asks, for what and which time; for no assignment's set.
fn base(person: PersonId, parts: &[&[u8]]) -> u64 {
    let mut digest = Sha256::new();
    digest.update(b"loose");
    digest.update(person.0.as_bytes());
    for part in parts {
        digest.update(part);
        // Kept apart, so that no two lists of parts run into the same.
        digest.update([0xff]);
    }
    let bytes = digest.finalize();
    bytes.iter().take(8).fold(0, |n, b| (n << 8) | u64::from(*b)) >> 11
}

impl LooseSource {
    /// Which question it is, what its numbers are drawn from, and which round of it this is.
    async fn named(&self, school: &School, person: PersonId) -> Result<(String, u64, u32), ApiError> {
        match self {
            // It is no question of the bank.
            LooseSource::Walk { .. } => Err(ApiError::NotFound),
            LooseSource::Page { skill, check, round } => {
                let page = find_page(skill).ok_or(SchoolError::NotFound)?;
                let slug = page.checks().nth(*check).ok_or(SchoolError::NotFound)?.to_owned();
                // As wide on every machine.
                let check = u64::try_from(*check).unwrap_or(u64::MAX).to_le_bytes();
                let seed = base(person, &[b"page", skill.as_bytes(), &check]);
                Ok((slug, seed, *round))
            }
            LooseSource::Stop {
                recording,
                stop,
                question,
            } => {
                let found = school::recordings::get_recording(school, *recording).await?;
                let (watched, _) = store::watched(&school.pool, found.id, person).await?;
                let shown = watched.clone().answer(&found.stops, stop, *question);
                shown.map_err(|_| SchoolError::NotFound)?;
                let of = found.stops.stops.iter().find(|s| s.id == *stop);
                let slug = of
                    .and_then(|s| s.questions.get(*question))
                    .ok_or(SchoolError::NotFound)?;
                let place = u64::try_from(*question).unwrap_or(u64::MAX).to_le_bytes();
                let seed = base(person, &[b"stop", recording.as_bytes(), stop.as_bytes(), &place]);
                Ok((slug.clone(), seed, 0))
            }
            LooseSource::Review { review, place } => {
                let review = store::find_review(&school.pool, *review, person).await?;
                let review = review.ok_or(SchoolError::NotFound)?;
                let slug = review.questions.get(*place).ok_or(SchoolError::NotFound)?.clone();
                let place = u64::try_from(*place).unwrap_or(u64::MAX).to_le_bytes();
                let seed = base(
                    person,
                    &[b"review", slug.as_bytes(), &review.salt.to_le_bytes(), &place],
                );
                Ok((slug, seed, 0))
            }
        }
    }

    /// The question with numbers that are nobody's homework. None that is kept for a quiz, and none without other numbers
    /// while its homework is open: its answer would be that homework's.
    async fn find(&self, school: &School, person: PersonId) -> Result<Found, ApiError> {
        if let Some((id, question)) = self.walk_step()? {
            return Ok(Found {
                id,
                question,
                seed: 0,
                may_show: true,
            });
        }
        let (slug, base, round) = self.named(school, person).await?;
        let desks = Glance::all(school, person).await?;
        let learner = Learner::of(school, person, &desks).await?;
        let id = store::find_question_by_slug(&school.pool, &slug)
            .await?
            .ok_or(SchoolError::NotFound)?;
        let question = school.question(id).await?;
        if learner.is_kept_for_quiz(&slug) {
            return Err(Refusal::KeptForQuiz.into());
        }
        if !learner.may_show(&question) {
            return Err(Refusal::NoOtherNumbers.into());
        }
        let open = learner.open_sets(&slug).unwrap_or_default().to_vec();
        let source = question.clone();
        let drawn = move || marking::round_seed(&source, base, round, &[], &open);
        let seed = school
            .compute(person, drawn)
            .await?
            .map_err(|error| SchoolError::Undrawable {
                question: slug.clone(),
                error,
            })?
            .ok_or(Refusal::NoOtherNumbers)?;
        let may_show = !learner.withholds_working(&slug);
        Ok(Found {
            id,
            question,
            seed,
            may_show,
        })
    }

    /// The question with the numbers that this person has of it.
    pub(super) async fn shown(
        &self,
        school: &School,
        person: PersonId,
    ) -> Result<(Arc<Question>, Arc<Item>), ApiError> {
        let found = self.find(school, person).await?;
        let item = school.item(found.id, &found.question, found.seed, person).await?;
        Ok((found.question, item))
    }

    /// A step of a worked example, under an id that follows from what it says.
    fn walk_step(&self) -> Result<Option<(QuestionId, Arc<Question>)>, ApiError> {
        let LooseSource::Walk { skill, walk, step } = self else {
            return Ok(None);
        };
        let page = find_page(skill).ok_or(SchoolError::NotFound)?;
        let steps = page.walk(*walk).ok_or(SchoolError::NotFound)?;
        let question = steps.get(*step).ok_or(SchoolError::NotFound)?.clone();
        let text = serde_json::to_vec(&*question).map_err(|e| ApiError::Inside(e.to_string()))?;
        let digest = Sha256::digest(text);
        let mut bytes = [0_u8; 16];
        bytes.iter_mut().zip(digest).for_each(|(to, from)| *to = from);
        Ok(Some((QuestionId(Uuid::from_bytes(bytes)), question)))
    }

    /// The question with any numbers: how an entry reads does not depend on them.
    async fn reader(&self, school: &School, person: PersonId) -> Result<Arc<Item>, ApiError> {
        if let Some((id, question)) = self.walk_step()? {
            return Ok(school.item(id, &question, 0, person).await?);
        }
        let (slug, _, _) = self.named(school, person).await?;
        let id = store::find_question_by_slug(&school.pool, &slug)
            .await?
            .ok_or(SchoolError::NotFound)?;
        let question = school.question(id).await?;
        Ok(school.item(id, &question, 0, person).await?)
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
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<LooseRequest>,
) -> Result<web::Json<LooseView>, ApiError> {
    let LooseRequest {
        source,
        parts,
        show_working,
    } = body.into_inner();
    let given: Vec<_> = responses(parts)?
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let found = source.find(&school, who.0.id).await?;
    let item = school
        .item(found.id, &found.question, found.seed, who.0.id)
        .await?;
    let marked = school.mark(who.0.id, &item, given).await?;
    let view = school
        .compute(who.0.id, move || {
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            let judged = marked.len() == item.parts.len() && marked.iter().all(|p| p.costs);
            let right = judged && marked.iter().all(|p| p.score >= 1.0);
            let ended = show_working && (judged || marked.is_empty());
            let (question, may_show) = (&found.question, ended && found.may_show);
            LooseView {
                title: question.title.clone(),
                question: loose_question(0, question.points, "loose".into(), &item, &marked, may_show),
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
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<LooseRead>,
) -> Result<web::Json<ReadView>, ApiError> {
    let LooseRead { source, part, entry } = body.into_inner();
    let item = source.reader(&school, who.0.id).await?;
    Ok(web::Json(read_in(&school, who.0.id, item, part, entry).await?))
}
