//! Our own keys: made when first needed, kept in the database, the newest one signs.

use lti::{JwkSet, ToolKey};
use time::Duration;

use crate::School;
use crate::error::SchoolError;
use crate::own::fresh_token;

/// A key that was followed by another stays published for as long.
const STAYS: Duration = Duration::days(7);

fn inside(e: impl std::fmt::Display) -> SchoolError {
    SchoolError::Inside(e.to_string())
}

/// Makes a new key; with `unless_any` only where there is none.
///
/// # Errors
/// What the database said.
pub async fn make_key(school: &School, unless_any: bool) -> Result<String, SchoolError> {
    let pem = tokio::task::spawn_blocking(ToolKey::make)
        .await
        .map_err(inside)?
        .map_err(inside)?;
    let kid: String = fresh_token()?.chars().take(16).collect();
    let now = school.now();
    store::put_key_of_ours(&school.pool, &kid, &pem, now, unless_any, now - STAYS).await?;
    Ok(kid)
}

async fn keys(school: &School) -> Result<Vec<ToolKey>, SchoolError> {
    let mut rows = store::keys_of_ours(&school.pool).await?;
    if rows.is_empty() {
        make_key(school, true).await?;
        rows = store::keys_of_ours(&school.pool).await?;
    }
    rows.iter()
        .map(|(kid, pem, _)| ToolKey::read(kid, pem).map_err(inside))
        .collect()
}

/// The key that signs.
pub(crate) async fn signing_key(school: &School) -> Result<ToolKey, SchoolError> {
    keys(school)
        .await?
        .into_iter()
        .next()
        .ok_or_else(|| SchoolError::Inside("no key".into()))
}

/// What portals read our signatures by.
///
/// # Errors
/// What the database said.
pub async fn published(school: &School) -> Result<JwkSet, SchoolError> {
    let keys = keys(school).await?;
    Ok(JwkSet {
        keys: keys.iter().map(|k| k.public().clone()).collect(),
    })
}
