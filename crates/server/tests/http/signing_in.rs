//! Signing in: limits that hold in parallel and lock out nobody else, cookies, writes from other sites.

use actix_web::http::StatusCode;
use actix_web::test;
use futures_util::future::join_all;
use serde_json::json;
use server::Settings;
use sqlx::PgPool;

use crate::client::{Hands, client, homework, world_with};

fn credentials(name: &str, password: &str) -> Option<serde_json::Value> {
    Some(json!({"user_name": name, "password": password}))
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn wrong_tries_at_once_are_counted_like_ones_one_after_the_other(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let hands = Hands::new();
    let client = client!(pool, hands.clock());
    let wrong = |n: usize| {
        client.send(
            "POST",
            "/api/session",
            None,
            credentials("ada", &format!("wrong-{n}")),
        )
    };
    let said = join_all((0..30).map(wrong)).await;
    let judged = said
        .iter()
        .filter(|(status, _)| *status == StatusCode::UNAUTHORIZED)
        .count();
    assert_eq!(judged, 10);
    // The right password waits with them, another name behind the same address does not.
    let (status, said) = client
        .send(
            "POST",
            "/api/session",
            None,
            credentials("ada", "slate-and-chalk"),
        )
        .await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::TOO_MANY_REQUESTS, &json!("too_many_sign_ins"))
    );
    let (status, _) = client
        .send("POST", "/api/session", None, credentials("cy", "slate-and-chalk"))
        .await;
    assert_eq!(status, StatusCode::OK);
    // Being refused does not make the wait longer.
    hands.move_to(62);
    let (status, _) = client
        .send(
            "POST",
            "/api/session",
            None,
            credentials("ada", "slate-and-chalk"),
        )
        .await;
    assert_eq!(status, StatusCode::OK);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn three_hundred_behind_one_address_get_in(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let limit = |key| store::TryLimit {
        key,
        most: 1_200,
        lasts: time::Duration::minutes(1),
    };
    let now = time::OffsetDateTime::now_utc();
    for n in 0..300 {
        let name = format!("name s{n}");
        let own = store::TryLimit {
            key: &name,
            most: 10,
            lasts: time::Duration::minutes(1),
        };
        let refused = store::count_try(&pool, &[own, limit("address 192.0.2.1")], now)
            .await
            .unwrap();
        assert_eq!(refused, None, "{n}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_right_password_takes_its_try_back(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    for _ in 0..25 {
        client.sign_in("ada").await;
    }
    let left: i64 = sqlx::query_scalar("select coalesce(sum(tries), 0) from sign_in_tries")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(left, 0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nobody_signs_in_to_an_account_without_a_password(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    store::put_person(&pool, "dee", "Dee Moss", "none", store::Role::Student)
        .await
        .unwrap();
    let client = client!(pool);
    for (name, password) in [("dee", "none"), ("dee", ""), ("nobody", "none")] {
        let (status, said) = client
            .send("POST", "/api/session", None, credentials(name, password))
            .await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::UNAUTHORIZED, &json!("sign_in_failed"))
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn behind_tls_the_cookie_is_secure_and_only_a_named_proxy_says_so(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let proxy: std::net::IpAddr = "127.0.0.1".parse().unwrap();
    for (settings, forwarded, secure) in [
        (
            Settings {
                proxies: vec![proxy],
                always_https: false,
            },
            Some("https"),
            true,
        ),
        (
            Settings {
                proxies: vec![proxy],
                always_https: false,
            },
            Some("http"),
            false,
        ),
        (Settings::default(), Some("https"), false),
        (
            Settings {
                proxies: Vec::new(),
                always_https: true,
            },
            None,
            true,
        ),
    ] {
        let app = test::init_service(server::app(school::School::new(pool.clone()), settings.clone())).await;
        let mut request = test::TestRequest::post()
            .uri("/api/session")
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .set_json(json!({"user_name": "ada", "password": "slate-and-chalk"}));
        if let Some(proto) = forwarded {
            request = request.insert_header(("x-forwarded-proto", proto));
        }
        let response = test::call_service(&app, request.to_request()).await;
        assert_eq!(response.status(), StatusCode::OK);
        let cookie = response.response().cookies().next().unwrap();
        assert_eq!(
            cookie.secure().unwrap_or(false),
            secure,
            "{settings:?} {forwarded:?}"
        );
        let strict = response.headers().contains_key("strict-transport-security");
        assert_eq!(strict, settings != Settings::default());
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_write_from_another_site_is_refused_by_its_origin_too(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    for (header, value, refused) in [
        ("origin", "https://elsewhere.example", true),
        ("origin", "null", true),
        ("origin", "http://localhost:8080", false),
        ("sec-fetch-site", "cross-site", true),
        ("sec-fetch-site", "same-origin", false),
    ] {
        let request = test::TestRequest::post()
            .uri("/api/session")
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .insert_header(("host", "localhost:8080"))
            .insert_header((header, value))
            .set_json(json!({"user_name": "ada", "password": "slate-and-chalk"}));
        let response = test::call_service(&client.app, request.to_request()).await;
        assert_eq!(
            response.status() == StatusCode::FORBIDDEN,
            refused,
            "{header}: {value}"
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nothing_private_is_kept_in_a_cache(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    for path in ["/api/week", "/api/slips/export/csv", "/api/me"] {
        let request = test::TestRequest::get().uri(path).cookie(ada.clone());
        let response = test::call_service(&client.app, request.to_request()).await;
        assert_eq!(
            response.headers().get("cache-control").unwrap(),
            "no-store",
            "{path}"
        );
    }
}
