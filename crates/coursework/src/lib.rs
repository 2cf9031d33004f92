//! What a student's work means: events in, state out. No clock, no database, no web; instants and seeds are arguments.
//!
//! [`decide`] turns a command into events or a refusal; [`fold`] turns events into the state of the work.
//! The rules are those of `docs/decisions/0004-events.md`; names follow QTI 3 where it has a word.
#![cfg_attr(not(test), deny(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing))]

mod calendar;
mod captions;
mod cards;
mod check;
mod command;
mod decide;
mod event;
mod fold;
mod goal;
mod hand_in;
mod instant;
mod mastery;
mod next;
mod notice;
mod placing;
mod plan;
mod points;
mod practice;
mod refusal;
mod score;
mod settings;
mod sheet;
mod slips;
mod state;
mod terms;
mod units;
mod watching;
mod went;
mod work;

#[cfg(test)]
mod tests;

pub use calendar::{CalendarFault, from_local, is_zone, moved, to_local};
pub use captions::{CaptionFault, Cue, MOST_CUES, parse_captions};
pub use cards::{Card, CardStanding, card_standing};
pub use check::{MOST_UNJUDGED, ToMark, may_draft, prepare_check};
pub use command::{Command, MarkedQuestion};
pub use decide::{decide, may_take_fresh_numbers};
pub use event::{
    Checked, CheckedPart, Correction, Event, MarkedPart, PartPoints, Recorded, RecordedScore, Remark,
};
pub use fold::{as_handed_in, fold, fold_on, standing_checks, was_corrected};
pub use goal::{Goal, GoalFault, GoalLine, GoalProgress, MOST_RIGHT, PracticeGoal, RunCount, Target};
pub use hand_in::{End, Entered, to_mark_at_end};
pub use mastery::{
    Evidence, FADING_BELOW, LONGEST_COURSE, Level, Mastery, PARAMETERS, Parameters, SOLID, STEADY,
    SkillQuestion, Start, evidence_of, missing_prerequisites,
};
pub use next::{Candidate, Choice, Waiting, Why, next};
pub use notice::{Notice, NoticeKind, notices, results_out};
pub use placing::{
    Asked, Belief, Cloud, DayPlan, ENOUGH, FIRST_WEEK_DAYS, GraphFault, KNOWN, MOST_ASKED, MOST_BELIEVED,
    MOST_SKILLS, Placed, Placing, PlacingAnswer, PlacingCandidate, PlacingEvent, PlacingNext,
    RecordedPlacing, Reply, SkillGraph, Stratum, TELLS_LITTLE, answer_in_placing, first_week, fold_placing,
    given_in_placing, next_believing, next_in_placing, not_learned, strata_after,
};
pub use plan::{Effect, SettingFault, effects, setting_faults};
pub use points::{QuestionScore, Score};
pub use practice::{
    Answer, Answered, Candidate as PracticeCandidate, Drawn, PracticeEvent, RecordedPractice, Run, answer,
    choose, fold_run, practice_evidence, prepare_answer,
};
pub use refusal::Refusal;
pub use score::{Forecast, forecast, quartiles, recorded_now, score_so_far};
pub use settings::{
    Assignment, Checking, Exception, HandInNeeds, ItemRef, Kind, LateRule, Navigation, PartRef, Release,
    Settings, ShowSolution, Tools, WhichCounts,
};
pub use sheet::{SheetCell, sheet_cell};
pub use slips::{
    Attempt, COMES_BACK, ReviewItem, SlipEntry, Standing, attempts_in_run, attempts_in_work, draw_review,
    slip_book,
};
pub use state::{State, state};
pub use terms::{
    Terms, may_add, may_see, may_show_solution, may_work, part_is_out, results_released, score_visible,
    set_is_over, solution_open, terms, time_up_due, tries_shown, verdicts_visible, waits_for,
};
pub use units::{HowFar, Material, Unit, UnitFault, UnitItem, UnitOrder, check_units, held_back, next_item};
pub use watching::{FASTEST, SLACK, Stop, Stops, WatchFault, Watched};
pub use went::{QuestionWent, middle_seconds, question_went};
pub use work::{HandIn, PartState, QuestionState, SetState, TeacherScore, TryRecord, Work};
