//! The mathematics of Green Slate: reading what a student typed, printing it, and deciding whether two
//! expressions are the same. Pure: no clock, no randomness of its own, no input or output.
//!
//! ```
//! use maths::{Names, ReadOptions, read_expression};
//! let names = Names::new(["x"]).unwrap();
//! let reading = read_expression("1/2x", &ReadOptions::new(&names)).unwrap();
//! assert_eq!(maths::latex(&reading.tree), r"\frac{1}{2}\,x");
//! assert_eq!(reading.cautions.len(), 1);
//! ```
#![cfg_attr(not(test), deny(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing))]

mod budget;
mod complex;
mod equality;
mod error;
mod evaluate;
mod exact;
mod factor;
mod form;

mod interval;
mod limits;
mod normal;
mod print;
mod read;
mod simplest_root;
mod solutions;
mod tree;
mod units;
mod value;
mod words;

pub use budget::{Budget, note_undecided, watching_decisions};
pub use complex::{ComplexParts, split_complex};
pub use equality::{Domain, Equality, Evidence, Range, common_point, compare, has_value};
pub use error::{ReadError, ReadErrorKind, Span};
pub use evaluate::{Ball, Undefined, approximate, approximate_fast, enclosed, evaluate_precisely};
pub use exact::exact_value;

pub use form::{ExpressionForm, NumberForm, has_expression_form, has_number_form};
pub use limits::*;
pub use normal::{Fraction, Normaliser};
pub use print::{latex, latex_name, speech, text};
pub use read::{
    BuiltError, Caution, CautionKind, Comma, Names, ReadOptions, Reading, entry_from_latex, is_reserved_name,
    read_expression, read_rational,
};
pub use solutions::same_solutions;
pub use tree::{Constant, Expr, Factor, Function, Joint, Literal, LiteralStyle, Term};
pub use units::{Dimension, Unit, UnitError, read_unit};
pub use value::{Precision, compare_constants, sign_of_constant, within};
pub use words::{caution_words, error_words};
