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
        if let Some(time) = self.several_times(text, options) {
            return Some(time);
        }
        for (i, c) in text.char_indices().filter(|(i, _)| *i > 0) {
            if !(c.is_alphabetic() || matches!(c, '°' | 'º' | '˚' | '℃' | '%' | '％')) {
                continue;
            }
            let (number, tail) = text.split_at(i);
            if self.belongs_to_last_value(number, tail)
                && let Ok(reading) = maths::read_expression(text, options)
            {
                match self.worked_out_in(tail) {
                    // Each value had its sign: the whole is a number of radians, or of ones.
                    Some(unit) => return Some((reading, unit)),
                    None => continue,
                }
            }
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
        // Beside a temperature, all that people type for degrees Celsius is that; C alone gets a word.
        if self.unit.offset.is_some() {
            let bare: String = tail.to_lowercase().split_whitespace().collect();
            if CELSIUS.contains(&bare.as_str()) {
                let mut unit = read_unit("°C").ok()?;
                if tail.trim() == "C" {
                    unit.other_case = Some(("C".into(), "°C".into()));
                }
                unit.shown = "°C".into();
                return Some(unit);
            }
        }
        let unit = read_unit(&tail.replace('％', "%")).ok()?;
        if unit.beside(&self.unit).is_none()
            && let Some(apart) = metres_and_seconds(tail)
            && let Ok(mut meant) = read_unit(&apart)
            && meant.dimension == self.unit.dimension
        {
            meant.other_case = Some((tail.trim().to_owned(), apart));
            return Some(meant);
        }
        Some(unit)
    }

    /// Whether a ° or % at the end belongs to the value before it, and is not the unit of the whole: `60/tan 22°`, `700*60%`.
    /// That is so behind something that is worked out, where the unit that is wanted is another one, or an angle of which
    /// other values have their own sign: `90° - 59.04°`.
    fn belongs_to_last_value(&self, number: &str, tail: &str) -> bool {
        let sign = tail.trim().to_lowercase();
        let is_degree = ["°", "º", "˚", "deg", "degree", "degrees"].contains(&sign.as_str());
        let is_percent = ["%", "％", "percent"].contains(&sign.as_str());
        if !(is_degree || is_percent) || !is_worked_out(number) {
            return false;
        }
        let fits = read_unit(if is_degree { "°" } else { "%" }).is_ok_and(|u| u.beside(&self.unit).is_some());
        let same_before = if is_degree {
            number.contains(['°', 'º', '˚']) || number.to_lowercase().contains("deg")
        } else {
            number.contains(['%', '％'])
        };
        !fits || same_before
    }

    /// In what a whole is worked out whose values have ° or % each, where that is what is wanted.
    fn worked_out_in(&self, tail: &str) -> Option<Unit> {
        let mut unit = if tail.trim().ends_with(['%', '％']) {
            let mut ones = read_unit("%").ok()?;
            ones.factor = num_rational::BigRational::from(num_bigint::BigInt::from(1));
            ones
        } else {
            read_unit("rad").ok()?
        };
        unit.shown = String::new();
        (unit.dimension == self.unit.dimension).then_some(unit)
    }

    /// A time in two units or three, the larger first: `1 h 39 min`, `1h39`, `5 min 30 s`.
    fn several_times(&self, text: &str, options: &ReadOptions) -> Option<(Reading, Unit)> {
        let second = read_unit("s").ok()?;
        if self.unit.dimension != second.dimension {
            return None;
        }
        let mut rest = text.trim();
        let mut parts: Vec<(&str, num_rational::BigRational)> = Vec::new();
        while !rest.is_empty() {
            let digits = rest
                .find(|c: char| !(c.is_ascii_digit() || c == '.'))
                .unwrap_or(rest.len());
            let (number, after) = rest.split_at(digits);
            let after = after.trim_start();
            let letters = after.find(|c: char| !c.is_alphabetic()).unwrap_or(after.len());
            let (name, after) = after.split_at(letters);
            let factor = match (name, parts.last()) {
                // `1h39`: what follows hours without a name are minutes.
                ("", Some((_, before))) => {
                    before / num_rational::BigRational::from(num_bigint::BigInt::from(60))
                }
                ("", None) => return None,
                (name, _) => {
                    read_unit(name)
                        .ok()
                        .filter(|u| u.dimension == second.dimension)?
                        .factor
                }
            };
            if number.is_empty() || parts.last().is_some_and(|(_, before)| factor >= *before) {
                return None;
            }
            parts.push((number, factor));
            rest = after.trim_start().trim_start_matches("and ").trim_start();
        }
        if parts.len() < 2 {
            return None;
        }
        let mut sum = num_rational::BigRational::zero();
        for (number, factor) in &parts {
            let reading = maths::read_expression(number, options).ok()?;
            sum += exact_value(&reading.tree)? * factor;
        }
        let mut reading = maths::read_expression("0", options).ok()?;
        reading.tree = Expr::rational(&(sum / &self.unit.factor));
        Some((reading, self.unit.clone()))
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

/// What people type for degrees Celsius, without blanks and in small letters.
const CELSIUS: &[&str] = &[
    "c",
    "℃",
    "°c",
    "ºc",
    "˚c",
    "degc",
    "degreec",
    "degreesc",
    "degcelsius",
    "degreecelsius",
    "degreescelsius",
    "celsius",
];

/// `ms^-2`, as textbooks print metres a second squared, with the two units apart: `m s^-2`.
fn metres_and_seconds(tail: &str) -> Option<String> {
    let rest = tail.trim().strip_prefix("ms")?;
    rest.starts_with(['^', '⁻', '-', '−'])
        .then(|| format!("m s{rest}"))
}

/// More than a number as it stands: an operation, a function, a root.
fn is_worked_out(number: &str) -> bool {
    let inner = number.trim().trim_start_matches(['-', '−', '+']);
    inner
        .chars()
        .any(|c| c.is_alphabetic() || "+-−*/·×÷^√⋅".contains(c))
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
