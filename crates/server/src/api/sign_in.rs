//! Signing in and out.

use actix_web::{HttpRequest, HttpResponse, delete, get, post, web};
use school::School;
use school::sign_in::{ComesFrom, Tried, check_credentials, end_session, remember, start_session};
use serde::{Deserialize, Serialize};
use store::Role;
use utoipa::ToSchema;

use crate::http::Settings;
use crate::http::auth::{SignedIn, known_cookie, known_here, no_cookie, session_cookie, token};
use crate::http::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct Credentials {
    user_name: String,
    password: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct Me {
    user_name: String,
    display_name: String,
    role: MyRole,
    /// They are in some class as a student, whatever they teach.
    studies: bool,
    /// A teacher who looks at everything as a made-up student.
    as_student: bool,
    /// The few lines of a first sign-in were read.
    welcomed: bool,
    /// Messages that were not read yet.
    unread: i64,
}

#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum MyRole {
    Student,
    Teacher,
}

async fn me_view(school: &School, p: store::Person, as_student: bool) -> Result<Me, ApiError> {
    let role = match p.role {
        Role::Student => MyRole::Student,
        Role::Teacher => MyRole::Teacher,
    };
    let welcomed = store::is_welcomed(&school.pool, p.id).await?;
    let id = p.id;
    let studies = role == MyRole::Student || store::studies(&school.pool, p.id).await?;
    Ok(Me {
        studies,
        user_name: p.user_name,
        display_name: p.display_name,
        role,
        as_student,
        welcomed,
        unread: store::unread_messages(&school.pool, id).await?,
    })
}

/// Signs in.
#[utoipa::path(path = "/api/session", request_body = Credentials,
    responses((status = 200, body = Me), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[post("/session")]
pub(crate) async fn sign_in(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    body: web::Json<Credentials>,
) -> Result<HttpResponse, ApiError> {
    let Credentials { user_name, password } = body.into_inner();
    if user_name.len() > 200 || password.len() > 1_000 || user_name.contains('\0') {
        return Err(ApiError::SignInFailed);
    }
    let (address, known) = (settings.client(&request), known_here(&request));
    let from = ComesFrom {
        address: &address,
        known: known.as_deref(),
    };
    match check_credentials(&school, from, &user_name, password).await? {
        Tried::In(person) => {
            // One that was signed in here before goes.
            if let Some(old) = token(&request) {
                end_session(&school, &old).await?;
            }
            let cookie = session_cookie(&request, start_session(&school, person.id).await?);
            let known = remember(&school, known.as_deref(), &person.user_name).await?;
            let signed_in = me_view(&school, person, false).await?;
            let known = known_cookie(&request, known);
            Ok(HttpResponse::Ok().cookie(cookie).cookie(known).json(signed_in))
        }
        Tried::Wrong => Err(ApiError::SignInFailed),
        Tried::TooMany(free) => {
            let wait = (free - school.now()).whole_seconds().saturating_add(1);
            Err(ApiError::TooManySignIns {
                wait_seconds: wait.clamp(1, 600),
            })
        }
    }
}

/// Signs out.
#[utoipa::path(path = "/api/session", responses((status = 204), (status = 503, body = Problem)))]
#[delete("/session")]
pub(crate) async fn sign_out(
    school: web::Data<School>,
    request: HttpRequest,
) -> Result<HttpResponse, ApiError> {
    if let Some(token) = token(&request) {
        end_session(&school, &token).await?;
    }
    Ok(HttpResponse::NoContent().cookie(no_cookie(&request)).finish())
}

/// Who is signed in.
#[utoipa::path(path = "/api/me", responses((status = 200, body = Me), (status = 401, body = Problem)))]
#[get("/me")]
pub(crate) async fn me(
    school: web::Data<School>,
    who: SignedIn,
    request: HttpRequest,
) -> Result<web::Json<Me>, ApiError> {
    let as_student = super::welcome::acts_as_student(&school, &request).await?;
    Ok(web::Json(me_view(&school, who.0, as_student).await?))
}
