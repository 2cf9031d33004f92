//! Places on a picture that are labelled with tiles (QTI's graphicGapMatchInteraction).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::gap_match::{OneOrMore, check_tiles, guess, same_text};
use super::picture::{PlacesView, Spot, check_spots, pose};
use super::slots::{PosedSlots, Slot, Slots, Takes};
use super::{
    Known, Named, Posed, Shape, Shown, ShownChoice, Spec, check_replies, faulty, member_and_value, pose_named,
};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::figure::Figure;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GraphicGapMatch {
    pub picture: Box<Figure>,
    pub spots: Vec<Spot>,
    pub tiles: Vec<Named>,
    /// The tile, or the tiles, that are right at each place.
    pub right: BTreeMap<String, OneOrMore>,
    /// A tile may be used at several places.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub reuse: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GraphicGapMatchView {
    picture: PlacesView,
    tiles: Vec<ShownChoice>,
    reuse: bool,
}

impl Spec for GraphicGapMatch {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_spots(part, &self.spots)?;
        let is_spot = |id: &str| self.spots.iter().any(|s| s.id == id);
        if self.right.len() != self.spots.len() || !self.right.keys().all(|id| is_spot(id)) {
            return Err(faulty(part, "`right` has to name each place once"));
        }
        check_tiles(
            part,
            &self.tiles,
            self.right.iter().map(|(id, right)| (id.as_str(), right.all())),
            self.reuse,
        )?;
        check_replies(part, replies, |to| {
            member_and_value(to)
                .is_some_and(|(spot, tile)| is_spot(spot) && self.tiles.iter().any(|t| t.id == tile))
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        guess(self.tiles.len(), self.spots.len(), self.reuse)
    }

    fn shape(&self) -> Shape {
        let spots = self.spots.iter().map(|s| s.id.clone());
        Shape {
            kind: "graphic_gap_match",
            ids: spots.chain(self.tiles.iter().map(|t| t.id.clone())).collect(),
            shuffled: true,
        }
    }

    fn may_vary(&self) -> bool {
        self.tiles.iter().any(|t| t.text.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let picture = pose(set, &self.picture, &self.spots)?;
        let mut tiles = pose_named(set, &self.tiles)?;
        set.shuffle(&mut tiles);
        let mut slots = Vec::new();
        for spot in &self.spots {
            let right = self.right.get(&spot.id).map(OneOrMore::all).unwrap_or_default();
            slots.push(Slot {
                id: spot.id.clone(),
                label: vec![Inline::Text(set.words(&spot.label)?)],
                takes: Takes::OneOf {
                    from: tiles.clone(),
                    right: same_text(&tiles, right),
                },
            });
        }
        let once = if self.reuse {
            Vec::new()
        } else {
            self.tiles.iter().map(|t| t.id.clone()).collect()
        };
        let faults = picture.faults();
        let shown = Shown::GraphicGapMatch(GraphicGapMatchView {
            picture,
            tiles,
            reuse: self.reuse,
        });
        let noun = ("place", "places", "without a label");
        Ok(Box::new(PosedSlots {
            shown,
            slots: Slots { slots, noun, once },
            faults,
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let (spot, tile) = member_and_value(to).unwrap_or_default();
        Ok(Slots::known_choice(spot, tile))
    }
}
