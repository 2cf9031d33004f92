//! Personal tokens: what other programs may do in somebody's name.

use actix_web::HttpRequest;
use actix_web::http::{Method, header};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a personal token allows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Scope {
    /// One's own scores; of a class one teaches its sheet, and how work went.
    ReadScores,
    /// Making classes, and who is in them.
    ManageClasses,
}

impl Scope {
    pub fn name(self) -> &'static str {
        match self {
            Scope::ReadScores => "read_scores",
            Scope::ManageClasses => "manage_classes",
        }
    }
}

/// The routes that a token reaches, and the scopes of which it needs one. Whatever is not here, none reaches.
const REACHED: &[(Method, &str, &[Scope])] = &[
    (Method::GET, "/api/scores", &[Scope::ReadScores]),
    (
        Method::GET,
        "/api/classes",
        &[Scope::ReadScores, Scope::ManageClasses],
    ),
    (
        Method::GET,
        "/api/classes/{id}",
        &[Scope::ReadScores, Scope::ManageClasses],
    ),
    (Method::GET, "/api/classes/{id}/sheet", &[Scope::ReadScores]),
    (Method::GET, "/api/classes/{id}/sheet.csv", &[Scope::ReadScores]),
    (
        Method::GET,
        "/api/classes/{id}/assignments/{assignment}/went",
        &[Scope::ReadScores],
    ),
    (Method::POST, "/api/classes", &[Scope::ManageClasses]),
    (Method::PUT, "/api/classes/{id}", &[Scope::ManageClasses]),
    (
        Method::POST,
        "/api/classes/{id}/students",
        &[Scope::ManageClasses],
    ),
    (
        Method::PUT,
        "/api/classes/{id}/members/{person}",
        &[Scope::ManageClasses],
    ),
];

/// The token that a program sends, where it sends one.
pub(crate) fn bearer(request: &HttpRequest) -> Option<String> {
    let value = request.headers().get(header::AUTHORIZATION)?.to_str().ok()?;
    let (scheme, token) = value.split_once(' ')?;
    scheme
        .eq_ignore_ascii_case("bearer")
        .then(|| token.trim().to_owned())
}

/// Whether a token with these scopes reaches what is asked for.
pub(crate) fn reaches(request: &HttpRequest, scopes: &[String]) -> bool {
    let Some(pattern) = request.match_pattern() else {
        return false;
    };
    REACHED.iter().any(|(method, path, needed)| {
        request.method() == method
            && *path == pattern
            && needed.iter().any(|n| scopes.iter().any(|s| s == n.name()))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_token_reaches_is_described() {
        let described: serde_json::Value = serde_json::from_str(&crate::open_api()).unwrap();
        for (method, path, _) in REACHED {
            let method = method.as_str().to_lowercase();
            assert!(described["paths"][path][&method].is_object(), "{method} {path}");
        }
    }
}
