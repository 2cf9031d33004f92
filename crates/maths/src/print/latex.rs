use super::{Hold, hold};
use crate::read::Names;
use crate::tree::{Constant, Expr, Factor, Function, Joint, Literal, LiteralStyle};

/// LaTeX of a tree, as KaTeX takes it. Brackets are drawn as typed, and where the tree needs them.
pub fn latex(expr: &Expr) -> String {
    match expr {
        Expr::Number(l) => literal(l),
        Expr::Mixed(w, n, d) => format!("{w}\\tfrac{{{n}}}{{{d}}}"),
        Expr::Constant(c) => constant(*c).into(),
        Expr::Variable(name) => latex_name(name),
        Expr::Negative(e) => format!("-{}", at_least(e, Hold::Product)),
        Expr::Positive(e) => format!("+{}", at_least(e, Hold::Product)),
        Expr::Sum(terms) => sum(terms),
        Expr::Product(factors) => product(factors),
        Expr::Power(base, exponent) => {
            format!(
                "{}^{{{}}}",
                at_least(base, Hold::Postfix),
                latex(exponent_inside(exponent))
            )
        }
        Expr::Call(function, args) => call(*function, args),
        Expr::Factorial(e) => format!("{}!", at_least(e, Hold::Postfix)),
        Expr::Percent(e) => format!("{}\\%", at_least(e, Hold::Postfix)),
        Expr::Degrees(e) => format!("{}^{{\\circ}}", at_least(e, Hold::Postfix)),
        Expr::Group(e) => bracketed(e),
    }
}

/// A raised exponent shows what belongs to it, so its outer brackets are not drawn.
fn exponent_inside(e: &Expr) -> &Expr {
    match e {
        Expr::Group(inner) => exponent_inside(inner),
        other => other,
    }
}

fn bracketed(e: &Expr) -> String {
    format!("\\left({}\\right)", latex(e))
}

fn at_least(e: &Expr, wanted: Hold) -> String {
    if hold(e) >= wanted { latex(e) } else { bracketed(e) }
}

fn literal(l: &Literal) -> String {
    if l.style == LiteralStyle::Vulgar {
        return format!("\\tfrac{{{}}}{{{}}}", l.value.numer(), l.value.denom());
    }
    match l.typed.split_once('e') {
        Some((mantissa, exponent)) => format!("{mantissa}\\times 10^{{{exponent}}}"),
        None => grouped(&l.typed),
    }
}

/// Five digits and more are set in threes with a thin space.
fn grouped(typed: &str) -> String {
    let (whole, fraction) = typed.split_once('.').map_or((typed, None), |(w, f)| (w, Some(f)));
    let mut out = String::new();
    for (i, c) in whole.chars().enumerate() {
        if whole.len() > 4 && i > 0 && (whole.len() - i).is_multiple_of(3) {
            out.push_str("\\,");
        }
        out.push(c);
    }
    match fraction {
        Some(f) if !f.is_empty() => format!("{}.{f}", if out.is_empty() { "0" } else { &out }),
        _ => out,
    }
}

fn constant(c: Constant) -> &'static str {
    match c {
        Constant::Pi => "\\pi",
        Constant::E => "\\mathrm{e}",
        Constant::I => "\\mathrm{i}",
        Constant::Infinity => "\\infty",
    }
}

/// A variable's name: Greek letters as letters, the part after `_` as a subscript.
pub fn latex_name(name: &str) -> String {
    let (head, tail) = name.split_once('_').map_or((name, None), |(h, t)| (h, Some(t)));
    let part = |s: &str| {
        if crate::read::Names::greek_sign_of(s).is_some() {
            format!("\\{s}")
        } else if s.chars().count() > 1 && !s.chars().all(|c| c.is_ascii_digit()) {
            format!("\\mathrm{{{}}}", s.replace('_', "\\_"))
        } else {
            s.replace('_', "\\_")
        }
    };
    match tail {
        Some(t) => format!("{}_{{{}}}", part(head), part(t)),
        None => part(head),
    }
}

impl Names {
    /// The Greek sign of a spelled letter (`theta` → `θ`).
    pub fn greek_sign_of(name: &str) -> Option<char> {
        crate::read::greek_sign(name)
    }
}

fn sum(terms: &[crate::tree::Term]) -> String {
    let mut out = String::new();
    for (i, term) in terms.iter().enumerate() {
        if i > 0 {
            out.push_str(if term.minus { " - " } else { " + " });
        }
        let sign_clash = i > 0 && hold(&term.expr) == Hold::Signed;
        out.push_str(&if sign_clash || hold(&term.expr) == Hold::Sum {
            bracketed(&term.expr)
        } else {
            latex(&term.expr)
        });
    }
    out
}

/// Left to right: whatever stands before a division so far is its numerator.
fn product(factors: &[Factor]) -> String {
    let mut done = String::new();
    for (i, factor) in factors.iter().enumerate() {
        let piece = || match (&factor.expr, factor.joint) {
            (e, _) if hold(e) < Hold::Product => bracketed(e),
            (e, _) => latex(e),
        };
        if i == 0 {
            done = if matches!(factor.expr, Expr::Product(_)) {
                bracketed(&factor.expr)
            } else {
                piece()
            };
            let over_next = factors.get(1).is_some_and(|f| f.joint == Joint::Over);
            if over_next {
                done = fraction_part(&factor.expr);
            }
            continue;
        }
        match factor.joint {
            Joint::Over => done = format!("\\frac{{{done}}}{{{}}}", fraction_part(&factor.expr)),
            Joint::Times => done = format!("{done} \\times {}", piece()),
            Joint::Implied => {
                let digits = done.ends_with(|c: char| c.is_ascii_digit());
                let piece = piece();
                let joined = digits
                    && piece.starts_with(|c: char| {
                        c.is_ascii_digit() || c == '\\' && piece.starts_with("\\tfrac")
                    });
                done = format!("{done}{}{piece}", if joined { " \\cdot " } else { "\\," });
            }
        }
    }
    done
}

/// The bar of a fraction holds its parts together, so brackets around a whole part are not drawn.
fn fraction_part(e: &Expr) -> String {
    match e {
        Expr::Group(inner) => latex(inner),
        other => latex(other),
    }
}

fn call(function: Function, args: &[Expr]) -> String {
    use Function as F;
    let inside = |i: usize| args.get(i).map_or_else(String::new, |e| latex(strip(e)));
    match function {
        F::Sqrt => format!("\\sqrt{{{}}}", inside(0)),
        F::Cbrt => format!("\\sqrt[3]{{{}}}", inside(0)),
        F::Root => format!("\\sqrt[{}]{{{}}}", inside(0), inside(1)),
        F::Abs => format!("\\left|{}\\right|", inside(0)),
        F::Floor => format!("\\left\\lfloor {}\\right\\rfloor", inside(0)),
        F::Ceil => format!("\\left\\lceil {}\\right\\rceil", inside(0)),
        F::LogBase => format!("\\log_{{{}}}\\left({}\\right)", inside(0), inside(1)),
        _ => {
            let list: Vec<String> = args.iter().map(|a| latex(strip(a))).collect();
            format!("{}\\left({}\\right)", function_name(function), list.join(", "))
        }
    }
}

fn strip(e: &Expr) -> &Expr {
    match e {
        Expr::Group(inner) => strip(inner),
        other => other,
    }
}

fn function_name(function: Function) -> String {
    match function {
        Function::Ceil | Function::Floor | Function::Abs => String::new(),
        Function::Sec
        | Function::Csc
        | Function::Cot
        | Function::Coth
        | Function::Sin
        | Function::Cos
        | Function::Tan
        | Function::Sinh
        | Function::Cosh
        | Function::Tanh
        | Function::Arcsin
        | Function::Arccos
        | Function::Arctan
        | Function::Ln
        | Function::Log
        | Function::Exp
        | Function::Min
        | Function::Max => format!("\\{}", function.name()),
        _ => format!("\\operatorname{{{}}}", function.name()),
    }
}
