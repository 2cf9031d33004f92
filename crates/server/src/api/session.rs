use actix_web::{HttpRequest, HttpResponse, delete, get, post, web};
use serde::{Deserialize, Serialize};
use store::Role;
use utoipa::ToSchema;

use crate::Site;
use crate::auth::{SignedIn, check_credentials, end_session, start_session};
use crate::error::{ApiError, Problem};

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
    site: web::Data<Site>,
    request: HttpRequest,
    body: web::Json<Credentials>,
) -> Result<HttpResponse, ApiError> {
    let address = request
        .peer_addr()
        .map_or_else(|| "unknown".to_owned(), |a| a.ip().to_string());
    let Credentials { user_name, password } = body.into_inner();
    if user_name.len() > 200 || password.len() > 1_000 || user_name.contains('\0') {
        return Err(ApiError::SignInFailed);
    }
    let person = check_credentials(&site, &address, &user_name, password).await?;
    let cookie = start_session(&site, person.id).await?;
    Ok(HttpResponse::Ok().cookie(cookie).json(Me::from(person)))
}

/// Signs out.
#[utoipa::path(path = "/api/session", responses((status = 204)))]
#[delete("/session")]
pub(crate) async fn sign_out(site: web::Data<Site>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let cookie = end_session(&site, &request).await?;
    Ok(HttpResponse::NoContent().cookie(cookie).finish())
}

/// Who is signed in.
#[utoipa::path(path = "/api/me", responses((status = 200, body = Me), (status = 401, body = Problem)))]
#[get("/me")]
pub(crate) async fn me(who: SignedIn) -> web::Json<Me> {
    web::Json(who.0.into())
}
