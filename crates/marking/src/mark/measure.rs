//! Units behind numbers: read, converted to the unit that is wanted, shown.

use maths::{
    Caution, CautionKind, Constant, Expr, ReadError, ReadErrorKind, ReadOptions, Reading, Span, Unit,
    exact_value, read_unit,
};
use num_traits::Zero;

use crate::answer::{AnswerBlock, FaultyBlock};
use crate::verdict::{Marking, Outcome, Slip};

/// The unit that is wanted, and whether it is printed beside the box.
pub(crate) struct Measure {
    unit: Unit,
    pub shown: bool,
}

impl Measure {
    pub fn of(block: &AnswerBlock) -> Result<Option<Self>, FaultyBlock> {
        let Some(text) = &block.unit else {
            return Ok(None);
        };
        let unit = read_unit(text).map_err(|_| FaultyBlock::UnknownUnit { unit: text.clone() })?;
        Ok(Some(Measure {
            unit,
            shown: block.unit_shown,
        }))
    }

    /// The longest unit at the end that leaves a number in front of it.
    pub fn split(&self, text: &str, options: &ReadOptions) -> Option<(Reading, Unit)> {
        let text = super::split::without_full_stop(text);
        if text.chars().count() > maths::MAX_CHARS {
            return None;
        }
        for (i, c) in text.char_indices().filter(|(i, _)| *i > 0) {
            if !(c.is_alphabetic() || matches!(c, '°' | 'º' | '˚' | '℃' | '%')) {
                continue;
            }
            let (number, tail) = text.split_at(i);
            let Some(unit) = self.read_beside(tail) else {
                continue;
            };
            let Ok(mut reading) = maths::read_expression(number, options) else {
                continue;
            };
            if let Some((typed, read)) = unit.other_case.clone() {
                let span = Span::new(number.chars().count(), text.chars().count());
                reading.cautions.push(Caution {
                    kind: CautionKind::UnitCase { typed, read },
                    span,
                });
            }
            return Some((reading, unit));
        }
        None
    }

    /// A number of a collection, in the unit that is wanted.
    ///
    /// # Errors
    /// Why it can't be read; [`ReadErrorKind::UnitOfOther`] for a unit of another dimension.
    pub fn read(&self, text: &str, options: &ReadOptions) -> Result<Reading, ReadError> {
        let Some((mut reading, unit)) = self.split(text, options) else {
            return maths::read_expression(text, options).map_err(|e| self.as_unit_error(text, e, options));
        };
        let Some(value) = self.converted(&reading.tree, &unit) else {
            let end = text.chars().count();
            return Err(ReadError::new(ReadErrorKind::UnitOfOther(unit.shown), 0, end));
        };
        if value != reading.tree {
            reading.tree = exact_value(&value).map_or(value, |v| Expr::rational(&v));
        }
        Ok(reading)
    }

    /// An entry without the wanted unit behind its last bracket: `(3, 4) m`, `[-2, 22]°`.
    pub fn without_outer<'a>(&self, text: &'a str) -> &'a str {
        let Some(end) = text.rfind([')', ']', '}', '⟩']) else {
            return text;
        };
        let opens = text.trim_start().starts_with(['(', '[', ']', '{', '<', '⟨']);
        let (whole, tail) = text.split_at(
            end + text
                .get(end..)
                .and_then(|t| t.chars().next())
                .map_or(0, char::len_utf8),
        );
        let same = |unit: &Unit| {
            unit.factor == self.unit.factor
                && unit.pi_power == self.unit.pi_power
                && unit.dimension == self.unit.dimension
        };
        if opens && self.read_beside(tail).as_ref().is_some_and(same) {
            whole
        } else {
            text
        }
    }

    fn read_beside(&self, tail: &str) -> Option<Unit> {
        // Beside a temperature, C is what people type for degrees.
        if self.unit.offset.is_some() && tail.trim() == "C" {
            let mut unit = read_unit("°C").ok()?;
            unit.other_case = Some(("C".into(), "°C".into()));
            return Some(unit);
        }
        read_unit(tail).ok()
    }

    /// An unknown name behind a number is a unit that is not known.
    pub fn as_unit_error(&self, text: &str, error: ReadError, options: &ReadOptions) -> ReadError {
        let ReadErrorKind::UnknownName(_) = error.kind else {
            return error;
        };
        if error.span.start == 0 {
            return error;
        }
        let number: String = text.chars().take(error.span.start).collect();
        if maths::read_expression(&number, options).is_err() {
            return error;
        }
        let unit: String = text.chars().skip(error.span.start).collect();
        let kind = match read_unit(&unit) {
            Err(maths::UnitError::Broken) => ReadErrorKind::UnitBroken,
            _ => ReadErrorKind::UnitUnknown(unit.trim().to_owned()),
        };
        ReadError {
            kind,
            span: Span::new(error.span.start, text.chars().count()),
        }
    }

    /// A number with its own unit, in the unit that is wanted; `None` for a unit of another dimension.
    pub fn converted(&self, number: &Expr, mine: &Unit) -> Option<Expr> {
        // Revolutions a minute may stand on either side.
        let (mine, wanted) = match mine.beside(&self.unit) {
            Some(mine) => (mine, self.unit.clone()),
            None => (mine.clone(), self.unit.beside(mine)?),
        };
        if mine.factor == wanted.factor && mine.pi_power == wanted.pi_power && mine.offset == wanted.offset {
            return Some(number.clone());
        }
        let mut value = number.clone().times(Expr::rational(&mine.factor));
        let offset = |u: &Unit| u.offset.clone().unwrap_or_default();
        let gap = offset(&mine) - offset(&wanted);
        if !gap.is_zero() {
            value = value.plus(Expr::rational(&gap));
        }
        let scaled = value.times(Expr::rational(&wanted.factor.recip()));
        let turns = mine.pi_power - wanted.pi_power;
        if turns == 0 {
            return Some(scaled);
        }
        Some(scaled.times(Expr::power(Expr::Constant(Constant::Pi), Expr::whole(turns))))
    }
}

/// The verdict on a collection that was not read: a unit of another dimension is wrong, all else costs nothing.
pub(crate) fn refused(error: &ReadError) -> Marking {
    if !matches!(error.kind, ReadErrorKind::UnitOfOther(_)) {
        return Marking::unreadable(error);
    }
    let slip = Slip::WrongDimension;
    Marking::new(Outcome::Incorrect)
        .note(crate::verdict::slip_words(slip))
        .slipped(Some(slip))
}

pub(crate) fn unit_latex(unit: &str) -> String {
    let mut out = String::new();
    for c in unit.chars() {
        match c {
            '°' | 'º' | '˚' => out.push_str("{}^{\\circ}"),
            '·' | '*' | '⋅' | '×' => out.push_str("\\cdot "),
            ' ' => out.push_str("\\,"),
            '%' => out.push_str("\\%"),
            '\\' | '{' | '}' | '$' | '&' | '#' | '_' | '~' => {}
            c => out.push(c),
        }
    }
    out
}

pub(crate) fn unit_speech(unit: &str) -> String {
    unit.replace('%', "per cent")
}
