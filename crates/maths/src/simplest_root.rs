//! Numbers with roots, written as simply as they go: `9√7`, `(1 + √5)/2`.

use num_bigint::BigInt;
use num_integer::Integer;
use num_rational::BigRational;
use num_traits::{One, Signed, ToPrimitive, Zero};

use crate::exact::exact_value;
use crate::tree::{Expr, Factor, Function, Joint, Term};

/// The largest radicand that is looked through for squares; what is larger counts as simple.
const LARGEST_RADICAND: u64 = 1_000_000_000_000;

/// Whether no square is left under a square root (no cube under a cube root), no root is below a fraction line, no two
/// roots are multiplied, no two terms have the same root, and nothing can be cancelled.
pub(crate) fn is_simplest_root(expr: &Expr) -> bool {
    if expr.any(&|e| root_of(e).is_some_and(|(index, under)| !is_free_of_powers(under, index))) {
        return false;
    }
    is_tidy(expr)
}

/// Index and radicand of a root: `sqrt(7)`, `root(3, 7)`, `7^(1/2)`, `7^(2/3)`.
fn root_of(expr: &Expr) -> Option<(u32, &Expr)> {
    match expr {
        Expr::Call(Function::Sqrt, args) => Some((2, args.first()?)),
        Expr::Call(Function::Cbrt, args) => Some((3, args.first()?)),
        Expr::Call(Function::Root, args) => match args.as_slice() {
            [index, under] => Some((exact_value(index)?.to_integer().to_u32()?, under)),
            _ => None,
        },
        Expr::Power(base, exponent) => {
            let exponent = exact_value(exponent)?;
            (!exponent.is_integer()).then_some((exponent.denom().to_u32()?, &**base))
        }
        _ => None,
    }
}

fn has_root(expr: &Expr) -> bool {
    expr.any(&|e| root_of(e).is_some())
}

fn is_free_of_powers(under: &Expr, index: u32) -> bool {
    let Some(value) = exact_value(under) else {
        return true;
    };
    if !value.is_integer() || value.is_negative() || value <= BigRational::one() {
        return false;
    }
    let Some(whole) = value.to_integer().to_u64().filter(|n| *n <= LARGEST_RADICAND) else {
        return true;
    };
    (2u64..)
        .map_while(|d| d.checked_pow(index).filter(|power| *power <= whole))
        .all(|power| whole % power != 0)
}

fn is_tidy(expr: &Expr) -> bool {
    match expr {
        Expr::Group(e) | Expr::Negative(e) | Expr::Positive(e) => is_tidy(e),
        Expr::Sum(terms) => {
            let mut seen: Vec<String> = Vec::new();
            terms.iter().all(|term| {
                let root = root_text(&term.expr);
                let new = !seen.contains(&root);
                seen.push(root);
                new && is_tidy(&term.expr)
            })
        }
        Expr::Product(factors) => is_tidy_product(factors),
        // `sqrt(7)^2` is 7, `7^(3/2)` is `7 sqrt(7)`, and a negative power puts the root below the line.
        Expr::Power(base, exponent) if has_root(base) || root_of(expr).is_some() => {
            exact_value(exponent).is_none_or(|e| e.is_positive() && e < BigRational::one())
        }
        _ => true,
    }
}

fn is_tidy_product(factors: &[Factor]) -> bool {
    let above = |f: &&Factor| f.joint != Joint::Over;
    let rooted = factors.iter().filter(|f| has_root(&f.expr)).count();
    let numbers = factors
        .iter()
        .filter(above)
        .filter(|f| exact_value(&f.expr).is_some())
        .count();
    if rooted > 1 || numbers > 1 {
        return false;
    }
    let mut below = BigInt::one();
    for factor in factors.iter().filter(|f| f.joint == Joint::Over) {
        if has_root(&factor.expr) {
            return false;
        }
        match exact_value(&factor.expr).filter(BigRational::is_integer) {
            Some(number) => below *= number.to_integer(),
            None => return true,
        }
    }
    let mut common = BigInt::one();
    for factor in factors.iter().filter(above) {
        match coefficients(&factor.expr) {
            Some(all) => common *= all.iter().fold(BigInt::zero(), |gcd, c| gcd.gcd(c)),
            None => return factors.iter().all(|f| is_tidy(&f.expr)),
        }
    }
    common.gcd(&below).is_one() && factors.iter().all(|f| is_tidy(&f.expr))
}

/// The whole numbers in front of the terms; `None` if one is not whole.
fn coefficients(expr: &Expr) -> Option<Vec<BigInt>> {
    match expr.bare() {
        Expr::Negative(e) | Expr::Positive(e) => coefficients(e),
        Expr::Sum(terms) => {
            let each: Option<Vec<Vec<BigInt>>> =
                terms.iter().map(|Term { expr, .. }| coefficients(expr)).collect();
            Some(each?.concat())
        }
        Expr::Product(factors) => {
            let mut product = BigInt::one();
            for factor in factors {
                if factor.joint == Joint::Over {
                    return None;
                }
                match coefficients(&factor.expr)?.as_slice() {
                    [one] => product *= one,
                    _ => return None,
                }
            }
            Some(vec![product])
        }
        e if root_of(e).is_some() => Some(vec![BigInt::one()]),
        e => {
            let value = exact_value(e)?;
            value.is_integer().then(|| vec![value.to_integer()])
        }
    }
}

/// The roots of a term as text: terms with the same one belong together.
fn root_text(expr: &Expr) -> String {
    match expr.bare() {
        Expr::Negative(e) | Expr::Positive(e) => root_text(e),
        Expr::Product(factors) => factors.iter().map(|f| root_text(&f.expr)).collect(),
        e if has_root(e) => match root_of(e) {
            Some((index, under)) => format!("{index}/{}", crate::print::text(under)),
            None => crate::print::text(e),
        },
        _ => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::is_simplest_root;
    use crate::{Names, ReadOptions, read_expression};

    fn is_simple(text: &str) -> bool {
        let names = Names::new([]).unwrap();
        is_simplest_root(&read_expression(text, &ReadOptions::number(&names)).unwrap().tree)
    }

    #[test]
    fn what_a_hand_would_leave_is_simple() {
        for text in [
            "9 sqrt(7)",
            "9√7",
            "-sqrt(2)",
            "sqrt(2)/2",
            "(1 + sqrt(5))/2",
            "3 + 2 sqrt(3)",
            "7*cbrt(2)",
            "2*7^(1/2)",
            "5",
            "3/4",
            "(3 sqrt(2))/4",
            "1/2 sqrt(3)",
            "sqrt(2) + sqrt(3)",
            "root(4, 8)",
            "2 sqrt(15)",
            "pi sqrt(2)",
        ] {
            assert!(is_simple(text), "{text}");
        }
    }

    #[test]
    fn what_can_be_tidied_is_not() {
        for text in [
            "sqrt(567)",
            "3 sqrt(63)",
            "sqrt(4)",
            "sqrt(1/2)",
            "1/sqrt(2)",
            "sqrt(2) sqrt(3)",
            "2 sqrt(7) + 7 sqrt(7)",
            "(18 sqrt(7))/2",
            "3*3 sqrt(7)",
            "cbrt(16)",
            "567^(1/2)",
            "(2 + 4 sqrt(3))/2",
            "sqrt(7)^3",
            "7^(-1/2)",
            "2 + 3 + sqrt(2)",
            "sqrt(7)^(-1)",
        ] {
            assert!(!is_simple(text), "{text}");
        }
    }

    #[test]
    fn every_square_is_found() {
        for n in 2..400u32 {
            let free = (2..20).all(|d| n % (d * d) != 0);
            assert_eq!(is_simple(&format!("sqrt({n})")), free, "{n}");
            assert!(!is_simple(&format!("sqrt({})", n * n)), "{n}");
        }
    }
}
