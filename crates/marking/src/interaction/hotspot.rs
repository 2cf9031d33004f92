//! Places that are marked on a picture (QTI's hotspotInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::choice::{PosedChoice, Scoring};
use super::picture::{PlacesView, Spot, check_spots, pose};
use super::{Known, Posed, Shape, Shown, Spec, check_replies, faulty};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::figure::Figure;
use crate::response::Response;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hotspot {
    pub picture: Box<Figure>,
    pub spots: Vec<Spot>,
    pub correct: Vec<String>,
    /// 1 for one place; 0 for any number of them.
    #[serde(default = "one")]
    pub max_choices: u32,
}

fn one() -> u32 {
    1
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct HotspotView {
    picture: PlacesView,
    several: bool,
}

impl Spec for Hotspot {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        check_spots(part, &self.spots)?;
        let is_spot = |id: &str| self.spots.iter().any(|s| s.id == id);
        if self.correct.is_empty() {
            return Err(FormatError::NoneCorrect(part.to_owned()));
        }
        if self.max_choices == 1 && self.correct.len() != 1 {
            return Err(FormatError::OneCorrect(part.to_owned()));
        }
        if let Some(id) = self.correct.iter().find(|id| !is_spot(id)) {
            return Err(faulty(part, format!("there is no place `{id}`")));
        }
        check_replies(part, replies, is_spot)
    }

    fn guess(&self, _typed: f64) -> f64 {
        let count = i32::try_from(self.spots.len()).unwrap_or(i32::MAX);
        if self.max_choices == 1 {
            1.0 / f64::from(count.max(1))
        } else {
            0.5f64.powi(count)
        }
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "hotspot",
            ids: self.spots.iter().map(|s| s.id.clone()).collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        false
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let picture = pose(set, &self.picture, &self.spots)?;
        Ok(Box::new(PosedChoice {
            shown: picture.named(),
            correct: self.correct.clone(),
            several: self.max_choices != 1,
            scoring: Scoring::default(),
            faults: picture.faults(),
            view: Some(Shown::Hotspot(HotspotView {
                picture,
                several: self.max_choices != 1,
            })),
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
