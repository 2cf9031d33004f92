//! What a portal sends through the browser: a sign-in that is begun, its answer, and what was picked for it. Pages of their own,
//! without the front end: they come from elsewhere, and may stand in a frame of the portal.

use actix_web::cookie::time::Duration as CookieDuration;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::HttpServiceFactory;
use actix_web::http::StatusCode;
use actix_web::http::header::{self, HeaderValue};
use actix_web::middleware::{DefaultHeaders, from_fn};
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use school::School;
use school::portal::{self, ArrivalKind, Arrived, LaunchError, LoginRequest};
use school::sign_in::may_begin_launch;
use serde::Deserialize;
use uuid::Uuid;

use crate::CONTENT_SECURITY_POLICY;
use crate::http::Settings;
use crate::http::auth::{Teacher, arrival, arrival_cookie, session_cookie};
use crate::http::body::within_bounds;
use crate::http::error::ApiError;

/// Binds a sign-in that was begun to the browser that began it. It has to come along with the portal's answer, which is a form
/// that another site sends: a session's cookie never does.
const BROWSER: &str = "slate_lti";
/// Bytes of what a portal sends.
const LONGEST: usize = 128 * 1024;

pub(crate) fn scope() -> impl HttpServiceFactory {
    web::scope("/lti")
        .app_data(web::FormConfig::default().limit(LONGEST))
        .wrap(from_fn(within_bounds))
        .wrap(DefaultHeaders::new().add((header::CACHE_CONTROL, HeaderValue::from_static("no-store"))))
        .service(login_by_get)
        .service(login_by_post)
        .service(launch)
        .service(jwks)
        .service(picked)
        .service(send)
}

pub(crate) fn escape(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
        .replace('\'', "&#39;")
}

fn page(status: StatusCode) -> actix_web::HttpResponseBuilder {
    let mut response = HttpResponse::build(status);
    response.content_type("text/html; charset=utf-8");
    response
}

fn html(heading: &str, body: &str) -> String {
    let style = "body{margin:0;background:#fbf9f3;color:#1c2523;font:17px/1.5 'Atkinson Hyperlegible',system-ui,sans-serif}\
        header{padding:12px 20px;background:#22302d;color:#f1eee4;font-weight:700}main{max-width:36rem;padding:24px 20px}\
        h1{font-size:1.5rem;margin:0 0 12px}button,.go{display:inline-block;padding:10px 18px;font:inherit;font-weight:700;\
        color:#fff;background:#2f6b4a;border:0;border-radius:4px;text-decoration:none}\
        :focus-visible{outline:3px solid #2b5c7e;outline-offset:2px}";
    format!(
        "<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" \
         content=\"width=device-width\"><title>{0} – Green Slate</title><style>{style}</style></head><body>\
         <header>Green Slate</header><main><h1>{0}</h1>{body}</main></body></html>",
        escape(heading)
    )
}

fn say(status: StatusCode, heading: &str, words: &str) -> HttpResponse {
    page(status).body(html(heading, &format!("<p>{}</p>", escape(words))))
}

fn refuse(request: &HttpRequest, error: &LaunchError) -> HttpResponse {
    match error {
        LaunchError::Refused(refusal) => {
            tracing::warn!(
                refusal = refusal.name(),
                path = request.path(),
                "a portal's message was refused"
            );
            say(
                StatusCode::FORBIDDEN,
                "You were not signed in",
                &refusal.to_string(),
            )
        }
        LaunchError::Away => say(
            StatusCode::SERVICE_UNAVAILABLE,
            "You were not signed in",
            &error.to_string(),
        ),
        LaunchError::School(inner) => {
            tracing::error!(cause = %inner, "coming from a portal");
            say(
                StatusCode::SERVICE_UNAVAILABLE,
                "You were not signed in",
                "Something went wrong here. Please open the link in the portal again in a moment.",
            )
        }
    }
}

/// Whether this is to be shown within a page of somebody else's. A session is not taken along there, whatever the browser
/// allows: it is for our own pages only.
fn in_a_frame(request: &HttpRequest) -> bool {
    let dest = request
        .headers()
        .get("sec-fetch-dest")
        .and_then(|v| v.to_str().ok());
    matches!(dest, Some("iframe" | "frame" | "embed" | "object"))
}

/// Opens the same link in a window of its own, by one press.
async fn own_window(school: &School, asked: &LoginRequest) -> HttpResponse {
    let known = store::portals_known(&school.pool).await.unwrap_or_default();
    let fits = known.iter().filter(|p| p.issuer == asked.iss);
    let origins: Vec<String> = fits
        .flat_map(|p| [&p.issuer, &p.authorization_url])
        .filter_map(|a| Some(url::Url::parse(a).ok()?.origin().ascii_serialization()))
        .filter(|o| o != "null")
        .collect();
    let field = |name: &str, value: Option<&str>| {
        value.map_or_else(String::new, |v| {
            format!("<input type=\"hidden\" name=\"{name}\" value=\"{}\">", escape(v))
        })
    };
    let fields = [
        field("iss", Some(&asked.iss)),
        field("login_hint", Some(&asked.login_hint)),
        field("target_link_uri", Some(&asked.target_link_uri)),
        field("lti_message_hint", asked.lti_message_hint.as_deref()),
        field("client_id", asked.client_id.as_deref()),
        field("lti_deployment_id", asked.lti_deployment_id.as_deref()),
    ]
    .concat();
    let heading = "Green Slate opens in a window of its own";
    let body = format!(
        "<p>Inside another page your browser keeps the sign-in away. Nothing is lost: your work is where you left it.</p>\
         <form method=\"get\" action=\"/lti/login\" target=\"_blank\">{fields}<button>Open Green Slate</button></form>"
    );
    // The form is redirected to the portal, which counts as sending it there.
    let theirs = origins.join(" ");
    let policy = CONTENT_SECURITY_POLICY
        .replace(
            "frame-ancestors 'self'",
            &format!("frame-ancestors 'self' {theirs}"),
        )
        .replace("form-action 'self'", &format!("form-action 'self' {theirs}"));
    page(StatusCode::OK)
        .insert_header((header::CONTENT_SECURITY_POLICY, policy))
        .body(html(heading, &body))
}

async fn login(
    school: &School,
    settings: &Settings,
    request: &HttpRequest,
    asked: &LoginRequest,
) -> HttpResponse {
    if in_a_frame(request) {
        return own_window(school, asked).await;
    }
    match may_begin_launch(school, &settings.client(request)).await {
        Ok(true) => {}
        Ok(false) => {
            return say(
                StatusCode::TOO_MANY_REQUESTS,
                "Too many at once",
                "Very many people came from your network in the last minute. Please open the link again in a minute.",
            );
        }
        Err(error) => return refuse(request, &error.into()),
    }
    let browser = request.cookie(BROWSER).map(|c| c.value().to_owned());
    match portal::begin(school, asked, &settings.base(request), browser).await {
        Ok(begun) => {
            let cookie = Cookie::build(BROWSER, begun.browser)
                .path("/lti")
                .http_only(true)
                .secure(true)
                .same_site(SameSite::None)
                .max_age(CookieDuration::minutes(30))
                .finish();
            HttpResponse::Found()
                .cookie(cookie)
                .insert_header((header::LOCATION, begun.redirect))
                .finish()
        }
        Err(error) => refuse(request, &error),
    }
}

fn unreadable() -> HttpResponse {
    say(
        StatusCode::BAD_REQUEST,
        "You were not signed in",
        "The portal's message cannot be read. Please open the link in the portal again.",
    )
}

#[get("/login")]
async fn login_by_get(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    asked: Result<web::Query<LoginRequest>, actix_web::Error>,
) -> HttpResponse {
    match asked {
        Ok(asked) => login(&school, &settings, &request, &asked).await,
        Err(_) => unreadable(),
    }
}

#[post("/login")]
async fn login_by_post(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    asked: Result<web::Form<LoginRequest>, actix_web::Error>,
) -> HttpResponse {
    match asked {
        Ok(asked) => login(&school, &settings, &request, &asked).await,
        Err(_) => unreadable(),
    }
}

/// The portal's answer: a token, or why there is none.
#[derive(Deserialize)]
struct Answer {
    #[serde(default)]
    state: String,
    id_token: Option<String>,
    error: Option<String>,
    error_description: Option<String>,
}

#[post("/launch")]
async fn launch(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    answer: Result<web::Form<Answer>, actix_web::Error>,
) -> HttpResponse {
    let Ok(web::Form(answer)) = answer else {
        return unreadable();
    };
    let Some(token) = &answer.id_token else {
        let said = answer.error_description.or(answer.error).unwrap_or_default();
        let said: String = said.chars().take(200).collect();
        let refusal = lti::Refusal::SaidByPlatform(said);
        return refuse(&request, &refusal.into());
    };
    let browser = request.cookie(BROWSER).map(|c| c.value().to_owned());
    let browser = browser.unwrap_or_default();
    let base = settings.base(&request);
    match portal::launch(&school, &answer.state, &browser, token, &base).await {
        Ok(arrived) => on(&request, arrived),
        Err(error) => refuse(&request, &error),
    }
}

fn redirect(to: &str) -> actix_web::HttpResponseBuilder {
    let mut response = HttpResponse::SeeOther();
    response.insert_header((header::LOCATION, to));
    response
}

/// Where somebody goes who arrived.
fn on(request: &HttpRequest, arrived: Arrived) -> HttpResponse {
    match arrived {
        Arrived::In { session, to } => redirect(&to).cookie(session_cookie(request, session)).finish(),
        Arrived::Asked {
            session,
            arrival,
            kind,
        } => {
            let mut response = redirect(way_of(kind));
            response.cookie(arrival_cookie(request, arrival));
            if let Some(session) = session {
                response.cookie(session_cookie(request, session));
            }
            response.finish()
        }
        Arrived::NoClass { portal, course } => say(
            StatusCode::OK,
            "This course has no class yet",
            &no_class_words(&portal, &course),
        ),
        Arrived::NotVouchedFor { portal, course } => say(
            StatusCode::OK,
            "This course has no class yet",
            &not_vouched_for_words(&portal, &course),
        ),
        Arrived::TakenOut { class } => say(
            StatusCode::OK,
            "You are not in this class any more",
            &taken_out_words(&class),
        ),
    }
}

pub(crate) fn no_class_words(portal: &str, course: &str) -> String {
    format!(
        "Its teacher has to come here once from {portal} and say which class “{course}” is. Nothing of yours is lost."
    )
}

pub(crate) fn not_vouched_for_words(portal: &str, course: &str) -> String {
    format!(
        "You teach “{course}” in {portal}, but your account here cannot set up classes. Ask the administrator of Green Slate to set up the class, or to let you."
    )
}

pub(crate) fn taken_out_words(class: &str) -> String {
    format!(
        "Your teacher took you out of {class}. Your work there is kept. If that was a mistake, ask your teacher."
    )
}

/// The page on which something is asked.
pub(crate) fn way_of(kind: ArrivalKind) -> &'static str {
    match kind {
        ArrivalKind::Join => "/from-portal",
        ArrivalKind::Class => "/from-portal/class",
        ArrivalKind::Pick => "/from-portal/pick",
    }
}

/// The keys that portals read our signatures by.
#[get("/jwks")]
async fn jwks(school: web::Data<School>) -> Result<HttpResponse, ApiError> {
    let keys = portal::published(&school).await?;
    Ok(HttpResponse::Ok()
        .insert_header((header::CACHE_CONTROL, "public, max-age=300"))
        .json(keys))
}

/// What a teacher ticked: ids with blanks between them.
#[derive(Deserialize)]
struct Ticked {
    #[serde(default)]
    assignments: String,
}

/// Sends what was picked to the portal: a form that the browser posts there.
#[post("/picked")]
async fn picked(
    school: web::Data<School>,
    settings: web::Data<Settings>,
    request: HttpRequest,
    who: Teacher,
    ticked: web::Form<Ticked>,
) -> Result<HttpResponse, ApiError> {
    let token = arrival(&request)?;
    let wanted: Vec<Uuid> = ticked
        .assignments
        .split_whitespace()
        .filter_map(|id| id.parse().ok())
        .collect();
    let base = settings.base(&request);
    let (address, signed) = portal::picked(&school, &token, who.0.id, &wanted, &base).await?;
    let origin = url::Url::parse(&address)
        .map_err(|e| ApiError::Inside(e.to_string()))?
        .origin()
        .ascii_serialization();
    let policy =
        CONTENT_SECURITY_POLICY.replace("form-action 'self'", &format!("form-action 'self' {origin}"));
    let heading = "Back to the portal";
    let body = format!(
        "<form id=\"send\" method=\"post\" action=\"{}\"><input type=\"hidden\" name=\"JWT\" value=\"{}\">\
         <button>Go back to the portal</button></form><script src=\"/lti/send.js\"></script>",
        escape(&address),
        escape(&signed)
    );
    Ok(page(StatusCode::OK)
        .cookie(arrival_cookie(&request, String::new()))
        .insert_header((header::CONTENT_SECURITY_POLICY, policy))
        .body(html(heading, &body)))
}

#[get("/send.js")]
async fn send() -> HttpResponse {
    HttpResponse::Ok()
        .content_type("text/javascript; charset=utf-8")
        .body("document.getElementById('send').submit();\n")
}
