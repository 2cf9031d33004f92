//! Skills as a file: what can be learned, and in which order.

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A named thing that a student can do.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Skill {
    /// Lower-case words with hyphens.
    pub id: String,
    pub title: String,
    pub class: String,
    /// Skills that must be at least steady before this one opens.
    #[serde(default)]
    pub requires: Vec<String>,
    pub words: String,
}

#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum SkillFault {
    #[error("{0}")]
    Yaml(String),
    #[error("the skill `{0}` occurs twice")]
    Twice(String),
    #[error("the skill `{skill}` requires `{requires}`, which is not there")]
    Unknown { skill: String, requires: String },
    #[error("these skills require each other in a circle: {0}")]
    Circle(String),
    #[error("no question practises the skill `{0}` with numbers drawn anew")]
    NoQuestion(String),
    #[error(
        "only {found} questions practise the skill `{skill}` with numbers drawn anew; {FEWEST} are needed"
    )]
    FewQuestions { skill: String, found: usize },
    #[error("the question `{question}` names the skill `{skill}`, which is not there")]
    UnknownInQuestion { question: String, skill: String },
    #[error("the question `{0}` names no skill")]
    NoSkill(String),
}

/// Drawn questions that a skill needs to be practised for long.
const FEWEST: usize = 3;

/// Reads a file of skills.
///
/// # Errors
/// What is wrong with it: the first thing found.
pub fn parse_skills(yaml: &str) -> Result<Vec<Skill>, SkillFault> {
    let skills: Vec<Skill> = serde_saphyr::from_str(yaml).map_err(|e| SkillFault::Yaml(e.to_string()))?;
    let mut ids = BTreeSet::new();
    for skill in &skills {
        if !ids.insert(skill.id.as_str()) {
            return Err(SkillFault::Twice(skill.id.clone()));
        }
    }
    for skill in &skills {
        if let Some(unknown) = skill.requires.iter().find(|r| !ids.contains(r.as_str())) {
            return Err(SkillFault::Unknown {
                skill: skill.id.clone(),
                requires: unknown.clone(),
            });
        }
    }
    strata(&skills).map(|_| skills.clone())
}

/// The stratum of each skill: 0 for those that require nothing, else one above the highest that is required.
///
/// # Errors
/// Skills that require each other in a circle.
pub fn strata(skills: &[Skill]) -> Result<BTreeMap<&str, usize>, SkillFault> {
    let mut found: BTreeMap<&str, usize> = BTreeMap::new();
    loop {
        let before = found.len();
        for skill in skills {
            let below: Option<Vec<usize>> = skill
                .requires
                .iter()
                .map(|r| found.get(r.as_str()).copied())
                .collect();
            if let Some(below) = below {
                let stratum = below.iter().max().map_or(0, |highest| highest + 1);
                found.entry(skill.id.as_str()).or_insert(stratum);
            }
        }
        if found.len() == skills.len() {
            return Ok(found);
        }
        if found.len() == before {
            let stuck: Vec<&str> = skills
                .iter()
                .map(|s| s.id.as_str())
                .filter(|id| !found.contains_key(id))
                .collect();
            return Err(SkillFault::Circle(stuck.join(", ")));
        }
    }
}

/// What does not fit between skills and questions: unknown names, questions without a skill, skills without a question.
/// `drawn` says of a question whether its numbers are drawn.
pub fn check_skills<'a>(
    skills: &[Skill],
    questions: impl Iterator<Item = (&'a str, &'a [String], bool)>,
) -> Vec<SkillFault> {
    let mut faults = Vec::new();
    let mut practised: BTreeMap<&str, usize> = BTreeMap::new();
    for (question, names, drawn) in questions {
        if names.is_empty() {
            faults.push(SkillFault::NoSkill(question.to_owned()));
        }
        for name in names {
            if !skills.iter().any(|s| s.id == *name) {
                faults.push(SkillFault::UnknownInQuestion {
                    question: question.to_owned(),
                    skill: name.clone(),
                });
            }
            if drawn {
                *practised.entry(name.as_str()).or_default() += 1;
            }
        }
    }
    for skill in skills {
        match practised.get(skill.id.as_str()) {
            None => faults.push(SkillFault::NoQuestion(skill.id.clone())),
            Some(found) if *found < FEWEST => faults.push(SkillFault::FewQuestions {
                skill: skill.id.clone(),
                found: *found,
            }),
            Some(_) => {}
        }
    }
    faults
}

#[cfg(test)]
mod tests {
    use super::*;

    fn skills(lines: &[(&str, &str)]) -> Result<Vec<Skill>, SkillFault> {
        let line = |(id, requires): &(&str, &str)| {
            format!("- {{id: {id}, title: T, class: C, words: W, requires: [{requires}]}}\n")
        };
        parse_skills(&lines.iter().map(line).collect::<String>())
    }

    #[test]
    fn strata_stand_on_what_is_required() {
        let skills = skills(&[("c", "a, b"), ("a", ""), ("b", "a")]).unwrap();
        let strata = strata(&skills).unwrap();
        assert_eq!((strata["a"], strata["b"], strata["c"]), (0, 1, 2));
    }

    #[test]
    fn faults_of_skills_are_named() {
        assert_eq!(
            skills(&[("a", "b"), ("b", "a"), ("c", "")]),
            Err(SkillFault::Circle("a, b".into()))
        );
        assert!(matches!(skills(&[("a", "z")]), Err(SkillFault::Unknown { .. })));
        assert!(matches!(
            skills(&[("a", ""), ("a", "")]),
            Err(SkillFault::Twice(_))
        ));
        assert!(matches!(parse_skills("- {id: a}"), Err(SkillFault::Yaml(_))));
    }

    #[test]
    fn questions_and_skills_must_fit() {
        let skills = skills(&[("a", ""), ("b", "")]).unwrap();
        let (known, unknown) = (["a".to_owned()], ["z".to_owned()]);
        let questions = [
            ("one", &known[..], true),
            ("two", &unknown[..], true),
            ("three", &[][..], true),
        ];
        let faults: Vec<String> = check_skills(&skills, questions.into_iter())
            .iter()
            .map(ToString::to_string)
            .collect();
        assert_eq!(faults.len(), 4);
        assert!(faults[0].contains("`two`") && faults[1].contains("`three`"));
        assert!(faults[2].contains("only 1 questions practise the skill `a`"));
        assert!(faults[3].contains("no question practises the skill `b`"));
    }
}
