//! When the working and the results show.

use coursework::{Release, ShowSolution};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum WorkingRule {
    WhenTriesRunOut,
    AfterFullCredit,
    OnRequest,
    AfterDue,
    Never,
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum ReleaseRule {
    AtOnce,
    AtHandIn,
    AfterDue,
}

impl From<ShowSolution> for WorkingRule {
    fn from(s: ShowSolution) -> Self {
        match s {
            ShowSolution::WhenTriesRunOut => WorkingRule::WhenTriesRunOut,
            ShowSolution::AfterFullCredit => WorkingRule::AfterFullCredit,
            ShowSolution::OnRequest => WorkingRule::OnRequest,
            ShowSolution::AfterDue => WorkingRule::AfterDue,
            ShowSolution::Never => WorkingRule::Never,
        }
    }
}

impl From<Release> for ReleaseRule {
    fn from(r: Release) -> Self {
        match r {
            Release::AtOnce => ReleaseRule::AtOnce,
            Release::AtHandIn => ReleaseRule::AtHandIn,
            Release::AfterDue => ReleaseRule::AfterDue,
        }
    }
}
