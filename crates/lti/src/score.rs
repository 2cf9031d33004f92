//! Assignment and Grade Services 2.0.

use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use time::macros::format_description;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub enum ActivityProgress {
    InProgress,
    Submitted,
    Completed,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub enum GradingProgress {
    FullyGraded,
    /// A person still has to mark something of it.
    PendingManual,
    NotReady,
}

/// A score as it is sent to a line item.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct Score {
    pub user_id: String,
    /// Points; left out where there is no score (any more).
    #[serde(skip_serializing_if = "Option::is_none")]
    pub score_given: Option<f64>,
    /// Points; has to stand where a score is given.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub score_maximum: Option<f64>,
    pub activity_progress: ActivityProgress,
    pub grading_progress: GradingProgress,
    #[serde(serialize_with = "with_microseconds")]
    pub timestamp: OffsetDateTime,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub comment: Option<String>,
}

/// ISO 8601 with fractions of a second, which the specification asks for: two scores within one second keep their order.
fn with_microseconds<S: serde::Serializer>(at: &OffsetDateTime, to: S) -> Result<S::Ok, S::Error> {
    let format = format_description!("[year]-[month]-[day]T[hour]:[minute]:[second].[subsecond digits:6]Z");
    let text = at.to_offset(time::UtcOffset::UTC).format(format);
    to.serialize_str(&text.map_err(serde::ser::Error::custom)?)
}

/// A line item as the platform has it.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(rename_all = "camelCase")]
pub struct PlacedLineItem {
    pub id: String,
    #[serde(default)]
    pub label: String,
    #[serde(default)]
    pub score_maximum: f64,
    #[serde(default)]
    pub resource_id: Option<String>,
}

/// What the platform's grade book has for somebody.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(rename_all = "camelCase")]
pub struct PlatformResult {
    pub user_id: String,
    #[serde(default)]
    pub result_score: Option<f64>,
    #[serde(default)]
    pub result_maximum: Option<f64>,
}

/// Its address with something at the end of its path: a query stays where it is (AGS 2.0, 3.1).
fn below(line_item: &str, what: &str) -> Option<String> {
    let mut address = url::Url::parse(line_item).ok()?;
    let path = format!("{}/{what}", address.path().trim_end_matches('/'));
    address.set_path(&path);
    Some(address.into())
}

/// Where the scores of a line item are sent.
pub fn scores_url(line_item: &str) -> Option<String> {
    below(line_item, "scores")
}

/// Where the results of a line item are read.
pub fn results_url(line_item: &str) -> Option<String> {
    below(line_item, "results")
}
