//! A student does a homework, from sign-in to a recorded score, in the real interface.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Joss has not begun this one.
#[tokio::test(flavor = "multi_thread")]
async fn a_student_does_a_homework_from_sign_in_to_a_recorded_score() -> Outcome<()> {
    let mut site = Site::start().await?;
    let browser = Browser::start().await?;

    // A wrong password says no more than that.
    browser.sign_in(&site, "joss", "nonsense").await?;
    browser.sees("The user name or the password is wrong").await?;
    browser.sign_in(&site, "joss", "granite-72").await?;

    // Week: the assignment beside its day, with what is left and its state.
    browser.sees("Not opened").await?;
    browser.sees("8 questions").await?;
    browser.press("Tower shadows").await?;
    browser.sees("8, worth 16 points in all").await?;
    browser.press("Open").await?;

    // The board: how an entry reads, and what cannot be read costs nothing.
    browser.sees("Question 1").await?;
    browser
        .says("[data-testid='tries-left']", "3 of 3 tries left")
        .await?;
    browser.type_in("a", "12 +").await?;
    browser
        .says("[data-testid='reads-as-a']", "Something is missing after +")
        .await?;
    browser.press("Check").await?;
    browser.sees("read this").await?;
    browser.sees("No try was used.").await?;
    browser
        .says("[data-testid='tries-left']", "3 of 3 tries left")
        .await?;

    // A wrong answer uses one.
    browser.type_in("a", "1/2").await?;
    browser
        .driver
        .query(By::Css("[data-testid='reads-as-a'] math mfrac"))
        .first()
        .await?;
    browser.press("Check").await?;
    browser.sees("Not yet").await?;
    browser
        .says("[data-testid='tries-left']", "2 of 3 tries left")
        .await?;

    // Worked out from the page's own numbers, as a student would with a calculator.
    let numbers = browser.bold_numbers().await?;
    let (height, angle) = (numbers[0], numbers[1]);
    let shadow = height / angle.to_radians().tan();
    browser.type_in("a", &format!("{shadow:.2}")).await?;
    browser.press("Check").await?;
    browser.sees("Every part of this question is right.").await?;
    browser.says("[data-testid='score-so-far']", "13 %").await?;

    // What is typed is there after a reload, and after the server was killed.
    browser
        .driver
        .query(By::Css("[aria-label^='Question 7:']"))
        .first()
        .await?
        .click()
        .await?;
    browser.sees("Question 7").await?;
    browser.type_in("a", "12.5*4").await?;
    browser.is_saved().await?;
    browser.driver.refresh().await?;
    assert_eq!(
        browser.field("a").await?.prop("value").await?.as_deref(),
        Some("12.5*4")
    );
    site.kill().await?;
    browser.type_in("b", "777").await?;
    browser
        .says("[data-testid='saved-state']", "Not saved yet")
        .await?;
    site.restart().await?;
    browser.is_saved().await?;
    site.kill_and_restart().await?;
    browser.driver.refresh().await?;
    assert_eq!(
        browser.field("a").await?.prop("value").await?.as_deref(),
        Some("12.5*4")
    );
    assert_eq!(
        browser.field("b").await?.prop("value").await?.as_deref(),
        Some("777")
    );

    // After signing out, in another browser.
    browser.sign_out("Joss Harrowell").await?;
    let other = Browser::start().await?;
    other.sign_in(&site, "joss", "granite-72").await?;
    other.sees("Under way").await?;
    other.sees("7 of 8 questions left").await?;
    other.press("Tower shadows").await?;
    other.press("Carry on").await?;
    other
        .driver
        .query(By::Css("[aria-label='Question 7: typed, not checked']"))
        .first()
        .await?
        .click()
        .await?;
    assert_eq!(
        other.field("b").await?.prop("value").await?.as_deref(),
        Some("777")
    );

    // An empty part is named before a try is used.
    other.type_in("b", " ").await?;
    other.press("Check").await?;
    other.sees("Part (b) is still empty").await?;
    other.press("Keep working").await?;
    other
        .says("[data-testid='tries-left']", "3 of 3 tries left")
        .await?;

    // Put aside goes back to Week; handing in lists what is unanswered and records.
    other.press("Put aside").await?;
    other.sees("Under way").await?;
    other.press("Tower shadows").await?;
    other.press("Carry on").await?;
    other.press("Hand in").await?;
    other.says("[data-testid='unanswered']", "Question 2").await?;
    other
        .says(
            "[data-testid='unanswered']",
            "Entered but not checked, so not counted: Question 7",
        )
        .await?;
    other.sees("Recorded now:").await?;
    other.press("Hand in").await?;
    other.sees("receipt 1").await?;
    other.press("Back to Week").await?;
    other.sees("Handed in").await?;
    other.sees("Recorded score").await?;
    other.sees("13 %").await?;
    other.quit().await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn two_windows_do_not_overwrite_each_other() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("3 of 4 questions left").await?;
    browser.press("Gearbox ratios").await?;
    browser.press("Carry on").await?;
    browser.sees("Question 2").await?;
    let first = browser.driver.window().await?;
    let address = browser.driver.current_url().await?;
    let second = browser.driver.new_tab().await?;
    browser.driver.switch_to_window(second).await?;
    browser.driver.goto(address.as_str()).await?;
    browser.type_in("a", "14.1").await?;
    browser.is_saved().await?;
    browser.driver.switch_to_window(first).await?;
    browser.type_in("a", "15.5").await?;
    browser.sees("Another window has changed this answer to").await?;
    browser.press("The other version").await?;
    browser.is_saved().await?;
    assert_eq!(
        browser.field("a").await?.prop("value").await?.as_deref(),
        Some("14.1")
    );
    browser.quit().await?;
    Ok(())
}
