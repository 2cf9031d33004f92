//! A student writes small programs: runs them, is told of errors at their lines, checks, compares, hands in.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

const EDITOR: &str = ".cm-content[aria-label='Your program']";

/// Replaces the program by typing. Brackets and quotation marks stand as they are typed.
async fn write(browser: &Browser, text: impl Into<TypingData> + Send) -> Outcome<()> {
    let editor = browser.driver.query(By::Css(EDITOR)).first().await?;
    // The ledge at the bottom lies over what is not scrolled away from it.
    let centre = "arguments[0].scrollIntoView({block: 'center'})";
    browser.driver.execute(centre, vec![editor.to_json()?]).await?;
    editor.click().await?;
    browser.control("a").await?;
    browser.keys(text).await?;
    Ok(())
}

async fn run(browser: &Browser) -> Outcome<()> {
    browser.click("[data-testid='run']").await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_program_is_written_run_checked_and_handed_in() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("need doing").await?;
    let work = browser.open_work(&site, "First programs").await?;
    browser.go_to(&work, 1).await?;
    browser.sees("What is asked").await?;
    let asked = browser.text_of("[aria-label='What is asked']").await?;
    let lines: u32 = asked
        .split(" angles")
        .next()
        .and_then(|t| t.split_whitespace().next_back()?.parse().ok())
        .ok_or("how many angles are asked for")?;
    let step: u32 = asked
        .split(" more each")
        .next()
        .and_then(|t| t.split_whitespace().next_back()?.parse().ok())
        .ok_or("how much more each time")?;

    // An error is told with its line, in words and in the editor.
    write(&browser, "let a = 1;\nprint(b);").await?;
    run(&browser).await?;
    browser
        .says("[data-testid='output']", "Line 2: b is not defined")
        .await?;
    browser
        .driver
        .query(By::Css(".cm-lint-marker-error"))
        .first()
        .await?;

    // An endless loop is stopped; what it printed before is there.
    write(&browser, "print('begun'); while (true) {}").await?;
    run(&browser).await?;
    browser
        .says("[data-testid='output']", "Does a loop here ever end?")
        .await?;
    browser.says("[data-testid='output']", "begun").await?;

    // One line too many: the check says so, with what came beside what was expected.
    let one_more = format!("for (let i = 0; i <= {lines}; i++) print('pitch ' + i * {step});");
    write(&browser, &one_more).await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("One line is too many at the end.").await?;
    browser
        .sees("20 % of the points would be recorded for this program")
        .await?;

    // It is all there again after the window was closed.
    browser.driver.refresh().await?;
    browser.says(EDITOR, "i <= ").await?;

    // Another begins with a text. What was taken out stays out, until it is asked for again.
    let taken_back = "return ![...document.querySelectorAll('button')].some(b => b.textContent === 'Back to the starting text')";
    browser.go_to(&work, 2).await?;
    browser.says(EDITOR, "return false;").await?;
    browser.comes_true(taken_back).await?;
    write(&browser, Key::Delete + "").await?;
    browser.is_saved().await?;
    browser.driver.refresh().await?;
    browser.sees("Back to the starting text").await?;
    assert_eq!(browser.text_of(EDITOR).await?, "");
    browser.press("Back to the starting text").await?;
    browser.says(EDITOR, "return false;").await?;
    browser.comes_true(taken_back).await?;
    // Checked as it stands, it costs no try.
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("Nothing is written yet.").await?;
    browser.sees("6 of 6 tries left").await?;
    browser.go_to(&work, 1).await?;
    browser.says(EDITOR, "i <= ").await?;

    // By keyboard alone: Esc and Tab leave the editor, Run is reached and pressed.
    let right = format!("for (let i = 0; i < {lines}; i++) print('pitch ' + i * {step});");
    write(&browser, &right).await?;
    browser.keys(Key::Escape + "").await?;
    browser.tab_to("[data-testid='run']", "Run").await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .says("[data-testid='output']", &format!("pitch {}", (lines - 1) * step))
        .await?;
    browser.press("Check").await?;
    browser.sees("2 of 2 checks passed.").await?;

    // Both tries stand side by side.
    let tries = By::XPath("//button[@role='tab'][contains(., 'Tries')]");
    browser.driver.query(tries).first().await?.click().await?;
    browser.press("Compare 2 versions").await?;
    browser
        .driver
        .query(By::Css(".cm-mergeView .cm-changedText"))
        .first()
        .await?;
    browser.keys(Key::Escape + "").await?;

    browser.driver.goto(format!("{work}/hand-in")).await?;
    browser.press("Hand in").await?;
    browser.sees("Receipt").await?;

    // Once the result is out it has them side by side too.
    browser.driver.goto(format!("{work}/result")).await?;
    browser.sees("Result of ").await?;
    browser.press("Compare 2 versions").await?;
    browser
        .driver
        .query(By::Css(".cm-mergeView .cm-changedText"))
        .first()
        .await?;
    browser.quit().await?;
    Ok(())
}
