//! Typing practice: ten short tasks.

use actix_web::{get, post, web};
use marking::{Shown, Typed, TypingTask, typing_tasks};
use school::School;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::shared::read::{ReadView, check_length};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct TypingView {
    tasks: Vec<TypingTaskView>,
    done: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TypingTaskView {
    id: String,
    title: String,
    /// How it is done.
    words: String,
    /// What is to be typed: LaTeX, and in words.
    shown: String,
    speech: String,
    entry: Shown,
    done: bool,
}

fn task_view(task: &TypingTask, done: &[String]) -> TypingTaskView {
    let shown = task.shown();
    TypingTaskView {
        id: task.id.into(),
        title: task.title.into(),
        words: task.words.into(),
        shown: shown.reads_as,
        speech: shown.speech,
        entry: Shown::typed(&task.block, "Type it here"),
        done: done.iter().any(|d| d == task.id),
    }
}

/// The tasks, and which of them were done.
#[utoipa::path(path = "/api/typing", responses((status = 200, body = TypingView), (status = 401, body = Problem)))]
#[get("/typing")]
pub(crate) async fn get_typing(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<TypingView>, ApiError> {
    let done = store::typing_done(&school.pool, who.0.id).await?;
    let tasks: Vec<TypingTaskView> = typing_tasks().iter().map(|t| task_view(t, &done)).collect();
    Ok(web::Json(TypingView {
        done: tasks.iter().filter(|t| t.done).count(),
        tasks,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct TypedRequest {
    entry: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TypedView {
    done: bool,
    words: String,
}

fn words(typed: Typed) -> &'static str {
    match typed {
        Typed::AsShown => "That is it.",
        Typed::SameValue => "It has the same value, but it is not what is shown. Type it as it stands there.",
        Typed::Otherwise => "It reads as something else. Compare it with what is shown.",
        Typed::Unreadable => "This can't be read yet. Look at the place that is marked.",
        Typed::Empty => "Nothing is typed yet.",
    }
}

fn find_task(id: &str) -> Result<&'static TypingTask, ApiError> {
    typing_tasks()
        .iter()
        .find(|t| t.id == id)
        .ok_or(ApiError::NotFound)
}

/// Looks at what was typed. Nothing is scored; only that it was done is kept.
#[utoipa::path(path = "/api/typing/{task}", params(("task" = String, Path)), request_body = TypedRequest,
    responses((status = 200, body = TypedView), (status = 404, body = Problem)))]
#[post("/typing/{task}")]
pub(crate) async fn check_typed(
    school: web::Data<School>,
    who: SignedIn,
    task: web::Path<String>,
    body: web::Json<TypedRequest>,
) -> Result<web::Json<TypedView>, ApiError> {
    let task = find_task(&task)?;
    let entry = body.into_inner().entry;
    check_length(&entry)?;
    let typed = school.compute(who.0.id, move || task.judge(&entry)).await?;
    let done = typed == Typed::AsShown;
    if done {
        store::put_typing_done(&school.pool, who.0.id, task.id, school.now()).await?;
    }
    let words = words(typed).to_owned();
    Ok(web::Json(TypedView { done, words }))
}

/// Reads what is typed, as an answer field would.
#[utoipa::path(path = "/api/typing/{task}/read", params(("task" = String, Path)), request_body = TypedRequest,
    responses((status = 200, body = ReadView), (status = 404, body = Problem)))]
#[post("/typing/{task}/read")]
pub(crate) async fn read_typed(
    school: web::Data<School>,
    who: SignedIn,
    task: web::Path<String>,
    body: web::Json<TypedRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let task = find_task(&task)?;
    let entry = body.into_inner().entry;
    check_length(&entry)?;
    let read = school.compute(who.0.id, move || task.read(&entry)).await?;
    Ok(web::Json(read.into()))
}
