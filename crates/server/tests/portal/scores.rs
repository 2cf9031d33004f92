//! Scores on their way to the portal.

use coursework::{Event, LateRule, Release};
use serde_json::json;
use sqlx::PgPool;

use crate::client::add_event;
use crate::site::Site;

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_recorded_score_goes_back_and_its_owner_sees_that(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    site.hand_in(&mut browser, true).await;
    let scores = site.ask(&mut browser, "GET", "/api/portal-scores", None).await;
    assert_eq!(scores["scores"][0]["state"], "waiting");
    assert_eq!(site.grade("p-nia"), None);
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-nia"), Some(100.0), "{:?}", site.portal.log());
    let scores = site.ask(&mut browser, "GET", "/api/portal-scores", None).await;
    assert_eq!(scores["scores"][0]["state"], "there");
    // Nothing is sent twice.
    assert_eq!(site.send_due().await, 0);
    // What a teacher gives afterwards goes, too; what changes nothing does not.
    let given = |points: f64| Event::ScoredByTeacher {
        question: 0,
        points,
        note: String::new(),
        by: None,
        parts: Vec::new(),
    };
    add_event(&pool, &site.assignment, "nia.ferrow", given(0.5)).await;
    site.send_due().await;
    assert_eq!(site.grade("p-nia"), Some(50.0));
    add_event(&pool, &site.assignment, "nia.ferrow", given(0.5)).await;
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.portal.taken().len(), 2);
    // And what was handed in and taken back has no score there.
    add_event(&pool, &site.assignment, "nia.ferrow", Event::TakenBack).await;
    site.send_due().await;
    let grades = site.portal.grades();
    assert_eq!(
        (grades[0].2.given, grades[0].2.grading.as_str()),
        (None, "NotReady")
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_portal_that_is_away_gets_it_later(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    site.portal.set_away(true);
    site.hand_in(&mut browser, true).await;
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-nia"), None);
    // It is left alone for a while, then asked again, less and less often.
    assert_eq!(site.send_due().await, 0);
    let mut asked = 0;
    for minute in 1..=60 {
        site.hands.move_to(60 * minute);
        asked += site.send_due().await;
    }
    assert!((5..=12).contains(&asked), "{asked}");
    let scores = site.ask(&mut browser, "GET", "/api/portal-scores", None).await;
    assert_eq!(scores["scores"][0]["state"], "waiting");
    let mut teacher = site.browser("p-tam").await;
    site.click(&mut teacher, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut teacher, "POST", "/api/arrival/join", Some(join))
        .await;
    let path = format!("/api/classes/{}/portal", site.class);
    let seen = site.ask(&mut teacher, "GET", &path, None).await;
    assert_eq!(seen["unsettled"][0]["name"], "Nia Ferrow");
    assert!(
        seen["unsettled"][0]["answer"].as_str().unwrap().contains("503"),
        "{seen}"
    );
    site.portal.set_away(false);
    site.hands.move_to(60 * 130);
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-nia"), Some(100.0));
    let seen = site.ask(&mut teacher, "GET", &path, None).await;
    assert_eq!(seen["unsettled"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn after_a_week_it_is_given_up_until_it_is_sent_again(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    site.hand_in(&mut browser, true).await;
    // The column is gone from the portal.
    let lines = store::lines_of_class(&pool, site.class).await.unwrap();
    let right = lines[0].url.clone().unwrap();
    store::set_line_url(&pool, lines[0].id, &right.replace("/0", "/77"))
        .await
        .unwrap();
    for day in 0..=8 {
        site.hands.move_to(86_400 * day);
        site.send_due().await;
    }
    let scores = site.ask(&mut browser, "GET", "/api/portal-scores", None).await;
    assert_eq!(scores["scores"][0]["state"], "given_up");
    site.hands.move_to(86_400 * 30);
    assert_eq!(site.send_due().await, 0);
    store::set_line_url(&pool, lines[0].id, &right).await.unwrap();
    let mut teacher = site.browser("p-tam").await;
    site.click(&mut teacher, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut teacher, "POST", "/api/arrival/join", Some(join))
        .await;
    let again = format!("/api/classes/{}/portal/again", site.class);
    let seen = site.ask(&mut teacher, "POST", &again, Some(json!({}))).await;
    assert_eq!(seen["unsettled"][0]["state"], "waiting");
    site.send_due().await;
    assert_eq!(site.grade("p-nia"), Some(100.0));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_not_out_here_is_not_out_there(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut settings = crate::client::homework();
    settings.release = Release::AfterDue;
    settings.late = LateRule::Flagged;
    sqlx::query("update assignments set settings = $1, version = version + 1")
        .bind(sqlx::types::Json(&settings))
        .execute(&pool)
        .await
        .unwrap();
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    site.hand_in(&mut browser, true).await;
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-nia"), None);
    let scores = site.ask(&mut browser, "GET", "/api/portal-scores", None).await;
    assert_eq!(scores["scores"][0]["state"], "held");
    site.hands.move_to(86_400 + 600);
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-nia"), Some(100.0));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn scores_from_before_go_once_the_portal_knows_somebody(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = crate::browser::Browser::new();
    let ada = json!({"user_name": "ada", "password": "slate-and-chalk"});
    site.ask(&mut browser, "POST", "/api/session", Some(ada.clone()))
        .await;
    site.hand_in(&mut browser, true).await;
    assert_eq!(site.send_due().await, 0);
    let mut from_portal = site.browser("p-ada").await;
    site.click(&mut from_portal, "l-1").await;
    site.ask(&mut from_portal, "POST", "/api/arrival/join", Some(ada))
        .await;
    assert_eq!(site.send_due().await, 1);
    assert_eq!(site.grade("p-ada"), Some(100.0));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_line_item_is_found_or_made_where_no_launch_named_it(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    sqlx::query("update portal_lines set url = null")
        .execute(&pool)
        .await
        .unwrap();
    site.hand_in(&mut browser, true).await;
    site.send_due().await;
    let made: Vec<_> = site.portal.grades();
    assert_eq!((made[0].0.as_str(), made[0].2.given), ("Doubling", Some(1.0)));
    let url = store::lines_of_class(&pool, site.class).await.unwrap()[0]
        .url
        .clone();
    assert!(url.unwrap().contains("/lineitems/1"));
    // Known by its id there, it is found, not made again.
    sqlx::query("update portal_lines set url = null")
        .execute(&pool)
        .await
        .unwrap();
    store::note_scores_again(&pool, site.class, None, site.school.now())
        .await
        .unwrap();
    site.send_due().await;
    let url = store::lines_of_class(&pool, site.class).await.unwrap()[0]
        .url
        .clone();
    assert!(url.unwrap().contains("/lineitems/1"));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_grade_book_is_compared_with_what_is_recorded(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    site.hand_in(&mut browser, true).await;
    site.send_due().await;
    let mut teacher = site.browser("p-tam").await;
    site.click(&mut teacher, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut teacher, "POST", "/api/arrival/join", Some(join))
        .await;
    let compare = format!("/api/classes/{}/portal/compare", site.class);
    let seen = site.ask(&mut teacher, "POST", &compare, None).await;
    assert_eq!(seen["differs"], json!([]));
    sqlx::query("update works set recorded_percent = 40")
        .execute(&pool)
        .await
        .unwrap();
    let seen = site.ask(&mut teacher, "POST", &compare, None).await;
    assert_eq!(
        (&seen["differs"][0]["here"], &seen["differs"][0]["there"]),
        (&json!(40.0), &json!(100.0))
    );
    site.portal.set_away(true);
    let page = teacher
        .ask("POST", &format!("{}{compare}", site.base), None)
        .await;
    assert_eq!(page.status, 502);
    assert!(page.text.contains("does not answer just now"), "{}", page.text);
}
