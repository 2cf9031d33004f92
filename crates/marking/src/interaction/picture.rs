//! A picture with places on it: what the kinds that mark, order and label places have in common.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{ShownChoice, check_ids};
use crate::answer::NumberText;
use crate::bank::{FormatError, RenderError, Set};
use crate::figure::{Drawing, Figure};

/// A place on a picture, in the figure's own units.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Spot {
    pub id: String,
    /// What the place is called, for whoever does not see it; it must not give the answer away.
    pub label: String,
    pub at: (NumberText, NumberText),
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlacesView {
    pub(super) drawing: Drawing,
    pub(super) spots: Vec<SpotView>,
}

/// A place, in pixels of the drawing.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SpotView {
    id: String,
    label: String,
    x: f64,
    y: f64,
}

pub(super) fn check_spots(part: &str, spots: &[Spot]) -> Result<(), FormatError> {
    check_ids(part, spots.iter().map(|s| s.id.as_str()))?;
    match spots.iter().find(|s| s.label.trim().is_empty()) {
        Some(spot) => Err(super::faulty(
            part,
            format!("the place `{}` needs a label", spot.id),
        )),
        None => Ok(()),
    }
}

pub(super) fn pose(set: &Set, figure: &Figure, spots: &[Spot]) -> Result<PlacesView, RenderError> {
    let drawn = figure.draw(set)?;
    let mut shown = Vec::with_capacity(spots.len());
    for spot in spots {
        let (x, y) = (set.value(&spot.at.0)?, set.value(&spot.at.1)?);
        let (x, y) = (drawn.place)(x, y);
        shown.push(SpotView {
            id: spot.id.clone(),
            label: set.words(&spot.label)?,
            x,
            y,
        });
    }
    Ok(PlacesView {
        drawing: drawn.drawing(),
        spots: shown,
    })
}

impl PlacesView {
    /// The places by their names.
    pub(super) fn named(&self) -> Vec<ShownChoice> {
        let one = |s: &SpotView| ShownChoice {
            id: s.id.clone(),
            text: vec![crate::bank::Inline::Text(s.label.clone())],
        };
        self.spots.iter().map(one).collect()
    }

    /// Places that lie on each other, or off the picture.
    pub(super) fn faults(&self) -> Vec<String> {
        let mut faults = Vec::new();
        let (width, height) = (f64::from(self.drawing.width), f64::from(self.drawing.height));
        for (n, a) in self.spots.iter().enumerate() {
            if !(0.0..=width).contains(&a.x) || !(0.0..=height).contains(&a.y) {
                faults.push(format!("the place `{}` is off the picture", a.label));
            }
            for b in self.spots.iter().skip(n + 1) {
                if (a.x - b.x).hypot(a.y - b.y) < 28.0 {
                    faults.push(format!(
                        "the places `{}` and `{}` are too close to be told apart",
                        a.label, b.label
                    ));
                }
            }
        }
        faults
    }
}
