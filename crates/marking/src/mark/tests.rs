use insta::assert_snapshot;
use rstest::rstest;

use crate::{AnswerBlock, FaultyBlock, Kind, Marker, Outcome, Slip};
use maths::Evidence;

fn block(json: &str) -> AnswerBlock {
    serde_json::from_str(json).unwrap()
}

fn expression(key: &str) -> Marker {
    Marker::new(&AnswerBlock::plain(Kind::Expression, key)).unwrap()
}

#[rstest]
#[case::by_identity("sin(2x)", "2 sin x cos x", "proved equal")]
#[case::by_exponents("2^(x+1)", "2*2^x", "proved equal")]
#[case::by_logarithms("ln(x^2)", "2 ln|x|", "proved equal")]
#[case::by_nested_roots("sqrt(5+2sqrt(6)) x", "(sqrt(2)+sqrt(3)) x", "proved equal")]
#[case::by_witness("x", "1.0000001x", "proved different")]
#[case::by_domain("x", "sqrt(x)^2", "undefined")]
#[case::by_points("floor(x)+ceil(-x)", "0", "agreed")]
fn every_outcome_says_how_it_is_known(#[case] key: &str, #[case] entry: &str, #[case] how: &str) {
    let known = match expression(key).mark(entry).evidence.unwrap() {
        Evidence::ProvedEqual => "proved equal",
        Evidence::ProvedDifferent { witness } => {
            assert!(!witness.is_empty());
            "proved different"
        }
        Evidence::Agreed { points, digits } => {
            assert!(points >= 6 && digits >= 30, "{points} points, {digits} digits");
            "agreed"
        }
        Evidence::Undefined { .. } => "undefined",
        other => panic!("{other:?}"),
    };
    assert_eq!(known, how);
}

#[rstest]
#[case::unknown_option(r#"{"kind": "number", "key": "5", "partial": true}"#)]
#[case::form_of_other_kind(r#"{"kind": "number", "key": "5", "form": "expanded"}"#)]
#[case::key_without_value(r#"{"kind": "number", "key": "1/0"}"#)]
#[case::unreadable_key(r#"{"kind": "expression", "key": "x +"}"#)]
#[case::key_nowhere_defined(r#"{"kind": "expression", "key": "ln(-x^2)"}"#)]
#[case::unknown_unit(r#"{"kind": "number", "key": "5", "unit": "blorg"}"#)]
#[case::negative_tolerance(r#"{"kind": "number", "key": "5", "tolerance": {"absolute": -1}}"#)]
#[case::significant_of_zero(r#"{"kind": "number", "key": "0", "tolerance": {"significant": 3}}"#)]
#[case::domain_of_another(r#"{"kind": "expression", "key": "x", "domain": {"t": "positive"}}"#)]
#[case::empty_range(r#"{"kind": "expression", "key": "x", "domain": {"x": [2, 1]}}"#)]
#[case::closed_infinity(r#"{"kind": "interval", "key": "[-inf, 2]"}"#)]
#[case::unit_not_shown(r#"{"kind": "set", "key": "{1}", "unit": "m"}"#)]
#[case::must_be_of_a_set(r#"{"kind": "set", "key": "{1}", "must_be": ["whole"]}"#)]
#[case::no_words(r#"{"kind": "text", "key": []}"#)]
#[case::empty_tuple(r#"{"kind": "tuple", "key": "()"}"#)]
fn a_faulty_block_is_refused(#[case] json: &str) {
    assert!(Marker::new(&block(json)).is_err());
}

#[test]
fn faults_name_what_is_wrong() {
    let fault = Marker::new(&block(r#"{"kind": "vector", "key": "<1, 2>", "unit": "m"}"#))
        .err()
        .unwrap();
    assert_eq!(
        fault,
        FaultyBlock::OptionOfOtherKind {
            option: "unit",
            kind: Kind::Vector
        }
    );
    assert_snapshot!(fault, @"`unit` does not belong to the kind vector");
}

#[rstest]
#[case("(x+1", "A closing bracket is missing: ( is never closed.", 4)]
#[case("3 + * 4", "Something is missing between + and *.", 2)]
#[case("", "Nothing entered yet.", 0)]
#[case(
    "x + y",
    "There is no y in this question. Check the letter, or the name of the function.",
    4
)]
#[case(
    "3,5x",
    "Use a point for decimals: 3.5. A comma may only separate thousands: 1,234.",
    1
)]
#[case(
    "x2",
    "A number stands right after x. Write 2x for a product or x^2 for a power.",
    0
)]
fn unreadable_entries_say_why_and_where(#[case] entry: &str, #[case] words: &str, #[case] at: usize) {
    let marking = expression("x").mark(entry);
    assert_eq!(marking.outcome, Outcome::Unreadable);
    assert_eq!((marking.notes[0].as_str(), marking.at.unwrap().0), (words, at));
}

#[test]
fn cautions_stand_in_the_notes() {
    let marking = expression("x/2").mark("1/2x");
    assert_eq!(marking.outcome, Outcome::Correct);
    assert_eq!(
        marking.notes,
        ["Read from left to right: 1/2x is ½·x. Use brackets if you mean 1/(2x)."]
    );
}

#[test]
fn a_wide_tolerance_makes_no_slip_of_a_tiny_number() {
    let marker = Marker::new(&block(
        r#"{"kind": "number", "key": "pi", "tolerance": {"absolute": 0.01}}"#,
    ))
    .unwrap();
    assert_eq!(marker.mark("1e-150").slip, None);
    assert_eq!(marker.mark("31.4").slip, Some(Slip::PowerOfTen));
}
