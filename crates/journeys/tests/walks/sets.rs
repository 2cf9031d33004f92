//! Three wrong tries, the working, fresh numbers, right, full credit: with the mouse, and by keyboard alone.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

fn shadow(numbers: &[f64]) -> String {
    format!("{:.1}", numbers[0] / numbers[1].to_radians().tan())
}

#[tokio::test(flavor = "multi_thread")]
async fn three_wrong_tries_the_working_fresh_numbers_and_full_credit() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.press("Tower shadows").await?;
    browser.press("Open").await?;
    let first = {
        browser.sees("3 more sets of numbers").await?;
        browser.bold_numbers().await?
    };
    for (entry, left) in [("1", "2 of 3"), ("2", "1 of 3"), ("3", "0 of 3")] {
        browser.type_in("a", entry).await?;
        browser.press("Check").await?;
        browser
            .says(
                "[data-testid='tries-left']",
                &format!("{left} tries left on Set A"),
            )
            .await?;
    }
    browser.sees("No tries are left on Set A.").await?;
    browser.press("Show the working").await?;
    // The working holds this student's own numbers.
    browser
        .says("[data-testid='working']", &format!("{}", first[0]))
        .await?;
    browser.press("Fresh numbers").await?;
    browser
        .says("[data-testid='tries-left']", "3 of 3 tries left on Set B")
        .await?;
    browser.says("[data-testid='sets-left']", "2 more sets").await?;
    let second = browser.bold_numbers().await?;
    assert_ne!(first, second);
    browser.type_in("a", &shadow(&second)).await?;
    browser.press("Check").await?;
    browser.sees("2 of 2 points").await?;
    // Every try on every set stays in the margin.
    browser.press("Tries (4)").await?;
    browser.sees("The working was shown.").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn the_same_by_keyboard_alone() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.driver.goto(site.address("/sign-in")).await?;
    browser.driver.query(By::Name("user_name")).first().await?;
    browser.tab_to("input[name='user_name']", "").await?;
    browser.keys("joss").await?;
    browser.tab_to("input[name='password']", "").await?;
    browser.keys("granite-72" + Key::Enter).await?;
    browser.sees("need doing").await?;
    browser.tab_to("article a", "Tower shadows").await?;
    browser.keys(Key::Enter + "").await?;
    browser.sees("8, worth 16 points in all").await?;
    browser.tab_to("button", "Open").await?;
    browser.keys(Key::Enter + "").await?;
    browser.sees("3 more sets of numbers").await?;
    browser.tab_to("input[data-part='a']", "").await?;
    for (entry, left) in [("1", "2 of 3"), ("2", "1 of 3"), ("3", "0 of 3")] {
        browser.control("a").await?;
        browser.keys(entry).await?;
        browser.control(Key::Enter + "").await?;
        browser.says("[data-testid='tries-left']", left).await?;
    }
    browser.tab_to("button", "Show the working").await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .driver
        .query(By::Css("[data-testid='working'] li"))
        .first()
        .await?;
    browser.tab_to("button", "Fresh numbers").await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .says("[data-testid='tries-left']", "3 of 3 tries left on Set B")
        .await?;
    // The focus stands in the field of the new set already.
    browser
        .driver
        .query(By::Css("input[data-part='a']:focus"))
        .first()
        .await?;
    let answer = shadow(&browser.bold_numbers().await?);
    browser.keys(answer).await?;
    browser.control(Key::Enter + "").await?;
    browser.sees("2 of 2 points").await?;
    browser.quit().await?;
    Ok(())
}
