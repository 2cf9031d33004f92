//! Printing a tree: LaTeX for the screen, plain text that reads back to the same tree, words for speech.

mod latex;
mod speech;
#[cfg(test)]
mod tests;
mod text;

pub use latex::{latex, latex_name};
pub use speech::speech;
pub use text::text;

use crate::tree::Expr;

/// How tightly a node holds together when it is printed; a looser part of a tighter whole needs brackets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Hold {
    Sum,
    Signed,
    Product,
    Power,
    Postfix,
    Atom,
}

fn hold(expr: &Expr) -> Hold {
    match expr {
        Expr::Sum(_) => Hold::Sum,
        Expr::Negative(_) | Expr::Positive(_) => Hold::Signed,
        Expr::Product(_) => Hold::Product,
        Expr::Mixed(..) => Hold::Product,
        Expr::Power(..) => Hold::Power,
        Expr::Factorial(_) | Expr::Percent(_) | Expr::Degrees(_) => Hold::Postfix,
        Expr::Number(l) if l.style == crate::tree::LiteralStyle::Exponent => Hold::Product,
        Expr::Number(l) if l.style == crate::tree::LiteralStyle::Vulgar => Hold::Product,
        _ => Hold::Atom,
    }
}
