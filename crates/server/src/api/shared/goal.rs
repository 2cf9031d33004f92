//! How far a goal is reached.

use coursework::{GoalLine, GoalProgress};
use school::title_of;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// How far a goal is reached, and what that is made of.
#[derive(Serialize, ToSchema)]
pub(crate) struct GoalView {
    /// 0 to 100.
    pub percent: f64,
    pub reached: bool,
    pub lines: Vec<GoalLineView>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
pub(crate) enum GoalLineView {
    Skill {
        skill: String,
        title: String,
        score: u8,
        wanted: u8,
    },
    Right {
        right: u32,
        answered: u32,
        wanted: u32,
    },
    Page {
        skill: String,
        title: String,
        read: bool,
    },
    Start {
        done: bool,
    },
    Watch {
        recording: Uuid,
        title: String,
        percent: u8,
    },
}

impl From<&GoalProgress> for GoalView {
    fn from(progress: &GoalProgress) -> Self {
        let line = |line: &GoalLine| match line {
            GoalLine::Skill { skill, score, wanted } => GoalLineView::Skill {
                skill: skill.clone(),
                title: title_of(skill),
                score: *score,
                wanted: *wanted,
            },
            GoalLine::Right {
                right,
                answered,
                wanted,
            } => GoalLineView::Right {
                right: *right,
                answered: *answered,
                wanted: *wanted,
            },
            GoalLine::Page { skill, read } => GoalLineView::Page {
                skill: skill.clone(),
                title: title_of(skill),
                read: *read,
            },
            GoalLine::Watch {
                recording,
                title,
                percent,
            } => GoalLineView::Watch {
                recording: *recording,
                title: title.clone(),
                percent: *percent,
            },
            GoalLine::Start { done } => GoalLineView::Start { done: *done },
        };
        GoalView {
            percent: (progress.reached * 10_000.0).round() / 100.0,
            reached: progress.is_reached(),
            lines: progress.lines.iter().map(line).collect(),
        }
    }
}
