//! Questions of several parts: what follows from an earlier answer, and parts that open later.

use marking::{Item, Outcome, Response, parse_question, render};
use proptest::prelude::*;

const CHAIN: &str = "
id: chain
title: Power of a shaft
points: 4
numbers:
  n: {from: 60, to: 1500, step: 60}
  t: {from: 10, to: 90}
  w: {formula: '2*pi*n/60'}
  p: {formula: 't*w'}
  e: {formula: 'p*8'}
text: t
parts:
  - {id: a, interaction: text_entry, max_attempts: 2, answer: {kind: number, key: '{{w}}', tolerance: {decimals: 1}}}
  - id: b
    opens_after: a
    interaction: text_entry
    answer: {kind: number, key: '{{t}}*{{w}}', unit: W, tolerance: {significant: 3}}
    follow: {numbers: {w: a}}
  - id: c
    interaction: text_entry
    answer: {kind: number, key: '{{e}}', tolerance: {significant: 3}}
    follow: {numbers: {p: b}, credit: 60}
";

fn chain(seed: u64) -> Item {
    render(&parse_question(CHAIN).unwrap(), seed).unwrap()
}

fn text(t: impl ToString) -> Response {
    Response::Text(t.to_string())
}

fn given(parts: &[(&str, &str)]) -> Vec<(String, Response)> {
    parts.iter().map(|(id, t)| ((*id).to_owned(), text(t))).collect()
}

fn score(item: &Item, part: &str, entry: &str, others: &[(&str, &str)]) -> (Outcome, f64, Vec<String>) {
    let m = item
        .mark_beside(part, &text(entry), &given(others), false)
        .unwrap()
        .marking;
    (m.outcome, m.score, m.notes)
}

/// The set with n = 60 and a torque that is known.
fn known() -> (Item, f64) {
    for seed in 0..4_000 {
        let item = chain(seed);
        if item.parts[0].posed.answer().starts_with("6.28318531e0") {
            let Response::Text(power) = item.parts[1].typed_key() else {
                panic!("typed")
            };
            let power: f64 = power.trim_end_matches(" W").replace(',', "").parse().unwrap();
            return (item, (power / std::f64::consts::TAU).round());
        }
    }
    panic!("no set with 60 rpm");
}

#[test]
fn what_is_right_for_a_wrong_earlier_answer_follows_through_and_says_so() {
    let (item, torque) = known();
    // Twice the angular velocity by mistake, carried on rightly.
    let power = format!("{:.1} W", torque * 12.6);
    let (outcome, score_of, notes) = score(&item, "b", &power, &[("a", "12.6")]);
    assert_eq!((outcome, score_of), (Outcome::Correct, 1.0), "{power}");
    assert_eq!(notes, ["Right for your answer to part (a): it follows from it."]);
    // Without it, or beside a right one, the same entry is wrong.
    assert_eq!(score(&item, "b", &power, &[]).0, Outcome::Incorrect);
    assert_eq!(score(&item, "b", &power, &[("a", "6.3")]).0, Outcome::Incorrect);
    // What follows from nothing stays wrong, and so does what cannot be read.
    assert_eq!(score(&item, "b", "7 W", &[("a", "12.6")]).0, Outcome::Incorrect);
    assert_eq!(
        score(&item, "b", "7 W +", &[("a", "12.6")]).0,
        Outcome::Unreadable
    );
    assert_eq!(
        score(&item, "b", &power, &[("a", "twelve")]).0,
        Outcome::Incorrect
    );
}

#[test]
fn following_earns_what_the_question_says_with_the_unit_of_the_earlier_entry_or_without() {
    let (item, _) = known();
    for earlier in ["1000 W", "1000"] {
        let (outcome, score_of, notes) = score(&item, "c", "8000", &[("b", earlier)]);
        assert_eq!(outcome, Outcome::Partial, "{earlier}");
        assert!((score_of - 0.6).abs() < 1e-9);
        assert_eq!(notes, ["Right for your answer to part (b): it follows from it."]);
    }
}

#[test]
fn links_between_parts_are_checked() {
    let fault = |from: &str, to: &str| parse_question(&CHAIN.replace(from, to)).unwrap_err().to_string();
    assert!(fault("opens_after: a", "opens_after: c").contains("no earlier part"));
    assert!(fault("max_attempts: 2, ", "").contains("max_attempts of its own"));
    assert!(fault("{w: a}", "{v: a}").contains("no number"));
    assert!(fault("{w: a}", "{w: c}").contains("no earlier part"));
    assert!(fault("credit: 60", "credit: 0").contains("credit"));
}

proptest! {
    #[test]
    fn following_through_never_lowers_a_score(seed in 0..500u64, a in 1..200u32, b in 1..100_000u32, right: bool) {
        let item = chain(seed);
        let Response::Text(key) = item.parts[1].typed_key() else { panic!("typed") };
        let entry = if right { key } else { format!("{b} W") };
        let alone = score(&item, "b", &entry, &[]).1;
        let beside = score(&item, "b", &entry, &[("a", &a.to_string())]).1;
        prop_assert!(beside >= alone);
        let third = score(&item, "c", &b.to_string(), &[]).1;
        let followed = score(&item, "c", &b.to_string(), &[("b", &entry), ("a", &a.to_string())]).1;
        prop_assert!(followed >= third);
    }
}
