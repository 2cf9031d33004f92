//! A question with its numbers in place: what the student sees, and how each part is marked.

use std::collections::BTreeMap;

use super::by_hand::by_hand;
use super::draw::{Dice, DrawError, Drawn, draw};
use super::fill::{Place, fill};
use super::format::{Interaction, Question};
use super::prose::{self, Block, Inline};
use crate::answer::{AnswerBlock, FaultyBlock, Key, Kind, Tolerance};
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
    /// The wrong answer that it is said to, as a student would give it.
    pub known: Response,
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
    #[error("`{{{{{0}}}}}` is not the name of a number: work it out under `numbers`, and name it here")]
    NoNumber(String),
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
    let mut item = render_answers(question, drawn)?;
    for (shown, part) in item.parts.iter_mut().zip(&question.parts) {
        shown.prompt = prose::read(&fill(&part.prompt, drawn, Place::Prose)?)?;
        for reply in &part.replies {
            let (to, known) = match &part.interaction {
                Interaction::Choice { .. } => (
                    ReplyTo::Choice(reply.to.clone()),
                    Response::Choices(vec![reply.to.clone()]),
                ),
                Interaction::TextEntry { answer, .. } => {
                    let formula = fill(&reply.to, drawn, Place::Key)?;
                    let block = reply_block(answer, &formula);
                    let known = with_unit(answer, by_hand(&block, &formula));
                    let marker = Marker::new(&block).map_err(|fault| RenderError::Block {
                        part: part.id.clone(),
                        fault,
                    })?;
                    (ReplyTo::Entry(Box::new(marker)), Response::Text(known))
                }
            };
            let say = prose::read(&fill(&reply.say, drawn, Place::Prose)?)?;
            shown.replies.push(ItemReply { to, known, say });
        }
    }
    item.hints = steps(&question.help.hints, drawn)?;
    item.working = steps(&question.help.working, drawn)?;
    Ok(item)
}

/// The text and what is to be answered, without prompts, replies and help: enough to tell one set from another.
pub(super) fn render_answers(question: &Question, drawn: &Drawn) -> Result<Item, RenderError> {
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
        parts.push(ItemPart {
            id: part.id.clone(),
            prompt: Vec::new(),
            share: part.share,
            wrong_form_costs: part.wrong_form_costs,
            kind,
            replies: Vec::new(),
        });
    }
    Ok(Item {
        text,
        parts,
        hints: Vec::new(),
        working: Vec::new(),
    })
}

impl Item {
    pub fn find_part(&self, id: &str) -> Option<&ItemPart> {
        self.parts.iter().find(|p| p.id == id)
    }
}

impl ItemPart {
    /// The right answer as a student would type it: worked out, rounded as asked for, with its unit.
    pub fn typed_key(&self) -> Response {
        let PartKind::Entry { block, .. } = &self.kind else {
            return self.key_response();
        };
        let typed = Response::Text(with_unit(block, by_hand(block, &block.key.text())));
        // Only where it is still right.
        if matches!(block.kind, Kind::Text) || self.mark(&typed).marking.score < 1.0 {
            return self.key_response();
        }
        typed
    }

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
/// What is typed, with its unit where that is not printed beside the box.
fn with_unit(block: &AnswerBlock, typed: String) -> String {
    match &block.unit {
        Some(unit) if !block.unit_shown => format!("{typed} {unit}"),
        _ => typed,
    }
}

/// What a reply waits for: with the part's tolerance, and where it has none and the number has no end, rounded to three
/// figures, as a student would type it.
fn reply_block(answer: &AnswerBlock, entry: &str) -> AnswerBlock {
    let mut block = AnswerBlock {
        key: Key::Text(entry.to_owned()),
        form: None,
        must_be: Vec::new(),
        ..answer.clone()
    };
    if block.kind == Kind::Number && block.tolerance.is_none() && !block.complex && !is_whole(entry) {
        block.tolerance = Some(Tolerance::Significant(3));
    }
    block
}

fn is_whole(number: &str) -> bool {
    let Ok(names) = maths::Names::new([]) else {
        return false;
    };
    let read = maths::read_expression(number, &maths::ReadOptions::number(&names));
    read.is_ok_and(|r| maths::exact_value(&r.tree).is_none_or(|v| v.is_integer()))
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
