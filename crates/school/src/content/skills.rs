//! The skills that ship with the application.

use std::sync::OnceLock;

use marking::Skill;

static FILE: &str = include_str!("../../../../content/skills.yaml");

/// The text of the skills that ship.
pub fn shipped_skills() -> &'static str {
    FILE
}

/// All skills as they were edited last, in the order of their file.
pub fn skills() -> &'static [Skill] {
    super::edited::skills().unwrap_or_else(shipped)
}

fn shipped() -> &'static [Skill] {
    static READ: OnceLock<Vec<Skill>> = OnceLock::new();
    READ.get_or_init(|| {
        marking::parse_skills(FILE).unwrap_or_else(|e| {
            tracing::error!(cause = %e, "content/skills.yaml");
            Vec::new()
        })
    })
}

pub fn find_skill(id: &str) -> Option<&'static Skill> {
    skills().iter().find(|s| s.id == id)
}

/// A skill's title; its id if it is not in the file.
pub fn title_of(id: &str) -> String {
    find_skill(id).map_or_else(|| id.to_owned(), |s| s.title.clone())
}
