//! Reading pages and skills in the bank, as text beside a picture of them; and the whole bank as a zip.

use actix_web::{HttpResponse, get, post, put, web};
use school::package::{self, FileTaken};
use school::{School, pages};
use serde::{Deserialize, Serialize};
use store::TextVersion;
use time::OffsetDateTime;
use utoipa::ToSchema;

use super::text::TextFaultView;
use crate::api::reading::{PageStepView, steps};
use crate::api::shared::table::zip_file;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// A text of the bank that is no question, with its versions.
#[derive(Serialize, ToSchema)]
pub(crate) struct ContentText {
    text: String,
    /// Edited ones, the newest first; what ships with the application stands before them.
    versions: Vec<ContentVersion>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ContentVersion {
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    by: Option<String>,
    text: String,
}

impl From<TextVersion> for ContentVersion {
    fn from(version: TextVersion) -> Self {
        ContentVersion {
            at: version.at,
            by: version.by,
            text: version.body,
        }
    }
}

/// A text that is being written, or to be saved.
#[derive(Deserialize, ToSchema)]
pub(crate) struct ContentBody {
    text: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TriedPage {
    /// Nothing where it can't be read.
    steps: Option<Vec<PageStepView>>,
    faults: Vec<TextFaultView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TriedSkills {
    /// Nothing where they can't be read.
    skills: Option<Vec<SkillPlace>>,
    faults: Vec<TextFaultView>,
}

/// A skill and where it stands.
#[derive(Serialize, ToSchema)]
pub(crate) struct SkillPlace {
    id: String,
    title: String,
    class: String,
    words: String,
    /// 0 for the lowest.
    stratum: usize,
    requires: Vec<String>,
    has_page: bool,
}

/// Whether it was saved; if not, why.
#[derive(Serialize, ToSchema)]
pub(crate) struct ContentSaved {
    faults: Vec<TextFaultView>,
}

fn plain(text: String) -> String {
    text.replace('\0', "").replace("\r\n", "\n")
}

fn faults(found: Vec<school::bank::TextFault>) -> Vec<TextFaultView> {
    found.into_iter().map(Into::into).collect()
}

/// The text of a reading page, with its versions.
#[utoipa::path(path = "/api/bank/pages/{skill}/text", params(("skill" = String, Path)),
    responses((status = 200, body = ContentText), (status = 404, body = Problem)))]
#[get("/bank/pages/{skill}/text")]
pub(crate) async fn get_page_text(
    school: web::Data<School>,
    _who: Teacher,
    skill: web::Path<String>,
) -> Result<web::Json<ContentText>, ApiError> {
    let versions = pages::page_versions(&school, &skill).await?;
    let versions = versions.ok_or(ApiError::NotFound)?;
    Ok(web::Json(ContentText {
        text: pages::page_text(&skill, &versions),
        versions: versions.into_iter().map(Into::into).collect(),
    }))
}

/// Shows a text as the page of a skill, with what is wrong with it. Nothing is kept.
#[utoipa::path(path = "/api/bank/pages/{skill}/try", params(("skill" = String, Path)), request_body = ContentBody,
    responses((status = 200, body = TriedPage), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/pages/{skill}/try")]
pub(crate) async fn try_page(
    school: web::Data<School>,
    _who: Teacher,
    skill: web::Path<String>,
    body: web::Json<ContentBody>,
) -> Result<web::Json<TriedPage>, ApiError> {
    let text = plain(body.into_inner().text);
    let (page, found) = pages::try_page(&school, &skill, &text).await?;
    Ok(web::Json(TriedPage {
        steps: page.as_ref().map(steps),
        faults: faults(found),
    }))
}

/// Saves the page of a skill, once it has no faults. Students read it from then on.
#[utoipa::path(path = "/api/bank/pages/{skill}", params(("skill" = String, Path)), request_body = ContentBody,
    responses((status = 200, body = ContentSaved), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/bank/pages/{skill}")]
pub(crate) async fn save_page(
    school: web::Data<School>,
    who: Teacher,
    skill: web::Path<String>,
    body: web::Json<ContentBody>,
) -> Result<web::Json<ContentSaved>, ApiError> {
    let text = plain(body.into_inner().text);
    if pages::page_versions(&school, &skill).await?.is_none() {
        return Err(ApiError::NotFound);
    }
    let (page, found) = pages::try_page(&school, &skill, &text).await?;
    if page.is_some() && found.is_empty() {
        pages::save_page(&school, &skill, &text, who.0.id).await?;
        tracing::info!(page = %skill, by = %who.0.id.0, "a page was saved");
    }
    Ok(web::Json(ContentSaved {
        faults: faults(found),
    }))
}

/// The skills as text, with their versions.
#[utoipa::path(path = "/api/bank/skills/text",
    responses((status = 200, body = ContentText), (status = 404, body = Problem)))]
#[get("/bank/skills/text")]
pub(crate) async fn get_skills_text(
    school: web::Data<School>,
    _who: Teacher,
) -> Result<web::Json<ContentText>, ApiError> {
    let (text, versions) = pages::skills_text(&school).await?;
    Ok(web::Json(ContentText {
        text,
        versions: versions.into_iter().map(Into::into).collect(),
    }))
}

/// Shows a text as the skills, with what is wrong with it. Nothing is kept.
#[utoipa::path(path = "/api/bank/skills/try", request_body = ContentBody,
    responses((status = 200, body = TriedSkills), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[post("/bank/skills/try")]
pub(crate) async fn try_skills(
    school: web::Data<School>,
    _who: Teacher,
    body: web::Json<ContentBody>,
) -> Result<web::Json<TriedSkills>, ApiError> {
    let text = plain(body.into_inner().text);
    let (read, found) = pages::try_skills(&school, &text).await?;
    let skills = read.map(|skills| {
        let strata = marking::strata(&skills).unwrap_or_default();
        let place = |s: &marking::Skill| SkillPlace {
            id: s.id.clone(),
            title: s.title.clone(),
            class: s.class.clone(),
            words: s.words.clone(),
            stratum: strata.get(s.id.as_str()).copied().unwrap_or(0),
            requires: s.requires.clone(),
            has_page: school::find_page(&s.id).is_some(),
        };
        skills.iter().map(place).collect()
    });
    Ok(web::Json(TriedSkills {
        skills,
        faults: faults(found),
    }))
}

/// Saves the skills, once they have no faults.
#[utoipa::path(path = "/api/bank/skills", request_body = ContentBody,
    responses((status = 200, body = ContentSaved), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[put("/bank/skills")]
pub(crate) async fn save_skills(
    school: web::Data<School>,
    who: Teacher,
    body: web::Json<ContentBody>,
) -> Result<web::Json<ContentSaved>, ApiError> {
    let text = plain(body.into_inner().text);
    let (read, found) = pages::try_skills(&school, &text).await?;
    if read.is_some() && found.is_empty() {
        pages::save_skills(&school, &text, who.0.id).await?;
        tracing::info!(by = %who.0.id.0, "the skills were saved");
    }
    Ok(web::Json(ContentSaved {
        faults: faults(found),
    }))
}

/// The whole bank as a zip: skills, pages, and questions as they were written.
#[utoipa::path(path = "/api/bank/export.zip",
    responses((status = 200, body = Vec<u8>, content_type = "application/zip"), (status = 404, body = Problem)))]
#[get("/bank/export.zip")]
pub(crate) async fn export_bank(school: web::Data<School>, who: Teacher) -> Result<HttpResponse, ApiError> {
    Ok(zip_file(package::export(&school, who.0.id).await?, "bank.zip"))
}

/// All questions of the bank as a QTI 3.0 package.
#[utoipa::path(path = "/api/bank/qti.zip",
    responses((status = 200, body = Vec<u8>, content_type = "application/zip"), (status = 404, body = Problem)))]
#[get("/bank/qti.zip")]
pub(crate) async fn export_bank_qti(
    school: web::Data<School>,
    who: Teacher,
) -> Result<HttpResponse, ApiError> {
    let zip = school::qti::export_bank(&school, who.0.id).await?;
    Ok(zip_file(zip, "bank-qti.zip"))
}

/// An assignment as a QTI 3.0 package: its questions, and a test of them.
#[utoipa::path(path = "/api/classes/{id}/assignments/{assignment}/qti.zip",
    params(("id" = uuid::Uuid, Path), ("assignment" = uuid::Uuid, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip"), (status = 404, body = Problem)))]
#[get("/classes/{id}/assignments/{assignment}/qti.zip")]
pub(crate) async fn export_assignment_qti(
    school: web::Data<School>,
    who: Teacher,
    path: web::Path<(uuid::Uuid, uuid::Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, assignment) = path.into_inner();
    let class = who.class(&school, id).await?;
    let stored = who.assignment(&school, assignment).await?;
    if stored.head.class_id != class.id {
        return Err(ApiError::NotFound);
    }
    let zip = school::qti::export_assignment(&school, assignment, who.0.id).await?;
    Ok(zip_file(zip, "assignment-qti.zip"))
}

/// A class as its teacher takes it out: people, work, scores and all that happened, as a zip.
#[utoipa::path(path = "/api/classes/{id}/everything.zip", params(("id" = uuid::Uuid, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip"), (status = 404, body = Problem)))]
#[get("/classes/{id}/everything.zip")]
pub(crate) async fn export_class(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<uuid::Uuid>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let zip = school::own::class_everything(&school, &class, who.0.id).await?;
    Ok(zip_file(zip, "class.zip"))
}

/// What came of a zip that was taken in.
#[derive(Serialize, ToSchema)]
pub(crate) struct ImportedBank {
    files: Vec<ImportedFile>,
    /// Files that are no question, page or file of skills, and were not looked at.
    others: Vec<String>,
    /// What of a QTI package could not be taken as it was.
    told: Vec<String>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ImportedFile {
    name: String,
    is_new: bool,
    /// Why it was left out.
    faults: Vec<TextFaultView>,
}

/// Takes a zip of questions, pages and skills in. Each file without faults becomes the newest version; what is given out
/// stays as it is.
#[utoipa::path(path = "/api/bank/import", request_body(content = Vec<u8>, content_type = "application/zip"),
    responses((status = 200, body = ImportedBank), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 413, body = Problem)))]
#[post("/bank/import")]
pub(crate) async fn import_bank(
    school: web::Data<School>,
    who: Teacher,
    body: web::Bytes,
) -> Result<web::Json<ImportedBank>, ApiError> {
    let taken = package::import(&school, body.to_vec(), who.0.id).await?;
    let (files, others, told) = taken.map_err(|fault| ApiError::Unusable(fault.to_string()))?;
    tracing::info!(files = files.len(), by = %who.0.id.0, "a zip was taken into the bank");
    let file = |f: FileTaken| ImportedFile {
        name: f.name,
        is_new: f.is_new,
        faults: faults(f.faults),
    };
    Ok(web::Json(ImportedBank {
        files: files.into_iter().map(file).collect(),
        others,
        told,
    }))
}
