//! An answer as a student would type it: numbers worked out and rounded as asked for, collections member by member.

use maths::{Names, ReadOptions};
use num_rational::BigRational;
use num_traits::{Signed, Zero};

use super::fill::fixed;
use super::tidy::tidy_signs;
use crate::answer::{AnswerBlock, Kind, Tolerance};
use crate::calculator::calculate;

/// A formula of the block's kind as a hand would write its result, without a unit.
///
/// ```
/// use marking::{AnswerBlock, Kind, Tolerance, by_hand};
/// let mut block = AnswerBlock::plain(Kind::Number, "0");
/// block.tolerance = Some(Tolerance::Decimals(1));
/// assert_eq!(by_hand(&block, "80/tan(35°)"), "114.3");
/// let pair = AnswerBlock::plain(Kind::Tuple, "0");
/// assert_eq!(by_hand(&pair, "(2, 3*2+(-1))"), "(2, 5)");
/// ```
pub fn by_hand(block: &AnswerBlock, formula: &str) -> String {
    match block.kind {
        Kind::Number if block.form.is_none() => number(formula, block.tolerance.as_ref()),
        Kind::Interval | Kind::Tuple | Kind::Vector | Kind::Matrix | Kind::Set | Kind::List => {
            members(formula)
        }
        Kind::Text => formula.to_owned(),
        _ => tidy_signs(formula),
    }
}

fn number(formula: &str, tolerance: Option<&Tolerance>) -> String {
    let rounded = |places: i64| rounded(formula, places);
    let found = match tolerance {
        Some(Tolerance::Decimals(n)) => rounded(i64::from(*n)),
        Some(Tolerance::Significant(n)) => first_place(formula).and_then(|p| rounded(i64::from(*n) - 1 - p)),
        Some(Tolerance::Relative(_)) => first_place(formula).and_then(|p| rounded(3 - p)),
        Some(Tolerance::Absolute(width)) => {
            let whole = width
                .exact()
                .is_some_and(|w| w >= BigRational::new(1.into(), 2.into()));
            if whole {
                rounded(0)
            } else {
                first_place(formula).and_then(|p| rounded(3 - p))
            }
        }
        None => None,
    };
    found
        .or_else(|| {
            calculate(formula, None)
                .ok()
                .filter(|c| c.exact)
                .map(|c| c.result)
        })
        .unwrap_or_else(|| tidy_signs(formula))
}

fn near(formula: &str) -> Option<BigRational> {
    let names = Names::new([]).ok()?;
    let tree = maths::read_expression(formula, &ReadOptions::number(&names))
        .ok()?
        .tree;
    match maths::exact_value(&tree) {
        Some(value) => Some(value),
        None => BigRational::from_float(maths::approximate(&tree).ok()?),
    }
}

/// n with 10^n ≤ |value| < 10^(n+1).
fn first_place(formula: &str) -> Option<i64> {
    let value = near(formula).filter(|v| !v.is_zero())?.abs();
    (-30..30i64)
        .rev()
        .find(|n| value >= crate::mark::power_of_ten(*n))
}

/// To so many decimals; below nought, whole tens, hundreds and so on.
fn rounded(formula: &str, places: i64) -> Option<String> {
    let scale = crate::mark::power_of_ten(places);
    let value = (near(formula)? * &scale).round() / scale;
    let whole = value.round().to_integer();
    match u32::try_from(places) {
        Ok(0) | Err(_) => Some(whole.to_string()),
        Ok(places) => Some(fixed(&value, places)),
    }
}

/// Each member of a collection worked out, its brackets and commas left as they are.
fn members(formula: &str) -> String {
    let text = formula.trim();
    let inner = text
        .strip_prefix(['(', '[', '{', '<'])
        .and_then(|rest| rest.strip_suffix([')', ']', '}', '>']));
    let Some(inner) = inner else {
        return pieces(text);
    };
    let open: String = text.chars().take(1).collect();
    let close: String = text.chars().next_back().into_iter().collect();
    format!("{open}{}{close}", pieces(inner))
}

fn pieces(text: &str) -> String {
    let (mut depth, mut start, mut out) = (0i32, 0, Vec::new());
    for (at, c) in text.char_indices() {
        match c {
            '(' | '[' | '{' => depth += 1,
            ')' | ']' | '}' => depth -= 1,
            ',' | ';' if depth == 0 => {
                out.push(piece(text.get(start..at).unwrap_or_default()));
                start = at + 1;
            }
            _ => {}
        }
    }
    out.push(piece(text.get(start..).unwrap_or_default()));
    out.join(", ")
}

fn piece(text: &str) -> String {
    let text = text.trim();
    if text.starts_with('[') {
        return members(text);
    }
    match calculate(text, None) {
        Ok(found) if found.exact => found.result,
        _ => tidy_signs(text),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::answer::NumberText;

    #[rstest]
    #[case::decimals(Some(Tolerance::Decimals(2)), "230/60", "3.83")]
    #[case::whole(Some(Tolerance::Decimals(0)), "440/1.1*1.0001", "400")]
    #[case::figures(Some(Tolerance::Significant(3)), "15*2*pi*1440/60", "2260")]
    #[case::small_figures(Some(Tolerance::Significant(3)), "0.576123", "0.576")]
    #[case::relative(Some(Tolerance::Relative(NumberText::Text("0.005".into()))), "12.5*9.81", "122.6")]
    #[case::absolute(Some(Tolerance::Absolute(NumberText::Whole(1))), "860*9.81/3", "2812")]
    #[case::exact(None, "40*7/12", "70/3")]
    #[case::decimal(None, "0.35*120", "42")]
    #[case::root(None, "9*sqrt(7)", "9*sqrt(7)")]
    #[case::negative(Some(Tolerance::Decimals(1)), "-7/3", "-2.3")]
    fn numbers_are_rounded_as_asked(
        #[case] tolerance: Option<Tolerance>,
        #[case] formula: &str,
        #[case] typed: &str,
    ) {
        let mut block = AnswerBlock::plain(Kind::Number, "1");
        block.tolerance = tolerance;
        assert_eq!(by_hand(&block, formula), typed);
    }

    #[rstest]
    #[case(Kind::Interval, "[7-1.5, 7+2)", "[5.5, 9)")]
    #[case(Kind::Interval, "((-2), 22]", "(-2, 22]")]
    #[case(Kind::Matrix, "[[5-3, 2-(-4)], [1, 0]]", "[[2, 6], [1, 0]]")]
    #[case(Kind::Vector, "<3+4, (-2)+5>", "<7, 3>")]
    #[case(Kind::Set, "{ 3, 4 }", "{3, 4}")]
    #[case(Kind::Equation, "y = 3x + (-6)", "y = 3x - 6")]
    #[case(Kind::Text, "padlock", "padlock")]
    fn members_are_worked_out(#[case] kind: Kind, #[case] formula: &str, #[case] typed: &str) {
        assert_eq!(by_hand(&AnswerBlock::plain(kind, "0"), formula), typed);
    }
}
