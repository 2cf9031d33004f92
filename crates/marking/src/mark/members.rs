//! Sets, lists, tuples, vectors and matrices: members side by side.

use maths::{
    Caution, CautionKind, Comma, Domain, Equality, Expr, Names, ReadError, ReadErrorKind, ReadOptions, Span,
    compare,
};

use super::entry::{drop_name, is_blank, nothing_entered, shifted};
use super::split::{Piece, check_brackets, inside, says_nothing, split, without_full_stop};
use super::{Shown, domain_of, names_of, without_value};
use crate::answer::{AnswerBlock, FaultyBlock, Kind, UpTo};
use crate::verdict::{Marking, Outcome, Slip};

/// How a collection is marked.
pub(crate) struct MembersRule {
    kind: Kind,
    names: Names,
    basis: Vec<String>,
    basis_names: Option<Names>,
    /// Rows of the key; all but matrices have one.
    key: Vec<Vec<Expr>>,
    domain: Domain,
    partial: bool,
    up_to_factor: bool,
}

type Rows = Vec<Vec<Expr>>;

impl MembersRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let variables = block.variables.clone().unwrap_or_default();
        let names = names_of(&variables, block.complex)?;
        let domain = domain_of(block, &names)?;
        let basis = block.basis.clone().unwrap_or_default();
        let basis_names = if basis.is_empty() {
            None
        } else {
            let all: Vec<String> = variables.iter().chain(&basis).cloned().collect();
            Some(names_of(&all, false)?)
        };
        let mut rule = MembersRule {
            kind: block.kind,
            names,
            basis,
            basis_names,
            key: Vec::new(),
            domain,
            partial: block.partial,
            up_to_factor: block.up_to == Some(UpTo::Factor),
        };
        let text = block.key.text();
        let unreadable = |why: String| FaultyBlock::KeyUnreadable {
            key: text.clone(),
            why,
        };
        let (rows, _) = rule
            .parse(&text)
            .map_err(|e| unreadable(maths::error_words(&e.kind)))?;
        for member in rows.iter().flatten() {
            maths::has_value(member).map_err(|_| FaultyBlock::KeyWithoutValue { key: text.clone() })?;
        }
        let is_empty = rows.iter().all(Vec::is_empty);
        if is_empty && rule.kind != Kind::Set {
            return Err(unreadable("it has no members".into()));
        }
        rule.key = rows;
        if rule.kind == Kind::Set {
            rule.key = vec![rule.distinct(rule.key.first().cloned().unwrap_or_default())];
        }
        Ok(rule)
    }

    fn options(&self) -> ReadOptions<'_> {
        ReadOptions {
            comma: Comma::Separator,
            ..ReadOptions::number(&self.names)
        }
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (rows, cautions) = self.parse(entry)?;
        Ok(self.show(&rows, &cautions))
    }

    fn show(&self, rows: &Rows, cautions: &[Caution]) -> Shown {
        let list = |row: &Vec<Expr>, one: fn(&Expr) -> String, between: &str| {
            row.iter().map(one).collect::<Vec<_>>().join(between)
        };
        let row = rows.first().cloned().unwrap_or_default();
        let (latex, speech) = match self.kind {
            Kind::Matrix => {
                let body: Vec<String> = rows.iter().map(|r| list(r, maths::latex, " & ")).collect();
                let spoken: Vec<String> = rows.iter().map(|r| list(r, maths::speech, ", ")).collect();
                let latex = format!("\\begin{{pmatrix}}{}\\end{{pmatrix}}", body.join(" \\\\ "));
                (latex, format!("matrix, row {}", spoken.join("; row ")))
            }
            Kind::Set if row.is_empty() => ("\\varnothing".into(), "no solution".into()),
            _ => {
                let (open, close, word) = match self.kind {
                    Kind::Set => ("\\left\\{", "\\right\\}", "set "),
                    Kind::Vector => ("\\left\\langle ", "\\right\\rangle", "vector "),
                    Kind::List => ("", "", ""),
                    _ => ("\\left(", "\\right)", "point "),
                };
                let latex = format!("{open}{}{close}", list(&row, maths::latex, ",\\; "));
                (latex, format!("{word}{}", list(&row, maths::speech, ", ")))
            }
        };
        Shown {
            latex,
            speech,
            cautions: cautions.to_vec(),
        }
    }

    fn parse(&self, entry: &str) -> Result<(Rows, Vec<Caution>), ReadError> {
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
        let reading = maths::read_expression(rest, &options).map_err(|e| shifted(e, piece.at + dropped))?;
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

    fn same(&self, a: &Expr, b: &Expr) -> Equality {
        compare(a, b, &self.domain)
    }

    fn distinct(&self, members: Vec<Expr>) -> Vec<Expr> {
        let mut kept: Vec<Expr> = Vec::new();
        for member in members {
            if !kept.iter().any(|k| self.same(k, &member).equal) {
                kept.push(member);
            }
        }
        kept
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (rows, cautions) = match self.parse(entry) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = self.show(&rows, &cautions);
        for member in rows.iter().flatten() {
            if let Err(why) = maths::has_value(member) {
                return shown.onto(without_value(why, entry.chars().count()));
            }
        }
        shown.onto(if self.kind == Kind::Set {
            self.mark_set(&rows)
        } else {
            self.mark_in_order(&rows)
        })
    }

    fn mark_set(&self, rows: &Rows) -> Marking {
        let key = self.key.first().map_or(&[][..], Vec::as_slice);
        let mine = self.distinct(rows.first().cloned().unwrap_or_default());
        let right = mine
            .iter()
            .filter(|m| key.iter().any(|k| self.same(k, m).equal))
            .count();
        let extra = mine.len() - right;
        let missing = key.len() - right;
        if missing == 0 && extra == 0 {
            return Marking::new(Outcome::Correct);
        }
        let sign = mine.len() == key.len()
            && !key.is_empty()
            && mine
                .iter()
                .all(|m| key.iter().any(|k| self.same(&k.clone().negate(), m).equal));
        let slip = match (missing, extra) {
            _ if sign => Some(Slip::Sign),
            (_, 0) if right > 0 => Some(Slip::MissingMember),
            (0, _) if right > 0 => Some(Slip::ExtraMember),
            _ => None,
        };
        self.shared(right.saturating_sub(extra), key.len()).slipped(slip)
    }

    /// A share of the score, if shares are given.
    fn shared(&self, right: usize, of: usize) -> Marking {
        if !self.partial || right == 0 || of == 0 {
            return Marking::new(Outcome::Incorrect);
        }
        let mut marking = Marking::new(Outcome::Partial);
        #[expect(clippy::cast_precision_loss, reason = "members of one answer")]
        let share = right as f64 / of as f64;
        marking.score = share;
        marking
    }

    fn mark_in_order(&self, rows: &Rows) -> Marking {
        let size = |rows: &Rows| (rows.len(), rows.first().map_or(0, Vec::len));
        if size(rows) != size(&self.key) {
            let (r, c) = size(rows);
            let transposed = self.kind == Kind::Matrix && self.is_transposed(rows);
            let note = if self.kind == Kind::Matrix {
                format!("This matrix has {r} rows and {c} columns; another size is wanted.")
            } else {
                format!("There are {c} values here; another number of them is wanted.")
            };
            return Marking::new(Outcome::Incorrect)
                .note(note)
                .slipped(transposed.then_some(Slip::Swapped));
        }
        let pairs: Vec<(&Expr, &Expr)> = self.key.iter().flatten().zip(rows.iter().flatten()).collect();
        if self.up_to_factor && self.is_multiple(&pairs) {
            return Marking::new(Outcome::Correct);
        }
        let right = pairs.iter().filter(|(k, m)| self.same(k, m).equal).count();
        if right == pairs.len() && !pairs.is_empty() && !self.up_to_factor {
            return Marking::new(Outcome::Correct);
        }
        let slip = self.slip_in_order(rows, &pairs);
        self.shared(right, pairs.len()).slipped(slip)
    }

    fn slip_in_order(&self, rows: &Rows, pairs: &[(&Expr, &Expr)]) -> Option<Slip> {
        if pairs
            .iter()
            .all(|(k, m)| self.same(&(*k).clone().negate(), m).equal)
        {
            return Some(Slip::Sign);
        }
        let signs_off = pairs
            .iter()
            .filter(|(k, m)| !self.same(k, m).equal)
            .collect::<Vec<_>>();
        if let [(k, m)] = signs_off.as_slice()
            && pairs.len() > 1
            && self.same(&(*k).clone().negate(), m).equal
        {
            return Some(Slip::Sign);
        }
        let swapped = if self.kind == Kind::Matrix {
            self.is_transposed(rows)
        } else {
            let mut left: Vec<&Expr> = pairs.iter().map(|(k, _)| *k).collect();
            pairs
                .iter()
                .all(|(_, m)| match left.iter().position(|k| self.same(k, m).equal) {
                    Some(i) => {
                        left.remove(i);
                        true
                    }
                    None => false,
                })
        };
        swapped.then_some(Slip::Swapped)
    }

    fn is_transposed(&self, rows: &Rows) -> bool {
        let width = rows.first().map_or(0, Vec::len);
        self.key.len() == width
            && self.key.iter().enumerate().all(|(i, row)| {
                row.len() == rows.len()
                    && row.iter().enumerate().all(|(j, k)| {
                        rows.get(j)
                            .and_then(|r| r.get(i))
                            .is_some_and(|m| self.same(k, m).equal)
                    })
            })
    }

    /// entry = factor · key for one factor that is not zero: all 2×2 minors vanish, and the same places are zero.
    fn is_multiple(&self, pairs: &[(&Expr, &Expr)]) -> bool {
        let zero = |e: &Expr| self.same(e, &Expr::whole(0)).equal;
        if pairs.iter().any(|(k, m)| zero(k) != zero(m)) {
            return false;
        }
        let Some((k0, m0)) = pairs.iter().find(|(k, _)| !zero(k)) else {
            return true;
        };
        pairs.iter().all(|(k, m)| {
            let left = (*m).clone().times((*k0).clone());
            let right = (*k).clone().times((*m0).clone());
            self.same(&left, &right).equal
        })
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
