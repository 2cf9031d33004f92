//! Items that are joined in pairs (QTI's associateInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{agreeing, from_json, is_json};
use super::{
    Known, Member, Named, Posed, Right, Shape, Shown, ShownChoice, Spec, check_ids, check_replies, faulty,
    joined, member_and_value, plain_line, pose_named, share, still, text_of,
};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Associate {
    pub items: Vec<Named>,
    /// Which belong together, two ids each; an item that is in no pair stays alone.
    pub pairs: Vec<(String, String)>,
    #[serde(default = "yes")]
    pub shuffle: bool,
}

fn yes() -> bool {
    true
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct AssociateView {
    items: Vec<ShownChoice>,
    /// How many pairs are asked for.
    pairs: usize,
}

impl Spec for Associate {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.items.iter().map(|i| i.id.as_str()))?;
        let is_item = |id: &str| self.items.iter().any(|i| i.id == id);
        let ends = self.pairs.iter().flat_map(|(a, b)| [a.as_str(), b.as_str()]);
        check_ids(part, ends.clone())?;
        if self.pairs.is_empty() {
            return Err(faulty(part, "nothing belongs together"));
        }
        if let Some(id) = ends.into_iter().find(|id| !is_item(id)) {
            return Err(faulty(part, format!("there is no item `{id}`")));
        }
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(a, b)| is_item(a) && is_item(b))
        })
    }

    /// So many pairs out of so many items, in any order.
    fn guess(&self, _typed: f64) -> f64 {
        let mut left = self.items.len();
        let mut ways = 1.0;
        for n in 1..=self.pairs.len() {
            let two = left * left.saturating_sub(1) / 2;
            ways *= f64::from(u32::try_from(two.max(1)).unwrap_or(u32::MAX))
                / f64::from(u32::try_from(n).unwrap_or(1));
            left = left.saturating_sub(2);
        }
        1.0 / f64::max(ways, 1.0)
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "associate",
            ids: self.items.iter().map(|i| i.id.clone()).collect(),
            shuffled: self.shuffle,
        }
    }

    fn may_vary(&self) -> bool {
        self.items.iter().any(|i| i.text.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let mut items = pose_named(set, &self.items)?;
        if self.shuffle {
            set.shuffle(&mut items);
        }
        Ok(Box::new(PosedAssociate {
            items,
            right: self.pairs.clone(),
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let (a, b) = member_and_value(to).unwrap_or_default();
        let pair = (a.to_owned(), b.to_owned());
        let response = Response::Pairs {
            pairs: vec![pair.clone()],
        };
        Ok(Known {
            is_it: Box::new(
                move |r| matches!(r, Response::Pairs { pairs } if pairs.iter().any(|p| is_pair(p, &pair))),
            ),
            response,
        })
    }
}

/// The same two, whichever is named first.
fn is_pair(a: &(String, String), b: &(String, String)) -> bool {
    a == b || (a.0 == b.1 && a.1 == b.0)
}

struct PosedAssociate {
    items: Vec<ShownChoice>,
    right: Vec<(String, String)>,
}

impl PosedAssociate {
    fn is_right(&self, pair: &(String, String)) -> bool {
        self.right.iter().any(|r| is_pair(r, pair))
    }

    /// What was joined, each pair once.
    fn given<'a>(&self, response: &'a Response) -> Vec<&'a (String, String)> {
        let Response::Pairs { pairs } = response else {
            return Vec::new();
        };
        let mut all: Vec<&(String, String)> = Vec::new();
        for pair in pairs {
            if !all.iter().any(|known| is_pair(known, pair)) {
                all.push(pair);
            }
        }
        all
    }

    fn line(&self, pair: &(String, String)) -> Vec<Inline> {
        joined(
            &text_of(&self.items, &pair.0),
            " \u{2013} ",
            &text_of(&self.items, &pair.1),
        )
    }
}

impl Posed for PosedAssociate {
    fn shown(&self) -> Shown {
        Shown::Associate(AssociateView {
            items: self.items.clone(),
            pairs: self.right.len(),
        })
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let Response::Pairs { pairs } = response else {
            return None;
        };
        let given = self.given(response);
        let uses = |item: &ShownChoice| {
            pairs
                .iter()
                .flat_map(|(a, b)| [a, b])
                .filter(|id| **id == item.id)
                .count()
        };
        if let Some(item) = self.items.iter().find(|i| uses(i) > 1) {
            return Some(format!(
                "\u{201c}{}\u{201d} can be in one pair only.",
                plain_line(&item.text)
            ));
        }
        if given.len() > self.right.len() {
            return Some(format!(
                "There are too many pairs: {} are asked for.",
                self.right.len()
            ));
        }
        still(self.right.len() - given.len(), "pair", "pairs", "missing")
    }

    /// A share for each right pair.
    fn mark(&self, response: &Response) -> Option<Marking> {
        if !matches!(response, Response::Pairs { .. }) {
            return None;
        }
        let right = self
            .given(response)
            .into_iter()
            .filter(|p| self.is_right(p))
            .count();
        let marking = Marking::shared(share(right, 0, self.right.len()));
        Some(match marking.outcome {
            Outcome::Partial => marking.note(format!("{right} of {} are right.", self.right.len())),
            _ => marking,
        })
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let one = |pair: &(String, String)| Member {
            id: format!("{}={}", pair.0, pair.1),
            right: self.is_right(pair),
            ..Member::default()
        };
        self.given(response).into_iter().map(one).collect()
    }

    fn key(&self) -> Response {
        Response::Pairs {
            pairs: self.right.clone(),
        }
    }

    fn right(&self) -> Right {
        Right {
            choices: self.right.iter().map(|p| self.line(p)).collect(),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        self.given(response).into_iter().map(|p| self.line(p)).collect()
    }

    fn in_words(&self, response: &Response) -> String {
        self.chosen(response)
            .iter()
            .map(|l| plain_line(l))
            .collect::<Vec<_>>()
            .join("; ")
    }

    /// `item=item; item=item`, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Pairs { .. }));
        }
        let pair = |piece: &str| {
            let (a, b) = member_and_value(piece)?;
            let known = |id: &str| self.items.iter().any(|i| i.id == id);
            (known(a) && known(b)).then(|| (a.to_owned(), b.to_owned()))
        };
        let pairs = text.split(';').map(pair).collect::<Option<Vec<_>>>()?;
        Some(Response::Pairs { pairs })
    }

    /// The two joined, and those that they were taken from.
    fn completed(&self, known: &Response) -> Response {
        let Response::Pairs { pairs: known } = known else {
            return known.clone();
        };
        let mut pairs = self.right.clone();
        for (a, b) in known {
            let is_in = |p: &(String, String)| [&p.0, &p.1].into_iter().any(|id| id == a || id == b);
            let mut left: Vec<String> = Vec::new();
            for pair in pairs.iter().filter(|p| is_in(p)) {
                left.extend(
                    [&pair.0, &pair.1]
                        .into_iter()
                        .filter(|id| *id != a && *id != b)
                        .cloned(),
                );
            }
            pairs.retain(|p| !is_in(p));
            pairs.push((a.clone(), b.clone()));
            if let [c, d] = left.as_slice() {
                pairs.push((c.clone(), d.clone()));
            }
        }
        Response::Pairs { pairs }
    }

    /// Two pairs that have changed partners; of one pair, another item in it.
    fn mistaken(&self) -> Response {
        let mut pairs = self.right.clone();
        match pairs.as_mut_slice() {
            [first, second, ..] => std::mem::swap(&mut first.1, &mut second.1),
            [only] => {
                let other = self.items.iter().find(|i| i.id != only.0 && i.id != only.1);
                if let Some(other) = other {
                    only.1.clone_from(&other.id);
                }
            }
            [] => {}
        }
        Response::Pairs { pairs }
    }

    fn answer(&self) -> String {
        let ends = |p: &(String, String)| {
            let mut ends = [
                plain_line(&text_of(&self.items, &p.0)),
                plain_line(&text_of(&self.items, &p.1)),
            ];
            ends.sort();
            ends.join(" - ")
        };
        let mut lines: Vec<String> = self.right.iter().map(ends).collect();
        lines.sort();
        lines.join(";")
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        agreeing(&self.items).into_iter().collect()
    }
}
