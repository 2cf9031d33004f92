//! The terms of a page as cards: known, not yet, and coming back.

use journeys::{Browser, Outcome, Site};

#[tokio::test(flavor = "multi_thread")]
async fn what_was_not_known_waits_and_comes_back() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("need doing").await?;
    browser
        .driver
        .goto(site.address("/read/ratios?whole=true"))
        .await?;
    browser.sees("a quotient without a unit").await?;
    browser.press("Go through them as cards").await?;
    browser.press("Go through 3 cards").await?;
    for known in ["Not yet", "Known", "Known"] {
        browser.press("Turn the card").await?;
        browser.press(known).await?;
    }
    browser.sees("2 of 3 known.").await?;
    // It waits on Week, and can be gone through alone, the meaning first.
    browser.driver.goto(site.address("/")).await?;
    browser.press("1 term waits to be known").await?;
    browser.press("Meaning first").await?;
    browser.press("Only the 1 that waits").await?;
    browser.sees("a quotient without a unit").await?;
    browser.press("Turn the card").await?;
    browser.press("Known").await?;
    browser.sees("1 of 1 known.").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sees("need doing").await?;
    // Two days later it is back.
    site.move_clock(2 * 86_400 + 3_600)?;
    browser.driver.refresh().await?;
    browser.sees("1 term waits to be known").await?;
    browser.quit().await?;
    Ok(())
}
