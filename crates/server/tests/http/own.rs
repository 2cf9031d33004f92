//! What one takes out: due dates to subscribe to, tokens for other programs, files, and all that is kept.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use actix_web::test;
use serde_json::{Value, json};
use sqlx::PgPool;
use std::io::{Cursor, Read};

use crate::classes::{member, teachers};
use crate::client::{Client, DOUBLED, add_event, check, client, homework, quiz, world_with};

/// Asks as anybody, with a cookie or a token; gives the body as bytes.
async fn fetch<S, B>(
    client: &Client<S>,
    method: &str,
    path: &str,
    cookie: Option<&Cookie<'static>>,
    token: Option<&str>,
    body: Option<Value>,
) -> (StatusCode, Vec<u8>)
where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let mut request = test::TestRequest::default()
        .method(method.parse().unwrap())
        .uri(path)
        .insert_header(("Host", "slate.example"))
        .peer_addr("127.0.0.1:5000".parse().unwrap());
    if let Some(cookie) = cookie {
        request = request.cookie(cookie.clone());
    }
    if let Some(token) = token {
        request = request.insert_header(("Authorization", format!("Bearer {token}")));
    }
    if let Some(body) = body {
        request = request.set_json(body);
    }
    let response = test::call_service(&client.app, request.to_request()).await;
    let status = response.status();
    (status, test::read_body(response).await.to_vec())
}

fn words(bytes: Vec<u8>) -> String {
    String::from_utf8(bytes).unwrap()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn due_dates_are_subscribed_to_moved_renewed_and_ended(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (ada, tor, una) = (
        client.sign_in("ada").await,
        client.sign_in("tor").await,
        client.sign_in("una").await,
    );
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let make = async |who, which: &str| {
        let path = format!("/api/own/calendar{which}");
        let (status, body) = fetch(&client, "POST", &path, Some(who), None, None).await;
        let said: Value = serde_json::from_slice(&body).unwrap();
        (status, said["address"].as_str().unwrap_or_default().to_owned())
    };
    let read = async |address: &str| {
        let path = address.strip_prefix("http://slate.example").unwrap();
        let (status, body) = fetch(&client, "GET", path, None, None, None).await;
        (status, words(body))
    };
    let (status, first) = make(&ada, "").await;
    assert_eq!(status, StatusCode::OK);
    let (status, calendar) = read(&first).await;
    assert_eq!(status, StatusCode::OK);
    let lines: Vec<&str> = calendar.split("\r\n").collect();
    let due = |c: &str| {
        let line = c.lines().find(|l| l.starts_with("DTSTART:")).unwrap();
        line.trim().to_owned()
    };
    assert_eq!((lines[0], lines[1]), ("BEGIN:VCALENDAR", "VERSION:2.0"));
    assert!(lines.iter().any(|l| l.starts_with("PRODID:")));
    assert!(
        lines.contains(&"SUMMARY:Due: Doubling (Site Practice)"),
        "{calendar}"
    );
    assert!(lines.contains(&format!("UID:{id}@green-slate").as_str()));
    assert!(calendar.contains(&format!("http://slate.example/work/{id}")[..40]));
    let before = due(&calendar);

    // A date that is moved for her moves there, with a higher sequence.
    let later = time::OffsetDateTime::now_utc() + time::Duration::days(5);
    let moved = coursework::Event::ExceptionGiven(coursework::Exception {
        due: Some(later),
        ..coursework::Exception::default()
    });
    add_event(&pool, &id, "ada", moved).await;
    let (_, calendar) = read(&first).await;
    assert_ne!(due(&calendar), before);
    // Renewed, the old address is nobody's; ended, the new one is neither.
    let (_, second) = make(&ada, "").await;
    assert_eq!(read(&first).await.0, StatusCode::NOT_FOUND);
    assert_eq!(read(&second).await.0, StatusCode::OK);
    let (status, _) = fetch(&client, "DELETE", "/api/own/calendar", Some(&ada), None, None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(read(&second).await.0, StatusCode::NOT_FOUND);

    // A class's dates are its teacher's to give.
    let of_class = format!("?class={class}");
    for who in [&ada, &una] {
        assert_eq!(make(who, &of_class).await.0, StatusCode::NOT_FOUND);
    }
    let (_, address) = make(&tor, &of_class).await;
    let (_, calendar) = read(&address).await;
    assert_eq!(
        due(&calendar),
        before,
        "the class's date, whoever has an exception"
    );
    sqlx::query("update class_members set left_at = now() where person_id = (select id from people where user_name = 'tor')")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(
        read(&address).await.0,
        StatusCode::NOT_FOUND,
        "who teaches it no more"
    );
    assert_eq!(
        make(&tor, "").await.0,
        StatusCode::NOT_FOUND,
        "a teacher has no work of their own"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_token_reaches_what_it_allows_and_nothing_else(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (ada, tor) = (client.sign_in("ada").await, client.sign_in("tor").await);
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let make = async |who, name: &str, scopes: Value| {
        let body = json!({"name": name, "scopes": scopes});
        let (status, said) = client
            .send("POST", "/api/own/tokens", Some(who), Some(body))
            .await;
        (status, said["token"].as_str().unwrap_or_default().to_owned())
    };
    for (who, name, scopes) in [
        (&tor, " ", json!(["read_scores"])),
        (&tor, "sheet", json!([])),
        (&tor, "sheet", json!(["everything"])),
        (&ada, "classes", json!(["manage_classes"])),
    ] {
        assert_eq!(make(who, name, scopes).await.0, StatusCode::BAD_REQUEST);
    }
    let (_, reads) = make(&tor, "sheet", json!(["read_scores"])).await;
    let (_, manages) = make(&tor, "classes", json!(["manage_classes", "manage_classes"])).await;
    let (_, hers) = make(&ada, "scores", json!(["read_scores"])).await;
    let as_token = async |token: &str, method: &str, path: String, body: Option<Value>| {
        fetch(&client, method, &path, None, Some(token), body).await.0
    };
    let sheet = || format!("/api/classes/{class}/sheet");
    let more = || Some(json!({"list": "Dag Roe"}));
    assert_eq!(as_token(&reads, "GET", sheet(), None).await, StatusCode::OK);
    assert_eq!(
        as_token(&reads, "GET", format!("{}.csv", sheet()), None).await,
        StatusCode::OK
    );
    assert_eq!(
        as_token(&manages, "GET", "/api/classes".into(), None).await,
        StatusCode::OK
    );
    assert_eq!(
        as_token(&manages, "GET", sheet(), None).await,
        StatusCode::FORBIDDEN
    );
    let students = || format!("/api/classes/{class}/students");
    assert_eq!(
        as_token(&reads, "POST", students(), more()).await,
        StatusCode::FORBIDDEN
    );
    assert_ne!(
        as_token(&manages, "POST", students(), more()).await,
        StatusCode::FORBIDDEN
    );
    assert_eq!(
        as_token(&hers, "GET", "/api/scores".into(), None).await,
        StatusCode::OK
    );
    assert_eq!(
        as_token(&hers, "GET", sheet(), None).await,
        StatusCode::NOT_FOUND,
        "no teacher's"
    );
    // Whatever is not named is reached by no token: least of all other tokens.
    for path in [
        "/api/own".to_owned(),
        "/api/week".to_owned(),
        "/api/own/everything.zip".to_owned(),
        "/api/marking".to_owned(),
        format!("/api/classes/{class}/acts"),
    ] {
        assert_eq!(
            as_token(&reads, "GET", path.clone(), None).await,
            StatusCode::FORBIDDEN,
            "{path}"
        );
    }
    for path in [
        format!("/api/assignments/{id}/board"),
        format!("/api/assignments/{id}"),
    ] {
        assert_eq!(as_token(&hers, "GET", path, None).await, StatusCode::UNAUTHORIZED);
    }
    assert_eq!(
        as_token("slate_nonsense", "GET", sheet(), None).await,
        StatusCode::UNAUTHORIZED
    );
    assert_eq!(as_token("", "GET", sheet(), None).await, StatusCode::UNAUTHORIZED);

    // It is kept as its hash, its use is seen, and it ends at once.
    let (_, own) = client.send("GET", "/api/own", Some(&tor), None).await;
    assert!(!own.to_string().contains(&reads));
    let kept: i64 = sqlx::query_scalar(
        "select count(*) from api_tokens where encode(token_hash, 'escape') like '%slate_%'",
    )
    .fetch_one(&pool)
    .await
    .unwrap();
    assert_eq!(kept, 0);
    let first = &own["tokens"][0];
    assert_eq!(
        (&first["name"], first["used_at"].is_string()),
        (&json!("sheet"), true)
    );
    let end = format!("/api/own/tokens/{}", first["id"].as_str().unwrap());
    assert_eq!(
        client.send("DELETE", &end, Some(&ada), None).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        client.send("DELETE", &end, Some(&tor), None).await.0,
        StatusCode::NO_CONTENT
    );
    assert_eq!(
        as_token(&reads, "GET", sheet(), None).await,
        StatusCode::UNAUTHORIZED
    );
    let (_, described) = client.send("GET", "/api/openapi.json", None, None).await;
    assert!(described["paths"]["/api/own/tokens"].is_object());
    // A new password ends them all.
    let scores = || "/api/scores".to_owned();
    assert_eq!(as_token(&hers, "GET", scores(), None).await, StatusCode::OK);
    let (ada, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    store::set_password(&pool, ada.id, "another hash").await.unwrap();
    assert_eq!(
        as_token(&hers, "GET", scores(), None).await,
        StatusCode::UNAUTHORIZED
    );
}

fn unzipped(bytes: Vec<u8>) -> (Value, String, Vec<String>) {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).unwrap();
    let names: Vec<String> = archive.file_names().map(|n| n.unwrap().to_string()).collect();
    let mut read = |name: &str| {
        let mut text = String::new();
        archive.by_name(name).unwrap().read_to_string(&mut text).unwrap();
        text
    };
    let json = serde_json::from_str(&read("everything.json")).unwrap();
    (json, read("README.md"), names)
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn all_that_is_kept_is_taken_out_but_for_what_is_not_out_yet(pool: PgPool) {
    let later = coursework::Settings {
        release: coursework::Release::AfterDue,
        ..quiz()
    };
    let id = world_with(&pool, later, &[DOUBLED]).await;
    teachers(&pool).await;
    let client = client!(pool);
    let (ada, cy) = (client.sign_in("ada").await, client.sign_in("cy").await);
    for who in [&ada, &cy] {
        client
            .send("POST", &format!("/api/assignments/{id}/open"), Some(who), None)
            .await;
    }
    let draft = json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1234"});
    client
        .send(
            "PUT",
            &format!("/api/assignments/{id}/drafts"),
            Some(&ada),
            Some(draft),
        )
        .await;
    let secret = coursework::Event::ExceptionGiven(coursework::Exception {
        more_hand_ins: 1,
        why: "She was ill".into(),
        ..coursework::Exception::default()
    });
    add_event(&pool, &id, "ada", secret).await;
    client
        .send(
            "POST",
            &format!("/api/assignments/{id}/hand-in"),
            Some(&ada),
            None,
        )
        .await;
    client
        .send(
            "PUT",
            "/api/skills/ratios/wish",
            Some(&ada),
            Some(json!({"on": true})),
        )
        .await;
    let take = async |who: &Cookie<'static>| {
        let (status, bytes) = fetch(&client, "GET", "/api/own/everything.zip", Some(who), None, None).await;
        assert_eq!(status, StatusCode::OK);
        unzipped(bytes)
    };
    let (all, summary, names) = take(&ada).await;
    assert!(names.contains(&"everything.json".to_owned()));
    let kept = &all["kept"];
    assert_eq!(kept["person"][0]["user_name"], "ada");
    assert_eq!(kept["wished_skills"][0]["skill"], "ratios");
    assert_eq!(kept["works"].as_array().unwrap().len(), 1, "nobody else's");
    let text = all.to_string();
    assert!(
        !text.contains("She was ill"),
        "why is told only where the teacher wishes it"
    );
    assert!(!text.contains("argon2") && !text.contains("token_hash"));
    // The quiz's results are to come: neither verdict nor score is in it, and that is said.
    let events = kept["events"].as_array().unwrap();
    assert!(events.len() >= 3);
    for event in events.iter().filter(|e| e["body"]["kind"] == "checked") {
        assert_eq!(event["body"]["kept_back"], "until the results are out");
    }
    assert!(!text.contains("\"outcome\""), "{text}");
    assert!(summary.contains("until the results are out"), "{summary}");

    // Nor is it for somebody who was taken out of the class meanwhile.
    sqlx::query("update class_members set left_at = now() where person_id = (select id from people where user_name = 'ada')")
        .execute(&pool)
        .await
        .unwrap();
    let (all, _, _) = take(&ada).await;
    assert_eq!(
        all["kept"]["works"][0]["recorded_percent"],
        "until the results are out"
    );
    assert!(!all.to_string().contains("\"outcome\""), "{all}");

    // In homework each verdict was seen as it came.
    let open = store::put_assignment(
        &pool,
        store::put_class(&pool, "Site Practice").await.unwrap(),
        "open",
        "Open",
        &homework(),
        &[crate::client::put_question(&pool, DOUBLED).await],
    )
    .await
    .unwrap()
    .0;
    client
        .send("POST", &format!("/api/assignments/{open}/open"), Some(&cy), None)
        .await;
    client
        .send(
            "POST",
            &format!("/api/assignments/{open}/check"),
            Some(&cy),
            Some(check("7")),
        )
        .await;
    let (all, _, _) = take(&cy).await;
    assert!(all.to_string().contains("\"outcome\":\"incorrect\""));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn lists_go_out_as_files_that_no_spreadsheet_runs(pool: PgPool) {
    let id = world_with(
        &pool,
        homework(),
        &[&DOUBLED.replace("title: Doubled", "title: '=1+1'")],
    )
    .await;
    teachers(&pool).await;
    let client = client!(pool);
    let (ada, tor, una) = (
        client.sign_in("ada").await,
        client.sign_in("tor").await,
        client.sign_in("una").await,
    );
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    client
        .send(
            "POST",
            &format!("/api/assignments/{id}/check"),
            Some(&ada),
            Some(check("-7")),
        )
        .await;
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let (_, people) = client
        .send("GET", &format!("/api/classes/{class}"), Some(&tor), None)
        .await;
    let cy = member(&people, "Cy Fenn")["id"].as_str().unwrap().to_owned();
    sqlx::query("update class_members set group_name = '@north' where person_id = $1::uuid")
        .bind(cy.parse::<uuid::Uuid>().unwrap())
        .execute(&pool)
        .await
        .unwrap();
    let get = async |who, path: String| {
        let (status, body) = fetch(&client, "GET", &path, Some(who), None, None).await;
        (status, words(body))
    };
    let (status, list) = get(&tor, format!("/api/classes/{class}/people.csv")).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(
        list,
        "Name,User name,Group\r\nAda Quill,ada,\r\nCy Fenn,cy,'@north\r\n"
    );
    let (_, went) = get(&tor, format!("/api/classes/{class}/assignments/{id}/went.csv")).await;
    let line = went.lines().nth(1).unwrap();
    assert!(line.starts_with("1,'=1+1,1,0,0,1,1,0,"), "{line}");
    assert!(line.ends_with(",'-7,1"), "{line}");
    let (_, scores) = get(&ada, "/api/scores.csv".into()).await;
    assert!(
        scores
            .lines()
            .nth(1)
            .unwrap()
            .starts_with("Site Practice,Doubling,"),
        "{scores}"
    );
    for path in ["people.csv".to_owned(), format!("assignments/{id}/went.csv")] {
        let path = format!("/api/classes/{class}/{path}");
        for who in [&ada, &una] {
            assert_eq!(get(who, path.clone()).await.0, StatusCode::NOT_FOUND, "{path}");
        }
    }
}
