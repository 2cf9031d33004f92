//! How collections are typed: brackets, separators, rows, `±`, sums of basis vectors.

use maths::{
    Caution, CautionKind, Domain, Expr, Names, ReadError, ReadErrorKind, ReadOptions, Span, compare,
};

use super::{MembersRule, Rows};
use crate::answer::Kind;
use crate::mark::entry::{drop_name, is_blank, nothing_entered, shifted};
use crate::mark::split::{Piece, check_brackets, inside, says_nothing, split, without_full_stop};

impl MembersRule {
    pub(super) fn parse(&self, entry: &str) -> Result<(Rows, Vec<Caution>), ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        if entry.chars().count() > maths::MAX_CHARS {
            return Err(ReadError {
                kind: ReadErrorKind::TooLong,
                span: Span::new(maths::MAX_CHARS, maths::MAX_CHARS),
            });
        }
        let entry = &entry.replace('，', ",").replace('；', ";");
        let text = without_full_stop(entry);
        let text = self.measure.as_ref().map_or(text, |m| m.without_outer(text));
        if self.kind == Kind::Set && says_nothing(text) {
            return Ok((vec![Vec::new()], Vec::new()));
        }
        let angles = self.kind == Kind::Vector;
        let mut whole = Piece::new(text);
        // A name in front of the whole collection: `A = {1, 2}`, `v = <1, 2>`.
        let (rest, dropped) = drop_name(text);
        if dropped > 0 && rest.trim_start().starts_with(['(', '[', '{', '<', '⟨']) {
            whole = Piece {
                text: rest,
                at: dropped,
            };
        }
        check_brackets(whole, angles)?;
        let mut cautions = Vec::new();
        if let Some(names) = &self.basis_names
            && let Some(row) = self.by_basis(whole, names)?
        {
            return Ok((vec![row], cautions));
        }
        let rows = match self.kind {
            Kind::Matrix => self.matrix_rows(whole, &mut cautions)?,
            Kind::Set => vec![self.set_members(whole, &mut cautions)?],
            _ => {
                let opens: &[char] = match self.kind {
                    Kind::Vector => &['<', '⟨', '(', '['],
                    Kind::List => &['(', '[', '{'],
                    _ => &['(', '[', '<', '⟨'],
                };
                let inner = inside(&whole, opens).unwrap_or_else(|| whole.trimmed());
                vec![self.row(inner, &[',', ';'], &["and"], &mut cautions)?]
            }
        };
        Ok((rows, cautions))
    }

    fn row(
        &self,
        piece: Piece,
        signs: &[char],
        words: &[&str],
        cautions: &mut Vec<Caution>,
    ) -> Result<Vec<Expr>, ReadError> {
        note_commas(piece, cautions);
        let mut pieces = split(&piece, signs, words);
        // `y = -1, x = 2` names its coordinates: they are put in their order.
        let name = |p: &Piece| p.text.split_once('=').map(|(name, _)| name.trim().to_lowercase());
        let names: Vec<Option<String>> = pieces.iter().map(name).collect();
        let coordinates = |n: &Option<String>| matches!(n.as_deref(), Some("x" | "y" | "z"));
        if self.kind == Kind::Tuple && pieces.len() > 1 && names.iter().all(coordinates) {
            pieces.sort_by_key(name);
        }
        pieces
            .into_iter()
            .map(|p| self.member(p, None, cautions))
            .collect()
    }

    fn member(
        &self,
        piece: Piece,
        minus: Option<bool>,
        cautions: &mut Vec<Caution>,
    ) -> Result<Expr, ReadError> {
        let piece = piece.trimmed();
        if piece.text.is_empty() {
            return Err(piece.error(ReadErrorKind::StrayComma));
        }
        let (rest, dropped) = drop_name(piece.text);
        let options = ReadOptions {
            plus_minus: minus,
            ..self.options()
        };
        let reading = match &self.measure {
            Some(measure) => measure.read(rest, &options),
            None => maths::read_expression(rest, &options),
        }
        .map_err(|e| shifted(e, piece.at + dropped))?;
        cautions.extend(reading.cautions.into_iter().map(|mut c| {
            c.span = Span::new(c.span.start + piece.at + dropped, c.span.end + piece.at + dropped);
            c
        }));
        Ok(reading.tree)
    }

    /// `±` stands for two members.
    fn set_members(&self, whole: Piece, cautions: &mut Vec<Caution>) -> Result<Vec<Expr>, ReadError> {
        let inner = inside(&whole, &['{']).or_else(|| {
            // Round brackets go round a list of several, not round one value.
            inside(&whole, &['(', '[']).filter(|p| split(p, &[',', ';'], &[]).len() > 1)
        });
        let inner = inner.unwrap_or_else(|| whole.trimmed());
        note_commas(inner, cautions);
        let mut members = Vec::new();
        for piece in split(&inner, &[',', ';'], &["or", "and"]) {
            let both = piece.text.contains('±') || piece.text.contains("+-") || piece.text.contains("+/-");
            if both {
                members.push(self.member(piece, Some(false), cautions)?);
                members.push(self.member(piece, Some(true), &mut Vec::new())?);
            } else {
                members.push(self.member(piece, None, cautions)?);
            }
        }
        Ok(members)
    }

    fn matrix_rows(&self, whole: Piece, cautions: &mut Vec<Caution>) -> Result<Rows, ReadError> {
        let opens = ['[', '(', '{'];
        let inner = inside(&whole, &opens).unwrap_or_else(|| whole.trimmed());
        let nested = inner.text.trim_start().starts_with(opens)
            && split(&inner, &[',', ';', '\n'], &[])
                .iter()
                .all(|p| p.text.trim().is_empty() || inside(p, &opens).is_some());
        let rows: Vec<Piece> = if nested {
            let pieces = split(&inner, &[',', ';', '\n'], &[]);
            if let Some(bad) = pieces.iter().find(|p| p.text.trim().is_empty()) {
                return Err(bad.error(ReadErrorKind::StrayComma));
            }
            pieces.iter().filter_map(|p| inside(p, &opens)).collect()
        } else {
            split(&inner, &[';', '\n'], &[])
        };
        let mut table = Vec::new();
        for row in rows {
            let row = row.trimmed();
            if row.text.is_empty() {
                return Err(row.error(ReadErrorKind::StrayComma));
            }
            let by_comma = split(&row, &[','], &[]);
            let pieces = if by_comma.len() > 1 {
                by_comma
            } else {
                by_blanks(&row)
            };
            let members: Result<Vec<Expr>, ReadError> = pieces
                .into_iter()
                .map(|p| self.member(p, None, cautions))
                .collect();
            table.push(members?);
        }
        let width = table.first().map_or(0, Vec::len);
        if table.iter().any(|r| r.len() != width) {
            return Err(whole.error(ReadErrorKind::RowsUneven));
        }
        Ok(table)
    }

    /// `2i + 3j`: the coefficients of the basis. `None` if it is no sum of them.
    fn by_basis(&self, whole: Piece, names: &Names) -> Result<Option<Vec<Expr>>, ReadError> {
        let brackets =
            inside(&whole, &['<', '⟨', '(', '[']).is_some_and(|p| split(&p, &[','], &[]).len() > 1);
        if brackets || split(&whole, &[','], &[]).len() > 1 {
            return Ok(None);
        }
        let (rest, dropped) = drop_name(whole.text);
        let reading = maths::read_expression(rest, &ReadOptions::new(names))
            .map_err(|e| shifted(e, whole.at + dropped))?;
        let at = |chosen: Option<usize>| {
            self.basis
                .iter()
                .enumerate()
                .fold(reading.tree.clone(), |e, (i, name)| {
                    e.substitute(name, &Expr::whole(i64::from(chosen == Some(i))))
                })
        };
        let parts: Vec<Expr> = (0..self.basis.len()).map(|i| at(Some(i))).collect();
        // It must be the sum of its parts times the basis, and nothing else.
        let rebuilt = parts
            .iter()
            .zip(&self.basis)
            .fold(Expr::whole(0), |sum, (part, name)| {
                sum.plus(Expr::Group(Box::new(part.clone())).times(Expr::variable(name)))
            });
        let linear = compare(&reading.tree, &rebuilt, &Domain::default()).equal;
        if linear {
            Ok(Some(parts))
        } else {
            Err(whole.error(ReadErrorKind::WordsOnly))
        }
    }
}

/// `1,234` beside a list is two members.
fn note_commas(piece: Piece, cautions: &mut Vec<Caution>) {
    let parts = split(&piece, &[','], &[]);
    for pair in parts.windows(2) {
        if let [a, b] = pair {
            let tail = b.text;
            let group = tail.len() >= 3
                && tail.bytes().take(3).all(|c| c.is_ascii_digit())
                && !tail.chars().nth(3).is_some_and(|c| c.is_ascii_digit());
            let head: String = a
                .text
                .trim()
                .chars()
                .rev()
                .take_while(char::is_ascii_digit)
                .collect();
            if group
                && (1..=3).contains(&head.len())
                && a.text.trim().len() == head.len()
                && !a.text.ends_with(' ')
            {
                cautions.push(Caution {
                    kind: CautionKind::CommaParts,
                    span: Span::new(a.at, b.at + 3),
                });
            }
        }
    }
}

/// `1 2 3`: values with blanks between them; a sign with blanks on both sides joins.
fn by_blanks<'a>(row: &Piece<'a>) -> Vec<Piece<'a>> {
    let pieces: Vec<Piece<'a>> = split(row, &[' ', '\t'], &[])
        .into_iter()
        .filter(|p| !p.text.is_empty())
        .collect();
    let joins =
        |p: &Piece| p.text.chars().all(|c| "+-*/^−·×".contains(c)) || p.text.ends_with(['+', '*', '/', '^']);
    if pieces.iter().any(joins) || pieces.iter().any(|p| p.text.starts_with(['*', '/', '^'])) {
        return vec![*row];
    }
    pieces
}
