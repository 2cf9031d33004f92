//! The slip book: kept from every wrong check, mended on fresh numbers, coming back.

use actix_web::http::StatusCode;
use actix_web::test;
use coursework::Release;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{DOUBLED, Hands, QUESTION, check, client, homework, number_in, opened, quiz, world_with};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_slip_gets_a_note_is_mended_and_comes_back(pool: PgPool) {
    let hands = Hands::new();
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool, hands.clock());
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    for entry in ["3 +", "=1+1", "7"] {
        client
            .send("POST", &path("/check"), Some(&ada), Some(check(entry)))
            .await;
    }
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(
        (&book["open"], &book["back"]),
        (&json!(2), &json!(0)),
        "what could not be read is no slip"
    );
    let slip = &book["slips"][0];
    assert_eq!(slip["given"][0]["verdict"]["response"], "7");
    assert!(slip["text"].to_string().contains("Twice"));

    let note = |text: &str| Some(json!({"source": slip["source"], "event": slip["event"], "note": text}));
    let (status, _) = client
        .send("PUT", "/api/slips/note", Some(&ada), note("I halved, \"again\"."))
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, _) = client
        .send("PUT", "/api/slips/note", Some(&cy), note("not mine"))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = client
        .send("PUT", "/api/slips/note", Some(&ada), note(&"x".repeat(2_001)))
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);

    let again = json!({"question": "doubled"});
    let (_, run) = client
        .send("POST", "/api/slips/try", Some(&ada), Some(again.clone()))
        .await;
    let run = |tail: &str| format!("/api/practice/{}{tail}", run["id"].as_str().unwrap());
    let (_, shown) = client.send("GET", &run(""), Some(&ada), None).await;
    let right = 2 * number_in(&json!({"questions": [shown["question"]]}));
    let answer = json!({"parts": [{"id": "a", "response": right.to_string()}]});
    let (_, done) = client
        .send("POST", &run("/check"), Some(&ada), Some(answer))
        .await;
    assert_eq!(done["goal"]["reached"], true);
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(
        (&book["open"], &book["slips"][0]["mended"]),
        (&json!(0), &json!(true))
    );
    assert_eq!(book["slips"][0]["note"], "I halved, \"again\".");
    // No score has changed by it.
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(
        (&board["score"]["points"], &board["questions"][0]["tries_left"]),
        (&json!(0.0), &json!(1))
    );
    hands.move_to(2 * 86_400 + 60);
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(
        (&book["back"], &book["slips"][0]["due"]),
        (&json!(2), &json!(true))
    );
    let (status, _) = client
        .send("POST", "/api/slips/try", Some(&cy), Some(again))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_book_goes_out_as_csv_and_markdown(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("-7")))
        .await;
    for (format, begins, holds) in [
        ("csv", "when,where,class,question,what was asked,", ",'-7,,open,"),
        ("md", "# Slip book", "## Doubled (open)\n\nTwice "),
    ] {
        let request = test::TestRequest::get()
            .uri(&format!("/api/slips/export/{format}"))
            .cookie(ada.clone());
        let response = test::call_service(&client.app, request.to_request()).await;
        assert_eq!(response.status(), StatusCode::OK);
        let text = String::from_utf8(test::read_body(response).await.to_vec()).unwrap();
        assert!(text.starts_with(begins) && text.contains(holds), "{text}");
    }
    let (status, _) = client
        .send("GET", "/api/slips/export/exe", Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_not_released_is_in_no_slip_book(pool: PgPool) {
    let mut settings = quiz();
    settings.release = Release::AfterDue;
    let (client, ada, path) = opened!(pool, settings, &[QUESTION]);
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "7"});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(
        (&book["open"], &book["slips"]),
        (&json!(0), &Value::Array(Vec::new()))
    );
}
