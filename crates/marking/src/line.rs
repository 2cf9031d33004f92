//! One line of `green-slate mark`.

use serde::Deserialize;
use serde_json::{Value, json};

use crate::answer::AnswerBlock;
use crate::bank::{Question, render};
use crate::mark::Marker;
use crate::response::Response;
use crate::verdict::Marking;

/// An entry for an answer block; or a response, as JSON or as text, for a part as it stands in a question's file.
#[derive(Deserialize)]
struct Line {
    #[serde(default)]
    id: Value,
    #[serde(flatten)]
    given: Given,
}

#[derive(Deserialize)]
#[serde(untagged)]
enum Given {
    Entry { answer: Value, entry: String },
    Response { part: Value, response: Value },
}

/// Marks one JSON line; the flag says whether it was a proper one.
pub fn mark_line(line: &str) -> (Value, bool) {
    let parsed: Line = match serde_json::from_str(line) {
        Ok(parsed) => parsed,
        Err(error) => {
            let id = serde_json::from_str::<Value>(line)
                .ok()
                .and_then(|v| v.get("id").cloned());
            return (
                json!({"id": id.unwrap_or(Value::Null), "error": format!("this line can't be used: {error}")}),
                false,
            );
        }
    };
    let id = parsed.id;
    let marked = match parsed.given {
        Given::Entry { answer, entry } => mark_entry(answer, &entry),
        Given::Response { part, response } => mark_response(part, response),
    };
    match marked {
        Err(error) => (json!({"id": id, "error": error}), false),
        Ok(m) => {
            let mut out = json!({
                "id": id,
                "outcome": m.outcome,
                "score": m.score,
                "reads_as": m.reads_as,
                "notes": m.notes,
                "slip": m.slip,
            });
            if let (Some((at, _)), Some(map)) = (m.at, out.as_object_mut()) {
                map.insert("at".into(), json!(at));
            }
            (out, true)
        }
    }
}

fn mark_entry(answer: Value, entry: &str) -> Result<Marking, String> {
    let block: AnswerBlock =
        serde_json::from_value(answer).map_err(|e| format!("the answer block can't be used: {e}"))?;
    let marker = Marker::new(&block).map_err(|e| e.to_string())?;
    Ok(marker.mark(entry))
}

fn mark_response(mut part: Value, response: Value) -> Result<Marking, String> {
    if let Some(fields) = part.as_object_mut() {
        fields.entry("id").or_insert_with(|| json!("a"));
    }
    let question = json!({"id": "line", "title": "", "points": 1, "text": "", "parts": [part]});
    let item = serde_json::from_value::<Question>(question)
        .map_err(|e| e.to_string())
        .and_then(|q| q.checked().map_err(|e| e.to_string()))
        .and_then(|q| render(&q, 1).map_err(|e| e.to_string()))
        .map_err(|e| format!("the part can't be used: {e}"))?;
    let part = item.parts.first().ok_or("there is no part")?;
    let given = match &response {
        Value::String(text) => part.posed.parse_response(text),
        other => serde_json::from_value::<Response>(other.clone()).ok(),
    };
    let given = given.ok_or("the response can't be used: it is not one of this kind of answer")?;
    let given = given.within_bounds().map_err(|e| e.to_string())?;
    Ok(part.mark(&given).marking)
}
