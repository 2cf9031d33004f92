//! Who is in a class: students who come in, their groups, links and passwords; a second teacher; the code to join by.

use actix_web::{HttpResponse, get, post, put, web};
use school::School;
use school::classes::{Added, add_students, add_teacher, new_code, new_link, password_fault};
use school::roll::{RollFault, name_fault, read_roll, user_name_fault};
use serde::{Deserialize, Serialize};
use store::{Act, Member, MemberRole, Role};
use utoipa::ToSchema;
use uuid::Uuid;

use super::{ClassView, class_view, may_reset, note, on_class};
use crate::api::shared::table::{cell, csv_file};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// Bytes of a class list.
const LONGEST_LIST: usize = 200_000;

/// A list of students: a line each, with name, user name and group.
#[derive(Deserialize, ToSchema)]
pub(crate) struct StudentList {
    list: String,
}

/// Who came in, and which lines did not.
#[derive(Serialize, ToSchema)]
pub(crate) struct AddedView {
    added: Vec<AddedStudent>,
    refused: Vec<RefusedLine>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct AddedStudent {
    id: Uuid,
    name: String,
    user_name: String,
    /// The token of a link that signs them in once; told now and never again. Nothing for an account that was there.
    link: Option<String>,
}

impl From<Added> for AddedStudent {
    fn from(a: Added) -> Self {
        AddedStudent {
            id: a.person.0,
            name: a.name,
            user_name: a.user_name,
            link: a.link,
        }
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct RefusedLine {
    /// From 1.
    line: u64,
    text: String,
    why: String,
}

impl From<RollFault> for RefusedLine {
    fn from(f: RollFault) -> Self {
        RefusedLine {
            line: f.line,
            text: f.text,
            why: f.why,
        }
    }
}

/// Adds students, a line each. Lines that cannot be taken are named; the rest goes in.
#[utoipa::path(path = "/api/classes/{id}/students", params(("id" = Uuid, Path)), request_body = StudentList,
    responses((status = 200, body = AddedView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/students")]
pub(crate) async fn add_to_class(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<StudentList>,
) -> Result<web::Json<AddedView>, ApiError> {
    let class = who.class(&school, *id).await?;
    if body.list.len() > LONGEST_LIST {
        return Err(ApiError::Unusable(
            "This list is too long: 1,000 lines at most.".into(),
        ));
    }
    let (lines, mut refused) = read_roll(&body.list.replace('\0', ""));
    let (added, more) = add_students(&school, &class, lines).await?;
    refused.extend(more);
    refused.sort_by_key(|f| f.line);
    for one in &added {
        let act = on_class(class.id, &who, "added to the class");
        let student = Some(one.person);
        note(&school, Act { student, ..act }).await?;
    }
    Ok(web::Json(AddedView {
        added: added.into_iter().map(AddedStudent::from).collect(),
        refused: refused.into_iter().map(RefusedLine::from).collect(),
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NewTeacher {
    name: String,
    user_name: String,
}

/// Adds a second teacher: one who is there already, or a new one with a link.
#[utoipa::path(path = "/api/classes/{id}/teachers", params(("id" = Uuid, Path)), request_body = NewTeacher,
    responses((status = 200, body = AddedView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/teachers")]
pub(crate) async fn add_teacher_to_class(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<NewTeacher>,
) -> Result<web::Json<AddedView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let (name, user_name) = (body.name.trim(), body.user_name.trim().to_lowercase());
    if let Some(why) = name_fault(name).or_else(|| user_name_fault(&user_name)) {
        return Err(ApiError::Unusable(why));
    }
    let there = store::find_credentials(&school.pool, &user_name).await?;
    let added = match there {
        Some((person, _)) => {
            let same = person.display_name.to_lowercase() == name.to_lowercase();
            if person.role != Role::Teacher || !same {
                return Err(ApiError::Unusable(format!(
                    "The user name {user_name} belongs to somebody else. Choose another one."
                )));
            }
            Added {
                person: person.id,
                name: person.display_name,
                user_name: person.user_name,
                link: None,
            }
        }
        None => add_teacher(&school, name, &user_name, None)
            .await?
            .ok_or_else(|| {
                ApiError::Unusable("This user name was taken just now. Choose another one.".into())
            })?,
    };
    store::join_class(&school.pool, class.id, added.person, MemberRole::Teacher, None).await?;
    let act = on_class(class.id, &who, "added as a teacher");
    note(
        &school,
        Act {
            student: Some(added.person),
            ..act
        },
    )
    .await?;
    Ok(web::Json(AddedView {
        added: vec![added.into()],
        refused: Vec::new(),
    }))
}

/// A member of a class that one teaches.
async fn member(school: &School, who: &Teacher, class: Uuid, person: Uuid) -> Result<Member, ApiError> {
    who.class(school, class).await?;
    let members = store::members_of(&school.pool, class).await?;
    members
        .into_iter()
        .find(|m| m.person.id.0 == person)
        .ok_or(ApiError::NotFound)
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct MemberChange {
    /// The group they are in now; nothing for none.
    #[serde(default)]
    group: Option<String>,
    /// Taken out of the class. Nothing of theirs is lost.
    left: bool,
}

/// Puts a member in a group, takes them out of the class, or brings them back.
#[utoipa::path(path = "/api/classes/{id}/members/{person}",
    params(("id" = Uuid, Path), ("person" = Uuid, Path)), request_body = MemberChange,
    responses((status = 200, body = ClassView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/classes/{id}/members/{person}")]
pub(crate) async fn change_member(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
    body: web::Json<MemberChange>,
) -> Result<web::Json<ClassView>, ApiError> {
    let (class, person) = path.into_inner();
    let member = member(&school, &who, class, person).await?;
    if body.left && member.person.id == who.0.id {
        return Err(ApiError::Unusable(
            "You can't remove yourself; another teacher of the class can.".into(),
        ));
    }
    let group = body.group.as_deref().map(str::trim).filter(|g| !g.is_empty());
    if group.is_some_and(|g| g.chars().count() > 30 || g.chars().any(char::is_control)) {
        return Err(ApiError::Unusable(
            "A group's name has 30 characters at most.".into(),
        ));
    }
    let student = Some(member.person.id);
    if group != member.group.as_deref() {
        store::set_group(&school.pool, class, member.person.id, group).await?;
        let did = match group {
            Some(group) => format!("put in the group {group}"),
            None => "taken out of a group".to_owned(),
        };
        let act = on_class(class, &who, &did);
        note(&school, Act { student, ..act }).await?;
    }
    if body.left != member.left_at.is_some() {
        let at = body.left.then(|| school.now());
        store::set_left(&school.pool, class, member.person.id, at).await?;
        let did = if body.left {
            "taken out of the class"
        } else {
            "brought back"
        };
        let act = on_class(class, &who, did);
        note(&school, Act { student, ..act }).await?;
    }
    let class = who.class(&school, class).await?;
    Ok(web::Json(class_view(&school, class).await?))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct LinkView {
    /// The token of the link; told now and never again.
    link: String,
}

fn check_reset(member: &Member) -> Result<(), ApiError> {
    if may_reset(member) {
        return Ok(());
    }
    Err(ApiError::Unusable(if member.at_home {
        "Teachers are given a new password by the administrator.".into()
    } else {
        "This account was made in another class. Ask the teacher there for a new password.".into()
    }))
}

/// Makes a link that signs a student in once, and lets them choose a password. Earlier links of theirs end.
#[utoipa::path(path = "/api/classes/{id}/members/{person}/link",
    params(("id" = Uuid, Path), ("person" = Uuid, Path)),
    responses((status = 200, body = LinkView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/members/{person}/link")]
pub(crate) async fn make_link(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<LinkView>, ApiError> {
    let (class, person) = path.into_inner();
    let member = member(&school, &who, class, person).await?;
    check_reset(&member)?;
    let link = new_link(&school, member.person.id).await?;
    let act = on_class(class, &who, "made a sign-in link");
    let student = Some(member.person.id);
    note(&school, Act { student, ..act }).await?;
    Ok(web::Json(LinkView { link }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NewPassword {
    password: String,
}

/// Sets a new password for a student; wherever they are signed in, they are signed out.
#[utoipa::path(path = "/api/classes/{id}/members/{person}/password",
    params(("id" = Uuid, Path), ("person" = Uuid, Path)), request_body = NewPassword,
    responses((status = 200, body = ClassView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/classes/{id}/members/{person}/password")]
pub(crate) async fn set_new_password(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
    body: web::Json<NewPassword>,
) -> Result<web::Json<ClassView>, ApiError> {
    let (class, person) = path.into_inner();
    let member = member(&school, &who, class, person).await?;
    check_reset(&member)?;
    let password = body.into_inner().password;
    if let Some(why) = password_fault(&password, &member.person.user_name) {
        return Err(ApiError::Unusable(why.into()));
    }
    school::sign_in::set_password(&school, member.person.id, password, who.0.id).await?;
    let act = on_class(class, &who, "set a new password");
    let student = Some(member.person.id);
    note(&school, Act { student, ..act }).await?;
    let class = who.class(&school, class).await?;
    Ok(web::Json(class_view(&school, class).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct JoinCodeChange {
    /// A new code, or none any more.
    on: bool,
}

/// Makes a new code to join by, or ends it.
#[utoipa::path(path = "/api/classes/{id}/join-code", params(("id" = Uuid, Path)), request_body = JoinCodeChange,
    responses((status = 200, body = ClassView), (status = 404, body = Problem)))]
#[put("/classes/{id}/join-code")]
pub(crate) async fn change_join_code(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<JoinCodeChange>,
) -> Result<web::Json<ClassView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let code = if body.on { Some(new_code()?) } else { None };
    store::set_join_code(&school.pool, class.id, code.as_deref()).await?;
    let did = if body.on {
        "made a code to join by"
    } else {
        "ended the code to join by"
    };
    note(&school, on_class(class.id, &who, did)).await?;
    let class = who.class(&school, class.id).await?;
    Ok(web::Json(class_view(&school, class).await?))
}

/// Who is in the class, as a file that can be taken in again.
#[utoipa::path(path = "/api/classes/{id}/people.csv", params(("id" = Uuid, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/classes/{id}/people.csv")]
pub(crate) async fn get_people_csv(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let members = store::members_of(&school.pool, class.id).await?;
    let mut rows = vec![vec![
        "Name".to_owned(),
        "User name".to_owned(),
        "Group".to_owned(),
    ]];
    let students = members
        .iter()
        .filter(|m| m.role == MemberRole::Student && m.left_at.is_none());
    rows.extend(students.map(|m| {
        vec![
            cell(&m.person.display_name),
            cell(&m.person.user_name),
            cell(m.group.as_deref().unwrap_or_default()),
        ]
    }));
    csv_file("class.csv", rows)
}
