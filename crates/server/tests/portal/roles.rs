//! A role belongs to the course that it was said of: who teaches one is a student of another, and nothing more there.

use reqwest::{StatusCode, Url};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::browser::{Browser, Page};
use crate::site::Site;

const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";
const MEMBER: &str = "http://purl.imsglobal.org/vocab/lis/v2/membership";
const ASSISTANT: &str = "http://purl.imsglobal.org/vocab/lis/v2/membership/Instructor#TeachingAssistant";
const TEST_USER: &str = "http://purl.imsglobal.org/vocab/lti/system/person#TestUser";

/// Somebody is sent from a course, as what the portal says they are there.
async fn come(site: &Site, browser: &mut Browser, subject: &str, course: &str, roles: &[&str]) -> Page {
    let mut address = Url::parse(&format!("{}/lti/login", site.base)).unwrap();
    address
        .query_pairs_mut()
        .append_pair("iss", &site.portal.base)
        .append_pair("login_hint", "p-ada")
        .append_pair("target_link_uri", &format!("{}/", site.base))
        .append_pair("client_id", &site.portal.client_id);
    let (_, to) = browser.step(address.as_str()).await;
    let to = to.unwrap();
    let value = |name: &str| {
        let found = to.query_pairs().find(|(n, _)| n == name);
        found.map(|(_, v)| v.into_owned()).unwrap_or_default()
    };
    let mut claims = portal::claims(&site.portal, "p-ada", Some("l-1"), &value("nonce"));
    claims["sub"] = json!(subject);
    claims["name"] = json!(format!("Member {subject}"));
    claims[format!("{CLAIM}context")] = json!({"id": course, "title": format!("Course {course}")});
    let roles: Vec<String> = roles
        .iter()
        .map(|r| {
            if r.contains(':') {
                (*r).to_owned()
            } else {
                format!("{MEMBER}#{r}")
            }
        })
        .collect();
    claims[format!("{CLAIM}roles")] = json!(roles);
    let token = site.portal.sign(&claims).unwrap();
    let (from, _) = browser.step(&site.portal.base).await;
    let fields = [
        ("state".to_owned(), value("state")),
        ("id_token".to_owned(), token),
    ];
    browser
        .post(&from, &format!("{}/lti/launch", site.base), &fields)
        .await
}

async fn status(site: &Site, browser: &mut Browser, path: &str) -> StatusCode {
    browser
        .ask("GET", &format!("{}{path}", site.base), None)
        .await
        .status
}

/// The titles of the classes that somebody teaches; nothing where the desk is closed to them.
async fn taught(site: &Site, browser: &mut Browser) -> Vec<String> {
    let page = browser
        .ask("GET", &format!("{}/api/classes", site.base), None)
        .await;
    if page.status == StatusCode::NOT_FOUND {
        return Vec::new();
    }
    let classes = page.json()["classes"].as_array().unwrap().clone();
    classes
        .iter()
        .map(|c| c["title"].as_str().unwrap().to_owned())
        .collect()
}

/// Another class, which is the course `c-2`.
async fn second_class(site: &Site) -> uuid::Uuid {
    let class = store::put_class(&site.pool, "Night Course").await.unwrap();
    let portals = store::portals_known(&site.pool).await.unwrap();
    store::put_course(&site.pool, portals[0].id, "1", "c-2", "Night Course", class)
        .await
        .unwrap();
    class
}

/// Every route under a class, and the whole of the bank where the desk is closed, is not there.
async fn is_shut(site: &Site, browser: &mut Browser, class: uuid::Uuid) {
    let (ada, _) = store::find_credentials(&site.pool, "ada").await.unwrap().unwrap();
    let described: Value = serde_json::from_str(&server::open_api()).unwrap();
    let mut asked = 0;
    for (path, methods) in described["paths"].as_object().unwrap() {
        if !path.starts_with("/api/classes/{id}") {
            continue;
        }
        let filled = path
            .replace("{id}", &class.to_string())
            .replace("{person}", &ada.id.0.to_string())
            .replace("{assignment}", &site.assignment)
            .replace("{suggestion}", &site.assignment)
            .replace("{question}", "0");
        for method in methods.as_object().unwrap().keys() {
            let method = method.to_uppercase();
            let sent = (method != "GET" && method != "DELETE").then(|| json!({}));
            let had_body = sent.is_some();
            let page = browser
                .ask(&method, &format!("{}{filled}", site.base), sent)
                .await;
            let shut = page.status == StatusCode::NOT_FOUND
                || (had_body
                    && (page.status == StatusCode::BAD_REQUEST
                        || page.status == StatusCode::UNSUPPORTED_MEDIA_TYPE));
            assert!(shut, "{method} {filled}: {} {}", page.status, page.text);
            asked += 1;
        }
    }
    assert!(asked > 30, "{asked}");
    // What is a class's own and takes a body that fits.
    for (method, tail, body) in [
        ("POST", format!("members/{}/link", ada.id.0), None),
        (
            "PUT",
            format!("members/{}/password", ada.id.0),
            Some(json!({"password": "a-new-password-9"})),
        ),
        ("PUT", "join-code".to_owned(), Some(json!({"on": true}))),
        ("POST", "students".to_owned(), Some(json!({"list": "Jo Roe"}))),
        (
            "PUT",
            format!("members/{}", ada.id.0),
            Some(json!({"left": true})),
        ),
    ] {
        let address = format!("{}/api/classes/{class}/{tail}", site.base);
        let page = browser.ask(method, &address, body).await;
        assert_eq!(
            page.status,
            StatusCode::NOT_FOUND,
            "{method} {tail}: {}",
            page.text
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_elsewhere_who_comes_as_a_learner_is_a_student_there_and_nothing_else(pool: PgPool) {
    let site = Site::start(&pool).await;
    second_class(&site).await;
    let mut browser = Browser::new();
    come(&site, &mut browser, "s-2", "c-2", &["Instructor"]).await;
    assert_eq!(taught(&site, &mut browser).await, ["Night Course"]);
    let page = come(&site, &mut browser, "s-2", "c-1", &["Learner"]).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    assert_eq!(taught(&site, &mut browser).await, ["Night Course"]);
    is_shut(&site, &mut browser, site.class).await;
    assert_eq!(
        status(
            &site,
            &mut browser,
            &format!("/api/assignments/{}", site.assignment)
        )
        .await,
        StatusCode::OK,
        "the work itself is theirs"
    );
    let me = site.ask(&mut browser, "GET", "/api/me", None).await;
    assert_eq!((&me["role"], &me["studies"]), (&json!("teacher"), &json!(true)));
    // By the list alone as well.
    let (tam, _) = store::find_credentials(&pool, "tam").await.unwrap().unwrap();
    let members = store::members_of(&pool, site.class).await.unwrap();
    let teachers: Vec<_> = members
        .iter()
        .filter(|m| m.role == store::MemberRole::Teacher)
        .collect();
    assert_eq!(teachers.len(), 1);
    assert_eq!(teachers[0].person.id, tam.id);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_student_here_who_teaches_another_course_is_a_teacher_there_and_made_one_here_too(pool: PgPool) {
    let site = Site::start(&pool).await;
    let night = second_class(&site).await;
    let mut browser = Browser::new();
    come(&site, &mut browser, "s-3", "c-1", &["Learner"]).await;
    assert!(taught(&site, &mut browser).await.is_empty());
    let page = come(&site, &mut browser, "s-3", "c-2", &["Instructor"]).await;
    assert_eq!(page.url.path(), format!("/classes/{night}"));
    assert_eq!(taught(&site, &mut browser).await, ["Night Course"]);
    is_shut(&site, &mut browser, site.class).await;
    // A teacher of the class they study in must not come into the other by their account.
    let mut tam = site.browser("p-tam").await;
    site.click(&mut tam, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut tam, "POST", "/api/arrival/join", Some(join)).await;
    let me = site.ask(&mut browser, "GET", "/api/me", None).await;
    let (person, _) = store::find_credentials(&pool, me["user_name"].as_str().unwrap())
        .await
        .unwrap()
        .unwrap();
    let link = format!(
        "{}/api/classes/{}/members/{}/link",
        site.base, site.class, person.id.0
    );
    let refused = tam.ask("POST", &link, None).await;
    assert_eq!(refused.status, StatusCode::BAD_REQUEST, "{}", refused.text);
    // The portal makes them a teacher of this course, and takes that back.
    come(&site, &mut browser, "s-3", "c-1", &["Instructor"]).await;
    assert_eq!(
        taught(&site, &mut browser).await,
        ["Night Course", "Site Practice"]
    );
    come(&site, &mut browser, "s-3", "c-1", &["Learner"]).await;
    assert_eq!(taught(&site, &mut browser).await, ["Night Course"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_assistant_teaches_their_course_and_an_observer_comes_in_nowhere(pool: PgPool) {
    let site = Site::start(&pool).await;
    let night = second_class(&site).await;
    let mut browser = Browser::new();
    come(&site, &mut browser, "s-4", "c-2", &[ASSISTANT]).await;
    assert_eq!(taught(&site, &mut browser).await, ["Night Course"]);
    is_shut(&site, &mut browser, site.class).await;
    for role in ["Mentor", "ContentDeveloper", "Member"] {
        let mut browser = Browser::new();
        let page = come(&site, &mut browser, "s-5", "c-1", &[role]).await;
        assert_eq!(page.status, StatusCode::FORBIDDEN, "{role}");
        assert_eq!(
            status(&site, &mut browser, "/api/me").await,
            StatusCode::UNAUTHORIZED
        );
    }
    let mut nobody = Browser::new();
    for class in [site.class, night] {
        assert_eq!(
            status(&site, &mut nobody, &format!("/api/classes/{class}")).await,
            StatusCode::UNAUTHORIZED
        );
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_was_made_a_teacher_here_stays_one_whatever_the_portal_says(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut tam = site.browser("p-tam").await;
    site.click(&mut tam, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut tam, "POST", "/api/arrival/join", Some(join)).await;
    come(&site, &mut tam, "p-tam", "c-1", &["Learner"]).await;
    assert_eq!(taught(&site, &mut tam).await, ["Site Practice"]);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_portals_test_user_works_as_a_student_does_and_is_counted_nowhere(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = Browser::new();
    let page = come(&site, &mut browser, "t-1", "c-1", &["Learner", TEST_USER]).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    site.hand_in(&mut browser, false).await;
    let teacher = store::find_credentials(&pool, "tam").await.unwrap().unwrap().0.id;
    let classes = store::classes_taught(&pool, teacher, site.school.now())
        .await
        .unwrap();
    let students = store::members_of(&pool, site.class).await.unwrap();
    let counted = students
        .iter()
        .filter(|m| m.role == store::MemberRole::Student)
        .count();
    assert_eq!(classes[0].students, i64::try_from(counted).unwrap());
    assert!(students.iter().any(|m| m.role == store::MemberRole::Trial));
    let assignment = site.assignment.parse().unwrap();
    assert!(store::students_at(&pool, assignment).await.unwrap().is_empty());
    assert!(
        store::recorded_scores(&pool, &[assignment])
            .await
            .unwrap()
            .is_empty()
    );
    assert!(store::sheet_rows(&pool, site.class).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_portal_makes_teachers_only_where_the_administrator_lets_it(pool: PgPool) {
    let site = Site::start(&pool).await;
    sqlx::query("update portals set vouches_for_teachers = false")
        .execute(&pool)
        .await
        .unwrap();
    let mut browser = Browser::new();
    let page = come(&site, &mut browser, "s-6", "sandbox", &["Instructor"]).await;
    assert!(page.text.contains("Ask the administrator"), "{}", page.text);
    assert_eq!(
        status(&site, &mut browser, "/api/me").await,
        StatusCode::UNAUTHORIZED
    );
    // Somebody who teaches here already says which of their classes a course is, whoever vouches for them; whoever says that
    // they are somebody else gets no account.
    let mut tam = site.browser("p-tam").await;
    sqlx::query("delete from portal_courses")
        .execute(&pool)
        .await
        .unwrap();
    let asked = site.click(&mut tam, "l-1").await;
    assert_eq!(asked.url.path(), "/from-portal");
    let on = site.ask(&mut tam, "POST", "/api/arrival/new", None).await;
    assert!(
        on["why"].as_str().unwrap().contains("Ask the administrator"),
        "{on}"
    );
    site.click(&mut tam, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    let on = site.ask(&mut tam, "POST", "/api/arrival/join", Some(join)).await;
    assert_eq!(on["to"], "/from-portal/class");
    let chosen = json!({"class": site.class});
    site.ask(&mut tam, "POST", "/api/arrival/class", Some(chosen))
        .await;
    // In a course that is a class here they teach that class, and no other.
    come(&site, &mut browser, "s-6", "c-1", &["Instructor"]).await;
    assert_eq!(taught(&site, &mut browser).await, ["Site Practice"]);
    let page = come(&site, &mut browser, "s-7", "c-1", &["Learner"]).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    assert_eq!(
        status(&site, &mut browser, "/api/bank/doubled/text").await,
        StatusCode::NOT_FOUND
    );
}
