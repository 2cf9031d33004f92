//! A client of the real router, and small worlds for it.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use actix_web::{dev::ServiceResponse, test};
use coursework::Settings;
use school::sign_in::hash_password;
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

/// Signs people in and sends their requests.
pub struct Client<S> {
    pub app: S,
}

macro_rules! client {
    ($pool:expr) => {
        client!($pool, school::Clock::System)
    };
    ($pool:expr, $clock:expr) => {
        $crate::client::Client {
            app: actix_web::test::init_service(server::app(
                school::School::new($pool.clone()).with_clock($clock),
                server::Settings::default(),
            ))
            .await,
        }
    };
}
pub(crate) use client;

/// A client with Ada signed in, who has opened the one assignment, and its addresses.
macro_rules! opened {
    ($pool:expr, $settings:expr, $questions:expr) => {{
        let id = $crate::client::world_with(&$pool, $settings, $questions).await;
        let client = $crate::client::client!($pool);
        let ada = client.sign_in("ada").await;
        let path = move |tail: &str| format!("/api/assignments/{id}{tail}");
        client.send("POST", &path("/open"), Some(&ada), None).await;
        (client, ada, path)
    }};
}
pub(crate) use opened;

impl<S, B> Client<S>
where
    S: actix_web::dev::Service<actix_http::Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    B: actix_web::body::MessageBody,
{
    pub async fn send(
        &self,
        method: &str,
        path: &str,
        who: Option<&Cookie<'static>>,
        body: Option<Value>,
    ) -> (StatusCode, Value) {
        let mut request = test::TestRequest::default()
            .method(method.parse().unwrap())
            .uri(path)
            .peer_addr("127.0.0.1:5000".parse().unwrap());
        if let Some(cookie) = who {
            request = request.cookie(cookie.clone());
        }
        if let Some(body) = body {
            request = request.set_json(body);
        }
        let response = test::call_service(&self.app, request.to_request()).await;
        let status = response.status();
        let bytes = test::read_body(response).await;
        (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }

    /// The bytes of an answer that is a file.
    pub async fn file(&self, path: &str, who: &Cookie<'static>) -> (StatusCode, Vec<u8>) {
        let request = test::TestRequest::get()
            .uri(path)
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .cookie(who.clone());
        let response = test::call_service(&self.app, request.to_request()).await;
        (response.status(), test::read_body(response).await.to_vec())
    }

    /// Sends a file.
    pub async fn upload(&self, path: &str, who: &Cookie<'static>, bytes: Vec<u8>) -> (StatusCode, Value) {
        let request = test::TestRequest::post()
            .uri(path)
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .cookie(who.clone())
            .insert_header(("content-type", "application/zip"))
            .set_payload(bytes);
        let response = test::call_service(&self.app, request.to_request()).await;
        let status = response.status();
        let bytes = test::read_body(response).await;
        (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }

    pub async fn sign_in(&self, name: &str) -> Cookie<'static> {
        let request = test::TestRequest::post()
            .uri("/api/session")
            .peer_addr("127.0.0.1:5000".parse().unwrap())
            .set_json(json!({"user_name": name, "password": "slate-and-chalk"}));
        let response = test::call_service(&self.app, request.to_request()).await;
        assert_eq!(response.status(), StatusCode::OK);
        let cookie = response.response().cookies().next().unwrap().into_owned();
        assert_eq!(cookie.http_only(), Some(true));
        assert_eq!(cookie.same_site(), Some(actix_web::cookie::SameSite::Strict));
        cookie
    }
}

pub const QUESTION: &str = "
id: doubled
title: Doubled
points: 2
numbers: {n: {from: 100, to: 400}}
text: 'Twice {{n}}?'
parts:
  - {id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}
  - id: b
    interaction: choice
    choices: [{id: blade, text: even, correct: true}, {id: rotor, text: odd}]
";

/// On fractions, which stand on nothing, with numbers enough to practise.
pub const DOUBLED: &str = "
id: doubled
title: Doubled
skills: [fractions]
points: 1
numbers: {n: {from: 100, to: 900}}
text: 'Twice {{n}}?'
parts: [{id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}]
help: {working: ['WORKING']}
";

/// Ada and Cy are in the class of the one assignment, Bo is not.
pub async fn world(pool: &PgPool) -> String {
    world_with(pool, homework(), &[QUESTION, QUESTION]).await
}

pub fn homework() -> Settings {
    let now = OffsetDateTime::now_utc();
    Settings::homework(now - Duration::days(1), now + Duration::days(1))
}

pub fn quiz() -> Settings {
    let now = OffsetDateTime::now_utc();
    Settings::quiz(now - Duration::days(1), now + Duration::days(1))
}

/// The same world with other settings and questions.
pub async fn world_with(pool: &PgPool, settings: Settings, questions: &[&str]) -> String {
    let hash = hash_password("slate-and-chalk").unwrap();
    let class = store::put_class(pool, "Site Practice").await.unwrap();
    for (name, shown, member) in [
        ("ada", "Ada Quill", true),
        ("bo", "Bo Larch", false),
        ("cy", "Cy Fenn", true),
    ] {
        let person = store::put_person(pool, name, shown, &hash, store::Role::Student)
            .await
            .unwrap();
        if member {
            store::add_member(pool, class, person).await.unwrap();
        }
    }
    let mut ids = Vec::new();
    for question in questions {
        ids.push(put_question(pool, question).await);
    }
    let (assignment, _) = store::put_assignment(pool, class, "doubling", "Doubling", &settings, &ids)
        .await
        .unwrap();
    assignment.to_string()
}

/// Tam, who teaches the class of an assignment; gives the class.
pub async fn teacher_of(pool: &PgPool, assignment: &str) -> uuid::Uuid {
    let stored = store::find_assignment(pool, assignment.parse().unwrap())
        .await
        .unwrap();
    let class = stored.unwrap().head.class_id;
    let hash = hash_password("slate-and-chalk").unwrap();
    let tam = store::put_person(pool, "tam", "Tam Oakes", &hash, store::Role::Teacher)
        .await
        .unwrap();
    store::add_member(pool, class, tam).await.unwrap();
    class
}

pub async fn put_question(pool: &PgPool, yaml: &str) -> store::QuestionId {
    let question = marking::parse_question(yaml).unwrap();
    let digest = serde_json::to_vec(&question).unwrap();
    let (id, _) = store::put_question(pool, &question, &digest, OffsetDateTime::now_utc())
        .await
        .unwrap();
    id
}

/// Adds what a teacher or the clock adds to a student's work; begins it if need be.
pub async fn add_event(pool: &PgPool, assignment: &str, user: &str, event: coursework::Event) {
    let (person, _) = store::find_credentials(pool, user).await.unwrap().unwrap();
    let assignment = assignment.parse().unwrap();
    let work = store::start_work(pool, assignment, person.id).await.unwrap();
    let mut events = store::events_of(pool, work).await.unwrap();
    let last = events.last().map_or(0, |e| e.number);
    let school = school::School::new(pool.clone());
    let stored = school.assignment(assignment, None).await.unwrap();
    let at = school.now();
    events.push(coursework::Recorded {
        number: last + 1,
        at,
        event: event.clone(),
    });
    let state = coursework::fold(&stored.assignment, &events);
    let addition = store::Append {
        assignment,
        version: stored.version,
        student: person.id,
        work: Some(work),
        last,
        events: &[event],
        after: store::Derived::of(&stored.assignment, &state),
        at,
        by_student: false,
        session: None,
    };
    store::append(pool, &addition).await.unwrap();
}

/// A clock that a test moves.
pub struct Hands(std::path::PathBuf);

impl Hands {
    pub fn new() -> Self {
        static COUNT: std::sync::atomic::AtomicU32 = std::sync::atomic::AtomicU32::new(0);
        let count = COUNT.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
        let file = std::env::temp_dir().join(format!("green-slate-clock-{}-{count}", std::process::id()));
        let hands = Hands(file);
        hands.move_to(0);
        hands
    }

    pub fn clock(&self) -> school::Clock {
        school::Clock::Moved(self.0.clone())
    }

    /// So many seconds ahead of the real time.
    pub fn move_to(&self, seconds: i64) {
        std::fs::write(&self.0, seconds.to_string()).unwrap();
    }
}

impl Drop for Hands {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.0);
    }
}

pub fn number_in(board: &Value) -> i64 {
    let text = board["questions"][0]["text"][0]["content"][0]["value"]
        .as_str()
        .unwrap();
    text.chars()
        .filter(char::is_ascii_digit)
        .collect::<String>()
        .parse()
        .unwrap()
}

/// Whether a number stands in any text of an answer, as a word of its own. Ids and instants are made of digits by chance and
/// say nothing; what is a number in JSON counts something.
pub fn says(view: &Value, number: i64) -> bool {
    match view {
        Value::String(text) => {
            let is_chance = uuid::Uuid::parse_str(text).is_ok()
                || time::OffsetDateTime::parse(text, &time::format_description::well_known::Rfc3339).is_ok();
            let number = number.to_string();
            !is_chance
                && text
                    .split(|c: char| !c.is_ascii_digit())
                    .any(|word| word == number)
        }
        Value::Array(all) => all.iter().any(|v| says(v, number)),
        Value::Object(all) => all.values().any(|v| says(v, number)),
        Value::Null | Value::Bool(_) | Value::Number(_) => false,
    }
}

#[core::prelude::v1::test]
fn a_number_is_said_where_it_is_a_word() {
    let said = |v: Value| says(&v, 34);
    assert!(said(json!({"text": [{"value": "It is 34, or more."}]})) && said(json!("34")));
    for by_chance in [
        "134",
        "340",
        "01900000-0000-7000-8000-000000000034",
        "2027-03-01T08:34:00Z",
    ] {
        assert!(!said(json!({"a": by_chance, "points": 34})), "{by_chance}");
    }
}

pub fn check(entry: &str) -> Value {
    json!({"question": 0, "parts": [{"id": "a", "response": entry}]})
}
