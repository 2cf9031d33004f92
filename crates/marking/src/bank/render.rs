//! A question with its numbers in place: what the student sees, and how each part is marked.

use std::collections::BTreeMap;

use maths::{Expr, exact_value};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

use super::draw::{Dice, DrawError, Drawn, draw};
use super::format::{Interaction, Question};
use super::prose::{self, Block, Inline};
use crate::answer::{AnswerBlock, FaultyBlock, Key};
use crate::mark::Marker;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// One set of a question.
pub struct Item {
    pub text: Vec<Block>,
    pub parts: Vec<ItemPart>,
    pub hints: Vec<Vec<Block>>,
    /// The full working, step by step.
    pub working: Vec<Vec<Block>>,
}

pub struct ItemPart {
    pub id: String,
    pub prompt: Vec<Block>,
    pub share: u32,
    pub wrong_form_costs: bool,
    pub kind: PartKind,
    pub replies: Vec<ItemReply>,
}

/// What is said to a known wrong answer, and how it is known.
pub struct ItemReply {
    to: ReplyTo,
    pub say: Vec<Block>,
}

enum ReplyTo {
    Entry(Box<Marker>),
    Choice(String),
}

impl ItemReply {
    fn is_to(&self, response: &Response) -> bool {
        match (&self.to, response) {
            (ReplyTo::Entry(marker), Response::Text(entry)) => marker.mark(entry).outcome == Outcome::Correct,
            (ReplyTo::Choice(id), Response::Choices(chosen)) => chosen.contains(id),
            _ => false,
        }
    }
}

pub enum PartKind {
    Entry {
        marker: Box<Marker>,
        block: Box<AnswerBlock>,
        label: String,
    },
    Choice {
        shown: Vec<ShownChoice>,
        correct: Vec<String>,
        several: bool,
    },
}

/// A choice as it is shown; whether it is right stays behind.
#[derive(Clone, Debug, PartialEq)]
pub struct ShownChoice {
    pub id: String,
    pub text: Vec<Inline>,
}

/// A verdict with whether it uses up a try.
#[derive(Clone, Debug, PartialEq)]
pub struct ResponseVerdict {
    pub marking: Marking,
    pub costs: bool,
    /// Which of the part's replies is meant for it.
    pub reply: Option<usize>,
}

#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum RenderError {
    #[error(transparent)]
    Draw(#[from] DrawError),
    #[error("part `{part}`: {fault}")]
    Block { part: String, fault: FaultyBlock },
    #[error(transparent)]
    Prose(#[from] prose::Unfit),
    #[error("there is no number `{0}`")]
    UnknownNumber(String),
    #[error("the number `{0}` has no short exact form; say how many decimals: {{{{{0}|2}}}}")]
    NeedsPlaces(String),
}

/// Draws a set and puts its numbers in place.
///
/// # Errors
/// What is wrong with the question.
pub fn render(question: &Question, seed: u64) -> Result<Item, RenderError> {
    render_drawn(question, &draw(question, seed)?)
}

pub(super) fn steps(texts: &[String], drawn: &Drawn) -> Result<Vec<Vec<Block>>, RenderError> {
    let one = |text: &String| Ok(prose::read(&fill(text, drawn, Place::Prose)?)?);
    texts.iter().map(one).collect()
}

pub(super) fn render_drawn(question: &Question, drawn: &Drawn) -> Result<Item, RenderError> {
    let mut dice = Dice(drawn.rest);
    let text = prose::read(&fill(&question.text, drawn, Place::Prose)?)?;
    let mut parts = Vec::with_capacity(question.parts.len());
    for part in &question.parts {
        let kind = match &part.interaction {
            Interaction::TextEntry { answer, label } => {
                let block = fill_block(answer, drawn)?;
                let marker = Marker::new(&block).map_err(|fault| RenderError::Block {
                    part: part.id.clone(),
                    fault,
                })?;
                PartKind::Entry {
                    marker: Box::new(marker),
                    block: Box::new(block),
                    label: label.clone(),
                }
            }
            Interaction::Choice {
                choices,
                max_choices,
                shuffle,
            } => {
                let mut shown = Vec::with_capacity(choices.len());
                for choice in choices {
                    let text = one_line(prose::read(&fill(&choice.text, drawn, Place::Prose)?)?)?;
                    shown.push(ShownChoice {
                        id: choice.id.clone(),
                        text,
                    });
                }
                if *shuffle {
                    for i in (1..shown.len()).rev() {
                        let j = usize::try_from(dice.below(u64::try_from(i + 1).unwrap_or(1))).unwrap_or(0);
                        shown.swap(i, j);
                    }
                }
                let correct = choices
                    .iter()
                    .filter(|c| c.correct)
                    .map(|c| c.id.clone())
                    .collect();
                PartKind::Choice {
                    shown,
                    correct,
                    several: *max_choices != 1,
                }
            }
        };
        let mut replies = Vec::with_capacity(part.replies.len());
        for reply in &part.replies {
            let to = match &part.interaction {
                Interaction::Choice { .. } => ReplyTo::Choice(reply.to.clone()),
                Interaction::TextEntry { answer, .. } => {
                    let block = reply_block(answer, &fill(&reply.to, drawn, Place::Key)?);
                    let marker = Marker::new(&block).map_err(|fault| RenderError::Block {
                        part: part.id.clone(),
                        fault,
                    })?;
                    ReplyTo::Entry(Box::new(marker))
                }
            };
            let say = prose::read(&fill(&reply.say, drawn, Place::Prose)?)?;
            replies.push(ItemReply { to, say });
        }
        parts.push(ItemPart {
            id: part.id.clone(),
            prompt: prose::read(&fill(&part.prompt, drawn, Place::Prose)?)?,
            share: part.share,
            wrong_form_costs: part.wrong_form_costs,
            kind,
            replies,
        });
    }
    Ok(Item {
        text,
        parts,
        hints: steps(&question.help.hints, drawn)?,
        working: steps(&question.help.working, drawn)?,
    })
}

impl Item {
    pub fn find_part(&self, id: &str) -> Option<&ItemPart> {
        self.parts.iter().find(|p| p.id == id)
    }
}

impl ItemPart {
    /// The key as a student would give it: with its unit, where one is asked for.
    pub fn key_response(&self) -> Response {
        match &self.kind {
            PartKind::Choice { correct, .. } => Response::Choices(correct.clone()),
            PartKind::Entry { block, .. } => match (&block.unit, block.unit_shown) {
                (Some(unit), false) => Response::Text(format!("{} {unit}", block.key.text())),
                _ => Response::Text(match &block.key {
                    Key::Words(words) => words.first().cloned().unwrap_or_default(),
                    key => key.text(),
                }),
            },
        }
    }

    /// The verdict on a response of the part's own kind; one of another kind is unreadable.
    pub fn mark(&self, response: &Response) -> ResponseVerdict {
        let marking = match (&self.kind, response) {
            (PartKind::Entry { marker, .. }, Response::Text(entry)) => marker.mark(entry),
            (
                PartKind::Choice {
                    correct,
                    several,
                    shown,
                },
                Response::Choices(chosen),
            ) => mark_choices(correct, *several, shown, chosen),
            _ => Marking::new(Outcome::Unreadable).note("This answer does not belong to this question."),
        };
        let costs =
            marking.outcome.costs_a_try() || (self.wrong_form_costs && marking.outcome == Outcome::WrongForm);
        // What cannot be read already says why; what is right needs no reply.
        let wants_reply = !matches!(marking.outcome, Outcome::Correct | Outcome::Unreadable);
        let reply = self.replies.iter().position(|r| wants_reply && r.is_to(response));
        ResponseVerdict {
            marking,
            costs,
            reply,
        }
    }

    /// The replies that the part's own key would set off: a fault of the question.
    pub fn replies_to_the_key(&self) -> Vec<usize> {
        let key = self.key_response();
        let hits = self.replies.iter().enumerate().filter(|(_, r)| r.is_to(&key));
        hits.map(|(i, _)| i).collect()
    }

    /// Whether the two have the same answer, however it is written.
    fn has_answer_of(&self, other: &ItemPart) -> bool {
        match (&self.kind, &other.kind) {
            (
                PartKind::Choice { shown, correct, .. },
                PartKind::Choice {
                    shown: s, correct: c, ..
                },
            ) => right_texts(shown, correct) == right_texts(s, c),
            _ => self.mark(&other.key_response()).marking.outcome == Outcome::Correct,
        }
    }
}

/// The texts of the right choices, whatever order they are shown in.
fn right_texts(shown: &[ShownChoice], correct: &[String]) -> Vec<String> {
    let mut texts: Vec<String> = shown
        .iter()
        .filter(|s| correct.contains(&s.id))
        .map(|s| format!("{:?}", s.text))
        .collect();
    texts.sort();
    texts
}

/// The block that accepts a known wrong entry: in any form, rounded as the question allows.
fn reply_block(answer: &AnswerBlock, entry: &str) -> AnswerBlock {
    AnswerBlock {
        key: Key::Text(entry.to_owned()),
        form: None,
        ..answer.clone()
    }
}

/// One choice is right or not; of several, a share for each right one less each wrong one, never below nothing.
fn mark_choices(correct: &[String], several: bool, shown: &[ShownChoice], chosen: &[String]) -> Marking {
    let mut chosen: Vec<&String> = chosen
        .iter()
        .filter(|c| shown.iter().any(|s| s.id == **c))
        .collect();
    chosen.sort();
    chosen.dedup();
    if chosen.is_empty() {
        return Marking::new(Outcome::Unreadable).note("Nothing chosen yet.");
    }
    if !several && chosen.len() > 1 {
        return Marking::new(Outcome::Unreadable).note("Only one can be chosen here.");
    }
    let right = chosen.iter().filter(|c| correct.contains(c)).count();
    let extra = chosen.len() - right;
    if right == correct.len() && extra == 0 {
        return Marking::new(Outcome::Correct);
    }
    #[expect(clippy::cast_precision_loss, reason = "a handful of choices")]
    let share = (right as f64 - extra as f64) / correct.len() as f64;
    if several && share > 0.0 {
        let mut marking = Marking::new(Outcome::Partial);
        marking.score = share;
        return marking;
    }
    Marking::new(Outcome::Incorrect)
}

fn one_line(blocks: Vec<Block>) -> Result<Vec<Inline>, RenderError> {
    let mut blocks = blocks.into_iter();
    match (blocks.next(), blocks.next()) {
        (Some(Block::Paragraph { content }), None) => Ok(content),
        _ => Err(RenderError::Prose(prose::Unfit(
            "more than one line in a choice".into(),
        ))),
    }
}

fn fill_block(block: &AnswerBlock, drawn: &Drawn) -> Result<AnswerBlock, RenderError> {
    let mut block = block.clone();
    block.key = match block.key {
        Key::Text(t) => Key::Text(fill(&t, drawn, Place::Key)?),
        Key::Words(words) => Key::Words(
            words
                .iter()
                .map(|w| fill(w, drawn, Place::Prose))
                .collect::<Result<_, _>>()?,
        ),
        other => other,
    };
    Ok(block)
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Place {
    Prose,
    Key,
}

/// Puts `{{name}}` and `{{name|places}}` in place. In a key a value keeps its brackets, unless it
/// is rounded; in maths signs and
/// coefficients are tidied (`+ -3`, `1x`).
fn fill(template: &str, drawn: &Drawn, place: Place) -> Result<String, RenderError> {
    let mut out = String::with_capacity(template.len());
    let mut rest = template;
    let mut in_maths = false;
    while let Some(start) = rest.find("{{") {
        let (before, from) = rest.split_at(start);
        in_maths ^= before.matches('$').count() % 2 == 1;
        let after = from.get(2..).unwrap_or_default();
        let slot = after.split_once("}}").filter(|(inside, _)| is_slot(inside));
        let Some((inside, tail)) = slot else {
            // `{{{a}}}`: the first brace is LaTeX's.
            out.push_str(before);
            out.push('{');
            rest = from.get(1..).unwrap_or_default();
            continue;
        };
        out.push_str(before);
        let (name, places) = match inside.split_once('|') {
            Some((name, places)) => (name, places.parse::<u32>().ok()),
            None => (inside, None),
        };
        let value = drawn
            .values
            .get(name)
            .ok_or_else(|| RenderError::UnknownNumber(name.to_owned()))?;
        match place {
            Place::Key => match places {
                // As it has to be typed: a key of a form cannot hold a fraction.
                Some(_) => out.push_str(&show(name, value, places)?),
                None => out.push_str(&format!("({})", maths::text(value))),
            },
            Place::Prose => {
                let shown = show(name, value, places)?;
                if in_maths {
                    push_tidied(&mut out, &shown, tail)
                } else {
                    out.push_str(&shown.replace('-', "−"))
                }
            }
        }
        rest = tail;
    }
    out.push_str(rest);
    Ok(out)
}

fn is_slot(inside: &str) -> bool {
    let (name, places) = inside.split_once('|').map_or((inside, "0"), |(n, p)| (n, p));
    name.chars().next().is_some_and(char::is_alphabetic)
        && name.chars().all(|c| c.is_alphanumeric() || c == '_')
        && !places.is_empty()
        && places.chars().all(|c| c.is_ascii_digit())
}

fn push_tidied(out: &mut String, shown: &str, tail: &str) {
    let mut shown = shown.to_owned();
    if let Some(size) = shown.strip_prefix('-') {
        let trimmed = out.trim_end().to_owned();
        if let Some(head) = trimmed.strip_suffix('+') {
            let size = size.to_owned();
            *out = format!("{head}- ");
            shown = size;
        } else if let Some(head) = trimmed.strip_suffix('-') {
            let size = size.to_owned();
            *out = format!("{head}+ ");
            shown = size;
        }
    }
    let multiplies = tail.starts_with(|c: char| c.is_ascii_alphabetic() || c == '(')
        || tail.starts_with("\\sqrt")
        || tail.starts_with("\\pi")
        || tail.starts_with("\\theta");
    let after_factor =
        out.ends_with(|c: char| c.is_ascii_alphanumeric() || matches!(c, '{' | '^' | '.' | '}'));
    if multiplies && !after_factor && (shown == "1" || shown == "-1") {
        shown.pop();
    }
    out.push_str(&shown);
}

/// A value as people write it: a short decimal, else a fraction, else rounded to the places asked for.
fn show(name: &str, value: &Expr, places: Option<u32>) -> Result<String, RenderError> {
    if let Some(places) = places {
        let rounded = round(value, places).ok_or_else(|| RenderError::NeedsPlaces(name.to_owned()))?;
        return Ok(fixed(&rounded, places));
    }
    let exact = exact_value(value).ok_or_else(|| RenderError::NeedsPlaces(name.to_owned()))?;
    if exact.is_integer() {
        return Ok(exact.to_integer().to_string());
    }
    for places in 1..=6 {
        let scaled = &exact * BigRational::from(num_traits::pow(BigInt::from(10), places as usize));
        if scaled.is_integer() {
            return Ok(fixed(&exact, places));
        }
    }
    Ok(format!("{}/{}", exact.numer(), exact.denom()))
}

fn round(value: &Expr, places: u32) -> Option<BigRational> {
    let scale = BigRational::from(num_traits::pow(BigInt::from(10), usize::try_from(places).ok()?));
    if let Some(v) = exact_value(value) {
        return Some((v * &scale).round() / scale);
    }
    let near = BigRational::from_float(maths::approximate(value).ok()?)?;
    Some((near * &scale).round() / scale)
}

/// Decimals with trailing noughts kept; the value must have no more places.
fn fixed(value: &BigRational, places: u32) -> String {
    let scale = num_traits::pow(BigInt::from(10), usize::try_from(places).unwrap_or(0));
    let scaled = (value * BigRational::from(scale.clone())).round().to_integer();
    if scale.is_one() {
        return scaled.to_string();
    }
    let sign = if scaled.is_negative() { "-" } else { "" };
    let size = scaled.abs();
    let (whole, fraction) = (&size / &scale, &size % &scale);
    let width = usize::try_from(places).unwrap_or(0);
    let fraction = if fraction.is_zero() {
        "0".repeat(width)
    } else {
        format!("{fraction:0>width$}")
    };
    format!("{sign}{whole}.{fraction}")
}

impl Item {
    /// Every answer of the set as text, to tell sets apart: numbers by what they come to.
    pub fn answers(&self) -> BTreeMap<String, String> {
        let text = |kind: &PartKind| match kind {
            PartKind::Entry { block, .. } => plain_answer(&block.key.text()),
            PartKind::Choice { shown, correct, .. } => right_texts(shown, correct).join(" "),
        };
        self.parts.iter().map(|p| (p.id.clone(), text(&p.kind))).collect()
    }

    /// Whether two sets of a question ask for the same answers, part by part.
    pub fn has_answers_of(&self, other: &Item) -> bool {
        self.parts.len() == other.parts.len()
            && self
                .parts
                .iter()
                .zip(&other.parts)
                .all(|(a, b)| a.has_answer_of(b))
    }
}

/// What a number key comes to, in nine figures; any other key as it stands.
fn plain_answer(key: &str) -> String {
    let number = maths::Names::new([]).ok().and_then(|names| {
        let tree = maths::read_expression(key, &maths::ReadOptions::number(&names))
            .ok()?
            .tree;
        maths::approximate(&tree).ok()
    });
    number.map_or_else(|| key.to_owned(), |n| format!("{n:.8e}"))
}
