//! The starting point of a class.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{client, homework, number_in, put_question, says, teacher_of, world_with};

fn question(id: &str, skill: &str, times: u32) -> String {
    let words = match times {
        2 => "Twice",
        3 => "Three times",
        _ => "Five times",
    };
    format!(
        "
id: {id}
title: {id}
skills: [{skill}]
points: 1
calculator: {}
numbers: {{n: {{from: 100, to: 900}}}}
text: '{words} {{{{n}}}}?'
parts: [{{id: a, interaction: text_entry, answer: {{kind: number, key: '{times}*{{{{n}}}}', form: integer}}}}]
help: {{hints: ['HINT'], working: ['WORKING']}}
",
        skill == "percentages"
    )
}

/// The class is Site Practice: its skills rest on fractions and percentages, not on powers of ten.
async fn school(pool: &PgPool) -> String {
    let fractions = question("on-fractions", "fractions", 2);
    let percentages = question("on-percentages", "percentages", 3);
    let powers = question("on-powers", "powers", 5);
    let id = world_with(pool, homework(), &[&fractions, &percentages]).await;
    put_question(pool, &powers).await;
    id
}

fn asked(view: &Value) -> (usize, i64, &'static str) {
    let standing = &view["standing"];
    assert_eq!(standing["standing"], "asking", "{view}");
    let number = usize::try_from(standing["number"].as_u64().unwrap()).unwrap();
    let n = number_in(&json!({"questions": [standing["question"]]}));
    let text = standing["question"]["text"].to_string();
    let (times, skill) = match () {
        () if text.contains("Twice") => (2, "fractions"),
        () if text.contains("Three times") => (3, "percentages"),
        () => (5, "powers"),
    };
    (number, times * n, skill)
}

fn given(number: usize, entry: impl ToString) -> Option<Value> {
    Some(json!({"number": number, "parts": [{"id": "a", "response": entry.to_string()}]}))
}

fn standing_of<'a>(view: &'a Value, skill: &str) -> &'a Value {
    let skills = view["standing"]["skills"].as_array().unwrap();
    &skills.iter().find(|s| s["id"] == skill).unwrap()["stratum"]
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn it_asks_until_enough_is_known_and_sets_where_skills_start(pool: PgPool) {
    let assignment = school(&pool).await;
    let class = teacher_of(&pool, &assignment).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/class/{class}/start{tail}");
    let (_, before) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        before["standing"],
        json!({"standing": "not_begun", "skills": 10, "nothing": false})
    );
    let (_, mine) = client.send("GET", "/api/class", Some(&ada), None).await;
    assert_eq!(mine["classes"][0]["start"], "offered");
    let (status, mut view) = client.send("POST", &path(""), Some(&ada), None).await;
    assert_eq!(status, StatusCode::OK);
    // To begin again is to carry on.
    assert_eq!(client.send("POST", &path(""), Some(&ada), None).await.1, view);
    let mut rounds = 0;
    while view["standing"]["standing"] == "asking" {
        rounds += 1;
        assert!(rounds <= 30);
        let (number, right, skill) = asked(&view);
        assert_eq!(number, rounds);
        let text = view.to_string();
        assert!(!text.contains("HINT") && !text.contains("WORKING") && !says(&view, right));
        assert_eq!(view["standing"]["question"]["parts"][0]["verdict"], Value::Null);
        assert_eq!(view["standing"]["question"]["calculator"], skill == "percentages");
        let sum = Some(json!({"question": 0, "entry": "2*345", "last": null}));
        let (status, found) = client.send("POST", &path("/calculate"), Some(&ada), sum).await;
        match skill {
            "percentages" => assert_eq!((status, found["result"].as_str()), (StatusCode::OK, Some("690"))),
            _ => assert_eq!(
                status,
                StatusCode::CONFLICT,
                "no calculator belongs to this question"
            ),
        }
        // Fractions are known; percentages are not learned yet.
        let answer = match skill {
            "fractions" => given(number, right),
            _ => Some(json!({"number": number})),
        };
        let (status, next) = client.send("POST", &path("/answer"), Some(&ada), answer).await;
        assert_eq!(status, StatusCode::OK, "{next}");
        view = next;
    }
    assert_eq!(standing_of(&view, "fractions"), "known");
    assert_eq!(standing_of(&view, "percentages"), "next");
    assert_eq!(view["standing"]["week"][0]["skill"], "percentages");
    let open = &view["standing"]["open"][0];
    assert_eq!(open["id"], assignment.as_str());
    // The skills are marked as from here: known ones steady at most, unknown ones new.
    let (_, skills) = client.send("GET", "/api/skills", Some(&ada), None).await;
    let skill = |id: &str| {
        skills["skills"]
            .as_array()
            .unwrap()
            .iter()
            .find(|s| s["id"] == id)
            .unwrap()
            .clone()
    };
    assert_eq!(skill("fractions")["level"], "steady");
    assert!(skill("fractions")["score"].as_u64().unwrap() <= 90);
    assert_eq!(skill("percentages")["level"], "new");
    assert!(skill("fractions")["from_start"]["score"].as_u64().unwrap() >= 80);
    assert_eq!(
        skill("powers")["from_start"],
        Value::Null,
        "it is not of this class's work"
    );
    // Nothing of it is a slip, and it can't be done twice.
    let (_, slips) = client.send("GET", "/api/slips", Some(&ada), None).await;
    assert_eq!(slips["slips"].as_array().unwrap().len(), 0, "{slips}");
    let (status, refused) = client.send("POST", &path(""), Some(&ada), None).await;
    assert_eq!(
        (status, refused["code"].as_str().unwrap()),
        (StatusCode::CONFLICT, "placed_already")
    );
    let (status, _) = client
        .send("POST", &path("/answer"), Some(&ada), given(rounds, 1))
        .await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_can_t_be_read_costs_nothing_and_what_was_typed_is_kept(pool: PgPool) {
    let class = teacher_of(&pool, &school(&pool).await).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/class/{class}/start{tail}");
    let (_, view) = client.send("POST", &path(""), Some(&ada), None).await;
    let (number, right, _) = asked(&view);
    let (status, unread) = client
        .send("POST", &path("/answer"), Some(&ada), given(number, "3 +"))
        .await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(asked(&unread).0, number);
    assert_eq!(
        unread["standing"]["question"]["parts"][0]["verdict"]["outcome"],
        "cannot_read"
    );
    let (status, refused) = client
        .send("POST", &path("/answer"), Some(&ada), given(number, ""))
        .await;
    assert_eq!(
        (status, refused["code"].as_str().unwrap()),
        (StatusCode::CONFLICT, "nothing_entered")
    );
    // Typed and put aside: it stands there again, and a second window is told.
    let entered = |based_on: i64, text: &str| {
        Some(json!({"number": number, "based_on": based_on, "parts": [{"id": "a", "response": text}]}))
    };
    let (_, saved) = client
        .send("PUT", &path("/entered"), Some(&ada), entered(0, "12"))
        .await;
    assert_eq!(
        (saved["type"].as_str(), saved["revision"].as_i64()),
        (Some("saved"), Some(1))
    );
    let (_, other) = client
        .send("PUT", &path("/entered"), Some(&ada), entered(0, "99"))
        .await;
    assert_eq!(
        (other["type"].as_str(), &other["parts"][0]["response"]),
        (Some("elsewhere"), &json!("12"))
    );
    let (_, again) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        again["standing"]["question"]["parts"][0]["draft"]["response"],
        "12"
    );
    let (_, read) = client
        .send(
            "POST",
            &path("/read"),
            Some(&ada),
            Some(json!({"part": "a", "entry": "1/2"})),
        )
        .await;
    assert!(read["reads_as"].as_str().unwrap().contains("frac"), "{read}");
    // Given twice, it is taken once: what the second click meant is answered already.
    let (status, next) = client
        .send("POST", &path("/answer"), Some(&ada), given(number, right))
        .await;
    assert_eq!(status, StatusCode::OK);
    let (status, refused) = client
        .send("POST", &path("/answer"), Some(&ada), given(number, right))
        .await;
    if next["standing"]["standing"] == "asking" {
        assert_eq!(
            (status, refused["code"].as_str().unwrap()),
            (StatusCode::CONFLICT, "answered")
        );
        assert_eq!(next["standing"]["question"]["parts"][0]["draft"], Value::Null);
    }
    let (_, over) = client
        .send("PUT", &path("/entered"), Some(&ada), entered(1, "13"))
        .await;
    assert_eq!(over["type"], "over");
}

async fn do_it<S, B>(client: &crate::client::Client<S>, who: &Cookie<'static>, class: uuid::Uuid) -> Value
where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let path = |tail: &str| format!("/api/class/{class}/start{tail}");
    let (_, mut view) = client.send("POST", &path(""), Some(who), None).await;
    while view["standing"]["standing"] == "asking" {
        let (number, right, _) = asked(&view);
        view = client
            .send("POST", &path("/answer"), Some(who), given(number, right))
            .await
            .1;
    }
    view
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_sees_the_picture_and_lets_it_be_done_again(pool: PgPool) {
    let class = teacher_of(&pool, &school(&pool).await).await;
    let client = client!(pool);
    let (ada, tam) = (client.sign_in("ada").await, client.sign_in("tam").await);
    let page = format!("/api/classes/{class}/start");
    let (_, before) = client.send("GET", &page, Some(&tam), None).await;
    assert_eq!(before["students"][0]["standing"]["standing"], "not_begun");
    assert_eq!(before["skills"], json!([]));
    do_it(&client, &ada, class).await;
    let (_, after) = client.send("GET", &page, Some(&tam), None).await;
    let fractions = after["skills"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["id"] == "fractions")
        .unwrap();
    assert_eq!(
        (&fractions["known"], &fractions["far_off"]),
        (&json!(1), &json!(0))
    );
    let student = after["students"][0]["id"].clone();
    let again = format!("{page}/again");
    // Somebody else's student, and a student's own hand, do nothing.
    let stranger = json!({"student": uuid::Uuid::now_v7()});
    client.send("POST", &again, Some(&tam), Some(stranger)).await;
    let (status, _) = client.send("POST", &again, Some(&ada), Some(json!({}))).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let mine = format!("/api/class/{class}/start");
    assert_eq!(
        client.send("GET", &mine, Some(&ada), None).await.1["again"],
        false
    );
    let (status, _) = client
        .send("POST", &again, Some(&tam), Some(json!({"student": student})))
        .await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let (_, view) = client.send("GET", &mine, Some(&ada), None).await;
    assert_eq!(
        (&view["again"], &view["standing"]["standing"]),
        (&json!(true), &json!("done"))
    );
    let (_, acts) = client
        .send("GET", &format!("/api/classes/{class}/acts"), Some(&tam), None)
        .await;
    assert!(acts.to_string().contains("let the starting point be done again"));
    let second = do_it(&client, &ada, class).await;
    assert_eq!(
        (&second["again"], &second["standing"]["standing"]),
        (&json!(false), &json!("done"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn as_an_assignment_it_counts_as_done_with_its_last_answer(pool: PgPool) {
    let first = school(&pool).await;
    let class = teacher_of(&pool, &first).await;
    let settings = coursework::Settings {
        goal: Some(coursework::Goal::Start {}),
        kind: coursework::Kind::Practice,
        ..homework()
    };
    let id = uuid::Uuid::now_v7();
    sqlx::query(
        "insert into assignments (id, class_id, slug, title, settings, given_out)
         values ($1, $2, 'start', 'Where you start', $3, true)",
    )
    .bind(id)
    .bind(class)
    .bind(serde_json::to_value(&settings).unwrap())
    .execute(&pool)
    .await
    .unwrap();
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let cover = format!("/api/assignments/{id}");
    let (_, before) = client.send("GET", &cover, Some(&ada), None).await;
    assert_eq!(before["goal"]["lines"], json!([{"line": "start", "done": false}]));
    let (status, refused) = client
        .send("POST", &format!("{cover}/practise"), Some(&ada), None)
        .await;
    assert_eq!(
        (status, refused["code"].as_str().unwrap()),
        (StatusCode::CONFLICT, "start_first")
    );
    do_it(&client, &ada, class).await;
    let (_, after) = client.send("GET", &cover, Some(&ada), None).await;
    assert_eq!(after["state"], "handed_in", "{after}");
    assert_eq!(after["recorded"]["percent"], 100.0);
    // The other assignment of the class is as it was.
    let (_, other) = client
        .send("GET", &format!("/api/assignments/{first}"), Some(&ada), None)
        .await;
    assert_eq!(other["state"], "not_opened");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_class_without_questions_says_so_and_others_have_none_of_it(pool: PgPool) {
    let assignment = crate::client::world(&pool).await;
    let class = teacher_of(&pool, &assignment).await;
    let client = client!(pool);
    let (ada, bo) = (client.sign_in("ada").await, client.sign_in("bo").await);
    let path = format!("/api/class/{class}/start");
    let (_, view) = client.send("GET", &path, Some(&ada), None).await;
    assert_eq!(view["standing"]["nothing"], true);
    let (status, refused) = client.send("POST", &path, Some(&ada), None).await;
    assert_eq!(
        (status, refused["code"].as_str().unwrap()),
        (StatusCode::CONFLICT, "no_start")
    );
    for (method, tail, body) in [
        ("GET", "", None),
        ("POST", "", None),
        ("POST", "/answer", given(1, 2)),
        ("POST", "/read", Some(json!({"part": "a", "entry": "1"}))),
        (
            "PUT",
            "/entered",
            Some(json!({"number": 1, "based_on": 0, "parts": []})),
        ),
        (
            "POST",
            "/calculate",
            Some(json!({"question": 0, "entry": "1", "last": null})),
        ),
    ] {
        let (status, _) = client
            .send(method, &format!("{path}{tail}"), Some(&bo), body)
            .await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{method} {tail}");
    }
}
