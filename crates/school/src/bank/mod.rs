//! The bank: question files from disk, checked or loaded, and questions edited as text.

mod check;
mod folder;
mod text;

use std::path::{Path, PathBuf};

use marking::{Question, parse_question};
use sha2::{Digest, Sha256};
use sqlx::PgPool;
use time::OffsetDateTime;

pub use folder::check;
pub use text::{LONGEST_TEXT, TextFault, check_text, missing_uploads, read_text, text_of};
pub(crate) use text::{line_in, without_place};

/// The file of skills lies in the questions' folder or above it.
const SKILLS: &str = "skills.yaml";

/// The question files under the paths given, in order.
///
/// # Errors
/// The path that cannot be read.
pub fn question_files(paths: &[PathBuf]) -> Result<Vec<PathBuf>, String> {
    let mut files = Vec::new();
    for path in paths {
        gather(path, &mut files)?;
    }
    files.sort();
    Ok(files)
}

fn gather(path: &Path, into: &mut Vec<PathBuf>) -> Result<(), String> {
    let unreadable = |e: std::io::Error| format!("{}: {e}", path.display());
    if path.is_dir() {
        for entry in std::fs::read_dir(path).map_err(unreadable)? {
            gather(&entry.map_err(unreadable)?.path(), into)?;
        }
    } else if path.file_name().is_some_and(|n| n == SKILLS) {
        // Read beside the questions.
    } else if path.extension().is_some_and(|e| e == "yaml") {
        into.push(path.to_owned());
    } else if !path.exists() {
        return Err(format!("{}: there is no such file", path.display()));
    }
    Ok(())
}

fn read(file: &Path) -> Result<(String, Question), String> {
    let text = std::fs::read_to_string(file).map_err(|e| format!("{}: {e}", file.display()))?;
    let question = parse_question(&text).map_err(|e| format!("{}: {e}", file.display()))?;
    Ok((text, question))
}

/// Why files were not loaded.
#[derive(Debug, thiserror::Error)]
pub enum LoadError {
    #[error("{0}")]
    File(String),
    #[error("{file}: {error}")]
    Store { file: String, error: store::StoreError },
}

/// Loads every file into the database. Gives how many were new.
///
/// # Errors
/// The first file that is no question, or has a recording beside it that is not there; then nothing is loaded. Else what the
/// database said.
pub async fn load(pool: &PgPool, files: &[PathBuf]) -> Result<usize, LoadError> {
    let mut questions = Vec::with_capacity(files.len());
    for file in files {
        questions.push((file, read(file).map_err(LoadError::File)?));
    }
    let school = crate::School::new(pool.clone());
    for (file, (text, question)) in &questions {
        let missing = missing_uploads(&school, question, text).await;
        let missing = missing.map_err(|e| LoadError::File(e.to_string()))?;
        if let Some(fault) = missing.first() {
            let (file, line) = (file.display(), fault.line);
            return Err(LoadError::File(format!("{file}:{line}: {}", fault.words)));
        }
    }
    let mut fresh = 0;
    for (file, (text, question)) in questions {
        let at = |error| LoadError::Store {
            file: file.display().to_string(),
            error,
        };
        let digest = digest_of(&question).map_err(|e| LoadError::File(e.to_string()))?;
        let put = store::put_question(pool, &question, &digest, OffsetDateTime::now_utc()).await;
        let (id, is_new) = put.map_err(at)?;
        store::set_source(pool, id, &text, None).await.map_err(at)?;
        fresh += usize::from(is_new);
    }
    Ok(fresh)
}

fn digest_of(question: &Question) -> Result<Vec<u8>, serde_json::Error> {
    Ok(Sha256::digest(serde_json::to_vec(question)?).to_vec())
}

/// Keeps a question as its newest version, for what is given out later. Gives whether that version is new.
///
/// # Errors
/// What the database said.
pub async fn save_text(
    school: &crate::School,
    question: &Question,
    text: &str,
    by: store::PersonId,
) -> Result<bool, crate::SchoolError> {
    let digest = digest_of(question).map_err(|e| crate::SchoolError::Inside(e.to_string()))?;
    let (id, is_new) = store::put_question(&school.pool, question, &digest, school.now()).await?;
    store::set_source(&school.pool, id, text, Some(by)).await?;
    Ok(is_new)
}
