//! `green-slate bank`: question files from disk, checked or loaded.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use marking::{Interaction, Question, parse_question, render};
use sha2::{Digest, Sha256};
use sqlx::PgPool;
use time::OffsetDateTime;

/// Sets drawn of each question in a check.
const SETS: u64 = 200;
const FEWEST_ANSWERS: usize = 20;

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
    } else if path.extension().is_some_and(|e| e == "yaml") {
        into.push(path.to_owned());
    } else if !path.exists() {
        return Err(format!("{}: there is no such file", path.display()));
    }
    Ok(())
}

fn read(file: &Path) -> Result<Question, String> {
    let text = std::fs::read_to_string(file).map_err(|e| format!("{}: {e}", file.display()))?;
    parse_question(&text).map_err(|e| format!("{}: {e}", file.display()))
}

/// Reads every file and draws sets of each question. Gives what is wrong, a line each.
pub fn check(files: &[PathBuf]) -> Vec<String> {
    let mut faults = Vec::new();
    let mut ids = BTreeSet::new();
    for file in files {
        match read(file) {
            Err(fault) => faults.push(fault),
            Ok(question) => {
                if !ids.insert(question.id.clone()) {
                    faults.push(format!(
                        "{}: the id `{}` occurs twice",
                        file.display(),
                        question.id
                    ));
                }
                faults.extend(
                    check_question(&question)
                        .into_iter()
                        .map(|f| format!("{}: {f}", file.display())),
                );
            }
        }
    }
    faults
}

/// What is wrong with one question: each fault once.
fn check_question(question: &Question) -> Vec<String> {
    let mut faults = BTreeSet::new();
    let mut answers = BTreeSet::new();
    for seed in 0..SETS {
        let item = match render(question, seed) {
            Ok(item) => item,
            Err(fault) => {
                faults.insert(fault.to_string());
                continue;
            }
        };
        answers.insert(format!("{:?}", item.answers()));
        for part in &item.parts {
            let marking = part.mark(&part.key_response()).marking;
            if marking.score < 1.0 {
                let notes = marking.notes.join(" ");
                let outcome = marking.outcome.name();
                faults.insert(format!(
                    "part `{}`: its own key is marked {outcome}: {notes}",
                    part.id
                ));
            }
        }
    }
    let drawn = question
        .parts
        .iter()
        .any(|p| matches!(p.interaction, Interaction::TextEntry { .. }));
    if faults.is_empty() && drawn && !question.few_answers && answers.len() < FEWEST_ANSWERS {
        let found = answers.len();
        faults.insert(format!(
            "only {found} different answers in {SETS} sets; draw from more numbers, or say `few_answers: true`"
        ));
    }
    faults.into_iter().collect()
}

/// Loads every file into the database. Gives how many were new.
///
/// # Errors
/// The first file that is no question, or what the database said.
pub async fn load(pool: &PgPool, files: &[PathBuf]) -> Result<usize, String> {
    let mut fresh = 0;
    for file in files {
        let question = read(file)?;
        let content = serde_json::to_vec(&question).map_err(|e| e.to_string())?;
        let digest = Sha256::digest(&content).to_vec();
        let (_, is_new) = store::put_question(pool, &question, &digest, OffsetDateTime::now_utc())
            .await
            .map_err(|e| format!("{}: {e}", file.display()))?;
        fresh += usize::from(is_new);
    }
    Ok(fresh)
}
