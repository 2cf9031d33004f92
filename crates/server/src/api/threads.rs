//! Ask about this, and query this mark: a student writes from a question, teacher and student answer each other.

use actix_web::{HttpResponse, delete, get, post, put, web};
use coursework::verdicts_visible;
use marking::Block;
use school::accept::{By, Change, Doubted, accept};
use school::{Desk, School, SchoolError};
use serde::{Deserialize, Serialize};
use store::{Act, Person, PersonId, Thread};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::classes::note;
use super::shared::answer::{RightAnswer, right_answer};
use super::shared::question::set_name;
use super::shared::verdict::{TryPartView, given_view};
use crate::http::auth::{SignedIn, Teacher, Visitor};
use crate::http::error::{ApiError, Problem};

/// Characters of a message.
const LONGEST_MESSAGE: usize = 4_000;

pub(super) fn checked_body(body: &str) -> Result<String, ApiError> {
    let body = body.replace('\0', "");
    let body = body.trim();
    if body.is_empty() || body.chars().count() > LONGEST_MESSAGE {
        return Err(ApiError::Unusable(
            "Write something, of 4,000 characters at most.".into(),
        ));
    }
    Ok(body.to_owned())
}

/// Messages of one person in an hour: more than anybody writes, and few enough to be read.
const MOST_MESSAGES: i32 = 60;

async fn count_message(school: &School, person: PersonId) -> Result<(), ApiError> {
    match school::share_of(school, "messages", person, MOST_MESSAGES, time::Duration::hours(1)).await? {
        None => Ok(()),
        Some(wait_seconds) => Err(ApiError::TooOften {
            wait_seconds,
            words: "You have written many messages in the last hour. Nothing is lost: send this one a little later.".into(),
        }),
    }
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct AskRequest {
    question: usize,
    /// The mark is doubted.
    #[serde(default)]
    query: bool,
    /// The class may read it, without numbers, entries and verdicts.
    #[serde(default)]
    for_class: bool,
    body: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct AskedView {
    id: Uuid,
}

/// Asks the teacher about a question, as one has it.
#[utoipa::path(path = "/api/assignments/{id}/threads", params(("id" = Uuid, Path)), request_body = AskRequest,
    responses((status = 200, body = AskedView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/assignments/{id}/threads")]
pub(crate) async fn ask(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<AskRequest>,
) -> Result<web::Json<AskedView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let words = checked_body(&body.body)?;
    count_message(&school, desk.student).await?;
    let state = desk
        .work
        .questions
        .get(body.question)
        .ok_or(SchoolError::NotFound)?;
    coursework::may_see(&desk.assignment, &desk.work, body.question)?;
    let set = state.sets.len().saturating_sub(1);
    let visible = verdicts_visible(&desk.assignment, &desk.work, desk.now);
    // What was checked last, on whatever set.
    let tries = state
        .sets
        .iter()
        .enumerate()
        .flat_map(|(n, s)| s.tries.iter().map(move |t| (n, t)));
    let last = tries.filter(|_| visible).max_by_key(|(_, t)| t.event);
    if body.query && last.is_none() {
        return Err(ApiError::Unusable(
            "Nothing has been marked here yet, so there is no mark to query.".into(),
        ));
    }
    let new = store::NewThread {
        assignment: *id,
        student: desk.student,
        question: body.question,
        set: last.map_or(set, |(n, _)| n),
        event: last.map(|(_, t)| t.event),
        is_query: body.query,
        // What is asked about a quiz stays with the teacher until its results are out.
        for_class: body.for_class && visible && !body.query,
        by: desk.student,
        body: &words,
    };
    let id = store::open_thread(&school.pool, &new, school.now()).await?;
    Ok(web::Json(AskedView { id }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ThreadsView {
    threads: Vec<ThreadHead>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ThreadHead {
    id: Uuid,
    class_title: String,
    assignment_title: String,
    /// From 0.
    question: usize,
    /// Nothing where the class reads it, and it is somebody else's.
    student: Option<String>,
    query: bool,
    for_class: bool,
    hidden: bool,
    settled: Option<String>,
    begins: String,
    #[serde(with = "time::serde::rfc3339")]
    last_at: OffsetDateTime,
    unread: i64,
}

fn head(thread: &Thread, person: &Person) -> ThreadHead {
    let named = thread.taught || thread.student == person.id;
    ThreadHead {
        id: thread.id,
        class_title: thread.class_title.clone(),
        assignment_title: thread.assignment_title.clone(),
        question: thread.question,
        student: named.then(|| thread.student_name.clone()),
        query: thread.is_query,
        for_class: thread.for_class,
        hidden: thread.hidden,
        settled: thread.settled.clone(),
        begins: thread.begins.clone(),
        last_at: thread.last_at,
        unread: if named { thread.unread } else { 0 },
    }
}

/// What was asked: one's own, what the class may read; to a teacher, all of their classes.
#[utoipa::path(path = "/api/threads", responses((status = 200, body = ThreadsView), (status = 401, body = Problem)))]
#[get("/threads")]
pub(crate) async fn get_threads(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<ThreadsView>, ApiError> {
    let all = store::threads_of(&school.pool, who.0.id, None).await?;
    Ok(web::Json(ThreadsView {
        threads: all.iter().map(|t| head(t, &who.0)).collect(),
    }))
}

/// A thread with its messages, and what it is about.
#[derive(Serialize, ToSchema)]
pub(crate) struct ThreadView {
    head: ThreadHead,
    assignment: Uuid,
    class: Uuid,
    student_id: Option<Uuid>,
    set: Option<String>,
    /// The question as the student had it.
    text: Vec<Block>,
    /// What was entered, with its verdict.
    given: Vec<TryPartView>,
    messages: Vec<MessageView>,
    /// For the teacher: the key, and how the decision was made.
    doubt: Option<DoubtView>,
    mine: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MessageView {
    id: Uuid,
    by: String,
    by_teacher: bool,
    mine: bool,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    body: String,
    taken_back: bool,
    /// It can still be taken back.
    may_take_back: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct DoubtView {
    answers: Vec<RightAnswer>,
    /// How each part was decided.
    decided: Vec<String>,
    /// What accepting the entry would do: for this student, and for all who gave an equal one.
    for_student: Vec<ChangeView>,
    for_all: Vec<ChangeView>,
    /// The question's name in the bank, where its key can be corrected.
    bank: String,
    /// Its key was corrected since this was marked.
    corrected: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ChangeView {
    student: String,
    before: f64,
    after: f64,
}

/// Whether the key of what is queried was corrected since it was marked.
fn key_was_corrected(desk: &Desk, thread: &Thread) -> bool {
    thread
        .event
        .is_some_and(|event| coursework::was_corrected(&desk.events(), thread.question, event))
}

async fn thread(school: &School, person: &Person, id: Uuid) -> Result<Thread, ApiError> {
    let found = store::threads_of(&school.pool, person.id, Some(id)).await?;
    found.into_iter().next().ok_or(ApiError::NotFound)
}

fn decided(evidence: &maths::Evidence) -> String {
    use maths::Evidence as E;
    let at = |witness: &[(std::sync::Arc<str>, num_rational::BigRational)]| {
        let places: Vec<String> = witness
            .iter()
            .map(|(name, value)| format!("{name} = {value}"))
            .collect();
        places.join(", ")
    };
    match evidence {
        E::ProvedEqual => "It was proved equal to the key.".into(),
        E::ProvedDifferent { witness } if witness.is_empty() => {
            "It was proved different from the key.".into()
        }
        E::ProvedDifferent { witness } => format!(
            "It was proved different from the key: they differ at {}.",
            at(witness)
        ),
        E::Agreed { points, digits } => {
            format!("It agrees with the key at {points} points to {digits} digits; there is no proof.")
        }
        E::Undefined { witness } => format!("It has no value where the key has one: at {}.", at(witness)),
        E::KeyHasNoValue => "The key has no value anywhere that was tried.".into(),
        E::EntryHasNoValue => "It has no value.".into(),
        E::Undecided => "It could not be decided: the values are too large or too deep to compare.".into(),
    }
}

async fn change_views(school: &School, changes: Vec<Change>) -> Result<Vec<ChangeView>, ApiError> {
    let mut all = Vec::new();
    for change in changes {
        let person = store::find_person(&school.pool, change.student).await?;
        all.push(ChangeView {
            student: person.map(|p| p.display_name).unwrap_or_default(),
            before: change.before,
            after: change.after,
        });
    }
    Ok(all)
}

fn doubted(thread: &Thread) -> Option<Doubted> {
    Some(Doubted {
        assignment: thread.assignment,
        student: thread.student,
        question: thread.question,
        event: thread.event.filter(|_| thread.is_query)?,
    })
}

async fn view(school: &School, person: &Person, thread: Thread) -> Result<ThreadView, ApiError> {
    let is_teacher = thread.taught;
    let mine = thread.student == person.id;
    let mut view = ThreadView {
        head: head(&thread, person),
        assignment: thread.assignment,
        class: thread.class,
        student_id: is_teacher.then_some(thread.student.0),
        set: None,
        text: Vec::new(),
        given: Vec::new(),
        messages: Vec::new(),
        doubt: None,
        mine,
    };
    if mine || is_teacher {
        let desk = Desk::load(school, thread.assignment, thread.student).await?;
        let state = desk.work.questions.get(thread.question);
        if let Some(set) = state.and_then(|q| q.sets.get(thread.set)) {
            let item = desk.item_of(school, thread.question, set.seed).await?;
            let visible = is_teacher || verdicts_visible(&desk.assignment, &desk.work, desk.now);
            let about = set
                .tries
                .iter()
                .find(|t| Some(t.event) == thread.event && visible);
            view.set = Some(set_name(thread.set));
            view.text = item.text.clone();
            let parts = about.map(|t| t.parts.clone()).unwrap_or_default();
            view.given = parts.iter().map(|p| given_view(p, &item, true)).collect();
            if let Some(doubted) = doubted(&thread).filter(|_| is_teacher && about.is_some()) {
                let given = parts.iter().map(|p| (p.part.clone(), p.response.clone()));
                let marked = school.mark(person.id, &item, given.collect()).await?;
                let evidence = |m: &coursework::MarkedPart| {
                    let evidence = m.verdict.marking.evidence.as_ref()?;
                    Some(format!("({}) {}", m.part, decided(evidence)))
                };
                // Where it was accepted meanwhile there is nothing left to accept.
                let would = async |all| match accept(school, doubted, all, None).await {
                    Ok(changes) => Ok(changes),
                    Err(SchoolError::NotFound) => Ok(Vec::new()),
                    Err(other) => Err(other),
                };
                let (_, source) = desk
                    .stored
                    .questions
                    .get(thread.question)
                    .ok_or(SchoolError::NotFound)?;
                view.doubt = Some(DoubtView {
                    bank: source.id.clone(),
                    corrected: key_was_corrected(&desk, &thread),

                    answers: item.parts.iter().map(right_answer).collect(),
                    decided: marked.iter().filter_map(evidence).collect(),
                    for_student: change_views(school, would(false).await?).await?,
                    for_all: change_views(school, would(true).await?).await?,
                });
            }
        }
    }
    for m in store::messages_of(&school.pool, thread.id).await? {
        let own = m.by == person.id;
        let named = own || m.by_teacher || mine || is_teacher;
        view.messages.push(MessageView {
            id: m.id,
            by: if named { m.by_name } else { "A student".into() },
            by_teacher: m.by_teacher,
            mine: own,
            at: m.at,
            body: m.body,
            taken_back: m.taken_back,
            may_take_back: own && !m.read && !m.taken_back,
        });
    }
    Ok(view)
}

/// A thread; what stands in it counts as read then.
#[utoipa::path(path = "/api/threads/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = ThreadView), (status = 404, body = Problem)))]
#[get("/threads/{id}")]
pub(crate) async fn get_thread(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<ThreadView>, ApiError> {
    let found = thread(&school, &who.0, *id).await?;
    if found.taught || found.student == who.0.id {
        store::set_thread_read(&school.pool, *id, who.0.id, school.now()).await?;
    }
    Ok(web::Json(view(&school, &who.0, found).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NewMessage {
    body: String,
}

/// Answers in a thread: its student, and the teachers of its class.
#[utoipa::path(path = "/api/threads/{id}/messages", params(("id" = Uuid, Path)), request_body = NewMessage,
    responses((status = 200, body = ThreadView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/threads/{id}/messages")]
pub(crate) async fn answer_thread(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<NewMessage>,
) -> Result<web::Json<ThreadView>, ApiError> {
    let found = thread(&school, &who.0, *id).await?;
    if !found.taught && found.student != who.0.id {
        return Err(ApiError::NotFound);
    }
    let words = checked_body(&body.body)?;
    count_message(&school, who.0.id).await?;
    store::add_message(&school.pool, *id, who.0.id, &words, school.now()).await?;
    Ok(web::Json(view(&school, &who.0, found).await?))
}

/// Takes back a message of one's own that nobody has read yet.
#[utoipa::path(path = "/api/threads/{id}/messages/{message}",
    params(("id" = Uuid, Path), ("message" = Uuid, Path)),
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[delete("/threads/{id}/messages/{message}")]
pub(crate) async fn take_back_message(
    school: web::Data<School>,
    who: SignedIn,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, message) = path.into_inner();
    thread(&school, &who.0, id).await?;
    if store::take_message_back(&school.pool, message, who.0.id, school.now()).await? {
        return Ok(HttpResponse::NoContent().finish());
    }
    Err(ApiError::Unusable(
        "It has already been read, so it can’t be deleted. Send a second message instead.".into(),
    ))
}

#[derive(Clone, Copy, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Settle {
    /// The mark stands.
    Stands,
    /// This entry of this student's is accepted.
    AcceptForStudent,
    /// It is accepted for all who gave an equal one to the same numbers.
    AcceptForAll,
    /// The key was corrected in the bank, and what was given marked by it.
    KeyCorrected,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct ThreadChange {
    /// Hidden from the class.
    #[serde(default)]
    hidden: bool,
    #[serde(default)]
    settle: Option<Settle>,
    /// A word to the student, with what was decided.
    #[serde(default)]
    word: String,
}

/// Hides a thread from the class, or settles a query. What is accepted is marked anew, and the students are told.
#[utoipa::path(path = "/api/threads/{id}", params(("id" = Uuid, Path)), request_body = ThreadChange,
    responses((status = 200, body = ThreadView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/threads/{id}")]
pub(crate) async fn change_thread(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<ThreadChange>,
) -> Result<web::Json<ThreadView>, ApiError> {
    let found = thread(&school, &who.0, *id).await?;
    let word = match body.word.trim() {
        "" => String::new(),
        word => checked_body(word)?,
    };
    let settled = match body.settle {
        None => None,
        Some(_) if !found.is_query => {
            return Err(ApiError::Unusable("No mark was queried here.".into()));
        }
        Some(Settle::Stands) => Some("stands"),
        Some(Settle::KeyCorrected) => {
            let desk = Desk::load(&school, found.assignment, found.student).await?;
            if !key_was_corrected(&desk, &found) {
                return Err(ApiError::Unusable(
                    "The key of this question was not corrected since. Correct it in the bank first.".into(),
                ));
            }
            Some("key_corrected")
        }
        Some(how) => {
            let by = By {
                who: who.0.id.0,
                why: &word,
            };
            let all = matches!(how, Settle::AcceptForAll);
            let doubted = doubted(&found).ok_or(ApiError::NotFound)?;
            let changed = accept(&school, doubted, all, Some(by)).await?;
            for change in changed {
                let act = Act {
                    class: found.class,
                    assignment: Some(found.assignment),
                    student: Some(change.student),
                    by: who.0.id,
                    did: "accepted an entry",
                    why: &word,
                };
                note(&school, act).await?;
            }
            Some(if all { "accepted_for_all" } else { "accepted" })
        }
    };
    store::set_thread(&school.pool, *id, body.hidden, settled).await?;
    if !word.is_empty() {
        store::add_message(&school.pool, *id, who.0.id, &word, school.now()).await?;
    }
    let found = thread(&school, &who.0, *id).await?;
    Ok(web::Json(view(&school, &who.0, found).await?))
}
