//! Setting work: drafts, what a change would do, giving out, copies, and exceptions for single students.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, delete, get, post, put, web};
use coursework::{Effect, Settings, from_local, setting_faults};
use school::setting::{Chosen, Resolved, plan, resolve, save, standing};
use school::{School, find_skill, title_of};
use serde::{Deserialize, Serialize};
use store::{Act, AssignmentChange, Class, SetAssignment, StoreError};
use time::{Duration, OffsetDateTime};
use utoipa::ToSchema;
use uuid::Uuid;

use super::settings_form::{SetKind, SettingsForm};
use super::{note, on_class};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

const LONGEST_TITLE: usize = 80;
/// Questions of one assignment.
const MOST_QUESTIONS: usize = 100;
const MOST_POINTS: u32 = 100;

/// The assignments of a class, as its teacher has them.
#[derive(Serialize, ToSchema)]
pub(crate) struct SetWorkView {
    class_title: String,
    time_zone: String,
    assignments: Vec<SetWorkHead>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SetWorkHead {
    id: Uuid,
    title: String,
    kind: SetKind,
    given_out: bool,
    counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    for_groups: Vec<String>,
    /// How many single students it is for.
    for_people: usize,
}

/// The work set in a class, drafts included.
#[utoipa::path(path = "/api/classes/{id}/assignments", params(("id" = Uuid, Path)),
    responses((status = 200, body = SetWorkView), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments")]
pub(crate) async fn get_set_work(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<SetWorkView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let columns = store::sheet_columns(&school.pool, class.id).await?;
    let head = |c: store::SheetColumn| SetWorkHead {
        id: c.id,
        title: c.title,
        kind: c.settings.kind.into(),
        given_out: c.given_out,
        counts: c.settings.counts,
        opens: c.settings.opens,
        due: c.settings.due,
        for_groups: c.for_groups,
        for_people: c.for_people.len(),
    };
    Ok(web::Json(SetWorkView {
        class_title: class.title,
        time_zone: class.time_zone,
        assignments: columns.into_iter().map(head).collect(),
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct NewAssignment {
    title: String,
    kind: SetKind,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MadeAssignment {
    pub id: Uuid,
}

fn checked_title(title: &str) -> Result<&str, ApiError> {
    let title = title.trim();
    if title.is_empty() || title.chars().count() > LONGEST_TITLE || title.chars().any(char::is_control) {
        return Err(ApiError::Unusable(
            "An assignment has a title, of 80 characters at most.".into(),
        ));
    }
    Ok(title)
}

/// A preset: opens now, and is due at the end of the day in a week, on the class's clock.
fn preset(kind: SetKind, class: &Class, now: OffsetDateTime) -> Result<Settings, ApiError> {
    let inside = |e: coursework::CalendarFault| ApiError::Inside(e.to_string());
    let in_a_week = coursework::to_local(now + Duration::days(7), &class.time_zone).map_err(inside)?;
    let day = in_a_week.get(..10).unwrap_or_default();
    let due = from_local(&format!("{day}T23:59"), &class.time_zone).map_err(inside)?;
    // Whole minutes, as the form shows them.
    let opens = OffsetDateTime::from_unix_timestamp(now.unix_timestamp() / 60 * 60).unwrap_or(now);
    Ok(match kind {
        SetKind::Homework => Settings::homework(opens, due),
        SetKind::Quiz => Settings::quiz(opens, due),
        SetKind::Practice => Settings {
            kind: coursework::Kind::Practice,
            counts: false,
            max_attempts: None,
            max_sets: None,
            ..Settings::homework(opens, due)
        },
        SetKind::Reading => Settings {
            kind: coursework::Kind::Reading,
            ..Settings::homework(opens, due)
        },
    })
}

/// Makes a draft from a preset.
#[utoipa::path(path = "/api/classes/{id}/assignments", params(("id" = Uuid, Path)), request_body = NewAssignment,
    responses((status = 200, body = MadeAssignment), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/assignments")]
pub(crate) async fn make_assignment(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<NewAssignment>,
) -> Result<web::Json<MadeAssignment>, ApiError> {
    let class = who.class(&school, *id).await?;
    let settings = preset(body.kind, &class, school.now())?;
    let change = AssignmentChange {
        title: checked_title(&body.title)?,
        settings: &settings,
        for_groups: &[],
        for_people: &[],
        questions: &[],
    };
    let id = store::create_assignment(&school.pool, class.id, &change).await?;
    Ok(web::Json(MadeAssignment { id }))
}

/// An assignment as its teacher edits it.
#[derive(Serialize, ToSchema)]
pub(crate) struct AssignmentForm {
    id: Uuid,
    class_id: Uuid,
    class_title: String,
    time_zone: String,
    title: String,
    given_out: bool,
    settings: SettingsForm,
    questions: Vec<FormQuestion>,
    for_groups: Vec<String>,
    for_people: Vec<Uuid>,
    /// Students who have opened it, and who have handed something in.
    begun: usize,
    handed_in: usize,
    version: i32,
    /// What does not fit together, or is missing.
    faults: Vec<FaultView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct FormQuestion {
    id: String,
    title: String,
    skills: Vec<String>,
    points: u32,
    /// What the question itself says it is worth.
    own_points: u32,
    /// Tries on one set, where they differ.
    tries: Option<u32>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct FaultView {
    field: String,
    words: String,
}

fn faults(settings: &Settings, questions: &Resolved) -> Vec<FaultView> {
    let mut all: Vec<FaultView> = setting_faults(settings, questions.set.len())
        .into_iter()
        .map(|f| FaultView {
            field: f.field.to_owned(),
            words: f.words,
        })
        .collect();
    let goal = settings.goal.as_ref();
    if let Some(fault) = goal.and_then(|g| g.check(|skill| find_skill(skill).is_some()).err()) {
        all.push(FaultView {
            field: "goal".into(),
            words: format!("Its goal: {fault}."),
        });
    }
    all
}

async fn form(school: &School, class: &Class, seen: &SetAssignment) -> Result<AssignmentForm, ApiError> {
    let questions = standing(school, seen).await?;
    let view =
        |(at, (set, q)): (usize, (&store::SetQuestion, &std::sync::Arc<marking::Question>))| FormQuestion {
            id: q.id.clone(),
            title: q.title.clone(),
            skills: q.skills.iter().map(|s| title_of(s)).collect(),
            points: set.points.unwrap_or(q.points),
            own_points: q.points,
            tries: seen.settings.question_attempts.get(&at).copied(),
        };
    Ok(AssignmentForm {
        id: seen.id,
        class_id: class.id,
        class_title: class.title.clone(),
        time_zone: class.time_zone.clone(),
        title: seen.title.clone(),
        given_out: seen.given_out,
        settings: SettingsForm::of(&seen.settings, &class.time_zone)?,
        questions: questions
            .set
            .iter()
            .zip(&questions.questions)
            .enumerate()
            .map(view)
            .collect(),
        for_groups: seen.for_groups.clone(),
        for_people: seen.for_people.clone(),
        begun: seen.begun,
        handed_in: seen.handed_in,
        version: seen.version,
        faults: faults(&seen.settings, &questions),
    })
}

/// An assignment of a class that this teacher teaches.
pub(super) async fn find(
    school: &School,
    who: &Teacher,
    class: Uuid,
    id: Uuid,
) -> Result<(Class, SetAssignment), ApiError> {
    let class = who.class(school, class).await?;
    let found = store::find_set_assignment(&school.pool, id).await?;
    let found = found.filter(|a| a.class == class.id).ok_or(ApiError::NotFound)?;
    Ok((class, found))
}

pub(super) type Place = web::Path<(Uuid, Uuid)>;

/// An assignment as its teacher edits it.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = AssignmentForm), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments/{assignment}")]
pub(crate) async fn get_assignment(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
) -> Result<web::Json<AssignmentForm>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    Ok(web::Json(form(&school, &class, &seen).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct AssignmentEdit {
    title: String,
    settings: SettingsForm,
    questions: Vec<EditQuestion>,
    #[serde(default)]
    for_groups: Vec<String>,
    #[serde(default)]
    for_people: Vec<Uuid>,
    /// The version that was edited: what somebody else saved meanwhile is not written over.
    version: i32,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct EditQuestion {
    id: String,
    points: u32,
    #[serde(default)]
    tries: Option<u32>,
}

/// An edit, read and with its questions found.
struct Read {
    settings: Settings,
    questions: Resolved,
}

async fn read(
    school: &School,
    class: &Class,
    seen: &SetAssignment,
    edit: &AssignmentEdit,
) -> Result<Read, ApiError> {
    let refuse = |words: &str| Err(ApiError::Unusable(words.into()));
    if edit.questions.len() > MOST_QUESTIONS {
        return refuse("An assignment has 100 questions at most.");
    }
    if edit
        .questions
        .iter()
        .any(|q| q.points == 0 || q.points > MOST_POINTS)
    {
        return refuse("A question is worth 1 to 100 points.");
    }
    let mut ids: Vec<&str> = edit.questions.iter().map(|q| q.id.as_str()).collect();
    ids.sort_unstable();
    if ids.windows(2).any(|w| w.first() == w.last()) {
        return refuse("A question is in it twice. Remove one.");
    }
    let members = store::members_of(&school.pool, class.id).await?;
    if edit
        .for_people
        .iter()
        .any(|p| !members.iter().any(|m| m.person.id.0 == *p))
    {
        return refuse("Somebody it is for is not in this class.");
    }
    let tries: BTreeMap<usize, u32> = edit
        .questions
        .iter()
        .enumerate()
        .filter_map(|(at, q)| Some((at, q.tries?)))
        .collect();
    let settings = edit.settings.settings(&class.time_zone, tries)?;
    let chosen: Vec<Chosen> = edit
        .questions
        .iter()
        .map(|q| Chosen {
            slug: q.id.clone(),
            points: Some(q.points),
        })
        .collect();
    match resolve(school, Some(seen), &chosen).await? {
        Ok(questions) => Ok(Read { settings, questions }),
        Err(slug) => Err(ApiError::Unusable(format!(
            "There is no question `{slug}` in the bank."
        ))),
    }
}

/// What a change would do.
#[derive(Serialize, ToSchema)]
pub(crate) struct PlanView {
    /// What does not fit together, or is missing.
    faults: Vec<FaultView>,
    /// What can't be changed now that work has begun.
    refused: Vec<FaultView>,
    /// What it does to work that exists.
    effects: Vec<String>,
}

async fn plan_view(school: &School, seen: &SetAssignment, read: &Read) -> Result<PlanView, ApiError> {
    let mut view = PlanView {
        faults: faults(&read.settings, &read.questions),
        refused: Vec::new(),
        effects: Vec::new(),
    };
    for effect in plan(school, seen, &read.settings, &read.questions).await? {
        match effect {
            Effect::Refused { field, words } => view.refused.push(FaultView {
                field: field.to_owned(),
                words,
            }),
            Effect::Does(words) => view.effects.push(words),
        }
    }
    Ok(view)
}

/// Says what a change would do, and changes nothing.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/plan",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)), request_body = AssignmentEdit,
    responses((status = 200, body = PlanView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/assignments/{assignment}/plan")]
pub(crate) async fn plan_assignment(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
    edit: web::Json<AssignmentEdit>,
) -> Result<web::Json<PlanView>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    let read = read(&school, &class, &seen, &edit).await?;
    Ok(web::Json(plan_view(&school, &seen, &read).await?))
}

/// Saves an assignment. A draft may have faults; what is given out may not, and nothing a student has earned is lost.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)), request_body = AssignmentEdit,
    responses((status = 200, body = AssignmentForm), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[put("/classes/{id}/assignments/{assignment}")]
pub(crate) async fn put_assignment(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
    edit: web::Json<AssignmentEdit>,
) -> Result<web::Json<AssignmentForm>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    if seen.version != edit.version {
        return Err(StoreError::Conflict.into());
    }
    let read = read(&school, &class, &seen, &edit).await?;
    let plan = plan_view(&school, &seen, &read).await?;
    let stops = plan
        .refused
        .first()
        .or(plan.faults.first().filter(|_| seen.given_out));
    if let Some(fault) = stops {
        return Err(ApiError::Unusable(fault.words.clone()));
    }
    let change = AssignmentChange {
        title: checked_title(&edit.title)?,
        settings: &read.settings,
        for_groups: &edit.for_groups,
        for_people: &edit.for_people,
        questions: &read.questions.set,
    };
    save(&school, &seen, &change).await?;
    if seen.given_out {
        let why = plan.effects.join(" ");
        let act = on_class(class.id, &who, "changed an assignment");
        let assignment = Some(seen.id);
        note(
            &school,
            Act {
                assignment,
                why: &why,
                ..act
            },
        )
        .await?;
    }
    let (class, seen) = find(&school, &who, class.id, id).await?;
    Ok(web::Json(form(&school, &class, &seen).await?))
}

/// Gives a draft out: the students it is for see it from now on.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/give-out",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 200, body = AssignmentForm), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/assignments/{assignment}/give-out")]
pub(crate) async fn give_out(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
) -> Result<web::Json<AssignmentForm>, ApiError> {
    let (class, id) = place.into_inner();
    let (class, seen) = find(&school, &who, class, id).await?;
    let missing = faults(&seen.settings, &standing(&school, &seen).await?);
    if let Some(fault) = missing.first() {
        return Err(ApiError::Unusable(fault.words.clone()));
    }
    store::give_out(&school.pool, seen.id).await?;
    let act = on_class(class.id, &who, "gave out an assignment");
    let assignment = Some(seen.id);
    note(&school, Act { assignment, ..act }).await?;
    let (class, seen) = find(&school, &who, class.id, id).await?;
    Ok(web::Json(form(&school, &class, &seen).await?))
}

/// Deletes a draft. What was given out stays.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}",
    params(("id" = Uuid, Path), ("assignment" = Uuid, Path)),
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[delete("/classes/{id}/assignments/{assignment}")]
pub(crate) async fn delete_assignment(
    school: web::Data<School>,
    who: Teacher,
    place: Place,
) -> Result<HttpResponse, ApiError> {
    let (class, id) = place.into_inner();
    let (_, seen) = find(&school, &who, class, id).await?;
    if !store::delete_draft(&school.pool, seen.id).await? {
        return Err(ApiError::Unusable(
            "It was given out, so it stays. Close it earlier if nobody is to work on it.".into(),
        ));
    }
    Ok(HttpResponse::NoContent().finish())
}
