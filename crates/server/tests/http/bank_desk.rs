//! The bank in the browser: texts, what is wrong with them, versions, and corrections that are seen before they are made.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::classes::teachers;
use crate::client::{check, client, homework, number_in, put_question, world_with};

/// Its key is wrong: it asks for twice the number, and three times is taken for right.
const WRONG: &str = "
id: doubled
title: Doubled
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 900}}
text: 'Twice {{n}}?'
# A remark of the author's.
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '3*{{n}}'}}]
";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_text_is_tried_checked_and_kept_as_the_newest_version(pool: PgPool) {
    let id = world_with(&pool, homework(), &[WRONG]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (tor, ada) = (client.sign_in("tor").await, client.sign_in("ada").await);
    let (_, shown) = client
        .send("GET", "/api/bank/doubled/text", Some(&tor), None)
        .await;
    let written = shown["text"].as_str().unwrap();
    assert!(
        written.contains("3*{{n}}"),
        "a version that came without its text is written out: {written}"
    );
    assert_eq!(shown["versions"][0]["uses"], json!(["Doubling (Site Practice)"]));
    let text = WRONG.trim_start().to_owned();
    let tried = async |text: &str, entry: &str| {
        let body = json!({"text": text, "seed": 4, "parts": [{"id": "a", "response": entry}]});
        client
            .send("POST", "/api/bank/try", Some(&tor), Some(body))
            .await
            .1
    };
    let said = tried(&text, "7").await;
    assert_eq!(
        said["shown"]["question"]["parts"][0]["verdict"]["outcome"], "not_yet",
        "{said}"
    );
    let said = tried(&text.replace("points: 1", "points: one"), "7").await;
    assert_eq!(
        (&said["shown"], &said["faults"][0]["line"]),
        (&Value::Null, &json!(4))
    );
    let read = json!({"text": text, "part": "a", "entry": "1/2"});
    let (_, reads) = client
        .send("POST", "/api/bank/try/read", Some(&tor), Some(read))
        .await;
    assert!(reads.to_string().contains("frac"), "{reads}");
    let save = async |text: &str| {
        let body = Some(json!({"text": text}));
        client.send("PUT", "/api/bank", Some(&tor), body).await.1
    };
    // A key that its numbers break is found by drawing sets.
    let broken = text.replace("3*{{n}}", "3*{{m}}");
    let said = save(&broken).await;
    assert_eq!(
        (&said["id"], said["faults"].as_array().unwrap().is_empty()),
        (&json!(""), false),
        "{said}"
    );
    let (_, still) = client
        .send("GET", "/api/bank/doubled/text", Some(&tor), None)
        .await;
    assert_eq!(still["versions"].as_array().unwrap().len(), 1, "nothing was kept");
    let fixed = text.replace("3*{{n}}", "2*{{n}}");
    let said = save(&fixed).await;
    assert_eq!(
        (&said["id"], &said["is_new"]),
        (&json!("doubled"), &json!(true)),
        "{said}"
    );
    let (_, now) = client
        .send("GET", "/api/bank/doubled/text", Some(&tor), None)
        .await;
    assert_eq!(now["text"], fixed, "as it was written, with its remark");
    assert_eq!(now["versions"][0]["by"], "tor Vane");
    assert_eq!(
        (&now["versions"][0]["uses"], &now["versions"][1]["uses"][0]),
        (&json!([]), &json!("Doubling (Site Practice)"))
    );
    // What is in use stays as it was.
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    let (_, board) = client
        .send("GET", &format!("/api/assignments/{id}/board"), Some(&ada), None)
        .await;
    let three = (3 * number_in(&board)).to_string();
    let (_, said) = client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check(&three)),
        )
        .await;
    assert_eq!(said["question"]["parts"][0]["verdict"]["outcome"], "right");
    let (_, starters) = client.send("GET", "/api/bank/starters", Some(&tor), None).await;
    assert_eq!(starters["starters"][0]["kind"], "text_entry");
    assert!(
        starters["starters"][0]["text"]
            .as_str()
            .unwrap()
            .contains("id: a-new-question")
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_correction_says_whose_scores_change_before_it_is_made(pool: PgPool) {
    let id = world_with(&pool, homework(), &[WRONG]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (tor, una) = (client.sign_in("tor").await, client.sign_in("una").await);
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
    let correction = "/api/bank/doubled/correction";
    let plan = async |who| client.send("GET", correction, Some(who), None).await.1;
    assert_eq!(plan(&tor).await["assignments"], json!([]), "nothing is newer yet");
    // With other numbers the old answers mean nothing: it is said, and nothing happens.
    put_question(&pool, &WRONG.replace("from: 100", "from: 101")).await;
    let (status, said) = client.send("GET", correction, Some(&tor), None).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(
        said["detail"].as_str().unwrap().contains("numbers changed"),
        "{said}"
    );
    put_question(&pool, &WRONG.replace("3*{{n}}", "2*{{n}}")).await;
    let seen = plan(&tor).await;
    assert_eq!(seen["assignments"], json!(["Doubling (Site Practice)"]));
    assert_eq!(
        seen["changes"],
        json!([{"student": "Ada Quill", "assignment": "Doubling", "before": 0.0, "after": 100.0},
            {"student": "Cy Fenn", "assignment": "Doubling", "before": 100.0, "after": 0.0}])
    );
    assert_eq!(
        plan(&una).await["changes"],
        json!([]),
        "another teacher's scores are not hers"
    );
    let make = |why: &str| Some(json!({"why": why}));
    assert_eq!(
        client.send("POST", correction, Some(&tor), make(" ")).await.0,
        StatusCode::BAD_REQUEST
    );
    let (_, done) = client
        .send("POST", correction, Some(&una), make("Mine now"))
        .await;
    assert_eq!(done["changed"], 0);
    let (_, done) = client
        .send("POST", correction, Some(&tor), make("Twice, not three times"))
        .await;
    assert_eq!(done["changed"], 2);
    for (name, after) in [("ada", 100.0), ("cy", 0.0)] {
        let who = client.sign_in(name).await;
        let (_, result) = client.send("GET", &path("/result"), Some(&who), None).await;
        assert_eq!(result["recorded"]["percent"], after, "{name}");
    }
    assert_eq!(plan(&tor).await["assignments"], json!([]));
    let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
    let class = all["classes"][0]["id"].as_str().unwrap();
    let (_, acts) = client
        .send("GET", &format!("/api/classes/{class}/acts"), Some(&tor), None)
        .await;
    let corrected = acts["acts"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|a| a["did"] == "corrected a question");
    assert_eq!(corrected.count(), 2);
    assert_eq!(acts["acts"][0]["why"], "Twice, not three times");
}
