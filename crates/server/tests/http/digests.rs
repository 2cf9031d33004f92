//! Week, Scores, Skills and the slip book come from rows that are derived when something happens: they must be what a fold
//! from nothing makes of the same events, whatever happened and in whatever order.

use actix_web::cookie::Cookie;
use actix_web::http::StatusCode;
use coursework::{Event, Exception, Goal, Release};
use serde_json::{Value, json};
use sqlx::PgPool;
use time::{Duration, OffsetDateTime};

use crate::client::{
    DOUBLED, Hands, QUESTION, add_event, client, homework, opened, put_question, quiz, world_with,
};

/// A long period and nothing to remember: the same moves for the same seed, everywhere.
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: u64) -> u64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) % n
    }
}

/// The pages that look across all of a student's work.
const PAGES: [&str; 6] = [
    "/api/week",
    "/api/scores",
    "/api/skills",
    "/api/slips",
    "/api/slips?which=to_mend",
    "/api/review",
];

/// What a page says, but for the instant at which it was asked.
fn without_now(mut page: Value) -> Value {
    fn strip(value: &mut Value, now: &Value) {
        match value {
            Value::Array(all) => all.iter_mut().for_each(|v| strip(v, now)),
            Value::Object(all) => all.values_mut().for_each(|v| strip(v, now)),
            _ if value == now => *value = Value::Null,
            _ => {}
        }
    }
    let now = page["now"].clone();
    strip(&mut page, &now);
    page
}

/// Where two pages first differ, as a JSON pointer with both values; nothing where they do not.
fn difference(one: &Value, other: &Value) -> Option<String> {
    let deeper = |key: &str, a: &Value, b: &Value| difference(a, b).map(|at| format!("/{key}{at}"));
    match (one, other) {
        (Value::Object(a), Value::Object(b)) if a.keys().eq(b.keys()) => {
            a.iter().find_map(|(key, value)| deeper(key, value, &b[key]))
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            let both = a.iter().zip(b).enumerate();
            both.into_iter()
                .find_map(|(n, (a, b))| deeper(&n.to_string(), a, b))
        }
        _ if one == other => None,
        _ => Some(format!(": {one} and {other}")),
    }
}

fn assert_same(one: &[Value], other: &[Value], when: &str) {
    for ((path, one), other) in PAGES.iter().zip(one).zip(other) {
        assert_eq!(difference(one, other), None, "{path}, {when}");
    }
}

macro_rules! pages {
    ($pool:expr, $hands:expr, $who:expr) => {{
        let server = client!($pool, $hands.clock());
        let mut all = Vec::new();
        for path in PAGES {
            let (status, page) = server.send("GET", path, Some(&$who), None).await;
            assert_eq!(status, StatusCode::OK, "{path}: {page}");
            all.push(without_now(page));
        }
        all
    }};
}

/// A homework, a quiz whose results come later, practice as an assignment, and one that has long been closed.
async fn world(pool: &PgPool) -> Vec<String> {
    let first = world_with(pool, homework(), &[DOUBLED, QUESTION]).await;
    let class = store::put_class(pool, "Site Practice").await.unwrap();
    let question = put_question(pool, DOUBLED).await;
    let (mut later, mut goal, mut closed) = (quiz(), homework(), homework());
    later.release = Release::AfterDue;
    goal.goal = Some(Goal::Right {
        skills: vec!["fractions".into()],
        right: 3,
    });
    for date in [&mut closed.opens, &mut closed.due, &mut closed.closes] {
        *date -= Duration::days(40);
    }
    let mut all = vec![first];
    for (slug, settings, questions) in [
        ("quiz", &later, &[question][..]),
        ("goal", &goal, &[]),
        ("closed", &closed, &[question]),
    ] {
        let (id, _) = store::put_assignment(pool, class, slug, slug, settings, questions)
            .await
            .unwrap();
        all.push(id.to_string());
    }
    all
}

fn entry(dice: &mut Dice, shown: &Value) -> String {
    let text = shown["text"].to_string();
    let number: String = text.chars().filter(char::is_ascii_digit).collect();
    let number: i64 = number.parse().unwrap_or(100);
    match dice.below(6) {
        0 | 1 => (2 * number).to_string(),
        2 => format!("{number}+{number}"),
        3 => "3 +".into(),
        4 => "7".into(),
        _ => (2 * number + 1).to_string(),
    }
}

/// One thing that a student, their teacher or the clock does. Much of it is refused: that is part of it.
async fn happen<S, B>(
    dice: &mut Dice,
    client: &crate::client::Client<S>,
    pool: &PgPool,
    assignments: &[String],
    ada: &Cookie<'static>,
) where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let which = dice.below(3) as usize;
    let id = &assignments[which];
    let path = |tail: &str| format!("/api/assignments/{id}{tail}");
    let question = dice.below(2);
    let send = |method, path: String, body| async move { client.send(method, &path, Some(ada), body).await };
    match dice.below(16) {
        0..=5 if which < 2 => {
            send("POST", path("/open"), None).await;
            let (_, board) = send("GET", path("/board"), None).await;
            let entered = entry(dice, &board["questions"][question as usize]);
            let mut parts = vec![json!({"id": "a", "response": entered})];
            if question == 1 && dice.below(2) == 0 {
                let id = ["blade", "rotor"][dice.below(2) as usize];
                parts.push(json!({"id": "b", "response": [id]}));
            }
            let body = json!({"question": question, "parts": parts});
            send("POST", path("/check"), Some(body)).await;
        }
        6 => {
            let body = json!({"question": question, "set": 0, "part": "a", "based_on": 0, "response": "12"});
            send("PUT", path("/drafts"), Some(body)).await;
        }
        7 => {
            send(
                "POST",
                path(&format!("/questions/{question}/fresh-numbers")),
                None,
            )
            .await;
        }
        8 => {
            send("POST", path(&format!("/questions/{question}/hint")), None).await;
            send("POST", path(&format!("/questions/{question}/working")), None).await;
        }
        9 => {
            send("POST", path("/hand-in"), None).await;
        }
        10 => {
            send("POST", path("/take-back"), None).await;
        }
        11 => {
            let event = match dice.below(3) {
                0 => Event::ScoredByTeacher {
                    question: 0,
                    points: 0.5,
                    note: "Half of it stands.".into(),
                    by: None,
                    parts: Vec::new(),
                },
                1 => Event::ExceptionGiven(Exception {
                    due: Some(OffsetDateTime::now_utc() + Duration::hours(30)),
                    more_hand_ins: 1,
                    ..Exception::default()
                }),
                _ => Event::ExceptionGiven(Exception {
                    time_percent: Some(125),
                    ..Exception::default()
                }),
            };
            add_event(pool, id, "ada", event).await;
        }
        12 => {
            send(
                "PUT",
                "/api/pages/fractions/place".into(),
                Some(json!({"step": 1, "read": true})),
            )
            .await;
        }
        _ => practise(dice, client, &assignments[2], ada).await,
    }
}

/// Of one's own accord, or for the assignment.
async fn practise<S, B>(
    dice: &mut Dice,
    client: &crate::client::Client<S>,
    assignment: &str,
    ada: &Cookie<'static>,
) where
    S: actix_web::dev::Service<
            actix_http::Request,
            Response = actix_web::dev::ServiceResponse<B>,
            Error = actix_web::Error,
        >,
    B: actix_web::body::MessageBody,
{
    let send = |method, path: String, body| async move { client.send(method, &path, Some(ada), body).await };
    let (status, run) = if dice.below(2) == 0 {
        send("POST", format!("/api/assignments/{assignment}/open"), None).await;
        send("POST", format!("/api/assignments/{assignment}/practise"), None).await
    } else {
        let goal = json!({"skills": ["fractions"], "target": {"right": 2}});
        send("POST", "/api/practice".into(), Some(goal)).await
    };
    if status != StatusCode::OK {
        return;
    }
    let path = |tail: &str| format!("/api/practice/{}{tail}", run["id"].as_str().unwrap());
    for _ in 0..=dice.below(3) {
        let (_, shown) = send("GET", path(""), None).await;
        let entered = entry(dice, &shown["question"]);
        let body = json!({"parts": [{"id": "a", "response": entered}]});
        send("POST", path("/check"), Some(body)).await;
        send("POST", path("/next"), None).await;
    }
}

type Row = (uuid::Uuid, i32, i32, Vec<u8>);

async fn rows(pool: &PgPool) -> (Vec<Row>, Vec<Row>) {
    let works = "select work_id, last_event, version, body from work_digests order by work_id";
    let runs = "select run_id, last_event, form, body from run_digests order by run_id";
    let works = sqlx::query_as(works).fetch_all(pool).await.unwrap();
    let runs = sqlx::query_as(runs).fetch_all(pool).await.unwrap();
    (works, runs)
}

async fn drop_all(pool: &PgPool) {
    for change in [
        "delete from work_digests",
        "delete from run_digests",
        "update works set ends_at = null, recorded_percent = null",
    ] {
        sqlx::query(change).execute(pool).await.unwrap();
    }
}

async fn derived(pool: &PgPool) -> Vec<(uuid::Uuid, Option<OffsetDateTime>, Option<f64>)> {
    let all = "select id, ends_at, recorded_percent from works where last_event > 0 order by id";
    sqlx::query_as(all).fetch_all(pool).await.unwrap()
}

async fn what_is_derived_is_the_fold(pool: PgPool, seed: u64) {
    let hands = Hands::new();
    let assignments = world(&pool).await;
    // Two servers, which take turns: neither may rely on what only it has seen.
    let servers = [client!(pool, hands.clock()), client!(pool, hands.clock())];
    let ada = servers[0].sign_in("ada").await;
    let mut dice = Dice(seed);
    for turn in 0..60 {
        let client = &servers[dice.below(2) as usize];
        happen(&mut dice, client, &pool, &assignments, &ada).await;
        if turn == 40 {
            hands.move_to(2 * 86_400);
        }
    }
    let (written, runs_written) = rows(&pool).await;
    assert!(
        written.len() >= 2 && !runs_written.is_empty(),
        "nothing much has happened"
    );
    let (mut from_servers, mut column) = (Vec::new(), derived(&pool).await);
    for path in PAGES {
        let (_, page) = servers[1].send("GET", path, Some(&ada), None).await;
        from_servers.push(without_now(page));
    }
    let from_rows = pages!(pool, hands, ada);
    assert_same(
        &from_servers,
        &from_rows,
        &format!("seed {seed}: what a server holds"),
    );

    drop_all(&pool).await;
    let from_nothing = pages!(pool, hands, ada);
    assert_same(
        &from_rows,
        &from_nothing,
        &format!("seed {seed}: folded from nothing"),
    );
    assert_eq!(
        rows(&pool).await,
        (written.clone(), runs_written.clone()),
        "written down again"
    );

    drop_all(&pool).await;
    let done = school::rebuild(&school::School::new(pool.clone())).await.unwrap();
    assert_eq!((done.works, done.runs), (written.len(), runs_written.len()));
    assert_eq!(rows(&pool).await, (written, runs_written));
    let rebuilt = derived(&pool).await;
    column.retain(|(id, ..)| rebuilt.iter().any(|(other, ..)| other == id));
    assert_eq!(column, rebuilt);
    assert_same(
        &pages!(pool, hands, ada),
        &from_nothing,
        &format!("seed {seed}: rebuilt"),
    );
}

macro_rules! seeds {
    ($($name:ident: $seed:literal),* $(,)?) => {
        $(
            #[sqlx::test(migrator = "store::MIGRATOR")]
            async fn $name(pool: PgPool) {
                what_is_derived_is_the_fold(pool, $seed).await;
            }
        )*
    };
}

seeds! {
    pages_from_derived_rows_are_those_of_a_fold_1: 1,
    pages_from_derived_rows_are_those_of_a_fold_2: 29,
    pages_from_derived_rows_are_those_of_a_fold_3: 471,
    pages_from_derived_rows_are_those_of_a_fold_4: 6_007,
    pages_from_derived_rows_are_those_of_a_fold_5: 80_021,
    pages_from_derived_rows_are_those_of_a_fold_6: 999_331,
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_row_of_an_older_version_or_form_is_made_anew(pool: PgPool) {
    let hands = Hands::new();
    let assignments = world(&pool).await;
    let client = client!(pool, hands.clock());
    let ada = client.sign_in("ada").await;
    let path = |tail: &str| format!("/api/assignments/{}{tail}", assignments[0]);
    client.send("POST", &path("/open"), Some(&ada), None).await;
    let wrong = json!({"question": 0, "parts": [{"id": "a", "response": "7"}]});
    client
        .send("POST", &path("/check"), Some(&ada), Some(wrong))
        .await;
    let before = pages!(pool, hands, ada);
    assert_eq!(before[3]["open"], 1);
    for change in [
        "update work_digests set form = 0",
        "update work_digests set version = 0",
        "update work_digests set last_event = 1",
        "update work_digests set body = ''",
        "update assignments set version = version + 1",
    ] {
        sqlx::query(change).execute(&pool).await.unwrap();
        assert_same(&pages!(pool, hands, ada), &before, change);
        let (works, _) = rows(&pool).await;
        let fresh = works
            .iter()
            .all(|(_, last, version, body)| *last == 2 && *version >= 1 && !body.is_empty());
        assert!(fresh, "{change}: {works:?}");
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_slip_book_comes_a_page_at_a_time(pool: PgPool) {
    let mut settings = homework();
    (settings.max_attempts, settings.max_sets) = (None, None);
    let (client, ada, path) = opened!(pool, settings, &[DOUBLED]);
    for n in 1..=30 {
        let wrong = json!({"question": 0, "parts": [{"id": "a", "response": n.to_string()}]});
        client
            .send("POST", &path("/check"), Some(&ada), Some(wrong))
            .await;
    }
    let get = async |query: &str| {
        let (status, page) = client
            .send("GET", &format!("/api/slips{query}"), Some(&ada), None)
            .await;
        assert_eq!(status, StatusCode::OK, "{page}");
        let typed = |s: &Value| s["given"][0]["verdict"]["response"].as_str().unwrap().to_owned();
        let slips = page["slips"].as_array().unwrap().clone();
        (slips.iter().map(typed).collect::<Vec<_>>(), page)
    };
    let numbers = |from: i32, to: i32| (to..=from).rev().map(|n| n.to_string()).collect::<Vec<_>>();
    let (first, page) = get("").await;
    assert_eq!(first, numbers(30, 6));
    assert_eq!(
        (&page["open"], &page["slips_in_all"], &page["of_these"]),
        (&json!(30), &json!(30), &json!(30))
    );
    let (second, _) = get("?after=25").await;
    assert_eq!(second, numbers(5, 1));
    assert!(get("?after=30").await.0.is_empty());
    let (mended, page) = get("?which=mended").await;
    assert_eq!(
        (mended.len(), &page["of_these"], &page["slips_in_all"]),
        (0, &json!(0), &json!(30))
    );
    // One that is linked to is there, whatever page it is on.
    let (_, page) = get("?after=25").await;
    let last = &page["slips"][4];
    let name = format!("{}.{}", last["source"].as_str().unwrap(), last["event"]);
    let (shown, page) = get(&format!("?chosen={name}")).await;
    assert_eq!((shown.len(), &page["chosen"]), (25, last));
    for nothing in [
        "",
        "1",
        "x.y",
        &format!("{}.9999", last["source"].as_str().unwrap()),
    ] {
        let (_, page) = get(&format!("?chosen={nothing}")).await;
        assert_eq!(page["chosen"], Value::Null, "{nothing}");
    }
    let (status, _) = client
        .send("GET", "/api/slips?which=lost", Some(&ada), None)
        .await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let (status, _) = client.send("GET", "/api/slips?after=-1", Some(&ada), None).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
}
