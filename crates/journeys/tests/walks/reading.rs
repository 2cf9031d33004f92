//! A student reads a page: offered before new work, in steps and whole, read aloud by the browser, with a check inside,
//! beside a question; and hands in reading that was set.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Puts a voice in the browser's place that keeps what it is given and is done when the journey says so.
const VOICE: &str = "
const said = [];
let current = null;
const voice = {
  speaking: false, paused: false, pending: false,
  getVoices: () => [{ name: 'stub', lang: 'en-GB', default: true }],
  speak(u) { current = u; said.push({ text: u.text, rate: u.rate, lang: u.lang }); u.onstart?.(new Event('start')); },
  cancel() { current = null; voice.paused = false; said.push({ cancelled: true }); },
  pause() { voice.paused = true; }, resume() { voice.paused = false; },
  addEventListener() {}, removeEventListener() {},
};
window.__said = said;
window.__voice = voice;
window.__finish = () => { const u = current; current = null; u?.onend?.(new Event('end')); };
window.__fail = () => { const u = current; current = null; u?.onerror?.(new Event('error')); };
Object.defineProperty(window, 'speechSynthesis', { value: voice, configurable: true });
";

async fn said(browser: &Browser) -> Outcome<Vec<String>> {
    let script = "return window.__said.filter(s => s.text).map(s => s.text)";
    Ok(browser.driver.execute(script, Vec::new()).await?.convert()?)
}

async fn run(browser: &Browser, script: &str) -> Outcome<()> {
    browser.driver.execute(script, Vec::new()).await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_page_is_read_in_steps_and_read_aloud() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("need doing").await?;

    // Before first work on something new its page is offered; opening the work is not held up by it.
    browser.press("Tower shadows").await?;
    browser
        .says("[aria-label='Reading offered']", "Right triangles")
        .await?;
    browser.sees("Ten short tasks").await?;
    browser
        .driver
        .query(By::XPath("//button[.='Open']"))
        .and_enabled()
        .first()
        .await?;
    browser.press("Right triangles").await?;

    browser.sees("Names of the sides").await?;
    browser.sees("Step 1 of 4").await?;
    run(&browser, VOICE).await?;
    browser.press("Read aloud").await?;
    browser.sees("Stop reading").await?;
    assert_eq!(said(&browser).await?, ["Names of the sides"]);
    run(&browser, "window.__finish()").await?;
    browser
        .says("[data-aloud='true']", "A tower, its shadow and the line of sight")
        .await?;
    run(&browser, "window.__finish()").await?;
    browser
        .driver
        .query(By::Css("figure[data-aloud='true'] img[alt^='A right triangle']"))
        .first()
        .await?;
    // Maths is spoken in words, and a pause holds it where it is.
    run(&browser, "window.__finish()").await?;
    let words = said(&browser).await?;
    assert!(
        words.last().is_some_and(|w| w.contains("the angle alpha")),
        "{words:?}"
    );
    browser.press("Pause").await?;
    let paused = browser
        .driver
        .execute("return window.__voice.paused", Vec::new())
        .await?;
    assert!(paused.convert::<bool>()?);
    browser.press("Resume").await?;
    run(&browser, "window.__finish()").await?;
    browser.sees("Read aloud").await?;

    // Going on ends the reading of what is left behind.
    browser.press("Read aloud").await?;
    browser.press("Next step").await?;
    browser.sees("Pythagoras").await?;
    browser.sees("Read aloud").await?;
    let spoken = said(&browser).await?.len();
    run(&browser, "window.__finish()").await?;
    assert_eq!(said(&browser).await?.len(), spoken);

    // A voice that fails says so, and reading goes on by eye.
    browser.press("Read aloud").await?;
    run(&browser, "window.__fail()").await?;
    browser.sees("No voice answers in this browser.").await?;

    // A check inside: wrong, then the answer on request; nothing of it is scored.
    browser.sees("not scored").await?;
    browser.type_in("check0-a", "1/7").await?;
    browser.press("Check this one").await?;
    browser.sees("Not yet").await?;
    browser.press("Show the answer").await?;
    browser.sees("The right answer").await?;
    browser.press("Another one").await?;
    browser
        .driver
        .query(By::Css("input[data-part='check0-a']"))
        .and_enabled()
        .first()
        .await?;

    // Where it was left it opens again.
    browser.driver.goto(site.address("/read/right-triangles")).await?;
    browser.sees("Step 2 of 4").await?;
    browser.press("Next step").await?;
    browser.press("Next step").await?;
    browser.sees("Step 4 of 4").await?;
    browser.press("I have read it").await?;
    browser
        .says("[data-testid='after-reading']", "Read to the end.")
        .await?;
    browser.press("Skills").await?;
    browser
        .driver
        .query(By::XPath("//button[@data-level][contains(., 'Right triangles')]"))
        .first()
        .await?;
    browser
        .driver
        .query(By::XPath(
            "//button[@data-level='locked'][contains(., 'Right triangles')]",
        ))
        .first()
        .await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_page_opens_beside_a_question_and_set_reading_is_handed_in() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("need doing").await?;
    browser.press("Gearbox ratios").await?;
    browser.press("Open").await?;
    browser.sees("Question 1").await?;
    browser.type_in("a", "12").await?;
    browser.press("Reading: Ratios").await?;
    browser.sees("How many times").await?;
    browser.press("Next step").await?;
    browser.sees("Where two gears meet").await?;
    // What stands in the field is still there.
    assert_eq!(browser.field("a").await?.value().await?.as_deref(), Some("12"));

    browser.driver.goto(site.address("/")).await?;
    browser.press("Before you lift").await?;
    browser
        .sees("Read the pages: Before the work, Reading tables and Lifting")
        .await?;
    browser.press("Open").await?;
    for (page, left) in [
        ("The order", 2),
        ("Row and column", 1),
        ("What hangs on the hook", 0),
    ] {
        browser.sees(page).await?;
        browser
            .driver
            .query(By::XPath("//*[.='Whole page']"))
            .first()
            .await?
            .click()
            .await?;
        browser.sees("In short").await?;
        browser.press("I have read it").await?;
        browser
            .says(
                "[data-testid='after-reading']",
                &format!("{} of 3 pages read", 3 - left),
            )
            .await?;
        if left > 0 {
            browser.press("Next page").await?;
        }
    }
    browser.press("Hand in the reading").await?;
    browser.says("article", "Recorded now: 100 % of the goal").await?;
    browser.press("Hand in").await?;
    browser.sees("Handed in").await?;
    browser.press("See the result").await?;
    browser.says("[data-testid='recorded-score']", "100 %").await?;
    browser.sees("Reading tables: read").await?;
    browser.quit().await?;
    Ok(())
}
