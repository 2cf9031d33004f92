//! The bank as a teacher sees it: every question, with what it is on and where it is used, and a picture of each.

pub(crate) mod before;
pub(crate) mod correction;
pub(crate) mod pages;
pub(crate) mod text;

use actix_web::{get, post, web};
use coursework::{CheckedPart, MarkedPart};
use marking::Interaction;
use school::{School, SchoolError, skills, title_of};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::shared::answer::{RightAnswer, right_answer};
use super::shared::given::{GivenPart, responses};
use super::shared::loose::loose_question;
use super::shared::question_view::QuestionView;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// What can be asked.
#[derive(Serialize, ToSchema)]
pub(crate) struct BankView {
    questions: Vec<BankQuestion>,
    skills: Vec<BankSkill>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BankQuestion {
    id: String,
    title: String,
    /// Ids of skills.
    skills: Vec<String>,
    /// How its parts are answered, by QTI's names; each once.
    kinds: Vec<String>,
    points: u32,
    /// It has other numbers for each set.
    drawn: bool,
    /// A person marks it, or a part of it.
    by_hand: bool,
    /// Assignments it is in.
    uses: i64,
    /// The first words of it.
    begins: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BankSkill {
    id: String,
    title: String,
    class: String,
    /// It has a page to read.
    has_page: bool,
}

/// The name under which a part's kind stands in a question's file.
fn kind_name(interaction: &Interaction) -> String {
    let written = serde_json::to_value(interaction).unwrap_or_default();
    written["interaction"].as_str().unwrap_or_default().to_owned()
}

/// Every question of the bank.
#[utoipa::path(path = "/api/bank", responses((status = 200, body = BankView), (status = 404, body = Problem)))]
#[get("/bank")]
pub(crate) async fn get_bank(
    school: web::Data<School>,
    _who: Teacher,
) -> Result<web::Json<BankView>, ApiError> {
    let uses = store::question_uses(&school.pool).await?;
    let all = school.bank().await?;
    let question = |q: &marking::Question| {
        let mut kinds: Vec<String> = q.parts.iter().map(|p| kind_name(&p.interaction)).collect();
        kinds.sort();
        kinds.dedup();
        BankQuestion {
            id: q.id.clone(),
            title: q.title.clone(),
            skills: q.skills.clone(),
            kinds,
            points: q.points,
            drawn: q.is_drawn(),
            by_hand: q.parts.iter().any(|p| p.interaction.is_by_hand()),
            uses: uses.iter().find(|(slug, _)| *slug == q.id).map_or(0, |(_, n)| *n),
            begins: q
                .text
                .lines()
                .find(|l| !l.trim().is_empty())
                .unwrap_or_default()
                .chars()
                .take(160)
                .collect(),
        }
    };
    let skill = |s: &marking::Skill| BankSkill {
        id: s.id.clone(),
        title: s.title.clone(),
        class: s.class.clone(),
        has_page: school::find_page(&s.id).is_some(),
    };
    Ok(web::Json(BankView {
        questions: all.iter().map(|(_, q)| question(q)).collect(),
        skills: skills().iter().map(skill).collect(),
    }))
}

/// A question to be looked at, with the numbers of a seed; with entries, what the marker says to them.
#[derive(Deserialize, ToSchema)]
pub(crate) struct LookAt {
    /// Another one has other numbers.
    seed: u32,
    #[serde(default)]
    parts: Vec<GivenPart>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct LookedAt {
    id: String,
    title: String,
    skills: Vec<String>,
    question: QuestionView,
    answers: Vec<RightAnswer>,
}

fn looked_at(question: &marking::Question, item: &marking::Item, marked: &[MarkedPart]) -> LookedAt {
    let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
    LookedAt {
        id: question.id.clone(),
        title: question.title.clone(),
        skills: question.skills.iter().map(|s| title_of(s)).collect(),
        question: loose_question(0, question.points, "A".into(), item, &marked, true),
        answers: item.parts.iter().map(right_answer).collect(),
    }
}

/// A question as a student would have it, with its answers and its working. Nothing is recorded.
#[utoipa::path(path = "/api/bank/{slug}/look", params(("slug" = String, Path)), request_body = LookAt,
    responses((status = 200, body = LookedAt), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/{slug}/look")]
pub(crate) async fn look_at_question(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<LookAt>,
) -> Result<web::Json<LookedAt>, ApiError> {
    let LookAt { seed, parts } = body.into_inner();
    let given: Vec<_> = responses(parts)?
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let id = store::find_question_by_slug(&school.pool, &slug)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let question = school.question(id).await?;
    let item = school.item(id, &question, u64::from(seed), who.0.id).await?;
    let marked = school.mark(who.0.id, &item, given).await?;
    let view = school
        .compute(who.0.id, move || looked_at(&question, &item, &marked))
        .await?;
    Ok(web::Json(view))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct BankRead {
    part: String,
    entry: String,
}

/// How an entry reads in a question of the bank.
#[utoipa::path(path = "/api/bank/{slug}/read", params(("slug" = String, Path)), request_body = BankRead,
    responses((status = 200, body = super::shared::read::ReadView), (status = 404, body = Problem)))]
#[post("/bank/{slug}/read")]
pub(crate) async fn read_in_bank(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<BankRead>,
) -> Result<web::Json<super::shared::read::ReadView>, ApiError> {
    let BankRead { part, entry } = body.into_inner();
    let id = store::find_question_by_slug(&school.pool, &slug)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let question = school.question(id).await?;
    let item = school.item(id, &question, 0, who.0.id).await?;
    Ok(web::Json(
        super::shared::read::read_in(&school, who.0.id, item, part, entry).await?,
    ))
}
