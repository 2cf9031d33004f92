//! Skills and pages that were edited in the browser stand before those that ship with the application.
//!
//! They are read far more often than they change, from places that have no database at hand: each version is kept for good
//! once it was read, and a process that did not make a change reads it within some seconds.

use std::collections::BTreeMap;
use std::sync::{PoisonError, RwLock};

use marking::{Page, Skill, parse_page, parse_skills};

use crate::School;
use crate::error::SchoolError;

struct Edited {
    /// The newest version there was when these were read.
    newest: Option<uuid::Uuid>,
    skills: Option<&'static [Skill]>,
    pages: BTreeMap<String, (String, &'static Page)>,
}

static EDITED: RwLock<Edited> = RwLock::new(Edited {
    newest: None,
    skills: None,
    pages: BTreeMap::new(),
});

pub(super) fn skills() -> Option<&'static [Skill]> {
    EDITED.read().unwrap_or_else(PoisonError::into_inner).skills
}

pub(super) fn find_page(skill: &str) -> Option<&'static Page> {
    let edited = EDITED.read().unwrap_or_else(PoisonError::into_inner);
    edited.pages.get(skill).map(|(_, page)| *page)
}

/// Reads what was edited, if that is something else than was read last.
///
/// # Errors
/// What the database said.
pub async fn refresh(school: &School) -> Result<(), SchoolError> {
    let newest = store::newest_version(&school.pool).await?;
    if EDITED.read().unwrap_or_else(PoisonError::into_inner).newest == newest {
        return Ok(());
    }
    let (skills, pages) = store::newest_texts(&school.pool).await?;
    let mut edited = EDITED.write().unwrap_or_else(PoisonError::into_inner);
    edited.newest = newest;
    // It was checked when it was saved; what a later release can't read any more is left out, and said.
    edited.skills = skills.and_then(|body| match parse_skills(&body) {
        Ok(read) if edited.skills.is_some_and(|known| known == read.as_slice()) => edited.skills,
        Ok(read) => Some(&*Box::leak(read.into_boxed_slice())),
        Err(fault) => {
            tracing::error!(%fault, "the edited skills cannot be read");
            None
        }
    });
    let mut read = BTreeMap::new();
    for (skill, body) in pages {
        let known = edited
            .pages
            .get(&skill)
            .filter(|(text, _)| *text == body)
            .cloned();
        let page = match known {
            Some((_, page)) => Some(page),
            None => match parse_page(&body) {
                Ok(page) => Some(&*Box::leak(Box::new(page))),
                Err(fault) => {
                    tracing::error!(page = %skill, %fault, "an edited page cannot be read");
                    None
                }
            },
        };
        if let Some(page) = page {
            read.insert(skill, (body, page));
        }
    }
    edited.pages = read;
    Ok(())
}
