//! What waits beside assignments: slips that came back, skills that are fading.

use std::collections::BTreeMap;

use coursework::Level;
use school::{Book, Learner, School, skills};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::super::shared::skill::{SkillBrief, brief};
use crate::http::error::ApiError;

/// What waits in the slip book.
#[derive(Serialize, ToSchema)]
pub(crate) struct WeekSlips {
    open: usize,
    /// Questions whose mended slips have come back, the one that came first before the others.
    back: Vec<BackView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct BackView {
    /// Its place in the slip book.
    source: Uuid,
    event: u32,
    title: String,
    /// How many slips at this question have come back.
    slips: usize,
    #[serde(with = "time::serde::rfc3339")]
    since: OffsetDateTime,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct FadingView {
    pub skill: SkillBrief,
    #[serde(with = "time::serde::rfc3339")]
    pub since: OffsetDateTime,
}

/// Skills that are fading, the first one first.
pub(super) fn fading(learner: &Learner) -> Vec<FadingView> {
    let one = |skill: &marking::Skill| {
        let mastery = learner.mastery(&skill.id);
        let since = mastery.faded_at.filter(|_| mastery.level == Level::Fading)?;
        let skill = brief(learner, &skill.id);
        Some(FadingView { skill, since })
    };
    let mut all: Vec<FadingView> = skills().iter().filter_map(one).collect();
    all.sort_by_key(|f| f.since);
    all
}

pub(super) async fn week_slips(
    school: &School,
    book: &Book,
    now: OffsetDateTime,
) -> Result<WeekSlips, ApiError> {
    let titles = match book.back(now).next() {
        Some(_) => school.bank().await?,
        None => Vec::new(),
    };
    let title_of = |question: &str| {
        let found = titles.iter().find(|(_, q)| q.id == question);
        found.map_or_else(|| question.to_owned(), |(_, q)| q.title.clone())
    };
    let mut by_question: BTreeMap<&str, BackView> = BTreeMap::new();
    for (slip, since) in book.back(now) {
        let question = &*slip.attempt.question;
        if let Some(known) = by_question.get_mut(question) {
            known.slips += 1;
            known.since = known.since.min(since);
            continue;
        }
        let view = BackView {
            source: book.source(slip)?.id,
            event: slip.attempt.event,
            title: title_of(question),
            slips: 1,
            since,
        };
        by_question.insert(question, view);
    }
    let mut back: Vec<BackView> = by_question.into_values().collect();
    back.sort_by_key(|b| b.since);
    Ok(WeekSlips {
        open: book.open().count(),
        back,
    })
}
