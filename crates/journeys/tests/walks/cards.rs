//! The terms of a page as cards: known, not yet, and coming back.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

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
    browser.press("Practise them as cards").await?;
    browser.press("Go through 3 cards").await?;
    for known in ["Not yet", "Known", "Known"] {
        browser.press("Turn the card").await?;
        browser.press(known).await?;
    }
    browser.sees("2 of 3 known.").await?;
    // It waits on Week, and can be gone through alone, the meaning first.
    browser.driver.goto(site.address("/")).await?;
    browser.press("1 term still to learn").await?;
    browser.press("Meaning first").await?;
    browser.press("Only the 1 still to learn").await?;
    browser.sees("a quotient without a unit").await?;
    browser.press("Turn the card").await?;
    browser.press("Known").await?;
    browser.sees("1 of 1 known.").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sees("need doing").await?;
    // Two days later it is back.
    site.move_clock(2 * 86_400 + 3_600)?;
    browser.driver.refresh().await?;
    browser.sees("1 term still to learn").await?;
    browser.quit().await?;
    Ok(())
}

/// Selects the first words of the page by dragging over them, as a pointer does.
async fn select_words(browser: &Browser) -> Outcome<()> {
    let script = "const block = document.querySelector('[data-mark-block] p'); \
        const range = document.createRange(); const text = block.querySelector('span').firstChild; \
        range.setStart(text, 0); range.setEnd(text, 29); \
        const s = document.getSelection(); s.removeAllRanges(); s.addRange(range)";
    browser.driver.execute(script, Vec::new()).await?;
    Ok(())
}

async fn highlighted(browser: &Browser) -> Outcome<String> {
    let script = "return [...(CSS.highlights.get('page-marks') ?? [])].map(r => r.toString()).join('|')";
    Ok(browser.driver.execute(script, Vec::new()).await?.convert()?)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_passage_is_marked_with_a_note_and_found_again() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("need doing").await?;
    browser.driver.goto(site.address("/read/ratios?step=1")).await?;
    browser.sees("A ratio compares by division.").await?;
    select_words(&browser).await?;
    browser.press("Mark this passage").await?;
    browser
        .says("blockquote", "A ratio compares by division.")
        .await?;
    assert_eq!(highlighted(&browser).await?, "A ratio compares by division.");
    // The note is where one types at once, and kept without a button.
    browser.keys("times as large").await?;
    let kept = "[data-testid='note-kept'][data-kept='true']";
    browser.driver.query(By::Css(kept)).first().await?;
    // By keyboard: every sentence has a button of its own.
    browser.click("details summary").await?;
    browser
        .tab_to("button[aria-label^='Mark: If the rotor']", "Mark")
        .await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .driver
        .query(By::XPath("//blockquote[contains(., 'If the rotor')]"))
        .first()
        .await?;
    // Both stand in the slip book's list, with the note; and on the page again after a while.
    browser.driver.goto(site.address("/slips")).await?;
    browser.sees("Marked in pages").await?;
    let notes = browser
        .driver
        .find_all(By::Css("textarea[aria-label^='Note to:']"))
        .await?;
    assert_eq!(notes.len(), 2);
    assert_eq!(notes[0].value().await?.as_deref(), Some("times as large"));
    browser.press("Ratios").await?;
    browser.sees("Your marks").await?;
    browser
        .driver
        .query(By::XPath("//blockquote[contains(., 'If the rotor')]"))
        .first()
        .await?;
    assert!(
        highlighted(&browser)
            .await?
            .starts_with("A ratio compares by division.|If the rotor turns")
    );
    browser.press("Delete the mark").await?;
    browser
        .driver
        .query(By::XPath("//blockquote[contains(., 'A ratio compares')]"))
        .not_exists()
        .await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_worked_example_is_walked_step_by_step() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("need doing").await?;
    browser
        .driver
        .goto(site.address("/read/right-triangles?whole=true"))
        .await?;
    browser.sees("Step through the example").await?;
    browser.sees("Step 1 of 2").await?;
    let field = browser
        .driver
        .query(By::Css("[data-part='walk0-0-a']"))
        .first()
        .await?;
    field.send_keys("17").await?;
    browser.control(Key::Enter + "").await?;
    browser.sees("Not yet").await?;
    browser.sees("Step 1 of 2").await?;
    browser.type_over(&field, "169").await?;
    browser.control(Key::Enter + "").await?;
    // The next step opens once this one is right; it is shown on request.
    browser.sees("Step 2 of 2").await?;
    browser.press("Show this step").await?;
    browser.sees("Walked to the end.").await?;
    browser.quit().await?;
    Ok(())
}
