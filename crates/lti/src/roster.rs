//! Names and Role Provisioning Services 2.0: the members of a course, page by page.

use serde_json::Value;

use crate::Role;
use crate::launch::role_of;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MemberStatus {
    Active,
    /// Still there, but not taking part.
    Inactive,
    /// Gone since the list was asked for last.
    Deleted,
}

/// Somebody in the course.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Member {
    pub subject: String,
    pub name: Option<String>,
    /// Nothing for those who are neither student nor teacher.
    pub role: Option<Role>,
    pub status: MemberStatus,
}

#[derive(Debug, PartialEq, Eq, thiserror::Error)]
#[error("the portal's list of members can't be read")]
pub struct RosterError;

/// # Errors
/// If it is no membership container.
pub fn read_page(page: &Value) -> Result<Vec<Member>, RosterError> {
    let members = page.get("members").and_then(Value::as_array).ok_or(RosterError)?;
    let text = |m: &Value, name: &str| {
        let found = m.get(name)?.as_str()?.trim();
        (!found.is_empty() && !found.contains('\0')).then(|| found.to_owned())
    };
    members
        .iter()
        .map(|m| {
            let parts: Vec<String> = ["given_name", "family_name"]
                .iter()
                .filter_map(|n| text(m, n))
                .collect();
            Ok(Member {
                subject: text(m, "user_id").ok_or(RosterError)?,
                name: text(m, "name").or_else(|| (!parts.is_empty()).then(|| parts.join(" "))),
                role: m.get("roles").and_then(role_of),
                status: match text(m, "status").as_deref() {
                    Some("Inactive") => MemberStatus::Inactive,
                    Some("Deleted") => MemberStatus::Deleted,
                    _ => MemberStatus::Active,
                },
            })
        })
        .collect()
}

/// The next page that a `Link` header names (RFC 8288).
pub fn next_page(link: &str) -> Option<String> {
    let mut rest = link;
    while let Some(start) = rest.find('<') {
        let end = start + rest.get(start..)?.find('>')?;
        let target = rest.get(start + 1..end)?;
        rest = rest.get(end + 1..)?;
        let params = rest.get(..rest.find('<').unwrap_or(rest.len()))?;
        let is_next = params.split([';', ',']).any(|p| {
            let Some((name, value)) = p.split_once('=') else {
                return false;
            };
            name.trim().eq_ignore_ascii_case("rel")
                && value
                    .trim()
                    .trim_matches('"')
                    .split(' ')
                    .any(|r| r.eq_ignore_ascii_case("next"))
        });
        if is_next {
            return crate::launch::web_address(target).then(|| target.to_owned());
        }
    }
    None
}
