use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::error::ReadErrorKind as Kind;
use crate::print::text;

fn names() -> Names {
    Names::new(["x", "y", "n"]).unwrap()
}

fn read(typed: &str) -> Result<Reading, crate::error::ReadError> {
    read_expression(typed, &ReadOptions::new(&names()))
}

#[rstest]
#[case::left_to_right("1/2x", "1/2 x")]
#[case::power_tower("2^3^2", "2^3^2")]
#[case::sign_in_power("2^-3", "2^-3")]
#[case::run_together("2sinx cosx", "2 sin(x) cos(x)")]
#[case::function_and_slash("sin x/2", "sin(x)/2")]
#[case::function_and_bracket("sin x(x+1)", "sin(x) (x + 1)")]
#[case::function_sign("ln -x", "ln(-x)")]
#[case::nested_bars("||x|-1|", "abs(abs(x) - 1)")]
#[case::power_of_function("sin^2 x", "(sin(x))^2")]
#[case::inverse("sin^-1 x", "arcsin(x)")]
#[case::superscripts("x⁻¹²", "x^-12")]
#[case::capital("X^2", "x^2")]
#[case::phone_minus("x − 1", "x - 1")]
#[case::grouped("12,345.6", "12345.6")]
#[case::log_base("log_2 x", "log_2(x)")]
#[case::degrees("sin 30°", "sin(30°)")]
fn entries_are_read_as_people_mean_them(#[case] typed: &str, #[case] expected: &str) {
    assert_eq!(text(&read(typed).unwrap().tree), expected);
}

#[rstest]
#[case("1/2x", CautionKind::FactorAfterDivision)]
#[case("x/yx", CautionKind::FactorAfterDivision)]
#[case("sin x^2", CautionKind::PowerInFunction("sin".into()))]
#[case("2^3^2", CautionKind::PowerTower)]
#[case("sqrt 2x", CautionKind::ProductInRoot)]
#[case("sin x/2", CautionKind::DivisionAfterFunction("sin".into()))]
#[case("sin x(x+1)", CautionKind::BracketAfterFunction("sin".into()))]
#[case("e^2x", CautionKind::FactorAfterPower)]
#[case("x^1/2", CautionKind::DivisionAfterPower)]
#[case("log2(8)", CautionKind::LogBaseRunOn)]
#[case("X", CautionKind::OtherCase { typed: "X".into(), read: "x".into() })]
fn what_may_surprise_has_a_caution(#[case] typed: &str, #[case] kind: CautionKind) {
    let cautions = read(typed).unwrap().cautions;
    assert!(cautions.iter().any(|c| c.kind == kind), "{cautions:?}");
}

#[rstest]
#[case("2x + 1")]
#[case("sqrt(2)x")]
#[case("x^2/3")]
#[case("sin(x)/2")]
#[case("3/4")]
fn plain_entries_have_no_caution(#[case] typed: &str) {
    assert_eq!(read(typed).unwrap().cautions, []);
}

#[rstest]
#[case("", Kind::Empty, 0)]
#[case("(x+1", Kind::MissingClosing('('), 4)]
#[case("x+1)", Kind::MissingOpening(')'), 3)]
#[case("(x+1]", Kind::Mismatched { open: '(', close: ']' }, 4)]
#[case("3 + * 4", Kind::MissingBetween("+".into(), "*".into()), 2)]
#[case("x +", Kind::MissingAfter("+".into()), 2)]
#[case("2 3", Kind::NumbersSideBySide, 0)]
#[case("2 1/3 x", Kind::MixedNumberHere, 0)]
#[case("x2", Kind::NumberAfterLetter("x".into()), 0)]
#[case("5.0.0", Kind::TwoPoints, 0)]
#[case("3,5", Kind::CommaInNumber, 1)]
#[case("x + z", Kind::UnknownName("z".into()), 4)]
#[case("5!!", Kind::DoubleFactorial, 2)]
#[case("sin^-2 x", Kind::FunctionPower("sin".into()), 3)]
#[case("\\frac{1}{2}", Kind::Latex, 0)]
#[case("()", Kind::EmptyBrackets, 0)]
#[case("|x", Kind::MissingBar, 0)]
#[case("sin", Kind::FunctionNeedsArgument("sin".into()), 3)]
#[case("x = 3", Kind::TwoAnswers, 2)]
#[case("1e999999999", Kind::NumberTooLarge, 1)]
#[case("±3", Kind::PlusMinusHere, 0)]
#[case("🙂", Kind::UnknownCharacter('🙂'), 0)]
fn what_cannot_be_read_is_named_with_its_place(#[case] typed: &str, #[case] kind: Kind, #[case] at: usize) {
    let error = read(typed).unwrap_err();
    assert_eq!((error.kind, error.span.start), (kind, at));
}

#[test]
fn the_bounds_are_where_they_are_said_to_be() {
    let deep = |n: usize| format!("{}x{}", "(".repeat(n), ")".repeat(n));
    assert!(read(&deep(100)).is_ok());
    assert_eq!(read(&deep(101)).unwrap_err().kind, Kind::TooDeep);
    assert!(read(&format!("x{}", " ".repeat(1_999))).is_ok());
    assert_eq!(
        read(&format!("x{}", " ".repeat(2_000))).unwrap_err().kind,
        Kind::TooLong
    );
}

#[test]
fn every_caution_about_order_has_its_other_reading() {
    for (typed, other) in [
        ("1/2x", "1/(2x)"),
        ("sin x/2", "sin(x/2)"),
        ("2^3^2", "(2^3)^2"),
        ("sqrt 2x", "sqrt(2)x"),
        ("e^2x", "e^(2x)"),
        ("x^1/2", "x^(1/2)"),
    ] {
        let names = names();
        let options = ReadOptions {
            other_reading: true,
            ..ReadOptions::new(&names)
        };
        let (mine, theirs) = (
            read_expression(typed, &options).unwrap().tree,
            read(other).unwrap().tree,
        );
        assert!(
            crate::compare(&mine, &theirs, &crate::Domain::default()).equal,
            "{typed} as {}",
            text(&mine)
        );
    }
}

/// So many cases unless PROPTEST_CASES asks for another number.
fn cases() -> ProptestConfig {
    let asked = std::env::var("PROPTEST_CASES").is_ok();
    ProptestConfig {
        cases: if asked {
            ProptestConfig::default().cases
        } else {
            2000
        },
        ..ProptestConfig::default()
    }
}

proptest! {
    #![proptest_config(cases())]

    #[test]
    fn no_entry_upsets_the_reader(typed in "[0-9a-zx+*/^()|.,!%= <>\\[\\]{}πθ√²½±°-]{0,40}") {
        if let Err(error) = read(&typed) {
            prop_assert!(error.span.start <= error.span.end);
            prop_assert!(error.span.end <= typed.chars().count());
            prop_assert!(!crate::error_words(&error.kind).is_empty());
        }
    }
}
