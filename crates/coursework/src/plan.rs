//! What a teacher sets before it is given out, and what may still be changed afterwards: what does not fit together, and
//! what a change would do to work that exists.

use time::OffsetDateTime;

use crate::goal::Goal;
use crate::settings::{Checking, Kind, LateRule, Navigation, Release, Settings, WhichCounts};

/// Two settings that do not go together, or one that makes no sense. `field` is the setting to change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SettingFault {
    pub field: &'static str,
    pub words: String,
}

/// Counts beyond this nobody means.
const MOST: u32 = 100;
/// A week, in minutes.
const LONGEST_TIME: u32 = 7 * 24 * 60;

/// What does not fit together, all of it. `questions`: how many there are.
pub fn setting_faults(s: &Settings, questions: usize) -> Vec<SettingFault> {
    let mut faults = Vec::new();
    let mut fault = |field, words: &str| {
        faults.push(SettingFault {
            field,
            words: words.to_owned(),
        });
    };
    if s.due <= s.opens {
        fault("due", "It is due before it opens.");
    }
    if s.closes < s.due {
        fault("closes", "It closes before it is due.");
    }
    if s.closes > s.due && s.late == LateRule::NotAccepted {
        fault(
            "closes",
            "Late work is not accepted, so it closes when it is due.",
        );
    }
    if matches!(s.late, LateRule::PercentOff(off) if off == 0 || off > 100) {
        fault(
            "late",
            "Between 1 and 100 per cent can be taken off for lateness.",
        );
    }
    let beyond = |n: Option<u32>| n.is_some_and(|n| n == 0 || n > MOST);
    if beyond(s.max_attempts) || s.question_attempts.values().any(|n| beyond(Some(*n))) {
        fault("max_attempts", "Tries are 1 to 100, or unlimited.");
    }
    if beyond(s.max_sets) {
        fault("max_sets", "Sets of numbers are 1 to 100, or unlimited.");
    }
    if beyond(s.hand_ins) {
        fault("hand_ins", "Hand-ins are 1 to 100, or unlimited.");
    }
    if s.question_attempts.keys().any(|q| *q >= questions) {
        fault(
            "question_attempts",
            "Tries are set for a question that is not there.",
        );
    }
    if s.hint_cost > 100 {
        fault("hint_cost", "A hint costs 100 per cent at most.");
    }
    if s.hint_cost > 0 && !s.hints {
        fault("hint_cost", "Hints are off, so they cost nothing.");
    }
    if s.pass_mark.is_some_and(|p| p > 100) {
        fault("pass_mark", "The pass mark is 100 per cent at most.");
    }
    if s.time_limit.is_some_and(|m| m == 0 || m > LONGEST_TIME) {
        fault("time_limit", "A time limit is between a minute and a week.");
    }
    if s.weight == 0 || s.weight > MOST {
        fault(
            "weight",
            "A weight is 1 to 100. If it is not to count, say so above.",
        );
    }
    of_goal(s, questions, &mut fault);
    if s.checking == Checking::Simultaneous {
        if s.hand_ins.is_none_or(|n| n > 1) && s.release == Release::AtOnce {
            fault(
                "release",
                "All is checked at hand-in, so results show at hand-in or after the due date.",
            );
        }
        if s.max_sets.is_none_or(|n| n > 1) {
            fault(
                "max_sets",
                "All is checked at hand-in, so there are no fresh numbers: one set.",
            );
        }
    }
    if s.navigation != Navigation::Nonlinear && s.goal.is_some() {
        fault(
            "navigation",
            "In work towards a goal, questions have no fixed order.",
        );
    }
    faults
}

fn of_goal(s: &Settings, questions: usize, fault: &mut impl FnMut(&'static str, &str)) {
    match &s.goal {
        None if s.kind == Kind::Reading => fault("goal", "Choose the pages that are to be read."),
        None if questions == 0 => fault("questions", "Choose at least one question."),
        None => {}
        Some(_) if questions > 0 => fault("goal", "It has a goal, so it has no questions of its own."),
        Some(goal) => {
            let reads = matches!(goal, Goal::Read { .. });
            if reads != (s.kind == Kind::Reading) {
                fault("goal", "Reading has pages as its goal; practice has skills.");
            }
            if s.kind == Kind::Homework || s.kind == Kind::Quiz {
                fault("kind", "A goal is for practice or reading.");
            }
            if s.time_limit.is_some() {
                fault("time_limit", "Work towards a goal has no time limit.");
            }
        }
    }
}

/// What a change would do, once work has begun.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Effect {
    /// It can't be done; nothing else is.
    Refused { field: &'static str, words: String },
    /// It can; this is what comes of it.
    Does(String),
}

impl Effect {
    pub fn is_refused(&self) -> bool {
        matches!(self, Effect::Refused { .. })
    }
}

/// What changing settings or questions does to work that exists: `begun` students have opened it, `handed_in` have handed
/// something in. Questions are named by their ids, with points. What a student has earned is never lost: what would lose it
/// is refused.
pub fn effects(
    (old, old_questions): (&Settings, &[(String, u32)]),
    (new, new_questions): (&Settings, &[(String, u32)]),
    (begun, handed_in): (usize, usize),
    now: OffsetDateTime,
) -> Vec<Effect> {
    let mut all = Vec::new();
    if begun == 0 {
        return all;
    }
    let mut refuse = |field, words: &str| {
        all.push(Effect::Refused {
            field,
            words: words.to_owned(),
        });
    };
    if new_questions != old_questions {
        refuse(
            "questions",
            "Work has begun, so its questions, their order and their points stay. Set more questions as another assignment.",
        );
    }
    if old.kind != new.kind || old.goal != new.goal {
        refuse("kind", "Work has begun, so it stays what it is, with its goal.");
    }
    if old.checking != new.checking {
        refuse(
            "checking",
            "Work has begun, so when answers are checked stays as it is.",
        );
    }
    if old.navigation == Navigation::Nonlinear && new.navigation != Navigation::Nonlinear {
        refuse(
            "navigation",
            "Work has begun in any order, so questions can't be put in order now.",
        );
    }
    let less = |old: Option<u32>, new: Option<u32>| match (old, new) {
        (_, None) => false,
        (None, Some(_)) => true,
        (Some(o), Some(n)) => n < o,
    };
    if less(old.max_attempts, new.max_attempts) {
        refuse(
            "max_attempts",
            "Work has begun, so there can't be fewer tries than before.",
        );
    }
    let own = |s: &Settings, q: usize| s.question_attempts.get(&q).copied().or(s.max_attempts);
    if (0..old_questions.len()).any(|q| less(own(old, q), own(new, q)))
        && !less(old.max_attempts, new.max_attempts)
    {
        refuse(
            "question_attempts",
            "Work has begun, so no question can have fewer tries than before.",
        );
    }
    if less(old.max_sets, new.max_sets) {
        refuse(
            "max_sets",
            "Work has begun, so there can't be fewer sets than before.",
        );
    }
    if less(old.hand_ins, new.hand_ins) {
        refuse(
            "hand_ins",
            "Work has begun, so there can't be fewer hand-ins than before.",
        );
    }
    if less(old.time_limit, new.time_limit) {
        refuse("time_limit", "Work has begun, so the time can't be shortened.");
    }
    if new.hint_cost > old.hint_cost {
        refuse(
            "hint_cost",
            "Work has begun, so hints can't cost more than was said.",
        );
    }
    if handed_in > 0 && old.which_counts == WhichCounts::Best && new.which_counts == WhichCounts::Last {
        refuse(
            "which_counts",
            "Something was handed in with the best counting, so the last can't count now.",
        );
    }
    if new.opens > old.opens && new.opens > now {
        refuse("opens", "Work has begun, so it can't open later.");
    }
    let off = |l: LateRule| match l {
        LateRule::Flagged => 0,
        LateRule::PercentOff(n) => u32::from(n),
        LateRule::NotAccepted => 101,
    };
    if off(new.late) > off(old.late) {
        refuse(
            "late",
            "Work has begun, so lateness can't cost more than was said.",
        );
    }
    told(&mut all, old, new, begun, now);
    all
}

fn told(all: &mut Vec<Effect>, old: &Settings, new: &Settings, begun: usize, now: OffsetDateTime) {
    let mut does = |words: String| all.push(Effect::Does(words));
    let students = match begun {
        1 => "one student was".to_owned(),
        n => format!("{n} students were"),
    };
    if new.due > old.due {
        does(match begun {
            1 => "One student who has begun gets the later due date.".to_owned(),
            n => format!("{n} students who have begun get the later due date."),
        });
    }
    if new.due < old.due {
        let after = if new.due <= now {
            " It is past already: what comes in now is late."
        } else {
            ""
        };
        does(format!(
            "It is due earlier than {students} told.{after} What has been handed in still counts as on time."
        ));
    }
    if new.closes < old.closes && new.closes <= now {
        does("It closes at once. What is typed is kept, and what is not handed in is not recorded.".into());
    }
    if old.release != new.release {
        does("Results show at the new time, for everybody.".into());
    }
    if old.weight != new.weight || old.counts != new.counts {
        does("Its share of the grade changes for everybody.".into());
    }
}
