use std::collections::BTreeMap;

use marking::{Outcome, Response};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

use crate::event::{Checked, CheckedPart, Event, Recorded, RecordedScore};
use crate::goal::GoalProgress;
use crate::score::{Score, score_so_far};
use crate::settings::{Assignment, Exception, WhichCounts};
use crate::terms::{results_released, terms};

/// The state of one student's work, folded from its events.
///
/// Written down it is the work's digest: all of it but what was entered and what was marked word by word, which only the
/// events hold. Scores, states, evidence and attempts come out of it as out of the work itself; it cannot be folded on.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Work {
    #[serde(with = "crate::instant::option")]
    pub opened_at: Option<OffsetDateTime>,
    pub questions: Vec<QuestionState>,
    pub hand_ins: Vec<HandIn>,
    pub exception: Exception,
    /// In linear mode: the last question that was reached, from 0.
    pub reached: usize,
    /// When the clock last ended this work.
    #[serde(with = "crate::instant::option")]
    pub time_up_at: Option<OffsetDateTime>,
    /// What the teacher gave for a question, whatever the marking said.
    pub by_teacher: BTreeMap<usize, TeacherScore>,
    /// How far the goal was reached when it was last measured.
    pub progress: Option<GoalProgress>,
    /// Number of the last event.
    pub last_event: u32,
    /// Number of the last event that changed what would be recorded.
    pub last_change: u32,
    /// Number of the last event that the student has to be told of.
    pub last_told: u32,
    /// Number of the last correction of a key.
    corrected_at: u32,
    /// The questions before what the hand-in under way has marked.
    #[serde(skip)]
    unmarked: Option<Vec<QuestionState>>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TeacherScore {
    pub points: f64,
    pub note: String,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct QuestionState {
    /// Set A first; never empty once opened.
    pub sets: Vec<SetState>,
    pub example_seen: bool,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct SetState {
    pub seed: u64,
    pub tries_used: u32,
    pub parts: Vec<PartState>,
    pub tries: Vec<TryRecord>,
    /// Hints taken on this set.
    pub hints: usize,
    /// The working was shown; nothing more can be checked.
    pub solution_shown: bool,
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct PartState {
    pub id: String,
    /// Best score so far on this set, 0 to 1, less what hints cost.
    pub best: f64,
    pub right: bool,
    /// The verdict that stands beside the part: the last one, or the right one once there is one.
    #[serde(skip)]
    pub last: Option<CheckedPart>,
    /// The check (1, 2, …) of the best score.
    pub best_try: u32,
    /// Per cent that hints had cost when the best score came.
    pub taken_off: u8,
    pub tries_used: u32,
}

/// One use of Check.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TryRecord {
    /// The number of its event.
    pub event: u32,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    #[serde(skip)]
    pub parts: Vec<CheckedPart>,
    /// Something in it was judged: it is an attempt.
    pub judged: bool,
    /// Something that was judged was not right: it is a slip.
    pub wrong: bool,
    /// All of the set is right after it.
    pub all_right: bool,
    /// Something in it was typed.
    pub typed: bool,
    pub used_a_try: bool,
    pub at_hand_in: bool,
    pub hints_before: usize,
    /// The worked example had been seen.
    pub example_before: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct HandIn {
    pub number: u32,
    /// The number of its event.
    pub event: u32,
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    pub late: bool,
    pub by_time: bool,
    /// What counts now: what was recorded, or what a correction or the teacher has made of it.
    pub recorded: RecordedScore,
    /// What was recorded at the time.
    pub recorded_then: RecordedScore,
    /// Question by question, as it stood.
    pub score: Score,
    /// Towards a goal: what the score is made of.
    pub progress: Option<GoalProgress>,
    pub taken_back: bool,
    /// Where all is checked at hand-in: what was marked before it, to be there again when it is taken back.
    #[serde(skip)]
    before: Vec<QuestionState>,
}

/// The word beside an assignment.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum State {
    NotOpened,
    UnderWay,
    HandedIn,
    /// Handed in and ended; the results are still to come.
    WithTheTeacher,
    /// Handed in, ended, and the results are out.
    Marked,
    /// Past closing, and nothing was handed in.
    Closed,
}

/// What each check counts as now, by the number of its event: as it was marked, or as a corrected key has marked it since.
pub fn standing_checks(events: &[Recorded]) -> BTreeMap<u32, Checked> {
    let mut standing = BTreeMap::new();
    for recorded in events {
        match &recorded.event {
            Event::Checked(checked) => {
                standing.insert(recorded.number, checked.clone());
            }
            Event::KeyCorrected(correction) => {
                for remark in &correction.remarked {
                    if let Some(checked) = standing.get_mut(&remark.event) {
                        checked.parts.clone_from(&remark.parts);
                        checked.used_a_try = remark.used_a_try;
                    }
                }
            }
            _ => {}
        }
    }
    standing
}

/// Folds events into the state they mean.
pub fn fold(assignment: &Assignment, events: &[Recorded]) -> Work {
    let corrected = |r: &&Recorded| matches!(r.event, Event::KeyCorrected(_));
    let corrected_at = events.iter().rev().find(corrected).map_or(0, |r| r.number);
    let mut standing = match corrected_at {
        0 => BTreeMap::new(),
        _ => standing_checks(events),
    };
    let mut work = Work::default();
    for recorded in events {
        match standing.remove(&recorded.number) {
            Some(checked) => {
                let event = Event::Checked(checked);
                work.apply(
                    assignment,
                    &Recorded {
                        event,
                        ..recorded.clone()
                    },
                );
            }
            None => work.apply(assignment, recorded),
        }
    }
    work.corrected_at = corrected_at;
    work.settle_hand_ins();
    work
}

/// Goes on folding from a state: the same as [`fold`] over all events, without looking at the earlier ones again. `None`
/// where a corrected key changes what they mean; then everything has to be folded anew.
pub fn fold_on(assignment: &Assignment, work: &Work, new: &[Recorded]) -> Option<Work> {
    if new.iter().any(|r| matches!(r.event, Event::KeyCorrected(_))) {
        return None;
    }
    let mut work = work.clone();
    for recorded in new {
        work.apply(assignment, recorded);
    }
    work.settle_hand_ins();
    Some(work)
}

/// The work as it was handed in by event `number`, with what corrections and the teacher have made of it since.
pub fn as_handed_in(assignment: &Assignment, events: &[Recorded], number: u32) -> Work {
    let counts = |r: &&Recorded| {
        r.number <= number || matches!(r.event, Event::KeyCorrected(_) | Event::ScoredByTeacher { .. })
    };
    let events: Vec<Recorded> = events.iter().filter(counts).cloned().collect();
    fold(assignment, &events)
}

/// Whether a question's key was corrected after event `number`.
pub fn was_corrected(events: &[Recorded], question: usize, number: u32) -> bool {
    let corrects = |r: &Recorded| matches!(&r.event, Event::KeyCorrected(c) if c.question == question);
    events.iter().any(|r| r.number > number && corrects(r))
}

impl Work {
    /// Takes one event in.
    pub(crate) fn apply(&mut self, assignment: &Assignment, recorded: &Recorded) {
        self.last_event = recorded.number;
        if recorded.event.is_told() {
            self.last_told = recorded.number;
        }
        if !matches!(
            recorded.event,
            Event::Checked(_) | Event::TimeUp | Event::HandedIn { .. }
        ) {
            self.unmarked = None;
        }
        match &recorded.event {
            Event::Opened { seeds } => self.open(assignment, seeds, recorded.at),
            Event::Checked(checked) => {
                if assignment.is_simultaneous() && self.unmarked.is_none() {
                    self.unmarked = Some(self.questions.clone());
                }
                self.check(assignment, checked, recorded);
            }
            Event::HintTaken { question, set } => {
                if let Some(set) = self.set_mut(*question, *set) {
                    set.hints += 1;
                }
            }
            Event::ExampleSeen { question } => {
                if let Some(question) = self.questions.get_mut(*question) {
                    question.example_seen = true;
                }
            }
            Event::SolutionShown { question, set } => {
                if let Some(set) = self.set_mut(*question, *set) {
                    set.solution_shown = true;
                }
            }
            Event::FreshNumbers { question, seed } => {
                if let Some(state) = self.questions.get_mut(*question) {
                    let parts = state
                        .sets
                        .first()
                        .map(|s| fresh_parts(s.parts.iter().map(|p| &p.id)));
                    state.sets.push(SetState {
                        seed: *seed,
                        parts: parts.unwrap_or_default(),
                        ..SetState::default()
                    });
                }
            }
            Event::Measured(progress) => self.progress = Some(progress.clone()),
            Event::MovedOn { to } => self.reached = self.reached.max(*to),
            Event::HandedIn {
                late,
                recorded: score,
                by_time,
            } => {
                let marked_by_it = self.unmarked.take();
                let before = marked_by_it.unwrap_or_else(|| match assignment.is_simultaneous() {
                    true => self.questions.clone(),
                    false => Vec::new(),
                });
                self.hand_ins.push(HandIn {
                    number: u32::try_from(self.hand_ins.len()).unwrap_or(u32::MAX) + 1,
                    event: recorded.number,
                    at: recorded.at,
                    late: *late,
                    by_time: *by_time,
                    recorded: *score,
                    recorded_then: *score,
                    score: score_so_far(assignment, self),
                    progress: self
                        .progress
                        .clone()
                        .filter(|_| assignment.settings.goal.is_some()),
                    taken_back: false,
                    before,
                });
            }
            Event::TakenBack => {
                if let Some(last) = self.hand_ins.iter_mut().rfind(|h| !h.taken_back) {
                    last.taken_back = true;
                    let before = std::mem::take(&mut last.before);
                    self.unmark(before);
                }
            }
            Event::TimeUp => self.time_up_at = Some(recorded.at),
            Event::ScoredByTeacher {
                question,
                points,
                note,
            } => {
                let (points, note, at) = (*points, note.clone(), recorded.at);
                self.by_teacher
                    .insert(*question, TeacherScore { points, note, at });
            }
            Event::ExceptionGiven(exception) => self.exception = self.exception.and(exception),
            Event::KeyCorrected(_) => {}
        }
    }

    /// The work as its digest gives it back: without what was entered and what the marker said to it.
    #[must_use]
    pub fn digest(&self) -> Work {
        let mut work = self.clone();
        work.unmarked = None;
        for set in work.questions.iter_mut().flat_map(|q| &mut q.sets) {
            set.parts.iter_mut().for_each(|p| p.last = None);
            set.tries.iter_mut().for_each(|t| t.parts = Vec::new());
        }
        work.hand_ins.iter_mut().for_each(|h| h.before = Vec::new());
        work
    }

    /// Whether something typed was ever checked.
    pub fn has_typed(&self) -> bool {
        let sets = self.questions.iter().flat_map(|q| &q.sets);
        sets.flat_map(|s| &s.tries).any(|t| t.typed)
    }

    /// Forgets what a hand-in marked: taken back, it gives nothing. Help that was taken meanwhile stays taken.
    fn unmark(&mut self, before: Vec<QuestionState>) {
        for (state, old) in self.questions.iter_mut().zip(before) {
            for (set, old) in state.sets.iter_mut().zip(old.sets) {
                (set.tries_used, set.parts, set.tries) = (old.tries_used, old.parts, old.tries);
            }
        }
    }

    fn set_mut(&mut self, question: usize, set: usize) -> Option<&mut SetState> {
        self.questions.get_mut(question)?.sets.get_mut(set)
    }

    fn open(&mut self, assignment: &Assignment, seeds: &[u64], at: OffsetDateTime) {
        if self.opened_at.is_some() {
            return;
        }
        self.opened_at = Some(at);
        let question = |(item, seed): (&crate::ItemRef, &u64)| QuestionState {
            sets: vec![SetState {
                seed: *seed,
                parts: fresh_parts(item.parts.iter().map(|p| &p.id)),
                ..SetState::default()
            }],
            example_seen: false,
        };
        self.questions = assignment.items.iter().zip(seeds).map(question).collect();
    }

    fn check(&mut self, assignment: &Assignment, checked: &Checked, recorded: &Recorded) {
        let cost = assignment.settings.hint_cost;
        let example_before = self
            .questions
            .get(checked.question)
            .is_some_and(|q| q.example_seen);
        let Some(set) = self.set_mut(checked.question, checked.set) else {
            return;
        };
        if checked.used_a_try {
            set.tries_used += 1;
        }
        let taken_off = u8::try_from((usize::from(cost) * set.hints).min(100)).unwrap_or(100);
        let new: Vec<bool> = checked
            .parts
            .iter()
            .map(|p| !set.has_tried(&p.part, &p.response))
            .collect();
        let judged = || checked.parts.iter().filter(|p| p.outcome.costs_a_try());
        set.tries.push(TryRecord {
            event: recorded.number,
            at: recorded.at,
            parts: checked.parts.clone(),
            judged: judged().next().is_some(),
            wrong: judged().any(|p| p.score < 1.0),
            all_right: false,
            typed: checked.parts.iter().any(CheckedPart::is_typed),
            used_a_try: checked.used_a_try,
            at_hand_in: checked.at_hand_in,
            hints_before: set.hints,
            example_before,
        });
        let this_try = u32::try_from(set.tries.len()).unwrap_or(u32::MAX);
        for (marked, new) in checked.parts.iter().zip(new) {
            let Some(part) = set.parts.iter_mut().find(|p| p.id == marked.part) else {
                continue;
            };
            // A part once right stays right, and keeps the verdict that made it so.
            if part.right {
                continue;
            }
            if checked.used_a_try && marked.costs && new {
                part.tries_used += 1;
            }
            let score = marked.score * f64::from(100 - taken_off) / 100.0;
            if score > part.best {
                part.best = score;
                part.best_try = this_try;
                part.taken_off = taken_off;
            }
            part.right = marked.outcome == Outcome::Correct;
            part.last = Some(marked.clone());
        }
        let all_right = set.is_right();
        if let Some(this) = set.tries.last_mut() {
            this.all_right = all_right;
        }
        self.last_change = recorded.number;
    }

    /// What hand-ins count for after corrections and the teacher's scores; without either, what was recorded.
    fn settle_hand_ins(&mut self) {
        let corrected_at = self.corrected_at;
        for hand_in in &mut self.hand_ins {
            let untouched = corrected_at < hand_in.event && self.by_teacher.is_empty();
            if untouched || hand_in.progress.is_some() {
                continue;
            }
            for (question, given) in &self.by_teacher {
                if let Some(scored) = hand_in.score.questions.get_mut(*question) {
                    scored.points = given.points.clamp(0.0, f64::from(scored.of));
                    scored.by_teacher = true;
                }
            }
            hand_in.score.points = hand_in.score.questions.iter().map(|q| q.points).sum();
            let kept = f64::from(100 - hand_in.recorded_then.taken_off.min(100)) / 100.0;
            hand_in.recorded.points = hand_in.score.points * kept;
        }
    }

    /// The seeds of a question's sets.
    pub fn seeds(&self, question: usize) -> Vec<u64> {
        let sets = self.questions.get(question).map(|q| q.sets.as_slice());
        sets.unwrap_or_default().iter().map(|s| s.seed).collect()
    }

    /// The hand-ins that stand.
    pub fn standing_hand_ins(&self) -> impl DoubleEndedIterator<Item = &HandIn> {
        self.hand_ins.iter().filter(|h| !h.taken_back)
    }

    pub fn hand_ins_used(&self) -> u32 {
        u32::try_from(self.standing_hand_ins().count()).unwrap_or(u32::MAX)
    }

    /// The hand-in whose score is recorded.
    pub fn counting_hand_in(&self, assignment: &Assignment) -> Option<&HandIn> {
        match assignment.settings.which_counts {
            WhichCounts::Last => self.standing_hand_ins().next_back(),
            WhichCounts::Best => {
                self.standing_hand_ins()
                    .fold(None, |best: Option<&HandIn>, next| match best {
                        Some(b) if b.recorded.points >= next.recorded.points => Some(b),
                        _ => Some(next),
                    })
            }
        }
    }

    /// Uses of Check that cost a try, over all questions and sets.
    pub fn tries_used(&self) -> u32 {
        self.questions
            .iter()
            .flat_map(|q| &q.sets)
            .map(|s| s.tries_used)
            .sum()
    }
}

fn fresh_parts<'a>(ids: impl Iterator<Item = &'a String>) -> Vec<PartState> {
    ids.map(|id| PartState {
        id: id.clone(),
        ..PartState::default()
    })
    .collect()
}

impl QuestionState {
    pub fn current(&self) -> Option<&SetState> {
        self.sets.last()
    }

    pub fn is_touched(&self) -> bool {
        self.sets.iter().any(|s| !s.tries.is_empty())
    }
}

impl SetState {
    pub fn is_right(&self) -> bool {
        self.parts.iter().all(|p| p.right)
    }

    pub fn tries_left(&self, max: Option<u32>) -> Option<u32> {
        max.map(|m| m.saturating_sub(self.tries_used))
    }

    /// Whether this response was already checked for this part on this set.
    pub fn has_tried(&self, part: &str, response: &Response) -> bool {
        self.tries
            .iter()
            .flat_map(|t| &t.parts)
            .any(|p| p.part == part && same_response(&p.response, response))
    }
}

/// Whether two responses are the same but for blanks and the order of choices.
fn same_response(a: &Response, b: &Response) -> bool {
    match (a, b) {
        (Response::Text(a), Response::Text(b)) => a.split_whitespace().eq(b.split_whitespace()),
        (Response::Choices(a), Response::Choices(b)) => {
            let sorted = |v: &Vec<String>| {
                let mut v = v.clone();
                v.sort();
                v
            };
            sorted(a) == sorted(b)
        }
        _ => false,
    }
}

/// Where the assignment stands for this student.
pub fn state(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> State {
    let terms = terms(assignment, work);
    let handed_in = work.standing_hand_ins().next().is_some();
    let ended = now >= terms.closes
        || terms.time_ends.is_some_and(|end| now >= end)
        || (assignment.is_simultaneous() && terms.hand_ins.is_some_and(|max| work.hand_ins_used() >= max));
    match (handed_in, results_released(assignment, work, now)) {
        (true, true) if ended => State::Marked,
        (true, true) if assignment.settings.release == crate::Release::AfterDue => State::Marked,
        (true, false) if ended => State::WithTheTeacher,
        (true, _) => State::HandedIn,
        _ if now >= terms.closes => State::Closed,
        _ if work.opened_at.is_some() => State::UnderWay,
        _ => State::NotOpened,
    }
}
