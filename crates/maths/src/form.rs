//! Whether a value is written in the form that is asked for.

use std::sync::Arc;

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

use crate::equality::Domain;
use crate::exact::exact_value;
use crate::factor::{WholePoly, gcd, is_reducible};
use crate::simplest_root::is_simplest_root;
use crate::tree::{Expr, Factor, Joint, Literal, LiteralStyle, Term};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NumberForm {
    Integer,
    Decimal,
    Fraction,
    LowestTerms,
    Mixed,
    Scientific,
    SimplestRoot,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ExpressionForm {
    Expanded,
    Factored,
    SingleFraction,
    LowestTerms,
    NoDecimals,
}

/// The tree without brackets and one sign on its outside.
fn unsigned(expr: &Expr) -> &Expr {
    match expr.bare() {
        Expr::Negative(e) => e.bare(),
        other => other,
    }
}

fn literal(expr: &Expr) -> Option<&Literal> {
    match expr {
        Expr::Number(l) => Some(l),
        _ => None,
    }
}

fn is_whole_literal(expr: &Expr) -> bool {
    literal(unsigned(expr)).is_some_and(|l| l.style == LiteralStyle::Whole)
}

/// Whether a number is written in a form; its value is not looked at beyond that.
pub fn has_number_form(expr: &Expr, form: NumberForm) -> bool {
    let inner = unsigned(expr);
    match form {
        NumberForm::Integer => is_whole_literal(expr),
        NumberForm::Decimal => literal(inner).is_some_and(|l| l.style != LiteralStyle::Vulgar),
        NumberForm::Fraction => is_whole_literal(expr) || simple_fraction(inner).is_some(),
        NumberForm::LowestTerms => {
            is_whole_literal(expr)
                || simple_fraction(inner).is_some_and(|(n, d)| n.gcd(&d).is_one())
                || matches!(inner, Expr::Mixed(_, n, d) if n.gcd(d).is_one() && n < d)
        }
        NumberForm::Mixed => {
            is_whole_literal(expr)
                || matches!(inner, Expr::Mixed(_, n, d) if n.gcd(d).is_one() && n < d)
                || simple_fraction(inner).is_some_and(|(n, d)| n.gcd(&d).is_one() && n.abs() < d.abs())
        }
        NumberForm::Scientific => is_scientific(inner),
        NumberForm::SimplestRoot => is_simplest_root(expr),
    }
}

/// Numerator and denominator of `a/b` with whole a and b.
fn simple_fraction(expr: &Expr) -> Option<(BigInt, BigInt)> {
    match expr {
        Expr::Number(l) if l.style == LiteralStyle::Vulgar => {
            Some((l.value.numer().clone(), l.value.denom().clone()))
        }
        Expr::Product(factors) => match factors.as_slice() {
            [
                Factor { expr: top, .. },
                Factor {
                    joint: Joint::Over,
                    expr: bottom,
                },
            ] if is_whole_literal(top) && is_whole_literal(bottom) => {
                let whole = |e: &Expr| exact_value(e).map(|v| v.to_integer());
                Some((whole(top)?, whole(bottom)?)).filter(|(_, d)| !d.is_zero())
            }
            _ => None,
        },
        _ => None,
    }
}

fn is_scientific(expr: &Expr) -> bool {
    let one_to_ten = |v: &BigRational| {
        let ten = BigRational::from(BigInt::from(10));
        *v >= BigRational::one() && *v < ten
    };
    match expr {
        Expr::Number(l) if l.value.is_zero() => true,
        Expr::Number(l) if l.style == LiteralStyle::Exponent => {
            let mantissa = l.typed.split('e').next().unwrap_or_default();
            crate::read::read_rational(mantissa).is_some_and(|m| one_to_ten(&m))
        }
        Expr::Number(l) => l.style != LiteralStyle::Vulgar && one_to_ten(&l.value),
        Expr::Product(factors) => match factors.as_slice() {
            [
                Factor { expr: mantissa, .. },
                Factor {
                    joint: Joint::Times | Joint::Implied,
                    expr: power,
                },
            ] => {
                let mantissa = literal(unsigned(mantissa));
                mantissa.is_some_and(|l| {
                    matches!(l.style, LiteralStyle::Whole | LiteralStyle::Decimal) && one_to_ten(&l.value)
                }) && is_power_of_ten(power)
            }
            _ => false,
        },
        _ => false,
    }
}

fn is_power_of_ten(expr: &Expr) -> bool {
    let ten = BigRational::from(BigInt::from(10));
    match expr.bare() {
        Expr::Power(base, exponent) => {
            literal(base.bare()).is_some_and(|l| l.style == LiteralStyle::Whole && l.value == ten)
                && is_whole_literal(exponent)
        }
        _ => false,
    }
}

/// Whether an expression is written in a form.
pub fn has_expression_form(expr: &Expr, form: ExpressionForm) -> bool {
    match form {
        ExpressionForm::Expanded => is_expanded(expr),
        ExpressionForm::Factored => is_factored(expr),
        ExpressionForm::SingleFraction => as_single_fraction(expr).is_some(),
        ExpressionForm::LowestTerms => is_in_lowest_terms(expr),
        ExpressionForm::NoDecimals => !expr.any(&|e| {
            matches!(e, Expr::Number(l) if matches!(l.style, LiteralStyle::Decimal | LiteralStyle::Exponent))
        }),
    }
}

fn is_expanded(expr: &Expr) -> bool {
    let single = [Term {
        minus: false,
        expr: expr.clone(),
    }];
    let terms: &[Term] = match expr {
        Expr::Sum(terms) => terms,
        _ => &single,
    };
    let mut seen: Vec<Vec<(String, String)>> = Vec::new();
    for term in terms {
        let Some(mut monomial) = monomial(&term.expr) else {
            return false;
        };
        monomial.sort();
        if seen.contains(&monomial) {
            return false;
        }
        seen.push(monomial);
    }
    true
}

/// The varying factors of a term, each base once, with its exponent; `None` if it is not multiplied out.
fn monomial(expr: &Expr) -> Option<Vec<(String, String)>> {
    let inner = match expr {
        Expr::Negative(e) | Expr::Positive(e) => e,
        other => other,
    };
    let single = [Factor {
        joint: Joint::Times,
        expr: inner.clone(),
    }];
    let factors: &[Factor] = match inner {
        Expr::Product(factors) => factors,
        _ => &single,
    };
    let mut found: Vec<(String, String)> = Vec::new();
    let mut numbers = 0;
    for factor in factors {
        let e = &factor.expr;
        if !e.has_variable() {
            // One number, with one divisor.
            let rational = exact_value(e).is_some();
            numbers += usize::from(rational && factor.joint != Joint::Over);
            if numbers > 1 {
                return None;
            }
            if !rational {
                found.push((
                    crate::print::text(e),
                    format!("{:?}", factor.joint == Joint::Over),
                ));
            }
            continue;
        }
        let (base, exponent) = match e {
            Expr::Power(base, exponent) => (&**base, crate::print::text(exponent)),
            other => (other, "1".to_owned()),
        };
        // `sin^2 x` is kept as a power of the bracketed call.
        let base = if matches!(base.bare(), Expr::Call(..)) {
            base.bare()
        } else {
            base
        };
        if matches!(
            base,
            Expr::Group(_) | Expr::Sum(_) | Expr::Product(_) | Expr::Negative(_)
        ) {
            return None;
        }
        let base = crate::print::text(base);
        if found.iter().any(|(b, _)| *b == base) {
            return None;
        }
        let sign = if factor.joint == Joint::Over { "/" } else { "" };
        found.push((base, format!("{sign}{exponent}")));
    }
    Some(found)
}

/// The factors of a product, powers and brackets taken apart. `None` if something is divided by what varies.
fn product_factors<'a>(expr: &'a Expr, into: &mut Vec<&'a Expr>) -> Option<()> {
    match expr {
        Expr::Group(e) | Expr::Positive(e) | Expr::Negative(e) => product_factors(e, into),
        Expr::Product(factors) => {
            for factor in factors {
                if factor.joint == Joint::Over && factor.expr.has_variable() {
                    return None;
                }
                product_factors(&factor.expr, into)?;
            }
            Some(())
        }
        Expr::Power(base, exponent)
            if exact_value(exponent).is_some_and(|r| r.is_integer() && r.is_positive())
                && base.has_variable() =>
        {
            product_factors(base, into)
        }
        other => {
            into.push(other);
            Some(())
        }
    }
}

fn is_factored(expr: &Expr) -> bool {
    let mut factors = Vec::new();
    if product_factors(expr, &mut factors).is_none() {
        return false;
    }
    let varying: Vec<&Expr> = factors.iter().copied().filter(|f| f.has_variable()).collect();
    let lone = matches!(unsigned(expr), Expr::Sum(_));
    varying.iter().all(|f| {
        let Some((poly, content)) = whole_poly(f, &f.variables()) else {
            return !lone || !matches!(f, Expr::Sum(_));
        };
        if lone && matches!(f, Expr::Sum(_)) && !content.abs().is_one() {
            return false;
        }
        is_reducible(&poly) != Some(true) || poly.terms.len() == 1
    })
}

fn whole_poly(expr: &Expr, names: &[Arc<str>]) -> Option<(WholePoly, BigRational)> {
    let terms = Domain::default().normaliser().polynomial(expr)?;
    Some(WholePoly::primitive(&terms, names))
}

/// Top and bottom of a single fraction; a polynomial has none below.
fn as_single_fraction(expr: &Expr) -> Option<(Expr, Option<Expr>)> {
    let inner = match expr.bare() {
        Expr::Negative(e) => e.bare(),
        other => other,
    };
    let plain = |e: &Expr| {
        !e.any(&|part| match part {
            Expr::Product(factors) => factors.iter().any(|f| f.joint == Joint::Over),
            Expr::Power(_, exponent) => exact_value(exponent).is_some_and(|r| r.is_negative()),
            Expr::Number(l) => l.style == LiteralStyle::Vulgar,
            _ => false,
        })
    };
    if let Expr::Number(l) = inner
        && l.style == LiteralStyle::Vulgar
    {
        let part = |n: &BigInt| Expr::whole(n.clone());
        return Some((part(l.value.numer()), Some(part(l.value.denom()))));
    }
    if let Expr::Product(factors) = inner
        && let Some((
            Factor {
                joint: Joint::Over,
                expr: bottom,
            },
            top,
        )) = factors.split_last()
        && top.iter().all(|f| f.joint != Joint::Over)
    {
        let top = match top {
            [only] => only.expr.clone(),
            several => Expr::Product(several.to_vec()),
        };
        return (plain(&top) && plain(bottom)).then(|| (top, Some(bottom.clone())));
    }
    plain(inner).then(|| (inner.clone(), None))
}

fn is_in_lowest_terms(expr: &Expr) -> bool {
    let Some((top, bottom)) = as_single_fraction(expr) else {
        return false;
    };
    let Some(bottom) = bottom else { return true };
    let mut names = top.variables();
    names.extend(bottom.variables());
    names.sort();
    names.dedup();
    let (Some((p, c)), Some((q, d))) = (whole_poly(&top, &names), whole_poly(&bottom, &names)) else {
        return true;
    };
    let numbers = c.is_integer() && d.is_integer() && c.numer().gcd(d.numer()).is_one();
    numbers && gcd(&p, &q).is_none_or(|g| g.is_constant())
}
