//! What a program gave beside what was expected, in words.

use super::Compare;
use crate::program::{CaseReport, ProgramError, ProgramFault, Report};

/// Characters of input and output that are shown.
const LONGEST_SHOWN: usize = 2_000;
/// What a step counts as: they are counted in tens of thousands.
const STEPS_COUNTED: u64 = 10_000;

#[derive(Default)]
pub(super) struct Seen {
    pub met: bool,
    pub words: String,
    pub input: Option<String>,
    pub expected: Option<String>,
    pub actual: Option<String>,
}

fn met(words: &str) -> Seen {
    Seen {
        met: true,
        words: words.to_owned(),
        ..Seen::default()
    }
}

fn not_met(words: impl Into<String>) -> Seen {
    Seen {
        words: words.into(),
        ..Seen::default()
    }
}

/// Why a run that is missing is missing.
fn ended(all: &Report) -> Seen {
    let error = all
        .ended
        .clone()
        .unwrap_or_else(|| ProgramError::new(ProgramFault::Time));
    not_met(error.words())
}

fn short(text: &str) -> String {
    if text.chars().count() <= LONGEST_SHOWN {
        return text.to_owned();
    }
    text.chars().take(LONGEST_SHOWN).chain(['…']).collect()
}

pub(super) fn prints(
    input: &str,
    compare: Compare,
    found: &[CaseReport],
    wanted: &[CaseReport],
    all: &Report,
) -> Seen {
    let (Some(case), Some(right)) = (found.first(), wanted.first()) else {
        return ended(all);
    };
    let shown = |seen: Seen| Seen {
        input: Some(short(input)).filter(|i| !i.is_empty()),
        expected: Some(short(&right.output)),
        actual: Some(short(&case.output)),
        ..seen
    };
    if let Some(error) = &case.error {
        return shown(not_met(error.words()));
    }
    if is_same_output(&case.output, &right.output, compare) {
        return met("What it prints is right.");
    }
    shown(not_met(difference(&case.output, &right.output, compare)))
}

/// Without blanks at the ends of lines and empty lines at the end, which nobody sees.
fn visible(output: &str) -> Vec<&str> {
    let mut lines: Vec<&str> = output.lines().map(str::trim_end).collect();
    while lines.last().is_some_and(|l| l.is_empty()) {
        lines.pop();
    }
    lines
}

fn bare(text: &str) -> String {
    text.split_whitespace().collect::<String>().to_lowercase()
}

fn is_same_output(found: &str, wanted: &str, compare: Compare) -> bool {
    match compare {
        Compare::Exact => visible(found) == visible(wanted),
        Compare::Loose => bare(found) == bare(wanted),
    }
}

const NTH: [&str; 9] = [
    "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth",
];

fn nth_line(place: usize) -> String {
    NTH.get(place)
        .map_or_else(|| format!("line {}", place + 1), |n| format!("{n} line"))
}

fn characters(n: usize) -> String {
    if n == 1 {
        "one character".into()
    } else {
        format!("{n} characters")
    }
}

fn lines(n: usize) -> String {
    if n == 1 {
        "one line".into()
    } else {
        format!("{n} lines")
    }
}

fn upper(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| {
        first.to_uppercase().collect::<String>() + letters.as_str()
    })
}

/// The first place where the output is another one than expected.
fn difference(found: &str, wanted: &str, compare: Compare) -> String {
    let (found, wanted) = (visible(found), visible(wanted));
    if found.is_empty() {
        return "It prints nothing.".into();
    }
    let same = |a: &str, b: &str| match compare {
        Compare::Exact => a == b,
        Compare::Loose => bare(a) == bare(b),
    };
    let differs = found.iter().zip(&wanted).position(|(a, b)| !same(a, b));
    let Some(place) = differs else {
        return if found.len() < wanted.len() {
            format!("{} missing at the end.", upper(&are(wanted.len() - found.len())))
        } else {
            format!("{} too many at the end.", upper(&are(found.len() - wanted.len())))
        };
    };
    let line = |all: &[&str]| all.get(place).copied().unwrap_or_default().to_owned();
    let (came, right) = (line(&found), line(&wanted));
    let the = match nth_line(place) {
        n if n.starts_with("line") => upper(&n),
        n => format!("The {n}"),
    };
    let (short_by, long_by) = (
        right.strip_prefix(came.as_str()).map(|rest| rest.chars().count()),
        came.strip_prefix(right.as_str()).map(|rest| rest.chars().count()),
    );
    if came.is_empty() {
        return format!("{the} is empty.");
    }
    match (short_by, long_by) {
        (Some(n), _) if n > 0 => format!("{the} is {} short.", characters(n)),
        (_, Some(n)) if n > 0 => format!("{the} is {} too long.", characters(n)),
        _ => {
            let at = came
                .chars()
                .zip(right.chars())
                .take_while(|(a, b)| a == b)
                .count();
            format!("{the} differs from character {} on.", at + 1)
        }
    }
}

fn are(n: usize) -> String {
    let verb = if n == 1 { "is" } else { "are" };
    format!("{} {verb}", lines(n))
}

pub(super) fn calls(
    function: &str,
    with: &[Vec<String>],
    within: Option<f64>,
    found: &[CaseReport],
    wanted: &[CaseReport],
    all: &Report,
) -> Seen {
    for ((arguments, place), right) in with.iter().zip(0..).zip(wanted) {
        let call = format!("{function}({})", arguments.join(", "));
        let Some(case) = found.get(place) else {
            return ended(all);
        };
        if let Some(error) = &case.error {
            return Seen {
                input: Some(short(&call)),
                ..not_met(error.words())
            };
        }
        let (came, expected) = (
            case.returned.as_deref().unwrap_or("undefined"),
            right.returned.as_deref().unwrap_or("undefined"),
        );
        if !is_same_value(came, expected, within) {
            let words = if came == "undefined" {
                format!("{call} returns nothing. Is a `return` missing?")
            } else {
                format!("{call} returns something other than expected.")
            };
            return Seen {
                input: Some(short(&call)),
                expected: Some(short(expected)),
                actual: Some(short(came)),
                ..not_met(short(&words))
            };
        }
    }
    met(if with.len() == 1 {
        "It gives what is expected."
    } else {
        "It gives what is expected, each time."
    })
}

/// Equal as JSON, numbers within a tolerance.
fn is_same_value(a: &str, b: &str, within: Option<f64>) -> bool {
    let read = |text: &str| serde_json::from_str::<serde_json::Value>(text).ok();
    match (read(a), read(b)) {
        (Some(a), Some(b)) => is_same_json(&a, &b, within),
        _ => a == b,
    }
}

fn is_same_json(a: &serde_json::Value, b: &serde_json::Value, within: Option<f64>) -> bool {
    use serde_json::Value;
    match (a, b) {
        (Value::Number(a), Value::Number(b)) => {
            let (Some(a), Some(b)) = (a.as_f64(), b.as_f64()) else {
                return a == b;
            };
            let tolerance = within.unwrap_or_else(|| 1e-9 * a.abs().max(b.abs()));
            (a - b).abs() <= tolerance
        }
        (Value::Array(a), Value::Array(b)) => {
            a.len() == b.len() && a.iter().zip(b).all(|(a, b)| is_same_json(a, b, within))
        }
        (Value::Object(a), Value::Object(b)) => {
            a.len() == b.len()
                && a.iter()
                    .all(|(key, a)| b.get(key).is_some_and(|b| is_same_json(a, b, within)))
        }
        _ => a == b,
    }
}

pub(super) fn word(word: &str, there: bool, wanted: bool) -> Seen {
    let what = match word {
        "loop" => "a loop".to_owned(),
        "function" => "a function".to_owned(),
        "recursion" => "a function that calls itself".to_owned(),
        word => format!("`{word}`"),
    };
    match (there, wanted) {
        (true, true) => met(&format!("There is {what}.")),
        (false, false) => met(&format!("There is no {}.", what.trim_start_matches("a "))),
        (false, true) => not_met(format!(
            "There is no {} in the program.",
            what.trim_start_matches("a ")
        )),
        (true, false) => not_met(format!(
            "There is {what} in the program; this is to be done without."
        )),
    }
}

/// The runs whose input is shown, and those whose input is not: of these nothing is said but that they were.
fn parted<'a>(all: &'a Report, hidden: &[bool]) -> (Vec<&'a CaseReport>, Vec<&'a CaseReport>) {
    let is_hidden = |place: usize| hidden.get(place).copied().unwrap_or(false);
    let (unseen, seen): (Vec<_>, Vec<_>) = all
        .cases
        .iter()
        .enumerate()
        .partition(|(place, _)| is_hidden(*place));
    let cases = |of: Vec<(usize, &'a CaseReport)>| of.into_iter().map(|(_, case)| case).collect();
    (cases(seen), cases(unseen))
}

/// An error in any of the runs, other than one that counts here.
fn stopped(all: &Report, hidden: &[bool]) -> Option<Seen> {
    if all.ended.is_some() {
        return Some(ended(all));
    }
    let (seen, unseen) = parted(all, hidden);
    if let Some(error) = seen.iter().find_map(|c| c.error.as_ref()) {
        return Some(not_met(error.words()));
    }
    unseen
        .iter()
        .any(|c| c.error.is_some())
        .then(|| not_met("It stopped with an error when it was tried with input that is not shown."))
}

pub(super) fn steps(most: u64, all: &Report, hidden: &[bool]) -> Seen {
    if let Some(seen) = stopped(all, hidden) {
        return seen;
    }
    let (seen, unseen) = parted(all, hidden);
    let taken = |of: &[&CaseReport]| of.iter().map(|c| c.steps).max().unwrap_or(0);
    let allowed = most.max(STEPS_COUNTED);
    let shown = taken(&seen);
    if shown > allowed {
        return not_met(format!("It takes about {shown} steps; {most} are allowed."));
    }
    if taken(&unseen) > allowed {
        return not_met(format!(
            "With input that is not shown it takes more than the {most} steps that are allowed."
        ));
    }
    met("It takes no more steps than allowed.")
}

pub(super) fn memory(most: u64, all: &Report, hidden: &[bool]) -> Seen {
    if let Some(seen) = stopped(all, hidden) {
        return seen;
    }
    let (seen, unseen) = parted(all, hidden);
    let held = |of: &[&CaseReport]| of.iter().map(|c| c.memory).max().unwrap_or(0);
    let shown = held(&seen);
    if shown > most {
        return not_met(format!(
            "It holds {} kB at the end; {} are allowed.",
            shown / 1_024,
            most / 1_024
        ));
    }
    if held(&unseen) > most {
        return not_met(format!(
            "With input that is not shown it holds more than the {} kB that are allowed.",
            most / 1_024
        ));
    }
    met("It uses no more memory than allowed.")
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::a_star_short(
        "****\n****\n***\n",
        "****\n****\n****\n",
        "The third line is one character short."
    )]
    #[case::two_too_many("******\n", "****\n", "The first line is 2 characters too long.")]
    #[case::a_line_missing("a\n", "a\nb\n", "One line is missing at the end.")]
    #[case::lines_too_many("a\nb\nc\n", "a\n", "2 lines are too many at the end.")]
    #[case::nothing("\n", "a\n", "It prints nothing.")]
    #[case::an_empty_line("a\n\nc\n", "a\nb\nc\n", "The second line is empty.")]
    #[case::another("wind 12\n", "wind 13\n", "The first line differs from character 7 on.")]
    #[case::far_down(
        "1\n2\n3\n4\n5\n6\n7\n8\n9\nx\n",
        "1\n2\n3\n4\n5\n6\n7\n8\n9\n10\n",
        "Line 10 differs from character 1 on."
    )]
    fn a_difference_is_said_where_it_begins(#[case] found: &str, #[case] wanted: &str, #[case] words: &str) {
        assert!(!is_same_output(found, wanted, Compare::Exact));
        assert_eq!(difference(found, wanted, Compare::Exact), words);
    }

    #[rstest]
    #[case::blanks_at_the_end("a \nb\n\n", "a\nb", Compare::Exact, true)]
    #[case::blanks_between("a  b\n", "a b\n", Compare::Exact, false)]
    #[case::loosely("A  b\n", "a b\n", Compare::Loose, true)]
    #[case::another_loosely("a c\n", "a b\n", Compare::Loose, false)]
    fn output_is_compared_as_asked(
        #[case] a: &str,
        #[case] b: &str,
        #[case] compare: Compare,
        #[case] same: bool,
    ) {
        assert_eq!(is_same_output(a, b, compare), same);
    }

    #[rstest]
    #[case("0.30000000000000004", "0.3", None, true)]
    #[case("0.31", "0.3", None, false)]
    #[case("0.31", "0.3", Some(0.02), true)]
    #[case("[1,{\"a\":2.0}]", "[1.0, {\"a\": 2}]", None, true)]
    #[case("[1,2]", "[1]", None, false)]
    #[case("\"3\"", "3", None, false)]
    #[case("undefined", "null", None, false)]
    #[case("true", "true", None, true)]
    fn values_are_compared_as_what_they_are(
        #[case] a: &str,
        #[case] b: &str,
        #[case] within: Option<f64>,
        #[case] same: bool,
    ) {
        assert_eq!(is_same_value(a, b, within), same);
    }
}
