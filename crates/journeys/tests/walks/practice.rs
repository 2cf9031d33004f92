//! A student practises a skill from new to solid.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// The answer to one of the questions on safety, from the page's own numbers.
async fn answer(browser: &Browser) -> Outcome<String> {
    let numbers = browser.bold_numbers().await?;
    let text = browser
        .driver
        .query(By::Css("article"))
        .first()
        .await?
        .text()
        .await?;
    Ok(if text.contains("descent device") {
        format!("{}", numbers[0] * (numbers[1] + numbers[2]))
    } else if text.contains("near misses") {
        format!("{:.2}", numbers[0] / numbers[1])
    } else if text.contains("crews") {
        format!("{}", numbers[0] * numbers[1] * numbers[2])
    } else {
        format!("{:.2}", numbers[1] / numbers[0] * 100.0)
    })
}

#[tokio::test(flavor = "multi_thread")]
async fn a_skill_is_practised_from_new_to_solid() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("need doing").await?;
    browser.press("Skills").await?;
    browser
        .driver
        .query(By::XPath(
            "//button[@data-level='new'][contains(., 'Before the work')]",
        ))
        .first()
        .await?
        .click()
        .await?;
    browser.sees("New: nothing has been checked on it yet.").await?;
    browser.press("Practise until solid").await?;

    // A wrong answer shows the right one and the working, and a similar question follows.
    browser.sees("Question 1").await?;
    browser.type_in("a", "1/7").await?;
    browser
        .driver
        .query(By::Css("[data-testid='reads-as-a'] math mfrac"))
        .first()
        .await?;
    // Leaving and coming back loses nothing of what was typed.
    browser
        .driver
        .query(By::Css("[data-testid='entered'][data-kept='true']"))
        .first()
        .await?;
    browser.driver.refresh().await?;
    browser.sees("Question 1").await?;
    assert_eq!(browser.field("a").await?.value().await?.as_deref(), Some("1/7"));
    browser.press("Check").await?;
    browser.sees("The right answer").await?;
    browser.sees("The working").await?;
    browser.says("[data-testid='goal']", "growing").await?;
    browser.press("A similar question").await?;

    for number in 2.. {
        browser.sees(&format!("Question {number}")).await?;
        let right = answer(&browser).await?;
        browser.type_in("a", &right).await?;
        browser.press("Check").await?;
        browser
            .says("[data-testid='goal']", &format!("{number} answered"))
            .await?;
        let goal = browser
            .driver
            .query(By::Css("[data-testid='goal']"))
            .first()
            .await?;
        if goal.text().await?.contains("You have reached the goal") {
            break;
        }
        assert!(number < 12, "never solid");
        browser.press("Next question").await?;
    }
    browser.press("Stop here; everything is kept").await?;
    browser
        .driver
        .query(By::XPath(
            "//button[@data-level='solid'][contains(., 'Before the work')]",
        ))
        .first()
        .await?;
    browser.quit().await?;
    Ok(())
}
