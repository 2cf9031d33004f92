//! A question outside any work.

use std::collections::BTreeMap;

use coursework::CheckedPart;
use marking::{Item, Outcome};

use super::question_view::{HelpView, PartView, QuestionView};
use super::state::Stone;
use super::verdict::verdict_view;

/// A question outside any work: the one to try after a worked example, or practice after closing. `marked` are the
/// verdicts on what was entered just now.
pub(crate) fn loose_question(
    question: usize,
    points: u32,
    set: String,
    item: &Item,
    marked: &[CheckedPart],
    show_working: bool,
) -> QuestionView {
    let by_part: BTreeMap<&str, &CheckedPart> = marked.iter().map(|m| (m.part.as_str(), m)).collect();
    let is_right = |id: &str| by_part.get(id).is_some_and(|m| m.outcome == Outcome::Correct);
    // What only a teacher can mark is left out here.
    let mut checked = item.parts.iter().filter(|p| !p.posed.is_by_hand()).peekable();
    let all_right = checked.peek().is_some() && checked.all(|p| is_right(&p.id));
    let parts = item.parts.iter().map(|p| PartView {
        id: p.id.clone(),
        prompt: p.prompt.clone(),
        entry: p.posed.shown(),
        draft: None,
        verdict: by_part.get(p.id.as_str()).map(|c| verdict_view(c, Some(p), true)),
        right: is_right(&p.id),
        out: false,
        by_hand: p.posed.is_by_hand(),
        tries_left: None,
        wrong_before: Vec::new(),
    });
    let working = show_working && !item.working.is_empty();
    QuestionView {
        question,
        points,
        points_so_far: None,
        set,
        set_number: 0,
        max_tries: None,
        tries_left: None,
        sets_left: None,
        stone: if all_right { Stone::Right } else { Stone::Untouched },
        locked: None,
        text: item.text.clone(),
        exhibits: item.exhibits.clone(),
        parts: parts.collect(),
        waiting: Vec::new(),
        set_over: all_right,
        all_right,
        help: HelpView {
            working: working.then(|| item.working.to_vec()),
            ..HelpView::default()
        },
        fresh_refusal: None,
        sets: Vec::new(),
        calculator: false,
        reading: Vec::new(),
    }
}
