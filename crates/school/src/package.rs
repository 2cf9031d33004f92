//! The bank as a zip of its files: `skills.yaml`, `pages/SKILL.md`, and questions as `questions/ID.yaml`.
//!
//! What comes in is read in memory, within bounds, and nothing of it is ever a path: the name of a file only says of which
//! kind it is and where its faults are.

#[cfg(test)]
use std::io::Write;
use std::io::{Cursor, Read};

use ::zip::ZipArchive;
#[cfg(test)]
use ::zip::{CompressionMethod, ZipWriter, write::SimpleFileOptions};
use store::{PersonId, TextKind};

use crate::School;
use crate::bank::{self, LONGEST_TEXT, TextFault};
use crate::content::{find_page, find_skill, shipped_page, skills};
use crate::error::SchoolError;
use crate::pages;
use crate::zip::{self, Files, Packed, Zip};

/// Files in one package.
pub const MOST_FILES: usize = 1_000;
/// Bytes of all its files together, unpacked.
pub const MOST_BYTES: usize = 24 * 1024 * 1024;

/// Why a package is not taken at all. The words are for a teacher.
#[derive(Debug, thiserror::Error)]
pub enum PackageFault {
    #[error("This is no zip file, or it is damaged.")]
    NoZip,
    #[error("There are too many files in this zip: {MOST_FILES} at most.")]
    TooManyFiles,
    #[error("Unpacked, this zip is too large: 24 MB at most.")]
    TooLarge,
    #[error("This zip names files outside itself, so nothing of it is read.")]
    Outside,
    #[error("There is no question, page or file of skills in this zip.")]
    Empty,
}

/// What came of one file of a package.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FileTaken {
    pub name: String,
    /// It is another version than was there; nothing of it where it has faults.
    pub is_new: bool,
    /// Why it was left out.
    pub faults: Vec<TextFault>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Kind {
    // In the order in which they go in: a question may be on a new skill, a page may ask a new question.
    Skills,
    Question,
    Page,
}

/// A file of a package, by what its name says it is.
struct Text {
    kind: Kind,
    /// As it stands in the package.
    name: String,
    /// Without folders and ending.
    stem: String,
    body: Result<String, String>,
}

fn kind_of(name: &str) -> Option<(Kind, &str)> {
    let file = name.rsplit(['/', '\\']).next()?;
    // What an operating system puts beside its files.
    if file.starts_with('.') || name.contains("__MACOSX") {
        return None;
    }
    let (stem, ending) = file.rsplit_once('.')?;
    match ending {
        "yaml" | "yml" if stem == "skills" => Some((Kind::Skills, stem)),
        "yaml" | "yml" => Some((Kind::Question, stem)),
        "md" => Some((Kind::Page, stem)),
        _ => None,
    }
}

/// The texts of a package, and the names of files that are none.
fn unpack(bytes: &[u8]) -> Result<(Vec<Text>, Vec<String>), PackageFault> {
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(|_| PackageFault::NoZip)?;
    if archive.len() > MOST_FILES {
        return Err(PackageFault::TooManyFiles);
    }
    let (mut texts, mut others, mut read) = (Vec::new(), Vec::new(), 0);
    for n in 0..archive.len() {
        let file = archive.by_index(n).map_err(|_| PackageFault::NoZip)?;
        if file.is_dir() {
            continue;
        }
        let Ok(name) = file.name().map(std::borrow::Cow::into_owned) else {
            others.push("a file whose name can't be read".to_owned());
            continue;
        };
        let Some((kind, stem)) = kind_of(&name) else {
            others.push(name);
            continue;
        };
        let stem = stem.to_owned();
        // What a head says of its size is not believed.
        let mut body = Vec::new();
        let most = u64::try_from(LONGEST_TEXT + 1).unwrap_or(u64::MAX);
        let body = match file.take(most).read_to_end(&mut body) {
            Err(_) => Err("it can't be unpacked".to_owned()),
            Ok(_) if body.len() > LONGEST_TEXT => Err("it is too long: 60 kB at most".to_owned()),
            Ok(_) => String::from_utf8(body).map_err(|_| "it is no text in UTF-8".to_owned()),
        };
        read += body.as_ref().map_or(LONGEST_TEXT, String::len);
        if read > MOST_BYTES {
            return Err(PackageFault::TooLarge);
        }
        texts.push(Text {
            kind,
            name,
            stem,
            body,
        });
    }
    if texts.is_empty() {
        return Err(PackageFault::Empty);
    }
    texts.sort_by(|a, b| (a.kind, &a.name).cmp(&(b.kind, &b.name)));
    Ok((texts, others))
}

/// Takes a package in: every file without faults becomes the newest version; the others are named with what is wrong.
/// What is given out stays as it is.
///
/// # Errors
/// What the database said; inside, why the package is not taken at all.
pub async fn import(
    school: &School,
    bytes: Vec<u8>,
    by: PersonId,
) -> Result<Result<Imported, PackageFault>, SchoolError> {
    let is_qti = bytes.clone();
    match school.compute(by, move || crate::qti::unpack(&is_qti)).await? {
        Ok(None) => {}
        Ok(Some(files)) => {
            let taken = crate::qti::take(school, files, by).await?;
            return Ok(Ok((taken.files, Vec::new(), taken.told)));
        }
        Err(fault) => return Ok(Err(fault)),
    }
    let (texts, others) = match school.compute(by, move || unpack(&bytes)).await? {
        Ok(found) => found,
        Err(fault) => return Ok(Err(fault)),
    };
    let mut all = Vec::new();
    for text in texts {
        let Text {
            kind,
            name,
            stem,
            body,
        } = text;
        let taken = match body {
            Err(words) => Err(vec![TextFault { line: 1, words }]),
            Ok(body) => match kind {
                Kind::Skills => take_skills(school, &body, by).await?,
                Kind::Question => take_question(school, body, by).await?,
                Kind::Page => take_page(school, &stem, &body, by).await?,
            },
        };
        let (is_new, faults) = match taken {
            Ok(is_new) => (is_new, Vec::new()),
            Err(faults) => (false, faults),
        };
        all.push(FileTaken { name, is_new, faults });
    }
    Ok(Ok((all, others, Vec::new())))
}

/// What came of each file, the names of files that were not looked at, and what could not be taken as it was.
pub type Imported = (Vec<FileTaken>, Vec<String>, Vec<String>);

type Taken = Result<Result<bool, Vec<TextFault>>, SchoolError>;

async fn take_skills(school: &School, body: &str, by: PersonId) -> Taken {
    let (read, faults) = pages::try_skills(school, body).await?;
    if read.is_none() || !faults.is_empty() {
        return Ok(Err(faults));
    }
    let (stands, _) = pages::skills_text(school).await?;
    if stands == body {
        return Ok(Ok(false));
    }
    pages::save_skills(school, body, by).await?;
    Ok(Ok(true))
}

async fn take_question(school: &School, body: String, by: PersonId) -> Taken {
    let checked = body.clone();
    let check = move || (bank::read_text(&checked), bank::check_text(&checked));
    let (read, faults) = school.check_for_author(by, check).await?;
    match read {
        Ok(question) if faults.is_empty() => {
            let missing = bank::missing_uploads(school, &question, &body).await?;
            if !missing.is_empty() {
                return Ok(Err(missing));
            }
            Ok(Ok(bank::save_text(school, &question, &body, by).await?))
        }
        _ => Ok(Err(faults)),
    }
}

async fn take_page(school: &School, skill: &str, body: &str, by: PersonId) -> Taken {
    let Some(versions) = pages::page_versions(school, skill).await? else {
        let words = format!("there is no skill `{skill}`");
        return Ok(Err(vec![TextFault { line: 1, words }]));
    };
    let (read, faults) = pages::try_page(school, skill, body).await?;
    if read.is_none() || !faults.is_empty() {
        return Ok(Err(faults));
    }
    if find_page(skill).is_some() && pages::page_text(skill, &versions) == body {
        return Ok(Ok(false));
    }
    pages::save_page(school, skill, body, by).await?;
    Ok(Ok(true))
}

/// The whole bank as a package.
///
/// # Errors
/// What the database said.
pub async fn export(school: &School, by: PersonId) -> Result<Zip, SchoolError> {
    let mine = school.clone();
    zip::begin(school, by, move |files| async move {
        if let Err(error) = put_bank(&mine, &files).await {
            files.add(Err(error)).await;
        }
    })
    .await
}

async fn put_bank(school: &School, files: &Files) -> Result<(), SchoolError> {
    files
        .add(Ok(Packed::text(
            "skills.yaml",
            pages::skills_text(school).await?.0,
        )))
        .await;
    for skill in skills().iter().filter(|s| find_page(&s.id).is_some()) {
        let versions = store::text_versions(&school.pool, TextKind::Page, &skill.id).await?;
        let text = versions.into_iter().next().map(|v| v.body);
        if let Some(text) = text.or_else(|| shipped_page(&skill.id)) {
            files
                .add(Ok(Packed::text(format!("pages/{}.md", skill.id), text)))
                .await;
        }
    }
    for (id, question) in school.bank().await? {
        let text = match store::source_of(&school.pool, id).await? {
            Some(text) => text,
            None => bank::text_of(&question),
        };
        // As they lie in the folder of those that ship: by the skill they are on first.
        let folder = question.skills.first().filter(|s| find_skill(s).is_some());
        let folder = folder.map_or("others", String::as_str);
        let name = format!("questions/{folder}/{}.yaml", question.id);
        if !files.add(Ok(Packed::text(name, text))).await {
            break;
        }
    }
    Ok(())
}

/// Files as a zip.
#[cfg(test)]
fn pack(files: &[(String, impl AsRef<[u8]>)]) -> Result<Vec<u8>, ::zip::result::ZipError> {
    let mut writer = ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    for (name, text) in files {
        writer.start_file(name.as_str(), options)?;
        writer.write_all(text.as_ref())?;
    }
    Ok(writer.finish()?.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn packed(files: &[(&str, &str)]) -> Vec<u8> {
        let owned: Vec<(String, String)> = files
            .iter()
            .map(|(n, t)| ((*n).to_owned(), (*t).to_owned()))
            .collect();
        pack(&owned).unwrap()
    }

    #[test]
    fn names_say_what_a_file_is_and_nothing_else() {
        let zip = packed(&[
            ("../../etc/pages/levers.md", "## A"),
            ("b/second.yaml", "id: second"),
            ("a/first.yml", "id: first"),
            ("content/skills.yaml", "[]"),
            ("notes.txt", "none"),
            ("__MACOSX/first.yaml", "none"),
            (".hidden.yaml", "none"),
        ]);
        let (texts, others) = unpack(&zip).unwrap();
        let kinds: Vec<(Kind, &str)> = texts.iter().map(|t| (t.kind, t.stem.as_str())).collect();
        assert_eq!(
            kinds,
            [
                (Kind::Skills, "skills"),
                (Kind::Question, "first"),
                (Kind::Question, "second"),
                (Kind::Page, "levers")
            ],
            "skills first, pages last"
        );
        assert_eq!(others, ["notes.txt", "__MACOSX/first.yaml", ".hidden.yaml"]);
    }

    #[test]
    fn what_is_none_damaged_or_too_much_is_refused() {
        assert!(matches!(unpack(b"PK no zip"), Err(PackageFault::NoZip)));
        assert!(matches!(
            unpack(&packed(&[("a.txt", "a")])),
            Err(PackageFault::Empty)
        ));
        let names: Vec<String> = (0..=MOST_FILES).map(|n| format!("{n}.yaml")).collect();
        let many: Vec<(&str, &str)> = names.iter().map(|n| (n.as_str(), "a")).collect();
        assert!(matches!(unpack(&packed(&many)), Err(PackageFault::TooManyFiles)));
        // A small file that unpacks to a large one is read as far as it may be long.
        let bomb = "a".repeat(40 * 1024 * 1024);
        let zip = packed(&[("bomb.yaml", &bomb), ("good.yaml", "id: good")]);
        assert!(zip.len() < 100_000);
        let (texts, _) = unpack(&zip).unwrap();
        assert!(texts[0].body.as_ref().is_err_and(|w| w.contains("too long")));
        assert_eq!(texts[1].body.as_deref(), Ok("id: good"));
        let names: Vec<String> = (0..500).map(|n| format!("{n}.yaml")).collect();
        let large = "a".repeat(LONGEST_TEXT);
        let many: Vec<(&str, &str)> = names.iter().map(|n| (n.as_str(), large.as_str())).collect();
        assert!(matches!(unpack(&packed(&many)), Err(PackageFault::TooLarge)));
        let mut broken = packed(&[("a.yaml", &"id: abc".repeat(900))]);
        for byte in &mut broken[40..60] {
            *byte ^= 0x55;
        }
        if let Ok((texts, _)) = unpack(&broken) {
            assert!(texts[0].body.is_err(), "a damaged file is no text");
        }
    }
}
