//! Out and in again: what was exported comes back equal; without its own file, it comes back as the item says it.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use marking::{Question, Response, parse_question, render};
use qti::{TestOut, export, import, parse};

fn files_in(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files_in(&path, found);
        } else if path.extension().is_some_and(|e| e == "yaml") {
            found.push(path);
        }
    }
}

/// Every question of the demo's bank.
fn bank() -> Vec<(Question, String)> {
    let mut files = Vec::new();
    files_in(
        &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../content/questions"),
        &mut files,
    );
    files.sort();
    let read = |path: PathBuf| {
        let text = std::fs::read_to_string(path).unwrap();
        (parse_question(&text).unwrap(), text)
    };
    files.into_iter().map(read).collect()
}

fn tests_of(bank: &[(Question, String)]) -> Vec<TestOut> {
    vec![TestOut {
        id: "tower-shadows".into(),
        title: "Tower shadows & more".into(),
        questions: bank.iter().take(5).map(|(q, _)| q.id.clone()).collect(),
        attempts: Some(3),
        linear: true,
        seconds: Some(1_800),
    }]
}

#[test]
fn the_whole_bank_comes_back_equal() {
    let bank = bank();
    let package = export(&bank, &tests_of(&bank));
    let back = import(&package.files);
    assert_eq!(back.report, []);
    assert_eq!(back.questions.len(), bank.len());
    for ((before, text), (after, source)) in bank.iter().zip(&back.questions) {
        assert_eq!((before, text), (after, source), "{}", before.id);
    }
    let test = &back.tests[0];
    assert_eq!(test.questions, tests_of(&bank)[0].questions);
    assert_eq!(
        (test.attempts, test.linear, test.seconds),
        (Some(3), true, Some(1_800))
    );
    assert_eq!(test.title, "Tower shadows & more");
}

#[test]
fn every_file_of_a_package_is_sound() {
    let bank = bank();
    let package = export(&bank, &tests_of(&bank));
    let manifest = parse(&package.files["imsmanifest.xml"]).unwrap();
    let named: Vec<String> = manifest
        .walk()
        .into_iter()
        .filter(|n| n.name == "file")
        .filter_map(|n| n.attribute("href").map(str::to_owned))
        .collect();
    // Everything is named, and what is named is there.
    for name in &named {
        assert!(package.files.contains_key(name), "{name}");
    }
    for name in package
        .files
        .keys()
        .filter(|n| !matches!(n.as_str(), "imsmanifest.xml" | "losses.txt"))
    {
        assert!(named.contains(name), "{name}");
    }
    // In the order that the schema asks for.
    let order = [
        "qti-response-declaration",
        "qti-outcome-declaration",
        "qti-template-declaration",
        "qti-template-processing",
        "qti-item-body",
        "qti-response-processing",
    ];
    for (name, bytes) in package.files.iter().filter(|(n, _)| n.starts_with("items/")) {
        let item = parse(bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!(item.name, "qti-assessment-item");
        let places: Vec<usize> = item
            .nodes()
            .map(|n| {
                order
                    .iter()
                    .position(|o| *o == n.name)
                    .unwrap_or_else(|| panic!("{name}: {}", n.name))
            })
            .collect();
        assert!(places.is_sorted(), "{name}");
        // Each response that is declared is asked for, and each that is asked for is declared.
        let declared: Vec<&str> = item
            .all("qti-response-declaration")
            .filter_map(|d| d.attribute("identifier"))
            .collect();
        let all = item.walk();
        let mut asked: Vec<&str> = all
            .iter()
            .filter_map(|n| n.attribute("response-identifier"))
            .collect();
        let mut wanted = declared.clone();
        asked.sort_unstable();
        wanted.sort_unstable();
        assert_eq!(asked, wanted, "{name}");
        // Nothing is left of the marks that stood for variables.
        let text = std::str::from_utf8(bytes).unwrap();
        assert!(
            !text.chars().any(|c| ('\u{e000}'..='\u{f8ff}').contains(&c)),
            "{name}"
        );
        let slot = |rest: &str| {
            let inside = rest.split("}}").next().unwrap_or_default();
            inside.starts_with(|c: char| c.is_ascii_lowercase())
                && inside.chars().all(|c| c.is_ascii_alphanumeric())
        };
        let left = text.split("{{").skip(1).find(|rest| slot(rest));
        assert!(left.is_none(), "{name}: {left:?}");
        // Pictures are in the package.
        for img in all.iter().filter(|n| n.name == "img") {
            let src = img.attribute("src").unwrap().trim_start_matches("../");
            assert!(package.files.contains_key(src), "{name}: {src}");
            parse(&package.files[src]).unwrap();
        }
    }
}

/// A package without the questions' own files: as if another program had written it.
fn bare(bank: &[(Question, String)]) -> BTreeMap<String, Vec<u8>> {
    let mut files = export(bank, &[]).files;
    files.retain(|name, _| !name.starts_with("questions/"));
    files
}

#[test]
fn items_alone_come_back_as_questions_whose_keys_are_right() {
    let bank = bank();
    let back = import(&bare(&bank));
    let taken: BTreeMap<&str, &Question> = back.questions.iter().map(|(q, _)| (q.id.as_str(), q)).collect();
    let mut same_kinds = 0;
    for (before, _) in &bank {
        let Some(after) = taken.get(before.id.as_str()) else {
            continue;
        };
        assert_eq!(before.title, after.title);
        assert_eq!(before.points, after.points, "{}", before.id);
        for seed in 1..=3 {
            let item = render(after, seed).unwrap_or_else(|e| panic!("{}: {e}", before.id));
            for part in item.parts.iter().filter(|p| !p.posed.is_by_hand()) {
                let key = part.posed.key();
                let verdict = part.mark(&key);
                assert_eq!(verdict.marking.score, 1.0, "{} {}: {key:?}", before.id, part.id);
            }
        }
        let kinds = |q: &Question| {
            let of = |p: &marking::Part| serde_json::to_value(&p.interaction).unwrap()["interaction"].clone();
            q.parts.iter().map(of).collect::<Vec<_>>()
        };
        same_kinds += usize::from(kinds(before) == kinds(after));
    }
    // QTI has no programs: they come back as writing.
    let is_program = |q: &Question| {
        let of =
            |p: &marking::Part| serde_json::to_value(&p.interaction).unwrap()["interaction"] == "program";
        q.parts.iter().any(of)
    };
    let sayable = bank.iter().filter(|(q, _)| !is_program(q)).count();
    // What was left out has a line each; nearly all of the bank can be said.
    assert!(
        taken.len() * 100 >= bank.len() * 95,
        "{} of {}: {:#?}",
        taken.len(),
        bank.len(),
        back.report
    );
    assert!(same_kinds * 100 >= sayable * 80, "{same_kinds} of {sayable}");
}

#[test]
fn numbers_are_drawn_on_as_template_variables() {
    let text = "id: speed\ntitle: Speed\npoints: 2\nnumbers:\n  s: {from: 10, to: 90, step: 5}\n  t: {one_of: [2, 4, 5]}\n  \
        v: {formula: 's/t'}\nconditions: ['s > 4*t']\ntext: |\n  A boat does **{{s}} km** in {{t}} h, $v = \\frac{{{s}}}{{{t}}}$.\n\
        parts:\n  - {id: a, interaction: text_entry, label: Speed, answer: {kind: number, key: '{{s}}/{{t}}', tolerance: {absolute: 0.5}}}\n";
    let question = parse_question(text).unwrap();
    let package = export(&[(question, text.to_owned())], &[]);
    let item = String::from_utf8(package.files["items/speed.xml"].clone()).unwrap();
    for said in [
        "<qti-random-integer min=\"10\" max=\"90\" step=\"5\"/>",
        "<qti-printed-variable identifier=\"s\"/>",
        "<qti-template-constraint>",
        "<qti-set-correct-response identifier=\"RESPONSE_A\">",
        "tolerance=\"0.5 0.5\"",
        "math-variable=\"true\"",
    ] {
        assert!(item.contains(said), "{said}: {item}");
    }
    let mut files = package.files;
    files.remove("questions/speed.yaml");
    let back = import(&files);
    assert_eq!(back.report, []);
    let (after, source) = &back.questions[0];
    assert!(after.is_drawn(), "{source}");
    for seed in 1..=40 {
        let item = render(after, seed).unwrap();
        let shown = marking::plain(&item.text);
        let bold: Vec<f64> = shown
            .split(|c: char| !(c.is_ascii_digit() || c == '.'))
            .filter_map(|n| n.parse().ok())
            .collect();
        let (s, t) = (bold[0], bold[1]);
        assert!(s > 4.0 * t, "{shown}");
        let right = item.parts[0].mark(&Response::Text(format!("{:.1}", s / t + 0.4)));
        assert_eq!(right.marking.score, 1.0, "{shown}");
        let wrong = item.parts[0].mark(&Response::Text(format!("{:.1}", s / t + 0.7)));
        assert_eq!(wrong.marking.score, 0.0, "{shown}");
    }
}

#[test]
fn what_was_changed_elsewhere_is_read_from_the_item() {
    let bank: Vec<_> = bank()
        .into_iter()
        .filter(|(q, _)| q.id == "true-statements" || q.id == "longer-shadow")
        .collect();
    let mut files = export(&bank, &[]).files;
    for (question, _) in &bank {
        let name = format!("items/{}.xml", question.id);
        let text = String::from_utf8(files[&name].clone()).unwrap();
        let title = text.replace(
            &format!("title=\"{}\"", question.title),
            "title=\"Another title\"",
        );
        assert_ne!(title, text);
        files.insert(name, title.into_bytes());
    }
    let back = import(&files);
    assert!(
        back.questions.iter().all(|(q, _)| q.title == "Another title"),
        "{:?}",
        back.report
    );
    assert_eq!(back.questions.len(), bank.len(), "{:?}", back.report);
}

#[test]
fn a_loss_is_stated_for_each_thing_that_is_left_out() {
    let bank = bank();
    let package = export(&bank, &[]);
    let has = |id: &str, words: &str| {
        package
            .losses
            .iter()
            .any(|l| l.question == id && l.words.contains(words))
    };
    for (question, _) in &bank {
        if !question.help.hints.is_empty() {
            assert!(has(&question.id, "hints"), "{}", question.id);
        }
        let plane = question
            .parts
            .iter()
            .any(|p| serde_json::to_value(&p.interaction).unwrap()["interaction"] == "plane");
        assert_eq!(
            plane,
            has(&question.id, "no such interaction") && plane,
            "{}",
            question.id
        );
    }
    let text = std::str::from_utf8(&package.files["losses.txt"]).unwrap();
    assert_eq!(
        text.lines().filter(|l| l.contains(": ")).count(),
        package.losses.len()
    );
}
