//! Linear order and checking at hand-in, against requests made by hand.

use actix_web::http::StatusCode;
use coursework::{Navigation, Release};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{QUESTION, check, client, homework, number_in, opened, quiz, world, world_with};

const OTHER: &str = "
id: other
title: Other
points: 3
numbers: {n: {from: 500, to: 900}}
text: 'Half of {{n}}, says the ZEBRA?'
help: {hints: ['ZEBRA hint'], working: ['ZEBRA working']}
parts:
  - {id: a, prompt: 'ZEBRA prompt', interaction: text_entry, answer: {kind: number, key: '{{n}}/2'}}
";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_not_reached_cannot_be_had_by_any_request(pool: PgPool) {
    let mut settings = homework();
    settings.navigation = Navigation::Linear { going_back: true };
    let (client, ada, path) = opened!(pool, settings, &[QUESTION, OTHER, OTHER]);
    let draft = json!({"question": 1, "set_number": 0, "part": "a", "based_on": 0, "response": "1"});
    let parts = json!([{"id": "a", "response": "1"}]);
    let requests = [
        (
            "POST",
            "/read",
            Some(json!({"question": 1, "part": "a", "entry": "1"})),
        ),
        ("POST", "/check", Some(json!({"question": 1, "parts": parts}))),
        ("PUT", "/drafts", Some(draft)),
        ("POST", "/questions/1/hint", None),
        ("POST", "/questions/1/working", None),
        ("POST", "/questions/1/fresh-numbers", None),
        ("POST", "/questions/1/example", None),
        (
            "POST",
            "/questions/1/example/try",
            Some(json!({"round": 0, "parts": parts})),
        ),
        ("GET", "/questions/1/workings", None),
        (
            "PUT",
            "/questions/1/workings",
            Some(json!({"based_on": 0, "notes": "n", "ink": []})),
        ),
        ("POST", "/move-on", Some(json!({"to": 2}))),
        ("GET", "/practice/1/0", None),
    ];
    for (method, tail, body) in requests {
        let (status, answer) = client.send(method, &path(tail), Some(&ada), body).await;
        assert_eq!(status, StatusCode::CONFLICT, "{method} {tail}: {answer}");
        assert!(!answer.to_string().contains("ZEBRA"), "{method} {tail}");
    }
    for tail in ["", "/board", "/hand-in", "/result"] {
        let (_, answer) = client.send("GET", &path(tail), Some(&ada), None).await;
        assert!(!answer.to_string().contains("ZEBRA"), "{tail}");
    }
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][1]["stone"], "locked");
    // Going on shows it, and only it.
    let (status, update) = client
        .send("POST", &path("/move-on"), Some(&ada), Some(json!({"to": 1})))
        .await;
    assert_eq!(status, StatusCode::OK);
    assert!(update.to_string().contains("ZEBRA"));
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][2]["text"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn without_going_back_what_was_left_stays_as_it_is(pool: PgPool) {
    let mut settings = homework();
    settings.navigation = Navigation::Linear { going_back: false };
    let (client, ada, path) = opened!(pool, settings, &[QUESTION, OTHER]);
    client
        .send("POST", &path("/move-on"), Some(&ada), Some(json!({"to": 1})))
        .await;
    let (status, answer) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    assert_eq!(
        (status, &answer["code"]),
        (StatusCode::CONFLICT, &json!("left_behind"))
    );
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1"});
    let (status, _) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_that_may_not_be_left_out_holds_until_something_is_entered(pool: PgPool) {
    let mut settings = quiz();
    settings.navigation = Navigation::Linear { going_back: true };
    settings.allow_skipping = false;
    let (client, ada, path) = opened!(pool, settings, &[QUESTION, OTHER]);
    let on = Some(json!({"to": 1}));
    let (status, answer) = client
        .send("POST", &path("/move-on"), Some(&ada), on.clone())
        .await;
    assert_eq!(
        (status, &answer["code"]),
        (StatusCode::CONFLICT, &json!("answer_first"))
    );
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1"});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    let (status, _) = client.send("POST", &path("/move-on"), Some(&ada), on).await;
    assert_eq!(status, StatusCode::OK);
}

/// What differs between students whatever they answer: numbers, entries, ids, times.
fn without_what_is_personal(value: &Value) -> Value {
    match value {
        Value::Object(fields) => fields
            .iter()
            .filter(|(name, _)| {
                !matches!(
                    name.as_str(),
                    "text"
                        | "draft"
                        | "now"
                        | "at"
                        | "id"
                        | "parts"
                        | "opens"
                        | "minutes_spent"
                        | "handed_in_at"
                        | "last_event"
                )
            })
            .map(|(name, value)| (name.clone(), without_what_is_personal(value)))
            .collect(),
        Value::Array(items) => items.iter().map(without_what_is_personal).collect(),
        other => other.clone(),
    }
}

/// Ada answers rightly and Cy wrongly: before release no answer of the server tells them apart.
#[sqlx::test(migrator = "store::MIGRATOR")]
async fn before_release_right_and_wrong_look_the_same_in_every_answer(pool: PgPool) {
    let mut settings = quiz();
    settings.release = Release::AfterDue;
    settings.hand_ins = Some(2);
    let id = world_with(&pool, settings, &[QUESTION, QUESTION]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let mut told = Vec::new();
    for (who, is_right) in [(&ada, true), (&cy, false)] {
        let mut answers = Vec::new();
        client.send("POST", &path("/open"), Some(who), None).await;
        let (_, board) = client.send("GET", &path("/board"), Some(who), None).await;
        let entry = if is_right {
            2 * number_in(&board)
        } else {
            2 * number_in(&board) + 1
        };
        for (part, response) in [
            ("a", json!(entry.to_string())),
            ("b", json!([if is_right { "blade" } else { "rotor" }])),
        ] {
            let draft =
                json!({"question": 0, "set_number": 0, "part": part, "based_on": 0, "response": response});
            answers.push(client.send("PUT", &path("/drafts"), Some(who), Some(draft)).await);
        }
        answers.push(
            client
                .send(
                    "POST",
                    &path("/check"),
                    Some(who),
                    Some(check(&entry.to_string())),
                )
                .await,
        );
        answers.push(
            client
                .send("POST", &path("/questions/0/working"), Some(who), None)
                .await,
        );
        for round in 0..2 {
            answers.push(client.send("GET", &path("/hand-in"), Some(who), None).await);
            answers.push(client.send("POST", &path("/hand-in"), Some(who), None).await);
            for tail in ["", "/board", "/hand-in", "/result"] {
                answers.push(client.send("GET", &path(tail), Some(who), None).await);
            }
            answers.push(
                client
                    .send("GET", &path(&format!("/receipts/{}", round + 1)), Some(who), None)
                    .await,
            );
            answers.push(client.send("GET", "/api/week", Some(who), None).await);
            answers.push(client.send("GET", "/api/scores", Some(who), None).await);
        }
        answers.push(client.send("POST", &path("/take-back"), Some(who), None).await);
        told.push(
            answers
                .iter()
                .map(|(s, v)| (*s, without_what_is_personal(v)))
                .collect::<Vec<_>>(),
        );
        for (_, answer) in &answers {
            let text = answer.to_string();
            assert!(
                !text.contains("\"verdict\":{") && !text.contains("\"right\":true"),
                "{text}"
            );
        }
    }
    for (right, wrong) in told[0].iter().zip(&told[1]) {
        assert_eq!(right, wrong);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn results_after_due_show_then_and_not_before(pool: PgPool) {
    let hands = crate::client::Hands::new();
    let mut settings = quiz();
    settings.release = Release::AfterDue;
    settings.closes = settings.due + Duration::days(2);
    let due = settings.due;
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let answer = (2 * number_in(&board)).to_string();
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": answer});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    let (_, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(receipt["score"], Value::Null);
    let (_, before) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(
        (&before["released"], &before["questions"]),
        (&json!(false), &json!([]))
    );
    assert!(before["results_at"].is_string());
    hands.move_to((due - OffsetDateTime::now_utc()).whole_seconds() + 60);
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 50.0);
    assert_eq!(
        result["questions"][0]["parts"][0]["given"]["verdict"]["outcome"],
        "right"
    );
    assert!(
        result["questions"][0]["why"][0]
            .as_str()
            .unwrap()
            .contains("1 of 2 points")
    );
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["notices"][0]["words"], "The results are out.");
    // What was seen can't be changed, though late work is still open to others.
    let (status, refused) = client.send("POST", &path("/take-back"), Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("results_out"))
    );
    client
        .send("POST", &path("/seen"), Some(&ada), Some(json!({"result": true})))
        .await;
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["notices"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn in_any_order_there_is_nothing_to_move_on_from(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (status, answer) = client
        .send("POST", &path("/move-on"), Some(&ada), Some(json!({"to": 1})))
        .await;
    assert_eq!(
        (status, &answer["code"]),
        (StatusCode::CONFLICT, &json!("any_order"))
    );
}
