//! Questions as text: what is wrong with one that is being written, a picture of it, and its versions.

use std::collections::BTreeMap;

use actix_web::{get, post, put, web};
use school::{School, bank, mark_parts};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;

use super::{LookedAt, kind_name, looked_at};
use crate::api::shared::given::{GivenPart, responses};
use crate::api::shared::read::{ReadView, read_in};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// A question's text, and its versions.
#[derive(Serialize, ToSchema)]
pub(crate) struct TextView {
    id: String,
    text: String,
    /// The newest first.
    versions: Vec<VersionView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct VersionView {
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    by: Option<String>,
    text: String,
    /// Assignments that use it, with their classes.
    uses: Vec<String>,
}

/// The text of a question, to be edited.
#[utoipa::path(path = "/api/bank/{slug}/text", params(("slug" = String, Path)),
    responses((status = 200, body = TextView), (status = 404, body = Problem)))]
#[get("/bank/{slug}/text")]
pub(crate) async fn get_text(
    school: web::Data<School>,
    _who: Teacher,
    slug: web::Path<String>,
) -> Result<web::Json<TextView>, ApiError> {
    let mut versions = Vec::new();
    for v in store::versions_of(&school.pool, &slug).await? {
        let text = match v.source {
            Some(text) => text,
            None => bank::text_of(school.question(v.id).await?.as_ref()),
        };
        versions.push(VersionView {
            at: v.at,
            by: v.by,
            text,
            uses: v.uses,
        });
    }
    let newest = versions.first().ok_or(ApiError::NotFound)?;
    Ok(web::Json(TextView {
        id: slug.into_inner(),
        text: newest.text.clone(),
        versions,
    }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct StartersView {
    starters: Vec<Starter>,
}

/// A question to start from: the shortest of the bank that is answered in this way alone.
#[derive(Serialize, ToSchema)]
pub(crate) struct Starter {
    kind: String,
    text: String,
}

/// A question to start from, for each kind of answer.
#[utoipa::path(path = "/api/bank/starters", responses((status = 200, body = StartersView), (status = 404, body = Problem)))]
#[get("/bank/starters")]
pub(crate) async fn get_starters(
    school: web::Data<School>,
    _who: Teacher,
) -> Result<web::Json<StartersView>, ApiError> {
    let mut shortest: BTreeMap<String, (usize, store::QuestionId)> = BTreeMap::new();
    for (id, question) in school.bank().await? {
        let mut kinds: Vec<String> = question.parts.iter().map(|p| kind_name(&p.interaction)).collect();
        kinds.dedup();
        if let [kind] = kinds.as_slice() {
            let length = serde_json::to_string(question.as_ref()).map_or(usize::MAX, |t| t.len());
            let best = shortest.entry(kind.clone()).or_insert((length, id));
            if length < best.0 {
                *best = (length, id);
            }
        }
    }
    let mut starters = Vec::new();
    for (kind, (_, id)) in shortest {
        let question = school.question(id).await?;
        let versions = store::versions_of(&school.pool, &question.id).await?;
        let source = versions.into_iter().find(|v| v.id == id).and_then(|v| v.source);
        let text = source.unwrap_or_else(|| bank::text_of(&question));
        let old = format!("id: {}", question.id);
        starters.push(Starter {
            text: text.replacen(&old, "id: a-new-question", 1),
            kind,
        });
    }
    Ok(web::Json(StartersView { starters }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TextFaultView {
    /// From 1.
    line: usize,
    words: String,
}

impl From<bank::TextFault> for TextFaultView {
    fn from(f: bank::TextFault) -> Self {
        TextFaultView {
            line: f.line,
            words: f.words,
        }
    }
}

/// A text that is being written, to be looked at.
#[derive(Deserialize, ToSchema)]
pub(crate) struct TryText {
    text: String,
    seed: u32,
    #[serde(default)]
    parts: Vec<GivenPart>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TriedText {
    faults: Vec<TextFaultView>,
    /// Nothing where it cannot be drawn.
    shown: Option<LookedAt>,
}

/// Shows a text as a student would have it, with what the marker says to what is entered. Nothing is kept.
#[utoipa::path(path = "/api/bank/try", request_body = TryText,
    responses((status = 200, body = TriedText), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/try")]
pub(crate) async fn try_text(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<TryText>,
) -> Result<web::Json<TriedText>, ApiError> {
    let TryText { text, seed, parts } = body.into_inner();
    let given: Vec<_> = responses(parts)?
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let tried = school
        .check_for_author(who.0.id, move || {
            let fault = |f: bank::TextFault| TriedText {
                faults: vec![f.into()],
                shown: None,
            };
            let question = match bank::read_text(&text) {
                Ok(question) => question,
                Err(found) => return fault(found),
            };
            match marking::render(&question, u64::from(seed)) {
                Ok(item) => TriedText {
                    faults: Vec::new(),
                    shown: Some(looked_at(&question, &item, &mark_parts(&item, given))),
                },
                Err(_) => TriedText {
                    faults: bank::check_text(&text).into_iter().map(Into::into).collect(),
                    shown: None,
                },
            }
        })
        .await?;
    Ok(web::Json(tried))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct ReadInText {
    text: String,
    part: String,
    entry: String,
}

/// How an entry reads in a text that is being written.
#[utoipa::path(path = "/api/bank/try/read", request_body = ReadInText,
    responses((status = 200, body = ReadView), (status = 400, body = Problem),
        (status = 404, body = Problem)))]
#[post("/bank/try/read")]
pub(crate) async fn read_in_text(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<ReadInText>,
) -> Result<web::Json<ReadView>, ApiError> {
    let ReadInText { text, part, entry } = body.into_inner();
    let drawn = move || {
        let question = bank::read_text(&text).ok()?;
        marking::render(&question, 1).ok()
    };
    let item = school.compute(who.0.id, drawn).await?;
    let item = item.ok_or_else(|| ApiError::Unusable("The question can't be drawn as it stands.".into()))?;
    let item = std::sync::Arc::new(item);
    Ok(web::Json(read_in(&school, who.0.id, item, part, entry).await?))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct SaveText {
    text: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SavedText {
    id: String,
    /// Why it was not saved.
    faults: Vec<TextFaultView>,
    /// It is another version than before.
    is_new: bool,
}

/// Saves a text as the newest version of its question, once it has no faults. What is given out stays as it is.
#[utoipa::path(path = "/api/bank", request_body = SaveText,
    responses((status = 200, body = SavedText), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/bank")]
pub(crate) async fn save_text(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<SaveText>,
) -> Result<web::Json<SavedText>, ApiError> {
    let text = body.into_inner().text.replace('\0', "");
    let checked = text.clone();
    let (read, faults) = school
        .check_for_author(who.0.id, move || {
            (bank::read_text(&checked), bank::check_text(&checked))
        })
        .await?;
    let faults = match &read {
        Ok(question) if faults.is_empty() => bank::missing_uploads(&school, question, &text).await?,
        _ => faults,
    };
    let (Ok(question), true) = (read, faults.is_empty()) else {
        return Ok(web::Json(SavedText {
            id: String::new(),
            faults: faults.into_iter().map(Into::into).collect(),
            is_new: false,
        }));
    };
    let is_new = bank::save_text(&school, &question, &text, who.0.id).await?;
    tracing::info!(question = question.id, by = %who.0.id.0, "a question was saved");
    Ok(web::Json(SavedText {
        id: question.id,
        faults: Vec::new(),
        is_new,
    }))
}
