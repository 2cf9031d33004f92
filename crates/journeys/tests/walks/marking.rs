//! A teacher marks what waits for a person, by keyboard, and the student sees what was given and by whom.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

async fn value_of(browser: &Browser, css: &str) -> Outcome<String> {
    let field = browser.driver.query(By::Css(css)).first().await?;
    Ok(field.prop("value").await?.unwrap_or_default())
}

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

    // Lines of the rubric are ticked by key and give the points; more than the question is worth is not taken; half-marked
    // work is kept over a reload.
    for line in [0, 1] {
        let line = format!("article fieldset > div:nth-of-type({}) input", line + 1);
        browser.walk_to(&line).await?;
        browser.keys(" ").await?;
    }
    let points = "article input[inputmode='decimal']";
    assert_eq!(value_of(&browser, points).await?, "2");
    browser.walk_to(points).await?;
    browser.control("a").await?;
    browser.keys("7").await?;
    browser.sees("From 0 to 6").await?;
    browser.control("a").await?;
    browser.keys("4.5").await?;
    browser.keys(Key::Tab + "").await?;
    browser.walk_to("article textarea").await?;
    browser
        .keys("Say what could have come of it: $\\frac{1}{2} m v^2$.")
        .await?;
    browser.sees("Not given yet; kept in this browser").await?;
    browser.driver.refresh().await?;
    browser
        .says("article textarea", "Say what could have come of it")
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
    browser
        .walk_to("article .mantine-Textarea-root ~ details button")
        .await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .says("article textarea", "Say what could have come of it")
        .await?;
    browser.sign_out("Maren Oldacre").await?;

    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Reports and records").await?;
    browser.driver.goto(format!("{work}/result")).await?;
    browser.sees("Maren Oldacre gave 4.5 of 6 points").await?;
    browser.sees("Marked by your teacher").await?;
    browser
        .says("blockquote", "Say what could have come of it")
        .await?;
    browser.driver.query(By::Css("blockquote .katex")).first().await?;
    browser
        .says("li[data-met='true']", "what could have come of it")
        .await?;
    browser
        .says("li[data-met='false']", "why it could happen")
        .await?;
    // A student finds nothing there.
    let gone =
        "const done = arguments[arguments.length - 1]; fetch('/api/marking').then(r => done(r.status))";
    let status: u16 = browser.driver.execute_async(gone, Vec::new()).await?.convert()?;
    assert_eq!(status, 404);
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn points_are_kept_student_by_student_and_released_together() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.says("h1", "Classes").await?;
    browser.press("Marking").await?;
    browser
        .says("[data-testid='waiting']", "5 answers wait for you")
        .await?;
    browser.click("details summary").await?;
    browser.press("Tilde Askvoll").await?;
    browser.says("h1", "Tilde Askvoll").await?;
    browser
        .driver
        .query(By::XPath("//label[normalize-space(.)='all together']"))
        .first()
        .await?
        .click()
        .await?;
    // The report, by its rubric; the explanation, by points for its part alone.
    let first = "[aria-label^='Answer of Question 1'] ";
    browser
        .click(&format!("{first}fieldset > div:nth-of-type(1) input"))
        .await?;
    browser
        .click(&format!("{first}fieldset > div:nth-of-type(3) input"))
        .await?;
    let give = "//article[starts-with(@aria-label, 'Answer of Question 1')]//button[normalize-space(.)='Hold back the points']";
    browser
        .driver
        .query(By::XPath(give))
        .first()
        .await?
        .click()
        .await?;
    browser
        .says(first.trim(), "Held back: nobody sees it until it is released")
        .await?;
    browser.sees("1 answer is held back.").await?;
    browser.says("[aria-label='Students']", "wait").await?;
    browser.driver.goto(site.address("/marking")).await?;
    browser.sees("1 answer is held back, not released yet.").await?;
    browser
        .says("[data-testid='waiting']", "5 answers wait for you")
        .await?;
    browser.click("a[href$='/1']").await?;
    browser.says("[aria-label='Answers']", "2 of 6, kept").await?;
    browser.press("Release it").await?;
    browser.sees("Released.").await?;
    browser.says("[aria-label='Answers']", "2 of 6").await?;
    browser.driver.goto(site.address("/marking")).await?;
    browser
        .says("[data-testid='waiting']", "4 answers wait for you")
        .await?;
    browser.quit().await?;
    Ok(())
}
