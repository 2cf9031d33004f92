//! What happens on a command: load what is needed, let the core decide, append, tell. And what a school holds beside it:
//! questions that were read once, the clock, the bank, corrections, the demo world. No web.

pub mod accept;
pub mod bank;
pub mod classes;
mod clock;
mod compute;
mod content;
mod desk;
mod error;
mod glance;
mod goals;
mod held;
pub mod installation;
mod learner;
mod marks;
pub mod own;
pub mod package;
pub mod pages;
pub mod paper;
pub mod placing;
pub mod portal;
pub mod practice;
pub mod qti;
pub mod recordings;
pub mod regrade;
pub mod roll;
pub mod seed;
pub mod setting;
pub mod sheet;
pub mod sign_in;
mod slip_book;
mod stored;
pub mod time_up;
pub mod units;
pub mod went;
mod zip;

use std::sync::Arc;

use sqlx::PgPool;
use store::Lanes;
use time::OffsetDateTime;
use tokio::sync::OnceCell;

pub use clock::Clock;
pub use content::refresh as refresh_content;
pub use content::{Formula, FormulaGroup, FormulaSheet};
pub use content::{find_figure, find_page, find_skill, find_sound, formula_sheets, skills, title_of};
pub use desk::{Desk, entered};
pub use error::SchoolError;
pub use glance::{Glance, Rebuilt, rebuild};
pub use learner::{Learner, PractisedRun, Sourced};
pub use marks::{mark_parts, random_number};
pub use slip_book::{Book, Source};
pub use stored::Stored;

pub use self::zip::Zip;
use compute::Compute;
pub use compute::{Cost, PasswordTurn, Turn, Whose, share_of};
use held::Held;

/// What every handler may use. Nothing in it would be missed by another process: what is held can be loaded again.
#[derive(Clone)]
pub struct School {
    pub pool: PgPool,
    /// For what is one statement, and comes often.
    pub lanes: Lanes,
    compute: Arc<Compute>,
    held: Arc<Held>,
    portals: Arc<portal::Client>,
    signing_key: Arc<OnceCell<Vec<u8>>>,
    clock: Clock,
}

impl School {
    pub fn new(pool: PgPool) -> Self {
        marking::program::set_runs(runner::run);
        Self {
            lanes: Lanes::new(pool.clone()),
            pool,
            compute: Arc::new(Compute::new()),
            held: Arc::new(Held::new()),
            portals: Arc::default(),
            signing_key: Arc::default(),
            clock: Clock::System,
        }
    }

    #[must_use]
    pub fn with_clock(self, clock: Clock) -> Self {
        Self { clock, ..self }
    }

    /// The instant that decides.
    pub fn now(&self) -> OffsetDateTime {
        self.clock.now()
    }
}
