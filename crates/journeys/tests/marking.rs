//! A teacher marks what waits for a person, by keyboard, and the student sees what was given and by whom.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

#[tokio::test(flavor = "multi_thread")]
async fn written_work_is_marked_by_keyboard_and_the_student_sees_it() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Reports and records").await?;
    let work = browser.open_work(&site, "Reports and records").await?;
    browser.go_to(&work, 1).await?;
    browser.click("[role='textbox'][data-part='a']").await?;
    browser.control(Key::End + "").await?;
    browser.keys(" use two tag lines, and check the knots.").await?;
    browser.is_saved().await?;
    browser.driver.goto(format!("{work}/hand-in")).await?;
    browser.press("Hand in").await?;
    browser.sees("wait for your teacher").await?;
    browser.sign_out("Ebba Tornvik").await?;

    // The teacher is led to what waits, and nowhere a student's pages.
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.says("h1", "Classes").await?;
    browser.press("Marking").await?;
    browser.says("[data-testid='waiting']", "wait for you").await?;
    assert!(
        browser
            .driver
            .find_all(By::LinkText("Slip book"))
            .await?
            .is_empty()
    );
    browser.walk_to("a[href$='/1']").await?;
    browser.keys(Key::Enter + "").await?;
    browser.says("article h2", "Ebba Tornvik").await?;
    browser.sees("use two tag lines, and check the knots").await?;
    // Names can be hidden.
    browser
        .click("[aria-label='Answers'] input[type='checkbox']")
        .await?;
    browser.says("article h2", "Student 1").await?;
    browser
        .click("[aria-label='Answers'] input[type='checkbox']")
        .await?;
    browser.says("article h2", "Ebba Tornvik").await?;

    // More than the question is worth is not taken; half-marked work is kept over a reload.
    browser.walk_to("article input").await?;
    browser.control("a").await?;
    browser.keys("7").await?;
    browser.sees("From 0 to 6").await?;
    browser.control("a").await?;
    browser.keys("4.5").await?;
    browser.keys(Key::Tab + "").await?;
    browser.walk_to("article textarea").await?;
    browser.keys("Say what could have come of it.").await?;
    browser.sees("Not given yet; kept in this browser").await?;
    browser.driver.refresh().await?;
    browser
        .says("article textarea", "Say what could have come of it.")
        .await?;
    browser.walk_to("article textarea").await?;
    browser.control(Key::Enter + "").await?;
    // The next one that waits; a note that was given can be given again.
    browser.says("article h2", "Tilde Askvoll").await?;
    browser.says("[aria-label='Answers']", "4.5 of 6").await?;
    browser
        .walk_to("article .mantine-Textarea-root ~ details summary")
        .await?;
    browser.keys(Key::Enter + "").await?;
    browser.walk_to("article details button").await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .says("article textarea", "Say what could have come of it.")
        .await?;
    browser.sign_out("Maren Oldacre").await?;

    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Reports and records").await?;
    browser.driver.goto(format!("{work}/result")).await?;
    browser.sees("Maren Oldacre gave 4.5 of 6 points").await?;
    browser.sees("Marked by your teacher").await?;
    browser.sees("Say what could have come of it.").await?;
    // A student finds nothing there.
    let gone =
        "const done = arguments[arguments.length - 1]; fetch('/api/marking').then(r => done(r.status))";
    let status: u16 = browser.driver.execute_async(gone, Vec::new()).await?.convert()?;
    assert_eq!(status, 404);
    Ok(())
}
