//! A student who comes new into a class does its starting point; the teacher sees the class's picture.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Answers what is asked, in turn: a number, or *Not learned yet*. Gives how many it were.
async fn go_through(browser: &Browser, from: usize) -> Outcome<usize> {
    for number in from..=30 {
        let heading = browser.driver.query(By::Css("h1")).first().await?.text().await?;
        if heading == "Where you start" {
            return Ok(number - 1);
        }
        browser.sees(&format!("Question {number}")).await?;
        browser.press("Not learned yet").await?;
        browser
            .driver
            .query(By::XPath(format!(
                "//h1[contains(., 'Question {}') or contains(., 'Where you start')]",
                number + 1
            )))
            .first()
            .await?;
    }
    Ok(30)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_new_student_finds_where_to_start() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    // Who has done nothing yet in a class finds it on Week.
    browser.press("Starting point").await?;
    browser
        .sees("is an answer like any other, and better than a guess")
        .await?;
    browser.sees("Have paper and pencil ready").await?;
    browser.press("Begin").await?;
    browser.sees("Question 1").await?;
    browser.sees("Nothing is said of right or wrong here.").await?;
    // Nothing entered costs nothing; what is typed is there again after it was put aside.
    browser.press("Give this answer").await?;
    browser.driver.query(By::Css("[role='alert']")).first().await?;
    let typed = browser
        .driver
        .query(By::Css("article input[type='text'], article textarea"))
        .nowait()
        .all_from_selector()
        .await?;
    if let Some(field) = typed.first() {
        field.send_keys("12").await?;
        browser
            .driver
            .query(By::Css("[data-testid='entered'][data-kept='true']"))
            .first()
            .await?;
        browser.press("Put aside; everything is kept").await?;
        browser.sees("put aside; carry on where you stopped").await?;
        browser.press("Starting point").await?;
        browser.sees("Question 1").await?;
        let field = browser
            .driver
            .query(By::Css("article input[type='text'], article textarea"))
            .first()
            .await?;
        assert_eq!(field.value().await?.as_deref(), Some("12"));
    }
    let asked = go_through(&browser, 1).await?;
    assert!((2..=30).contains(&asked), "{asked}");
    // Nothing is known: everything is next or far off, and a week begins at the bottom.
    for words in [
        "What you know",
        "What comes next",
        "Still far off",
        "A first week",
    ] {
        browser.sees(words).await?;
    }
    let next = browser.text_of("section[aria-label='What comes next']").await?;
    assert!(next.contains("Fractions"), "{next}");
    assert!(
        browser
            .text_of("section[aria-label='A first week'] li")
            .await?
            .contains("Fractions")
    );
    browser.sign_out("Wren Aldersay").await?;

    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Electrics and Control").await?;
    browser.press("Starting point").await?;
    browser.sees("have done it").await?;
    browser
        .click("button[aria-label='Let Wren Aldersay do it again']")
        .await?;
    browser.sees("may do it again").await?;
    browser.sign_out("Maren Oldacre").await?;

    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("your teacher lets you do it again").await?;
    browser.quit().await?;
    Ok(())
}
