//! The pictures of the README, taken from a fresh demo world: `scripts/pictures.sh`.

use std::path::{Path, PathBuf};

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

fn file(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("../../docs/screenshots")
        .join(name)
}

async fn go(browser: &Browser, site: &Site, path: &str) -> Outcome<()> {
    browser.driver.goto(site.address(path)).await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
#[ignore = "writes the pictures of the README; run by scripts/pictures.sh"]
async fn the_pictures_of_the_readme() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Lifting with care").await?;
    browser.picture(&file("week.png")).await?;

    browser.press("Tower shadows").await?;
    browser.sees("worth 16 points in all").await?;
    browser.picture(&file("cover.png")).await?;
    browser.press("Open").await?;
    browser.sees("Question 1").await?;
    let [height, angle] = browser.bold_numbers().await?[..] else {
        return Err("the question names a height and an angle".into());
    };
    browser.type_in("a", &format!("{height}/tan({angle}°)")).await?;
    browser
        .driver
        .query(By::Css("[data-testid='reads-as-a'] math mfrac"))
        .first()
        .await?;
    browser.is_saved().await?;
    browser.picture(&file("board.png")).await?;
    let radians = angle.to_radians();
    for wrong in [radians.tan(), radians.sin(), radians.cos()] {
        let wrong = format!("{:.1}", height * wrong);
        browser.type_in("a", &wrong).await?;
        browser.press("Check").await?;
        browser
            .driver
            .query(By::XPath(format!(
                "//*[@data-testid='tries-left' or self::section]//*[contains(., '{wrong}')]"
            )))
            .first()
            .await
            .ok();
        browser.sees("Not yet").await?;
        tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    }
    browser.sees("Fresh numbers").await?;
    browser.picture(&file("after-set.png")).await?;
    browser.press("Worked example").await?;
    browser.sees("A similar question with other numbers").await?;
    browser.press("Show the first step").await?;
    browser.press("Workings").await?;
    browser
        .driver
        .query(By::Css("[data-testid='notes']"))
        .first()
        .await?
        .send_keys(format!(
            "tan {angle}° = {:.3}\nshadow = height / tan",
            radians.tan()
        ))
        .await?;
    browser.is_saved().await?;
    browser.picture(&file("workings.png")).await?;
    browser.press("Hand in").await?;
    browser.sees("Hand in Tower shadows?").await?;
    browser.picture(&file("hand-in.png")).await?;
    browser.press("Hand in").await?;
    browser.sees("receipt 1").await?;

    go(&browser, &site, "/").await?;
    browser.press("Wind and power").await?;
    browser.press("See the result").await?;
    browser
        .driver
        .query(By::Css("[data-testid='recorded-score']"))
        .first()
        .await?;
    browser.picture(&file("result.png")).await?;
    go(&browser, &site, "/scores").await?;
    browser.sees("Lines and roots").await?;
    browser.picture(&file("scores.png")).await?;
    go(&browser, &site, "/skills").await?;
    browser.sees("Ground").await?;
    browser.picture(&file("skills.png")).await?;
    go(&browser, &site, "/slips").await?;
    browser
        .driver
        .query(By::Css("[aria-label='Slips'] a"))
        .first()
        .await?
        .click()
        .await?;
    browser
        .driver
        .query(By::Css("[data-testid='slip-note']"))
        .first()
        .await?;
    browser.picture(&file("slip-book.png")).await?;
    go(&browser, &site, "/read/right-triangles").await?;
    browser.sees("Names of the sides").await?;
    browser.picture(&file("reading.png")).await?;
    go(&browser, &site, "/").await?;
    browser.press("Equations, lines and limits").await?;
    browser.press("Carry on").await?;
    browser.sees("Question").await?;
    browser.picture(&file("practice.png")).await?;

    go(&browser, &site, "/").await?;
    browser.press("Circuits").await?;
    browser.press("Open").await?;
    browser.press("Open and start the clock").await?;
    browser.says("[data-testid='time-left']", "24:").await?;
    browser.type_in("a", "3.83 A").await?;
    browser.is_saved().await?;
    browser.picture(&file("timed.png")).await?;

    go(&browser, &site, "/").await?;
    browser.press("Site Practice").await?;
    browser.sees("Before you lift").await?;
    browser.picture(&file("class.png")).await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;

    // The teacher's desk.
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Workshop Mathematics").await?;
    browser.sees("Runa Skarvik").await?;
    browser.picture(&file("class-sheet.png")).await?;
    browser.press("Work").await?;
    browser.press("Lines and roots").await?;
    browser.sees("How it went").await?;
    browser.sees("is the pass mark").await?;
    browser.picture(&file("setting.png")).await?;
    go(&browser, &site, "/marking").await?;
    browser.click("a[href$='/1']").await?;
    browser.sees("What is looked for").await?;
    browser.picture(&file("marking.png")).await?;
    go(&browser, &site, "/bank/guy-wire/edit").await?;
    browser.sees("Other numbers").await?;
    browser.driver.query(By::Css(".cm-content")).first().await?;
    browser.picture(&file("bank-edit.png")).await?;
    browser.quit().await?;

    let phone = Browser::start().await?;
    phone.as_phone().await?;
    phone.sign_in(&site, "joss", "granite-72").await?;
    phone.press("Tower shadows").await?;
    phone.press("Open").await?;
    phone.sees("Question 1").await?;
    let [height, angle] = phone.bold_numbers().await?[..] else {
        return Err("the question names a height and an angle".into());
    };
    phone.type_in("a", &format!("{height}/tan({angle}°)")).await?;
    phone
        .driver
        .query(By::Css("[data-testid='reads-as-a'] math mfrac"))
        .first()
        .await?;
    phone.is_saved().await?;
    phone.picture(&file("board-phone.png")).await?;
    phone.quit().await?;
    Ok(())
}
