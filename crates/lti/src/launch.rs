//! Judging a launch: LTI Core 1.3, 5 and 6; Security Framework 1.0, 5.1.3.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use serde_json::Value;
use time::{Duration, OffsetDateTime};

use crate::Refusal;
use crate::deep_link::DeepLinkingSettings;

/// Clocks may differ by as much.
const LEEWAY: Duration = Duration::seconds(60);
/// A message that says nothing of its end is believed for as long.
const LONGEST_LIFE: Duration = Duration::hours(1);

const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";
const DEEP_LINKING: &str = "https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings";
const AGS: &str = "https://purl.imsglobal.org/spec/lti-ags/claim/endpoint";
const NRPS: &str = "https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice";

/// What is known beforehand, and what the sign-in that was begun expects.
#[derive(Clone, Copy, Debug)]
pub struct Expected<'a> {
    pub issuer: &'a str,
    pub client_id: &'a str,
    pub deployments: &'a [String],
    pub nonce: &'a str,
    /// Our own address, without a slash at its end: nobody is sent elsewhere.
    pub base: &'a str,
    pub now: OffsetDateTime,
}

/// What somebody is in the course.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Role {
    Student,
    Teacher,
    /// The user as whom a portal's teachers try a course out: works as a student does, and is none.
    Trial,
}

/// The course of the portal.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Context {
    pub id: String,
    pub title: String,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ResourceLink {
    pub id: String,
    pub title: String,
}

/// The endpoints of Assignment and Grade Services.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Grades {
    pub scopes: Vec<String>,
    /// Of the link that was opened.
    pub line_item: Option<String>,
    /// All of the course's.
    pub line_items: Option<String>,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Message {
    ResourceLink(ResourceLink),
    DeepLinking(DeepLinkingSettings),
}

/// A launch that is believed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Launch {
    pub subject: String,
    pub name: Option<String>,
    pub deployment: String,
    pub role: Role,
    pub context: Option<Context>,
    pub message: Message,
    pub target: String,
    pub custom: BTreeMap<String, String>,
    pub grades: Option<Grades>,
    /// Where the course's members are asked for.
    pub memberships: Option<String>,
    /// Where to go back to.
    pub return_url: Option<String>,
}

fn text(claims: &Value, name: &str) -> Option<String> {
    claims
        .get(name)?
        .as_str()
        .map(str::trim)
        .filter(|t| !t.is_empty() && !t.contains('\0'))
        .map(str::to_owned)
}

fn instant(claims: &Value, name: &str) -> Result<Option<OffsetDateTime>, Refusal> {
    let Some(value) = claims.get(name) else {
        return Ok(None);
    };
    let seconds = value
        .as_i64()
        .or_else(|| value.as_f64().map(|f| f as i64))
        .ok_or(Refusal::Unreadable)?;
    OffsetDateTime::from_unix_timestamp(seconds)
        .map(Some)
        .map_err(|_| Refusal::Unreadable)
}

fn is_for(claims: &Value, client_id: &str) -> bool {
    let authorised = text(claims, "azp");
    match claims.get("aud") {
        Some(Value::String(one)) => one == client_id && authorised.is_none_or(|a| a == client_id),
        // Several: then the one that it was issued to has to be named.
        Some(Value::Array(all)) => {
            let named = all.iter().any(|a| a == client_id);
            named
                && match authorised {
                    Some(a) => a == client_id,
                    None => all.len() == 1,
                }
        }
        _ => false,
    }
}

/// Names of roles: LTI Core 1.3, appendix A. Those of the course count; a sub-role counts as what it is one of.
fn role(claims: &Value) -> Option<Role> {
    let named = |name: &str| {
        let simple = name == "Instructor" || name == "Learner";
        let of_course = name.strip_prefix("http://purl.imsglobal.org/vocab/lis/v2/membership");
        match of_course {
            Some(rest) => match rest.split_once('#') {
                Some(("", role)) => Some(role.to_owned()),
                Some((core, _)) => Some(core.trim_start_matches('/').to_owned()),
                None => None,
            },
            None => simple.then(|| name.to_owned()),
        }
    };
    let given = claims.get(format!("{CLAIM}roles"))?.as_array()?;
    let is_trial = given
        .iter()
        .any(|r| r.as_str() == Some("http://purl.imsglobal.org/vocab/lti/system/person#TestUser"));
    let roles: Vec<String> = given.iter().filter_map(|r| named(r.as_str()?)).collect();
    let has = |wanted: &str| roles.iter().any(|r| r == wanted);
    if is_trial {
        Some(Role::Trial)
    } else if has("Instructor") || has("Administrator") {
        Some(Role::Teacher)
    } else if has("Learner") {
        Some(Role::Student)
    } else {
        None
    }
}

/// An address of the web that can be asked for something.
pub(crate) fn web_address(given: &str) -> bool {
    url::Url::parse(given).is_ok_and(|u| matches!(u.scheme(), "https" | "http") && u.host().is_some())
}

fn address(claims: &Value, name: &str) -> Option<String> {
    text(claims, name).filter(|a| web_address(a))
}

/// Whether a target lies on our own address.
fn is_ours(target: &str, base: &str) -> bool {
    let (Ok(target), Ok(base)) = (url::Url::parse(target), url::Url::parse(base)) else {
        return false;
    };
    target.origin().is_tuple()
        && target.origin() == base.origin()
        && target.username().is_empty()
        && target.password().is_none()
}

/// Judges the claims of a message whose signature holds.
///
/// # Errors
/// What is wrong with it; the first thing that is.
pub fn judge(claims: &Value, expected: &Expected<'_>) -> Result<Launch, Refusal> {
    if text(claims, "iss").as_deref() != Some(expected.issuer) {
        return Err(Refusal::Issuer);
    }
    if !is_for(claims, expected.client_id) {
        return Err(Refusal::Audience);
    }
    let now = expected.now;
    let issued = instant(claims, "iat")?.ok_or(Refusal::Unreadable)?;
    let ends = instant(claims, "exp")?.ok_or(Refusal::Unreadable)?;
    let begins = instant(claims, "nbf")?.unwrap_or(issued).max(issued);
    if begins > now + LEEWAY {
        return Err(Refusal::NotYetValid);
    }
    if ends + LEEWAY <= now || issued + LONGEST_LIFE + LEEWAY <= now {
        return Err(Refusal::Expired);
    }
    if text(claims, "nonce").as_deref() != Some(expected.nonce) {
        return Err(Refusal::Nonce);
    }
    let deployment = text(claims, &format!("{CLAIM}deployment_id")).ok_or(Refusal::Deployment)?;
    if !expected.deployments.contains(&deployment) {
        return Err(Refusal::Deployment);
    }
    if text(claims, &format!("{CLAIM}version")).as_deref() != Some("1.3.0") {
        return Err(Refusal::Version);
    }
    let target = text(claims, &format!("{CLAIM}target_link_uri"));
    let message = match text(claims, &format!("{CLAIM}message_type")).as_deref() {
        Some("LtiResourceLinkRequest") => {
            let link = claims
                .get(format!("{CLAIM}resource_link"))
                .ok_or(Refusal::NoResourceLink)?;
            Message::ResourceLink(ResourceLink {
                id: text(link, "id").ok_or(Refusal::NoResourceLink)?,
                title: text(link, "title").unwrap_or_default(),
            })
        }
        Some("LtiDeepLinkingRequest") => Message::DeepLinking(
            claims
                .get(DEEP_LINKING)
                .and_then(DeepLinkingSettings::read)
                .ok_or(Refusal::Unreadable)?,
        ),
        _ => return Err(Refusal::MessageType),
    };
    let target = match (target, &message) {
        (Some(target), _) => target,
        (None, Message::DeepLinking(_)) => expected.base.to_owned(),
        (None, _) => return Err(Refusal::ElsewhereTarget),
    };
    if !is_ours(&target, expected.base) {
        return Err(Refusal::ElsewhereTarget);
    }
    let context = claims.get(format!("{CLAIM}context")).and_then(|c| {
        let id = text(c, "id")?;
        let title = text(c, "title").or_else(|| text(c, "label")).unwrap_or_default();
        Some(Context { id, title })
    });
    let custom = claims
        .get(format!("{CLAIM}custom"))
        .and_then(Value::as_object)
        .map(|all| {
            all.iter()
                .filter_map(|(k, v)| Some((k.clone(), v.as_str()?.to_owned())))
                .collect()
        })
        .unwrap_or_default();
    let grades = claims.get(AGS).map(|e| Grades {
        scopes: e
            .get("scope")
            .and_then(Value::as_array)
            .map(|s| s.iter().filter_map(|s| Some(s.as_str()?.to_owned())).collect())
            .unwrap_or_default(),
        line_item: address(e, "lineitem"),
        line_items: address(e, "lineitems"),
    });
    let name = text(claims, "name").or_else(|| {
        let names: Vec<String> = ["given_name", "family_name"]
            .iter()
            .filter_map(|n| text(claims, n))
            .collect();
        (!names.is_empty()).then(|| names.join(" "))
    });
    Ok(Launch {
        subject: text(claims, "sub").ok_or(Refusal::NoSubject)?,
        name,
        deployment,
        role: role(claims).ok_or(Refusal::NoRole)?,
        context,
        message,
        target,
        custom,
        grades,
        memberships: claims
            .get(NRPS)
            .and_then(|n| address(n, "context_memberships_url")),
        return_url: claims
            .get(format!("{CLAIM}launch_presentation"))
            .and_then(|p| address(p, "return_url")),
    })
}

/// Whether a role of the course, as Names and Role Provisioning gives them, is a student's or a teacher's.
pub(crate) fn role_of(roles: &Value) -> Option<Role> {
    let claims = serde_json::json!({ format!("{CLAIM}roles"): roles });
    role(&claims)
}
