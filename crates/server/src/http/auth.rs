//! Who is asking: an HttpOnly SameSite cookie holds the token of a session.

use std::future::{Future, Ready, ready};
use std::pin::Pin;
use std::sync::Arc;

use actix_web::cookie::time::Duration as CookieDuration;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, web};
use school::sign_in::{SESSION_LASTS, token_hash, who_is};
use school::{Desk, School, Stored};
use store::{Class, Person, Role};
use uuid::Uuid;

use super::error::ApiError;
use super::scopes::{bearer, reaches};
use super::settings::Settings;

const COOKIE: &str = "slate_session";

/// Someone who is signed in.
pub(crate) struct SignedIn(pub Person);

/// A teacher who is signed in. To anybody else, what is a teacher's is not there.
pub(crate) struct Teacher(pub Person);

impl Teacher {
    /// An assignment of a class that this teacher teaches.
    pub async fn assignment(&self, school: &School, id: Uuid) -> Result<Arc<Stored>, ApiError> {
        if !store::teaches(&school.pool, self.0.id, id).await? {
            return Err(ApiError::NotFound);
        }
        Ok(school.assignment(id, None).await?)
    }

    /// A class that this teacher teaches.
    pub async fn class(&self, school: &School, id: Uuid) -> Result<Class, ApiError> {
        let found = store::find_class_taught(&school.pool, self.0.id, id).await?;
        found.ok_or(ApiError::NotFound)
    }
}

impl FromRequest for Teacher {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let person = SignedIn::from_request(request, payload);
        Box::pin(async move {
            let SignedIn(person) = person.await?;
            match person.role {
                Role::Teacher => Ok(Teacher(person)),
                Role::Student => Err(ApiError::NotFound),
            }
        })
    }
}

/// Someone who holds a token. Whether it is a session's is asked in the same statement as what they want to see.
pub(crate) struct Visitor {
    token_hash: [u8; 32],
}

pub(crate) fn token(request: &HttpRequest) -> Option<String> {
    request.cookie(COOKIE).map(|c| c.value().to_owned())
}

impl FromRequest for Visitor {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let visitor = token(request).map(|t| Visitor {
            token_hash: token_hash(&t),
        });
        ready(visitor.ok_or(ApiError::NotSignedIn))
    }
}

impl Visitor {
    /// An assignment as this visitor has it.
    pub async fn desk(&self, school: &School, id: Uuid) -> Result<Desk, ApiError> {
        Ok(Desk::find(school, id, self.token_hash).await?.0)
    }

    /// Does something with an assignment: first on what this server holds of it, which the statement that changes something
    /// holds against the database; where that does not come to anything, on what the database has.
    pub async fn on_desk<T>(
        &self,
        school: &School,
        id: Uuid,
        act: impl AsyncFn(&mut Desk) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        if let Some(mut desk) = Desk::held(school, id, self.token_hash) {
            let done = act(&mut desk).await;
            if desk.is_certain() {
                return done;
            }
        }
        act(&mut self.desk(school, id).await?).await
    }

    /// An assignment for saying how an entry reads, which tells nothing of its questions.
    pub async fn desk_to_read_at(&self, school: &School, id: Uuid) -> Result<Desk, ApiError> {
        match Desk::held_a_moment_ago(school, id, self.token_hash) {
            Some(desk) => Ok(desk),
            None => self.desk(school, id).await,
        }
    }

    pub async fn person(&self, school: &School) -> Result<Person, ApiError> {
        Ok(who_is(school, &self.token_hash).await?)
    }
}

impl FromRequest for SignedIn {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let school = request.app_data::<web::Data<School>>().cloned();
        if let Some(token) = bearer(request) {
            let request = request.clone();
            return Box::pin(async move {
                let school = school.ok_or(ApiError::NotSignedIn)?;
                let found = store::use_api_token(&school.pool, &token_hash(&token), school.now()).await?;
                let (person, scopes) = found.ok_or(ApiError::NotSignedIn)?;
                if reaches(&request, &scopes) {
                    Ok(SignedIn(person))
                } else {
                    Err(ApiError::OutsideScope)
                }
            });
        }
        let visitor = Visitor::from_request(request, payload);
        Box::pin(async move {
            let (visitor, Some(school)) = (visitor.await?, school) else {
                return Err(ApiError::NotSignedIn);
            };
            Ok(SignedIn(visitor.person(&school).await?))
        })
    }
}

/// Says that somebody was in here before, in our hand: their tries to sign in wait for nobody else's.
const KNOWN: &str = "slate_known";

pub(crate) fn known_here(request: &HttpRequest) -> Option<String> {
    request.cookie(KNOWN).map(|c| c.value().to_owned())
}

pub(crate) fn known_cookie(request: &HttpRequest, value: String) -> Cookie<'static> {
    strict_cookie(request, KNOWN, value, CookieDuration::days(365))
}

/// Holds what brings somebody who came from a portal on, until it is settled who they are.
const ARRIVAL: &str = "slate_arrival";

pub(crate) fn arrival(request: &HttpRequest) -> Result<String, ApiError> {
    let cookie = request.cookie(ARRIVAL).ok_or(ApiError::NotFound)?;
    Ok(cookie.value().to_owned())
}

/// The cookie of an arrival; an empty one clears it.
pub(crate) fn arrival_cookie(request: &HttpRequest, token: String) -> Cookie<'static> {
    let lasts = match token.is_empty() {
        true => CookieDuration::ZERO,
        false => CookieDuration::hours(1),
    };
    strict_cookie(request, ARRIVAL, token, lasts)
}

/// The cookie of a session, for this request's connection: where that is https, it never goes over anything else.
pub(crate) fn session_cookie(request: &HttpRequest, token: String) -> Cookie<'static> {
    cookie(
        request,
        token,
        CookieDuration::seconds(SESSION_LASTS.whole_seconds()),
    )
}

/// The cookie that clears it.
pub(crate) fn no_cookie(request: &HttpRequest) -> Cookie<'static> {
    cookie(request, String::new(), CookieDuration::ZERO)
}

fn cookie(request: &HttpRequest, value: String, lasts: CookieDuration) -> Cookie<'static> {
    strict_cookie(request, COOKIE, value, lasts)
}

fn strict_cookie(
    request: &HttpRequest,
    name: &'static str,
    value: String,
    lasts: CookieDuration,
) -> Cookie<'static> {
    let https = request
        .app_data::<web::Data<Settings>>()
        .is_some_and(|s| s.is_https(request));
    Cookie::build(name, value)
        .path("/")
        .http_only(true)
        .secure(https)
        .same_site(SameSite::Strict)
        .max_age(lasts)
        .finish()
}
