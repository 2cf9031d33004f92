//! Notes, ink and pictures.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use actix_web::test;
use serde_json::json;
use sqlx::PgPool;

use crate::client::{client, world};

fn picture(size: usize) -> Vec<u8> {
    let mut bytes = vec![0x89, b'P', b'N', b'G', b'\r', b'\n', 0x1a, b'\n'];
    bytes.resize(size, 0);
    bytes
}

macro_rules! send_picture {
    ($client:expr, $id:expr, $who:expr, $bytes:expr) => {{
        let request = test::TestRequest::post()
            .uri(&format!("/api/assignments/{}/questions/0/pictures", $id))
            .cookie(Cookie::clone($who))
            .insert_header(("content-type", "application/octet-stream"))
            .set_payload($bytes);
        let response = test::call_service(&$client.app, request.to_request()).await;
        let status = response.status();
        let bytes = test::read_body(response).await;
        (
            status,
            serde_json::from_slice::<serde_json::Value>(&bytes).unwrap_or_default(),
        )
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn notes_and_ink_are_kept_and_never_overwritten_silently(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = format!("/api/assignments/{id}/questions/0/workings");
    for who in [&ada, &cy] {
        client
            .send("POST", &format!("/api/assignments/{id}/open"), Some(who), None)
            .await;
    }
    let put = |based_on: i64, notes: &str| {
        Some(json!({"based_on": based_on, "notes": notes, "ink": [[[1.5, 2.0, 0.5]]]}))
    };
    let (_, saved) = client.send("PUT", &path, Some(&ada), put(0, "tan = h / s")).await;
    assert_eq!((&saved["type"], &saved["revision"]), (&json!("saved"), &json!(1)));
    let (_, late) = client
        .send("PUT", &path, Some(&ada), put(0, "from another window"))
        .await;
    assert_eq!(
        (&late["type"], &late["revision"]),
        (&json!("elsewhere"), &json!(1))
    );
    let (_, kept) = client.send("GET", &path, Some(&ada), None).await;
    assert_eq!(
        (&kept["notes"], &kept["ink"]),
        (&json!("tan = h / s"), &json!([[[1.5, 2.0, 0.5]]]))
    );
    let (_, others) = client.send("GET", &path, Some(&cy), None).await;
    assert_eq!(others["notes"], "", "workings are one's own");
    let long = "x".repeat(30_001);
    let (status, refused) = client.send("PUT", &path, Some(&ada), put(1, &long)).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(refused["detail"].as_str().unwrap().contains("30,000"));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn pictures_are_pictures_of_at_most_eight_megabytes(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    for who in [&ada, &cy] {
        client
            .send("POST", &format!("/api/assignments/{id}/open"), Some(who), None)
            .await;
    }
    let (status, added) = send_picture!(client, id, &ada, picture(8 * 1024 * 1024));
    assert_eq!(status, StatusCode::OK);
    let name = added["pictures"][0]["id"].as_str().unwrap().to_owned();
    let (status, refused) = send_picture!(client, id, &ada, picture(8 * 1024 * 1024 + 1));
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::PAYLOAD_TOO_LARGE, &json!("too_large"))
    );
    for other in [b"<svg onload=alert(1)>".to_vec(), b"<html>".to_vec(), Vec::new()] {
        let (status, _) = send_picture!(client, id, &ada, other);
        assert_eq!(status, StatusCode::BAD_REQUEST);
    }
    let path = format!("/api/assignments/{id}/pictures/{name}");
    assert_eq!(
        client.send("GET", &path, Some(&ada), None).await.0,
        StatusCode::OK
    );
    for (method, who) in [("GET", Some(&cy)), ("DELETE", Some(&cy))] {
        assert_eq!(
            client.send(method, &path, who, None).await.0,
            StatusCode::NOT_FOUND
        );
    }
    assert_eq!(
        client.send("GET", &path, None, None).await.0,
        StatusCode::UNAUTHORIZED
    );
    assert_eq!(
        client.send("DELETE", &path, Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    assert_eq!(
        client.send("GET", &path, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_keeps_twelve_pictures(pool: PgPool) {
    let id = world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    for _ in 0..12 {
        assert_eq!(send_picture!(client, id, &ada, picture(100)).0, StatusCode::OK);
    }
    let (status, refused) = send_picture!(client, id, &ada, picture(100));
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(refused["detail"].as_str().unwrap().contains("Delete one"));
}
