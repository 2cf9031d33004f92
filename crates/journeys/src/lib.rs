//! A real server, a real database and a real browser for tests that walk through the interface as a student does.

use std::path::PathBuf;
use std::process::Stdio;

use thirtyfour::prelude::*;
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::process::{Child, Command};

type Outcome<T> = Result<T, Box<dyn std::error::Error + Send + Sync>>;

fn root() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The command that was built with the tests: it lies beside their folder.
fn green_slate() -> Outcome<Command> {
    let test = std::env::current_exe()?;
    let folder = test
        .parent()
        .and_then(|deps| deps.parent())
        .ok_or("a test binary in a folder")?;
    let mut command = Command::new(folder.join("green-slate"));
    command
        .current_dir(root())
        .kill_on_drop(true)
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    Ok(command)
}

/// A Green Slate with the demo world, on a port and a database of its own.
pub struct Site {
    database: String,
    port: u16,
    server: Child,
}

impl Site {
    /// # Errors
    /// If `DATABASE_URL` names no PostgreSQL, or a command fails.
    pub async fn start() -> Outcome<Site> {
        let base = std::env::var("DATABASE_URL").map_err(|_| "DATABASE_URL says where PostgreSQL is")?;
        let (server, _) = base.rsplit_once('/').ok_or("an address with a database")?;
        let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
        let database = format!("{server}/journey_{port}_{}", std::process::id());
        for words in [
            &["migrate"][..],
            &["bank", "load", "content/questions"],
            &["seed", "content/world.yaml"],
        ] {
            let done = green_slate()?
                .args(words)
                .env("DATABASE_URL", &database)
                .status()
                .await?;
            if !done.success() {
                return Err(format!("green-slate {words:?} failed").into());
            }
        }
        let server = Self::serve(&database, port).await?;
        Ok(Site {
            database,
            port,
            server,
        })
    }

    async fn serve(database: &str, port: u16) -> Outcome<Child> {
        let mut child = green_slate()?
            .args(["serve", "--address", &format!("127.0.0.1:{port}")])
            .env("DATABASE_URL", database)
            .stderr(Stdio::piped())
            .spawn()?;
        let mut lines = BufReader::new(child.stderr.take().ok_or("the server's log")?).lines();
        while let Some(line) = lines.next_line().await? {
            if line.contains("listening on") {
                // The log is read to its end, so that the server never waits for a reader.
                tokio::spawn(async move { while let Ok(Some(_)) = lines.next_line().await {} });
                return Ok(child);
            }
        }
        Err("the server ended before it listened".into())
    }

    /// Ends the server as a power cut would, and starts it again.
    ///
    /// # Errors
    /// If it cannot be ended or started.
    pub async fn kill_and_restart(&mut self) -> Outcome<()> {
        self.kill().await?;
        self.restart().await
    }

    /// # Errors
    /// If it cannot be ended.
    pub async fn kill(&mut self) -> Outcome<()> {
        self.server.kill().await?;
        Ok(())
    }

    /// # Errors
    /// If it cannot be started.
    pub async fn restart(&mut self) -> Outcome<()> {
        self.server = Self::serve(&self.database, self.port).await?;
        Ok(())
    }

    pub fn address(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}{path}", self.port)
    }
}

/// A headless Chromium with a profile of its own.
pub struct Browser {
    pub driver: WebDriver,
    _process: Child,
}

impl Browser {
    /// # Errors
    /// If ChromeDriver or Chromium does not start.
    pub async fn start() -> Outcome<Browser> {
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
            "--window-size=1280,943",
            &format!("--user-data-dir={}", profile.display()),
        ] {
            options.add_arg(flag)?;
        }
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), options).await?;
        Ok(Browser {
            driver,
            _process: process,
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
        self.driver.query(By::XPath(path)).and_displayed().first().await
    }

    /// Presses the button or link with exactly this text.
    ///
    /// # Errors
    /// If there is none.
    pub async fn press(&self, text: &str) -> WebDriverResult<()> {
        let path = format!("//*[self::button or self::a][normalize-space(.)='{text}']");
        self.driver
            .query(By::XPath(path))
            .and_clickable()
            .first()
            .await?
            .click()
            .await
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

    /// Waits until an element's text says something.
    ///
    /// # Errors
    /// If it never does.
    pub async fn says(&self, css: &str, text: &str) -> WebDriverResult<()> {
        let wanted = text.to_owned();
        self.driver
            .query(By::Css(css))
            .with_text(thirtyfour::stringmatch::StringMatch::new(&wanted).partial())
            .first()
            .await?;
        Ok(())
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
    pub async fn sign_in(&self, site: &Site, name: &str, password: &str) -> WebDriverResult<()> {
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
        self.press("Sign in").await
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

    /// # Errors
    /// If the browser does not end.
    pub async fn quit(self) -> WebDriverResult<()> {
        self.driver.quit().await
    }
}
