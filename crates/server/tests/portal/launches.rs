//! Who is let in, as whom and where to; and who is not.

use portal::SigningKey;
use reqwest::{StatusCode, Url};
use serde_json::{Value, json};
use sqlx::PgPool;

use crate::browser::{Browser, Page};
use crate::site::Site;

const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";

fn query(url: &Url, name: &str) -> String {
    let found = url.query_pairs().find(|(n, _)| n == name);
    found.map(|(_, v)| v.into_owned()).unwrap_or_default()
}

fn login_address(site: &Site, changed: &[(&str, &str)]) -> String {
    let mut fields = vec![
        ("iss", site.portal.base.clone()),
        ("login_hint", "p-ada".to_owned()),
        ("target_link_uri", format!("{}/", site.base)),
        ("lti_message_hint", "l-1".to_owned()),
        ("client_id", site.portal.client_id.clone()),
    ];
    for (name, value) in changed {
        fields.retain(|(n, _)| n != name);
        fields.push((name, (*value).to_owned()));
    }
    let mut url = Url::parse(&site.base).unwrap();
    url.set_path("/lti/login");
    url.query_pairs_mut().extend_pairs(fields);
    url.into()
}

/// Begins a sign-in; its state and nonce.
async fn begin(site: &Site, browser: &mut Browser) -> (String, String) {
    let (_, to) = browser.step(&login_address(site, &[])).await;
    let to = to.unwrap();
    assert_eq!(query(&to, "response_mode"), "form_post");
    (query(&to, "state"), query(&to, "nonce"))
}

async fn launch(site: &Site, browser: &mut Browser, state: &str, token: &str) -> Page {
    let (from, _) = browser.step(&site.portal.base).await;
    let fields = [
        ("state".to_owned(), state.to_owned()),
        ("id_token".to_owned(), token.to_owned()),
    ];
    browser
        .post(&from, &format!("{}/lti/launch", site.base), &fields)
        .await
}

/// A launch of Ada whose claims were changed is refused with this sentence, and nobody is signed in.
async fn refused(site: &Site, change: impl FnOnce(&mut Value), words: &str) {
    let mut browser = Browser::new();
    let (state, nonce) = begin(site, &mut browser).await;
    let mut claims = portal::claims(&site.portal, "p-ada", Some("l-1"), &nonce);
    change(&mut claims);
    let token = site.portal.sign(&claims).unwrap();
    let page = launch(site, &mut browser, &state, &token).await;
    assert_eq!(page.status, StatusCode::FORBIDDEN, "{words}");
    assert!(page.text.contains(words), "{words}: {}", page.text);
    let me = browser.ask("GET", &format!("{}/api/me", site.base), None).await;
    assert_eq!(me.status, StatusCode::UNAUTHORIZED, "{words}");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_new_student_comes_by_one_click_and_stays_who_they_are(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    let page = site.click(&mut browser, "l-1").await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    let me = site.ask(&mut browser, "GET", "/api/me", None).await;
    assert_eq!(
        (&me["display_name"], &me["role"]),
        (&json!("Nia Ferrow"), &json!("student"))
    );
    site.ask(
        &mut browser,
        "GET",
        &format!("/api/assignments/{}", site.assignment),
        None,
    )
    .await;
    // Again, in another browser: the same person.
    let mut again = site.browser("p-nia").await;
    site.click(&mut again, "l-1").await;
    let me_again = site.ask(&mut again, "GET", "/api/me", None).await;
    assert_eq!(me["user_name"], me_again["user_name"]);
    // The session's cookie never goes along with what another site sends.
    let session = browser
        .cookies
        .iter()
        .find(|((_, name), _)| name == "slate_session");
    assert_eq!(session.unwrap().1.1, crate::browser::SameSite::Strict);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_account_that_is_there_is_joined_by_signing_in_once(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-ada").await;
    let page = site.click(&mut browser, "l-1").await;
    assert_eq!(page.url.path(), "/from-portal");
    let came = site.ask(&mut browser, "GET", "/api/arrival", None).await;
    assert_eq!(came["name"], "Ada Quill");
    let join = |password: &str| json!({"user_name": "ada", "password": password});
    let address = format!("{}/api/arrival/join", site.base);
    let wrong = browser.ask("POST", &address, Some(join("not-hers-at-all"))).await;
    assert_eq!(wrong.status, StatusCode::UNAUTHORIZED);
    let on = site
        .ask(
            &mut browser,
            "POST",
            "/api/arrival/join",
            Some(join("slate-and-chalk")),
        )
        .await;
    assert_eq!(on["to"], format!("/work/{}", site.assignment));
    let me = site.ask(&mut browser, "GET", "/api/me", None).await;
    assert_eq!(me["user_name"], "ada");
    // It can't be used twice.
    assert_eq!(
        browser
            .ask("POST", &address, Some(join("slate-and-chalk")))
            .await
            .status,
        StatusCode::NOT_FOUND
    );
    // From now on by one click, in any browser.
    let mut again = site.browser("p-ada").await;
    assert_eq!(
        site.click(&mut again, "l-1").await.url.path(),
        format!("/work/{}", site.assignment)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn somebody_else_of_the_same_name_is_somebody_else(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-ada").await;
    site.click(&mut browser, "l-1").await;
    let on = site.ask(&mut browser, "POST", "/api/arrival/new", None).await;
    assert_eq!(on["to"], format!("/work/{}", site.assignment));
    let me = site.ask(&mut browser, "GET", "/api/me", None).await;
    assert_ne!(me["user_name"], "ada");
    // An arrival is its browser's alone.
    let mut other = Browser::new();
    let stolen = other
        .ask("POST", &format!("{}/api/arrival/new", site.base), None)
        .await;
    assert_eq!(stolen.status, StatusCode::NOT_FOUND);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_says_once_which_class_the_course_is(pool: PgPool) {
    let site = Site::start_unjoined(&pool).await;
    // A student before that is told whom it waits for, and gets no account.
    let mut early = site.browser("p-gus").await;
    let page = site.click(&mut early, "l-1").await;
    assert!(
        page.text.contains("Its teacher has to come here once"),
        "{}",
        page.text
    );
    assert!(
        store::find_credentials(&pool, "gus.amberley")
            .await
            .unwrap()
            .is_none()
    );
    let mut browser = site.browser("p-tam").await;
    site.click(&mut browser, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    let on = site
        .ask(&mut browser, "POST", "/api/arrival/join", Some(join))
        .await;
    assert_eq!(on["to"], "/from-portal/class");
    let address = format!("{}/api/arrival/class", site.base);
    let nobodys = json!({"class": "01900000-0000-7000-8000-000000000000"});
    assert_eq!(
        browser.ask("POST", &address, Some(nobodys)).await.status,
        StatusCode::NOT_FOUND
    );
    let on = site
        .ask(
            &mut browser,
            "POST",
            "/api/arrival/class",
            Some(json!({"class": site.class})),
        )
        .await;
    assert_eq!(
        on["to"],
        format!("/classes/{}/work/{}", site.class, site.assignment)
    );
    assert_eq!(
        site.click(&mut early, "l-1").await.url.path(),
        format!("/work/{}", site.assignment)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_was_taken_out_by_hand_stays_out(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    let (nia, _) = store::find_credentials(&pool, "nia.ferrow")
        .await
        .unwrap()
        .unwrap();
    store::set_left(&pool, site.class, nia.id, Some(site.school.now()))
        .await
        .unwrap();
    let page = site.click(&mut browser, "l-1").await;
    assert!(
        page.text.contains("took you out of Site Practice"),
        "{}",
        page.text
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn in_a_frame_it_opens_itself_in_a_window_of_its_own(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    let address = login_address(&site, &[("login_hint", "p-nia")]);
    let framed = browser.open_in_frame(&address).await;
    assert_eq!(framed.status, StatusCode::OK);
    assert!(
        framed.text.contains("opens in a window of its own"),
        "{}",
        framed.text
    );
    assert!(framed.policy.contains(&site.portal.base), "{}", framed.policy);
    assert!(framed.text.contains("target=\"_blank\""));
    assert!(!browser.cookies.keys().any(|(_, name)| name.starts_with("slate")));
    // One press: the whole way, in a window of its own.
    let (action, fields) = framed.form().unwrap();
    let mut window = Url::parse(&site.base).unwrap().join(&action).unwrap();
    window.query_pairs_mut().extend_pairs(fields);
    let form = browser.open(window.as_str()).await;
    let page = browser.submit(&form).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    // A page of another site can't be put around anything else of ours.
    let plain = browser.open(&format!("{}/sign-in", site.base)).await;
    assert!(plain.policy.contains("frame-ancestors 'self'") && !plain.policy.contains(&site.portal.base));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_message_that_is_not_right_is_refused_in_one_sentence(pool: PgPool) {
    let site = Site::start(&pool).await;
    let now = time::OffsetDateTime::now_utc().unix_timestamp();
    refused(
        &site,
        |c| c["iss"] = json!("https://other.example"),
        "another portal",
    )
    .await;
    refused(&site, |c| c["aud"] = json!("another-tool"), "for another program").await;
    refused(
        &site,
        |c| c[format!("{CLAIM}deployment_id")] = json!("9"),
        "not registered here",
    )
    .await;
    refused(
        &site,
        |c| c["nonce"] = json!("made-up"),
        "not asked for, or was used before",
    )
    .await;
    refused(&site, |c| c["exp"] = json!(now - 3_600), "too old").await;
    refused(&site, |c| c["nbf"] = json!(now + 3_600), "in the future").await;
    refused(
        &site,
        |c| c[format!("{CLAIM}target_link_uri")] = json!("https://elsewhere.example/"),
        "not ours",
    )
    .await;
    refused(
        &site,
        |c| c[format!("{CLAIM}roles")] = json!([]),
        "neither a student nor a teacher",
    )
    .await;
    refused(
        &site,
        |c| c[format!("{CLAIM}version")] = json!("1.0"),
        "LTI 1.3 is needed",
    )
    .await;
    refused(
        &site,
        |c| drop(c.as_object_mut().unwrap().remove("sub")),
        "who you are",
    )
    .await;
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn only_the_portals_own_key_and_rs256_are_believed(pool: PgPool) {
    use jsonwebtoken::{Algorithm, EncodingKey, Header, encode};
    let site = Site::start(&pool).await;
    let stranger = SigningKey::new("portal-1");
    let unknown = SigningKey::new("nobody-published-this");
    let by = |key: SigningKey| move |claims: &Value| key.sign(claims);
    let unsigned = |claims: &Value| {
        let signed = SigningKey::new("x").sign(claims);
        format!("eyJhbGciOiJub25lIn0.{}.", signed.split('.').nth(1).unwrap())
    };
    let published = reqwest::get(format!("{}/jwks", site.portal.base)).await.unwrap();
    let published: Value = published.json().await.unwrap();
    let modulus = published["keys"][0]["n"].as_str().unwrap().to_owned();
    let symmetric = move |claims: &Value| {
        let mut header = Header::new(Algorithm::HS256);
        header.kid = Some("portal-1".into());
        encode(&header, claims, &EncodingKey::from_secret(modulus.as_bytes())).unwrap()
    };
    type Forge = Box<dyn Fn(&Value) -> String>;
    let forged: [(Forge, &str); 4] = [
        (Box::new(by(stranger)), "was changed on its way"),
        (Box::new(by(unknown)), "a key that it does not publish"),
        (Box::new(unsigned), "not signed the way that was agreed on"),
        (Box::new(symmetric), "not signed the way that was agreed on"),
    ];
    for (forge, words) in forged {
        let mut browser = Browser::new();
        let (state, nonce) = begin(&site, &mut browser).await;
        let token = forge(&portal::claims(&site.portal, "p-nia", Some("l-1"), &nonce));
        let page = launch(&site, &mut browser, &state, &token).await;
        assert!(page.text.contains(words), "{words}: {}", page.text);
    }
    // The portal signs with a new key: it is fetched, and believed.
    let mut before = site.browser("p-nia").await;
    site.click(&mut before, "l-1").await;
    site.portal.rotate();
    tokio::time::sleep(std::time::Duration::from_secs(6)).await;
    let mut browser = site.browser("p-nia").await;
    assert_eq!(
        site.click(&mut browser, "l-1").await.url.path(),
        format!("/work/{}", site.assignment)
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_sign_in_is_its_browsers_and_is_used_once(pool: PgPool) {
    let site = Site::start(&pool).await;
    let token = |nonce: &str| {
        let claims = portal::claims(&site.portal, "p-nia", Some("l-1"), nonce);
        site.portal.sign(&claims).unwrap()
    };
    let mut browser = Browser::new();
    let (state, nonce) = begin(&site, &mut browser).await;
    // Somebody else's browser, which has begun one too, is handed this one's answer.
    let mut victim = Browser::new();
    begin(&site, &mut victim).await;
    let page = launch(&site, &mut victim, &state, &token(&nonce)).await;
    assert!(page.text.contains("another browser"), "{}", page.text);
    // A browser without anything.
    let page = launch(&site, &mut Browser::new(), &state, &token(&nonce)).await;
    assert!(page.text.contains("another browser"), "{}", page.text);
    let page = launch(&site, &mut browser, &state, &token(&nonce)).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    let page = launch(&site, &mut browser, &state, &token(&nonce)).await;
    assert!(
        page.text.contains("another browser or too long ago"),
        "{}",
        page.text
    );
    // A nonce of one sign-in does not do for another.
    let (state, _) = begin(&site, &mut browser).await;
    let page = launch(&site, &mut browser, &state, &token(&nonce)).await;
    assert!(page.text.contains("used before"), "{}", page.text);
    // Begun too long ago.
    let (state, nonce) = begin(&site, &mut browser).await;
    site.hands.move_to(700);
    let page = launch(&site, &mut browser, &state, &token(&nonce)).await;
    assert!(page.text.contains("too long ago"), "{}", page.text);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nothing_is_begun_for_strangers_or_to_elsewhere(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = Browser::new();
    for (changed, words) in [
        (("iss", "https://other.example"), "not known here"),
        (("client_id", "another"), "not known here"),
        (("target_link_uri", "https://elsewhere.example/"), "not ours"),
        (("lti_deployment_id", "9"), "not registered here"),
    ] {
        let page = browser.open(&login_address(&site, &[changed])).await;
        assert_eq!(page.status, StatusCode::FORBIDDEN, "{changed:?}");
        assert!(page.text.contains(words), "{changed:?}: {}", page.text);
    }
    let page = browser.open(&format!("{}/lti/login?iss=x", site.base)).await;
    assert_eq!(page.status, StatusCode::BAD_REQUEST);
    let (from, _) = browser.step(&site.portal.base).await;
    let error = [
        ("state".to_owned(), "x".to_owned()),
        ("error".to_owned(), "login_required".to_owned()),
        (
            "error_description".to_owned(),
            "<b>Nobody</b> is signed in".to_owned(),
        ),
    ];
    let page = browser
        .post(&from, &format!("{}/lti/launch", site.base), &error)
        .await;
    assert!(
        page.text
            .contains("The portal refused the sign-in: &lt;b&gt;Nobody"),
        "{}",
        page.text
    );
    store::end_portal(&pool, &site.portal.base, site.school.now())
        .await
        .unwrap();
    let page = browser.open(&login_address(&site, &[])).await;
    assert!(page.text.contains("not known here"), "{}", page.text);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn writes_from_elsewhere_stay_refused(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-nia").await;
    site.click(&mut browser, "l-1").await;
    let (from, _) = browser.step(&site.portal.base).await;
    for path in ["/api/session", "/api/arrival/new", "/lti/picked"] {
        let page = browser.post(&from, &format!("{}{path}", site.base), &[]).await;
        assert_eq!(page.status, StatusCode::FORBIDDEN, "{path}: {}", page.text);
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_teacher_picks_assignments_for_the_portal(pool: PgPool) {
    let site = Site::start(&pool).await;
    let mut browser = site.browser("p-tam").await;
    site.click(&mut browser, "l-1").await;
    let join = json!({"user_name": "tam", "password": "slate-and-chalk"});
    site.ask(&mut browser, "POST", "/api/arrival/join", Some(join))
        .await;
    let form = browser.open(&format!("{}/pick", site.portal.base)).await;
    let page = browser.submit(&form).await;
    assert_eq!(page.url.path(), "/from-portal/pick");
    let there = site.ask(&mut browser, "GET", "/api/arrival/pick", None).await;
    assert_eq!(there["assignments"][0]["title"], "Doubling");
    let fields = [("assignments".to_owned(), site.assignment.clone())];
    let sending = browser.post(&page, "/lti/picked", &fields).await;
    let origin = Url::parse(&site.portal.base)
        .unwrap()
        .origin()
        .ascii_serialization();
    assert!(
        sending.policy.contains(&format!("form-action 'self' {origin}")),
        "{}",
        sending.policy
    );
    let back = browser.submit(&sending).await;
    assert_eq!(back.url.path(), "/course", "{:?}", site.portal.log());
    let picked = site.portal.links().pop().unwrap();
    assert_eq!(picked.url, format!("{}/work/{}", site.base, site.assignment));
    // It leads where it should, for a student who has never been here.
    let mut student = site.browser("p-gus").await;
    let page = site.click(&mut student, &picked.id).await;
    assert_eq!(page.url.path(), format!("/work/{}", site.assignment));
    // What was picked once can't be sent again, and a student can't pick.
    let again = browser.post(&page, "/lti/picked", &fields).await;
    assert_eq!(again.status, StatusCode::NOT_FOUND);
    let claims = |nonce: &str| portal::claims(&site.portal, "p-gus", None, nonce);
    let (state, nonce) = begin(&site, &mut student).await;
    let token = site.portal.sign(&claims(&nonce)).unwrap();
    let page = launch(&site, &mut student, &state, &token).await;
    assert_ne!(page.url.path(), "/from-portal/pick");
}
