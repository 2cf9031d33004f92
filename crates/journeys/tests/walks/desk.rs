//! A teacher runs a class in the browser: from an empty installation to a student's first answer, and what one student
//! gets that the others have not.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Types into the field with this label, in the place of what stands there.
async fn fill(browser: &Browser, label: &str, text: &str) -> Outcome<()> {
    let path = format!(
        "//label[contains(normalize-space(.), '{label}')]/following::*[self::input or self::textarea][1]"
    );
    let field = browser.driver.query(By::XPath(path)).first().await?;
    browser.type_over(&field, text).await
}

/// Chooses the password a link asks for, and comes in.
async fn come_in(browser: &Browser, link: &str, password: &str) -> Outcome<()> {
    browser.driver.goto(link).await?;
    browser.sees("Your new password").await?;
    browser
        .driver
        .query(By::Name("password"))
        .first()
        .await?
        .send_keys(password)
        .await?;
    browser.press("Sign in").await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_class_is_run_from_an_empty_installation_to_a_students_answer() -> Outcome<()> {
    let site = Site::start_empty().await?;
    let browser = Browser::start().await?;
    browser.driver.goto(site.address("/sign-in")).await?;
    browser.sees("Nobody is here yet").await?;
    let printed = site
        .command(&[
            "teacher",
            "add",
            "Maren Oldacre",
            "--user-name",
            "maren",
            "--address",
            &site.address(""),
        ])
        .await?;
    let link = printed
        .lines()
        .find(|l| l.contains("/welcome#"))
        .ok_or("a link that signs in")?;
    come_in(&browser, link, "harbour-and-gull").await?;
    browser.sees("You have no class yet").await?;
    browser.press("I have read this").await?;

    // The class, by a list with a line that cannot be taken.
    browser.press("New class").await?;
    fill(&browser, "Title", "Workshop Mathematics").await?;
    browser.press("Create the class").await?;
    browser.sees("Nobody is in this class yet").await?;
    browser
        .driver
        .query(By::Css("[aria-label='Add students'] textarea"))
        .first()
        .await?
        .send_keys("name;user name;group\nEbba Tornvik;ebba;North\nJoss Harrowell;jo ss;\n")
        .await?;
    browser.press("Add them").await?;
    browser.sees("One line was not taken").await?;
    browser.sees("letters, digits, dots and hyphens").await?;
    let link = browser.text_of("[data-testid='link'] code").await?;
    browser.says("table", "Ebba Tornvik").await?;

    // Work with a question of the bank, tried as a student and given out.
    browser.press("Work").await?;
    fill(&browser, "New assignment", "Blades and hubs").await?;
    browser.press("Create a draft").await?;
    browser.sees("Choose at least one question").await?;
    browser.press("Choose from the bank").await?;
    fill(&browser, "Title", "Blades and bolts").await?;
    let words = "[aria-label='Questions'] input[aria-label='Words']";
    browser
        .driver
        .query(By::Css(words))
        .first()
        .await?
        .send_keys("solving for one")
        .await?;
    browser
        .click("[aria-label='Add Solving for one unknown']")
        .await?;
    browser
        .says("[aria-label='Questions'] ol", "Solving for one unknown")
        .await?;
    browser.press("Try it as a student").await?;
    browser.sees("You see this as a made-up student").await?;
    browser.says("h1", "Blades and bolts").await?;
    browser.press("Open").await?;
    browser.type_in("a", "7").await?;
    browser.is_saved().await?;
    browser.press("Back to my desk").await?;
    browser.press("Workshop Mathematics").await?;
    browser.says("table", "Ebba Tornvik").await?;
    browser.press("Work").await?;
    browser.press("Blades and bolts").await?;
    browser.press("Set it for the class").await?;
    browser.sees("given out").await?;
    browser.sign_out("Maren Oldacre").await?;

    // The student, by the link; it is used up then.
    come_in(&browser, link.trim(), "lichen-and-moss").await?;
    browser.press("I have read this").await?;
    let work = browser.open_work(&site, "Blades and bolts").await?;
    browser.type_in("a", "1000").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("Not yet").await?;
    browser.driver.goto(format!("{work}/hand-in")).await?;
    browser.press("Hand in").await?;
    browser.sees("Handed in").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    browser.driver.goto(link.trim()).await?;
    browser.sees("already been used").await?;

    // The teacher sees the score, and the entry behind it.
    browser.sign_in(&site, "maren", "harbour-and-gull").await?;
    browser.press("Workshop Mathematics").await?;
    browser.says("tbody td", "Handed in").await?;
    browser.says("tbody td", "0 %").await?;
    browser.click("tbody td a").await?;
    browser.sees("this one counts").await?;
    browser.says("article section", "1000").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_moved_date_and_more_hand_ins_reach_the_student_without_the_reason() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Forces and Motion").await?;
    browser.sees("Ebba Tornvik").await?;
    let cell = "//td//a[contains(., 'Ebba Tornvik, Rotor and blade')]";
    browser
        .driver
        .query(By::XPath(cell))
        .first()
        .await?
        .click()
        .await?;
    browser.press("Give an exception").await?;
    // The last day of the month that is shown, or of the next one.
    browser
        .driver
        .query(By::XPath(
            "//label[normalize-space(.)='Due']/following::button[1]",
        ))
        .first()
        .await?
        .click()
        .await?;
    let next = "table + *, [data-direction='next']";
    browser.click(next).await?;
    let days = "table button:not([data-outside])";
    browser.driver.query(By::Css(days)).first().await?;
    let all = browser.driver.find_all(By::Css(days)).await?;
    all.last().ok_or("a day")?.click().await?;
    browser.click("[aria-label='Use this time']").await?;
    fill(&browser, "More hand-ins", "2").await?;
    fill(&browser, "Why", "Was away with the rescue boat").await?;
    browser.press("Grant it").await?;
    browser.says("article p", "due").await?;
    let told = browser.text_of("article p").await?;
    browser.driver.goto(site.address("/classes")).await?;
    browser.press("Forces and Motion").await?;
    browser.press("Activity log").await?;
    browser.says("table", "Was away with the rescue boat").await?;
    browser.says("table", "Maren Oldacre").await?;
    browser.sign_out("Maren Oldacre").await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("You have 2 more hand-ins").await?;
    browser.sees("Your due date was moved to").await?;
    assert!(!browser.text_of("body").await?.contains("rescue boat"), "{told}");
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_thread_is_counted_until_it_is_read_and_answered() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Tower shadows").await?;
    browser.open_work(&site, "Tower shadows").await?;
    browser.press("Ask about this").await?;
    fill(&browser, "Your question", "Does the tower lean?").await?;
    browser.press("Send").await?;
    browser.sees("Read it under Messages").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("1 new message").await?;
    browser.press("Tower shadows, question 1").await?;
    browser.says("article", "Does the tower lean?").await?;
    fill(&browser, "Your answer", "No, it stands upright.").await?;
    browser.press("Send").await?;
    browser.says("[data-mine='true']", "it stands upright").await?;
    browser.driver.goto(site.address("/classes")).await?;
    browser.sees("Forces and Motion").await?;
    assert!(!browser.text_of("header").await?.contains("new message"));
    browser.sign_out("Maren Oldacre").await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser
        .says("[data-testid='unread']", "One message you have not read")
        .await?;
    browser.press("1 new message").await?;
    browser.press("Tower shadows, question 1").await?;
    browser.says("article", "No, it stands upright.").await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn wrong_entries_get_a_reply_and_a_query_is_accepted_after_its_effects_were_seen() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    // Ebba is wrong, and sure.
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Tower shadows").await?;
    let work = browser.open_work(&site, "Tower shadows").await?;
    browser.type_in("a", "123456").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("Not yet").await?;
    browser.press("Query this mark").await?;
    fill(&browser, "Why you are sure", "I measured it on the plan.").await?;
    browser.press("Send").await?;
    browser.sees("Read it under Messages").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    // Maren writes a reply to such entries, then settles the query.
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Workshop Mathematics").await?;
    browser.press("Work").await?;
    browser.press("Tower shadows").await?;
    browser.press("How it went").await?;
    browser.says("section", "Ebba Tornvik").await?;
    let mine = "//li[contains(., 'Ebba Tornvik')]//button[normalize-space(.)='Write a reply']";
    browser
        .driver
        .query(By::XPath(mine))
        .first()
        .await?
        .click()
        .await?;
    fill(
        &browser,
        "What the next students",
        "That is the height of a mountain.",
    )
    .await?;
    browser.press("Keep the reply").await?;
    browser.sees("You say: That is the height of a mountain.").await?;
    // She writes to the one who slipped so as well.
    let to_her = "//li[contains(., 'Ebba Tornvik')]//button[normalize-space(.)='Write to this student']";
    browser
        .driver
        .query(By::XPath(to_her))
        .first()
        .await?
        .click()
        .await?;
    fill(&browser, "Message to Ebba Tornvik", "Come to my desk on Tuesday.").await?;
    browser.press("Send").await?;
    browser.sees("Sent.").await?;
    browser.press("1 new message").await?;
    let hers = "(//a[normalize-space(.)='Tower shadows, question 1'])[last()]";
    browser
        .driver
        .query(By::XPath(hers))
        .first()
        .await?
        .click()
        .await?;
    browser.sees("It was proved different from the key").await?;
    browser
        .says("[data-testid='changes']", "Ebba Tornvik: 0 % to")
        .await?;
    fill(&browser, "Comment (optional)", "Well measured.").await?;
    browser.press("Accept it for this student").await?;
    browser.sees("The entry was accepted").await?;
    browser.sign_out("Maren Oldacre").await?;
    // Ebba's mark is right now, and she is told.
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.says("[data-testid='notices']", "key").await?;
    browser.driver.goto(site.address("/messages")).await?;
    browser
        .driver
        .query(By::XPath(
            "(//a[normalize-space(.)='Tower shadows, question 1'])[1]",
        ))
        .first()
        .await?
        .click()
        .await?;
    browser.says("article", "Maren Oldacre").await?;
    browser.driver.goto(format!("{work}/question/1")).await?;
    browser.says("article", "Right").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    // The next who slips so gets the reply.
    browser.sign_in(&site, "joss", "granite-72").await?;
    browser.sees("Tower shadows").await?;
    browser.open_work(&site, "Tower shadows").await?;
    browser.type_in("a", "123456").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser
        .says("article", "That is the height of a mountain.")
        .await?;
    browser.quit().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_question_is_made_from_a_starter_and_another_is_corrected_with_its_effects_seen() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Bank").await?;
    browser.press("New question").await?;
    browser.sees("Other numbers").await?;
    let change = async |from: &str, to: &str| -> Outcome<()> {
        // It is loaded once it is needed.
        browser.driver.query(By::Css(".cm-content")).first().await?;
        // As if it were pasted over: the editor is what the page has of it.
        let script = "const view = document.querySelector('.cm-content').cmTile.view; \
            const text = view.state.doc.toString().replace(arguments[0], arguments[1]); \
            view.dispatch({changes: {from: 0, to: view.state.doc.length, insert: text}});";
        browser
            .driver
            .execute(script, vec![from.into(), to.into()])
            .await?;
        Ok(())
    };
    change("id: a-new-question", "id: A New Question").await?;
    browser.press("Check and save").await?;
    browser
        .says(
            "[aria-label='What is wrong']",
            "small letters, digits and hyphens",
        )
        .await?;
    change("id: A New Question", "id: hub-height").await?;
    // As a phone has it and as paper has it, with the numbers that stand on the screen.
    browser.press("Phone").await?;
    let frame = browser.driver.query(By::Css("iframe")).first().await?;
    frame.enter_frame().await?;
    browser.sees("Check").await?;
    let on_phone = browser.text_of("main strong").await?;
    browser.type_in("a", "1000").await?;
    browser.press("Check").await?;
    browser.sees("Not yet").await?;
    let width = browser.driver.execute("return innerWidth", vec![]).await?;
    assert_eq!(width.json().as_u64(), Some(390));
    browser.driver.enter_default_frame().await?;
    browser.press("Paper").await?;
    browser.says("[data-testid='on-paper']", "1 point").await?;
    assert!(!on_phone.is_empty());
    let on_paper = browser.text_of("[data-testid='on-paper'] strong").await?;
    assert_eq!(on_paper, on_phone);
    browser.press("Screen").await?;
    browser.press("Check and save").await?;
    browser.says("h1", "hub-height").await?;
    browser.says("[aria-label='Versions']", "Maren Oldacre").await?;

    // A mark is queried, and its key is what is wrong.
    browser.driver.goto(site.address("/")).await?;
    browser.says("h1", "Classes").await?;
    browser.sign_out("Maren Oldacre").await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Lines and roots").await?;
    browser.press("Workshop Mathematics").await?;
    browser.press("Lines and roots").await?;
    browser.sees("Hand-ins").await?;
    let work = browser.driver.current_url().await?.to_string();
    browser.go_to(&work, 6).await?;
    browser.press("Query this mark").await?;
    fill(
        &browser,
        "Why you are sure",
        "The edge of the circle is asked for.",
    )
    .await?;
    browser.press("Send").await?;
    browser.sees("Read it under Messages").await?;
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("1 new message").await?;
    browser.press("Lines and roots, question 6").await?;
    browser.sees("Is the key itself wrong?").await?;
    let thread = browser.driver.current_url().await?.to_string();

    // A question in use is edited: it stays where it is, until the correction is made with its effects seen.
    browser.press("Correct it in the bank").await?;
    browser.says("h1", "swept-area").await?;
    browser.sees("Other numbers").await?;
    change("key: \"pi*{{r}}^2\"", "key: \"2*pi*{{r}}\"").await?;
    change("to: \"2*pi*{{r}}\"", "to: \"3*pi*{{r}}\"").await?;
    browser.press("Check and save").await?;
    browser.sees("An older version is in use").await?;
    browser
        .says("[data-testid='corrections']", "Lines and roots")
        .await?;
    let would = browser.text_of("[data-testid='corrections']").await?;
    assert!(
        would.contains("Ebba Tornvik, Lines and roots: 58 % to 75 %"),
        "{would}"
    );
    fill(&browser, "Why", "The circumference is meant").await?;
    browser.press("Correct it in those assignments").await?;
    browser.sees("marked differently now").await?;
    browser.driver.goto(&thread).await?;
    browser.sees("The key has been corrected since").await?;
    fill(&browser, "Comment (optional)", "It was: thank you.").await?;
    browser.press("Settled by the new key").await?;
    browser.sees("It was: thank you.").await?;
    browser.press("Classes").await?;
    browser.press("Workshop Mathematics").await?;
    browser.press("Activity log").await?;
    browser.says("table", "The circumference is meant").await?;
    browser.sign_out("Maren Oldacre").await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser
        .says("[data-testid='notices']", "from 58 % to 75 %")
        .await?;
    browser.press("1 new message").await?;
    browser.press("Lines and roots, question 6").await?;
    browser.sees("The key was corrected").await?;
    browser.says("article", "It was: thank you.").await?;
    browser.quit().await?;
    Ok(())
}
