//! Deep Linking 2.0: what a teacher picked, sent back to the platform.

use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use time::{Duration, OffsetDateTime};

use crate::launch::web_address;

const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";
const DL_CLAIM: &str = "https://purl.imsglobal.org/spec/lti-dl/claim/";
/// As long is a response believed.
const LIFE: Duration = Duration::minutes(5);

/// What the platform takes back, and where.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct DeepLinkingSettings {
    pub return_url: String,
    pub accept_multiple: bool,
    pub accept_line_item: bool,
    /// To be sent back as it came.
    pub data: Option<String>,
}

impl DeepLinkingSettings {
    /// `None` if it can't be answered: no address, or no links taken.
    pub(crate) fn read(settings: &Value) -> Option<Self> {
        let return_url = settings.get("deep_link_return_url")?.as_str()?;
        let takes = settings.get("accept_types")?.as_array()?;
        if !web_address(return_url) || !takes.iter().any(|t| t == "ltiResourceLink") {
            return None;
        }
        let flag = |name: &str, unsaid: bool| settings.get(name).and_then(Value::as_bool).unwrap_or(unsaid);
        Some(Self {
            return_url: return_url.to_owned(),
            accept_multiple: flag("accept_multiple", false),
            accept_line_item: flag("accept_lineitem", true),
            data: settings.get("data").and_then(Value::as_str).map(str::to_owned),
        })
    }
}

/// A column of the grade book that goes with a link.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct LineItem {
    pub label: String,
    pub score_maximum: f64,
    pub resource_id: String,
}

/// A link to something of ours.
#[derive(Clone, Debug, PartialEq)]
pub struct ContentItem {
    pub title: String,
    pub url: String,
    pub custom: Vec<(String, String)>,
    pub line_item: Option<LineItem>,
    pub opens: Option<OffsetDateTime>,
    /// When it is due.
    pub due: Option<OffsetDateTime>,
}

fn iso(at: OffsetDateTime) -> String {
    let utc = at.to_offset(time::UtcOffset::UTC);
    let format = time::macros::format_description!("[year]-[month]-[day]T[hour]:[minute]:[second]Z");
    utc.format(format).unwrap_or_default()
}

fn item(item: &ContentItem, with_line_item: bool) -> Value {
    let mut out = json!({
        "type": "ltiResourceLink",
        "title": item.title,
        "url": item.url,
        "custom": item.custom.iter().cloned().collect::<std::collections::BTreeMap<_, _>>(),
    });
    if let Some(line_item) = item.line_item.as_ref().filter(|_| with_line_item) {
        out["lineItem"] = json!(line_item);
    }
    if let Some(at) = item.opens {
        out["available"] = json!({ "startDateTime": iso(at) });
    }
    if let Some(at) = item.due {
        out["submission"] = json!({ "endDateTime": iso(at) });
    }
    out
}

/// The claims of a response. `nonce` is a new one.
pub fn deep_linking_response(
    issuer: &str,
    client_id: &str,
    deployment: &str,
    settings: &DeepLinkingSettings,
    items: &[ContentItem],
    nonce: &str,
    now: OffsetDateTime,
) -> Value {
    let items = if settings.accept_multiple {
        items
    } else {
        items.get(..1.min(items.len())).unwrap_or_default()
    };
    let items: Vec<Value> = items.iter().map(|i| item(i, settings.accept_line_item)).collect();
    let mut claims = json!({
        "iss": client_id,
        "aud": issuer,
        "iat": now.unix_timestamp(),
        "exp": (now + LIFE).unix_timestamp(),
        "nonce": nonce,
    });
    claims[format!("{CLAIM}deployment_id")] = json!(deployment);
    claims[format!("{CLAIM}message_type")] = json!("LtiDeepLinkingResponse");
    claims[format!("{CLAIM}version")] = json!("1.3.0");
    claims[format!("{DL_CLAIM}content_items")] = json!(items);
    if let Some(data) = &settings.data {
        claims[format!("{DL_CLAIM}data")] = json!(data);
    }
    claims
}
