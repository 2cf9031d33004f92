//! How people come in: the first start, a link that signs in once, a class's code.

use actix_web::{HttpRequest, HttpResponse, get, post, web};
use school::School;
use school::classes::{join_as_new, password_fault, read_code};
use school::roll::{name_fault, user_name_fault};
use school::sign_in::{code_was_right, may_try_a_code, token_hash};
use serde::{Deserialize, Serialize};
use store::MemberRole;
use utoipa::ToSchema;

use crate::http::Settings;
use crate::http::auth::{SignedIn, session_cookie, token};
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct StartView {
    /// Nobody is here yet: a first teacher has to be made on the server.
    empty: bool,
}

/// Whether this installation has anybody in it.
#[utoipa::path(path = "/api/start", responses((status = 200, body = StartView), (status = 503, body = Problem)))]
#[get("/start")]
pub(crate) async fn get_start(school: web::Data<School>) -> Result<web::Json<StartView>, ApiError> {
    let empty = store::is_empty(&school.pool).await?;
    Ok(web::Json(StartView { empty }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct LinkToken {
    link: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct WelcomeView {
    display_name: String,
    user_name: String,
}

fn used_up() -> ApiError {
    ApiError::Unusable(
        "This link has already been used, or has expired. Ask your teacher for a new one.".into(),
    )
}

/// Whom a link is for. Looking does not use it up.
#[utoipa::path(path = "/api/welcome/look", request_body = LinkToken,
    responses((status = 200, body = WelcomeView), (status = 400, body = Problem)))]
#[post("/welcome/look")]
pub(crate) async fn look_at_link(
    school: web::Data<School>,
    body: web::Json<LinkToken>,
) -> Result<web::Json<WelcomeView>, ApiError> {
    let found = store::find_link(&school.pool, &token_hash(&body.link), school.now()).await?;
    let person = found.ok_or_else(used_up)?;
    Ok(web::Json(WelcomeView {
        display_name: person.display_name,
        user_name: person.user_name,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct LinkUse {
    link: String,
    password: String,
}

/// Uses a link: sets the password chosen, and signs in.
#[utoipa::path(path = "/api/welcome", request_body = LinkUse,
    responses((status = 204), (status = 400, body = Problem)))]
#[post("/welcome")]
pub(crate) async fn use_link(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    body: web::Json<LinkUse>,
) -> Result<HttpResponse, ApiError> {
    let LinkUse { link, password } = body.into_inner();
    let found = store::find_link(&school.pool, &token_hash(&link), school.now()).await?;
    let person = found.ok_or_else(used_up)?;
    if let Some(why) = password_fault(&password, &person.user_name) {
        return Err(ApiError::Unusable(why.into()));
    }
    let address = settings.client(&request);
    let session = school::classes::welcome(&school, &link, password, address).await?;
    let cookie = session_cookie(&request, session.ok_or_else(used_up)?);
    Ok(HttpResponse::NoContent().cookie(cookie).finish())
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct JoinCode {
    code: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct JoinView {
    class_title: String,
}

async fn class_of(
    school: &School,
    settings: &Settings,
    request: &HttpRequest,
    code: &str,
) -> Result<store::Class, ApiError> {
    let address = settings.client(request);
    if let Some(free) = may_try_a_code(school, &address).await? {
        let wait = (free - school.now()).whole_seconds().saturating_add(1);
        return Err(ApiError::TooManySignIns {
            wait_seconds: wait.clamp(1, 600),
        });
    }
    let found = store::find_class_by_code(&school.pool, &read_code(code)).await?;
    let class = found.ok_or_else(|| {
        ApiError::Unusable(
            "There is no class with this code. Check it letter by letter, or ask your teacher.".into(),
        )
    })?;
    code_was_right(school, &address).await?;
    Ok(class)
}

/// Which class a code is for.
#[utoipa::path(path = "/api/join/look", request_body = JoinCode,
    responses((status = 200, body = JoinView), (status = 400, body = Problem), (status = 429, body = Problem)))]
#[post("/join/look")]
pub(crate) async fn look_at_code(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    body: web::Json<JoinCode>,
) -> Result<web::Json<JoinView>, ApiError> {
    let class = class_of(&school, &settings, &request, &body.code).await?;
    Ok(web::Json(JoinView {
        class_title: class.title,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct JoinAsNew {
    code: String,
    name: String,
    user_name: String,
    password: String,
}

/// Makes an account and joins a class by its code.
#[utoipa::path(path = "/api/join", request_body = JoinAsNew,
    responses((status = 204), (status = 400, body = Problem), (status = 429, body = Problem)))]
#[post("/join")]
pub(crate) async fn join(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    body: web::Json<JoinAsNew>,
) -> Result<HttpResponse, ApiError> {
    let asked = body.into_inner();
    let class = class_of(&school, &settings, &request, &asked.code).await?;
    let name: String = asked.name.split_whitespace().collect::<Vec<_>>().join(" ");
    let user_name = asked.user_name.trim().to_lowercase();
    let fault = name_fault(&name)
        .or_else(|| user_name_fault(&user_name))
        .or_else(|| password_fault(&asked.password, &user_name).map(str::to_owned));
    if let Some(why) = fault {
        return Err(ApiError::Unusable(why));
    }
    let address = settings.client(&request);
    let session = join_as_new(&school, &class, &name, &user_name, asked.password, address).await?;
    let session = session.ok_or_else(|| {
        ApiError::Unusable(format!(
            "The user name {user_name} is taken. If it is yours, sign in first, then join. Otherwise choose another one."
        ))
    })?;
    Ok(HttpResponse::NoContent()
        .cookie(session_cookie(&request, session))
        .finish())
}

/// Joins a class by its code as who is signed in.
#[utoipa::path(path = "/api/me/classes", request_body = JoinCode,
    responses((status = 200, body = JoinView), (status = 400, body = Problem), (status = 429, body = Problem)))]
#[post("/me/classes")]
pub(crate) async fn join_signed_in(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    who: SignedIn,
    request: HttpRequest,
    body: web::Json<JoinCode>,
) -> Result<web::Json<JoinView>, ApiError> {
    let class = class_of(&school, &settings, &request, &body.code).await?;
    let teaches = store::find_class_taught(&school.pool, who.0.id, class.id)
        .await?
        .is_some();
    if teaches || acts_as_student(&school, &request).await? {
        return Err(ApiError::Unusable(
            "A code is for students, and you teach this class.".into(),
        ));
    }
    store::join_class(&school.pool, class.id, who.0.id, MemberRole::Student, None).await?;
    Ok(web::Json(JoinView {
        class_title: class.title,
    }))
}

/// The few lines of a first sign-in were read.
#[utoipa::path(path = "/api/me/welcomed", responses((status = 204), (status = 401, body = Problem)))]
#[post("/me/welcomed")]
pub(crate) async fn welcomed(school: web::Data<School>, who: SignedIn) -> Result<HttpResponse, ApiError> {
    store::set_welcomed(&school.pool, who.0.id).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// A session that acts as a made-up student is not to join classes.
pub(crate) async fn acts_as_student(school: &School, request: &HttpRequest) -> Result<bool, ApiError> {
    let Some(token) = token(request) else {
        return Ok(false);
    };
    Ok(store::acts_as_student(&school.pool, &token_hash(&token)).await?)
}
