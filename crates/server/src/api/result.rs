//! The recorded score with how it came about, question by question.

use actix_web::{HttpResponse, get, post, web};
use coursework::{
    CheckedPart, HandIn, QuestionScore, WhichCounts, as_handed_in, score_visible, solution_open, terms,
    tries_shown,
};
use marking::{Block, Inline};
use school::{Desk, School, SchoolError};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::goal::GoalView;
use super::shared::hand_in::{HandInView, hand_in_view, results_at};
use super::shared::kind::KindView;
use super::shared::question::set_name;
use super::shared::state::{ScoreView, StateView, recorded_view, state_view};
use super::shared::verdict::{TryPartView, given_view};
use crate::http::auth::Visitor;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct ResultView {
    id: Uuid,
    title: String,
    class_title: String,
    kind: KindView,
    counts: bool,
    state: StateView,
    /// Whether the results are out; if not, nothing but dates is given.
    released: bool,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    recorded: Option<ScoreView>,
    pass_mark: Option<u8>,
    best_counts: bool,
    hand_ins: Vec<HandInView>,
    /// The number of the hand-in that counts.
    counting: Option<u32>,
    minutes_spent: i64,
    tries_used: u32,
    questions: Vec<ResultQuestion>,
    /// What the recorded score is made of, where there is a goal instead of questions.
    goal: Option<GoalView>,
    /// Whether it can be practised now, with nothing recorded.
    can_practise: bool,
    can_carry_on: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ResultQuestion {
    question: usize,
    points: f64,
    of: u32,
    /// How the points came about, in sentences.
    why: Vec<String>,
    set: Option<String>,
    text: Vec<Block>,
    parts: Vec<ResultPart>,
    working: Option<Vec<Vec<Block>>>,
    /// What the teacher wrote to it; nothing where nothing was written.
    teacher_note: Vec<Block>,
    /// The key was corrected after it was handed in.
    corrected: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ResultPart {
    id: String,
    prompt: Vec<Block>,
    given: Option<TryPartView>,
    /// What a good answer says, line by line, where the teacher marks it and it may be shown.
    model: Vec<Vec<Inline>>,
    /// What the teacher gave this part, where parts were marked one by one.
    marked: Option<MarkedPartView>,
    /// What a program was at each try, the first one first; nothing for other kinds.
    versions: Vec<ProgramVersion>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ProgramVersion {
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    at_hand_in: bool,
    program: String,
}

/// A part's programs, try by try.
fn versions(set: &coursework::SetState, part: &str) -> Vec<ProgramVersion> {
    let version = |t: &coursework::TryRecord| {
        let given = t.parts.iter().find(|p| p.part == part)?;
        let marking::Response::Program { program } = &given.response else {
            return None;
        };
        Some(ProgramVersion {
            at: t.at,
            at_hand_in: t.at_hand_in,
            program: program.clone(),
        })
    };
    set.tries.iter().filter_map(version).collect()
}

/// Points that a person gave a part.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkedPartView {
    points: f64,
    of: f64,
    rubric: Vec<RubricLineView>,
}

/// What was looked for, and whether it was there.
#[derive(Serialize, ToSchema)]
pub(crate) struct RubricLineView {
    say: Vec<Inline>,
    met: bool,
}

/// What the teacher gave a part, and the lines of its rubric.
fn marked_part(desk: &Desk, question: usize, part: &marking::ItemPart) -> Option<MarkedPartView> {
    let given = desk.work.by_teacher.get(&question)?;
    let given = given.parts.iter().find(|g| g.part == part.id)?;
    let item = desk.assignment.items.get(question)?;
    let worth = item
        .parts
        .iter()
        .find(|p| p.id == part.id)
        .map(|p| item.worth(p))?;
    let line = |(n, line): (usize, &marking::interaction::PosedLine)| RubricLineView {
        say: line.say.clone(),
        met: given.met.contains(&n),
    };
    // Points that were given without looking at the lines say nothing about them.
    let rubric = part.posed.rubric().iter().enumerate().map(line);
    let rubric = if given.met.is_empty() && given.points > 0.0 {
        Vec::new()
    } else {
        rubric.collect()
    };
    Some(MarkedPartView {
        points: given.points,
        of: worth,
        rubric,
    })
}

fn points_words(points: f64, of: u32) -> String {
    let rounded = (points * 100.0).round() / 100.0;
    format!("{rounded} of {of} {}", if of == 1 { "point" } else { "points" })
}

/// How a question's points came about.
pub(crate) fn why(
    score: &QuestionScore,
    sets: usize,
    cost: u8,
    checks: bool,
    corrected: bool,
    by: Option<&str>,
) -> Vec<String> {
    let mut words = Vec::new();
    let points = points_words(score.points, score.of);
    if score.by_teacher {
        words.push(format!("{} gave {points}.", by.unwrap_or("Your teacher")));
    } else {
        match (score.set, score.on_try) {
            _ if score.waiting > 0.0 => {
                let waits = points_words(score.waiting, score.of);
                words.push(format!("{waits} wait for your teacher."));
                if score.points > 0.0 {
                    words.push(format!("{points} so far."));
                }
            }
            (None, _) => words.push("Nothing was checked here.".into()),
            (Some(set), Some(n)) if checks => {
                let best = if sets > 1 { ", the best of your sets" } else { "" };
                words.push(format!(
                    "{points}, from check {n} on Set {}{best}.",
                    set_name(set)
                ));
            }
            (Some(_), Some(_)) => words.push(format!("{points}, from what stood here when you handed in.")),
            (Some(_), None) => words.push(format!("{points}: nothing that was checked was right.")),
        }
    }
    if score.hint_points > 0.0 {
        let lost = (score.hint_points * 100.0).round() / 100.0;
        words.push(format!(
            "{lost} points were taken off for hints, {cost} % for each."
        ));
    }
    if corrected {
        words.push("The key of this question was corrected, and what you had given was marked again.".into());
    }
    words
}

/// The result of an assignment.
#[utoipa::path(path = "/api/assignments/{id}/result", params(("id" = Uuid, Path)),
    responses((status = 200, body = ResultView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/assignments/{id}/result")]
pub(crate) async fn get_result(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<ResultView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let settings = &desk.assignment.settings;
    let released = score_visible(&desk.assignment, &desk.work, desk.now);
    let counting = desk.work.counting_hand_in(&desk.assignment);
    let terms = terms(&desk.assignment, &desk.work);
    let questions = match counting {
        Some(hand_in) if released => result_questions(&desk, &school, hand_in).await?,
        _ => Vec::new(),
    };
    Ok(web::Json(ResultView {
        id: *id,
        title: desk.stored.head.title.clone(),
        class_title: desk.stored.head.class_title.clone(),
        kind: settings.kind.into(),
        counts: settings.counts,
        state: state_view(&desk.assignment, &desk.work, desk.now),
        released,
        results_at: results_at(&desk.assignment, &desk.work, desk.now),
        recorded: recorded_view(&desk.assignment, &desk.work, desk.now),
        pass_mark: settings.pass_mark,
        best_counts: settings.which_counts == WhichCounts::Best,
        hand_ins: desk
            .work
            .hand_ins
            .iter()
            .filter(|h| !h.taken_back)
            .map(|h| hand_in_view(h, released))
            .collect(),
        counting: counting.map(|h| h.number),
        minutes_spent: (desk.head.active_seconds + 30) / 60,
        tries_used: tries_shown(&desk.assignment, &desk.work, desk.now),
        goal: counting
            .filter(|_| released)
            .and_then(|h| h.progress.as_ref())
            .map(Into::into),
        questions,
        can_practise: settings.goal.is_none() && desk.now >= terms.closes,
        can_carry_on: coursework::may_add(&desk.assignment, &desk.work, desk.now).is_ok(),
    }))
}

async fn result_questions(
    desk: &Desk,
    school: &School,
    hand_in: &HandIn,
) -> Result<Vec<ResultQuestion>, ApiError> {
    let events = desk.events();
    let then = as_handed_in(&desk.assignment, &events, hand_in.event);
    let settings = &desk.assignment.settings;
    let checks = !desk.assignment.is_simultaneous();
    let mut questions = Vec::with_capacity(hand_in.score.questions.len());
    for (question, score) in hand_in.score.questions.iter().enumerate() {
        let state = then.questions.get(question).ok_or(SchoolError::NotFound)?;
        let number = score.set.unwrap_or(state.sets.len().saturating_sub(1));
        let set = state.sets.get(number).ok_or(SchoolError::NotFound)?;
        let now_set = desk
            .work
            .questions
            .get(question)
            .and_then(|q| q.sets.get(number))
            .unwrap_or(set);
        let item = desk.item_of(school, question, set.seed).await?;
        let by = match desk.work.by_teacher.get(&question).and_then(|t| t.by) {
            Some(by) => store::find_person(&school.pool, store::PersonId(by))
                .await?
                .map(|p| p.display_name),
            None => None,
        };
        let corrected = coursework::was_corrected(&events, question, hand_in.event);
        let open = solution_open(&desk.assignment, &desk.work, now_set, desk.now);
        let part = |p: &marking::ItemPart| {
            let last: Option<&CheckedPart> = set
                .parts
                .iter()
                .find(|s| s.id == p.id)
                .and_then(|s| s.last.as_ref());
            ResultPart {
                id: p.id.clone(),
                prompt: p.prompt.clone(),
                given: last.map(|c| {
                    let mut given = given_view(c, &item, settings.show_slips);
                    given.verdict = given.verdict.after(score.by_teacher);
                    given
                }),
                model: match open && p.posed.is_by_hand() {
                    true => p.posed.right().choices,
                    false => Vec::new(),
                },
                marked: marked_part(desk, question, p),
                versions: versions(now_set, &p.id),
            }
        };
        questions.push(ResultQuestion {
            question,
            points: score.points,
            of: score.of,
            why: why(
                score,
                state.sets.len(),
                settings.hint_cost,
                checks,
                corrected,
                by.as_deref(),
            ),
            set: checks.then(|| set_name(number)),
            text: item.text.clone(),
            parts: item.parts.iter().map(part).collect(),
            working: (open && !item.working.is_empty()).then(|| item.working.to_vec()),
            teacher_note: desk
                .work
                .by_teacher
                .get(&question)
                .map(|t| marking::note(&t.note))
                .unwrap_or_default(),
            corrected,
        });
    }
    Ok(questions)
}

/// What was looked at.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SeenRequest {
    /// Everything up to this event.
    #[serde(default)]
    #[schema(value_type = i64, minimum = 0, maximum = 4_294_967_295_i64)]
    event: u32,
    /// The teacher's note as it stands.
    #[serde(default)]
    note: bool,
    #[serde(default)]
    result: bool,
}

/// Notes what was looked at, so that Week does not list it again.
#[utoipa::path(path = "/api/assignments/{id}/seen", params(("id" = Uuid, Path)), request_body = SeenRequest,
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/assignments/{id}/seen")]
pub(crate) async fn seen(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<SeenRequest>,
) -> Result<HttpResponse, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let work = match desk.work_id {
        Some(work) => work,
        None => store::start_work(&school.pool, *id, desk.student).await?,
    };
    let event = body.event.min(desk.work.last_event);
    let note = desk.assignment.settings.note.as_deref().filter(|_| body.note);
    let result = body.result && score_visible(&desk.assignment, &desk.work, desk.now);
    store::set_seen(&school.pool, work, event, note, result).await?;
    Ok(HttpResponse::NoContent().finish())
}
