//! Things on a picture that are crossed out, taken away, added or put into groups; what is left, added or grouped is counted.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{from_json, is_json};
use super::{Known, Posed, Right, Shape, Shown, Spec, faulty};
use crate::answer::NumberText;
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set, fill_key};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// More things than this cannot be counted on a picture.
const MOST: usize = 40;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Counters {
    pub thing: Thing,
    /// How many there are at first.
    pub start: NumberText,
    pub action: Action,
    /// How many are to be crossed out, taken away or added; with groups, how many go into each.
    pub count: NumberText,
    /// How many groups there are to be; what is over stays by itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub groups: Option<NumberText>,
    pub label: String,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = CountedThing)]
pub enum Thing {
    Bolt,
    Cell,
    Helmet,
    Lamp,
    Barrel,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = CountAction)]
pub enum Action {
    CrossOut,
    TakeAway,
    Add,
    Group,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CountersView {
    label: String,
    thing: Thing,
    start: usize,
    action: Action,
    /// The most that there can be.
    most: usize,
}

impl Counters {
    fn count(&self, set: &Set, given: &NumberText) -> Result<usize, RenderError> {
        let value = set.value(given)?;
        let fits = value >= 0.0 && value <= MOST as f64 && (value - value.round()).abs() < 1e-9;
        #[expect(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            reason = "from 0 to 40"
        )]
        let whole = value.round() as usize;
        if fits {
            Ok(whole)
        } else {
            Err(RenderError::unfit(&format!("a count of {value}")))
        }
    }
}

impl Spec for Counters {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        if (self.action == Action::Group) != self.groups.is_some() {
            return Err(faulty(part, "`groups` belongs to `action: group`"));
        }
        if self.label.trim().is_empty() {
            return Err(faulty(part, "the things need a label"));
        }
        match replies.first() {
            Some(reply) if self.action == Action::Group => Err(FormatError::ReplyToNothing {
                part: part.to_owned(),
                to: reply.to.clone(),
            }),
            _ => Ok(()),
        }
    }

    fn guess(&self, _typed: f64) -> f64 {
        1.0 / 12.0
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "counters",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let (start, count) = (self.count(set, &self.start)?, self.count(set, &self.count)?);
        let groups = self
            .groups
            .as_ref()
            .map(|g| self.count(set, g))
            .transpose()?
            .unwrap_or(0);
        let used = if self.action == Action::Group {
            count * groups
        } else {
            count
        };
        let enough = if self.action == Action::Add {
            start + count <= MOST
        } else {
            used <= start
        };
        if !enough || used == 0 {
            return Err(RenderError::unfit(
                "counters with nothing to do, or with too few things for it,",
            ));
        }
        Ok(Box::new(PosedCounters {
            view: CountersView {
                label: set.words(&self.label)?,
                thing: self.thing,
                start,
                action: self.action,
                most: MOST,
            },
            count,
            groups,
        }))
    }

    /// A wrong count.
    fn known(&self, _part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        let text = fill_key(to, drawn)?;
        let names = maths::Names::new([]).map_err(|e| RenderError::unfit(&e))?;
        let read = maths::read_expression(&text, &maths::ReadOptions::number(&names)).ok();
        let value = read
            .and_then(|r| maths::approximate(&r.tree).ok())
            .unwrap_or(-1.0);
        let count = (0..=MOST).find(|n| (*n as f64 - value).abs() < 1e-9);
        let count = count.ok_or_else(|| RenderError::unfit("a reply to no count"))?;
        Ok(Known {
            response: Response::Fields {
                fields: touched(self.action, count),
            },
            is_it: Box::new(move |r| matches!(r, Response::Fields { fields } if counted(fields) == count)),
        })
    }
}

/// So many things touched: the first ones, or added ones.
fn touched(action: Action, count: usize) -> BTreeMap<String, String> {
    let name = |n: usize| {
        if action == Action::Add {
            format!("a{n}")
        } else {
            n.to_string()
        }
    };
    (1..=count)
        .map(|n| {
            (
                name(n),
                if action == Action::Add {
                    "in".to_owned()
                } else {
                    "out".to_owned()
                },
            )
        })
        .collect()
}

fn counted(fields: &BTreeMap<String, String>) -> usize {
    fields.values().filter(|state| !state.is_empty()).count()
}

struct PosedCounters {
    view: CountersView,
    /// To be touched, or in each group.
    count: usize,
    groups: usize,
}

impl PosedCounters {
    fn is_thing(&self, id: &str) -> bool {
        match (self.view.action, id.strip_prefix('a')) {
            (Action::Add, Some(n)) => n.parse::<usize>().is_ok_and(|n| (1..=MOST).contains(&n)),
            (Action::Add, None) | (_, Some(_)) => false,
            (_, None) => id
                .parse::<usize>()
                .is_ok_and(|n| (1..=self.view.start).contains(&n)),
        }
    }

    /// What is in each group, by its name.
    fn sizes(fields: &BTreeMap<String, String>) -> BTreeMap<&str, usize> {
        let mut sizes = BTreeMap::new();
        for state in fields.values().filter(|s| !s.is_empty()) {
            *sizes.entry(state.as_str()).or_insert(0) += 1;
        }
        sizes
    }

    fn words(&self, fields: &BTreeMap<String, String>) -> String {
        let n = counted(fields);
        match self.view.action {
            Action::CrossOut => format!("{n} crossed out, {} left", self.view.start.saturating_sub(n)),
            Action::TakeAway => format!("{n} taken away, {} left", self.view.start.saturating_sub(n)),
            Action::Add => format!("{n} added, {} in all", self.view.start + n),
            Action::Group => {
                let sizes: Vec<String> = Self::sizes(fields).values().map(usize::to_string).collect();
                let rest = self.view.start.saturating_sub(n);
                format!("groups of {}; {rest} over", sizes.join(", "))
            }
        }
    }
}

impl Posed for PosedCounters {
    fn shown(&self) -> Shown {
        Shown::Counters(self.view.clone())
    }

    /// The count is right or not; of groups, a share for each that has the right number, less those too many.
    fn mark(&self, response: &Response) -> Option<Marking> {
        let Response::Fields { fields } = response else {
            return None;
        };
        if fields.keys().any(|id| !self.is_thing(id)) {
            return Some(
                Marking::new(Outcome::Unreadable).note("This answer does not belong to this question."),
            );
        }
        if counted(fields) == 0 {
            return Some(Marking::new(Outcome::Unfinished).note("You have not changed anything yet."));
        }
        if self.view.action != Action::Group {
            let right = counted(fields) == self.count;
            return Some(Marking::new(if right {
                Outcome::Correct
            } else {
                Outcome::Incorrect
            }));
        }
        let sizes = Self::sizes(fields);
        let right = sizes.values().filter(|n| **n == self.count).count();
        let wrong = sizes.len() - right + right.saturating_sub(self.groups);
        Some(Marking::shared(super::share(
            right.min(self.groups),
            wrong,
            self.groups,
        )))
    }

    fn key(&self) -> Response {
        if self.view.action != Action::Group {
            return Response::Fields {
                fields: touched(self.view.action, self.count),
            };
        }
        let group = |n: usize| format!("g{}", (n - 1) / self.count.max(1) + 1);
        Response::Fields {
            fields: (1..=self.count * self.groups)
                .map(|n| (n.to_string(), group(n)))
                .collect(),
        }
    }

    fn right(&self) -> Right {
        Right {
            choices: self.chosen(&self.key()),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        match response {
            Response::Fields { fields } => vec![vec![Inline::Text(self.words(fields))]],
            _ => Vec::new(),
        }
    }

    fn in_words(&self, response: &Response) -> String {
        match response {
            Response::Fields { fields } => self.words(fields),
            _ => String::new(),
        }
    }

    /// A count, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Fields { .. }));
        }
        let count = text.trim().parse::<usize>().ok().filter(|n| *n <= MOST)?;
        Some(Response::Fields {
            fields: touched(self.view.action, count),
        })
    }

    /// One too few, or too many where that would be none.
    fn mistaken(&self) -> Response {
        let Response::Fields { mut fields } = self.key() else {
            return self.key();
        };
        if fields.len() > 1 {
            fields.pop_last();
            return Response::Fields { fields };
        }
        Response::Fields {
            fields: touched(self.view.action, self.count + 1),
        }
    }

    fn answer(&self) -> String {
        self.in_words(&self.key())
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }
}
