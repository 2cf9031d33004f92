//! The starting point of a class, as its teacher sees it.

use actix_web::{HttpResponse, get, post, web};
use coursework::{Stratum, strata_after};
use school::School;
use school::placing::graph_of;
use school::title_of;
use serde::{Deserialize, Serialize};
use store::{Act, MemberRole, PersonId, StoredPlacing};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::{note, on_class};
use crate::api::start::{StratumView, in_order, likely};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// How the class stands at its start.
#[derive(Serialize, ToSchema)]
pub(crate) struct ClassStartView {
    /// By name.
    students: Vec<StartedStudent>,
    /// In the order of what builds on what, each with how many of those who are done know it.
    skills: Vec<ClassStartSkill>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StartedStudent {
    id: Uuid,
    name: String,
    standing: StartedStanding,
    /// They may do it again, and have not begun to.
    again: bool,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "standing", rename_all = "snake_case")]
pub(crate) enum StartedStanding {
    NotBegun,
    UnderWay,
    Done {
        #[serde(with = "time::serde::rfc3339")]
        at: OffsetDateTime,
        skills: Vec<StartedSkill>,
    },
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StartedSkill {
    skill: String,
    stratum: StratumView,
    /// How likely it is known, 0 to 100.
    likely: u8,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassStartSkill {
    id: String,
    title: String,
    known: usize,
    next: usize,
    far_off: usize,
}

fn standing(placing: Option<&StoredPlacing>) -> Result<StartedStanding, ApiError> {
    let Some(placing) = placing else {
        return Ok(StartedStanding::NotBegun);
    };
    let (Some(at), Some(picture)) = (placing.ended_at, &placing.picture) else {
        return Ok(StartedStanding::UnderWay);
    };
    let graph = graph_of(&placing.skills)?;
    let known = in_order(&graph, picture);
    let strata = strata_after(&graph, &known);
    let one = |((name, p), stratum): ((&str, &f64), &Stratum)| StartedSkill {
        skill: name.to_owned(),
        stratum: (*stratum).into(),
        likely: likely(*p),
    };
    Ok(StartedStanding::Done {
        at,
        skills: graph.names().zip(&known).zip(&strata).map(one).collect(),
    })
}

fn skills(students: &[StartedStudent]) -> Vec<ClassStartSkill> {
    let mut all: Vec<ClassStartSkill> = Vec::new();
    for student in students {
        let StartedStanding::Done { skills, .. } = &student.standing else {
            continue;
        };
        for skill in skills {
            let place = all.iter().position(|s| s.id == skill.skill).unwrap_or_else(|| {
                all.push(ClassStartSkill {
                    id: skill.skill.clone(),
                    title: title_of(&skill.skill),
                    known: 0,
                    next: 0,
                    far_off: 0,
                });
                all.len() - 1
            });
            if let Some(line) = all.get_mut(place) {
                match skill.stratum {
                    StratumView::Known => line.known += 1,
                    StratumView::Next => line.next += 1,
                    StratumView::FarOff => line.far_off += 1,
                }
            }
        }
    }
    all
}

/// What the starting points of a class came to.
#[utoipa::path(path = "/api/classes/{id}/start", params(("id" = Uuid, Path)),
    responses((status = 200, body = ClassStartView), (status = 404, body = Problem)))]
#[get("/classes/{id}/start")]
pub(crate) async fn get_class_start(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ClassStartView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let placings = store::placings_in(&school.pool, class.id, None).await?;
    let mut students = Vec::new();
    for member in store::members_of(&school.pool, class.id).await? {
        if member.role != MemberRole::Student || member.left_at.is_some() {
            continue;
        }
        let placing = placings.iter().find(|p| p.person == member.person.id);
        students.push(StartedStudent {
            id: member.person.id.0,
            name: member.person.display_name,
            standing: standing(placing)?,
            again: placing.is_some_and(|p| p.again),
        });
    }
    Ok(web::Json(ClassStartView {
        skills: skills(&students),
        students,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct AgainRequest {
    /// One student; left out for all who are done.
    #[serde(default)]
    student: Option<Uuid>,
}

/// Lets one student, or all who are done, do the starting point again. What they know by now stands until they have.
#[utoipa::path(path = "/api/classes/{id}/start/again", params(("id" = Uuid, Path)), request_body = AgainRequest,
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/classes/{id}/start/again")]
pub(crate) async fn start_again(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<AgainRequest>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let students =
        store::place_again(&school.pool, class.id, body.student.map(PersonId), school.now()).await?;
    if students > 0 {
        let act = on_class(class.id, &who, "let the starting point be done again");
        let student = body.student.map(PersonId);
        note(&school, Act { student, ..act }).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}
