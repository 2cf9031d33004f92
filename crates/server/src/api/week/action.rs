//! What there is to do with an assignment now.

use serde::Serialize;
use utoipa::ToSchema;

#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Action {
    Open,
    CarryOn,
    HandIn,
    Look,
    /// The result is there to be read.
    Result,
    /// It has closed, and can be practised.
    Practise,
    /// It is not open yet.
    Wait,
    /// The teacher asks for something else first.
    First,
}
