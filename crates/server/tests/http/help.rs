//! Hints, examples, the working, fresh numbers, tools: what is shown, and when.

use actix_web::http::StatusCode;
use coursework::{ShowSolution, Tools};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{check, client, homework, number_in, opened, world_with};

const HELPED: &str = "
id: helped
title: Helped
points: 2
numbers: {n: {from: 100, to: 400}}
text: 'Twice {{n}}?'
parts:
  - id: a
    interaction: text_entry
    answer: {kind: number, key: '2*{{n}}'}
    replies: [{to: '{{n}}/2', say: 'That is the HALF.'}]
help:
  hints: ['FIRST hint', 'SECOND hint']
  working: ['WORKING of {{n}}']
";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn hints_and_the_working_reach_the_browser_only_when_they_are_taken(pool: PgPool) {
    let mut settings = homework();
    settings.hint_cost = 50;
    settings.show_solution = ShowSolution::WhenTriesRunOut;
    let (client, ada, path) = opened!(pool, settings, &[HELPED]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    for word in ["FIRST", "SECOND", "WORKING", "HALF"] {
        assert!(!board.to_string().contains(word), "{word}");
    }
    assert_eq!(
        board["questions"][0]["help"]["hint_cost"], 50,
        "the cost is said before"
    );
    let (_, hinted) = client
        .send("POST", &path("/questions/0/hint"), Some(&ada), None)
        .await;
    assert!(hinted.to_string().contains("FIRST") && !hinted.to_string().contains("SECOND"));
    let (status, refused) = client
        .send("POST", &path("/questions/0/working"), Some(&ada), None)
        .await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("solution_after_tries"))
    );
    let n = number_in(&board);
    let (_, replied) = client
        .send(
            "POST",
            &path("/check"),
            Some(&ada),
            Some(check(&format!("{n}/2"))),
        )
        .await;
    assert!(
        replied["question"]["parts"][0]["verdict"]["reply"]
            .to_string()
            .contains("HALF")
    );
    let (_, right) = client
        .send(
            "POST",
            &path("/check"),
            Some(&ada),
            Some(check(&(2 * n).to_string())),
        )
        .await;
    assert_eq!(right["score"]["points"], 1.0, "half is left after a hint of 50 %");
    let (status, shown) = client
        .send("POST", &path("/questions/0/working"), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        shown["question"]["help"]["working"]
            .to_string()
            .contains(&format!("WORKING of {n}"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn fresh_numbers_come_when_a_set_is_over_and_earn_full_credit(pool: PgPool) {
    let mut settings = homework();
    settings.max_sets = Some(2);
    let (client, ada, path) = opened!(pool, settings, &[HELPED]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let first = number_in(&board);
    let fresh = path("/questions/0/fresh-numbers");
    let (status, refused) = client.send("POST", &fresh, Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("set_not_ended"))
    );
    for entry in ["1", "2", "3"] {
        client
            .send("POST", &path("/check"), Some(&ada), Some(check(entry)))
            .await;
    }
    let (status, refused) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("4")))
        .await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("no_tries_left"))
    );
    // A double click takes one set.
    let (one, two) = tokio::join!(
        client.send("POST", &fresh, Some(&ada), None),
        client.send("POST", &fresh, Some(&ada), None)
    );
    assert!(one.0 == StatusCode::OK || two.0 == StatusCode::OK);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let question = &board["questions"][0];
    assert_eq!(
        (&question["set"], &question["tries_left"], &question["sets_left"]),
        (&json!("B"), &json!(3), &json!(0))
    );
    assert_ne!(number_in(&board), first);
    assert_eq!(
        question["sets"][0]["tries"].as_array().unwrap().len(),
        3,
        "every try on every set"
    );
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "old"});
    let (status, refused) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("old_set"))
    );
    let answer = (2 * number_in(&board)).to_string();
    let (_, right) = client
        .send("POST", &path("/check"), Some(&ada), Some(check(&answer)))
        .await;
    assert_eq!(right["score"]["percent"], 100.0);
    let (status, refused) = client.send("POST", &fresh, Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("no_sets_left"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_worked_example_has_its_own_numbers_and_one_to_try(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[HELPED]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let own = number_in(&board);
    let try_path = path("/questions/0/example/try");
    let none = json!({"round": 0, "parts": []});
    let (status, _) = client.send("POST", &try_path, Some(&ada), Some(none)).await;
    assert_eq!(status, StatusCode::CONFLICT, "the example comes first");
    let (_, example) = client
        .send("POST", &path("/questions/0/example"), Some(&ada), None)
        .await;
    let number = |view: &Value| number_in(&json!({"questions": [view]}));
    let shown = number(&example);
    assert_ne!(shown, own);
    assert!(
        example["steps"]
            .to_string()
            .contains(&format!("WORKING of {shown}"))
    );
    for round in 0..12 {
        let ask = |entry: &str| json!({"round": round, "parts": [{"id": "a", "response": entry}]});
        let (_, tried) = client.send("POST", &try_path, Some(&ada), Some(ask("1"))).await;
        let n = number(&tried);
        assert_ne!(n, own, "its answer is never the student's own");
        let (_, tried) = client
            .send("POST", &try_path, Some(&ada), Some(ask(&(2 * n).to_string())))
            .await;
        assert_eq!(tried["all_right"], true);
    }
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(
        (&board["questions"][0]["tries_left"], &board["score"]["points"]),
        (&json!(3), &json!(0.0)),
        "nothing of it is recorded"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn tools_that_are_switched_off_are_refused(pool: PgPool) {
    let mut settings = homework();
    settings.tools = Tools {
        calculator: false,
        formula_sheet: false,
        typing_guide: true,
        reading: true,
    };
    settings.hints = false;
    settings.worked_example = false;
    let (client, ada, path) = opened!(pool, settings, &[HELPED]);
    let sum = json!({"question": 0, "entry": "1+1", "last": null});
    for (method, tail, body, expected) in [
        ("POST", "/calculate", Some(sum), StatusCode::CONFLICT),
        ("POST", "/questions/0/hint", None, StatusCode::CONFLICT),
        ("POST", "/questions/0/example", None, StatusCode::CONFLICT),
        ("GET", "/formula-sheet", None, StatusCode::NOT_FOUND),
    ] {
        let (status, _) = client.send(method, &path(tail), Some(&ada), body).await;
        assert_eq!(status, expected, "{tail}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_calculator_reads_as_the_fields_do(pool: PgPool) {
    let id = world_with(&pool, homework(), &[HELPED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let ask =
        |entry: &str, last: Value| json!({"question": 0, "entry": entry, "last": last, "last_exact": true});
    let path = format!("/api/assignments/{id}/calculate");
    let (_, found) = client
        .send("POST", &path, Some(&ada), Some(ask("2 1/3 + 1/6", Value::Null)))
        .await;
    assert_eq!((&found["result"], &found["exact"]), (&json!("2.5"), &json!(true)));
    let (_, found) = client
        .send("POST", &path, Some(&ada), Some(ask("ans^2", json!("2.5"))))
        .await;
    assert_eq!(found["result"], "6.25");
    let (_, broken) = client
        .send("POST", &path, Some(&ada), Some(ask("(1+2", Value::Null)))
        .await;
    assert!(
        broken["problem"]["words"]
            .as_str()
            .unwrap()
            .contains("closing bracket")
    );
    let (_, sheet) = client
        .send(
            "GET",
            &format!("/api/assignments/{id}/formula-sheet"),
            Some(&ada),
            None,
        )
        .await;
    assert_eq!(sheet["class"], "Site Practice");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_typing_guide_reads_what_is_tried_in_it(pool: PgPool) {
    world_with(&pool, homework(), &[HELPED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, guide) = client.send("GET", "/api/typing-guide", Some(&ada), None).await;
    assert!(guide["topics"].as_array().unwrap().len() > 10);
    let ask = |kind: &str, entry: &str| Some(json!({"kind": kind, "entry": entry}));
    let (_, read) = client
        .send("POST", "/api/typing-guide/read", Some(&ada), ask("number", "3/4"))
        .await;
    assert_eq!(read["reads_as"], "\\frac{3}{4}");
    let (_, read) = client
        .send("POST", "/api/typing-guide/read", Some(&ada), ask("number", "3 +"))
        .await;
    assert!(read["problem"]["words"].is_string());
    let (status, _) = client
        .send("POST", "/api/typing-guide/read", Some(&ada), ask("nonsense", "3"))
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_built_up_comes_back_as_one_would_type_it(pool: PgPool) {
    let (client, ada, _) = opened!(pool, homework(), &[HELPED]);
    let built = |latex: &str| json!({"latex": latex});
    let (status, said) = client
        .send("POST", "/api/built", Some(&ada), Some(built(r"\frac{1}{2}")))
        .await;
    assert_eq!((status, &said["entry"]), (StatusCode::OK, &json!("1/2")));
    let (_, said) = client
        .send("POST", "/api/built", Some(&ada), Some(built(r"\int x")))
        .await;
    assert_eq!(said["entry"], Value::Null);
    assert!(said["problem"].as_str().unwrap().contains("\\int"));
    let (status, _) = client.send("POST", "/api/built", None, Some(built("1"))).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
}
