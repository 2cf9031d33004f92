//! Marking by a person: what waits, question by question, and the points that are given.

mod answer;
pub(crate) mod give;

use actix_web::{get, web};
use school::{Desk, School, SchoolError, Stored};
use serde::Serialize;
use store::{KeptMark, Person};
use utoipa::ToSchema;
use uuid::Uuid;

use self::answer::{AnswerToMark, answer};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

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
    /// Who has handed it in, by name.
    students: Vec<MarkingStudent>,
    /// Answers whose points are kept to be given out with the rest.
    kept: usize,
}

/// A student whose answers a person marks.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkingStudent {
    id: Uuid,
    name: String,
    /// Questions whose answer waits.
    waiting: usize,
    marked: usize,
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
    /// Answers of the whole assignment whose points are kept to be given out with the rest.
    kept: usize,
}

/// What one student handed in that a person marks.
#[derive(Serialize, ToSchema)]
pub(crate) struct MarkStudentView {
    title: String,
    class_title: String,
    name: String,
    /// Everybody who has handed it in, by name.
    students: Vec<MarkingStudent>,
    questions: Vec<StudentAnswer>,
    kept: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StudentAnswer {
    question: usize,
    question_title: String,
    of: u32,
    answer: AnswerToMark,
    /// Notes that others were given here.
    notes: Vec<String>,
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

/// Whether an answer of what counts still waits for a person.
fn waits(desk: &Desk, question: usize) -> bool {
    let counting = desk.work.counting_hand_in(&desk.assignment);
    let score = counting.and_then(|h| h.score.questions.get(question));
    score.is_some_and(|q| q.waiting > 0.0)
}

fn students(stored: &Stored, works: &[(Person, Desk)]) -> Vec<MarkingStudent> {
    let student = |(person, desk): &(Person, Desk)| MarkingStudent {
        id: person.id.0,
        name: person.display_name.clone(),
        waiting: by_hand(stored).filter(|q| waits(desk, *q)).count(),
        marked: by_hand(stored)
            .filter(|q| desk.work.by_teacher.contains_key(q))
            .count(),
    };
    works.iter().map(student).collect()
}

fn points_of(stored: &Stored, question: usize) -> u32 {
    stored.assignment.items.get(question).map_or(0, |i| i.points)
}

fn kept_for<'a>(kept: &'a [KeptMark], question: usize, student: &Person) -> Option<&'a KeptMark> {
    kept.iter()
        .find(|k| k.question == question && k.student == student.id)
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
        let kept = store::kept_marks(&school.pool, id).await?;
        let mut questions = Vec::new();
        for question in by_hand(&stored) {
            let waits = |(_, desk): &&(Person, Desk)| waits(desk, question);
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
            students: students(&stored, &works),
            kept: kept.len(),
        });
    }
    Ok(web::Json(MarkingView { assignments }))
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
    let kept = store::kept_marks(&school.pool, id).await?;
    let mut answers = Vec::new();
    for work in handed_in(&school, &stored).await? {
        let kept = kept_for(&kept, question, &work.0);
        answers.push(answer(&school, question, &work, kept).await?);
    }
    Ok(web::Json(MarkQuestionView {
        title: stored.head.title.clone(),
        class_title: stored.head.class_title.clone(),
        question,
        question_title: source.title.clone(),
        of: points_of(&stored, question),
        answers,
        kept: kept.len(),
    }))
}

/// What one student handed in that a person marks, all questions of it.
#[utoipa::path(path = "/api/marking/{id}/student/{student}", params(("id" = Uuid, Path), ("student" = Uuid, Path)),
    responses((status = 200, body = MarkStudentView), (status = 404, body = Problem)))]
#[get("/marking/{id}/student/{student}")]
pub(crate) async fn get_student_to_mark(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<MarkStudentView>, ApiError> {
    let (id, student) = path.into_inner();
    let stored = who.assignment(&school, id).await?;
    let kept = store::kept_marks(&school.pool, id).await?;
    let works = handed_in(&school, &stored).await?;
    let work = works.iter().find(|(person, _)| person.id.0 == student);
    let work = work.ok_or(ApiError::NotFound)?;
    let mut questions = Vec::new();
    for question in by_hand(&stored) {
        let (_, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        let given = works.iter().filter_map(|(_, d)| d.work.by_teacher.get(&question));
        let mut notes: Vec<String> = given.map(|g| g.note.clone()).filter(|n| !n.is_empty()).collect();
        notes.sort();
        notes.dedup();
        let kept = kept_for(&kept, question, &work.0);
        questions.push(StudentAnswer {
            question,
            question_title: source.title.clone(),
            of: points_of(&stored, question),
            answer: answer(&school, question, work, kept).await?,
            notes,
        });
    }
    Ok(web::Json(MarkStudentView {
        title: stored.head.title.clone(),
        class_title: stored.head.class_title.clone(),
        name: work.0.display_name.clone(),
        students: students(&stored, &works),
        questions,
        kept: kept.len(),
    }))
}
