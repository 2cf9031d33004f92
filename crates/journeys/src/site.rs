//! The server of a journey.

use std::path::{Path, PathBuf};
use std::process::Stdio;

use sqlx::{AssertSqlSafe, Connection, PgConnection};
use tokio::io::{AsyncBufReadExt, BufReader};
use tokio::process::{Child, Command};
use tokio::sync::OnceCell;
use tokio::sync::mpsc::{UnboundedReceiver, unbounded_channel};

use crate::Outcome;

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

fn base() -> Outcome<String> {
    Ok(std::env::var("DATABASE_URL").map_err(|_| "DATABASE_URL says where PostgreSQL is")?)
}

/// The address of another database of the same server.
fn beside(base: &str, name: &str) -> Outcome<String> {
    let (server, _) = base.rsplit_once('/').ok_or("an address with a database")?;
    Ok(format!("{server}/{name}"))
}

fn free_port() -> Outcome<u16> {
    Ok(std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port())
}

/// The name of a database that these commands made. It takes some seconds, so each process makes it once and copies it.
async fn made_by(commands: &[&[&str]]) -> Outcome<String> {
    let name = format!("journeys_{}_{}", free_port()?, std::process::id());
    let database = beside(&base()?, &name)?;
    for words in commands {
        let done = green_slate()?
            .args(*words)
            .env("DATABASE_URL", &database)
            .status()
            .await?;
        if !done.success() {
            return Err(format!("green-slate {words:?} failed").into());
        }
    }
    Ok(name)
}

/// A Green Slate with the demo world, on a port and a database of its own.
pub struct Site {
    database: String,
    port: u16,
    server: Child,
    clock: PathBuf,
    log: UnboundedReceiver<String>,
}

impl Site {
    /// # Errors
    /// If `DATABASE_URL` names no PostgreSQL, or a command fails.
    pub async fn start() -> Outcome<Site> {
        static WORLD: OnceCell<String> = OnceCell::const_new();
        let made = WORLD.get_or_try_init(|| {
            made_by(&[
                &["migrate"],
                &["bank", "load", "content/questions"],
                &["seed", "content/world.yaml"],
            ])
        });
        Self::like(made.await?).await
    }

    /// With questions, but with nobody in it.
    ///
    /// # Errors
    /// As for [`Site::start`].
    pub async fn start_empty() -> Outcome<Site> {
        static EMPTY: OnceCell<String> = OnceCell::const_new();
        let made = EMPTY.get_or_try_init(|| made_by(&[&["migrate"], &["bank", "load", "content/questions"]]));
        Self::like(made.await?).await
    }

    /// Runs a command on this site's database, and gives what it prints.
    ///
    /// # Errors
    /// If it fails.
    pub async fn command(&self, words: &[&str]) -> Outcome<String> {
        let done = green_slate()?
            .args(words)
            .env("DATABASE_URL", &self.database)
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .output()
            .await?;
        if !done.status.success() {
            return Err(format!("green-slate {words:?} failed").into());
        }
        Ok(String::from_utf8(done.stdout)?)
    }

    /// With a copy of a database that was made before.
    async fn like(made: &str) -> Outcome<Site> {
        let port = free_port()?;
        let (base, name) = (base()?, format!("journey_{port}_{}", std::process::id()));
        let database = beside(&base, &name)?;
        let mut connection = PgConnection::connect(&base).await?;
        let copy = format!("create database {name} template {made}");
        // The names are this file's own.
        sqlx::raw_sql(AssertSqlSafe(copy))
            .execute(&mut connection)
            .await?;
        connection.close().await?;
        let clock = std::env::temp_dir().join(format!("green-slate-clock-{port}-{}", std::process::id()));
        std::fs::write(&clock, "0")?;
        let (server, log) = Self::serve(&database, port, &clock).await?;
        Ok(Site {
            database,
            port,
            server,
            clock,
            log,
        })
    }

    async fn serve(database: &str, port: u16, clock: &Path) -> Outcome<(Child, UnboundedReceiver<String>)> {
        let mut child = green_slate()?
            .args(["serve", "--address", &format!("127.0.0.1:{port}"), "--clock"])
            .arg(clock)
            .env("DATABASE_URL", database)
            .stderr(Stdio::piped())
            .spawn()?;
        let mut lines = BufReader::new(child.stderr.take().ok_or("the server's log")?).lines();
        while let Some(line) = lines.next_line().await? {
            if line.contains("listening on") {
                // The log is read to its end, so that the server never waits for a reader.
                let (send, log) = unbounded_channel();
                tokio::spawn(async move {
                    while let Ok(Some(line)) = lines.next_line().await {
                        let _ = send.send(line);
                    }
                });
                return Ok((child, log));
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
        (self.server, self.log) = Self::serve(&self.database, self.port, &self.clock).await?;
        Ok(())
    }

    /// Moves the server's clock ahead of the real time by so many seconds.
    ///
    /// # Errors
    /// If the clock's file cannot be written.
    pub fn move_clock(&self, seconds: i64) -> Outcome<()> {
        Ok(std::fs::write(&self.clock, seconds.to_string())?)
    }

    /// Waits until the server's log says something.
    ///
    /// # Errors
    /// If it does not within half a minute.
    pub async fn logs(&mut self, words: &str) -> Outcome<()> {
        let wait = async {
            while let Some(line) = self.log.recv().await {
                if line.contains(words) {
                    return Ok(());
                }
            }
            Err("the server ended".into())
        };
        tokio::time::timeout(std::time::Duration::from_secs(30), wait).await?
    }

    pub fn address(&self, path: &str) -> String {
        format!("http://127.0.0.1:{}{path}", self.port)
    }
}

impl Drop for Site {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.clock);
        // Two hundred walks would leave gigabytes. A drop cannot wait for others, and this one must not be left half done:
        // it has a thread of its own, which is waited for.
        let (base, database) = (base(), self.database.clone());
        let dropping = std::thread::spawn(move || -> Outcome<()> {
            let (_, name) = database.rsplit_once('/').ok_or("an address with a database")?;
            tokio::runtime::Builder::new_current_thread()
                .enable_all()
                .build()?
                .block_on(async {
                    let mut connection = PgConnection::connect(&base?).await?;
                    sqlx::raw_sql(AssertSqlSafe(format!("drop database {name} with (force)")))
                        .execute(&mut connection)
                        .await?;
                    Ok(())
                })
        });
        if !matches!(dropping.join(), Ok(Ok(()))) {
            eprintln!("the database of a walk could not be dropped");
        }
    }
}
