//! axe-core over every kind of answer and every main view: WCAG 2.2 A and AA and best practices, in the light and the dark
//! slate and on a phone, with nothing found.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Looks at the page that is shown and gives what is wrong with it, a line each.
async fn faults(browser: &Browser, view: &str) -> Outcome<Vec<String>> {
    settled(browser).await?;
    let axe =
        std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/node_modules/axe-core/axe.min.js");
    browser
        .driver
        .execute(std::fs::read_to_string(axe)?, Vec::new())
        .await?;
    let run = "const done = arguments[arguments.length - 1]; \
        const tags = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22a', 'wcag22aa', 'best-practice']; \
        axe.run(document, {runOnly: {type: 'tag', values: tags}, resultTypes: ['violations']}) \
          .then(r => done(r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.html.slice(0, 160) + ' ' + (n.any[0] || n.all[0] || n.none[0] || {}).message)))) \
          .catch(e => done(['axe did not run: ' + e]))";
    let ran = browser.driver.execute_async(run, Vec::new()).await;
    let ran = ran.map_err(|e| format!("{view}: {e}"))?;
    let found: Vec<String> = ran.convert()?;
    Ok(found.into_iter().map(|f| format!("{view}: {f}")).collect())
}

/// Waits until nothing is on its way and nothing moves.
async fn settled(browser: &Browser) -> Outcome<()> {
    // What it still waits for; nothing once it is settled.
    let script = "const open = []; \
        if (document.fonts.status !== 'loaded') open.push('fonts'); \
        if (document.querySelector('h1') === null) open.push('no heading'); \
        if (document.querySelectorAll('.mantine-Skeleton-root, .mantine-Loader-root').length > 0) open.push('a skeleton'); \
        if (document.body.innerText.includes('One moment')) open.push('a field'); \
        for (const a of document.getAnimations()) if (a.playState === 'running') open.push(a.animationName ?? a.transitionProperty ?? 'motion'); \
        return open.join(', ')";
    let mut waits = String::new();
    for _ in 0..300 {
        waits = browser.driver.execute(script, Vec::new()).await?.convert()?;
        if waits.is_empty() {
            return Ok(());
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let at = browser.driver.current_url().await?;
    Err(format!("{at} never settled: {waits}").into())
}

/// Every view, with its address.
fn views(site: &Site, day: &str, pictures: &str, reports: &str, radio: &str) -> Vec<(String, String)> {
    let main = [
        "/",
        "/skills",
        "/slips",
        "/scores",
        "/typing",
        "/read/torque",
        "/own",
    ];
    let mut all: Vec<(String, String)> = main.iter().map(|p| ((*p).to_owned(), site.address(p))).collect();
    all.extend((1..=10).map(|n| (format!("working day {n}"), format!("{day}/question/{n}"))));
    all.extend((1..=8).map(|n| (format!("pictures {n}"), format!("{pictures}/question/{n}"))));
    all.extend((1..=3).map(|n| (format!("reports {n}"), format!("{reports}/question/{n}"))));
    all.extend((1..=5).map(|n| (format!("radio {n}"), format!("{radio}/question/{n}"))));
    let handed_in = [
        ("hand-in with writing", "hand-in"),
        ("result with writing", "result"),
    ];
    all.extend(handed_in.map(|(name, path)| (name.to_owned(), format!("{reports}/{path}"))));
    let of_work = [
        ("cover", ""),
        ("all on one page", "/all"),
        ("hand-in", "/hand-in"),
    ];
    all.extend(
        of_work
            .iter()
            .map(|(name, path)| ((*name).to_owned(), format!("{day}{path}"))),
    );
    all
}

async fn look_at(browser: &Browser, views: &[(String, String)], slate: &str) -> Outcome<Vec<String>> {
    let mut found = Vec::new();
    for (name, address) in views {
        let gone = browser.driver.goto(address).await;
        gone.map_err(|e| format!("{slate}, {name}: {e}"))?;
        found.extend(faults(browser, &format!("{slate}, {name}")).await?);
    }
    Ok(found)
}

#[tokio::test(flavor = "multi_thread")]
async fn axe_finds_nothing_in_any_kind_or_view_light_dark_or_on_a_phone() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.driver.goto(site.address("/sign-in")).await?;
    let mut found = faults(&browser, "sign in").await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("A working day").await?;
    let day = browser.open_work(&site, "A working day").await?;
    // Verdicts are part of a view: one that is not finished, and one that is wrong.
    browser
        .driver
        .query(By::Css("[data-gap='total']"))
        .first()
        .await?
        .send_keys("1")
        .await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("still empty").await?;
    for class in ["Site Practice", "Forces and Motion"] {
        browser.driver.goto(site.address("/")).await?;
        browser.press(class).await?;
        browser.says("h1", class).await?;
        found.extend(faults(&browser, &format!("light, the class {class}")).await?);
    }
    browser.driver.goto(site.address("/")).await?;
    browser.sees("A working day").await?;
    let pictures = browser.open_work(&site, "Pictures and plans").await?;
    browser
        .driver
        .query(By::Css("[data-spot='lamp']"))
        .first()
        .await?
        .click()
        .await?;
    browser.is_saved().await?;
    // Writing that was handed in, with a table in it, and two documents that are open: one beside, one as a window.
    let reports = browser.open_work(&site, "Reports and records").await?;
    browser.go_to(&reports, 3).await?;
    browser.click("[role='textbox'] td").await?;
    browser.keys("a shock").await?;
    browser.is_saved().await?;
    browser.driver.goto(format!("{reports}/hand-in")).await?;
    browser.press("Hand in").await?;
    browser.sees("Handed in").await?;
    let radio = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&radio, 1).await?;
    browser.press("Load chart, crane two").await?;
    browser.press("As a window").await?;
    browser.press("Lift plan").await?;
    browser.click("summary").await?;
    found.extend(faults(&browser, "light, documents").await?);
    // A field in which maths is built up.
    browser.go_to(&radio, 3).await?;
    browser.press("Equation keyboard").await?;
    browser.driver.query(By::Css("math-field")).first().await?;
    found.extend(faults(&browser, "light, built up").await?);
    let views = views(&site, &day, &pictures, &reports, &radio);
    found.extend(look_at(&browser, &views, "light").await?);
    let dark = "localStorage.setItem('mantine-color-scheme-value', 'dark')";
    browser.driver.execute(dark, Vec::new()).await?;
    browser.driver.refresh().await?;
    // The night slate is on: this waits for it, and fails if it never comes.
    let night = By::Css("html[data-mantine-color-scheme='dark']");
    browser.driver.query(night).first().await?;
    found.extend(look_at(&browser, &views, "dark").await?);
    browser.as_phone().await?;
    browser
        .driver
        .execute(
            "localStorage.setItem('mantine-color-scheme-value', 'light')",
            Vec::new(),
        )
        .await?;
    browser.driver.refresh().await?;
    let width = "return document.documentElement.clientWidth";
    assert_eq!(
        browser
            .driver
            .execute(width, Vec::new())
            .await?
            .convert::<i64>()?,
        390
    );
    for (name, address) in &views {
        browser.driver.goto(address).await?;
        found.extend(faults(&browser, &format!("phone, {name}")).await?);
        // Nothing is wider than the phone.
        let over = "return document.documentElement.scrollWidth > 391";
        if browser
            .driver
            .execute(over, Vec::new())
            .await?
            .convert::<bool>()?
        {
            found.push(format!("phone, {name}: the page is wider than the screen"));
        }
    }
    found.sort();
    found.dedup();
    assert!(found.is_empty(), "{} faults:\n{}", found.len(), found.join("\n"));
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn axe_finds_nothing_where_a_teacher_marks() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.says("h1", "Classes").await?;
    browser.press("Marking").await?;
    browser.says("[data-testid='waiting']", "wait for you").await?;
    let mut found = faults(&browser, "light, marking").await?;
    browser.click("a[href$='/1']").await?;
    browser.says("article h2", "Tilde").await?;
    browser.click("article details summary").await?;
    found.extend(faults(&browser, "light, an answer").await?);
    let question = browser.driver.current_url().await?.to_string();
    browser.driver.goto(site.address("/marking")).await?;
    browser.click("details summary").await?;
    browser.click("details li a").await?;
    browser.says("h1", "Runa").await?;
    found.extend(faults(&browser, "light, one student").await?);
    browser.driver.goto(question).await?;
    browser.says("article h2", "Tilde").await?;
    let dark = "localStorage.setItem('mantine-color-scheme-value', 'dark')";
    browser.driver.execute(dark, Vec::new()).await?;
    browser.driver.refresh().await?;
    browser.says("article h2", "Tilde").await?;
    found.extend(faults(&browser, "dark, an answer").await?);
    browser.as_phone().await?;
    browser.driver.refresh().await?;
    browser.says("article h2", "Tilde").await?;
    found.extend(faults(&browser, "phone, an answer").await?);
    let over = "return document.documentElement.scrollWidth > 391";
    let over: bool = browser.driver.execute(over, Vec::new()).await?.convert()?;
    assert!(!over, "an answer is wider than the phone");
    assert!(found.is_empty(), "{} faults:\n{}", found.len(), found.join("\n"));
    Ok(())
}

/// Looks at the page that is shown in the light and the dark slate, and on a phone.
async fn faults_everywhere(browser: &Browser, view: &str) -> Outcome<Vec<String>> {
    let mut found = faults(browser, &format!("light, {view}")).await?;
    let slate =
        |name: &str| format!("document.documentElement.setAttribute('data-mantine-color-scheme', '{name}')");
    browser.driver.execute(slate("dark"), Vec::new()).await?;
    found.extend(faults(browser, &format!("dark, {view}")).await?);
    browser.driver.execute(slate("light"), Vec::new()).await?;
    browser.as_phone().await?;
    found.extend(faults(browser, &format!("phone, {view}")).await?);
    let over = "return document.documentElement.scrollWidth > 391";
    if browser.driver.execute(over, Vec::new()).await?.convert()? {
        found.push(format!("phone, {view}: the page is wider than the screen"));
    }
    browser.as_desk().await?;
    Ok(found)
}

#[tokio::test(flavor = "multi_thread")]
async fn axe_finds_nothing_in_programs_cards_and_the_starting_point() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.press("Starting point").await?;
    browser.sees("Have paper and pencil ready").await?;
    let mut found = faults_everywhere(&browser, "before a starting point").await?;
    browser.press("Begin").await?;
    browser.sees("Question 1").await?;
    found.extend(faults_everywhere(&browser, "a question of a starting point").await?);
    for number in 1..=30 {
        let heading = browser.driver.query(By::Css("h1")).first().await?.text().await?;
        if heading == "Where you start" {
            break;
        }
        browser.press("Not learned yet").await?;
        let next = format!(
            "//h1[contains(., 'Question {}') or contains(., 'Where you start')]",
            number + 1
        );
        browser.driver.query(By::XPath(next)).first().await?;
    }
    browser.sees("A first week").await?;
    found.extend(faults_everywhere(&browser, "what a starting point found").await?);

    let work = browser.open_work(&site, "First programs").await?;
    browser.go_to(&work, 1).await?;
    let editor = browser
        .driver
        .query(By::Css(".cm-content[aria-label='Your program']"))
        .first()
        .await?;
    editor.click().await?;
    browser.control("a").await?;
    browser
        .keys("// to begin with\nfor (const i of [0, 1]) print('pitch ' + i);\nprint(b);")
        .await?;
    browser.click("[data-testid='run']").await?;
    browser.says("[data-testid='output']", "Line 3").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("of the points would be recorded").await?;
    browser
        .click("[data-testid='program-checks'] details > summary")
        .await?;
    found.extend(faults_everywhere(&browser, "a program with its checks").await?);
    browser.go_to(&work, 3).await?;
    found.extend(faults_everywhere(&browser, "a program with a file").await?);

    browser
        .driver
        .goto(site.address("/read/programs?whole=true"))
        .await?;
    browser.sees("Practise them as cards").await?;
    found.extend(faults_everywhere(&browser, "a page with terms").await?);
    browser.press("Practise them as cards").await?;
    browser.sees("Nothing is scored").await?;
    found.extend(faults_everywhere(&browser, "terms").await?);
    browser.press("Go through 3 cards").await?;
    browser.press("Turn the card").await?;
    found.extend(faults_everywhere(&browser, "a card").await?);
    let recording = "/recording/0197a000-0000-7000-8000-000000000001";
    browser.driver.goto(site.address(recording)).await?;
    browser.sees("Transcript").await?;
    found.extend(faults_everywhere(&browser, "a recording").await?);
    browser
        .driver
        .goto(site.address("/read/safety?whole=true"))
        .await?;
    browser.sees("0:00 of 0:42").await?;
    found.extend(faults_everywhere(&browser, "a page with a recording").await?);
    let radio = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&radio, 6).await?;
    browser.press("Handover from the early shift").await?;
    browser.sees("0:00 of 0:33").await?;
    found.extend(faults_everywhere(&browser, "a recording beside a question").await?);
    assert!(found.is_empty(), "{} faults:\n{}", found.len(), found.join("\n"));
    browser.quit().await?;
    Ok(())
}

/// A teacher's pages, by their addresses; found by walking there.
async fn desk_views(browser: &Browser, site: &Site) -> Outcome<Vec<(String, String)>> {
    browser.press("Workshop Mathematics").await?;
    browser.sees("Colm Draycott").await?;
    let class = browser.driver.current_url().await?.to_string();
    browser.click("tbody td a").await?;
    browser.sees("Question 1").await?;
    let seen = browser.driver.current_url().await?.to_string();
    browser.driver.goto(format!("{class}/work")).await?;
    browser.press("Tower shadows").await?;
    browser.sees("Handing in").await?;
    let setting = browser.driver.current_url().await?.to_string();
    browser.driver.goto(format!("{class}/work")).await?;
    browser
        .driver
        .query(By::Css("input[maxlength='80']"))
        .first()
        .await?
        .send_keys("A draft")
        .await?;
    browser.press("Create a draft").await?;
    browser.sees("Choose at least one question").await?;
    let draft = browser.driver.current_url().await?.to_string();
    let went = format!("{}/went", setting.trim_end_matches('/'));
    let named = [
        ("classes", site.address("/classes")),
        ("new class", site.address("/classes/new")),
        ("people", format!("{class}/people")),
        ("work", format!("{class}/work")),
        ("acts", format!("{class}/acts")),
        ("class settings", format!("{class}/settings")),
        ("units", format!("{class}/units")),
        ("skills of a class", format!("{class}/skills")),
        ("starting points of a class", format!("{class}/start")),
        ("a class's portal", format!("{class}/portal")),
        ("from a portal", site.address("/from-portal")),
        ("recordings of the bank", site.address("/bank-recordings")),
        (
            "a recording and its stops",
            site.address("/bank-recordings/0197a000-0000-7000-8000-000000000001"),
        ),
        ("pages and skills", site.address("/bank-content")),
        ("a page as text", site.address("/bank-pages/torque")),
        ("skills as text", site.address("/bank-skills")),
        ("one's own data", site.address("/own")),
        ("the interface", site.address("/interface")),
        ("bank", site.address("/bank")),
        ("sheet", class),
        ("a student's work", seen),
        ("setting", setting),
        ("a draft", draft),
        ("how it went", went),
        ("messages", site.address("/messages")),
        ("a question as text", site.address("/bank/one-unknown/edit")),
        ("a new question", site.address("/bank-new")),
        ("join", site.address("/join")),
        ("a link that is not whole", site.address("/welcome")),
    ];
    Ok(named.map(|(name, at)| (name.to_owned(), at)).to_vec())
}

#[tokio::test(flavor = "multi_thread")]
async fn axe_finds_nothing_on_the_teachers_desk() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    // A mark that is queried, to be looked at.
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Tower shadows").await?;
    browser.open_work(&site, "Tower shadows").await?;
    browser.type_in("a", "123456").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.press("Query this mark").await?;
    browser.keys("I am sure.").await?;
    let mut found = faults(&browser, "light, a query").await?;
    browser.press("Send").await?;
    browser.sees("Read it under Messages").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.says("h1", "Classes").await?;
    // What is new stands in the bar, with the places, the help and the person: on a phone, too.
    browser.sees("1 new message").await?;
    found.extend(faults_everywhere(&browser, "a new message").await?);
    let mut views = desk_views(&browser, &site).await?;
    browser.driver.goto(site.address("/messages")).await?;
    browser.press("Tower shadows, question 1").await?;
    browser.sees("It was proved different").await?;
    let thread = browser.driver.current_url().await?.to_string();
    views.push(("a thread".to_owned(), thread));
    found.extend(look_at(&browser, &views, "light").await?);
    // What opens on a page: a question of the bank, a new code, an exception.
    browser.driver.goto(site.address("/bank")).await?;
    browser
        .click("[aria-label='Preview A brace across a frame']")
        .await?;
    browser.sees("Answers and working").await?;
    found.extend(faults(&browser, "light, a question of the bank").await?);
    browser.press("Paper").await?;
    browser.sees("3 points").await?;
    found.extend(faults(&browser, "light, a question on paper").await?);
    let sheet = &views
        .iter()
        .find(|(name, _)| name == "sheet")
        .ok_or("the sheet")?
        .1;
    browser.driver.goto(sheet).await?;
    browser.click("tbody input[type='checkbox']").await?;
    browser.press("Exception for 1").await?;
    browser.sees("Leave blank whatever stays as it is").await?;
    found.extend(faults(&browser, "light, an exception").await?);
    let dark = "localStorage.setItem('mantine-color-scheme-value', 'dark')";
    browser.driver.execute(dark, Vec::new()).await?;
    // The driver loses a page that is left while it loads.
    browser.driver.refresh().await?;
    settled(&browser).await?;
    found.extend(look_at(&browser, &views, "dark").await?);
    browser.as_phone().await?;
    // The driver loses a page that is left while it loads.
    browser.driver.refresh().await?;
    settled(&browser).await?;
    for (name, address) in &views {
        browser.driver.goto(address).await?;
        found.extend(faults(&browser, &format!("phone, {name}")).await?);
        let over = "return document.documentElement.scrollWidth > 391";
        if browser
            .driver
            .execute(over, Vec::new())
            .await?
            .convert::<bool>()?
        {
            found.push(format!("phone, {name}: the page is wider than the screen"));
        }
    }
    found.sort();
    found.dedup();
    assert!(found.is_empty(), "{} faults:\n{}", found.len(), found.join("\n"));
    Ok(())
}
