//! Numbers put in place of their names, as a hand would write them.

use maths::{Expr, exact_value};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

use super::draw::Drawn;
use super::render::RenderError;

#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Place {
    Prose,
    Key,
}

/// Puts `{{name}}` and `{{name|places}}` in place. In a key a value keeps its brackets where it would read otherwise
/// without them; in maths signs, coefficients and brackets are tidied (`+ -3`, `1x`, `+ (3)`), and from five digits on
/// whole numbers are grouped in threes.
pub(super) fn fill(template: &str, drawn: &Drawn, place: Place) -> Result<String, RenderError> {
    let mut out = String::with_capacity(template.len());
    let mut rest = template;
    let mut in_maths = false;
    while let Some(start) = rest.find("{{") {
        let (before, from) = rest.split_at(start);
        in_maths ^= before.matches('$').count() % 2 == 1;
        let after = from.get(2..).unwrap_or_default();
        let slot = after.split_once("}}").filter(|(inside, _)| is_slot(inside));
        let Some((inside, mut tail)) = slot else {
            let shown = after.split_once("}}").map_or(after, |(inside, _)| inside);
            if place == Place::Prose && !in_maths && !shown.starts_with('{') {
                return Err(RenderError::NoNumber(shown.to_owned()));
            }
            // `{{{a}}}`: the first brace is LaTeX's.
            out.push_str(before);
            out.push('{');
            rest = from.get(1..).unwrap_or_default();
            continue;
        };
        out.push_str(before);
        let (name, places) = match inside.split_once('|') {
            Some((name, places)) => (name, places.parse::<u32>().ok()),
            None => (inside, None),
        };
        let value = drawn
            .values
            .get(name)
            .ok_or_else(|| RenderError::UnknownNumber(name.to_owned()))?;
        match place {
            Place::Key => match places {
                // As it has to be typed: a key of a form cannot hold a fraction.
                Some(_) => out.push_str(&show(name, value, places)?),
                None => push_in_key(&mut out, &maths::text(value), tail),
            },
            Place::Prose => {
                let shown = show(name, value, places)?;
                if in_maths {
                    let shown = group_digits(&shown, "\\,");
                    tail = push_tidied(&mut out, &shown, tail);
                } else {
                    out.push_str(&group_digits(&shown, "\u{202f}").replace('-', "−"));
                }
            }
        }
        rest = tail;
    }
    out.push_str(rest);
    Ok(out)
}

fn is_slot(inside: &str) -> bool {
    let (name, places) = inside.split_once('|').map_or((inside, "0"), |(n, p)| (n, p));
    name.chars().next().is_some_and(char::is_alphabetic)
        && name.chars().all(|c| c.is_alphanumeric() || c == '_')
        && !places.is_empty()
        && places.chars().all(|c| c.is_ascii_digit())
}

/// Puts a value into a key: bare where nothing beside it could be read together with it.
fn push_in_key(out: &mut String, value: &str, tail: &str) {
    let plain = value.chars().all(|c| c.is_ascii_digit() || c == '.');
    let before = out.trim_end().chars().next_back();
    let apart_before =
        before.is_none_or(|c| !(c.is_alphanumeric() || matches!(c, ')' | '.' | '/' | '^' | '_')));
    let mut after = tail.trim_start().chars();
    let apart_after = match after.next() {
        Some('e' | 'E') => !after
            .next()
            .is_some_and(|c| c.is_ascii_digit() || matches!(c, '+' | '-')),
        Some(c) => !(c.is_ascii_digit() || matches!(c, '.' | '{')),
        None => true,
    };
    // `a/b`, `a^b` are as plain as can be.
    let simple_divisor = matches!(before, Some('/' | '^'))
        && tail
            .trim_start()
            .chars()
            .next()
            .is_none_or(|c| matches!(c, '+' | '-' | '*' | '/' | ')' | ',' | ';' | '=' | ']'));
    if plain && apart_after && (apart_before || simple_divisor) {
        out.push_str(value);
    } else {
        out.push_str(&format!("({value})"));
    }
}

/// The whole part of a number in threes, from five digits on (ISO 80000-1).
fn group_digits(shown: &str, between: &str) -> String {
    let whole = shown.trim_start_matches('-');
    let sign = shown.len() - whole.len();
    let digits = whole.chars().take_while(char::is_ascii_digit).count();
    if digits < 5 || whole.contains('/') {
        return shown.to_owned();
    }
    let mut out: String = shown.chars().take(sign).collect();
    for (i, c) in whole.chars().enumerate() {
        if i > 0 && i < digits && (digits - i).is_multiple_of(3) {
            out.push_str(between);
        }
        out.push(c);
    }
    out
}

/// Puts a value into maths. Gives what of the template is left: a closing bracket that is not needed goes too.
fn push_tidied<'a>(out: &mut String, shown: &str, tail: &'a str) -> &'a str {
    if let Some(head) = out.strip_suffix('(')
        && let Some(after) = tail.strip_prefix(')')
        && !shown.starts_with('-')
        && !shown.contains('/')
        && stands_after_a_sign(head)
    {
        out.truncate(out.len() - 1);
        out.push_str(shown);
        return after;
    }
    push_bare(out, shown, tail);
    tail
}

/// Whether what comes next is set apart by a sign of its own: `3 + (`, `2 \\cdot (`.
fn stands_after_a_sign(head: &str) -> bool {
    let head = head.trim_end();
    head.is_empty()
        || head.ends_with(['+', '-', '=', '$', '>', '<'])
        || ["\\cdot", "\\times", "\\div"]
            .iter()
            .any(|sign| head.ends_with(sign))
}

fn push_bare(out: &mut String, shown: &str, tail: &str) {
    let mut shown = shown.to_owned();
    if let Some(size) = shown.strip_prefix('-') {
        let trimmed = out.trim_end().to_owned();
        if let Some(head) = trimmed.strip_suffix('+') {
            let size = size.to_owned();
            *out = format!("{head}- ");
            shown = size;
        } else if let Some(head) = trimmed.strip_suffix('-') {
            let size = size.to_owned();
            *out = format!("{head}+ ");
            shown = size;
        }
    }
    let multiplies = tail.starts_with(|c: char| c.is_ascii_alphabetic() || c == '(')
        || tail.starts_with("\\sqrt")
        || tail.starts_with("\\pi")
        || tail.starts_with("\\theta");
    let after_factor =
        out.ends_with(|c: char| c.is_ascii_alphanumeric() || matches!(c, '{' | '^' | '.' | '}'));
    if multiplies && !after_factor && (shown == "1" || shown == "-1") {
        shown.pop();
    }
    out.push_str(&shown);
}

/// A value as people write it: a short decimal, else a fraction, else rounded to the places asked for.
fn show(name: &str, value: &Expr, places: Option<u32>) -> Result<String, RenderError> {
    if let Some(places) = places {
        let rounded = round(value, places).ok_or_else(|| RenderError::NeedsPlaces(name.to_owned()))?;
        return Ok(fixed(&rounded, places));
    }
    let exact = exact_value(value).ok_or_else(|| RenderError::NeedsPlaces(name.to_owned()))?;
    if exact.is_integer() {
        return Ok(exact.to_integer().to_string());
    }
    for places in 1..=6 {
        let scaled = &exact * BigRational::from(num_traits::pow(BigInt::from(10), places as usize));
        if scaled.is_integer() {
            return Ok(fixed(&exact, places));
        }
    }
    Ok(format!("{}/{}", exact.numer(), exact.denom()))
}

fn round(value: &Expr, places: u32) -> Option<BigRational> {
    let scale = BigRational::from(num_traits::pow(BigInt::from(10), usize::try_from(places).ok()?));
    if let Some(v) = exact_value(value) {
        return Some((v * &scale).round() / scale);
    }
    let near = BigRational::from_float(maths::approximate(value).ok()?)?;
    Some((near * &scale).round() / scale)
}

/// Decimals with trailing noughts kept; the value must have no more places.
pub(super) fn fixed(value: &BigRational, places: u32) -> String {
    let scale = num_traits::pow(BigInt::from(10), usize::try_from(places).unwrap_or(0));
    let scaled = (value * BigRational::from(scale.clone())).round().to_integer();
    if scale.is_one() {
        return scaled.to_string();
    }
    let sign = if scaled.is_negative() { "-" } else { "" };
    let size = scaled.abs();
    let (whole, fraction) = (&size / &scale, &size % &scale);
    let width = usize::try_from(places).unwrap_or(0);
    let fraction = if fraction.is_zero() {
        "0".repeat(width)
    } else {
        format!("{fraction:0>width$}")
    };
    format!("{sign}{whole}.{fraction}")
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::sum("3 + ", "5", "", "5")]
    #[case::coefficient("", "3", "x + 1", "3")]
    #[case::negative("x + ", "-5", "", "(-5)")]
    #[case::fraction("2*", "3/4", "", "(3/4)")]
    #[case::after_a_number("2", "5", "", "(5)")]
    #[case::after_a_letter("x", "5", "", "(5)")]
    #[case::mixed_look("2 ", "1", "/3", "(1)")]
    #[case::exponent_look("", "3", "e5", "(3)")]
    #[case::e_itself("", "3", "e^x", "3")]
    #[case::divisor("x/", "3", "", "3")]
    #[case::divisor_of_more("1/", "3", "x", "(3)")]
    #[case::power("x^", "3", " + 1", "3")]
    fn a_key_keeps_the_brackets_it_needs(
        #[case] before: &str,
        #[case] value: &str,
        #[case] tail: &str,
        #[case] put: &str,
    ) {
        let mut out = before.to_owned();
        push_in_key(&mut out, value, tail);
        assert_eq!(out, format!("{before}{put}"));
    }

    #[rstest]
    #[case("970000", "970 000")]
    #[case("-12345.6789", "-12 345.6789")]
    #[case("1440", "1440")]
    #[case("100000/3", "100000/3")]
    #[case("0.00001", "0.00001")]
    fn digits_are_grouped_in_threes(#[case] plain: &str, #[case] grouped: &str) {
        assert_eq!(group_digits(plain, " "), grouped);
    }

    #[rstest]
    #[case("$5 + (", "6", ")$", "$5 + 6$")]
    #[case("$2 \\cdot (", "3", ")$", "$2 \\cdot 3$")]
    #[case("$5 + (", "-6", ")$", "$5 + (-6)$")]
    #[case("$\\sin(", "30", ")$", "$\\sin(30)$")]
    #[case("$2(", "3", ")$", "$2(3)$")]
    #[case("$5 + ", "-6", "$", "$5 - 6$")]
    fn a_working_is_written_as_by_hand(
        #[case] before: &str,
        #[case] value: &str,
        #[case] tail: &str,
        #[case] wanted: &str,
    ) {
        let mut out = before.to_owned();
        let rest = push_tidied(&mut out, value, tail);
        assert_eq!(format!("{out}{rest}"), wanted);
    }
}
