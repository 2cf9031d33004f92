//! What the clock does: a timed quiz that ends by itself, and results that show later.

use std::time::Duration;

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Joss has half as much time again: 37 minutes and a half.
#[tokio::test(flavor = "multi_thread")]
async fn a_timed_quiz_is_handed_in_with_the_browser_closed() -> Outcome<()> {
    let mut site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("Your due date was moved to").await?;
    browser.press("Circuits").await?;
    browser.sees("150 % of the usual time").await?;
    browser.press("Open").await?;
    browser.sees("begin now and run on even if you leave").await?;
    browser.press("Open and start the clock").await?;
    browser.sees("Checked when you hand in.").await?;
    browser.says("[data-testid='time-left']", "37:").await?;
    let numbers = browser.bold_numbers().await?;
    let current = format!("{:.2} A", numbers[1] / numbers[0]);
    browser.type_in("a", &current).await?;
    browser.is_saved().await?;
    // In order: the second question is shown only by going on, and then there is no way back.
    browser
        .driver
        .query(By::Css("[aria-label='Question 2: not reached yet'][disabled]"))
        .first()
        .await?;
    browser.press("Go on to question 2").await?;
    browser.sees("There is no going back to question 1").await?;
    browser.press("Continue").await?;
    browser.sees("Two resistors of").await?;
    browser
        .driver
        .query(By::Css("[aria-label='Question 1: left behind'][disabled]"))
        .first()
        .await?;
    browser.type_in("a", "12 +").await?;
    browser.is_saved().await?;
    browser.quit().await?;

    site.move_clock(38 * 60)?;
    site.logs("ended by the clock").await?;

    let later = Browser::start().await?;
    later.sign_in(&site, "joss", "granite-72").await?;
    later
        .sees("Time ran out, and what you had entered by then was handed in for you.")
        .await?;
    later.sees("With the teacher").await?;
    later.press("Circuits").await?;
    later.sees("Your time is up.").await?;
    later.sees("when time ran out").await?;
    // Results after due: Joss's own due date.
    site.move_clock(7 * 86_400)?;
    later.driver.goto(site.address("/")).await?;
    later.sees("The results are out.").await?;
    later.press("See the result").await?;
    later.says("[data-testid='recorded-score']", "10 %").await?;
    later
        .sees("1 of 1 point, from what stood here when you handed in.")
        .await?;
    later.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn time_left_runs_down_and_is_said_aloud() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.press("Circuits").await?;
    browser.press("Open").await?;
    browser.press("Open and start the clock").await?;
    browser.says("[data-testid='time-left']", "24:").await?;
    // The server's clock decides, whatever this computer's says: a minute before the end it is said.
    site.move_clock(25 * 60 - 75)?;
    browser.driver.refresh().await?;
    browser
        .driver
        .query(By::XPath(
            "//*[@data-testid='time-left']//*[contains(., 'One minute left.')]",
        ))
        .wait(Duration::from_secs(90), Duration::from_millis(300))
        .first()
        .await?;
    site.move_clock(25 * 60 - 2)?;
    browser.driver.refresh().await?;
    browser.says("[data-testid='ended']", "Your time is up.").await?;
    browser.quit().await?;
    Ok(())
}

/// Hand in, take back, hand in again; the result comes after the due time.
#[tokio::test(flavor = "multi_thread")]
async fn a_hand_in_is_taken_back_and_given_again_and_the_result_comes_after_due() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.press("Circuits").await?;
    browser.press("Open").await?;
    browser.press("Open and start the clock").await?;
    browser.sees("Checked when you hand in.").await?;
    browser.press("Hand in").await?;
    browser.says("[data-testid='unanswered']", "Question 1").await?;
    browser.sees("You can take it back until then.").await?;
    browser.press("Hand in").await?;
    browser.sees("receipt 1").await?;
    browser.sees("Week will say when they are out").await?;
    browser.press("Take back").await?;
    browser.sees("Under way").await?;
    browser.press("Carry on").await?;
    let numbers = {
        browser.sees("Checked when you hand in.").await?;
        browser.bold_numbers().await?
    };
    browser
        .type_in("a", &format!("{:.2} A", numbers[1] / numbers[0]))
        .await?;
    browser.is_saved().await?;
    browser.press("Hand in").await?;
    browser.sees("Hand in Circuits?").await?;
    browser.press("Hand in").await?;
    browser.sees("receipt 2").await?;
    browser.press("Back to Week").await?;
    browser.sees("With the teacher").await?;
    site.move_clock(3 * 86_400)?;
    browser.driver.refresh().await?;
    browser.sees("The results are out.").await?;
    browser
        .driver
        .query(By::XPath("//article[.//a[.='Circuits']]//a[.='See the result']"))
        .first()
        .await?
        .click()
        .await?;
    browser.says("[data-testid='recorded-score']", "10 %").await?;
    browser.quit().await?;
    Ok(())
}
