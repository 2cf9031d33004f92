//! Skills in a class: those its teacher suggests, how far everybody is with them, and those students wish for.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, delete, get, post, web};
use school::{Learner, School, find_skill, skills, title_of};
use serde::{Deserialize, Serialize};
use store::{Act, Member, MemberRole, PersonId, SuggestTo, Suggestion};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::units::SkillNamed;
use super::{note, on_class};
use crate::api::shared::skill::LevelView;
use crate::api::suggestions::was_reached;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

const LONGEST_WHY: usize = 300;
/// Suggestions that stand in one class.
const MOST_SUGGESTED: usize = 60;

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassSkillsView {
    suggested: Vec<ClassSuggestion>,
    /// What students wish for, the most wished first.
    wished: Vec<WishedSkill>,
    skills: Vec<SkillNamed>,
}

/// A skill that was suggested, and how far everybody is whom it is for.
#[derive(Serialize, ToSchema)]
pub(crate) struct ClassSuggestion {
    id: Uuid,
    skill: String,
    title: String,
    why: String,
    by: String,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    /// A group's name or a student's; nothing for the whole class.
    only: Option<String>,
    reached: usize,
    /// By name.
    students: Vec<SuggestedStudent>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SuggestedStudent {
    id: Uuid,
    name: String,
    level: LevelView,
    score: u8,
    reached: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct WishedSkill {
    skill: String,
    title: String,
    students: Vec<String>,
}

/// Suggests a skill to the class, a group of it, or one student.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SuggestRequest {
    skill: String,
    #[serde(default)]
    group: Option<String>,
    #[serde(default)]
    student: Option<Uuid>,
    #[serde(default)]
    why: String,
}

async fn students(school: &School, class: Uuid) -> Result<Vec<Member>, ApiError> {
    let mut members = store::members_of(&school.pool, class).await?;
    members.retain(|m| m.role == MemberRole::Student && m.left_at.is_none());
    Ok(members)
}

fn suggestion(
    suggestion: Suggestion,
    members: &[Member],
    learners: &BTreeMap<Uuid, Learner>,
) -> ClassSuggestion {
    let only = match (&suggestion.group, suggestion.student) {
        (Some(group), _) => Some(group.clone()),
        (None, Some(student)) => {
            let found = members.iter().find(|m| m.person.id == student);
            Some(found.map_or_else(|| "a student who left".into(), |m| m.person.display_name.clone()))
        }
        (None, None) => None,
    };
    let mut students = Vec::new();
    for member in members {
        if !suggestion.is_for(member.person.id, member.group.as_deref()) {
            continue;
        }
        let Some(learner) = learners.get(&member.person.id.0) else {
            continue;
        };
        let mastery = learner.mastery(&suggestion.skill);
        students.push(SuggestedStudent {
            id: member.person.id.0,
            name: member.person.display_name.clone(),
            level: mastery.level.into(),
            score: mastery.score,
            reached: was_reached(learner, &suggestion.skill),
        });
    }
    ClassSuggestion {
        id: suggestion.id,
        title: title_of(&suggestion.skill),
        skill: suggestion.skill,
        why: suggestion.why,
        by: suggestion.by,
        at: suggestion.at,
        only,
        reached: students.iter().filter(|s| s.reached).count(),
        students,
    }
}

/// Skills in a class: suggested with how far everybody is, and wished for.
#[utoipa::path(path = "/api/classes/{id}/skills", params(("id" = Uuid, Path)),
    responses((status = 200, body = ClassSkillsView), (status = 404, body = Problem)))]
#[get("/classes/{id}/skills")]
pub(crate) async fn get_class_skills(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ClassSkillsView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let members = students(&school, class.id).await?;
    let suggestions = store::suggestions_in(&school.pool, class.id).await?;
    let mut learners = BTreeMap::new();
    for member in &members {
        let asked = suggestions
            .iter()
            .any(|s| s.is_for(member.person.id, member.group.as_deref()));
        if asked {
            learners.insert(
                member.person.id.0,
                Learner::load(&school, member.person.id).await?,
            );
        }
    }
    let wished = store::wishes_in(&school.pool, class.id).await?;
    let wish = |(skill, students): (String, Vec<String>)| WishedSkill {
        title: title_of(&skill),
        skill,
        students,
    };
    let mut wished: Vec<WishedSkill> = wished.into_iter().map(wish).collect();
    wished.sort_by_key(|w| std::cmp::Reverse(w.students.len()));
    let all = suggestions.into_iter();
    Ok(web::Json(ClassSkillsView {
        suggested: all.map(|s| suggestion(s, &members, &learners)).collect(),
        wished,
        skills: skills().iter().map(SkillNamed::of).collect(),
    }))
}

/// Suggests a skill, with a word why. It stands with the students until they have reached it.
#[utoipa::path(path = "/api/classes/{id}/skills", params(("id" = Uuid, Path)), request_body = SuggestRequest,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/skills")]
pub(crate) async fn suggest(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<SuggestRequest>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let refuse = |words: &str| Err(ApiError::Unusable(words.into()));
    let Some(skill) = find_skill(&body.skill) else {
        return refuse("There is no such skill.");
    };
    let why = body.why.trim();
    if why.chars().count() > LONGEST_WHY || why.contains('\0') {
        return refuse("The reason is too long: 300 characters at most.");
    }
    let members = students(&school, class.id).await?;
    let group = body.group.as_deref();
    if group.is_some() && body.student.is_some() {
        return refuse("Suggest it to a group or to a student.");
    }
    if group.is_some_and(|g| !members.iter().any(|m| m.group.as_deref() == Some(g)))
        || body
            .student
            .is_some_and(|s| !members.iter().any(|m| m.person.id.0 == s))
    {
        return refuse("Choose a group or a student of this class.");
    }
    let to = SuggestTo {
        class: class.id,
        group,
        student: body.student.map(PersonId),
    };
    let standing = store::suggestions_in(&school.pool, class.id).await?;
    let same =
        |s: &&Suggestion| s.skill == skill.id && s.group.as_deref() == group && s.student == to.student;
    if standing.iter().any(|s| same(&s)) {
        return refuse("This is suggested to them already.");
    }
    if standing.len() >= MOST_SUGGESTED {
        return refuse("There can be 60 suggestions at most: withdraw some first.");
    }
    store::suggest_skill(&school.pool, to, &skill.id, why, who.0.id, school.now()).await?;
    let did = match group {
        Some(group) => format!("suggested “{}” to {group}", skill.title),
        None => format!("suggested “{}”", skill.title),
    };
    let act = on_class(class.id, &who, &did);
    let student = to.student;
    note(&school, Act { student, why, ..act }).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Takes a suggestion back.
#[utoipa::path(path = "/api/classes/{id}/skills/{suggestion}",
    params(("id" = Uuid, Path), ("suggestion" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/classes/{id}/skills/{suggestion}")]
pub(crate) async fn take_suggestion_back(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, suggestion) = path.into_inner();
    let class = who.class(&school, id).await?;
    if !store::drop_suggestion(&school.pool, class.id, suggestion).await? {
        return Err(ApiError::NotFound);
    }
    Ok(HttpResponse::NoContent().finish())
}
