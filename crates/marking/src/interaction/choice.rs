//! One of several, or several of them (QTI's choiceInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::agreeing;
use super::{Known, Member, Posed, Right, Shape, Shown, Spec, one_line, plain_line, text_of};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Choice {
    pub choices: Vec<SimpleChoice>,
    /// 1 for one choice; 0 for any number of them.
    #[serde(default = "one")]
    pub max_choices: u32,
    #[serde(default = "yes")]
    pub shuffle: bool,
    #[serde(default, skip_serializing_if = "Scoring::is_usual")]
    pub scoring: Scoring,
}

/// What several choices are worth.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Scoring {
    /// A share for each right one less each wrong one, never below nothing.
    #[default]
    RightMinusWrong,
    /// All of the right ones and nothing else, or nothing.
    AllOrNothing,
}

impl Scoring {
    #[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
    fn is_usual(&self) -> bool {
        *self == Scoring::default()
    }
}

fn one() -> u32 {
    1
}

fn yes() -> bool {
    true
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SimpleChoice {
    pub id: String,
    pub text: String,
    #[serde(default)]
    pub correct: bool,
    /// It is right where this holds of the numbers, such as `load <= 12`; instead of `correct`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub correct_if: Option<String>,
    /// It stays in its place when the others are shuffled: "none of these" at the end.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub fixed: bool,
}

/// Choices as they are shown.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[schema(as = ChoicesView)]
pub struct Choices {
    several: bool,
    choices: Vec<ShownChoice>,
}

/// A choice as it is shown; whether it is right stays behind.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[schema(as = ChoiceView)]
pub struct ShownChoice {
    pub id: String,
    pub text: Vec<Inline>,
}

impl Spec for Choice {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        let correct = self.choices.iter().filter(|c| c.correct).count();
        let depends = self.choices.iter().any(|c| c.correct_if.is_some());
        if !depends && self.max_choices == 1 && correct != 1 {
            return Err(FormatError::OneCorrect(part.to_owned()));
        }
        if correct == 0 && !depends {
            return Err(FormatError::NoneCorrect(part.to_owned()));
        }
        for (i, choice) in self.choices.iter().enumerate() {
            if self.choices.iter().take(i).any(|c| c.id == choice.id) {
                return Err(FormatError::ChoiceTwice {
                    part: part.to_owned(),
                    choice: choice.id.clone(),
                });
            }
        }
        let to_nothing = |r: &&Reply| !self.choices.iter().any(|c| c.id == r.to);
        match replies.iter().find(to_nothing) {
            Some(reply) => Err(FormatError::ReplyToNothing {
                part: part.to_owned(),
                to: reply.to.clone(),
            }),
            None => Ok(()),
        }
    }

    fn guess(&self, _typed: f64) -> f64 {
        let count = i32::try_from(self.choices.len()).unwrap_or(i32::MAX);
        if self.max_choices == 1 {
            1.0 / f64::from(count.max(1))
        } else {
            0.5f64.powi(count)
        }
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "choice",
            ids: self.choices.iter().map(|c| c.id.clone()).collect(),
            shuffled: self.shuffle,
        }
    }

    fn may_vary(&self) -> bool {
        let varies = |c: &SimpleChoice| c.correct_if.is_some() || (c.correct && c.text.contains("{{"));
        self.choices.iter().any(varies)
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let mut shown = Vec::with_capacity(self.choices.len());
        for choice in &self.choices {
            shown.push(ShownChoice {
                id: choice.id.clone(),
                text: one_line(set.prose(&choice.text)?)?,
            });
        }
        if self.shuffle {
            let is_fixed = |n: usize| self.choices.get(n).is_some_and(|c| c.fixed);
            let mut free: Vec<ShownChoice> = Vec::new();
            let mut fixed: Vec<(usize, ShownChoice)> = Vec::new();
            for (n, choice) in shown.into_iter().enumerate() {
                if is_fixed(n) {
                    fixed.push((n, choice));
                } else {
                    free.push(choice);
                }
            }
            set.shuffle(&mut free);
            for (n, choice) in fixed {
                free.insert(n, choice);
            }
            shown = free;
        }
        let mut correct = Vec::new();
        for choice in &self.choices {
            let holds = choice
                .correct_if
                .as_ref()
                .map(|condition| set.holds(condition))
                .transpose()?;
            if holds.unwrap_or(choice.correct) {
                correct.push(choice.id.clone());
            }
        }
        if correct.is_empty() || (self.max_choices == 1 && correct.len() > 1) {
            return Err(RenderError::unfit(
                "a set of numbers with no right choice, or with several where one is asked for,",
            ));
        }
        Ok(Box::new(PosedChoice {
            shown,
            correct,
            several: self.max_choices != 1,
            scoring: self.scoring,
            view: None,
            faults: Vec::new(),
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let id = to.to_owned();
        Ok(Known {
            response: Response::Choices(vec![id.clone()]),
            is_it: Box::new(move |r| matches!(r, Response::Choices(chosen) if chosen.contains(&id))),
        })
    }
}

pub(super) struct PosedChoice {
    pub shown: Vec<ShownChoice>,
    pub correct: Vec<String>,
    pub several: bool,
    pub scoring: Scoring,
    /// How it is shown where it is no list.
    pub view: Option<Shown>,
    pub faults: Vec<String>,
}

impl PosedChoice {
    fn is_right(&self, choice: &ShownChoice) -> bool {
        self.correct.contains(&choice.id)
    }

    /// Choices that are named, in the order in which they are shown.
    fn named<'a>(&'a self, ids: &'a [String]) -> impl Iterator<Item = &'a ShownChoice> {
        self.shown.iter().filter(|c| ids.contains(&c.id))
    }
}

impl Posed for PosedChoice {
    fn shown(&self) -> Shown {
        self.view.clone().unwrap_or_else(|| {
            Shown::Choice(Choices {
                several: self.several,
                choices: self.shown.clone(),
            })
        })
    }

    /// One choice is right or not; of several, a share for each right one less each wrong one, never below nothing.
    fn mark(&self, response: &Response) -> Option<Marking> {
        let Response::Choices(ids) = response else {
            return None;
        };
        let chosen: Vec<&ShownChoice> = self.named(ids).collect();
        if chosen.is_empty() {
            return Some(Marking::new(Outcome::Unreadable).note("Nothing chosen yet."));
        }
        if !self.several && chosen.len() > 1 {
            return Some(Marking::new(Outcome::Unreadable).note("Only one can be chosen here."));
        }
        let right = chosen.iter().filter(|c| self.is_right(c)).count();
        let extra = chosen.len() - right;
        if right == self.correct.len() && extra == 0 {
            return Some(Marking::new(Outcome::Correct));
        }
        #[expect(clippy::cast_precision_loss, reason = "a handful of choices")]
        let share = (right as f64 - extra as f64) / self.correct.len() as f64;
        if self.several && self.scoring == Scoring::RightMinusWrong && share > 0.0 {
            return Some(Marking::shared(share));
        }
        Some(Marking::new(Outcome::Incorrect))
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let Response::Choices(ids) = response else {
            return Vec::new();
        };
        let one = |c: &ShownChoice| Member {
            id: c.id.clone(),
            right: self.is_right(c),
            ..Member::default()
        };
        self.named(ids).map(one).collect()
    }

    fn faults(&self) -> Vec<String> {
        agreeing(&self.shown)
            .into_iter()
            .chain(self.faults.iter().cloned())
            .collect()
    }

    fn key(&self) -> Response {
        Response::Choices(self.correct.clone())
    }

    fn right(&self) -> Right {
        Right {
            choices: self.named(&self.correct).map(|c| c.text.clone()).collect(),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let Response::Choices(ids) = response else {
            return Vec::new();
        };
        self.named(ids).map(|c| c.text.clone()).collect()
    }

    fn in_words(&self, response: &Response) -> String {
        let Response::Choices(ids) = response else {
            return String::new();
        };
        let text = |id: &String| plain_line(&text_of(&self.shown, id));
        ids.iter().map(text).collect::<Vec<_>>().join(", ")
    }

    /// Ids with commas between them.
    fn parse_response(&self, text: &str) -> Option<Response> {
        let ids: Vec<String> = text.split(',').map(|id| id.trim().to_owned()).collect();
        let known = ids.iter().all(|id| self.shown.iter().any(|c| c.id == *id));
        known.then_some(Response::Choices(ids))
    }

    fn mistaken(&self) -> Response {
        let other = self.shown.iter().find(|c| !self.is_right(c));
        Response::Choices(other.map(|c| c.id.clone()).into_iter().collect())
    }

    /// The texts of the right choices, whatever order they are shown in.
    fn answer(&self) -> String {
        let right = self.named(&self.correct);
        let mut texts: Vec<String> = right.map(|c| format!("{:?}", c.text)).collect();
        texts.sort();
        texts.join(" ")
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }
}
