//! Places on a picture that are brought into order (QTI's graphicOrderInteraction).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::order::{self, PosedOrder};
use super::picture::{PlacesView, Spot, check_spots, pose};
use super::{Known, Posed, Shape, Shown, Spec, chance, check_replies, faulty, member_and_value};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::figure::Figure;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GraphicOrder {
    pub picture: Box<Figure>,
    pub spots: Vec<Spot>,
    /// The ids of the places in the right order.
    pub order: Vec<String>,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GraphicOrderView {
    picture: PlacesView,
}

impl Spec for GraphicOrder {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_spots(part, &self.spots)?;
        let mut ids: Vec<&String> = self.spots.iter().map(|s| &s.id).collect();
        let mut order: Vec<&String> = self.order.iter().collect();
        ids.sort();
        order.sort();
        if ids != order || !(2..=order::MOST_STEPS).contains(&ids.len()) {
            return Err(faulty(
                part,
                "`order` has to name each place once, and two places at least",
            ));
        }
        let is_spot = |id: &str| self.order.iter().any(|o| o == id);
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(a, b)| is_spot(a) && is_spot(b))
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        chance((1..=self.order.len()).rev())
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "graphic_order",
            ids: self.spots.iter().map(|s| s.id.clone()).collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        false
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let picture = pose(set, &self.picture, &self.spots)?;
        let mut right = picture.named();
        right.sort_by_key(|c| self.order.iter().position(|o| *o == c.id));
        Ok(Box::new(PosedOrder {
            shown: right.iter().rev().cloned().collect(),
            before: order::closure(&self.order, &BTreeMap::new()),
            right,
            ends: (String::new(), String::new()),
            faults: picture.faults(),
            view: Some(Shown::GraphicOrder(GraphicOrderView { picture })),
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        Ok(order::known(&self.order, to))
    }
}
