//! The teacher's desk: the recordings there are, their stops and captions, and how they went.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, put, web};
use coursework::{Stop, parse_captions};
use school::recordings::get_recording;
use school::{School, SchoolError};
use serde::{Deserialize, Serialize};
use store::StoredRecording;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

const LONGEST_TITLE: usize = 120;
const LONGEST_CAPTIONS: usize = 400_000;
const MOST_STOPS: usize = 60;

#[derive(Serialize, ToSchema)]
pub(crate) struct BankRecordings {
    recordings: Vec<BankRecording>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BankRecording {
    id: Uuid,
    title: String,
    seconds: f64,
    stops: usize,
}

/// Every recording there is.
#[utoipa::path(path = "/api/bank-recordings",
    responses((status = 200, body = BankRecordings), (status = 404, body = Problem)))]
#[get("/bank-recordings")]
pub(crate) async fn get_bank_recordings(
    school: web::Data<School>,
    _who: Teacher,
) -> Result<web::Json<BankRecordings>, ApiError> {
    let all = store::recordings(&school.pool).await?;
    let one = |(id, title, seconds, stops)| BankRecording {
        id,
        title,
        seconds,
        stops,
    };
    Ok(web::Json(BankRecordings {
        recordings: all.into_iter().map(one).collect(),
    }))
}

pub(super) fn title_of(title: &str) -> Result<&str, ApiError> {
    let title = title.trim();
    let fits =
        !title.is_empty() && title.chars().count() <= LONGEST_TITLE && !title.chars().any(char::is_control);
    fits.then_some(title)
        .ok_or_else(|| ApiError::Unusable("A recording has a title, of 120 characters at most.".into()))
}

/// A recording as its teacher changes it.
#[derive(Serialize, ToSchema)]
pub(crate) struct EditRecording {
    id: Uuid,
    /// What a page or a question calls it.
    name: String,
    title: String,
    address: String,
    pictures: bool,
    seconds: f64,
    /// WebVTT.
    captions: String,
    stops: Vec<EditStop>,
    version: i32,
    went: RecordingWent,
}

#[derive(Clone, Serialize, Deserialize, ToSchema)]
pub(crate) struct EditStop {
    id: String,
    at: f64,
    questions: Vec<String>,
}

/// How students of one's classes went through it.
#[derive(Serialize, ToSchema)]
pub(crate) struct RecordingWent {
    students: Vec<StudentWatched>,
    /// In stretches of a twentieth of it: how many saw it, paused, went back, left.
    stretches: Vec<StretchWent>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StudentWatched {
    name: String,
    percent: f64,
    at: f64,
    stops_answered: usize,
    done: bool,
    #[serde(with = "time::serde::rfc3339")]
    changed_at: time::OffsetDateTime,
}

#[derive(Clone, Default, Serialize, ToSchema)]
pub(crate) struct StretchWent {
    from: f64,
    to: f64,
    saw: usize,
    paused: usize,
    back: usize,
    /// Stopped here and did not come back since.
    left: usize,
}

/// Stretches that how it went is told in.
const STRETCHES: u32 = 20;

async fn went(
    school: &School,
    who: &Teacher,
    recording: &StoredRecording,
) -> Result<RecordingWent, ApiError> {
    let all = store::watched_in_classes_of(&school.pool, recording.id, who.0.id).await?;
    let acts = store::watch_acts_in_classes_of(&school.pool, recording.id, who.0.id).await?;
    let stops = &recording.stops;
    let width = stops.seconds / f64::from(STRETCHES);
    let stretches = (0..STRETCHES).map(|n| {
        let (from, to) = (f64::from(n) * width, f64::from(n + 1) * width);
        let here = |place: f64| place >= from && (place < to || n + 1 == STRETCHES);
        let count = |what: &str| {
            acts.iter()
                .filter(|(did, place)| did == what && here(*place))
                .count()
        };
        let middle = f64::midpoint(from, to);
        StretchWent {
            from,
            to,
            saw: all
                .iter()
                .filter(|w| w.watched.seen.iter().any(|(a, b)| *a <= middle && middle <= *b))
                .count(),
            paused: count("paused"),
            back: count("back"),
            left: all
                .iter()
                .filter(|w| !stops.is_done(&w.watched) && here(w.watched.at))
                .count(),
        }
    });
    let stretches = stretches.collect();
    let student = |w: store::WatchedBy| StudentWatched {
        percent: (100.0 * stops.share(&w.watched)).floor(),
        at: w.watched.at,
        stops_answered: stops.stops.iter().filter(|s| w.watched.has_answered(s)).count(),
        done: stops.is_done(&w.watched),
        name: w.name,
        changed_at: w.changed_at,
    };
    Ok(RecordingWent {
        students: all.into_iter().map(student).collect(),
        stretches,
    })
}

/// A recording to be changed, and how it went.
#[utoipa::path(path = "/api/bank-recordings/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = EditRecording), (status = 404, body = Problem)))]
#[get("/bank-recordings/{id}")]
pub(crate) async fn get_bank_recording(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<EditRecording>, ApiError> {
    let recording = get_recording(&school, *id).await?;
    let went = went(&school, &who, &recording).await?;
    let stop = |s: &Stop| EditStop {
        id: s.id.clone(),
        at: s.at,
        questions: s.questions.clone(),
    };
    Ok(web::Json(EditRecording {
        id: recording.id,
        name: recording.slug.clone().unwrap_or_else(|| recording.id.to_string()),
        title: recording.title.clone(),
        address: format!("/api/recordings/{}/media", recording.id),
        pictures: recording.media_type.starts_with("video/"),
        seconds: recording.stops.seconds,
        captions: recording.captions.clone(),
        stops: recording.stops.stops.iter().map(stop).collect(),
        version: recording.version,
        went,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SaveRecording {
    version: i32,
    title: String,
    captions: String,
    stops: Vec<EditStop>,
}

/// Minutes and seconds, as they stand beside a stop.
fn clock(at: f64) -> String {
    let seconds = at.clamp(0.0, 86_400.0).floor();
    format!("{}:{:02}", (seconds / 60.0).floor(), seconds % 60.0)
}

async fn stops_of(school: &School, seconds: f64, given: Vec<EditStop>) -> Result<Vec<Stop>, ApiError> {
    let refuse = |words: String| Err(ApiError::Unusable(words));
    if given.len() > MOST_STOPS {
        return refuse("A recording has at most 60 stops.".into());
    }
    let known: BTreeMap<String, bool> = school
        .bank()
        .await?
        .into_iter()
        .map(|(_, q)| (q.id.clone(), q.is_by_hand()))
        .collect();
    let mut stops: Vec<Stop> = Vec::new();
    for stop in given {
        let is_id = !stop.id.is_empty()
            && stop.id.len() <= 40
            && stop.id.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
        if !is_id || stops.iter().any(|s| s.id == stop.id) {
            return refuse("Each stop has a name of its own: letters, digits and hyphens.".into());
        }
        if !stop.at.is_finite() || stop.at < 0.0 || stop.at > seconds {
            return refuse(format!(
                "The stop at {} lies outside the recording.",
                clock(stop.at)
            ));
        }
        if stop.questions.is_empty() || stop.questions.len() > 5 {
            return refuse(format!(
                "The stop at {} needs one to five questions.",
                clock(stop.at)
            ));
        }
        for question in &stop.questions {
            match known.get(question) {
                None => return refuse(format!("There is no question `{question}` in the bank.")),
                Some(true) => {
                    return refuse(format!("`{question}` is marked by a person: nobody could go on."));
                }
                Some(false) => {}
            }
        }
        stops.push(Stop {
            id: stop.id,
            at: stop.at,
            questions: stop.questions,
        });
    }
    stops.sort_by(|a, b| a.at.total_cmp(&b.at));
    Ok(stops)
}

/// Saves what a recording is called, its captions and its stops. What students saw of it stays.
#[utoipa::path(path = "/api/bank-recordings/{id}", params(("id" = Uuid, Path)), request_body = SaveRecording,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[put("/bank-recordings/{id}")]
pub(crate) async fn save_recording(
    school: web::Data<School>,
    _who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<SaveRecording>,
) -> Result<HttpResponse, ApiError> {
    let recording = get_recording(&school, *id).await?;
    let SaveRecording {
        version,
        title,
        captions,
        stops,
    } = body.into_inner();
    let title = title_of(&title)?;
    let captions = captions.replace('\0', "");
    if captions.len() > LONGEST_CAPTIONS {
        return Err(ApiError::Unusable(
            "The captions are too long: 400 kB at most.".into(),
        ));
    }
    parse_captions(&captions).map_err(|e| ApiError::Unusable(format!("The captions can't be read: {e}.")))?;
    let stops = stops_of(&school, recording.stops.seconds, stops).await?;
    if store::set_recording(&school.pool, recording.id, version, title, &captions, &stops).await? {
        Ok(HttpResponse::NoContent().finish())
    } else {
        Err(SchoolError::from(store::StoreError::Conflict).into())
    }
}
