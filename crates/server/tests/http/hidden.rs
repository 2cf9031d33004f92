//! What a student must not learn: keys of what is still open, numbers of one's own sets, what is right in a quiz before its
//! results are out.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{Hands, check, client, homework, number_in, opened, put_question, quiz, world_with};

/// Twenty-one sets only, so that numbers are met again.
const SMALL: &str = "
id: doubled
title: Doubled
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 120}}
text: 'Twice {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}]
help: {working: ['WORKING']}
";

const FIXED: &str = "
id: fixed
title: Fixed
skills: [fractions]
points: 1
text: 'Twice 21?'
few_answers: true
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '42'}}]
help: {working: ['WORKING']}
";

const TWO_PARTS: &str = "
id: two-parts
title: Two parts
skills: [fractions]
points: 2
numbers: {n: {from: 100, to: 900}}
text: 'Twice and three times {{n}}?'
parts:
  - {id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}
  - {id: b, interaction: text_entry, answer: {kind: number, key: '3*{{n}}'}}
";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_is_not_answered_by_naming_other_parts(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    put_question(&pool, TWO_PARTS).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": 2});
    let (_, run) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = format!("/api/practice/{}", run["id"].as_str().unwrap());
    let (_, shown) = client.send("GET", &path, Some(&ada), None).await;
    let n = number_in(&json!({"questions": [shown["question"]]}));
    let give = |parts: &[(&str, String)]| {
        let all: Vec<Value> = parts
            .iter()
            .map(|(id, r)| json!({"id": id, "response": r}))
            .collect();
        json!({"parts": all})
    };
    let right = (2 * n).to_string();
    for parts in [
        vec![("zzz", "1".into())],
        vec![("y", "1".into()), ("z", "1".into())],
        vec![("a", right.clone()), ("a", right.clone())],
        vec![("a", right.clone()), ("z", "1".into())],
        vec![("a", right.clone())],
        vec![],
    ] {
        let (status, said) = client
            .send("POST", &format!("{path}/check"), Some(&ada), Some(give(&parts)))
            .await;
        assert!(status.is_client_error(), "{parts:?}: {status} {said}");
    }
    let (_, shown) = client.send("GET", &path, Some(&ada), None).await;
    assert_eq!(
        (&shown["answered"], &shown["answered_now"]),
        (&json!(0), &json!(false))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn one_unreadable_part_in_practice_tells_nothing_of_the_others(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    put_question(&pool, TWO_PARTS).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": 2});
    let (_, run) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = format!("/api/practice/{}", run["id"].as_str().unwrap());
    let (_, shown) = client.send("GET", &path, Some(&ada), None).await;
    let n = number_in(&json!({"questions": [shown["question"]]}));
    let mut seen = Vec::new();
    for entry in [(2 * n).to_string(), "7".to_owned()] {
        let body = json!({"parts": [{"id": "a", "response": entry}, {"id": "b", "response": "3 + * 4"}]});
        let (status, said) = client
            .send("POST", &format!("{path}/check"), Some(&ada), Some(body))
            .await;
        assert_eq!(status, StatusCode::OK);
        let parts = &said["question"]["parts"];
        assert_eq!(parts[1]["verdict"]["outcome"], "cannot_read");
        seen.push((parts[0]["verdict"].clone(), parts[0]["right"].clone()));
    }
    assert_eq!(seen, vec![(Value::Null, json!(false)); 2]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_quiz_tells_nothing_by_handing_in_and_taking_back(pool: PgPool) {
    let mut settings = quiz();
    settings.release = coursework::Release::AfterDue;
    settings.hand_ins = Some(2);
    let id = world_with(&pool, settings, &[SMALL, SMALL]).await;
    let client = client!(pool);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let mut told = Vec::new();
    for (name, is_right) in [("ada", true), ("cy", false)] {
        let who = client.sign_in(name).await;
        client.send("POST", &path("/open"), Some(&who), None).await;
        let (_, board) = client.send("GET", &path("/board"), Some(&who), None).await;
        let n = number_in(&board);
        let mut seen: Vec<Value> = Vec::new();
        for (round, entry) in [if is_right { 2 * n } else { 3 * n }, 5].into_iter().enumerate() {
            let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": round, "response": entry.to_string()});
            client
                .send("PUT", &path("/drafts"), Some(&who), Some(draft))
                .await;
            let (status, receipt) = client.send("POST", &path("/hand-in"), Some(&who), None).await;
            assert_eq!(status, StatusCode::OK, "{receipt}");
            for view in ["/result", "/hand-in", ""] {
                let (_, shown) = client.send("GET", &path(view), Some(&who), None).await;
                seen.push(json!([
                    shown["tries_used"],
                    shown["recorded"],
                    shown["score_so_far"],
                    shown["last_event"],
                    shown["questions_left"],
                    shown["refusal"],
                    shown["questions"]
                        .as_array()
                        .map(|q| q.iter().map(|q| q["points"].clone()).collect::<Vec<_>>())
                ]));
            }
            let (_, scores) = client.send("GET", "/api/scores", Some(&who), None).await;
            seen.push(json!([
                scores["classes"][0]["rows"][0]["tries_used"],
                scores["classes"][0]["so_far"]
            ]));
            let (_, skills) = client.send("GET", "/api/skills", Some(&who), None).await;
            seen.push(skills["skills"][0]["evidence"].clone());
            let (status, _) = client.send("POST", &path("/take-back"), Some(&who), None).await;
            assert_eq!(status, StatusCode::NO_CONTENT);
        }
        told.push(seen);
    }
    assert_eq!(told[0], told[1]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_hand_in_that_was_taken_back_gives_nothing(pool: PgPool) {
    let mut settings = quiz();
    settings.release = coursework::Release::AfterDue;
    let id = world_with(&pool, settings, &[SMALL]).await;
    let hands = Hands::new();
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let right = (2 * number_in(&board)).to_string();
    for (round, entry) in [right.as_str(), "1"].into_iter().enumerate() {
        let draft =
            json!({"question": 0, "set_number": 0, "part": "a", "based_on": round, "response": entry});
        client
            .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
            .await;
        client.send("POST", &path("/hand-in"), Some(&ada), None).await;
        if round == 0 {
            client.send("POST", &path("/take-back"), Some(&ada), None).await;
        }
    }
    hands.move_to(2 * 24 * 3600);
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 0.0, "{result}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_without_other_numbers_is_its_homeworks_while_that_is_open(pool: PgPool) {
    let id = world_with(&pool, homework(), &[FIXED, SMALL]).await;
    let hands = Hands::new();
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    let ask = json!({"classes": ["Site Practice"], "length": 2});
    let (_, review) = client.send("POST", "/api/review", Some(&ada), Some(ask)).await;
    assert_eq!(review["questions"], json!([]), "it is not drawn");
    // Nor by a review of one's own making.
    let (person, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    let mine = store::Review {
        id: uuid::Uuid::now_v7(),
        salt: 7,
        questions: vec!["fixed".into()],
    };
    store::put_review(&pool, person.id, &mine, OffsetDateTime::now_utc())
        .await
        .unwrap();
    let source = json!({"from": "review", "review": mine.id, "place": 0});
    let body = json!({"source": source, "show_working": true});
    let (status, said) = client
        .send("POST", "/api/loose", Some(&ada), Some(body.clone()))
        .await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("no_other_numbers"))
    );
    assert!(!said.to_string().contains("42"));
    hands.move_to(2 * 24 * 3600);
    let (status, shown) = client.send("POST", "/api/loose", Some(&ada), Some(body)).await;
    assert_eq!(status, StatusCode::OK, "{shown}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn neither_a_review_nor_practice_shows_the_numbers_of_an_open_set(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[SMALL]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let mine = number_in(&board);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("7")))
        .await;
    let number = |shown: &Value| number_in(&json!({"questions": [shown["question"]]}));
    let mut met = std::collections::BTreeSet::new();
    for _ in 0..12 {
        let ask = json!({"classes": ["Site Practice"], "length": 6});
        let (_, review) = client.send("POST", "/api/review", Some(&ada), Some(ask)).await;
        for place in 0..6 {
            let source = json!({"from": "review", "review": review["id"], "place": place});
            let body = json!({"source": source, "show_working": true});
            let (status, shown) = client.send("POST", "/api/loose", Some(&ada), Some(body)).await;
            assert_eq!(status, StatusCode::OK, "{shown}");
            met.insert(number(&shown));
        }
    }
    for round in 0..40 {
        let start = json!({"skills": ["fractions"], "right": 1});
        let (_, run) = client
            .send("POST", "/api/practice", Some(&ada), Some(start))
            .await;
        let run = format!("/api/practice/{}", run["id"].as_str().unwrap());
        let (_, shown) = client.send("GET", &run, Some(&ada), None).await;
        met.insert(number(&shown));
        let _ = round;
    }
    assert!(met.len() >= 15, "the others are met: {met:?}");
    assert!(!met.contains(&mine), "{mine} is the homework's");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_closed_homework_does_not_give_away_a_quiz_that_is_open(pool: PgPool) {
    let now = OffsetDateTime::now_utc();
    let closed = coursework::Settings::homework(now - Duration::days(9), now - Duration::days(2));
    let id = world_with(&pool, closed, &[SMALL]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let practise = format!("/api/assignments/{id}/practice/0/0");
    let (status, _) = client.send("GET", &practise, Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK);
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let question = store::find_question_by_slug(&pool, "doubled")
        .await
        .unwrap()
        .unwrap();
    store::put_assignment(&pool, class, "quiz", "Quiz", &quiz(), &[question])
        .await
        .unwrap();
    for method in ["GET", "POST"] {
        let body = (method == "POST").then(|| json!({"parts": [], "show_working": true}));
        let (status, said) = client.send(method, &practise, Some(&ada), body).await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("kept_for_quiz"))
        );
    }
}
