//! Every kind of answer, by pointer and by keyboard: two homeworks that hold them all, each part done until it is right.

use journeys::{Browser, Outcome, Site};
use thirtyfour::prelude::*;

/// Drags one thing onto another, until it is where it belongs: a pointer that moves in leaps can be lost on the way.
async fn drag(browser: &Browser, what: &str, onto: &str, done: &str) -> Outcome<()> {
    for _ in 0..4 {
        let from = browser.driver.query(By::Css(what)).first().await?;
        let to = browser.driver.query(By::Css(onto)).first().await?;
        let chain = browser.driver.action_chain();
        let chain = chain
            .move_to_element_center(&from)
            .click_and_hold()
            .move_by_offset(0, -10);
        let chain = chain.move_to_element_center(&to).move_by_offset(1, 1).release();
        chain.perform().await?;
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
        if !browser.driver.find_all(By::Css(done)).await?.is_empty() {
            return Ok(());
        }
    }
    Err(format!("{what} could not be dragged onto {onto}").into())
}

/// The whole numbers in a text, with their signs.
fn numbers(text: &str) -> Vec<i64> {
    let text = text.replace('\u{2212}', "-");
    let mut all = Vec::new();
    let mut word = String::new();
    for c in text.chars().chain([' ']) {
        if c.is_ascii_digit() || (c == '-' && word.is_empty()) {
            word.push(c);
            continue;
        }
        all.extend(word.parse::<i64>());
        word.clear();
        if c == '-' {
            word.push(c);
        }
    }
    all
}

/// The maths of the question's text, as LaTeX.
async fn latex(browser: &Browser) -> Outcome<String> {
    browser
        .text_of("article annotation[encoding='application/x-tex']")
        .await
}

/// Checks what stands there; other parts may be empty.
async fn check(browser: &Browser, outcome: &str) -> Outcome<()> {
    browser.is_saved().await?;
    browser.click("button[title='Ctrl + Enter']").await?;
    check_the_rest(browser).await?;
    let wanted = format!("[data-testid='verdict'][data-outcome='{outcome}']");
    if browser.driver.query(By::Css(wanted)).first().await.is_err() {
        let said = browser.text_of("[data-testid='verdict']").await?;
        let holds = "return [...document.querySelectorAll('article input')].map(e => e.value).join(' | ')";
        let holds: String = browser.driver.execute(holds, Vec::new()).await?.convert()?;
        let at = browser.driver.current_url().await?;
        return Err(format!("{at}: {outcome} was expected of {holds:?}, and it says: {said}").into());
    }
    Ok(())
}

/// Where other parts are empty, the page asks before a try is used.
async fn check_the_rest(browser: &Browser) -> Outcome<()> {
    let asks = "return document.querySelectorAll(\"section[data-part], [data-part='b']\").length > 0";
    if browser
        .driver
        .execute(asks, Vec::new())
        .await?
        .convert::<bool>()?
    {
        browser.press("Check the rest").await?;
    }
    Ok(())
}

/// Starts over at the top of the page, as a reload does, and walks to an element and presses it.
async fn key_press(browser: &Browser, css: &str) -> Outcome<()> {
    browser.walk_to(css).await?;
    browser.keys(Key::Enter + "").await?;
    Ok(())
}

async fn select(browser: &Browser, css: &str, choice: &str) -> Outcome<()> {
    let list = browser.driver.query(By::Css(css)).first().await?;
    let path = format!(".//option[normalize-space(.)='{choice}']");
    list.query(By::XPath(path)).first().await?.click().await?;
    Ok(())
}

/// What the report of the lift has to say, from the numbers of the page.
async fn report(browser: &Browser) -> Outcome<(String, String, &'static str)> {
    let bold = browser.bold_numbers().await?;
    let (load, hook, chart) = (bold[0], bold[1], bold[2]);
    let of_chart = 100.0 * (load + hook) / chart;
    let verdict = if of_chart <= 90.0 {
        "within the limit"
    } else {
        "over the limit"
    };
    Ok(((load + hook).to_string(), format!("{of_chart:.0}"), verdict))
}

/// The product of the two matrices of the page.
async fn product(browser: &Browser) -> Outcome<Vec<i64>> {
    let n = numbers(&latex(browser).await?);
    let (a, b) = n.split_at(4);
    Ok(vec![a[0] * b[0], a[1] * b[3], a[2] * b[0], a[3] * b[3]])
}

/// Top and bottom of what is left of a shift.
async fn left_of_shift(browser: &Browser) -> Outcome<(i64, i64)> {
    let n = numbers(&browser.text_of("article strong").await?.replace('/', " "));
    let (a, b) = (n[1], n[3]);
    let (mut top, mut bottom) = (a * b - a - b, a * b);
    let (mut x, mut y) = (top, bottom);
    while y != 0 {
        (x, y) = (y, x % y);
    }
    top /= x;
    bottom /= x;
    Ok((top, bottom))
}

async fn pressure(browser: &Browser) -> Outcome<f64> {
    let bold = browser.bold_numbers().await?;
    let area = std::f64::consts::PI * bold[0] * bold[0] / 4.0;
    Ok((bold[1] * 1000.0 / area / 0.1).round())
}

#[tokio::test(flavor = "multi_thread")]
async fn every_kind_of_answer_by_pointer() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("A working day").await?;
    let work = browser.open_work(&site, "A working day").await?;

    // Gaps: what is empty is named before a try is used; then right.
    let (all, of_chart, verdict) = report(&browser).await?;
    let gap = async |id: &str| {
        browser
            .driver
            .query(By::Css(format!("[data-gap='{id}']")))
            .first()
            .await
    };
    gap("total").await?.send_keys(all).await?;
    check(&browser, "not_finished").await?;
    browser.sees("Two boxes are still empty.").await?;
    browser.sees("No try was used.").await?;
    gap("use").await?.send_keys(of_chart).await?;
    select(&browser, "select[data-gap='verdict']", verdict).await?;
    check(&browser, "right").await?;

    // Tiles: dragged and pressed; one that is wrong says so beside itself.
    browser.go_to(&work, 2).await?;
    drag(
        &browser,
        "[data-tile='current']",
        "[data-gap='g1']",
        "[data-gap='g1'][data-full='true']",
    )
    .await?;
    for (tile, gap) in [("voltage", "g2"), ("full", "g3"), ("resistance", "g4")] {
        browser.click(&format!("[data-tile='{tile}']")).await?;
        browser.click(&format!("[data-gap='{gap}']")).await?;
    }
    check(&browser, "partly_right").await?;
    browser.sees("3 of 4 are right.").await?;
    browser
        .driver
        .query(By::Css("[title='not right']"))
        .first()
        .await?;
    browser.click("[data-tile='currents']").await?;
    browser.click("[data-gap='g4']").await?;
    check(&browser, "right").await?;

    // Joined in a table: a wrong pick stays marked on this set.
    browser.go_to(&work, 3).await?;
    for pair in ["power=watt", "energy=watt", "charge=ah", "resistance=ohm"] {
        browser.click(&format!("[data-pair='{pair}']")).await?;
    }
    check(&browser, "partly_right").await?;
    browser.click("[data-pair='energy=wh']").await?;
    browser
        .driver
        .query(By::Css("[title='tried before, not right']"))
        .first()
        .await?;
    check(&browser, "right").await?;

    // Pairs, one of them by dragging.
    browser.go_to(&work, 4).await?;
    drag(
        &browser,
        "[data-tile='half']",
        "[data-tile='p25']",
        "[data-part='a'] li button",
    )
    .await?;
    for tile in ["fifth", "p40", "eighth", "p375"] {
        browser.click(&format!("[data-tile='{tile}']")).await?;
    }
    check(&browser, "right").await?;

    // Sorted into groups.
    browser.go_to(&work, 5).await?;
    drag(
        &browser,
        "[data-tile='lanyard']",
        "[data-group='stop']",
        "[data-group='stop'] [data-tile='lanyard']",
    )
    .await?;
    for (item, group) in [
        ("lightning", "stop"),
        ("lamp", "report"),
        ("label", "report"),
        ("gloves", "go"),
    ] {
        browser.click(&format!("[data-tile='{item}']")).await?;
        browser.click(&format!("[data-group='{group}'] > button")).await?;
    }
    check(&browser, "right").await?;

    // Put in order with the buttons, after one was dragged to the top.
    browser.go_to(&work, 6).await?;
    drag(
        &browser,
        "[data-grip='tell']",
        "li:first-child [data-grip]",
        "li:first-child [data-grip='tell']",
    )
    .await?;
    for (place, step) in ["tell", "off", "lock", "test", "open", "unlock"]
        .iter()
        .enumerate()
    {
        let at = "return [...document.querySelectorAll('[data-step]')].map(e => e.dataset.step)";
        loop {
            let order: Vec<String> = browser.driver.execute(at, Vec::new()).await?.convert()?;
            let Some(now) = order.iter().position(|s| s == step).filter(|n| *n > place) else {
                break;
            };
            browser
                .click(&format!("[data-step='{step}'] [data-move='up']"))
                .await?;
            assert!(now < 6);
        }
    }
    check(&browser, "right").await?;

    // A line of somebody's working.
    browser.go_to(&work, 7).await?;
    browser.click("[data-hot='l2']").await?;
    check(&browser, "right").await?;

    // A scale: dragged somewhere, then typed.
    browser.go_to(&work, 8).await?;
    let bar = pressure(&browser).await?;
    let thumb = browser.driver.query(By::Css("[role='slider']")).first().await?;
    browser
        .driver
        .action_chain()
        .drag_and_drop_element_by_offset(&thumb, 90, 0)
        .perform()
        .await?;
    let typed = browser
        .driver
        .query(By::Css("[data-part='a'] input[inputmode='decimal']"))
        .first()
        .await?;
    // A drag sets the value with the next frame.
    let set = "return document.querySelector(\"[data-part='a'] input[inputmode='decimal']\").value !== ''";
    browser.comes_true(set).await?;
    // Held once more, and released where the page is never told: on the way to Check it must not move any more.
    let hold = "const r = arguments[0].getBoundingClientRect(); \
        const at = {bubbles: true, cancelable: true, clientX: r.x + 5, clientY: r.y + 5, buttons: 1}; \
        arguments[0].dispatchEvent(new PointerEvent('pointerdown', at)); \
        arguments[0].dispatchEvent(new MouseEvent('mousedown', at))";
    browser.driver.execute(hold, vec![thumb.to_json()?]).await?;
    browser.type_over(&typed, &bar.to_string()).await?;
    check(&browser, "right").await?;

    // A grid, its last row pasted from a spreadsheet.
    browser.go_to(&work, 9).await?;
    let p = product(&browser).await?;
    let paste = "const data = new DataTransfer(); data.setData('text/plain', arguments[0]); \
        document.querySelector(\"[data-cell='1,1']\").dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}))";
    let block = format!("{}\t{}\n{}\t{}\n", p[0], p[1], p[2], p[3]);
    browser.driver.execute(paste, vec![block.into()]).await?;
    check(&browser, "right").await?;

    // A fraction in boxes, looked at in one line and back.
    browser.go_to(&work, 10).await?;
    let (top, bottom) = left_of_shift(&browser).await?;
    let boxed = async |which: &str| {
        browser
            .driver
            .query(By::Css(format!("[data-box='{which}']")))
            .first()
            .await
    };
    boxed("above").await?.send_keys(top.to_string()).await?;
    check(&browser, "not_finished").await?;
    boxed("below").await?.send_keys(bottom.to_string()).await?;
    browser.press("Type it in one line").await?;
    let line = browser.field("a").await?.prop("value").await?;
    assert_eq!(line, Some(format!("{top}/{bottom}")));
    browser.press("Use boxes").await?;
    assert_eq!(
        boxed("below").await?.prop("value").await?,
        Some(bottom.to_string())
    );
    check(&browser, "right").await?;
    pictures_by_pointer(&browser, &site).await?;
    browser.quit().await?;
    Ok(())
}

async fn pictures_by_pointer(browser: &Browser, site: &Site) -> Outcome<()> {
    let work = browser.open_work(site, "Pictures and plans").await?;
    browser.click("[data-spot='resistor']").await?;
    check(browser, "not_yet").await?;
    browser.click("[data-spot='fuse']").await?;
    check(browser, "right").await?;

    browser.go_to(&work, 2).await?;
    drag(
        browser,
        "[data-tile='fuse']",
        "[data-spot='top1']",
        "[data-spot='top1'][data-label='true']",
    )
    .await?;
    for (tile, spot) in [("switch", "top2"), ("motor", "right"), ("resistor", "bottom")] {
        browser.click(&format!("[data-tile='{tile}']")).await?;
        browser.click(&format!("[data-spot='{spot}']")).await?;
    }
    check(browser, "right").await?;

    browser.go_to(&work, 3).await?;
    for spot in ["t2", "t1", "t3", "t4"] {
        browser.click(&format!("[data-spot='{spot}']")).await?;
    }
    check(browser, "right").await?;

    // A plane: set by pressing, then put right by typing.
    browser.go_to(&work, 4).await?;
    let n = numbers(&line_of(&latex(browser).await?));
    let plane = browser
        .driver
        .query(By::Css("[data-testid='plane']"))
        .first()
        .await?;
    plane.scroll_into_view().await?;
    for (x, y) in [(0, -40), (60, 40)] {
        browser
            .driver
            .action_chain()
            .move_to_element_with_offset(&plane, x, y)
            .click()
            .perform()
            .await?;
    }
    browser
        .driver
        .query(By::Css("[data-point='cable/1']"))
        .first()
        .await?;
    set_line(browser, &n).await?;
    // A point follows the pointer while it is held, and no longer, though the page was not told of the release.
    let field = "return document.querySelector(\"[data-number='cable/1/1']\").value";
    let held = async |buttons: u8| -> Outcome<String> {
        let drag = format!(
            "const plane = document.querySelector(\"[data-testid='plane']\"), r = plane.getBoundingClientRect(); \
             const point = document.querySelector(\"[data-point='cable/1']\"); \
             const at = {{bubbles: true, cancelable: true, clientX: r.x + 30, clientY: r.y + 30}}; \
             point.dispatchEvent(new PointerEvent('pointerdown', {{...at, buttons: 1}})); \
             plane.dispatchEvent(new PointerEvent('pointermove', {{...at, buttons: {buttons}}}))"
        );
        browser.driver.execute(drag, Vec::new()).await?;
        Ok(browser.driver.execute(field, Vec::new()).await?.convert()?)
    };
    let set: String = browser.driver.execute(field, Vec::new()).await?.convert()?;
    assert_ne!(held(1).await?, set);
    set_line(browser, &n).await?;
    assert_eq!(held(0).await?, set);
    check(browser, "right").await?;

    browser.go_to(&work, 5).await?;
    let bold = browser.bold_numbers().await?;
    for (place, value) in [(0, bold[0]), (1, bold[1])] {
        let field = format!("[data-number='range/{place}/0']");
        browser
            .driver
            .query(By::Css(field))
            .first()
            .await?
            .send_keys(value.to_string())
            .await?;
    }
    browser.click("[data-open='range/1']").await?;
    check(browser, "right").await?;

    browser.go_to(&work, 6).await?;
    for pair in ["up=brake", "up=pump", "up=fan", "down=heating", "up=remote"] {
        browser.click(&format!("[data-pair='{pair}']")).await?;
    }
    check(browser, "partly_right").await?;
    browser.click("[data-pair='down=remote']").await?;
    check(browser, "right").await?;

    browser.go_to(&work, 7).await?;
    let count = bolts(browser).await?;
    for n in 1..=count {
        browser.click(&format!("[data-thing='{n}']")).await?;
    }
    browser.sees(&format!("{count} crossed out")).await?;
    check(browser, "right").await
}

/// The equation of the cable among the maths of the page.
fn line_of(latex: &str) -> String {
    // "y = -2x + 3 M (1, 4)": a slope of one is not written.
    let text = latex.replace(['{', '}'], "");
    let line = text.split('y').nth(1).unwrap_or_default().replace(' ', "");
    let line = line.replace("=x", "=1x").replace("=-x", "=-1x");
    line.replace(['=', 'x', '+', 'M', '('], " ")
}

/// Types a line with slope and height above zero, and the mast that follows in the text.
async fn set_line(browser: &Browser, n: &[i64]) -> Outcome<()> {
    let (m, b, x, y) = (n[0], n[1], n[2], n[3]);
    for (field, value) in [
        ("cable/0/0", 0),
        ("cable/0/1", b),
        ("cable/1/0", 1),
        ("cable/1/1", m + b),
        ("mast/0/0", x),
        ("mast/0/1", y),
    ] {
        let field = browser
            .driver
            .query(By::Css(format!("[data-number='{field}']")))
            .first()
            .await?;
        browser.type_over(&field, &value.to_string()).await?;
    }
    Ok(())
}

async fn bolts(browser: &Browser) -> Outcome<i64> {
    let n = numbers(&browser.text_of("article p").await?.replace('/', " "));
    Ok(n[0] * n[1] / n[2])
}

#[tokio::test(flavor = "multi_thread")]
async fn every_kind_of_answer_by_keyboard() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("A working day").await?;
    let work = browser.open_work(&site, "A working day").await?;

    let (all, of_chart, verdict) = report(&browser).await?;
    browser.walk_to("[data-gap='total']").await?;
    browser.keys(all.as_str()).await?;
    browser.keys(Key::Tab + of_chart.as_str()).await?;
    // In a list the first letters choose.
    browser.keys(Key::Tab + verdict).await?;
    check(&browser, "right").await?;

    browser.go_to(&work, 2).await?;
    for (tile, gap) in [
        ("current", "g1"),
        ("voltage", "g2"),
        ("full", "g3"),
        ("currents", "g4"),
    ] {
        key_press(&browser, &format!("[data-tile='{tile}']")).await?;
        key_press(&browser, &format!("[data-gap='{gap}']")).await?;
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 3).await?;
    let rows = "return [...document.querySelectorAll('tbody tr')].map(r => r.querySelector('input').dataset.pair.split('=')[0])";
    let rows: Vec<String> = browser.driver.execute(rows, Vec::new()).await?.convert()?;
    for row in rows {
        let right = [("power", 0), ("energy", 1), ("charge", 2), ("resistance", 3)];
        let steps = right.iter().find(|(r, _)| *r == row).ok_or("a row")?.1;
        browser.walk_to(&format!("[data-pair^='{row}=']")).await?;
        // The arrow keys go round the row and choose as they go.
        browser.keys(" ").await?;
        for _ in 0..steps {
            browser.keys(Key::Right + "").await?;
        }
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 4).await?;
    for tile in ["half", "p25", "fifth", "p40", "eighth", "p375"] {
        key_press(&browser, &format!("[data-tile='{tile}']")).await?;
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 5).await?;
    for (item, group) in [
        ("lanyard", "stop"),
        ("lightning", "stop"),
        ("lamp", "report"),
        ("label", "report"),
        ("gloves", "go"),
    ] {
        key_press(&browser, &format!("[data-tile='{item}']")).await?;
        key_press(&browser, &format!("[data-group='{group}'] > button")).await?;
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 6).await?;
    for (place, step) in ["tell", "off", "lock", "test", "open", "unlock"]
        .iter()
        .enumerate()
    {
        let at = "return [...document.querySelectorAll('[data-step]')].map(e => e.dataset.step)";
        let order: Vec<String> = browser.driver.execute(at, Vec::new()).await?.convert()?;
        let now = order.iter().position(|s| s == step).ok_or("a step")?;
        if now > place {
            browser
                .walk_to(&format!("[data-step='{step}'] [data-move='up']"))
                .await?;
            // The focus stays with the step, so that one key moves it all the way.
            for _ in place..now {
                browser.keys(Key::Enter + "").await?;
                tokio::time::sleep(std::time::Duration::from_millis(120)).await;
            }
        }
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 7).await?;
    browser.walk_to("[data-hot='l1']").await?;
    browser.keys(Key::Down + " ").await?;
    check(&browser, "right").await?;

    browser.go_to(&work, 8).await?;
    let bar = pressure(&browser).await?;
    browser.walk_to("[role='slider']").await?;
    let mut steps = 0.0;
    while steps < bar {
        browser.keys(Key::Right + "").await?;
        steps += 1.0;
    }
    check(&browser, "right").await?;

    browser.go_to(&work, 9).await?;
    let p = product(&browser).await?;
    browser.walk_to("[data-cell='1,1']").await?;
    browser.keys(p[0].to_string()).await?;
    browser.keys(Key::Enter + p[2].to_string()).await?;
    browser.keys(Key::Right + p[3].to_string()).await?;
    browser.keys(Key::Up + p[1].to_string()).await?;
    check(&browser, "right").await?;

    browser.go_to(&work, 10).await?;
    let (top, bottom) = left_of_shift(&browser).await?;
    browser.walk_to("[data-box='above']").await?;
    browser.keys(top.to_string()).await?;
    browser.keys(Key::Tab + bottom.to_string()).await?;
    check(&browser, "right").await?;
    pictures_by_keyboard(&browser, &site).await?;
    browser.quit().await?;
    Ok(())
}

async fn pictures_by_keyboard(browser: &Browser, site: &Site) -> Outcome<()> {
    let work = browser.open_work(site, "Pictures and plans").await?;
    key_press(browser, "[data-spot='fuse']").await?;
    check(browser, "right").await?;

    browser.go_to(&work, 2).await?;
    for (tile, spot) in [
        ("fuse", "top1"),
        ("switch", "top2"),
        ("motor", "right"),
        ("resistor", "bottom"),
    ] {
        key_press(browser, &format!("[data-tile='{tile}']")).await?;
        key_press(browser, &format!("[data-spot='{spot}']")).await?;
    }
    check(browser, "right").await?;

    browser.go_to(&work, 3).await?;
    for spot in ["t2", "t1", "t3", "t4"] {
        key_press(browser, &format!("[data-spot='{spot}']")).await?;
    }
    check(browser, "right").await?;

    // Typed in, then a point moved away and back by arrow keys: numbers and points stay in step.
    browser.go_to(&work, 4).await?;
    let n = numbers(&line_of(&latex(browser).await?));
    browser.walk_to("[data-number='cable/0/0']").await?;
    set_line(browser, &n).await?;
    browser.walk_to("[data-point='mast/0']").await?;
    browser.keys(Key::Up + "").await?;
    let typed = browser
        .driver
        .query(By::Css("[data-number='mast/0/1']"))
        .first()
        .await?;
    assert_eq!(typed.prop("value").await?, Some((n[3] + 1).to_string()));
    browser.keys(Key::Down + "").await?;
    assert_eq!(typed.prop("value").await?, Some(n[3].to_string()));
    check(browser, "right").await?;

    browser.go_to(&work, 6).await?;
    browser.walk_to("[data-pair='up=brake']").await?;
    browser.keys(" ").await?;
    browser.keys(Key::Right + " ").await?;
    browser.keys(Key::Right + " ").await?;
    browser.keys(Key::Right + "").await?;
    browser.keys(Key::Down + " ").await?;
    browser.keys(Key::Right + " ").await?;
    check(browser, "right").await?;

    browser.go_to(&work, 7).await?;
    let count = bolts(browser).await?;
    for n in 1..=count {
        key_press(browser, &format!("[data-thing='{n}']")).await?;
    }
    check(browser, "right").await
}

/// Maths that is built up stands in the line as one would type it, and what was typed stands in the field that builds.
#[tokio::test(flavor = "multi_thread")]
async fn maths_is_built_up_and_typed_and_nothing_is_lost_between() -> Outcome<()> {
    let site = Site::start().await?;
    let browser = Browser::start().await?;
    browser.sign_in(&site, "wren", "kelp-58").await?;
    browser.sees("A working day").await?;
    let work = browser.open_work(&site, "Pictures and plans").await?;
    browser.go_to(&work, 8).await?;
    browser.type_in("a", "7/8").await?;
    browser.press("Equation keyboard").await?;
    let built = "return document.querySelector('math-field') && document.querySelector('math-field').value";
    // What was typed is there, once the field is.
    let mut value = String::new();
    for _ in 0..60 {
        let now = browser.driver.execute(built, Vec::new()).await?;
        value = now.json().as_str().unwrap_or_default().to_owned();
        if !value.is_empty() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    assert!(value.contains("frac") && value.contains('7'), "{value}");
    // Built on: the keys of the screen put into the field, and the line follows.
    let insert = "const f = document.querySelector('math-field'); f.value = arguments[0]; \
        f.dispatchEvent(new Event('input'))";
    browser
        .driver
        .execute(insert, vec![r"\frac{\sqrt{3}}{2}".into()])
        .await?;
    for _ in 0..40 {
        if browser.field("a").await?.value().await?.as_deref() == Some("(sqrt(3))/2") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    assert_eq!(
        browser.field("a").await?.value().await?.as_deref(),
        Some("(sqrt(3))/2")
    );
    // What is not finished is said, and the line keeps what it had.
    browser
        .driver
        .execute(insert, vec![r"\frac{1}{\placeholder{}}".into()])
        .await?;
    browser.sees("A box is still empty.").await?;
    assert_eq!(
        browser.field("a").await?.value().await?.as_deref(),
        Some("(sqrt(3))/2")
    );
    browser.press("Plain typing").await?;
    assert_eq!(
        browser.field("a").await?.value().await?.as_deref(),
        Some("(sqrt(3))/2")
    );
    browser.is_saved().await?;
    browser.quit().await?;
    Ok(())
}
