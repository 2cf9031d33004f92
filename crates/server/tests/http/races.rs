//! Several requests at once, through two servers over one database: each thing happens once.

use actix_web::http::StatusCode;
use coursework::{Command, Event};
use futures_util::future::join_all;
use school::{Desk, School};
use serde_json::{Value, json};
use sqlx::PgPool;
use store::SaveDraft;
use uuid::Uuid;

use crate::client::{DOUBLED, QUESTION, check, client, homework, number_in, opened, quiz, world_with};

async fn student(pool: &PgPool) -> store::PersonId {
    store::find_credentials(pool, "ada").await.unwrap().unwrap().0.id
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn of_twenty_checks_at_once_on_two_servers_three_are_counted(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let (one, two) = (client!(pool), client!(pool));
    let ada = one.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    one.send("POST", &path("/open"), Some(&ada), None).await;
    let send = |n: usize| {
        let server = if n.is_multiple_of(2) { &one } else { &two };
        let (path, ada) = (path("/check"), &ada);
        async move {
            server
                .send("POST", &path, Some(ada), Some(check(&format!("{n}.5"))))
                .await
        }
    };
    // A person's own share lets twelve wait on each server; the rest are told to come again.
    let said = join_all((0..20).map(send)).await;
    let taken = said
        .iter()
        .filter(|(status, _)| *status == StatusCode::OK)
        .count();
    assert_eq!(
        taken,
        3,
        "{:?}",
        said.iter().map(|(s, b)| (s, &b["code"])).collect::<Vec<_>>()
    );
    let (_, board) = two.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["tries_left"], 0);
    assert_eq!(
        board["questions"][0]["sets"][0]["tries"]
            .as_array()
            .unwrap()
            .len(),
        3
    );
    let numbers: Vec<i32> = sqlx::query_scalar("select number from events order by number")
        .fetch_all(&pool)
        .await
        .unwrap();
    assert_eq!(numbers, [1, 2, 3, 4], "no gap, nothing twice");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_work_is_begun_once_by_ten_at_once(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let (one, two) = (client!(pool), client!(pool));
    let ada = one.sign_in("ada").await;
    let path = format!("/api/assignments/{id}/open");
    let send = |n: usize| {
        let server = if n.is_multiple_of(2) { &one } else { &two };
        let (path, ada) = (&path, &ada);
        async move { server.send("POST", path, Some(ada), None).await.0 }
    };
    let said = join_all((0..10).map(send)).await;
    assert!(said.iter().all(|s| *s == StatusCode::NO_CONTENT), "{said:?}");
    let opened: i64 = sqlx::query_scalar("select count(*) from events")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(opened, 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_was_refused_leaves_nothing_behind(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    for tail in [
        "/hand-in",
        "/take-back",
        "/questions/0/hint",
        "/questions/0/fresh-numbers",
    ] {
        let (status, _) = client.send("POST", &path(tail), Some(&ada), None).await;
        assert_eq!(status, StatusCode::CONFLICT, "{tail}");
    }
    let works: i64 = sqlx::query_scalar("select count(*) from works")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(works, 0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_from_another_window_in_between_is_handed_in_too(pool: PgPool) {
    let id = world_with(&pool, quiz(), &[QUESTION, QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let answer = (2 * number_in(&board)).to_string();
    let (school, id) = (School::new(pool.clone()), id.parse::<Uuid>().unwrap());
    // This window loads its desk, then the other one saves an answer.
    let mut desk = Desk::load(&school, id, student(&pool).await).await.unwrap();
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": answer});
    let (_, saved) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(saved["type"], "saved");
    desk.run_with_drafts(&school, coursework::End::Student, &|marked| Command::HandIn {
        marked,
    })
    .await
    .unwrap();
    let marked = desk.events().into_iter().find_map(|r| match r.event {
        Event::Checked(checked) => Some(checked),
        _ => None,
    });
    assert_eq!(marked.unwrap().parts[0].score, 1.0);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_draft_after_the_hand_in_of_a_last_chance_is_refused(pool: PgPool) {
    let mut settings = quiz();
    settings.time_limit = Some(30);
    let id = world_with(&pool, settings, &[QUESTION]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (school, id) = (School::new(pool.clone()), id.parse::<Uuid>().unwrap());
    let mut stale = Desk::load(&school, id, student(&pool).await).await.unwrap();
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let response = marking::Response::Text("1".into());
    let draft = SaveDraft {
        question: 0,
        set: 0,
        part: "a",
        based_on: 0,
        response: &response,
    };
    // It is decided anew on what stands there now, not on what this window had loaded.
    let seen = std::sync::atomic::AtomicU32::new(0);
    let allowed = |d: &Desk| {
        seen.store(d.work.last_event, std::sync::atomic::Ordering::Relaxed);
        coursework::may_draft(&d.assignment, &d.work, 0, 0, "a", d.now)
    };
    let _ = stale.save_draft(&school, &draft, allowed).await;
    assert!(seen.into_inner() > 1, "the newest state was asked");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_a_server_holds_is_what_a_fresh_one_folds(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED, QUESTION]);
    let steps: [(&str, Value); 7] = [
        ("/check", check("5")),
        ("/check", check("3 + * 4")),
        ("/questions/0/working", Value::Null),
        ("/questions/0/fresh-numbers", Value::Null),
        ("/check", check("6")),
        ("/hand-in", Value::Null),
        ("/take-back", Value::Null),
    ];
    for (tail, body) in steps {
        let body = (!body.is_null()).then_some(body);
        client.send("POST", &path(tail), Some(&ada), body).await;
        let fresh = client!(pool);
        for view in ["/board", "", "/result"] {
            let (_, held) = client.send("GET", &path(view), Some(&ada), None).await;
            let (_, folded) = fresh.send("GET", &path(view), Some(&ada), None).await;
            let without_now = |mut v: Value| {
                v.as_object_mut().unwrap().remove("now");
                v
            };
            assert_eq!(without_now(held), without_now(folded), "{tail}: {view}");
        }
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn ten_hand_ins_at_once_are_one_receipt(pool: PgPool) {
    for (settings, entry) in [(homework(), "5"), (quiz(), "5")] {
        sqlx::query("truncate assignments, classes, people cascade")
            .execute(&pool)
            .await
            .unwrap();
        let id = world_with(&pool, settings, &[DOUBLED]).await;
        let (one, two) = (client!(pool), client!(pool));
        let ada = one.sign_in("ada").await;
        let path = |tail: &str| format!("/api/assignments/{id}{tail}");
        one.send("POST", &path("/open"), Some(&ada), None).await;
        one.send("POST", &path("/check"), Some(&ada), Some(check(entry)))
            .await;
        let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": entry});
        one.send("PUT", &path("/drafts"), Some(&ada), Some(draft)).await;
        let send = |n: usize| {
            let server = if n.is_multiple_of(2) { &one } else { &two };
            let (path, ada) = (path("/hand-in"), &ada);
            async move { server.send("POST", &path, Some(ada), None).await }
        };
        for (status, receipt) in join_all((0..10).map(send)).await {
            assert_eq!(
                (status, &receipt["number"]),
                (StatusCode::OK, &json!(1)),
                "{receipt}"
            );
        }
        let handed_in: i64 =
            sqlx::query_scalar("select count(*) from events where body->>'kind' = 'handed_in'")
                .fetch_one(&pool)
                .await
                .unwrap();
        assert_eq!(handed_in, 1);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_changed_since_makes_another_receipt(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    let hand_in = async || client.send("POST", &path("/hand-in"), Some(&ada), None).await.1["number"].clone();
    assert_eq!(hand_in().await, 1);
    assert_eq!(hand_in().await, 1, "nothing was changed");
    // A hint earns nothing, so it changes nothing that is handed in.
    client
        .send("POST", &path("/questions/0/hint"), Some(&ada), None)
        .await;
    assert_eq!(hand_in().await, 1);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("5")))
        .await;
    assert_eq!(hand_in().await, 2);
    client.send("POST", &path("/take-back"), Some(&ada), None).await;
    assert_eq!(
        hand_in().await,
        3,
        "one that was taken back is not handed in again by itself"
    );
}
