//! Every kind of answer, by cases: what is right, what is near it, what costs nothing.

use marking::{AnswerBlock, Marker};
use rstest::rstest;

fn mark(block: &str, entry: &str) -> (&'static str, f64) {
    let block: AnswerBlock = serde_json::from_str(block).unwrap_or_else(|e| panic!("{block}: {e}"));
    let marking = Marker::new(&block)
        .unwrap_or_else(|e| panic!("{block:?}: {e}"))
        .mark(entry);
    (marking.outcome.name(), (marking.score * 1000.0).round() / 1000.0)
}

const METRES: &str = r#"{"kind": "number", "key": "3.6", "unit": "m"}"#;
const SPEED: &str = r#"{"kind": "number", "key": "36", "unit": "km/h"}"#;
const FORCE: &str = r#"{"kind": "number", "key": "2500", "unit": "N", "tolerance": {"relative": 0.01}}"#;
const SHOWN: &str = r#"{"kind": "number", "key": "5", "unit": "kg", "unit_shown": true}"#;

#[rstest]
#[case::as_asked(METRES, "3.6 m", "correct")]
#[case::without_blank(METRES, "3.6m", "correct")]
#[case::smaller_unit(METRES, "360 cm", "correct")]
#[case::larger_unit(METRES, "0.0036 km", "correct")]
#[case::wrong_factor(METRES, "36 cm", "incorrect")]
#[case::no_unit(METRES, "3.6", "wrong_form")]
#[case::other_kind(METRES, "3.6 s", "incorrect")]
#[case::squared(METRES, "3.6 m^2", "incorrect")]
#[case::unit_alone(METRES, "m", "unreadable")]
#[case::converted(SPEED, "10 m/s", "correct")]
#[case::negative_exponent(SPEED, "10 m s^-1", "correct")]
#[case::calculated(SPEED, "36000/3600 m/s", "correct")]
#[case::prefixed(FORCE, "2.5 kN", "correct")]
#[case::base_units(FORCE, "2500 kg m/s^2", "correct")]
#[case::within(FORCE, "2524 N", "correct")]
#[case::outside(FORCE, "2526 N", "incorrect")]
#[case::shown_left_out(SHOWN, "5", "correct")]
#[case::shown_typed_too(SHOWN, "5 kg", "correct")]
#[case::shown_in_capitals(SHOWN, "5 Kg", "correct")]
#[case::prefix_in_capitals(FORCE, "2.5 KN", "correct")]
#[case::newton_metres_are_no_nanometres(METRES, "3.6 Nm", "incorrect")]
fn units(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

const LOWEST: &str = r#"{"kind": "number", "key": "3/4", "form": "lowest_terms"}"#;
const MIXED: &str = r#"{"kind": "number", "key": "7/3", "form": "mixed"}"#;
const SCIENTIFIC: &str = r#"{"kind": "number", "key": "42000", "form": "scientific"}"#;
const EXPANDED: &str = r#"{"kind": "expression", "key": "x^2 - 9", "form": "expanded"}"#;
const FACTORED: &str = r#"{"kind": "expression", "key": "(x-3)(x+3)", "form": "factored"}"#;
const SINGLE: &str = r#"{"kind": "expression", "key": "(x+2)/(2x)", "form": "single_fraction"}"#;
const INTEGER: &str = r#"{"kind": "number", "key": "12", "form": "integer"}"#;
const EXACT: &str = r#"{"kind": "expression", "key": "2sqrt(3)", "form": "no_decimals"}"#;

#[rstest]
#[case::lowest(LOWEST, "3/4", "correct")]
#[case::not_lowest(LOWEST, "6/8", "wrong_form")]
#[case::decimal(LOWEST, "0.75", "wrong_form")]
#[case::wrong_value(LOWEST, "2/3", "incorrect")]
#[case::mixed(MIXED, "2 1/3", "correct")]
#[case::improper(MIXED, "7/3", "wrong_form")]
#[case::scientific(SCIENTIFIC, "4.2*10^4", "correct")]
#[case::scientific_e(SCIENTIFIC, "4.2e4", "correct")]
#[case::two_digits_before(SCIENTIFIC, "42*10^3", "wrong_form")]
#[case::plain(SCIENTIFIC, "42000", "wrong_form")]
#[case::expanded(EXPANDED, "x^2-9", "correct")]
#[case::still_a_product(EXPANDED, "(x-3)(x+3)", "wrong_form")]
#[case::factored(FACTORED, "(x+3)(x-3)", "correct")]
#[case::not_factored(FACTORED, "x^2-9", "wrong_form")]
#[case::single(SINGLE, "(2+x)/(2x)", "correct")]
#[case::two_fractions(SINGLE, "1/2 + 1/x", "wrong_form")]
#[case::integer(INTEGER, "12", "correct")]
#[case::not_worked_out(INTEGER, "3*4", "wrong_form")]
#[case::exact(EXACT, "2√3", "correct")]
#[case::exact_untidied(EXACT, "sqrt(12)", "correct")]
#[case::rounded(EXACT, "3.46", "incorrect")]
fn forms(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

/// Powers of negative bases, where the exponent stands for whole numbers.
#[rstest]
#[case("1", "(-1)^(2n+1)", "incorrect")]
#[case("-1", "(-1)^(2n+1)", "correct")]
#[case("1", "(-1)^(2n)", "correct")]
#[case("4^n", "(-2)^(2n)", "correct")]
#[case("2^n", "(-2)^n", "incorrect")]
#[case("(-2)^n", "2^n", "incorrect")]
#[case("(-1)^(n+1)", "-(-1)^n", "correct")]
#[case("(-2)^(2n+1)", "-2*4^n", "correct")]
#[case("(-2)^(2n+1)", "2*4^n", "incorrect")]
#[case("(-3)^n (-1)^n", "3^n", "correct")]
fn alternating_signs(#[case] key: &str, #[case] entry: &str, #[case] outcome: &str) {
    for domain in ["integer", "positive_integer"] {
        let block = format!(
            r#"{{"kind": "expression", "key": "{key}", "variables": ["n"], "domain": {{"n": "{domain}"}}}}"#
        );
        assert_eq!(mark(&block, entry).0, outcome, "{domain}");
    }
    // Where any real number may stand, a power of a negative base has no value.
    let block = format!(r#"{{"kind": "expression", "key": "{}"}}"#, key.replace('n', "x"));
    if !key.contains("(-") {
        assert_eq!(mark(&block, &entry.replace('n', "x")).0, "incorrect");
    }
}

const HALF_OPEN: &str = r#"{"kind": "interval", "key": "[2, 5)", "variable": "x"}"#;
const OUTER: &str = r#"{"kind": "interval", "key": "(-inf, 2] U (3, inf)", "variable": "x"}"#;

#[rstest]
#[case::as_key(HALF_OPEN, "[2,5)", "correct")]
#[case::as_inequality(HALF_OPEN, "2 <= x < 5", "correct")]
#[case::turned_round(HALF_OPEN, "5 > x >= 2", "correct")]
#[case::both_taken_in(HALF_OPEN, "[2, 5]", "incorrect")]
#[case::both_left_out(HALF_OPEN, "(2, 5)", "incorrect")]
#[case::other_end(HALF_OPEN, "[2, 6)", "incorrect")]
#[case::turned_ends(HALF_OPEN, "[5, 2)", "unreadable")]
#[case::calculated_ends(HALF_OPEN, "[4/2, 10/2)", "correct")]
#[case::union(OUTER, "(-inf, 2] U (3, inf)", "correct")]
#[case::union_sign(OUTER, "(-∞, 2] ∪ (3, ∞)", "correct")]
#[case::union_turned(OUTER, "(3, inf) U (-inf, 2]", "correct")]
#[case::with_or(OUTER, "x <= 2 or x > 3", "correct")]
#[case::one_piece(OUTER, "(-inf, 2]", "incorrect")]
fn intervals(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

const MATRIX: &str = r#"{"kind": "matrix", "key": "[[1, 2], [3, 4]]", "partial": true}"#;
const VECTOR: &str = r#"{"kind": "vector", "key": "<1, -2>", "partial": true}"#;
const POINT: &str = r#"{"kind": "tuple", "key": "(2, -1)"}"#;

#[rstest]
#[case::all(MATRIX, "[[1,2],[3,4]]", "correct", 1.0)]
#[case::rows_by_semicolon(MATRIX, "1, 2; 3, 4", "correct", 1.0)]
#[case::three_of_four(MATRIX, "[[1,2],[3,5]]", "partial", 0.75)]
#[case::none(MATRIX, "[[9,8],[7,6]]", "incorrect", 0.0)]
#[case::other_size(MATRIX, "[[1,2,0],[3,4,0]]", "incorrect", 0.0)]
#[case::ragged(MATRIX, "[[1,2],[3]]", "unreadable", 0.0)]
#[case::calculated(MATRIX, "[[2/2, 1+1], [3, 2^2]]", "correct", 1.0)]
#[case::vector(VECTOR, "<1, -2>", "correct", 1.0)]
#[case::vector_in_brackets(VECTOR, "(1, -2)", "correct", 1.0)]
#[case::half_a_vector(VECTOR, "<1, 2>", "partial", 0.5)]
#[case::point(POINT, "(2, -1)", "correct", 1.0)]
#[case::point_turned(POINT, "(-1, 2)", "incorrect", 0.0)]
#[case::point_of_three(POINT, "(2, -1, 0)", "incorrect", 0.0)]
fn tables_and_points(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str, #[case] score: f64) {
    assert_eq!(mark(block, entry), (outcome_name(outcome), score));
}

/// The name with a lifetime of its own.
fn outcome_name(name: &str) -> &'static str {
    ["correct", "partial", "wrong_form", "incorrect", "unreadable"]
        .into_iter()
        .find(|n| *n == name)
        .expect("an outcome")
}

const SET: &str = r#"{"kind": "set", "key": "{2, -3}"}"#;
const LIST: &str = r#"{"kind": "list", "key": "1, 4, 9"}"#;
const EMPTY: &str = r#"{"kind": "set", "key": "{}"}"#;

#[rstest]
#[case::as_key(SET, "{2, -3}", "correct")]
#[case::turned(SET, "-3, 2", "correct")]
#[case::with_or(SET, "x = 2 or x = -3", "correct")]
#[case::twice(SET, "2, -3, 2", "correct")]
#[case::one_missing(SET, "2", "incorrect")]
#[case::one_too_many(SET, "2, -3, 0", "incorrect")]
#[case::plus_minus(r#"{"kind": "set", "key": "{3, -3}"}"#, "±3", "correct")]
#[case::none(EMPTY, "no solution", "correct")]
#[case::none_as_braces(EMPTY, "{}", "correct")]
#[case::some_for_none(EMPTY, "0", "incorrect")]
#[case::list(LIST, "1, 4, 9", "correct")]
#[case::list_turned(LIST, "9, 4, 1", "incorrect")]
#[case::list_short(LIST, "1, 4", "incorrect")]
fn sets_and_lists(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

const LINE: &str = r#"{"kind": "equation", "key": "y = 2x + 1", "variables": ["x", "y"]}"#;
const SOLVED: &str =
    r#"{"kind": "equation", "key": "y = 2x + 1", "variables": ["x", "y"], "solved_for": "y"}"#;

#[rstest]
#[case::as_key(LINE, "y = 2x + 1", "correct")]
#[case::turned(LINE, "2x + 1 = y", "correct")]
#[case::multiplied(LINE, "2y = 4x + 2", "correct")]
#[case::all_on_one_side(LINE, "y - 2x - 1 = 0", "correct")]
#[case::other_slope(LINE, "y = 3x + 1", "incorrect")]
#[case::no_equals(LINE, "2x + 1", "unreadable")]
#[case::two_equals(LINE, "y = 2x = 1", "unreadable")]
#[case::solved(SOLVED, "y = 1 + 2x", "correct")]
#[case::not_solved(SOLVED, "2x - y + 1 = 0", "wrong_form")]
fn equations(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

const TWO_PLACES: &str = r#"{"kind": "number", "key": "pi", "tolerance": {"decimals": 2}}"#;
const THREE_FIGURES: &str = r#"{"kind": "number", "key": "12345", "tolerance": {"significant": 3}}"#;
const NEAR: &str = r#"{"kind": "number", "key": "10", "tolerance": {"absolute": 0.5}}"#;

#[rstest]
#[case::rounded(TWO_PLACES, "3.14", "correct")]
#[case::rounded_wrongly(TWO_PLACES, "3.15", "incorrect")]
#[case::exactly(TWO_PLACES, "pi", "correct")]
#[case::more_places(TWO_PLACES, "3.1416", "correct")]
#[case::too_few_places(TWO_PLACES, "3.1", "incorrect")]
#[case::figures(THREE_FIGURES, "12300", "correct")]
#[case::figures_scientific(THREE_FIGURES, "1.23*10^4", "correct")]
#[case::figures_off(THREE_FIGURES, "12400", "incorrect")]
#[case::near(NEAR, "10.5", "correct")]
#[case::not_near(NEAR, "10.51", "incorrect")]
#[case::below(NEAR, "9.5", "correct")]
fn tolerances(#[case] block: &str, #[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(block, entry).0, outcome);
}

const WORD: &str = r#"{"kind": "text", "key": ["lock-out", "lockout"]}"#;

#[rstest]
#[case::as_key("lock-out", "correct")]
#[case::other_key("lockout", "correct")]
#[case::other_case("Lockout", "correct")]
#[case::with_blanks("  lockout ", "correct")]
#[case::another("lock", "incorrect")]
fn words(#[case] entry: &str, #[case] outcome: &str) {
    assert_eq!(mark(WORD, entry).0, outcome);
}

/// Whatever the kind, these cost nothing and are worth nothing.
#[rstest]
fn what_says_nothing_is_unreadable(
    #[values(
        METRES, LOWEST, EXPANDED, HALF_OPEN, MATRIX, VECTOR, POINT, SET, LIST, LINE, TWO_PLACES
    )]
    block: &str,
    #[values("", "   ", "3 +", "((", "?", "1/", "[[", "=", ",")] entry: &str,
) {
    assert_eq!(mark(block, entry), ("unreadable", 0.0), "{block} {entry}");
}
