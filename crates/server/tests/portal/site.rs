//! A Green Slate and a portal, each on a port of its own.

use std::sync::{Arc, OnceLock};

use portal::{Course, Link, Person, Portal, SigningKey, World};
use school::School;
use serde_json::{Value, json};
use sqlx::PgPool;
use time::OffsetDateTime;

use crate::browser::{Browser, Page};
use crate::client::{DOUBLED, Hands, homework, world_with};

pub struct Site {
    pub school: School,
    pub portal: Arc<Portal>,
    /// Of Green Slate.
    pub base: String,
    pub pool: PgPool,
    pub assignment: String,
    pub class: uuid::Uuid,
    pub hands: Hands,
}

/// A key of the portal's and one of ours: they take long to make, and are made once.
fn keys() -> &'static (SigningKey, String) {
    static KEYS: OnceLock<(SigningKey, String)> = OnceLock::new();
    KEYS.get_or_init(|| (SigningKey::new("portal-1"), lti::ToolKey::make().unwrap()))
}

fn person(id: &str, name: &str, teacher: bool) -> Person {
    Person {
        id: id.into(),
        name: name.into(),
        teacher,
        left: false,
    }
}

fn world() -> World {
    World {
        name: "Portal of the tests".into(),
        course: Course {
            id: "c-1".into(),
            title: "Site Practice".into(),
        },
        people: vec![
            person("p-tam", "Tam Oakes", true),
            person("p-ada", "Ada Quill", false),
            person("p-nia", "Nia Ferrow", false),
            person("p-gus", "Gus Amberley", false),
        ],
        links: vec![Link {
            id: "l-1".into(),
            title: "Doubling".into(),
            url: String::new(),
            custom: [("assignment".to_owned(), "doubling".to_owned())].into(),
            line_item: None,
            points: Some(20.0),
        }],
    }
}

impl Site {
    /// The world of one assignment, a class that is the portal's course, and its teacher Tam.
    pub async fn start(pool: &PgPool) -> Site {
        let site = Self::start_unjoined(pool).await;
        let portals = store::portals_known(pool).await.unwrap();
        store::put_course(pool, portals[0].id, "1", "c-1", "Site Practice", site.class)
            .await
            .unwrap();
        site
    }

    pub async fn start_unjoined(pool: &PgPool) -> Site {
        let assignment = world_with(pool, homework(), &[DOUBLED]).await;
        let stored = store::find_assignment(pool, assignment.parse().unwrap())
            .await
            .unwrap();
        let class = stored.unwrap().head.class_id;
        let hash = school::sign_in::hash_password("slate-and-chalk").unwrap();
        let tam = store::put_person(pool, "tam", "Tam Oakes", &hash, store::Role::Teacher)
            .await
            .unwrap();
        store::add_member(pool, class, tam).await.unwrap();
        let hands = Hands::new();
        let school = School::new(pool.clone()).with_clock(hands.clock());
        let port = |listener: &std::net::TcpListener| listener.local_addr().unwrap().port();
        let ours = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let base = format!("http://127.0.0.1:{}", port(&ours));
        let serving = school.clone();
        let server =
            actix_web::HttpServer::new(move || server::app(serving.clone(), server::Settings::default()))
                .workers(2)
                .disable_signals()
                .listen(ours)
                .unwrap()
                .run();
        tokio::spawn(server);
        // Its port has to be known before it can say who it is.
        let theirs = {
            let free = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
            port(&free)
        };
        let (key, pem) = keys();
        let now = OffsetDateTime::now_utc();
        store::put_key_of_ours(pool, "ours-1", pem, now, false, now)
            .await
            .unwrap();
        let portal = Portal::with_key(world(), &format!("http://localhost:{theirs}"), &base, key.clone());
        let portal = Arc::new(portal);
        let (_, serving) = portal::serve(portal.clone(), ([127, 0, 0, 1], theirs).into()).unwrap();
        tokio::spawn(serving);
        let site = Site {
            school,
            portal,
            base,
            pool: pool.clone(),
            assignment,
            class,
            hands,
        };
        site.register("1").await;
        site
    }

    /// Registers the portal, as an administrator does.
    pub async fn register(&self, deployment: &str) -> uuid::Uuid {
        let theirs = &self.portal.base;
        let change = store::PortalChange {
            name: "The portal",
            issuer: theirs,
            client_id: &self.portal.client_id,
            authorization_url: &format!("{theirs}/authorize"),
            token_url: &format!("{theirs}/token"),
            token_audience: None,
            jwks_url: &format!("{theirs}/jwks"),
            deployments: &[deployment.to_owned()],
            vouches_for_teachers: true,
        };
        store::add_portal(&self.pool, &change, OffsetDateTime::now_utc())
            .await
            .unwrap()
    }

    /// A browser that is signed in to the portal.
    pub async fn browser(&self, who: &str) -> Browser {
        let mut browser = Browser::new();
        let page = browser.open(&self.portal.base).await;
        let fields = [("person".to_owned(), who.to_owned())];
        browser.post(&page, "/sign-in", &fields).await;
        browser
    }

    /// Opens a link of the portal, up to where Green Slate leads.
    pub async fn click(&self, browser: &mut Browser, link: &str) -> Page {
        let form = browser.open(&format!("{}/open/{link}", self.portal.base)).await;
        if form.status != reqwest::StatusCode::OK || form.form().is_none() {
            return form;
        }
        browser.submit(&form).await
    }

    pub async fn ask(&self, browser: &mut Browser, method: &str, path: &str, body: Option<Value>) -> Value {
        let page = browser.ask(method, &format!("{}{path}", self.base), body).await;
        assert!(
            page.status.is_success(),
            "{method} {path}: {} {}",
            page.status,
            page.text
        );
        page.json()
    }

    /// Works the one question right or wrong, and hands in.
    pub async fn hand_in(&self, browser: &mut Browser, right: bool) {
        let path = |tail: &str| format!("/api/assignments/{}{tail}", self.assignment);
        self.ask(browser, "POST", &path("/open"), None).await;
        let board = self.ask(browser, "GET", &path("/board"), None).await;
        let n = crate::client::number_in(&board);
        let entry = if right { 2 * n } else { n };
        let parts = json!({"question": 0, "parts": [{"id": "a", "response": entry.to_string()}]});
        self.ask(browser, "POST", &path("/check"), Some(parts)).await;
        self.ask(browser, "POST", &path("/hand-in"), Some(json!({})))
            .await;
    }

    /// The portal's own sending, once.
    pub async fn send_due(&self) -> usize {
        school::portal::send_due(&self.school).await.unwrap()
    }

    /// What the grade book has of somebody, per cent.
    pub fn grade(&self, who: &str) -> Option<f64> {
        let grades = self.portal.grades();
        let (_, _, r) = grades.into_iter().find(|(_, id, _)| id == who)?;
        Some(100.0 * r.given? / r.maximum?)
    }
}

impl Drop for Site {
    /// Or the database would wait for connections that are kept.
    fn drop(&mut self) {
        self.school.lanes.give_back();
    }
}
