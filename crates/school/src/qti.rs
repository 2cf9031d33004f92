//! Questions and assignments as QTI packages, out of the bank and into it.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};

use ::zip::ZipArchive;
use coursework::Navigation;
use store::PersonId;
use uuid::Uuid;

use crate::School;
use crate::bank::{self, TextFault};
use crate::error::SchoolError;
use crate::package::{FileTaken, MOST_BYTES, MOST_FILES, PackageFault};
use crate::zip::{self, Packed, Zip};

/// Bytes of one file of a package.
const LARGEST_FILE: u64 = 4 * 1024 * 1024;

async fn source(
    school: &School,
    id: store::QuestionId,
    question: &marking::Question,
) -> Result<(marking::Question, String), SchoolError> {
    let text = match store::source_of(&school.pool, id).await? {
        Some(text) => text,
        None => bank::text_of(question),
    };
    Ok((question.clone(), text))
}

async fn zipped(
    school: &School,
    by: PersonId,
    questions: Vec<(marking::Question, String)>,
    tests: Vec<qti::TestOut>,
) -> Result<Zip, SchoolError> {
    let made = school
        .compute(by, move || qti::export(&questions, &tests))
        .await?;
    zip::begin(school, by, move |files| async move {
        for (name, bytes) in made.files {
            let is_text = !name.ends_with(".png") && !name.ends_with(".jpg");
            if !files.add(Ok(Packed { name, bytes, is_text })).await {
                break;
            }
        }
    })
    .await
}

/// Every question of the bank as a package.
///
/// # Errors
/// What the database said.
pub async fn export_bank(school: &School, by: PersonId) -> Result<Zip, SchoolError> {
    let mut questions = Vec::new();
    for (id, question) in school.bank().await? {
        questions.push(source(school, id, &question).await?);
    }
    zipped(school, by, questions, Vec::new()).await
}

/// An assignment as a package: its questions as it uses them, and a test of them.
///
/// # Errors
/// What the database said.
pub async fn export_assignment(school: &School, assignment: Uuid, by: PersonId) -> Result<Zip, SchoolError> {
    let stored = school.assignment(assignment, None).await?;
    let mut questions = Vec::new();
    for (id, question) in &stored.questions {
        questions.push(source(school, *id, question).await?);
    }
    let settings = &stored.head.settings;
    let name: String = stored
        .head
        .title
        .to_lowercase()
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
        .collect();
    let test = qti::TestOut {
        id: name.trim_matches('-').to_owned(),
        title: stored.head.title.clone(),
        questions: stored.questions.iter().map(|(_, q)| q.id.clone()).collect(),
        attempts: settings.max_attempts,
        linear: matches!(settings.navigation, Navigation::Linear { .. }),
        seconds: settings.time_limit.map(|m| m * 60),
    };
    zipped(school, by, questions, vec![test]).await
}

/// The files of a package. What its names say is never a path: they are only looked up by each other.
pub(crate) fn unpack(bytes: &[u8]) -> Result<Option<BTreeMap<String, Vec<u8>>>, PackageFault> {
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(|_| PackageFault::NoZip)?;
    if archive.index_for_name("imsmanifest.xml").is_none() {
        return Ok(None);
    }
    if archive.len() > MOST_FILES {
        return Err(PackageFault::TooManyFiles);
    }
    let (mut files, mut read) = (BTreeMap::new(), 0);
    for n in 0..archive.len() {
        let file = archive.by_index(n).map_err(|_| PackageFault::NoZip)?;
        if file.is_dir() {
            continue;
        }
        let name = file
            .name()
            .map(std::borrow::Cow::into_owned)
            .map_err(|_| PackageFault::NoZip)?;
        let outside = name.starts_with('/')
            || name.contains('\\')
            || name.contains(':')
            || name.split('/').any(|p| p == "..");
        if outside {
            return Err(PackageFault::Outside);
        }
        let mut body = Vec::new();
        // What a head says of its size is not believed.
        file.take(LARGEST_FILE + 1)
            .read_to_end(&mut body)
            .map_err(|_| PackageFault::NoZip)?;
        read += body.len();
        if read > MOST_BYTES || u64::try_from(body.len()).unwrap_or(u64::MAX) > LARGEST_FILE {
            return Err(PackageFault::TooLarge);
        }
        files.insert(name, body);
    }
    Ok(Some(files))
}

/// What came of a package: its files, and a line for each thing that could not be taken as it was.
pub struct PackageTaken {
    pub files: Vec<FileTaken>,
    pub told: Vec<String>,
}

/// Takes the questions of a package into the bank. One of another writer never becomes a version of a question that is there.
///
/// # Errors
/// What the database said.
pub(crate) async fn take(
    school: &School,
    files: BTreeMap<String, Vec<u8>>,
    by: PersonId,
) -> Result<PackageTaken, SchoolError> {
    let taken = school.compute(by, move || qti::import(&files)).await?;
    let mut told: Vec<String> = taken
        .report
        .iter()
        .map(|t| format!("{}: {}", t.file, t.words))
        .collect();
    let mut all = Vec::new();
    for (mut question, mut text) in taken.questions {
        let name = question.id.clone();
        if !taken.unchanged.contains(&name) {
            question.id = free_id(school, &name).await?;
            text = bank::text_of(&question);
            if question.id != name {
                told.push(format!(
                    "{name}: the bank has another question of this name; it is {} here.",
                    question.id
                ));
            }
        }
        let checked = text.clone();
        let mut faults: Vec<TextFault> = school
            .check_for_author(by, move || bank::check_text(&checked))
            .await?;
        faults.extend(bank::missing_uploads(school, &question, &text).await?);
        let is_new = faults.is_empty() && bank::save_text(school, &question, &text, by).await?;
        all.push(FileTaken { name, is_new, faults });
    }
    for test in &taken.tests {
        told.push(format!(
            "The test “{}” has {} questions that were taken: set an assignment of them in a class.",
            test.title,
            test.questions.len()
        ));
    }
    Ok(PackageTaken { files: all, told })
}

async fn free_id(school: &School, wanted: &str) -> Result<String, SchoolError> {
    for n in 1..1_000 {
        let id = if n == 1 {
            wanted.to_owned()
        } else {
            format!("{wanted}-{n}")
        };
        if store::find_question_by_slug(&school.pool, &id).await?.is_none() {
            return Ok(id);
        }
    }
    Err(SchoolError::Inside(format!("no id is free for {wanted}")))
}
