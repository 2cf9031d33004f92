//! A wrong answer becomes a slip, gets a note, is mended on fresh numbers, and comes back after two days.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

#[tokio::test(flavor = "multi_thread")]
async fn a_slip_is_noted_mended_and_comes_back() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.press("Tower shadows").await?;
    browser.press("Open").await?;
    browser.sees("3 more sets of numbers").await?;
    browser.type_in("a", "7/3").await?;
    browser.press("Check").await?;
    browser.sees("Not yet").await?;

    browser.press("Slip book").await?;
    browser.sees("What I typed").await?;
    browser.sees("Length of a shadow").await?;
    let note = browser
        .driver
        .query(By::Css("[data-testid='slip-note']"))
        .first()
        .await?;
    note.send_keys("Tangent, not its inverse").await?;
    browser.says("[data-testid='note-kept']", "Kept.").await?;
    browser.press("Try it on fresh numbers").await?;
    browser.sees("Question 1").await?;
    let numbers = browser.bold_numbers().await?;
    let shadow = numbers[0] / numbers[1].to_radians().tan();
    browser.type_in("a", &format!("{shadow:.1}")).await?;
    browser.press("Check").await?;
    browser.sees("You have reached the goal").await?;

    browser.press("Slip book").await?;
    browser.sees("have come back").await?;
    browser
        .driver
        .query(By::XPath("//label[.='Mended']"))
        .first()
        .await?
        .click()
        .await?;
    browser.press("Length of a shadow").await?;
    browser.sees("mended, comes back in 2 days").await?;
    let note = browser
        .driver
        .query(By::Css("[data-testid='slip-note']"))
        .first()
        .await?;
    assert_eq!(
        note.prop("value").await?.as_deref(),
        Some("Tangent, not its inverse")
    );
    site.move_clock(2 * 86_400 + 60)?;
    browser.driver.refresh().await?;
    browser.sees("came back").await?;
    browser.press("Length of a shadow").await?;
    // Week lists it, and says that it is the thing to do while nothing else presses.
    browser.press("Week").await?;
    browser.says("[aria-label='Slips']", "Length of a shadow").await?;
    browser.quit().await?;
    Ok(())
}
