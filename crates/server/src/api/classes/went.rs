//! How a question went: counts, the wrong entries grouped by what they are equal to, and replies to the next who slip so.

use actix_web::{get, post, put, web};
use coursework::middle_seconds;
use marking::{Likeness, Response, Slip, slip_words};
use school::went::{EntryGroup, went, who_began};
use school::{Desk, School, SchoolError};
use serde::{Deserialize, Serialize};
use store::{Act, NewThread, PersonId, TeacherReply};
use utoipa::ToSchema;
use uuid::Uuid;

use super::{note, on_class};
use crate::api::shared::table::{cell, csv_file};
use crate::api::threads::checked_body;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

const LONGEST_REPLY: usize = 600;

#[derive(Serialize, ToSchema)]
pub(crate) struct WentView {
    title: String,
    class_title: String,
    /// Students who have begun.
    begun: usize,
    questions: Vec<QuestionWentView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct QuestionWentView {
    /// From 0.
    question: usize,
    id: String,
    title: String,
    tried: u32,
    right_first: u32,
    right_in_the_end: u32,
    sets: u32,
    checks: u32,
    hints: u32,
    /// What those who spent time with it spent in the middle; nothing where it is not known.
    seconds: Option<i64>,
    parts: Vec<PartWentView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PartWentView {
    part: String,
    /// Most wrong entries agree with each other: the key may be what is wrong.
    doubtful: bool,
    /// The largest first.
    groups: Vec<EntryGroupView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct EntryGroupView {
    /// What its entries have in common, to be given back with a reply.
    like: LikeView,
    /// What they have in common, in words; nothing where they come to the same.
    common: Option<String>,
    /// One of them as it was read (LaTeX), and as it was given.
    reads_as: String,
    given: String,
    students: Vec<String>,
    /// Their ids, in the same order.
    people: Vec<Uuid>,
    entries: usize,
    /// What you say to it.
    reply: String,
}

/// What wrong entries have in common.
#[derive(Clone, Serialize, Deserialize, ToSchema)]
#[serde(tag = "like", rename_all = "snake_case")]
pub(crate) enum LikeView {
    Reply {
        nth: usize,
    },
    Times {
        words: String,
    },
    Slip {
        #[schema(value_type = String)]
        slip: Slip,
    },
    Entry {
        response: Response,
    },
}

impl From<&Likeness> for LikeView {
    fn from(like: &Likeness) -> Self {
        match like.clone() {
            Likeness::Reply { nth } => LikeView::Reply { nth },
            Likeness::Times { words } => LikeView::Times { words },
            Likeness::Slip { slip } => LikeView::Slip { slip },
            Likeness::Entry { response } => LikeView::Entry { response },
        }
    }
}

impl From<LikeView> for Likeness {
    fn from(like: LikeView) -> Self {
        match like {
            LikeView::Reply { nth } => Likeness::Reply { nth },
            LikeView::Times { words } => Likeness::Times { words },
            LikeView::Slip { slip } => Likeness::Slip { slip },
            LikeView::Entry { response } => Likeness::Entry { response },
        }
    }
}

fn common(group: &EntryGroup) -> Option<String> {
    match &group.like {
        Likeness::Reply { .. } => Some(format!("the question says: {}", group.said)),
        Likeness::Times { words } => Some(words.clone()),
        Likeness::Slip { slip } => Some(slip_words(*slip).to_owned()),
        Likeness::Entry { .. } => None,
    }
}

/// How the questions of an assignment went.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/went",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = WentView), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments/{assignment}/went")]
pub(crate) async fn get_went_json(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<WentView>, ApiError> {
    get_went(school, who, path).await
}

async fn get_went(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<WentView>, ApiError> {
    let (class, assignment) = path.into_inner();
    let class = who.class(&school, class).await?;
    let stored = who.assignment(&school, assignment).await?;
    let began = who_began(&school, assignment).await?;
    let ids: Vec<PersonId> = began.iter().map(|p| p.id).collect();
    let name = |id: &PersonId| {
        let found = began.iter().find(|p| p.id == *id);
        found.map(|p| p.display_name.clone()).unwrap_or_default()
    };
    let group = |g: &EntryGroup| EntryGroupView {
        like: (&g.like).into(),
        common: common(g),
        reads_as: g.reads_as.clone(),
        given: g.given.clone(),
        students: g.students.iter().map(name).collect(),
        people: g.students.iter().map(|s| s.0).collect(),
        entries: g.entries,
        reply: g.reply.clone(),
    };
    let spent = store::question_seconds(&school.pool, assignment).await?;
    let mut questions = Vec::new();
    for (question, went) in went(&school, &stored, &ids).await?.iter().enumerate() {
        let (_, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
        questions.push(QuestionWentView {
            question,
            id: source.id.clone(),
            title: source.title.clone(),
            tried: went.counts.tried,
            right_first: went.counts.right_first,
            right_in_the_end: went.counts.right_in_the_end,
            sets: went.counts.sets,
            checks: went.counts.checks,
            hints: went.counts.hints,
            seconds: middle_seconds(spent.iter().filter_map(|s| s.get(&question).copied()).collect()),
            parts: went
                .parts
                .iter()
                .map(|p| PartWentView {
                    part: p.part.clone(),
                    doubtful: p.doubtful,
                    groups: p.groups.iter().map(group).collect(),
                })
                .collect(),
        });
    }
    Ok(web::Json(WentView {
        title: stored.head.title.clone(),
        class_title: class.title,
        begun: began.len(),
        questions,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct WriteReply {
    part: String,
    like: LikeView,
    /// Nothing takes it away.
    words: String,
}

/// Writes a reply to a group of wrong entries: the next students who slip so get it beside their verdict.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/questions/{question}/reply",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path), ("question" = usize, Path)), request_body = WriteReply,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/classes/{id}/assignments/{assignment}/questions/{question}/reply")]
pub(crate) async fn write_reply(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid, usize)>,
    body: web::Json<WriteReply>,
) -> Result<actix_web::HttpResponse, ApiError> {
    let (class, assignment, question) = path.into_inner();
    let class = who.class(&school, class).await?;
    let stored = who.assignment(&school, assignment).await?;
    let body = body.into_inner();
    let words = body.words.replace('\0', "").trim().to_owned();
    if words.chars().count() > LONGEST_REPLY {
        return Err(ApiError::Unusable("A reply has 600 characters at most.".into()));
    }
    let (_, source) = stored.questions.get(question).ok_or(SchoolError::NotFound)?;
    if !source.parts.iter().any(|p| p.id == body.part) {
        return Err(ApiError::NotFound);
    }
    let reply = TeacherReply {
        assignment,
        question,
        part: body.part,
        like: body.like.into(),
        words,
    };
    store::put_reply(&school.pool, &reply, who.0.id, school.now()).await?;
    let act = on_class(class.id, &who, "wrote a reply to wrong entries");
    let why = reply.words.as_str();
    note(
        &school,
        Act {
            assignment: Some(assignment),
            why,
            ..act
        },
    )
    .await?;
    Ok(actix_web::HttpResponse::NoContent().finish())
}

/// What some students of a question are told.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MessageStudents {
    students: Vec<Uuid>,
    words: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MessagesSent {
    sent: usize,
}

/// Writes to students about a question: to each in a thread of their own, in which they can answer.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/questions/{question}/message",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path), ("question" = usize, Path)),
    request_body = MessageStudents,
    responses((status = 200, body = MessagesSent), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/assignments/{assignment}/questions/{question}/message")]
pub(crate) async fn message_students(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid, usize)>,
    body: web::Json<MessageStudents>,
) -> Result<web::Json<MessagesSent>, ApiError> {
    let (class, assignment, question) = path.into_inner();
    let class = who.class(&school, class).await?;
    let stored = who.assignment(&school, assignment).await?;
    stored.questions.get(question).ok_or(SchoolError::NotFound)?;
    let words = checked_body(&body.words)?;
    let began = who_began(&school, assignment).await?;
    let mut to: Vec<PersonId> = body.students.iter().copied().map(PersonId).collect();
    to.sort_unstable_by_key(|p| p.0);
    to.dedup();
    if to.is_empty() || !to.iter().all(|p| began.iter().any(|b| b.id == *p)) {
        return Err(ApiError::Unusable("Choose students who have begun this.".into()));
    }
    for student in &to {
        let desk = Desk::load(&school, assignment, *student).await?;
        let sets = desk.work.questions.get(question).map_or(0, |q| q.sets.len());
        let new = NewThread {
            assignment,
            student: *student,
            question,
            set: sets.saturating_sub(1),
            event: None,
            is_query: false,
            for_class: false,
            by: who.0.id,
            body: &words,
        };
        store::open_thread(&school.pool, &new, school.now()).await?;
    }
    let act = on_class(class.id, &who, "wrote to students about a question");
    note(
        &school,
        Act {
            assignment: Some(assignment),
            why: &words,
            ..act
        },
    )
    .await?;
    Ok(web::Json(MessagesSent { sent: to.len() }))
}

/// How it went, as a file: a line a question.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/went.csv",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments/{assignment}/went.csv")]
pub(crate) async fn get_went_csv(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<actix_web::HttpResponse, ApiError> {
    let went = get_went(school, who, path).await?.into_inner();
    let head = [
        "Question",
        "Title",
        "Tried",
        "Right first time",
        "Right eventually",
        "Checks",
        "Sets",
        "Hints",
        "Median time (s)",
        "Most frequent wrong entry",
        "by",
    ];
    let mut rows = vec![head.map(str::to_owned).to_vec()];
    for q in &went.questions {
        let groups = q.parts.iter().flat_map(|p| &p.groups);
        let most = groups.max_by_key(|g| g.entries);
        rows.push(vec![
            (q.question + 1).to_string(),
            cell(&q.title),
            q.tried.to_string(),
            q.right_first.to_string(),
            q.right_in_the_end.to_string(),
            q.checks.to_string(),
            q.sets.to_string(),
            q.hints.to_string(),
            q.seconds.map(|s| s.to_string()).unwrap_or_default(),
            most.map(|g| cell(&g.given)).unwrap_or_default(),
            most.map(|g| g.students.len().to_string()).unwrap_or_default(),
        ]);
    }
    csv_file("how-it-went.csv", rows)
}
