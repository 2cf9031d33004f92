//! A skill beside something else: its level and its page.

use coursework::Level;
use school::{Learner, find_page, title_of};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum LevelView {
    New,
    Growing,
    Steady,
    Solid,
    Fading,
}

impl From<Level> for LevelView {
    fn from(level: Level) -> Self {
        match level {
            Level::New => LevelView::New,
            Level::Growing => LevelView::Growing,
            Level::Steady => LevelView::Steady,
            Level::Solid => LevelView::Solid,
            Level::Fading => LevelView::Fading,
        }
    }
}

/// A skill beside an assignment: its level now.
#[derive(Serialize, ToSchema)]
pub(crate) struct SkillBrief {
    pub id: String,
    pub title: String,
    pub level: LevelView,
    pub score: u8,
    pub page: Option<PageBrief>,
}

/// A skill's reading page, from outside.
#[derive(Serialize, ToSchema)]
pub(crate) struct PageBrief {
    minutes: usize,
    steps: usize,
    /// The step to go on at, from 1; `None` before it was opened.
    at_step: Option<usize>,
    read: bool,
}

pub(crate) fn page_brief(learner: &Learner, skill: &str) -> Option<PageBrief> {
    let page = find_page(skill)?;
    let mine = learner.page(skill);
    Some(PageBrief {
        minutes: page.minutes(),
        steps: page.steps.len(),
        at_step: mine.map(|p| p.step.min(page.steps.len().saturating_sub(1)) + 1),
        read: mine.is_some_and(|p| p.read_at.is_some()),
    })
}

pub(crate) fn brief(learner: &Learner, id: &str) -> SkillBrief {
    let mastery = learner.mastery(id);
    SkillBrief {
        id: id.to_owned(),
        title: title_of(id),
        level: mastery.level.into(),
        score: mastery.score,
        page: page_brief(learner, id),
    }
}
