//! The calculator, the typing guide and the formula sheet.

use actix_web::{get, post, web};
use coursework::Refusal;
use marking::Kind;
use school::{School, SchoolError, formula_sheets};
use serde::{Deserialize, Serialize};
use store::PersonId;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::read::{ProblemPlace, ReadView, check_length};
use crate::http::auth::{SignedIn, Visitor};
use crate::http::error::{ApiError, Problem};

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
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
    body: web::Json<CalculateRequest>,
) -> Result<web::Json<CalculateView>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let request = body.into_inner();
    let question = request.question;
    if !desk.assignment.settings.tools.calculator || !desk.source(question)?.calculator {
        return Err(Refusal::NoCalculator.into());
    }
    work_out(&school, desk.student, request).await
}

/// What an entry comes to.
pub(crate) async fn work_out(
    school: &School,
    person: PersonId,
    request: CalculateRequest,
) -> Result<web::Json<CalculateView>, ApiError> {
    let CalculateRequest {
        entry,
        last,
        last_exact,
        ..
    } = request;
    check_length(&entry)?;
    last.as_deref().map_or(Ok(()), check_length)?;
    let found = school
        .compute(person, move || {
            marking::calculate(&entry, last.as_deref().map(|l| (l, last_exact)))
        })
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
    school: web::Data<School>,
    who: SignedIn,
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
    let topics = school
        .compute(who.0.id, move || {
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
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<GuideReadRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let GuideReadRequest { kind, entry } = body.into_inner();
    check_length(&entry)?;
    let read = school
        .compute(who.0.id, move || marking::read_for_guide(kind, &entry))
        .await?;
    Ok(web::Json(read.into()))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct WritingReadRequest {
    entry: String,
}

/// Reads maths in a piece of writing.
#[utoipa::path(path = "/api/writing/read", request_body = WritingReadRequest,
    responses((status = 200, body = ReadView), (status = 400, body = Problem), (status = 401, body = Problem)))]
#[post("/writing/read")]
pub(crate) async fn read_writing(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<WritingReadRequest>,
) -> Result<web::Json<ReadView>, ApiError> {
    let entry = body.into_inner().entry;
    check_length(&entry)?;
    let read = school
        .compute(who.0.id, move || marking::read_in_writing(&entry))
        .await?;
    Ok(web::Json(read.into()))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct BuiltRequest {
    /// LaTeX, as a field with a keyboard on the screen gives it.
    latex: String,
}

/// What was built up, as one would type it; or why it cannot be typed.
#[derive(Serialize, ToSchema)]
pub(crate) struct BuiltView {
    entry: Option<String>,
    problem: Option<String>,
}

/// Puts maths that was built up as one would type it.
#[utoipa::path(path = "/api/built", request_body = BuiltRequest,
    responses((status = 200, body = BuiltView), (status = 400, body = Problem), (status = 401, body = Problem)))]
#[post("/built")]
pub(crate) async fn built(_who: SignedIn, body: web::Json<BuiltRequest>) -> web::Json<BuiltView> {
    let (entry, problem) = match marking::entry_from_latex(&body.latex) {
        Ok(entry) => (Some(entry), None),
        Err(why) => (None, Some(why.to_string())),
    };
    web::Json(BuiltView { entry, problem })
}

/// One class's formulas.
#[derive(Serialize, ToSchema)]
pub(crate) struct FormulaSheet {
    class: &'static str,
    groups: Vec<FormulaGroup>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct FormulaGroup {
    title: &'static str,
    formulas: Vec<Formula>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct Formula {
    /// LaTeX.
    latex: &'static str,
    words: &'static str,
}

fn sheet_view(sheet: &'static school::FormulaSheet) -> FormulaSheet {
    let formula = |f: &'static school::Formula| Formula {
        latex: &f.latex,
        words: &f.words,
    };
    let group = |g: &'static school::FormulaGroup| FormulaGroup {
        title: &g.title,
        formulas: g.formulas.iter().map(formula).collect(),
    };
    FormulaSheet {
        class: &sheet.class,
        groups: sheet.groups.iter().map(group).collect(),
    }
}

/// The formula sheet of an assignment's class.
#[utoipa::path(path = "/api/assignments/{id}/formula-sheet", params(("id" = Uuid, Path)),
    responses((status = 200, body = FormulaSheet), (status = 404, body = Problem)))]
#[get("/assignments/{id}/formula-sheet")]
pub(crate) async fn formula_sheet(
    school: web::Data<School>,
    who: Visitor,
    id: web::Path<Uuid>,
) -> Result<web::Json<FormulaSheet>, ApiError> {
    let desk = who.desk(&school, *id).await?;
    let class = &desk.stored.head.class_title;
    let sheet = formula_sheets().iter().find(|s| s.class == *class);
    let shown = sheet.filter(|_| desk.assignment.settings.tools.formula_sheet);
    Ok(web::Json(sheet_view(shown.ok_or(SchoolError::NotFound)?)))
}
