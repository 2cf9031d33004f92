//! How long requests took, by kind.

use std::collections::BTreeMap;
use std::fmt;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use hdrhistogram::Histogram;

/// What a request was for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    Open,
    Board,
    Read,
    Draft,
    Check,
    Week,
    /// An endless program, run until it is ended.
    Endless,
}

impl Kind {
    fn name(self) -> &'static str {
        match self {
            Kind::Open => "open",
            Kind::Board => "board",
            Kind::Read => "Reads as",
            Kind::Draft => "draft",
            Kind::Check => "check",
            Kind::Week => "Week",
            Kind::Endless => "endless",
        }
    }
}

struct Row {
    /// In microseconds.
    took: Histogram<u64>,
    refused: u64,
}

pub struct Times {
    /// What came before is not counted.
    begin: Instant,
    rows: Mutex<BTreeMap<Kind, Row>>,
}

impl Times {
    pub fn new(begin: Instant) -> Self {
        Times {
            begin,
            rows: Mutex::default(),
        }
    }

    pub fn add(&self, kind: Kind, sent: Instant, took: Duration, good: bool) {
        if sent < self.begin {
            return;
        }
        let mut rows = self.rows.lock().unwrap_or_else(PoisonError::into_inner);
        let row = rows.entry(kind).or_insert_with(|| Row {
            took: Histogram::new(3).expect("three significant figures are within bounds"),
            refused: 0,
        });
        // It grows to whatever comes; only what no clock shows would not fit.
        let _ = row
            .took
            .record(u64::try_from(took.as_micros()).unwrap_or(u64::MAX));
        row.refused += u64::from(!good);
    }

    pub fn report(&self, over: Duration) -> Report {
        let rows = self.rows.lock().unwrap_or_else(PoisonError::into_inner);
        let line = |(kind, row): (&Kind, &Row)| Line {
            kind: *kind,
            requests: row.took.len(),
            median: Duration::from_micros(row.took.value_at_quantile(0.5)),
            p95: Duration::from_micros(row.took.value_at_quantile(0.95)),
            p99: Duration::from_micros(row.took.value_at_quantile(0.99)),
            worst: Duration::from_micros(row.took.max()),
            refused: row.refused,
        };
        Report {
            lines: rows.iter().map(line).collect(),
            over,
        }
    }
}

struct Line {
    kind: Kind,
    requests: u64,
    median: Duration,
    p95: Duration,
    p99: Duration,
    worst: Duration,
    refused: u64,
}

pub struct Report {
    lines: Vec<Line>,
    over: Duration,
}

impl Report {
    /// Whether something was measured, nothing was refused, and 99 of 100 answers of each kind came in time. An endless
    /// program takes as long as it may.
    pub fn is_within(&self, most: Duration) -> bool {
        let in_time = |l: &Line| l.kind == Kind::Endless || l.p99 <= most;
        !self.lines.is_empty() && self.lines.iter().all(|l| l.refused == 0 && in_time(l))
    }
}

impl fmt::Display for Report {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        writeln!(
            f,
            "{:<10}{:>10}{:>8}{:>10}{:>10}{:>10}{:>10}{:>9}",
            "", "requests", "/s", "median", "95 %", "99 %", "worst", "refused"
        )?;
        let millis = |d: Duration| format!("{:.1} ms", d.as_secs_f64() * 1000.0);
        for line in &self.lines {
            let rate = line.requests as f64 / self.over.as_secs_f64();
            writeln!(
                f,
                "{:<10}{:>10}{rate:>8.0}{:>10}{:>10}{:>10}{:>10}{:>9}",
                line.kind.name(),
                line.requests,
                millis(line.median),
                millis(line.p95),
                millis(line.p99),
                millis(line.worst),
                line.refused
            )?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_came_before_the_beginning_is_not_counted() {
        let begin = Instant::now();
        let times = Times::new(begin);
        let early = begin.checked_sub(Duration::from_secs(1)).unwrap();
        times.add(Kind::Check, early, Duration::from_secs(9), false);
        assert!(
            !times
                .report(Duration::from_secs(1))
                .is_within(Duration::from_secs(1))
        );
        times.add(Kind::Check, begin, Duration::from_millis(20), true);
        let report = times.report(Duration::from_secs(1));
        assert!(report.is_within(Duration::from_millis(25)));
        assert!(!report.is_within(Duration::from_millis(15)));
        assert!(report.to_string().contains("check"), "{report}");
    }

    #[test]
    fn one_slow_answer_of_a_hundred_is_at_the_edge_and_a_refusal_is_not_within() {
        let begin = Instant::now();
        let times = Times::new(begin);
        for n in 0..200 {
            let millis = if n < 2 { 400 } else { 10 };
            times.add(Kind::Read, begin, Duration::from_millis(millis), true);
        }
        assert!(
            times
                .report(Duration::from_secs(1))
                .is_within(Duration::from_millis(50))
        );
        times.add(Kind::Read, begin, Duration::from_millis(400), true);
        times.add(Kind::Read, begin, Duration::from_millis(400), true);
        assert!(
            !times
                .report(Duration::from_secs(1))
                .is_within(Duration::from_millis(50))
        );
        times.add(Kind::Week, begin, Duration::from_millis(1), false);
        assert!(
            !times
                .report(Duration::from_secs(1))
                .is_within(Duration::from_secs(60))
        );
    }
}
