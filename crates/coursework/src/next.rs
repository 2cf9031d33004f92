//! The single most useful thing to do now: due work, slips that came back and fading skills, weighed by when each should
//! be begun.

use time::{Duration, OffsetDateTime};

use crate::state::State;

/// What one question takes, about; it only serves to compare assignments.
const PER_QUESTION: Duration = Duration::minutes(8);

/// An assignment as far as choosing needs to know it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Candidate {
    pub state: State,
    pub opens: OffsetDateTime,
    pub due: OffsetDateTime,
    pub closes: OffsetDateTime,
    pub counts: bool,
    /// Whether late work may still be handed in.
    pub late_accepted: bool,
    pub questions: usize,
    pub questions_left: usize,
    /// When a running clock ends it.
    pub time_ends: Option<OffsetDateTime>,
}

/// Why this one is next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Why {
    /// Its clock is running.
    ClockRuns,
    /// All is worked out; it only has to be handed in.
    OnlyHandIn,
    Overdue {
        left: usize,
        begun: bool,
    },
    /// It has to be begun first, given its due time and what is left.
    DueFirst {
        left: usize,
        begun: bool,
    },
    /// Only what does not count is open.
    Practice {
        left: usize,
    },
}

impl Candidate {
    /// Whether something needs doing here now.
    pub fn is_waiting(&self, now: OffsetDateTime) -> bool {
        matches!(self.state, State::NotOpened | State::UnderWay)
            && self.opens <= now
            && now < self.closes
            && (now <= self.due || self.late_accepted)
    }

    /// Nothing is left; a goal may be reached before its assignment was opened.
    fn is_worked_out(&self) -> bool {
        matches!(self.state, State::NotOpened | State::UnderWay) && self.questions_left == 0
    }

    fn why(&self, now: OffsetDateTime) -> Why {
        let (left, begun) = (self.questions_left, self.state == State::UnderWay);
        if self.is_worked_out() {
            Why::OnlyHandIn
        } else if !self.counts {
            Why::Practice { left }
        } else if self.due < now {
            Why::Overdue { left, begun }
        } else {
            Why::DueFirst { left, begun }
        }
    }

    /// The latest moment to begin what is left.
    fn latest_start(&self) -> OffsetDateTime {
        let left = i32::try_from(self.questions_left).unwrap_or(i32::MAX);
        self.due - PER_QUESTION * left.max(1)
    }
}

/// What waits beside assignments.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Waiting {
    /// Mended slips that have come back.
    pub slips_back: usize,
    /// When the first of them came back.
    pub slips_since: Option<OffsetDateTime>,
    /// Skills that are fading.
    pub fading: usize,
    /// When the first of them fell below 80.
    pub fading_since: Option<OffsetDateTime>,
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Choice {
    /// The place of the assignment, and why.
    Work(usize, Why),
    /// `until`: when the first assignment that waits and counts has to be begun.
    SlipsBack {
        count: usize,
        since: OffsetDateTime,
        until: Option<OffsetDateTime>,
    },
    Fading {
        count: usize,
        until: Option<OffsetDateTime>,
    },
}

/// A slip that came back should be tried within a day, a skill that is fading within three; neither presses more than
/// work that has to be begun within half a day, or a day.
const SLIPS_WITHIN: (Duration, Duration) = (Duration::days(1), Duration::hours(12));
const FADING_WITHIN: (Duration, Duration) = (Duration::days(3), Duration::days(1));

/// Chooses what should be begun first: a running clock, then what only has to be handed in and is due within two days,
/// then of counting work, slips and fading skills the one with the earliest moment to begin; work that does not count
/// comes last.
pub fn next(candidates: &[Candidate], beside: &Waiting, now: OffsetDateTime) -> Option<Choice> {
    let waiting = || candidates.iter().enumerate().filter(|(_, c)| c.is_waiting(now));
    if let Some((i, _)) = waiting()
        .filter(|(_, c)| c.time_ends.is_some_and(|end| end > now))
        .min_by_key(|(_, c)| c.time_ends)
    {
        return Some(Choice::Work(i, Why::ClockRuns));
    }
    let soon = now + Duration::days(2);
    if let Some((i, _)) = waiting()
        .filter(|(_, c)| c.is_worked_out() && c.due <= soon)
        .min_by_key(|(_, c)| c.due)
    {
        return Some(Choice::Work(i, Why::OnlyHandIn));
    }
    let first = waiting().min_by_key(|(_, c)| (!c.counts, c.latest_start(), c.questions_left));
    let until = first.filter(|(_, c)| c.counts).map(|(_, c)| c.latest_start());
    let begin = |since: Option<OffsetDateTime>, (within, least): (Duration, Duration)| {
        since.map(|since| (since + within).max(now + least))
    };
    let slips = begin(beside.slips_since.filter(|_| beside.slips_back > 0), SLIPS_WITHIN);
    let fading = begin(beside.fading_since.filter(|_| beside.fading > 0), FADING_WITHIN);
    let before = |at: OffsetDateTime, other: Option<OffsetDateTime>| other.is_none_or(|other| at < other);
    if let (Some(at), Some(since)) = (slips, beside.slips_since)
        && before(at, until)
        && before(at, fading)
    {
        return Some(Choice::SlipsBack {
            count: beside.slips_back,
            since,
            until,
        });
    }
    if let Some(at) = fading
        && before(at, until)
    {
        return Some(Choice::Fading {
            count: beside.fading,
            until,
        });
    }
    let (i, first) = first?;
    Some(Choice::Work(i, first.why(now)))
}
