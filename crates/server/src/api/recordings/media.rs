//! The media of a recording, by ranges.

use actix_web::http::StatusCode;
use actix_web::http::header::{self, Header, Range};
use actix_web::{HttpRequest, HttpResponse, get, web};
use school::School;
use school::recordings::get_recording;
use store::PIECE;
use uuid::Uuid;

use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Bytes given out at once: a player asks for the next when it needs them.
const MOST_AT_ONCE: u64 = 4 * 1024 * 1024;

/// The part of a recording that a player asks for; never more than it needs for a while.
#[utoipa::path(path = "/api/recordings/{id}/media", params(("id" = Uuid, Path)),
    responses((status = 206, body = Vec<u8>, content_type = "video/webm"), (status = 404, body = Problem),
        (status = 416, body = Problem)))]
#[get("/recordings/{id}/media")]
pub(crate) async fn get_recording_media(
    school: web::Data<School>,
    _who: SignedIn,
    request: HttpRequest,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let recording = get_recording(&school, *id).await?;
    let size = recording.size;
    let asked = match Range::parse(&request) {
        Ok(Range::Bytes(specs)) if specs.len() == 1 => specs.first().map(|s| s.to_satisfiable_range(size)),
        _ => None,
    };
    let (from, to) = match asked {
        Some(None) => {
            return Ok(HttpResponse::build(StatusCode::RANGE_NOT_SATISFIABLE)
                .insert_header((header::CONTENT_RANGE, format!("bytes */{size}")))
                .finish());
        }
        Some(Some(range)) => range,
        None => (0, size.saturating_sub(1)),
    };
    let to = to.min(from.saturating_add(MOST_AT_ONCE - 1));
    let piece = PIECE as u64;
    let number = |byte: u64| i32::try_from(byte / piece).unwrap_or(i32::MAX);
    let pieces = store::pieces(&school.pool, recording.id, number(from), number(to)).await?;
    let skipped = usize::try_from(from % piece).unwrap_or(0);
    let length = usize::try_from(to - from + 1).unwrap_or(0);
    let body: Vec<u8> = pieces.concat().into_iter().skip(skipped).take(length).collect();
    Ok(HttpResponse::PartialContent()
        .insert_header((header::CONTENT_TYPE, recording.media_type))
        .insert_header((header::CONTENT_RANGE, format!("bytes {from}-{to}/{size}")))
        .insert_header((header::ACCEPT_RANGES, "bytes"))
        .insert_header((header::CONTENT_ENCODING, "identity"))
        .insert_header((header::CACHE_CONTROL, "private, max-age=3600"))
        .body(body))
}
