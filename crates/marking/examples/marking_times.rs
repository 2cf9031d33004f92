//! `cargo run --release -p marking --example marking_times`: median, 99th percentile and worst time of one marking
//! over the contract's sample lines, the block and its key being read anew each time.

use std::time::Instant;

use marking::{AnswerBlock, Marker};

fn main() {
    let mut times = Vec::new();
    for line in include_str!("../tests/corpus/contract.jsonl").lines() {
        let case: serde_json::Value = serde_json::from_str(line).expect("a line of JSON");
        let block: AnswerBlock = serde_json::from_value(case["answer"].clone()).expect("an answer block");
        let entry = case["entry"].as_str().unwrap_or_default();
        let mut runs: Vec<f64> = (0..31)
            .map(|_| {
                let start = Instant::now();
                let marking = Marker::new(&block).expect("a good block").mark(entry);
                std::hint::black_box(marking);
                start.elapsed().as_secs_f64() * 1e6
            })
            .collect();
        runs.sort_by(f64::total_cmp);
        times.push((runs[15], entry.chars().take(40).collect::<String>()));
    }
    times.sort_by(|a, b| a.0.total_cmp(&b.0));
    let at = |part: f64| {
        #[expect(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            clippy::cast_precision_loss,
            reason = "an index"
        )]
        let index = (part * (times.len() - 1) as f64).round() as usize;
        &times[index]
    };
    for (time, entry) in times.iter().rev().take(6) {
        println!("{time:>8.0} µs  {entry}");
    }
    println!(
        "{} lines: median {:.0} µs, 99th percentile {:.0} µs, worst {:.0} µs ({})",
        times.len(),
        at(0.5).0,
        at(0.99).0,
        at(1.0).0,
        at(1.0).1
    );
    let lines: Vec<&str> = include_str!("../tests/corpus/contract.jsonl").lines().collect();
    let asked: Vec<String> = lines
        .iter()
        .filter_map(|line| {
            let mut case: serde_json::Value = serde_json::from_str(line).ok()?;
            case.as_object_mut()?
                .retain(|key, _| matches!(key.as_str(), "id" | "answer" | "entry"));
            Some(case.to_string())
        })
        .collect();
    let start = Instant::now();
    let mut count = 0u32;
    while start.elapsed().as_secs() < 3 {
        for line in &asked {
            std::hint::black_box(marking::mark_line(line));
            count += 1;
        }
    }
    println!(
        "{:.0} lines a second, JSON in and out",
        f64::from(count) / start.elapsed().as_secs_f64()
    );
}
