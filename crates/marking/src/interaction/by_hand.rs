//! What the kinds have in common that a person marks: nothing is judged here.

use super::{Right, faulty, still};
use crate::bank::{Block, FormatError, Inline, RenderError, Set, plain};
use crate::response::Response;
use crate::rubric::RubricLine;
use crate::verdict::{Marking, Outcome};
use crate::written::Written;

/// Lines of one rubric.
const MOST_LINES: usize = 12;

/// A line of a rubric as it is shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PosedLine {
    pub say: Vec<Inline>,
    pub share: u32,
}

pub(super) fn check_rubric(part: &str, rubric: &[RubricLine]) -> Result<(), FormatError> {
    if rubric.len() > MOST_LINES {
        return Err(faulty(part, format!("a rubric has at most {MOST_LINES} lines")));
    }
    if rubric
        .iter()
        .any(|l| l.say.trim().is_empty() || !(1..=100).contains(&l.share))
    {
        return Err(faulty(
            part,
            "each line of a rubric says something, and has a share from 1 to 100",
        ));
    }
    Ok(())
}

pub(super) fn pose_rubric(set: &mut Set, rubric: &[RubricLine]) -> Result<Vec<PosedLine>, RenderError> {
    let line = |l: &RubricLine| match &mut set.prose(&l.say)?[..] {
        [Block::Paragraph { content }] => Ok(PosedLine {
            say: std::mem::take(content),
            share: l.share,
        }),
        _ => Err(RenderError::unfit(
            "more than one paragraph, in a line of a rubric,",
        )),
    };
    rubric.iter().map(line).collect()
}

pub(super) fn written(response: &Response) -> Option<&Written> {
    match response {
        Response::Written { written } => Some(written),
        _ => None,
    }
}

/// It waits for the teacher, whatever it is.
pub(super) fn mark(response: &Response) -> Option<Marking> {
    let given = written(response)?;
    Some(Marking::new(if given.is_empty() {
        Outcome::Unfinished
    } else {
        Outcome::Waiting
    }))
}

/// What a good answer says, line by line.
pub(super) fn right(model: &[Block]) -> Right {
    Right {
        choices: lines(&plain(model)),
        ..Right::default()
    }
}

pub(super) fn chosen(response: &Response) -> Vec<Vec<Inline>> {
    written(response)
        .map(|w| lines(&w.in_words()))
        .unwrap_or_default()
}

pub(super) fn in_words(response: &Response) -> String {
    written(response).map(Written::in_words).unwrap_or_default()
}

fn lines(text: &str) -> Vec<Vec<Inline>> {
    // Neither blank lines nor the rule below a table's head says anything.
    let says = |line: &&str| !line.trim_matches([' ', '|', '-']).is_empty();
    let lines = text.lines().filter(says);
    lines.map(|line| vec![Inline::Text(line.to_owned())]).collect()
}

/// A line of text as writing, or the response as JSON.
pub(super) fn parse_response(text: &str) -> Option<Response> {
    if text.trim_start().starts_with(['{', '[']) {
        let json: Option<Response> = serde_json::from_str(text.trim()).ok();
        return json.filter(|json| written(json).is_some());
    }
    let paragraph = |line: &str| Block::Paragraph {
        content: vec![Inline::Text(line.to_owned())],
    };
    let blocks: Vec<Block> = text.lines().map(paragraph).collect();
    Some(Response::Written {
        written: Written::of_blocks(&blocks),
    })
}

/// "Two words are still missing."
pub(super) fn too_few_words(own_words: usize, least: u32) -> Option<String> {
    let least = usize::try_from(least).unwrap_or(usize::MAX);
    let missing = least.saturating_sub(own_words);
    still(missing, "word", "words", "missing").map(|words| format!("{words} At least {least} are asked for."))
}
