//! One line of `green-slate mark`.

use serde::Deserialize;
use serde_json::{Value, json};

use crate::answer::AnswerBlock;
use crate::mark::Marker;

#[derive(Deserialize)]
struct Line {
    #[serde(default)]
    id: Value,
    answer: Value,
    entry: String,
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
    let marker = serde_json::from_value::<AnswerBlock>(parsed.answer)
        .map_err(|e| format!("the answer block can't be used: {e}"))
        .and_then(|block| Marker::new(&block).map_err(|e| e.to_string()));
    match marker {
        Err(error) => (json!({"id": id, "error": error}), false),
        Ok(marker) => {
            let m = marker.mark(&parsed.entry);
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
