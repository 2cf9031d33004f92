//! Programs as a kind of answer, held to what `crates/marking/tests/marking/contract.rs` holds every other kind to; here,
//! because they have to be run.

use marking::{Item, Outcome, Response, parse_question, render};
use rstest::rstest;

const QUESTION: &str = r#"
id: gusts
title: Gusts
points: 10
numbers: {n: {from: 11, to: 90}}
text: 'Print {{n}}.'
parts:
  - id: a
    interaction: program
    label: Program
    start: "// Begin here.\n"
    input: "5\n"
    files: {data.txt: "{{n}}\n7\n"}
    solution: |
      print({{n}}, "SOLVED");
      const half = x => x / 2;
    wrong: |
      print({{n}} + 1, "SOLVED");
      const half = x => x / 2;
    checks:
      - {id: prints, say: "Prints {{n}}", share: 4, prints: {input: "1\n"}}
      - {id: half, say: Halves, share: 2, call: {function: half, with: ["[{{n}}]", "[0.1]"]}}
      - {id: drawn, say: Halves anything, share: 2, hidden: true, call: {function: half, draw: [{from: -50, to: 50}], times: 5}}
      - {id: plain, say: Does without eval, avoids: eval}
      - {id: quick, say: Is quick, most_steps: 200000}
"#;

fn item(seed: u64) -> Item {
    marking::program::set_runs(runner::run);
    render(&parse_question(QUESTION).unwrap(), seed).unwrap()
}

fn program(text: &str) -> Response {
    Response::Program { program: text.into() }
}

#[test]
fn it_takes_its_own_solution_and_shows_it_to_nobody() {
    for seed in 1..8 {
        let item = item(seed);
        let (part, posed) = (&item.parts[0], &item.parts[0].posed);
        let key = posed.key();
        let verdict = part.mark(&key);
        assert_eq!(
            (verdict.marking.outcome, verdict.costs),
            (Outcome::Correct, true),
            "{verdict:?}"
        );
        assert!(posed.is_readable(&key) && !key.is_empty() && !posed.in_words(&key).is_empty());
        let shown = serde_json::to_string(&posed.shown()).unwrap();
        assert!(!shown.contains("SOLVED") && !shown.contains("x / 2"), "{shown}");
        assert!(posed.faults().is_empty(), "{:?}", posed.faults());
        let wrong = part.mark(&posed.mistaken()).marking;
        assert_eq!((wrong.outcome, wrong.score), (Outcome::Partial, 0.6));
    }
    // The same numbers are the same answer; others are another.
    assert!(item(3).has_answers_of(&item(3)) && !item(3).has_answers_of(&item(4)));
}

/// Calls that are not shown, beside bounds of steps and memory: what a program says of itself must not tell them.
const HIDDEN: &str = r#"
id: hidden-gusts
title: Hidden gusts
points: 4
numbers: {n: {from: 11, to: 90}}
text: 'Twice {{n}}.'
parts:
  - id: a
    interaction: program
    label: Program
    solution: "const twice = x => 2 * x;"
    wrong: "const twice = x => 3 * x;"
    checks:
      - {id: shown, say: Doubles 3, share: 1, call: {function: twice, with: ["[3]"]}}
      - {id: hidden, say: Doubles anything, share: 1, hidden: true, call: {function: twice, with: ["[4711]", "[815]"]}}
      - {id: quick, say: Is quick, share: 1, most_steps: 20000}
      - {id: small, say: Is small, share: 1, most_memory: 2000}
"#;

#[rstest]
#[case::an_error("function twice(x) { if (x === 3) return 6; throw new Error('given ' + x); }")]
#[case::steps("function twice(x) { if (x !== 3) for (let i = 0; i < 60 * x; i++); return 2 * x; }")]
#[case::memory(
    "let kept; function twice(x) { if (x !== 3) kept = new ArrayBuffer(1000 * x); return 2 * x; }"
)]
fn what_is_not_shown_is_not_told_by_other_checks(#[case] source: &str) {
    marking::program::set_runs(runner::run);
    let item = render(&parse_question(HIDDEN).unwrap(), 5).unwrap();
    let marking = item.parts[0].mark(&program(source)).marking;
    let told = format!("{:?} {:?}", marking.notes, marking.checks);
    for secret in ["4711", "815", "471", "942"] {
        assert!(!told.contains(secret), "{told}");
    }
    let failed = marking.checks.iter().filter(|c| !c.met && c.id != "hidden");
    assert!(failed.clone().count() > 0, "{told}");
    for check in failed {
        assert!(check.words.contains("input that is not shown"), "{}", check.words);
    }
}

/// Worked out by hand: the share of ten points that each program earns with the numbers of seed 5. A program that stops with
/// an error keeps within no bound of steps.
#[rstest]
#[case::nothing_of_it("x => x;", Some(0.1))]
#[case::only_a_function("function half(x) { return x / 2; }", Some(0.6))]
#[case::a_function_of_another_name("const Half = x => x / 2;", Some(0.1))]
#[case::halves_whole_numbers_only("function half(x) { return Math.floor(x / 2); }", Some(0.2))]
#[case::halves_what_is_above_zero("function half(x) { return x < 0 ? 0 : x / 2; }", Some(0.4))]
#[case::gives_nothing("function half(x) { x / 2; }", Some(0.2))]
#[case::gives_a_text("function half(x) { return String(x / 2); }", Some(0.2))]
#[case::stops_in_a_call("function half(x) { return x.y.z; }", Some(0.1))]
#[case::stops_at_once("throw 'no';", Some(0.1))]
#[case::runs_for_ever("while (true) {}", Some(0.1))]
#[case::eval_is_seen("eval('const half = 1');", Some(0.0))]
#[case::eval_in_a_text("print('eval');", Some(0.1))]
#[case::redefines_print("print = () => 0; function half(x) { return x / 2; }", Some(0.6))]
#[case::reads_what_is_there(
    "readFile('data.txt'); readLine(); function half(x) { return 0.5 * x; }",
    Some(0.6)
)]
#[case::a_missing_file("readFile('other.txt');", Some(0.1))]
#[case::takes_long(
    "for (let i = 0; i < 3e5; i++); function half(x) { return x / 2; }",
    Some(0.5)
)]
#[case::broken("print(", None)]
#[case::broken_later("print(1);\nlet let = 3;", None)]
#[case::another_language("def half(x):\n  return x / 2", None)]
#[case::words("I don't know", None)]
fn each_check_has_its_share(#[case] source: &str, #[case] score: Option<f64>) {
    let verdict = item(5).parts[0].mark(&program(source));
    match score {
        Some(score) => assert!((verdict.marking.score - score).abs() < 1e-9, "{verdict:?}"),
        None => {
            assert_eq!(verdict.marking.outcome, Outcome::Unreadable, "{verdict:?}");
            assert!(!verdict.costs);
            assert!(
                verdict.marking.notes.join(" ").contains("gets no points"),
                "{verdict:?}"
            );
        }
    }
}

#[test]
fn what_is_given_of_another_kind_or_not_at_all_costs_nothing() {
    let item = item(2);
    let part = &item.parts[0];
    for foreign in [
        Response::Text("print(1)".into()),
        Response::Choices(vec!["a".into()]),
    ] {
        let verdict = part.mark(&foreign);
        assert!(!verdict.costs && verdict.marking.score == 0.0, "{verdict:?}");
    }
    for nothing in ["", "  \n", "// Begin here.\n", "//  Begin here."] {
        let verdict = part.mark(&program(nothing));
        assert_eq!(verdict.marking.outcome, Outcome::Unfinished, "{nothing:?}");
    }
}

#[test]
fn what_is_hidden_stays_hidden() {
    let item = item(5);
    let marking = item.parts[0]
        .mark(&program("const half = x => x < 0 ? 0 : x / 2;"))
        .marking;
    let line = |id: &str| marking.checks.iter().find(|c| c.id == id).unwrap();
    assert!(!line("drawn").met);
    let told = serde_json::to_string(line("drawn")).unwrap();
    assert!(
        !told.contains("half(") && line("drawn").expected.is_none() && line("drawn").input.is_none(),
        "{told}"
    );
    assert!(line("prints").expected.is_some());
}

#[rstest]
#[case::no_checks("checks: []", "1 to 20 checks")]
#[case::two_in_one("checks: [{id: c, say: s, prints: {}, uses: for}]", "exactly one of")]
#[case::none_in_one("checks: [{id: c, say: s}]", "exactly one of")]
#[case::nothing_said("checks: [{id: c, say: ' ', uses: for}]", "says what it looks for")]
#[case::a_bad_name(
    "checks: [{id: c, say: s, call: {function: 'a b', with: ['[1]']}}]",
    "which is no name"
)]
#[case::no_arguments("checks: [{id: c, say: s, call: {function: f}}]", "with given arguments")]
#[case::an_empty_range(
    "checks: [{id: c, say: s, call: {function: f, draw: [{from: 5, to: 1}], times: 2}}]",
    "a range that is empty"
)]
#[case::twice(
    "checks: [{id: c, say: s, uses: for}, {id: c, say: s, uses: if}]",
    "occurs twice"
)]
fn a_faulty_block_is_refused(#[case] checks: &str, #[case] words: &str) {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\ntext: t\nparts: [{{id: a, interaction: program, label: L, solution: 'print(1)', wrong: 'print(2)', {checks}}}]\n"
    );
    let fault = parse_question(&yaml).unwrap_err().to_string();
    assert!(fault.contains(words), "{fault}");
}

#[rstest]
#[case::a_solution_that_fails("print(1)", "print(2)", "uses: for", "does not pass check `c`")]
#[case::a_solution_that_does_not_run("print(", "print(2)", "prints: {}", "its own solution does not run")]
#[case::a_wrong_one_that_passes(
    "print(1)",
    "print(1 + 0)",
    "prints: {}",
    "its wrong program passes every check"
)]
#[case::a_wrong_one_that_does_not_run("print(1)", "print(", "prints: {}", "its wrong program does not run")]
fn an_author_is_told(#[case] solution: &str, #[case] wrong: &str, #[case] check: &str, #[case] words: &str) {
    marking::program::set_runs(runner::run);
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\ntext: t\nparts: [{{id: a, interaction: program, label: L, solution: '{solution}', wrong: '{wrong}', checks: [{{id: c, say: s, {check}}}]}}]\n"
    );
    let item = render(&parse_question(&yaml).unwrap(), 1).unwrap();
    let faults = item.parts[0].posed.faults().join("; ");
    assert!(faults.contains(words), "{faults}");
}
