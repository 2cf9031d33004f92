use super::{Hold, hold};
use crate::tree::{Constant, Expr, Function, Joint, LiteralStyle};

/// Plain text that reads back to the same tree, apart from brackets that had to be added.
pub fn text(expr: &Expr) -> String {
    match expr {
        Expr::Number(l) if l.style == LiteralStyle::Vulgar => {
            format!("({}/{})", l.value.numer(), l.value.denom())
        }
        Expr::Number(l) => l.typed.clone(),
        Expr::Mixed(w, n, d) => format!("{w} {n}/{d}"),
        Expr::Constant(c) => match c {
            Constant::Pi => "pi",
            Constant::E => "e",
            Constant::I => "i",
            Constant::Infinity => "inf",
        }
        .into(),
        Expr::Variable(name) => name.to_string(),
        Expr::Negative(e) => format!("-{}", at_least(e, Hold::Product)),
        Expr::Positive(e) => format!("+{}", at_least(e, Hold::Product)),
        Expr::Sum(terms) => {
            let mut out = String::new();
            for (i, term) in terms.iter().enumerate() {
                if i > 0 {
                    out.push_str(if term.minus { " - " } else { " + " });
                }
                out.push_str(&at_least(&term.expr, Hold::Signed));
            }
            out
        }
        Expr::Product(factors) => {
            let mut out = String::new();
            for (i, factor) in factors.iter().enumerate() {
                let typed = product_part(&factor.expr, i);
                if i > 0 {
                    out.push_str(match factor.joint {
                        Joint::Times => "*",
                        Joint::Over => "/",
                        // A number cannot be written after a letter without a sign.
                        Joint::Implied if typed.starts_with(|c: char| c.is_ascii_digit() || c == '.') => "*",
                        Joint::Implied => " ",
                    });
                }
                out.push_str(&typed);
            }
            out
        }
        Expr::Power(base, exponent) => {
            format!("{}^{}", at_least(base, Hold::Postfix), exponent_text(exponent))
        }
        Expr::Call(Function::LogBase, args) => match args.as_slice() {
            [base, argument] => {
                let base = match base {
                    Expr::Number(_) | Expr::Variable(_) => text(base),
                    Expr::Group(inner) => format!("({})", text(inner)),
                    other => format!("({})", text(other)),
                };
                format!("log_{base}({})", text(argument))
            }
            _ => String::new(),
        },
        Expr::Call(function, args) => {
            let list: Vec<String> = args.iter().map(text).collect();
            format!("{}({})", function.name(), list.join(", "))
        }
        Expr::Factorial(e) => match &**e {
            Expr::Factorial(_) => format!("({})!", text(e)),
            _ => format!("{}!", at_least(e, Hold::Postfix)),
        },
        Expr::Percent(e) => format!("{}%", at_least(e, Hold::Postfix)),
        Expr::Degrees(e) => format!("{}°", at_least(e, Hold::Postfix)),
        Expr::Group(e) => format!("({})", text(e)),
    }
}

fn at_least(e: &Expr, wanted: Hold) -> String {
    if hold(e) >= wanted {
        text(e)
    } else {
        format!("({})", text(e))
    }
}

fn product_part(e: &Expr, place: usize) -> String {
    let fits = match hold(e) {
        Hold::Sum | Hold::Signed => false,
        Hold::Product => matches!(e, Expr::Number(_)) && place == 0,
        _ => true,
    };
    if fits { text(e) } else { format!("({})", text(e)) }
}

fn exponent_text(e: &Expr) -> String {
    match e {
        Expr::Negative(inner) | Expr::Positive(inner) if hold(inner) >= Hold::Power => text(e),
        _ => at_least(e, Hold::Power),
    }
}
