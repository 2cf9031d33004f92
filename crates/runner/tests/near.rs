//! Programs that are nearly right: each question's own solution with one thing changed, as it is mistyped or misthought. A
//! question whose checks let one pass would give full marks to a mistake.

use std::path::{Path, PathBuf};

use marking::{Response, parse_question, render};

fn questions() -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../content/questions/programs");
    let files = std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().path());
    let mut files: Vec<PathBuf> = files
        .filter(|p| p.extension().is_some_and(|e| e == "yaml"))
        .collect();
    files.sort();
    files
}

/// What stands for what, where it stands alone.
const SWAPS: [(&str, &[&str]); 14] = [
    ("<", &["<="]),
    ("<=", &["<"]),
    (">", &[">="]),
    (">=", &[">"]),
    ("===", &["!=="]),
    ("!==", &["==="]),
    ("&&", &["||"]),
    ("||", &["&&"]),
    ("+=", &["="]),
    ("*=", &["="]),
    ("*", &["/", "+"]),
    ("/", &["*"]),
    ("%", &["/"]),
    ("!", &[""]),
];

/// The pieces of a line of code: words, numbers, signs, and texts with their quotation marks.
fn pieces(code: &str) -> Vec<String> {
    let mut all: Vec<String> = Vec::new();
    let mut chars = code.chars().peekable();
    while let Some(c) = chars.next() {
        let mut piece = c.to_string();
        if matches!(c, '"' | '\'' | '`') {
            for next in chars.by_ref() {
                piece.push(next);
                if next == c {
                    break;
                }
            }
        } else {
            let kind = |c: char| match c {
                c if c.is_alphanumeric() || c == '_' => 0,
                c if "<>=!&|+-*/%".contains(c) => 1,
                _ => 2,
            };
            while kind(c) < 2 && chars.peek().is_some_and(|n| kind(*n) == kind(c)) {
                piece.extend(chars.next());
            }
        }
        all.push(piece);
    }
    all
}

/// The program with one thing changed, and what was changed.
fn nearly(solution: &str) -> Vec<(String, String)> {
    let pieces = pieces(solution);
    let mut all = Vec::new();
    for (place, piece) in pieces.iter().enumerate() {
        let mut instead: Vec<String> = SWAPS
            .iter()
            .filter(|(sign, _)| sign == piece)
            .flat_map(|(_, others)| others.iter().map(|o| (*o).to_owned()))
            .collect();
        if let Ok(number) = piece.parse::<i64>() {
            instead.extend([number + 1, number - 1].map(|n| n.to_string()));
        }
        for other in instead {
            let mut changed = pieces.clone();
            changed[place] = other.clone();
            let line = solution
                .lines()
                .nth(pieces[..place].concat().matches('\n').count());
            let what = format!("{piece} → {other} in: {}", line.unwrap_or_default().trim());
            all.push((changed.concat(), what));
        }
    }
    all
}

/// What comes to the same: in which question, what is changed, and where.
const SAME: [(&str, &str, &str); 6] = [
    // Nine alone: nine, and nothing of nothing.
    ("cross-sum", "10 → 9", "if (n < 10)"),
    // Before the first and past the last there is nothing, and nothing is neither more than a number nor a sign.
    ("highest-reading", "0 → -1", "for ("),
    ("rising-edges", "1 → 0", "for ("),
    ("rising-edges", "< → <=", "for ("),
    ("tide-windows", "0 → -1", "for ("),
    ("tide-windows", "< → <=", "for ("),
];

#[test]
fn nearly_right_is_not_right() {
    marking::program::set_runs(runner::run);
    let (mut tried, mut passed) = (0, Vec::new());
    for file in questions() {
        let question = parse_question(&std::fs::read_to_string(&file).unwrap()).unwrap();
        for seed in 1..=2 {
            let item = render(&question, seed).unwrap();
            let part = &item.parts[0];
            let Response::Program { program: solution } = part.posed.key() else {
                panic!("{} is answered by a program", file.display());
            };
            for (program, what) in nearly(&solution) {
                let is_same = |(id, change, line): &(&str, &str, &str)| {
                    question.id == *id && what.starts_with(change) && what.contains(line)
                };
                if SAME.iter().any(is_same) {
                    continue;
                }
                tried += 1;
                if part.mark(&Response::Program { program }).marking.score >= 1.0 {
                    passed.push(format!("{} ({seed}): {what}", question.id));
                }
            }
        }
    }
    assert!(tried > 200, "{tried} tried");
    assert!(
        passed.is_empty(),
        "{} of {tried} passed:\n{}",
        passed.len(),
        passed.join("\n")
    );
}
