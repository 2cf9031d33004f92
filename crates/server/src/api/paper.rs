//! Paper copies: a student's own, what is written on it, and the stack of a class with its keys.

use actix_web::{get, put, web};
use coursework::may_see;
use marking::{Block, Shown, ShownExhibit};
use school::paper::{Copy, copies, copy, copy_of};
use school::{Desk, School, SchoolError};
use serde::{Deserialize, Serialize};
use serde_json::json;
use store::{PaperInk, PersonId};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::board::workings::{MOST_INK, check_strokes, too_much_ink};
use super::shared::answer::{RightAnswer, right_answer};
use crate::http::auth::{Teacher, Visitor};
use crate::http::error::{ApiError, Problem};

/// Characters of one text on paper.
const LONGEST_TEXT: usize = 2_000;

/// What is written on paper, in millimetres from the corner of a block of a question.
#[derive(Clone, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum PaperMark {
    /// Points, each x, y and pressure.
    Stroke { block: u32, points: Vec<Vec<f64>> },
    Text {
        block: u32,
        x: f64,
        y: f64,
        text: String,
    },
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PaperInkView {
    /// From 0.
    question: usize,
    revision: i64,
    marks: Vec<PaperMark>,
}

fn ink_view(ink: PaperInk) -> PaperInkView {
    PaperInkView {
        question: ink.question,
        revision: ink.revision,
        marks: serde_json::from_value(ink.marks).unwrap_or_default(),
    }
}

/// What belongs to one's own paper copy, beside its questions.
#[derive(Serialize, ToSchema)]
pub(crate) struct OwnPaperView {
    code: String,
    /// The teacher may see notes, ink and what is written on paper.
    shared: bool,
    ink: Vec<PaperInkView>,
}

/// One's own paper copy of an assignment that was opened.
#[utoipa::path(path = "/api/assignments/{id}/paper", params(("id" = Uuid, Path)),
    responses((status = 200, body = OwnPaperView), (status = 404, body = Problem)))]
#[get("/assignments/{id}/paper")]
pub(crate) async fn get_own_paper(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<OwnPaperView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    let code = copy_of(&school, *id, desk.student).await?.code;
    let ink = store::paper_ink_of(&school.pool, work).await?;
    Ok(web::Json(OwnPaperView {
        code,
        shared: store::shares_workings(&school.pool, work).await?,
        ink: ink.into_iter().map(ink_view).collect(),
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SavePaper {
    /// The revision that it is based on; 0 if there was none.
    based_on: i64,
    marks: Vec<PaperMark>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum PaperSaved {
    Saved {
        revision: i64,
    },
    /// Another window wrote here first: this is the newest revision.
    Elsewhere {
        revision: i64,
    },
}

/// Keeps what is written on the paper copy of a question.
#[utoipa::path(path = "/api/assignments/{id}/paper/{question}", params(("id" = Uuid, Path), ("question" = usize, Path)),
    request_body = SavePaper,
    responses((status = 200, body = PaperSaved), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/assignments/{id}/paper/{question}")]
pub(crate) async fn save_paper(
    school: web::Data<School>,
    who: Visitor,
    path: web::Path<(Uuid, usize)>,
    body: web::Json<SavePaper>,
) -> Result<web::Json<PaperSaved>, ApiError> {
    let (id, question) = path.into_inner();
    let desk = who.desk(&school, id).await?;
    may_see(&desk.assignment, &desk.work, question)?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    let SavePaper { based_on, mut marks } = body.into_inner();
    for mark in &mut marks {
        if let PaperMark::Text { text, .. } = mark {
            *text = text.replace('\0', "");
            if text.chars().count() > LONGEST_TEXT {
                return Err(ApiError::Unusable(
                    "This text is too long to keep on paper: 2,000 characters at most.".into(),
                ));
            }
        }
    }
    let strokes = marks.iter().filter_map(|m| match m {
        PaperMark::Stroke { points, .. } => Some(points.as_slice()),
        PaperMark::Text { .. } => None,
    });
    check_strokes(strokes, marks.len())?;
    let marks = json!(marks);
    if marks.to_string().len() > MOST_INK {
        return Err(too_much_ink());
    }
    let ink = PaperInk {
        question,
        revision: based_on,
        marks,
    };
    let saved = store::save_paper_ink(&school.pool, work, &ink, desk.now).await?;
    store::note_activity(&school.pool, work, None, desk.now).await?;
    Ok(web::Json(match saved {
        Some(revision) => PaperSaved::Saved { revision },
        None => {
            let all = store::paper_ink_of(&school.pool, work).await?;
            let now = all.into_iter().find(|i| i.question == question);
            PaperSaved::Elsewhere {
                revision: now.ok_or(SchoolError::NotFound)?.revision,
            }
        }
    }))
}

/// As much of a question as its paper shows.
#[derive(Serialize, ToSchema)]
pub(crate) struct PaperQuestionView {
    /// From 0.
    question: usize,
    points: u32,
    text: Vec<Block>,
    exhibits: Vec<ShownExhibit>,
    parts: Vec<PaperPartView>,
    answers: Vec<RightAnswer>,
    working: Vec<Vec<Block>>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PaperPartView {
    id: String,
    prompt: Vec<Block>,
    entry: Shown,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PaperCopyView {
    code: String,
    student: Uuid,
    name: String,
    questions: Vec<PaperQuestionView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PaperStackView {
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    copies: Vec<PaperCopyView>,
}

fn copy_view(copy: Copy) -> PaperCopyView {
    let question = |q: school::paper::OnPaper| PaperQuestionView {
        question: q.question,
        points: q.points,
        text: q.item.text.clone(),
        exhibits: q.item.exhibits.clone(),
        parts: q
            .item
            .parts
            .iter()
            .map(|p| PaperPartView {
                id: p.id.clone(),
                prompt: p.prompt.clone(),
                entry: p.posed.shown(),
            })
            .collect(),
        answers: q.item.parts.iter().map(right_answer).collect(),
        working: q.item.working.to_vec(),
    };
    PaperCopyView {
        code: copy.code,
        student: copy.student.id.0,
        name: copy.student.display_name,
        questions: copy.questions.into_iter().map(question).collect(),
    }
}

/// The paper copies of an assignment: each student's own numbers, with keys and workings.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/paper",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = PaperStackView), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments/{assignment}/paper")]
pub(crate) async fn get_paper_stack(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<PaperStackView>, ApiError> {
    let (id, assignment) = path.into_inner();
    let class = who.class(&school, id).await?;
    let stored = who.assignment(&school, assignment).await?;
    if stored.head.class_id != class.id {
        return Err(ApiError::NotFound);
    }
    let all = copies(&school, assignment).await?;
    Ok(web::Json(PaperStackView {
        title: stored.head.title.clone(),
        class_title: class.title,
        due: stored.head.settings.due,
        copies: all.into_iter().map(copy_view).collect(),
    }))
}

/// A student's paper copy, with what they wrote on it where they let their teacher see it.
#[derive(Serialize, ToSchema)]
pub(crate) struct WrittenPaperView {
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    copy: PaperCopyView,
    ink: Vec<PaperInkView>,
}

/// What a student wrote on paper, where they let their teacher see it.
#[utoipa::path(path = "/api/classes/{id}/students/{person}/assignments/{assignment}/paper",
    params(("id" = Uuid, Path), ("person" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = WrittenPaperView), (status = 404, body = Problem)))]
#[get("/classes/{id}/students/{person}/assignments/{assignment}/paper")]
pub(crate) async fn get_written_paper(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid, Uuid)>,
) -> Result<web::Json<WrittenPaperView>, ApiError> {
    let (id, person, assignment) = path.into_inner();
    let class = who.class(&school, id).await?;
    let stored = who.assignment(&school, assignment).await?;
    let desk = Desk::load(&school, assignment, PersonId(person)).await?;
    let work = desk.work_id.ok_or(SchoolError::NotFound)?;
    if stored.head.class_id != class.id || !store::shares_workings(&school.pool, work).await? {
        return Err(ApiError::NotFound);
    }
    let ink = store::paper_ink_of(&school.pool, work).await?;
    if ink.is_empty() {
        return Err(ApiError::NotFound);
    }
    let student = store::find_person(&school.pool, PersonId(person)).await?;
    let copy = copy(&school, assignment, student.ok_or(SchoolError::NotFound)?).await?;
    Ok(web::Json(WrittenPaperView {
        title: stored.head.title.clone(),
        class_title: class.title,
        due: stored.head.settings.due,
        copy: copy_view(copy),
        ink: ink.into_iter().map(ink_view).collect(),
    }))
}
