use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::beside::{self, Exhibit, Sound};
use crate::answer::NumberText;
use crate::figure::Figure;
use crate::interaction::Interaction;

/// One question, as its YAML file says it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Lower-case words with hyphens; the same in every version of the question.
    pub id: String,
    pub title: String,
    #[serde(default)]
    pub skills: Vec<String>,
    pub points: u32,
    #[serde(default = "yes")]
    pub calculator: bool,
    /// Template variables, drawn or worked out in the order of their names' dependencies.
    #[serde(default)]
    pub numbers: BTreeMap<String, NumberSpec>,
    /// What must hold of the numbers, such as `a < b` or `a != 2b`; they are redrawn until it does.
    #[serde(default)]
    pub conditions: Vec<String>,
    /// Figures that stand in the text, a prompt, a hint or a working where `![](name)` is, in a line of its own.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub figures: BTreeMap<String, Figure>,
    /// Recordings that are played where `![](name)` is, as for figures.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub sounds: BTreeMap<String, Sound>,
    /// Documents beside the question, to look things up in.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub exhibits: Vec<Exhibit>,
    /// Markdown with `$…$`; `{{name}}` puts a number in place, `{{name|2}}` rounds it to two decimal places.
    pub text: String,
    pub parts: Vec<Part>,
    /// A check needs an entry in every part.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub all_parts_needed: bool,
    #[serde(default, skip_serializing_if = "Help::is_empty")]
    pub help: Help,
    /// Few different answers are meant.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub few_answers: bool,
}

fn yes() -> bool {
    true
}

/// What helps with a question. Hints and working hold the student's numbers; the worked example has its own.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Help {
    /// One at a time, from a nudge to nearly all of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hints: Vec<String>,
    /// The full working, in steps.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub working: Vec<String>,
    /// Left out, the worked example is this question on numbers of its own, with the steps of the working.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub worked_example: Option<WorkedExample>,
}

impl Help {
    fn is_empty(&self) -> bool {
        *self == Help::default()
    }
}

#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WorkedExample {
    /// Drawn numbers that are fixed here; the others are drawn.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub numbers: BTreeMap<String, NumberText>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<String>,
}

/// What is said to a known wrong answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Reply {
    /// An entry (`{{name}}` may stand in it) or a choice's id; whatever is equal to it gets the reply.
    pub to: String,
    pub say: String,
}

/// Where a number comes from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum NumberSpec {
    /// One of these.
    List(OneOf),
    /// From, to, in steps; whole or decimal.
    Range(Steps),
    /// Worked out from other numbers, in the notation students use.
    Formula(Formula),
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OneOf {
    pub one_of: Vec<NumberText>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Steps {
    pub from: NumberText,
    pub to: NumberText,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub step: Option<NumberText>,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub nonzero: bool,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub distinct_from: Vec<String>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Formula {
    pub formula: String,
}

/// One thing to answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Part {
    pub id: String,
    #[serde(default)]
    pub prompt: String,
    #[serde(flatten)]
    pub interaction: Interaction,
    /// Share of the question's points, beside the other parts' shares.
    #[serde(default = "one")]
    pub share: u32,
    /// A right value in another form uses up a try.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub wrong_form_costs: bool,
    /// Tries at this part on one set, if fewer than the assignment gives.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub max_attempts: Option<u32>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub replies: Vec<Reply>,
    /// It opens once this earlier part is right, or has no tries left; that part needs a `max_attempts` of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub opens_after: Option<String>,
    /// An answer that is right for a wrong one to an earlier part counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub follow: Option<Follow>,
}

/// Following through: the key is worked out anew from what the student gave before.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Follow {
    /// Which number is taken from the entry to which earlier part; numbers worked out from it follow.
    pub numbers: BTreeMap<String, String>,
    /// Per cent of the part's share that it earns.
    #[serde(default = "hundred", skip_serializing_if = "is_hundred")]
    pub credit: u8,
}

fn hundred() -> u8 {
    100
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
fn is_hundred(credit: &u8) -> bool {
    *credit == 100
}

fn one() -> u32 {
    1
}

/// Why a file is no question.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FormatError {
    #[error("{0}")]
    Yaml(String),
    #[error("a question needs at least one part")]
    NoParts,
    #[error("the id `{0}` may only have small letters, digits and hyphens")]
    BadId(String),
    #[error("the part id `{0}` occurs twice")]
    PartTwice(String),
    #[error("part `{0}`: exactly one choice must be correct where one is to be chosen")]
    OneCorrect(String),
    #[error("part `{0}`: at least one choice must be correct")]
    NoneCorrect(String),
    #[error("part `{part}`: the choice id `{choice}` occurs twice")]
    ChoiceTwice { part: String, choice: String },
    #[error("a question needs at least one point")]
    NoPoints,
    #[error("part `{0}`: max_attempts must be at least 1")]
    NoAttempts(String),
    #[error("part `{part}`: a reply to `{to}`, but there is no such choice")]
    ReplyToNothing { part: String, to: String },
    #[error("part `{part}`: {words}")]
    Faulty { part: String, words: String },
    #[error("the worked example fixes `{0}`, which is no number of this question")]
    ExampleNumber(String),
    #[error("{0}")]
    Beside(String),
    #[error("the shares of the parts add up to nothing")]
    NoShares,
}

/// Reads a question file. Booleans are those of YAML 1.2, so that `[x, y]` names two variables.
///
/// # Errors
/// What is wrong, with its line where YAML says it.
pub fn parse_question(yaml: &str) -> Result<Question, FormatError> {
    let question: Question =
        serde_saphyr::from_str_with_options(yaml, serde_saphyr::options! { strict_booleans: true })
            .map_err(|e| FormatError::Yaml(e.to_string()))?;
    question.checked()
}

fn is_id(id: &str) -> bool {
    !id.is_empty()
        && id
            .chars()
            .all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-')
}

impl Question {
    /// Whether its numbers are drawn anew with each set, and change its answer: such a question can be practised. What a
    /// person marks is none.
    pub fn is_drawn(&self) -> bool {
        let drawn = |n: &NumberSpec| matches!(n, NumberSpec::List(_) | NumberSpec::Range(_));
        !self.few_answers && !self.is_by_hand() && self.numbers.values().any(drawn)
    }

    /// A person marks it, or a part of it.
    pub fn is_by_hand(&self) -> bool {
        self.parts.iter().any(|p| p.interaction.is_by_hand())
    }

    /// The probability of getting all of it right by guessing, `typed` for a typed part.
    pub fn guess(&self, typed: f64) -> f64 {
        self.parts.iter().map(|p| p.interaction.guess(typed)).product()
    }

    /// The steps of the worked example, if there is one. A question with few answers has one only if its file says so:
    /// the answer of its example would be the student's.
    pub fn example_steps(&self) -> &[String] {
        match &self.help.worked_example {
            Some(example) if !example.steps.is_empty() => &example.steps,
            None if self.few_answers => &[],
            _ => &self.help.working,
        }
    }

    pub(crate) fn checked(self) -> Result<Question, FormatError> {
        self.check()?;
        Ok(self)
    }

    /// What a part says of earlier ones.
    fn check_links(&self, place: usize, part: &Part) -> Result<(), FormatError> {
        let faulty = |words: String| FormatError::Faulty {
            part: part.id.clone(),
            words,
        };
        let earlier = |id: &String| self.parts.iter().take(place).find(|p| p.id == *id);
        if let Some(id) = &part.opens_after {
            let before = earlier(id)
                .ok_or_else(|| faulty(format!("it opens after `{id}`, which is no earlier part")))?;
            if before.max_attempts.is_none() {
                return Err(faulty(format!(
                    "it opens after `{id}`, which needs a max_attempts of its own"
                )));
            }
        }
        let Some(follow) = &part.follow else { return Ok(()) };
        if follow.numbers.is_empty() || follow.credit == 0 || follow.credit > 100 {
            return Err(faulty("follow needs numbers, and a credit from 1 to 100".into()));
        }
        for (number, id) in &follow.numbers {
            if !self.numbers.contains_key(number) {
                return Err(faulty(format!(
                    "follow names `{number}`, which is no number of this question"
                )));
            }
            if !earlier(id).is_some_and(|p| p.interaction.is_typed()) {
                return Err(faulty(format!(
                    "follow names `{id}`, which is no earlier part that is typed"
                )));
            }
        }
        Ok(())
    }

    fn check(&self) -> Result<(), FormatError> {
        if !is_id(&self.id) {
            return Err(FormatError::BadId(self.id.clone()));
        }
        if self.parts.is_empty() {
            return Err(FormatError::NoParts);
        }
        if self.points == 0 {
            return Err(FormatError::NoPoints);
        }
        if self.parts.iter().all(|p| p.share == 0) {
            return Err(FormatError::NoShares);
        }
        for (i, part) in self.parts.iter().enumerate() {
            if !is_id(&part.id) {
                return Err(FormatError::BadId(part.id.clone()));
            }
            if self.parts.iter().take(i).any(|p| p.id == part.id) {
                return Err(FormatError::PartTwice(part.id.clone()));
            }
            if part.max_attempts == Some(0) {
                return Err(FormatError::NoAttempts(part.id.clone()));
            }
            part.interaction.check(&part.id, &part.replies)?;
            self.check_links(i, part)?;
        }
        beside::check(self, is_id)?;
        let fixed = self.help.worked_example.iter().flat_map(|e| e.numbers.keys());
        match fixed.into_iter().find(|name| !self.numbers.contains_key(*name)) {
            Some(name) => Err(FormatError::ExampleNumber(name.clone())),
            None => Ok(()),
        }
    }
}

/// The JSON Schema of a question file, for editors.
pub fn question_schema() -> serde_json::Value {
    let mut schema = schemars::schema_for!(Question).to_value();
    // The order of keys must not depend on what else is compiled.
    schema.sort_all_objects();
    schema
}
