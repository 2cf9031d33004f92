//! `green-slate bank`: question files from disk, checked or loaded.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use marking::{ItemPart, Question, parse_question, render};
use sha2::{Digest, Sha256};
use sqlx::PgPool;
use time::OffsetDateTime;

/// Sets drawn of each question in a check.
const SETS: u64 = 200;
/// The same where each runs programs.
const SETS_OF_PROGRAMS: u64 = 25;
const FEWEST_ANSWERS: usize = 20;
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

/// Something wrong with a question, and what part of its file it is about.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Fault {
    about: About,
    words: String,
}

#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum About {
    Whole,
    Part(String),
    Help,
    Numbers,
}

impl About {
    /// The line, from 1, at which it begins in the file.
    fn line(&self, text: &str) -> usize {
        let begins = |l: &str| {
            let l = l
                .trim_start()
                .trim_start_matches("- ")
                .trim_start_matches('{')
                .trim_start();
            match self {
                About::Whole => l.starts_with("id:"),
                About::Part(id) => l
                    .split(',')
                    .next()
                    .is_some_and(|head| head.trim_end() == format!("id: {id}")),
                About::Help => l.starts_with("help:"),
                About::Numbers => l.starts_with("numbers:"),
            }
        };
        text.lines().position(begins).map_or(1, |n| n + 1)
    }
}

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

/// Sets that are drawn of a question: each takes some processes where programs are run.
fn sets_of(question: &Question) -> u64 {
    let runs = |item: marking::Item| {
        item.parts
            .iter()
            .any(|p| !p.posed.job_of(&p.posed.key()).is_empty())
    };
    if render(question, 0).is_ok_and(runs) {
        SETS_OF_PROGRAMS
    } else {
        SETS
    }
}

/// What is wrong with one question: each fault once.
fn check_question(question: &Question) -> BTreeSet<Fault> {
    let mut faults = BTreeSet::new();
    let mut answers = BTreeSet::new();
    for seed in 0..sets_of(question) {
        match render(question, seed) {
            Ok(item) => {
                answers.insert(format!("{:?}", item.answers()));
                for part in &item.parts {
                    check_part(part, &mut faults);
                }
                for words in marking::figure_faults(question, seed).unwrap_or_default() {
                    let about = About::Whole;
                    faults.insert(Fault { about, words });
                }
            }
            Err(fault) => {
                let about = match &fault {
                    marking::RenderError::Block { part, .. } => About::Part(part.clone()),
                    marking::RenderError::Draw(_) => About::Numbers,
                    _ => About::Whole,
                };
                let words = fault.to_string();
                faults.insert(Fault { about, words });
            }
        }
    }
    match marking::worked_example(question) {
        Ok(_) => {}
        Err(fault) => {
            let words = format!("the worked example: {fault}");
            faults.insert(Fault {
                about: About::Help,
                words,
            });
        }
    }
    let drawn = question.parts.iter().any(|p| p.interaction.is_typed());
    if faults.is_empty() && drawn && !question.few_answers && answers.len() < FEWEST_ANSWERS {
        let (found, sets) = (answers.len(), sets_of(question));
        let words = format!(
            "only {found} different answers in {sets} sets; draw from more numbers, or say `few_answers: true`"
        );
        faults.insert(Fault {
            about: About::Numbers,
            words,
        });
    }
    faults
}

fn check_part(part: &ItemPart, faults: &mut BTreeSet<Fault>) {
    let mut fault = |words: String| {
        faults.insert(Fault {
            about: About::Part(part.id.clone()),
            words: format!("part `{}`: {words}", part.id),
        });
    };
    let marking = part.mark(&part.posed.key()).marking;
    // Whether a person would give it full marks is not for us to say.
    if marking.score < 1.0 && !part.posed.is_by_hand() {
        let notes = marking.notes.join(" ");
        fault(format!(
            "its own key is marked {}: {notes}",
            marking.outcome.name()
        ));
    }
    part.posed.faults().into_iter().for_each(&mut fault);
    for reply in part.replies_to_the_key() {
        fault(format!("its key would set off reply {}", reply + 1));
    }
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
/// The first file that is no question, or what the database said.
pub async fn load(pool: &PgPool, files: &[PathBuf]) -> Result<usize, LoadError> {
    let mut fresh = 0;
    for file in files {
        let (text, question) = read(file).map_err(LoadError::File)?;
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

/// Something wrong with a text, at a line from 1.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TextFault {
    pub line: usize,
    pub words: String,
}

/// Bytes of a question's text.
pub const LONGEST_TEXT: usize = 60_000;

/// The line that a reader's message names.
pub(crate) fn line_in(words: &str) -> usize {
    let after = words.split("line ").nth(1).unwrap_or_default();
    let digits: String = after.chars().take_while(char::is_ascii_digit).collect();
    digits.parse().unwrap_or(1)
}

/// Reads a question's text.
///
/// # Errors
/// What cannot be read, and where.
pub fn read_text(text: &str) -> Result<Question, TextFault> {
    if text.len() > LONGEST_TEXT {
        return Err(TextFault {
            line: 1,
            words: "This is too long for a question: 60,000 characters at most.".into(),
        });
    }
    parse_question(text).map_err(|e| {
        let words = e.to_string();
        TextFault {
            line: line_in(&words),
            words: without_place(&words),
        }
    })
}

/// What a reader of YAML says, without the place, which stands beside it, and without a picture of it.
pub(crate) fn without_place(words: &str) -> String {
    let first = words.lines().next().unwrap_or_default();
    let said = first.strip_prefix("error: ").unwrap_or(first);
    let after = said
        .strip_prefix("line ")
        .and_then(|rest| rest.split_once(": "))
        .filter(|(place, _)| place.chars().all(|c| c.is_ascii_digit() || "column ".contains(c)));
    after.map_or(said, |(_, what)| what).to_owned()
}

/// Everything that is wrong with a question's text, as `bank check` finds it. This computes for a second or so.
pub fn check_text(text: &str) -> Vec<TextFault> {
    let question = match read_text(text) {
        Ok(question) => question,
        Err(fault) => return vec![fault],
    };
    let find = |word: &str| text.lines().position(|l| l.contains(word)).map(|n| n + 1);
    let line_of = |word: &str| find(word).unwrap_or(1);
    // A number that is not there is named in quotes, and asked for where it stands in braces; what is about the whole of it
    // names in quotes what it is about.
    let named = |f: &Fault| {
        let mut quoted = f.words.split('`').skip(1).step_by(2);
        quoted.find_map(|word| {
            let used = find(&format!("{{{{{word}}}}}"));
            used.or_else(|| find(word).filter(|_| f.about == About::Whole))
        })
    };
    let at = |f: Fault| TextFault {
        line: named(&f).unwrap_or_else(|| f.about.line(text)),
        words: f.words,
    };
    let mut faults: Vec<TextFault> = check_question(&question).into_iter().map(at).collect();
    for skill in question.skills.iter().filter(|s| crate::find_skill(s).is_none()) {
        faults.push(TextFault {
            line: line_of("skills:"),
            words: format!("there is no skill `{skill}`"),
        });
    }
    for sound in question
        .sounds
        .values()
        .filter(|s| crate::find_sound(&s.file).is_none())
    {
        faults.push(TextFault {
            line: line_of(&sound.file),
            words: format!("there is no recording `{}`", sound.file),
        });
    }
    let beside = question.exhibits.iter().filter_map(|e| e.recording.as_deref());
    for name in beside.filter(|n| !crate::content::ships(n) && uuid::Uuid::parse_str(n).is_err()) {
        faults.push(no_recording(text, name));
    }
    faults
}

fn no_recording(text: &str, name: &str) -> TextFault {
    TextFault {
        line: text.lines().position(|l| l.contains(name)).map_or(1, |n| n + 1),
        words: format!("there is no recording `{name}`"),
    }
}

/// Uploaded recordings that a question names and that are not there; which are, only the database knows.
///
/// # Errors
/// What the database said.
pub async fn missing_uploads(
    school: &crate::School,
    question: &Question,
    text: &str,
) -> Result<Vec<TextFault>, crate::SchoolError> {
    let beside = question.exhibits.iter().filter_map(|e| e.recording.as_deref());
    let missing = crate::recordings::missing_recordings(school, beside).await?;
    Ok(missing.iter().map(|name| no_recording(text, name)).collect())
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

/// The text of a version that came without one.
pub fn text_of(question: &Question) -> String {
    serde_saphyr::to_string(question).unwrap_or_default()
}

#[cfg(test)]
mod text_tests {
    use super::*;

    const GOOD: &str = "id: doubled\ntitle: Doubled\nskills: [fractions]\npoints: 1\nnumbers: {n: {from: 100, to: 900}}\ntext: 'Twice {{n}}?'\nparts:\n  - {id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}\n";

    #[test]
    fn what_the_reader_says_stands_without_its_place() {
        let faults = check_text("id: a\ntitle: b");
        assert_eq!(faults.len(), 1);
        assert_eq!(faults[0].words, "missing field `points`");
        assert_eq!(
            without_place("error: line 12 column 3: what: and why\n --> picture"),
            "what: and why"
        );
        assert_eq!(without_place("line of thought: none"), "line of thought: none");
        assert_eq!(without_place(""), "");
    }

    #[test]
    fn faults_stand_at_their_lines() {
        assert_eq!(check_text(GOOD), []);
        let lines = |text: &str| {
            let mut lines: Vec<usize> = check_text(text).iter().map(|f| f.line).collect();
            lines.dedup();
            lines
        };
        assert_eq!(lines(&GOOD.replace("fractions", "juggling")), [3]);
        assert_eq!(lines(&GOOD.replace("from: 100", "from: 898")), [5]);
        let nameless = GOOD.replace("2*{{n}}", "2*{{m}}");
        assert_eq!(lines(&nameless), [8], "{:?}", check_text(&nameless));
        assert_eq!(lines(&GOOD.replace("points: 1", "points: one")), [4]);
        let beside = |name: &str| {
            GOOD.to_owned() + &format!("exhibits:\n  - {{id: seen, title: Seen, recording: {name}}}\n")
        };
        assert_eq!(lines(&beside("early-shift")), Vec::<usize>::new());
        assert_eq!(lines(&beside("late-shift")), [10]);
        assert_eq!(lines(&beside("../early-shift")).len(), 1);
        assert_eq!(lines("- nothing"), [1]);
        assert_eq!(check_text(&"x".repeat(LONGEST_TEXT + 1)).len(), 1);
    }

    #[test]
    fn a_question_without_its_text_is_written_so_that_it_reads_back() {
        let question = read_text(GOOD).unwrap();
        assert_eq!(read_text(&text_of(&question)).unwrap(), question);
    }
}
