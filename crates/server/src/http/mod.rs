//! What every room of the server stands on: errors as problems, who is asking, bodies within bounds, files, the log.

pub(crate) mod access_log;
pub(crate) mod assets;
pub(crate) mod auth;
pub(crate) mod body;
pub(crate) mod error;
pub(crate) mod file_type;
mod limits;
pub(crate) mod origin;
pub(crate) mod ranges;
pub(crate) mod scopes;
pub(crate) mod settings;

pub use settings::Settings;
