//! How a part is answered. A kind is one file here, named as in QTI 3: what stands of it in a question's file ([`Spec`]),
//! and the part as one student has it ([`Posed`]). Nothing else in the workspace asks which kind a part is of;
//! `docs/answers.md` says how to add one.

mod associate;
mod by_hand;
mod choice;
mod counters;
mod extended_text;
mod fraction;
mod gap_match;
mod graphic_gap_match;
mod graphic_order;
mod group;
mod hot_text;
mod hotspot;
mod inline;
mod matching;
mod matrix;
mod order;
mod picture;
mod place;
mod plane;
mod program;
mod recording;
mod slider;
mod slots;
mod text_entry;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use self::by_hand::PosedLine;
pub use self::choice::{Choice, ShownChoice, SimpleChoice};
pub use self::text_entry::{KeyView, TextEntry};
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set, plain};
use crate::mark::Draft;
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// How a part is answered, as its file says it. One line a kind, here and in [`Interaction::spec`] and [`Shown`].
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "interaction", rename_all = "snake_case")]
pub enum Interaction {
    TextEntry(TextEntry),
    Choice(Choice),
    Inline(inline::InlineGaps),
    GapMatch(gap_match::GapMatch),
    Match(matching::Match),
    Associate(associate::Associate),
    Group(group::Group),
    Order(order::Order),
    HotText(hot_text::HotText),
    Slider(slider::Slider),
    Matrix(matrix::Matrix),
    Fraction(fraction::Fraction),
    Hotspot(hotspot::Hotspot),
    GraphicOrder(graphic_order::GraphicOrder),
    GraphicGapMatch(graphic_gap_match::GraphicGapMatch),
    Place(place::Place),
    Counters(counters::Counters),
    Plane(plane::Plane),
    ExtendedText(extended_text::ExtendedText),
    Recording(recording::Recorded),
    Program(program::Program),
}

impl Interaction {
    fn spec(&self) -> &(dyn Spec + 'static) {
        match self {
            Interaction::TextEntry(spec) => spec,
            Interaction::Choice(spec) => spec,
            Interaction::Inline(spec) => spec,
            Interaction::GapMatch(spec) => spec,
            Interaction::Match(spec) => spec,
            Interaction::Associate(spec) => spec,
            Interaction::Group(spec) => spec,
            Interaction::Order(spec) => spec,
            Interaction::HotText(spec) => spec,
            Interaction::Slider(spec) => spec,
            Interaction::Matrix(spec) => spec,
            Interaction::Fraction(spec) => spec,
            Interaction::Hotspot(spec) => spec,
            Interaction::GraphicOrder(spec) => spec,
            Interaction::GraphicGapMatch(spec) => spec,
            Interaction::Place(spec) => spec,
            Interaction::Counters(spec) => spec,
            Interaction::Plane(spec) => spec,
            Interaction::ExtendedText(spec) => spec,
            Interaction::Recording(spec) => spec,
            Interaction::Program(spec) => spec,
        }
    }
}

impl std::ops::Deref for Interaction {
    type Target = dyn Spec;

    fn deref(&self) -> &(dyn Spec + 'static) {
        self.spec()
    }
}

/// A part as the student sees it: nothing of its key.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
#[schema(as = EntryView)]
pub enum Shown {
    Typed(text_entry::Field),
    Choice(choice::Choices),
    Inline(inline::InlineGapsView),
    GapMatch(gap_match::GapMatchView),
    Match(matching::MatchView),
    Associate(associate::AssociateView),
    Group(group::GroupView),
    Order(order::OrderView),
    HotText(hot_text::HotTextView),
    Slider(slider::SliderView),
    Matrix(matrix::MatrixView),
    Fraction(fraction::FractionView),
    Hotspot(hotspot::HotspotView),
    GraphicOrder(graphic_order::GraphicOrderView),
    GraphicGapMatch(graphic_gap_match::GraphicGapMatchView),
    Place(place::PlaceView),
    Counters(counters::CountersView),
    Plane(plane::PlaneView),
    ExtendedText(extended_text::ExtendedTextView),
    Recording(recording::RecordedView),
    Program(program::ProgramView),
}

/// Something with a name, in a file: a tile, a row, a step.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Named {
    pub id: String,
    /// One line; maths between dollar signs, `{{name}}` for a number.
    pub text: String,
}

/// One member of what was given, and whether it is right: for kinds that are right or wrong in several places.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
#[schema(as = MemberView)]
pub struct Member {
    pub id: String,
    pub right: bool,
    /// LaTeX, where something typed was read.
    pub reads_as: String,
    pub speech: String,
    pub notes: Vec<String>,
}

/// What an author wrote about the first wrong answer of a member: `member=value`.
fn member_and_value(to: &str) -> Option<(&str, &str)> {
    let (member, value) = to.split_once('=')?;
    Some((member.trim(), value.trim()))
}

/// Ids that occur once each and can stand in a request.
fn check_ids<'a>(part: &str, ids: impl Iterator<Item = &'a str>) -> Result<(), FormatError> {
    let mut known: Vec<&str> = Vec::new();
    for id in ids {
        let fits = !id.is_empty()
            && id
                .chars()
                .all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
        if !fits {
            return Err(faulty(
                part,
                format!("`{id}` is no id: letters, digits, - and _ only"),
            ));
        }
        if known.contains(&id) {
            return Err(FormatError::ChoiceTwice {
                part: part.to_owned(),
                choice: id.to_owned(),
            });
        }
        known.push(id);
    }
    Ok(())
}

fn faulty(part: &str, words: impl Into<String>) -> FormatError {
    FormatError::Faulty {
        part: part.to_owned(),
        words: words.into(),
    }
}

/// That every reply is for something that can be given.
fn check_replies(part: &str, replies: &[Reply], can_be: impl Fn(&str) -> bool) -> Result<(), FormatError> {
    match replies.iter().find(|r| !can_be(&r.to)) {
        Some(reply) => Err(FormatError::ReplyToNothing {
            part: part.to_owned(),
            to: reply.to.clone(),
        }),
        None => Ok(()),
    }
}

fn pose_named(set: &Set, named: &[Named]) -> Result<Vec<ShownChoice>, RenderError> {
    let one = |n: &Named| {
        Ok(ShownChoice {
            id: n.id.clone(),
            text: one_line(set.prose(&n.text)?)?,
        })
    };
    named.iter().map(one).collect()
}

fn find<'a>(all: &'a [ShownChoice], id: &str) -> Option<&'a ShownChoice> {
    all.iter().find(|c| c.id == id)
}

/// The text of one of them; its id where there is none.
fn text_of(all: &[ShownChoice], id: &str) -> Vec<Inline> {
    find(all, id).map_or_else(|| vec![Inline::Text(id.to_owned())], |c| c.text.clone())
}

/// A line with something between two others.
fn joined(a: &[Inline], between: &str, b: &[Inline]) -> Vec<Inline> {
    let between = [Inline::Text(between.to_owned())];
    a.iter().chain(&between).chain(b).cloned().collect()
}

fn plain_line(line: &[Inline]) -> String {
    plain(&[Block::Paragraph {
        content: line.to_vec(),
    }])
}

/// "one box is still empty", "two boxes are still empty"; nothing for none.
fn still(count: usize, one: &str, many: &str, what: &str) -> Option<String> {
    const WORDS: [&str; 9] = [
        "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine",
    ];
    let number = |n: usize| {
        WORDS
            .get(n - 1)
            .map_or_else(|| n.to_string(), |w| (*w).to_owned())
    };
    match count {
        0 => None,
        1 => Some(format!("One {one} is still {what}.")),
        n => Some(format!("{} {many} are still {what}.", number(n))),
    }
}

/// A share of all, from 0 to 1.
#[expect(clippy::cast_precision_loss, reason = "a handful of members")]
fn share(right: usize, wrong: usize, all: usize) -> f64 {
    (right as f64 - wrong as f64).max(0.0) / (all.max(1)) as f64
}

/// The chance that all of some places are right where each has so many ways.
fn chance(ways: impl Iterator<Item = usize>) -> f64 {
    ways.map(|n| 1.0 / f64::from(u32::try_from(n.max(1)).unwrap_or(u32::MAX)))
        .product()
}

/// The right answer of a part.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Right {
    /// LaTeX, where it is maths.
    pub latex: String,
    pub speech: String,
    /// The texts of the right choices.
    pub choices: Vec<Vec<Inline>>,
}

/// What stored responses and seeds rest on: while it is the same, they mean what they meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Shape {
    pub kind: &'static str,
    pub ids: Vec<String>,
    pub shuffled: bool,
}

/// A wrong answer that is known: how it is told, and how a student would give it.
pub struct Known {
    pub is_it: Box<dyn Fn(&Response) -> bool + Send + Sync>,
    pub response: Response,
}

/// What a kind says in a question's file, and what it must be able to do.
pub trait Spec {
    /// # Errors
    /// What is wrong with the block in part `part` of a file, or with a reply in it.
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError>;

    /// The probability of getting it right by guessing; `typed` for what is typed.
    fn guess(&self, typed: f64) -> f64;

    /// Maths or words are typed in it: how to type is worth explaining, and answers are many.
    fn is_typed(&self) -> bool {
        false
    }

    /// A person marks it: nothing is judged before.
    fn is_by_hand(&self) -> bool {
        false
    }

    fn shape(&self) -> Shape;

    /// Whether the right answer can be another one with other numbers.
    fn may_vary(&self) -> bool;

    /// The part with the numbers of a set in place.
    ///
    /// # Errors
    /// What is wrong with the question.
    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError>;

    /// The wrong answer that a reply is meant for.
    ///
    /// # Errors
    /// What is wrong with the question.
    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError>;
}

/// A part as one set has it.
pub trait Posed: Send + Sync {
    /// Without its key.
    fn shown(&self) -> Shown;

    /// A person marks it: a verdict only says that it waits.
    fn is_by_hand(&self) -> bool {
        false
    }

    /// The verdict on a response, whatever is missing in it; `None` for one that belongs to another kind.
    fn mark(&self, response: &Response) -> Option<Marking>;

    /// What has to be run to mark a response, where it is a program: done beforehand, marking need not wait for it.
    fn job_of(&self, _response: &Response) -> Vec<crate::program::Job> {
        Vec::new()
    }

    /// The right answer as it stands in the file, with its unit, where one is asked for.
    fn key(&self) -> Response;

    /// The right answer as a student would give it; need not be accepted.
    fn typed_key(&self) -> Response {
        self.key()
    }

    /// The right answer, to be shown once nothing can be gained from it.
    fn right(&self) -> Right;

    /// The lines that a person looks for, where they mark by them.
    fn rubric(&self) -> &[PosedLine] {
        &[]
    }

    /// What is still to be given before a try can be used, in words for the student.
    fn unfinished(&self, _response: &Response) -> Option<String> {
        None
    }

    /// The members of a response with a verdict on each; none where a part is right or wrong as one.
    fn members(&self, _response: &Response) -> Vec<Member> {
        Vec::new()
    }

    /// What was chosen, joined or put in a response, line by line.
    fn chosen(&self, _response: &Response) -> Vec<Vec<Inline>> {
        Vec::new()
    }

    /// A response in words, for the slip book and exports.
    fn in_words(&self, response: &Response) -> String;

    /// How an entry reads, where something is typed.
    fn read(&self, _entry: &str) -> Option<Draft> {
        None
    }

    /// How an entry in one of its places reads, where something is typed there.
    fn read_at(&self, _place: &str, entry: &str) -> Option<Draft> {
        self.read(entry)
    }

    /// The number that a response comes to, where it is one: what follows from it is worked out from that.
    fn value(&self, _response: &Response) -> Option<maths::Expr> {
        None
    }

    /// Whether the marker could make something of a response.
    fn is_readable(&self, _response: &Response) -> bool {
        true
    }

    /// A response that a line of text stands for, if it stands for one.
    fn parse_response(&self, text: &str) -> Option<Response>;

    /// Whether two responses come to the same, right or not.
    fn is_same_answer(&self, a: &Response, b: &Response) -> bool {
        a.is_same(b)
    }

    /// A full answer with what a reply is for in it, as a student would give it; the rest is right.
    fn completed(&self, known: &Response) -> Response {
        known.clone()
    }

    /// A wrong answer such as students give.
    fn mistaken(&self) -> Response;

    /// The right answer as text, to tell sets apart: numbers by what they come to.
    fn answer(&self) -> String;

    /// Whether it has the same answer as the same part of another set, however it is written.
    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.mark(&other.key())
            .is_some_and(|m| m.outcome == Outcome::Correct)
    }

    /// What an author has to mend, beyond a key that is not accepted.
    fn faults(&self) -> Vec<String> {
        Vec::new()
    }
}

/// Text of one line.
fn one_line(blocks: Vec<Block>) -> Result<Vec<Inline>, RenderError> {
    let mut blocks = blocks.into_iter();
    match (blocks.next(), blocks.next()) {
        (Some(Block::Paragraph { content }), None) => Ok(content),
        _ => Err(RenderError::unfit("more than one line in a choice")),
    }
}
