//! What goes wrong, as `application/problem+json` (RFC 9457) with a stable code.

use actix_web::http::StatusCode;
use actix_web::http::header;
use actix_web::{HttpMessage, HttpRequest, HttpResponse, ResponseError, web};
use coursework::Refusal;
use serde::{Deserialize, Serialize};
use store::StoreError;
use utoipa::ToSchema;

#[derive(Debug, thiserror::Error)]
pub enum ApiError {
    #[error("not signed in")]
    NotSignedIn,
    #[error("sign-in failed")]
    SignInFailed,
    #[error("too many sign-ins")]
    TooManySignIns { wait_seconds: i64 },
    #[error("not found")]
    NotFound,
    #[error("foreign origin")]
    ForeignOrigin,
    #[error("unusable request: {0}")]
    Unusable(String),
    #[error("too large")]
    TooLarge,
    #[error("refused: {0}")]
    Refused(#[from] Refusal),
    #[error(transparent)]
    Store(#[from] StoreError),
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

impl ApiError {
    fn parts(&self) -> (StatusCode, &'static str, String) {
        match self {
            ApiError::NotSignedIn => (
                StatusCode::UNAUTHORIZED,
                "not_signed_in",
                "Please sign in.".into(),
            ),
            ApiError::SignInFailed => (
                StatusCode::UNAUTHORIZED,
                "sign_in_failed",
                "This user name and password do not go together. Check both and try again.".into(),
            ),
            ApiError::TooManySignIns { wait_seconds } => (
                StatusCode::TOO_MANY_REQUESTS,
                "too_many_sign_ins",
                format!("Too many tries from here. Wait {wait_seconds} seconds, then try again."),
            ),
            ApiError::NotFound => (
                StatusCode::NOT_FOUND,
                "not_found",
                "There is nothing here that you can see.".into(),
            ),
            ApiError::ForeignOrigin => (
                StatusCode::FORBIDDEN,
                "foreign_origin",
                "This request came from another site.".into(),
            ),
            ApiError::Unusable(why) => (StatusCode::BAD_REQUEST, "unusable", why.clone()),
            ApiError::TooLarge => (
                StatusCode::PAYLOAD_TOO_LARGE,
                "too_large",
                "This is too large to be kept: 5 MB at most for a picture.".into(),
            ),
            ApiError::Refused(refusal) => (StatusCode::CONFLICT, refusal.code(), refusal.to_string()),
            ApiError::Store(StoreError::Conflict) => (
                StatusCode::CONFLICT,
                "moved_on",
                "Something else changed this work at the same moment. Nothing was lost; try again.".into(),
            ),
            ApiError::Store(StoreError::Sql(_) | StoreError::Migrate(_) | StoreError::Stored(_))
            | ApiError::Inside(_) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "inside",
                "Something went wrong on our side. What you typed is kept; try again in a moment.".into(),
            ),
        }
    }
}

impl From<sqlx::Error> for ApiError {
    fn from(error: sqlx::Error) -> Self {
        ApiError::Store(error.into())
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        self.parts().0
    }

    fn error_response(&self) -> HttpResponse {
        let (status, code, detail) = self.parts();
        if status.is_server_error() {
            tracing::error!(cause = %self, "failed");
        }
        let mut response = HttpResponse::build(status);
        if let ApiError::TooManySignIns { wait_seconds } = self {
            response.insert_header((header::RETRY_AFTER, wait_seconds.to_string()));
        }
        response.content_type("application/problem+json").json(Problem {
            code: code.into(),
            detail,
            status: status.as_u16(),
        })
    }
}

/// Bytes of a JSON body: the ink of one question is the largest.
const LARGEST_JSON: usize = 3 * 1024 * 1024;

/// JSON bodies within bounds; what cannot be read is a problem, not a page of text.
pub(crate) fn json_config() -> web::JsonConfig {
    web::JsonConfig::default()
        .limit(LARGEST_JSON)
        .error_handler(|error, request| {
            note(request);
            ApiError::Unusable(format!("The request can't be read: {error}")).into()
        })
}

pub(crate) fn path_config() -> web::PathConfig {
    web::PathConfig::default().error_handler(|_, request| {
        note(request);
        ApiError::NotFound.into()
    })
}

fn note(request: &HttpRequest) {
    if let Some(id) = request.extensions().get::<crate::access_log::RequestId>() {
        tracing::debug!(id = %id.0, "unusable request");
    }
}

/// Whole bodies, for pictures.
pub(crate) fn payload_config() -> web::PayloadConfig {
    web::PayloadConfig::new(crate::api::LARGEST_PICTURE)
}
