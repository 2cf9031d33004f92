//! Events → the state that they mean.

use std::collections::BTreeMap;

use marking::Outcome;
use time::OffsetDateTime;

use crate::event::{Checked, CheckedPart, Event, Recorded};
use crate::score::score_so_far;
use crate::settings::Assignment;
use crate::work::{HandIn, PartState, QuestionState, SetState, TeacherScore, TryRecord, Work};

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
                by,
                parts,
            } => {
                let given = TeacherScore {
                    points: *points,
                    note: note.clone(),
                    by: *by,
                    at: recorded.at,
                    parts: parts.clone(),
                };
                self.by_teacher.insert(*question, given);
            }
            Event::ExceptionGiven(exception) => self.exception = self.exception.and(exception),
            Event::KeyCorrected(_) => {}
        }
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
            part.waiting = marked.outcome == Outcome::Waiting;
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
                    scored.waiting = 0.0;
                }
            }
            hand_in.score.points = hand_in.score.questions.iter().map(|q| q.points).sum();
            let kept = f64::from(100 - hand_in.recorded_then.taken_off.min(100)) / 100.0;
            hand_in.recorded.points = hand_in.score.points * kept;
            hand_in.recorded.waiting = hand_in.score.waiting() * kept;
        }
    }
}

fn fresh_parts<'a>(ids: impl Iterator<Item = &'a String>) -> Vec<PartState> {
    ids.map(|id| PartState {
        id: id.clone(),
        ..PartState::default()
    })
    .collect()
}
