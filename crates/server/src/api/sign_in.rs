//! Signing in and out.

use actix_web::{HttpRequest, HttpResponse, delete, get, post, web};
use school::School;
use school::sign_in::{Tried, check_credentials, end_session, start_session};
use serde::{Deserialize, Serialize};
use store::Role;
use utoipa::ToSchema;

use crate::http::Settings;
use crate::http::auth::{SignedIn, no_cookie, session_cookie, token};
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
}

#[derive(Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum MyRole {
    Student,
    Teacher,
}

impl From<store::Person> for Me {
    fn from(p: store::Person) -> Self {
        let role = match p.role {
            Role::Student => MyRole::Student,
            Role::Teacher => MyRole::Teacher,
        };
        Me {
            user_name: p.user_name,
            display_name: p.display_name,
            role,
        }
    }
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
    let address = settings.client(&request);
    match check_credentials(&school, &address, &user_name, password).await? {
        Tried::In(person) => {
            // One that was signed in here before goes.
            if let Some(old) = token(&request) {
                end_session(&school, &old).await?;
            }
            let cookie = session_cookie(&request, start_session(&school, person.id).await?);
            Ok(HttpResponse::Ok().cookie(cookie).json(Me::from(person)))
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
pub(crate) async fn me(who: SignedIn) -> web::Json<Me> {
    web::Json(who.0.into())
}
