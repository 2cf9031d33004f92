//! Practice on skills: a question at a time, always on fresh numbers, towards a goal.

use actix_web::{HttpResponse, get, post, put, web};
use coursework::{
    CheckedPart, MOST_RIGHT, PARAMETERS, PracticeCandidate, PracticeEvent, PracticeGoal, Refusal, Run, SOLID,
    Target, choose, fold_run, may_work,
};
use marking::{Item, Question};
use serde::{Deserialize, Serialize};
use store::{EnteredInRun, QuestionId, RunId};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::board::{GivenPart, ReadView, responses};
use super::goals::GoalView;
use super::hand_in::HandInView;
use super::loose::read_in;
use super::skills::{SkillBrief, brief};
use super::views::{
    DraftView, QuestionView, RightAnswer, ScoreView, loose_question, reading_of, recorded_view, right_answer,
};
use super::work::{Desk, mark_parts, random_number};
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::learner::Learner;
use crate::skills::{find_skill, skills, title_of};

#[derive(Deserialize, ToSchema)]
pub(crate) struct StartRequest {
    skills: Vec<String>,
    /// A number right on fresh numbers; without one, the goal is that every skill is solid.
    right: Option<u32>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct Started {
    pub id: Uuid,
}

/// Begins a run of practice.
#[utoipa::path(path = "/api/practice", request_body = StartRequest,
    responses((status = 200, body = Started), (status = 400, body = Problem), (status = 409, body = Problem)))]
#[post("/practice")]
pub(crate) async fn start(
    site: web::Data<Site>,
    who: SignedIn,
    body: web::Json<StartRequest>,
) -> Result<web::Json<Started>, ApiError> {
    let StartRequest {
        skills: wanted,
        right,
    } = body.into_inner();
    if wanted.is_empty() || wanted.len() > skills().len() {
        return Err(ApiError::Unusable("Name the skills to practise.".into()));
    }
    let learner = Learner::load(&site, &who.0).await?;
    for id in &wanted {
        let skill = find_skill(id).ok_or(ApiError::NotFound)?;
        if !learner.missing(skill).is_empty() {
            return Err(Refusal::SkillLocked.into());
        }
    }
    let target = right.map_or(Target::Score(SOLID), |n| Target::Right(n.clamp(1, MOST_RIGHT)));
    let goal = PracticeGoal {
        skills: wanted,
        target,
        question: None,
    };
    let run = store::start_run(&site.pool, who.0.id, &goal, site.now()).await?;
    draw(&site, run, &goal, &learner).await?;
    Ok(web::Json(Started { id: run.0 }))
}

/// Questions that can be practised, in their newest versions: those whose numbers are drawn anew.
async fn bank(site: &Site) -> Result<Vec<(QuestionId, Question)>, ApiError> {
    let mut all = store::newest_questions(&site.pool).await?;
    all.retain(|(_, q)| q.is_drawn());
    Ok(all)
}

/// Draws the next question of a run, unless one waits for an answer.
pub(super) async fn draw(
    site: &Site,
    run_id: RunId,
    goal: &PracticeGoal,
    learner: &Learner,
) -> Result<(), ApiError> {
    let now = site.now();
    let all = bank(site).await?;
    let fits = |q: &Question| {
        goal.question
            .as_ref()
            .map_or(goal.skills.iter().any(|s| q.skills.contains(s)), |id| q.id == *id)
    };
    let kept = all
        .iter()
        .any(|(_, q)| fits(q) && learner.is_kept_for_quiz(&q.id));
    let questions: Vec<_> = all
        .into_iter()
        .filter(|(_, q)| !learner.is_kept_for_quiz(&q.id))
        .collect();
    let nothing = if kept {
        Refusal::KeptForQuiz
    } else {
        Refusal::NothingToPractise
    };
    let candidates: Vec<PracticeCandidate> = questions
        .iter()
        .map(|(_, q)| PracticeCandidate {
            question: q.id.clone(),
            skills: q.skills.clone(),
        })
        .collect();
    let run = fold_run(&store::practice_events(&site.pool, run_id).await?);
    if run.open().is_some() {
        return Ok(());
    }
    let score_of = |skill: &str| learner.score(skill);
    let (place, skill) = choose(goal, &candidates, &run, score_of).ok_or(nothing)?;
    let (version, question) = questions.get(place).ok_or(nothing)?;
    // Never a set twice: not in this run, nor in those before it.
    let before = learner.runs.iter().filter(|r| r.id != run_id);
    let mut earlier: Vec<u64> = before
        .flat_map(|r| &r.run.drawn)
        .chain(&run.drawn)
        .filter(|d| d.question == question.id)
        .map(|d| d.seed)
        .collect();
    let older = earlier.len().saturating_sub(MOST_EARLIER);
    earlier.drain(..older);
    let (source, base) = (question.clone(), random_number()?);
    let seed = site
        .compute(move || marking::next_seed(&source, base, &earlier))
        .await?
        .map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
    let event = drawn(*version, question, seed, skill);
    let mut tx = site.pool.begin().await?;
    let newest = fold_run(&store::lock_run(&mut tx, run_id).await?);
    // Another window may have drawn meanwhile: then that question stands.
    if newest.last_event == run.last_event {
        store::append_practice(&mut tx, run_id, run.last_event, &event, now).await?;
        tx.commit().await?;
    }
    Ok(())
}

/// What is kept of a question that was drawn.
pub(crate) fn drawn(version: QuestionId, question: &Question, seed: u64, skill: String) -> PracticeEvent {
    PracticeEvent::Drawn {
        question: question.id.clone(),
        version: version.0.to_string(),
        seed,
        skill,
        skills: question.skills.clone(),
        guess: question.guess(PARAMETERS.guess_typed),
    }
}

/// Earlier sets of a question that a new one is held against; more would only take longer.
const MOST_EARLIER: usize = 12;

#[derive(Serialize, ToSchema)]
pub(crate) struct PracticeRunView {
    id: Uuid,
    goal: GoalView,
    /// The skills of the goal as they stand.
    skills: Vec<SkillBrief>,
    answered: u32,
    /// What it was set by, if it was.
    assignment: Option<RunAssignment>,
    /// What the question is practised for.
    skill: String,
    question: QuestionView,
    /// The question was answered: nothing more is checked, the answer and the working are shown.
    answered_now: bool,
    right_now: bool,
    answers: Vec<RightAnswer>,
}

/// The assignment that a run was set by.
#[derive(Serialize, ToSchema)]
pub(crate) struct RunAssignment {
    id: Uuid,
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    /// Why nothing can be added any more.
    closed_because: Option<String>,
    /// What handing in now would record, per cent.
    would_record: f64,
    recorded: Option<ScoreView>,
    /// Those that stand.
    hand_ins: Vec<HandInView>,
}

fn run_assignment(desk: &mut Desk, learner: &Learner) -> RunAssignment {
    desk.work.progress = learner.progress(desk);
    let (assignment, work) = (&desk.assignment, &desk.work);
    RunAssignment {
        id: desk.stored.head.id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        due: coursework::terms(assignment, work).due,
        closed_because: may_work(assignment, work, desk.now).err().map(|r| r.to_string()),
        would_record: coursework::recorded_now(assignment, work, desk.now).percent(),
        recorded: recorded_view(assignment, work, desk.now),
        hand_ins: work
            .standing_hand_ins()
            .map(|h| super::hand_in::hand_in_view(h, true))
            .collect(),
    }
}

async fn find(site: &Site, who: &SignedIn, id: Uuid) -> Result<(RunId, PracticeGoal, Run), ApiError> {
    let (run_id, goal) = store::find_run(&site.pool, id, who.0.id)
        .await?
        .ok_or(ApiError::NotFound)?;
    let run = fold_run(&store::practice_events(&site.pool, run_id).await?);
    Ok((run_id, goal, run))
}

/// Refuses what is added to a run whose assignment has ended.
async fn may_go_on(site: &Site, who: &SignedIn, run: RunId) -> Result<(), ApiError> {
    if let Some(id) = store::assignment_of_run(&site.pool, run).await? {
        let desk = Desk::find(site, id, &who.0).await?;
        may_work(&desk.assignment, &desk.work, desk.now)?;
    }
    Ok(())
}

async fn item_of(site: &Site, run: &Run) -> Result<(Question, Item), ApiError> {
    let drawn = run.drawn.last().ok_or(Refusal::NothingDrawn)?;
    let version: Uuid = drawn.version.parse().map_err(|_| ApiError::NotFound)?;
    let question = store::find_question(&site.pool, QuestionId(version))
        .await?
        .ok_or(ApiError::NotFound)?;
    let (source, seed) = (question.clone(), drawn.seed);
    let item = site.compute(move || marking::render(&source, seed)).await?;
    let item = item.map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
    Ok((question, item))
}

/// The run as it stands; `unjudged` are verdicts that cost nothing and are not kept.
async fn view(
    site: &Site,
    who: &SignedIn,
    id: Uuid,
    unjudged: &[CheckedPart],
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let (run_id, goal, run) = find(site, who, id).await?;
    let (source, item) = item_of(site, &run).await?;
    let entered = store::find_entered(&site.pool, run_id).await?;
    let entered = entered.filter(|e| e.number == run.drawn.len() && run.open().is_some());
    let mut desks = Desk::all(site, &who.0).await?;
    let learner = Learner::of(site, &who.0, &desks).await?;
    let work = learner.run(id).and_then(|r| r.work);
    let desk = desks.iter_mut().find(|d| work.is_some() && d.work_id == work);
    let progress = learner.measure(&goal.goal(), &run);
    let drawn = run.drawn.last().ok_or(Refusal::NothingDrawn)?;
    let checked = drawn.checked.as_ref();
    let marked = checked.map_or(unjudged, |c| &c.1);
    let shows_working = checked.is_some() && !learner.withholds_working(&source.id);
    let number = run.drawn.len().to_string();
    Ok(web::Json(PracticeRunView {
        id,
        goal: (&progress).into(),
        skills: goal.skills.iter().map(|s| brief(&learner, s)).collect(),
        answered: run.answered(),
        assignment: desk.map(|d| run_assignment(d, &learner)),
        skill: title_of(&drawn.skill),
        question: at_hand(
            loose_question(0, source.points, number, &item, marked, shows_working),
            &source,
            entered.as_ref(),
        ),
        answered_now: checked.is_some(),
        right_now: checked.is_some_and(|c| c.2),
        answers: if checked.is_some() {
            item.parts.iter().map(right_answer).collect()
        } else {
            Vec::new()
        },
    }))
}

/// A run of practice with its question.
#[utoipa::path(path = "/api/practice/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem)))]
#[get("/practice/{id}")]
pub(crate) async fn get_run(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    view(&site, &who, *id, &[]).await
}

/// The question with its pages, and with what was entered before in its fields.
fn at_hand(mut question: QuestionView, source: &Question, entered: Option<&EnteredInRun>) -> QuestionView {
    question.reading = reading_of(source);
    for part in &mut question.parts {
        let found = entered.and_then(|e| e.parts.iter().find(|(id, _)| *id == part.id));
        part.draft = found.map(|(_, response)| DraftView {
            revision: 0,
            response: response.into(),
        });
    }
    question
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeRead {
    part: String,
    entry: String,
}

/// Reads an entry as the marker would.
#[utoipa::path(path = "/api/practice/{id}/read", params(("id" = Uuid, Path)), request_body = PracticeRead,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
#[post("/practice/{id}/read")]
pub(crate) async fn read_entry(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<PracticeRead>,
) -> Result<web::Json<ReadView>, ApiError> {
    let (_, _, run) = find(&site, &who, *id).await?;
    let (_, item) = item_of(&site, &run).await?;
    let PracticeRead { part, entry } = body.into_inner();
    Ok(web::Json(read_in(&site, item, part, entry).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeAnswer {
    parts: Vec<GivenPart>,
}

/// Checks the answer to the question of a run, once. What cannot be read, is empty or has the wrong form costs nothing.
#[utoipa::path(path = "/api/practice/{id}/check", params(("id" = Uuid, Path)), request_body = PracticeAnswer,
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/practice/{id}/check")]
pub(crate) async fn check_answer(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<PracticeAnswer>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let (run_id, _, run) = find(&site, &who, *id).await?;
    if run.open().is_none() {
        return Err(Refusal::Answered.into());
    }
    may_go_on(&site, &who, run_id).await?;
    let (_, item) = item_of(&site, &run).await?;
    let given: Vec<_> = responses(body.into_inner().parts)
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    if given.is_empty() {
        return Err(Refusal::NothingEntered.into());
    }
    if given.len() < item.parts.len() {
        return Err(Refusal::Incomplete.into());
    }
    let marked = site.compute(move || mark_parts(&item, given)).await?;
    let parts: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
    if !parts.iter().all(|p| p.costs) {
        return view(&site, &who, *id, &parts).await;
    }
    let right = parts.iter().all(|p| p.score >= 1.0);
    let mut tx = site.pool.begin().await?;
    let now_run = fold_run(&store::lock_run(&mut tx, run_id).await?);
    if now_run.last_event != run.last_event {
        return Err(Refusal::Answered.into());
    }
    let event = PracticeEvent::Checked { parts, right };
    store::append_practice(&mut tx, run_id, run.last_event, &event, site.now()).await?;
    tx.commit().await?;
    view(&site, &who, *id, &[]).await
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct EnteredRequest {
    /// Which question of the run, from 1.
    number: usize,
    parts: Vec<GivenPart>,
}

/// Parts and characters that are kept of what stands in the fields: no question has more.
const MOST_PARTS: usize = 50;
const LONGEST_ENTRY: usize = 4_000;

/// Keeps what stands in the fields and was not checked yet.
#[utoipa::path(path = "/api/practice/{id}/entered", params(("id" = Uuid, Path)), request_body = EnteredRequest,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/practice/{id}/entered")]
pub(crate) async fn put_entered(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<EnteredRequest>,
) -> Result<HttpResponse, ApiError> {
    let (run_id, _, run) = find(&site, &who, *id).await?;
    let EnteredRequest { number, parts } = body.into_inner();
    let parts = responses(parts);
    let too_long = |r: &marking::Response| match r {
        marking::Response::Text(text) => text.len() > LONGEST_ENTRY,
        marking::Response::Choices(ids) => ids.iter().map(String::len).sum::<usize>() > LONGEST_ENTRY,
    };
    if parts.len() > MOST_PARTS || parts.iter().any(|(_, r)| too_long(r)) {
        return Err(ApiError::Unusable("This is too long to keep.".into()));
    }
    if run.open().is_some() && number == run.drawn.len() {
        let entered = EnteredInRun { number, parts };
        store::put_entered(&site.pool, run_id, &entered, site.now()).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}

/// Goes on to the next question; also after the goal.
#[utoipa::path(path = "/api/practice/{id}/next", params(("id" = Uuid, Path)),
    responses((status = 200, body = PracticeRunView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/practice/{id}/next")]
pub(crate) async fn go_on(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<PracticeRunView>, ApiError> {
    let (run_id, goal, _) = find(&site, &who, *id).await?;
    may_go_on(&site, &who, run_id).await?;
    let learner = Learner::load(&site, &who.0).await?;
    draw(&site, run_id, &goal, &learner).await?;
    view(&site, &who, *id, &[]).await
}
