//! Further sets of a question, and its worked example: each with numbers of its own.

use super::draw::{Dice, Drawn, draw};
use super::format::{NumberSpec, OneOf, Question};
use super::prose::Block;
use super::render::{Item, RenderError, Set, render_answers, render_drawn, steps};

/// Draws looked at before a question counts as having no further answer.
const CANDIDATES: usize = 60;

/// Rounds in a row whose numbers are kept apart, so that the two hundredth takes no longer than the tenth.
const ROUNDS: u32 = 16;

/// How many rounds back the numbers of a round are none of.
const ROUNDS_BACK: usize = 4;

/// A worked example: the question on numbers of its own, and its steps.
pub struct Example {
    pub item: Item,
    pub steps: Vec<Vec<Block>>,
}

/// A seed from a text: FNV-1a, 64 bits (Fowler, Noll, Vo), below 2^53 so that every JSON reader keeps it whole.
fn seed_of(text: &str, salt: u64) -> u64 {
    let start = 0xcbf2_9ce4_8422_2325 ^ salt;
    let hash = text.bytes().fold(start, |h, b| {
        (h ^ u64::from(b)).wrapping_mul(0x0000_0100_0000_01b3)
    });
    hash >> 11
}

/// The worked example of a question, the same for everyone. `None` if the question has none.
///
/// # Errors
/// What is wrong with the question.
pub fn worked_example(question: &Question) -> Result<Option<Example>, RenderError> {
    let Some((fixed, drawn)) = example_numbers(question)? else {
        return Ok(None);
    };
    let item = render_drawn(&fixed, &drawn)?;
    Ok(Some(Example {
        item,
        steps: steps(question.example_steps(), &Set::new(&fixed, &drawn))?,
    }))
}

/// The question with the numbers that its example fixes, and all numbers of the example.
fn example_numbers(question: &Question) -> Result<Option<(Question, Drawn)>, RenderError> {
    if question.example_steps().is_empty() {
        return Ok(None);
    }
    let mut fixed = question.clone();
    for (name, value) in question.help.worked_example.iter().flat_map(|e| &e.numbers) {
        let one_of = vec![value.clone()];
        fixed
            .numbers
            .insert(name.clone(), NumberSpec::List(OneOf { one_of }));
    }
    let drawn = draw(&fixed, seed_of(&question.id, 1))?;
    Ok(Some((fixed, drawn)))
}

/// What sets ask for, as far as it tells them apart: nothing that is only shown is worked out.
fn answers_of(question: &Question, seeds: &[u64]) -> Result<Vec<Item>, RenderError> {
    let one = |seed: &u64| render_answers(question, &draw(question, *seed)?);
    seeds.iter().map(one).collect()
}

/// Whether a set's answers are those of none of the sets `apart`.
///
/// # Errors
/// What is wrong with the question.
pub fn is_apart(question: &Question, seed: u64, apart: &[u64]) -> Result<bool, RenderError> {
    let item = render_answers(question, &draw(question, seed)?)?;
    Ok(!answers_of(question, apart)?
        .iter()
        .any(|s| s.has_answers_of(&item)))
}

/// The seed of a set whose answers are surely those of none of the sets `apart`, preferably those of none `before` either.
/// `None` if the question has too little room for that. The same arguments always give the same seed.
///
/// # Errors
/// What is wrong with the question.
pub fn seed_apart(
    question: &Question,
    base: u64,
    before: &[u64],
    apart: &[u64],
) -> Result<Option<u64>, RenderError> {
    let all: Vec<u64> = before.iter().chain(apart).copied().collect();
    let kept_apart = answers_of(question, apart)?;
    let differs = |seed: u64| -> Result<bool, RenderError> {
        let item = render_answers(question, &draw(question, seed)?)?;
        Ok(!kept_apart.iter().any(|s| s.has_answers_of(&item)))
    };
    let first = next_seed(question, base, &all)?;
    if differs(first)? {
        return Ok(Some(first));
    }
    let mut dice = Dice(base ^ 0xa9a1_27d3_5c0f_fee5);
    for _ in 0..CANDIDATES {
        let seed = dice.draw() >> 11;
        if differs(seed)? {
            return Ok(Some(seed));
        }
    }
    Ok(None)
}

/// The seed of the nth round, from 0, of what goes on with other numbers each time: none of the sets `own`, surely none of
/// the sets `apart`, and none of the few rounds before it in its row. `None` if the question has too little room for that.
/// The same arguments always give the same seed.
///
/// # Errors
/// What is wrong with the question.
pub fn round_seed(
    question: &Question,
    base: u64,
    round: u32,
    own: &[u64],
    apart: &[u64],
) -> Result<Option<u64>, RenderError> {
    let mut rounds: Vec<u64> = Vec::new();
    // All of a row is gone through, from its beginning: a round depends on those before it.
    for n in round - round % ROUNDS..=round {
        let back = rounds.len().saturating_sub(ROUNDS_BACK);
        let before: Vec<u64> = own.iter().chain(rounds.iter().skip(back)).copied().collect();
        let salt = base ^ u64::from(n).wrapping_mul(0x2545_f491_4f6c_dd1d);
        match seed_apart(question, salt, &before, apart)? {
            Some(seed) => rounds.push(seed),
            None => return Ok(None),
        }
    }
    Ok(rounds.last().copied())
}

/// The seed of the first question to try after the worked example; no set shows its answers.
fn first_try_seed(question: &Question) -> u64 {
    seed_of(&question.id, 2)
}

/// The seed of the question that ends the worked example: one to try in place, the `round`th from 0. Its answers are
/// not those of the student's own sets.
///
/// # Errors
/// What is wrong with the question.
pub fn example_try_seed(question: &Question, round: u64, own: &[u64]) -> Result<u64, RenderError> {
    match round {
        0 => Ok(first_try_seed(question)),
        _ => next_seed(question, seed_of(&question.id, 2 + round), own),
    }
}

/// The seed of the next set: its answers differ from those of all earlier sets, from the worked example's and from the
/// first one to try after it, as long as the question has enough room. The same arguments always give the same seed.
///
/// # Errors
/// What is wrong with the question.
pub fn next_seed(question: &Question, base: u64, earlier: &[u64]) -> Result<u64, RenderError> {
    let sets = answers_of(question, earlier)?;
    let mut shown = Vec::new();
    if let Some(drawn) = example_numbers(question)? {
        shown.push(render_answers(&drawn.0, &drawn.1)?);
        shown.extend(answers_of(question, &[first_try_seed(question)])?);
    }
    let round = u64::try_from(earlier.len()).unwrap_or(0);
    let mut dice = Dice(base ^ round.wrapping_mul(0x9e37_79b9_7f4a_7c15));
    // Where only choices are to be made and no number stands in the right ones, every set has the same answer: no use
    // looking for another.
    let never_differs = !question.parts.iter().any(|p| p.interaction.may_vary());
    let mut second = None;
    let mut third = None;
    for _ in 0..CANDIDATES {
        let seed = dice.draw() >> 11;
        let item = render_answers(question, &draw(question, seed)?)?;
        let repeats = sets.iter().any(|s| s.has_answers_of(&item));
        if !repeats && !shown.iter().any(|s| s.has_answers_of(&item)) {
            return Ok(seed);
        }
        if !repeats {
            second = second.or(Some(seed));
        } else if !sets.iter().any(|s| s.text == item.text) {
            // The same answer, but at least another question: choices whose right one never changes.
            third = third.or(Some(seed));
        }
        if never_differs && second.or(third).is_some() {
            break;
        }
    }
    Ok(second.or(third).unwrap_or_else(|| dice.draw() >> 11))
}
