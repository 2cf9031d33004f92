//! The skills that ship with the application, and what a student's work says of them.

use std::collections::BTreeMap;
use std::sync::OnceLock;

use coursework::{
    Evidence, Mastery, PARAMETERS, SkillQuestion, evidence_of, fold_run, practice_evidence, verdicts_visible,
};
use marking::Skill;
use store::Person;
use time::OffsetDateTime;

use crate::Site;
use crate::api::Desk;
use crate::error::ApiError;

static FILE: &str = include_str!("../../../content/skills.yaml");

/// All skills, in the order of their file.
pub(crate) fn skills() -> &'static [Skill] {
    static READ: OnceLock<Vec<Skill>> = OnceLock::new();
    READ.get_or_init(|| {
        marking::parse_skills(FILE).unwrap_or_else(|e| {
            tracing::error!(cause = %e, "content/skills.yaml");
            Vec::new()
        })
    })
}

/// A skill's title; its id if it is not in the file.
pub(crate) fn title_of(id: &str) -> String {
    let found = skills().iter().find(|s| s.id == id);
    found.map_or_else(|| id.to_owned(), |s| s.title.clone())
}

/// One piece of evidence and where it came from.
#[derive(Clone, Debug)]
pub(crate) struct Sourced {
    pub evidence: Evidence,
    pub source: String,
}

pub(crate) type Known = BTreeMap<String, Vec<Sourced>>;

/// The evidence in all of a student's work whose verdicts they may see, by skill.
pub(crate) async fn evidence_for(site: &Site, person: &Person) -> Result<Known, ApiError> {
    let mut known: Known = BTreeMap::new();
    for desk in Desk::all(site, person).await? {
        if !verdicts_visible(&desk.assignment, &desk.work, desk.now) {
            continue;
        }
        let question = |q: &marking::Question| SkillQuestion {
            skills: q.skills.clone(),
            guess: q.guess(PARAMETERS.guess_typed),
        };
        let questions: Vec<SkillQuestion> = desk.stored.questions.iter().map(|(_, q)| question(q)).collect();
        for (skill, found) in evidence_of(&PARAMETERS, &desk.work, &questions) {
            let sourced = found.into_iter().map(|evidence| Sourced {
                evidence,
                source: desk.stored.head.title.clone(),
            });
            known.entry(skill).or_default().extend(sourced);
        }
    }
    for (_, events) in store::practice_of(&site.pool, person.id).await? {
        for (skill, evidence) in practice_evidence(&PARAMETERS, &fold_run(&events)) {
            let source = "Practice".to_owned();
            known.entry(skill).or_default().push(Sourced { evidence, source });
        }
    }
    for found in known.values_mut() {
        found.sort_by_key(|s| s.evidence.at);
    }
    Ok(known)
}

pub(crate) fn mastery_of(known: &Known, skill: &str, now: OffsetDateTime) -> Mastery {
    let evidence: Vec<Evidence> = known
        .get(skill)
        .map(|found| found.iter().map(|s| s.evidence).collect())
        .unwrap_or_default();
    PARAMETERS.mastery(&evidence, now)
}
