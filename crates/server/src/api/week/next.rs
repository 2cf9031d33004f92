//! What is next, in words.

use coursework::{Choice, SOLID, Why};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::action::Action;
use super::entry::WeekEntry;
use super::waiting::FadingView;

/// The single most useful thing to do now, and why.
#[derive(Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum NextView {
    Work {
        assignment: Uuid,
        title: String,
        class_id: Uuid,
        class_title: String,
        why: String,
        /// What the teacher asks for before it is opened.
        first: Option<String>,
        action: Action,
    },
    /// Slips that came back; `until` is put after the words, if it is there.
    Slips {
        why: String,
        #[serde(with = "time::serde::rfc3339::option")]
        until: Option<OffsetDateTime>,
    },
    Fading {
        skill: String,
        title: String,
        why: String,
        #[serde(with = "time::serde::rfc3339::option")]
        until: Option<OffsetDateTime>,
    },
}

fn counted(n: usize, one: &str, many: &str) -> String {
    match n {
        1 => format!("one {one}"),
        n => format!("{n} {many}"),
    }
}

fn are_left(n: usize) -> String {
    let verb = if n == 1 { "is" } else { "are" };
    format!("{} {verb} left", counted(n, "question", "questions"))
}

/// What is left to do in an assignment, as it asks for it.
fn left_words(entry: &WeekEntry, left: usize) -> String {
    match &entry.goal {
        None => are_left(left),
        Some(goal) => format!("{} % of the goal is reached", goal.percent.floor()),
    }
}

fn work_words(entry: &WeekEntry, why: Why) -> String {
    match why {
        Why::ClockRuns => "The clock is running.".to_owned(),
        Why::OnlyHandIn if entry.goal.is_some() => {
            "You have reached the goal; all that is left is to hand in.".into()
        }
        Why::OnlyHandIn => "Everything is done; all that is left is to hand in.".into(),
        Why::Overdue { left, begun: true } => format!("It is overdue, and {}.", left_words(entry, left)),
        Why::Overdue { begun: false, .. } => "It is overdue, and you have not opened it yet.".into(),
        Why::DueFirst { left, begun: true } => {
            let left = left_words(entry, left);
            format!("This needs finishing before anything else: {left}.")
        }
        Why::DueFirst { .. } if entry.goal.is_some() => {
            "This needs starting before anything else; you have not opened it yet.".into()
        }
        Why::DueFirst { left, begun: false } => {
            let left = counted(left, "question", "questions");
            format!("This needs starting before anything else: {left}, not opened yet.")
        }
        Why::Practice { left } => {
            let left = left_words(entry, left);
            format!("Nothing that counts is waiting. This is practice: {left}.")
        }
    }
}

pub(super) fn next_view(entries: &[WeekEntry], fading: &[FadingView], choice: Choice) -> Option<NextView> {
    let before = |until: Option<OffsetDateTime>| match until {
        Some(_) => "Nothing that counts needs starting before",
        None => "Nothing that counts is waiting.",
    };
    Some(match choice {
        Choice::Work(place, why) => {
            let entry = entries.get(place)?;
            NextView::Work {
                assignment: entry.id,
                title: entry.title.clone(),
                class_id: entry.class_id,
                class_title: entry.class_title.clone(),
                why: work_words(entry, why),
                first: entry.first.clone(),
                action: entry.action,
            }
        }
        Choice::SlipsBack { count, until, .. } => {
            let came = if count == 1 {
                "One slip you mended has come back".into()
            } else {
                format!("{count} slips you mended have come back")
            };
            NextView::Slips {
                why: format!("{came} to be tried again. {}", before(until)),
                until,
            }
        }
        Choice::Fading { until, .. } => {
            let first = &fading.first()?.skill;
            NextView::Fading {
                skill: first.id.clone(),
                title: first.title.clone(),
                why: format!(
                    "It was solid and has faded to {} of {SOLID}; a few right answers will bring it back. {}",
                    first.score,
                    before(until)
                ),
                until,
            }
        }
    })
}
