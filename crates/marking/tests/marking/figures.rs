//! Figures: drawn from a set's numbers, said in words from the same numbers, and checked for labels that overlap.

use marking::{Block, Drawing, figure_faults, parse_question, render};
use proptest::prelude::*;
use rstest::rstest;

fn question(figure: &str) -> marking::Question {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\nnumbers: {{n: {{from: 2, to: 9}}, m: {{formula: '2n'}}}}\nfigures:\n  f: {figure}\ntext: \"With {{{{n}}}}:\\n\\n![](f)\"\nparts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '1'}}}}]\n"
    );
    parse_question(&yaml).unwrap_or_else(|e| panic!("{figure}: {e}"))
}

fn drawn(figure: &str, seed: u64) -> Drawing {
    let item = render(&question(figure), seed).unwrap_or_else(|e| panic!("{figure}: {e}"));
    let found = item.text.into_iter().find_map(|b| match b {
        Block::Figure { drawing, .. } => Some(drawing),
        _ => None,
    });
    found.expect("a figure in the text")
}

const FIGURES: &[&str] = &[
    "{figure: plane, x: [0, 10], y: [0, 20], curves: [{y: '{{n}} x', name: 'a line'}], points: [{at: ['{{n}}', 4], label: P}], regions: [[[0, 0], [1, 0], [1, 1]]], vectors: [{from: [0, 0], to: ['{{n}}', 2], label: ''}]}",
    "{figure: number_line, from: 0, to: 20, step: 2, intervals: [{from: '{{n}}', to: '{{m}}', open_to: true}], unit: m/s}",
    "{figure: polygon, corners: [[0, 0], ['{{n}}', 0], ['{{n}}', 5]], sides: ['{{n}} m', '', ''], angles: [α, right, '']}",
    "{figure: circle, radius: '{{n}} m', sector: {from: 40, to: 130, label: 90°}}",
    "{figure: bars, top: 10, step: 2, of: hours, bars: [{label: A, value: '{{n}}'}, {label: B, value: 4}]}",
    "{figure: box_plot, from: 0, to: 40, step: 5, unit: m/s, boxes: [{label: north, numbers: [1, '{{n}}', 10, 15, '10 + {{m}}']}]}",
    "{figure: circuit, elements: [{symbol: cell, from: [0, 0], to: [0, 2], label: '{{n}} V', side: left}, {symbol: lamp, from: [0, 2], to: [2, 2]}], wires: [[[2, 2], [2, 0], [0, 0]]], joints: [[2, 0]]}",
    "{figure: free_body, body: load, ground: 10, forces: [{angle: 90, size: '{{n}}', label: '{{n}} kN'}, {angle: 270, size: 4, label: weight}]}",
    "{figure: gauge, from: 0, to: 20, step: 5, small: 1, value: '{{n}}', unit: bar}",
];

#[test]
fn every_figure_has_a_picture_and_says_in_words_what_its_numbers_are() {
    for figure in FIGURES {
        for seed in 0..20 {
            let drawing = drawn(figure, seed);
            assert!(
                drawing.svg.starts_with("<svg ") && drawing.svg.ends_with("</svg>"),
                "{figure}"
            );
            assert!(
                drawing.alt.ends_with('.') && drawing.alt.len() > 15,
                "{figure}: {}",
                drawing.alt
            );
            assert!((100..600).contains(&drawing.width) && (60..600).contains(&drawing.height));
            assert!(
                !drawing.svg.contains("NaN") && !drawing.svg.contains("inf"),
                "{figure}"
            );
        }
    }
}

#[rstest]
#[case::interval(1, "a thick line from a filled circle at")]
#[case::polygon(2, "a right angle at corner 2")]
#[case::circle(3, "a shaded sector of 90°, 90°")]
#[case::bars(4, "Bars, hours: A")]
#[case::box_plot(5, "median 10")]
#[case::circuit(6, "a cell")]
#[case::free_body(7, "on a slope of 10°")]
#[case::gauge(8, "The hand stands")]
fn the_words_come_from_the_numbers(#[case] place: usize, #[case] words: &str) {
    let alt = drawn(FIGURES[place], 3).alt;
    assert!(alt.contains(words), "{alt}");
}

#[test]
fn other_numbers_give_another_picture_and_other_words() {
    for figure in FIGURES {
        let all: std::collections::BTreeSet<(String, String)> = (0..40)
            .map(|seed| drawn(figure, seed))
            .map(|d| (d.svg, d.alt))
            .collect();
        assert!(all.len() >= 6, "{figure}: {} pictures of eight sets", all.len());
    }
}

#[test]
fn a_hand_stands_where_its_value_is() {
    let gauge = |value: i32| {
        drawn(
            &format!("{{figure: gauge, from: 0, to: 20, step: 5, small: 1, value: {value}}}"),
            1,
        )
    };
    assert!(
        gauge(12).alt.contains("2 small lines past 10"),
        "{}",
        gauge(12).alt
    );
    assert_ne!(gauge(12).svg, gauge(13).svg);
}

#[test]
fn words_of_its_own_replace_those_of_the_numbers() {
    let drawing = drawn(
        "{figure: number_line, from: 0, to: 20, step: 2, alt: 'A line of {{n}} tents.'}",
        2,
    );
    assert!(drawing.alt.starts_with("A line of ") && drawing.alt.ends_with(" tents."));
}

#[test]
fn labels_cannot_be_markup() {
    let drawing = drawn(
        "{figure: number_line, from: 0, to: 4, step: 1, points: [{at: 2, label: '<b>&\"x'}]}",
        1,
    );
    assert!(
        drawing.svg.contains("&lt;b&gt;&amp;&quot;x") && !drawing.svg.contains("<b>"),
        "{}",
        drawing.svg
    );
}

#[rstest]
#[case::overlap(
    "{figure: number_line, from: 0, to: 20, step: 1, points: [{at: 5, label: first}, {at: 6, label: second}]}",
    "overlap"
)]
#[case::edge(
    "{figure: polygon, corners: [[0, 0], [4, 0], [4, 3]], sides: ['', 'a side with a very long name', '']}",
    "over the edge"
)]
fn labels_that_cannot_be_read_are_found(#[case] figure: &str, #[case] words: &str) {
    let faults = figure_faults(&question(figure), 1).unwrap();
    assert!(faults.iter().any(|f| f.contains(words)), "{faults:?}");
}

#[test]
fn figures_without_faults_have_none() {
    for figure in FIGURES {
        for seed in 0..20 {
            let faults = figure_faults(&question(figure), seed).unwrap();
            assert!(faults.is_empty(), "{figure}: {faults:?}");
        }
    }
}

#[rstest]
#[case::a_plane_that_falls("{figure: plane, x: [5, 0], y: [0, 1]}")]
#[case::no_polygon("{figure: polygon, corners: [[0, 0], [1, 1]]}")]
#[case::a_bar_off_the_scale("{figure: bars, top: 1, step: 1, bars: [{label: a, value: 4}]}")]
#[case::a_hand_off_the_scale("{figure: gauge, from: 0, to: 10, step: 5, small: 1, value: 40}")]
#[case::no_number("{figure: number_line, from: 0, to: x, step: 1}")]
#[case::no_curve("{figure: plane, x: [0, 1], y: [0, 1], curves: [{y: 'x +'}]}")]
fn what_cannot_be_drawn_is_said(#[case] figure: &str) {
    assert!(render(&question(figure), 1).is_err(), "{figure}");
}

#[rstest]
#[case::unknown("{figure: spiral}")]
#[case::a_field_too_many("{figure: number_line, from: 0, to: 1, step: 1, colour: red}")]
#[case::no_symbol("{figure: circuit, elements: [{symbol: wheel, from: [0, 0], to: [1, 0]}]}")]
fn what_is_no_figure_is_no_question(#[case] figure: &str) {
    let yaml = format!(
        "id: q\ntitle: t\npoints: 1\nfigures: {{f: {figure}}}\ntext: t\nparts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '1'}}}}]\n"
    );
    assert!(parse_question(&yaml).is_err(), "{figure}");
}

#[test]
fn a_figure_that_is_not_there_is_said() {
    let mut question = question(FIGURES[1]);
    question.text = "![](g)".into();
    let error = render(&question, 1).err().expect("no such figure").to_string();
    assert!(error.contains("`g`"), "{error}");
}

proptest! {
    #[test]
    fn a_curve_stays_on_its_sheet(a in -5i32..6, b in -9i32..10) {
        let figure = format!("{{figure: plane, x: [-5, 5], y: [-8, 8], curves: [{{y: '{a}x^2 + {b}x - 3/(x - 1/7)'}}]}}");
        let drawing = drawn(&figure, 1);
        let paths = drawing.svg.split("d=\"M").skip(1);
        for number in paths.flat_map(|d| d.split('"').next().unwrap_or_default().split(['L', ' ', 'Z'])) {
            if let Ok(n) = number.parse::<f64>() {
                prop_assert!((-10.0..700.0).contains(&n), "{}", n);
            }
        }
    }
}
