//! Hints, worked examples, the working, and fresh numbers.

use actix_web::{get, post, web};
use coursework::{CheckedPart, Command, Refusal, ShowSolution, may_see};
use marking::{Example, Item, Question};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::board::{BoardUpdate, GivenPart, responses};
use super::views::{BlockView, EntryView, QuestionView, entry_view, loose_question, prose};
use super::work::{Desk, mark_parts};
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

type Place = web::Path<(Uuid, usize)>;

/// Takes the next hint.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/hint",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/hint")]
pub(crate) async fn hint(
    site: web::Data<Site>,
    who: SignedIn,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = Desk::find(&site, id, &who.0).await?;
    let available = desk.source(question)?.help.hints.len();
    desk.run(&site, &Command::TakeHint { question, available })
        .await?;
    BoardUpdate::of(&desk, &site, question).await
}

/// Shows the working of the current set, which ends it.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/working",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/working")]
pub(crate) async fn working(
    site: web::Data<Site>,
    who: SignedIn,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = Desk::find(&site, id, &who.0).await?;
    if desk.source(question)?.help.working.is_empty() {
        return Err(Refusal::NoSolution.into());
    }
    desk.run(&site, &Command::ShowSolution { question }).await?;
    BoardUpdate::of(&desk, &site, question).await
}

/// The next set of the question.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/fresh-numbers",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = BoardUpdate), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/fresh-numbers")]
pub(crate) async fn fresh_numbers(
    site: web::Data<Site>,
    who: SignedIn,
    place: Place,
) -> Result<web::Json<BoardUpdate>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = Desk::find(&site, id, &who.0).await?;
    coursework::may_work(&desk.assignment, &desk.work, desk.now)?;
    coursework::may_take_fresh_numbers(&desk.assignment, &desk.work, question)?;
    let state = desk.work.questions.get(question).ok_or(ApiError::NotFound)?;
    let earlier: Vec<u64> = state.sets.iter().map(|s| s.seed).collect();
    let base = earlier.first().copied().unwrap_or_default();
    let source = desk.source(question)?.clone();
    let seed = site
        .compute(move || marking::next_seed(&source, base, &earlier))
        .await?
        .map_err(|e| ApiError::Inside(format!("question cannot be drawn: {e}")))?;
    desk.run(&site, &Command::FreshNumbers { question, seed }).await?;
    BoardUpdate::of(&desk, &site, question).await
}

/// A worked example: a like question with its own numbers, solved in steps.
#[derive(Serialize, ToSchema)]
pub(crate) struct ExampleView {
    text: Vec<BlockView>,
    parts: Vec<ExamplePart>,
    steps: Vec<Vec<BlockView>>,
    /// One to try in place.
    try_it: QuestionView,
    round: u64,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ExamplePart {
    id: String,
    prompt: Vec<BlockView>,
    entry: EntryView,
}

/// Shows the worked example of a question; that it was seen is noted.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/example",
    params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = ExampleView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/example")]
pub(crate) async fn example(
    site: web::Data<Site>,
    who: SignedIn,
    place: Place,
) -> Result<web::Json<ExampleView>, ApiError> {
    let (id, question) = place.into_inner();
    let mut desk = Desk::find(&site, id, &who.0).await?;
    let source = desk.source(question)?.clone();
    let available = !source.example_steps().is_empty();
    desk.run(&site, &Command::SeeExample { question, available })
        .await?;
    let points = source.points;
    let mine = own_seeds(&desk, question);
    let (example, try_item) = site
        .compute(move || Some((example_of(&source)?, try_of(&source, 0, &mine)?)))
        .await?
        .ok_or_else(|| ApiError::Inside("a worked example cannot be drawn".into()))?;
    let part = |p: &marking::ItemPart| ExamplePart {
        id: p.id.clone(),
        prompt: prose(&p.prompt),
        entry: entry_view(p),
    };
    Ok(web::Json(ExampleView {
        text: prose(&example.item.text),
        parts: example.item.parts.iter().map(part).collect(),
        steps: example.steps.iter().map(|s| prose(s)).collect(),
        try_it: loose_question(question, points, "Try it".into(), &try_item, &[], false),
        round: 0,
    }))
}

fn example_of(source: &Question) -> Option<Example> {
    marking::worked_example(source).ok().flatten()
}

/// Never the student's own numbers: what is marked here would cost no try there.
fn try_of(source: &Question, round: u64, own: &[u64]) -> Option<Item> {
    marking::render(source, marking::example_try_seed(source, round, own).ok()?).ok()
}

fn own_seeds(desk: &Desk, question: usize) -> Vec<u64> {
    let state = desk.work.questions.get(question);
    state
        .map(|q| q.sets.iter().map(|s| s.seed).collect())
        .unwrap_or_default()
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct TryRequest {
    /// 0 for the first one to try, then the next.
    round: u64,
    parts: Vec<GivenPart>,
}

/// Rounds of the question to try; more would only repeat.
const MOST_ROUNDS: u64 = 1_000;

/// Marks the question to try after a worked example, or gives the next one if nothing is entered. Nothing is recorded.
#[utoipa::path(path = "/api/assignments/{id}/questions/{question}/example/try",
    params(("id" = Uuid, Path), ("question" = usize, Path)), request_body = TryRequest,
    responses((status = 200, body = QuestionView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/questions/{question}/example/try")]
pub(crate) async fn example_try(
    site: web::Data<Site>,
    who: SignedIn,
    place: Place,
    body: web::Json<TryRequest>,
) -> Result<web::Json<QuestionView>, ApiError> {
    let (id, question) = place.into_inner();
    let desk = Desk::find(&site, id, &who.0).await?;
    may_see(&desk.assignment, &desk.work, question)?;
    let seen = desk.work.questions.get(question).is_some_and(|q| q.example_seen);
    if !seen {
        return Err(Refusal::NoExample.into());
    }
    let source = desk.source(question)?.clone();
    let TryRequest { round, parts } = body.into_inner();
    let mine = own_seeds(&desk, question);
    let points = source.points;
    let view = site
        .compute(move || {
            let item = try_of(&source, round.min(MOST_ROUNDS), &mine)?;
            let marked = mark_parts(&item, responses(parts));
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            Some(loose_question(
                question,
                points,
                "Try it".into(),
                &item,
                &marked,
                false,
            ))
        })
        .await?;
    Ok(web::Json(view.ok_or(ApiError::NotFound)?))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PracticeView {
    title: String,
    questions: usize,
    question: QuestionView,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PracticeRequest {
    parts: Vec<GivenPart>,
    /// Shows the working with the verdicts.
    #[serde(default)]
    show_working: bool,
}

/// Sets to practise on after closing; more would only repeat.
const MOST_PRACTICE: u32 = 200;

async fn practice_desk(site: &Site, who: &SignedIn, id: Uuid) -> Result<Desk, ApiError> {
    let desk = Desk::find(site, id, &who.0).await?;
    if desk.now < coursework::terms(&desk.assignment, &desk.work).closes {
        return Err(Refusal::NotClosedYet.into());
    }
    Ok(desk)
}

/// A seed for practice: no set that was worked for the record comes again.
fn practice_seed(desk: &Desk, question: usize, round: u32) -> Result<u64, ApiError> {
    let source = desk.source(question)?;
    let mut taken = own_seeds(desk, question);
    let base = taken.first().copied().unwrap_or(0) ^ 0x5eed;
    let mut seed = 0;
    // Only the newest few are kept apart, so that the two hundredth set takes no longer than the tenth.
    for n in 0..=round.min(MOST_PRACTICE) {
        let known = taken.len().saturating_sub(4);
        let near = taken.get(known..).unwrap_or_default();
        let salt = base ^ u64::from(n).wrapping_mul(0x2545_f491_4f6c_dd1d);
        seed = if n + 4 >= round {
            marking::next_seed(source, salt, near).map_err(|e| ApiError::Inside(e.to_string()))?
        } else {
            continue;
        };
        taken.push(seed);
    }
    Ok(seed)
}

/// A question to practise after closing: nothing of it is recorded.
#[utoipa::path(path = "/api/assignments/{id}/practice/{question}/{round}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("round" = u32, Path)),
    responses((status = 200, body = PracticeView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/practice/{question}/{round}")]
pub(crate) async fn practice(
    site: web::Data<Site>,
    who: SignedIn,
    place: web::Path<(Uuid, usize, u32)>,
) -> Result<web::Json<PracticeView>, ApiError> {
    let none = PracticeRequest {
        parts: Vec::new(),
        show_working: false,
    };
    practise(&site, &who, place.into_inner(), none).await
}

/// Marks what was entered in a question to practise. Nothing is recorded.
#[utoipa::path(path = "/api/assignments/{id}/practice/{question}/{round}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("round" = u32, Path)), request_body = PracticeRequest,
    responses((status = 200, body = PracticeView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/practice/{question}/{round}")]
pub(crate) async fn practice_check(
    site: web::Data<Site>,
    who: SignedIn,
    place: web::Path<(Uuid, usize, u32)>,
    body: web::Json<PracticeRequest>,
) -> Result<web::Json<PracticeView>, ApiError> {
    practise(&site, &who, place.into_inner(), body.into_inner()).await
}

async fn practise(
    site: &Site,
    who: &SignedIn,
    (id, question, round): (Uuid, usize, u32),
    body: PracticeRequest,
) -> Result<web::Json<PracticeView>, ApiError> {
    let desk = practice_desk(site, who, id).await?;
    let source = desk.source(question)?;
    // A teacher who never shows the working does not show it on other numbers either.
    let never = desk.assignment.settings.show_solution == ShowSolution::Never;
    let show_working = body.show_working && !never;
    let (title, questions, points) = (
        desk.stored.head.title.clone(),
        desk.assignment.items.len(),
        source.points,
    );
    let seed = practice_seed(&desk, question, round)?;
    let item = desk.item_of(site, question, seed).await?;
    let view = site
        .compute(move || {
            let marked = mark_parts(&item, responses(body.parts));
            let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
            let set = format!("practice {}", round + 1);
            loose_question(question, points, set, &item, &marked, show_working)
        })
        .await?;
    Ok(web::Json(PracticeView {
        title,
        questions,
        question: view,
    }))
}
