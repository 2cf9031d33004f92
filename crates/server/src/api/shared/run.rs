//! A run of practice that was begun.

use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

#[derive(Serialize, ToSchema)]
pub(crate) struct Started {
    pub id: Uuid,
}
