//! The questions of a stop.

use actix_web::{post, web};
use coursework::{CheckedPart, Refusal, Watched};
use school::recordings::{change, get_recording, hand_in_where_asked};
use school::{School, SchoolError};
use serde::{Deserialize, Serialize};
use store::{PersonId, StoredRecording};
use utoipa::ToSchema;
use uuid::Uuid;

use super::watching::{WatchedView, refused, watched_view};
use crate::api::loose::LooseSource;
use crate::api::shared::given::{GivenPart, responses};
use crate::api::shared::loose::loose_question;
use crate::api::shared::question_view::QuestionView;
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

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
    /// `None` where it is passed over.
    question: Option<QuestionView>,
    /// Why it is not asked now.
    passed_over: Option<String>,
    /// It was judged, right or not, or passed over: the stop's question is answered.
    judged: bool,
    right: bool,
    watched: WatchedView,
}

fn passed_over(why: Refusal) -> &'static str {
    match why {
        Refusal::KeptForQuiz => {
            "The question of this stop is kept for a quiz that is open, so it is passed over."
        }
        _ => {
            "The question of this stop is part of homework that is open, and has no other numbers, so it is passed over."
        }
    }
}

/// Notes that a stop's question is answered, and hands in what was only waiting for that.
async fn note_answered(
    school: &School,
    recording: &StoredRecording,
    person: PersonId,
    stop: &str,
    question: usize,
) -> Result<Watched, ApiError> {
    let stops = &recording.stops;
    let changed = change(school, recording, person, |w| w.answer(stops, stop, question));
    let watched = changed.await?.map_err(refused)?;
    if stops.is_done(&watched) {
        hand_in_where_asked(school, recording.id, person).await?;
    }
    Ok(watched)
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
    let (asked, item) = match source.shown(&school, who.0.id).await {
        Ok(shown) => shown,
        // What nobody may ask just now is no reason to stand still: one goes on without it.
        Err(ApiError::School(SchoolError::Refused(
            why @ (Refusal::KeptForQuiz | Refusal::NoOtherNumbers),
        ))) => {
            let watched = note_answered(&school, &recording, who.0.id, &stop, question).await?;
            return Ok(web::Json(StopQuestion {
                question: None,
                passed_over: Some(passed_over(why).to_owned()),
                judged: true,
                right: false,
                watched: watched_view(&recording, &watched),
            }));
        }
        Err(other) => return Err(other),
    };
    let marked = school.mark(who.0.id, &item, given).await?;
    let marked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
    let judged = marked.len() == item.parts.len() && marked.iter().all(|p| p.costs);
    let watched = if judged {
        note_answered(&school, &recording, who.0.id, &stop, question).await?
    } else {
        watched
    };
    Ok(web::Json(StopQuestion {
        passed_over: None,
        judged,
        right: judged && marked.iter().all(|p| p.score >= 1.0),
        question: Some(loose_question(
            0,
            asked.points,
            "stop".into(),
            &item,
            &marked,
            false,
        )),
        watched: watched_view(&recording, &watched),
    }))
}
