//! A class's page: units that a teacher arranges, an order that is asked for, skills that are suggested and wished for.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Chooses an entry of a list by its words.
async fn choose(browser: &Browser, label: &str, entry: &str) -> Outcome<()> {
    let list = browser
        .driver
        .query(By::Css(format!("input[aria-label='{label}']")))
        .first()
        .await?;
    list.click().await?;
    list.send_keys(entry).await?;
    let option = format!("//*[@role='option'][normalize-space(.)='{entry}']");
    browser
        .driver
        .query(By::XPath(option))
        .and_displayed()
        .first()
        .await?
        .click()
        .await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_unit_is_arranged_and_its_order_holds_until_the_page_is_read() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Workshop Mathematics").await?;
    browser.sees("Ebba Tornvik").await?;
    browser.press("Units").await?;
    browser.sees("Students find their class in this order").await?;
    browser.press("New unit").await?;
    let title = browser
        .driver
        .query(By::XPath(
            "//label[normalize-space(.)='Unit 4']/following::input[1]",
        ))
        .first()
        .await?;
    browser.type_over(&title, "Means of a month").await?;
    choose(&browser, "Put something into unit 4", "Page: Means and rates").await?;
    choose(&browser, "Put something into unit 4", "Practice: Means and rates").await?;
    browser.click("[aria-label='Move Means and rates down']").await?;
    browser
        .says("[aria-label='Means of a month'] li:first-child", "practice")
        .await?;
    browser
        .click("[aria-label='Means of a month'] [aria-label='Move Means and rates down']")
        .await?;
    browser
        .says("[aria-label='Means of a month'] li:first-child", "page")
        .await?;
    browser.press("Save").await?;
    browser.sees("Saved").await?;
    // What a student sees, without leaving the desk for long.
    browser.press("As a student sees it").await?;
    browser.sees("You see this as a made-up student").await?;
    browser.press("Workshop Mathematics").await?;
    browser.says("main", "4. Means of a month").await?;
    browser.press("Back to my desk").await?;
    browser.sees("Forces and Motion").await?;
    browser.sign_out("Maren Oldacre").await?;

    // An order that is asked for: the tools wait for the page.
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Tower shadows").await?;
    browser.press("Forces and Motion").await?;
    browser.says("main", "Done in this order").await?;
    browser.press("Tools of the site").await?;
    browser.sees("Your teacher asks for something else first").await?;
    assert!(
        browser
            .driver
            .find_all(By::XPath("//button[.='Open']"))
            .await?
            .is_empty()
    );
    browser.press("Forces and Motion").await?;
    browser.press("Torque").await?;
    browser.says("h1", "Torque").await?;
    loop {
        let next = browser
            .driver
            .find_all(By::XPath("//button[normalize-space(.)='Next step']"))
            .await?;
        let Some(next) = next.first() else { break };
        next.click().await?;
    }
    browser.press("I have read it").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.press("Forces and Motion").await?;
    browser.says("main", "1 of 2 done").await?;
    browser.press("Tools of the site").await?;
    browser.press("Open").await?;
    browser.sees("Question 1").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_skill_is_wished_for_suggested_and_stands_on_week_with_its_word() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Tower shadows").await?;
    browser
        .driver
        .goto(site.address("/skills?skill=%22matrices%22"))
        .await?;
    browser.says("article h2", "Matrices").await?;
    browser.click("article input[type='checkbox']").await?;
    let ticked = "return document.querySelector('article input[type=checkbox]').checked";
    let wished = async || -> Outcome<bool> {
        Ok(browser
            .driver
            .execute(ticked, Vec::new())
            .await?
            .convert::<bool>()?)
    };
    for _ in 0..50 {
        if wished().await? {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert!(wished().await?);
    browser.driver.goto(site.address("/")).await?;
    browser.sees("Tower shadows").await?;
    browser.sign_out("Ebba Tornvik").await?;

    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Workshop Mathematics").await?;
    browser.says("[data-testid='suggested']", "Exact values").await?;
    browser.press("Skills").await?;
    let mine = "//li[contains(., 'Matrices') and contains(., 'Ebba Tornvik')]//button";
    browser
        .driver
        .query(By::XPath(mine))
        .first()
        .await?
        .click()
        .await?;
    let why = browser
        .driver
        .query(By::XPath(
            "//label[normalize-space(.)='Reason']/following::input[1]",
        ))
        .first()
        .await?;
    browser.type_over(&why, "Sensors are next.").await?;
    browser.press("Suggest").await?;
    browser
        .says("article[aria-label='Matrices']", "Sensors are next.")
        .await?;
    browser.click("article[aria-label='Matrices'] summary").await?;
    browser
        .says("article[aria-label='Matrices'] table", "Ebba Tornvik")
        .await?;
    browser.sign_out("Maren Oldacre").await?;

    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser
        .says("[aria-label='Suggested skills']", "Sensors are next.")
        .await?;
    browser
        .click("[aria-label='Suggested skills'] a[href*='matrices']")
        .await?;
    browser.sees("Maren Oldacre suggests it").await?;
    browser.quit().await?;
    Ok(())
}
