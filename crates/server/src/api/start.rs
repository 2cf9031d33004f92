//! A class's starting point, as its students do it.

use actix_web::{get, post, put, web};
use coursework::{DayPlan, MOST_ASKED, Refusal, SkillGraph, Stratum, first_week, strata_after};
use marking::Question;
use school::placing::{Said, StandingPlacing, begin, entered, find_placing, graph_of, last_asked};
use school::{Glance, Learner, School, SchoolError, find_skill, title_of};
use serde::{Deserialize, Serialize};
use store::{EnteredInPlacing, Person};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::board::tools::{CalculateRequest, CalculateView, work_out};
use super::course::find;
use super::practice::EnteredView;
use super::shared::given::{GivenPart, responses};
use super::shared::loose::loose_question;
use super::shared::question_view::{DraftView, QuestionView};
use super::shared::read::{ReadView, read_in};
use super::shared::skill::{PageBrief, page_brief};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// A starting point as it stands.
#[derive(Serialize, ToSchema)]
pub(crate) struct StartPointView {
    class: Uuid,
    class_title: String,
    /// Questions at most.
    most: u32,
    standing: StartStanding,
    /// The teacher lets it be done again.
    again: bool,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "standing", rename_all = "snake_case")]
pub(crate) enum StartStanding {
    NotBegun {
        /// How many skills it is about.
        skills: usize,
        /// The bank has nothing to ask.
        nothing: bool,
    },
    Asking {
        /// Which question, from 1.
        number: usize,
        question: Box<QuestionView>,
    },
    Done {
        #[serde(with = "time::serde::rfc3339")]
        at: OffsetDateTime,
        asked: usize,
        /// In the order of what builds on what.
        skills: Vec<StartSkill>,
        week: Vec<StartDay>,
        /// Work of this class that is open now, the one due first before the others.
        open: Vec<StartWork>,
    },
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StratumView {
    Known,
    Next,
    FarOff,
}

impl From<Stratum> for StratumView {
    fn from(stratum: Stratum) -> Self {
        match stratum {
            Stratum::Known => StratumView::Known,
            Stratum::Next => StratumView::Next,
            Stratum::FarOff => StratumView::FarOff,
        }
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StartSkill {
    id: String,
    title: String,
    words: String,
    stratum: StratumView,
    /// How likely it is known, 0 to 100.
    likely: u8,
}

/// A day of the first week.
#[derive(Serialize, ToSchema)]
pub(crate) struct StartDay {
    skill: String,
    title: String,
    /// It counts as known: a few questions make sure.
    make_sure: bool,
    page: Option<PageBrief>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StartWork {
    id: Uuid,
    title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
}

pub(crate) fn likely(known: f64) -> u8 {
    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "between 0 and 100"
    )]
    let likely = (100.0 * known.clamp(0.0, 1.0)).round() as u8;
    likely
}

/// What a picture says, in the order of the graph.
pub(crate) fn in_order(graph: &SkillGraph, picture: &[(String, f64)]) -> Vec<f64> {
    let known = |name: &str| picture.iter().find(|(n, _)| n == name).map_or(0.0, |(_, p)| *p);
    graph.names().map(known).collect()
}

async fn view(
    school: &School,
    person: &Person,
    class: &store::ClassJoined,
    unread: &[coursework::CheckedPart],
) -> Result<web::Json<StartPointView>, ApiError> {
    let standing = find_placing(school, class.id, person.id).await?;
    let again = standing.as_ref().is_some_and(|s| s.stored.again);
    Ok(web::Json(StartPointView {
        class: class.id,
        class_title: class.title.clone(),
        most: MOST_ASKED,
        again,
        standing: match standing {
            None => not_begun(school, person, class).await?,
            Some(standing) if standing.placing.ended.is_some() => {
                done(school, person, class, &standing).await?
            }
            Some(standing) => asking(school, person, &standing, unread).await?,
        },
    }))
}

async fn not_begun(
    school: &School,
    person: &Person,
    class: &store::ClassJoined,
) -> Result<StartStanding, ApiError> {
    let glances = Glance::all(school, person.id).await?;
    let skills = school::placing::skills_of_class(class.id, &class.title, &glances);
    let learner = Learner::of(school, person.id, &glances).await?;
    let asks = school::placing::has_questions(school, &skills, &learner).await?;
    Ok(StartStanding::NotBegun {
        skills: skills.len(),
        nothing: !asks,
    })
}

async fn asking(
    school: &School,
    person: &Person,
    standing: &StandingPlacing,
    unread: &[coursework::CheckedPart],
) -> Result<StartStanding, ApiError> {
    let number = standing.placing.asked.len();
    let (source, item) = last_asked(school, &standing.placing, person.id).await?;
    let entered = entered(school, standing).await?;
    let question = loose_question(0, source.points, number.to_string(), &item, unread, false);
    Ok(StartStanding::Asking {
        number,
        question: Box::new(at_hand(question, &source, entered.as_ref())),
    })
}

/// The question with its calculator, and with what was entered before in its fields. No pages: nothing helps here.
fn at_hand(
    mut question: QuestionView,
    source: &Question,
    entered: Option<&EnteredInPlacing>,
) -> QuestionView {
    question.calculator = source.calculator;
    for part in &mut question.parts {
        let found = entered.and_then(|e| e.parts.iter().find(|(id, _)| *id == part.id));
        part.draft = found.map(|(_, response)| DraftView {
            revision: entered.map_or(0, |e| e.revision),
            response: response.clone(),
        });
    }
    question
}

async fn done(
    school: &School,
    person: &Person,
    class: &store::ClassJoined,
    standing: &StandingPlacing,
) -> Result<StartStanding, ApiError> {
    let ended = standing.placing.ended.as_ref().ok_or(SchoolError::NotFound)?;
    let graph = graph_of(&standing.stored.skills)?;
    let known = in_order(&graph, &ended.skills);
    let strata = strata_after(&graph, &known);
    let glances = Glance::all(school, person.id).await?;
    let learner = Learner::of(school, person.id, &glances).await?;
    let skill = |((name, p), stratum): ((&str, &f64), &Stratum)| StartSkill {
        id: name.to_owned(),
        title: title_of(name),
        words: find_skill(name).map(|s| s.words.clone()).unwrap_or_default(),
        stratum: (*stratum).into(),
        likely: likely(*p),
    };
    let day = |plan: &DayPlan| {
        let name = graph.name(plan.skill);
        StartDay {
            skill: name.to_owned(),
            title: title_of(name),
            make_sure: plan.make_sure,
            page: page_brief(&learner, name),
        }
    };
    let open = |glance: &&Glance| {
        glance.stored.head.class_id == class.id
            && glance.work.standing_hand_ins().next().is_none()
            && coursework::may_work(&glance.assignment, &glance.work, glance.now).is_ok()
    };
    let mut work: Vec<StartWork> = glances
        .iter()
        .filter(open)
        .map(|g| StartWork {
            id: g.stored.head.id,
            title: g.stored.head.title.clone(),
            due: coursework::terms(&g.assignment, &g.work).due,
        })
        .collect();
    work.sort_by_key(|w| (w.due, w.id));
    Ok(StartStanding::Done {
        at: ended.at,
        asked: standing.placing.asked.len(),
        skills: graph.names().zip(&known).zip(&strata).map(skill).collect(),
        week: first_week(&graph, &known).iter().map(day).collect(),
        open: work,
    })
}

/// A class's starting point as it stands for whoever asks.
#[utoipa::path(path = "/api/class/{id}/start", params(("id" = Uuid, Path)),
    responses((status = 200, body = StartPointView), (status = 404, body = Problem)))]
#[get("/class/{id}/start")]
pub(crate) async fn get_start_point(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<StartPointView>, ApiError> {
    let class = find(&school, &who, *id).await?;
    view(&school, &who.0, &class, &[]).await
}

/// Begins it, or carries on.
#[utoipa::path(path = "/api/class/{id}/start", params(("id" = Uuid, Path)),
    responses((status = 200, body = StartPointView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/class/{id}/start")]
pub(crate) async fn begin_start_point(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<StartPointView>, ApiError> {
    let class = find(&school, &who, *id).await?;
    begin(&school, class.id, &class.title, who.0.id).await?;
    view(&school, &who.0, &class, &[]).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct StartAnswer {
    /// Which question, from 1.
    number: usize,
    /// Left out for *Not learned yet*.
    #[serde(default)]
    parts: Option<Vec<GivenPart>>,
}

/// Takes an answer and asks the next question. Nothing is said of how it came out; what can't be read costs nothing.
#[utoipa::path(path = "/api/class/{id}/start/answer", params(("id" = Uuid, Path)), request_body = StartAnswer,
    responses((status = 200, body = StartPointView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/class/{id}/start/answer")]
pub(crate) async fn answer_start_point(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<StartAnswer>,
) -> Result<web::Json<StartPointView>, ApiError> {
    let class = find(&school, &who, *id).await?;
    let StartAnswer { number, parts } = body.into_inner();
    let said = match parts {
        Some(parts) => Said::Answer(responses(parts)?),
        None => Said::NotLearned,
    };
    let unread = school::placing::answer(&school, class.id, &who.0, number, said).await?;
    view(&school, &who.0, &class, &unread).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct StartRead {
    part: String,
    entry: String,
}

async fn standing(school: &School, who: &SignedIn, id: Uuid) -> Result<StandingPlacing, ApiError> {
    let found = find_placing(school, id, who.0.id).await?;
    found.ok_or(ApiError::NotFound)
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/class/{id}/start/read", params(("id" = Uuid, Path)), request_body = StartRead,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
#[post("/class/{id}/start/read")]
pub(crate) async fn read_in_start_point(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<StartRead>,
) -> Result<web::Json<ReadView>, ApiError> {
    let standing = standing(&school, &who, *id).await?;
    let (_, item) = last_asked(&school, &standing.placing, who.0.id).await?;
    let StartRead { part, entry } = body.into_inner();
    Ok(web::Json(read_in(&school, who.0.id, item, part, entry).await?))
}

/// Works an entry out, where the question that is asked has a calculator.
#[utoipa::path(path = "/api/class/{id}/start/calculate", params(("id" = Uuid, Path)), request_body = CalculateRequest,
    responses((status = 200, body = CalculateView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/class/{id}/start/calculate")]
pub(crate) async fn calculate_in_start_point(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<CalculateRequest>,
) -> Result<web::Json<CalculateView>, ApiError> {
    let standing = standing(&school, &who, *id).await?;
    let (source, _) = last_asked(&school, &standing.placing, who.0.id).await?;
    if !source.calculator || standing.placing.open().is_none() {
        return Err(Refusal::NoCalculator.into());
    }
    work_out(&school, who.0.id, body.into_inner()).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct StartEntered {
    /// Which question, from 1.
    number: usize,
    /// The revision that the fields started from; 0 for ones that were empty.
    based_on: i64,
    parts: Vec<GivenPart>,
}

/// Keeps what stands in the fields and was not given yet.
#[utoipa::path(path = "/api/class/{id}/start/entered", params(("id" = Uuid, Path)), request_body = StartEntered,
    responses((status = 200, body = EnteredView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/class/{id}/start/entered")]
pub(crate) async fn put_start_entered(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<StartEntered>,
) -> Result<web::Json<EnteredView>, ApiError> {
    let StartEntered {
        number,
        based_on,
        parts,
    } = body.into_inner();
    let parts = responses(parts)?;
    let standing = standing(&school, &who, *id).await?;
    if standing.placing.open().is_none() || number != standing.placing.asked.len() {
        return Ok(web::Json(EnteredView::Over));
    }
    let (placing, at) = (standing.stored.id, school.now());
    let wanted = EnteredInPlacing {
        number,
        revision: based_on,
        parts,
    };
    if let Some(revision) = store::put_entered_in_placing(&school.pool, placing, &wanted).await? {
        return Ok(web::Json(EnteredView::Saved { revision, at }));
    }
    let there = store::entered_in_placing(&school.pool, placing).await?;
    Ok(web::Json(match there.filter(|e| e.number == number) {
        Some(there) => EnteredView::elsewhere(there.revision, &there.parts),
        None => EnteredView::Over,
    }))
}
