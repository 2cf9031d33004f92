//! Paper copies: whose numbers they have, whose code, and who sees what is written on them.

use actix_web::http::StatusCode;
use serde_json::json;
use sqlx::PgPool;

use crate::client::{DOUBLED, client, homework, number_in, teacher_of, world_with};

/// The number that a copy of the stack has in its question.
fn on_paper(copy: &serde_json::Value) -> i64 {
    number_in(&json!({"questions": copy["questions"]}))
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_copy_has_the_numbers_that_are_or_will_be_on_the_screen(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (class, teacher) = teacher(&pool, &id).await;
    let tam = client.sign_in(&teacher).await;
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    // Ada has begun, Cy has not.
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let stack_at = format!("/api/classes/{class}/assignments/{id}/paper");
    let (status, stack) = client.send("GET", &stack_at, Some(&tam), None).await;
    assert_eq!(status, StatusCode::OK, "{stack}");
    let copies = stack["copies"].as_array().unwrap();
    let names: Vec<_> = copies.iter().map(|c| c["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["Ada Quill", "Cy Fenn"]);
    assert_eq!(on_paper(&copies[0]), number_in(&board));
    // The key is the marker's.
    let twice = (2 * on_paper(&copies[1])).to_string();
    assert!(
        copies[1]["questions"][0]["answers"].to_string().contains(&twice),
        "{stack}"
    );
    let cy = client.sign_in("cy").await;
    client.send("POST", &path("/open"), Some(&cy), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&cy), None).await;
    assert_eq!(on_paper(&copies[1]), number_in(&board));
    // The code stays, and is the student's own.
    let (_, own) = client.send("GET", &path("/paper"), Some(&cy), None).await;
    assert_eq!(own["code"], copies[1]["code"]);
    assert_ne!(copies[0]["code"], copies[1]["code"]);
    let (_, again) = client.send("GET", &stack_at, Some(&tam), None).await;
    assert_eq!(again["copies"][1]["code"], copies[1]["code"]);
    // The stack is the teacher's: it has the keys.
    assert_eq!(
        client.send("GET", &stack_at, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_written_is_kept_and_shown_only_where_that_is_wished(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (class, teacher) = teacher(&pool, &id).await;
    let tam = client.sign_in(&teacher).await;
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let marks = json!([
        {"kind": "stroke", "block": 0, "points": [[1.0, 2.0, 0.5], [3.0, 4.0, 0.5]]},
        {"kind": "text", "block": 0, "x": 10.0, "y": 20.0, "text": "h = 3"}
    ]);
    let write =
        |based_on: i64, marks: &serde_json::Value| Some(json!({"based_on": based_on, "marks": marks}));
    // Before it was opened there is no paper.
    assert_eq!(
        client.send("GET", &path("/paper"), Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, saved) = client
        .send("PUT", &path("/paper/0"), Some(&ada), write(0, &marks))
        .await;
    assert_eq!(saved, json!({"type": "saved", "revision": 1}));
    // Another window that knows nothing of it overwrites nothing.
    let (_, other) = client
        .send("PUT", &path("/paper/0"), Some(&ada), write(0, &json!([])))
        .await;
    assert_eq!(other, json!({"type": "elsewhere", "revision": 1}));
    let (_, own) = client.send("GET", &path("/paper"), Some(&ada), None).await;
    assert_eq!((&own["ink"][0]["marks"], &own["shared"]), (&marks, &json!(false)));
    let (_, me) = client.send("GET", "/api/classes", Some(&tam), None).await;
    assert!(me["classes"].is_array());
    let (person, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    let seen = format!(
        "/api/classes/{class}/students/{}/assignments/{id}/paper",
        person.id.0
    );
    assert_eq!(
        client.send("GET", &seen, Some(&tam), None).await.0,
        StatusCode::NOT_FOUND
    );
    client
        .send(
            "PUT",
            &path("/workings-shared"),
            Some(&ada),
            Some(json!({"shared": true})),
        )
        .await;
    let (status, written) = client.send("GET", &seen, Some(&tam), None).await;
    assert_eq!((status, &written["ink"][0]["marks"]), (StatusCode::OK, &marks));
    assert_eq!(
        client.send("GET", &seen, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    // Too much, and nonsense.
    let long = json!([{"kind": "text", "block": 0, "x": 0.0, "y": 0.0, "text": "x".repeat(2_001)}]);
    let odd = json!([{"kind": "scribble"}]);
    for bad in [&long, &odd] {
        let (status, said) = client
            .send("PUT", &path("/paper/0"), Some(&ada), write(1, bad))
            .await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{said}");
    }
    let no_question = client
        .send("PUT", &path("/paper/7"), Some(&ada), write(0, &marks))
        .await;
    assert!(no_question.0.is_client_error());
}

/// The class of an assignment, and a teacher of it.
async fn teacher(pool: &PgPool, assignment: &str) -> (uuid::Uuid, String) {
    (teacher_of(pool, assignment).await, "tam".into())
}
