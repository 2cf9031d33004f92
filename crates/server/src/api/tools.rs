//! The calculator, the typing guide and the formula sheet.

use std::sync::OnceLock;

use actix_web::{get, post, web};
use coursework::Refusal;
use marking::Kind;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::board::{ProblemPlace, ReadView};
use super::work::Desk;
use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};

#[derive(Deserialize, ToSchema)]
pub(crate) struct CalculateRequest {
    question: usize,
    entry: String,
    /// What `ans` stands for.
    last: Option<String>,
    /// Whether that was exact.
    #[serde(default)]
    last_exact: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CalculateView {
    /// LaTeX; empty if it cannot be read.
    reads_as: String,
    speech: String,
    cautions: Vec<String>,
    /// What can be typed into a field.
    result: Option<String>,
    /// A rounded decimal, beside a fraction.
    near: Option<String>,
    exact: bool,
    problem: Option<ProblemPlace>,
}

/// Works an entry out, in the notation of the answer fields.
#[utoipa::path(path = "/api/assignments/{id}/calculate", params(("id" = Uuid, Path)), request_body = CalculateRequest,
    responses((status = 200, body = CalculateView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/assignments/{id}/calculate")]
pub(crate) async fn calculate(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
    body: web::Json<CalculateRequest>,
) -> Result<web::Json<CalculateView>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let CalculateRequest {
        question,
        entry,
        last,
        last_exact,
    } = body.into_inner();
    if !desk.assignment.settings.tools.calculator || !desk.source(question)?.calculator {
        return Err(Refusal::NoCalculator.into());
    }
    let found = site
        .compute(move || marking::calculate(&entry, last.as_deref().map(|l| (l, last_exact))))
        .await?;
    Ok(web::Json(match found {
        Ok(c) => CalculateView {
            reads_as: c.reads_as,
            speech: c.speech,
            cautions: c.cautions,
            result: Some(c.result),
            near: c.near,
            exact: c.exact,
            problem: None,
        },
        Err(e) => CalculateView {
            reads_as: String::new(),
            speech: String::new(),
            cautions: Vec::new(),
            result: None,
            near: None,
            exact: false,
            problem: Some(ProblemPlace {
                words: e.words,
                start: e.at.0,
                end: e.at.1,
            }),
        },
    }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct GuideView {
    topics: Vec<GuideTopicView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct GuideTopicView {
    title: String,
    words: String,
    examples: Vec<GuideExampleView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct GuideExampleView {
    kind: String,
    typed: String,
    reads_as: String,
    speech: String,
}

/// The typing guide, with how each example reads.
#[utoipa::path(path = "/api/typing-guide", responses((status = 200, body = GuideView), (status = 401, body = Problem)))]
#[get("/typing-guide")]
pub(crate) async fn typing_guide(
    site: web::Data<Site>,
    _who: SignedIn,
) -> Result<web::Json<GuideView>, ApiError> {
    let example = |e: &marking::GuideExample| {
        let read = marking::read_for_guide(e.kind, e.typed);
        GuideExampleView {
            kind: e.kind.name().into(),
            typed: e.typed.into(),
            reads_as: read.reads_as,
            speech: read.speech,
        }
    };
    let topics = site
        .compute(move || {
            let topics = marking::typing_guide().iter().map(|t| GuideTopicView {
                title: t.title.into(),
                words: t.words.into(),
                examples: t.examples.iter().map(example).collect(),
            });
            topics.collect()
        })
        .await?;
    Ok(web::Json(GuideView { topics }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct GuideReadRequest {
    /// The kind of answer it would be, as the guide names it.
    #[schema(value_type = String)]
    kind: Kind,
    entry: String,
}

/// Reads what is tried in the guide.
#[utoipa::path(path = "/api/typing-guide/read", request_body = GuideReadRequest,
    responses((status = 200, body = ReadView), (status = 400, body = Problem), (status = 401, body = Problem)))]
#[post("/typing-guide/read")]
pub(crate) async fn guide_read(
    site: web::Data<Site>,
    _who: SignedIn,
    body: web::Json<GuideReadRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let GuideReadRequest { kind, entry } = body.into_inner();
    let read = site
        .compute(move || marking::read_for_guide(kind, &entry))
        .await?;
    Ok(web::Json(read.into()))
}

/// One class's formulas.
#[derive(Clone, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct FormulaSheet {
    class: String,
    groups: Vec<FormulaGroup>,
}

#[derive(Clone, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct FormulaGroup {
    title: String,
    formulas: Vec<Formula>,
}

#[derive(Clone, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Formula {
    /// LaTeX.
    latex: String,
    words: String,
}

static SHEETS: &str = include_str!("../../../../content/formulas.yaml");

/// The formula sheets that ship with the application.
pub(crate) fn formula_sheets() -> &'static [FormulaSheet] {
    static READ: OnceLock<Vec<FormulaSheet>> = OnceLock::new();
    READ.get_or_init(|| {
        serde_saphyr::from_str(SHEETS).unwrap_or_else(|e| {
            tracing::error!(cause = %e, "content/formulas.yaml");
            Vec::new()
        })
    })
}

/// The formula sheet of an assignment's class.
#[utoipa::path(path = "/api/assignments/{id}/formula-sheet", params(("id" = Uuid, Path)),
    responses((status = 200, body = FormulaSheet), (status = 404, body = Problem)))]
#[get("/assignments/{id}/formula-sheet")]
pub(crate) async fn formula_sheet(
    site: web::Data<Site>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<FormulaSheet>, ApiError> {
    let desk = Desk::find(&site, *id, &who.0).await?;
    let class = &desk.stored.head.class_title;
    let sheet = formula_sheets().iter().find(|s| s.class == *class);
    let shown = sheet.filter(|_| desk.assignment.settings.tools.formula_sheet);
    Ok(web::Json(shown.cloned().ok_or(ApiError::NotFound)?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_class_of_the_demo_has_its_formula_sheet() {
        let sheets: Vec<FormulaSheet> = serde_saphyr::from_str(SHEETS).unwrap();
        let classes: Vec<&str> = sheets.iter().map(|s| s.class.as_str()).collect();
        assert_eq!(
            classes,
            [
                "Workshop Mathematics",
                "Forces and Motion",
                "Electrics and Control",
                "Site Practice"
            ]
        );
        assert!(
            sheets
                .iter()
                .flat_map(|s| &s.groups)
                .all(|g| !g.formulas.is_empty())
        );
    }
}
