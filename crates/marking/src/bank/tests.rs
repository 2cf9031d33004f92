use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::response::Response;

fn question(numbers: &str, conditions: &str, text: &str) -> Question {
    parse_question(&format!(
        "id: q\ntitle: t\npoints: 1\nnumbers: {numbers}\nconditions: {conditions}\ntext: '{text}'\nparts:\n  - {{id: a, interaction: text_entry, answer: {{kind: number, key: '5'}}}}\n"
    ))
    .unwrap()
}

fn shown(numbers: &str, text: &str) -> String {
    let item = render(&question(numbers, "[]", text), 1).unwrap();
    let Some(Block::Paragraph { content }) = item.text.first() else {
        panic!("a paragraph")
    };
    let text = |i: &Inline| match i {
        Inline::Text(t) | Inline::Code(t) | Inline::Strong(t) | Inline::Emphasis(t) => t.clone(),
        Inline::Math(t) | Inline::DisplayMath(t) => format!("${t}$"),
        Inline::Gap(gap) => format!("[{}]", gap.id),
    };
    content.iter().map(text).collect()
}

#[rstest]
#[case::no_1x("{a: {one_of: [1]}}", "${{a}}x + 2$", "$x + 2$")]
#[case::minus_1x("{a: {one_of: [-1]}}", "${{a}}x$", "$-x$")]
#[case::plus_minus("{a: {one_of: [-3]}}", "$x + {{a}}$", "$x - 3$")]
#[case::minus_minus("{a: {one_of: [-3]}}", "$x - {{a}}$", "$x + 3$")]
#[case::short_decimal("{a: {formula: \"0.1 + 0.2\"}}", "{{a}} m", "0.3 m")]
#[case::fraction("{a: {formula: \"7/3\"}}", "{{a}}", "7/3")]
#[case::rounded("{a: {formula: \"7/3\"}}", "{{a|2}}", "2.33")]
#[case::rounded_root("{a: {formula: \"sqrt(2)\"}}", "{{a|3}}", "1.414")]
#[case::inside_latex("{a: {one_of: [4]}}", "$\\frac{{{a}}}{2}$", "$\\frac{4}{2}$")]
#[case::an_11_stays("{a: {one_of: [11]}}", "${{a}}x$", "$11x$")]
#[case::a_divisor_stays("{a: {one_of: [1]}}", "$3/{{a}}$", "$3/1$")]
fn drawn_values_print_well(#[case] numbers: &str, #[case] text: &str, #[case] expected: &str) {
    assert_eq!(shown(numbers, text), expected);
}

#[test]
fn formulas_wait_for_what_they_need() {
    let q = question(
        "{a: {formula: 'b + 1'}, b: {formula: 'c * 2'}, c: {one_of: [3]}}",
        "[]",
        "{{a}}",
    );
    assert_eq!(maths::text(&draw(&q, 9).unwrap().values["a"]), "7");
}

#[rstest]
#[case::circle("{a: {formula: 'b'}, b: {formula: 'a'}}", "[]", "depends on itself")]
#[case::no_value("{a: {one_of: [0]}, b: {formula: '1/a'}}", "[]", "has no value")]
#[case::too_tight("{a: {from: 1, to: 5}}", "['a > 9']", "did not hold in 1,000 draws")]
#[case::no_relation("{a: {from: 1, to: 5}}", "['a']", "can't be read")]
#[case::empty_range("{a: {from: 5, to: 1}}", "[]", "the range is empty")]
fn faulty_numbers_are_named(#[case] numbers: &str, #[case] conditions: &str, #[case] words: &str) {
    let error = draw(&question(numbers, conditions, "t"), 1)
        .unwrap_err()
        .to_string();
    assert!(error.contains(words), "{error}");
}

#[rstest]
#[case::html("<b>bold</b>")]
#[case::link("[here](there)")]
#[case::unknown_number("{{zz}}")]
fn text_has_only_what_is_allowed(#[case] text: &str) {
    assert!(render(&question("{a: {one_of: [1]}}", "[]", text), 1).is_err());
}

#[rstest]
#[case::twice(
    "parts: [{id: a, interaction: choice, choices: [{id: x, text: t, correct: true}, {id: x, text: u}]}]"
)]
#[case::none_correct("parts: [{id: a, interaction: choice, choices: [{id: x, text: t}]}]")]
#[case::no_parts("parts: []")]
#[case::unknown_field("parts: [{id: a, interaction: choice, colour: red, choices: []}]")]
fn malformed_questions_are_refused(#[case] parts: &str) {
    assert!(parse_question(&format!("id: q\ntitle: t\npoints: 1\ntext: t\n{parts}\n")).is_err());
}

#[test]
fn choices_of_several_earn_shares() {
    let q = parse_question(
        "id: q\ntitle: t\npoints: 1\ntext: t\nparts: [{id: a, interaction: choice, max_choices: 0, choices: [{id: hub, text: t, correct: true}, {id: tip, text: u, correct: true}, {id: root, text: v}]}]\n",
    )
    .unwrap();
    let item = render(&q, 3).unwrap();
    let mark = |ids: &[&str]| {
        let m = item.parts[0]
            .mark(&Response::Choices(ids.iter().map(ToString::to_string).collect()))
            .marking;
        (m.outcome.name(), m.score)
    };
    assert_eq!(mark(&["hub", "tip"]), ("correct", 1.0));
    assert_eq!(mark(&["hub"]), ("partial", 0.5));
    assert_eq!(mark(&["hub", "root"]), ("incorrect", 0.0));
    assert_eq!(mark(&["nowhere"]), ("unreadable", 0.0));
}

proptest! {
    #[test]
    fn the_same_seed_gives_the_same_numbers(seed: u64) {
        let q = question("{a: {from: -9, to: 9, nonzero: true}, b: {from: 0.5, to: 4.5, step: 0.25, distinct_from: [a]}}", "['a + b > 0']", "t");
        let (one, two) = (draw(&q, seed).unwrap(), draw(&q, seed).unwrap());
        prop_assert_eq!(&one, &two);
        let value = |name: &str| maths::exact_value(&one.values[name]).unwrap();
        prop_assert!(value("a") + value("b") > maths::read_rational("0").unwrap());
        prop_assert_ne!(value("a"), maths::read_rational("0").unwrap());
    }
}
