//! What a student's work means: events in, state out. No clock, no database, no web; instants and seeds are arguments.
//!
//! [`decide`] turns a command into events or a refusal; [`fold`] turns events into the state of the work.
//! The rules are those of `docs/decisions/0004-events.md`; names follow QTI 3 where it has a word.
#![cfg_attr(not(test), deny(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing))]

mod decide;
mod event;
mod score;
mod settings;
mod work;

#[cfg(test)]
mod tests;

pub use decide::{Command, MarkedPart, Refusal, ToMark, decide, may_draft, prepare_check, recorded_now};
pub use event::{Checked, CheckedPart, Event, Recorded, RecordedScore};
pub use score::{Forecast, QuestionScore, Score, forecast, score_so_far};
pub use settings::{
    Assignment, Checking, HandInNeeds, ItemRef, Kind, LateRule, PartRef, Settings, WhichCounts,
};
pub use work::{HandIn, PartState, QuestionState, SetState, State, TryRecord, Work, fold, state};
