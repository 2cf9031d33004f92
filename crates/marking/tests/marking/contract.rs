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
    (
        "interaction: inline, passage: 'Turns [[g1]] by [[g2]] rpm.', gaps: {g1: {label: direction, choices: [{id: left, text: left}, {id: right, text: right}], correct: right}, g2: {label: speed, answer: {kind: number, key: '{{n}}*1000 + 7'}}}, replies: [{to: 'g1=left', say: 'REPLY'}, {to: 'g2={{n}}', say: 'REPLY'}]",
        "007",
    ),
    (
        "interaction: gap_match, passage: '[[g1]] A flows through [[g2]].', tiles: [{id: t1, text: '{{n}}'}, {id: t2, text: fuse}, {id: t3, text: switch}], gaps: {g1: t1, g2: [t2, t3]}, replies: [{to: 'g1=t2', say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: match, rows: [{id: r1, text: '{{n}} V', to: [c1]}, {id: r2, text: amp, to: [c2]}, {id: r3, text: ohm, to: [c1]}], columns: [{id: c1, text: one}, {id: c2, text: two}], replies: [{to: 'r1=c2', say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: match, several: true, rows: [{id: r1, text: volt, to: [c1, c2]}, {id: r2, text: amp, to: []}, {id: r3, text: ohm, to: [c3]}], columns: [{id: c1, text: one}, {id: c2, text: two}, {id: c3, text: three}]",
        "correct",
    ),
    (
        "interaction: associate, items: [{id: i1, text: '{{n}} m'}, {id: i2, text: a}, {id: i3, text: b}, {id: i4, text: c}, {id: i5, text: d}], pairs: [[i1, i3], [i2, i5]], replies: [{to: 'i1=i2', say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: group, groups: [{id: g1, text: in series}, {id: g2, text: in parallel}], items: [{id: i1, text: '{{n}} A in each', group: g1}, {id: i2, text: b, group: g2}, {id: i3, text: c, group: g2}], replies: [{to: 'i1=g2', say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: order, steps: [{id: s1, text: '{{n}} first'}, {id: s2, text: lock}, {id: s3, text: tag}, {id: s4, text: test}], replies: [{to: 's4=s2', say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: order, steps: [{id: s1, text: a}, {id: s2, text: b}, {id: s3, text: c}, {id: s4, text: d}], after: {s3: [s1, s2], s4: [s3]}",
        "after",
    ),
    (
        "interaction: hot_text, passage: 'The [[p1: brake is on]] and [[p2: {{n}} bolts]] are [[p3: loose]].', correct: [p1, p3], replies: [{to: p2, say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: hot_text, by: word, passage: 'First [[p1: the lock is off]] then it turns.', correct: [p1]",
        "p1",
    ),
    (
        "interaction: slider, from: 0, to: 1000, step: 1, label: Pressure, answer: {kind: number, key: '{{n}} + 77 - 77', unit: bar, tolerance: {absolute: 2}}, replies: [{to: '{{n}} + 50', say: 'REPLY'}]",
        "77",
    ),
    (
        "interaction: matrix, label: Product, rows: [['{{n}} + 7007', 2], [3, 4]], replies: [{to: '1,2=5', say: 'REPLY'}]",
        "7007",
    ),
    (
        "interaction: matrix, label: Product, size_is_asked: true, variables: [x], rows: [['{{n}} x', 2, 33033]]",
        "33033",
    ),
    (
        "interaction: fraction, label: Share, answer: {kind: number, key: '{{n}}/7919', form: lowest_terms}, replies: [{to: '7919/{{n}}', say: 'REPLY'}]",
        "7919",
    ),
    (
        "interaction: fraction, mixed: true, label: Share, answer: {kind: number, key: '{{n|0}} 1/777', form: mixed}",
        "777",
    ),
    (
        "interaction: hotspot, picture: {figure: circuit, elements: [{symbol: cell, from: [0, 0], to: [0, 2]}, {symbol: lamp, from: [0, 2], to: [2, 2], label: '{{n}} W'}, {symbol: fuse, from: [2, 2], to: [2, 0]}], wires: [[[2, 0], [0, 0]]]}, spots: [{id: s1, label: left, at: [0, 1]}, {id: s2, label: top, at: [1, 2]}, {id: s3, label: right, at: [2, 1]}], correct: [s3], replies: [{to: s1, say: 'REPLY'}]",
        "correct",
    ),
    (
        "interaction: hotspot, max_choices: 0, picture: {figure: number_line, from: 0, to: 10, step: 1}, spots: [{id: s1, label: a, at: [1, 0]}, {id: s2, label: b, at: [4, 0]}, {id: s3, label: c, at: [8, 0]}], correct: [s1, s3]",
        "correct",
    ),
    (
        "interaction: graphic_order, picture: {figure: bars, top: 10, step: 2, bars: [{label: a, value: 4}, {label: b, value: 7}, {label: c, value: 2}]}, spots: [{id: s1, label: a, at: [0.5, 4]}, {id: s2, label: b, at: [1.5, 7]}, {id: s3, label: c, at: [2.5, 2]}], order: [s3, s1, s2], replies: [{to: 's2=s3', say: 'REPLY'}]",
        "\"order\":",
    ),
    (
        "interaction: graphic_gap_match, picture: {figure: polygon, corners: [[0, 0], [4, 0], [4, 3]]}, spots: [{id: s1, label: base, at: [2, 0]}, {id: s2, label: slope, at: [2, 1.5]}], tiles: [{id: t1, text: '{{n}}'}, {id: t2, text: long}, {id: t3, text: short}], right: {s1: t1, s2: t2}, replies: [{to: 's1=t3', say: 'REPLY'}]",
        "right",
    ),
    (
        "interaction: place, look: strip, label: Strip, rows: [{id: r1, text: line}, {id: r2, text: space}], columns: [{id: c1, text: '1'}, {id: c2, text: '2'}, {id: c3, text: '3'}], marks: [[r1, c1], [r2, c3]], replies: [{to: 'r2=c2', say: 'REPLY'}]",
        "marks",
    ),
    (
        "interaction: place, look: panel, one_per_column: true, label: Panel, rows: [{id: up, text: 'on'}, {id: down, text: 'off'}], columns: [{id: c1, text: pump}, {id: c2, text: fan}, {id: c3, text: light}], marks: [[up, c1], [down, c2], [up, c3]], replies: [{to: 'down=c1', say: 'REPLY'}]",
        "marks",
    ),
    (
        "interaction: counters, thing: bolt, start: 12, action: cross_out, count: 5, label: Bolts, replies: [{to: '7', say: 'REPLY'}]",
        "count\":5",
    ),
    (
        "interaction: counters, thing: cell, start: 4, action: add, count: 3, label: Cells",
        "count\":3",
    ),
    (
        "interaction: counters, thing: helmet, start: 14, action: group, count: 4, groups: 3, label: Helmets",
        "groups",
    ),
    (
        "interaction: plane, x: [-10, 10], y: [-10, 10], snap: 1, objects: [{id: p, label: P, draw: point, at: [2, -3]}, {id: l, label: g, draw: line, through: [[0, 1], [2, 5]]}, {id: c, label: k, draw: circle, centre: [1, 1], radius: 3}, {id: q, label: p, draw: parabola, vertex: [1, -4], through: [3, 0]}]",
        "through",
    ),
    (
        "interaction: plane, x: [0, 8], y: [0, 8], snap: 0.5, tolerance: 0.3, objects: [{id: h, label: region, draw: half_plane, edge: [[0, 4], [4, 8]], inside: [6, 2], strict: true}, {id: s, label: s, draw: segment, ends: [[1, 1], [5, 2]]}, {id: f, label: curve, draw: sketch, points: [[0, 0], [2, 3.9], [4, 7.8]]}]",
        "inside",
    ),
    (
        "interaction: extended_text, label: Report, least_words: 3, most_words: 90, files: 2, links: 1, start: '| a | b |\n|---|---|\n| | |', model: 'The {{n}} bolts were **loose**, so $p = 1/2$.'",
        "loose",
    ),
    (
        "interaction: recording, label: Answer, most_seconds: 30, model: 'I repeat: {{n}} metres.'",
        "repeat",
    ),
    (
        "interaction: plane, x: [-5, 15], snap: 1, objects: [{id: i, label: range, draw: interval, from: -2, to: 7, open_to: true}]",
        "open_to",
    ),
];

/// How many kinds there are; a new one brings its line above.
#[test]
fn every_kind_has_its_line() {
    let schema = marking::question_schema().to_string();
    let kind = |part: &&str| part.split([':', ',']).nth(1).unwrap().trim().to_owned();
    let lines = KINDS.iter().map(|(part, _)| *part).collect::<Vec<_>>();
    let kinds: std::collections::BTreeSet<String> = lines.iter().map(kind).collect();
    for kind in &kinds {
        assert!(schema.contains(&format!("\"const\":\"{kind}\"")), "{kind}");
    }
    let named = schema.matches("\"interaction\":{\"const\"").count();
    // Programs have to be run: `crates/runner/tests/marking.rs` holds them to the same.
    assert_eq!(named, kinds.len() + 1, "{kinds:?}");
}

fn item(part: &str, seed: u64) -> Item {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\nnumbers: {{n: {{from: 11, to: 900}}}}\ntext: 'With {{{{n}}}}'\nparts: [{{id: a, {part}}}]\n"
    );
    let question = parse_question(&yaml).unwrap_or_else(|e| panic!("{part}: {e}"));
    render(&question, seed).unwrap_or_else(|e| panic!("{part}: {e}"))
}

/// A response of every shape, all of the same id.
fn shapes(id: &str) -> Vec<Response> {
    let texts = [
        format!("\"{id}\""),
        format!("[\"{id}\"]"),
        format!("{{\"order\": [\"{id}\"]}}"),
        format!("{{\"fields\": {{\"{id}\": \"{id}\"}}}}"),
        format!("{{\"pairs\": [[\"{id}\", \"{id}\"]]}}"),
        format!("{{\"grid\": [[\"{id}\"]]}}"),
        format!("{{\"objects\": {{\"{id}\": {{\"points\": [[\"1\", \"2\"]]}}}}}}"),
        format!("{{\"written\": {{\"links\": [\"https://{id}.example\"]}}}}"),
    ];
    texts.iter().map(|t| serde_json::from_str(t).unwrap()).collect()
}

const EMPTY: &[&str] = &[
    r#"{"order": []}"#,
    r#"{"fields": {}}"#,
    r#"{"fields": {"g1": " "}}"#,
    r#"{"pairs": []}"#,
    r#"{"grid": [["", " "]]}"#,
    r#"{"objects": {}}"#,
    r#"{"objects": {"p": {"points": [["", " "]]}}}"#,
    r#"{"written": {}}"#,
    r#"{"written": {"text": [{"type": "paragraph", "content": [{"type": "text", "text": " "}]}]}}"#,
];

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
                // What a person marks waits, whatever it is.
                let (outcome, score) = match posed.is_by_hand() {
                    true => (Outcome::Waiting, 0.0),
                    false => (Outcome::Correct, 1.0),
                };
                assert_eq!(verdict.marking.outcome, outcome, "{part}: {key:?}");
                assert_eq!((verdict.marking.score, verdict.reply), (score, None), "{part}");
                assert_eq!(verdict.costs, !posed.is_by_hand(), "{part}");
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
        let own = std::mem::discriminant(&item.parts[0].posed.key());
        for foreign in shapes("c1") {
            if std::mem::discriminant(&foreign) == own {
                continue;
            }
            let verdict = item.parts[0].mark(&foreign);
            assert_eq!(
                verdict.marking.outcome,
                Outcome::Unreadable,
                "{part}: {foreign:?}"
            );
            assert!(!verdict.costs && !verdict.marking.notes.is_empty(), "{part}");
        }
    }
}

#[test]
fn nothing_given_is_unfinished_and_costs_nothing() {
    for (part, _) in KINDS {
        let item = item(part, 5);
        let blank = [Response::Text("  ".into()), Response::Choices(Vec::new())];
        for nothing in blank
            .into_iter()
            .chain(EMPTY.iter().map(|t| serde_json::from_str(t).unwrap()))
        {
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

#[test]
fn a_key_is_right_in_every_member_and_a_wrong_answer_is_wrong_in_one() {
    let mut with_members = 0;
    for (part, _) in KINDS {
        for seed in 1..8 {
            let item = item(part, seed);
            let posed = &item.parts[0].posed;
            let members = posed.members(&item.parts[0].typed_key());
            assert!(
                members.iter().all(|m| m.right && !m.id.is_empty()),
                "{part}: {members:?}"
            );
            let wrong = posed.members(&posed.mistaken());
            assert_eq!(members.is_empty(), wrong.is_empty(), "{part}");
            assert!(
                wrong.is_empty() || wrong.iter().any(|m| !m.right),
                "{part}: {wrong:?}"
            );
            with_members += usize::from(!members.is_empty());
        }
    }
    assert!(with_members > 50);
}

#[test]
fn what_is_unfinished_is_said_before_a_try_is_used_and_the_rest_counts_when_it_is_handed_in() {
    let mut seen = 0;
    for (part, _) in KINDS {
        let item = item(part, 4);
        let part_item = &item.parts[0];
        // Whatever is counted is an answer: none of it is missing.
        if part.contains("counters") {
            continue;
        }
        let Response::Fields { fields } = part_item.typed_key() else {
            continue;
        };
        let mut short = fields.clone();
        short.pop_first();
        let short = Response::Fields { fields: short };
        let verdict = part_item.mark(&short);
        assert_eq!(verdict.marking.outcome, Outcome::Unfinished, "{part}");
        assert!(
            verdict.marking.notes[0].starts_with("One "),
            "{part}: {:?}",
            verdict.marking.notes
        );
        assert!(!verdict.costs);
        let at_end = part_item.mark_as_it_stands(&short);
        let left = (fields.len() - 1) as f64 / fields.len() as f64;
        assert!((at_end.marking.score - left).abs() < 1e-9, "{part}: {at_end:?}");
        seen += 1;
    }
    assert!(seen >= 3);
}

#[test]
fn a_response_as_json_is_taken_as_a_line_of_text() {
    for (part, _) in KINDS {
        let item = item(part, 6);
        let posed = &item.parts[0].posed;
        let key = item.parts[0].typed_key();
        if matches!(key, Response::Text(_) | Response::Choices(_)) {
            continue;
        }
        let json = serde_json::to_string(&key).unwrap();
        assert_eq!(posed.parse_response(&json), Some(key.clone()), "{part}");
        assert_eq!(
            posed.parse_response("{\"nothing\": 1}").map(|_| ()),
            None,
            "{part}"
        );
    }
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
