//! Skills that are suggested until they are reached, and skills that are wished for.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::classes::{member, teachers};
use crate::client::{DOUBLED, client, homework, world_with};

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_suggestion_reaches_whom_it_is_for_until_they_have_reached_it(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (tor, ada, cy) = (
        client.sign_in("tor").await,
        client.sign_in("ada").await,
        client.sign_in("cy").await,
    );
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let path = format!("/api/classes/{class}/skills");
    let (_, people) = client
        .send("GET", &format!("/api/classes/{class}"), Some(&tor), None)
        .await;
    let cy_id = member(&people, "Cy Fenn")["id"].clone();
    for (bad, words) in [
        (json!({"skill": "juggling"}), "no such skill"),
        (json!({"skill": "ratios", "group": "blue"}), "Choose a group"),
        (json!({"skill": "ratios", "student": id}), "Choose a group"),
        (
            json!({"skill": "ratios", "group": "blue", "student": cy_id}),
            "to a group or to a student",
        ),
        (json!({"skill": "ratios", "why": "x".repeat(301)}), "too long"),
    ] {
        let (status, said) = client.send("POST", &path, Some(&tor), Some(bad)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(said["detail"].as_str().unwrap().contains(words), "{said}");
    }
    let whole = json!({"skill": "fractions", "why": "Shifts are shared in fractions."});
    for suggested in [whole.clone(), json!({"skill": "ratios", "student": cy_id})] {
        let (status, said) = client.send("POST", &path, Some(&tor), Some(suggested)).await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{said}");
    }
    let (status, _) = client.send("POST", &path, Some(&tor), Some(whole)).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "it is suggested already");

    let suggested = async |who| {
        let (_, shown) = client.send("GET", "/api/suggestions", Some(who), None).await;
        let all = shown["suggested"].as_array().unwrap().clone();
        all.iter()
            .map(|s| s["skill"]["id"].as_str().unwrap().to_owned())
            .collect::<Vec<_>>()
    };
    assert_eq!(suggested(&ada).await, ["fractions"]);
    assert_eq!(suggested(&cy).await, ["ratios", "fractions"]);
    let bo = client.sign_in("bo").await;
    assert!(suggested(&bo).await.is_empty(), "he is not in the class");

    // Ada practises until it is solid: it goes from her list, and the teacher sees it.
    let goal = json!({"skills": ["fractions"], "right": null});
    let (_, started) = client.send("POST", "/api/practice", Some(&ada), Some(goal)).await;
    let run = format!("/api/practice/{}", started["id"].as_str().unwrap());
    for _ in 0..40 {
        let (_, shown) = client.send("GET", &run, Some(&ada), None).await;
        let text = shown["question"]["text"].to_string();
        let n: i64 = text
            .chars()
            .filter(char::is_ascii_digit)
            .collect::<String>()
            .parse()
            .unwrap();
        let answer = json!({"parts": [{"id": "a", "response": (2 * n).to_string()}]});
        client
            .send("POST", &format!("{run}/check"), Some(&ada), Some(answer))
            .await;
        client
            .send("POST", &format!("{run}/next"), Some(&ada), None)
            .await;
        if suggested(&ada).await.is_empty() {
            break;
        }
    }
    assert!(suggested(&ada).await.is_empty(), "reached");
    let (_, shown) = client.send("GET", &path, Some(&tor), None).await;
    let fractions = &shown["suggested"].as_array().unwrap()[1];
    assert_eq!(
        (
            &fractions["reached"],
            fractions["students"].as_array().unwrap().len()
        ),
        (&json!(1), 2)
    );
    assert_eq!(shown["suggested"][0]["only"], "Cy Fenn");

    let back = format!("{path}/{}", fractions["id"].as_str().unwrap());
    let una = client.sign_in("una").await;
    assert_eq!(
        client.send("DELETE", &back, Some(&una), None).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        client.send("DELETE", &back, Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    assert_eq!(
        client.send("DELETE", &back, Some(&tor), None).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(suggested(&cy).await, ["ratios"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn teachers_see_by_how_many_a_skill_is_wished_for(pool: PgPool) {
    world_with(&pool, homework(), &[DOUBLED]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let tor = client.sign_in("tor").await;
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    for (name, skill) in [
        ("ada", "ratios"),
        ("cy", "ratios"),
        ("cy", "matrices"),
        ("bo", "lifting"),
    ] {
        let who = client.sign_in(name).await;
        // Said twice, it counts once.
        for _ in 0..2 {
            let (status, _) = client
                .send(
                    "PUT",
                    &format!("/api/skills/{skill}/wish"),
                    Some(&who),
                    Some(json!({"on": true})),
                )
                .await;
            assert_eq!(status, StatusCode::NO_CONTENT);
        }
    }
    let wished = async || {
        let (_, shown) = client
            .send("GET", &format!("/api/classes/{class}/skills"), Some(&tor), None)
            .await;
        let all: Vec<Value> = shown["wished"].as_array().unwrap().clone();
        all.iter()
            .map(|w| format!("{} {}", w["skill"].as_str().unwrap(), w["students"]))
            .collect::<Vec<_>>()
    };
    assert_eq!(
        wished().await,
        [r#"ratios ["Ada Quill","Cy Fenn"]"#, r#"matrices ["Cy Fenn"]"#],
        "the most wished first, and nothing of who is in another class"
    );
    let cy = client.sign_in("cy").await;
    client
        .send(
            "PUT",
            "/api/skills/matrices/wish",
            Some(&cy),
            Some(json!({"on": false})),
        )
        .await;
    assert_eq!(wished().await.len(), 1);
    let (_, mine) = client.send("GET", "/api/suggestions", Some(&cy), None).await;
    assert_eq!(mine["wished"], json!(["ratios"]));
    let (status, _) = client
        .send(
            "PUT",
            "/api/skills/juggling/wish",
            Some(&cy),
            Some(json!({"on": true})),
        )
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}
