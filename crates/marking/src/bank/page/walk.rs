//! A worked example to be walked: each step a question of its own.

use std::sync::Arc;

use super::words::take_text;
use super::{PageBlock, PageFault};
use crate::bank::format::{Question, parse_question};
use crate::bank::prose;
use crate::bank::render::render;

/// A worked example: what it is about, then a line a step, `what is done :: what comes`.
pub(super) fn walk(step: &str, lines: &[&str]) -> Result<PageBlock, PageFault> {
    let fault = |line: &str| PageFault::Walk {
        step: step.to_owned(),
        line: line.to_owned(),
    };
    let (about, steps) = lines.split_first().ok_or_else(|| fault(""))?;
    if about.contains("::") || steps.is_empty() {
        return Err(fault(about));
    }
    let mut blocks = Vec::new();
    take_text(step, &mut (*about).to_owned(), &mut blocks)?;
    let Some(PageBlock::Text { block, speech }) = blocks.pop().filter(|_| blocks.is_empty()) else {
        return Err(fault(about));
    };
    let one = |line: &&str| walk_step(step, line).ok_or_else(|| fault(line)).map(Arc::new);
    Ok(PageBlock::Walk {
        about: block,
        speech,
        steps: steps.iter().map(one).collect::<Result<_, PageFault>>()?,
    })
}

/// One step as a question: a number, to as many decimals as it is written with, or an expression.
fn walk_step(step: &str, line: &str) -> Option<Question> {
    let (say, key) = line.split_once("::")?;
    let (say, key) = (say.trim(), key.trim());
    let mut blocks = Vec::new();
    take_text(step, &mut say.to_owned(), &mut blocks).ok()?;
    let text = match &blocks[..] {
        [PageBlock::Text { block, .. }] => prose::plain(std::slice::from_ref(block)),
        _ => return None,
    };
    let letters: Vec<String> = key
        .chars()
        .filter(char::is_ascii_alphabetic)
        .map(String::from)
        .collect();
    let answer = match key.split_once('.') {
        _ if !letters.is_empty() => {
            serde_json::json!({"kind": "expression", "key": key, "variables": letters})
        }
        Some((_, decimals)) => {
            serde_json::json!({"kind": "number", "key": key, "tolerance": {"decimals": decimals.len()}})
        }
        None => serde_json::json!({"kind": "number", "key": key}),
    };
    let part =
        serde_json::json!({"id": "a", "interaction": "text_entry", "label": "This step", "answer": answer});
    let whole =
        serde_json::json!({"id": "walk", "title": "A step", "points": 1, "text": text, "parts": [part]});
    let question = parse_question(&whole.to_string()).ok()?;
    // What is asked for can be given.
    let item = render(&question, 0).ok()?;
    let part = item.parts.first()?;
    (part.mark(&part.posed.key()).marking.score >= 1.0).then_some(question)
}
