//! A recording as somebody watches it: what was seen, how far one may go.

use actix_web::{get, post, web};
use coursework::{Goal, Stop, WatchFault, Watched, parse_captions, terms};
use school::recordings::{change, get_recording, named_recording};
use school::{Glance, School};
use serde::{Deserialize, Serialize};
use store::StoredRecording;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct RecordingToWatch {
    id: Uuid,
    title: String,
    address: String,
    /// It has pictures, not sound alone.
    pictures: bool,
    seconds: f64,
    cues: Vec<CueView>,
    stops: Vec<StopView>,
    watched: WatchedView,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CueView {
    start: f64,
    end: f64,
    text: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StopView {
    id: String,
    at: f64,
    questions: usize,
    /// How many of them were answered.
    answered: usize,
}

/// What one saw of a recording, and how far one may go.
#[derive(Serialize, ToSchema)]
pub(crate) struct WatchedView {
    at: f64,
    /// Stretches, in seconds.
    #[schema(value_type = Vec<Vec<f64>>)]
    seen: Vec<(f64, f64)>,
    may_go_to: f64,
    /// The stop that waits for an answer, if one was come to.
    waiting: Option<String>,
    /// 0 to 100.
    percent: f64,
    done: bool,
}

pub(super) fn watched_view(recording: &StoredRecording, watched: &Watched) -> WatchedView {
    let stops = &recording.stops;
    let may_go_to = stops.may_go_to(watched);
    let come_to = stops
        .waiting(watched)
        .filter(|s| s.at <= may_go_to + coursework::SLACK);
    WatchedView {
        at: watched.at,
        seen: watched.seen.clone(),
        may_go_to,
        waiting: come_to.map(|s| s.id.clone()),
        percent: (100.0 * stops.share(watched)).floor(),
        done: stops.is_done(watched),
    }
}

pub(super) fn refused(fault: WatchFault) -> ApiError {
    ApiError::Unusable(fault.to_string())
}

/// A recording as far as one is with it, by its id or by the name of one that ships.
#[utoipa::path(path = "/api/recordings/{name}", params(("name" = String, Path)),
    responses((status = 200, body = RecordingToWatch), (status = 404, body = Problem)))]
#[get("/recordings/{name}")]
pub(crate) async fn get_recording_view(
    school: web::Data<School>,
    who: SignedIn,
    name: web::Path<String>,
) -> Result<web::Json<RecordingToWatch>, ApiError> {
    let recording = named_recording(&school, &name).await?;
    let (watched, _) = store::watched(&school.pool, recording.id, who.0.id).await?;
    let stop = |s: &Stop| StopView {
        id: s.id.clone(),
        at: s.at,
        questions: s.questions.len(),
        answered: (0..s.questions.len())
            .filter(|n| watched.answered.contains(&(s.id.clone(), *n)))
            .count(),
    };
    let cues = parse_captions(&recording.captions).unwrap_or_default();
    Ok(web::Json(RecordingToWatch {
        id: recording.id,
        title: recording.title.clone(),
        address: format!("/api/recordings/{}/media", recording.id),
        pictures: recording.media_type.starts_with("video/"),
        seconds: recording.stops.seconds,
        cues: cues
            .into_iter()
            .map(|c| CueView {
                start: c.start,
                end: c.end,
                text: c.text,
            })
            .collect(),
        stops: recording.stops.stops.iter().map(stop).collect(),
        watched: watched_view(&recording, &watched),
    }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct WatchWorks {
    works: Vec<WatchWork>,
}

/// An assignment whose goal is to watch a recording.
#[derive(Serialize, ToSchema)]
pub(crate) struct WatchWork {
    id: Uuid,
    title: String,
    class_title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    /// Of the hand-in that counts.
    #[serde(with = "time::serde::rfc3339::option")]
    handed_in_at: Option<OffsetDateTime>,
}

/// The assignments that a recording is set as, the one that is due first before the others.
#[utoipa::path(path = "/api/recordings/{id}/works", params(("id" = Uuid, Path)),
    responses((status = 200, body = WatchWorks), (status = 404, body = Problem)))]
#[get("/recordings/{id}/works")]
pub(crate) async fn get_recording_works(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<WatchWorks>, ApiError> {
    let recording = get_recording(&school, *id).await?;
    let glances = Glance::all(&school, who.0.id).await?;
    let is_it = |g: &&Glance| matches!(&g.assignment.settings.goal, Some(Goal::Watch { recording: of, .. }) if *of == recording.id);
    let view = |g: &Glance| WatchWork {
        id: g.stored.head.id,
        title: g.stored.head.title.clone(),
        class_title: g.stored.head.class_title.clone(),
        due: terms(&g.assignment, &g.work).due,
        handed_in_at: g.work.counting_hand_in(&g.assignment).map(|h| h.at),
    };
    Ok(web::Json(WatchWorks {
        works: glances.iter().filter(is_it).map(view).collect(),
    }))
}

#[derive(Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum WatchDid {
    /// Begins to play at a place, or moves there.
    Went,
    Paused,
    Back,
    Left,
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PlayedRequest {
    /// A stretch that was played up to now; both the same where one only moves.
    from: f64,
    to: f64,
    #[serde(default)]
    did: Option<WatchDid>,
}

/// Takes in what was played. What the time that passed does not allow is not believed, nor what lies past a stop that waits.
#[utoipa::path(path = "/api/recordings/{id}/played", params(("id" = Uuid, Path)), request_body = PlayedRequest,
    responses((status = 200, body = WatchedView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/recordings/{id}/played")]
pub(crate) async fn note_played(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<PlayedRequest>,
) -> Result<web::Json<WatchedView>, ApiError> {
    let recording = get_recording(&school, *id).await?;
    let PlayedRequest { from, to, did } = body.into_inner();
    let now = school.now();
    let stops = &recording.stops;
    let moves = matches!(did, Some(WatchDid::Went | WatchDid::Back));
    let changed = change(&school, &recording, who.0.id, |watched| match moves {
        true => watched.go_to(stops, to, now),
        false => watched.played(stops, from, to, now),
    });
    let watched = changed.await?.map_err(refused)?;
    let told = match did {
        Some(WatchDid::Paused) => Some("paused"),
        Some(WatchDid::Back) => Some("back"),
        Some(WatchDid::Left) => Some("left"),
        Some(WatchDid::Went) | None => None,
    };
    if let Some(told) = told {
        store::note_watch_act(&school.pool, recording.id, who.0.id, told, to, now).await?;
    }
    if stops.is_done(&watched) {
        school::recordings::hand_in_where_asked(&school, recording.id, who.0.id).await?;
    }
    Ok(web::Json(watched_view(&recording, &watched)))
}
