//! The contract's own cases, and more of the same kind, each a line of JSON.

use marking::{AnswerBlock, Marker};
use serde_json::Value;

fn cases(text: &'static str) -> impl Iterator<Item = Value> {
    text.lines().map(|line| serde_json::from_str(line).unwrap())
}

const CONTRACT: &str = include_str!("../corpus/contract.jsonl");
const SECOND: &str = include_str!("../corpus/contract-2.jsonl");
const THIRD: &str = include_str!("../corpus/contract-3.jsonl");
/// What is not decided yet, or wrong: solution sets with exponentials, and long rewritings.
const OPEN: &str = include_str!("../corpus/contract-3-open.jsonl");
const MEASURED: &str = include_str!("../corpus/measured.jsonl");
const MORE: &str = include_str!("../corpus/more.jsonl");

fn marker(case: &Value) -> Marker {
    let block: AnswerBlock = serde_json::from_value(case["answer"].clone()).unwrap();
    Marker::new(&block).unwrap_or_else(|e| panic!("{}: {e}", case["id"]))
}

fn check(text: &'static str) {
    let mut wrong = Vec::new();
    for case in cases(text) {
        let expected = &case["expect"];
        let entry = case["entry"].as_str().unwrap();
        let got = marker(&case).mark(entry);
        let outcome = got.outcome.name();
        let outcome_fits = match &expected["outcome_in"] {
            Value::Array(all) => all.iter().any(|o| o == outcome),
            _ => expected["outcome"] == outcome,
        };
        let score_fits = expected["score"]
            .as_f64()
            .is_none_or(|s| (s - got.score).abs() < 1e-9);
        let slip_fits = expected
            .get("slip")
            .is_none_or(|s| s.as_str() == got.slip.map(marking::Slip::name));
        if !(outcome_fits && score_fits && slip_fits) {
            wrong.push(format!(
                "{} {} {entry:?}: {outcome}, {:?}, {:?}",
                case["id"], case["answer"], got.slip, got.notes
            ));
        }
    }
    assert!(wrong.is_empty(), "{} cases:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn every_case_of_the_contract_holds() {
    assert_eq!(cases(CONTRACT).count(), 220);
    check(CONTRACT);
}

#[test]
fn every_case_of_the_contracts_second_page_holds() {
    assert_eq!(cases(SECOND).count(), 56);
    check(SECOND);
}

#[test]
fn every_case_of_the_contracts_third_page_holds_but_for_those_that_are_open() {
    assert_eq!(cases(THIRD).count() + cases(OPEN).count(), 221);
    check(THIRD);
    // An open case that holds by now belongs to the others.
    for case in cases(OPEN) {
        let outcome = marker(&case).mark(case["entry"].as_str().unwrap()).outcome.name();
        assert_ne!(case["expect"]["outcome"], outcome, "{} holds", case["id"]);
    }
}

#[test]
fn units_roots_and_per_cent_hold() {
    check(MEASURED);
}

#[test]
fn more_cases_of_every_kind_hold() {
    check(MORE);
}

#[test]
fn the_same_question_asked_twice_gets_the_same_answer() {
    for case in cases(CONTRACT).step_by(7) {
        let marker = marker(&case);
        let entry = case["entry"].as_str().unwrap();
        assert_eq!(marker.mark(entry), marker.mark(entry), "{}", case["id"]);
    }
}

#[test]
fn reading_tells_nothing_of_the_key() {
    for case in cases(MORE) {
        let entry = case["entry"].as_str().unwrap();
        let read = marker(&case).read(entry);
        let marked = marker(&case).mark(entry);
        if read.problem.is_none() && marked.at.is_none() {
            assert_eq!(read.reads_as, marked.reads_as, "{}", case["id"]);
        }
    }
}

const KINDS: &[(&str, &str)] = &[
    ("associate", include_str!("../corpus/kinds/associate.jsonl")),
    ("choice", include_str!("../corpus/kinds/choice.jsonl")),
    ("counters", include_str!("../corpus/kinds/counters.jsonl")),
    (
        "extended_text",
        include_str!("../corpus/kinds/extended_text.jsonl"),
    ),
    ("fraction", include_str!("../corpus/kinds/fraction.jsonl")),
    ("gap_match", include_str!("../corpus/kinds/gap_match.jsonl")),
    (
        "graphic_gap_match",
        include_str!("../corpus/kinds/graphic_gap_match.jsonl"),
    ),
    (
        "graphic_order",
        include_str!("../corpus/kinds/graphic_order.jsonl"),
    ),
    ("group", include_str!("../corpus/kinds/group.jsonl")),
    ("hot_text", include_str!("../corpus/kinds/hot_text.jsonl")),
    ("hotspot", include_str!("../corpus/kinds/hotspot.jsonl")),
    ("inline", include_str!("../corpus/kinds/inline.jsonl")),
    ("match", include_str!("../corpus/kinds/match.jsonl")),
    ("matrix", include_str!("../corpus/kinds/matrix.jsonl")),
    ("order", include_str!("../corpus/kinds/order.jsonl")),
    ("place", include_str!("../corpus/kinds/place.jsonl")),
    ("plane", include_str!("../corpus/kinds/plane.jsonl")),
    ("recording", include_str!("../corpus/kinds/recording.jsonl")),
    ("slider", include_str!("../corpus/kinds/slider.jsonl")),
];

/// Every kind has its corpus, whose outcomes and scores were worked out without the marker; the lines go in as `mark` takes
/// them.
#[test]
fn every_kind_holds_to_its_corpus() {
    let schema = marking::question_schema().to_string();
    let kinds = schema.matches("\"interaction\":{\"const\"").count();
    // What is typed has the contract's lines above; programs are run, and have theirs in `crates/runner/tests/marking.rs`.
    assert_eq!(KINDS.len() + 2, kinds, "a kind without a corpus");
    let mut wrong = Vec::new();
    for (kind, text) in KINDS {
        assert!(text.lines().count() >= 40, "{kind} has too few lines");
        for line in text.lines() {
            let case: Value = serde_json::from_str(line).unwrap();
            let (got, proper) = marking::mark_line(line);
            let score = got["score"].as_f64().unwrap_or(-1.0);
            let fits = proper
                && got["outcome"] == case["outcome"]
                && (score - case["score"].as_f64().unwrap()).abs() < 1e-5;
            if !fits {
                wrong.push(format!("{}: {} gives {got}", case["id"], case["response"]));
            }
        }
    }
    assert!(wrong.is_empty(), "{} lines:\n{}", wrong.len(), wrong.join("\n"));
}
