//! How entries are read: the tree printed again as text, in LaTeX and as speech, with the cautions that a student sees.

use maths::{Names, ReadOptions, Reading, caution_words, error_words, read_expression};
use proptest::prelude::*;
use rstest::rstest;

fn read(entry: &str) -> Reading {
    let names = Names::new(["x", "y", "theta", "v_0", "rate"]).unwrap();
    read_expression(entry, &ReadOptions::new(&names)).unwrap_or_else(|e| panic!("{entry}: {e:?}"))
}

fn problem(entry: &str) -> String {
    let names = Names::new(["x", "y"]).unwrap();
    let error = read_expression(entry, &ReadOptions::new(&names)).unwrap_err();
    error_words(&error.kind)
}

/// Two entries that are read as the same.
#[rstest]
#[case::times_signs("2*x", "2·x")]
#[case::times_cross("2×x", "2x")]
#[case::minus_signs("x−1", "x-1")]
#[case::en_dash("x–1", "x-1")]
#[case::division("x÷2", "x/2")]
#[case::superscript("x²", "x^2")]
#[case::superscripts("x¹²", "x^12")]
#[case::negative_superscript("x⁻¹", "x^-1")]
#[case::double_star("x**2", "x^2")]
#[case::square_brackets("2[x+1]", "2(x+1)")]
#[case::curly("2{x+1}", "2(x+1)")]
#[case::root_sign("√2", "sqrt(2)")]
#[case::root_sign_brackets("√(x+1)", "sqrt(x+1)")]
#[case::pi_sign("2π", "2pi")]
#[case::greek("θ", "theta")]
#[case::function_without_brackets("sin x", "sin(x)")]
#[case::function_squared("sin^2 x", "(sin(x))^2")]
#[case::inverse("sin^-1 x", "arcsin(x)")]
#[case::bars("|x|", "abs(x)")]
#[case::blanks("  2   x ", "2x")]
#[case::full_width("２x", "2x")]
#[case::subscript("v0", "v_0")]
#[case::upper_case("X", "x")]
#[case::exp("exp(x)", "e^x")]
#[case::half("½x", "1/2*x")]
fn written_otherwise(#[case] one: &str, #[case] other: &str) {
    let value = |entry: &str| {
        let options = maths::Domain::default();
        maths::compare(&read(entry).tree, &read(other).tree, &options).equal
    };
    assert!(value(one), "{one} and {other}");
}

#[rstest]
#[case("1/2x", r"\frac{1}{2}\,x")]
#[case("x^10", "x^{10}")]
#[case("sqrt(x+1)", r"\sqrt{x + 1}")]
#[case("(x+1)/(x-1)", r"\frac{x + 1}{x - 1}")]
#[case("|x-1|", r"\left|x - 1\right|")]
#[case("2pi", r"2\,\pi")]
#[case("theta", r"\theta")]
fn latex_shows_what_was_typed(#[case] entry: &str, #[case] latex: &str) {
    assert_eq!(maths::latex(&read(entry).tree), latex);
}

#[rstest]
#[case::reads_as_a_product("1/2x", 1)]
#[case::plain("x/2", 0)]
#[case::upper_case("X + 1", 1)]
#[case::nothing_doubtful("2(x+1)^2", 0)]
fn cautions_are_given_where_there_is_doubt(#[case] entry: &str, #[case] count: usize) {
    let reading = read(entry);
    assert_eq!(reading.cautions.len(), count, "{entry}: {:?}", reading.cautions);
    for caution in &reading.cautions {
        let words = caution_words(&caution.kind);
        assert!(words.ends_with('.') || words.ends_with('?'), "{words}");
    }
}

#[rstest]
#[case::open_bracket("(x+1")]
#[case::closed_bracket("x+1)")]
#[case::other_bracket("(x+1]")]
#[case::ends_early("x+")]
#[case::begins_late("*x")]
#[case::two_signs("x*/2")]
#[case::unknown_letter("z+1")]
#[case::unknown_word("speed")]
#[case::empty_function("sin()")]
#[case::empty_brackets("()")]
#[case::empty_power("x^")]
#[case::lone_dot(".")]
#[case::two_dots("1.2.3")]
#[case::question_mark("x?")]
#[case::equals("x=1")]
#[case::arguments("sqrt(1,2)")]
fn what_cannot_be_read_says_why_in_a_sentence(#[case] entry: &str) {
    let words = problem(entry);
    assert!(words.starts_with(char::is_uppercase), "{entry}: {words}");
    assert!(words.ends_with('.'), "{entry}: {words}");
    for inside in ["Token", "Expected", "parse", "unwrap", "None", "Some("] {
        assert!(!words.contains(inside), "{entry}: {words}");
    }
}

#[test]
fn the_place_of_a_problem_lies_in_the_entry() {
    let names = Names::new(["x"]).unwrap();
    for entry in ["(x+1", "x+1)", "x + z", "2 * * 3", "sin()", "x = 2", "1.2.3"] {
        let error = read_expression(entry, &ReadOptions::new(&names)).unwrap_err();
        let length = entry.chars().count();
        assert!(
            error.span.start <= error.span.end && error.span.end <= length,
            "{entry}: {:?}",
            error.span
        );
    }
}

fn any_entry() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        (0u32..100).prop_map(|n| n.to_string()),
        (1u32..100, 1u32..100).prop_map(|(a, b)| format!("{a}.{b}")),
        Just("x".to_owned()),
        Just("y".to_owned()),
        Just("pi".to_owned()),
    ];
    leaf.prop_recursive(4, 24, 3, |inner| {
        prop_oneof![
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a} + {b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a} - {b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a})*({b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a})/({b})")),
            (inner.clone(), 2u32..5).prop_map(|(a, n)| format!("({a})^{n}")),
            inner.clone().prop_map(|a| format!("sqrt({a})")),
            inner.clone().prop_map(|a| format!("sin({a})")),
            inner.prop_map(|a| format!("-({a})")),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn what_is_printed_is_read_as_the_same_again(entry in any_entry()) {
        let first = read(&entry);
        let printed = maths::text(&first.tree);
        let second = read(&printed);
        prop_assert_eq!(maths::text(&second.tree), printed.clone(), "{}", entry);
        prop_assert_eq!(maths::latex(&second.tree), maths::latex(&first.tree), "{} printed as {}", entry, printed);
    }

    #[test]
    fn speech_names_every_sign(entry in any_entry()) {
        let speech = maths::speech(&read(&entry).tree);
        prop_assert!(!speech.is_empty());
        for sign in ['*', '/', '^', '√', '\\', '{', '}'] {
            prop_assert!(!speech.contains(sign), "{} spoken as {}", entry, speech);
        }
    }

    #[test]
    fn blanks_never_change_what_is_read(entry in any_entry()) {
        let spaced: String = entry.chars().flat_map(|c| if "+-*/()^".contains(c) { vec![' ', c, ' '] } else { vec![c] }).collect();
        prop_assert_eq!(maths::text(&read(&spaced).tree), maths::text(&read(&entry).tree));
    }
}
