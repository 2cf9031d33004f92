//! Files and writing that go to the teacher.

use actix_web::cookie::Cookie;
use actix_web::http::{StatusCode, header};
use actix_web::test::{self, TestRequest};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, homework, opened, quiz};

const REPORT: &str = "
id: report
title: Report
points: 4
text: 'Report.'
parts:
  - {id: a, interaction: extended_text, label: Report, least_words: 3, files: 2, model: MODEL of a good answer}
  - {id: b, interaction: text_entry, answer: {kind: number, key: '5'}}
";
const PLAIN: &str = "
id: plain
title: Plain
points: 2
text: 'Five?'
parts:
  - {id: a, interaction: text_entry, answer: {kind: number, key: '5'}}
";
const PNG: &[u8] = b"\x89PNG\r\n\x1a\n and so on";

/// Sends bytes as a file; gives the status and what was said.
macro_rules! send_file {
    ($client:expr, $cookie:expr, $path:expr, $bytes:expr) => {{
        let request = TestRequest::post()
            .uri($path)
            .cookie($cookie.clone())
            .set_payload($bytes)
            .to_request();
        let response = test::call_service(&$client.app, request).await;
        let status = response.status();
        let body = test::read_body(response).await;
        let said: Value = serde_json::from_slice(&body).unwrap_or_default();
        (status, said)
    }};
}

/// Fetches a file; gives the status, its headers and its bytes.
macro_rules! get_file {
    ($client:expr, $cookie:expr, $id:expr, $range:expr) => {{
        let request = TestRequest::get()
            .uri(&format!("/api/files/{}", $id))
            .cookie($cookie.clone())
            .insert_header((header::RANGE, $range))
            .to_request();
        let response = test::call_service(&$client.app, request).await;
        let (status, headers) = (response.status(), response.headers().clone());
        (status, headers, test::read_body(response).await)
    }};
}

fn draft(part: &str, based_on: i64, response: Value) -> Value {
    json!({"question": 0, "set_number": 0, "part": part, "based_on": based_on, "response": response})
}

fn text(words: &str) -> Value {
    json!([{"type": "paragraph", "content": [{"type": "text", "text": words}]}])
}

fn named(file: &Value) -> Value {
    json!({"id": file["id"], "name": file["name"], "media_type": file["media_type"], "size": file["size"]})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_file_is_kept_for_its_owner_as_what_it_is_and_cannot_run(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT, PLAIN]);
    let to = |name: &str| path(&format!("/questions/0/files?name={name}"));
    let (status, file) = send_file!(client, ada, &to("deck%20(1).png"), PNG);
    assert_eq!(status, StatusCode::OK, "{file}");
    assert_eq!(
        (&file["name"], &file["media_type"], &file["size"]),
        (&json!("deck (1).png"), &json!("image/png"), &json!(PNG.len()))
    );
    let id = file["id"].as_str().unwrap().to_owned();
    let (status, headers, body) = get_file!(client, ada, id, "bytes=1-3");
    assert_eq!((status, &body[..]), (StatusCode::PARTIAL_CONTENT, &b"PNG"[..]));
    let text_of = |name: &str| headers.get(name).map(|v| v.to_str().unwrap().to_owned());
    assert_eq!(
        text_of("content-disposition").unwrap(),
        "attachment; filename*=UTF-8''deck%20%281%29.png"
    );
    assert_eq!(
        text_of("content-security-policy").unwrap(),
        "default-src 'none'; sandbox"
    );
    assert_eq!(text_of("x-content-type-options").unwrap(), "nosniff");
    assert_eq!(text_of("content-type").unwrap(), "image/png");

    // Another student has neither the file nor, by its name, a way to it.
    let ben: Cookie = client.sign_in("cy").await;
    assert_eq!(get_file!(client, ben, id, "bytes=0-").0, StatusCode::NOT_FOUND);
    client.send("POST", &path("/open"), Some(&ben), None).await;
    let stolen = draft("a", 0, json!({"written": {"files": [named(&file)]}}));
    let (status, said) = client
        .send("PUT", &path("/drafts"), Some(&ben), Some(stolen))
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "{said}");
    let (status, _) = client
        .send("DELETE", &path(&format!("/files/{id}")), Some(&ben), None)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = client
        .send("DELETE", &path(&format!("/files/{id}")), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(get_file!(client, ada, id, "bytes=0-").0, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_may_not_be_kept_is_refused_in_words(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT, PLAIN]);
    let to = |question: usize| path(&format!("/questions/{question}/files?name=x.png"));
    let cases: [(usize, Vec<u8>, StatusCode); 6] = [
        (0, b"<html><script>1</script>".to_vec(), StatusCode::BAD_REQUEST),
        (
            0,
            b"\x7fELF\x02\x01\x01\0\0\0\0\0\0\0\0\0".to_vec(),
            StatusCode::BAD_REQUEST,
        ),
        (0, Vec::new(), StatusCode::BAD_REQUEST),
        (
            0,
            [PNG, &vec![0; 8 * 1024 * 1024]].concat(),
            StatusCode::PAYLOAD_TOO_LARGE,
        ),
        // A question that nothing can be attached to, and one that is not there.
        (1, PNG.to_vec(), StatusCode::BAD_REQUEST),
        (7, PNG.to_vec(), StatusCode::CONFLICT),
    ];
    for (question, bytes, wanted) in cases {
        let length = bytes.len();
        let (status, said) = send_file!(client, ada, &to(question), bytes);
        assert_eq!(status, wanted, "{question}, {length} bytes: {said}");
        assert!(said["detail"].as_str().is_some_and(|d| d.len() > 12), "{said}");
    }
    let bad = [
        json!({"written": {"links": ["javascript:alert(1)"]}}),
        json!({"written": {"text": [{"type": "script", "text": "x"}]}}),
        json!({"written": {"text": text(&"x".repeat(30_001))}}),
        json!({"written": {"files": [{"id": "0190f000-0000-7000-8000-000000000000", "name": "x", "media_type": "image/png", "size": 1}]}}),
    ];
    for response in bad {
        let (status, _) = client
            .send("PUT", &path("/drafts"), Some(&ada), Some(draft("a", 0, response)))
            .await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn thirty_files_are_kept_of_forty_sent_one_after_the_other(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    let mut kept = 0;
    for _ in 0..40 {
        let (status, _) = send_file!(client, ada, &path("/questions/0/files?name=a.png"), PNG);
        kept += usize::from(status == StatusCode::OK);
    }
    assert_eq!(kept, 30);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn writing_goes_in_at_hand_in_waits_and_is_marked_by_the_teacher(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    let (_, file) = send_file!(client, ada, &path("/questions/0/files?name=a.png"), PNG);
    let response = json!({"written": {"text": text("It slipped"), "files": [named(&file)]}});
    let (status, _) = client
        .send(
            "PUT",
            &path("/drafts"),
            Some(&ada),
            Some(draft("a", 0, response.clone())),
        )
        .await;
    assert_eq!(status, StatusCode::OK);
    let (_, preview) = client.send("GET", &path("/hand-in"), Some(&ada), None).await;
    let question = &preview["questions"][0];
    assert_eq!(question["for_teacher"], json!(["a"]));
    assert_eq!(
        question["short"],
        json!(["(a) One word is still missing. At least 3 are asked for."])
    );
    assert_eq!(question["empty_parts"], json!(["b"]));
    assert_eq!(question["unchecked_parts"], json!([]));

    let (status, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK, "{receipt}");
    assert_eq!(
        (&receipt["score"]["points"], &receipt["score"]["waiting"]),
        (&json!(0.0), &json!(2.0))
    );
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    let part = &result["questions"][0]["parts"][0];
    assert_eq!(part["given"]["verdict"]["outcome"], "with_the_teacher");
    assert_eq!(part["given"]["verdict"]["response"], response);
    assert_eq!(part["model"], json!([]), "it can still be handed in again");
    assert!(!result.to_string().contains("MODEL"));
    let why = result["questions"][0]["why"].to_string();
    assert!(why.contains("2 of 4 points wait for your teacher."), "{why}");

    // What was handed in stays, whatever is taken out of the answer afterwards.
    let id = file["id"].as_str().unwrap().to_owned();
    let (status, _) = client
        .send("DELETE", &path(&format!("/files/{id}")), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(
        get_file!(client, ada, id, "bytes=0-").0,
        StatusCode::PARTIAL_CONTENT
    );

    let assignment = path("").trim_start_matches("/api/assignments/").to_owned();
    let given = coursework::Event::ScoredByTeacher {
        question: 0,
        points: 1.5,
        note: "What came of it?".into(),
        by: None,
        parts: Vec::new(),
    };
    crate::client::add_event(&pool, &assignment, "ada", given).await;
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    let question = &result["questions"][0];
    assert_eq!(
        (&question["points"], &result["recorded"]["waiting"]),
        (&json!(1.5), &json!(0.0))
    );
    assert_eq!(
        question["parts"][0]["given"]["verdict"]["outcome"],
        "marked_by_teacher"
    );
    assert_eq!(
        question["teacher_note"][0]["content"][0]["value"],
        "What came of it?"
    );
}

/// Only written.
const ESSAY: &str = "
id: essay
title: Essay
points: 2
text: 'Why?'
parts:
  - {id: a, interaction: extended_text, label: Why, model: Because it is so}
";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_the_teacher_marks_is_not_checked_and_keeps_its_numbers(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[ESSAY]);
    let given =
        json!({"question": 0, "parts": [{"id": "a", "response": {"written": {"text": text("Because")}}}]});
    let (status, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(given))
        .await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("marked_by_teacher"))
    );
    let fresh = path("/questions/0/fresh-numbers");
    let (status, said) = client.send("POST", &fresh, Some(&ada), None).await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("numbers_stay"))
    );
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["tries_left"], json!(3), "no try was used");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn in_a_quiz_writing_is_handed_in_with_the_rest_and_its_verdict_tells_nothing(pool: PgPool) {
    let (client, ada, path) = opened!(pool, quiz(), &[REPORT]);
    let response = json!({"written": {"text": text("It slipped away")}});
    for (part, response) in [("a", response), ("b", json!("5"))] {
        let (status, _) = client
            .send(
                "PUT",
                &path("/drafts"),
                Some(&ada),
                Some(draft(part, 0, response)),
            )
            .await;
        assert_eq!(status, StatusCode::OK);
    }
    let (status, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK, "{receipt}");
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    if result["released"] == json!(true) {
        assert_eq!(
            (&result["recorded"]["points"], &result["recorded"]["waiting"]),
            (&json!(2.0), &json!(2.0))
        );
    } else {
        assert_eq!(result["recorded"], Value::Null);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_sound_is_there_for_whoever_is_signed_in(pool: PgPool) {
    let client = client!(pool);
    crate::client::world(&pool).await;
    let ada = client.sign_in("ada").await;
    let ask = |name: &str| TestRequest::get().uri(&format!("/api/sounds/{name}"));
    let there = test::call_service(&client.app, ask("clicks.mp3").cookie(ada.clone()).to_request()).await;
    assert_eq!(there.headers().get(header::CONTENT_TYPE).unwrap(), "audio/mpeg");
    assert!(test::read_body(there).await.len() > 20_000);
    for name in ["none.mp3", "..%2Fworld.yaml", "clicks.wav"] {
        let gone = test::call_service(&client.app, ask(name).cookie(ada.clone()).to_request()).await;
        assert_eq!(gone.status(), StatusCode::NOT_FOUND, "{name}");
    }
    let stranger = test::call_service(&client.app, ask("clicks.mp3").to_request()).await;
    assert_eq!(stranger.status(), StatusCode::UNAUTHORIZED);
}
