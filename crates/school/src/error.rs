use coursework::Refusal;
use marking::{RenderError, ResponseFault};
use store::StoreError;

/// Why something was not done. What it is on the web is the server's to say.
#[derive(Debug, thiserror::Error)]
pub enum SchoolError {
    #[error("not signed in")]
    NotSignedIn,
    #[error("not found")]
    NotFound,
    #[error("refused: {0}")]
    Refused(#[from] Refusal),
    #[error("out of bounds: {0}")]
    OutOfBounds(#[from] ResponseFault),
    /// Too much of one person's waits already.
    #[error("busy")]
    Busy,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("question `{question}` cannot be drawn: {error}")]
    Undrawable { question: String, error: RenderError },
    #[error("inside: {0}")]
    Inside(String),
}

impl From<sqlx::Error> for SchoolError {
    fn from(error: sqlx::Error) -> Self {
        SchoolError::Store(error.into())
    }
}
