//! Reading pages and skills in the bank: their texts, what is wrong with them, and saving them.

use std::collections::BTreeSet;

use marking::{Page, Question, Skill, SkillFault, check_skills, parse_page, parse_skills};
use store::{PersonId, TextKind, TextVersion};

use crate::School;
use crate::bank::{LONGEST_TEXT, TextFault, line_in, without_place};
use crate::content::{find_figure, find_skill, refresh, shipped_page, shipped_skills};
use crate::error::SchoolError;
use crate::recordings::missing_recordings;

/// What is wrong with a page as the page of a skill: its figures, recordings and questions have to be there.
pub fn page_faults(
    page: &Page,
    skill: &str,
    has_figure: impl Fn(&str) -> bool,
    has_recording: impl Fn(&str) -> bool,
    questions: &[&Question],
) -> Vec<String> {
    let mut faults = Vec::new();
    for file in page.figures().filter(|file| !has_figure(file)) {
        faults.push(format!("there is no figure `{file}`"));
    }
    for name in page.recordings().filter(|name| !has_recording(name)) {
        faults.push(format!("there is no recording `{name}`"));
    }
    if page.figures().next().is_none() {
        faults.push("it has no figure".to_owned());
    }
    if page.checks().next().is_none() {
        faults.push("it has no question to check oneself with".to_owned());
    }
    for term in page.unused_terms() {
        faults.push(format!("no text uses the term `{term}`"));
    }
    for id in page.checks() {
        match questions.iter().find(|q| q.id == id) {
            None => faults.push(format!("there is no question `{id}`")),
            Some(question) if !question.skills.iter().any(|s| s == skill) => {
                faults.push(format!("the question `{id}` is not on the skill `{skill}`"));
            }
            Some(question) if !question.is_drawn() => {
                faults.push(format!("the question `{id}` has no other numbers"));
            }
            Some(_) => {}
        }
    }
    faults
}

/// The line, from 1, of a text that a fault is about: where what stands in backticks occurs first.
fn line_of(text: &str, words: &str) -> usize {
    let named = words.split('`').nth(1).filter(|n| !n.is_empty());
    let at = named.and_then(|n| text.lines().position(|l| l.contains(n)));
    at.map_or(1, |n| n + 1)
}

fn at_lines(text: &str, faults: Vec<String>) -> Vec<TextFault> {
    let fault = |words: String| TextFault {
        line: line_of(text, &words),
        words,
    };
    faults.into_iter().map(fault).collect()
}

fn too_long(text: &str) -> Option<Vec<TextFault>> {
    (text.len() > LONGEST_TEXT).then(|| {
        vec![TextFault {
            line: 1,
            words: "the text is too long: 60 kB at most".into(),
        }]
    })
}

async fn questions(school: &School) -> Result<Vec<Question>, SchoolError> {
    let all = store::newest_questions(&school.pool).await?;
    Ok(all.into_iter().map(|(_, q)| q).collect())
}

/// Reads a text as the page of a skill. Gives the page where it can be read, and what is wrong with it.
///
/// # Errors
/// What the database said.
pub async fn try_page(
    school: &School,
    skill: &str,
    text: &str,
) -> Result<(Option<Page>, Vec<TextFault>), SchoolError> {
    if let Some(faults) = too_long(text) {
        return Ok((None, faults));
    }
    let page = match parse_page(text) {
        Ok(page) => page,
        Err(fault) => return Ok((None, at_lines(text, vec![fault.to_string()]))),
    };
    let questions = questions(school).await?;
    let known: Vec<&Question> = questions.iter().collect();
    let missing = missing_recordings(school, page.recordings()).await?;
    let has_figure = |file: &str| find_figure(file).is_some();
    let has_recording = |name: &str| !missing.iter().any(|m| m == name);
    let faults = page_faults(&page, skill, has_figure, has_recording, &known);
    let faults = at_lines(text, faults);
    Ok((Some(page), faults))
}

/// Reads a text as the skills. Gives them where they can be read, and what is wrong with them and with what names them.
///
/// # Errors
/// What the database said.
pub async fn try_skills(
    school: &School,
    text: &str,
) -> Result<(Option<Vec<Skill>>, Vec<TextFault>), SchoolError> {
    if let Some(faults) = too_long(text) {
        return Ok((None, faults));
    }
    let skills = match parse_skills(text) {
        Ok(skills) => skills,
        Err(SkillFault::Yaml(words)) => {
            let fault = TextFault {
                line: line_in(&words),
                words: without_place(&words),
            };
            return Ok((None, vec![fault]));
        }
        Err(fault) => return Ok((None, at_lines(text, vec![fault.to_string()]))),
    };
    let questions = questions(school).await?;
    let named = questions
        .iter()
        .map(|q| (q.id.as_str(), q.skills.as_slice(), q.is_drawn()));
    let mut faults: Vec<String> = check_skills(&skills, named)
        .into_iter()
        // A skill may be there before its questions are.
        .filter(|f| {
            !matches!(
                f,
                SkillFault::NoQuestion(_) | SkillFault::FewQuestions { .. } | SkillFault::NoSkill(_)
            )
        })
        .map(|f| f.to_string())
        .collect();
    let unsound = |s: &&Skill| s.title.trim().is_empty() || s.title.chars().count() > 60;
    faults.extend(
        skills
            .iter()
            .filter(unsound)
            .map(|s| format!("the skill `{}` needs a title, of 60 characters at most", s.id)),
    );
    let good = |id: &str| {
        id.chars()
            .all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-')
            && !id.is_empty()
    };
    faults.extend(skills.iter().filter(|s| !good(&s.id)).map(|s| {
        format!(
            "`{}` is no name for a skill: lower-case letters, digits and hyphens",
            s.id
        )
    }));
    // What students have done is kept by the names of skills.
    let kept: BTreeSet<&str> = skills.iter().map(|s| s.id.as_str()).collect();
    faults.extend(
        crate::skills()
            .iter()
            .filter(|s| !kept.contains(s.id.as_str()))
            .map(|s| {
                format!(
                    "the skill `{}` is there already and can't be taken out: students have worked on it",
                    s.id
                )
            }),
    );
    let faults = at_lines(text, faults);
    Ok((Some(skills), faults))
}

/// The versions of a page, the newest first; what ships stands last. `None` for no such skill.
///
/// # Errors
/// What the database said.
pub async fn page_versions(school: &School, skill: &str) -> Result<Option<Vec<TextVersion>>, SchoolError> {
    if find_skill(skill).is_none() {
        return Ok(None);
    }
    Ok(Some(
        store::text_versions(&school.pool, TextKind::Page, skill).await?,
    ))
}

/// The newest text of a page; of a skill without one, a beginning of it.
pub fn page_text(skill: &str, versions: &[TextVersion]) -> String {
    let newest = versions.first().map(|v| v.body.clone());
    newest.or_else(|| shipped_page(skill)).unwrap_or_else(|| {
        "## First step\n\nWhat it is about.\n\n## In short\n\nWhat to keep in mind.\n".into()
    })
}

/// The newest text of the skills, with its versions.
///
/// # Errors
/// What the database said.
pub async fn skills_text(school: &School) -> Result<(String, Vec<TextVersion>), SchoolError> {
    let versions = store::text_versions(&school.pool, TextKind::Skills, "").await?;
    let newest = versions.first().map(|v| v.body.clone());
    Ok((newest.unwrap_or_else(|| shipped_skills().to_owned()), versions))
}

/// Saves a page without faults.
///
/// # Errors
/// What the database said.
pub async fn save_page(school: &School, skill: &str, text: &str, by: PersonId) -> Result<(), SchoolError> {
    store::put_text(&school.pool, TextKind::Page, skill, text, by, school.now()).await?;
    refresh(school).await
}

/// Saves skills without faults.
///
/// # Errors
/// What the database said.
pub async fn save_skills(school: &School, text: &str, by: PersonId) -> Result<(), SchoolError> {
    store::put_text(&school.pool, TextKind::Skills, "", text, by, school.now()).await?;
    refresh(school).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_fault_stands_at_the_line_of_what_it_names() {
        let text = "## A\n\n![a](one.svg)\n\n## In short\n";
        let faults = at_lines(
            text,
            vec!["there is no figure `one.svg`".into(), "it has no question".into()],
        );
        assert_eq!(faults.iter().map(|f| f.line).collect::<Vec<_>>(), [3, 1]);
    }

    #[test]
    fn a_page_needs_a_figure_and_a_question_on_its_skill() {
        let question = |id: &str, skill: &str, numbers: &str| {
            marking::parse_question(&format!(
                "id: {id}\ntitle: T\nskills: [{skill}]\npoints: 1\n{numbers}text: 'T'\nparts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '1'}}}}]"
            ))
            .unwrap()
        };
        let drawn = "numbers: {n: {from: 1, to: 99}}\n";
        let (right, other, fixed) = (
            question("right", "ratios", drawn),
            question("other", "power", drawn),
            question("fixed", "ratios", ""),
        );
        let known = [&right, &other, &fixed];
        let faults = |text: &str| {
            let page = parse_page(text).unwrap();
            page_faults(
                &page,
                "ratios",
                |file| file == "there.svg",
                |name| name == "seen",
                &known,
            )
        };
        let with = |figure: &str, check: &str| {
            format!("## A\n\n![what it shows]({figure})\n\n```check\n{check}\n```\n\n## In short\n\nB\n")
        };
        assert_eq!(faults(&with("there.svg", "right")), Vec::<String>::new());
        assert_eq!(
            faults(&with("gone.svg", "right")),
            ["there is no figure `gone.svg`"]
        );
        assert_eq!(
            faults(&with("there.svg", "gone")),
            ["there is no question `gone`"]
        );
        assert_eq!(
            faults(&with("there.svg", "other")),
            ["the question `other` is not on the skill `ratios`"]
        );
        assert_eq!(
            faults(&with("there.svg", "fixed")),
            ["the question `fixed` has no other numbers"]
        );
        let recorded = |name: &str| with("there.svg", "right") + &format!("\n```recording\n{name}\n```\n");
        assert_eq!(faults(&recorded("seen")), Vec::<String>::new());
        assert_eq!(faults(&recorded("unseen")), ["there is no recording `unseen`"]);
        assert_eq!(faults("## A\n\nB\n\n## In short\n\nC\n").len(), 2);
    }
}
