//! What is written, said and looked up: work that goes to the teacher, recordings, and documents beside a question.

use std::time::Duration;

use journeys::{Browser, Outcome, Site};
use tempfile::TempDir;
use thirtyfour::prelude::*;

/// Files of a journey's own, which go with it.
struct Files(TempDir);

impl Files {
    fn new() -> Outcome<Files> {
        Ok(Files(tempfile::tempdir()?))
    }

    fn file(&self, name: &str, bytes: &[u8]) -> Outcome<String> {
        let path = self.0.path().join(name);
        std::fs::write(&path, bytes)?;
        Ok(path.display().to_string())
    }
}

async fn attach(browser: &Browser, path: &str) -> Outcome<()> {
    let input = browser
        .driver
        .query(By::Css("[data-testid='attach']"))
        .first()
        .await?;
    input.send_keys(path).await?;
    Ok(())
}

/// Asks the page itself for something and gives what came: status, one header, and the length of the body.
async fn fetched(browser: &Browser, address: &str, header: &str) -> Outcome<(u16, String, usize)> {
    let script = "const done = arguments[arguments.length - 1]; \
        fetch(arguments[0], {headers: {range: 'bytes=0-'}}).then(async r => \
          done([r.status, r.headers.get(arguments[1]) ?? '', (await r.arrayBuffer()).byteLength]))";
    let said = browser
        .driver
        .execute_async(script, vec![address.into(), header.into()])
        .await?;
    Ok(said.convert()?)
}

async fn number(browser: &Browser, script: &str) -> Outcome<f64> {
    Ok(browser.driver.execute(script, Vec::new()).await?.convert()?)
}

/// Waits until a script gives true.
async fn until(browser: &Browser, script: &str) -> Outcome<()> {
    for _ in 0..100 {
        if browser
            .driver
            .execute(script, Vec::new())
            .await?
            .convert::<bool>()?
        {
            return Ok(());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    Err(format!("it never came to this: {script}").into())
}

/// A PNG of one point.
const POINT: &[u8] = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x01\0\0\0\x01\x08\x06\0\0\0\x1f\x15\xc4\x89\0\0\0\nIDATx\x9cc\0\x01\0\0\x05\0\x01\r\n-\xb4\0\0\0\0IEND\xaeB`\x82";

#[tokio::test(flavor = "multi_thread")]
async fn a_report_is_written_with_a_file_and_goes_to_the_teacher() -> Outcome<()> {
    let site = Site::start().await?;
    let files = Files::new()?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Reports and records").await?;
    let work = browser.open_work(&site, "Reports and records").await?;
    browser.go_to(&work, 1).await?;
    assert!(
        browser
            .driver
            .find_all(By::Css("button[title='Ctrl + Enter']"))
            .await?
            .is_empty(),
        "there is nothing to check in it"
    );
    browser
        .sees("Your teacher marks this. It goes in when you hand in.")
        .await?;

    // Written at the end of what stands there, with maths and a table.
    let field = "[role='textbox'][data-part='a']";
    browser.click(field).await?;
    browser.control(Key::End + "").await?;
    browser.keys(" two lines with every load wider than ").await?;
    browser.click("[aria-label='Put in maths']").await?;
    let maths = "input[aria-label='Maths, typed as in an answer']";
    browser.driver.query(By::Css(maths)).first().await?;
    browser.keys("3/2 d").await?;
    browser.says("[class*='reads']", "2").await?;
    browser.keys(Key::Enter + "").await?;
    browser.keys(" at least.").await?;
    browser
        .says("[data-testid='words-a']", "11 words; 60 to 200 are asked for.")
        .await?;
    browser.click("[aria-label='Put in a table']").await?;
    browser.keys("time").await?;
    browser.click("[aria-label='Delete this row']").await?;
    browser.click("[aria-label='Add a column to the right']").await?;
    assert_eq!(
        number(
            &browser,
            "return document.querySelectorAll('[data-part=a] tr').length"
        )
        .await?,
        2.0
    );

    // A file is what its content says, and no larger than it may be.
    attach(
        &browser,
        &files.file("photo.png", b"<!doctype html><script>alert(1)</script>")?,
    )
    .await?;
    browser.sees("Take a picture (PNG, JPEG), a PDF").await?;
    attach(&browser, &files.file("film.png", &vec![7; 8 * 1024 * 1024 + 1])?).await?;
    browser.sees("film.png is larger than 8 MB").await?;
    attach(&browser, &files.file("sketch of the deck.png", POINT)?).await?;
    browser
        .says("[data-testid='files']", "sketch of the deck.png")
        .await?;
    let link = browser
        .driver
        .query(By::Css("[aria-label='A link to add']"))
        .first()
        .await?;
    link.send_keys("javascript:alert(1)").await?;
    link.send_keys(Key::Enter + "").await?;
    browser.sees("Enter a full web address").await?;
    browser.type_over(&link, "skerry.example/log").await?;
    link.send_keys(Key::Enter + "").await?;
    browser
        .says("[data-testid='links'] li", "skerry.example/log")
        .await?;
    browser.is_saved().await?;

    // Nothing of it is lost with the window.
    browser.driver.refresh().await?;
    browser
        .says(field, "two lines with every load wider than")
        .await?;
    browser
        .says("[data-testid='files']", "sketch of the deck.png")
        .await?;
    browser
        .says("[data-testid='links'] li", "skerry.example/log")
        .await?;
    let kept = browser.text_of(&format!("{field} annotation")).await?;
    assert!(kept.contains("\\frac"), "the maths is set: {kept}");

    // A question that the machine and the teacher share.
    browser.go_to(&work, 2).await?;
    let numbers = browser.bold_numbers().await?;
    let (Some(load), Some(chart)) = (numbers.first(), numbers.get(1)) else {
        return Err("load and chart".into());
    };
    browser
        .type_in("a", &format!("{:.1}", 100.0 * load / chart))
        .await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    browser.sees("Right").await?;
    browser.click("[role='textbox'][data-part='b']").await?;
    browser
        .keys("It uses less or more than 90 of every 100 t the crane could hold.")
        .await?;
    browser.is_saved().await?;

    // What is short is said before it is handed in, and can be handed in all the same.
    browser.driver.goto(format!("{work}/hand-in")).await?;
    browser
        .says("[data-testid='for-teacher']", "2 questions go to your teacher")
        .await?;
    browser
        .sees("are still missing. At least 60 are asked for.")
        .await?;
    browser.says("[data-testid='unanswered']", "Question 3").await?;
    browser.press("Hand in").await?;
    browser.sees("9 of these points wait for your teacher").await?;
    browser.press("See the result").await?;
    browser
        .says("[data-testid='waiting-points']", "9 points wait for your teacher")
        .await?;
    browser.sees("two lines with every load wider than").await?;
    let address: String = browser
        .driver
        .query(By::Css("a[download='sketch of the deck.png']"))
        .first()
        .await?
        .attr("href")
        .await?
        .ok_or("its address")?;
    let (status, name, length) = fetched(&browser, &address, "content-disposition").await?;
    assert_eq!((status, length), (206, POINT.len()));
    assert!(
        name.starts_with("attachment; filename*=UTF-8''sketch%20of"),
        "{name}"
    );
    let (_, policy, _) = fetched(&browser, &address, "content-security-policy").await?;
    assert_eq!(policy, "default-src 'none'; sandbox");

    // Nobody else has it.
    browser.sign_out("Ebba Tornvik").await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("Wren Aldersay").await?;
    assert_eq!(fetched(&browser, &address, "content-type").await?.0, 404);
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn an_answer_is_recorded_played_and_recorded_again() -> Outcome<()> {
    let site = Site::start().await?;
    let files = Files::new()?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("On the radio").await?;
    let work = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&work, 5).await?;
    browser.press("Record").await?;
    browser
        .says("[data-testid='recording-a']", "Recording: 0:02 of 0:40")
        .await?;
    browser.press("Stop").await?;
    browser.sees("Your recording, 0:0").await?;
    browser.is_saved().await?;
    browser.driver.refresh().await?;
    browser.sees("Your recording, 0:0").await?;
    let own = "[data-part='a'] audio";
    browser.click("[data-part='a'] [data-playing='false']").await?;
    until(
        &browser,
        &format!("return document.querySelector(\"{own}\").currentTime > 0.3"),
    )
    .await?;
    let first = browser
        .driver
        .query(By::Css(own))
        .first()
        .await?
        .attr("src")
        .await?;
    browser.press("Record again").await?;
    browser
        .says("[data-testid='recording-a']", "Recording: 0:01")
        .await?;
    browser.press("Stop").await?;
    let changed = format!(
        "return document.querySelector(\"{own}\")?.getAttribute('src') !== '{}'",
        first.ok_or("its address")?
    );
    until(
        &browser,
        &format!("{changed} && document.querySelector(\"{own}\") !== null"),
    )
    .await?;

    // Without a microphone the page says what can be done, and a file does as well; one that is no sound does not.
    browser.driver.refresh().await?;
    browser.sees("Your recording, 0:0").await?;
    let none =
        "navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('', 'NotAllowedError'))";
    browser.driver.execute(none, Vec::new()).await?;
    attach(
        &browser,
        &files.file("note.txt", b"I repeat: four point two tonnes")?,
    )
    .await?;
    browser.sees("note.txt is not a sound file").await?;
    let clicks = concat!(env!("CARGO_MANIFEST_DIR"), "/../../content/sounds/clicks.mp3");
    attach(&browser, &files.file("clicks.mp3", &std::fs::read(clicks)?)?).await?;
    until(
        &browser,
        "return document.querySelectorAll(\"[data-part='a'] audio\").length === 1",
    )
    .await?;
    browser.says("[data-part='a']", "0:12").await?;
    browser.is_saved().await?;
    browser.driver.goto(format!("{work}/hand-in")).await?;
    browser
        .says("[data-testid='for-teacher']", "Question 5 goes to your teacher")
        .await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_call_is_listened_to_and_answered_from_two_documents() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("On the radio").await?;
    let work = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&work, 1).await?;

    // Played, jumped in, slower, and all of it in words.
    let place = "return document.querySelector('audio').currentTime";
    browser.press("Play").await?;
    until(
        &browser,
        "return document.querySelector('audio').currentTime > 0.4",
    )
    .await?;
    browser.press("Pause").await?;
    let before = number(&browser, place).await?;
    browser.click("[aria-label='+5 s, on']").await?;
    browser.click("[aria-label='+5 s, on']").await?;
    browser.click("[aria-label='−5 s, back']").await?;
    let after = number(&browser, place).await?;
    assert!((after - before - 5.0).abs() < 0.6, "{before} to {after}");
    browser.click("[aria-label='Speed']").await?;
    browser.keys("0.5").await?;
    browser.keys(Key::Enter + "").await?;
    until(
        &browser,
        "return document.querySelector('audio').playbackRate === 0.5",
    )
    .await?;
    browser.click("summary").await?;
    browser.sees("I say again: one eight metres").await?;
    let (status, _, length) = fetched(&browser, "/api/sounds/radio-call.mp3", "content-range").await?;
    assert!(status == 206 && length > 50_000);

    // Two documents side by side; one of them as a window, which stays where it is put.
    browser.press("Load chart, crane two").await?;
    browser.press("Lift plan").await?;
    browser
        .driver
        .query(By::Css("[data-exhibit='chart']"))
        .first()
        .await?;
    browser
        .driver
        .query(By::Css("[data-exhibit='plan']"))
        .first()
        .await?;
    let search = browser
        .driver
        .query(By::Css("input[aria-label='Search in Load chart, crane two']"))
        .first()
        .await?;
    search.send_keys("counterweight").await?;
    browser
        .says("[data-exhibit='chart'] [data-testid='found']", "1 of 3")
        .await?;
    search.send_keys(Key::Enter + "").await?;
    browser
        .says("[data-exhibit='chart'] [data-testid='found']", "2 of 3")
        .await?;
    search.send_keys(" of the moon").await?;
    browser
        .says("[data-exhibit='chart'] [data-testid='found']", "Not found")
        .await?;
    browser.click("[data-exhibit='plan'] header button").await?;
    let handle = "[aria-label='Move Lift plan']";
    let at = "const r = document.querySelector(\"[data-testid='window']\").getBoundingClientRect(); return [r.left, r.top]";
    let window =
        async || -> Outcome<(f64, f64)> { Ok(browser.driver.execute(at, Vec::new()).await?.convert()?) };
    browser.driver.query(By::Css(handle)).first().await?;
    let start = window().await?;
    let grip = browser.driver.query(By::Css(handle)).first().await?;
    let chain = browser
        .driver
        .action_chain()
        .move_to_element_center(&grip)
        .click_and_hold();
    let chain = chain
        .move_by_offset(-10, 10)
        .move_by_offset(-100, 40)
        .move_by_offset(-90, 50);
    chain.release().perform().await?;
    tokio::time::sleep(Duration::from_millis(400)).await;
    let moved = window().await?;
    assert!(
        moved.0 < start.0 - 100.0 && moved.1 > start.1 + 50.0,
        "{start:?} to {moved:?}"
    );
    // By key as well.
    browser
        .driver
        .execute(
            &format!("document.querySelector(\"{handle}\").focus()"),
            Vec::new(),
        )
        .await?;
    for key in [Key::Space, Key::Left, Key::Left, Key::Space] {
        browser.keys(key + "").await?;
        tokio::time::sleep(Duration::from_millis(150)).await;
    }
    tokio::time::sleep(Duration::from_millis(300)).await;
    let keyed = window().await?;
    assert!(keyed.0 < moved.0 - 20.0, "{moved:?} to {keyed:?}");
    browser.go_to(&work, 2).await?;
    browser.go_to(&work, 1).await?;
    browser.driver.query(By::Css(handle)).first().await?;
    let again = window().await?;
    assert!(
        (again.0 - keyed.0).abs() < 2.0 && (again.1 - keyed.1).abs() < 2.0,
        "{keyed:?} to {again:?}"
    );

    // Answered from what was heard and looked up.
    for (gap, entry) in [("load", "4.2"), ("radius", "18"), ("wind", "9")] {
        let field = browser
            .driver
            .query(By::Css(format!("[data-gap='{gap}']")))
            .first()
            .await?;
        field.send_keys(entry).await?;
    }
    browser.type_in("b", "4.0").await?;
    browser.click("[data-part='c'] input[value='load']").await?;
    browser.is_saved().await?;
    browser.press("Check").await?;
    until(
        &browser,
        "return document.querySelectorAll(\"[data-testid='verdict'][data-outcome='right']\").length === 3",
    )
    .await?;

    // Folding gives the focus back to where it was opened; on a phone they lie on a sheet.
    browser.click("[aria-label='Collapse Lift plan']").await?;
    let here: String = browser
        .driver
        .execute("return document.activeElement.textContent", Vec::new())
        .await?
        .convert()?;
    assert_eq!(here, "Lift plan");
    browser.as_phone().await?;
    browser.go_to(&work, 2).await?;
    browser.press("Horn signals on this site").await?;
    let tall = "return document.querySelector(\"[data-testid='sheet']\").offsetHeight / window.innerHeight";
    until(&browser, &format!("{} > 0.45", tall)).await?;
    browser.click("[aria-label='Pull the sheet up']").await?;
    until(&browser, &format!("{} > 0.8", tall)).await?;
    browser.click("[aria-label='Push the sheet down']").await?;
    until(&browser, &format!("{} < 0.2", tall)).await?;
    Ok(())
}

/// Walks to an element by Tab and presses it.
async fn key(browser: &Browser, css: &str) -> Outcome<()> {
    browser.walk_to(css).await?;
    browser.keys(Key::Enter + "").await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn all_of_it_can_be_done_by_keyboard() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    browser.sees("Reports and records").await?;
    let work = browser.open_work(&site, "Reports and records").await?;
    browser.go_to(&work, 1).await?;
    // A document is opened, searched and folded; the focus comes back to where it was opened.
    key(&browser, "[data-testid='exhibits'] button").await?;
    browser.walk_to("input[aria-label='Search in Crane log']").await?;
    browser.keys("tag").await?;
    browser.says("[data-testid='found']", "1 of 3").await?;
    browser.keys(Key::Enter + "").await?;
    browser.says("[data-testid='found']", "2 of 3").await?;
    browser.driver.refresh().await?;
    key(&browser, "[aria-label='Collapse Crane log']").await?;
    let here = "return document.activeElement.textContent";
    let here: String = browser.driver.execute(here, Vec::new()).await?.convert()?;
    assert_eq!(
        here, "Crane log",
        "it stayed open over a reload, and gave the focus back"
    );

    // Formatting, a list and maths without the pointer.
    browser.walk_to("[role='textbox'][data-part='a']").await?;
    browser.control(Key::End + "").await?;
    browser.keys(Key::Enter + "").await?;
    browser.control("b").await?;
    browser.keys("Two lines").await?;
    browser.control("b").await?;
    browser.keys(" from now on.").await?;
    browser.says("[role='textbox'] strong", "Two lines").await?;
    browser.driver.refresh().await?;
    key(&browser, "[aria-label='Put in maths']").await?;
    browser
        .driver
        .query(By::Css("input[aria-label='Maths, typed as in an answer']"))
        .first()
        .await?;
    browser.keys("v^2").await?;
    browser.keys(Key::Enter + "").await?;
    browser.keys(" wind").await?;
    until(
        &browser,
        "return document.querySelector('[role=textbox] annotation')?.textContent === 'v^{2}'",
    )
    .await?;
    browser.walk_to("[data-testid='files'] button").await?;
    browser.walk_to("[aria-label='A link to add']").await?;
    browser.keys("skerry.example/rules").await?;
    browser.keys(Key::Enter + "").await?;
    browser
        .says("[data-testid='links'] li", "skerry.example/rules")
        .await?;
    browser.is_saved().await?;
    // A browser may put a space after strong words as one that does not break.
    let kept = browser.text_of("[role='textbox'][data-part='a']").await?;
    let kept = kept.replace('\u{a0}', " ");
    assert!(
        kept.contains("Two lines from now on.") && kept.contains("wind"),
        "{kept}"
    );

    // A recording is listened to and one is made.
    let work = browser.open_work(&site, "On the radio").await?;
    browser.go_to(&work, 5).await?;
    key(&browser, "[data-testid='sound'] [data-playing='false']").await?;
    until(
        &browser,
        "return document.querySelector('audio').currentTime > 0.3",
    )
    .await?;
    browser.keys(Key::Enter + "").await?;
    browser.walk_to("[aria-label='Place in the recording']").await?;
    let before = number(&browser, "return document.querySelector('audio').currentTime").await?;
    for _ in 0..12 {
        browser.keys(Key::Right + "").await?;
    }
    let after = number(&browser, "return document.querySelector('audio').currentTime").await?;
    assert!(after > before + 0.8, "{before} to {after}");
    key(&browser, "[data-testid='sound'] summary").await?;
    browser.sees("Do not lift before the banksman").await?;
    key(&browser, "[data-part='a'] button").await?;
    browser
        .says("[data-testid='recording-a']", "Recording: 0:01")
        .await?;
    key(&browser, "[data-part='a'] button").await?;
    browser.sees("Your recording, 0:0").await?;
    browser.is_saved().await?;
    Ok(())
}
