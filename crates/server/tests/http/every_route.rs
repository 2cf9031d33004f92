//! Every route that is described: closed to who is not signed in, to who is not concerned, and to nonsense.

use actix_web::http::StatusCode;
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::client::{DOUBLED, check, client, homework, world_with};

/// A method, and a path with its parameters filled in.
type Route = (String, String);

/// What a parameter stands for, unless it is an id.
fn word(name: &str) -> Option<&'static str> {
    Some(match name {
        "question" | "round" | "number" => "0",
        "skill" => "ratios",
        "task" => "root",
        "file" => "two-gears.svg",
        "format" => "csv",
        "token" => "0",
        _ => return None,
    })
}

fn fill(path: &str, id: &str) -> String {
    let one = |part: &str| match part.strip_prefix('{').and_then(|p| p.strip_suffix('}')) {
        Some(name) => word(name).unwrap_or(id).to_owned(),
        None => part.to_owned(),
    };
    path.split('/').map(one).collect::<Vec<_>>().join("/")
}

fn routes(id: &str) -> Vec<Route> {
    let described: Value = serde_json::from_str(&server::open_api()).unwrap();
    let paths = described["paths"].as_object().unwrap();
    let mut all = Vec::new();
    for (path, methods) in paths {
        for method in methods.as_object().unwrap().keys() {
            all.push((method.to_uppercase(), fill(path, id)));
        }
    }
    assert!(all.len() > 50, "{}", all.len());
    all
}

/// Routes that take in a body.
fn body(method: &str) -> Option<Value> {
    (method != "GET" && method != "DELETE").then(|| json!({}))
}

/// How people come in: open to everybody.
const OPEN: &[&str] = &[
    "/api/session",
    "/api/start",
    "/api/welcome",
    "/api/welcome/look",
    "/api/join",
    "/api/join/look",
    "/api/openapi.json",
    // Who came from a portal: with a cookie of their own.
    "/api/arrival",
    "/api/arrival/new",
    "/api/arrival/join",
    // Whoever has the address of a calendar.
    "/api/calendar/0",
];

const NOBODY: &str = "01900000-0000-7000-8000-000000000000";

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nothing_but_signing_in_is_open_to_strangers(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    for (method, path) in routes(&id) {
        if OPEN.contains(&path.as_str()) {
            continue;
        }
        let (status, said) = client.send(&method, &path, None, body(&method)).await;
        assert_eq!(status, StatusCode::UNAUTHORIZED, "{method} {path}: {said}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_body_that_says_nothing_is_a_problem_and_never_a_fault_of_ours(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    for (method, path) in routes(&id) {
        if path == "/api/session" {
            continue;
        }
        for nonsense in [
            json!({}),
            json!([]),
            json!("?"),
            json!({"parts": 7, "entry": [], "step": -1}),
        ] {
            let sent = body(&method).map(|_| nonsense);
            let (status, said) = client.send(&method, &path, Some(&ada), sent).await;
            assert!(!status.is_server_error(), "{method} {path}: {status} {said}");
            if status.is_client_error() {
                assert!(said["detail"].is_string(), "{method} {path}: {status} {said}");
            }
        }
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn every_answer_is_described_with_its_status_and_type(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let ada = client.sign_in("ada").await;
    let described: Value = serde_json::from_str(&server::open_api()).unwrap();
    for (pattern, methods) in described["paths"].as_object().unwrap() {
        for (method, operation) in methods.as_object().unwrap() {
            let responses = operation["responses"].as_object().unwrap();
            for (status, response) in responses {
                assert_ne!(
                    response["description"], "",
                    "{method} {pattern}: {status} says nothing"
                );
                let content = response["content"].as_object();
                let is_problem = content.is_some_and(|c| c.contains_key("application/problem+json"));
                assert_eq!(
                    is_problem,
                    status.starts_with(['4', '5']),
                    "{method} {pattern}: {status}"
                );
            }
            if pattern == "/api/session" {
                continue;
            }
            let (method, path) = (method.to_uppercase(), fill(pattern, &id));
            for (who, sent) in [
                (None, None),
                (Some(&ada), body(&method)),
                (Some(&ada), body(&method).map(|_| json!("?"))),
            ] {
                let (status, said) = client.send(&method, &path, who, sent).await;
                let known = responses.contains_key(status.as_str());
                assert!(
                    known,
                    "{method} {path} answers {status}, which is not described: {said}"
                );
            }
        }
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_not_there_and_what_is_not_mine_look_the_same(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    let client = client!(pool);
    let (ada, bo) = (client.sign_in("ada").await, client.sign_in("bo").await);
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    let start = json!({"skills": ["fractions"], "right": 2});
    let (_, run) = client
        .send("POST", "/api/practice", Some(&ada), Some(start))
        .await;
    let run = run["id"].as_str().unwrap().to_owned();
    let bodies = |path: &str| {
        let parts = json!([{"id": "a", "response": "1"}]);
        match path.rsplit('/').next() {
            Some("check") if path.contains("/practice/") => json!({"parts": parts}),
            Some("check") => check("1"),
            Some("read") if path.contains("/practice/") => json!({"part": "a", "entry": "1"}),
            Some("read") => json!({"question": 0, "part": "a", "entry": "1"}),
            Some("entered") => json!({"number": 1, "based_on": 0, "parts": parts}),
            Some("drafts") => {
                json!({"question": 0, "set_number": 0, "part": "a", "based_on": 0, "response": "1"})
            }
            Some("calculate") => json!({"question": 0, "entry": "1+1", "last": null}),
            Some("try") => json!({"round": 0, "parts": parts}),
            Some("move-on") => json!({"to": 1}),
            Some("workings") => json!({"based_on": 0, "notes": "n", "ink": []}),
            Some("seen") => json!({"event": 0}),
            _ => json!({"parts": parts}),
        }
    };
    let mut not_found = Vec::new();
    let owned = |path: &str| path.contains(&id) || path.contains(&run);
    for (mine, theirs) in [(&id, "/api/assignments/"), (&run, "/api/practice/")] {
        let theirs_only = |(_, path): &Route| path.starts_with(theirs) && owned(path);
        for (method, path) in routes(mine).into_iter().filter(theirs_only) {
            let nobody = path.replace(mine.as_str(), NOBODY);
            let sent = || body(&method).map(|_| bodies(&path));
            let (status, said) = client.send(&method, &path, Some(&bo), sent()).await;
            let (other, unknown) = client.send(&method, &nobody, Some(&bo), sent()).await;
            assert_eq!(status, other, "{method} {path}: {said} {unknown}");
            assert_eq!(said["code"], unknown["code"], "{method} {path}");
            assert_ne!(status, StatusCode::OK, "{method} {path}: {said}");
            if status == StatusCode::NOT_FOUND {
                not_found.push(format!("{method} {path}"));
            }
        }
    }
    assert!(not_found.len() >= 25, "{not_found:#?}");
    // What they asked for changed nothing of hers.
    let (_, board) = client
        .send("GET", &format!("/api/assignments/{id}/board"), Some(&ada), None)
        .await;
    assert_eq!(board["questions"][0]["tries_left"], 3);
    let (_, shown) = client
        .send("GET", &format!("/api/practice/{run}"), Some(&ada), None)
        .await;
    assert_eq!(shown["answered"], 0);
}

/// Everything under a class, as everybody who might ask: only its own teachers find anything.
#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_class_is_open_to_its_teachers_alone(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    crate::classes::teachers(&pool).await;
    let client = client!(pool);
    let (ada, bo, tor, una) = (
        client.sign_in("ada").await,
        client.sign_in("bo").await,
        client.sign_in("tor").await,
        client.sign_in("una").await,
    );
    let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let ive = store::put_person(&pool, "ive", "Ive Roe", &hash, store::Role::Teacher)
        .await
        .unwrap();
    store::join_class(&pool, class, ive, store::MemberRole::Teacher, None)
        .await
        .unwrap();
    let ive = client.sign_in("ive").await;
    let (_, view) = client
        .send("GET", &format!("/api/classes/{class}"), Some(&tor), None)
        .await;
    let person = crate::classes::member(&view, "Ada Quill")["id"]
        .as_str()
        .unwrap()
        .to_owned();
    client
        .send("POST", &format!("/api/assignments/{id}/open"), Some(&ada), None)
        .await;
    // Something is written on paper, and the teacher may see it.
    for (tail, sent) in [
        (
            "paper/0",
            json!({"based_on": 0, "marks": [{"kind": "text", "block": 0, "x": 1.0, "y": 1.0, "text": "7"}]}),
        ),
        ("workings-shared", json!({"shared": true})),
    ] {
        let path = format!("/api/assignments/{id}/{tail}");
        assert_eq!(
            client.send("PUT", &path, Some(&ada), Some(sent)).await.0,
            StatusCode::OK
        );
    }
    let described: Value = serde_json::from_str(&server::open_api()).unwrap();
    let of_class = |path: &&String| path.starts_with("/api/classes/{id}");
    let (mut closed, mut seen) = (0, 0);
    for path in described["paths"].as_object().unwrap().keys().filter(of_class) {
        let filled = path
            .replace("{id}", &class.to_string())
            .replace("{person}", &person)
            .replace("{assignment}", &id)
            .replace("{suggestion}", &id)
            .replace("{question}", "0");
        for method in described["paths"][path].as_object().unwrap().keys() {
            let method = method.to_uppercase();
            // Such that nothing is changed by who may ask.
            let sent = || match path.as_str() {
                "/api/classes/{id}/join-code" => Some(json!({"on": "?"})),
                _ => body(&method),
            };
            assert_eq!(
                client.send(&method, &filled, None, sent()).await.0,
                StatusCode::UNAUTHORIZED
            );
            for who in [&ada, &bo, &una] {
                // A body that says nothing is looked at first in some; what is sent back tells nothing of the class.
                let (status, said) = client.send(&method, &filled, Some(who), sent()).await;
                let fits = status == StatusCode::NOT_FOUND
                    || (sent().is_some() && status == StatusCode::BAD_REQUEST);
                assert!(fits, "{method} {filled}: {status} {said}");
                closed += 1;
            }
            if method != "GET" {
                continue;
            }
            let mine = client.send("GET", &filled, Some(&tor), None).await;
            assert_eq!(mine.0, StatusCode::OK, "{filled}: {}", mine.1);
            assert_eq!(
                client.send("GET", &filled, Some(&ive), None).await,
                mine,
                "{filled}"
            );
            seen += 1;
        }
    }
    assert!(closed >= 60 && seen >= 8, "{closed} {seen}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nonsense_from_a_teacher_is_a_problem_and_never_a_fault_of_ours(pool: PgPool) {
    let id = world_with(&pool, homework(), &[DOUBLED]).await;
    crate::classes::teachers(&pool).await;
    let client = client!(pool);
    let tor = client.sign_in("tor").await;
    let class = store::put_class(&pool, "Site Practice")
        .await
        .unwrap()
        .to_string();
    let (mut asked, mut refused) = (0, 0);
    for target in [class.as_str(), id.as_str(), NOBODY] {
        for (method, path) in routes(target) {
            let path = path.replace(&format!("/assignments/{class}"), &format!("/assignments/{id}"));
            // They end the session, or make it somebody else's.
            if path == "/api/session" || path.ends_with("as-student") {
                continue;
            }
            for nonsense in [
                json!({}),
                json!([]),
                json!("?"),
                json!({"text": 7, "list": [], "settings": {"opens": -1}}),
            ] {
                let sent = body(&method).map(|_| nonsense);
                let (status, said) = client.send(&method, &path, Some(&tor), sent).await;
                assert!(!status.is_server_error(), "{method} {path}: {status} {said}");
                asked += 1;
                if status.is_client_error() {
                    assert!(said["detail"].is_string(), "{method} {path}: {status} {said}");
                    refused += 1;
                }
            }
        }
    }
    assert!(asked > 1_000 && refused > 500, "{asked} {refused}");
}
