//! Whatever is typed, a verdict comes back.

use marking::{AnswerBlock, Marker, Outcome};
use proptest::prelude::*;
use rstest::rstest;

const BLOCKS: [&str; 16] = [
    r#"{"kind": "number", "key": "5"}"#,
    r#"{"kind": "number", "key": "2.5", "tolerance": {"significant": 3}}"#,
    r#"{"kind": "number", "key": "10", "unit": "m/s"}"#,
    r#"{"kind": "number", "key": "2+i", "complex": true}"#,
    r#"{"kind": "expression", "key": "x^2+sin(x)"}"#,
    r#"{"kind": "expression", "key": "x y", "variables": ["x", "y"]}"#,
    r#"{"kind": "expression", "key": "sqrt(x)+ln(x)", "up_to": "constant"}"#,
    r#"{"kind": "expression", "key": "x^2-1", "form": "factored"}"#,
    r#"{"kind": "equation", "key": "y=2x+1", "variables": ["x", "y"], "same": "solutions"}"#,
    r#"{"kind": "interval", "key": "(1,3]", "variable": "x"}"#,
    r#"{"kind": "tuple", "key": "(1,2)", "partial": true}"#,
    r#"{"kind": "vector", "key": "<1,2>", "basis": ["i", "j"]}"#,
    r#"{"kind": "matrix", "key": "[[1,2],[3,4]]"}"#,
    r#"{"kind": "set", "key": "{1,-1}", "partial": true}"#,
    r#"{"kind": "list", "key": "1,2,3"}"#,
    r#"{"kind": "text", "key": "rotor", "close": 1}"#,
];

fn markers() -> Vec<Marker> {
    let block = |text: &&str| serde_json::from_str::<AnswerBlock>(text).unwrap();
    BLOCKS.iter().map(|b| Marker::new(&block(b)).unwrap()).collect()
}

#[rstest]
#[case::tower("9^9^9^9".to_owned())]
#[case::brackets("(".repeat(10_000))]
#[case::closed_brackets(format!("{}x{}", "(".repeat(101), ")".repeat(101)))]
#[case::literal("1e999999999".to_owned())]
#[case::power("x^(10^9)".to_owned())]
#[case::factorials("100!!!".to_owned())]
#[case::megabyte("a".repeat(1_000_000))]
#[case::controls("\0\u{1}\u{7f}".to_owned())]
#[case::emoji("🙂🙂".to_owned())]
#[case::bars("|".repeat(300))]
#[case::signs(format!("{}5", "-".repeat(500)))]
#[case::roots("sqrt(".repeat(90))]
#[case::nested_roots(format!("{}2{}", "sqrt(".repeat(90), ")".repeat(90)))]
#[case::zero_times_nothing("5 + 0*(1/0)".to_owned())]
#[case::big_sum((1..60).map(|n| format!("sin({n}x)")).collect::<Vec<_>>().join("+"))]
#[case::hidden_zero("5/(sqrt(2)^2-2)".to_owned())]
fn nothing_hostile_is_accepted(#[case] entry: String) {
    for (marker, block) in markers().iter().zip(BLOCKS) {
        let outcome = marker.mark(&entry).outcome;
        assert!(
            matches!(outcome, Outcome::Incorrect | Outcome::Unreadable),
            "{block}: {outcome:?}"
        );
    }
}

#[test]
fn invisible_marks_do_not_spoil_a_right_answer() {
    assert_eq!(markers()[0].mark("\u{202e}5\u{200e}").outcome, Outcome::Correct);
}

/// Pieces of what students type, joined anyhow.
fn scraps() -> impl Strategy<Value = String> {
    let scrap = prop::sample::select(vec![
        "x", "y", "2", "3.5", "1/2", "(", ")", "[", "]", "{", "}", "|", "+", "-", "*", "/", "^", "sin",
        "cos ", "ln", "sqrt", "log_2", "e^", "pi", "!", "%", "°", ",", ";", "=", "<", "≤", "±", "1e3", "x^2",
        "(x+1)", "9^9", "root(", "max(", "²", "⁻¹", "½", "i", "inf", " or ", " U ", "<1,2>", "km/h", "m",
        "10^", "θ", "\u{200e}", "1,234", "0", ".", "∞",
    ]);
    prop::collection::vec(scrap, 1..14).prop_map(|v| v.concat())
}

/// So many cases unless PROPTEST_CASES asks for another number.
fn cases() -> ProptestConfig {
    let asked = std::env::var("PROPTEST_CASES").is_ok();
    ProptestConfig {
        cases: if asked {
            ProptestConfig::default().cases
        } else {
            400
        },
        ..ProptestConfig::default()
    }
}

proptest! {
    #![proptest_config(cases())]

    #[test]
    fn no_scraps_upset_the_marker(entry in scraps()) {
        for marker in markers() {
            let marking = marker.mark(&entry);
            prop_assert!((0.0..=1.0).contains(&marking.score));
            prop_assert_eq!(marking.score == 1.0, marking.outcome == Outcome::Correct);
            prop_assert_eq!(marking.at.is_some(), marking.outcome == Outcome::Unreadable);
        }
    }

    #[test]
    fn no_text_upsets_the_marker(entry in "\\PC{0,20}") {
        for marker in markers() {
            marker.mark(&entry);
            marker.read(&entry);
        }
    }
}
