//! Paper copies: written on, printed, seen by the teacher; and the stack of a class.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// The pages of a document as the browser prints it, each with its width and height in points.
async fn printed(browser: &Browser) -> Outcome<Vec<(f64, f64)>> {
    let wanted = serde_json::json!({"preferCSSPageSize": true, "printBackground": true});
    let made = browser.driver.cdp().send_raw("Page.printToPDF", wanted).await?;
    let bytes = base64(made["data"].as_str().ok_or("a document")?);
    let text = String::from_utf8_lossy(&bytes);
    let mut pages = Vec::new();
    for piece in text.split("/MediaBox [").skip(1) {
        let numbers: Vec<f64> = piece
            .split(']')
            .next()
            .unwrap_or_default()
            .split_whitespace()
            .filter_map(|n| n.parse().ok())
            .collect();
        if let [_, _, width, height] = numbers.as_slice() {
            pages.push((*width, *height));
        }
    }
    Ok(pages)
}

fn base64(text: &str) -> Vec<u8> {
    let digit = |c: u8| match c {
        b'A'..=b'Z' => c - b'A',
        b'a'..=b'z' => c - b'a' + 26,
        b'0'..=b'9' => c - b'0' + 52,
        b'+' => 62,
        _ => 63,
    };
    let digits: Vec<u32> = text
        .bytes()
        .filter(|c| *c != b'=')
        .map(|c| u32::from(digit(c)))
        .collect();
    let mut out = Vec::new();
    for four in digits.chunks(4) {
        let bits = four.iter().fold(0, |all, d| all << 6 | d) << (6 * (4 - four.len()));
        out.extend(bits.to_be_bytes()[1..four.len()].iter());
    }
    out
}

async fn pages_shown(browser: &Browser) -> Outcome<usize> {
    browser
        .driver
        .query(By::Css("[data-testid='pages'][data-ready='true']"))
        .first()
        .await?;
    Ok(browser
        .driver
        .find_all(By::Css("section[data-page]"))
        .await?
        .len())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_paper_copy_is_written_on_kept_printed_and_handed_to_the_teacher() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "ebba", "lichen-41").await?;
    let work = browser.open_work(&site, "Tower shadows").await?;
    let on_screen = browser.bold_numbers().await?;
    browser.driver.goto(format!("{work}/paper")).await?;
    let count = pages_shown(&browser).await?;
    assert!((3..10).contains(&count), "{count}");
    // The same numbers as on the screen, and on every page whose it is.
    let first = browser.text_of("section[data-page='1'] strong").await?;
    assert!(
        on_screen.iter().all(|n| first.contains(&n.to_string())),
        "{on_screen:?} {first}"
    );
    let codes = browser.text_of("section[data-page] footer code").await?;
    assert_eq!(codes.split_whitespace().count(), count, "{codes}");
    let last = browser
        .text_of(&format!("section[data-page='{count}'] footer span"))
        .await?;
    assert_eq!(last, format!("Page {count} of {count}"));
    // A4, one sheet for each page and no empty one between them; Letter by one press.
    let a4 = printed(&browser).await?;
    assert_eq!(a4.len(), count);
    assert!(
        a4.iter()
            .all(|(w, h)| (w - 595.0).abs() < 1.0 && (h - 842.0).abs() < 1.0),
        "{a4:?}"
    );
    browser.press("Letter").await?;
    let count = pages_shown(&browser).await?;
    let letter = printed(&browser).await?;
    assert_eq!(letter.len(), count);
    assert!(
        letter
            .iter()
            .all(|(w, h)| (w - 612.0).abs() < 1.0 && (h - 792.0).abs() < 1.0),
        "{letter:?}"
    );

    // A pen, a text, an eraser.
    browser.press("Pen").await?;
    let sheet = browser
        .driver
        .query(By::Css("section[data-page='1'] svg[data-tool='pen']"))
        .first()
        .await?;
    let draw = async |down: i64| {
        let chain = browser
            .driver
            .action_chain()
            .move_to_element_center(&sheet)
            .move_by_offset(0, down);
        chain
            .click_and_hold()
            .move_by_offset(40, 20)
            .move_by_offset(40, -20)
            .release()
            .perform()
            .await
    };
    draw(0).await?;
    draw(60).await?;
    let strokes = "section[data-page='1'] svg[data-block] path";
    assert_eq!(browser.driver.find_all(By::Css(strokes)).await?.len(), 2);
    browser.press("Text").await?;
    let sheet = browser
        .driver
        .query(By::Css("section[data-page='1'] svg[data-tool='text']"))
        .first()
        .await?;
    let place = browser
        .driver
        .action_chain()
        .move_to_element_center(&sheet)
        .move_by_offset(-100, 90);
    place.click().perform().await?;
    browser.keys("h = 3 s").await?;
    browser.keys(Key::Enter + "").await?;
    browser.press("Eraser").await?;
    let sheet = browser
        .driver
        .query(By::Css("section[data-page='1'] svg[data-tool='eraser']"))
        .first()
        .await?;
    let rub = browser
        .driver
        .action_chain()
        .move_to_element_center(&sheet)
        .move_by_offset(0, 60);
    rub.click().perform().await?;
    assert_eq!(browser.driver.find_all(By::Css(strokes)).await?.len(), 1);
    // Page by page.
    browser.press("Next page").await?;
    let hidden = browser
        .driver
        .find_all(By::Css("section[data-page][hidden]"))
        .await?;
    assert_eq!(hidden.len(), count - 1);
    // It is kept, and it is there after coming back.
    browser.click("input[type='checkbox']").await?;
    tokio::time::sleep(std::time::Duration::from_millis(1_500)).await;
    browser.driver.refresh().await?;
    pages_shown(&browser).await?;
    browser
        .says("section[data-page='1'] svg[data-block] text", "h = 3 s")
        .await?;
    assert_eq!(browser.driver.find_all(By::Css(strokes)).await?.len(), 1);
    browser.driver.goto(site.address("/")).await?;
    browser.sign_out("Ebba Tornvik").await?;

    // The teacher sees what was written.
    browser.sign_in(&site, "maren", "harbour-15").await?;
    browser.press("Workshop Mathematics").await?;
    browser.says("table", "Ebba Tornvik").await?;
    let id = work.rsplit('/').next().ok_or("an id")?.to_owned();
    let class = browser.driver.current_url().await?.to_string();
    browser.driver.goto(format!("{class}/work/{id}")).await?;
    browser.press("Paper copies").await?;
    // Ten students, each with a copy, with their own numbers.
    let stack = pages_shown(&browser).await?;
    let heads = browser.text_of("section[data-page] header").await?;
    assert!(
        heads.contains("Ebba Tornvik") && heads.contains("Wren Aldersay"),
        "{heads}"
    );
    assert_eq!(printed(&browser).await?.len(), stack);
    browser.press("Codes only").await?;
    browser.says("section[data-page='1'] header", "Copy ").await?;
    let heads = browser.text_of("section[data-page] header").await?;
    assert!(!heads.contains("Ebba"), "{heads}");
    browser.press("Keys and workings").await?;
    browser.says("section[data-page]", "Ebba Tornvik").await?;
    browser.sees("Workings, with the numbers of").await?;
    browser.quit().await?;
    Ok(())
}
