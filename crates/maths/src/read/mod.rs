//! From typed text to a tree: characters → tokens ([`lexer`]) → tree ([`parser`]).

mod built;
pub(crate) mod lexer;
mod names;
pub(crate) mod parser;
#[cfg(test)]
mod tests;

use num_rational::BigRational;

pub use built::{BuiltError, entry_from_latex};
pub use names::Names;
pub(crate) use names::greek_sign;
pub use names::is_reserved_name;

use crate::error::{ReadError, Span};
use crate::tree::Expr;

/// What a comma means where this entry stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Comma {
    /// `1,234` is one number; any other comma is refused.
    Grouping,
    /// Commas part members.
    Separator,
}

/// What may be typed in this place.
#[derive(Clone, Copy, Debug)]
pub struct ReadOptions<'a> {
    pub names: &'a Names,
    pub comma: Comma,
    /// `2 1/3` is two and a third.
    pub mixed: bool,
    /// Which of the two values `±` stands for; `None` where it may not be typed.
    pub plus_minus: Option<bool>,
    pub infinity: bool,
    /// `or`, `and`, `U` are words of the answer.
    pub words: bool,
    /// `<` and `>` are brackets.
    pub angle_brackets: bool,
    /// Read every construct that has a caution in its other way.
    pub other_reading: bool,
}

impl<'a> ReadOptions<'a> {
    pub fn new(names: &'a Names) -> Self {
        Self {
            names,
            comma: Comma::Grouping,
            mixed: false,
            plus_minus: None,
            infinity: false,
            words: false,
            angle_brackets: false,
            other_reading: false,
        }
    }

    /// Where a number is asked for: mixed numbers may be typed.
    pub fn number(names: &'a Names) -> Self {
        Self {
            mixed: true,
            ..Self::new(names)
        }
    }
}

/// A place where the reading may surprise.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Caution {
    pub kind: CautionKind,
    pub span: Span,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub enum CautionKind {
    /// `1/2x`, `a/bc`: what stands after the division is multiplied, not divided by.
    FactorAfterDivision,
    /// `sin x/2`.
    DivisionAfterFunction(String),
    /// `sin x(x+1)`.
    BracketAfterFunction(String),
    /// `sin x^2`.
    PowerInFunction(String),
    /// `sqrt 2x`.
    ProductInRoot,
    /// `2^3^2`.
    PowerTower,
    /// `e^2x`.
    FactorAfterPower,
    /// `x^1/2`.
    DivisionAfterPower,
    /// `log2(8)`.
    LogBaseRunOn,
    /// A letter was taken for the other case.
    OtherCase { typed: String, read: String },
    /// `(x+1)2`.
    NumberAfterBracket,
    /// `2e-3` where e is also a number.
    ExponentNotation,
    /// `1,234` beside a list.
    CommaParts,
    /// A unit in another case.
    UnitCase { typed: String, read: String },
}

impl CautionKind {
    /// Whether there is another order of working that the caution warns of.
    pub fn has_other_reading(&self) -> bool {
        !matches!(
            self,
            Self::OtherCase { .. }
                | Self::NumberAfterBracket
                | Self::ExponentNotation
                | Self::CommaParts
                | Self::UnitCase { .. }
                | Self::LogBaseRunOn
        )
    }
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Reading {
    pub tree: Expr,
    pub cautions: Vec<Caution>,
}

/// Reads one expression that fills the whole text.
///
/// # Errors
/// What could not be read, and its place in characters from the start of `text`.
pub fn read_expression(text: &str, options: &ReadOptions) -> Result<Reading, ReadError> {
    let mut parser = parser::Parser::new(text, options)?;
    let tree = parser.expression()?;
    parser.expect_end()?;
    Ok(Reading {
        tree,
        cautions: parser.into_cautions(),
    })
}

/// Reads a plain number (digits, a point, a power of ten, a fraction) exactly; for tolerances and ranges.
pub fn read_rational(text: &str) -> Option<BigRational> {
    let names = Names::new([]).ok()?;
    let reading = read_expression(text, &ReadOptions::number(&names)).ok()?;
    crate::exact::exact_value(&reading.tree)
}
