//! A teacher's classes: making them, who is in them, and what was done in them.

pub(crate) mod copy;
pub(crate) mod exceptions;
pub(crate) mod people;
pub(crate) mod seen;
pub(crate) mod setting;
mod settings_form;
pub(crate) mod sheet;
pub(crate) mod skills;
pub(crate) mod start;
pub(crate) mod units;
pub(crate) mod went;

use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use school::School;
use school::sign_in::SESSION_LASTS;
use serde::{Deserialize, Serialize};
use store::{Act, Class, ClassTerms, MemberRole, Role};
use time::{Date, Duration, OffsetDateTime};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};
use crate::http::scopes::bearer;

/// Characters of a class's title, and of a word from its teacher.
const LONGEST_TITLE: usize = 80;
const LONGEST_WORD: usize = 2_000;
/// Acts on the page of them.
const ACTS_SHOWN: i64 = 500;
/// Who was not seen for as long as this is said to be missing.
pub(crate) const NOT_SEEN_FOR: Duration = Duration::days(7);

time::serde::format_description!(day, Date, "[year]-[month]-[day]");

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassesView {
    classes: Vec<ClassHead>,
}

/// A class, and who in it needs the teacher.
#[derive(Serialize, ToSchema)]
pub(crate) struct ClassHead {
    id: Uuid,
    title: String,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    starts_on: Option<Date>,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    ends_on: Option<Date>,
    students: i64,
    assignments: i64,
    drafts: i64,
    /// Hand-ins that wait to be marked.
    waiting: i64,
    /// Students who were not seen for a week.
    unseen: i64,
}

/// What a class is called, and when and where it is.
#[derive(Deserialize, ToSchema)]
pub(crate) struct ClassSettings {
    title: String,
    #[serde(default, with = "day::option")]
    #[schema(value_type = Option<String>)]
    starts_on: Option<Date>,
    #[serde(default, with = "day::option")]
    #[schema(value_type = Option<String>)]
    ends_on: Option<Date>,
    /// IANA's name of it.
    time_zone: String,
    #[serde(default)]
    word: String,
    /// Students read what others ask for the class.
    #[serde(default = "yes")]
    class_sees_messages: bool,
}

fn yes() -> bool {
    true
}

impl ClassSettings {
    fn terms(&self) -> Result<ClassTerms<'_>, ApiError> {
        let refuse = |words: &str| Err(ApiError::Unusable(words.into()));
        let title = self.title.trim();
        if title.is_empty() || title.chars().count() > LONGEST_TITLE || title.chars().any(char::is_control) {
            return refuse("Give the class a title of at most 80 characters.");
        }
        if self.word.chars().count() > LONGEST_WORD || self.word.contains('\0') {
            return refuse("Your word to the class is too long: 2,000 characters at most.");
        }
        if !coursework::is_zone(&self.time_zone) {
            return refuse("There is no such time zone.");
        }
        if self
            .starts_on
            .zip(self.ends_on)
            .is_some_and(|(from, to)| to < from)
        {
            return refuse("The term ends before it begins.");
        }
        Ok(ClassTerms {
            title,
            starts_on: self.starts_on,
            ends_on: self.ends_on,
            time_zone: &self.time_zone,
            word: self.word.trim(),
            class_sees_messages: self.class_sees_messages,
        })
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MadeClass {
    id: Uuid,
}

/// A class with everybody in it.
#[derive(Serialize, ToSchema)]
pub(crate) struct ClassView {
    id: Uuid,
    title: String,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    starts_on: Option<Date>,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    ends_on: Option<Date>,
    time_zone: String,
    word: String,
    class_sees_messages: bool,
    /// Whoever has it can join; nobody can without one.
    join_code: Option<String>,
    members: Vec<ClassMember>,
    /// The names of its groups.
    groups: Vec<String>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassMember {
    id: Uuid,
    name: String,
    user_name: String,
    is_teacher: bool,
    group: Option<String>,
    /// When they were taken out; what they did is kept.
    #[serde(with = "time::serde::rfc3339::option")]
    left_at: Option<OffsetDateTime>,
    #[serde(with = "time::serde::rfc3339::option")]
    last_seen: Option<OffsetDateTime>,
    /// As whom the portal's teachers try the course out; counted nowhere.
    is_trial: bool,
    /// A teacher of this class may set a new password for them.
    may_reset: bool,
    has_password: bool,
}

/// Whoever signs in as somebody has all that they have: nobody is let in to an account from another class, or to one that
/// teaches anywhere.
pub(crate) fn may_reset(member: &store::Member) -> bool {
    member.at_home && member.role == MemberRole::Student && member.person.role == Role::Student
}

pub(crate) async fn class_view(school: &School, class: Class) -> Result<ClassView, ApiError> {
    let members = store::members_of(&school.pool, class.id).await?;
    let mut groups: Vec<String> = members.iter().filter_map(|m| m.group.clone()).collect();
    groups.sort();
    groups.dedup();
    let member = |m: store::Member| ClassMember {
        may_reset: may_reset(&m),
        id: m.person.id.0,
        name: m.person.display_name,
        user_name: m.person.user_name,
        is_teacher: m.role == MemberRole::Teacher,
        group: m.group,
        left_at: m.left_at,
        last_seen: m.last_seen,
        is_trial: m.role == MemberRole::Trial,
        has_password: m.has_password,
    };
    Ok(ClassView {
        id: class.id,
        title: class.title,
        starts_on: class.starts_on,
        ends_on: class.ends_on,
        time_zone: class.time_zone,
        word: class.word,
        class_sees_messages: class.class_sees_messages,
        join_code: class.join_code,
        members: members.into_iter().map(member).collect(),
        groups,
    })
}

/// Writes down what a teacher did.
pub(crate) async fn note(school: &School, act: Act<'_>) -> Result<(), ApiError> {
    Ok(store::put_act(&school.pool, &act, school.now()).await?)
}

/// An act on a class as a whole.
pub(crate) fn on_class<'a>(class: Uuid, who: &Teacher, did: &'a str) -> Act<'a> {
    Act {
        class,
        assignment: None,
        student: None,
        by: who.0.id,
        did,
        why: "",
    }
}

/// The classes one teaches.
#[utoipa::path(path = "/api/classes", responses((status = 200, body = ClassesView), (status = 404, body = Problem)))]
#[get("/classes")]
pub(crate) async fn get_classes(
    school: web::Data<School>,
    who: Teacher,
) -> Result<web::Json<ClassesView>, ApiError> {
    // A session lasts longer than a week: only its beginning is known.
    debug_assert!(SESSION_LASTS > NOT_SEEN_FOR);
    let since = school.now() - NOT_SEEN_FOR;
    let all = store::classes_taught(&school.pool, who.0.id, since).await?;
    let head = |c: store::TaughtClass| ClassHead {
        id: c.class.id,
        title: c.class.title,
        starts_on: c.class.starts_on,
        ends_on: c.class.ends_on,
        students: c.students,
        assignments: c.assignments,
        drafts: c.drafts,
        waiting: c.waiting,
        unseen: c.unseen,
    };
    Ok(web::Json(ClassesView {
        classes: all.into_iter().map(head).collect(),
    }))
}

/// Makes a class, which one then teaches.
#[utoipa::path(path = "/api/classes", request_body = ClassSettings,
    responses((status = 200, body = MadeClass), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes")]
pub(crate) async fn make_class(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<ClassSettings>,
) -> Result<web::Json<MadeClass>, ApiError> {
    let id = store::create_class(&school.pool, &body.terms()?, who.0.id).await?;
    note(&school, on_class(id, &who, "made the class")).await?;
    Ok(web::Json(MadeClass { id }))
}

/// A class with everybody in it.
#[utoipa::path(path = "/api/classes/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = ClassView), (status = 404, body = Problem)))]
#[get("/classes/{id}")]
pub(crate) async fn get_class(
    school: web::Data<School>,
    who: Teacher,
    request: HttpRequest,
    id: web::Path<Uuid>,
) -> Result<web::Json<ClassView>, ApiError> {
    let mut class = who.class(&school, *id).await?;
    // Whoever has the code can come in: that is more than a program may read.
    if bearer(&request).is_some() {
        class.join_code = None;
    }
    Ok(web::Json(class_view(&school, class).await?))
}

/// Changes what a class is called, and when and where it is.
#[utoipa::path(path = "/api/classes/{id}", params(("id" = Uuid, Path)), request_body = ClassSettings,
    responses((status = 200, body = ClassView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/classes/{id}")]
pub(crate) async fn put_class(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<ClassSettings>,
) -> Result<web::Json<ClassView>, ApiError> {
    who.class(&school, *id).await?;
    store::set_class(&school.pool, *id, &body.terms()?).await?;
    let class = who.class(&school, *id).await?;
    Ok(web::Json(class_view(&school, class).await?))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ActsView {
    title: String,
    /// The newest first.
    acts: Vec<ActView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ActView {
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    by: String,
    did: String,
    why: String,
    student: Option<String>,
    assignment: Option<String>,
}

/// What teachers did in a class that touches students' work, scores or accounts.
#[utoipa::path(path = "/api/classes/{id}/acts", params(("id" = Uuid, Path)),
    responses((status = 200, body = ActsView), (status = 404, body = Problem)))]
#[get("/classes/{id}/acts")]
pub(crate) async fn get_acts(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ActsView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let acts = store::acts_in(&school.pool, class.id, ACTS_SHOWN).await?;
    let act = |a: store::NamedAct| ActView {
        at: a.at,
        by: a.by,
        did: a.did,
        why: a.why,
        student: a.student,
        assignment: a.assignment,
    };
    Ok(web::Json(ActsView {
        title: class.title,
        acts: acts.into_iter().map(act).collect(),
    }))
}

/// Shows everything as a made-up student of the class sees it, until that is ended. Nothing of it is kept.
#[utoipa::path(path = "/api/classes/{id}/as-student", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/classes/{id}/as-student")]
pub(crate) async fn as_student(
    school: web::Data<School>,
    who: Teacher,
    request: actix_web::HttpRequest,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let token = crate::http::auth::token(&request).ok_or(ApiError::NotSignedIn)?;
    school::sign_in::act_as_student(&school, &token, class.id).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Ends it: one is a teacher again.
#[utoipa::path(path = "/api/as-student", responses((status = 204), (status = 401, body = Problem)))]
#[delete("/as-student")]
pub(crate) async fn end_as_student(
    school: web::Data<School>,
    _who: crate::http::auth::SignedIn,
    request: actix_web::HttpRequest,
) -> Result<HttpResponse, ApiError> {
    let token = crate::http::auth::token(&request).ok_or(ApiError::NotSignedIn)?;
    school::sign_in::act_as_oneself(&school, &token).await?;
    Ok(HttpResponse::NoContent().finish())
}
