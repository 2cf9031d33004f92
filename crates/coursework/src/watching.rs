//! A recording with stops: what was really seen of it, how far one may go, and when it is done. Claims in, state out; the
//! caller keeps the state.
//!
//! On the first time through nobody passes a stop that was not answered, nor what lies ahead of what was seen. A claim to have
//! played a stretch is believed as far as the time that passed since the last one allows.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

/// Nobody plays faster than this.
pub const FASTEST: f64 = 2.0;
/// Seconds that clocks, buffers and late requests may differ by.
pub const SLACK: f64 = 1.5;
/// A request that says what was played comes at least this often while it plays, in seconds.
pub const REPORTED_WITHIN: f64 = 30.0;

/// Where a recording halts, and asks something.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Stop {
    pub id: String,
    /// Seconds from the start.
    pub at: f64,
    /// Questions of the bank, by their ids.
    pub questions: Vec<String>,
}

/// What is known of a recording here.
#[derive(Clone, Debug, PartialEq)]
pub struct Stops {
    pub seconds: f64,
    /// By time.
    pub stops: Vec<Stop>,
}

/// What somebody saw of a recording.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Watched {
    /// Stretches that were seen, in seconds, by time and apart from each other.
    pub seen: Vec<(f64, f64)>,
    /// Where they were last.
    pub at: f64,
    /// Stops that were answered, each question of each.
    pub answered: BTreeSet<(String, usize)>,
    /// When the last claim was believed, in milliseconds since 1970.
    pub told_at: Option<i64>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum WatchFault {
    #[error("There is no such place in this recording.")]
    NoSuchPlace,
    #[error("That lies ahead of what you have seen. Once you have seen it all, you can go anywhere.")]
    Ahead,
    #[error("There is a stop before it that waits for an answer.")]
    StopFirst,
    #[error("More was played than the time that passed allows.")]
    TooFast,
}

fn millis(at: OffsetDateTime) -> i64 {
    i64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(i64::MAX)
}

#[expect(clippy::cast_precision_loss, reason = "seconds between two requests")]
fn seconds_between(from: i64, to: i64) -> f64 {
    (to.saturating_sub(from)) as f64 / 1_000.0
}

impl Stops {
    /// The first stop that still waits for an answer.
    pub fn waiting(&self, watched: &Watched) -> Option<&Stop> {
        self.stops.iter().find(|s| !watched.has_answered(s))
    }

    /// How far one may go: to the next stop that waits, and no further than what was seen.
    pub fn may_go_to(&self, watched: &Watched) -> f64 {
        let stop = self.waiting(watched).map_or(self.seconds, |s| s.at);
        watched.furthest().min(stop).min(self.seconds)
    }

    /// The share that was seen, 0 to 1.
    pub fn share(&self, watched: &Watched) -> f64 {
        if self.seconds <= 0.0 {
            return 0.0;
        }
        let seen: f64 = watched.seen.iter().map(|(from, to)| to - from).sum();
        // The last moment is never quite played.
        if seen + SLACK >= self.seconds {
            1.0
        } else {
            (seen / self.seconds).clamp(0.0, 1.0)
        }
    }

    /// Seen whole, and every stop answered.
    pub fn is_done(&self, watched: &Watched) -> bool {
        self.share(watched) >= 1.0 && self.waiting(watched).is_none()
    }
}

impl Watched {
    pub fn has_answered(&self, stop: &Stop) -> bool {
        (0..stop.questions.len()).all(|n| self.answered.contains(&(stop.id.clone(), n)))
    }

    /// To where it was seen without a gap from the start.
    pub fn furthest(&self) -> f64 {
        match self.seen.first() {
            Some((from, to)) if *from <= SLACK => *to,
            _ => 0.0,
        }
    }

    fn add(&mut self, from: f64, to: f64) {
        self.seen.push((from, to));
        self.seen.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut joined: Vec<(f64, f64)> = Vec::with_capacity(self.seen.len());
        for (from, to) in &self.seen {
            match joined.last_mut() {
                Some(last) if *from <= last.1 + 0.25 => last.1 = last.1.max(*to),
                _ => joined.push((*from, *to)),
            }
        }
        self.seen = joined;
    }

    /// Begins to play somewhere, or moves there.
    ///
    /// # Errors
    /// Why one may not be there.
    pub fn go_to(&mut self, stops: &Stops, at: f64, now: OffsetDateTime) -> Result<(), WatchFault> {
        if !at.is_finite() || at < 0.0 || at > stops.seconds + SLACK {
            return Err(WatchFault::NoSuchPlace);
        }
        if at > stops.may_go_to(self) + SLACK {
            return Err(if at > self.furthest() + SLACK {
                WatchFault::Ahead
            } else {
                WatchFault::StopFirst
            });
        }
        self.at = at.min(stops.seconds);
        self.told_at = Some(millis(now));
        Ok(())
    }

    /// Takes in that a stretch was played up to now. Believed as far as time allows, and not past a stop that waits.
    ///
    /// # Errors
    /// Why nothing of it is believed; the state is as it was.
    pub fn played(
        &mut self,
        stops: &Stops,
        from: f64,
        to: f64,
        now: OffsetDateTime,
    ) -> Result<(), WatchFault> {
        let is_place = |at: f64| at.is_finite() && (0.0..=stops.seconds + SLACK).contains(&at);
        if !is_place(from) || !is_place(to) || to < from {
            return Err(WatchFault::NoSuchPlace);
        }
        if from > stops.may_go_to(self) + SLACK {
            return Err(if from > self.furthest() + SLACK {
                WatchFault::Ahead
            } else {
                WatchFault::StopFirst
            });
        }
        let passed = self
            .told_at
            .map_or(0.0, |then| seconds_between(then, millis(now)));
        if to - from > passed.clamp(0.0, REPORTED_WITHIN) * FASTEST + SLACK {
            return Err(WatchFault::TooFast);
        }
        let stop = stops.waiting(self).map_or(stops.seconds, |s| s.at);
        let to = to.min(stop).min(stops.seconds);
        if to > from {
            self.add(from, to);
        }
        self.at = to.max(0.0);
        self.told_at = Some(millis(now));
        Ok(())
    }

    /// A question of a stop was answered: one that was come to.
    ///
    /// # Errors
    /// Where it was not reached yet, or there is no such stop.
    pub fn answer(&mut self, stops: &Stops, stop: &str, question: usize) -> Result<(), WatchFault> {
        let found = stops.stops.iter().find(|s| s.id == stop);
        let found = found
            .filter(|s| question < s.questions.len())
            .ok_or(WatchFault::NoSuchPlace)?;
        if found.at > stops.may_go_to(self) + SLACK {
            return Err(WatchFault::Ahead);
        }
        self.answered.insert((stop.to_owned(), question));
        Ok(())
    }
}
