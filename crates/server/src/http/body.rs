//! Bodies within bounds: of size, by route, and of time. Nobody holds memory or a connection by sending slowly.

use std::time::Duration;

use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::error::PayloadError;
use actix_web::http::Method;
use actix_web::http::header::CONTENT_LENGTH;
use actix_web::middleware::Next;
use actix_web::web::Bytes;
use actix_web::{HttpMessage, ResponseError, web};
use futures_util::stream::{self, StreamExt};

use school::sign_in::{token_hash, who_is};
use school::{Cost, School, Turn};

use super::auth::token;
use super::error::ApiError;
use super::limits::LARGEST_PICTURE;

/// Name and password.
const SIGN_IN: usize = 4 * 1024;
/// One question's answers.
const MOST: usize = 256 * 1024;
/// The ink of one question, with its notes.
const INK: usize = 800 * 1024;

/// A recording.
const RECORDING: usize = 200 * 1024 * 1024;
const TIME_FOR_RECORDING: Duration = Duration::from_secs(1_800);

/// For a whole body; a picture over a slow line takes longest.
const TIME: Duration = Duration::from_secs(20);
const TIME_FOR_LARGE: Duration = Duration::from_secs(120);

fn limit(path: &str) -> (usize, Duration) {
    match path {
        "/api/session" => (SIGN_IN, TIME),
        "/api/bank-recordings" => (RECORDING, TIME_FOR_RECORDING),
        p if p.ends_with("/workings") || p.contains("/paper/") => (INK, TIME_FOR_LARGE),
        p if p.ends_with("/pictures") || p.ends_with("/files") || p == "/api/bank/import" => {
            (LARGEST_PICTURE, TIME_FOR_LARGE)
        }
        _ => (MOST, TIME),
    }
}

fn holds_nul(address: &str) -> bool {
    address.contains("%00") || address.contains('\0')
}

/// What takes memory, and a connection to the database, for each body: one at a time of each person.
fn is_large(request: &ServiceRequest) -> bool {
    limit(request.path()).0 > MOST && request.method() != Method::GET
}

/// A turn for a large body, of whoever is signed in; others are refused anyhow.
async fn writing_turn(request: &ServiceRequest) -> Result<Option<Turn>, ApiError> {
    let school = request.app_data::<web::Data<School>>();
    let (Some(school), Some(token)) = (school, token(request.request())) else {
        return Ok(None);
    };
    let Ok(person) = who_is(school, &token_hash(&token)).await else {
        return Ok(None);
    };
    Ok(Some(school.turn(Cost::Writing, person.id).await?))
}

/// Ends a body that is too long or too slow; extractors turn that into a problem.
pub(crate) async fn within_bounds<B: MessageBody>(
    mut request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<actix_web::body::EitherBody<B>>, actix_web::Error> {
    // No name and no id has it, and the database takes none.
    if holds_nul(request.uri().path()) || holds_nul(request.query_string()) {
        let response = ApiError::NotFound.error_response();
        return Ok(request.into_response(response).map_into_right_body());
    }
    let (most, time) = limit(request.path());
    let said = request
        .headers()
        .get(CONTENT_LENGTH)
        .and_then(|v| v.to_str().ok()?.parse::<usize>().ok());
    if said.is_some_and(|n| n > most) {
        let response = ApiError::TooLarge(most).error_response();
        return Ok(request.into_response(response).map_into_right_body());
    }
    // Nothing of it is read before: what waits is held by the one who sends it.
    let _turn = match is_large(&request) {
        true => match writing_turn(&request).await {
            Ok(turn) => turn,
            Err(error) => {
                let response = error.error_response();
                return Ok(request.into_response(response).map_into_right_body());
            }
        },
        false => None,
    };
    let payload = request.take_payload();
    let deadline = tokio::time::Instant::now() + time;
    let bounded = stream::unfold(
        (payload, 0usize, false),
        move |(mut payload, read, over)| async move {
            if over {
                return None;
            }
            let Ok(next) = tokio::time::timeout_at(deadline, payload.next()).await else {
                let slow = PayloadError::Io(std::io::Error::from(std::io::ErrorKind::TimedOut));
                return Some((Err(slow), (payload, read, true)));
            };
            match next? {
                Ok(bytes) => {
                    let read = read + bytes.len();
                    let fits = read <= most;
                    let item: Result<Bytes, PayloadError> = if fits {
                        Ok(bytes)
                    } else {
                        Err(PayloadError::Overflow)
                    };
                    Some((item, (payload, read, !fits)))
                }
                Err(error) => Some((Err(error), (payload, read, true))),
            }
        },
    );
    request.set_payload(Payload::from(
        Box::pin(bounded) as std::pin::Pin<Box<dyn stream::Stream<Item = _>>>
    ));
    next.call(request).await.map(ServiceResponse::map_into_left_body)
}
