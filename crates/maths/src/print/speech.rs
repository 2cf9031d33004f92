use num_traits::ToPrimitive;

use super::{Hold, hold};
use crate::tree::{Constant, Expr, Factor, Function, Joint, LiteralStyle};

/// Words for a screen reader: `x squared over 2 x plus 1, end of fraction`.
pub fn speech(expr: &Expr) -> String {
    match expr {
        Expr::Number(l) if l.style == LiteralStyle::Vulgar => {
            format!("{} over {}", l.value.numer(), l.value.denom())
        }
        Expr::Number(l) => match l.typed.split_once('e') {
            Some((m, e)) => format!("{m} times 10 to the {}", e.replace('-', "minus ")),
            None => l.typed.clone(),
        },
        Expr::Mixed(w, n, d) => format!("{w} and {n} over {d}"),
        Expr::Constant(c) => match c {
            Constant::Pi => "pi",
            Constant::E => "e",
            Constant::I => "i",
            Constant::Infinity => "infinity",
        }
        .into(),
        Expr::Variable(name) => name.replace('_', " sub "),
        Expr::Negative(e) => format!("minus {}", part(e, Hold::Product)),
        Expr::Positive(e) => format!("plus {}", part(e, Hold::Product)),
        Expr::Sum(terms) => {
            let mut out = String::new();
            for (i, term) in terms.iter().enumerate() {
                if i > 0 {
                    out.push_str(if term.minus { " minus " } else { " plus " });
                }
                out.push_str(&part(
                    &term.expr,
                    if i == 0 { Hold::Signed } else { Hold::Product },
                ));
            }
            out
        }
        Expr::Product(factors) => product(factors),
        Expr::Power(base, exponent) => power(base, exponent),
        Expr::Call(function, args) => call(*function, args),
        Expr::Factorial(e) => format!("{} factorial", part(e, Hold::Postfix)),
        Expr::Percent(e) => format!("{} per cent", part(e, Hold::Postfix)),
        Expr::Degrees(e) => format!("{} degrees", part(e, Hold::Postfix)),
        Expr::Group(e) if matches!(hold(e), Hold::Atom) => speech(e),
        Expr::Group(e) => bracketed(e),
    }
}

fn bracketed(e: &Expr) -> String {
    format!("open bracket {}, close bracket", speech(e))
}

fn part(e: &Expr, wanted: Hold) -> String {
    if hold(e) >= wanted {
        speech(e)
    } else {
        bracketed(e)
    }
}

fn product(factors: &[Factor]) -> String {
    let mut done = String::new();
    for (i, factor) in factors.iter().enumerate() {
        if i == 0 {
            let over_next = factors.get(1).is_some_and(|f| f.joint == Joint::Over);
            done = if over_next {
                inside(&factor.expr)
            } else {
                part(&factor.expr, Hold::Product)
            };
            continue;
        }
        match factor.joint {
            Joint::Over => {
                let bottom = inside(&factor.expr);
                let simple = hold(bare(&factor.expr)) == Hold::Atom && i + 1 == factors.len();
                done = format!(
                    "{done} over {bottom}{}",
                    if simple { "" } else { ", end of fraction" }
                );
            }
            Joint::Times => done = format!("{done} times {}", part(&factor.expr, Hold::Power)),
            Joint::Implied => done = format!("{done} {}", part(&factor.expr, Hold::Power)),
        }
    }
    done
}

fn bare(e: &Expr) -> &Expr {
    match e {
        Expr::Group(inner) => bare(inner),
        other => other,
    }
}

fn inside(e: &Expr) -> String {
    speech(bare(e))
}

fn power(base: &Expr, exponent: &Expr) -> String {
    let base = part(base, Hold::Postfix);
    let small = match bare(exponent) {
        Expr::Number(l) if l.value.is_integer() => l.value.to_integer().to_u32(),
        _ => None,
    };
    match small {
        Some(2) => format!("{base} squared"),
        Some(3) => format!("{base} cubed"),
        _ if hold(bare(exponent)) == Hold::Atom => format!("{base} to the {}", inside(exponent)),
        _ => format!("{base} to the power {}, end of power", inside(exponent)),
    }
}

fn call(function: Function, args: &[Expr]) -> String {
    use Function as F;
    let one = |i: usize| args.get(i).map_or_else(String::new, inside);
    match function {
        F::Sqrt => format!("square root of {}, end of root", one(0)),
        F::Cbrt => format!("cube root of {}, end of root", one(0)),
        F::Root => format!("root {} of {}, end of root", one(0), one(1)),
        F::Abs => format!("absolute value of {}, end of absolute value", one(0)),
        F::LogBase => format!("log base {} of {}", one(0), one(1)),
        F::Ln => format!("natural log of {}", one(0)),
        _ => {
            let list: Vec<String> = args.iter().map(inside).collect();
            let simple = args.len() == 1 && args.first().is_some_and(|a| hold(bare(a)) >= Hold::Product);
            format!(
                "{} of {}{}",
                spoken(function),
                list.join(" and "),
                if simple { "" } else { ", end of argument" }
            )
        }
    }
}

fn spoken(function: Function) -> &'static str {
    use Function as F;
    match function {
        F::Sin => "sine",
        F::Cos => "cosine",
        F::Tan => "tangent",
        F::Sec => "secant",
        F::Csc => "cosecant",
        F::Cot => "cotangent",
        F::Arcsin => "inverse sine",
        F::Arccos => "inverse cosine",
        F::Arctan => "inverse tangent",
        F::Sinh => "hyperbolic sine",
        F::Cosh => "hyperbolic cosine",
        F::Tanh => "hyperbolic tangent",
        F::Min => "minimum",
        F::Max => "maximum",
        F::Ceil => "ceiling",
        other => other.name(),
    }
}
