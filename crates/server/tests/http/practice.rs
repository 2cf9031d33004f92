//! Practice on skills: fresh questions towards a goal, each checked once.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, homework, number_in, put_question, says, world_with};

/// Two questions on fractions, which stand on nothing.
const DOUBLED: &str = "
id: doubled
title: Doubled
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 900}, d: {formula: '2*n'}}
text: 'Twice {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '{{d}}', form: integer}}]
help: {working: ['WORKING of {{n}}']}
";
const TRIPLED: &str = "
id: tripled
title: Tripled
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 900}}
text: 'Three times {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '3*{{n}}'}}]
";

fn number(run: &Value) -> i64 {
    number_in(&json!({"questions": [run["question"]]}))
}

fn answer(run: &Value) -> i64 {
    let text = run["question"]["text"].to_string();
    if text.contains("Twice") {
        2 * number(run)
    } else {
        3 * number(run)
    }
}

fn give(entry: impl ToString) -> Option<Value> {
    Some(json!({"parts": [{"id": "a", "response": entry.to_string()}]}))
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_goes_from_new_to_solid_on_ever_fresh_numbers(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    put_question(&pool, TRIPLED).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": null});
    let (status, started) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    assert_eq!(status, StatusCode::OK);
    let path = |tail: &str| format!("/api/practice/{}{tail}", started["id"].as_str().unwrap());
    let (_, mut run) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        (&run["goal"]["percent"], &run["goal"]["reached"]),
        (&json!(0.0), &json!(false))
    );
    let mut seen = Vec::new();
    let mut rounds = 0;
    while run["goal"]["reached"] == false {
        rounds += 1;
        assert!(rounds < 10, "{run}");
        assert!(!run.to_string().contains("WORKING") && !says(&run, answer(&run)));
        seen.push((
            run["question"]["text"].to_string().contains("Twice"),
            number(&run),
        ));
        let (_, checked) = client
            .send("POST", &path("/check"), Some(&ada), give(answer(&run)))
            .await;
        assert_eq!(
            (&checked["answered_now"], &checked["right_now"]),
            (&json!(true), &json!(true))
        );
        if checked["goal"]["reached"] == true {
            run = checked;
            break;
        }
        run = client.send("POST", &path("/next"), Some(&ada), None).await.1;
    }
    assert_eq!(run["skills"][0]["level"], "solid");
    // Going on after the goal is allowed; both questions came in turn, and no set twice.
    let (status, more) = client.send("POST", &path("/next"), Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK);
    seen.push((
        more["question"]["text"].to_string().contains("Twice"),
        number(&more),
    ));
    assert!(seen.iter().any(|s| s.0) && seen.iter().any(|s| !s.0));
    let distinct: std::collections::BTreeSet<_> = seen.iter().collect();
    assert_eq!(distinct.len(), seen.len());
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let fractions = skills["skills"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["id"] == "fractions")
        .unwrap();
    assert_eq!(fractions["evidence"][0]["source"], "Practice");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_wrong_answer_shows_the_right_one_and_a_like_question_follows(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": 2});
    let (_, started) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = |tail: &str| format!("/api/practice/{}{tail}", started["id"].as_str().unwrap());
    let (_, run) = client.send("GET", &path(""), Some(&ada), None).await;
    let right = answer(&run).to_string();
    // What cannot be read, is empty, or has the wrong form costs nothing.
    let (status, empty) = client.send("POST", &path("/check"), Some(&ada), give(" ")).await;
    assert_eq!(
        (status, &empty["code"]),
        (StatusCode::CONFLICT, &json!("nothing_entered"))
    );
    for entry in ["3 + * 4".to_owned(), format!("{right}.0")] {
        let (_, free) = client
            .send("POST", &path("/check"), Some(&ada), give(entry))
            .await;
        assert_eq!(
            (&free["answered_now"], &free["answered"]),
            (&json!(false), &json!(0))
        );
        assert!(free["question"]["parts"][0]["verdict"].is_object());
        assert_eq!(free["answers"], json!([]));
    }
    let read = json!({"part": "a", "entry": "1/2"});
    let (_, reading) = client.send("POST", &path("/read"), Some(&ada), Some(read)).await;
    assert_eq!(reading["reads_as"], "\\frac{1}{2}");
    // A double click counts once.
    let (check, body) = (path("/check"), give(1));
    let (one, two) = tokio::join!(
        client.send("POST", &check, Some(&ada), body.clone()),
        client.send("POST", &check, Some(&ada), body)
    );
    assert!(one.0 == StatusCode::OK || two.0 == StatusCode::OK);
    let (_, run) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!((&run["answered"], &run["right_now"]), (&json!(1), &json!(false)));
    assert!(run["answers"][0]["latex"].as_str().unwrap().contains(&right));
    assert!(run["question"]["help"]["working"].to_string().contains("WORKING"));
    let (_, like) = client.send("POST", &path("/next"), Some(&ada), None).await;
    assert_ne!(answer(&like).to_string(), right);
    // Asking for the next one before answering changes nothing.
    let (_, same) = client.send("POST", &path("/next"), Some(&ada), None).await;
    assert_eq!(same["question"]["text"], like["question"]["text"]);
    let (_, half) = client
        .send("POST", &path("/check"), Some(&ada), give(answer(&like)))
        .await;
    assert_eq!(
        (&half["goal"]["percent"], &half["goal"]["lines"][0]["right"]),
        (&json!(50.0), &json!(1))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_locked_unknown_or_anothers_is_refused(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    for (skills, status, code) in [
        (json!(["ratios"]), StatusCode::CONFLICT, "skill_locked"),
        (json!(["safety"]), StatusCode::CONFLICT, "nothing_to_practise"),
        (json!(["nonsense"]), StatusCode::NOT_FOUND, "not_found"),
        (json!([]), StatusCode::BAD_REQUEST, "unusable"),
    ] {
        let body = json!({"skills": skills, "right": null});
        let (found, refused) = client.send("POST", "/api/practice", Some(&ada), Some(body)).await;
        assert_eq!((found, &refused["code"]), (status, &json!(code)));
    }
    let start = json!({"skills": ["fractions"], "right": 1});
    let (_, started) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = |tail: &str| format!("/api/practice/{}{tail}", started["id"].as_str().unwrap());
    for (method, tail, body) in [
        ("GET", "", None),
        ("POST", "/next", None),
        ("POST", "/check", give(1)),
        ("POST", "/read", Some(json!({"part": "a", "entry": "1"}))),
    ] {
        assert_eq!(
            client.send(method, &path(tail), Some(&cy), body.clone()).await.0,
            StatusCode::NOT_FOUND
        );
        assert_eq!(
            client.send(method, &path(tail), None, body).await.0,
            StatusCode::UNAUTHORIZED
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_typed_and_not_checked_is_there_again(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let start = json!({"skills": ["fractions"], "right": 2});
    let (_, started) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = |tail: &str| format!("/api/practice/{}{tail}", started["id"].as_str().unwrap());
    let entered = |number: u32, based_on: i64, text: &str| {
        Some(json!({"number": number, "based_on": based_on, "parts": [{"id": "a", "response": text}]}))
    };
    let (status, saved) = client
        .send("PUT", &path("/entered"), Some(&ada), entered(1, 0, "12\u{0}3"))
        .await;
    assert_eq!(
        (status, &saved["type"], &saved["revision"]),
        (StatusCode::OK, &json!("saved"), &json!(1))
    );
    // An older text from another window does not come over it.
    let (_, elsewhere) = client
        .send("PUT", &path("/entered"), Some(&ada), entered(1, 0, "older"))
        .await;
    assert_eq!(elsewhere["type"], "elsewhere");
    assert_eq!(elsewhere["parts"][0]["response"], "123");
    let (_, run) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(run["question"]["parts"][0]["draft"]["response"], "123");
    assert_eq!(run["answered"], 0);
    // Neither another question's, nor another student's, nor a book.
    client
        .send("PUT", &path("/entered"), Some(&ada), entered(2, 0, "later"))
        .await;
    for (who, body, expected) in [
        (&cy, entered(1, 1, "theirs"), StatusCode::NOT_FOUND),
        (&ada, entered(1, 1, &"9".repeat(5_000)), StatusCode::BAD_REQUEST),
    ] {
        let (status, _) = client.send("PUT", &path("/entered"), Some(who), body).await;
        assert_eq!(status, expected);
    }
    let (_, run) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(run["question"]["parts"][0]["draft"]["response"], "123");
    // Once it is checked, the verdict stands there; the next question begins empty.
    client.send("POST", &path("/check"), Some(&ada), give(7)).await;
    client
        .send(
            "PUT",
            &path("/entered"),
            Some(&ada),
            entered(1, 1, "after the check"),
        )
        .await;
    let (status, again) = client.send("POST", &path("/check"), Some(&ada), give(8)).await;
    assert_eq!(
        (status, &again["code"]),
        (StatusCode::CONFLICT, &json!("answered"))
    );
    let (_, next) = client.send("POST", &path("/next"), Some(&ada), None).await;
    assert_eq!(next["question"]["parts"][0]["draft"], Value::Null);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_working_that_a_teacher_never_shows_is_not_shown_in_practice(pool: PgPool) {
    let mut settings = homework();
    settings.show_solution = coursework::ShowSolution::Never;
    world_with(&pool, settings, &[DOUBLED]).await;
    let client = client!(pool);
    for (name, shown) in [("ada", false), ("bo", true)] {
        let who = client.sign_in(name).await;
        let start = json!({"skills": ["fractions"], "right": 2});
        let (_, started) = client
            .send("POST", "/api/practice", Some(&who), Some(start))
            .await;
        let path = format!("/api/practice/{}/check", started["id"].as_str().unwrap());
        let (_, checked) = client.send("POST", &path, Some(&who), give(7)).await;
        assert_eq!(checked["answered_now"], true);
        assert!(!checked["answers"][0]["latex"].as_str().unwrap().is_empty());
        assert_eq!(checked.to_string().contains("WORKING"), shown, "{name}");
    }
}
