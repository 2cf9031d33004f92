//! A recording with stops: it halts, asks, and goes on; where one was is kept.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Answers what a stop asks, somehow, and goes on.
async fn answer(browser: &Browser, stop: &str, entry: &str) -> Outcome<()> {
    let section = format!("section[aria-label='Stop at {stop}']");
    let found = async || browser.driver.query(By::Css(&section)).first().await;
    // It plays at twice its speed until it halts there.
    for _ in 0..4 {
        if found().await.is_ok() {
            break;
        }
    }
    let fields = browser
        .driver
        .query(By::Css(format!("{section} input[data-part]")))
        .all_from_selector()
        .await?;
    for field in &fields {
        field.send_keys(entry).await?;
    }
    browser.press("Answer").await?;
    browser.press("Continue").await?;
    browser.driver.query(By::Css(&section)).not_exists().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_recording_halts_at_its_stops_and_is_handed_in_once_it_was_seen() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.press("Before the climb").await?;
    browser.says("h1", "Before the climb").await?;
    browser.press("Open").await?;
    browser.sees("Transcript").await?;
    // Nothing plays by itself, and what lies ahead can't be gone to.
    browser.says("[data-testid='time']", "0:00 of 0:42").await?;
    let ahead = browser
        .driver
        .query(By::XPath(
            "//button[contains(., 'Everybody') or contains(., 'hang their own lock')]",
        ))
        .first()
        .await?;
    assert!(!ahead.is_enabled().await?);
    let speed = browser
        .driver
        .query(By::Css("select[aria-label='Speed']"))
        .first()
        .await?;
    speed.send_keys("2 ×").await?;
    browser.click("[data-testid='play']").await?;
    answer(&browser, "0:27", "48").await?;
    // What one saw is there again after the window was closed; the transcript can be searched.
    browser.driver.refresh().await?;
    browser.says("[data-testid='time']", "0:27 of 0:42").await?;
    let words = browser
        .driver
        .query(By::XPath("//label[contains(., 'Search the transcript')]"))
        .first()
        .await?;
    words.click().await?;
    browser.keys("control room").await?;
    let lines = browser
        .driver
        .find_all(By::Css("aside[aria-label='Transcript'] li"))
        .await?;
    assert_eq!(lines.len(), 1);
    let speed = browser
        .driver
        .query(By::Css("select[aria-label='Speed']"))
        .first()
        .await?;
    speed.send_keys("2 ×").await?;
    browser.click("[data-testid='play']").await?;
    answer(&browser, "0:41", "0.5").await?;
    browser.click("[data-testid='play']").await?;
    browser
        .driver
        .query(By::Css("[data-testid='done']"))
        .first()
        .await?;
    browser.says("[data-testid='set-as']", "· handed in ").await?;
    browser.driver.goto(site.address("/scores")).await?;
    browser.sees("Before the climb").await?;
    browser.sign_out("Joss Harrowell").await?;

    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Bank").await?;
    browser.press("Recordings").await?;
    browser.press("Before the climb").await?;
    browser.sees("Joss Harrowell").await?;
    browser.sees("100 %, done").await?;
    browser.press("Add a stop here").await?;
    browser.sees("Questions at 0:00").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_recording_is_watched_beside_a_question_and_in_a_page() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    let radio = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&radio, 6).await?;
    browser.press("Handover from the early shift").await?;
    browser.says("[data-testid='time']", "0:00 of 0:33").await?;
    browser.click("[data-testid='play']").await?;
    browser.says("[data-testid='caption']", "Three people").await?;
    // As a window it goes on from where it was, and halts there; its fields are not the question's.
    browser.press("As a window").await?;
    browser
        .driver
        .query(By::Css("[data-testid='window']"))
        .first()
        .await?;
    let seen = browser.text_of("[data-testid='time']").await?;
    assert!(!seen.contains("· 0 %"), "{seen}");
    browser.click("[data-testid='play']").await?;
    answer(&browser, "0:18", "3/4").await?;
    let own = browser
        .driver
        .query(By::Css("main input[data-part='a']"))
        .first()
        .await?;
    assert_eq!(own.prop("value").await?.unwrap_or_default(), "");
    browser.field("a").await?.send_keys("16/5").await?;
    browser.is_saved().await?;
    // Another recording in a reading page, with a question below it.
    browser.driver.goto(site.address("/read/safety")).await?;
    browser.says("[data-testid='time']", "0:00 of 0:42").await?;
    browser.click("[data-testid='play']").await?;
    browser.says("[data-testid='caption']", "Nobody climbs").await?;
    browser.driver.refresh().await?;
    browser.says("[data-testid='time']", " of 0:42").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn what_was_seen_while_the_server_was_away_is_told_later() -> Outcome<()> {
    let mut site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    let recording = "/recording/0197a000-0000-7000-8000-000000000002";
    browser.driver.goto(site.address(recording)).await?;
    browser.says("[data-testid='time']", "0:00 of 0:33").await?;
    browser.click("[data-testid='play']").await?;
    browser.says("[data-testid='caption']", "Handover").await?;
    site.kill().await?;
    browser.sees("What you see meanwhile is kept").await?;
    site.restart().await?;
    // It plays on to its stop, and nothing of it is missing.
    answer(&browser, "0:18", "3/4").await?;
    browser.says("[data-testid='time']", "56 % seen").await?;
    let ahead = By::XPath("//*[contains(., 'lies ahead')]");
    assert!(browser.driver.find_all(ahead).await?.is_empty());
    browser.click("[data-testid='play']").await?;
    browser
        .driver
        .query(By::Css("[data-testid='done']"))
        .first()
        .await?;
    browser.quit().await?;
    Ok(())
}
