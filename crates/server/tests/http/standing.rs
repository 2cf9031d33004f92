//! What stands after the clock, the class and the teacher had a hand in it.

use coursework::{Event, LateRule, RecordedScore};
use serde_json::json;
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{DOUBLED, Hands, add_event, check, client, homework, opened, quiz, world_with};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn time_that_has_run_out_stays_out_when_the_clock_is_set_back(pool: PgPool) {
    let mut settings = quiz();
    settings.time_limit = Some(20);
    let id = world_with(&pool, settings, &[DOUBLED]).await;
    let hands = Hands::new();
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    hands.move_to(21 * 60);
    client.send("GET", &path("/board"), Some(&ada), None).await;
    hands.move_to(60);
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["is_open"], false);
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1"});
    let (_, said) = client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    assert_eq!(said["code"], "time_up");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teachers_own_hand_in_is_not_among_the_classs_scores(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let teacher = store::put_person(&pool, "tor", "Tor Vane", "none", store::Role::Teacher)
        .await
        .unwrap();
    store::add_member(&pool, class, teacher).await.unwrap();
    for name in ["ada", "tor"] {
        let recorded = RecordedScore {
            points: 1.0,
            of: 1,
            taken_off: 0,
            waiting: 0.0,
        };
        add_event(
            &pool,
            &id,
            name,
            Event::HandedIn {
                late: false,
                recorded,
                by_time: false,
            },
        )
        .await;
    }
    sqlx::query("update works set recorded_percent = 100")
        .execute(&pool)
        .await
        .unwrap();
    let id = id.parse().unwrap();
    let scores = store::recorded_scores(&pool, &[id]).await.unwrap();
    assert_eq!(scores[&id], [100.0]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn one_work_that_cannot_be_ended_holds_up_no_other(pool: PgPool) {
    let mut settings = quiz();
    settings.time_limit = Some(20);
    settings.late = LateRule::NotAccepted;
    let id = world_with(&pool, settings, &[DOUBLED]).await;
    let hands = Hands::new();
    let client = client!(pool, hands.clock());
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    for who in [&ada, &cy] {
        client.send("POST", &path("/open"), Some(who), None).await;
    }
    // A hundred and fifty that are older and cannot be read.
    let now = OffsetDateTime::now_utc();
    let hash = "none";
    for n in 0..150 {
        let name = format!("broken-{n}");
        let person = store::put_person(&pool, &name, &name, hash, store::Role::Student)
            .await
            .unwrap();
        let work = store::start_work(&pool, id.parse().unwrap(), person)
            .await
            .unwrap();
        sqlx::query(
            "insert into events (work_id, number, at, body) values ($1, 1, $2, '{\"kind\": \"unknown\"}')",
        )
        .bind(work.0)
        .bind(now - Duration::days(1))
        .execute(&pool)
        .await
        .unwrap();
        sqlx::query("update works set ends_at = $2 where id = $1")
            .bind(work.0)
            .bind(now - Duration::days(1))
            .execute(&pool)
            .await
            .unwrap();
    }
    hands.move_to(21 * 60);
    let school = school::School::new(pool.clone()).with_clock(hands.clock());
    school::time_up::end_all(&school).await.unwrap();
    let ended: i64 = sqlx::query_scalar("select count(*) from events where body->>'kind' = 'time_up'")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(ended, 2);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_check_while_the_key_is_corrected_is_marked_by_the_new_one(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[DOUBLED]);
    client
        .send("POST", &path("/check"), Some(&ada), Some(check("3")))
        .await;
    let corrected = DOUBLED.replace("2*{{n}}", "3*{{n}}");
    crate::client::put_question(&pool, &corrected).await;
    let school = school::School::new(pool.clone());
    school::regrade::regrade(&school, "doubled").await.unwrap();
    // The server that held the old version marks by the new one.
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let n = crate::client::number_in(&board);
    let (_, said) = client
        .send(
            "POST",
            &path("/check"),
            Some(&ada),
            Some(check(&(3 * n).to_string())),
        )
        .await;
    assert_eq!(said["question"]["all_right"], true, "{said}");
}
