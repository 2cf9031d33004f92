//! The house is in order: what the crates depend on, what is generated, the command, the demo's content.

use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use serde_json::Value;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

#[test]
fn the_pure_crates_stay_pure() {
    let output = Command::new(env!("CARGO"))
        .args([
            "metadata",
            "--format-version",
            "1",
            "--locked",
            "--filter-platform",
        ])
        .arg(format!("{}-unknown-linux-gnu", std::env::consts::ARCH))
        .current_dir(root())
        .output()
        .unwrap();
    let metadata: Value = serde_json::from_slice(&output.stdout).unwrap();
    let nodes = metadata["resolve"]["nodes"].as_array().unwrap();
    let name_of = |id: &str| {
        let package = metadata["packages"]
            .as_array()
            .unwrap()
            .iter()
            .find(|p| p["id"] == id)
            .unwrap();
        package["name"].as_str().unwrap().to_owned()
    };
    let normal_deps = |id: &str| -> Vec<String> {
        let node = nodes.iter().find(|n| n["id"] == id).unwrap();
        let is_normal = |d: &&Value| {
            d["dep_kinds"]
                .as_array()
                .unwrap()
                .iter()
                .any(|k| k["kind"].is_null())
        };
        node["deps"]
            .as_array()
            .unwrap()
            .iter()
            .filter(is_normal)
            .map(|d| d["pkg"].as_str().unwrap().to_owned())
            .collect()
    };
    for pure in ["maths", "marking", "coursework", "lti", "qti"] {
        let start = nodes
            .iter()
            .map(|n| n["id"].as_str().unwrap())
            .find(|id| name_of(id) == pure)
            .unwrap();
        let mut reached: Vec<String> = vec![start.to_owned()];
        let mut next = 0;
        while next < reached.len() {
            for dep in normal_deps(&reached[next].clone()) {
                if !reached.contains(&dep) {
                    reached.push(dep);
                }
            }
            next += 1;
        }
        let names: Vec<String> = reached.iter().map(|id| name_of(id)).collect();
        for forbidden in [
            "tokio",
            "sqlx",
            "sqlx-core",
            "actix-web",
            "actix-rt",
            "store",
            "school",
            "server",
        ] {
            assert!(
                !names.iter().any(|n| n == forbidden),
                "{pure} depends on {forbidden}"
            );
        }
    }
}

fn is_current(file: &str, made: &str) {
    let kept = std::fs::read_to_string(root().join(file)).unwrap();
    assert!(
        kept == made,
        "{file} is stale; docs/decisions/0003-types.md says how to make it anew"
    );
}

#[test]
fn the_description_of_the_interface_is_current() {
    is_current("openapi.json", &server::open_api());
}

#[test]
fn the_schema_of_questions_is_current() {
    is_current(
        "content/question.schema.json",
        &format!("{:#}\n", marking::question_schema()),
    );
}

#[test]
fn the_front_ends_types_are_current() {
    let made = Command::new(root().join("web/node_modules/.bin/openapi-typescript"))
        .arg("openapi.json")
        .current_dir(root())
        .output()
        .unwrap();
    is_current(
        "web/src/api/schema.ts",
        std::str::from_utf8(&made.stdout).unwrap(),
    );
}

#[test]
fn all_content_passes_the_bank_check() {
    let files = school::bank::question_files(&[root().join("content/questions")]).unwrap();
    assert!(files.len() >= 12);
    assert_eq!(school::bank::check(&files), Vec::<String>::new());
}

#[test]
fn nothing_that_is_served_names_an_address_elsewhere() {
    let page = std::fs::read_to_string(root().join("web/dist/index.html")).unwrap();
    assert!(!page.contains("http://") && !page.contains("https://"));
    for entry in std::fs::read_dir(root().join("web/dist/assets")).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_some_and(|e| e == "js") {
            let script = std::fs::read_to_string(&path).unwrap();
            for (at, _) in script.match_indices("://") {
                let rest: String = script[at + 3..].chars().take(14).collect();
                // Names of standards, of this machine, and of nobody (RFC 2606).
                let known = ["www.w3.org/", "localhost", "example.com/", "skerry.example"];
                let known = known.iter().any(|name| rest.starts_with(name));
                let before = &script[..at];
                let address = before.ends_with("http") || before.ends_with("https");
                assert!(known || !address, "{} names {rest}", path.display());
            }
        }
        if path.extension().is_some_and(|e| e == "css") {
            let css = std::fs::read_to_string(&path).unwrap();
            assert!(
                !css.contains("url(http") && !css.contains("@import"),
                "{}",
                path.display()
            );
        }
    }
}

fn mark(input: &[u8]) -> (Vec<Value>, Option<i32>) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_green-slate"))
        .arg("mark")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut stdin = child.stdin.take().unwrap();
    let input = input.to_owned();
    let writer = std::thread::spawn(move || stdin.write_all(&input).unwrap());
    let output = child.wait_with_output().unwrap();
    writer.join().unwrap();
    let lines = String::from_utf8(output.stdout).unwrap();
    (
        lines.lines().map(|l| serde_json::from_str(l).unwrap()).collect(),
        output.status.code(),
    )
}

#[test]
fn mark_answers_every_line_in_order() {
    let input = br#"{"id": "a", "answer": {"kind": "number", "key": "5"}, "entry": "5"}
{"id": "b", "answer": {"kind": "number", "key": "5"}, "entry": "2 +"}
"#;
    let (lines, code) = mark(input);
    assert_eq!(code, Some(0));
    assert_eq!(
        (&lines[0]["id"], &lines[0]["outcome"], &lines[0]["score"]),
        (&"a".into(), &"correct".into(), &1.0.into())
    );
    assert_eq!(
        (&lines[1]["outcome"], &lines[1]["at"]),
        (&"unreadable".into(), &2.into())
    );
}

#[test]
fn mark_goes_on_after_a_bad_line_and_exits_with_1() {
    let input = b"not json\n{\"id\": 1, \"answer\": {\"kind\": \"number\", \"key\": \"1/0\"}, \"entry\": \"5\"}\n\xff\xfe\n{\"id\": 2, \"answer\": {\"kind\": \"number\", \"key\": \"5\", \"colour\": 1}, \"entry\": \"5\"}\n{\"id\": 3, \"answer\": {\"kind\": \"number\", \"key\": \"5\"}, \"entry\": \"5\"}\n";
    let (lines, code) = mark(input);
    assert_eq!(code, Some(1));
    assert_eq!(lines.len(), 5);
    assert!(lines[..4].iter().all(|l| l["error"].is_string()));
    assert_eq!(lines[1]["id"], 1);
    assert_eq!(lines[4]["outcome"], "correct");
}

/// Rust files below a folder.
fn rust_files(folder: &Path, into: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            rust_files(&path, into);
        } else if path.extension().is_some_and(|e| e == "rs") {
            into.push(path);
        }
    }
}

#[test]
fn only_a_kinds_own_file_asks_which_kind_of_answer_it_is() {
    let crates = root().join("crates");
    let mut files = Vec::new();
    for name in ["marking", "coursework", "store", "school", "server"] {
        rust_files(&crates.join(name).join("src"), &mut files);
    }
    let room = crates.join("marking/src/interaction");
    let kinds: Vec<String> = std::fs::read_to_string(room.join("mod.rs"))
        .unwrap()
        .lines()
        .filter_map(|line| Some(line.strip_prefix("mod ")?.trim_end_matches(';').to_owned()))
        .collect();
    assert!(kinds.len() >= 2, "{kinds:?}");
    let (mut asked, mut variants) = (Vec::new(), 0);
    for file in files {
        // What a response may look like is said beside it; each kind says what it makes of it.
        let own = file.starts_with(&room) || file.ends_with("marking/src/response.rs");
        let is_test = file.ends_with("tests.rs") || file.components().any(|c| c.as_os_str() == "tests");
        let text = std::fs::read_to_string(&file).unwrap();
        // Unit tests stand at the end.
        let code = text.split("#[cfg(test)]").next().unwrap();
        for (number, line) in code.lines().enumerate() {
            let asks = [
                "Interaction::",
                "Shown::Typed",
                "Shown::Choice",
                "Response::Text",
                "Response::Choices",
            ];
            let is_call = line.contains("Interaction::spec") || line.trim_start().starts_with("//");
            if !is_call && !is_test && asks.iter().any(|a| line.contains(a)) {
                variants += 1;
                if !own {
                    asked.push(format!("{}:{}: {}", file.display(), number + 1, line.trim()));
                }
            }
        }
    }
    assert!(variants > 10, "the search finds nothing any more");
    assert!(asked.is_empty(), "{}", asked.join("\n"));
}
