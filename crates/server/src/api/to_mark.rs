//! Marking by a person: what waits, question by question, and the points that are given.

use actix_web::{get, put, web};
use coursework::{CheckedPart, Command, as_handed_in};
use marking::{Block, Inline};
use school::{Desk, School, SchoolError, Stored};
use serde::{Deserialize, Serialize};
use store::{Person, PersonId};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::verdict::{TryPartView, given_view};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// Characters of a note on one answer: two pages.
const LONGEST_NOTE: usize = 4_000;

/// What a teacher has to mark, and has marked.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkingView {
    assignments: Vec<MarkingAssignment>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MarkingAssignment {
    id: Uuid,
    title: String,
    class_title: String,
    questions: Vec<MarkingQuestion>,
}

/// A question that a person marks, or a part of it.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkingQuestion {
    /// From 0.
    question: usize,
    title: String,
    /// Students whose answer waits.
    waiting: usize,
    marked: usize,
}

/// All answers to one question.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkQuestionView {
    title: String,
    class_title: String,
    question: usize,
    question_title: String,
    of: u32,
    /// By name.
    answers: Vec<AnswerToMark>,
}

/// What one student handed in, as far as it counts.
#[derive(Serialize, ToSchema)]
pub(crate) struct AnswerToMark {
    student: Uuid,
    name: String,
    /// The number of the hand-in that counts.
    hand_in: u32,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    late: bool,
    text: Vec<Block>,
    parts: Vec<AnswerToMarkPart>,
    /// Points that the machine gave for its parts.
    earned: f64,
    /// Points that still wait.
    waiting: f64,
    given: Option<GivenPoints>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct AnswerToMarkPart {
    id: String,
    prompt: Vec<Block>,
    by_hand: bool,
    given: Option<TryPartView>,
    /// What a good answer says, line by line.
    model: Vec<Vec<Inline>>,
}

/// Points that a teacher gave.
#[derive(Serialize, ToSchema)]
pub(crate) struct GivenPoints {
    points: f64,
    note: String,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    /// Nobody where it is not known.
    by: Option<String>,
}

/// Everybody who has handed something in, with their work.
async fn handed_in(school: &School, stored: &Stored) -> Result<Vec<(Person, Desk)>, ApiError> {
    let mut all = Vec::new();
    for student in store::students_at(&school.pool, stored.head.id).await? {
        let desk = Desk::load(school, stored.head.id, student.id).await?;
        if desk.work.counting_hand_in(&desk.assignment).is_some() {
            all.push((student, desk));
        }
    }
    Ok(all)
}

/// The questions of an assignment that a person marks.
fn by_hand(stored: &Stored) -> impl Iterator<Item = usize> {
    let items = stored.assignment.items.iter().enumerate();
    items
        .filter(|(_, item)| item.parts.iter().any(|p| p.by_hand))
        .map(|(question, _)| question)
}

/// What waits for a person in the classes one teaches.
#[utoipa::path(path = "/api/marking", responses((status = 200, body = MarkingView), (status = 404, body = Problem)))]
#[get("/marking")]
pub(crate) async fn get_marking(
    school: web::Data<School>,
    who: Teacher,
) -> Result<web::Json<MarkingView>, ApiError> {
    let mut assignments = Vec::new();
    for id in store::taught_by(&school.pool, who.0.id).await? {
        let stored = school.assignment(id, None).await?;
        if !stored.assignment.needs_a_person() {
            continue;
        }
        let works = handed_in(&school, &stored).await?;
        let mut questions = Vec::new();
        for question in by_hand(&stored) {
            let waits = |(_, desk): &&(Person, Desk)| {
                let counting = desk.work.counting_hand_in(&desk.assignment);
                let score = counting.and_then(|h| h.score.questions.get(question));
                score.is_some_and(|q| q.waiting > 0.0)
            };
            let marked = |(_, desk): &&(Person, Desk)| desk.work.by_teacher.contains_key(&question);
            let (_, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
            questions.push(MarkingQuestion {
                question,
                title: source.title.clone(),
                waiting: works.iter().filter(waits).count(),
                marked: works.iter().filter(marked).count(),
            });
        }
        assignments.push(MarkingAssignment {
            id,
            title: stored.head.title.clone(),
            class_title: stored.head.class_title.clone(),
            questions,
        });
    }
    Ok(web::Json(MarkingView { assignments }))
}

async fn answer(
    school: &School,
    question: usize,
    (student, desk): &(Person, Desk),
) -> Result<AnswerToMark, ApiError> {
    let counting = desk.work.counting_hand_in(&desk.assignment);
    let hand_in = counting.ok_or(SchoolError::NotFound)?;
    let score = hand_in
        .score
        .questions
        .get(question)
        .ok_or(SchoolError::NotFound)?;
    let then = as_handed_in(&desk.assignment, &desk.events(), hand_in.event);
    let state = then.questions.get(question).ok_or(SchoolError::NotFound)?;
    let number = score.set.unwrap_or(state.sets.len().saturating_sub(1));
    let set = state.sets.get(number).ok_or(SchoolError::NotFound)?;
    let item = desk.item_of(school, question, set.seed).await?;
    let stands = desk.work.by_teacher.get(&question);
    let part = |p: &marking::ItemPart| {
        let last: Option<&CheckedPart> = set
            .parts
            .iter()
            .find(|s| s.id == p.id)
            .and_then(|s| s.last.as_ref());
        AnswerToMarkPart {
            id: p.id.clone(),
            prompt: p.prompt.clone(),
            by_hand: p.posed.is_by_hand(),
            given: last.map(|c| {
                let mut given = given_view(c, &item, true);
                given.verdict = given.verdict.after(stands.is_some());
                given
            }),
            model: match p.posed.is_by_hand() {
                true => p.posed.right().choices,
                false => Vec::new(),
            },
        }
    };
    let refs = desk.assignment.items.get(question).ok_or(SchoolError::NotFound)?;
    let shares: u32 = refs.parts.iter().map(|p| p.share).sum();
    let worth = f64::from(refs.points) / f64::from(shares.max(1));
    let best = |id: &str| set.parts.iter().find(|s| s.id == id).map_or(0.0, |s| s.best);
    let earned = refs
        .parts
        .iter()
        .map(|p| f64::from(p.share) * worth * best(&p.id));
    let given = match stands {
        None => None,
        Some(stands) => Some(GivenPoints {
            points: stands.points,
            note: stands.note.clone(),
            at: stands.at,
            by: match stands.by {
                Some(by) => store::find_person(&school.pool, PersonId(by))
                    .await?
                    .map(|p| p.display_name),
                None => None,
            },
        }),
    };
    Ok(AnswerToMark {
        student: student.id.0,
        name: student.display_name.clone(),
        hand_in: hand_in.number,
        at: hand_in.at,
        late: hand_in.late,
        text: item.text.clone(),
        parts: item.parts.iter().map(part).collect(),
        earned: earned.fold(0.0, |all, one| all + one),
        waiting: score.waiting,
        given,
    })
}

/// The answers of a class to a question that a person marks.
#[utoipa::path(path = "/api/marking/{id}/{question}", params(("id" = Uuid, Path), ("question" = usize, Path)),
    responses((status = 200, body = MarkQuestionView), (status = 404, body = Problem)))]
#[get("/marking/{id}/{question}")]
pub(crate) async fn get_to_mark(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, usize)>,
) -> Result<web::Json<MarkQuestionView>, ApiError> {
    let (id, question) = path.into_inner();
    let stored = who.assignment(&school, id).await?;
    if !by_hand(&stored).any(|q| q == question) {
        return Err(ApiError::NotFound);
    }
    let (_, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
    let mut answers = Vec::new();
    for work in handed_in(&school, &stored).await? {
        answers.push(answer(&school, question, &work).await?);
    }
    Ok(web::Json(MarkQuestionView {
        title: stored.head.title.clone(),
        class_title: stored.head.class_title.clone(),
        question,
        question_title: source.title.clone(),
        of: stored
            .assignment
            .items
            .get(question)
            .map_or(source.points, |i| i.points),
        answers,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct GivePoints {
    points: f64,
    #[serde(default)]
    note: String,
    /// The number of the hand-in that was looked at.
    hand_in: u32,
}

/// Gives points for a question of a student's, with a note. They stand at once and can be changed.
#[utoipa::path(path = "/api/marking/{id}/{question}/{student}",
    params(("id" = Uuid, Path), ("question" = usize, Path), ("student" = Uuid, Path)), request_body = GivePoints,
    responses((status = 200, body = AnswerToMark), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[put("/marking/{id}/{question}/{student}")]
pub(crate) async fn give_points(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, usize, Uuid)>,
    body: web::Json<GivePoints>,
) -> Result<web::Json<AnswerToMark>, ApiError> {
    let (id, question, student) = path.into_inner();
    let stored = who.assignment(&school, id).await?;
    let GivePoints {
        points,
        note,
        hand_in,
    } = body.into_inner();
    if note.chars().count() > LONGEST_NOTE {
        return Err(ApiError::Unusable(
            "This note is too long: 4,000 characters at most.".into(),
        ));
    }
    let students = store::students_at(&school.pool, stored.head.id).await?;
    let student = students
        .into_iter()
        .find(|s| s.id.0 == student)
        .ok_or(ApiError::NotFound)?;
    let mut desk = Desk::load(&school, id, student.id).await?;
    let command = Command::Score {
        question,
        points,
        note: note.replace('\0', ""),
        by: who.0.id.0,
        hand_in,
    };
    desk.run_for_teacher(&school, &command).await?;
    tracing::info!(assignment = %id, question, student = %student.id.0, by = %who.0.id.0, points, "marked by a teacher");
    Ok(web::Json(answer(&school, question, &(student, desk)).await?))
}
