//! Small programs: run, checked, handed in; and what a program can't do to the server.

use std::time::{Duration, Instant};

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, homework, opened, put_question, quiz, teacher_of, world_with};

const LINES: &str = r#"
id: lines
title: Lines
skills: [fractions]
points: 4
numbers: {n: {from: 3, to: 9}}
text: 'Print {{n}} lines, `wind 0` and so on.'
parts:
  - id: a
    interaction: program
    label: Your program
    start: "// here\n"
    files: {log.txt: "a\nb {{n}}\n"}
    solution: |
      for (let i = 0; i < {{n}}; i++) print("wind " + i);
      function twice(x) { return 2 * x; }
    wrong: |
      for (let i = 0; i <= {{n}}; i++) print("wind " + i);
    checks:
      - {id: lines, say: "Prints {{n}} lines", share: 2, prints: {}}
      - {id: twice, say: Doubles, hidden: true, call: {function: twice, draw: [{from: 2, to: 90}], times: 3}}
      - {id: loop, say: Uses a loop, uses: loop}
help: {working: ['WORKING']}
"#;

const BY_HAND: &str = r#"
id: by-hand
title: A program that a person reads
points: 4
text: 'Print a line.'
parts:
  - id: a
    interaction: program
    label: Your program
    solution: print("wind");
    wrong: print("rain");
    checks: [{id: line, say: Prints the line, prints: {}}]
    rubric: [{say: Names say what they stand for, share: 2}, {say: It works, share: 2}]
"#;

fn program(text: &str) -> Value {
    json!({"question": 0, "parts": [{"id": "a", "response": {"program": text}}]})
}

/// How many lines are asked for.
fn wanted(board: &Value) -> u64 {
    let text = board["questions"][0]["parts"][0]["entry"]["checks"][0]["say"]
        .as_str()
        .unwrap();
    text.split(' ').nth(1).unwrap().parse().unwrap()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_program_is_checked_check_by_check(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[LINES]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let text = board.to_string();
    assert!(
        !text.contains("twice(x)") && !text.contains("WORKING"),
        "the solution stays here"
    );
    assert!(
        board["questions"][0]["parts"][0]["entry"]["files"]["log.txt"]
            .as_str()
            .unwrap()
            .starts_with("a\nb ")
    );
    let n = wanted(&board);
    // One line short, no function, but a loop: one of four points.
    let short = format!("for (let i = 0; i < {n} - 1; i++) print('wind ' + i);");
    let (_, checked) = client
        .send("POST", &path("/check"), Some(&ada), Some(program(&short)))
        .await;
    let verdict = &checked["question"]["parts"][0]["verdict"];
    assert_eq!(
        (verdict["outcome"].as_str(), verdict["score"].as_f64()),
        (Some("partly_right"), Some(0.25))
    );
    let found: Vec<(&str, bool)> = verdict["checks"]
        .as_array()
        .unwrap()
        .iter()
        .map(|c| (c["id"].as_str().unwrap(), c["met"].as_bool().unwrap()))
        .collect();
    assert_eq!(found, [("lines", false), ("twice", false), ("loop", true)]);
    assert_eq!(verdict["checks"][0]["words"], "One line is missing at the end.");
    assert!(
        verdict["checks"][0]["expected"]
            .as_str()
            .unwrap()
            .ends_with(&format!("wind {}\n", n - 1))
    );
    // What is hidden says nothing of what it was tried with.
    assert_eq!(verdict["checks"][1]["expected"], Value::Null);
    assert!(!verdict["checks"][1]["words"].as_str().unwrap().contains("twice("));
    // What does not start costs no try and says where.
    let (_, broken) = client
        .send(
            "POST",
            &path("/check"),
            Some(&ada),
            Some(program("let a = 1;\nprint(a")),
        )
        .await;
    assert_eq!(broken["used_a_try"], false);
    let verdict = &broken["question"]["parts"][0]["verdict"];
    assert_eq!(verdict["outcome"], "cannot_read");
    assert!(
        verdict["notes"][0].as_str().unwrap().starts_with("Line 2: "),
        "{verdict}"
    );
    // Right, and recorded once it is handed in.
    let right = format!("for (let i = 0; i < {n}; i++) print('wind', i);\nconst twice = x => x + x;");
    let (_, done) = client
        .send("POST", &path("/check"), Some(&ada), Some(program(&right)))
        .await;
    assert_eq!(done["question"]["parts"][0]["right"], true, "{done}");
    let (_, handed_in) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(handed_in["score"]["percent"], 100.0);
    // The slip book has the first one, as it was.
    let (_, slips) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert!(slips.to_string().contains("program"), "{slips}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn in_a_quiz_it_is_checked_at_the_end(pool: PgPool) {
    let settings = coursework::Settings {
        release: coursework::Release::AtHandIn,
        ..quiz()
    };
    let (client, ada, path) = opened!(pool, settings, &[LINES]);
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0,
        "response": {"program": "for (;;) {}"}});
    let (status, saved) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(
        board["questions"][0]["parts"][0]["draft"]["response"]["program"],
        "for (;;) {}"
    );
    let (_, handed_in) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    // An endless loop is a loop: that check is met, the others are not.
    assert_eq!(handed_in["score"]["percent"], 25.0, "{handed_in}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_marks_by_lines_beside_the_checks(pool: PgPool) {
    let id = world_with(&pool, homework(), &[BY_HAND]).await;
    teacher_of(&pool, &id).await;
    let client = client!(pool);
    let tam = client.sign_in("tam").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    // One that runs, and one that does not start: a person can read it all the same.
    for (who, program) in [("ada", "print('rain')"), ("cy", "print('rain'")] {
        let who = client.sign_in(who).await;
        client.send("POST", &path("/open"), Some(&who), None).await;
        let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": {"program": program}});
        client
            .send("PUT", &path("/drafts"), Some(&who), Some(draft))
            .await;
        let (status, _) = client.send("POST", &path("/hand-in"), Some(&who), None).await;
        assert_eq!(status, StatusCode::OK);
        let (_, result) = client.send("GET", &path("/result"), Some(&who), None).await;
        assert_eq!(result["recorded"]["waiting"], 4.0, "{result}");
    }
    let (_, queue) = client
        .send("GET", &format!("/api/marking/{id}/0"), Some(&tam), None)
        .await;
    let text = queue.to_string();
    assert!(text.contains("0 of 1 checks passed."), "{text}");
    assert!(text.contains("Names say what they stand for"), "{text}");
    assert!(text.contains("Line 1: the program ends before"), "{text}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn running_shows_output_errors_and_what_is_too_much(pool: PgPool) {
    world_with(&pool, homework(), &[LINES]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let run = |body: Value| client.send("POST", "/api/programs/run", Some(&ada), Some(body));
    let (_, ran) = run(
        json!({"source": "print(readLine(), readFile('f'), random() < 1)", "input": "3\n4",
        "files": {"f": "x"}, "seed": "7"}),
    )
    .await;
    assert_eq!(
        (ran["output"].as_str(), &ran["error"]),
        (Some("3 x true\n"), &Value::Null)
    );
    let (_, failed) = run(json!({"source": "\nprint(a);"})).await;
    assert_eq!(
        (failed["error"]["line"].as_u64(), failed["error"]["kind"].as_str()),
        (Some(2), Some("name"))
    );
    let (_, endless) = run(json!({"source": "print('before'); while (true) {}"})).await;
    assert_eq!(
        (endless["output"].as_str(), endless["error"]["kind"].as_str()),
        (Some("before\n"), Some("steps"))
    );
    let (status, _) = run(json!({"source": "x".repeat(20_001)})).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let (status, _) = run(json!({"source": "", "input": "x".repeat(30_000)})).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let (status, _) = client
        .send("POST", "/api/programs/run", None, Some(json!({"source": ""})))
        .await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    let (_, place) = client.send("GET", "/api/programs/place", Some(&ada), None).await;
    assert_eq!(place["before"], Value::Null);
}

/// While endless programs of several people run and wait, everybody else's requests are answered meanwhile: not after them.
#[sqlx::test(migrator = "store::MIGRATOR")]
async fn endless_programs_hold_nobody_up(pool: PgPool) {
    world_with(&pool, homework(), &[LINES]).await;
    put_question(&pool, BY_HAND).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    // Regular expressions that take for ever are ended by the clock alone, after two seconds each.
    let slow = |n: usize| {
        let source = format!("/^(a+)+$/.test('a'.repeat(40) + '!'); // {n}");
        client.send(
            "POST",
            "/api/programs/run",
            Some(&ada),
            Some(json!({"source": source})),
        )
    };
    let begun = Instant::now();
    let others = async {
        let mut slowest = Duration::ZERO;
        let mut answered = 0;
        while begun.elapsed() < Duration::from_millis(1_500) {
            let asked = Instant::now();
            let (status, _) = client.send("GET", "/api/week", Some(&cy), None).await;
            assert_eq!(status, StatusCode::OK);
            slowest = slowest.max(asked.elapsed());
            answered += 1;
            tokio::time::sleep(Duration::from_millis(10)).await;
        }
        (slowest, answered)
    };
    let (first, second, third, (slowest, answered)) = tokio::join!(slow(1), slow(2), slow(3), others);
    for (_, ran) in [first, second, third] {
        assert!(
            matches!(ran["error"]["kind"].as_str(), Some("time" | "steps" | "thrown")),
            "{ran}"
        );
    }
    println!("{answered} requests beside endless programs, the slowest took {slowest:?}");
    // Had they to wait for the programs, not two would have been answered.
    assert!(answered >= 10, "{answered}");
}
