//! Asking the teacher, querying a mark, and replies to wrong entries.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::classes::teachers;
use crate::client::{DOUBLED, check, client, homework, quiz, world_with};

/// Everybody has the same numbers, and its key is wrong: half of it is taken for right.
const FIXED: &str = "
id: fixed
title: Fixed
points: 4
few_answers: true
text: 'Half of 3?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '3'}}]
";

/// Tor's class with Ada and Cy, who have opened the one assignment.
macro_rules! class_at_work {
    ($pool:expr, $settings:expr, $question:expr) => {{
        let id = world_with(&$pool, $settings, &[$question]).await;
        teachers(&$pool).await;
        let client = client!($pool);
        let (tor, ada, cy) = (
            client.sign_in("tor").await,
            client.sign_in("ada").await,
            client.sign_in("cy").await,
        );
        for who in [&ada, &cy] {
            client
                .send("POST", &format!("/api/assignments/{id}/open"), Some(who), None)
                .await;
        }
        (client, tor, ada, cy, id)
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_question_is_asked_answered_and_counted(pool: PgPool) {
    let (client, tor, ada, cy, id) = class_at_work!(pool, homework(), DOUBLED);
    let una = client.sign_in("una").await;
    let path = format!("/api/assignments/{id}/threads");
    let asking = |body: &str| json!({"question": 0, "for_class": true, "body": body});
    for (bad, status) in [
        (asking(" "), StatusCode::BAD_REQUEST),
        (json!({"question": 7, "body": "?"}), StatusCode::NOT_FOUND),
        (
            json!({"question": 0, "query": true, "body": "?"}),
            StatusCode::BAD_REQUEST,
        ),
    ] {
        assert_eq!(client.send("POST", &path, Some(&ada), Some(bad)).await.0, status);
    }
    client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check("7")),
        )
        .await;
    let (_, made) = client
        .send("POST", &path, Some(&ada), Some(asking("Why not 7?")))
        .await;
    let thread = format!("/api/threads/{}", made["id"].as_str().unwrap());
    let unread = async |who| client.send("GET", "/api/me", Some(who), None).await.1["unread"].clone();
    assert_eq!(
        (unread(&tor).await, unread(&ada).await, unread(&cy).await),
        (json!(1), json!(0), json!(0))
    );
    // The class reads the words, and nothing of hers: no name, number, entry or verdict.
    let (_, seen) = client.send("GET", &thread, Some(&cy), None).await;
    assert_eq!(
        (&seen["text"], &seen["given"], &seen["head"]["student"]),
        (&json!([]), &json!([]), &Value::Null)
    );
    assert_eq!(
        (&seen["messages"][0]["by"], &seen["messages"][0]["body"]),
        (&json!("A student"), &json!("Why not 7?"))
    );
    assert!(!seen.to_string().contains("Ada"), "{seen}");
    let answer = |body: &str| Some(json!({"body": body}));
    let messages = format!("{thread}/messages");
    assert_eq!(
        client
            .send("POST", &messages, Some(&cy), answer("Me too"))
            .await
            .0,
        StatusCode::NOT_FOUND
    );
    for who in [&una, &client.sign_in("bo").await] {
        assert_eq!(
            client.send("GET", &thread, Some(who), None).await.0,
            StatusCode::NOT_FOUND
        );
    }
    // A message can be taken back until it was read.
    let (_, second) = client
        .send("POST", &messages, Some(&ada), answer("Never mind"))
        .await;
    let (first_id, second_id) = (
        second["messages"][0]["id"].as_str().unwrap().to_owned(),
        second["messages"][1]["id"].as_str().unwrap().to_owned(),
    );
    let back = |message: &str| format!("{messages}/{message}");
    assert_eq!(
        client.send("DELETE", &back(&second_id), Some(&tor), None).await.0,
        StatusCode::BAD_REQUEST
    );
    assert_eq!(
        client.send("DELETE", &back(&second_id), Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let (_, shown) = client.send("GET", &thread, Some(&tor), None).await;
    assert_eq!(shown["given"][0]["verdict"]["response"], "7", "{shown}");
    assert_eq!(
        (&shown["messages"][1]["taken_back"], &shown["messages"][1]["body"]),
        (&json!(true), &json!(""))
    );
    assert_eq!(unread(&tor).await, 0);
    assert_eq!(
        client.send("DELETE", &back(&first_id), Some(&ada), None).await.0,
        StatusCode::BAD_REQUEST
    );
    client
        .send("POST", &messages, Some(&tor), answer("Read it again."))
        .await;
    assert_eq!(unread(&ada).await, 1);
    client.send("GET", &thread, Some(&ada), None).await;
    assert_eq!(unread(&ada).await, 0);
    // Where the class is not to read what is asked, it does not.
    let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
    let class = format!("/api/classes/{}", all["classes"][0]["id"].as_str().unwrap());
    for (sees, status) in [(false, StatusCode::NOT_FOUND), (true, StatusCode::OK)] {
        let settings = json!({"title": "Site Practice", "time_zone": "Etc/UTC", "class_sees_messages": sees});
        client.send("PUT", &class, Some(&tor), Some(settings)).await;
        assert_eq!(client.send("GET", &thread, Some(&cy), None).await.0, status);
    }
    // The teacher can hide it from the class; a student cannot.
    let hide = Some(json!({"hidden": true}));
    assert_eq!(
        client.send("PUT", &thread, Some(&ada), hide.clone()).await.0,
        StatusCode::NOT_FOUND
    );
    client.send("PUT", &thread, Some(&tor), hide).await;
    assert_eq!(
        client.send("GET", &thread, Some(&cy), None).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        client.send("GET", &thread, Some(&ada), None).await.0,
        StatusCode::OK
    );
    let settle = Some(json!({"settle": "stands"}));
    assert_eq!(
        client.send("PUT", &thread, Some(&tor), settle).await.0,
        StatusCode::BAD_REQUEST
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_asked_about_a_quiz_stays_with_the_teacher_and_tells_nothing(pool: PgPool) {
    let (client, tor, ada, cy, id) = class_at_work!(pool, quiz(), DOUBLED);
    let asked = json!({"question": 0, "for_class": true, "body": "Is this a typing error?"});
    let path = format!("/api/assignments/{id}/threads");
    let (_, made) = client.send("POST", &path, Some(&ada), Some(asked)).await;
    let thread = format!("/api/threads/{}", made["id"].as_str().unwrap());
    assert_eq!(
        client.send("GET", &thread, Some(&cy), None).await.0,
        StatusCode::NOT_FOUND
    );
    let (_, mine) = client.send("GET", &thread, Some(&ada), None).await;
    assert_eq!(
        (&mine["given"], &mine["doubt"]),
        (&json!([]), &Value::Null),
        "{mine}"
    );
    assert_eq!(
        client.send("GET", &thread, Some(&tor), None).await.0,
        StatusCode::OK
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_query_shows_what_accepting_would_do_and_then_does_it(pool: PgPool) {
    let (client, tor, ada, cy, id) = class_at_work!(pool, homework(), FIXED);
    for (who, entry) in [(&ada, "3/2"), (&cy, "1.5")] {
        let (_, said) = client
            .send(
                "POST",
                &format!("/api/assignments/{id}/check"),
                Some(who),
                Some(check(entry)),
            )
            .await;
        assert_eq!(said["question"]["parts"][0]["verdict"]["outcome"], "not_yet");
        client
            .send("POST", &format!("/api/assignments/{id}/hand-in"), Some(who), None)
            .await;
    }
    let query = |body: &str| json!({"question": 0, "query": true, "for_class": true, "body": body});
    let path = format!("/api/assignments/{id}/threads");
    let (_, made) = client
        .send("POST", &path, Some(&ada), Some(query("Half of 3 is 3/2")))
        .await;
    let thread = format!("/api/threads/{}", made["id"].as_str().unwrap());
    assert_eq!(
        client.send("GET", &thread, Some(&cy), None).await.0,
        StatusCode::NOT_FOUND,
        "a query is between two"
    );
    let (_, mine) = client.send("GET", &thread, Some(&ada), None).await;
    assert_eq!(mine["doubt"], Value::Null, "the key is the teacher's");
    let (_, seen) = client.send("GET", &thread, Some(&tor), None).await;
    let doubt = &seen["doubt"];
    assert!(
        doubt["decided"][0].as_str().unwrap().contains("proved different"),
        "{doubt}"
    );
    assert_eq!(
        doubt["for_all"],
        json!([{"student": "Ada Quill", "before": 0.0, "after": 100.0}, {"student": "Cy Fenn", "before": 0.0, "after": 100.0}])
    );
    assert_eq!(doubt["for_student"].as_array().unwrap().len(), 1);
    let recorded = async |who| {
        let (_, result) = client
            .send("GET", &format!("/api/assignments/{id}/result"), Some(who), None)
            .await;
        result["recorded"]["percent"].clone()
    };
    assert_eq!(
        (recorded(&ada).await, recorded(&cy).await),
        (json!(0.0), json!(0.0)),
        "looking changes nothing"
    );
    let settle =
        |how: &str| Some(json!({"settle": how, "word": "You are right; I had it the wrong way round."}));
    let (_, settled) = client
        .send("PUT", &thread, Some(&tor), settle("accept_for_student"))
        .await;
    assert_eq!(settled["head"]["settled"], "accepted", "{settled}");
    assert_eq!(
        (recorded(&ada).await, recorded(&cy).await),
        (json!(100.0), json!(0.0))
    );
    let (_, settled) = client
        .send("PUT", &thread, Some(&tor), settle("accept_for_all"))
        .await;
    assert_eq!(settled["head"]["settled"], "accepted_for_all");
    assert_eq!(
        (recorded(&ada).await, recorded(&cy).await),
        (json!(100.0), json!(100.0))
    );
    for who in [&ada, &cy] {
        let (_, week) = client.send("GET", "/api/week", Some(who), None).await;
        assert!(
            week["notices"].to_string().contains("from 0 % to 100 %"),
            "{}",
            week["notices"]
        );
    }
    let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
    let class = all["classes"][0]["id"].as_str().unwrap();
    let (_, acts) = client
        .send("GET", &format!("/api/classes/{class}/acts"), Some(&tor), None)
        .await;
    let of: Vec<(&Value, &Value)> = acts["acts"]
        .as_array()
        .unwrap()
        .iter()
        .map(|a| (&a["did"], &a["student"]))
        .collect();
    assert_eq!(of.len(), 2, "{acts}");
    assert!(
        acts["acts"][0]["why"]
            .as_str()
            .unwrap()
            .starts_with("You are right")
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn wrong_entries_are_grouped_and_the_next_who_slips_so_gets_the_reply(pool: PgPool) {
    let (client, tor, ada, cy, id) = class_at_work!(pool, homework(), FIXED);
    let send_check = async |who, entry: &str| {
        let path = format!("/api/assignments/{id}/check");
        client.send("POST", &path, Some(who), Some(check(entry))).await.1
    };
    send_check(&ada, "5").await;
    send_check(&ada, "3/2").await;
    send_check(&ada, "3").await;
    let (_, all) = client.send("GET", "/api/classes", Some(&tor), None).await;
    let class = all["classes"][0]["id"].as_str().unwrap();
    let path = format!("/api/classes/{class}/assignments/{id}");
    let went = async || {
        client
            .send("GET", &format!("{path}/went"), Some(&tor), None)
            .await
            .1
    };
    let shown = went().await;
    let question = &shown["questions"][0];
    assert_eq!(
        (
            &question["tried"],
            &question["right_first"],
            &question["right_in_the_end"],
            &question["checks"]
        ),
        (&json!(1), &json!(0), &json!(1), &json!(3)),
        "{question}"
    );
    let groups = question["parts"][0]["groups"].as_array().unwrap();
    let half = groups
        .iter()
        .find(|g| g["common"] == "half the right answer")
        .unwrap();
    assert_eq!(
        (&half["students"], &half["entries"]),
        (&json!(["Ada Quill"]), &json!(1))
    );
    let reply = json!({"part": "a", "like": half["like"], "words": "You halved once too often."});
    let write = format!("{path}/questions/0/reply");
    for who in [&ada, &client.sign_in("una").await] {
        assert_eq!(
            client.send("PUT", &write, Some(who), Some(reply.clone())).await.0,
            StatusCode::NOT_FOUND
        );
    }
    for (field, bad) in [("part", json!("z")), ("words", json!("x".repeat(601)))] {
        let mut wrong = reply.clone();
        wrong[field] = bad;
        assert!(
            client
                .send("PUT", &write, Some(&tor), Some(wrong))
                .await
                .0
                .is_client_error()
        );
    }
    assert_eq!(
        client
            .send("PUT", &write, Some(&tor), Some(reply.clone()))
            .await
            .0,
        StatusCode::NO_CONTENT
    );
    // Cy gives the same in other words, and gets it; another slip does not.
    let said = send_check(&cy, "1.50").await;
    assert!(
        said["question"]["parts"][0]["verdict"]["reply"]
            .to_string()
            .contains("halved once too often"),
        "{said}"
    );
    let said = send_check(&cy, "7").await;
    assert_eq!(said["question"]["parts"][0]["verdict"]["reply"], json!([]));
    let shown = went().await;
    let groups = shown["questions"][0]["parts"][0]["groups"].as_array().unwrap();
    assert_eq!(
        (&groups[0]["entries"], &groups[0]["reply"]),
        (&json!(2), &json!("You halved once too often."))
    );
    // Without words it is taken away.
    let mut none = reply;
    none["words"] = json!("");
    client.send("PUT", &write, Some(&tor), Some(none)).await;
    assert_eq!(went().await["questions"][0]["parts"][0]["groups"][0]["reply"], "");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn those_who_slipped_alike_are_written_to_each_in_a_thread_of_their_own(pool: PgPool) {
    let (client, tor, ada, cy, id) = class_at_work!(pool, homework(), FIXED);
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let path = format!("/api/classes/{class}/assignments/{id}");
    for (who, entry) in [(&ada, "6"), (&cy, "12/2")] {
        client
            .send(
                "POST",
                &format!("/api/assignments/{id}/check"),
                Some(who),
                Some(check(entry)),
            )
            .await;
    }
    // Signs of life name the question one is at.
    let here = |question: &str| format!("/api/assignments/{id}/here{question}");
    for question in ["?question=0", "?question=100", "", "?question=0"] {
        let (status, _) = client.send("POST", &here(question), Some(&ada), None).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
    }
    let back = "update works set active_at = active_at - interval '70 seconds'";
    sqlx::query(back).execute(&pool).await.unwrap();
    client.send("POST", &here("?question=0"), Some(&ada), None).await;
    let (_, went) = client
        .send("GET", &format!("{path}/went"), Some(&tor), None)
        .await;
    let question = &went["questions"][0];
    let spent = question["seconds"].as_i64().unwrap();
    assert!((70..80).contains(&spent), "{spent}");
    let group = &question["parts"][0]["groups"][0];
    assert_eq!(group["students"], json!(["Ada Quill", "Cy Fenn"]));
    let to = group["people"].clone();

    let message = format!("{path}/questions/0/message");
    for (bad, status) in [
        (
            json!({"students": [], "words": "Half, not twice."}),
            StatusCode::BAD_REQUEST,
        ),
        (
            json!({"students": [id], "words": "Half, not twice."}),
            StatusCode::BAD_REQUEST,
        ),
        (json!({"students": to, "words": " "}), StatusCode::BAD_REQUEST),
    ] {
        assert_eq!(
            client.send("POST", &message, Some(&tor), Some(bad)).await.0,
            status
        );
    }
    let good = json!({"students": to, "words": "Half, not twice."});
    let elsewhere = message.replace("questions/0", "questions/7");
    let (status, _) = client
        .send("POST", &elsewhere, Some(&tor), Some(good.clone()))
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, sent) = client.send("POST", &message, Some(&tor), Some(good)).await;
    assert_eq!(sent["sent"], 2);
    for who in [&ada, &cy] {
        let (_, me) = client.send("GET", "/api/me", Some(who), None).await;
        assert_eq!(me["unread"], 1);
        let (_, threads) = client.send("GET", "/api/threads", Some(who), None).await;
        assert_eq!(threads["threads"].as_array().unwrap().len(), 1, "one's own alone");
        let thread = format!("/api/threads/{}", threads["threads"][0]["id"].as_str().unwrap());
        let (_, shown) = client.send("GET", &thread, Some(who), None).await;
        assert_eq!(
            (&shown["messages"][0]["body"], &shown["messages"][0]["by_teacher"]),
            (&json!("Half, not twice."), &json!(true))
        );
    }
    // How the question went before stands in the bank, for those who teach these classes.
    let una = client.sign_in("una").await;
    let before = async |who| {
        client
            .send("GET", "/api/bank/fixed/went", Some(who), None)
            .await
            .1
    };
    assert_eq!(
        (&before(&tor).await["tried"], &before(&tor).await["right_first"]),
        (&json!(2), &json!(0))
    );
    assert_eq!(before(&una).await["tried"], 0);
    let (status, _) = client
        .send("GET", "/api/bank/nothing/went", Some(&tor), None)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}
