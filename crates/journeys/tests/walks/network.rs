//! Nothing typed is lost: without a network, with the server killed, after coming back.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

#[tokio::test(flavor = "multi_thread")]
async fn what_is_typed_without_network_and_server_is_kept_and_sent_later() -> Outcome<()> {
    let mut site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.press("Tower shadows").await?;
    browser.press("Open").await?;
    browser.sees("3 more sets of numbers").await?;
    browser.type_in("a", "101").await?;
    browser.is_saved().await?;

    browser.go_offline(true).await?;
    browser.type_in("a", "102.5").await?;
    browser
        .says("[data-testid='kept-banner']", "Kept in this browser.")
        .await?;
    site.kill().await?;
    browser.type_in("a", "103/7").await?;
    browser.go_offline(false).await?;
    browser
        .says("[data-testid='saved-state']", "Not saved yet")
        .await?;
    // The tab is closed before anything could be sent; another one takes it up.
    let window = browser.driver.new_tab().await?;
    browser.driver.close_window().await?;
    browser.driver.switch_to_window(window).await?;
    site.restart().await?;
    browser.driver.goto(site.address("/")).await?;
    browser.press("Tower shadows").await?;
    browser.press("Carry on").await?;
    assert_eq!(
        browser.field("a").await?.prop("value").await?.as_deref(),
        Some("103/7")
    );
    browser.is_saved().await?;

    // It is on the server: another browser sees it, and nothing was submitted.
    let other = Browser::start().await?;
    other.sign_in(&site, "joss", "granite-72").await?;
    other.sees("Under way").await?;
    other.press("Tower shadows").await?;
    other.press("Carry on").await?;
    assert_eq!(
        other.field("a").await?.prop("value").await?.as_deref(),
        Some("103/7")
    );
    other
        .says("[data-testid='tries-left']", "3 of 3 tries left")
        .await?;

    // Notes are kept in the same way.
    other.press("Workings").await?;
    let notes = other
        .driver
        .query(By::Css("[data-testid='notes']"))
        .first()
        .await?;
    notes.send_keys("tan = h / s").await?;
    other.press("Help").await?;
    other.press("Workings").await?;
    other.driver.refresh().await?;
    other.press("Workings").await?;
    let notes = other
        .driver
        .query(By::Css("[data-testid='notes']"))
        .first()
        .await?;
    assert_eq!(notes.prop("value").await?.as_deref(), Some("tan = h / s"));
    other.quit().await?;
    browser.quit().await?;
    Ok(())
}
