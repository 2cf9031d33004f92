//! A real server, a real database and a real browser for tests that walk through the interface as a student does.

mod browser;
mod site;

pub use browser::Browser;
pub use site::Site;

/// What a walk gives.
pub type Outcome<T> = Result<T, Box<dyn std::error::Error + Send + Sync>>;
