//! Assignments with a goal: practice towards it, handing in what there is, again until due.

use actix_web::http::StatusCode;
use coursework::{Goal, Settings};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{DOUBLED, Hands, client, number_in, put_question, world_with};

fn on_ratios() -> String {
    DOUBLED.replace("fractions", "ratios")
}

fn towards(goal: Goal) -> Settings {
    let now = OffsetDateTime::now_utc();
    Settings::towards(goal, now - Duration::days(1), now + Duration::days(1))
}

fn right(n: u32) -> Goal {
    let skills = vec!["ratios".into()];
    Goal::Right { skills, right: n }
}

/// Answers the question of a run, rightly or not, and goes on.
macro_rules! answer {
    ($client:expr, $who:expr, $run:expr, $right:expr) => {{
        let path = |tail: &str| format!("/api/practice/{}{tail}", $run);
        let (_, shown) = $client.send("GET", &path(""), Some(&$who), None).await;
        let n = 2 * number_in(&json!({"questions": [shown["question"]]}));
        let entry = if $right { n } else { n + 1 };
        let body = json!({"parts": [{"id": "a", "response": entry.to_string()}]});
        let (status, checked) = $client
            .send("POST", &path("/check"), Some(&$who), Some(body))
            .await;
        assert_eq!(status, StatusCode::OK, "{checked}");
        $client.send("POST", &path("/next"), Some(&$who), None).await;
        checked
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_there_is_is_handed_in_again_and_again_and_the_best_counts(pool: PgPool) {
    let id = world_with(&pool, towards(right(4)), &[]).await;
    put_question(&pool, &on_ratios()).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let (_, cover) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        cover["goal"]["lines"],
        json!([{"line": "right", "right": 0, "answered": 0, "wanted": 4}])
    );
    assert_eq!(cover["skills"][0]["id"], "ratios");

    let (status, run) = client.send("POST", &path("/practise"), Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK);
    let run = run["id"].as_str().unwrap();
    let checked = answer!(client, ada, run, true);
    assert_eq!(checked["assignment"]["would_record"], 25.0);
    answer!(client, ada, run, false);

    let (_, preview) = client.send("GET", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (&preview["would_record"]["percent"], &preview["refusal"]),
        (&json!(25.0), &Value::Null)
    );
    let (_, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(receipt["score"]["percent"], 25.0);

    // The same run goes on; nothing of it is lost by handing in.
    let (_, again) = client.send("POST", &path("/practise"), Some(&ada), None).await;
    assert_eq!(again["id"], run);
    answer!(client, ada, run, true);
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 50.0);
    assert_eq!(
        result["goal"]["lines"],
        json!([{"line": "right", "right": 2, "answered": 3, "wanted": 4}])
    );
    // After the goal it may go on.
    for _ in 0..3 {
        answer!(client, ada, run, true);
    }
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["assignments"][0]["goal"]["reached"], true);
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, scores) = client.send("GET", "/api/scores", Some(&ada), None).await;
    let row = &scores["classes"][0]["rows"][0];
    assert_eq!(
        (&row["recorded"]["percent"], &row["receipts"]),
        (&json!(100.0), &json!([1, 2, 3]))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_level_is_measured_by_mastery_wherever_it_was_earned(pool: PgPool) {
    let goal = Goal::Level {
        skills: vec!["fractions".into()],
        score: 90,
    };
    let id = world_with(&pool, towards(goal), &[]).await;
    put_question(&pool, DOUBLED).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": 3});
    let (_, free) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let free = free["id"].as_str().unwrap();
    let checked = answer!(client, ada, free, true);
    assert_eq!(checked["assignment"], Value::Null, "it was set by nobody");
    answer!(client, ada, free, true);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    let goal = &week["assignments"][0]["goal"];
    assert_eq!(
        (&goal["reached"], &goal["percent"]),
        (&json!(true), &json!(100.0))
    );
    // It still has to be handed in; that opens it.
    assert_eq!(
        (&week["assignments"][0]["action"], &week["next"]["action"]),
        (&json!("hand_in"), &json!("hand_in"))
    );
    let hand_in = format!("/api/assignments/{id}/hand-in");
    let (_, preview) = client.send("GET", &hand_in, Some(&ada), None).await;
    assert_eq!(
        (&preview["would_record"]["percent"], &preview["refusal"]),
        (&json!(100.0), &Value::Null)
    );
    let (_, receipt) = client.send("POST", &hand_in, Some(&ada), None).await;
    assert_eq!(receipt["score"]["percent"], 100.0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_that_is_set_opens_its_skill_and_closes_with_the_assignment(pool: PgPool) {
    let hands = Hands::new();
    let id = world_with(&pool, towards(right(4)), &[]).await;
    put_question(&pool, &on_ratios()).await;
    let client = client!(pool, hands.clock());
    let (ada, bo) = (client.sign_in("ada").await, client.sign_in("bo").await);
    let ratios = |skills: &Value| {
        let all = skills["skills"].as_array().unwrap();
        all.iter().find(|s| s["id"] == "ratios").unwrap().clone()
    };
    // Ratios stand on fractions; the teacher has opened them for this class alone.
    let (_, mine) = client.send("GET", "/api/skills", Some(&ada), None).await;
    assert_eq!(
        (&ratios(&mine)["missing"], &ratios(&mine)["opened_by"]),
        (&json!([]), &json!("Doubling"))
    );
    let (_, theirs) = client.send("GET", "/api/skills", Some(&bo), None).await;
    assert_eq!(ratios(&theirs)["missing"], json!(["Fractions"]));
    let start = json!({"skills": ["ratios"], "right": 2});
    let (status, refused) = client.send("POST", "/api/practice", Some(&bo), Some(start)).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("skill_locked"))
    );
    let (status, _) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/practise"),
            Some(&bo),
            None,
        )
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);

    let practise = format!("/api/assignments/{id}/practise");
    let (_, run) = client.send("POST", &practise, Some(&ada), None).await;
    let run = run["id"].as_str().unwrap();
    answer!(client, ada, run, true);
    hands.move_to(2 * 86_400);
    let body = json!({"parts": [{"id": "a", "response": "1"}]});
    for (tail, body) in [("/check", Some(body)), ("/next", None)] {
        let path = format!("/api/practice/{run}{tail}");
        let (status, refused) = client.send("POST", &path, Some(&ada), body).await;
        assert_eq!(
            (status, &refused["code"]),
            (StatusCode::CONFLICT, &json!("closed"))
        );
    }
    let (status, shown) = client
        .send("GET", &format!("/api/practice/{run}"), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::OK, "it can still be looked at");
    assert!(shown["assignment"]["closed_because"].is_string());
    let (status, _) = client.send("POST", &practise, Some(&ada), None).await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn two_windows_that_begin_the_practice_share_one_run(pool: PgPool) {
    let id = world_with(&pool, towards(right(4)), &[]).await;
    put_question(&pool, &on_ratios()).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = format!("/api/assignments/{id}/practise");
    let (one, two) = tokio::join!(
        client.send("POST", &path, Some(&ada), None),
        client.send("POST", &path, Some(&ada), None),
    );
    assert_eq!((one.0, two.0), (StatusCode::OK, StatusCode::OK));
    assert_eq!(one.1["id"], two.1["id"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_goal_has_no_board_and_questions_have_no_goal(pool: PgPool) {
    let read = Goal::Read {
        skills: vec!["ratios".into()],
    };
    let id = world_with(&pool, towards(read), &[]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let practise = format!("/api/assignments/{id}/practise");
    let (status, refused) = client.send("POST", &practise, Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("only_reading"))
    );
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    let check = json!({"question": 0, "parts": [{"id": "a", "response": "1"}]});
    let (status, _) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check),
        )
        .await;
    assert!(status.is_client_error(), "{status}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_was_slipped_in_set_practice_stands_in_the_slip_book_under_its_name(pool: PgPool) {
    let id = world_with(&pool, towards(right(4)), &[]).await;
    put_question(&pool, &on_ratios()).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, run) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/practise"),
            Some(&ada),
            None,
        )
        .await;
    let run = run["id"].as_str().unwrap();
    answer!(client, ada, run, false);
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    let slip = &book["slips"][0];
    assert_eq!(
        (&slip["where_from"], &slip["class"]),
        (&json!("Doubling"), &json!("Site Practice"))
    );
}
