//! A grid of cells, each of which reads typed maths; its size may be part of the answer.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::from_json;
use super::text_entry::{Field, PosedTextEntry, TextEntry};
use super::{Known, Member, Posed, Right, Shape, Shown, Spec, faulty, share, still};
use crate::answer::{AnswerBlock, Kind, NumberText, Tolerance};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::mark::Draft;
use crate::response::{LARGEST_GRID, Response};
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Matrix {
    pub label: String,
    /// The right cells, row by row; `{{name}}` may stand in them.
    pub rows: Vec<Vec<NumberText>>,
    /// The size is not given: choosing it is part of the answer.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub size_is_asked: bool,
    /// How each cell is read: a number, or an expression in `variables`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub variables: Option<Vec<String>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Tolerance>,
    /// What stands beside each row and above each column, if the grid is a table of something.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub row_names: Vec<String>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub column_names: Vec<String>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct GridSize {
    rows: usize,
    columns: usize,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct MatrixView {
    label: String,
    /// Rows and columns; nothing where the size is asked for.
    size: Option<GridSize>,
    /// Rows, and columns, that there can be.
    largest: usize,
    field: Field,
    row_names: Vec<String>,
    column_names: Vec<String>,
}

impl Matrix {
    fn cell(&self, key: &str) -> TextEntry {
        let kind = self.variables.as_ref().map_or(Kind::Number, |_| Kind::Expression);
        let mut block = AnswerBlock::plain(kind, key);
        block.variables.clone_from(&self.variables);
        block.tolerance.clone_from(&self.tolerance);
        TextEntry {
            answer: Box::new(block),
            label: self.label.clone(),
        }
    }

    fn columns(&self) -> usize {
        self.rows.first().map_or(0, Vec::len)
    }

    /// `2,3=5`: the cell in row 2 and column 3.
    fn place(&self, to: &str) -> Option<(usize, usize, String)> {
        let (cell, value) = to.split_once('=')?;
        let (row, column) = cell.split_once(',')?;
        let (row, column): (usize, usize) = (row.trim().parse().ok()?, column.trim().parse().ok()?);
        let is_there = (1..=self.rows.len()).contains(&row) && (1..=self.columns()).contains(&column);
        is_there.then(|| (row - 1, column - 1, value.trim().to_owned()))
    }
}

impl Spec for Matrix {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        let columns = self.columns();
        let fits = |n: usize| (1..=LARGEST_GRID).contains(&n);
        if !fits(self.rows.len()) || !fits(columns) || self.rows.iter().any(|r| r.len() != columns) {
            return Err(faulty(
                part,
                format!(
                    "a grid has 1 to {LARGEST_GRID} rows of 1 to {LARGEST_GRID} cells, all rows the same"
                ),
            ));
        }
        let named = |names: &Vec<String>, count: usize| names.is_empty() || names.len() == count;
        if !named(&self.row_names, self.rows.len()) || !named(&self.column_names, columns) {
            return Err(faulty(part, "there must be as many names as rows, or columns"));
        }
        if self.size_is_asked && !(self.row_names.is_empty() && self.column_names.is_empty()) {
            return Err(faulty(part, "names of rows and columns would give the size away"));
        }
        super::check_replies(part, replies, |to| self.place(to).is_some())
    }

    fn guess(&self, typed: f64) -> f64 {
        typed.powi(i32::try_from(self.rows.len() * self.columns()).unwrap_or(i32::MAX))
    }

    fn is_typed(&self) -> bool {
        true
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "matrix",
            ids: vec![format!("{} by {}", self.rows.len(), self.columns())],
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let mut cells = Vec::new();
        for row in &self.rows {
            let posed = row.iter().map(|key| self.cell(&key.text()).posed(part, set));
            cells.push(posed.collect::<Result<Vec<_>, _>>()?);
        }
        let names = |names: &[String]| names.iter().map(|n| set.words(n)).collect::<Result<Vec<_>, _>>();
        Ok(Box::new(PosedMatrix {
            cells,
            label: set.words(&self.label)?,
            size_is_asked: self.size_is_asked,
            is_rounded: self.tolerance.is_some(),
            row_names: names(&self.row_names)?,
            column_names: names(&self.column_names)?,
        }))
    }

    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        let (row, column, value) = self
            .place(to)
            .ok_or_else(|| RenderError::unfit("a reply to no cell"))?;
        let key = self
            .rows
            .get(row)
            .and_then(|r| r.get(column))
            .map(NumberText::text);
        let inner = self.cell(&key.unwrap_or_default()).known(part, &value, drawn)?;
        let mut grid = vec![vec![String::new(); self.columns()]; self.rows.len()];
        if let (Some(cell), Response::Text(text)) =
            (grid.get_mut(row).and_then(|r| r.get_mut(column)), &inner.response)
        {
            cell.clone_from(text);
        }
        Ok(Known {
            response: Response::Grid { grid },
            is_it: Box::new(move |r| match r {
                Response::Grid { grid } => grid
                    .get(row)
                    .and_then(|r| r.get(column))
                    .is_some_and(|given| (inner.is_it)(&Response::Text(given.clone()))),
                _ => false,
            }),
        })
    }
}

struct PosedMatrix {
    cells: Vec<Vec<PosedTextEntry>>,
    label: String,
    size_is_asked: bool,
    is_rounded: bool,
    row_names: Vec<String>,
    column_names: Vec<String>,
}

impl PosedMatrix {
    fn size(&self) -> (usize, usize) {
        (self.cells.len(), self.cells.first().map_or(0, Vec::len))
    }

    fn grid<'a>(&self, response: &'a Response) -> Option<&'a [Vec<String>]> {
        match response {
            Response::Grid { grid } => Some(grid),
            _ => None,
        }
    }

    fn fits(&self, grid: &[Vec<String>]) -> bool {
        let (rows, columns) = self.size();
        grid.len() == rows && grid.iter().all(|r| r.len() == columns)
    }

    /// Each cell with its marking and its name; blank ones have none.
    fn marked(&self, grid: &[Vec<String>]) -> Vec<(String, Option<Marking>)> {
        let mut all = Vec::new();
        for (i, (row, given)) in self.cells.iter().zip(grid).enumerate() {
            for (j, (cell, entry)) in row.iter().zip(given).enumerate() {
                let marking = match entry.trim() {
                    "" => None,
                    entry => cell.mark(&Response::Text(entry.to_owned())),
                };
                all.push((format!("{},{}", i + 1, j + 1), marking));
            }
        }
        all
    }

    fn filled(&self, with: impl Fn(&PosedTextEntry) -> Response) -> Response {
        let one = |cell: &PosedTextEntry| match with(cell) {
            Response::Text(t) => t,
            _ => String::new(),
        };
        let row = |row: &Vec<PosedTextEntry>| row.iter().map(one).collect();
        Response::Grid {
            grid: self.cells.iter().map(row).collect(),
        }
    }

    /// LaTeX of a grid, each cell as it reads.
    fn latex(&self, grid: &[Vec<String>]) -> String {
        let any = self.cells.first().and_then(|r| r.first());
        let cell = |entry: &String| {
            let read = any.and_then(|c| c.read(entry)).unwrap_or_default();
            if read.problem.is_none() {
                read.reads_as
            } else {
                format!(
                    "\\text{{{}}}",
                    entry.replace(['\\', '{', '}', '$', '&', '%', '#', '_', '^', '~'], " ")
                )
            }
        };
        let row = |row: &Vec<String>| row.iter().map(cell).collect::<Vec<_>>().join(" & ");
        let rows: Vec<String> = grid.iter().map(row).collect();
        format!("\\begin{{bmatrix}}{}\\end{{bmatrix}}", rows.join(" \\\\ "))
    }

    fn speech(&self, grid: &[Vec<String>]) -> String {
        let any = self.cells.first().and_then(|r| r.first());
        let cell = |entry: &String| {
            any.and_then(|c| c.read(entry))
                .map_or(entry.clone(), |r| r.speech)
        };
        let row = |(n, row): (usize, &Vec<String>)| {
            format!(
                "row {}: {}",
                n + 1,
                row.iter().map(cell).collect::<Vec<_>>().join(", ")
            )
        };
        grid.iter().enumerate().map(row).collect::<Vec<_>>().join("; ")
    }
}

impl Posed for PosedMatrix {
    fn shown(&self) -> Shown {
        let mut field = self
            .cells
            .first()
            .and_then(|r| r.first())
            .map(PosedTextEntry::field);
        if let Some(field) = field.as_mut().filter(|_| !self.is_rounded) {
            // That cells are exact goes without saying.
            field.wanted = None;
        }
        Shown::Matrix(MatrixView {
            label: self.label.clone(),
            size: (!self.size_is_asked).then(|| {
                let (rows, columns) = self.size();
                GridSize { rows, columns }
            }),
            largest: LARGEST_GRID.min(6),
            field: field.unwrap_or_default(),
            row_names: self.row_names.clone(),
            column_names: self.column_names.clone(),
        })
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let grid = self.grid(response)?;
        let empty = grid.iter().flatten().filter(|t| t.trim().is_empty()).count();
        if let Some(words) = still(empty, "cell", "cells", "empty") {
            return Some(words);
        }
        if !self.fits(grid) {
            return None;
        }
        self.marked(grid).into_iter().find_map(|(name, marking)| {
            let marking = marking?;
            let why = marking.notes.first().cloned().unwrap_or_default();
            let (row, column) = name.split_once(',')?;
            let open = !marking.outcome.is_judged() || marking.outcome == Outcome::WrongForm;
            open.then(|| format!("Row {row}, column {column}: {why}"))
        })
    }

    /// A share for each right cell; nothing where the size is another one.
    fn mark(&self, response: &Response) -> Option<Marking> {
        let grid = self.grid(response)?;
        let reads_as = self.latex(grid);
        let speech = self.speech(grid);
        let with = |marking: Marking| Marking {
            reads_as,
            speech,
            ..marking
        };
        if !self.fits(grid) {
            let words = "It has another number of rows or columns.";
            return Some(with(Marking::new(Outcome::Incorrect).note(words)));
        }
        let marked = self.marked(grid);
        let right = marked
            .iter()
            .filter(|(_, m)| m.as_ref().is_some_and(|m| m.score >= 1.0))
            .count();
        let marking = Marking::shared(share(right, 0, marked.len()));
        Some(with(match marking.outcome {
            Outcome::Partial => marking.note(format!("{right} of {} cells are right.", marked.len())),
            _ => marking,
        }))
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let grid = self.grid(response).filter(|g| self.fits(g)).unwrap_or_default();
        let one = |(id, marking): (String, Option<Marking>)| {
            let marking = marking?;
            Some(Member {
                id,
                right: marking.score >= 1.0,
                reads_as: marking.reads_as,
                speech: marking.speech,
                notes: marking.notes,
            })
        };
        self.marked(grid).into_iter().filter_map(one).collect()
    }

    fn key(&self) -> Response {
        self.filled(PosedTextEntry::key)
    }

    fn typed_key(&self) -> Response {
        self.filled(PosedTextEntry::best_key)
    }

    fn right(&self) -> Right {
        let Response::Grid { grid } = self.typed_key() else {
            return Right::default();
        };
        Right {
            latex: self.latex(&grid),
            speech: self.speech(&grid),
            choices: Vec::new(),
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let grid = self.grid(response).filter(|g| !g.is_empty());
        grid.map(|g| vec![vec![Inline::Math(self.latex(g))]])
            .unwrap_or_default()
    }

    fn in_words(&self, response: &Response) -> String {
        let rows = self.grid(response).unwrap_or_default().iter();
        rows.map(|r| r.join(", ")).collect::<Vec<_>>().join("; ")
    }

    fn read(&self, entry: &str) -> Option<Draft> {
        self.cells.first()?.first()?.read(entry)
    }

    fn is_readable(&self, response: &Response) -> bool {
        self.unfinished(response).is_none()
    }

    /// Rows with semicolons between them and cells with commas, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if text.trim_start().starts_with('{') {
            return from_json(text).filter(|r| matches!(r, Response::Grid { .. }));
        }
        let row = |row: &str| row.split(',').map(|cell| cell.trim().to_owned()).collect();
        Some(Response::Grid {
            grid: text.split(';').map(row).collect(),
        })
    }

    fn completed(&self, known: &Response) -> Response {
        let (Response::Grid { grid: known }, Response::Grid { mut grid }) = (known, self.typed_key()) else {
            return known.clone();
        };
        for (row, given) in grid.iter_mut().zip(known) {
            for (cell, given) in row.iter_mut().zip(given).filter(|(_, g)| !g.is_empty()) {
                cell.clone_from(given);
            }
        }
        Response::Grid { grid }
    }

    /// The last cell wrong.
    fn mistaken(&self) -> Response {
        let mut given = self.typed_key();
        let wrong = self
            .cells
            .last()
            .and_then(|r| r.last())
            .map(PosedTextEntry::mistaken);
        if let (Response::Grid { grid }, Some(Response::Text(wrong))) = (&mut given, wrong)
            && let Some(cell) = grid.last_mut().and_then(|r| r.last_mut())
        {
            *cell = wrong;
        }
        given
    }

    fn answer(&self) -> String {
        let row = |row: &Vec<PosedTextEntry>| row.iter().map(Posed::answer).collect::<Vec<_>>().join(",");
        self.cells.iter().map(row).collect::<Vec<_>>().join(";")
    }

    fn faults(&self) -> Vec<String> {
        self.cells.iter().flatten().flat_map(Posed::faults).collect()
    }
}
