//! Recordings with stops: shown, watched and answered by students; uploaded and given their stops by teachers.

use std::collections::BTreeMap;

use actix_web::http::StatusCode;
use actix_web::http::header::{self, Header, Range};
use actix_web::{HttpRequest, HttpResponse, get, post, put, web};
use coursework::{CheckedPart, Stop, WatchFault, Watched, parse_captions};
use futures_util::StreamExt;
use school::recordings::{change, get_recording};
use school::{School, SchoolError, mark_parts};
use serde::{Deserialize, Serialize};
use store::{PIECE, RecordingHead, StoredRecording};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::loose::LooseSource;
use super::shared::given::{GivenPart, responses};
use super::shared::loose::loose_question;
use super::shared::question_view::QuestionView;
use crate::http::auth::{SignedIn, Teacher};
use crate::http::error::{ApiError, Problem, of_payload};

/// Bytes given out at once: a player asks for the next when it needs them.
const MOST_AT_ONCE: u64 = 4 * 1024 * 1024;
const LONGEST_TITLE: usize = 120;
const LONGEST_CAPTIONS: usize = 400_000;
const MOST_STOPS: usize = 60;
/// Seconds of a recording: three hours.
const LONGEST: f64 = 10_800.0;

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

fn watched_view(recording: &StoredRecording, watched: &Watched) -> WatchedView {
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

fn refused(fault: WatchFault) -> ApiError {
    ApiError::Unusable(fault.to_string())
}

/// A recording as far as one is with it.
#[utoipa::path(path = "/api/recordings/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = RecordingToWatch), (status = 404, body = Problem)))]
#[get("/recordings/{id}")]
pub(crate) async fn get_recording_view(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<RecordingToWatch>, ApiError> {
    let recording = get_recording(&school, *id).await?;
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

#[derive(Deserialize, ToSchema)]
pub(crate) struct StopAnswer {
    /// Which of the stop's questions, from 0.
    question: usize,
    /// Empty to be shown the question.
    #[serde(default)]
    parts: Vec<GivenPart>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StopQuestion {
    question: QuestionView,
    title: String,
    /// It was judged, right or not: the stop's question is answered.
    judged: bool,
    right: bool,
    watched: WatchedView,
}

/// A question of a stop that was come to, with what was entered marked. A judged answer answers it, right or not; it can be
/// answered again.
#[utoipa::path(path = "/api/recordings/{id}/stops/{stop}", params(("id" = Uuid, Path), ("stop" = String, Path)),
    request_body = StopAnswer,
    responses((status = 200, body = StopQuestion), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/recordings/{id}/stops/{stop}")]
pub(crate) async fn answer_stop(
    school: web::Data<School>,
    who: SignedIn,
    path: web::Path<(Uuid, String)>,
    body: web::Json<StopAnswer>,
) -> Result<web::Json<StopQuestion>, ApiError> {
    let (id, stop) = path.into_inner();
    let recording = get_recording(&school, id).await?;
    let StopAnswer { question, parts } = body.into_inner();
    let given: Vec<_> = responses(parts)?
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let (watched, _) = store::watched(&school.pool, id, who.0.id).await?;
    // A stop that was not come to is not shown either.
    watched
        .clone()
        .answer(&recording.stops, &stop, question)
        .map_err(refused)?;
    let source = LooseSource::Stop {
        recording: id,
        stop: stop.clone(),
        question,
    };
    let (asked, item) = source.shown(&school, who.0.id).await?;
    school.run_programs(who.0.id, &item, &given).await?;
    let marker = item.clone();
    let marked: Vec<CheckedPart> = school
        .compute(who.0.id, move || {
            mark_parts(&marker, given).iter().map(CheckedPart::new).collect()
        })
        .await?;
    let judged = marked.len() == item.parts.len() && marked.iter().all(|p| p.costs);
    let watched = if judged {
        let stops = &recording.stops;
        change(&school, &recording, who.0.id, |w| {
            w.answer(stops, &stop, question)
        })
        .await?
        .map_err(refused)?
    } else {
        watched
    };
    if recording.stops.is_done(&watched) {
        school::recordings::hand_in_where_asked(&school, recording.id, who.0.id).await?;
    }
    Ok(web::Json(StopQuestion {
        title: asked.title.clone(),
        judged,
        right: judged && marked.iter().all(|p| p.score >= 1.0),
        question: loose_question(0, asked.points, "stop".into(), &item, &marked, false),
        watched: watched_view(&recording, &watched),
    }))
}

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

fn title_of(title: &str) -> Result<&str, ApiError> {
    let title = title.trim();
    let fits =
        !title.is_empty() && title.chars().count() <= LONGEST_TITLE && !title.chars().any(char::is_control);
    fits.then_some(title)
        .ok_or_else(|| ApiError::Unusable("A recording has a title, of 120 characters at most.".into()))
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

/// Uploads a recording, WebM of 200 MB at most. It is kept piece by piece as it comes in.
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
    let mut tx = school.pool.begin().await.map_err(store::StoreError::from)?;
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
                    *id.insert(store::add_recording(&mut tx, &head, school.now()).await?)
                }
            };
            let rest = held.split_off(held.len().min(PIECE));
            store::add_piece(&mut tx, recording, number, &held).await?;
            number += 1;
            held = rest;
        }
        if ended {
            break;
        }
    }
    let id = id.ok_or_else(|| ApiError::Unusable("This file is empty.".into()))?;
    tx.commit().await.map_err(store::StoreError::from)?;
    Ok(web::Json(MadeRecording { id }))
}

/// A recording as its teacher changes it.
#[derive(Serialize, ToSchema)]
pub(crate) struct EditRecording {
    id: Uuid,
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
            return refuse("A stop lies outside the recording.".into());
        }
        if stop.questions.is_empty() || stop.questions.len() > 5 {
            return refuse("A stop asks one to five questions.".into());
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
