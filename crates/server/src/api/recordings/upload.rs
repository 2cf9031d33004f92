//! A recording comes in, piece by piece.

use actix_web::{post, web};
use futures_util::StreamExt;
use school::School;
use serde::{Deserialize, Serialize};
use store::{PIECE, RecordingHead};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::desk::title_of;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem, of_payload};

/// Seconds of a recording: three hours.
const LONGEST: f64 = 10_800.0;
/// An upload that began longer ago than this, and did not end, broke off.
const BROKEN_OFF: time::Duration = time::Duration::hours(6);

#[derive(Deserialize, IntoParams)]
pub(crate) struct NewRecording {
    title: String,
    /// How long it is, as the browser reads it.
    seconds: f64,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MadeRecording {
    id: Uuid,
}

/// What a WebM file holds: its head names the tracks, `V_` for pictures.
fn webm_type(head: &[u8]) -> Option<&'static str> {
    if !head.starts_with(&[0x1a, 0x45, 0xdf, 0xa3]) {
        return None;
    }
    let has = |what: &[u8]| head.windows(what.len()).any(|w| w == what);
    match (has(b"webm"), has(b"V_VP8") || has(b"V_VP9") || has(b"V_AV1")) {
        (false, _) => None,
        (true, true) => Some("video/webm"),
        (true, false) => Some("audio/webm"),
    }
}

/// Uploads a recording, WebM of 200 MB at most. It is kept piece by piece as it comes in, and is there once
/// it is whole.
#[utoipa::path(path = "/api/bank-recordings", params(NewRecording),
    request_body(content = Vec<u8>, content_type = "video/webm"),
    responses((status = 200, body = MadeRecording), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 413, body = Problem)))]
#[post("/bank-recordings")]
pub(crate) async fn upload_recording(
    school: web::Data<School>,
    who: Teacher,
    query: web::Query<NewRecording>,
    mut body: web::Payload,
) -> Result<web::Json<MadeRecording>, ApiError> {
    let title = title_of(&query.title)?;
    if !(0.5..=LONGEST).contains(&query.seconds) {
        return Err(ApiError::Unusable(
            "A recording is three hours long at most.".into(),
        ));
    }
    // What broke off earlier is in nobody's way, and goes.
    store::drop_broken_uploads(&school.pool, school.now() - BROKEN_OFF).await?;
    let mut id = None;
    let mut held: Vec<u8> = Vec::with_capacity(PIECE);
    let mut number = 0;
    loop {
        let next = body.next().await;
        let ended = next.is_none();
        if let Some(bytes) = next {
            held.extend_from_slice(&bytes.map_err(|e| of_payload(&e))?);
        }
        while held.len() >= PIECE || (ended && !held.is_empty()) {
            let recording = match id {
                Some(id) => id,
                None => {
                    let kind = webm_type(&held).ok_or_else(|| {
                        ApiError::Unusable(
                            "This is no WebM file. Save the recording as WebM and try again.".into(),
                        )
                    })?;
                    let head = RecordingHead {
                        id: None,
                        slug: None,
                        title,
                        media_type: kind,
                        seconds: query.seconds,
                        captions: "",
                        stops: &[],
                        made_by: Some(who.0.id),
                    };
                    *id.insert(store::add_recording(&school.pool, &head, school.now()).await?)
                }
            };
            let rest = held.split_off(held.len().min(PIECE));
            store::add_piece(&school.pool, recording, number, &held).await?;
            number += 1;
            held = rest;
        }
        if ended {
            break;
        }
    }
    let id = id.ok_or_else(|| ApiError::Unusable("This file is empty.".into()))?;
    store::finish_recording(&school.pool, id).await?;
    Ok(web::Json(MadeRecording { id }))
}
