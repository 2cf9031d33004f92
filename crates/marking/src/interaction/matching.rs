//! Rows joined to columns in a table, one or several a row (QTI's matchInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{agreeing, from_json, is_json};
use super::{
    Known, Member, Named, Posed, Right, Shape, Shown, ShownChoice, Spec, chance, check_ids, check_replies,
    faulty, joined, member_and_value, one_line, plain_line, pose_named, share, still, text_of,
};
use crate::bank::{Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Match {
    pub rows: Vec<MatchRow>,
    pub columns: Vec<Named>,
    /// A row may be joined to several columns, or to none.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub several: bool,
    /// Rows are shown in another order with each set.
    #[serde(default = "yes")]
    pub shuffle: bool,
}

fn yes() -> bool {
    true
}

/// A row, with the columns that it belongs to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MatchRow {
    pub id: String,
    pub text: String,
    pub to: Vec<String>,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct MatchView {
    rows: Vec<ShownChoice>,
    columns: Vec<ShownChoice>,
    several: bool,
}

impl Spec for Match {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        let ids = self.rows.iter().map(|r| r.id.as_str());
        check_ids(part, ids.chain(self.columns.iter().map(|c| c.id.as_str())))?;
        let is_column = |id: &String| self.columns.iter().any(|c| c.id == *id);
        for row in &self.rows {
            check_ids(part, row.to.iter().map(String::as_str))?;
            if let Some(id) = row.to.iter().find(|id| !is_column(id)) {
                return Err(faulty(
                    part,
                    format!("row `{}`: there is no column `{id}`", row.id),
                ));
            }
            if !self.several && row.to.len() != 1 {
                return Err(faulty(
                    part,
                    format!("row `{}` needs one column; or say `several: true`", row.id),
                ));
            }
        }
        if self.rows.iter().all(|r| r.to.is_empty()) {
            return Err(faulty(part, "no row belongs to a column"));
        }
        check_replies(part, replies, |to| {
            member_and_value(to).is_some_and(|(row, column)| {
                self.rows.iter().any(|r| r.id == row) && is_column(&column.to_owned())
            })
        })
    }

    fn guess(&self, _typed: f64) -> f64 {
        let cells = self.columns.len();
        let ways = |_| {
            if self.several {
                1usize << cells.min(20)
            } else {
                cells
            }
        };
        chance(self.rows.iter().map(ways))
    }

    fn shape(&self) -> Shape {
        let rows = self.rows.iter().map(|r| r.id.clone());
        Shape {
            kind: "match",
            ids: rows.chain(self.columns.iter().map(|c| c.id.clone())).collect(),
            shuffled: self.shuffle,
        }
    }

    fn may_vary(&self) -> bool {
        let rows = self.rows.iter().map(|r| &r.text);
        rows.chain(self.columns.iter().map(|c| &c.text))
            .any(|t| t.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let columns = pose_named(set, &self.columns)?;
        let mut rows = Vec::new();
        for row in &self.rows {
            let shown = ShownChoice {
                id: row.id.clone(),
                text: one_line(set.prose(&row.text)?)?,
            };
            rows.push((shown, row.to.clone()));
        }
        if self.shuffle {
            set.shuffle(&mut rows);
        }
        Ok(Box::new(PosedMatch {
            rows,
            columns,
            several: self.several,
            by_column: false,
            view: None,
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

pub(super) struct PosedMatch {
    pub rows: Vec<(ShownChoice, Vec<String>)>,
    pub columns: Vec<ShownChoice>,
    pub several: bool,
    /// One join for each column instead of each row.
    pub by_column: bool,
    /// How it is shown where it is no table.
    pub view: Option<Shown>,
}

impl PosedMatch {
    /// What was joined, row by row and column by column; each once.
    fn given<'a>(&'a self, response: &'a Response) -> Vec<(&'a ShownChoice, &'a ShownChoice, bool)> {
        let Response::Pairs { pairs } = response else {
            return Vec::new();
        };
        let mut all = Vec::new();
        for (row, right) in &self.rows {
            for column in &self.columns {
                if pairs.iter().any(|(r, c)| *r == row.id && *c == column.id) {
                    all.push((row, column, right.contains(&column.id)));
                }
            }
        }
        all
    }

    fn wanted(&self) -> usize {
        self.rows.iter().map(|(_, right)| right.len()).sum()
    }

    fn key_pairs(&self) -> Vec<(String, String)> {
        let row = |(row, right): &(ShownChoice, Vec<String>)| {
            let pairs = right.iter().map(|c| (row.id.clone(), c.clone()));
            pairs.collect::<Vec<_>>()
        };
        self.rows.iter().flat_map(row).collect()
    }
}

impl Posed for PosedMatch {
    fn shown(&self) -> Shown {
        self.view.clone().unwrap_or_else(|| {
            Shown::Match(MatchView {
                rows: self.rows.iter().map(|(row, _)| row.clone()).collect(),
                columns: self.columns.clone(),
                several: self.several,
            })
        })
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let Response::Pairs { pairs } = response else {
            return None;
        };
        if pairs.is_empty() {
            let words = if self.view.is_some() {
                "Nothing is marked yet."
            } else {
                "Nothing is joined yet."
            };
            return Some(words.into());
        }
        if self.several {
            return None;
        }
        if self.by_column {
            let in_column = |c: &ShownChoice| pairs.iter().filter(|(_, column)| *column == c.id).count();
            if self.columns.iter().any(|c| in_column(c) > 1) {
                return Some("A column can have one mark only.".into());
            }
            let open = self.columns.iter().filter(|c| in_column(c) == 0).count();
            return still(open, "column", "columns", "without a mark");
        }
        let in_row = |row: &ShownChoice| pairs.iter().filter(|(r, _)| *r == row.id).count();
        if self.rows.iter().any(|(row, _)| in_row(row) > 1) {
            return Some("A row can be joined to one column only.".into());
        }
        let open = self.rows.iter().filter(|(row, _)| in_row(row) == 0).count();
        still(open, "row", "rows", "open")
    }

    /// A share for each right join less each wrong one, never below nothing; one a row: a share for each right row.
    fn mark(&self, response: &Response) -> Option<Marking> {
        if !matches!(response, Response::Pairs { .. }) {
            return None;
        }
        let given = self.given(response);
        let right = given.iter().filter(|(_, _, r)| *r).count();
        let wrong = if self.several { given.len() - right } else { 0 };
        let marking = Marking::shared(share(right, wrong, self.wanted()));
        Some(match marking.outcome {
            Outcome::Partial => marking.note(format!("{right} of {} are right.", self.wanted())),
            _ => marking,
        })
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let one = |(row, column, right): (&ShownChoice, &ShownChoice, bool)| Member {
            id: format!("{}={}", row.id, column.id),
            right,
            ..Member::default()
        };
        self.given(response).into_iter().map(one).collect()
    }

    fn key(&self) -> Response {
        Response::Pairs {
            pairs: self.key_pairs(),
        }
    }

    fn right(&self) -> Right {
        Right {
            choices: self.chosen(&self.key()),
            ..Right::default()
        }
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let given = self.given(response).into_iter();
        given
            .map(|(row, column, _)| joined(&row.text, ": ", &column.text))
            .collect()
    }

    fn in_words(&self, response: &Response) -> String {
        self.chosen(response)
            .iter()
            .map(|l| plain_line(l))
            .collect::<Vec<_>>()
            .join("; ")
    }

    /// `row=column; row=column`, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Pairs { .. }));
        }
        let pair = |piece: &str| {
            let (row, column) = member_and_value(piece)?;
            let known =
                self.rows.iter().any(|(r, _)| r.id == row) && self.columns.iter().any(|c| c.id == column);
            known.then(|| (row.to_owned(), column.to_owned()))
        };
        let pairs = text.split(';').map(pair).collect::<Option<Vec<_>>>()?;
        Some(Response::Pairs { pairs })
    }

    fn completed(&self, known: &Response) -> Response {
        let Response::Pairs { pairs: known } = known else {
            return known.clone();
        };
        let mut pairs = self.key_pairs();
        let replaced = |(row, column): &(String, String)| {
            known
                .iter()
                .any(|(r, c)| if self.by_column { c == column } else { r == row })
        };
        pairs.retain(|pair| !replaced(pair));
        pairs.extend(known.iter().cloned());
        Response::Pairs { pairs }
    }

    /// The first row joined to another column.
    fn mistaken(&self) -> Response {
        let mut pairs = self.key_pairs();
        if self.by_column {
            // The first column's mark in another row.
            if let Some(first) = pairs.first_mut()
                && let Some((other, _)) = self.rows.iter().find(|(row, _)| row.id != first.0)
            {
                first.0.clone_from(&other.id);
            }
            return Response::Pairs { pairs };
        }
        if let Some((row, right)) = self.rows.iter().find(|(_, right)| !right.is_empty())
            && let Some(other) = self.columns.iter().find(|c| !right.contains(&c.id))
            && let Some(first) = pairs.iter_mut().find(|(r, _)| *r == row.id)
        {
            first.1.clone_from(&other.id);
        }
        Response::Pairs { pairs }
    }

    fn answer(&self) -> String {
        let mut lines: Vec<String> = self
            .key_pairs()
            .iter()
            .map(|(r, c)| {
                let row = self.rows.iter().find(|(row, _)| row.id == *r);
                let row = row.map(|(row, _)| plain_line(&row.text)).unwrap_or_default();
                format!("{row}: {}", plain_line(&text_of(&self.columns, c)))
            })
            .collect();
        lines.sort();
        lines.join(";")
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        if self.view.is_some() {
            return Vec::new();
        }
        let rows: Vec<ShownChoice> = self.rows.iter().map(|(row, _)| row.clone()).collect();
        [agreeing(&rows), agreeing(&self.columns)]
            .into_iter()
            .flatten()
            .collect()
    }
}
