//! Kinds with members, parts that wait for others, and what follows from an earlier answer, as a browser has them.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, homework, opened, quiz};

const SORTED: &str = "
id: sorted
title: Sorted
points: 4
text: 'Sort.'
parts:
  - id: a
    interaction: inline
    passage: 'Force [[f]], power [[p]].'
    gaps:
      f: {label: force, answer: {kind: number, key: '12', unit: N}}
      p: {label: power, choices: [{id: w, text: watt}, {id: v, text: volt}], correct: w}
  - id: b
    interaction: choice
    choices: [{id: one, text: one, correct: true}, {id: two, text: two}, {id: three, text: three}]
";

const CHAIN: &str = "
id: chain
title: Chain
points: 2
numbers: {n: {from: 3, to: 9}, twice: {formula: '2n'}}
text: 'With {{n}}'
parts:
  - {id: a, prompt: Twice it, interaction: text_entry, max_attempts: 1, answer: {kind: number, key: '{{twice}}'}}
  - {id: b, prompt: SECRET, opens_after: a, interaction: text_entry, answer: {kind: number, key: '{{twice}} + 1'}, follow: {numbers: {twice: a}}}
";

fn given(parts: Value) -> Value {
    json!({"question": 0, "parts": parts})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_unfinished_costs_nothing_and_each_member_has_its_verdict(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[SORTED]);
    let half = json!([{"id": "a", "response": {"fields": {"f": "12 N"}}}]);
    let (status, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(half)))
        .await;
    assert_eq!(status, StatusCode::OK);
    let verdict = &said["question"]["parts"][0]["verdict"];
    assert_eq!(
        (&verdict["outcome"], &said["used_a_try"]),
        (&json!("not_finished"), &json!(false))
    );
    assert_eq!(verdict["notes"], json!(["One box is still empty."]));
    assert_eq!(verdict["members"], json!([]), "nothing is judged yet");
    let whole = json!([{"id": "a", "response": {"fields": {"f": "12 N", "p": "v"}}}, {"id": "b", "response": ["two"]}]);
    let (_, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(whole)))
        .await;
    let parts = &said["question"]["parts"];
    assert_eq!(parts[0]["verdict"]["score"], 0.5);
    let members: Vec<(&Value, &Value)> = parts[0]["verdict"]["members"]
        .as_array()
        .unwrap()
        .iter()
        .map(|m| (&m["id"], &m["right"]))
        .collect();
    assert_eq!(
        members,
        [(&json!("f"), &json!(true)), (&json!("p"), &json!(false))]
    );
    // Another wrong pick: the first one stays marked on this set.
    let again = json!([{"id": "b", "response": ["three"]}]);
    let (_, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(again)))
        .await;
    assert_eq!(
        said["question"]["parts"][1]["wrong_before"],
        json!(["three", "two"])
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn how_a_gap_reads_is_asked_by_its_name(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[SORTED]);
    let read = |part: &str| json!({"question": 0, "part": part, "entry": "12 N"});
    let (_, said) = client
        .send("POST", &path("/read"), Some(&ada), Some(read("a/f")))
        .await;
    assert!(said["reads_as"].as_str().unwrap().contains("12"), "{said}");
    for nothing in ["a/p", "a/x", "a"] {
        let (status, _) = client
            .send("POST", &path("/read"), Some(&ada), Some(read(nothing)))
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{nothing}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_part_that_waits_is_not_sent_and_what_follows_from_a_wrong_answer_counts(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[CHAIN]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let question = &board["questions"][0];
    assert_eq!(question["waiting"], json!([{"id": "b", "after": "a"}]));
    assert_eq!(question["parts"].as_array().unwrap().len(), 1);
    assert!(!board.to_string().contains("SECRET"));
    // Nothing can be checked in it either.
    let early = json!([{"id": "b", "response": "100"}]);
    let (status, _) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(early)))
        .await;
    assert_eq!(status, StatusCode::CONFLICT);
    let wrong = json!([{"id": "a", "response": "99"}]);
    let (_, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(wrong)))
        .await;
    assert_eq!(said["question"]["waiting"], json!([]));
    assert!(
        said.to_string().contains("SECRET"),
        "it opens once the other has no tries left"
    );
    let follows = json!([{"id": "b", "response": "100"}]);
    let (_, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(follows)))
        .await;
    let verdict = &said["question"]["parts"][1]["verdict"];
    assert_eq!(
        (&verdict["outcome"], &verdict["score"]),
        (&json!("right"), &json!(1.0))
    );
    assert_eq!(
        verdict["notes"],
        json!(["Right for your answer to part (a): it follows from it."])
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_quiz_counts_what_is_right_in_an_unfinished_answer_and_opens_every_part(pool: PgPool) {
    let (client, ada, path) = opened!(pool, quiz(), &[SORTED, CHAIN]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][1]["waiting"], json!([]));
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": {"fields": {"f": "12 N"}}});
    let (status, saved) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let (_, handed) = client
        .send("POST", &path("/hand-in"), Some(&ada), Some(json!({})))
        .await;
    // Half of the first part, which is half of four points.
    assert_eq!(handed["score"]["points"], 1.0, "{handed}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn responses_that_no_question_has_are_refused(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[SORTED]);
    let many: serde_json::Map<String, Value> = (0..80).map(|n| (n.to_string(), json!("1"))).collect();
    for response in [
        json!({"fields": many}),
        json!({"order": vec!["a"; 90]}),
        json!({"grid": vec![vec!["1"]; 20]}),
    ] {
        let parts = json!([{"id": "a", "response": response}]);
        let (status, _) = client
            .send("POST", &path("/check"), Some(&ada), Some(given(parts)))
            .await;
        assert!(status.is_client_error(), "{status}");
    }
    // One of another kind is said to be so, and costs nothing.
    let foreign = json!([{"id": "a", "response": {"pairs": [["a", "b"]]}}]);
    let (_, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given(foreign)))
        .await;
    assert_eq!(said["used_a_try"], false);
    assert_eq!(said["question"]["parts"][0]["verdict"]["outcome"], "cannot_read");
}
