//! Reading pages, their checks, and reading that is set.

use actix_web::http::StatusCode;
use actix_web::test;
use coursework::{Goal, Settings};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{client, homework, opened, quiz, world_with};

/// The bank's own question in the page on fractions.
const CREW_SHARE: &str = include_str!("../../../../content/questions/workshop/crew-share.yaml");

fn page_check(round: u32) -> Value {
    json!({"from": "page", "skill": "fractions", "check": 0, "round": round})
}

fn text(view: &Value) -> String {
    view["question"]["text"].to_string()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn every_skill_has_a_page_with_its_figures(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let all = skills["skills"].as_array().unwrap();
    assert!(all.len() >= 24);
    for skill in all {
        let path = format!("/api/pages/{}", skill["id"].as_str().unwrap());
        let (status, page) = client.send("GET", &path, Some(&ada), None).await;
        assert_eq!(status, StatusCode::OK, "{path}");
        let steps = page["steps"].as_array().unwrap();
        assert_eq!(steps.last().unwrap()["title"], "In short", "{path}");
        let blocks = || steps.iter().flat_map(|s| s["blocks"].as_array().unwrap());
        for figure in blocks().filter(|b| b["kind"] == "figure") {
            let request = test::TestRequest::get()
                .uri(figure["address"].as_str().unwrap())
                .cookie(ada.clone());
            let response = test::call_service(&client.app, request.to_request()).await;
            assert_eq!(response.status(), StatusCode::OK, "{figure}");
            let kind = response.headers().get("content-type").unwrap();
            assert_eq!(kind, "image/svg+xml");
        }
        for spoken in blocks().filter(|b| b["kind"] == "text") {
            let words = spoken["speech"].as_str().unwrap();
            assert!(!words.is_empty() && !words.contains('\\'), "{path}: {words}");
        }
    }
    for missing in [
        "/api/pages/alchemy",
        "/api/figures/none.svg",
        "/api/figures/..%2Fskills.yaml",
    ] {
        let (status, _) = client.send("GET", missing, Some(&ada), None).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{missing}");
    }
    let (status, _) = client.send("GET", "/api/pages/ratios", None, None).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_page_opens_where_it_was_left_and_stays_read(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = "/api/pages/ratios";
    let place = |step: u32, read: bool| Some(json!({"step": step, "read": read}));
    client
        .send("PUT", "/api/pages/ratios/place", Some(&ada), place(2, false))
        .await;
    let (_, page) = client.send("GET", path, Some(&ada), None).await;
    assert_eq!((&page["step"], &page["read_at"]), (&json!(2), &Value::Null));
    client
        .send("PUT", "/api/pages/ratios/place", Some(&ada), place(999, true))
        .await;
    client
        .send("PUT", "/api/pages/ratios/place", Some(&ada), place(0, false))
        .await;
    let (_, page) = client.send("GET", path, Some(&ada), None).await;
    assert_eq!(page["step"], 0);
    assert!(page["read_at"].is_string(), "once read it stays read");
    let (_, other) = client.send("GET", path, Some(&cy), None).await;
    assert_eq!(other["read_at"], Value::Null);
    let (status, _) = client
        .send("PUT", "/api/pages/alchemy/place", Some(&ada), place(0, true))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn reading_that_is_set_counts_pages_and_is_handed_in(pool: PgPool) {
    let now = OffsetDateTime::now_utc();
    let goal = Goal::Read {
        skills: vec!["ratios".into(), "tables".into()],
    };
    let settings = Settings::towards(goal, now - Duration::days(1), now + Duration::days(1));
    let (client, ada, path) = opened!(pool, settings, &[]);
    let read = Some(json!({"step": 3, "read": true}));
    client
        .send("PUT", "/api/pages/tables/place", Some(&ada), read.clone())
        .await;
    let (_, page) = client.send("GET", "/api/pages/tables", Some(&ada), None).await;
    let set = &page["set_by"][0];
    assert_eq!(
        (&set["pages_read"], &set["pages"], &set["next"]),
        (&json!(1), &json!(2), &json!("ratios"))
    );
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["assignments"][0]["kind"], "reading");
    assert_eq!(week["assignments"][0]["score_so_far"]["percent"], 50.0);
    let (_, receipt) = client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    assert_eq!(receipt["score"]["percent"], 50.0);
    client
        .send("PUT", "/api/pages/ratios/place", Some(&ada), read)
        .await;
    let (_, page) = client.send("GET", "/api/pages/ratios", Some(&ada), None).await;
    assert_eq!(
        (&page["set_by"][0]["next"], &page["set_by"][0]["handed_in"]),
        (&Value::Null, &json!(true))
    );
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["percent"], 100.0);
    assert_eq!(result["goal"]["lines"][0]["read"], true);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_check_in_a_page_is_the_same_when_asked_again_and_records_nothing(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    crate::client::put_question(&pool, CREW_SHARE).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let ask = |source: Value| Some(json!({"source": source}));
    let (status, first) = client
        .send("POST", "/api/loose", Some(&ada), ask(page_check(0)))
        .await;
    assert_eq!(status, StatusCode::OK);
    let (_, same) = client
        .send("POST", "/api/loose", Some(&ada), ask(page_check(0)))
        .await;
    assert_eq!(text(&first), text(&same));
    // Two students may have the same numbers once, by luck, and not in eight rounds; nobody has them twice running.
    let mut rounds = [Vec::new(), Vec::new()];
    for (who, seen) in [&ada, &cy].into_iter().zip(&mut rounds) {
        for round in 0..8 {
            let (_, view) = client
                .send("POST", "/api/loose", Some(who), ask(page_check(round)))
                .await;
            seen.push(text(&view));
        }
        assert!(seen.windows(2).all(|w| w[0] != w[1]), "{seen:?}");
    }
    assert_ne!(rounds[0], rounds[1], "each student has numbers of their own");
    assert_eq!(
        (&first["answers"], &first["question"]["help"]["working"]),
        (&json!([]), &Value::Null)
    );

    let part = first["question"]["parts"][0]["id"].as_str().unwrap();
    let answer = |entry: &str, show: bool| {
        let parts = json!([{"id": part, "response": entry}]);
        Some(json!({"source": page_check(0), "parts": parts, "show_working": show}))
    };
    // What cannot be read ends nothing, and shows nothing.
    let (_, unread) = client
        .send("POST", "/api/loose", Some(&ada), answer("3 +", true))
        .await;
    assert_eq!(
        (&unread["judged"], &unread["answers"]),
        (&json!(false), &json!([]))
    );
    let (_, wrong) = client
        .send("POST", "/api/loose", Some(&ada), answer("123456", false))
        .await;
    assert_eq!((&wrong["judged"], &wrong["right"]), (&json!(true), &json!(false)));
    assert_eq!(wrong["answers"], json!([]), "asked for separately");
    let (_, shown) = client
        .send("POST", "/api/loose", Some(&ada), answer("123456", true))
        .await;
    assert!(!shown["answers"][0]["latex"].as_str().unwrap().is_empty());
    assert!(shown["question"]["help"]["working"].is_array());
    let (_, read) = client
        .send(
            "POST",
            "/api/loose/read",
            Some(&ada),
            Some(json!({"source": page_check(0), "part": part, "entry": "3/4"})),
        )
        .await;
    assert_eq!(read["speech"], "3 over 4");

    for (path, at) in [("/api/skills", "/skills/0/evidence"), ("/api/slips", "/slips")] {
        let (_, view) = client.send("GET", path, Some(&ada), None).await;
        assert_eq!(view.pointer(at), Some(&json!([])), "{path}");
    }
    for source in [
        json!({"from": "page", "skill": "fractions", "check": 9, "round": 0}),
        json!({"from": "page", "skill": "alchemy", "check": 0, "round": 0}),
        json!({"from": "review", "review": uuid::Uuid::nil(), "place": 0}),
    ] {
        let (status, _) = client.send("POST", "/api/loose", Some(&ada), ask(source)).await;
        assert_eq!(status, StatusCode::NOT_FOUND);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_of_an_open_quiz_is_kept_back_everywhere(pool: PgPool) {
    world_with(&pool, quiz(), &[CREW_SHARE]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let ask = Some(json!({"source": page_check(0)}));
    let (status, refused) = client.send("POST", "/api/loose", Some(&ada), ask.clone()).await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("kept_for_quiz"))
    );
    let start = json!({"skills": ["fractions"], "right": 2});
    let (status, refused) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    assert_eq!(
        (status, &refused["code"]),
        (StatusCode::CONFLICT, &json!("kept_for_quiz"))
    );
    // Who is not in that class has nothing kept back.
    let bo = client.sign_in("bo").await;
    let (status, _) = client.send("POST", "/api/loose", Some(&bo), ask).await;
    assert_eq!(status, StatusCode::OK);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn pages_stand_beside_questions_where_the_teacher_allows_it(pool: PgPool) {
    let mut settings = homework();
    let (client, ada, path) = opened!(pool, settings.clone(), &[CREW_SHARE]);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(
        board["questions"][0]["reading"],
        json!([{"skill": "fractions", "title": "Fractions"}])
    );
    settings.tools.reading = false;
    sqlx::query("update assignments set settings = $1, version = version + 1")
        .bind(serde_json::to_value(&settings).unwrap())
        .execute(&pool)
        .await
        .unwrap();
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["reading"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_cover_offers_what_is_new_until_it_is_read(pool: PgPool) {
    let id = world_with(&pool, homework(), &[CREW_SHARE]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = format!("/api/assignments/{id}");
    let (_, cover) = client.send("GET", &path, Some(&ada), None).await;
    let skill = &cover["skills"][0];
    assert_eq!(
        (&skill["level"], &skill["page"]["read"]),
        (&json!("new"), &json!(false))
    );
    let read = Some(json!({"step": 3, "read": true}));
    client
        .send("PUT", "/api/pages/fractions/place", Some(&ada), read)
        .await;
    let (_, cover) = client.send("GET", &path, Some(&ada), None).await;
    assert_eq!(cover["skills"][0]["page"]["read"], true);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn terms_are_gone_through_as_cards_and_come_back(pool: PgPool) {
    crate::client::world(&pool).await;
    let clock = crate::client::Hands::new();
    let client = client!(pool, clock.clock());
    let ada = client.sign_in("ada").await;
    let (_, page) = client.send("GET", "/api/pages/ratios", Some(&ada), None).await;
    let term = page["terms"][0]["term"].as_str().unwrap().to_owned();
    let answer = |known: bool| Some(json!({"skill": "ratios", "term": term, "known": known}));
    let (_, cards) = client.send("GET", "/api/cards", Some(&ada), None).await;
    let of = |cards: &Value| {
        let pages = cards["pages"].as_array().unwrap();
        let page = pages.iter().find(|p| p["skill"] == "ratios").unwrap();
        page["cards"][0]["standing"].as_str().unwrap().to_owned()
    };
    assert_eq!(of(&cards), "new");
    client.send("PUT", "/api/cards", Some(&ada), answer(false)).await;
    let (_, cards) = client.send("GET", "/api/cards", Some(&ada), None).await;
    assert_eq!(of(&cards), "not_yet");
    let (_, known) = client.send("PUT", "/api/cards", Some(&ada), answer(true)).await;
    assert_eq!(known["standing"], "known");
    assert!(known["comes_back"].is_string());
    clock.move_to(2 * 86_400 + 60);
    let (_, cards) = client.send("GET", "/api/cards", Some(&ada), None).await;
    assert_eq!(of(&cards), "back");
    // Another's cards are another's, and no term is made up.
    let cy = client.sign_in("cy").await;
    assert_eq!(
        of(&client.send("GET", "/api/cards", Some(&cy), None).await.1),
        "new"
    );
    let odd = Some(json!({"skill": "ratios", "term": "no such term", "known": true}));
    let (status, _) = client.send("PUT", "/api/cards", Some(&ada), odd).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_worked_example_is_walked_a_step_at_a_time_and_nothing_is_kept(pool: PgPool) {
    crate::client::world(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let (_, page) = client
        .send("GET", "/api/pages/right-triangles", Some(&ada), None)
        .await;
    assert!(page.to_string().contains("\"kind\":\"walk\"") && !page.to_string().contains("169"));
    let ask = |step: usize, body: Value| {
        let mut body = body;
        body["source"] = json!({"from": "walk", "skill": "right-triangles", "walk": 0, "step": step});
        body
    };
    let loose = |body: Value| client.send("POST", "/api/loose", Some(&ada), Some(body));
    let entry = |text: &str| json!({"parts": [{"id": "a", "response": text}]});
    let (_, wrong) = loose(ask(0, entry("17"))).await;
    assert_eq!((&wrong["right"], &wrong["answers"]), (&json!(false), &json!([])));
    let (_, right) = loose(ask(0, entry("13^2"))).await;
    assert_eq!(right["right"], true, "{right}");
    // On request it is shown before anything was tried.
    let (_, shown) = loose(ask(1, json!({"show_working": true}))).await;
    assert!(
        shown["answers"][0]["latex"].as_str().unwrap().contains("13"),
        "{shown}"
    );
    let read = ask(0, json!({"part": "a", "entry": "12^2+5^2"}));
    let (_, read) = client
        .send("POST", "/api/loose/read", Some(&ada), Some(read))
        .await;
    assert_eq!(read["reads_as"], "12^{2} + 5^{2}");
    for (walk, step) in [(0, 2), (1, 0)] {
        let source = json!({"from": "walk", "skill": "right-triangles", "walk": walk, "step": step});
        let (status, _) = loose(json!({"source": source})).await;
        assert_eq!(status, StatusCode::NOT_FOUND);
    }
    let (_, slips) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(slips["slips_in_all"], 0);
}
