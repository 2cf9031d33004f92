//! Skills: evidence from first checks, none before release.

use coursework::Release;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{check, client, homework, number_in, opened, quiz};

const RATIOS: &str = "
id: doubled
title: Doubled
skills: [ratios, units]
points: 2
numbers: {n: {from: 100, to: 400}}
text: 'Twice {{n}}?'
parts:
  - {id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}
";

fn skill<'a>(view: &'a Value, id: &str) -> &'a Value {
    view["skills"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["id"] == id)
        .unwrap()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_first_check_is_evidence_and_later_tries_are_not(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[RATIOS]);
    let (_, before) = client.send("GET", "/api/skills", Some(&ada), None).await;
    assert_eq!(
        (
            &skill(&before, "ratios")["level"],
            &skill(&before, "ratios")["score"]
        ),
        (&json!("new"), &json!(0))
    );
    assert_eq!(skill(&before, "ratios")["missing"], json!(["Fractions"]));
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    for entry in ["7".to_owned(), (2 * number_in(&board)).to_string()] {
        client
            .send("POST", &path("/check"), Some(&ada), Some(check(&entry)))
            .await;
    }
    let (_, after) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let ratios = skill(&after, "ratios");
    assert_eq!(ratios["evidence"].as_array().unwrap().len(), 1);
    assert_eq!(
        (&ratios["evidence"][0]["right"], &ratios["level"]),
        (&json!(false), &json!("growing"))
    );
    assert_eq!(skill(&after, "units")["evidence"][0]["weaker"], true);
    assert!(ratios["next_right"].as_u64() > ratios["next_wrong"].as_u64());
    // The cover sheet shows the level now.
    let (_, cover) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(cover["skills"][0]["title"], "Ratios");
    assert_eq!(cover["skills"][0]["level"], "growing");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_score_does_not_tell_what_is_not_released(pool: PgPool) {
    let mut settings = quiz();
    settings.release = Release::AfterDue;
    let (client, ada, path) = opened!(pool, settings, &[RATIOS]);
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "7"});
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft))
        .await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, view) = client.send("GET", "/api/skills", Some(&ada), None).await;
    assert_eq!(skill(&view, "ratios")["evidence"], json!([]));
}
