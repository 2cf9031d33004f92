//! The server's clock. Every instant that decides anything comes from here.

use std::path::PathBuf;

use time::{Duration, OffsetDateTime};

/// Where the time comes from.
#[derive(Clone, Debug, Default)]
pub enum Clock {
    #[default]
    System,
    /// The system's time moved on by the whole seconds that stand in a file: for trying out what happens later.
    Moved(PathBuf),
}

impl Clock {
    pub fn now(&self) -> OffsetDateTime {
        let now = OffsetDateTime::now_utc();
        // What is held and what is read back from the database is the same: it keeps microseconds.
        let now = now
            .replace_nanosecond(now.nanosecond() / 1000 * 1000)
            .unwrap_or(now);
        match self {
            Clock::System => now,
            Clock::Moved(file) => {
                let seconds = std::fs::read_to_string(file)
                    .ok()
                    .and_then(|s| s.trim().parse().ok());
                now + Duration::seconds(seconds.unwrap_or(0))
            }
        }
    }
}
