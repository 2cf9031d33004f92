//! From the school's portal by one click, and the score back there.

use std::sync::Arc;
use std::time::Duration;

use journeys::{Browser, Outcome, Site};
use portal::{Portal, World};
use thirtyfour::prelude::*;

/// The stand-in portal beside a Green Slate, which knows it.
async fn beside(site: &Site, joined: bool) -> Outcome<Arc<Portal>> {
    let file = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../content/portal.yaml");
    let world: World = serde_saphyr::from_str(&std::fs::read_to_string(file)?)?;
    let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
    let base = format!("http://localhost:{port}");
    let tool = site.address("");
    let portal = Arc::new(Portal::new(world, &base, &tool));
    let (_, server) = portal::serve(portal.clone(), ([127, 0, 0, 1], port).into())?;
    tokio::spawn(server);
    let at = |path: &str| format!("{base}{path}");
    let (sign_in, token, keys) = (at("/authorize"), at("/token"), at("/jwks"));
    site.command(&[
        "portal",
        "add",
        "the school portal",
        "--issuer",
        &base,
        "--client-id",
        &portal.client_id,
        "--deployment",
        "1",
        "--sign-in",
        &sign_in,
        "--token",
        &token,
        "--keys",
        &keys,
    ])
    .await?;
    if joined {
        let class = "Workshop Mathematics";
        site.command(&[
            "portal", "course", "--issuer", &base, "--course", "wm-27", "--class", class,
        ])
        .await?;
    }
    Ok(portal)
}

async fn be(browser: &Browser, portal: &Portal, name: &str) -> Outcome<()> {
    browser.driver.goto(&portal.base).await?;
    browser.press(name).await?;
    browser.says("h1", "Workshop Mathematics").await?;
    Ok(())
}

/// Hands in what there is.
async fn hand_in(browser: &Browser) -> Outcome<()> {
    browser.press("Open").await?;
    browser.press("Hand in").await?;
    browser.sees("Hand in Tower shadows?").await?;
    browser.press("Hand in").await?;
    browser.says("h1", "Handed in").await?;
    Ok(())
}

async fn until(words: &str, holds: impl Fn() -> bool) -> Outcome<()> {
    for _ in 0..150 {
        if holds() {
            return Ok(());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    Err(words.into())
}

#[tokio::test(flavor = "multi_thread")]
async fn one_click_in_the_portal_leads_to_the_work_and_the_score_back() -> Outcome<()> {
    let site = Site::start().await?;
    let portal = beside(&site, true).await?;
    let has = |who: &str| {
        portal
            .grades()
            .iter()
            .any(|(line, id, _)| line == "Tower shadows" && id == who)
    };
    let browser = Browser::start().await?;
    be(&browser, &portal, "Sunniva Blackett").await?;
    browser.press("Tower shadows").await?;
    browser.says("h1", "Tower shadows").await?;
    browser.sees("Sunniva Blackett").await?;
    hand_in(&browser).await?;
    until("the score in the grade book", || has("s-4430")).await?;
    browser.driver.refresh().await?;
    browser
        .says("[data-testid='in-portal']", "In the school portal since")
        .await?;
    browser.driver.goto(format!("{}/course", portal.base)).await?;
    browser.says("#grades", "0").await?;

    // The portal is away for an hour: nothing is lost, and it is said.
    portal.set_away(true);
    be(&browser, &portal, "Ottar Lindholm").await?;
    browser.press("Tower shadows").await?;
    browser.says("h1", "Tower shadows").await?;
    hand_in(&browser).await?;
    browser
        .says("[data-testid='in-portal']", "Waiting for the school portal since")
        .await?;
    site.move_clock(3_600)?;
    tokio::time::sleep(Duration::from_secs(3)).await;
    assert!(!has("s-4433"));
    portal.set_away(false);
    site.move_clock(3_600 * 3)?;
    until("the score after an hour", || has("s-4433")).await?;
    browser.driver.goto(site.address("/scores")).await?;
    browser
        .says("[data-testid='in-portal']", "In the school portal since")
        .await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn in_a_frame_it_opens_itself_in_a_window_of_its_own() -> Outcome<()> {
    let site = Site::start().await?;
    let portal = beside(&site, true).await?;
    let browser = Browser::start().await?;
    be(&browser, &portal, "Sunniva Blackett").await?;
    browser
        .driver
        .goto(format!("{}/frame/link-1", portal.base))
        .await?;
    let frame = browser.driver.query(By::Css("iframe")).first().await?;
    frame.enter_frame().await?;
    browser.says("h1", "opens in a window of its own").await?;
    let before = browser.driver.windows().await?;
    browser.press("Open Green Slate").await?;
    let mut all = before.clone();
    for _ in 0..50 {
        all = browser.driver.windows().await?;
        if all.len() > before.len() {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let new = all
        .into_iter()
        .find(|w| !before.contains(w))
        .ok_or("a window of its own")?;
    browser.driver.switch_to_window(new).await?;
    browser.says("h1", "Tower shadows").await?;
    browser.sees("Sunniva Blackett").await?;
    // It stays so: signed in, whatever is opened next.
    browser.press("Open").await?;
    browser.sees("Hand in").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_teacher_joins_a_course_and_picks_assignments_for_it() -> Outcome<()> {
    let site = Site::start().await?;
    let portal = beside(&site, false).await?;
    let browser = Browser::start().await?;
    // Before the teacher, nobody gets in, and it is said why.
    be(&browser, &portal, "Petra Galloway").await?;
    browser.press("Tower shadows").await?;
    browser.sees("Its teacher has to come here once").await?;
    be(&browser, &portal, "Maren Oldacre").await?;
    browser.press("Tower shadows").await?;
    browser.says("h1", "Is this account yours?").await?;
    let fields = browser.driver.find_all(By::Css("form input")).await?;
    fields.first().ok_or("a user name")?.send_keys("maren").await?;
    fields.get(1).ok_or("a password")?.send_keys("harbour-15").await?;
    browser.press("It’s mine: sign in").await?;
    browser.says("h1", "Which class is this course?").await?;
    browser.press("This is the class").await?;
    browser.says("h1", "Tower shadows").await?;

    // From now on by one click; three more are picked.
    be(&browser, &portal, "Maren Oldacre").await?;
    browser.press("Add links from the tool").await?;
    browser.says("h1", "Add assignments to the portal").await?;
    for wanted in ["Warm-up", "Equations, lines"] {
        let path = format!("//label[starts-with(normalize-space(.), '{wanted}')]");
        browser
            .driver
            .query(By::XPath(path))
            .first()
            .await?
            .click()
            .await?;
    }
    browser.press("Add 2 to the portal").await?;
    browser.sees("Grade book").await?;
    browser.sees("Equations, lines and limits").await?;
    assert_eq!(portal.links().len(), 6);

    // The class fills itself; what the grade book lacks is seen, and sent.
    browser.driver.goto(site.address("/classes")).await?;
    browser.press("Workshop Mathematics").await?;
    browser.press("People").await?;
    browser.sees("Sunniva Blackett").await?;
    browser.press("Portal").await?;
    browser.press("Ask for the class list now").await?;
    browser.sees("Has an account here already: Ebba Tornvik").await?;
    browser.press("Compare with the grade book").await?;
    browser.sees("The grade book has what is recorded here.").await?;

    // And a student comes by a link that was picked.
    be(&browser, &portal, "Petra Galloway").await?;
    browser.press("Equations, lines and limits").await?;
    browser.says("h1", "Equations, lines and limits").await?;
    browser.quit().await?;
    Ok(())
}
