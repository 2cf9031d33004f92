//! What a student has to be told: things that happened to their work without them.

use time::OffsetDateTime;

use crate::event::{Event, Recorded};
use crate::fold::fold;
use crate::settings::{Assignment, Release};
use crate::terms::{results_released, terms};
use crate::work::Work;

#[derive(Clone, Debug, PartialEq)]
pub struct Notice {
    /// The number of the event behind it; 0 for what the dates bring.
    pub event: u32,
    pub at: OffsetDateTime,
    pub kind: NoticeKind,
}

#[derive(Clone, Debug, PartialEq)]
pub enum NoticeKind {
    /// A question's key was corrected. Recorded scores in per cent, where there is one.
    KeyCorrected {
        question: usize,
        before: Option<f64>,
        after: Option<f64>,
    },
    ScoredByTeacher {
        question: usize,
        points: f64,
        of: u32,
        note: String,
    },
    DueMoved(OffsetDateTime),
    ClosingMoved(OffsetDateTime),
    /// Per cent of the time limit.
    MoreTime(u32),
    MoreHandIns(u32),
    MoreSets(u32),
    /// Why there is an exception, where the teacher wishes it to be told.
    Because(String),
    /// The clock ended the work; whether it handed anything in.
    TimeUp {
        handed_in: bool,
    },
    /// The results are out now.
    ResultsOut,
}

impl Event {
    /// Whether it is something that a student has to be told: others did it, or the clock.
    pub fn is_told(&self) -> bool {
        matches!(
            self,
            Event::KeyCorrected(_) | Event::ScoredByTeacher { .. } | Event::ExceptionGiven(_) | Event::TimeUp
        )
    }
}

/// What has happened since event `seen`, oldest first. There is nothing where the work's last event to be told of is not
/// after it.
pub fn notices(assignment: &Assignment, events: &[Recorded], seen: u32) -> Vec<Notice> {
    let mut all = Vec::new();
    for (i, recorded) in events.iter().enumerate().filter(|(_, r)| r.number > seen) {
        let until = |n: usize| events.get(..n).unwrap_or_default();
        let percent = |n: usize| {
            let work = fold(assignment, until(n));
            work.counting_hand_in(assignment).map(|h| h.recorded.percent())
        };
        let mut tell = |kind| {
            let (event, at) = (recorded.number, recorded.at);
            all.push(Notice { event, at, kind });
        };
        match &recorded.event {
            Event::KeyCorrected(correction) => tell(NoticeKind::KeyCorrected {
                question: correction.question,
                before: percent(i),
                after: percent(i + 1),
            }),
            Event::ScoredByTeacher {
                question,
                points,
                note,
                ..
            } => tell(NoticeKind::ScoredByTeacher {
                question: *question,
                points: *points,
                of: assignment.items.get(*question).map_or(0, |i| i.points),
                note: note.clone(),
            }),
            Event::ExceptionGiven(exception) => {
                if let Some(due) = exception.due {
                    tell(NoticeKind::DueMoved(due));
                }
                if let Some(closes) = exception.closes {
                    tell(NoticeKind::ClosingMoved(closes));
                }
                if let Some(percent) = exception.time_percent {
                    tell(NoticeKind::MoreTime(percent));
                }
                if exception.more_hand_ins > 0 {
                    tell(NoticeKind::MoreHandIns(exception.more_hand_ins));
                }
                if exception.more_sets > 0 {
                    tell(NoticeKind::MoreSets(exception.more_sets));
                }
                if exception.tell_why && !exception.why.is_empty() {
                    tell(NoticeKind::Because(exception.why.clone()));
                }
            }
            Event::TimeUp => {
                let next = events.get(i + 1).map(|r| &r.event);
                let handed_in = matches!(next, Some(Event::HandedIn { by_time: true, .. }));
                tell(NoticeKind::TimeUp { handed_in });
            }
            _ => {}
        }
    }
    all
}

/// That the results are out, where they came later than the hand-in. `seen`: whether they were looked at.
pub fn results_out(assignment: &Assignment, work: &Work, seen: bool, now: OffsetDateTime) -> Option<Notice> {
    let later = assignment.settings.release == Release::AfterDue;
    (later && !seen && results_released(assignment, work, now)).then(|| Notice {
        event: 0,
        at: terms(assignment, work).due,
        kind: NoticeKind::ResultsOut,
    })
}
