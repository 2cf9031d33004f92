//! What is one's own: due dates to subscribe to, tokens for other programs, and all that is kept.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use school::School;
use school::classes::password_fault;
use school::own::{calendar, everything, fresh_token};
use school::sign_in::{change_own_password, end_other_sessions, may_try_own_password, token_hash};
use serde::{Deserialize, Serialize};
use store::{ApiToken, Role};
use time::OffsetDateTime;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::shared::table::zip_file;
use crate::http::auth::{SignedIn, token};
use crate::http::error::{ApiError, Problem};
use crate::http::scopes::Scope;
use crate::http::settings::Settings;

const LONGEST_NAME: usize = 60;
/// Tokens that one person has at once.
const MOST_TOKENS: usize = 20;

/// Calendars one can subscribe to, and personal tokens.
#[derive(Serialize, ToSchema)]
pub(crate) struct OwnView {
    calendars: Vec<CalendarView>,
    tokens: Vec<TokenView>,
}

/// Due dates that can be subscribed to.
#[derive(Serialize, ToSchema)]
pub(crate) struct CalendarView {
    /// Nothing for one's own.
    class: Option<Uuid>,
    title: String,
    /// Since when its address is in use; nothing where there is none.
    #[serde(with = "time::serde::rfc3339::option")]
    since: Option<OffsetDateTime>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TokenView {
    id: Uuid,
    name: String,
    scopes: Vec<String>,
    #[serde(with = "time::serde::rfc3339")]
    made_at: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339::option")]
    used_at: Option<OffsetDateTime>,
}

async fn calendars(school: &School, who: &SignedIn) -> Result<Vec<CalendarView>, ApiError> {
    let made = store::calendars_of(&school.pool, who.0.id).await?;
    let since = |class: Option<Uuid>| made.iter().find(|c| c.class == class).map(|c| c.made_at);
    let mut all = Vec::new();
    if who.0.role == Role::Student || store::studies(&school.pool, who.0.id).await? {
        all.push(CalendarView {
            class: None,
            title: "What is due for you".into(),
            since: since(None),
        });
    }
    let classes = store::classes_taught(&school.pool, who.0.id, school.now()).await?;
    let view = |c: store::TaughtClass| CalendarView {
        since: since(Some(c.class.id)),
        class: Some(c.class.id),
        title: c.class.title,
    };
    all.extend(classes.into_iter().map(view));
    Ok(all)
}

/// One's calendars and tokens.
#[utoipa::path(path = "/api/own", responses((status = 200, body = OwnView), (status = 401, body = Problem)))]
#[get("/own")]
pub(crate) async fn get_own(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<OwnView>, ApiError> {
    let tokens = store::api_tokens_of(&school.pool, who.0.id).await?;
    let token = |t: ApiToken| TokenView {
        id: t.id,
        name: t.name,
        scopes: t.scopes,
        made_at: t.made_at,
        used_at: t.used_at,
    };
    Ok(web::Json(OwnView {
        calendars: calendars(&school, &who).await?,
        tokens: tokens.into_iter().map(token).collect(),
    }))
}

#[derive(Deserialize, IntoParams)]
pub(crate) struct WhichCalendar {
    /// A class one teaches; nothing for one's own due dates.
    class: Option<Uuid>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CalendarMade {
    /// Shown this once.
    address: String,
}

async fn own_calendar(school: &School, who: &SignedIn, class: Option<Uuid>) -> Result<(), ApiError> {
    let mine = calendars(school, who).await?;
    if mine.iter().any(|c| c.class == class) {
        return Ok(());
    }
    Err(ApiError::NotFound)
}

/// Makes an address to subscribe to, in the place of the one there was.
#[utoipa::path(path = "/api/own/calendar", params(WhichCalendar),
    responses((status = 200, body = CalendarMade), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/own/calendar")]
pub(crate) async fn make_calendar(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    who: SignedIn,
    request: HttpRequest,
    which: web::Query<WhichCalendar>,
) -> Result<web::Json<CalendarMade>, ApiError> {
    own_calendar(&school, &who, which.class).await?;
    let token = fresh_token()?;
    let (class, now) = (which.class, school.now());
    store::put_calendar(&school.pool, who.0.id, class, &token_hash(&token), now).await?;
    let base = settings.base(&request);
    Ok(web::Json(CalendarMade {
        address: format!("{base}/api/calendar/{token}"),
    }))
}

/// Ends an address: who subscribed to it gets nothing any more.
#[utoipa::path(path = "/api/own/calendar", params(WhichCalendar),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/own/calendar")]
pub(crate) async fn end_calendar(
    school: web::Data<School>,
    who: SignedIn,
    which: web::Query<WhichCalendar>,
) -> Result<HttpResponse, ApiError> {
    store::drop_calendar(&school.pool, who.0.id, which.class).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Due dates as iCalendar (RFC 5545), for whoever has the address.
#[utoipa::path(path = "/api/calendar/{token}", params(("token" = String, Path)),
    responses((status = 200, body = String, content_type = "text/calendar"), (status = 404, body = Problem)))]
#[get("/calendar/{token}")]
pub(crate) async fn get_calendar(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    token: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let base = settings.base(&request);
    let found = calendar(&school, &token, &base).await?;
    let text = found.ok_or(ApiError::NotFound)?;
    Ok(HttpResponse::Ok()
        .content_type("text/calendar; charset=utf-8")
        .insert_header((header::CACHE_CONTROL, "private, max-age=300"))
        .body(text))
}

/// A token for another program.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MakeToken {
    name: String,
    scopes: Vec<Scope>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TokenMade {
    /// Shown this once.
    token: String,
}

/// Makes a personal token of limited scope. It is shown once, and kept as its hash.
#[utoipa::path(path = "/api/own/tokens", request_body = MakeToken,
    responses((status = 200, body = TokenMade), (status = 400, body = Problem), (status = 401, body = Problem)))]
#[post("/own/tokens")]
pub(crate) async fn make_token(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<MakeToken>,
) -> Result<web::Json<TokenMade>, ApiError> {
    let MakeToken { name, scopes } = body.into_inner();
    let refuse = |words: &str| Err(ApiError::Unusable(words.into()));
    let name = name.trim().to_owned();
    if name.is_empty() || name.chars().count() > LONGEST_NAME || name.chars().any(char::is_control) {
        return refuse("Say what the token is for, in 60 characters at most.");
    }
    let mut scopes: Vec<String> = scopes.iter().map(|s| s.name().to_owned()).collect();
    scopes.sort();
    scopes.dedup();
    if scopes.is_empty() {
        return refuse("Choose what the token allows.");
    }
    if who.0.role == Role::Student && scopes.iter().any(|s| s == Scope::ManageClasses.name()) {
        return refuse("Classes are managed by their teachers.");
    }
    if store::api_tokens_of(&school.pool, who.0.id).await?.len() >= MOST_TOKENS {
        return refuse("You can have 20 tokens at most: revoke one first.");
    }
    let token = format!("slate_{}", fresh_token()?);
    let kept = ApiToken {
        id: Uuid::now_v7(),
        name,
        scopes,
        made_at: school.now(),
        used_at: None,
    };
    store::put_api_token(&school.pool, who.0.id, &kept, &token_hash(&token)).await?;
    Ok(web::Json(TokenMade { token }))
}

/// Ends a token at once.
#[utoipa::path(path = "/api/own/tokens/{id}", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/own/tokens/{id}")]
pub(crate) async fn end_token(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    if !store::drop_api_token(&school.pool, who.0.id, *id).await? {
        return Err(ApiError::NotFound);
    }
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct ChangePassword {
    old: String,
    new: String,
}

/// Changes one's own password: everywhere else one is signed out, and links, tokens and calendar addresses end.
#[utoipa::path(path = "/api/own/password", request_body = ChangePassword,
    responses((status = 204), (status = 400, body = Problem), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[put("/own/password")]
pub(crate) async fn change_password(
    school: web::Data<School>,
    who: SignedIn,
    request: HttpRequest,
    body: web::Json<ChangePassword>,
) -> Result<HttpResponse, ApiError> {
    let ChangePassword { old, new } = body.into_inner();
    let session = token(&request).ok_or(ApiError::NotSignedIn)?;
    if super::welcome::acts_as_student(&school, &request).await? {
        return Err(ApiError::NotFound);
    }
    if let Some(why) = password_fault(&new, &who.0.user_name) {
        return Err(ApiError::Unusable(why.into()));
    }
    if old.len() > 1_000 {
        return Err(ApiError::Unusable(WRONG_OLD.into()));
    }
    if let Some(free) = may_try_own_password(&school, who.0.id).await? {
        let wait = (free - school.now()).whole_seconds().saturating_add(1);
        return Err(ApiError::TooManySignIns {
            wait_seconds: wait.clamp(1, 600),
        });
    }
    match change_own_password(&school, who.0.id, &token_hash(&session), old, new).await? {
        true => Ok(HttpResponse::NoContent().finish()),
        false => Err(ApiError::Unusable(WRONG_OLD.into())),
    }
}

const WRONG_OLD: &str = "The current password is wrong. Check it and try again.";

#[derive(Serialize, ToSchema)]
pub(crate) struct SessionsEnded {
    ended: u64,
}

/// Signs out everywhere but here.
#[utoipa::path(path = "/api/own/sessions",
    responses((status = 200, body = SessionsEnded), (status = 401, body = Problem)))]
#[delete("/own/sessions")]
pub(crate) async fn end_sessions(
    school: web::Data<School>,
    who: SignedIn,
    request: HttpRequest,
) -> Result<web::Json<SessionsEnded>, ApiError> {
    let session = token(&request).ok_or(ApiError::NotSignedIn)?;
    let ended = end_other_sessions(&school, who.0.id, &token_hash(&session)).await?;
    Ok(web::Json(SessionsEnded { ended }))
}

/// All that is kept about oneself: JSON, a summary, and one's files.
#[utoipa::path(path = "/api/own/everything.zip",
    responses((status = 200, body = Vec<u8>, content_type = "application/zip"), (status = 401, body = Problem)))]
#[get("/own/everything.zip")]
pub(crate) async fn take_everything(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<HttpResponse, ApiError> {
    let zip = everything(&school, who.0.id).await?;
    Ok(zip_file(zip, "green-slate-everything.zip"))
}

/// The description of this interface, for programs.
#[utoipa::path(path = "/api/openapi.json", responses((status = 200, body = Object, content_type = "application/json")))]
#[get("/openapi.json")]
pub(crate) async fn get_description() -> HttpResponse {
    static TEXT: std::sync::OnceLock<String> = std::sync::OnceLock::new();
    HttpResponse::Ok()
        .content_type("application/json")
        .body(TEXT.get_or_init(super::open_api).as_str())
}
