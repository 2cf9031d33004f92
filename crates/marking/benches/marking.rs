//! `cargo bench -p marking`: the contract's sample lines, block and key read anew each time, as the command does.

use marking::{AnswerBlock, Marker};

fn main() {
    divan::main();
}

fn cases() -> Vec<(AnswerBlock, String)> {
    include_str!("../tests/corpus/contract.jsonl")
        .lines()
        .map(|line| {
            let case: serde_json::Value = serde_json::from_str(line).unwrap();
            let block = serde_json::from_value(case["answer"].clone()).unwrap();
            (block, case["entry"].as_str().unwrap().to_owned())
        })
        .collect()
}

#[divan::bench]
fn all_sample_lines(bencher: divan::Bencher) {
    let cases = cases();
    bencher
        .counter(divan::counter::ItemsCount::new(cases.len()))
        .bench(|| {
            for (block, entry) in &cases {
                divan::black_box(Marker::new(block).unwrap().mark(entry));
            }
        });
}

#[divan::bench(args = ["x^2 - 7x", "sin(2x)", "sqrt(x^2)", "(x^2-1)/(x-1)", "x^3/3 + floor(x)"])]
fn one_expression(bencher: divan::Bencher, key: &str) {
    let marker = Marker::new(&AnswerBlock::plain(marking::Kind::Expression, key)).unwrap();
    bencher.bench(|| marker.mark(divan::black_box(key)));
}
