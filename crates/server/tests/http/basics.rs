//! Signing in, checking, drafts: what every assignment has.

use actix_web::http::StatusCode;
use actix_web::test;
use school::School;
use serde_json::{Value, json};
use server::{Settings, app};
use sqlx::PgPool;

use crate::client::{check, client, number_in, world};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_check_is_marked_counted_and_kept(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let base = format!("/api/assignments/{id}");
    let post = |path: &str| format!("{base}/{path}");
    assert_eq!(
        client.send("POST", &post("open"), Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (_, board) = client.send("GET", &post("board"), Some(&ada), None).await;
    let n = number_in(&board);

    let (status, wrong) = client
        .send("POST", &post("check"), Some(&ada), Some(check("17")))
        .await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(wrong["question"]["tries_left"], 2);
    assert_eq!(wrong["question"]["parts"][0]["verdict"]["outcome"], "not_yet");
    let (_, unreadable) = client
        .send("POST", &post("check"), Some(&ada), Some(check("3 + * 4")))
        .await;
    assert_eq!(
        (&unreadable["used_a_try"], &unreadable["question"]["tries_left"]),
        (&json!(false), &json!(2))
    );
    assert_eq!(unreadable["question"]["stone"], "not_yet");
    let (status, again) = client
        .send("POST", &post("check"), Some(&ada), Some(check("17")))
        .await;
    assert_eq!(
        (status, &again["code"]),
        (StatusCode::CONFLICT, &json!("already_tried"))
    );
    let (status, empty) = client
        .send("POST", &post("check"), Some(&ada), Some(check("  ")))
        .await;
    assert_eq!(
        (status, &empty["code"]),
        (StatusCode::CONFLICT, &json!("nothing_entered"))
    );

    let (_, right) = client
        .send("POST", &post("check"), Some(&ada), Some(check(&format!("{n}*2"))))
        .await;
    assert_eq!(right["question"]["parts"][0]["right"], true);
    assert_eq!(right["score"]["points"], 1.0);

    let (_, receipt) = client.send("POST", &post("hand-in"), Some(&ada), None).await;
    assert_eq!(receipt["score"]["percent"], 25.0);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["assignments"][0]["state"], "handed_in");
    assert_eq!(week["assignments"][0]["recorded"]["percent"], 25.0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_cannot_be_read_leaves_the_question_typed_and_not_wrong(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}/{tail}");
    client.send("POST", &path("open"), Some(&ada), None).await;
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "3 +"});
    client.send("PUT", &path("drafts"), Some(&ada), Some(draft)).await;
    let (_, checked) = client
        .send("POST", &path("check"), Some(&ada), Some(check("3 +")))
        .await;
    assert_eq!(checked["question"]["stone"], "typed");
    let (_, wrong) = client
        .send("POST", &path("check"), Some(&ada), Some(check("1")))
        .await;
    assert_eq!(wrong["question"]["tries_left"], 2);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nobody_outside_the_class_reaches_an_assignment(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let bo = client.sign_in("bo").await;
    let paths = [
        ("GET", "", None),
        ("GET", "/board", None),
        ("GET", "/hand-in", None),
        ("GET", "/receipts/1", None),
        ("POST", "/open", None),
        ("POST", "/hand-in", None),
        ("POST", "/take-back", None),
        ("POST", "/check", Some(check("1"))),
        (
            "POST",
            "/read",
            Some(json!({"question": 0, "part": "a", "entry": "1"})),
        ),
        (
            "PUT",
            "/drafts",
            Some(json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1"})),
        ),
    ];
    for (method, path, body) in paths {
        let path = format!("/api/assignments/{id}{path}");
        let (status, _) = client.send(method, &path, None, body.clone()).await;
        assert_eq!(
            status,
            StatusCode::UNAUTHORIZED,
            "{method} {path} without signing in"
        );
        let (status, _) = client.send(method, &path, Some(&bo), body).await;
        assert_eq!(
            status,
            StatusCode::NOT_FOUND,
            "{method} {path} from outside the class"
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn classmates_have_work_of_their_own(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/assignments/{id}/{tail}");
    let draft =
        |text: &str| json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": text});
    for who in [&ada, &cy] {
        client.send("POST", &path("open"), Some(who), None).await;
    }
    let (_, saved) = client
        .send("PUT", &path("drafts"), Some(&ada), Some(draft("hers")))
        .await;
    assert_eq!(saved["type"], "saved");
    let (_, board) = client.send("GET", &path("board"), Some(&cy), None).await;
    assert!(!board.to_string().contains("hers"));
    let (_, saved) = client
        .send("PUT", &path("drafts"), Some(&cy), Some(draft("his")))
        .await;
    assert_eq!(saved["type"], "saved", "her draft is no conflict for his");
    client
        .send("POST", &path("check"), Some(&cy), Some(check("1")))
        .await;
    let (_, board) = client.send("GET", &path("board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["tries_left"], 3);
    assert_eq!(board["questions"][0]["parts"][0]["draft"]["response"], "hers");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn no_key_and_no_verdict_before_a_check_leaves_the_server(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}/{tail}");
    client.send("POST", &path("open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("board"), Some(&ada), None).await;
    let n = number_in(&board);
    let read = json!({"question": 0, "part": "a", "entry": format!("{}", 2 * n + 1)});
    let (_, reading) = client.send("POST", &path("read"), Some(&ada), Some(read)).await;
    let (_, preview) = client.send("GET", &path("hand-in"), Some(&ada), None).await;
    let (_, cover) = client
        .send("GET", &format!("/api/assignments/{id}"), Some(&ada), None)
        .await;
    // As a word of its own: an id or an instant may have its digits in it, and the other question its number.
    let answer = (2 * n).to_string();
    for told in [&board["questions"][0], &reading, &preview, &cover] {
        let told = told.to_string();
        let mut words = told.split(|c: char| !c.is_ascii_alphanumeric());
        assert!(words.all(|w| w != answer), "the answer is in {told}");
    }
    for told in [&board, &reading, &preview, &cover] {
        let told = told.to_string();
        for word in ["correct", "\"key\"", "seed", "outcome\":\"right"] {
            assert!(!told.contains(word), "{word} is in {told}");
        }
    }
    client
        .send("POST", &path("check"), Some(&ada), Some(check("1")))
        .await;
    let (_, board) = client.send("GET", &path("board"), Some(&ada), None).await;
    assert_eq!(board["questions"][1]["parts"][0]["verdict"], Value::Null);
    assert_eq!(board["questions"][0]["parts"][1]["verdict"], Value::Null);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_of_another_window_is_not_overwritten(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}/{tail}");
    client.send("POST", &path("open"), Some(&ada), None).await;
    let put = |based_on: i64, text: &str| json!({"question": 0, "set_number": 0, "part": "a", "based_on": based_on, "response": text});
    let (_, first) = client
        .send("PUT", &path("drafts"), Some(&ada), Some(put(0, "one")))
        .await;
    assert_eq!(first["revision"], 1);
    let (_, late) = client
        .send("PUT", &path("drafts"), Some(&ada), Some(put(0, "two")))
        .await;
    assert_eq!(
        (&late["type"], &late["response"], &late["revision"]),
        (&json!("elsewhere"), &json!("one"), &json!(1))
    );
    let (_, next) = client
        .send("PUT", &path("drafts"), Some(&ada), Some(put(1, "two\u{0}")))
        .await;
    assert_eq!(
        (&next["type"], &next["stone"]),
        (&json!("saved"), &json!("typed"))
    );
    let (_, board) = client.send("GET", &path("board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["parts"][0]["draft"]["response"], "two");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn ten_wrong_sign_ins_a_minute_are_slowed_down_and_all_look_alike(pool: PgPool) {
    world(&pool).await;
    let client = client!(pool);
    let attempt = |name: &str, password: &str| json!({"user_name": name, "password": password});
    let (status, wrong_password) = client
        .send("POST", "/api/session", None, Some(attempt("ada", "no")))
        .await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    let (_, wrong_name) = client
        .send("POST", "/api/session", None, Some(attempt("nobody", "no")))
        .await;
    assert_eq!(wrong_password, wrong_name);
    for _ in 0..9 {
        client
            .send("POST", "/api/session", None, Some(attempt("ada", "no")))
            .await;
    }
    let right = attempt("ada", "slate-and-chalk");
    let (status, body) = client.send("POST", "/api/session", None, Some(right)).await;
    assert_eq!(
        (status, &body["code"]),
        (StatusCode::TOO_MANY_REQUESTS, &json!("too_many_sign_ins"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn signing_out_ends_the_session_everywhere_it_was_copied(pool: PgPool) {
    world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    assert_eq!(
        client.send("GET", "/api/me", Some(&ada), None).await.0,
        StatusCode::OK
    );
    client.send("DELETE", "/api/session", Some(&ada), None).await;
    assert_eq!(
        client.send("GET", "/api/me", Some(&ada), None).await.0,
        StatusCode::UNAUTHORIZED
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn bad_requests_are_problems_with_words(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let board = format!("/api/assignments/{id}/board");
    let (status, body) = client.send("GET", &board, Some(&ada), None).await;
    assert_eq!(
        (status, &body["code"]),
        (StatusCode::CONFLICT, &json!("not_opened"))
    );
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    for (method, path, body, expected) in [
        (
            "GET",
            "/api/assignments/nonsense".to_owned(),
            None,
            StatusCode::NOT_FOUND,
        ),
        ("GET", "/api/nowhere".to_owned(), None, StatusCode::NOT_FOUND),
        (
            "POST",
            format!("/api/assignments/{id}/check"),
            Some(json!({"question": "one"})),
            StatusCode::BAD_REQUEST,
        ),
        (
            "POST",
            format!("/api/assignments/{id}/check"),
            Some(json!({"question": 99, "parts": []})),
            StatusCode::CONFLICT,
        ),
        (
            "POST",
            format!("/api/assignments/{id}/read"),
            Some(json!({"question": 0, "part": "z", "entry": "1"})),
            StatusCode::NOT_FOUND,
        ),
        (
            "POST",
            format!("/api/assignments/{id}/take-back"),
            None,
            StatusCode::CONFLICT,
        ),
    ] {
        let (status, answer) = client.send(method, &path, Some(&ada), body).await;
        assert_eq!(status, expected, "{method} {path}");
        assert!(
            answer["detail"].as_str().is_some_and(|d| d.len() > 10),
            "{path} says {answer}"
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn two_checks_at_once_are_both_counted(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}/{tail}");
    client.send("POST", &path("open"), Some(&ada), None).await;
    let check_path = path("check");
    let one = client.send("POST", &check_path, Some(&ada), Some(check("1")));
    let two = client.send("POST", &check_path, Some(&ada), Some(check("1")));
    let (one, two) = tokio::join!(one, two);
    let mut statuses = [one.0, two.0];
    statuses.sort();
    assert_eq!(
        statuses,
        [StatusCode::OK, StatusCode::CONFLICT],
        "a double click uses one try"
    );
    let (_, board) = client.send("GET", &path("board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["tries_left"], 2);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn writes_from_another_site_are_refused(pool: PgPool) {
    world(&pool).await;
    let app = test::init_service(app(School::new(pool.clone()), Settings::default())).await;
    let request = test::TestRequest::post()
        .uri("/api/session")
        .insert_header(("sec-fetch-site", "cross-site"))
        .set_json(json!({"user_name": "ada", "password": "slate-and-chalk"}))
        .to_request();
    let response = test::call_service(&app, request).await;
    assert_eq!(response.status(), StatusCode::FORBIDDEN);
    let policy = response
        .headers()
        .get("content-security-policy")
        .unwrap()
        .to_str()
        .unwrap();
    let scripts = policy
        .split(';')
        .find(|p| p.trim().starts_with("script-src"))
        .unwrap();
    assert!(!scripts.contains("unsafe-inline"));
}
