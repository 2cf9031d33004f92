//! What every kind of answer must hold to, whatever it is; a new kind gets a line in [`KINDS`].

use marking::{Item, Outcome, Response, parse_question, render};
use proptest::prelude::*;

/// A part of each kind, with what its key is never to be seen by.
const KINDS: &[(&str, &str)] = &[
    (
        "interaction: text_entry, answer: {kind: number, key: '{{n}}*1000 + 7'}, replies: [{to: '{{n}}', say: 'REPLY'}]",
        "007",
    ),
    (
        "interaction: text_entry, answer: {kind: expression, key: '{{n}} x + 9', variables: [x]}",
        "+ 9",
    ),
    (
        "interaction: text_entry, answer: {kind: number, key: '{{n}}/8', unit: m, tolerance: {decimals: 2}}",
        "/8",
    ),
    (
        "interaction: text_entry, label: Name, answer: {kind: text, key: [Skerry, 'the skerry']}",
        "kerry",
    ),
    (
        "interaction: choice, choices: [{id: c1, text: '{{n}} kW', correct: true}, {id: c2, text: 'none'}, {id: c3, text: 'all'}], replies: [{to: c2, say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: choice, max_choices: 0, choices: [{id: c1, text: one, correct: true}, {id: c2, text: two, correct: true}, {id: c3, text: three}, {id: c4, text: four}]",
        "correct",
    ),
];

fn item(part: &str, seed: u64) -> Item {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\nnumbers: {{n: {{from: 11, to: 900}}}}\ntext: 'With {{{{n}}}}'\nparts: [{{id: a, {part}}}]\n"
    );
    let question = parse_question(&yaml).unwrap_or_else(|e| panic!("{part}: {e}"));
    render(&question, seed).unwrap_or_else(|e| panic!("{part}: {e}"))
}

fn score(item: &Item, response: &Response) -> f64 {
    item.parts[0].mark(response).marking.score
}

#[test]
fn every_kind_takes_its_own_key_and_shows_it_to_nobody() {
    for (part, secret) in KINDS {
        for seed in 1..20 {
            let item = item(part, seed);
            let posed = &item.parts[0].posed;
            for key in [posed.key(), item.parts[0].typed_key()] {
                let verdict = item.parts[0].mark(&key);
                assert_eq!(verdict.marking.outcome, Outcome::Correct, "{part}: {key:?}");
                assert_eq!((verdict.marking.score, verdict.reply), (1.0, None), "{part}");
                assert!(posed.is_readable(&key) && !key.is_empty(), "{part}");
                assert!(!posed.in_words(&key).is_empty(), "{part}");
            }
            let shown = serde_json::to_string(&posed.shown()).unwrap();
            assert!(!shown.contains(secret), "{part}: {shown}");
            let right = posed.right();
            assert!(!right.latex.is_empty() || !right.choices.is_empty(), "{part}");
            assert!(posed.faults().is_empty(), "{part}: {:?}", posed.faults());
            assert!(item.has_answers_of(&item), "{part}");
        }
    }
}

#[test]
fn what_students_give_wrong_is_wrong_and_known_wrong_answers_get_their_reply() {
    for (part, _) in KINDS {
        for seed in 1..20 {
            let item = item(part, seed);
            let wrong = item.parts[0].posed.mistaken();
            let verdict = item.parts[0].mark(&wrong);
            assert!(verdict.marking.score < 1.0, "{part}: {wrong:?}");
            for (place, reply) in item.parts[0].replies.iter().enumerate() {
                let said = item.parts[0].mark(&reply.known);
                assert_eq!(said.reply, Some(place), "{part}: {:?}", reply.known);
            }
            assert!(item.parts[0].replies_to_the_key().is_empty(), "{part}");
        }
    }
}

#[test]
fn a_response_of_another_kind_is_unreadable_and_costs_nothing() {
    for (part, _) in KINDS {
        let item = item(part, 3);
        let foreign = match item.parts[0].posed.key() {
            Response::Text(_) => Response::Choices(vec!["c1".into()]),
            Response::Choices(_) => Response::Text("c1".into()),
        };
        let verdict = item.parts[0].mark(&foreign);
        assert_eq!(verdict.marking.outcome, Outcome::Unreadable, "{part}");
        assert!(!verdict.costs && !verdict.marking.notes.is_empty(), "{part}");
    }
}

#[test]
fn nothing_given_is_unfinished_and_costs_nothing() {
    for (part, _) in KINDS {
        let item = item(part, 5);
        for nothing in [Response::Text("  ".into()), Response::Choices(Vec::new())] {
            assert!(nothing.is_empty());
            let verdict = item.parts[0].mark(&nothing);
            assert!(
                !verdict.costs && verdict.marking.score == 0.0,
                "{part}: {nothing:?}"
            );
        }
    }
}

#[test]
fn a_line_of_text_stands_for_a_response_where_it_can() {
    let typed = item(KINDS[0].0, 2);
    assert_eq!(
        typed.parts[0].posed.parse_response("1/2"),
        Some(Response::Text("1/2".into()))
    );
    let choices = item(KINDS[5].0, 2);
    let posed = &choices.parts[0].posed;
    assert_eq!(
        posed.parse_response("c2, c1"),
        Some(Response::Choices(vec!["c2".into(), "c1".into()]))
    );
    assert_eq!(posed.parse_response("c9"), None);
    assert_eq!(posed.parse_response(""), None);
}

#[test]
fn only_what_can_be_another_answer_with_other_numbers_varies() {
    for (part, varies) in [(KINDS[0].0, true), (KINDS[4].0, true), (KINDS[5].0, false)] {
        let answers: std::collections::BTreeSet<String> = (1..30)
            .map(|seed| item(part, seed).parts[0].posed.answer())
            .collect();
        assert_eq!(answers.len() > 1, varies, "{part}");
    }
}

#[test]
fn the_chance_of_guessing_is_that_of_what_is_asked() {
    let guess = |part: &str| {
        let yaml = format!(
            "id: q\ntitle: t\npoints: 1\nnumbers: {{n: {{from: 11, to: 900}}}}\ntext: t\nparts: [{{id: a, {part}}}]\n"
        );
        parse_question(&yaml).unwrap().guess(0.05)
    };
    assert_eq!(guess(KINDS[0].0), 0.05);
    assert!((guess(KINDS[4].0) - 1.0 / 3.0).abs() < 1e-12);
    assert!((guess(KINDS[5].0) - 1.0 / 16.0).abs() < 1e-12, "any of sixteen");
}

fn chosen(ids: &[usize]) -> Response {
    Response::Choices(ids.iter().map(|n| format!("c{n}")).collect())
}

proptest! {
    #[test]
    fn order_and_repetition_of_choices_never_change_a_score(
        ids in prop::collection::vec(1..7usize, 0..8), seed in 0..50u64, turn in 0..8usize,
    ) {
        let item = item(KINDS[5].0, seed);
        let mut turned = ids.clone();
        if !turned.is_empty() {
            let by = turn % turned.len();
            turned.rotate_left(by);
        }
        turned.extend(ids.first());
        prop_assert_eq!(score(&item, &chosen(&ids)), score(&item, &chosen(&turned)));
    }

    #[test]
    fn another_right_choice_never_lowers_a_score_and_a_wrong_one_never_raises_it(
        ids in prop::collection::btree_set(1..5usize, 1..4), more in 1..5usize, seed in 0..50u64,
    ) {
        let item = item(KINDS[5].0, seed);
        let before: Vec<usize> = ids.iter().copied().collect();
        prop_assume!(!before.contains(&more));
        let after: Vec<usize> = before.iter().copied().chain([more]).collect();
        let (before, after) = (score(&item, &chosen(&before)), score(&item, &chosen(&after)));
        prop_assert!((0.0..=1.0).contains(&after));
        let fair = if more <= 2 { after >= before } else { after <= before };
        prop_assert!(fair, "{} after {}", after, before);
    }

    #[test]
    fn choices_are_shown_in_the_order_of_the_seed(seed: u64) {
        let shown = |seed| serde_json::to_string(&item(KINDS[5].0, seed).parts[0].posed.shown()).unwrap();
        prop_assert_eq!(shown(seed), shown(seed));
    }
}
