//! What goes wrong, as `application/problem+json` (RFC 9457) with a stable code.

use actix_web::error::{JsonPayloadError, PayloadError};
use actix_web::http::StatusCode;
use actix_web::http::header;
use actix_web::{HttpResponse, ResponseError, web};
use coursework::Refusal;
use marking::ResponseFault;
use school::SchoolError;
use serde::{Deserialize, Serialize};
use store::StoreError;
use utoipa::ToSchema;

use super::limits::LARGEST_PICTURE;

/// Seconds after which a client is asked to try again.
const AGAIN_AFTER: i64 = 2;

#[derive(Debug, thiserror::Error)]
pub enum ApiError {
    #[error("not signed in")]
    NotSignedIn,
    #[error("sign-in failed")]
    SignInFailed,
    #[error("too many sign-ins")]
    TooManySignIns { wait_seconds: i64 },
    #[error("too often")]
    TooOften { wait_seconds: i64, words: String },
    #[error("not found")]
    NotFound,
    /// With those that there are.
    #[error("no such method")]
    NoSuchMethod { allowed: String },
    #[error("foreign origin")]
    ForeignOrigin,
    /// A personal token that does not reach as far.
    #[error("outside the token's scope")]
    OutsideScope,
    /// A portal that was asked does not answer, or refuses.
    #[error("portal: {0}")]
    PortalAway(String),
    #[error("unusable request: {0}")]
    Unusable(String),
    /// More bytes than this route takes.
    #[error("too large: at most {0} bytes")]
    TooLarge(usize),
    #[error("too slow")]
    TooSlow,
    #[error(transparent)]
    School(SchoolError),
    #[error("inside: {0}")]
    Inside(String),
}

/// The body of an answer that is not a success.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct Problem {
    /// For programs: stays the same between versions.
    pub code: String,
    /// For people: what happened and what can be done.
    pub detail: String,
    pub status: u16,
}

impl From<SchoolError> for ApiError {
    fn from(error: SchoolError) -> Self {
        match error {
            SchoolError::NotFound => ApiError::NotFound,
            SchoolError::NotSignedIn => ApiError::NotSignedIn,
            other => ApiError::School(other),
        }
    }
}

impl From<StoreError> for ApiError {
    fn from(error: StoreError) -> Self {
        ApiError::School(error.into())
    }
}

impl From<Refusal> for ApiError {
    fn from(refusal: Refusal) -> Self {
        ApiError::School(refusal.into())
    }
}

impl From<ResponseFault> for ApiError {
    fn from(fault: ResponseFault) -> Self {
        ApiError::School(fault.into())
    }
}

type Parts = (StatusCode, &'static str, String);

impl ApiError {
    fn parts(&self) -> Parts {
        match self {
            ApiError::NotSignedIn => (
                StatusCode::UNAUTHORIZED,
                "not_signed_in",
                "Please sign in.".into(),
            ),
            ApiError::SignInFailed => (
                StatusCode::UNAUTHORIZED,
                "sign_in_failed",
                "The user name or the password is wrong. Check both and try again.".into(),
            ),
            ApiError::TooManySignIns { wait_seconds } => (
                StatusCode::TOO_MANY_REQUESTS,
                "too_many_sign_ins",
                format!("Too many wrong tries. Wait {wait_seconds} seconds, then try again."),
            ),
            ApiError::TooOften { words, .. } => (StatusCode::TOO_MANY_REQUESTS, "too_often", words.clone()),
            ApiError::NotFound => (
                StatusCode::NOT_FOUND,
                "not_found",
                "There is nothing here that you can see.".into(),
            ),
            ApiError::NoSuchMethod { .. } => (
                StatusCode::METHOD_NOT_ALLOWED,
                "no_such_method",
                "This is not possible here.".into(),
            ),
            ApiError::ForeignOrigin => (
                StatusCode::FORBIDDEN,
                "foreign_origin",
                "This request came from another site.".into(),
            ),
            ApiError::OutsideScope => (
                StatusCode::FORBIDDEN,
                "outside_scope",
                "This token does not allow that.".into(),
            ),
            ApiError::PortalAway(why) => (StatusCode::BAD_GATEWAY, "portal_away", why.clone()),
            ApiError::Unusable(why) => (StatusCode::BAD_REQUEST, "unusable", why.clone()),
            ApiError::TooLarge(most) => (StatusCode::PAYLOAD_TOO_LARGE, "too_large", too_large_words(*most)),
            ApiError::TooSlow => (
                StatusCode::REQUEST_TIMEOUT,
                "too_slow",
                "This took too long to arrive. Try again.".into(),
            ),
            ApiError::School(error) => school_parts(error),
            ApiError::Inside(_) => inside(),
        }
    }
}

fn too_large_words(most: usize) -> String {
    if most == LARGEST_PICTURE {
        return "This is too large to be kept: 8 MB at most.".into();
    }
    "This is more than can be kept here.".into()
}

fn inside() -> Parts {
    (
        StatusCode::INTERNAL_SERVER_ERROR,
        "inside",
        "Something went wrong on our side. Try again in a moment.".into(),
    )
}

fn school_parts(error: &SchoolError) -> Parts {
    match error {
        SchoolError::NotSignedIn => ApiError::NotSignedIn.parts(),
        SchoolError::NotFound => ApiError::NotFound.parts(),
        SchoolError::Refused(refusal) => (StatusCode::CONFLICT, refusal.code(), refusal.to_string()),
        SchoolError::OutOfBounds(fault) => (StatusCode::BAD_REQUEST, "out_of_bounds", fault.to_string()),
        SchoolError::Busy => (
            StatusCode::SERVICE_UNAVAILABLE,
            "busy",
            "There is too much to do at the moment. Try again in a few seconds.".into(),
        ),
        SchoolError::Store(StoreError::Conflict) => (
            StatusCode::CONFLICT,
            "moved_on",
            "Something else changed this work at the same moment. Try again.".into(),
        ),
        SchoolError::Store(StoreError::OutOfRange) => ApiError::NotFound.parts(),
        SchoolError::Store(StoreError::Away(_)) => (
            StatusCode::SERVICE_UNAVAILABLE,
            "away",
            "This can't be kept at the moment. It is tried again.".into(),
        ),
        SchoolError::Store(
            StoreError::Sql(_) | StoreError::Migrate(_) | StoreError::Stored(_) | StoreError::Unwritable(_),
        )
        | SchoolError::Undrawable { .. }
        | SchoolError::Inside(_) => inside(),
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        self.parts().0
    }

    fn error_response(&self) -> HttpResponse {
        let (status, code, detail) = self.parts();
        if status.is_server_error() {
            // Within the request's span, which carries its id.
            tracing::error!(cause = %self, "failed");
        }
        let mut response = HttpResponse::build(status);
        if let ApiError::TooManySignIns { wait_seconds } | ApiError::TooOften { wait_seconds, .. } = self {
            response.insert_header((header::RETRY_AFTER, wait_seconds.to_string()));
        }
        if let ApiError::NoSuchMethod { allowed } = self {
            response.insert_header((header::ALLOW, allowed.clone()));
        }
        if status == StatusCode::SERVICE_UNAVAILABLE {
            response.insert_header((header::RETRY_AFTER, AGAIN_AFTER.to_string()));
        }
        response.content_type("application/problem+json").json(Problem {
            code: code.into(),
            detail,
            status: status.as_u16(),
        })
    }
}

/// A body that did not come through.
pub(crate) fn of_payload(error: &PayloadError) -> ApiError {
    match error {
        PayloadError::Overflow => ApiError::TooLarge(0),
        PayloadError::Io(e) if e.kind() == std::io::ErrorKind::TimedOut => ApiError::TooSlow,
        _ => ApiError::Unusable("The request did not arrive complete. Try again.".into()),
    }
}

/// JSON bodies: what cannot be read is a problem that says where, and nothing of how we are made.
pub(crate) fn json_config() -> web::JsonConfig {
    web::JsonConfig::default()
        .limit(LARGEST_PICTURE)
        .error_handler(|error, _| {
            let problem = match &error {
                JsonPayloadError::Payload(payload) => of_payload(payload),
                JsonPayloadError::Overflow { limit } => ApiError::TooLarge(*limit),
                JsonPayloadError::OverflowKnownLength { limit, .. } => ApiError::TooLarge(*limit),
                JsonPayloadError::Deserialize(e) if e.line() > 0 => ApiError::Unusable(format!(
                    "The request is not what is expected here: see line {}, column {} of its JSON.",
                    e.line(),
                    e.column()
                )),
                _ => ApiError::Unusable("The request is not JSON, or not what is expected here.".into()),
            };
            problem.into()
        })
}

/// The part of an address behind the question mark.
pub(crate) fn query_config() -> web::QueryConfig {
    web::QueryConfig::default().error_handler(|_, _| {
        ApiError::Unusable("This address is not complete, or was changed.".into()).into()
    })
}

pub(crate) fn path_config() -> web::PathConfig {
    web::PathConfig::default().error_handler(|_, _| ApiError::NotFound.into())
}

/// Whole bodies, for pictures.
pub(crate) fn payload_config() -> web::PayloadConfig {
    web::PayloadConfig::new(LARGEST_PICTURE)
}
