//! Typing practice: ten tasks, kept as done, offered before the first typed work.

use actix_web::http::StatusCode;
use serde_json::json;
use sqlx::PgPool;

use crate::client::{QUESTION, check, client, homework, world_with};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_task_is_done_when_it_reads_as_shown_and_stays_done(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let (_, view) = client.send("GET", "/api/typing", Some(&ada), None).await;
    assert_eq!(view["tasks"].as_array().unwrap().len(), 10);
    assert_eq!(view["done"], 0);
    assert!(
        view["tasks"]
            .as_array()
            .unwrap()
            .iter()
            .all(|t| t["entry"]["type"] == "typed")
    );
    for (entry, done) in [
        ("0.75", false),
        ("3/", false),
        ("", false),
        ("3/4", true),
        ("5", false),
    ] {
        let (status, said) = client
            .send(
                "POST",
                "/api/typing/fraction",
                Some(&ada),
                Some(json!({"entry": entry})),
            )
            .await;
        assert_eq!((status, &said["done"]), (StatusCode::OK, &json!(done)), "{entry}");
        assert!(!said["words"].as_str().unwrap().is_empty());
    }
    let (_, view) = client.send("GET", "/api/typing", Some(&ada), None).await;
    assert_eq!(
        (&view["done"], &view["tasks"][0]["done"]),
        (&json!(1), &json!(true))
    );
    let (_, other) = client.send("GET", "/api/typing", Some(&cy), None).await;
    assert_eq!(other["done"], 0);
    let (_, read) = client
        .send(
            "POST",
            "/api/typing/root/read",
            Some(&ada),
            Some(json!({"entry": "3√2"})),
        )
        .await;
    assert_eq!(read["problem"], json!(null));
    for path in ["/api/typing/alchemy", "/api/typing/alchemy/read"] {
        let (status, _) = client
            .send("POST", path, Some(&ada), Some(json!({"entry": "1"})))
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn it_is_offered_until_something_typed_was_checked(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let (_, cover) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(cover["typing_offer"], true);
    client.send("POST", &path("/open"), Some(&ada), None).await;
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    let (_, cover) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(cover["typing_offer"], false);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn it_is_not_offered_where_nothing_is_typed(pool: PgPool) {
    let choices = "
id: order
title: Order
points: 1
few_answers: true
text: 'What comes first?'
parts:
  - {id: a, interaction: choice, choices: [{id: lock, text: lock, correct: true}, {id: work, text: work}]}
";
    let id = world_with(&pool, homework(), &[choices]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, cover) = client
        .send("GET", &format!("/api/assignments/{id}"), Some(&ada), None)
        .await;
    assert_eq!(cover["typing_offer"], false);
}
