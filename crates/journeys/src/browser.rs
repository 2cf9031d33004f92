//! The browser of a journey.

use std::process::Stdio;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use thirtyfour::cdp::domains::network::NetworkConditions;
use thirtyfour::error::WebDriverErrorInner;
use thirtyfour::extensions::query::ElementPollerWithTimeout;
use thirtyfour::prelude::*;
use thirtyfour::stringmatch::StringMatch;
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::process::{Child, Command};

use crate::{Outcome, Site};

/// What does not come within this time does not come.
const LONGEST_WAIT: Duration = Duration::from_secs(25);
const LOOKED_EVERY: Duration = Duration::from_millis(100);

/// Tries again where the page was drawn anew between finding an element and using it.
async fn patiently<T>(attempt: impl AsyncFn() -> WebDriverResult<T>) -> WebDriverResult<T> {
    for _ in 0..20 {
        match attempt().await {
            Err(error) if matches!(error.as_inner(), WebDriverErrorInner::StaleElementReference(_)) => {}
            other => return other,
        }
    }
    attempt().await
}

/// A headless Chromium with a profile of its own.
pub struct Browser {
    pub driver: WebDriver,
    _process: Child,
    /// Dropped last, when nothing writes into it any more.
    _profile: Profile,
}

/// The folder a browser keeps its things in; it goes with the browser, however a journey ends.
struct Profile(std::path::PathBuf);

impl Drop for Profile {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

impl Browser {
    /// # Errors
    /// If ChromeDriver or Chromium does not start.
    pub async fn start() -> Outcome<Browser> {
        // Whoever is first installs it for the whole process; reqwest wants one, with or without TLS.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let mut process = Command::new("chromedriver")
            .arg("--port=0")
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .kill_on_drop(true)
            .spawn()?;
        let mut lines = BufReader::new(process.stdout.take().ok_or("ChromeDriver's output")?).lines();
        let mut port = None;
        while let Some(line) = lines.next_line().await? {
            if let Some((_, rest)) = line.split_once("started successfully on port ") {
                port = rest.trim_end_matches('.').trim().parse::<u16>().ok();
                break;
            }
        }
        let port = port.ok_or("ChromeDriver did not say its port")?;
        tokio::spawn(async move { while let Ok(Some(_)) = lines.next_line().await {} });
        let mut options = DesiredCapabilities::chrome();
        let profile = std::env::temp_dir().join(format!("green-slate-{}-{port}", std::process::id()));
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            // A microphone that beeps, allowed without asking.
            "--use-fake-device-for-media-stream",
            "--use-fake-ui-for-media-stream",
            "--autoplay-policy=no-user-gesture-required",
            "--window-size=1280,943",
            &format!("--user-data-dir={}", profile.display()),
        ] {
            options.add_arg(flag)?;
        }
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), options).await?;
        driver.set_poller(Arc::new(ElementPollerWithTimeout::new(
            LONGEST_WAIT,
            LOOKED_EVERY,
        )));
        Ok(Browser {
            driver,
            _process: process,
            _profile: Profile(profile),
        })
    }

    /// Waits for an element with this text.
    ///
    /// # Errors
    /// If it does not come.
    pub async fn sees(&self, text: &str) -> WebDriverResult<WebElement> {
        let path = format!(
            "//*[contains(normalize-space(.), '{text}')][not(.//*[contains(normalize-space(.), '{text}')])]"
        );
        let find = async || {
            self.driver
                .query(By::XPath(path.clone()))
                .and_displayed()
                .first()
                .await
        };
        patiently(find).await
    }

    /// Presses the button or link with exactly this text.
    ///
    /// # Errors
    /// If there is none.
    pub async fn press(&self, text: &str) -> WebDriverResult<()> {
        let path = format!(
            "//*[self::button or self::a or self::label[contains(@class, 'SegmentedControl')]][normalize-space(.)='{text}']"
        );
        let clicked = AtomicBool::new(false);
        let press = async || {
            let query = self.driver.query(By::XPath(path.clone())).and_clickable();
            let button = match query.first().await {
                // A click that had its effect can come back as stale: what it was on has gone with it.
                Err(_) if clicked.load(Ordering::Relaxed) => return Ok(()),
                found => found?,
            };
            // The ledge at the bottom lies over what is not scrolled away from it.
            let centre = "arguments[0].scrollIntoView({block: 'center'})";
            self.driver.execute(centre, vec![button.to_json()?]).await?;
            let done = button.click().await;
            clicked.store(true, Ordering::Relaxed);
            done
        };
        patiently(press).await
    }

    /// The field of a part.
    ///
    /// # Errors
    /// If it does not come.
    pub async fn field(&self, part: &str) -> WebDriverResult<WebElement> {
        self.driver
            .query(By::Css(format!("input[data-part='{part}']")))
            .first()
            .await
    }

    /// Replaces what stands in a field by typing.
    ///
    /// # Errors
    /// If there is no such field.
    pub async fn type_in(&self, part: &str, text: &str) -> WebDriverResult<()> {
        let field = self.field(part).await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(Key::Delete + text).await
    }

    /// Types over what stands in a field, again where the page was still writing into it (a scale that was just dragged).
    ///
    /// # Errors
    /// If the field comes to hold something else each time.
    pub async fn type_over(&self, field: &WebElement, text: &str) -> Outcome<()> {
        let mut held = None;
        // What a drag still has to say comes with a frame; without waiting for one it would come over what is typed.
        let frames = "const done = arguments[arguments.length - 1]; \
            requestAnimationFrame(() => requestAnimationFrame(() => done()))";
        for _ in 0..5 {
            self.driver.execute_async(frames, Vec::new()).await?;
            field.send_keys(Key::Control + "a").await?;
            field.send_keys(text).await?;
            self.driver.execute_async(frames, Vec::new()).await?;
            held = field.prop("value").await?;
            if held.as_deref() == Some(text) {
                return Ok(());
            }
        }
        Err(format!("{text} was typed over, and the field holds {held:?}").into())
    }

    /// Waits until a script of the page gives true.
    ///
    /// # Errors
    /// If it never does.
    pub async fn comes_true(&self, script: &str) -> Outcome<()> {
        for _ in 0..250 {
            if self.driver.execute(script, Vec::new()).await?.convert()? {
                return Ok(());
            }
            tokio::time::sleep(LOOKED_EVERY).await;
        }
        Err(format!("this never came true: {script}").into())
    }

    /// Waits until an element's text says something.
    ///
    /// # Errors
    /// If it never does.
    pub async fn says(&self, css: &str, text: &str) -> WebDriverResult<()> {
        let wanted = text.to_owned();
        let read = async || {
            self.driver
                .query(By::Css(css))
                .with_text(StringMatch::new(wanted.clone()).partial())
                .first()
                .await
        };
        patiently(read).await.map(|_| ())
    }

    /// Opens an assignment from Week and gives the address of its work.
    ///
    /// # Errors
    /// If it is not there.
    pub async fn open_work(&self, site: &Site, title: &str) -> Outcome<String> {
        self.driver.goto(site.address("/")).await?;
        self.press(title).await?;
        self.says("h1", title).await?;
        let begun = self
            .driver
            .find_all(By::XPath("//*[normalize-space(.)='Carry on']"))
            .await?;
        self.press(if begun.is_empty() { "Open" } else { "Carry on" })
            .await?;
        self.sees("Question 1").await?;
        let url = self.driver.current_url().await?.to_string();
        let (work, _) = url.rsplit_once("/question").ok_or("the board's address")?;
        Ok(work.to_owned())
    }

    /// Goes to a question of a work, from 1.
    ///
    /// # Errors
    /// If it does not come.
    pub async fn go_to(&self, work: &str, question: usize) -> Outcome<()> {
        self.driver.goto(format!("{work}/question/{question}")).await?;
        self.driver.query(By::Css("[data-part='a']")).first().await?;
        Ok(())
    }

    /// Presses what fits a selector.
    ///
    /// # Errors
    /// If nothing does.
    pub async fn click(&self, css: &str) -> Outcome<()> {
        let press = async || {
            let element = self.driver.query(By::Css(css)).and_clickable().first().await?;
            let centre = "arguments[0].scrollIntoView({block: 'center'})";
            self.driver.execute(centre, vec![element.to_json()?]).await?;
            element.click().await
        };
        Ok(patiently(press).await?)
    }

    /// The text of everything that fits a selector.
    ///
    /// # Errors
    /// If the page is gone.
    pub async fn text_of(&self, css: &str) -> Outcome<String> {
        let script = "return [...document.querySelectorAll(arguments[0])].map(e => e.textContent).join(' ')";
        Ok(self.driver.execute(script, vec![css.into()]).await?.convert()?)
    }

    /// Presses Tab until the focus is on what fits a selector, at most ninety times.
    ///
    /// # Errors
    /// If it never is.
    pub async fn walk_to(&self, css: &str) -> Outcome<()> {
        let script = "return document.activeElement !== null && document.activeElement.matches(arguments[0])";
        // Nobody walks before the page is there.
        self.driver.query(By::Css(css)).first().await?;
        for _ in 0..90 {
            if self
                .driver
                .execute(script, vec![css.into()])
                .await?
                .convert::<bool>()?
            {
                return Ok(());
            }
            self.keys(Key::Tab + "").await?;
        }
        Err(format!("the Tab key never came to {css}").into())
    }

    /// Waits until everything typed is kept on the server.
    ///
    /// # Errors
    /// If it is not.
    pub async fn is_saved(&self) -> WebDriverResult<()> {
        self.driver
            .query(By::Css("[data-testid='saved-state'][data-kind='kept']"))
            .first()
            .await?;
        Ok(())
    }

    /// # Errors
    /// If the page does not come.
    pub async fn sign_in(&self, site: &Site, name: &str, password: &str) -> Outcome<()> {
        self.driver.goto(site.address("/sign-in")).await?;
        self.driver
            .query(By::Name("user_name"))
            .first()
            .await?
            .send_keys(name)
            .await?;
        self.driver
            .query(By::Name("password"))
            .first()
            .await?
            .send_keys(password)
            .await?;
        self.press("Sign in").await?;
        // Whoever goes elsewhere before it is answered is not signed in. It leads away, or says why not.
        let answered =
            "return location.pathname !== '/sign-in' || document.querySelector('[role=alert]') !== null";
        self.comes_true(answered).await
    }

    /// Signs out by the person menu.
    ///
    /// # Errors
    /// If the menu is not there.
    pub async fn sign_out(&self, person: &str) -> WebDriverResult<()> {
        self.press(person).await?;
        self.press("Sign out").await?;
        self.driver.query(By::Name("user_name")).first().await?;
        Ok(())
    }

    /// Cuts the browser off from the network, or joins it again.
    ///
    /// # Errors
    /// If the browser does not take it.
    pub async fn go_offline(&self, offline: bool) -> WebDriverResult<()> {
        let conditions = NetworkConditions {
            offline,
            ..NetworkConditions::default()
        };
        let cdp = self.driver.cdp();
        let network = cdp.network();
        network.enable().await?;
        network.emulate_network_conditions(conditions).await
    }

    /// Sends keys to whatever has the focus, as a keyboard does.
    ///
    /// # Errors
    /// If nothing takes them.
    pub async fn keys(&self, keys: impl Into<TypingData> + Send) -> WebDriverResult<()> {
        self.driver.action_chain().send_keys(keys.into()).perform().await
    }

    /// Presses a key while Control is held.
    ///
    /// # Errors
    /// If nothing takes it.
    pub async fn control(&self, key: impl Into<TypingData> + Send) -> WebDriverResult<()> {
        self.driver
            .action_chain()
            .key_down(Key::Control)
            .send_keys(key.into())
            .key_up(Key::Control)
            .perform()
            .await
    }

    /// Presses Tab until the focus is on an element that fits, at most a hundred times.
    ///
    /// # Errors
    /// If it never is.
    pub async fn tab_to(&self, css: &str, text: &str) -> Outcome<()> {
        let script = "const here = document.activeElement; \
            return here !== null && here.matches(arguments[0]) && here.textContent.includes(arguments[1])";
        self.driver.query(By::Css(css)).first().await?;
        for _ in 0..100 {
            let found = self.driver.execute(script, vec![css.into(), text.into()]).await?;
            if found.convert::<bool>()? {
                return Ok(());
            }
            self.keys(Key::Tab + "").await?;
        }
        Err(format!("the Tab key never came to {css} with {text}").into())
    }

    /// The numbers in bold of the question that is shown.
    ///
    /// # Errors
    /// If there is no question.
    pub async fn bold_numbers(&self) -> WebDriverResult<Vec<f64>> {
        self.driver.query(By::Css("article strong")).first().await?;
        // In one step: the page may be drawn anew between two.
        let script = "return [...document.querySelectorAll('article strong')].map(e => e.textContent)";
        let texts: Vec<String> = self.driver.execute(script, Vec::new()).await?.convert()?;
        let number = |text: &String| {
            let digits: String = text
                .chars()
                .filter(|c| *c != '\u{202f}')
                .take_while(|c| c.is_ascii_digit() || *c == '.')
                .collect();
            digits.parse().ok()
        };
        Ok(texts.iter().filter_map(number).collect())
    }

    /// Takes a picture of the window once fonts and pictures are there and nothing moves any more.
    ///
    /// # Errors
    /// If something is still on its way after some seconds, or the picture can't be written.
    pub async fn picture(&self, file: &std::path::Path) -> Outcome<()> {
        let script = "return document.fonts.status === 'loaded' \
            && document.querySelectorAll('.mantine-Skeleton-root, .mantine-Loader-root').length === 0 \
            && [...document.images].every(i => i.complete) \
            && document.getAnimations().every(a => a.playState !== 'running')";
        for _ in 0..50 {
            if self.driver.execute(script, Vec::new()).await?.convert::<bool>()? {
                tokio::time::sleep(Duration::from_millis(300)).await;
                self.driver.screenshot(file).await?;
                return Ok(());
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        Err(format!("{} would show something half loaded", file.display()).into())
    }

    /// Makes the window as small as a phone's.
    ///
    /// # Errors
    /// If the browser does not take it.
    pub async fn as_phone(&self) -> WebDriverResult<()> {
        let size = serde_json::json!({"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": true});
        let cdp = self.driver.cdp();
        cdp.send_raw("Emulation.setDeviceMetricsOverride", size).await?;
        Ok(())
    }

    /// Makes the window as large as it was.
    ///
    /// # Errors
    /// If the browser does not take it.
    pub async fn as_desk(&self) -> WebDriverResult<()> {
        let size = serde_json::json!({"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": false});
        let cdp = self.driver.cdp();
        cdp.send_raw("Emulation.setDeviceMetricsOverride", size).await?;
        Ok(())
    }

    /// # Errors
    /// If the browser does not end.
    pub async fn quit(self) -> WebDriverResult<()> {
        self.driver.quit().await
    }
}
