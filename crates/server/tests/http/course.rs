//! Units: who arranges them, what students find in them, and an order that is asked for.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use uuid::Uuid;

use crate::classes::teachers;
use crate::client::{DOUBLED, client, homework, put_question, world_with};

const CALL: &str = "
id: call
title: The call
skills: [lifting]
points: 1
sounds:
  call: {file: radio-call.mp3, title: A call, transcript: 'Crane two, over.'}
  drawn: {file: radio-call.mp3, title: 'Call {{n}}', transcript: 'Over.'}
numbers: {n: {from: 1, to: 90}}
text: '![](call) ![](drawn)'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '{{n}}'}}]
";

fn unit(title: &str, order: &str, items: &[Value]) -> Value {
    let item = |i: &Value| {
        let mut item = i.clone();
        item["id"] = json!(Uuid::now_v7());
        item
    };
    let items: Vec<Value> = items.iter().map(item).collect();
    json!({"id": Uuid::now_v7(), "title": title, "about": "", "order": order, "items": items})
}

/// Tor's class with a page, a recording and the one assignment in one unit, in this order.
macro_rules! course {
    ($pool:expr, $order:expr) => {{
        let id = world_with(&$pool, homework(), &[DOUBLED]).await;
        put_question(&$pool, CALL).await;
        teachers(&$pool).await;
        let client = client!($pool);
        let tor = client.sign_in("tor").await;
        let class = store::put_class(&$pool, "Site Practice").await.unwrap();
        let path = format!("/api/classes/{class}/units");
        let items = [
            json!({"kind": "page", "skill": "fractions"}),
            json!({"kind": "recording", "question": "call", "sound": "call"}),
            json!({"kind": "assignment", "assignment": id}),
        ];
        let units = json!({"version": 0, "units": [unit("Parts", $order, &items)]});
        let (status, saved) = client.send("PUT", &path, Some(&tor), Some(units)).await;
        assert_eq!(status, StatusCode::OK, "{saved}");
        (client, tor, class, id, saved)
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_order_that_is_asked_for_holds_back_until_what_is_first_is_done(pool: PgPool) {
    let (client, _tor, class, id, saved) = course!(pool, "asked");
    let ada = client.sign_in("ada").await;
    let page = format!("/api/class/{class}");
    let open = format!("/api/assignments/{id}/open");
    let (_, shown) = client.send("GET", &page, Some(&ada), None).await;
    assert_eq!(shown["teachers"], json!(["tor Vane"]));
    let unit = &shown["units"][0];
    assert_eq!((&unit["next"], &unit["done"]), (&json!(0), &json!(0)));
    let firsts: Vec<&Value> = unit["items"]
        .as_array()
        .unwrap()
        .iter()
        .map(|i| &i["first"])
        .collect();
    assert_eq!(firsts, [&Value::Null, &json!("Fractions"), &json!("Fractions")]);
    let (status, said) = client.send("POST", &open, Some(&ada), None).await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("something_first"))
    );
    let (_, cover) = client
        .send("GET", &format!("/api/assignments/{id}"), Some(&ada), None)
        .await;
    assert_eq!(
        (&cover["first"], &cover["class_id"]),
        (&json!("Fractions"), &json!(class))
    );

    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    let entry = &week["assignments"][0];
    assert_eq!(
        (&entry["action"], &entry["first"], &entry["class_id"]),
        (&json!("first"), &json!("Fractions"), &json!(class))
    );
    assert_eq!(
        (&week["next"]["action"], &week["next"]["first"]),
        (&json!("first"), &json!("Fractions"))
    );

    let place = json!({"step": 0, "read": true});
    client
        .send("PUT", "/api/pages/fractions/place", Some(&ada), Some(place))
        .await;
    let (_, cover) = client
        .send("GET", &format!("/api/assignments/{id}"), Some(&ada), None)
        .await;
    assert_eq!(cover["first"], "A call", "then the recording");
    let item = saved["units"][0]["items"][1]["id"].as_str().unwrap();
    let (status, _) = client
        .send("POST", &format!("{page}/heard/{item}"), Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (status, said) = client.send("POST", &open, Some(&ada), None).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{said}");
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    let entry = &week["assignments"][0];
    assert_eq!(
        (&entry["action"], &entry["first"]),
        (&json!("carry_on"), &Value::Null)
    );
    let (_, shown) = client.send("GET", &page, Some(&ada), None).await;
    let unit = &shown["units"][0];
    assert_eq!((&unit["next"], &unit["done"]), (&json!(2), &json!(2)));
    assert_eq!(unit["items"][2]["standing"], "begun");
    let what = &unit["items"][2]["what"]["work"];
    assert_eq!(
        (&what["weight"], &what["state"]),
        (&json!(100.0), &json!("under_way"))
    );

    // What is no recording of the class is not heard.
    let page_item = saved["units"][0]["items"][0]["id"].as_str().unwrap();
    for wrong in [page_item, &Uuid::nil().to_string()] {
        let (status, _) = client
            .send("POST", &format!("{page}/heard/{wrong}"), Some(&ada), None)
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND);
    }
    // Nobody else's class is shown, and a teacher has no student's page.
    for (name, status) in [
        ("bo", StatusCode::NOT_FOUND),
        ("tor", StatusCode::NOT_FOUND),
        ("cy", StatusCode::OK),
    ] {
        let who = client.sign_in(name).await;
        assert_eq!(
            client.send("GET", &page, Some(&who), None).await.0,
            status,
            "{name}"
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_gone_from_the_bank_holds_nothing_back(pool: PgPool) {
    let (client, _tor, class, id, _saved) = course!(pool, "asked");
    let ada = client.sign_in("ada").await;
    let place = json!({"step": 0, "read": true});
    client
        .send("PUT", "/api/pages/fractions/place", Some(&ada), Some(place))
        .await;
    let open = format!("/api/assignments/{id}/open");
    let (status, said) = client.send("POST", &open, Some(&ada), None).await;
    assert_eq!(
        (status, &said["code"]),
        (StatusCode::CONFLICT, &json!("something_first"))
    );

    // The question has a new version, without the recording that was asked for.
    let silent = CALL
        .lines()
        .filter(|l| !l.contains("radio-call.mp3") && *l != "sounds:");
    let silent: String = silent.map(|l| format!("{l}\n")).collect();
    put_question(&pool, &silent.replace("![](call) ![](drawn)", "How many?")).await;
    let (_, page) = client
        .send("GET", &format!("/api/class/{class}"), Some(&ada), None)
        .await;
    let unit = &page["units"][0];
    assert_eq!(unit["items"].as_array().unwrap().len(), 2, "{unit}");
    let (_, week) = client.send("GET", "/api/week", Some(&ada), None).await;
    assert_eq!(week["assignments"][0]["action"], "open");
    let (status, said) = client.send("POST", &open, Some(&ada), None).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{said}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_was_begun_stays_open_and_advice_holds_nothing_back(pool: PgPool) {
    let (client, tor, class, id, saved) = course!(pool, "advised");
    let ada = client.sign_in("ada").await;
    let open = format!("/api/assignments/{id}/open");
    assert_eq!(
        client.send("POST", &open, Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let mut stricter = saved.clone();
    stricter["units"][0]["order"] = json!("asked");
    let path = format!("/api/classes/{class}/units");
    let (_, again) = client
        .send("PUT", &path, Some(&tor), Some(stricter.clone()))
        .await;
    assert_eq!(again["version"], 2);
    assert_eq!(
        client.send("POST", &open, Some(&ada), None).await.0,
        StatusCode::NO_CONTENT
    );
    let cy = client.sign_in("cy").await;
    assert_eq!(
        client.send("POST", &open, Some(&cy), None).await.0,
        StatusCode::CONFLICT
    );
    // Who looks at it as a student is held back by nothing, and by no page of their own.
    client
        .send(
            "POST",
            &format!("/api/classes/{class}/as-student"),
            Some(&tor),
            None,
        )
        .await;
    assert_eq!(
        client.send("POST", &open, Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    client.send("DELETE", "/api/as-student", Some(&tor), None).await;

    // Somebody who saves on what they read before is told; nothing of the other's is lost.
    let (status, _) = client.send("PUT", &path, Some(&tor), Some(stricter)).await;
    assert_eq!(status, StatusCode::CONFLICT);
    let (_, acts) = client
        .send("GET", &format!("/api/classes/{class}/acts"), Some(&tor), None)
        .await;
    let did: Vec<&Value> = acts["acts"]
        .as_array()
        .unwrap()
        .iter()
        .map(|a| &a["did"])
        .collect();
    assert_eq!(did.iter().filter(|d| **d == "changed the units").count(), 2);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn units_that_do_not_fit_are_refused_with_what_is_wrong(pool: PgPool) {
    let (client, tor, class, id, saved) = course!(pool, "free");
    let path = format!("/api/classes/{class}/units");
    let assignment = json!({"kind": "assignment", "assignment": id});
    let cases = [
        (unit("", "free", &[]), "Unit 1 needs a title"),
        (
            unit("A", "free", &[json!({"kind": "page"})]),
            "does not say what it is",
        ),
        (
            unit("A", "free", &[json!({"kind": "page", "skill": "juggling"})]),
            "is not there",
        ),
        (
            unit("A", "free", &[json!({"kind": "practice", "skill": "juggling"})]),
            "is not there",
        ),
        (
            unit(
                "A",
                "free",
                &[json!({"kind": "recording", "question": "call", "sound": "drawn"})],
            ),
            "is not there",
        ),
        (
            unit(
                "A",
                "free",
                &[json!({"kind": "assignment", "assignment": Uuid::nil()})],
            ),
            "is not there",
        ),
        (
            unit("A", "free", &[assignment.clone(), assignment]),
            "stands twice",
        ),
    ];
    for (bad, words) in cases {
        let body = json!({"version": 1, "units": [bad]});
        let (status, said) = client.send("PUT", &path, Some(&tor), Some(body)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(said["detail"].as_str().unwrap().contains(words), "{said}");
    }
    let (_, stands) = client.send("GET", &path, Some(&tor), None).await;
    assert_eq!(stands, saved, "nothing of it was saved");
    let (_, materials) = client
        .send(
            "GET",
            &format!("/api/classes/{class}/materials"),
            Some(&tor),
            None,
        )
        .await;
    assert_eq!(
        materials["recordings"].as_array().unwrap().len(),
        1,
        "one names no number of a set"
    );
    assert_eq!(materials["assignments"][0]["title"], "Doubling");
    assert!(materials["pages"].as_array().unwrap().len() > 20);

    // What is not given out is not there for a student, and holds nothing back.
    sqlx::query("update assignments set given_out = false")
        .execute(&pool)
        .await
        .unwrap();
    let ada = client.sign_in("ada").await;
    let (_, shown) = client
        .send("GET", &format!("/api/class/{class}"), Some(&ada), None)
        .await;
    assert_eq!(shown["units"][0]["items"].as_array().unwrap().len(), 2);
    assert_eq!(shown["others"], json!([]));
    let (_, mine) = client.send("GET", "/api/class", Some(&ada), None).await;
    assert_eq!(mine["classes"][0]["title"], "Site Practice");
}
