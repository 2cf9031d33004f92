//! The bank as a teacher sees it: every question, with what it is on and where it is used, and a picture of each.

use std::collections::BTreeMap;

use actix_web::{get, post, put, web};
use coursework::CheckedPart;
use marking::Interaction;
use school::regrade::{self, RegradeError};
use school::{School, SchoolError, bank, mark_parts, skills, title_of};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::answer::{RightAnswer, right_answer};
use super::shared::given::{GivenPart, responses};
use super::shared::loose::loose_question;
use super::shared::question_view::QuestionView;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// What can be asked.
#[derive(Serialize, ToSchema)]
pub(crate) struct BankView {
    questions: Vec<BankQuestion>,
    skills: Vec<BankSkill>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BankQuestion {
    id: String,
    title: String,
    /// Ids of skills.
    skills: Vec<String>,
    /// How its parts are answered, by QTI's names; each once.
    kinds: Vec<String>,
    points: u32,
    /// It has other numbers for each set.
    drawn: bool,
    /// A person marks it, or a part of it.
    by_hand: bool,
    /// Assignments it is in.
    uses: i64,
    /// The first words of it.
    begins: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BankSkill {
    id: String,
    title: String,
    class: String,
    /// It has a page to read.
    has_page: bool,
}

/// The name under which a part's kind stands in a question's file.
fn kind_name(interaction: &Interaction) -> String {
    let written = serde_json::to_value(interaction).unwrap_or_default();
    written["interaction"].as_str().unwrap_or_default().to_owned()
}

/// Every question of the bank.
#[utoipa::path(path = "/api/bank", responses((status = 200, body = BankView), (status = 404, body = Problem)))]
#[get("/bank")]
pub(crate) async fn get_bank(
    school: web::Data<School>,
    _who: Teacher,
) -> Result<web::Json<BankView>, ApiError> {
    let uses = store::question_uses(&school.pool).await?;
    let all = school.bank().await?;
    let question = |q: &marking::Question| {
        let mut kinds: Vec<String> = q.parts.iter().map(|p| kind_name(&p.interaction)).collect();
        kinds.sort();
        kinds.dedup();
        BankQuestion {
            id: q.id.clone(),
            title: q.title.clone(),
            skills: q.skills.clone(),
            kinds,
            points: q.points,
            drawn: q.is_drawn(),
            by_hand: q.parts.iter().any(|p| p.interaction.is_by_hand()),
            uses: uses.iter().find(|(slug, _)| *slug == q.id).map_or(0, |(_, n)| *n),
            begins: q
                .text
                .lines()
                .find(|l| !l.trim().is_empty())
                .unwrap_or_default()
                .chars()
                .take(160)
                .collect(),
        }
    };
    let skill = |s: &marking::Skill| BankSkill {
        id: s.id.clone(),
        title: s.title.clone(),
        class: s.class.clone(),
        has_page: school::find_page(&s.id).is_some(),
    };
    Ok(web::Json(BankView {
        questions: all.iter().map(|(_, q)| question(q)).collect(),
        skills: skills().iter().map(skill).collect(),
    }))
}

/// A question to be looked at, with the numbers of a seed; with entries, what the marker says to them.
#[derive(Deserialize, ToSchema)]
pub(crate) struct LookAt {
    /// Another one has other numbers.
    seed: u32,
    #[serde(default)]
    parts: Vec<GivenPart>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct LookedAt {
    id: String,
    title: String,
    skills: Vec<String>,
    question: QuestionView,
    answers: Vec<RightAnswer>,
}

fn looked_at(
    question: &marking::Question,
    item: &marking::Item,
    given: Vec<(String, marking::Response)>,
) -> LookedAt {
    let marked: Vec<CheckedPart> = mark_parts(item, given).iter().map(CheckedPart::new).collect();
    LookedAt {
        id: question.id.clone(),
        title: question.title.clone(),
        skills: question.skills.iter().map(|s| title_of(s)).collect(),
        question: loose_question(0, question.points, "A".into(), item, &marked, true),
        answers: item.parts.iter().map(right_answer).collect(),
    }
}

/// A question as a student would have it, with its answers and its working. Nothing is recorded.
#[utoipa::path(path = "/api/bank/{slug}/look", params(("slug" = String, Path)), request_body = LookAt,
    responses((status = 200, body = LookedAt), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/{slug}/look")]
pub(crate) async fn look_at_question(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<LookAt>,
) -> Result<web::Json<LookedAt>, ApiError> {
    let LookAt { seed, parts } = body.into_inner();
    let given: Vec<_> = responses(parts)?
        .into_iter()
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let id = store::find_question_by_slug(&school.pool, &slug)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let question = school.question(id).await?;
    let item = school.item(id, &question, u64::from(seed), who.0.id).await?;
    let view = school
        .compute(who.0.id, move || looked_at(&question, &item, given))
        .await?;
    Ok(web::Json(view))
}

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
        .compute(who.0.id, move || {
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
                    shown: Some(looked_at(&question, &item, given)),
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
    responses((status = 200, body = super::shared::read::ReadView), (status = 400, body = Problem),
        (status = 404, body = Problem)))]
#[post("/bank/try/read")]
pub(crate) async fn read_in_text(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<ReadInText>,
) -> Result<web::Json<super::shared::read::ReadView>, ApiError> {
    let ReadInText { text, part, entry } = body.into_inner();
    let drawn = move || {
        let question = bank::read_text(&text).ok()?;
        marking::render(&question, 1).ok()
    };
    let item = school.compute(who.0.id, drawn).await?;
    let item = item.ok_or_else(|| ApiError::Unusable("The question can't be drawn as it stands.".into()))?;
    let item = std::sync::Arc::new(item);
    Ok(web::Json(
        super::shared::read::read_in(&school, who.0.id, item, part, entry).await?,
    ))
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
        .compute(who.0.id, move || {
            (bank::read_text(&checked), bank::check_text(&checked))
        })
        .await?;
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

/// Whose scores a correction would change, before it is made.
#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionView {
    /// Assignments of yours that use an older version.
    assignments: Vec<String>,
    changes: Vec<CorrectionChange>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionChange {
    student: String,
    assignment: String,
    before: f64,
    after: f64,
}

fn refused(error: RegradeError) -> ApiError {
    match error {
        RegradeError::School(e) => e.into(),
        RegradeError::Store(e) => e.into(),
        RegradeError::NoQuestion(_) => ApiError::NotFound,
        // Said as it is: what to do about it stands in it.
        other => ApiError::Unusable(format!("{other}")),
    }
}

/// The assignments of this teacher's that use an older version of a question.
async fn behind(school: &School, who: &Teacher, slug: &str) -> Result<Vec<Uuid>, ApiError> {
    let newest = store::find_question_by_slug(&school.pool, slug)
        .await?
        .ok_or(ApiError::NotFound)?;
    let mine = store::taught_by(&school.pool, who.0.id).await?;
    let uses = store::uses_of(&school.pool, slug).await?;
    let mut ids: Vec<Uuid> = uses
        .into_iter()
        .filter(|u| u.version != newest && mine.contains(&u.assignment))
        .map(|u| u.assignment)
        .collect();
    ids.dedup();
    Ok(ids)
}

/// Says whose scores change, and by how much, if the newest version is put in place where an older one is used.
#[utoipa::path(path = "/api/bank/{slug}/correction", params(("slug" = String, Path)),
    responses((status = 200, body = CorrectionView), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/bank/{slug}/correction")]
pub(crate) async fn get_correction(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
) -> Result<web::Json<CorrectionView>, ApiError> {
    let among = behind(&school, &who, &slug).await?;
    let mut assignments = Vec::new();
    for id in &among {
        let stored = school.assignment(*id, None).await?;
        assignments.push(format!("{} ({})", stored.head.title, stored.head.class_title));
    }
    let mut changes = Vec::new();
    for change in regrade::preview(&school, &slug, &among).await.map_err(refused)? {
        let student = store::find_person(&school.pool, change.student).await?;
        let stored = school.assignment(change.assignment, None).await?;
        changes.push(CorrectionChange {
            student: student.map(|p| p.display_name).unwrap_or_default(),
            assignment: stored.head.title.clone(),
            before: change.before,
            after: change.after,
        });
    }
    Ok(web::Json(CorrectionView { assignments, changes }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct MakeCorrection {
    why: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CorrectionMade {
    /// Works that are marked differently now.
    changed: usize,
}

/// Puts the newest version in place where this teacher's assignments use an older one, and marks every response anew. The
/// students concerned are told.
#[utoipa::path(path = "/api/bank/{slug}/correction", params(("slug" = String, Path)), request_body = MakeCorrection,
    responses((status = 200, body = CorrectionMade), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/{slug}/correction")]
pub(crate) async fn make_correction(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<MakeCorrection>,
) -> Result<web::Json<CorrectionMade>, ApiError> {
    let why = body.why.trim();
    if why.is_empty() || why.chars().count() > 500 || why.contains('\0') {
        return Err(ApiError::Unusable(
            "Write a reason, of 500 characters at most.".into(),
        ));
    }
    let among = behind(&school, &who, &slug).await?;
    let changes = regrade::preview(&school, &slug, &among).await.map_err(refused)?;
    let by = regrade::Corrector { who: who.0.id.0, why };
    let done = regrade::correct(&school, &slug, Some(&among), Some(by))
        .await
        .map_err(refused)?;
    for change in changes {
        let Some(found) = store::find_set_assignment(&school.pool, change.assignment).await? else {
            continue;
        };
        let act = store::Act {
            class: found.class,
            assignment: Some(change.assignment),
            student: Some(change.student),
            by: who.0.id,
            did: "corrected a question",
            why,
        };
        super::classes::note(&school, act).await?;
    }
    Ok(web::Json(CorrectionMade {
        changed: done.changed,
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct BankRead {
    part: String,
    entry: String,
}

/// How an entry reads in a question of the bank.
#[utoipa::path(path = "/api/bank/{slug}/read", params(("slug" = String, Path)), request_body = BankRead,
    responses((status = 200, body = super::shared::read::ReadView), (status = 404, body = Problem)))]
#[post("/bank/{slug}/read")]
pub(crate) async fn read_in_bank(
    school: web::Data<School>,
    who: Teacher,
    slug: web::Path<String>,
    body: web::Json<BankRead>,
) -> Result<web::Json<super::shared::read::ReadView>, ApiError> {
    let BankRead { part, entry } = body.into_inner();
    let id = store::find_question_by_slug(&school.pool, &slug)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let question = school.question(id).await?;
    let item = school.item(id, &question, 0, who.0.id).await?;
    Ok(web::Json(
        super::shared::read::read_in(&school, who.0.id, item, part, entry).await?,
    ))
}
