//! What an assignment is, and what happens to late work.

use coursework::{Kind, LateRule};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Serialize, ToSchema)]
#[serde(tag = "rule", rename_all = "snake_case")]
pub(crate) enum LateView {
    /// It closes when it is due.
    NoLateTime,
    Flagged,
    PercentOff {
        percent: u8,
    },
    NotAccepted,
}

pub(crate) fn late_view(rule: LateRule, terms: &coursework::Terms) -> LateView {
    match rule {
        _ if terms.closes <= terms.due => LateView::NoLateTime,
        LateRule::Flagged => LateView::Flagged,
        LateRule::PercentOff(percent) => LateView::PercentOff { percent },
        LateRule::NotAccepted => LateView::NotAccepted,
    }
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum KindView {
    Homework,
    Quiz,
    Practice,
    Reading,
}

impl From<Kind> for KindView {
    fn from(k: Kind) -> Self {
        match k {
            Kind::Homework => KindView::Homework,
            Kind::Quiz => KindView::Quiz,
            Kind::Practice => KindView::Practice,
            Kind::Reading => KindView::Reading,
        }
    }
}
