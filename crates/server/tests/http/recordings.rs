//! Recordings with stops: what is believed, what is refused, and what a teacher does with them.

use actix_web::http::StatusCode;
use actix_web::test;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{DOUBLED, Hands, client, homework, put_question, quiz, teacher_of, world_with};

const ASKED: &str = "
id: asked
title: Asked at a stop
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 900}}
text: 'Twice {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}]
";

const CAPTIONS: &str =
    "WEBVTT\n\n00:01.000 --> 00:04.000\nTurn slowly.\n\n00:21.000 --> 00:24.000\nNow lock it.\n";

/// A minute with stops at 20 and 45 seconds; its media is eleven bytes of nothing.
async fn recording(pool: &PgPool) -> String {
    let stop = |id: &str, at: f64, question: &str| coursework::Stop {
        id: id.into(),
        at,
        questions: vec![question.into()],
    };
    let head = store::RecordingHead {
        id: None,
        slug: None,
        title: "Yaw",
        media_type: "video/webm",
        seconds: 60.0,
        captions: CAPTIONS,
        stops: &[stop("one", 20.0, "asked"), stop("two", 45.0, "asked")],
        made_by: None,
    };
    let mut tx = pool.begin().await.unwrap();
    let id = store::add_recording(&mut *tx, &head, time::OffsetDateTime::now_utc())
        .await
        .unwrap();
    store::add_piece(&mut *tx, id, 0, b"hello world").await.unwrap();
    store::finish_recording(&mut *tx, id).await.unwrap();
    tx.commit().await.unwrap();
    id.to_string()
}

fn played(from: f64, to: f64) -> Option<Value> {
    Some(json!({"from": from, "to": to}))
}

fn went(to: f64) -> Option<Value> {
    Some(json!({"from": to, "to": to, "did": "went"}))
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nobody_skips_ahead_by_any_request_and_what_is_seen_whole_is_handed_in(pool: PgPool) {
    let first = world_with(&pool, homework(), &[]).await;
    let class = teacher_of(&pool, &first).await;
    put_question(&pool, ASKED).await;
    let id = recording(&pool).await;
    let settings = coursework::Settings {
        kind: coursework::Kind::Practice,
        goal: Some(coursework::Goal::Watch {
            recording: id.parse().unwrap(),
            title: "Yaw".into(),
        }),
        ..homework()
    };
    let assignment = uuid::Uuid::now_v7();
    sqlx::query("insert into assignments (id, class_id, slug, title, settings, given_out) values ($1, $2, 'yaw', 'Yaw', $3, true)")
        .bind(assignment)
        .bind(class)
        .bind(serde_json::to_value(&settings).unwrap())
        .execute(&pool)
        .await
        .unwrap();
    let clock = Hands::new();
    let client = client!(pool, clock.clock());
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    let path = |tail: &str| format!("/api/recordings/{id}{tail}");
    let (_, view) = client.send("GET", &path(""), Some(&ada), None).await;
    assert_eq!(
        (&view["cues"][1]["text"], &view["watched"]["may_go_to"]),
        (&json!("Now lock it."), &json!(0.0))
    );
    let report = path("/played");
    let tell = |body: Option<Value>| client.send("POST", &report, Some(&ada), body);
    let cover = format!("/api/assignments/{assignment}");
    // Before it is said that it begins, ahead, and faster than the clock: nothing of it is believed.
    assert_eq!(tell(played(0.0, 15.0)).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(tell(went(30.0)).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(tell(went(0.0)).await.0, StatusCode::OK);
    assert_eq!(tell(played(0.0, 60.0)).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(
        tell(Some(json!({"from": 0.0, "to": null}))).await.0,
        StatusCode::BAD_REQUEST
    );
    let answer = async |stop: &str, entry: &str| {
        let body = json!({"question": 0, "parts": [{"id": "a", "response": entry}]});
        let to = path(&format!("/stops/{stop}"));
        client.send("POST", &to, Some(&ada), Some(body)).await
    };
    assert_eq!(
        answer("one", "2").await.0,
        StatusCode::BAD_REQUEST,
        "not come to yet"
    );
    assert_eq!(answer("three", "2").await.0, StatusCode::BAD_REQUEST);
    clock.move_to(15);
    assert_eq!(tell(played(0.0, 15.0)).await.1["percent"], 25.0);
    clock.move_to(30);
    // It halts at the stop, whatever is claimed.
    let (_, halted) = tell(played(15.0, 29.0)).await;
    assert_eq!((&halted["at"], &halted["waiting"]), (&json!(20.0), &json!("one")));
    assert_eq!(tell(went(25.0)).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(tell(went(44.0)).await.0, StatusCode::BAD_REQUEST);
    // Unreadable answers nothing; a wrong one does, and can be answered again.
    assert_eq!(answer("one", "3 +").await.1["judged"], false);
    let (_, wrong) = answer("one", "1").await;
    assert_eq!(
        (&wrong["judged"], &wrong["right"], &wrong["watched"]["waiting"]),
        (&json!(true), &json!(false), &Value::Null)
    );
    assert!(!wrong.to_string().contains("\"key\""));
    clock.move_to(45);
    tell(played(20.0, 40.0)).await;
    clock.move_to(60);
    assert_eq!(tell(played(40.0, 50.0)).await.1["at"], 45.0);
    assert_eq!(
        client.send("GET", &cover, Some(&ada), None).await.1["goal"]["lines"][0]["percent"],
        75
    );
    answer("two", "1").await;
    clock.move_to(75);
    let (_, done) = tell(played(45.0, 60.0)).await;
    assert_eq!((&done["done"], &done["percent"]), (&json!(true), &json!(100.0)));
    // It is handed in by itself; and now anywhere is free.
    let (_, set_as) = client.send("GET", &path("/works"), Some(&ada), None).await;
    assert_eq!(set_as["works"][0]["id"], json!(assignment));
    assert!(set_as["works"][0]["handed_in_at"].is_string(), "{set_as}");
    let (_, after) = client.send("GET", &cover, Some(&ada), None).await;
    assert_eq!(
        (&after["state"], &after["recorded"]["percent"]),
        (&json!("handed_in"), &json!(100.0))
    );
    assert_eq!(tell(went(50.0)).await.0, StatusCode::OK);
    // Somebody else has seen nothing of it.
    let (_, theirs) = client.send("GET", &path(""), Some(&cy), None).await;
    assert_eq!(theirs["watched"]["percent"], 0.0);
    let (_, set_as) = client.send("GET", &path("/works"), Some(&cy), None).await;
    assert_eq!(
        (
            &set_as["works"][0]["class_title"],
            &set_as["works"][0]["handed_in_at"]
        ),
        (&json!("Site Practice"), &Value::Null)
    );
    let nowhere = format!("/api/recordings/{}/works", uuid::Uuid::nil());
    let (status, _) = client.send("GET", &nowhere, Some(&cy), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    // The teacher sees where everybody is.
    let tam = client.sign_in("tam").await;
    let page = format!("/api/bank-recordings/{id}");
    let (_, edit) = client.send("GET", &page, Some(&tam), None).await;
    assert_eq!(
        (
            &edit["went"]["students"][0]["done"],
            &edit["went"]["stretches"][0]["saw"]
        ),
        (&json!(true), &json!(1))
    );
    assert_eq!(
        client.send("GET", &page, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn media_comes_in_ranges(pool: PgPool) {
    world_with(&pool, homework(), &[]).await;
    let id = recording(&pool).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let ask = async |range: Option<&str>| {
        let mut request = test::TestRequest::get()
            .uri(&format!("/api/recordings/{id}/media"))
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .cookie(ada.clone());
        if let Some(range) = range {
            request = request.insert_header(("range", range));
        }
        let response = test::call_service(&client.app, request.to_request()).await;
        let of = response
            .headers()
            .get("content-range")
            .map(|v| v.to_str().unwrap().to_owned());
        let status = response.status().as_u16();
        (
            status,
            of.unwrap_or_default(),
            String::from_utf8(test::read_body(response).await.to_vec()).unwrap(),
        )
    };
    assert_eq!(
        ask(Some("bytes=6-")).await,
        (206, "bytes 6-10/11".into(), "world".into())
    );
    assert_eq!(
        ask(Some("bytes=0-4")).await,
        (206, "bytes 0-4/11".into(), "hello".into())
    );
    assert_eq!(
        ask(None).await,
        (206, "bytes 0-10/11".into(), "hello world".into())
    );
    assert_eq!(ask(Some("bytes=50-")).await.0, 416);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_uploads_and_places_stops(pool: PgPool) {
    let first = world_with(&pool, homework(), &[]).await;
    teacher_of(&pool, &first).await;
    put_question(&pool, ASKED).await;
    let client = client!(pool);
    let (ada, tam) = (client.sign_in("ada").await, client.sign_in("tam").await);
    let mut file = vec![0x1a, 0x45, 0xdf, 0xa3];
    file.extend(b"....webm....V_VP9....");
    file.resize(3 * 1024 * 1024 + 17, 7);
    let at = "/api/bank-recordings?title=Yaw&seconds=60";
    let (status, made) = client.upload(at, &tam, file.clone()).await;
    assert_eq!(status, StatusCode::OK, "{made}");
    assert_eq!(
        client.upload(at, &ada, file.clone()).await.0,
        StatusCode::NOT_FOUND
    );
    for (at, bytes) in [
        (at, b"GIF89a".to_vec()),
        (at, Vec::new()),
        ("/api/bank-recordings?title=%20&seconds=60", file.clone()),
        ("/api/bank-recordings?title=Yaw&seconds=90000", file.clone()),
    ] {
        assert_eq!(
            client.upload(at, &tam, bytes).await.0,
            StatusCode::BAD_REQUEST,
            "{at}"
        );
    }
    let (_, all) = client.send("GET", "/api/bank-recordings", Some(&tam), None).await;
    assert_eq!(
        all["recordings"].as_array().unwrap().len(),
        1,
        "what was refused left nothing"
    );
    let id = made["id"].as_str().unwrap();
    let (_, whole) = client.file(&format!("/api/recordings/{id}/media"), &ada).await;
    assert_eq!(whole, file);
    let page = format!("/api/bank-recordings/{id}");
    let save = |version: i32, captions: &str, at: f64, question: &str| {
        let stops = json!([{"id": "one", "at": at, "questions": [question]}]);
        Some(json!({"version": version, "title": "Yaw", "captions": captions, "stops": stops}))
    };
    let put = |body| client.send("PUT", &page, Some(&tam), body);
    assert_eq!(
        put(save(1, CAPTIONS, 20.0, "asked")).await.0,
        StatusCode::NO_CONTENT
    );
    // Another window was first; captions that can't be read; a stop that can't be.
    assert_eq!(
        put(save(1, CAPTIONS, 20.0, "asked")).await.0,
        StatusCode::CONFLICT
    );
    let (status, refused) = put(save(2, "WEBVTT\n\n1 --> 2\na", 20.0, "asked")).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    assert!(
        refused["detail"].as_str().unwrap().contains("line 3"),
        "{refused}"
    );
    for (at, question) in [(70.0, "asked"), (20.0, "nobody-knows")] {
        assert_eq!(
            put(save(2, CAPTIONS, at, question)).await.0,
            StatusCode::BAD_REQUEST
        );
    }
    let none =
        json!([{"id": "one", "at": 66.5, "questions": []}, {"id": "two", "at": 46.5, "questions": []}]);
    for (stops, words) in [
        (json!([none[0]]), "The stop at 1:06 lies outside the recording."),
        (json!([none[1]]), "The stop at 0:46 needs one to five questions."),
    ] {
        let body = json!({"version": 2, "title": "Yaw", "captions": CAPTIONS, "stops": stops});
        let (status, refused) = put(Some(body)).await;
        assert_eq!(
            (status, &refused["detail"]),
            (StatusCode::BAD_REQUEST, &json!(words))
        );
    }
    let (_, edit) = client.send("GET", &page, Some(&tam), None).await;
    assert_eq!(
        (&edit["version"], &edit["stops"][0]["questions"][0]),
        (&json!(2), &json!("asked"))
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_stop_whose_question_nobody_may_ask_now_is_passed_over(pool: PgPool) {
    // What the first stop asks is in a quiz that is open.
    world_with(&pool, quiz(), &[ASKED]).await;
    let id = recording(&pool).await;
    let clock = Hands::new();
    let client = client!(pool, clock.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/recordings/{id}{tail}");
    let send = async |tail: &str, body: Value| client.send("POST", &path(tail), Some(&ada), Some(body)).await;
    send("/played", went(0.0).unwrap()).await;
    // It is not passed over before one has come to it.
    let (status, _) = send("/stops/one", json!({"question": 0})).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    clock.move_to(20);
    send("/played", played(0.0, 20.0).unwrap()).await;
    let (status, passed) = send("/stops/one", json!({"question": 0})).await;
    assert_eq!(status, StatusCode::OK, "{passed}");
    assert_eq!(
        (&passed["question"], &passed["judged"]),
        (&Value::Null, &json!(true))
    );
    let words = passed["passed_over"].as_str().unwrap();
    assert!(words.contains("kept for a quiz"), "{words}");
    assert_eq!(passed["watched"]["waiting"], Value::Null);
    clock.move_to(40);
    let (status, on) = send("/played", played(20.0, 40.0).unwrap()).await;
    assert_eq!((status, &on["may_go_to"]), (StatusCode::OK, &json!(40.0)));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_upload_that_broke_off_is_nowhere_and_goes(pool: PgPool) {
    let first = world_with(&pool, homework(), &[]).await;
    teacher_of(&pool, &first).await;
    let head = store::RecordingHead {
        id: None,
        slug: None,
        title: "Broken off",
        media_type: "video/webm",
        seconds: 60.0,
        captions: "",
        stops: &[],
        made_by: None,
    };
    let long_ago = time::OffsetDateTime::now_utc() - time::Duration::days(1);
    let broken = store::add_recording(&pool, &head, long_ago).await.unwrap();
    store::add_piece(&pool, broken, 0, b"half").await.unwrap();
    let client = client!(pool);
    let tam = client.sign_in("tam").await;
    let at = format!("/api/recordings/{broken}");
    assert_eq!(
        client.send("GET", &at, Some(&tam), None).await.0,
        StatusCode::NOT_FOUND
    );
    let (_, all) = client.send("GET", "/api/bank-recordings", Some(&tam), None).await;
    assert_eq!(all["recordings"], json!([]));
    let mut file = vec![0x1a, 0x45, 0xdf, 0xa3];
    file.extend(b"....webm....");
    let next = "/api/bank-recordings?title=Sound&seconds=5";
    assert_eq!(client.upload(next, &tam, file).await.0, StatusCode::OK);
    let left: i64 = sqlx::query_scalar("select count(*) from recording_pieces")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(left, 1, "the pieces of what broke off went with it");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_recording_stands_beside_a_question_and_is_found_by_its_name(pool: PgPool) {
    let beside = format!("{DOUBLED}exhibits: [{{id: seen, title: 'Seen', recording: early-shift}}]\n");
    let first = world_with(&pool, homework(), &[&beside]).await;
    teacher_of(&pool, &first).await;
    let client = client!(pool);
    let (ada, tam) = (client.sign_in("ada").await, client.sign_in("tam").await);
    let path = |tail: &str| format!("/api/assignments/{first}{tail}");
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let (_, board) = client.send("GET", &path("/board"), Some(&ada), None).await;
    let exhibit = &board["questions"][0]["exhibits"][0];
    assert_eq!(
        (&exhibit["recording"], &exhibit["text"]),
        (&json!("early-shift"), &json!([])),
        "{board}"
    );
    // It ships, but was not put in yet.
    let at = "/api/recordings/early-shift";
    assert_eq!(
        client.send("GET", at, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    school::recordings::put_shipped(&school::School::new(pool.clone()))
        .await
        .unwrap();
    let (status, shown) = client.send("GET", at, Some(&ada), None).await;
    assert_eq!((status, &shown["pictures"]), (StatusCode::OK, &json!(false)));
    // A name that is none is refused at its line, an id that is nobody's too.
    for (name, is_there) in [
        ("early-shift", true),
        ("late-shift", false),
        ("0197a000-0000-7000-8000-000000000002", true),
        ("0197a000-0000-7000-8000-0000000000ff", false),
    ] {
        let text = beside.replace("early-shift", name);
        let (status, saved) = client
            .send("PUT", "/api/bank", Some(&tam), Some(json!({"text": text})))
            .await;
        assert_eq!(status, StatusCode::OK, "{saved}");
        let faults = saved["faults"].as_array().unwrap();
        assert_eq!(faults.is_empty(), is_there, "{name}: {saved}");
        if let Some(fault) = faults.first() {
            let words = fault["words"].as_str().unwrap();
            assert_eq!(words, format!("there is no recording `{name}`"));
        }
    }
}
