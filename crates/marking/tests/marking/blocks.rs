//! What is wrong with a kind's block in a file is said to its author, with the part and in words.

use marking::{parse_question, render};
use rstest::rstest;

/// What is said of a part, by reading the file or by drawing a set.
fn fault(part: &str) -> String {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\nnumbers: {{n: {{from: 2, to: 9}}}}\ntext: t\nparts: [{{id: a, {part}}}]\n"
    );
    match parse_question(&yaml) {
        Err(error) => error.to_string(),
        Ok(question) => render(&question, 1)
            .map(|_| "nothing".to_owned())
            .unwrap_or_else(|e| e.to_string()),
    }
}

#[rstest]
#[case::gap_without_label(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: '', answer: {kind: number, key: '1'}}}",
    "needs a label"
)]
#[case::gap_not_listed(
    "interaction: inline, passage: '[[g]] [[h]]', gaps: {g: {label: g, answer: {kind: number, key: '1'}}}",
    "`h`"
)]
#[case::gap_not_there(
    "interaction: inline, passage: 'none', gaps: {g: {label: g, answer: {kind: number, key: '1'}}}",
    "not in the passage"
)]
#[case::gap_not_closed(
    "interaction: inline, passage: 'a [[g', gaps: {g: {label: g, answer: {kind: number, key: '1'}}}",
    "without its `]]`"
)]
#[case::list_without_right(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: g, choices: [{id: a, text: a}], correct: b}}",
    "no choice `b`"
)]
#[case::maths_in_a_list(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: g, choices: [{id: a, text: '$x$'}], correct: a}}",
    "takes no maths"
)]
#[case::list_right_twice(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: g, choices: [{id: a, text: a}, {id: b, text: b}], correct: {a: 'n > 0', b: 'n > 1'}}}",
    "two right choices"
)]
#[case::list_right_never(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: g, choices: [{id: a, text: a}], correct: {a: 'n < 0'}}}",
    "no right choice"
)]
#[case::reply_to_no_gap(
    "interaction: inline, passage: '[[g]]', gaps: {g: {label: g, answer: {kind: number, key: '1'}}}, replies: [{to: 'h=2', say: no}]",
    "h=2"
)]
#[case::no_such_tile(
    "interaction: gap_match, passage: '[[g]]', tiles: [{id: t, text: t}], gaps: {g: u}",
    "no tile `u`"
)]
#[case::a_tile_twice(
    "interaction: gap_match, passage: '[[g]] [[h]]', tiles: [{id: t, text: t}], gaps: {g: t, h: t}",
    "reuse"
)]
#[case::no_such_group(
    "interaction: group, groups: [{id: g, text: g}, {id: h, text: h}], items: [{id: i, text: i, group: k}]",
    "no group `k`"
)]
#[case::one_group(
    "interaction: group, groups: [{id: g, text: g}], items: [{id: i, text: i, group: g}]",
    "two groups"
)]
#[case::row_without_column(
    "interaction: match, rows: [{id: r, text: r, to: []}], columns: [{id: c, text: c}]",
    "several: true"
)]
#[case::no_such_column(
    "interaction: match, rows: [{id: r, text: r, to: [d]}], columns: [{id: c, text: c}]",
    "no column `d`"
)]
#[case::id_twice(
    "interaction: match, rows: [{id: c, text: r, to: [c]}], columns: [{id: c, text: c}]",
    "occurs twice"
)]
#[case::pair_of_nothing(
    "interaction: associate, items: [{id: a, text: a}], pairs: [[a, b]]",
    "no item `b`"
)]
#[case::no_pairs(
    "interaction: associate, items: [{id: a, text: a}], pairs: []",
    "belongs together"
)]
#[case::one_step("interaction: order, steps: [{id: a, text: a}]", "2 to 12")]
#[case::turned_round(
    "interaction: order, steps: [{id: a, text: a}, {id: b, text: b}], after: {a: [b]}",
    "must come before it"
)]
#[case::after_nothing(
    "interaction: order, steps: [{id: a, text: a}, {id: b, text: b}], after: {a: []}",
    "every order would be right"
)]
#[case::phrase_not_there(
    "interaction: hot_text, passage: '[[a: x]] [[b: y]]', correct: [c]",
    "not in the passage"
)]
#[case::all_right("interaction: hot_text, passage: '[[a: x]]', correct: [a]", "everything")]
#[case::no_words(
    "interaction: hot_text, passage: '[[a]] [[b: y]]', correct: [a]",
    "without words"
)]
#[case::scale_that_falls(
    "interaction: slider, from: 5, to: 1, step: 1, label: l, answer: {kind: number, key: '2'}",
    "does not rise"
)]
#[case::slider_of_words(
    "interaction: slider, from: 0, to: 1, step: 1, label: l, answer: {kind: text, key: x}",
    "sets a number"
)]
#[case::ragged_grid("interaction: matrix, label: m, rows: [[1, 2], [3]]", "all rows the same")]
#[case::too_few_names(
    "interaction: matrix, label: m, rows: [[1, 2]], column_names: [a]",
    "as many names"
)]
#[case::size_given_away(
    "interaction: matrix, label: m, size_is_asked: true, rows: [[1, 2]], row_names: [a]",
    "give the size away"
)]
#[case::fraction_of_words(
    "interaction: fraction, label: f, answer: {kind: text, key: x}",
    "a number or an expression"
)]
#[case::no_such_spot(
    "interaction: hotspot, picture: {figure: number_line, from: 0, to: 4, step: 1}, spots: [{id: s, label: s, at: [1, 0]}], correct: [t]",
    "no place `t`"
)]
#[case::spot_without_label(
    "interaction: hotspot, picture: {figure: number_line, from: 0, to: 4, step: 1}, spots: [{id: s, label: '', at: [1, 0]}], correct: [s]",
    "needs a label"
)]
#[case::order_of_others(
    "interaction: graphic_order, picture: {figure: number_line, from: 0, to: 4, step: 1}, spots: [{id: s, label: s, at: [1, 0]}, {id: t, label: t, at: [3, 0]}], order: [s, u]",
    "each place once"
)]
#[case::place_without_tile(
    "interaction: graphic_gap_match, picture: {figure: number_line, from: 0, to: 4, step: 1}, spots: [{id: s, label: s, at: [1, 0]}], tiles: [{id: t, text: t}], right: {}",
    "each place once"
)]
#[case::no_such_cell(
    "interaction: place, look: cells, label: l, rows: [{id: r, text: r}], columns: [{id: c, text: c}], marks: [[r, d]]",
    "no place"
)]
#[case::column_without_mark(
    "interaction: place, look: panel, one_per_column: true, label: l, rows: [{id: r, text: r}], columns: [{id: c, text: c}, {id: d, text: d}], marks: [[r, c]]",
    "one mark"
)]
#[case::groups_of_nothing(
    "interaction: counters, thing: bolt, start: 4, action: add, count: 2, groups: 2, label: l",
    "belongs to"
)]
#[case::too_few_things(
    "interaction: counters, thing: bolt, start: 4, action: cross_out, count: 5, label: l",
    "too few things"
)]
#[case::interval_on_a_plane(
    "interaction: plane, x: [0, 4], y: [0, 4], snap: 1, objects: [{id: i, label: i, draw: interval, from: 1, to: 2}]",
    "number line"
)]
#[case::line_on_a_number_line(
    "interaction: plane, x: [0, 4], snap: 1, objects: [{id: i, label: i, draw: line, through: [[0, 0], [1, 1]]}]",
    "number line"
)]
#[case::nothing_to_set(
    "interaction: plane, x: [0, 4], y: [0, 4], snap: 1, objects: []",
    "nothing is to be set"
)]
#[case::a_field_too_many(
    "interaction: order, steps: [{id: a, text: a}, {id: b, text: b}], colour: red",
    "colour"
)]
#[case::no_kind("interaction: scribble", "scribble")]
fn a_faulty_block_says_what_is_wrong(#[case] part: &str, #[case] words: &str) {
    let said = fault(part);
    assert!(said.contains(words), "{part}\n  says: {said}");
}
