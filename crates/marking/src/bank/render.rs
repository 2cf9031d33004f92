//! A question with its numbers in place: what the student sees, and how each part is marked.

use std::collections::BTreeMap;

use maths::Expr;

use super::beside::{ShownExhibit, shown_exhibits};
use super::draw::{Dice, DrawError, Drawn, draw, redrawn};
use super::fill::{Place, fill};
use super::format::{Follow, Part, Question};
use super::prose::{self, Block};
use crate::answer::{FaultyBlock, NumberText};
use crate::interaction::Posed;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// One set of a question.
pub struct Item {
    pub text: Vec<Block>,
    pub exhibits: Vec<ShownExhibit>,
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
    /// How it is answered, with its key.
    pub posed: Box<dyn Posed>,
    pub replies: Vec<ItemReply>,
    /// The part after which it opens.
    pub opens_after: Option<String>,
    follow: Option<ItemFollow>,
}

/// How a part is marked from what the student gave before.
struct ItemFollow {
    /// The number, and the part that it comes from.
    numbers: Vec<(String, String)>,
    /// 0 to 1.
    credit: f64,
    pose: Box<Pose>,
}

/// The part with other numbers in place of those named.
type Pose = dyn Fn(&[(String, Expr)]) -> Option<Box<dyn Posed>> + Send + Sync;

/// What is said to a known wrong answer, and how it is known.
pub struct ItemReply {
    is_it: Box<dyn Fn(&Response) -> bool + Send + Sync>,
    /// The wrong answer that it is said to, as a student would give it.
    pub known: Response,
    pub say: Vec<Block>,
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

pub(super) fn steps(texts: &[String], set: &Set) -> Result<Vec<Vec<Block>>, RenderError> {
    texts.iter().map(|text| set.prose(text)).collect()
}

pub(super) fn render_drawn(question: &Question, drawn: &Drawn) -> Result<Item, RenderError> {
    let mut item = render_answers(question, drawn)?;
    let set = Set::new(question, drawn);
    for (shown, part) in item.parts.iter_mut().zip(&question.parts) {
        shown.prompt = set.prose(&part.prompt)?;
        for reply in &part.replies {
            let known = part.interaction.known(&part.id, &reply.to, drawn)?;
            let say = set.prose(&reply.say)?;
            shown.replies.push(ItemReply {
                is_it: known.is_it,
                known: shown.posed.completed(&known.response),
                say,
            });
        }
    }
    item.exhibits = shown_exhibits(question, &set)?;
    item.hints = steps(&question.help.hints, &set)?;
    item.working = steps(&question.help.working, &set)?;
    Ok(item)
}

/// The text and what is to be answered, without prompts, replies and help: enough to tell one set from another.
pub(super) fn render_answers(question: &Question, drawn: &Drawn) -> Result<Item, RenderError> {
    let mut set = Set::new(question, drawn);
    let text = set.prose(&question.text)?;
    let mut parts = Vec::with_capacity(question.parts.len());
    for part in &question.parts {
        parts.push(ItemPart {
            id: part.id.clone(),
            prompt: Vec::new(),
            share: part.share,
            wrong_form_costs: part.wrong_form_costs,
            posed: part.interaction.pose(&part.id, &mut set)?,
            replies: Vec::new(),
            opens_after: part.opens_after.clone(),
            follow: part.follow.as_ref().map(|f| following(question, part, f, drawn)),
        });
    }
    Ok(Item {
        text,
        exhibits: Vec::new(),
        parts,
        hints: Vec::new(),
        working: Vec::new(),
    })
}

fn following(question: &Question, part: &Part, follow: &Follow, drawn: &Drawn) -> ItemFollow {
    let (question, part, drawn) = (question.clone(), part.clone(), drawn.clone());
    ItemFollow {
        numbers: follow
            .numbers
            .iter()
            .map(|(n, id)| (n.clone(), id.clone()))
            .collect(),
        credit: f64::from(follow.credit) / 100.0,
        pose: Box::new(move |over| {
            let drawn = redrawn(&question, &drawn, over).ok()?;
            part.interaction
                .pose(&part.id, &mut Set::new(&question, &drawn))
                .ok()
        }),
    }
}

impl Item {
    pub fn find_part(&self, id: &str) -> Option<&ItemPart> {
        self.parts.iter().find(|p| p.id == id)
    }

    /// The verdict on a response to a part, beside what was given for the others; `at_end` as it stands, else before a try
    /// is used. What is right for a wrong answer to an earlier part follows through where the question says so.
    pub fn mark_beside(
        &self,
        id: &str,
        response: &Response,
        others: &[(String, Response)],
        at_end: bool,
    ) -> Option<ResponseVerdict> {
        let part = self.find_part(id)?;
        let verdict = if at_end {
            part.mark_as_it_stands(response)
        } else {
            part.mark(response)
        };
        let marking = &verdict.marking;
        if !marking.outcome.is_judged() || marking.score >= 1.0 {
            return Some(verdict);
        }
        let followed = self.followed(part, response, others);
        Some(match followed {
            Some(followed) if followed.score > marking.score => ResponseVerdict {
                marking: followed,
                costs: true,
                reply: None,
            },
            _ => verdict,
        })
    }

    fn followed(
        &self,
        part: &ItemPart,
        response: &Response,
        others: &[(String, Response)],
    ) -> Option<Marking> {
        let follow = part.follow.as_ref()?;
        let mut over = Vec::new();
        let mut from = Vec::new();
        for (number, id) in &follow.numbers {
            let earlier = self.find_part(id)?;
            let (_, given) = others.iter().find(|(other, _)| other == id)?;
            if earlier.mark_as_it_stands(given).marking.score >= 1.0 {
                continue;
            }
            over.push((number.clone(), earlier.posed.value(given)?));
            from.push(format!("({id})"));
        }
        if over.is_empty() {
            return None;
        }
        let marked = (follow.pose)(&over)?.mark(response)?;
        let score = marked.score * follow.credit;
        if score <= 0.0 {
            return None;
        }
        let words = if marked.score >= 1.0 {
            "Right"
        } else {
            "Partly right"
        };
        let note = format!(
            "{words} for your answer to part {}: it follows from it.",
            from.join(" and ")
        );
        Some(Marking {
            notes: vec![note],
            reads_as: marked.reads_as,
            speech: marked.speech,
            ..Marking::shared(score)
        })
    }
}

impl ItemPart {
    /// The right answer as a student would give it, where that is accepted; else as it stands in the file.
    pub fn typed_key(&self) -> Response {
        let typed = self.posed.typed_key();
        if self.mark(&typed).marking.score < 1.0 {
            return self.posed.key();
        }
        typed
    }

    /// The verdict on a response of the part's own kind, before a try is used: what is unfinished is said, and nothing is
    /// judged. One of another kind is unreadable.
    pub fn mark(&self, response: &Response) -> ResponseVerdict {
        match self.posed.unfinished(response) {
            Some(words) => ResponseVerdict {
                marking: Marking::new(Outcome::Unfinished).note(words),
                costs: false,
                reply: None,
            },
            None => self.mark_as_it_stands(response),
        }
    }

    /// The verdict on what stands there when work is handed in: what is missing is not right, and the rest counts.
    pub fn mark_as_it_stands(&self, response: &Response) -> ResponseVerdict {
        let foreign =
            || Marking::new(Outcome::Unreadable).note("This answer does not belong to this question.");
        let marking = self.posed.mark(response).unwrap_or_else(foreign);
        let costs =
            marking.outcome.costs_a_try() || (self.wrong_form_costs && marking.outcome == Outcome::WrongForm);
        // What cannot be read already says why; what is right needs no reply.
        let wants_reply = marking.outcome.is_judged() && marking.outcome != Outcome::Correct;
        let reply = self
            .replies
            .iter()
            .position(|r| wants_reply && (r.is_it)(response));
        ResponseVerdict {
            marking,
            costs,
            reply,
        }
    }

    /// The replies that the part's own key would set off: a fault of the question.
    pub fn replies_to_the_key(&self) -> Vec<usize> {
        let key = self.posed.key();
        let hits = self.replies.iter().enumerate().filter(|(_, r)| (r.is_it)(&key));
        hits.map(|(i, _)| i).collect()
    }
}

/// The numbers of a set as they are put in place, in order.
pub struct Set<'a> {
    question: &'a Question,
    drawn: &'a Drawn,
    dice: Dice,
}

impl<'a> Set<'a> {
    pub(super) fn new(question: &'a Question, drawn: &'a Drawn) -> Self {
        Set {
            question,
            drawn,
            dice: Dice(drawn.rest),
        }
    }

    /// Text for students.
    ///
    /// # Errors
    /// What may not stand in it.
    pub fn prose(&self, text: &str) -> Result<Vec<Block>, RenderError> {
        let mut blocks = prose::read(&self.words(text)?)?;
        for block in &mut blocks {
            let Block::Figure { name, drawing } = block else {
                continue;
            };
            if let Some(sound) = self.question.sounds.get(name) {
                let recording = sound.shown(self)?;
                *block = Block::Sound { recording };
            } else {
                *drawing = self.figure(name)?.drawing();
            }
        }
        Ok(blocks)
    }

    fn figure(&self, name: &str) -> Result<crate::figure::Drawn, RenderError> {
        let figure = self.question.figures.get(name);
        let missing = || RenderError::unfit(&format!("the figure `{name}`, which is not there,"));
        figure.ok_or_else(missing)?.draw(self)
    }

    /// What is wrong with the figures, for the author.
    pub(super) fn figure_faults(&self) -> Result<Vec<String>, RenderError> {
        let mut faults = Vec::new();
        for (name, figure) in &self.question.figures {
            let found = figure.draw(self)?.canvas.faults();
            faults.extend(found.into_iter().map(|f| format!("figure `{name}`: {f}")));
        }
        Ok(faults)
    }

    /// A passage with its gaps.
    ///
    /// # Errors
    /// What may not stand in it.
    pub fn passage(&self, text: &str) -> Result<Vec<Block>, RenderError> {
        Ok(prose::read_passage(&self.words(text)?)?)
    }

    /// Words of a key.
    ///
    /// # Errors
    /// A number that is not there.
    pub fn words(&self, text: &str) -> Result<String, RenderError> {
        fill(text, self.drawn, Place::Prose)
    }

    /// Maths of a key.
    ///
    /// # Errors
    /// A number that is not there.
    pub fn key(&self, text: &str) -> Result<String, RenderError> {
        fill_key(text, self.drawn)
    }

    /// What a number in a file comes to.
    ///
    /// # Errors
    /// If it is none.
    pub fn value(&self, given: &NumberText) -> Result<f64, RenderError> {
        let text = self.key(&given.text())?;
        let names = maths::Names::new([]).map_err(|e| RenderError::unfit(&e))?;
        let read = maths::read_expression(&text, &maths::ReadOptions::number(&names)).ok();
        let value = read.and_then(|r| maths::approximate(&r.tree).ok());
        value.ok_or_else(|| RenderError::unfit(&format!("`{text}`, which is no number,")))
    }

    /// Whether a condition holds of the set's numbers.
    ///
    /// # Errors
    /// If it cannot be read.
    pub fn holds(&self, condition: &str) -> Result<bool, RenderError> {
        Ok(self.drawn.holds(condition)?)
    }

    /// A number for what draws for itself.
    pub fn seed(&mut self) -> u64 {
        self.dice.draw()
    }

    pub fn shuffle<T>(&mut self, all: &mut [T]) {
        for i in (1..all.len()).rev() {
            let below = u64::try_from(i + 1).unwrap_or(1);
            all.swap(i, usize::try_from(self.dice.below(below)).unwrap_or(0));
        }
    }
}

/// Maths of a key, with numbers in place.
///
/// # Errors
/// A number that is not there.
pub(crate) fn fill_key(text: &str, drawn: &Drawn) -> Result<String, RenderError> {
    fill(text, drawn, Place::Key)
}

/// What is wrong with the figures of a set: labels that overlap, or stand over the edge.
///
/// # Errors
/// What is wrong with the question.
pub fn figure_faults(question: &Question, seed: u64) -> Result<Vec<String>, RenderError> {
    Set::new(question, &draw(question, seed)?).figure_faults()
}

impl RenderError {
    pub(crate) fn unfit(what: &str) -> Self {
        RenderError::Prose(prose::Unfit(what.to_owned()))
    }
}

impl Item {
    /// Every answer of the set as text, to tell sets apart: numbers by what they come to.
    pub fn answers(&self) -> BTreeMap<String, String> {
        let answer = |p: &ItemPart| (p.id.clone(), p.posed.answer());
        self.parts.iter().map(answer).collect()
    }

    /// Whether two sets of a question ask for the same answers, part by part.
    pub fn has_answers_of(&self, other: &Item) -> bool {
        let mut both = self.parts.iter().zip(&other.parts);
        self.parts.len() == other.parts.len() && both.all(|(a, b)| a.posed.has_answer_of(&*b.posed))
    }
}
