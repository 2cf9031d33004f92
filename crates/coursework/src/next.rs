//! The single most useful thing to do now.

use time::{Duration, OffsetDateTime};

use crate::work::State;

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

    fn is_worked_out(&self) -> bool {
        self.state == State::UnderWay && self.questions_left == 0
    }

    /// The latest moment to begin what is left.
    fn latest_start(&self) -> OffsetDateTime {
        let left = i32::try_from(self.questions_left).unwrap_or(i32::MAX);
        self.due - PER_QUESTION * left.max(1)
    }
}

/// Chooses by due time and what is left: a running clock, then what only has to be handed in and is due within two
/// days, then what must be begun first; work that does not count comes last.
pub fn next(candidates: &[Candidate], now: OffsetDateTime) -> Option<(usize, Why)> {
    let waiting = || candidates.iter().enumerate().filter(|(_, c)| c.is_waiting(now));
    if let Some((i, _)) = waiting()
        .filter(|(_, c)| c.time_ends.is_some_and(|end| end > now))
        .min_by_key(|(_, c)| c.time_ends)
    {
        return Some((i, Why::ClockRuns));
    }
    let soon = now + Duration::days(2);
    if let Some((i, _)) = waiting()
        .filter(|(_, c)| c.is_worked_out() && c.due <= soon)
        .min_by_key(|(_, c)| c.due)
    {
        return Some((i, Why::OnlyHandIn));
    }
    let (i, first) = waiting().min_by_key(|(_, c)| (!c.counts, c.latest_start(), c.questions_left))?;
    let (left, begun) = (first.questions_left, first.state == State::UnderWay);
    let why = if first.is_worked_out() {
        Why::OnlyHandIn
    } else if !first.counts {
        Why::Practice { left }
    } else if first.due < now {
        Why::Overdue { left, begun }
    } else {
        Why::DueFirst { left, begun }
    };
    Some((i, why))
}
