//! Sign-in: Argon2id, a random token in an HttpOnly SameSite cookie, its hash in the database.

use std::future::Future;
use std::pin::Pin;

use actix_web::body::{EitherBody, MessageBody};
use actix_web::cookie::time::Duration as CookieDuration;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::middleware::Next;
use actix_web::{FromRequest, HttpRequest, ResponseError, web};
use argon2::Argon2;
use argon2::password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash};
use sha2::{Digest, Sha256};
use store::{Person, PersonId};
use time::Duration;

use crate::Site;
use crate::error::ApiError;

const COOKIE: &str = "slate_session";
/// A term's worth of evenings: signing in again loses nothing, but is a nuisance.
const SESSION_LASTS: Duration = Duration::days(14);
/// Wrong tries a minute from one address before it is slowed down.
const WRONG_TRIES: i64 = 10;

/// Someone who is signed in.
pub(crate) struct SignedIn(pub Person);

impl FromRequest for SignedIn {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let token = request.cookie(COOKIE).map(|c| c.value().to_owned());
        let site = request.app_data::<web::Data<Site>>().cloned();
        Box::pin(async move {
            let (Some(token), Some(site)) = (token, site) else {
                return Err(ApiError::NotSignedIn);
            };
            let person = store::find_by_session(&site.pool, &token_hash(&token), site.now()).await?;
            person.map(SignedIn).ok_or(ApiError::NotSignedIn)
        })
    }
}

fn token_hash(token: &str) -> Vec<u8> {
    Sha256::digest(token.as_bytes()).to_vec()
}

/// The stored form of a password.
///
/// # Errors
/// If no random salt can be had.
pub fn hash_password(password: &str) -> Result<String, String> {
    let mut salt = [0u8; 16];
    getrandom::fill(&mut salt).map_err(|e| e.to_string())?;
    let hash = Argon2::default()
        .hash_password_with_salt(password.as_bytes(), &salt)
        .map_err(|e| e.to_string())?;
    Ok(hash.to_string())
}

fn verify(password: &str, hash: &str) -> bool {
    PasswordHash::new(hash).is_ok_and(|h| Argon2::default().verify_password(password.as_bytes(), &h).is_ok())
}

/// Checks a name and password. A wrong name and a wrong password take as long and say the same.
pub(crate) async fn check_credentials(
    site: &Site,
    address: &str,
    name: &str,
    password: String,
) -> Result<Person, ApiError> {
    let now = site.now();
    let minute = Duration::minutes(1);
    let (wrong, oldest) = store::count_recent_failures(&site.pool, address, now - minute).await?;
    if wrong >= WRONG_TRIES {
        let free = oldest.unwrap_or(now) + minute;
        return Err(ApiError::TooManySignIns {
            wait_seconds: (free - now).whole_seconds().clamp(1, 60),
        });
    }
    let found = store::find_credentials(&site.pool, name.trim()).await?;
    let hash = found.as_ref().map(|(_, hash)| hash.clone());
    let right = site
        .compute(move || match hash {
            Some(hash) => verify(&password, &hash),
            None => {
                let _ = hash_password(&password);
                false
            }
        })
        .await?;
    match found {
        Some((person, _)) if right => Ok(person),
        _ => {
            store::record_failure(&site.pool, address, now).await?;
            Err(ApiError::SignInFailed)
        }
    }
}

/// Starts a session and gives its cookie.
pub(crate) async fn start_session(site: &Site, person: PersonId) -> Result<Cookie<'static>, ApiError> {
    let mut random = [0u8; 32];
    getrandom::fill(&mut random).map_err(|e| ApiError::Inside(e.to_string()))?;
    let token: String = random.iter().map(|b| format!("{b:02x}")).collect();
    store::create_session(&site.pool, &token_hash(&token), person, site.now(), SESSION_LASTS).await?;
    Ok(cookie(
        token,
        CookieDuration::seconds(SESSION_LASTS.whole_seconds()),
    ))
}

/// Ends the session of a request, if it has one, and gives the cookie that clears it.
pub(crate) async fn end_session(site: &Site, request: &HttpRequest) -> Result<Cookie<'static>, ApiError> {
    if let Some(token) = request.cookie(COOKIE) {
        store::delete_session(&site.pool, &token_hash(token.value())).await?;
    }
    Ok(cookie(String::new(), CookieDuration::ZERO))
}

fn cookie(value: String, lasts: CookieDuration) -> Cookie<'static> {
    Cookie::build(COOKIE, value)
        .path("/")
        .http_only(true)
        .same_site(SameSite::Strict)
        .max_age(lasts)
        .finish()
}

/// Browsers say where a request comes from: a write from another site is refused, besides the cookie staying away.
pub(crate) async fn refuse_foreign_writes<B: MessageBody>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, actix_web::Error> {
    let reads = matches!(*request.method(), Method::GET | Method::HEAD);
    let foreign = request
        .headers()
        .get("sec-fetch-site")
        .is_some_and(|v| v == "cross-site" || v == "same-site");
    if !reads && foreign {
        let response = ApiError::ForeignOrigin.error_response();
        return Ok(request.into_response(response).map_into_right_body());
    }
    next.call(request).await.map(ServiceResponse::map_into_left_body)
}
