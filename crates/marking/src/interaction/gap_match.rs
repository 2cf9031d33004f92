//! Tiles that are put into the gaps of a passage (QTI's gapMatchInteraction).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{PosedSlots, Slot, Slots, Takes};
use super::{
    Known, Named, Posed, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies, faulty, find,
    member_and_value, pose_named,
};
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set, gaps};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GapMatch {
    /// Markdown with `[[id]]` where a gap is, in a table too.
    pub passage: String,
    pub tiles: Vec<Named>,
    /// The tile, or the tiles, that are right in each gap.
    pub gaps: BTreeMap<String, OneOrMore>,
    /// A tile may be used in several gaps.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub reuse: bool,
    #[serde(default = "yes")]
    pub shuffle: bool,
}

fn yes() -> bool {
    true
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum OneOrMore {
    One(String),
    More(Vec<String>),
}

impl OneOrMore {
    pub(super) fn all(&self) -> Vec<String> {
        match self {
            OneOrMore::One(id) => vec![id.clone()],
            OneOrMore::More(ids) => ids.clone(),
        }
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GapMatchView {
    passage: Vec<Block>,
    /// In reading order.
    gaps: Vec<String>,
    tiles: Vec<ShownChoice>,
    reuse: bool,
}

impl Spec for GapMatch {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_ids(part, self.gaps.keys().map(String::as_str))?;
        check_tiles(
            part,
            &self.tiles,
            self.gaps.iter().map(|(id, right)| (id.as_str(), right.all())),
            self.reuse,
        )?;
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(gap, tile)| {
                self.gaps.contains_key(gap) && self.tiles.iter().any(|t| t.id == tile)
            })
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        guess(self.tiles.len(), self.gaps.len(), self.reuse)
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "gap_match",
            ids: self
                .gaps
                .keys()
                .cloned()
                .chain(self.tiles.iter().map(|t| t.id.clone()))
                .collect(),
            shuffled: self.shuffle,
        }
    }

    fn may_vary(&self) -> bool {
        self.tiles.iter().any(|t| t.text.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let passage = set.passage(&self.passage)?;
        let mut tiles = pose_named(set, &self.tiles)?;
        if self.shuffle {
            set.shuffle(&mut tiles);
        }
        let order: Vec<String> = gaps(&passage).map(|g| g.id.clone()).collect();
        let mut slots = Vec::new();
        for (number, id) in order.iter().enumerate() {
            let right = self.gaps.get(id);
            let right =
                right.ok_or_else(|| RenderError::unfit(&format!("the gap `{id}`, which is not listed,")))?;
            slots.push(Slot {
                id: id.clone(),
                label: vec![Inline::Text(format!("Gap {}", number + 1))],
                takes: Takes::OneOf {
                    from: tiles.clone(),
                    right: same_text(&tiles, right.all()),
                },
            });
        }
        if slots.len() != self.gaps.len() {
            return Err(RenderError::unfit(
                "a gap that is listed but not in the passage, or there twice,",
            ));
        }
        let shown = Shown::GapMatch(GapMatchView {
            passage,
            gaps: order,
            tiles,
            reuse: self.reuse,
        });
        let once = if self.reuse {
            Vec::new()
        } else {
            self.tiles.iter().map(|t| t.id.clone()).collect()
        };
        let noun = ("gap", "gaps", "empty");
        Ok(Box::new(PosedSlots {
            shown,
            faults: Vec::new(),
            slots: Slots { slots, noun, once },
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let (gap, tile) = member_and_value(to).unwrap_or_default();
        Ok(Slots::known_choice(gap, tile))
    }
}

/// What is right, and what cannot be told from it because it shows the same.
pub(super) fn same_text(all: &[ShownChoice], right: Vec<String>) -> Vec<String> {
    let like = |id: &String| {
        let text = find(all, id).map(|c| &c.text);
        all.iter()
            .filter(move |c| Some(&c.text) == text)
            .map(|c| c.id.clone())
    };
    let mut more: Vec<String> = right.iter().flat_map(like).collect();
    let mut right = right;
    more.retain(|id| !right.contains(id));
    right.extend(more);
    right
}

/// The chance of filling so many places from so many tiles.
pub(super) fn guess(tiles: usize, places: usize, reuse: bool) -> f64 {
    chance((0..places).map(|n| if reuse { tiles } else { tiles.saturating_sub(n) }))
}

/// Tiles whose ids fit, with enough of them for the places.
pub(super) fn check_tiles<'a>(
    part: &str,
    tiles: &[Named],
    places: impl Iterator<Item = (&'a str, Vec<String>)>,
    reuse: bool,
) -> Result<(), FormatError> {
    check_ids(part, tiles.iter().map(|t| t.id.as_str()))?;
    let mut first = Vec::new();
    for (place, right) in places {
        if right.is_empty() {
            return Err(faulty(part, format!("nothing is right in `{place}`")));
        }
        if let Some(id) = right.iter().find(|id| !tiles.iter().any(|t| t.id == **id)) {
            return Err(faulty(part, format!("`{place}`: there is no tile `{id}`")));
        }
        first.extend(right.first().cloned());
    }
    if first.is_empty() {
        return Err(faulty(part, "there is no place for a tile"));
    }
    let again = (1..first.len()).find(|n| first.iter().take(*n).any(|f| Some(f) == first.get(*n)));
    match again.and_then(|n| first.get(n)) {
        Some(id) if !reuse => Err(faulty(
            part,
            format!("the tile `{id}` is right in two places; say `reuse: true`"),
        )),
        _ => Ok(()),
    }
}
