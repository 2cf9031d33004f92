//! A student's work as their teacher sees it: every set, try and entry, and why the score is what it is.

use actix_web::{get, web};
use coursework::{as_handed_in, score_so_far};
use school::{Desk, School, SchoolError};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::api::result::why;
use crate::api::shared::question::set_view;
use crate::api::shared::question_view::SetView;
use crate::api::shared::state::{ScoreView, StateView, state_view};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// All of a student's work on an assignment.
#[derive(Serialize, ToSchema)]
pub(crate) struct WorkSeen {
    title: String,
    class_title: String,
    student: String,
    state: StateView,
    #[serde(with = "time::serde::rfc3339::option")]
    opened_at: Option<OffsetDateTime>,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    closes: OffsetDateTime,
    minutes: i64,
    so_far: Option<ScoreView>,
    recorded: Option<ScoreView>,
    /// Per cent taken off what counts for lateness.
    taken_off: u8,
    hand_ins: Vec<HandInSeen>,
    questions: Vec<QuestionSeen>,
    /// There is something written on the paper copy that the student lets the teacher see.
    has_paper: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct HandInSeen {
    number: u32,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    late: bool,
    by_time: bool,
    taken_back: bool,
    percent: f64,
    /// It is the one that counts.
    counts: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct QuestionSeen {
    /// From 0.
    question: usize,
    title: String,
    points: f64,
    of: u32,
    why: Vec<String>,
    example_seen: bool,
    sets: Vec<SetView>,
    /// Notes and ink, where the student lets the teacher see them.
    workings: Option<WorkingsSeen>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct WorkingsSeen {
    notes: String,
    /// Strokes: lists of points, each x, y and pressure.
    #[schema(value_type = Vec<Vec<Vec<f64>>>)]
    ink: serde_json::Value,
}

async fn questions(school: &School, desk: &Desk) -> Result<Vec<QuestionSeen>, ApiError> {
    let events = desk.events();
    let counting = desk.work.counting_hand_in(&desk.assignment);
    // What counts is explained as it was handed in; before that, as it stands.
    let then = counting.map(|h| as_handed_in(&desk.assignment, &events, h.event));
    let score = counting.map_or_else(|| score_so_far(&desk.assignment, &desk.work), |h| h.score.clone());
    let settings = &desk.assignment.settings;
    let shared = match desk.work_id {
        Some(work) => store::shares_workings(&school.pool, work).await?.then_some(work),
        None => None,
    };
    let mut all = Vec::new();
    for (question, state) in desk.work.questions.iter().enumerate() {
        let source = desk.source(question)?;
        let scored = score.questions.get(question).ok_or(SchoolError::NotFound)?;
        let mut sets = Vec::new();
        for (number, set) in state.sets.iter().enumerate() {
            let item = desk.item_of(school, question, set.seed).await?;
            sets.push(set_view(number, set, &item, true, true));
        }
        let by = match desk.work.by_teacher.get(&question).and_then(|t| t.by) {
            Some(by) => store::find_person(&school.pool, store::PersonId(by))
                .await?
                .map(|p| p.display_name),
            None => None,
        };
        let sets_then = then
            .as_ref()
            .and_then(|t| t.questions.get(question))
            .unwrap_or(state);
        let workings = match shared {
            Some(work) => store::find_workings(&school.pool, work, question).await?,
            None => None,
        };
        let corrected = counting.is_some_and(|h| coursework::was_corrected(&events, question, h.event));
        all.push(QuestionSeen {
            question,
            title: source.title.clone(),
            points: scored.points,
            of: scored.of,
            why: why(
                scored,
                sets_then.sets.len(),
                settings.hint_cost,
                !desk.assignment.is_simultaneous(),
                corrected,
                by.as_deref(),
            ),
            example_seen: state.example_seen,
            sets,
            workings: workings.map(|w| WorkingsSeen {
                notes: w.notes,
                ink: w.ink,
            }),
        });
    }
    Ok(all)
}

/// A student's work on an assignment.
#[utoipa::path(path = "/api/classes/{id}/students/{person}/{assignment}",
    params(("id" = Uuid, Path), ("person" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = WorkSeen), (status = 404, body = Problem)))]
#[get("/classes/{id}/students/{person}/{assignment}")]
pub(crate) async fn get_work_seen(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid, Uuid)>,
) -> Result<web::Json<WorkSeen>, ApiError> {
    let (class, person, assignment) = path.into_inner();
    let class = who.class(&school, class).await?;
    let members = store::members_of(&school.pool, class.id).await?;
    let student = members
        .into_iter()
        .find(|m| m.person.id.0 == person && m.role == store::MemberRole::Student)
        .ok_or(ApiError::NotFound)?
        .person;
    let found = store::find_set_assignment(&school.pool, assignment).await?;
    if found.is_none_or(|a| a.class != class.id) {
        return Err(ApiError::NotFound);
    }
    let desk = Desk::load(&school, assignment, student.id).await?;
    let counting = desk.work.counting_hand_in(&desk.assignment);
    let terms = coursework::terms(&desk.assignment, &desk.work);
    let hand_in = |h: &coursework::HandIn| HandInSeen {
        number: h.number,
        at: h.at,
        late: h.late,
        by_time: h.by_time,
        taken_back: h.taken_back,
        percent: h.recorded.percent(),
        counts: counting.is_some_and(|c| c.number == h.number),
    };
    let has_paper = match desk.work_id {
        Some(work) => {
            store::shares_workings(&school.pool, work).await?
                && !store::paper_ink_of(&school.pool, work).await?.is_empty()
        }
        None => false,
    };
    Ok(web::Json(WorkSeen {
        title: desk.stored.head.title.clone(),
        class_title: class.title,
        student: student.display_name,
        state: state_view(&desk.assignment, &desk.work, desk.now),
        opened_at: desk.work.opened_at,
        due: terms.due,
        closes: terms.closes,
        minutes: (desk.head.active_seconds + 59) / 60,
        so_far: desk
            .work
            .opened_at
            .map(|_| (&score_so_far(&desk.assignment, &desk.work)).into()),
        recorded: counting.map(|h| (&h.recorded).into()),
        taken_off: counting.map_or(0, |h| h.recorded.taken_off),
        hand_ins: desk.work.hand_ins.iter().map(hand_in).collect(),
        questions: questions(&school, &desk).await?,
        has_paper,
    }))
}
