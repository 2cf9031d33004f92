//! A folder of questions with its skills, pages and recordings.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use marking::Question;

use super::check::{About, Fault, check_question};
use super::{SKILLS, read};

/// Reads every file and draws sets of each question. Gives what is wrong, a line each: file, line, words.
pub fn check(files: &[PathBuf]) -> Vec<String> {
    marking::program::set_runs(runner::run);
    let mut faults = Vec::new();
    let mut ids = BTreeSet::new();
    let mut questions = Vec::new();
    for file in files {
        match read(file) {
            Err(fault) => faults.push(fault),
            Ok((text, question)) => {
                let mut found = check_question(&question);
                if !ids.insert(question.id.clone()) {
                    found.insert(Fault {
                        about: About::Whole,
                        words: format!("the id `{}` occurs twice", question.id),
                    });
                }
                let at = |f: Fault| format!("{}:{}: {}", file.display(), f.about.line(&text), f.words);
                faults.extend(found.into_iter().map(at));
                questions.push(question);
            }
        }
    }
    faults.extend(check_skill_file(files, &questions));
    faults
}

/// What is wrong with the skills, if there is a file of them: in itself, and with these questions.
fn check_skill_file(files: &[PathBuf], questions: &[Question]) -> Vec<String> {
    let above = files.first().into_iter().flat_map(|f| f.ancestors().skip(1));
    let Some(file) = above.map(|folder| folder.join(SKILLS)).find(|f| f.is_file()) else {
        return Vec::new();
    };
    let at = |words: String| format!("{}: {words}", file.display());
    let text = match std::fs::read_to_string(&file) {
        Ok(text) => text,
        Err(e) => return vec![at(e.to_string())],
    };
    let skills = match marking::parse_skills(&text) {
        Ok(skills) => skills,
        Err(fault) => return vec![at(fault.to_string())],
    };
    let named = questions
        .iter()
        .map(|q| (q.id.as_str(), q.skills.as_slice(), q.is_drawn()));
    let faults = marking::check_skills(&skills, named);
    // A few files alone cannot practise every skill, nor answer for every page.
    let whole = questions.len() > skills.len();
    let counts = |f: &marking::SkillFault| {
        use marking::SkillFault as F;
        whole || !matches!(f, F::NoQuestion(_) | F::FewQuestions { .. })
    };
    let mut found: Vec<String> = faults
        .into_iter()
        .filter(counts)
        .map(|f| at(f.to_string()))
        .collect();
    if let Some(folder) = file.parent().filter(|_| whole) {
        found.extend(check_pages(folder, &skills, questions));
        found.extend(missing_sounds(&folder.join("sounds"), questions));
        found.extend(missing_recordings(folder, questions));
    }
    found
}

/// Recordings that questions play and that are not there.
fn missing_sounds(folder: &Path, questions: &[Question]) -> Vec<String> {
    let named = questions
        .iter()
        .flat_map(|q| q.sounds.values().map(move |s| (&q.id, &s.file)));
    named
        .filter(|(_, file)| !folder.join(file).is_file())
        .map(|(id, file)| {
            format!(
                "{}: the question `{id}` plays `{file}`, which is not there",
                folder.display()
            )
        })
        .collect()
}

/// Whether a recording lies beside the bank, or is one that a teacher uploaded: those only the database knows.
fn recording_is_there(folder: &Path, name: &str) -> bool {
    uuid::Uuid::parse_str(name).is_ok() || folder.join("recordings").join(format!("{name}.webm")).is_file()
}

/// Recordings that stand beside questions and are not there.
fn missing_recordings(folder: &Path, questions: &[Question]) -> Vec<String> {
    let named = questions.iter().flat_map(|q| {
        q.exhibits
            .iter()
            .filter_map(move |e| Some((&q.id, e.recording.as_ref()?)))
    });
    named
        .filter(|(_, name)| !recording_is_there(folder, name))
        .map(|(id, name)| {
            format!(
                "{}: the question `{id}` has the recording `{name}` beside it, which is not there",
                folder.join("recordings").display()
            )
        })
        .collect()
}

/// What is wrong with the reading pages beside the file of skills.
fn check_pages(folder: &Path, skills: &[marking::Skill], questions: &[Question]) -> Vec<String> {
    let mut faults = Vec::new();
    let pages = folder.join("pages");
    let names = std::fs::read_dir(&pages)
        .into_iter()
        .flatten()
        .flatten()
        .map(|e| e.path());
    let mut files: Vec<PathBuf> = names
        .filter(|p| p.extension().is_some_and(|e| e == "md"))
        .collect();
    files.sort();
    for file in &files {
        let skill = file.file_stem().and_then(|s| s.to_str()).unwrap_or_default();
        let at = |words: String| format!("{}: {words}", file.display());
        if !skills.iter().any(|s| s.id == skill) {
            faults.push(at(format!("there is no skill `{skill}`")));
        }
        match std::fs::read_to_string(file)
            .map_err(|e| e.to_string())
            .and_then(|text| marking::parse_page(&text).map_err(|e| e.to_string()))
        {
            Ok(page) => {
                let figures = folder.join("figures");
                let known: Vec<&Question> = questions.iter().collect();
                let has_figure = |file: &str| figures.join(file).is_file();
                let has_recording = |name: &str| recording_is_there(folder, name);
                let found = crate::pages::page_faults(&page, skill, has_figure, has_recording, &known);
                faults.extend(found.into_iter().map(at));
                if page.terms.is_empty() {
                    faults.push(at("it names no terms".to_owned()));
                }
            }
            Err(fault) => faults.push(at(fault)),
        }
    }
    for skill in skills {
        let file = pages.join(format!("{}.md", skill.id));
        if !file.is_file() {
            faults.push(format!(
                "{}: the skill `{}` has no page",
                file.display(),
                skill.id
            ));
        }
    }
    faults
}
