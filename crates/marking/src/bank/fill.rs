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

/// Puts `{{name}}` and `{{name|places}}` in place. In a key a value keeps its brackets, unless it
/// is rounded; in maths signs and
/// coefficients are tidied (`+ -3`, `1x`).
pub(super) fn fill(template: &str, drawn: &Drawn, place: Place) -> Result<String, RenderError> {
    let mut out = String::with_capacity(template.len());
    let mut rest = template;
    let mut in_maths = false;
    while let Some(start) = rest.find("{{") {
        let (before, from) = rest.split_at(start);
        in_maths ^= before.matches('$').count() % 2 == 1;
        let after = from.get(2..).unwrap_or_default();
        let slot = after.split_once("}}").filter(|(inside, _)| is_slot(inside));
        let Some((inside, tail)) = slot else {
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
                None => out.push_str(&format!("({})", maths::text(value))),
            },
            Place::Prose => {
                let shown = show(name, value, places)?;
                if in_maths {
                    push_tidied(&mut out, &shown, tail)
                } else {
                    out.push_str(&shown.replace('-', "−"))
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

fn push_tidied(out: &mut String, shown: &str, tail: &str) {
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
fn fixed(value: &BigRational, places: u32) -> String {
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
