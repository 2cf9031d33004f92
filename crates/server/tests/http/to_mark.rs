//! Marking by a person: who may, what is shown, and what comes of it.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;
use uuid::Uuid;

use crate::client::{client, homework, opened, world_with};

const REPORT: &str = "
id: report
title: The report
points: 4
text: 'Report.'
parts:
  - {id: a, interaction: extended_text, label: Report, model: MODEL of a good answer}
  - {id: b, interaction: text_entry, answer: {kind: number, key: '5'}}
";

/// Tor teaches the class of the assignment, Una another one.
async fn teachers(pool: &PgPool) {
    let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
    let mine = store::put_class(pool, "Site Practice").await.unwrap();
    let other = store::put_class(pool, "Other").await.unwrap();
    for (name, class) in [("tor", mine), ("una", other)] {
        let person = store::put_person(pool, name, &format!("{name} Vane"), &hash, store::Role::Teacher)
            .await
            .unwrap();
        store::add_member(pool, class, person).await.unwrap();
    }
}

fn written(words: &str) -> Value {
    json!({"written": {"text": [{"type": "paragraph", "content": [{"type": "text", "text": words}]}]}})
}

fn draft(based_on: i64, words: &str) -> Value {
    json!({"question": 0, "set_number": 0, "part": "a", "based_on": based_on, "response": written(words)})
}

fn points(points: f64, hand_in: u32) -> Value {
    json!({"points": points, "note": " Why? ", "hand_in": hand_in})
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn only_who_teaches_the_class_sees_and_gives(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    teachers(&pool).await;
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "It slipped")))
        .await;
    let id = path("").trim_start_matches("/api/assignments/").to_owned();
    let (tor, una, bo) = (
        client.sign_in("tor").await,
        client.sign_in("una").await,
        client.sign_in("bo").await,
    );
    let to_mark = format!("/api/marking/{id}/0");
    let (_, nothing) = client.send("GET", &to_mark, Some(&tor), None).await;
    assert_eq!(nothing["answers"], json!([]), "what is not handed in is nobody's");
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, queue) = client.send("GET", "/api/marking", Some(&tor), None).await;
    let question = &queue["assignments"][0]["questions"][0];
    assert_eq!(
        (&question["title"], &question["waiting"]),
        (&json!("The report"), &json!(1))
    );
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let answer = &shown["answers"][0];
    assert_eq!(
        (&answer["name"], &answer["waiting"]),
        (&json!("Ada Quill"), &json!(2.0))
    );
    assert!(answer["parts"][0]["model"].to_string().contains("MODEL"));
    let student = answer["student"].as_str().unwrap().to_owned();
    let give = format!("{to_mark}/{student}");
    for who in [&ada, &una, &bo] {
        for (method, path, body) in [("GET", &to_mark, None), ("PUT", &give, Some(points(3.0, 1)))] {
            let (status, said) = client.send(method, path, Some(who), body).await;
            assert_eq!(status, StatusCode::NOT_FOUND, "{method} {path}: {said}");
            assert!(!said.to_string().contains("MODEL"));
        }
    }
    let (_, none) = client.send("GET", "/api/marking", Some(&una), None).await;
    assert_eq!(none["assignments"], json!([]));
    assert_eq!(
        client.send("GET", "/api/marking", Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    // A teacher's own try at it is no student's work, nor is somebody who is not in it.
    let (status, _) = client
        .send(
            "PUT",
            &format!("{to_mark}/{}", Uuid::nil()),
            Some(&tor),
            Some(points(1.0, 1)),
        )
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = client
        .send("GET", &format!("/api/marking/{id}/1"), Some(&tor), None)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn points_stand_at_once_can_be_changed_and_name_who_gave_them(pool: PgPool) {
    let (client, ada, path) = opened!(pool, homework(), &[REPORT]);
    teachers(&pool).await;
    client
        .send("PUT", &path("/drafts"), Some(&ada), Some(draft(0, "It slipped")))
        .await;
    let five = json!({"question": 0, "parts": [{"id": "b", "response": "5"}]});
    client.send("POST", &path("/check"), Some(&ada), Some(five)).await;
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let id = path("").trim_start_matches("/api/assignments/").to_owned();
    let tor = client.sign_in("tor").await;
    let to_mark = format!("/api/marking/{id}/0");
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let answer = &shown["answers"][0];
    assert_eq!(
        (&answer["earned"], &answer["waiting"]),
        (&json!(2.0), &json!(2.0))
    );
    let give = format!("{to_mark}/{}", answer["student"].as_str().unwrap());
    for wrong in [-0.5, 4.5, 1e300] {
        let (status, said) = client
            .send("PUT", &give, Some(&tor), Some(points(wrong, 1)))
            .await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("points_out_of_range"))
        );
    }
    let (status, said) = client.send("PUT", &give, Some(&tor), Some(points(3.5, 1))).await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(
        (&said["given"]["points"], &said["given"]["note"]),
        (&json!(3.5), &json!("Why?"))
    );
    assert_eq!(
        (&said["given"]["by"], &said["waiting"]),
        (&json!("tor Vane"), &json!(0.0))
    );
    let (_, result) = client.send("GET", &path("/result"), Some(&ada), None).await;
    assert_eq!(result["recorded"]["points"], json!(3.5));
    assert_eq!(result["questions"][0]["why"][0], "tor Vane gave 3.5 of 4 points.");

    // The same again is nothing new; other points are.
    let events = "select count(*) from events where body->>'kind' = 'scored_by_teacher'";
    let count = async || {
        sqlx::query_scalar::<_, i64>(events)
            .fetch_one(&pool)
            .await
            .unwrap()
    };
    client.send("PUT", &give, Some(&tor), Some(points(3.5, 1))).await;
    assert_eq!(count().await, 1);
    client.send("PUT", &give, Some(&tor), Some(points(4.0, 1))).await;
    assert_eq!(count().await, 2);
    let long = json!({"points": 1.0, "note": "x".repeat(4_001), "hand_in": 1});
    assert_eq!(
        client.send("PUT", &give, Some(&tor), Some(long)).await.0,
        StatusCode::BAD_REQUEST
    );

    // What was handed in after it was looked at is looked at first.
    client
        .send(
            "PUT",
            &path("/drafts"),
            Some(&ada),
            Some(draft(1, "It slipped away")),
        )
        .await;
    let again = homework();
    assert!(
        again.hand_ins.is_none(),
        "a homework is handed in as often as one likes"
    );
    client.send("POST", &path("/hand-in"), Some(&ada), None).await;
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let newest = shown["answers"][0]["hand_in"].as_u64().unwrap();
    if newest == 2 {
        let (status, said) = client.send("PUT", &give, Some(&tor), Some(points(1.0, 1))).await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("handed_in_again"))
        );
    }
}

/// Two parts that a person marks, one with a rubric, beside one that is checked.
const HANDOVER: &str = "
id: handover
title: The handover
points: 8
text: 'Hand over.'
parts:
  - {id: a, interaction: extended_text, label: First, model: MODEL, share: 4, rubric: [{say: 'the tag', share: 2}, {say: 'the *wind*'}, {say: 'the time'}]}
  - {id: b, interaction: extended_text, label: Then, model: MODEL, share: 2}
  - {id: c, interaction: text_entry, share: 2, answer: {kind: number, key: '5'}}
";

/// Ada and Cy have handed in; Tor marks.
macro_rules! handed_over {
    ($pool:expr) => {{
        let id = world_with(&$pool, homework(), &[HANDOVER]).await;
        teachers(&$pool).await;
        let client = client!($pool);
        let mut students = Vec::new();
        for name in ["ada", "cy"] {
            let who = client.sign_in(name).await;
            let at = |what: &str| format!("/api/assignments/{id}{what}");
            client.send("POST", &at("/open"), Some(&who), None).await;
            for part in ["a", "b"] {
                let mut draft = draft(0, "It slipped");
                draft["part"] = json!(part);
                client.send("PUT", &at("/drafts"), Some(&who), Some(draft)).await;
            }
            let five = json!({"question": 0, "parts": [{"id": "c", "response": "5"}]});
            client.send("POST", &at("/check"), Some(&who), Some(five)).await;
            client.send("POST", &at("/hand-in"), Some(&who), None).await;
            students.push(who);
        }
        let tor = client.sign_in("tor").await;
        let to_mark = format!("/api/marking/{id}/0");
        let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
        let ids: Vec<String> = shown["answers"]
            .as_array()
            .unwrap()
            .iter()
            .map(|a| a["student"].as_str().unwrap().to_owned())
            .collect();
        (client, tor, students, id, ids)
    }};
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_rubric_gives_the_points_of_its_part_and_the_student_sees_what_was_there(pool: PgPool) {
    let (client, tor, students, id, ids) = handed_over!(pool);
    let to_mark = format!("/api/marking/{id}/0");
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    let part = &shown["answers"][0]["parts"][0];
    assert_eq!(part["worth"], json!(4.0));
    let lines: Vec<&Value> = part["rubric"]
        .as_array()
        .unwrap()
        .iter()
        .map(|l| &l["points"])
        .collect();
    assert_eq!(lines, [&json!(2.0), &json!(1.0), &json!(1.0)]);
    let give = format!("{to_mark}/{}", ids[0]);
    let mark = |met: Value, b: Value| json!({"parts": [{"part": "a", "met": met}, {"part": "b", "points": b}], "note": "$5 m$", "hand_in": 1});
    for (wrong, why) in [
        (mark(json!([0]), json!(2.5)), "more than the part is worth"),
        (
            json!({"parts": [{"part": "c", "points": 1}], "hand_in": 1}),
            "the machine marks it",
        ),
        (
            json!({"parts": [{"part": "z", "points": 1}], "hand_in": 1}),
            "there is none",
        ),
    ] {
        let (status, said) = client.send("PUT", &give, Some(&tor), Some(wrong)).await;
        assert_eq!(
            (status, &said["code"]),
            (StatusCode::CONFLICT, &json!("points_out_of_range")),
            "{why}"
        );
    }
    // Ticked twice and in any order; what the machine gave stands beside it.
    let (status, said) = client
        .send("PUT", &give, Some(&tor), Some(mark(json!([2, 0, 2]), json!(1))))
        .await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert_eq!(said["given"]["points"], json!(6.0), "3 and 1 and the machine's 2");
    assert_eq!(
        said["given"]["parts"],
        json!([{"part": "a", "points": 3.0, "met": [0, 2]}, {"part": "b", "points": 1.0, "met": []}])
    );
    assert_eq!(
        said["given"]["note_shown"][0]["content"][0],
        json!({"type": "math", "value": "5 m"})
    );
    let (_, result) = client
        .send(
            "GET",
            &format!("/api/assignments/{id}/result"),
            Some(&students[0]),
            None,
        )
        .await;
    let question = &result["questions"][0];
    assert_eq!(question["points"], json!(6.0));
    let met: Vec<&Value> = question["parts"][0]["marked"]["rubric"]
        .as_array()
        .unwrap()
        .iter()
        .map(|l| &l["met"])
        .collect();
    assert_eq!(met, [&json!(true), &json!(false), &json!(true)]);
    assert_eq!(question["parts"][1]["marked"]["rubric"], json!([]));
    assert_eq!(question["parts"][2]["marked"], Value::Null);
    assert_eq!(question["teacher_note"][0]["content"][0]["type"], "math");
    // It stands among what was done, with the note.
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let (_, acts) = client
        .send("GET", &format!("/api/classes/{class}/acts"), Some(&tor), None)
        .await;
    assert_eq!(
        (&acts["acts"][0]["did"], &acts["acts"][0]["student"]),
        (&json!("gave 6 points for question 1"), &json!("Ada Quill"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn points_are_kept_and_released_together(pool: PgPool) {
    let (client, tor, students, id, ids) = handed_over!(pool);
    let to_mark = format!("/api/marking/{id}/0");
    let release = format!("/api/marking/{id}/release");
    for (student, points) in ids.iter().zip([4.0, 5.5]) {
        let kept = json!({"points": points, "note": "Later", "hand_in": 1, "keep": true});
        let (status, said) = client
            .send("PUT", &format!("{to_mark}/{student}"), Some(&tor), Some(kept))
            .await;
        assert_eq!(status, StatusCode::OK, "{said}");
        assert_eq!(
            (&said["given"], &said["kept"]["points"]),
            (&Value::Null, &json!(points))
        );
    }
    let wrong = json!({"points": 9.0, "hand_in": 1, "keep": true});
    let (status, _) = client
        .send("PUT", &format!("{to_mark}/{}", ids[0]), Some(&tor), Some(wrong))
        .await;
    assert_eq!(
        status,
        StatusCode::CONFLICT,
        "what could not be given is not kept either"
    );
    let points = async |who| {
        let (_, result) = client
            .send("GET", &format!("/api/assignments/{id}/result"), Some(who), None)
            .await;
        (
            result["recorded"]["points"].clone(),
            result["recorded"]["waiting"].clone(),
        )
    };
    assert_eq!(
        points(&students[0]).await,
        (json!(2.0), json!(6.0)),
        "nobody sees it yet"
    );
    let (_, queue) = client.send("GET", "/api/marking", Some(&tor), None).await;
    assert_eq!(queue["assignments"][0]["kept"], 2);

    // Cy hands in again meanwhile: what was kept for her waits until it is looked at.
    let at = |what: &str| format!("/api/assignments/{id}{what}");
    let mut better = draft(1, "It slipped, and was set down");
    better["part"] = json!("a");
    client
        .send("PUT", &at("/drafts"), Some(&students[1]), Some(better))
        .await;
    let last = "update assignments set settings = jsonb_set(settings, '{which_counts}', '\"last\"'), version = version + 1";
    sqlx::query(last).execute(&pool).await.unwrap();
    let (status, said) = client
        .send("POST", &at("/hand-in"), Some(&students[1]), None)
        .await;
    assert_eq!(status, StatusCode::OK, "{said}");
    for (name, status) in [("una", StatusCode::NOT_FOUND), ("ada", StatusCode::NOT_FOUND)] {
        let who = client.sign_in(name).await;
        assert_eq!(client.send("POST", &release, Some(&who), None).await.0, status);
    }
    let (_, said) = client.send("POST", &release, Some(&tor), None).await;
    assert_eq!(said, json!({"released": 1, "handed_in_since": ["Cy Fenn"]}));
    assert_eq!(points(&students[0]).await, (json!(4.0), json!(0.0)));
    let (_, shown) = client.send("GET", &to_mark, Some(&tor), None).await;
    assert_eq!(shown["answers"][1]["kept"]["handed_in_since"], true);
    assert_eq!(shown["answers"][0]["kept"], Value::Null);

    // All of one student's on one page, with notes that others were given.
    let (_, one) = client
        .send(
            "GET",
            &format!("/api/marking/{id}/student/{}", ids[1]),
            Some(&tor),
            None,
        )
        .await;
    assert_eq!((&one["name"], &one["kept"]), (&json!("Cy Fenn"), &json!(1)));
    assert_eq!(one["questions"][0]["notes"], json!(["Later"]));
    assert_eq!(one["students"].as_array().unwrap().len(), 2);
    let una = client.sign_in("una").await;
    for (who, student) in [(&una, ids[1].clone()), (&tor, Uuid::nil().to_string())] {
        let path = format!("/api/marking/{id}/student/{student}");
        assert_eq!(
            client.send("GET", &path, Some(who), None).await.0,
            StatusCode::NOT_FOUND
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_file_is_there_for_who_teaches_its_owner_and_for_no_other_teacher(pool: PgPool) {
    let with_file = REPORT.replace("label: Report,", "label: Report, files: 1,");
    let (client, ada, path) = opened!(pool, homework(), &[&with_file]);
    teachers(&pool).await;
    let request = actix_web::test::TestRequest::post()
        .uri(&path("/questions/0/files?name=a.png"))
        .cookie(ada.clone())
        .set_payload(&b"\x89PNG\r\n\x1a\n"[..])
        .to_request();
    let file: Value = actix_web::test::call_and_read_body_json(&client.app, request).await;
    let address = format!("/api/files/{}", file["id"].as_str().unwrap());
    for (name, wanted) in [("tor", 200), ("una", 404), ("cy", 404), ("ada", 200)] {
        let request = actix_web::test::TestRequest::get()
            .uri(&address)
            .cookie(client.sign_in(name).await)
            .to_request();
        let response = actix_web::test::call_service(&client.app, request).await;
        assert_eq!(response.status().as_u16(), wanted, "{name}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn practised_after_closing_it_is_right_without_what_only_a_teacher_marks(pool: PgPool) {
    let mut closed = homework();
    for date in [&mut closed.opens, &mut closed.due, &mut closed.closes] {
        *date -= time::Duration::days(30);
    }
    let (client, ada, path) = opened!(pool, closed, &[REPORT]);
    let practice = path("/practice/0/0");
    let (status, shown) = client.send("GET", &practice, Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK, "{shown}");
    let question = &shown["question"];
    assert_eq!(
        (&question["parts"][0]["by_hand"], &question["all_right"]),
        (&json!(true), &json!(false))
    );
    for (entry, right) in [("4", false), ("5", true)] {
        let given = json!({"parts": [{"id": "b", "response": entry}], "show_working": false});
        let (_, shown) = client.send("POST", &practice, Some(&ada), Some(given)).await;
        assert_eq!(shown["question"]["all_right"], json!(right), "{entry}: {shown}");
    }
}
