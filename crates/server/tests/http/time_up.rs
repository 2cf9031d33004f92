//! The server's clock: time limits, late work, opening, closing, exceptions.

use actix_web::http::StatusCode;
use coursework::{Event, Exception, LateRule};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{
    Hands, QUESTION, add_event, check, client, homework, number_in, opened, quiz, world_with,
};

async fn give(pool: &PgPool, assignment: &str, user: &str, exception: Exception) {
    add_event(pool, assignment, user, Event::ExceptionGiven(exception)).await;
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn when_time_is_up_what_was_complete_is_handed_in_once(pool: PgPool) {
    let hands = Hands::new();
    let mut settings = quiz();
    settings.time_limit = Some(20);
    let id = world_with(&pool, settings, &[QUESTION, QUESTION]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let draft =
        |text: &str| json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": text});
    let answer = (2 * number_in(&board)).to_string();
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(&answer)))
        .await;
    hands.move_to(20 * 60 - 5);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(
        (&board["is_open"], &board["state"]),
        (&json!(true), &json!("under_way"))
    );
    hands.move_to(20 * 60 + 5);
    let late = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 1, "response": "late"});
    for (method, tail, body) in [
        ("PUT", "/drafts", Some(late)),
        ("POST", "/check", Some(check("1"))),
        ("POST", "/hand-in", None),
        ("POST", "/questions/0/hint", None),
    ] {
        let (status, refused) = client.send(method, &path(tail), Some(&ada), body).await;
        assert_eq!(
            (status, &refused["code"]),
            (StatusCode::CONFLICT, &json!("time_up")),
            "{tail}"
        );
    }
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["is_open"], false);
    assert!(board["closed_because"].as_str().unwrap().contains("time is up"));
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 25.0);
    assert_eq!(
        result["hand_ins"].as_array().unwrap().len(),
        1,
        "once, however often it is looked at"
    );
    assert_eq!(result["hand_ins"][0]["by_time"], true);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert!(
        week["notices"][0]["words"]
            .as_str()
            .unwrap()
            .contains("handed in for you")
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn two_servers_end_the_same_work_once(pool: PgPool) {
    let hands = Hands::new();
    let mut settings = homework();
    settings.time_limit = Some(5);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let (one, two) = (client!(pool, hands.clock()), client!(pool, hands.clock()));
    let ada = one.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    one.send("POST", &path("/open"), Some(&ada), None).await;
    hands.move_to(600);
    let path = path("/result");
    let (first, second) = tokio::join!(
        one.send("GET", &path, Some(&ada), None),
        two.send("GET", &path, Some(&ada), None)
    );
    for (status, result) in [first, second] {
        assert_eq!(status, StatusCode::OK);
        assert_eq!(result["hand_ins"].as_array().unwrap().len(), 1);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn extra_time_and_a_moved_due_date_are_one_students_own(pool: PgPool) {
    let hands = Hands::new();
    let mut settings = quiz();
    settings.time_limit = Some(10);
    let due = settings.due + Duration::days(2);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    give(
        &pool,
        &id,
        "cy",
        Exception {
            due: Some(due),
            time_percent: Some(150),
            ..Exception::default()
        },
    )
    .await;
    let client = client!(pool, hands.clock());
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let mut seconds = Vec::new();
    for name in ["ada", "cy"] {
        let who = client.sign_in(name).await;
        let (_, cover) = client.send("GET", &path(""), Some(&who), None).await;
        seconds.push((cover["time_limit_seconds"].clone(), cover["dates_moved"].clone()));
        client.send("POST", &path("/open"), Some(&who), None).await;
    }
    assert_eq!(seconds, [(json!(600), json!(false)), (json!(900), json!(true))]);
    hands.move_to(12 * 60);
    for (name, open) in [("ada", false), ("cy", true)] {
        let who = client.sign_in(name).await;
        let (_, board) = client.send("GET", &path("/board"), Some(&who), None).await;
        assert_eq!(board["is_open"], open, "{name}");
    }
    let cy = client.sign_in("cy").await;
    let (_, week) = client.send("GET", "/api/week", Some(&cy), None).await;
    let words = week["notices"].to_string();
    assert!(
        words.contains("Your due date was moved to") && words.contains("150 %"),
        "{words}"
    );
    // Once looked at, they are not listed again.
    let (_, cover) = client.send("GET", &path(""), Some(&cy), None).await;
    client
        .send(
            "POST",
            &path("/seen"),
            Some(&cy),
            Some(json!({"event": cover["last_event"]})),
        )
        .await;
    let (_, week) = client.send("GET", "/api/week", Some(&cy), None).await;
    assert_eq!(week["notices"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn late_work_follows_its_rule_whatever_the_browser_says(pool: PgPool) {
    let hands = Hands::new();
    let mut settings = homework();
    settings.late = LateRule::PercentOff(40);
    settings.closes = settings.due + Duration::days(1);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let answer = (2 * number_in(&board)).to_string();
    client
        .send("POST", &path("/check"), Some(&ada), Some(check(&answer)))
        .await;
    hands.move_to(30 * 3600);
    let (_, preview) = client.send("GET", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (&preview["late"], &preview["taken_off"]),
        (&json!(true), &json!(40))
    );
    let (_, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (&receipt["late"], &receipt["score"]["percent"]),
        (&json!(true), &json!(30.0))
    );
    hands.move_to(49 * 3600);
    let (status, refused) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("closed"))
    );
    let (_, scores) = client.send("GET", "/api/scores", Some(&ada), None).await;
    let row = &scores["classes"][0]["rows"][0];
    assert_eq!((&row["late"], &row["state"]), (&json!(true), &json!("marked")));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn before_it_opens_nothing_can_be_had(pool: PgPool) {
    let mut settings = homework();
    settings.opens = OffsetDateTime::now_utc() + Duration::hours(3);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    for (method, tail) in [
        ("POST", "/open"),
        ("GET", "/board"),
        ("GET", "/practice/0/0"),
        ("POST", "/questions/0/hint"),
    ] {
        let (status, _) = client.send(method, &path(tail), Some(&ada), None).await;
        assert_eq!(status, StatusCode::CONFLICT, "{tail}");
    }
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(
        (&week["to_do"], &week["assignments"][0]["action"], &week["next"]),
        (&json!(0), &json!("wait"), &Value::Null)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn signing_out_and_losing_the_server_submits_nothing(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "12"});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    client.send("DELETE", "/api/session", Some(&ada), None).await;
    // Another process, as after a restart: the same numbers, the same draft, nothing handed in.
    let restarted = client!(pool);
    let ada = restarted.sign_in("ada").await;
    let (_, again) = restarted.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(again["questions"][0]["text"], board["questions"][0]["text"]);
    assert_eq!(again["questions"][0]["parts"][0]["draft"]["response"], "12");
    assert_eq!(again["questions"][0]["tries_left"], 3);
    let (_, cover) = restarted.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(cover["hand_ins"], json!([]));
}
