//! What routes answer besides their own: the same for all of a sort, so it is said here once.

use serde_json::{Map, Value, json};

const PROBLEM: &str = "application/problem+json";
const METHODS: [&str; 4] = ["get", "post", "put", "delete"];

/// A route as far as its problems go.
struct Sort {
    writes: bool,
    has_parameter: bool,
    has_body: bool,
    signs_in: bool,
}

impl Sort {
    /// Each status with what it means.
    fn problems(&self) -> Vec<(&'static str, &'static str)> {
        let mut all = vec![
            ("401", "Nobody is signed in."),
            ("500", "Something went wrong inside; nothing was changed."),
            (
                "503",
                "Too much to do, or the database is away: try again after the time that Retry-After says.",
            ),
        ];
        if self.has_parameter {
            all.push(("404", "There is nothing that this person can see."));
        }
        if self.has_body {
            all.push(("400", "The body is not what is expected."));
            all.push(("408", "The body took too long to arrive."));
            all.push(("413", "The body is larger than this route takes."));
        }
        if self.writes {
            all.push(("403", "The request came from another site."));
            all.push((
                "409",
                "The rules refuse it; `code` says why. Nothing was changed.",
            ));
        }
        if self.signs_in {
            all.push((
                "429",
                "Too many wrong tries: wait for the time that Retry-After says.",
            ));
        }
        all
    }
}

/// Every problem of a route by its status, as `application/problem+json` (RFC 9457).
pub(super) fn with_problems(mut description: Value) -> Value {
    let paths = description.get_mut("paths").and_then(Value::as_object_mut);
    for (path, methods) in paths.into_iter().flatten() {
        for method in METHODS {
            let Some(operation) = methods.get_mut(method) else {
                continue;
            };
            let sort = Sort {
                writes: method != "get",
                has_parameter: path.contains('{'),
                has_body: operation.get("requestBody").is_some(),
                signs_in: path == "/api/session" && method == "post",
            };
            if let Some(responses) = operation.get_mut("responses").and_then(Value::as_object_mut) {
                complete(responses, &sort);
            }
        }
    }
    description
}

fn complete(responses: &mut Map<String, Value>, sort: &Sort) {
    for (status, response) in responses.iter_mut().filter(|(s, _)| s.starts_with(['4', '5'])) {
        let content = response.get_mut("content").and_then(Value::as_object_mut);
        if let Some(content) = content
            && let Some(body) = content.remove("application/json")
        {
            content.insert(PROBLEM.to_owned(), body);
        }
        let words = sort.problems().into_iter().find(|(s, _)| s == status);
        if let Some((_, words)) = words
            && response["description"] == ""
        {
            response["description"] = words.into();
        }
    }
    for (status, words) in sort.problems() {
        let content = json!({ PROBLEM: { "schema": { "$ref": "#/components/schemas/Problem" } } });
        responses
            .entry(status)
            .or_insert_with(|| json!({ "description": words, "content": content }));
    }
}
