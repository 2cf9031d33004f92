//! What Week says to do next, and why: due work, slips that came back, fading skills.

use actix_web::http::StatusCode;
use coursework::Settings;
use serde_json::json;
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{DOUBLED, Hands, check, client, number_in, world_with};

fn due_in(days: i64) -> Settings {
    let now = OffsetDateTime::now_utc();
    Settings::homework(now - Duration::days(1), now + Duration::days(days))
}

/// Practises fractions with right answers.
macro_rules! practise {
    ($client:expr, $who:expr, $body:expr, $times:expr) => {{
        let (path, body) = $body;
        let (status, run) = $client.send("POST", path, Some(&$who), Some(body)).await;
        assert_eq!(status, StatusCode::OK, "{run}");
        let path = |tail: &str| format!("/api/practice/{}{tail}", run["id"].as_str().unwrap());
        for _ in 0..$times {
            let (_, shown) = $client.send("GET", &path(""), Some(&$who), None).await;
            let right = 2 * number_in(&json!({"questions": [shown["question"]]}));
            let answer = json!({"parts": [{"id": "a", "response": right.to_string()}]});
            $client
                .send("POST", &path("/check"), Some(&$who), Some(answer))
                .await;
            $client.send("POST", &path("/next"), Some(&$who), None).await;
        }
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn slips_that_came_back_are_next_while_work_has_days(pool: PgPool) {
    let hands = Hands::new();
    let id = world_with(&pool, due_in(9), &[DOUBLED, DOUBLED]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(
        (&week["next"]["kind"], &week["slips"]["open"]),
        (&json!("work"), &json!(1))
    );
    let again = ("/api/slips/try", json!({"question": "doubled"}));
    practise!(client, ada, again, 1);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(
        (&week["slips"]["open"], &week["slips"]["back"]),
        (&json!(0), &json!([]))
    );

    hands.move_to(3 * 86_400);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["next"]["kind"], "slips");
    assert!(
        week["next"]["why"]
            .as_str()
            .unwrap()
            .starts_with("One slip you mended has come back")
    );
    assert!(week["next"]["until"].is_string());
    assert_eq!(
        (
            &week["slips"]["back"][0]["title"],
            &week["slips"]["back"][0]["slips"]
        ),
        (&json!("Doubled"), &json!(1))
    );
    // On the last day the work comes first.
    hands.move_to(9 * 86_400 - 3_600);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(
        (&week["next"]["kind"], &week["next"]["title"]),
        (&json!("work"), &json!("Doubling"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_skill_that_fades_is_named_and_can_be_next(pool: PgPool) {
    let hands = Hands::new();
    world_with(&pool, due_in(120), &[DOUBLED]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let start = ("/api/practice", json!({"skills": ["fractions"], "right": null}));
    practise!(client, ada, start, 4);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["fading"], json!([]));
    hands.move_to(60 * 86_400);
    // Her earlier sign-in has run out by then.
    let ada = client.sign_in("ada").await;
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(
        (
            &week["fading"][0]["skill"]["id"],
            &week["fading"][0]["skill"]["level"]
        ),
        (&json!("fractions"), &json!("fading"))
    );
    assert_eq!(
        (&week["next"]["kind"], &week["next"]["skill"]),
        (&json!("fading"), &json!("fractions"))
    );
    // The line of its score has fallen since.
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let course = skills["skills"][0]["course"].as_array().unwrap();
    let score = |n: usize| course[n]["score"].as_f64().unwrap();
    assert!(course.len() > 55 && score(4) > 95.0 && score(course.len() - 1) < 80.0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_closed_long_ago_is_counted_and_stands_under_scores(pool: PgPool) {
    let hands = Hands::new();
    let id = world_with(&pool, due_in(2), &[DOUBLED]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let shown = async |days: i64| {
        hands.move_to(days * 86_400);
        // The session runs out meanwhile.
        let ada = client.sign_in("ada").await;
        let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
        let (_, scores) = client.send("GET", "/api/scores", Some(&ada), None).await;
        assert_eq!(scores["classes"][0]["rows"].as_array().unwrap().len(), 1);
        (
            week["assignments"].as_array().unwrap().len(),
            week["earlier"].clone(),
        )
    };
    // It closes after two days, and stays for 28 more.
    assert_eq!(shown(29).await, (1, json!(0)));
    assert_eq!(shown(31).await, (0, json!(1)));
    // Something is to be told of it: then it is there again.
    let scored = coursework::Event::ScoredByTeacher {
        question: 0,
        points: 0.5,
        note: "After all.".into(),
        by: None,
        parts: Vec::new(),
    };
    crate::client::add_event(&pool, &id, "ada", scored).await;
    assert_eq!(shown(32).await, (1, json!(0)));
}
