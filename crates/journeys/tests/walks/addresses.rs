//! Addresses as they are mistyped, cut short or made up: each leads to a page that says what it is, and none out of the house.

use journeys::{Browser, Outcome, Site};

/// The heading of an address, once there is one. A page that broke is none.
async fn heading(browser: &Browser, site: &Site, path: &str) -> Outcome<String> {
    browser.driver.goto(site.address(path)).await?;
    let there = "return document.querySelector('h1') !== null";
    browser
        .comes_true(there)
        .await
        .map_err(|e| format!("{path}: {e}"))?;
    browser.text_of("h1").await
}

#[tokio::test(flavor = "multi_thread")]
async fn odd_addresses_lead_to_pages_that_say_what_they_are() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("need doing").await?;
    let work = browser.open_work(&site, "Tower shadows").await?;
    let work = work.rsplit('/').next().ok_or("the work's id")?.to_owned();
    for (odd, shown) in [
        ("question/x", "Question 1"),
        ("question/1.5", "Question 1"),
        ("question/0", "Question 1"),
        ("question/99", "Question 8"),
        ("receipt/x", "This receipt"),
        ("nowhere", "There is no page at this address"),
    ] {
        let path = format!("/work/{work}/{odd}");
        let heading = heading(&browser, &site, &path).await?;
        assert!(heading.contains(shown), "{path}: {heading}");
    }
    for (path, shown) in [
        ("/work/x/question/1", "This assignment"),
        ("/class/x", "Class"),
        ("/read/x", "This page"),
        ("/read/torque?step=x", "Torque"),
        ("/skills?skill=x", "Skills"),
        ("/cards?pages=x", "Terms"),
        ("/practise/x", "Practice"),
        ("/recording/x", "Recording"),
        ("/?class=Nowhere&counting=7", "Week"),
    ] {
        let heading = heading(&browser, &site, path).await?;
        assert!(heading.contains(shown), "{path}: {heading}");
    }
    browser.sign_out("Ebba Tornvik").await?;

    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Site Practice").await?;
    browser.says("h1", "Site Practice").await?;
    let class = browser.driver.current_url().await?.path().to_owned();
    let sheet = heading(&browser, &site, &format!("{class}?show=x")).await?;
    assert!(sheet.contains("Site Practice"), "{sheet}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn signing_in_leads_to_no_other_server() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    for (to, lands) in [
        ("https://elsewhere.example/", "/"),
        ("//elsewhere.example/", "/"),
        ("/\\elsewhere.example/", "/"),
        ("/.//elsewhere.example/", "/"),
        ("/scores/..//elsewhere.example/", "/"),
        ("javascript:document.title='gone'", "/"),
        ("/scores", "/scores"),
    ] {
        let mut address = url::Url::parse(&site.address("/sign-in"))?;
        address.query_pairs_mut().append_pair("to", to);
        browser.driver.goto(address.as_str()).await?;
        for (field, text) in [("user_name", "ebba"), ("password", "lichen-41")] {
            browser.click(&format!("[name='{field}']")).await?;
            browser.keys(text).await?;
        }
        browser.press("Sign in").await?;
        browser
            .comes_true("return document.querySelector('h1') !== null && location.pathname !== '/sign-in'")
            .await?;
        let here = browser.driver.current_url().await?;
        assert_eq!(here.as_str(), site.address(lands), "{to}");
        browser.sign_out("Ebba Tornvik").await?;
    }
    Ok(())
}
