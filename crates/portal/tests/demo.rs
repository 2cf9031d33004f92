//! `./demo` in a terminal: Ctrl+C ends all that it started, and so does TERM.

use std::io::{BufRead, BufReader, Write};
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .ancestors()
        .nth(2)
        .unwrap()
        .into()
}

fn free_port() -> u16 {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    listener.local_addr().unwrap().port()
}

/// A folder of the test's in which the demo keeps its database: one that the user `postgres` can reach.
struct State(PathBuf);

impl State {
    fn new() -> State {
        let id = Command::new("id").arg("-u").output().unwrap();
        let is_root = String::from_utf8_lossy(&id.stdout).trim() == "0";
        let above = if is_root {
            PathBuf::from("/var/lib/green-slate")
        } else {
            root().join("target")
        };
        State(above.join(format!("ended-{}", std::process::id())))
    }

    /// The port of its PostgreSQL, as that wrote it down.
    fn database_port(&self) -> Option<u16> {
        let written = std::fs::read_to_string(self.0.join("postgres/data/postmaster.pid")).ok()?;
        written.lines().nth(3)?.trim().parse().ok()
    }
}

impl Drop for State {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

fn listens(port: u16) -> bool {
    TcpStream::connect(("127.0.0.1", port)).is_ok()
}

/// The demo in a pseudo-terminal, once it says that it is ready.
fn started(state: &State, port: u16, portal: u16) -> Child {
    let mut child = Command::new("script")
        .args(["-qefc", "exec ./demo --empty", "/dev/null"])
        .current_dir(root())
        .env("PORT", port.to_string())
        .env("PORTAL_PORT", portal.to_string())
        .env("GREEN_SLATE_STATE", &state.0)
        .env(
            "GREEN_SLATE_BUILT",
            std::env::current_exe().unwrap().ancestors().nth(2).unwrap(),
        )
        .env_remove("DATABASE_URL")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut said = String::new();
    let mut lines = BufReader::new(child.stdout.take().unwrap());
    while !said.contains("is ready") {
        let mut line = String::new();
        assert!(lines.read_line(&mut line).unwrap() > 0, "{said}");
        said.push_str(&line);
    }
    // What it says as it ends is read, or it would wait for that.
    std::thread::spawn(move || std::io::copy(&mut lines, &mut std::io::sink()));
    child
}

fn ends(child: &mut Child, ports: &[u16], by_key: bool) {
    let begun = Instant::now();
    while child.try_wait().unwrap().is_none() {
        assert!(
            begun.elapsed() < Duration::from_secs(60),
            "it goes on after {}",
            if by_key { "Ctrl+C" } else { "TERM" }
        );
        std::thread::sleep(Duration::from_millis(50));
    }
    for port in ports {
        assert!(!listens(*port), "something still listens on {port}");
    }
}

#[test]
fn ctrl_c_and_term_end_all_that_the_demo_started() {
    let state = State::new();
    for by_key in [true, false] {
        let (port, portal) = (free_port(), free_port());
        let mut child = started(&state, port, portal);
        let ports = [port, portal, state.database_port().unwrap()];
        // The portal beside it takes a moment more.
        let begun = Instant::now();
        while !ports.iter().all(|port| listens(*port)) {
            assert!(begun.elapsed() < Duration::from_secs(60), "{ports:?}");
            std::thread::sleep(Duration::from_millis(50));
        }
        // Its keyboard stays plugged in: an end of input would be a key of its own.
        let mut keys = child.stdin.take().unwrap();
        if by_key {
            keys.write_all(b"\x03").unwrap();
            keys.flush().unwrap();
            ends(&mut child, &ports, by_key);
        } else {
            let demo = Command::new("pkill")
                .args(["-TERM", "-P", &child.id().to_string()])
                .status()
                .unwrap();
            assert!(demo.success());
            ends(&mut child, &ports, by_key);
        }
    }
}
