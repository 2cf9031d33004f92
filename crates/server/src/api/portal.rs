//! Portals: who one is who comes from one, which class a course is, and how scores stand on their way.

use actix_web::{HttpRequest, HttpResponse, delete, get, post, web};
use school::School;
use school::portal::{self, Arrived, Platform};
use school::sign_in::{ComesFrom, Tried, check_credentials};
use serde::{Deserialize, Serialize};
use store::{Act, PersonId, ScoreInPortal, UnsettledScore};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::classes::{note, on_class};
use crate::http::Settings;
use crate::http::auth::{SignedIn, Teacher, arrival, arrival_cookie, known_here, session_cookie};
use crate::http::error::{ApiError, Problem};
use crate::lti::{no_class_words, not_vouched_for_words, taken_out_words, way_of};

/// Somebody came from a portal, and something has to be said.
#[derive(Serialize, ToSchema)]
pub(crate) struct ArrivalView {
    portal: String,
    /// What the portal calls them.
    name: String,
    course: String,
    teaches: bool,
}

/// Where it goes from here, or why it does not.
#[derive(Serialize, ToSchema)]
pub(crate) struct OnView {
    to: Option<String>,
    why: Option<String>,
}

fn on(request: &HttpRequest, arrived: Arrived) -> HttpResponse {
    let mut response = HttpResponse::Ok();
    let stays = |words: String| OnView {
        to: None,
        why: Some(words),
    };
    let view = match arrived {
        Arrived::In { session, to } => {
            response.cookie(session_cookie(request, session));
            response.cookie(arrival_cookie(request, String::new()));
            OnView {
                to: Some(to),
                why: None,
            }
        }
        Arrived::Asked {
            session,
            arrival,
            kind,
        } => {
            if let Some(session) = session {
                response.cookie(session_cookie(request, session));
            }
            response.cookie(arrival_cookie(request, arrival));
            OnView {
                to: Some(way_of(kind).to_owned()),
                why: None,
            }
        }
        Arrived::NoClass { portal, course } => stays(no_class_words(&portal, &course)),
        Arrived::NotVouchedFor { portal, course } => stays(not_vouched_for_words(&portal, &course)),
        Arrived::TakenOut { class } => stays(taken_out_words(&class)),
    };
    response.json(view)
}

/// Who came from a portal with this browser.
#[utoipa::path(path = "/api/arrival", responses((status = 200, body = ArrivalView), (status = 404, body = Problem)))]
#[get("/arrival")]
pub(crate) async fn get_arrival(
    school: web::Data<School>,
    request: HttpRequest,
) -> Result<web::Json<ArrivalView>, ApiError> {
    let (portal, came) = portal::look(&school, &arrival(&request)?).await?;
    Ok(web::Json(ArrivalView {
        portal: portal.name,
        name: came.name,
        course: came.context.map(|c| c.title).unwrap_or_default(),
        teaches: came.role == lti::Role::Teacher,
    }))
}

/// Somebody who came from a portal has no account here yet.
#[utoipa::path(path = "/api/arrival/new", responses((status = 200, body = OnView), (status = 404, body = Problem)))]
#[post("/arrival/new")]
pub(crate) async fn arrive_as_new(
    school: web::Data<School>,
    request: HttpRequest,
) -> Result<HttpResponse, ApiError> {
    let arrived = portal::on_as_new(&school, &arrival(&request)?).await?;
    Ok(on(&request, arrived))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct JoinAccount {
    user_name: String,
    password: String,
}

/// Somebody who came from a portal signs in once to the account that they have.
#[utoipa::path(path = "/api/arrival/join", request_body = JoinAccount, responses((status = 200, body = OnView),
    (status = 401, body = Problem), (status = 404, body = Problem), (status = 429, body = Problem)))]
#[post("/arrival/join")]
pub(crate) async fn arrive_by_joining(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    body: web::Json<JoinAccount>,
) -> Result<HttpResponse, ApiError> {
    let JoinAccount { user_name, password } = body.into_inner();
    let token = arrival(&request)?;
    portal::look(&school, &token).await?;
    if user_name.len() > 200 || password.len() > 1_000 || user_name.contains('\0') {
        return Err(ApiError::SignInFailed);
    }
    let (address, known) = (settings.client(&request), known_here(&request));
    let from = ComesFrom {
        address: &address,
        known: known.as_deref(),
    };
    match check_credentials(&school, from, &user_name, password).await? {
        Tried::In(person) => Ok(on(&request, portal::on_joined(&school, &token, person).await?)),
        Tried::Wrong => Err(ApiError::SignInFailed),
        Tried::TooMany(free) => {
            let wait = (free - school.now()).whole_seconds().saturating_add(1);
            Err(ApiError::TooManySignIns {
                wait_seconds: wait.clamp(1, 600),
            })
        }
    }
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct ChooseClass {
    class: Uuid,
}

/// A teacher who came from a portal says which class of theirs the course is.
#[utoipa::path(path = "/api/arrival/class", request_body = ChooseClass,
    responses((status = 200, body = OnView), (status = 404, body = Problem)))]
#[post("/arrival/class")]
pub(crate) async fn arrive_with_class(
    school: web::Data<School>,
    request: HttpRequest,
    who: Teacher,
    body: web::Json<ChooseClass>,
) -> Result<HttpResponse, ApiError> {
    let arrived = portal::chose_class(&school, &arrival(&request)?, who.0.id, body.class).await?;
    Ok(on(&request, arrived))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PickingView {
    portal: String,
    course: String,
    /// The portal takes more than one at once.
    several: bool,
    assignments: Vec<PickableView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PickableView {
    id: Uuid,
    title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    points: u32,
}

/// What a teacher who came from a portal can pick for it.
#[utoipa::path(path = "/api/arrival/pick", responses((status = 200, body = PickingView), (status = 404, body = Problem)))]
#[get("/arrival/pick")]
pub(crate) async fn get_pickable(
    school: web::Data<School>,
    request: HttpRequest,
    who: Teacher,
) -> Result<web::Json<PickingView>, ApiError> {
    let token = arrival(&request)?;
    let (portal, _) = portal::look(&school, &token).await?;
    let (came, all) = portal::pickable(&school, &token, who.0.id).await?;
    let view = |p: portal::Pickable| PickableView {
        id: p.id,
        title: p.title,
        due: p.due,
        points: p.points,
    };
    Ok(web::Json(PickingView {
        portal: portal.name,
        course: came.context.map(|c| c.title).unwrap_or_default(),
        several: came.picking.is_some_and(|p| p.accept_multiple),
        assignments: all.into_iter().map(view).collect(),
    }))
}

/// Where a recorded score is on its way to a portal.
#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum OnItsWay {
    There,
    Waiting,
    /// Until the results are out.
    Held,
    GivenUp,
    /// The portal does not know this student.
    Unknown,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PortalScoreView {
    assignment: Uuid,
    portal: String,
    state: OnItsWay,
    #[serde(with = "time::serde::rfc3339")]
    since: OffsetDateTime,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PortalScoresView {
    scores: Vec<PortalScoreView>,
}

fn score_view(s: ScoreInPortal) -> PortalScoreView {
    let state = match () {
        () if s.sent >= s.wanted => OnItsWay::There,
        () if s.given_up => OnItsWay::GivenUp,
        () if s.held => OnItsWay::Held,
        () => OnItsWay::Waiting,
    };
    PortalScoreView {
        assignment: s.assignment,
        portal: s.portal,
        since: match (state, s.sent_at) {
            (OnItsWay::There, Some(at)) => at,
            _ => s.wanted_at,
        },
        state,
    }
}

/// Where one's recorded scores are on their way to a portal.
#[utoipa::path(path = "/api/portal-scores", responses((status = 200, body = PortalScoresView), (status = 401, body = Problem)))]
#[get("/portal-scores")]
pub(crate) async fn get_portal_scores(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<PortalScoresView>, ApiError> {
    let all = store::scores_in_portals(&school.pool, who.0.id).await?;
    Ok(web::Json(PortalScoresView {
        scores: all.into_iter().map(score_view).collect(),
    }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassPortalView {
    courses: Vec<PortalCourseView>,
    lines: Vec<PortalLineView>,
    unsettled: Vec<UnsettledView>,
}

/// A course of a portal that this class is.
#[derive(Serialize, ToSchema)]
pub(crate) struct PortalCourseView {
    id: Uuid,
    portal: String,
    title: String,
    /// The portal gives lists of members.
    has_list: bool,
    #[serde(with = "time::serde::rfc3339::option")]
    asked_at: Option<OffsetDateTime>,
    asked_answer: Option<String>,
}

/// An assignment that has a column in the portal's grade book.
#[derive(Serialize, ToSchema)]
pub(crate) struct PortalLineView {
    assignment: Uuid,
    title: String,
}

/// A score that is not in the portal as it is here.
#[derive(Serialize, ToSchema)]
pub(crate) struct UnsettledView {
    line: Uuid,
    student: Uuid,
    name: String,
    title: String,
    state: OnItsWay,
    #[serde(with = "time::serde::rfc3339")]
    since: OffsetDateTime,
    /// What the portal said last.
    answer: Option<String>,
}

fn unsettled_view(s: UnsettledScore) -> UnsettledView {
    UnsettledView {
        line: s.line,
        student: s.student.0,
        name: s.name,
        title: s.title,
        state: match () {
            () if !s.known => OnItsWay::Unknown,
            () if s.given_up => OnItsWay::GivenUp,
            () if s.held => OnItsWay::Held,
            () => OnItsWay::Waiting,
        },
        since: s.wanted_at,
        answer: s.answer,
    }
}

async fn class_portal(school: &School, class: Uuid) -> Result<ClassPortalView, ApiError> {
    let pool = &school.pool;
    let course = |c: store::PortalCourse| PortalCourseView {
        id: c.id,
        portal: c.portal_name,
        title: c.title,
        has_list: c.memberships_url.is_some(),
        asked_at: c.asked_at,
        asked_answer: c.asked_answer,
    };
    let line = |l: store::PortalLine| PortalLineView {
        assignment: l.assignment,
        title: l.title,
    };
    Ok(ClassPortalView {
        courses: store::courses_of_class(pool, class)
            .await?
            .into_iter()
            .map(course)
            .collect(),
        lines: store::lines_of_class(pool, class)
            .await?
            .into_iter()
            .map(line)
            .collect(),
        unsettled: store::unsettled_scores(pool, class)
            .await?
            .into_iter()
            .map(unsettled_view)
            .collect(),
    })
}

/// A class and its portal: courses, columns of the grade book, and scores that are not there as they are here.
#[utoipa::path(path = "/api/classes/{id}/portal", params(("id" = Uuid, Path)),
    responses((status = 200, body = ClassPortalView), (status = 404, body = Problem)))]
#[get("/classes/{id}/portal")]
pub(crate) async fn get_class_portal(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ClassPortalView>, ApiError> {
    let class = who.class(&school, *id).await?;
    Ok(web::Json(class_portal(&school, class.id).await?))
}

fn portal_said(error: Platform) -> ApiError {
    match error {
        Platform::School(error) => error.into(),
        Platform::Away(words) => ApiError::PortalAway(format!(
            "The portal does not answer just now: {words}. Try again later."
        )),
        Platform::Refused { words, status } => {
            ApiError::PortalAway(format!("The portal refused this ({status}): {words}"))
        }
    }
}

/// What a portal's list changed in a class.
#[derive(Serialize, ToSchema)]
pub(crate) struct ListTakenView {
    came: Vec<String>,
    left: Vec<String>,
    /// Their account is joined when they come from the portal and sign in once.
    to_be_joined: Vec<String>,
}

/// Asks the portal for the class list now.
#[utoipa::path(path = "/api/classes/{id}/portal/members", params(("id" = Uuid, Path)),
    responses((status = 200, body = ListTakenView), (status = 404, body = Problem), (status = 502, body = Problem)))]
#[post("/classes/{id}/portal/members")]
pub(crate) async fn ask_portal_members(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ListTakenView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let mut all = ListTakenView {
        came: Vec::new(),
        left: Vec::new(),
        to_be_joined: Vec::new(),
    };
    for course in store::courses_of_class(&school.pool, class.id).await? {
        let asked = portal::ask_members(&school, &course).await.map_err(portal_said)?;
        all.came.extend(asked.came);
        all.left.extend(asked.left);
        all.to_be_joined.extend(asked.to_be_joined);
    }
    let why = format!("{} came, {} left", all.came.len(), all.left.len());
    let did = "took the class list from the portal";
    note(
        &school,
        Act {
            why: &why,
            ..on_class(class.id, &who, did)
        },
    )
    .await?;
    Ok(web::Json(all))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ComparedView {
    differs: Vec<DiffersView>,
}

/// A score that the portal's grade book has otherwise.
#[derive(Serialize, ToSchema)]
pub(crate) struct DiffersView {
    line: Uuid,
    student: Uuid,
    name: String,
    title: String,
    /// Per cent; nothing where there is none.
    here: Option<f64>,
    there: Option<f64>,
}

/// Reads the portal's grade book beside the scores recorded here.
#[utoipa::path(path = "/api/classes/{id}/portal/compare", params(("id" = Uuid, Path)),
    responses((status = 200, body = ComparedView), (status = 404, body = Problem), (status = 502, body = Problem)))]
#[post("/classes/{id}/portal/compare")]
pub(crate) async fn compare_with_portal(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<ComparedView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let differs = portal::compare(&school, class.id).await.map_err(portal_said)?;
    let view = |d: portal::Differs| DiffersView {
        line: d.line,
        student: d.student.0,
        name: d.name,
        title: d.title,
        here: d.here,
        there: d.there,
    };
    Ok(web::Json(ComparedView {
        differs: differs.into_iter().map(view).collect(),
    }))
}

/// Which scores are sent again: one, or all of the class.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SendAgain {
    line: Option<Uuid>,
    student: Option<Uuid>,
}

/// Sends scores again, whatever was sent before.
#[utoipa::path(path = "/api/classes/{id}/portal/again", params(("id" = Uuid, Path)), request_body = SendAgain,
    responses((status = 200, body = ClassPortalView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/classes/{id}/portal/again")]
pub(crate) async fn send_scores_again(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<SendAgain>,
) -> Result<web::Json<ClassPortalView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let only = match (body.line, body.student) {
        (None, None) => None,
        (Some(line), Some(student)) => Some((line, PersonId(student))),
        _ => {
            return Err(ApiError::Unusable(
                "Name both the column and the student, or neither.".into(),
            ));
        }
    };
    let many = store::note_scores_again(&school.pool, class.id, only, school.now()).await?;
    let did = match many {
        1 => "sent a score to the portal again",
        _ => "sent scores to the portal again",
    };
    note(&school, on_class(class.id, &who, did)).await?;
    Ok(web::Json(class_portal(&school, class.id).await?))
}

/// The class is this course of the portal no longer. Who came from there stays.
#[utoipa::path(path = "/api/classes/{id}/portal/courses/{course}", params(("id" = Uuid, Path), ("course" = Uuid, Path)),
    responses((status = 200, body = ClassPortalView), (status = 404, body = Problem)))]
#[delete("/classes/{id}/portal/courses/{course}")]
pub(crate) async fn drop_portal_course(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<web::Json<ClassPortalView>, ApiError> {
    let (id, course) = path.into_inner();
    let class = who.class(&school, id).await?;
    if !store::drop_course(&school.pool, class.id, course).await? {
        return Err(ApiError::NotFound);
    }
    note(&school, on_class(class.id, &who, "ended a course of the portal")).await?;
    Ok(web::Json(class_portal(&school, class.id).await?))
}
