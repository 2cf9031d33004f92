use marking::{Outcome, Response};
use time::OffsetDateTime;

use crate::event::{Checked, CheckedPart, Event, Recorded, RecordedScore};
use crate::settings::{Assignment, WhichCounts};

/// The state of one student's work, folded from its events.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Work {
    pub opened_at: Option<OffsetDateTime>,
    pub questions: Vec<QuestionState>,
    pub hand_ins: Vec<HandIn>,
    /// Number of the last event.
    pub last_event: u32,
}

#[derive(Clone, Debug, Default, PartialEq)]
pub struct QuestionState {
    /// Set A first; never empty once opened.
    pub sets: Vec<SetState>,
}

#[derive(Clone, Debug, PartialEq)]
pub struct SetState {
    pub seed: u64,
    pub tries_used: u32,
    pub parts: Vec<PartState>,
    pub tries: Vec<TryRecord>,
}

#[derive(Clone, Debug, Default, PartialEq)]
pub struct PartState {
    pub id: String,
    /// Best score so far on this set, 0 to 1.
    pub best: f64,
    pub right: bool,
    /// The verdict that stands beside the part: the last one, or the right one once there is one.
    pub last: Option<CheckedPart>,
    /// The try (1, 2, …) of the best score.
    pub best_try: u32,
}

/// One use of Check.
#[derive(Clone, Debug, PartialEq)]
pub struct TryRecord {
    pub at: OffsetDateTime,
    pub parts: Vec<CheckedPart>,
    pub used_a_try: bool,
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub struct HandIn {
    pub number: u32,
    pub at: OffsetDateTime,
    pub late: bool,
    pub recorded: RecordedScore,
    pub taken_back: bool,
}

/// The word beside an assignment.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum State {
    NotOpened,
    UnderWay,
    HandedIn,
    /// Past closing, with a hand-in or without one.
    Closed {
        handed_in: bool,
    },
}

/// Folds events into the state they mean.
pub fn fold(assignment: &Assignment, events: &[Recorded]) -> Work {
    let mut work = Work::default();
    for recorded in events {
        work.last_event = recorded.number;
        match &recorded.event {
            Event::Opened { seeds } => work.open(assignment, seeds, recorded.at),
            Event::Checked(checked) => work.check(checked, recorded.at),
            Event::HandedIn {
                late,
                recorded: score,
            } => work.hand_ins.push(HandIn {
                number: u32::try_from(work.hand_ins.len()).unwrap_or(u32::MAX) + 1,
                at: recorded.at,
                late: *late,
                recorded: *score,
                taken_back: false,
            }),
            Event::TakenBack => {
                if let Some(last) = work.hand_ins.iter_mut().rfind(|h| !h.taken_back) {
                    last.taken_back = true;
                }
            }
        }
    }
    work
}

impl Work {
    fn open(&mut self, assignment: &Assignment, seeds: &[u64], at: OffsetDateTime) {
        if self.opened_at.is_some() {
            return;
        }
        self.opened_at = Some(at);
        self.questions = assignment
            .items
            .iter()
            .zip(seeds)
            .map(|(item, seed)| QuestionState {
                sets: vec![SetState {
                    seed: *seed,
                    tries_used: 0,
                    parts: item
                        .parts
                        .iter()
                        .map(|p| PartState {
                            id: p.id.clone(),
                            ..PartState::default()
                        })
                        .collect(),
                    tries: Vec::new(),
                }],
            })
            .collect();
    }

    fn check(&mut self, checked: &Checked, at: OffsetDateTime) {
        let Some(set) = self
            .questions
            .get_mut(checked.question)
            .and_then(|q| q.sets.get_mut(checked.set))
        else {
            return;
        };
        if checked.used_a_try {
            set.tries_used += 1;
        }
        set.tries.push(TryRecord {
            at,
            parts: checked.parts.clone(),
            used_a_try: checked.used_a_try,
        });
        let this_try = u32::try_from(set.tries.len()).unwrap_or(u32::MAX);
        for marked in &checked.parts {
            let Some(part) = set.parts.iter_mut().find(|p| p.id == marked.part) else {
                continue;
            };
            // A part once right stays right, and keeps the verdict that made it so.
            if part.right {
                continue;
            }
            if marked.score > part.best {
                part.best = marked.score;
                part.best_try = this_try;
            }
            part.right = marked.outcome == Outcome::Correct;
            part.last = Some(marked.clone());
        }
    }

    /// The hand-ins that stand.
    pub fn standing_hand_ins(&self) -> impl DoubleEndedIterator<Item = &HandIn> {
        self.hand_ins.iter().filter(|h| !h.taken_back)
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
    let handed_in = work.standing_hand_ins().next().is_some();
    if now >= assignment.settings.closes {
        State::Closed { handed_in }
    } else if handed_in {
        State::HandedIn
    } else if work.opened_at.is_some() {
        State::UnderWay
    } else {
        State::NotOpened
    }
}
