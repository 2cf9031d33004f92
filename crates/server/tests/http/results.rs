//! Results, scores, taking back, practice after closing.

use actix_web::http::StatusCode;
use coursework::{Event, HandInNeeds, ShowSolution, WhichCounts};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{
    Hands, QUESTION, add_event, check, client, homework, number_in, opened, quiz, world_with,
};

async fn events(pool: &PgPool) -> i64 {
    sqlx::query_scalar("select count(*) from events")
        .fetch_one(pool)
        .await
        .unwrap()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn handing_in_taking_back_and_handing_in_again(pool: PgPool) {
    let mut settings = homework();
    settings.which_counts = WhichCounts::Last;
    settings.hand_ins = Some(2);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, first) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(first["number"], 1);
    assert_eq!(
        client.send("POST", &path("/take-back"), Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (_, cover) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        (&cover["state"], &cover["hand_ins"]),
        (&json!("under_way"), &json!([]))
    );
    let (_, receipt) = client.send("GET", &path("/receipts/1"), Some(&ada), None).await;
    assert_eq!(receipt["taken_back"], true);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let answer = (2 * number_in(&board)).to_string();
    client
        .send("POST", &path("/check"), Some(&ada), Some(check(&answer)))
        .await;
    let (_, second) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (&second["number"], &second["score"]["percent"]),
        (&json!(2), &json!(50.0))
    );
    let choose = |id: &str| Some(json!({"question": 0, "parts": [{"id": "b", "response": [id]}]}));
    client
        .send("POST", &path("/check"), Some(&ada), choose("rotor"))
        .await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    client
        .send("POST", &path("/check"), Some(&ada), choose("blade"))
        .await;
    let (status, refused) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("no_hand_ins_left"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_quiz_that_needs_every_question_says_so_before(pool: PgPool) {
    let mut settings = quiz();
    settings.hand_in_needs = HandInNeeds::EveryQuestionAttempted;
    let (client, ada, path) = opened!(pool, settings, &[QUESTION, QUESTION]);
    let draft = |question: usize, text: &str| json!({"question": question, "set_number": 0, "part": "a", "based_on": 0, "response": text});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "3 +")))
        .await;
    let (_, preview) = client.send("GET", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(preview["questions"][0]["unreadable_parts"], json!(["a"]));
    assert_eq!(
        preview["would_record"],
        Value::Null,
        "a preview would tell what is right"
    );
    let (status, refused) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("questions_left"))
    );
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(1, "5")))
        .await;
    let (status, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(
        (status, &receipt["score"]["percent"]),
        (StatusCode::OK, &json!(0.0))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practice_after_closing_records_nothing(pool: PgPool) {
    let hands = Hands::new();
    // Of so many numbers, none comes twice by chance.
    let wide = QUESTION.replace("to: 400", "to: 900000");
    let helped = format!("{wide}help: {{working: ['WORKING']}}\n");
    let id = world_with(&pool, homework(), &[&helped]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let (status, refused) = client.send("GET", &path("/practice/0/0"), Some(&ada), None).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("not_closed_yet"))
    );
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    hands.move_to(2 * 86_400);
    let before = events(&pool).await;
    let mut numbers = vec![number_in(&board)];
    for round in 0..6 {
        let practice = path(&format!("/practice/0/{round}"));
        let (_, shown) = client.send("GET", &practice, Some(&ada), None).await;
        assert!(!shown.to_string().contains("WORKING"));
        let n = number_in(&json!({"questions": [shown["question"]]}));
        assert!(!numbers.contains(&n), "fresh numbers each time");
        numbers.push(n);
        let right = json!({"parts": [{"id": "a", "response": (2 * n).to_string()}], "show_working": true});
        let (_, marked) = client.send("POST", &practice, Some(&ada), Some(right)).await;
        assert_eq!(marked["question"]["parts"][0]["verdict"]["outcome"], "right");
        assert!(
            marked["question"]["help"]["working"]
                .to_string()
                .contains("WORKING")
        );
    }
    assert_eq!(events(&pool).await, before);
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["assignments"][0]["state"], "closed_nothing_handed_in");
    let (status, _) = client.send("GET", &path("/practice/7/0"), Some(&ada), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = client
        .send("GET", &path("/practice/0/4000000000"), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::OK, "a far round is one of the last");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_who_never_shows_the_working_does_not_show_it_in_practice(pool: PgPool) {
    let hands = Hands::new();
    let mut settings = homework();
    settings.show_solution = ShowSolution::Never;
    let helped = format!("{QUESTION}help: {{working: ['WORKING']}}\n");
    let id = world_with(&pool, settings, &[&helped]).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    hands.move_to(2 * 86_400);
    let ada = {
        client.send("GET", "/api/me", Some(&ada), None).await;
        ada
    };
    let body = json!({"parts": [], "show_working": true});
    let path = format!("/api/assignments/{id}/practice/0/0");
    let (status, shown) = client.send("POST", &path, Some(&ada), Some(body)).await;
    assert_eq!(status, StatusCode::OK);
    assert!(!shown.to_string().contains("WORKING"));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn scores_weigh_what_counts_and_name_nobody(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, scores) = client.send("GET", "/api/scores", Some(&ada), None).await;
    let class = &scores["classes"][0];
    assert_eq!(
        (&class["so_far"], &class["weight_out"]),
        (&json!(0.0), &json!(100.0))
    );
    let row = &class["rows"][0];
    assert_eq!(
        (&row["tries_used"], &row["receipts"], &row["weight"]),
        (&json!(1), &json!([1]), &json!(100.0))
    );
    assert_eq!(row["class_band"], Value::Null, "too few have handed in");
    assert!(!scores.to_string().contains("Cy Fenn"));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_teachers_points_count_and_are_told(pool: PgPool) {
    let id = world_with(&pool, homework(), &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let given = Event::ScoredByTeacher {
        question: 0,
        points: 1.5,
        note: "A clear drawing.".into(),
        by: None,
        parts: Vec::new(),
    };
    add_event(&pool, &id, "ada", given).await;
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 75.0);
    assert_eq!(
        result["questions"][0]["teacher_note"][0]["content"][0]["value"],
        "A clear drawing."
    );
    assert!(
        result["questions"][0]["why"][0]
            .as_str()
            .unwrap()
            .contains("Your teacher gave 1.5 of 2 points")
    );
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert!(
        week["notices"][0]["words"]
            .as_str()
            .unwrap()
            .contains("Your teacher marked question 1")
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_refused_request_changes_nothing(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[QUESTION]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("1")))
        .await;
    let (before, (_, board)) = (
        events(&pool).await,
        client.send("GET", &path("/board"), Some(&ada), None).await,
    );
    for (method, tail, body) in [
        ("POST", "/check", Some(check("1"))),
        ("POST", "/check", Some(check(""))),
        (
            "POST",
            "/check",
            Some(json!({"question": 0, "parts": [{"id": "zz", "response": "1"}]})),
        ),
        ("POST", "/questions/0/fresh-numbers", None),
        ("POST", "/questions/9/fresh-numbers", None),
        ("POST", "/questions/0/hint", None),
        ("POST", "/take-back", None),
        ("POST", "/move-on", Some(json!({"to": 0}))),
    ] {
        let (status, refused) = client.send(method, &path(tail), Some(&ada), body).await;
        assert!(status.is_client_error(), "{tail}: {status}");
        assert!(
            refused["detail"].as_str().unwrap().ends_with('.'),
            "{tail}: {refused}"
        );
    }
    assert_eq!(events(&pool).await, before);
    let (_, after) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(after["questions"], board["questions"]);
}
