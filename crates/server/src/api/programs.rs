//! Running a small program that is being written. Nothing of it is checked or kept.

use std::collections::BTreeMap;

use actix_web::{get, post, web};
use marking::program::{Case, Job, LONGEST_PROGRAM, ProgramError, ProgramFault};
use school::School;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Bytes of input, and of all files.
const LONGEST_INPUT: usize = 20_000;
const LONGEST_FILES: usize = 120_000;

#[derive(Deserialize, ToSchema)]
pub(crate) struct RunRequest {
    source: String,
    /// What it reads, line by line.
    #[serde(default)]
    input: String,
    /// Files that it can read, by name.
    #[serde(default)]
    files: BTreeMap<String, String>,
    /// For `random`, as the question gives it.
    #[serde(default)]
    seed: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct RunView {
    output: String,
    /// There was more output than is kept.
    cut: bool,
    error: Option<ErrorView>,
    /// About, in tens of thousands.
    steps: u64,
    kilobytes: u64,
}

/// An error of a program, and what it means.
#[derive(Serialize, ToSchema)]
pub(crate) struct ErrorView {
    line: Option<u32>,
    column: Option<u32>,
    words: String,
    kind: ProgramFault,
}

impl From<ProgramError> for ErrorView {
    fn from(error: ProgramError) -> Self {
        ErrorView {
            line: error.line,
            column: error.column,
            words: error.words(),
            kind: error.kind,
        }
    }
}

/// Runs a program once, in its turn.
#[utoipa::path(path = "/api/programs/run", request_body = RunRequest,
    responses((status = 200, body = RunView), (status = 400, body = Problem)))]
#[post("/programs/run")]
pub(crate) async fn run_program(
    school: web::Data<School>,
    who: SignedIn,
    body: web::Json<RunRequest>,
) -> Result<web::Json<RunView>, ApiError> {
    let RunRequest {
        source,
        input,
        files,
        seed,
    } = body.into_inner();
    if source.chars().count() > LONGEST_PROGRAM {
        return Err(ApiError::Unusable(
            "A program can have 20,000 characters at most.".into(),
        ));
    }
    let of_files: usize = files.iter().map(|(name, text)| name.len() + text.len()).sum();
    if input.len() > LONGEST_INPUT || of_files > LONGEST_FILES {
        return Err(ApiError::Unusable(
            "Input can have 20,000 characters at most.".into(),
        ));
    }
    let job = Job {
        source,
        files,
        seed: seed.parse().unwrap_or(0),
        cases: vec![Case {
            input,
            ..Case::default()
        }],
    };
    let report = school.run_program(who.0.id, job).await?;
    let case = report.cases.into_iter().next().unwrap_or_default();
    let error = report.start.or(case.error).or(report.ended);
    Ok(web::Json(RunView {
        output: case.output,
        cut: case.cut,
        error: error.map(Into::into),
        steps: case.steps,
        kilobytes: case.memory / 1_024,
    }))
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ProgramPlace {
    /// How many programs run before one's own; nothing where it does not wait.
    before: Option<usize>,
}

/// How many programs are before one's own.
#[utoipa::path(path = "/api/programs/place", responses((status = 200, body = ProgramPlace), (status = 401, body = Problem)))]
#[get("/programs/place")]
pub(crate) async fn get_program_place(school: web::Data<School>, who: SignedIn) -> web::Json<ProgramPlace> {
    web::Json(ProgramPlace {
        before: school.place_of_program(who.0.id),
    })
}
