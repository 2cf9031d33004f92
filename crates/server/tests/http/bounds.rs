//! What comes in is bounded, on every route that takes it in; nothing that is sent makes a fault of ours.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{DOUBLED, QUESTION, check, client, homework, opened, world_with};

fn parts(entry: &str) -> Value {
    json!([{"id": "a", "response": entry}])
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn no_route_takes_in_more_than_an_answer_can_have(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let base = format!("/api/assignments/{id}");
    client
        .send("POST", &format!("{base}/open"), Some(&ada), None)
        .await;
    let long = "7".repeat(3_000);
    let many: Vec<Value> = (0..60)
        .map(|n| json!({"id": n.to_string(), "response": "1"}))
        .collect();
    let draft = |response: Value| json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": response});
    for (method, path, body) in [
        (
            "POST",
            format!("{base}/check"),
            json!({"question": 0, "parts": parts(&long)}),
        ),
        (
            "POST",
            format!("{base}/check"),
            json!({"question": 0, "parts": many}),
        ),
        (
            "POST",
            format!("{base}/check"),
            json!({"question": 0, "parts": [parts("1")[0], parts("2")[0]]}),
        ),
        (
            "POST",
            format!("{base}/read"),
            json!({"question": 0, "part": "a", "entry": long}),
        ),
        (
            "POST",
            format!("{base}/calculate"),
            json!({"question": 0, "entry": long}),
        ),
        ("PUT", format!("{base}/drafts"), draft(json!(long))),
        ("PUT", format!("{base}/drafts"), draft(json!(vec!["blade"; 80]))),
        ("POST", "/api/typing/root/read".into(), json!({"entry": long})),
        (
            "POST",
            "/api/typing-guide/read".into(),
            json!({"kind": "number", "entry": long}),
        ),
    ] {
        let (status, said) = client.send(method, &path, Some(&ada), Some(body)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{method} {path}: {said}");
        assert_eq!(said["code"], "out_of_bounds", "{method} {path}");
    }
    let events: i64 = sqlx::query_scalar("select count(*) from events")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(events, 1, "only the opening is kept");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn checks_that_cost_nothing_are_kept_a_hundred_times_and_a_right_one_after_them(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    for n in 0..100 {
        let entry = format!("{n} + * 4");
        let (status, _) = client
            .send("POST", &path("/check"), Some(&ada), Some(check(&entry)))
            .await;
        assert_eq!(status, StatusCode::OK, "{n}");
    }
    let (status, said) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("101 + * 4")))
        .await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("too_many_unjudged"))
    );
    let (status, judged) = client
        .send("POST", &path("/check"), Some(&ada), Some(check("3")))
        .await;
    assert_eq!(
        (status, &judged["question"]["tries_left"]),
        (StatusCode::OK, &json!(2))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn places_that_no_row_can_have_are_not_there(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let base = format!("/api/assignments/{id}");
    client
        .send("POST", &format!("{base}/open"), Some(&ada), None)
        .await;
    let draft = |question: u64, set: u64, part: &str| json!({"question": question, "set_number": set, "part": part, "based_on": 0, "response": "1"});
    let loose = |skill: &str| json!({"source": {"from": "page", "skill": skill, "check": 0, "round": 0}});
    for (method, path, body) in [
        ("PUT", format!("{base}/drafts"), draft(0, u64::MAX, "a")),
        ("PUT", format!("{base}/drafts"), draft(u64::MAX, 0, "a")),
        ("PUT", format!("{base}/drafts"), draft(0, 0, "a\u{0}")),
        (
            "POST",
            format!("{base}/check"),
            json!({"question": u64::MAX, "parts": parts("1")}),
        ),
        ("POST", format!("{base}/move-on"), json!({"to": u64::MAX})),
        ("GET", format!("{base}/practice/0/4294967295"), Value::Null),
        (
            "POST",
            format!("{base}/questions/18446744073709551615/hint"),
            Value::Null,
        ),
        (
            "PUT",
            format!("{base}/questions/4294967296/workings"),
            json!({"based_on": 0, "notes": "", "ink": []}),
        ),
        ("POST", "/api/loose".into(), loose("nul\u{0}")),
        ("POST", "/api/slips/try".into(), json!({"question": "nul\u{0}"})),
        (
            "PUT",
            "/api/slips/note".into(),
            json!({"source": id, "event": u32::MAX, "note": "n"}),
        ),
        ("PUT", "/api/pages/ratios/place".into(), json!({"step": u64::MAX})),
    ] {
        let body = (!body.is_null()).then_some(body);
        let (status, said) = client.send(method, &path, Some(&ada), body).await;
        assert!(!status.is_server_error(), "{method} {path}: {status} {said}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn bodies_past_their_routes_limit_are_too_large_and_what_is_no_json_says_so(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    let big = "x".repeat(300_000);
    let password = json!({"user_name": "ada", "password": "x".repeat(5_000)});
    let (status, said) = client.send("POST", "/api/session", None, Some(password)).await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::PAYLOAD_TOO_LARGE, &json!("too_large"))
    );
    let (status, _) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check(&big)),
        )
        .await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    let (status, said) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(json!({"parts": 7})),
        )
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let words = said["detail"].as_str().unwrap();
    assert!(words.contains("line 1"), "{words}");
    for of_ours in ["struct", "usize", "u64", "invalid type", "sequence"] {
        assert!(!words.contains(of_ours), "{words}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn twelve_pictures_are_kept_of_twenty_sent_at_once(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    let (person, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    let work = store::find_work(&pool, id.parse().unwrap(), person.id)
        .await
        .unwrap()
        .unwrap();
    let at = time::OffsetDateTime::now_utc();
    let add = |_| {
        let pool = pool.clone();
        async move {
            store::add_picture(&pool, work, 0, "image/png", &[1], 12, at)
                .await
                .unwrap()
                .is_some()
        }
    };
    let added = futures_util::future::join_all((0..20).map(add)).await;
    assert_eq!(added.into_iter().filter(|kept| *kept).count(), 12);
    assert_eq!(store::pictures_of(&pool, work, 0).await.unwrap().len(), 12);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_method_that_a_route_has_not_is_named_as_such(pool: PgPool) {
    let client = client!(pool);
    for (method, path, wanted) in [
        ("DELETE", "/api/week", StatusCode::METHOD_NOT_ALLOWED),
        ("PATCH", "/api/session", StatusCode::METHOD_NOT_ALLOWED),
        ("GET", "/api/nothing", StatusCode::NOT_FOUND),
        ("GET", "/assets/nothing", StatusCode::NOT_FOUND),
        ("GET", "/.stamp", StatusCode::NOT_FOUND),
        ("POST", "/", StatusCode::METHOD_NOT_ALLOWED),
    ] {
        let (status, said) = client.send(method, path, None, None).await;
        assert_eq!(status, wanted, "{method} {path}");
        assert!(said["code"].is_string(), "{method} {path}");
    }
}
