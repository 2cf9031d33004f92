//! A review for a test: drawn from slips by class and date, on fresh numbers, recorded nowhere.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use time::format_description::well_known::Rfc3339;
use time::{Duration, OffsetDateTime};

use crate::client::{DOUBLED, check, client, homework, number_in, opened, world_with};

fn day(days: i64) -> String {
    let at = OffsetDateTime::now_utc() + Duration::days(days);
    at.format(&Rfc3339).unwrap()
}

fn ask(classes: &[&str], from: Option<String>, until: Option<String>, length: usize) -> Option<Value> {
    Some(json!({"classes": classes, "from": from, "until": until, "length": length}))
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_review_has_the_length_that_was_chosen_and_numbers_of_its_own(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let (_, choices) = client.send("GET", "/api/review", Some(&ada), None).await;
    assert_eq!(
        (
            &choices["classes"][0]["title"],
            &choices["classes"][0]["questions"]
        ),
        (&json!("Site Practice"), &json!(1))
    );
    let (status, review) = client
        .send(
            "POST",
            "/api/review",
            Some(&ada),
            ask(&["Site Practice"], Some(day(-1)), Some(day(1)), 3),
        )
        .await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(review["questions"].as_array().unwrap().len(), 3);
    assert_eq!(
        (&review["different"], &review["questions"][0]["open"]),
        (&json!(1), &json!(true))
    );

    let mut numbers = vec![number_in(&board)];
    let source = |place: u32| json!({"from": "review", "review": review["id"], "place": place});
    for place in 0..3 {
        let body = json!({"source": source(place)});
        let (_, shown) = client.send("POST", "/api/loose", Some(&ada), Some(body)).await;
        assert!(!shown.to_string().contains("WORKING"));
        numbers.push(number_in(&json!({"questions": [shown["question"]]})));
    }
    let distinct: std::collections::BTreeSet<_> = numbers.iter().collect();
    assert_eq!(distinct.len(), 4, "{numbers:?}");

    let parts = json!([{"id": "a", "response": (2 * numbers[1]).to_string()}]);
    let body = json!({"source": source(0), "parts": parts, "show_working": true});
    let (_, done) = client
        .send("POST", "/api/loose", Some(&ada), Some(body.clone()))
        .await;
    assert_eq!((&done["right"], &done["judged"]), (&json!(true), &json!(true)));
    assert!(done.to_string().contains("WORKING"));
    // The slip is as open as before, and no evidence has come.
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(book["open"], 1);
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    assert_eq!(skills["skills"][0]["evidence"].as_array().unwrap().len(), 1);
    // Another student has not slipped at it.
    let (status, _) = client.send("POST", "/api/loose", Some(&cy), Some(body)).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, theirs) = client.send("GET", "/api/review", Some(&cy), None).await;
    assert_eq!(theirs["classes"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn classes_and_dates_choose_what_is_drawn(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    for (body, drawn) in [
        (ask(&["Site Practice"], None, None, 2), 2),
        (ask(&["Forces and Motion"], None, None, 2), 0),
        (ask(&[], None, None, 2), 0),
        (ask(&["Site Practice"], Some(day(1)), None, 2), 0),
        (ask(&["Site Practice"], None, Some(day(-1)), 2), 0),
    ] {
        let (status, review) = client.send("POST", "/api/review", Some(&ada), body.clone()).await;
        assert_eq!(status, StatusCode::OK);
        assert_eq!(review["questions"].as_array().unwrap().len(), drawn, "{body:?}");
    }
    for body in [
        ask(&["Site Practice"], None, None, 0),
        ask(&["Site Practice"], None, None, 41),
        ask(&["Site Practice"], Some(day(1)), Some(day(0)), 2),
    ] {
        let (status, refused) = client.send("POST", "/api/review", Some(&ada), body).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(!refused["detail"].as_str().unwrap().is_empty(), "{refused}");
    }
}
