//! Signs in a key as one would write them: a number that was put in place of a name keeps its brackets, `2x + (-6)`.

/// Takes the brackets off negative numbers where a sign alone says the same: `x + (-6)` becomes `x - 6`, `x - (-6)` becomes
/// `x + 6`, and a bracket at the beginning of a side, an entry or a bracket goes. A bracket before a power stays.
///
/// ```
/// assert_eq!(marking::tidy_signs("y = (-3)*x + (-6)"), "y = -3*x - 6");
/// assert_eq!(marking::tidy_signs("(-3)^2 + (-2)^2"), "(-3)^2 + (-2)^2");
/// ```
pub fn tidy_signs(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find("(-") {
        let (before, bracket) = rest.split_at(at);
        out.push_str(before);
        let number = bracket.get(2..).and_then(|inner| inner.split_once(')'));
        let Some((number, after)) = number.filter(|(n, after)| is_number(n) && !raised(after)) else {
            out.push_str("(-");
            rest = bracket.get(2..).unwrap_or_default();
            continue;
        };
        let held = out.trim_end();
        let last = held.chars().next_back();
        match last {
            Some(sign @ ('+' | '-')) if ends_a_term(held) => {
                let kept = held.len() - 1;
                out.truncate(kept);
                out.push(if sign == '+' { '-' } else { '+' });
                out.push(' ');
                out.push_str(number);
            }
            None | Some('=' | ',' | ';' | '[' | '(' | '<' | '{') => {
                out.push('-');
                out.push_str(number);
            }
            _ => {
                out.push_str("(-");
                out.push_str(number);
                out.push(')');
            }
        }
        rest = after;
    }
    out.push_str(rest);
    out
}

fn is_number(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| c.is_ascii_digit() || c == '.') && text != "."
}

fn raised(after: &str) -> bool {
    after.trim_start().starts_with(['^', '!', '°', '%'])
}

/// Whether a sign stands between two terms, not before the first one.
fn ends_a_term(held: &str) -> bool {
    let before = held.get(..held.len() - 1).unwrap_or_default().trim_end();
    before
        .chars()
        .next_back()
        .is_some_and(|c| c.is_alphanumeric() || matches!(c, ')' | ']' | '}' | '°' | '%' | '!'))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::plus("2x + (-6)", "2x - 6")]
    #[case::minus("2x - (-6)", "2x + 6")]
    #[case::first("(-3)*x", "-3*x")]
    #[case::both_sides("(-3)*x = (-2)", "-3*x = -2")]
    #[case::entries("[[(-1), 2], [3, (-4)]]", "[[-1, 2], [3, -4]]")]
    #[case::vector("<(-1)+(-2), 3>", "<-1- 2, 3>")]
    #[case::after_times("2*(-3)", "2*(-3)")]
    #[case::power("x + (-3)^2", "x + (-3)^2")]
    #[case::in_a_bracket("((-3) + x)^2", "(-3 + x)^2")]
    #[case::function("sqrt((-3) + 7)", "sqrt(-3 + 7)")]
    #[case::not_a_number("(-x) + (-y)", "(-x) + (-y)")]
    #[case::sign_of_the_first("-(-3)", "-(-3)")]
    #[case::open("x + (-3", "x + (-3")]
    #[case::decimal("x + (-2.5)", "x - 2.5")]
    #[case::nothing("", "")]
    fn signs_are_tidied(#[case] key: &str, #[case] tidy: &str) {
        assert_eq!(tidy_signs(key), tidy);
    }
}
