//! A calculator that reads what students read and type elsewhere: the same notation, the same parser.

use maths::{Names, ReadOptions};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One, Signed, Zero};

/// A result.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Calculated {
    /// LaTeX of the entry as read.
    pub reads_as: String,
    pub speech: String,
    pub cautions: Vec<String>,
    /// What can be typed into a field: a decimal, or a fraction where a decimal would not be exact.
    pub result: String,
    /// The rounded decimal beside a fraction.
    pub near: Option<String>,
    /// Whether `result` is exact.
    pub exact: bool,
}

#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{words}")]
pub struct CalculatorError {
    /// For the student.
    pub words: String,
    /// First character that is wrong, and the one past the last.
    pub at: (usize, usize),
}

/// Works an entry out. `ans` stands for the last result, which comes with whether it was exact.
///
/// # Errors
/// What cannot be read, or has no value, with its place.
///
/// ```
/// assert_eq!(marking::calculate("2/3 + 1/6", None).unwrap().result, "5/6");
/// assert_eq!(marking::calculate("ans*6", Some(("5/6", true))).unwrap().result, "5");
/// ```
pub fn calculate(entry: &str, last: Option<(&str, bool)>) -> Result<Calculated, CalculatorError> {
    let length = entry.chars().count();
    let fail = |words: &str| CalculatorError {
        words: words.into(),
        at: (0, length),
    };
    let names = Names::new(last.map(|_| "ans")).map_err(|_| fail("This can't be read."))?;
    let reading =
        maths::read_expression(entry, &ReadOptions::number(&names)).map_err(|e| CalculatorError {
            words: maths::error_words(&e.kind),
            at: (e.span.start, e.span.end),
        })?;
    let mut tree = reading.tree.clone();
    let mut from_exact = true;
    if let Some((last, exact)) = last {
        from_exact = exact || !tree.variables().iter().any(|name| &**name == "ans");
        let none = Names::new([]).map_err(|_| fail("This can't be read."))?;
        let value = maths::read_expression(last, &ReadOptions::number(&none))
            .map_err(|_| fail("There is no last result yet."))?;
        tree = tree.substitute("ans", &value.tree);
    }
    let mut found = Calculated {
        reads_as: maths::latex(&reading.tree),
        speech: maths::speech(&reading.tree),
        cautions: reading
            .cautions
            .iter()
            .map(|c| maths::caution_words(&c.kind))
            .collect(),
        result: String::new(),
        near: None,
        exact: from_exact,
    };
    if let Some(value) = maths::exact_value(&tree) {
        match short_decimal(&value) {
            Some(decimal) => found.result = decimal,
            None if value.denom().to_string().len() + value.numer().to_string().len() <= 20 => {
                found.result = format!("{}/{}", value.numer(), value.denom());
                found.near = maths::approximate(&tree).ok().map(ten_figures);
            }
            None => {
                let near = maths::approximate(&tree).map_err(|_| fail("This is too large to show."))?;
                found.result = ten_figures(near);
                found.exact = false;
            }
        }
        return Ok(found);
    }
    let value = maths::approximate(&tree).map_err(|why| {
        fail(match why {
            maths::Undefined::NoValue => "This has no value.",
            maths::Undefined::Unknown => "This is too hard to work out here.",
        })
    })?;
    found.result = ten_figures(value);
    found.exact = false;
    Ok(found)
}

/// A decimal of at most ten places and fifteen figures, if the value is one.
fn short_decimal(value: &BigRational) -> Option<String> {
    let mut scaled = value.clone();
    let ten = BigRational::from(BigInt::from(10));
    for places in 0..=10usize {
        if scaled.is_integer() {
            let digits = scaled.numer().abs().to_string();
            if digits.len() > 15 {
                return None;
            }
            let sign = if value.is_negative() { "-" } else { "" };
            let digits = format!("{digits:0>width$}", width = places + 1);
            let (whole, fraction) = digits.split_at(digits.len() - places);
            return Some(if places == 0 {
                format!("{sign}{whole}")
            } else {
                format!("{sign}{whole}.{fraction}")
            });
        }
        scaled *= &ten;
    }
    debug_assert!(!value.is_zero() && !value.denom().is_one());
    None
}

/// Ten significant figures, without trailing noughts, in the notation a field takes.
fn ten_figures(value: f64) -> String {
    let scientific = format!("{value:.9e}");
    let (digits, power) = scientific.split_once('e').unwrap_or((&scientific, "0"));
    let power: i32 = power.parse().unwrap_or(0);
    let trim = |text: &str| {
        if text.contains('.') {
            text.trim_end_matches('0').trim_end_matches('.').to_owned()
        } else {
            text.to_owned()
        }
    };
    if (-5..=14).contains(&power) {
        let places = usize::try_from(9 - power).unwrap_or(0);
        trim(&format!("{value:.places$}"))
    } else {
        format!("{}*10^{power}", trim(digits))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::whole("12*7", "84")]
    #[case::decimal("0.1+0.2", "0.3")]
    #[case::fraction("1/3", "1/3")]
    #[case::root("sqrt(2)", "1.414213562")]
    #[case::degrees("sin(30°)", "0.5")]
    #[case::large("2^80", "1.20892582*10^24")]
    #[case::small("10^-9/7", "1/7000000000")]
    #[case::negative("-3/4", "-0.75")]
    #[case::unit_of_ten("1.5*10^3", "1500")]
    fn entries_are_worked_out(#[case] entry: &str, #[case] result: &str) {
        assert_eq!(calculate(entry, None).unwrap().result, result);
    }

    #[rstest]
    #[case::by_nought("1/0", "no value")]
    #[case::broken("3 + * 4", "missing between + and *")]
    #[case::no_last("ans + 1", "ans")]
    fn what_cannot_be_worked_out_says_why(#[case] entry: &str, #[case] words: &str) {
        let error = calculate(entry, None).unwrap_err();
        assert!(error.words.contains(words), "{error}");
    }

    #[test]
    fn a_result_can_be_gone_on_with() {
        let first = calculate("sqrt(2)", None).unwrap();
        let second = calculate("ans^2", Some((&first.result, first.exact))).unwrap();
        assert!(second.result.starts_with("1.99999999") || second.result.starts_with('2'));
        assert!(!second.exact, "what comes of a rounded result is rounded");
        let exact = calculate("2 ans", Some(("1/3", true))).unwrap();
        assert_eq!((exact.result.as_str(), exact.exact), ("2/3", true));
        assert!(calculate("1/4", Some(("1.41", false))).unwrap().exact);
    }
}
