//! Steps that are brought into order (QTI's orderInteraction).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{agreeing, from_json, is_json};
use super::{
    Known, Member, Named, Posed, Right, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies,
    faulty, member_and_value, plain_line, pose_named, share, still, text_of,
};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

/// More steps than this are too many to put in order, and to mark.
pub(super) const MOST_STEPS: usize = 12;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Order {
    /// In the right order.
    pub steps: Vec<Named>,
    /// Which steps must stand before a step. Where it is given, any order that keeps to it is right; where it is left out,
    /// only the order of the file is.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub after: BTreeMap<String, Vec<String>>,
    /// What stands at the top and at the bottom: "first", "lowest".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ends: Option<(String, String)>,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct OrderView {
    /// As they are shown at first; this order is not right.
    steps: Vec<ShownChoice>,
    top: String,
    bottom: String,
}

impl Spec for Order {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.steps.iter().map(|s| s.id.as_str()))?;
        if !(2..=MOST_STEPS).contains(&self.steps.len()) {
            return Err(faulty(part, format!("an order needs 2 to {MOST_STEPS} steps")));
        }
        let place = |id: &str| self.steps.iter().position(|s| s.id == id);
        for (step, before) in &self.after {
            for earlier in before {
                match (place(earlier), place(step)) {
                    (Some(a), Some(b)) if a < b => {}
                    (Some(_), Some(_)) => {
                        return Err(faulty(
                            part,
                            format!("`{earlier}` stands after `{step}` in the file, but must come before it"),
                        ));
                    }
                    _ => {
                        return Err(faulty(
                            part,
                            format!("`after` names a step that is not there: `{step}`, `{earlier}`"),
                        ));
                    }
                }
            }
        }
        if !self.after.is_empty() && self.after.values().all(Vec::is_empty) {
            return Err(faulty(part, "`after` says nothing: every order would be right"));
        }
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(a, b)| place(a).is_some() && place(b).is_some())
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        chance((1..=self.steps.len()).rev())
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "order",
            ids: self.steps.iter().map(|s| s.id.clone()).collect(),
            shuffled: true,
        }
    }

    fn may_vary(&self) -> bool {
        self.steps.iter().any(|s| s.text.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let right = pose_named(set, &self.steps)?;
        let order: Vec<String> = ids(&right);
        let before = closure(&order, &self.after);
        let mut posed = PosedOrder {
            shown: right.clone(),
            right,
            before,
            ends: self
                .ends
                .clone()
                .unwrap_or_else(|| ("first".into(), "last".into())),
            view: None,
            faults: Vec::new(),
        };
        for _ in 0..32 {
            set.shuffle(&mut posed.shown);
            if posed.score(&ids(&posed.shown)) < 1.0 {
                return Ok(Box::new(posed));
            }
        }
        // Luck has put it right each time: turned round, it is not.
        posed.shown = posed.right.iter().rev().cloned().collect();
        Ok(Box::new(posed))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let order: Vec<String> = self.steps.iter().map(|s| s.id.clone()).collect();
        Ok(known(&order, to))
    }
}

/// A step that stands before another: `a=b` is for `a` anywhere before `b`.
pub(super) fn known(right: &[String], to: &str) -> Known {
    let (first, second) = member_and_value(to).unwrap_or_default();
    let (first, second) = (first.to_owned(), second.to_owned());
    let mut order: Vec<String> = right.iter().filter(|id| **id != first).cloned().collect();
    let at = order.iter().position(|id| *id == second).unwrap_or(0);
    order.insert(at, first.clone());
    let place = |order: &[String], id: &String| order.iter().position(|o| o == id);
    Known {
        response: Response::Ordered { order },
        is_it: Box::new(move |r| match r {
            Response::Ordered { order } => {
                place(order, &first) < place(order, &second) && place(order, &first).is_some()
            }
            _ => false,
        }),
    }
}

fn ids(steps: &[ShownChoice]) -> Vec<String> {
    steps.iter().map(|s| s.id.clone()).collect()
}

/// For each step all that must stand before it.
pub(super) fn closure(
    steps: &[String],
    after: &BTreeMap<String, Vec<String>>,
) -> BTreeMap<String, Vec<String>> {
    let mut all: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (place, step) in steps.iter().enumerate() {
        let direct: Vec<String> = if after.is_empty() {
            steps.iter().take(place).cloned().collect()
        } else {
            after.get(step).cloned().unwrap_or_default()
        };
        let mut before = direct.clone();
        // Steps stand after what they need: what these need is known.
        for earlier in direct.iter().filter_map(|d| all.get(d)) {
            before.extend(earlier.iter().cloned());
        }
        before.sort();
        before.dedup();
        all.insert(step.clone(), before);
    }
    all
}

pub(super) struct PosedOrder {
    pub shown: Vec<ShownChoice>,
    pub right: Vec<ShownChoice>,
    /// For each step all that must stand before it.
    pub before: BTreeMap<String, Vec<String>>,
    pub ends: (String, String),
    /// How it is shown where it is no list.
    pub view: Option<Shown>,
    pub faults: Vec<String>,
}

impl PosedOrder {
    /// Whether two steps that are given in this order may stand so.
    fn may_stand(&self, first: &String, second: &str) -> bool {
        !self
            .before
            .get(first)
            .is_some_and(|b| b.iter().any(|id| id == second))
    }

    /// The most steps that stand in order among themselves, and which: by trying every set of them, 4,096 at most.
    fn longest(&self, order: &[String]) -> Vec<String> {
        let n = order.len().min(MOST_STEPS);
        let mut best: Vec<String> = Vec::new();
        for set in 0u32..(1 << n) {
            if (set.count_ones() as usize) <= best.len() {
                continue;
            }
            let kept: Vec<&String> = order
                .iter()
                .take(n)
                .enumerate()
                .filter(|(i, _)| set & (1 << i) != 0)
                .map(|(_, id)| id)
                .collect();
            let fits = kept.iter().enumerate().all(|(i, first)| {
                kept.iter()
                    .skip(i + 1)
                    .all(|second| self.may_stand(first, second))
            });
            if fits {
                best = kept.into_iter().cloned().collect();
            }
        }
        best
    }

    /// The longest run in order: 1 for all of it, 0 for a single step.
    fn score(&self, order: &[String]) -> f64 {
        let all = self.right.len();
        match self.longest(order).len() {
            run if run == all => 1.0,
            run => share(run, 1, all - 1),
        }
    }

    fn order<'a>(&self, response: &'a Response) -> Option<&'a [String]> {
        match response {
            Response::Ordered { order } => Some(order),
            _ => None,
        }
    }
}

impl Posed for PosedOrder {
    fn shown(&self) -> Shown {
        self.view.clone().unwrap_or_else(|| {
            Shown::Order(OrderView {
                steps: self.shown.clone(),
                top: self.ends.0.clone(),
                bottom: self.ends.1.clone(),
            })
        })
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let order = self.order(response)?;
        let missing = self.right.iter().filter(|s| !order.contains(&s.id)).count();
        if let Some(words) =
            still(missing, "place", "places", "without a number").filter(|_| self.view.is_some())
        {
            return Some(words);
        }
        let mut given = order.to_vec();
        given.sort();
        let mut wanted = ids(&self.right);
        wanted.sort();
        (given != wanted).then(|| "Every step has to be there once.".into())
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        let order = self.order(response)?;
        let score = self.score(order);
        let mut marking = Marking::shared(score);
        if marking.outcome == Outcome::Partial {
            let run = self.longest(order).len();
            marking = marking.note(format!(
                "{run} of {} steps are in the right order.",
                self.right.len()
            ));
        }
        Some(marking)
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let Some(order) = self.order(response) else {
            return Vec::new();
        };
        let run = self.longest(order);
        let one = |id: &String| Member {
            id: id.clone(),
            right: run.contains(id),
            ..Member::default()
        };
        order.iter().map(one).collect()
    }

    fn key(&self) -> Response {
        Response::Ordered {
            order: ids(&self.right),
        }
    }

    fn right(&self) -> Right {
        Right {
            choices: self.chosen(&self.key()),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let order = self.order(response).unwrap_or_default().iter().enumerate();
        let line = |(n, id): (usize, &String)| {
            let mut line = vec![Inline::Text(format!("{}. ", n + 1))];
            line.extend(text_of(&self.right, id));
            line
        };
        order.map(line).collect()
    }

    fn in_words(&self, response: &Response) -> String {
        self.chosen(response)
            .iter()
            .map(|l| plain_line(l))
            .collect::<Vec<_>>()
            .join("; ")
    }

    /// Ids with commas between them, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Ordered { .. }));
        }
        let order: Vec<String> = text.split(',').map(|id| id.trim().to_owned()).collect();
        let known = order.iter().all(|id| self.right.iter().any(|s| s.id == *id));
        known.then_some(Response::Ordered { order })
    }

    /// Two neighbours that have changed places where that is wrong.
    fn mistaken(&self) -> Response {
        let right = ids(&self.right);
        for n in (1..right.len()).rev() {
            let mut order = right.clone();
            order.swap(n - 1, n);
            if self.score(&order) < 1.0 {
                return Response::Ordered { order };
            }
        }
        Response::Ordered {
            order: right.into_iter().rev().collect(),
        }
    }

    fn answer(&self) -> String {
        self.right
            .iter()
            .map(|s| plain_line(&s.text))
            .collect::<Vec<_>>()
            .join(";")
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        let mut faults: Vec<String> = agreeing(&self.right)
            .into_iter()
            .chain(self.faults.iter().cloned())
            .collect();
        if self.score(&ids(&self.shown)) >= 1.0 {
            faults.push("the order is right as it is shown".into());
        }
        faults
    }
}
