//! A corrected key: stored responses are marked anew, scores change with it, and students are told.

use school::School;
use school::regrade::regrade;
use serde_json::json;
use sqlx::PgPool;

use crate::client::{QUESTION, check, client, homework, number_in, put_question, world_with};

/// The key was wrong: it asks for twice the number, and three times was taken for right.
fn wrong_key() -> String {
    QUESTION.replace("'2*{{n}}'", "'3*{{n}}'")
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_corrected_key_changes_scores_both_ways_and_tells_the_students(pool: PgPool) {
    let wrong = wrong_key();
    let id = world_with(&pool, homework(), &[&wrong]).await;
    let client = client!(pool);
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    for (name, factor) in [("ada", 2), ("cy", 3)] {
        let who = client.sign_in(name).await;
        client.send("POST", &path("/open"), Some(&who), None).await;
        let (_, board) = client.send("GET", &path("/board"), Some(&who), None).await;
        let entry = (factor * number_in(&board)).to_string();
        client
            .send("POST", &path("/check"), Some(&who), Some(check(&entry)))
            .await;
        client.send("POST", &path("/hand-in"), Some(&who), None).await;
    }
    assert!(
        regrade(&School::new(pool.clone()), "doubled")
            .await
            .unwrap()
            .changed
            == 0,
        "nothing has changed yet"
    );
    put_question(&pool, QUESTION).await;
    let done = regrade(&School::new(pool.clone()), "doubled").await.unwrap();
    assert_eq!((done.works, done.changed), (2, 2));
    for (name, before, after) in [("ada", 0.0, 50.0), ("cy", 50.0, 0.0)] {
        let who = client.sign_in(name).await;
        let (_, result) = client.send("GET", &path("/result"), Some(&who), None).await;
        assert_eq!(result["recorded"]["percent"], after, "{name}");
        assert_eq!(
            result["hand_ins"][0]["score_then"]["percent"], before,
            "the old score is kept"
        );
        assert!(
            result["questions"][0]["why"]
                .to_string()
                .contains("was corrected")
        );
        let (_, week) = client.send("GET", "/api/week", Some(&who), None).await;
        let words = week["notices"][0]["words"].as_str().unwrap();
        assert!(
            words.contains(&format!("from {before} % to {after} %")),
            "{words}"
        );
    }
    // Run again, as after being cut off: nothing more happens.
    assert_eq!(
        regrade(&School::new(pool.clone()), "doubled")
            .await
            .unwrap()
            .changed,
        0
    );
    let ada = client.sign_in("ada").await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    assert_eq!(board["questions"][0]["parts"][0]["right"], true);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_correction_that_would_change_the_numbers_is_refused(pool: PgPool) {
    let wrong = wrong_key();
    world_with(&pool, homework(), &[&wrong]).await;
    put_question(&pool, &QUESTION.replace("from: 100", "from: 101")).await;
    let why = regrade(&School::new(pool.clone()), "doubled").await.unwrap_err();
    assert!(why.to_string().contains("its numbers changed"), "{why}");
    put_question(
        &pool,
        &QUESTION.replace("{id: rotor, text: odd}", "{id: hub, text: odd}"),
    )
    .await;
    let why = regrade(&School::new(pool.clone()), "doubled").await.unwrap_err();
    assert!(why.to_string().contains("its parts or choices changed"), "{why}");
    let why = regrade(&School::new(pool.clone()), "nowhere").await.unwrap_err();
    assert!(why.to_string().contains("there is no question"), "{why}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn students_without_a_response_are_not_told(pool: PgPool) {
    let wrong = wrong_key();
    let id = world_with(&pool, homework(), &[&wrong]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    put_question(&pool, QUESTION).await;
    assert_eq!(
        regrade(&School::new(pool.clone()), "doubled")
            .await
            .unwrap()
            .changed,
        0
    );
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["notices"], json!([]));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_corrected_key_marks_practice_anew_and_mastery_with_it(pool: PgPool) {
    let wrong = crate::client::DOUBLED.replace("'2*{{n}}'", "'3*{{n}}'");
    world_with(&pool, homework(), &[]).await;
    put_question(&pool, &wrong).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let start = json!({"skills": ["fractions"], "right": 3});
    let (_, run) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let path = |tail: &str| format!("/api/practice/{}{tail}", run["id"].as_str().unwrap());
    let (_, shown) = client.send("GET", &path(""), Some(&ada), None).await;
    let entry = (2 * number_in(&json!({"questions": [shown["question"]]}))).to_string();
    let answer = json!({"parts": [{"id": "a", "response": entry}]});
    let (_, checked) = client
        .send("POST", &path("/check"), Some(&ada), Some(answer))
        .await;
    assert_eq!(checked["right_now"], false);
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(book["open"], 1);

    put_question(&pool, crate::client::DOUBLED).await;
    let done = regrade(&School::new(pool.clone()), "doubled").await.unwrap();
    assert_eq!(done.runs_changed, 1);
    let (_, run) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        (&run["right_now"], &run["goal"]["lines"][0]["right"]),
        (&json!(true), &json!(1))
    );
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    assert_eq!(skills["skills"][0]["evidence"][0]["right"], true);
    let (_, book) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(book["open"], 0, "it was no slip");
    assert_eq!(
        regrade(&School::new(pool.clone()), "doubled")
            .await
            .unwrap()
            .runs_changed,
        0
    );
}
