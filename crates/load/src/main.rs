//! Students at a human pace: each opens an assignment, types with readings and drafts, checks, reads the verdict, and looks at
//! Week now and then. Prints how long the answers took. `scripts/load.sh` makes the world that they work in.

mod student;
mod times;

use std::process::ExitCode;
use std::sync::Arc;
use std::time::{Duration, Instant};

use rand::rngs::SmallRng;
use rand::{Rng, SeedableRng};

use crate::student::{Student, World};
use crate::times::Times;

const USAGE: &str = "load --server URL --assignment ID [--students 2000] [--seconds 60] [--most 250] [--endless 0]
  The students' sessions have the tokens tok0, tok1, …. Fails where the 99th percentile of any kind of request is above
  so many milliseconds, or anything was refused that should not have been. So many of them run endless programs all the time instead.";

struct Options {
    server: String,
    assignment: String,
    students: u32,
    seconds: u64,
    most_millis: u64,
    endless: u32,
}

fn options(words: &[String]) -> Option<Options> {
    let mut found = Options {
        server: String::new(),
        assignment: String::new(),
        students: 2_000,
        seconds: 60,
        most_millis: 250,
        endless: 0,
    };
    for pair in words.chunks(2) {
        let [name, value] = pair else { return None };
        match name.as_str() {
            "--server" => found.server = value.trim_end_matches('/').to_owned(),
            "--assignment" => found.assignment.clone_from(value),
            "--students" => found.students = value.parse().ok()?,
            "--seconds" => found.seconds = value.parse().ok()?,
            "--most" => found.most_millis = value.parse().ok()?,
            "--endless" => found.endless = value.parse().ok()?,
            _ => return None,
        }
    }
    let complete = !found.server.is_empty() && !found.assignment.is_empty();
    complete.then_some(found)
}

#[tokio::main]
async fn main() -> ExitCode {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let Some(options) = options(&words) else {
        eprintln!("{USAGE}");
        return ExitCode::FAILURE;
    };
    // Whoever is first installs it for the whole process; reqwest wants one, with or without TLS.
    let _ = rustls::crypto::ring::default_provider().install_default();
    let client = reqwest::Client::builder()
        .timeout(Duration::from_secs(30))
        .pool_max_idle_per_host(usize::MAX)
        .build();
    let client = match client {
        Ok(client) => client,
        Err(why) => {
            eprintln!("load: {why}");
            return ExitCode::FAILURE;
        }
    };
    // Everybody comes within a minute or so; what is counted begins when all are there.
    let arriving = Duration::from_secs(options.seconds.max(5));
    let begin = Instant::now() + arriving;
    let world = Arc::new(World {
        client,
        server: options.server,
        assignment: options.assignment,
        times: Times::new(begin),
        end: begin + Duration::from_secs(options.seconds),
    });
    let mut all = Vec::with_capacity(options.students as usize);
    for number in 0..options.students {
        let mut chance = SmallRng::seed_from_u64(u64::from(number));
        let wait = arriving.mul_f64(chance.random_range(0.0..0.95));
        let student = Student::new(world.clone(), number, chance);
        all.push(tokio::spawn(async move {
            tokio::time::sleep(wait).await;
            if number < options.endless {
                student.run_endless_programs().await;
            } else {
                student.work().await;
            }
        }));
    }
    for one in all {
        let _ = one.await;
    }
    let report = world.times.report(Duration::from_secs(options.seconds));
    print!("{report}");
    if report.is_within(Duration::from_millis(options.most_millis)) {
        ExitCode::SUCCESS
    } else {
        println!(
            "above {} ms at the 99th percentile, or something was refused",
            options.most_millis
        );
        ExitCode::FAILURE
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(words: &str) -> Option<Options> {
        let words: Vec<String> = words.split_whitespace().map(String::from).collect();
        options(&words)
    }

    #[test]
    fn the_server_and_the_assignment_must_be_named() {
        assert!(read("").is_none());
        assert!(read("--server http://a").is_none());
        assert!(read("--server http://a --assignment").is_none());
        assert!(read("--server http://a --assignment b --what 3").is_none());
        assert!(read("--server http://a --assignment b --students many").is_none());
        let found = read("--server http://a/ --assignment b --students 5 --endless 2").unwrap();
        assert_eq!(
            (
                found.server.as_str(),
                found.students,
                found.seconds,
                found.endless
            ),
            ("http://a", 5, 60, 2)
        );
    }
}
