//! Formulas as QTI expressions, as far as QTI has them, and back.

use maths::{Constant, Expr, Function, Joint, Names, ReadOptions, read_expression};

use crate::xml::{Node, element};

/// A formula as a QTI expression; `None` where QTI can't say it.
pub(crate) fn expression(formula: &str, names: &[&str]) -> Option<String> {
    let known = Names::new(names.iter().copied()).ok()?;
    let read = read_expression(formula, &ReadOptions::number(&known)).ok()?;
    write(&read.tree)
}

fn operator(name: &str, inside: &[String]) -> String {
    element(name, &[], &inside.concat())
}

pub(crate) fn number(value: f64) -> String {
    let is_whole = value.fract() == 0.0 && value.abs() < 1e15;
    let kind = if is_whole { "integer" } else { "float" };
    element("qti-base-value", &[("base-type", kind)], &format!("{value}"))
}

fn write(expr: &Expr) -> Option<String> {
    Some(match expr {
        Expr::Number(_) | Expr::Mixed(..) | Expr::Percent(_) => number(maths::approximate(expr).ok()?),
        Expr::Constant(Constant::Pi) => element("qti-math-constant", &[("name", "pi")], ""),
        Expr::Constant(Constant::E) => element("qti-math-constant", &[("name", "e")], ""),
        Expr::Variable(name) => element("qti-variable", &[("identifier", name)], ""),
        Expr::Negative(e) => operator("qti-subtract", &[number(0.0), write(e)?]),
        Expr::Positive(e) | Expr::Group(e) => write(e)?,
        Expr::Sum(terms) => {
            let mut sum: Option<String> = None;
            for term in terms {
                let one = write(&term.expr)?;
                sum = Some(match (sum, term.minus) {
                    (None, false) => one,
                    (None, true) => operator("qti-subtract", &[number(0.0), one]),
                    (Some(before), false) => operator("qti-sum", &[before, one]),
                    (Some(before), true) => operator("qti-subtract", &[before, one]),
                });
            }
            sum?
        }
        Expr::Product(factors) => {
            let mut product: Option<String> = None;
            for factor in factors {
                let one = write(&factor.expr)?;
                let divides = matches!(factor.joint, Joint::Over);
                product = Some(match product {
                    None => one,
                    Some(before) if divides => operator("qti-divide", &[before, one]),
                    Some(before) => operator("qti-product", &[before, one]),
                });
            }
            product?
        }
        Expr::Power(base, exponent) => operator("qti-power", &[write(base)?, write(exponent)?]),
        Expr::Call(Function::Sqrt, args) => operator("qti-power", &[write(args.first()?)?, number(0.5)]),
        Expr::Call(function, args) => {
            let name = match function {
                Function::Sin => "sin",
                Function::Cos => "cos",
                Function::Tan => "tan",
                Function::Ln => "ln",
                Function::Exp => "exp",
                Function::Abs => "abs",
                _ => return None,
            };
            element("qti-math-operator", &[("name", name)], &write(args.first()?)?)
        }
        Expr::Degrees(e) => element("qti-math-operator", &[("name", "toRadians")], &write(e)?),
        _ => return None,
    })
}

/// A QTI expression as a formula; `None` for what there is no formula for.
pub(crate) fn formula(node: &Node) -> Option<String> {
    let inside = || node.nodes().map(formula).collect::<Option<Vec<_>>>();
    let joined = |sign: &str| Some(format!("({})", inside()?.join(sign)));
    match node.name.as_str() {
        "qti-base-value" => Some(node.text()),
        "qti-variable" => node.attribute("identifier").map(name),
        "qti-math-constant" => node
            .attribute("name")
            .filter(|n| matches!(*n, "pi" | "e"))
            .map(str::to_owned),
        "qti-sum" => joined("+"),
        "qti-product" => joined("*"),
        "qti-subtract" => joined("-"),
        "qti-divide" => joined("/"),
        "qti-power" => joined("^"),
        "qti-math-operator" => {
            let function = match node.attribute("name")? {
                "toRadians" => return Some(format!("({}*pi/180)", inside()?.concat())),
                "log" => "log",
                known @ ("sin" | "cos" | "tan" | "ln" | "exp" | "abs") => known,
                _ => return None,
            };
            Some(format!("{function}({})", inside()?.join(",")))
        }
        _ => None,
    }
}

/// A name for a number of a question, of a variable of any writer.
pub(crate) fn name(identifier: &str) -> String {
    let kept: String = identifier
        .chars()
        .filter(char::is_ascii_alphanumeric)
        .collect::<String>()
        .to_ascii_lowercase();
    let begins = kept.chars().next().is_some_and(|c| c.is_ascii_alphabetic());
    match (begins, maths::is_reserved_name(&kept)) {
        (true, false) => kept,
        _ => format!("v{kept}"),
    }
}
