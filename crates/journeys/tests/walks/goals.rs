//! A student works towards a goal and hands in what there is; does the typing practice; draws a review for a test.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

#[tokio::test(flavor = "multi_thread")]
async fn practice_is_handed_in_half_way_and_goes_on() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("need doing").await?;
    browser.press("Eight circuits right").await?;
    browser.sees("8 right first time, on fresh numbers").await?;
    browser.press("Open").await?;
    browser.sees("Question 1").await?;
    browser.says("[data-testid='goal']", "0 of 8 right").await?;
    browser.says("article", "Handing in now would record 0 %").await?;
    // A wrong answer is shown beside the right one: three cells at least are missing.
    browser.press("Add one").await?;
    browser.sees("1 added").await?;
    browser.press("Check").await?;
    browser.sees("The right answer").await?;
    browser.says("[data-testid='goal']", "1 answered").await?;
    browser.press("Hand in").await?;
    browser.says("article", "Recorded now: 0 % of the goal").await?;
    browser.sees("0 of 8 right first time").await?;
    browser.press("Back to the practice").await?;
    // The question that was answered still stands there with its answer; the next one is a like one.
    browser.sees("Question 2").await?;
    browser.press("Stop here; everything is kept").await?;
    browser.sees("Under way").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn typing_is_practised_by_keyboard() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("need doing").await?;
    browser.driver.goto(site.address("/typing")).await?;
    browser.sees("0 of 10 done").await?;
    browser.type_in("fraction", "0.75").await?;
    browser.keys(Key::Enter + "").await?;
    browser.says("[data-testid='typing-said']", "same value").await?;
    let tasks = [
        ("fraction", "3/4"),
        ("long-fraction", "(x+1)/(2x-3)"),
        ("power", "x^5"),
        ("long-power", "2^(x+1)"),
        ("root", "3sqrt(2)"),
        ("pi", "2pi/3"),
        ("scientific", "4.2e-3"),
        ("interval", "[2,7)"),
        ("matrix", "[[1,0],[-2,5]]"),
        ("unit", "9.81 m/s^2"),
    ];
    for (n, (task, entry)) in (1..).zip(tasks) {
        browser.type_in(task, entry).await?;
        browser.keys(Key::Enter + "").await?;
        browser.says("[data-testid='typing-said']", "That is it.").await?;
        if n < 10 {
            browser
                .says("[data-testid='typing-done']", &format!("{n} of 10 done"))
                .await?;
            browser.keys(Key::Enter + "").await?;
        }
    }
    browser.sees("All ten are done.").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_review_is_drawn_answered_and_survives_a_reload() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("need doing").await?;
    browser.driver.goto(site.address("/slips")).await?;
    browser.press("Review for a test").await?;
    browser.sees("From these classes").await?;
    let length = browser
        .driver
        .query(By::XPath("//label[.='Questions']/following::input[1]"))
        .first()
        .await?;
    length.send_keys(Key::Control + "a").await?;
    length.send_keys("2").await?;
    browser.press("Create the review").await?;
    browser.sees("Question 1 of 2").await?;
    for field in browser
        .driver
        .query(By::Css("input[data-part]"))
        .all_from_selector()
        .await?
    {
        field.send_keys("1/7").await?;
    }
    browser.press("Check").await?;
    browser.sees("The right answer").await?;
    browser.press("Next question").await?;
    browser.sees("Question 2 of 2").await?;
    browser.driver.refresh().await?;
    browser.sees("Question 2 of 2").await?;
    browser.press("Skip this one").await?;
    browser.sees("The end of the review").await?;
    browser.says("article", "left out").await?;
    browser.press("Draw another review").await?;
    browser.sees("From these classes").await?;
    browser.quit().await?;
    Ok(())
}
