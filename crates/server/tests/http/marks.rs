//! Passages that are marked in reading pages, with notes.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, world};

fn quote(exact: &str) -> Value {
    json!({"quote": {"exact": exact, "prefix": "", "suffix": ""}, "note": "=ask about this"})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_passage_is_marked_found_again_noted_and_taken_away(pool: PgPool) {
    world(&pool).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let page = "/api/pages/ratios/marks";
    let exact = "A ratio compares by division.";
    let (status, made) = client.send("POST", page, Some(&ada), Some(quote(exact))).await;
    assert_eq!(status, StatusCode::OK, "{made}");
    assert_eq!(
        (&made["found"]["step"], &made["found"]["start"]),
        (&json!(0), &json!(0))
    );
    // What stands in no page, over two paragraphs or nowhere, is refused, and so is a page that is none.
    for (path, exact) in [
        (page, "torque is"),
        (page, "  "),
        ("/api/pages/alchemy/marks", "gold"),
    ] {
        let (status, _) = client.send("POST", path, Some(&ada), Some(quote(exact))).await;
        assert!(
            status == StatusCode::BAD_REQUEST || status == StatusCode::NOT_FOUND,
            "{exact}"
        );
    }
    let mark = format!("/api/marks/{}", made["id"].as_str().unwrap());
    let note = Some(json!({"note": "quotient, no unit"}));
    // A mark is its owner's alone.
    assert_eq!(
        client.send("PUT", &mark, Some(&cy), note.clone()).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        client.send("DELETE", &mark, Some(&cy), None).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        client.send("GET", "/api/marks", Some(&cy), None).await.1["marks"],
        json!([])
    );
    assert_eq!(
        client.send("PUT", &mark, Some(&ada), note).await.0,
        StatusCode::NO_CONTENT
    );
    let long = Some(json!({"note": "x".repeat(2_001)}));
    assert_eq!(
        client.send("PUT", &mark, Some(&ada), long).await.0,
        StatusCode::BAD_REQUEST
    );
    // What the page no longer says is kept, and said.
    sqlx::query(
        "update page_marks set quote = jsonb_set(quote, '{exact}', '\"A ratio compares by magic.\"')",
    )
    .execute(&pool)
    .await
    .unwrap();
    let (_, all) = client.send("GET", "/api/marks", Some(&ada), None).await;
    assert_eq!(
        (&all["marks"][0]["found"], &all["marks"][0]["note"]),
        (&Value::Null, &json!("quotient, no unit"))
    );
    let (status, file) = client.file("/api/marks.csv", &ada).await;
    let file = String::from_utf8(file).unwrap();
    assert_eq!(status, StatusCode::OK);
    assert!(
        file.contains("Ratios,A ratio compares by magic.,\"quotient, no unit\"")
            && file.contains("the text changed here"),
        "{file}"
    );
    assert_eq!(
        client.send("DELETE", &mark, Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (_, none) = client.send("GET", page, Some(&ada), None).await;
    assert_eq!(none["marks"], json!([]));
}
