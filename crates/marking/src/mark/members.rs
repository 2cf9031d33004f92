//! Sets, lists, tuples, vectors and matrices: members side by side, judged one by one.

mod reading;

use maths::{Caution, Comma, Domain, Equality, Expr, Names, ReadError, ReadOptions, compare};

use super::measure::Measure;
use super::slips::looking_for_a_reason;
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
    measure: Option<Measure>,
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
            measure: Measure::of(block)?,
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
            Err(error) => return super::measure::refused(&error),
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
        let turned = || {
            mine.iter()
                .all(|m| key.iter().any(|k| self.same(&k.clone().negate(), m).equal))
        };
        let sign = mine.len() == key.len() && !key.is_empty() && looking_for_a_reason(turned);
        let slip = match (missing, extra) {
            _ if sign => Some(Slip::Sign),
            (_, 0) if right > 0 => Some(Slip::MissingMember),
            (0, _) if right > 0 || key.is_empty() => Some(Slip::ExtraMember),
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
                format!(
                    "This matrix has {} and {}; a different size is wanted.",
                    counted(r, "row"),
                    counted(c, "column")
                )
            } else {
                let verb = if c == 1 { "is" } else { "are" };
                format!(
                    "There {verb} {} here; a different number is wanted.",
                    counted(c, "value")
                )
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
        let slip = looking_for_a_reason(|| self.slip_in_order(rows, &pairs));
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
/// `1 row`, `3 rows`.
fn counted(n: usize, what: &str) -> String {
    if n == 1 {
        format!("1 {what}")
    } else {
        format!("{n} {what}s")
    }
}
