//! `stand-in-portal`: a school's portal to try a tool with.

use std::process::ExitCode;
use std::sync::Arc;

use portal::{Portal, World, serve};

const USAGE: &str = "stand-in-portal WORLD.yaml [--port 8081] [--tool http://127.0.0.1:8080]
  serves a made-up school's portal on http://localhost:PORT, with one course whose links open the tool";

fn main() -> ExitCode {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = args.iter().map(String::as_str).collect();
    match run(&words) {
        Ok(()) => ExitCode::SUCCESS,
        Err(why) => {
            eprintln!("stand-in-portal: {why}");
            ExitCode::FAILURE
        }
    }
}

fn run(words: &[&str]) -> Result<(), String> {
    let (mut file, mut port, mut tool) = (None, 8081u16, "http://127.0.0.1:8080");
    let mut left = words;
    loop {
        left = match left {
            [] => break,
            ["--port", given, rest @ ..] => {
                port = given.parse().map_err(|_| format!("{given} is no port"))?;
                rest
            }
            ["--tool", given, rest @ ..] => {
                tool = given;
                rest
            }
            [given, rest @ ..] if !given.starts_with('-') && file.is_none() => {
                file = Some(*given);
                rest
            }
            _ => return Err(USAGE.into()),
        };
    }
    let file = file.ok_or(USAGE)?;
    let text = std::fs::read_to_string(file).map_err(|e| format!("{file}: {e}"))?;
    let world: World = serde_saphyr::from_str(&text).map_err(|e| format!("{file}: {e}"))?;
    // Another name than the tool's: to a browser another site, as a school's portal is.
    let portal = Arc::new(Portal::new(world, &format!("http://localhost:{port}"), tool));
    actix_web::rt::System::new().block_on(async {
        let (address, server) =
            serve(portal, ([127, 0, 0, 1], port).into()).map_err(|e| format!("port {port}: {e}"))?;
        eprintln!("the portal listens on http://localhost:{}", address.port());
        server.await.map_err(|e| e.to_string())
    })
}
