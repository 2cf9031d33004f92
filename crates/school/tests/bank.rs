//! What `bank check` finds in a question, and where it says that it is.

use std::path::PathBuf;

use rstest::rstest;
use school::bank;

/// A file that goes away with the test.
struct File(PathBuf);

impl File {
    fn with(text: &str) -> Self {
        use std::sync::atomic::{AtomicU32, Ordering};
        static COUNT: AtomicU32 = AtomicU32::new(0);
        let number = COUNT.fetch_add(1, Ordering::Relaxed);
        let folder = std::env::temp_dir().join(format!("green-slate-bank-{}-{number}", std::process::id()));
        std::fs::create_dir_all(&folder).unwrap();
        std::fs::write(folder.join("q.yaml"), text).unwrap();
        File(folder)
    }

    fn faults(&self) -> Vec<String> {
        let file = self.0.join("q.yaml");
        let found = bank::check(std::slice::from_ref(&file));
        let shorter = |f: String| f.replace(&file.display().to_string(), "q");
        found.into_iter().map(shorter).collect()
    }
}

impl Drop for File {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

/// A sound question, with one line changed.
fn question(change: (&str, &str)) -> String {
    let sound = "id: tower
title: Tower
points: 2
numbers:
  h: {from: 20, to: 90}
  d: {from: 3, to: 60}
  p: {formula: 'h*d'}
text: 'A tower is {{h}} m high and {{d}} m away.'
parts:
  - id: a
    prompt: How far is it?
    interaction: text_entry
    answer: {kind: number, key: '{{h}}*{{d}}'}
    replies: [{to: '{{h}}+{{d}}+1', say: Multiply them.}]
help:
  hints: ['Multiply.']
  working: ['{{h}} · {{d}} is {{p}}.']
";
    assert!(sound.contains(change.0), "{}", change.0);
    sound.replace(change.0, change.1)
}

#[test]
fn a_sound_question_has_no_fault() {
    assert_eq!(File::with(&question(("2", "2"))).faults(), Vec::<String>::new());
}

#[rstest]
#[case::unknown_number("{{h}}*{{d}}'}", "{{h}}*{{w}}'}", "`w`")]
#[case::unknown_number_in_text("{{d}} m away", "{{away}} m away", "`away`")]
#[case::key_that_is_no_number("'{{h}}*{{d}}'}", "'{{h}} x'}", "part `a`")]
#[case::key_without_value("'{{h}}*{{d}}'}", "'{{h}}/(2-2)'}", "part `a`")]
#[case::wrong_form(
    "key: '{{h}}*{{d}}'",
    "key: '{{h}}*{{d}}', form: mixed",
    "its own key is marked"
)]
#[case::reply_to_the_key("'{{h}}+{{d}}+1'", "'{{d}}*{{h}}'", "its key would set off reply 1")]
#[case::must_be_less("key: '{{h}}*{{d}}'", "key: '{{h}}/{{d}}', must_be: [whole]", "is not")]
#[case::too_few_answers("{{h}}*{{d}}'}", "9999'}", "only 1 different answers in 200 sets")]
#[case::range_upside_down("{from: 20, to: 90}", "{from: 90, to: 20}", "h")]
#[case::sum_in_place_of_a_name("{{p}}", "{{d*h}}", "is not the name of a number")]
#[case::no_points("points: 2", "points: -2", "q")]
#[case::unknown_field("title: Tower", "titel: Tower", "titel")]
#[case::no_parts("interaction: text_entry", "interaction: sung", "sung")]
fn what_is_wrong_is_said(#[case] from: &str, #[case] to: &str, #[case] words: &str) {
    let found = File::with(&question((from, to))).faults();
    assert!(!found.is_empty(), "{to} was let through");
    assert!(found.iter().any(|f| f.contains(words)), "{to}: {found:#?}");
    for fault in &found {
        assert!(fault.starts_with('q'), "it says in which file: {fault}");
    }
}

#[test]
fn a_fault_says_its_line() {
    let part = File::with(&question(("'{{h}}+{{d}}+1'", "'{{d}}*{{h}}'"))).faults();
    assert!(part[0].starts_with("q:10: part `a`"), "{part:#?}");
    let few = File::with(&question(("{{h}}*{{d}}'}", "9999'}"))).faults();
    assert!(few[0].starts_with("q:4: only"), "{few:#?}");
}

#[test]
fn few_answers_may_be_meant() {
    let text = question(("{{h}}*{{d}}'}", "9999'}")).replace("points: 2", "points: 2\nfew_answers: true");
    assert_eq!(File::with(&text).faults(), Vec::<String>::new());
}

#[test]
fn an_id_is_one_questions() {
    let (one, two) = (
        File::with(&question(("2", "2"))),
        File::with(&question(("2", "2"))),
    );
    let found = bank::check(&[one.0.join("q.yaml"), two.0.join("q.yaml")]);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].contains("the id `tower` occurs twice"));
}

#[test]
fn files_are_found_in_folders_and_what_is_not_there_is_named() {
    let file = File::with(&question(("2", "2")));
    std::fs::create_dir_all(file.0.join("deeper")).unwrap();
    std::fs::write(file.0.join("deeper/r.yaml"), "").unwrap();
    std::fs::write(file.0.join("skills.yaml"), "").unwrap();
    std::fs::write(file.0.join("notes.txt"), "").unwrap();
    let found = bank::question_files(std::slice::from_ref(&file.0)).unwrap();
    let names: Vec<_> = found.iter().filter_map(|f| f.file_name()?.to_str()).collect();
    assert_eq!(
        names,
        ["r.yaml", "q.yaml"],
        "in order, without the skills and notes"
    );
    let missing = bank::question_files(&[file.0.join("nowhere")]);
    assert!(missing.unwrap_err().ends_with("there is no such file"));
}

#[rstest]
#[case::empty("")]
#[case::not_a_question("just words")]
#[case::a_list("- 1\n- 2\n")]
#[case::broken("id: [unclosed")]
#[case::control_signs("id: \"\\u0000\"")]
fn a_file_that_is_no_question_is_a_fault_and_not_the_end(#[case] text: &str) {
    let found = File::with(text).faults();
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(
        found[0].starts_with("q: ") || found[0].starts_with("q:"),
        "{found:#?}"
    );
}
