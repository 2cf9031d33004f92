//! Marking by a person: who may, what is shown, and what comes of it.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use uuid::Uuid;

use crate::client::{client, homework, opened};

const REPORT: &str = "
id: report
title: The report
points: 4
text: 'Report.'
parts:
  - {id: a, interaction: extended_text, label: Report, model: MODEL of a good answer}
  - {id: b, interaction: text_entry, answer: {kind: number, key: '5'}}
";

/// Tor teaches the class of the assignment, Una another one.
async fn teachers(pool: &PgPool) {
    let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
    let mine = store::put_class(pool, "Site Practice").await.unwrap();
    let other = store::put_class(pool, "Other").await.unwrap();
    for (name, class) in [("tor", mine), ("una", other)] {
        let person = store::put_person(pool, name, &format!("{name} Vane"), &hash, store::Role::Teacher)
            .await
            .unwrap();
        store::add_member(pool, class, person).await.unwrap();
    }
}

fn written(words: &str) -> Value {
    json!({"written": {"text": [{"type": "paragraph", "content": [{"type": "text", "text": words}]}]}})
}

fn draft(based_on: i64, words: &str) -> Value {
    json!({"question": 0, "set_number": 0, "part": "a", "based_on": based_on, "response": written(words)})
}

fn points(points: f64, hand_in: u32) -> Value {
    json!({"points": points, "note": " Why? ", "hand_in": hand_in})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn only_who_teaches_the_class_sees_and_gives(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    teachers(&pool).await;
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "It slipped")))
        .await;
    let id = path("").trim_start_matches("/api/assignments/").to_owned();
    let (tor, una, bo) = (
        client.sign_in("tor").await,
        client.sign_in("una").await,
        client.sign_in("bo").await,
    );
    let to_mark = format!("/api/marking/{id}/0");
    let (_, nothing) = client.send("GET", &to_mark, Some(&tor), None).await;
    assert_eq!(nothing["answers"], json!([]), "what is not handed in is nobody's");
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, queue) = client.send("GET", "/api/marking", Some(&tor), None).await;
    let question = &queue["assignments"][0]["questions"][0];
    assert_eq!(
        (&question["title"], &question["waiting"]),
        (&json!("The report"), &json!(1))
    );
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let answer = &shown["answers"][0];
    assert_eq!(
        (&answer["name"], &answer["waiting"]),
        (&json!("Ada Quill"), &json!(2.0))
    );
    assert!(answer["parts"][0]["model"].to_string().contains("MODEL"));
    let student = answer["student"].as_str().unwrap().to_owned();
    let give = format!("{to_mark}/{student}");
    for who in [&ada, &una, &bo] {
        for (method, path, body) in [("GET", &to_mark, None), ("PUT", &give, Some(points(3.0, 1)))] {
            let (status, said) = client.send(method, path, Some(who), body).await;
            assert_eq!(status, StatusCode::NOT_FOUND, "{method} {path}: {said}");
            assert!(!said.to_string().contains("MODEL"));
        }
    }
    let (_, none) = client.send("GET", "/api/marking", Some(&una), None).await;
    assert_eq!(none["assignments"], json!([]));
    assert_eq!(
        client.send("GET", "/api/marking", Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    // A teacher's own try at it is no student's work, nor is somebody who is not in it.
    let (status, _) = client
        .send(
            "PUT",
            &format!("{to_mark}/{}", Uuid::nil()),
            Some(&tor),
            Some(points(1.0, 1)),
        )
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = client
        .send("GET", &format!("/api/marking/{id}/1"), Some(&tor), None)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn points_stand_at_once_can_be_changed_and_name_who_gave_them(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    teachers(&pool).await;
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "It slipped")))
        .await;
    let five = json!({"question": 0, "parts": [{"id": "b", "response": "5"}]});
    client.send("POST", &path("/check"), Some(&ada), Some(five)).await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let id = path("").trim_start_matches("/api/assignments/").to_owned();
    let tor = client.sign_in("tor").await;
    let to_mark = format!("/api/marking/{id}/0");
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let answer = &shown["answers"][0];
    assert_eq!(
        (&answer["earned"], &answer["waiting"]),
        (&json!(2.0), &json!(2.0))
    );
    let give = format!("{to_mark}/{}", answer["student"].as_str().unwrap());
    for wrong in [-0.5, 4.5, 1e300] {
        let (status, said) = client
            .send("PUT", &give, Some(&tor), Some(points(wrong, 1)))
            .await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("points_out_of_range"))
        );
    }
    let (status, said) = client.send("PUT", &give, Some(&tor), Some(points(3.5, 1))).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(
        (&said["given"]["points"], &said["given"]["note"]),
        (&json!(3.5), &json!("Why?"))
    );
    assert_eq!(
        (&said["given"]["by"], &said["waiting"]),
        (&json!("tor Vane"), &json!(0.0))
    );
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["points"], json!(3.5));
    assert_eq!(result["questions"][0]["why"][0], "tor Vane gave 3.5 of 4 points.");

    // The same again is nothing new; other points are.
    let events = "select count(*) from events where body->>'kind' = 'scored_by_teacher'";
    let count = async || {
        sqlx::query_scalar::<_, i64>(events)
            .fetch_one(&pool)
            .await
            .unwrap()
    };
    client.send("PUT", &give, Some(&tor), Some(points(3.5, 1))).await;
    assert_eq!(count().await, 1);
    client.send("PUT", &give, Some(&tor), Some(points(4.0, 1))).await;
    assert_eq!(count().await, 2);
    let long = json!({"points": 1.0, "note": "x".repeat(4_001), "hand_in": 1});
    assert_eq!(
        client.send("PUT", &give, Some(&tor), Some(long)).await.0,
        StatusCode::BAD_REQUEST
    );

    // What was handed in after it was looked at is looked at first.
    client
        .send(
            "PUT",
            &path("/drafts"),
            Some(&ada),
            Some(draft(1, "It slipped away")),
        )
        .await;
    let again = homework();
    assert!(
        again.hand_ins.is_none(),
        "a homework is handed in as often as one likes"
    );
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let newest = shown["answers"][0]["hand_in"].as_u64().unwrap();
    if newest == 2 {
        let (status, said) = client.send("PUT", &give, Some(&tor), Some(points(1.0, 1))).await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("handed_in_again"))
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_file_is_there_for_who_teaches_its_owner_and_for_no_other_teacher(pool: PgPool) {
    let with_file = REPORT.replace("label: Report,", "label: Report, files: 1,");
    let (client, ada, path) = opened!(pool, homework(), &[&with_file]);
    teachers(&pool).await;
    let request = actix_web::test::TestRequest::post()
        .uri(&path("/questions/0/files?name=a.png"))
        .cookie(ada.clone())
        .set_payload(&b"\x89PNG\r\n\x1a\n"[..])
        .to_request();
    let file: Value = actix_web::test::call_and_read_body_json(&client.app, request).await;
    let address = format!("/api/files/{}", file["id"].as_str().unwrap());
    for (name, wanted) in [("tor", 200), ("una", 404), ("cy", 404), ("ada", 200)] {
        let request = actix_web::test::TestRequest::get()
            .uri(&address)
            .cookie(client.sign_in(name).await)
            .to_request();
        let response = actix_web::test::call_service(&client.app, request).await;
        assert_eq!(response.status().as_u16(), wanted, "{name}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practised_after_closing_it_is_right_without_what_only_a_teacher_marks(pool: PgPool) {
    let mut closed = homework();
    for date in [&mut closed.opens, &mut closed.due, &mut closed.closes] {
        *date -= time::Duration::days(30);
    }
    let (client, ada, path) = opened!(pool, closed, &[REPORT]);
    let practice = path("/practice/0/0");
    let (status, shown) = client.send("GET", &practice, Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK, "{shown}");
    let question = &shown["question"];
    assert_eq!(
        (&question["parts"][0]["by_hand"], &question["all_right"]),
        (&json!(true), &json!(false))
    );
    for (entry, right) in [("4", false), ("5", true)] {
        let given = json!({"parts": [{"id": "b", "response": entry}], "show_working": false});
        let (_, shown) = client.send("POST", &practice, Some(&ada), Some(given)).await;
        assert_eq!(shown["question"]["all_right"], json!(right), "{entry}: {shown}");
    }
}
