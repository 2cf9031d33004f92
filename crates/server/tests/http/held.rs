//! What a server holds is only believed as far as the database agrees: two servers over one database, and each time one of
//! them does not know what the other has done.

use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{QUESTION, check, client, homework, number_in, opened, world_with};

async fn count(pool: &PgPool) -> i64 {
    sqlx::query_scalar("select count(*) from events where body->>'kind' = 'checked'")
        .fetch_one(pool)
        .await
        .unwrap()
}

fn draft(based_on: i64, entry: &str) -> Value {
    json!({"question": 0, "set_number": 0, "part": "a", "based_on": based_on, "response": entry})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_signed_out_elsewhere_changes_nothing_here(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let (here, elsewhere) = (client!(pool), client!(pool));
    let ada = here.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    here.send("POST", &path("/open"), Some(&ada), None).await;
    here.send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    assert_eq!(count(&pool).await, 1);
    let (status, _) = elsewhere.send("DELETE", "/api/session", Some(&ada), None).await;
    assert!(status.is_success());
    for (method, tail, body) in [
        ("POST", "/check", check("2")),
        ("PUT", "/drafts", draft(0, "7")),
        ("POST", "/questions/0/working", Value::Null),
        ("POST", "/hand-in", Value::Null),
    ] {
        let (status, answer) = here.send(method, &path(tail), Some(&ada), Some(body)).await;
        assert_eq!(
            (status.as_u16(), &answer["code"]),
            (401, &json!("not_signed_in")),
            "{tail}"
        );
    }
    assert_eq!(count(&pool).await, 1);
    assert_eq!(here.send("GET", &path("/board"), Some(&ada), None).await.0, 401);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_signed_out_here_is_forgotten_here(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    client.send("GET", &path("/board"), Some(&ada), None).await;
    let read = json!({"question": 0, "part": "a", "entry": "1/2"});
    let (status, _) = client
        .send("POST", &path("/read"), Some(&ada), Some(read.clone()))
        .await;
    assert_eq!(status, 200);
    client.send("DELETE", "/api/session", Some(&ada), None).await;
    assert_eq!(
        client
            .send("POST", &path("/read"), Some(&ada), Some(read))
            .await
            .0,
        401
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_was_taken_out_of_the_class_changes_nothing(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    sqlx::query("delete from class_members")
        .execute(&pool)
        .await
        .unwrap();
    for (method, tail, body) in [("POST", "/check", check("2")), ("PUT", "/drafts", draft(0, "7"))] {
        let (status, answer) = client.send(method, &path(tail), Some(&ada), Some(body)).await;
        assert_eq!(
            (status.as_u16(), &answer["code"]),
            (404, &json!("not_found")),
            "{tail}"
        );
    }
    assert_eq!(count(&pool).await, 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn settings_that_changed_elsewhere_hold_here_at_once(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    let change = "update assignments set version = version + 1, settings = jsonb_set(settings, '{max_attempts}', $1::jsonb)";
    sqlx::query(change).bind(json!(1)).execute(&pool).await.unwrap();
    let (status, answer) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("2")))
        .await;
    assert_eq!((status.as_u16(), &answer["code"]), (409, &json!("no_tries_left")));
    // More tries are there at once, too: what is held is not refused by.
    sqlx::query(change).bind(json!(5)).execute(&pool).await.unwrap();
    let (status, answer) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("2")))
        .await;
    assert_eq!(status, 200, "{answer}");
    assert_eq!(answer["question"]["tries_left"], 3);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn work_that_went_on_elsewhere_goes_on_here(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let (here, elsewhere) = (client!(pool), client!(pool));
    let ada = here.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    here.send("POST", &path("/open"), Some(&ada), None).await;
    // Turn by turn, each server a step behind the other.
    for (n, server) in [&here, &elsewhere, &here].into_iter().enumerate() {
        let entry = format!("{}", n + 1);
        let (status, answer) = server
            .send("POST", &path("/check"), Some(&ada), Some(check(&entry)))
            .await;
        assert_eq!(status, 200, "{answer}");
        assert_eq!(answer["question"]["tries_left"], 2 - i64::try_from(n).unwrap());
        let tries = answer["question"]["sets"][0]["tries"].as_array().unwrap();
        assert_eq!(tries.len(), n + 1, "every try is shown, wherever it was made");
    }
    let (status, answer) = elsewhere
        .send("POST", &path("/check"), Some(&ada), Some(check("9")))
        .await;
    assert_eq!((status.as_u16(), &answer["code"]), (409, &json!("no_tries_left")));
    assert_eq!(count(&pool).await, 3);
    // Fresh numbers there: here they are asked for, not the old ones.
    elsewhere
        .send("POST", &path("/questions/0/fresh-numbers"), Some(&ada), None)
        .await;
    let board = elsewhere.send("GET", &path("/board"), Some(&ada), None).await.1;
    let right = (2 * number_in(&board)).to_string();
    let (_, answer) = here
        .send("POST", &path("/check"), Some(&ada), Some(check(&right)))
        .await;
    assert_eq!(answer["question"]["parts"][0]["right"], true, "{answer}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_that_was_kept_elsewhere_is_there_and_not_overwritten(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let (here, elsewhere) = (client!(pool), client!(pool));
    let ada = here.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    here.send("POST", &path("/open"), Some(&ada), None).await;
    let kept = here
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "1")))
        .await
        .1;
    assert_eq!((&kept["type"], &kept["revision"]), (&json!("saved"), &json!(1)));
    let kept = elsewhere
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(1, "12")))
        .await
        .1;
    assert_eq!((&kept["type"], &kept["revision"]), (&json!("saved"), &json!(2)));
    let late = here
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(1, "13")))
        .await
        .1;
    assert_eq!(
        late,
        json!({"type": "elsewhere", "revision": 2, "response": "12"})
    );
    // A check shows the field as it stands, not as this server last saw it.
    let answer = here
        .send("POST", &path("/check"), Some(&ada), Some(check("5")))
        .await
        .1;
    assert_eq!(
        answer["question"]["parts"][0]["draft"],
        json!({"revision": 2, "response": "12"})
    );
    let board = here.send("GET", &path("/board"), Some(&ada), None).await.1;
    assert_eq!(board["questions"][0]["parts"][0]["draft"]["response"], "12");
    // Two fields at once, one on each server: both are handed in.
    let b = json!({"question": 0, "set_number": 0, "part": "b", "based_on": 0, "response": ["blade"]});
    let (one, two) = (path("/drafts"), path("/drafts"));
    let (first, second) = futures_util::future::join(
        here.send("PUT", &one, Some(&ada), Some(draft(2, "14"))),
        elsewhere.send("PUT", &two, Some(&ada), Some(b)),
    )
    .await;
    assert_eq!(
        (&first.1["type"], &second.1["type"]),
        (&json!("saved"), &json!("saved"))
    );
    let board = here.send("GET", &path("/board"), Some(&ada), None).await.1;
    let parts = &board["questions"][0]["parts"];
    assert_eq!(
        (&parts[0]["draft"]["response"], &parts[1]["draft"]["response"]),
        (&json!("14"), &json!(["blade"]))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_pages_and_notes_from_elsewhere_are_seen_on_the_next_look(pool: PgPool) {
    world_with(&pool, homework(), &[crate::client::DOUBLED]).await;
    let (here, elsewhere) = (client!(pool), client!(pool));
    let ada = here.sign_in("ada").await;
    let fractions = |skills: &Value| {
        let all = skills["skills"].as_array().unwrap().clone();
        all.into_iter().find(|s| s["id"] == "fractions").unwrap()
    };
    let before = fractions(&here.send("GET", "/api/skills", Some(&ada), None).await.1);
    assert_eq!(
        (&before["evidence"], &before["page"]["read"]),
        (&json!([]), &json!(false))
    );
    let place = json!({"step": 0, "read": true});
    let (status, _) = elsewhere
        .send("PUT", "/api/pages/fractions/place", Some(&ada), Some(place))
        .await;
    assert!(status.is_success());
    let goal = json!({"skills": ["fractions"], "right": 3});
    let run = elsewhere
        .send("POST", "/api/practice", Some(&ada), Some(goal))
        .await
        .1;
    let path = |tail: &str| format!("/api/practice/{}{tail}", run["id"].as_str().unwrap());
    assert_eq!(here.send("GET", &path(""), Some(&ada), None).await.0, 200);
    let give = json!({"parts": [{"id": "a", "response": "1"}]});
    let (status, checked) = elsewhere
        .send("POST", &path("/check"), Some(&ada), Some(give))
        .await;
    assert_eq!(status, 200, "{checked}");
    let after = fractions(&here.send("GET", "/api/skills", Some(&ada), None).await.1);
    assert_eq!(after["page"]["read"], true, "{after}");
    assert_eq!(after["evidence"].as_array().unwrap().len(), 1, "{after}");
}
