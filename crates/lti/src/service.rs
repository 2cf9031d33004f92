//! Asking a platform's services for something: Security Framework 1.0, 4.1.

use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

pub const SCOPE_LINE_ITEM: &str = "https://purl.imsglobal.org/spec/lti-ags/scope/lineitem";
pub const SCOPE_SCORE: &str = "https://purl.imsglobal.org/spec/lti-ags/scope/score";
pub const SCOPE_RESULT: &str = "https://purl.imsglobal.org/spec/lti-ags/scope/result.readonly";
pub const SCOPE_MEMBERSHIPS: &str =
    "https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly";

pub const MEDIA_SCORE: &str = "application/vnd.ims.lis.v1.score+json";
pub const MEDIA_LINE_ITEM: &str = "application/vnd.ims.lis.v2.lineitem+json";
pub const MEDIA_LINE_ITEMS: &str = "application/vnd.ims.lis.v2.lineitemcontainer+json";
pub const MEDIA_RESULTS: &str = "application/vnd.ims.lis.v2.resultcontainer+json";
pub const MEDIA_MEMBERSHIPS: &str = "application/vnd.ims.lti-nrps.v2.membershipcontainer+json";

/// The claims with which a tool asks for an access token. `jti` is a new one.
pub fn client_assertion(client_id: &str, token_audience: &str, jti: &str, now: OffsetDateTime) -> Value {
    json!({
        "iss": client_id,
        "sub": client_id,
        "aud": token_audience,
        "iat": now.unix_timestamp(),
        "exp": (now + Duration::minutes(2)).unix_timestamp(),
        "jti": jti,
    })
}
