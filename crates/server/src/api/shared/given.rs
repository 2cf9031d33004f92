//! What a browser gives for the parts of a question.

use marking::{Response, ResponseFault, parse_responses};
use serde::Deserialize;
use utoipa::ToSchema;

#[derive(Deserialize, ToSchema)]
pub(crate) struct GivenPart {
    id: String,
    response: Response,
}

/// The responses, each part once, all within bounds.
pub(crate) fn responses(parts: Vec<GivenPart>) -> Result<Vec<(String, Response)>, ResponseFault> {
    parse_responses(parts.into_iter().map(|p| (p.id, p.response)))
}
