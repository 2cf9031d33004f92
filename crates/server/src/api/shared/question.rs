//! Everything about one question that its page shows.

use std::sync::Arc;

use coursework::{
    QuestionState, Refusal, SetState, may_see, may_show_solution, may_take_fresh_numbers, part_is_out,
    score_so_far, set_is_over, verdicts_visible, waits_for,
};
use marking::{Item, ItemPart, Question};
use school::went::teacher_reply;
use school::{Desk, School, find_page, title_of};
use store::Draft;

use super::question_view::{
    DraftView, HelpView, PartView, QuestionView, ReadingView, SetView, TryView, WaitingPart,
};
use super::state::{drafts_for, stone};
use super::verdict::{given_view, verdict_view};
use crate::http::error::ApiError;

/// Set A, B, … Z, then by number.
pub(crate) fn set_name(number: usize) -> String {
    u32::try_from(number)
        .ok()
        .filter(|n| *n < 26)
        .and_then(|n| char::from_u32('A' as u32 + n))
        .map_or_else(|| (number + 1).to_string(), String::from)
}

/// One question's page.
pub(crate) async fn question_view(
    desk: &Desk,
    school: &School,
    question: usize,
) -> Result<QuestionView, ApiError> {
    let state = desk.work.questions.get(question).ok_or(ApiError::NotFound)?;
    let source = desk.source(question)?;
    let (now, drafts) = (desk.now, desk.drafts.as_slice());
    if let Err(refusal) = may_see(&desk.assignment, &desk.work, question) {
        return Ok(locked(desk, question, refusal, drafts));
    }
    let mut items: Vec<Arc<Item>> = Vec::with_capacity(state.sets.len());
    for set in &state.sets {
        items.push(desk.item_of(school, question, set.seed).await?);
    }
    let (Some(set), Some(item)) = (state.current(), items.last()) else {
        return Err(ApiError::NotFound);
    };
    let visible = verdicts_visible(&desk.assignment, &desk.work, now);
    let settings = &desk.assignment.settings;
    let score = score_so_far(&desk.assignment, &desk.work);
    let mine = drafts_for(drafts, question, state);
    let max_tries = desk.assignment.max_attempts(question);
    let used_sets = u32::try_from(state.sets.len()).unwrap_or(u32::MAX);
    let counted = !desk.assignment.is_simultaneous();
    let sets = state.sets.iter().zip(&items).enumerate();
    let waiting = |p: &ItemPart| {
        let after = waits_for(&desk.assignment, question, set, &p.id)?;
        Some(WaitingPart {
            id: p.id.clone(),
            after: after.to_owned(),
        })
    };
    let over = visible && set_is_over(&desk.assignment, question, set);
    Ok(QuestionView {
        question,
        points: desk
            .assignment
            .items
            .get(question)
            .map_or(source.points, |i| i.points),
        points_so_far: score
            .questions
            .get(question)
            .map(|q| q.points)
            .filter(|_| visible),
        set: set_name(state.sets.len() - 1),
        set_number: state.sets.len() - 1,
        max_tries,
        tries_left: set.tries_left(max_tries),
        sets_left: coursework::terms(&desk.assignment, &desk.work)
            .max_sets
            .filter(|_| counted)
            .map(|m| m.saturating_sub(used_sets)),
        stone: stone(&desk.assignment, &desk.work, question, drafts, now),
        locked: None,
        text: item.text.clone(),
        exhibits: item.exhibits.clone(),
        parts: item
            .parts
            .iter()
            .filter(|p| waits_for(&desk.assignment, question, set, &p.id).is_none())
            .map(|p| part_view(desk, question, (set, item), p, &mine, visible))
            .collect(),
        waiting: item.parts.iter().filter_map(waiting).collect(),
        set_over: over,
        all_right: visible && set.is_right(),
        help: help_view(desk, question, state, set, item),
        fresh_refusal: may_take_fresh_numbers(&desk.assignment, &desk.work, question)
            .err()
            .map(|r| r.to_string()),
        sets: sets
            .map(|(number, (set, item))| set_view(number, set, item, visible, settings.show_slips))
            .collect(),
        calculator: settings.tools.calculator && source.calculator,
        reading: if settings.tools.reading {
            reading_of(source)
        } else {
            Vec::new()
        },
    })
}

pub(crate) fn reading_of(source: &Question) -> Vec<ReadingView> {
    let with_page = source.skills.iter().filter(|skill| find_page(skill).is_some());
    let view = |skill: &String| ReadingView {
        skill: skill.clone(),
        title: title_of(skill),
    };
    with_page.map(view).collect()
}

fn locked(desk: &Desk, question: usize, refusal: Refusal, drafts: &[Draft]) -> QuestionView {
    QuestionView {
        question,
        points: desk.assignment.items.get(question).map_or(0, |i| i.points),
        points_so_far: None,
        set: set_name(0),
        set_number: 0,
        max_tries: None,
        tries_left: None,
        sets_left: None,
        stone: stone(&desk.assignment, &desk.work, question, drafts, desk.now),
        locked: Some(refusal.to_string()),
        text: Vec::new(),
        exhibits: Vec::new(),
        parts: Vec::new(),
        waiting: Vec::new(),
        set_over: false,
        all_right: false,
        help: HelpView::default(),
        fresh_refusal: Some(refusal.to_string()),
        sets: Vec::new(),
        calculator: false,
        reading: Vec::new(),
    }
}

pub(crate) fn set_view(
    number: usize,
    set: &SetState,
    item: &Item,
    visible: bool,
    show_slips: bool,
) -> SetView {
    let tries = set.tries.iter().filter(|_| visible).map(|t| TryView {
        at: t.at,
        used_a_try: t.used_a_try,
        at_hand_in: t.at_hand_in,
        parts: t.parts.iter().map(|p| given_view(p, item, show_slips)).collect(),
    });
    SetView {
        set: set_name(number),
        text: item.text.clone(),
        hints: set.hints,
        solution_shown: set.solution_shown,
        tries: tries.collect(),
    }
}

fn part_view(
    desk: &Desk,
    question: usize,
    (set, item): (&SetState, &Item),
    part: &ItemPart,
    mine: &[&Draft],
    visible: bool,
) -> PartView {
    let state = set.parts.iter().find(|s| s.id == part.id);
    let draft = mine.iter().find(|d| d.part == part.id);
    let show_slips = desk.assignment.settings.show_slips;
    let by_hand = part.posed.is_by_hand();
    // What waits for the teacher is said of what was handed in, as long as it stands there.
    let handed_in = desk.work.standing_hand_ins().next().is_some();
    let waits =
        |c: &coursework::CheckedPart| handed_in && draft.is_none_or(|d| d.response.is_same(&c.response));
    let last = state
        .and_then(|s| s.last.as_ref())
        .filter(|c| visible && (!by_hand || waits(c)));
    let own_max = desk
        .assignment
        .items
        .get(question)
        .and_then(|i| i.parts.iter().find(|p| p.id == part.id)?.max_attempts)
        .filter(|_| !desk.assignment.is_simultaneous());
    PartView {
        id: part.id.clone(),
        prompt: part.prompt.clone(),
        entry: part.posed.shown(),
        draft: draft.map(|d| DraftView {
            revision: d.revision,
            response: d.response.clone(),
        }),
        verdict: last.map(|c| {
            let said = teacher_reply(&desk.stored, question, item, c);
            verdict_view(c, Some(part), show_slips)
                .after(desk.work.by_teacher.contains_key(&question))
                .with_reply(said)
        }),
        right: visible && state.is_some_and(|s| s.right),
        out: part_is_out(&desk.assignment, question, set, &part.id),
        by_hand,
        tries_left: own_max.map(|m| m.saturating_sub(state.map_or(0, |s| s.tries_used))),
        wrong_before: if visible {
            wrong_before(set, part)
        } else {
            Vec::new()
        },
    }
}

/// What was given in a part on this set and judged not right.
fn wrong_before(set: &SetState, part: &ItemPart) -> Vec<String> {
    let tried = set.tries.iter().flat_map(|t| &t.parts);
    let judged = tried.filter(|p| p.part == part.id && p.outcome.is_judged());
    let members = judged.flat_map(|p| part.posed.members(&p.response));
    let wrong: std::collections::BTreeSet<String> = members.filter(|m| !m.right).map(|m| m.id).collect();
    wrong.into_iter().collect()
}

fn help_view(desk: &Desk, question: usize, state: &QuestionState, set: &SetState, item: &Item) -> HelpView {
    let settings = &desk.assignment.settings;
    let source = desk.source(question).ok();
    let working = &item.working;
    let working_refusal = match may_show_solution(&desk.assignment, &desk.work, question, desk.now) {
        _ if working.is_empty() => Some("There is no working for this question.".to_owned()),
        Err(refusal) => Some(refusal.to_string()),
        Ok(()) => None,
    };
    // Before release this must not tell that everything is right.
    let visible = verdicts_visible(&desk.assignment, &desk.work, desk.now);
    let over = visible && set_is_over(&desk.assignment, question, set);
    HelpView {
        hints: item.hints.iter().take(set.hints).cloned().collect(),
        hints_left: if settings.hints {
            item.hints.len().saturating_sub(set.hints)
        } else {
            0
        },
        hint_cost: settings.hint_cost,
        has_example: settings.worked_example && source.is_some_and(|s| !s.example_steps().is_empty()),
        example_seen: state.example_seen,
        working: (set.solution_shown && !working.is_empty()).then(|| working.to_vec()),
        working_refusal,
        working_ends_set: !over,
    }
}
