//! A share for each person of what costs: exports, large bodies, messages, signing in. And passwords of one's own.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use actix_web::test;
use school::{Cost, School, SchoolError};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{DOUBLED, client, homework, opened, world_with};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_second_export_waits_until_the_first_was_sent(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    let school = School::new(pool.clone());
    let person = async |name: &str| store::find_credentials(&pool, name).await.unwrap().unwrap().0.id;
    let (ada, bo) = (person("ada").await, person("bo").await);
    let mut first = school::own::everything(&school, ada).await.unwrap();
    assert!(matches!(
        school::own::everything(&school, ada).await,
        Err(SchoolError::Busy)
    ));
    // Others have their own.
    drop(school::own::everything(&school, bo).await.unwrap());
    let mut bytes = Vec::new();
    while let Some(chunk) = first.next().await {
        bytes.extend(chunk.unwrap());
    }
    assert!(bytes.starts_with(b"PK"));
    drop(first);
    drop(school::own::everything(&school, ada).await.unwrap());
    school.lanes.give_back();
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn one_persons_large_bodies_leave_the_others_room(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    let school = School::new(pool.clone());
    let bo = store::find_credentials(&pool, "bo").await.unwrap().unwrap().0.id;
    let mine = school.turn(Cost::Writing, bo).await.unwrap();
    let put = Some(json!({"based_on": 0, "notes": "n", "ink": [[[1.0, 2.0, 0.5], [1.5, 2.0]]]}));
    let (status, _) = client
        .send("PUT", &path("/questions/0/workings"), Some(&ada), put)
        .await;
    assert_eq!(status, StatusCode::OK);
    drop(mine);
    school.lanes.give_back();
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn ink_has_bounds_and_another_window_is_told_the_revision_alone(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    let address = path("/questions/0/workings");
    let put = async |based_on: i64, ink: Value| {
        let body = json!({"based_on": based_on, "notes": "", "ink": ink});
        client.send("PUT", &address, Some(&ada), Some(body)).await
    };
    for (ink, words) in [
        (json!([[]]), "A stroke of ink has points"),
        (json!([[[1.0]]]), "A stroke of ink has points"),
        (json!([[[1.0, 2.0, 0.5, 9.0]]]), "A stroke of ink has points"),
        (
            json!(vec![json!([[1.0, 2.0]]); 5_001]),
            "more ink than can be kept",
        ),
        (
            json!([vec![json!([1.0, 2.0]); 60_001]]),
            "more ink than can be kept",
        ),
    ] {
        let (status, said) = put(0, ink).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{words}");
        assert!(said["detail"].as_str().unwrap().contains(words), "{said}");
    }
    assert_eq!(put(0, json!([[[1.0, 2.0]]])).await.0, StatusCode::OK);
    let (_, late) = put(0, json!([[[3.0, 4.0]]])).await;
    assert_eq!(late, json!({"type": "elsewhere", "revision": 1}));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn messages_are_as_many_as_can_be_read(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    let ask = json!({"question": 0, "body": "Why?"});
    let mut kept = 0;
    loop {
        let (status, said) = client
            .send("POST", &path("/threads"), Some(&ada), Some(ask.clone()))
            .await;
        if status == StatusCode::TOO_MANY_REQUESTS {
            assert_eq!(said["code"], "too_often");
            break;
        }
        assert_eq!(status, StatusCode::OK, "{said}");
        kept += 1;
        assert!(kept <= 60);
    }
    assert_eq!(kept, 60);
}

/// Signs in from an address; its status and the cookies that come with it.
macro_rules! signs_in {
    ($client:expr, $name:expr, $password:expr, $known:expr) => {{
        let mut request = test::TestRequest::post()
            .uri("/api/session")
            .peer_addr("192.0.2.9:5000".parse().unwrap())
            .set_json(json!({"user_name": $name, "password": $password}));
        if let Some(known) = $known {
            let known: &Cookie<'static> = known;
            request = request.cookie(known.clone());
        }
        let response = test::call_service(&$client.app, request.to_request()).await;
        let cookies: Vec<Cookie<'static>> = response
            .response()
            .cookies()
            .map(|c| c.into_owned())
            .collect();
        (response.status(), cookies)
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_classmate_at_the_same_address_keeps_nobody_out_of_a_browser_they_were_in(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let none: Option<&Cookie<'static>> = None;
    let (status, cookies) = signs_in!(client, "ada", "slate-and-chalk", none);
    assert_eq!(status, StatusCode::OK);
    let known = cookies.iter().find(|c| c.name() == "slate_known").unwrap();
    assert_eq!(known.http_only(), Some(true));
    assert!(!known.value().contains("ada"), "it tells no name");
    for n in 0..10 {
        let (status, _) = signs_in!(client, "ada", format!("wrong-{n}"), none);
        assert_eq!(status, StatusCode::UNAUTHORIZED);
    }
    let (status, _) = signs_in!(client, "ada", "slate-and-chalk", none);
    assert_eq!(status, StatusCode::TOO_MANY_REQUESTS, "a strange browser waits");
    let (status, _) = signs_in!(client, "ada", "slate-and-chalk", Some(known));
    assert_eq!(status, StatusCode::OK, "hers does not");
    // It is bound to the name, and what was made up says nothing.
    for n in 0..10 {
        signs_in!(client, "bo", format!("wrong-{n}"), none);
    }
    let (status, _) = signs_in!(client, "bo", "slate-and-chalk", Some(known));
    assert_eq!(status, StatusCode::TOO_MANY_REQUESTS);
    let made_up = Cookie::new("slate_known", format!("{}.{}", "0".repeat(16), "f".repeat(32)));
    let (status, _) = signs_in!(client, "ada", "slate-and-chalk", Some(&made_up));
    assert_eq!(status, StatusCode::TOO_MANY_REQUESTS);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_address_from_which_nobody_came_in_has_few_wrong_tries(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let now = time::OffsetDateTime::now_utc();
    let wrong = async |key: &str, most: i32, n: i32| {
        let limit = store::TryLimit {
            key,
            most,
            lasts: time::Duration::minutes(1),
        };
        for _ in 0..n {
            store::count_try(&pool, &[limit], now).await.unwrap();
        }
    };
    wrong("address 192.0.2.9", 1_200, 200).await;
    let client = client!(pool);
    let none: Option<&Cookie<'static>> = None;
    let (status, _) = signs_in!(client, "ada", "slate-and-chalk", none);
    assert_eq!(status, StatusCode::TOO_MANY_REQUESTS);
    store::note_right_address(&pool, "192.0.2.9", now).await.unwrap();
    let (status, _) = signs_in!(client, "ada", "slate-and-chalk", none);
    assert_eq!(status, StatusCode::OK, "a school's address has many more");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn ones_own_password_is_changed_and_other_sessions_end(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let (here, there) = (client.sign_in("ada").await, client.sign_in("ada").await);
    let change = async |old: &str, new: &str| {
        let body = json!({"old": old, "new": new});
        client
            .send("PUT", "/api/own/password", Some(&here), Some(body))
            .await
    };
    for (old, new, words) in [
        ("not-hers-at-all", "a-better-one-7", "current password is wrong"),
        ("slate-and-chalk", "short", "at least 8 characters"),
        ("slate-and-chalk", "Password", "one of the first"),
        ("slate-and-chalk", "12345678", "one of the first"),
        ("slate-and-chalk", "abcdefgh", "one of the first"),
    ] {
        let (status, said) = change(old, new).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{new}");
        assert!(said["detail"].as_str().unwrap().contains(words), "{said}");
    }
    let (status, _) = client
        .send("POST", "/api/own/calendar", Some(&here), Some(json!({})))
        .await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(
        change("slate-and-chalk", "a-better-one-7").await.0,
        StatusCode::NO_CONTENT
    );
    let me = async |who: &Cookie<'static>| client.send("GET", "/api/me", Some(who), None).await.0;
    assert_eq!(
        (me(&here).await, me(&there).await),
        (StatusCode::OK, StatusCode::UNAUTHORIZED)
    );
    let addresses: i64 = sqlx::query_scalar("select count(*) from calendars")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(addresses, 0, "calendar addresses end, too");
    // And without a new password.
    let none: Option<&Cookie<'static>> = None;
    let (status, cookies) = signs_in!(client, "ada", "a-better-one-7", none);
    assert_eq!(status, StatusCode::OK);
    let elsewhere = cookies
        .iter()
        .find(|c| c.name() == "slate_session")
        .unwrap()
        .clone();
    let (_, ended) = client
        .send("DELETE", "/api/own/sessions", Some(&here), None)
        .await;
    assert_eq!(ended["ended"], 1);
    assert_eq!(
        (me(&here).await, me(&elsewhere).await),
        (StatusCode::OK, StatusCode::UNAUTHORIZED)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_no_name_has_is_not_there(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    for path in [
        "/api/recordings/%00".to_owned(),
        "/api/bank/%00/text".to_owned(),
        "/api/skills?skill=%00".to_owned(),
        format!("/api/assignments/{id}%00"),
    ] {
        let (status, said) = client.send("GET", &path, Some(&ada), None).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{path} {said}");
    }
}
