//! Marks that are put on a figure of fixed rows and columns: a panel of switches, a strip, a plan of seats (QTI's
//! positionObjectInteraction, with a raster). Each mark can be corrected singly.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::matching::PosedMatch;
use super::{
    Known, Named, Posed, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies, faulty,
    member_and_value, pose_named,
};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set};
use crate::response::Response;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Place {
    pub look: Look,
    /// What the figure is.
    pub label: String,
    /// From top to bottom; a strip's rows are its lines and the spaces between them.
    pub rows: Vec<Named>,
    /// From left to right.
    pub columns: Vec<Named>,
    /// A row and a column for each mark.
    pub marks: Vec<(String, String)>,
    /// Each column takes one mark, as a switch has one position.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub one_per_column: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = PlaceLook)]
pub enum Look {
    /// Lines and spaces.
    Strip,
    /// Switches side by side.
    Panel,
    /// Cells.
    Cells,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlaceView {
    look: Look,
    label: String,
    rows: Vec<ShownChoice>,
    columns: Vec<ShownChoice>,
    one_per_column: bool,
}

impl Spec for Place {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        let ids = self.rows.iter().map(|r| r.id.as_str());
        check_ids(part, ids.chain(self.columns.iter().map(|c| c.id.as_str())))?;
        let is_cell = |row: &str, column: &str| {
            self.rows.iter().any(|r| r.id == row) && self.columns.iter().any(|c| c.id == column)
        };
        if self.marks.is_empty() {
            return Err(FormatError::NoneCorrect(part.to_owned()));
        }
        if let Some((row, column)) = self.marks.iter().find(|(r, c)| !is_cell(r, c)) {
            return Err(faulty(part, format!("there is no place `{row}`, `{column}`")));
        }
        let in_column = |id: &String| self.marks.iter().filter(|(_, c)| c == id).count();
        if self.one_per_column && self.columns.iter().any(|c| in_column(&c.id) != 1) {
            return Err(faulty(part, "each column has to have one mark"));
        }
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(row, column)| is_cell(row, column))
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        if self.one_per_column {
            return chance(self.columns.iter().map(|_| self.rows.len()));
        }
        let cells = self.rows.len() * self.columns.len();
        0.5f64.powi(i32::try_from(cells).unwrap_or(i32::MAX))
    }

    fn shape(&self) -> Shape {
        let rows = self.rows.iter().map(|r| r.id.clone());
        Shape {
            kind: "place",
            ids: rows.chain(self.columns.iter().map(|c| c.id.clone())).collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        false
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let (rows, columns) = (pose_named(set, &self.rows)?, pose_named(set, &self.columns)?);
        let right = |row: &ShownChoice| {
            let marks = self.marks.iter().filter(|(r, _)| *r == row.id);
            marks.map(|(_, c)| c.clone()).collect::<Vec<_>>()
        };
        let view = Shown::Place(PlaceView {
            look: self.look,
            label: set.words(&self.label)?,
            rows: rows.clone(),
            columns: columns.clone(),
            one_per_column: self.one_per_column,
        });
        Ok(Box::new(PosedMatch {
            rows: rows.into_iter().map(|r| (r.clone(), right(&r))).collect(),
            columns,
            several: !self.one_per_column,
            by_column: self.one_per_column,
            view: Some(view),
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let (row, column) = member_and_value(to).unwrap_or_default();
        let pair = (row.to_owned(), column.to_owned());
        let response = Response::Pairs {
            pairs: vec![pair.clone()],
        };
        Ok(Known {
            is_it: Box::new(move |r| matches!(r, Response::Pairs { pairs } if pairs.contains(&pair))),
            response,
        })
    }
}
