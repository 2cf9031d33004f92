//! One student at work.

use std::sync::Arc;
use std::time::{Duration, Instant};

use rand::Rng;
use rand::rngs::SmallRng;
use reqwest::Method;
use serde_json::{Value, json};

use crate::times::{Kind, Times};

pub struct World {
    pub client: reqwest::Client,
    pub server: String,
    pub assignment: String,
    pub times: Times,
    pub end: Instant,
}

pub struct Student {
    world: Arc<World>,
    cookie: String,
    chance: SmallRng,
}

/// A part to be answered, and how.
#[derive(Clone, Debug, PartialEq)]
struct Task {
    question: u64,
    part: String,
    /// The ids of its choices; empty where something is typed.
    choices: Vec<String>,
    revision: i64,
}

/// Programs that are ended: a loop, a regular expression that only the clock ends, memory, output, recursion.
const ENDLESS: [&str; 5] = [
    "while (true) {}",
    "/^(a+)+$/.test('a'.repeat(40) + '!')",
    "const all = []; while (true) all.push('x'.repeat(100000) + all.length)",
    "while (true) print('a line that never ends')",
    "const f = (n) => f(n + 1) + 1; while (true) { try { f(0) } catch (e) {} }",
];

/// Everything on a board that can be answered.
fn tasks(board: &Value) -> Vec<Task> {
    let list = |v: &Value| v.as_array().cloned().unwrap_or_default();
    let mut found = Vec::new();
    for question in list(&board["questions"]) {
        for part in list(&question["parts"]) {
            let ids = list(&part["entry"]["choices"]);
            let ids = ids.iter().filter_map(|c| c["id"].as_str());
            found.push(Task {
                question: question["question"].as_u64().unwrap_or(0),
                part: part["id"].as_str().unwrap_or_default().to_owned(),
                choices: ids.map(String::from).collect(),
                revision: part["draft"]["revision"].as_i64().unwrap_or(0),
            });
        }
    }
    found
}

impl Student {
    pub fn new(world: Arc<World>, number: u32, chance: SmallRng) -> Self {
        Student {
            world,
            cookie: format!("slate_session=tok{number}"),
            chance,
        }
    }

    async fn pause(&mut self, from: f64, to: f64) {
        let seconds = self.chance.random_range(from..to);
        tokio::time::sleep(Duration::from_secs_f64(seconds)).await;
    }

    /// Sends, and notes how long the answer took. What the rules refuse (tried already, right already) is an answer.
    async fn send(&self, kind: Kind, method: Method, path: &str, body: Option<Value>) -> Option<Value> {
        let url = format!("{}{path}", self.world.server);
        let mut request = self
            .world
            .client
            .request(method, url)
            .header("cookie", &self.cookie)
            .header("sec-fetch-site", "same-origin");
        if let Some(body) = body {
            request = request.json(&body);
        }
        let sent = Instant::now();
        let answer = request.send().await;
        let (status, body) = match answer {
            Ok(answer) => (answer.status().as_u16(), answer.bytes().await.ok()),
            Err(_) => (0, None),
        };
        let good = (200..300).contains(&status) || status == 409;
        self.world.times.add(kind, sent, sent.elapsed(), good);
        serde_json::from_slice(&body?).ok()
    }

    fn entry(&mut self) -> String {
        let whole = self.chance.random_range(1..400);
        match self.chance.random_range(0..4) {
            0 => format!("{whole}"),
            1 => format!("{whole}.{}", self.chance.random_range(1..10)),
            2 => format!(
                "{whole}/{} x + {}",
                self.chance.random_range(2..9),
                self.chance.random_range(1..30)
            ),
            _ => format!("{whole} sqrt({})", self.chance.random_range(2..30)),
        }
    }

    /// Runs programs that never end by themselves, one after the other, each of another sort, until the end.
    pub async fn run_endless_programs(mut self) {
        while Instant::now() < self.world.end {
            let which = self.chance.random_range(0..ENDLESS.len());
            // None is like one before: what came of that is kept, and would not be run again.
            let unlike: u64 = self.chance.random();
            let body = json!({ "source": format!("{} // {unlike}", ENDLESS[which]) });
            self.send(Kind::Endless, Method::POST, "/api/programs/run", Some(body))
                .await;
            self.pause(0.05, 0.2).await;
        }
    }

    /// Works until the end.
    pub async fn work(mut self) {
        let base = format!("/api/assignments/{}", self.world.assignment);
        self.send(Kind::Week, Method::GET, "/api/week", None).await;
        self.pause(1.0, 4.0).await;
        self.send(Kind::Open, Method::POST, &format!("{base}/open"), None)
            .await;
        let board = self
            .send(Kind::Board, Method::GET, &format!("{base}/board"), None)
            .await;
        let mut tasks = board.as_ref().map(tasks).unwrap_or_default();
        if tasks.is_empty() {
            return;
        }
        while Instant::now() < self.world.end {
            self.pause(4.0, 12.0).await;
            let which = self.chance.random_range(0..tasks.len());
            let mut task = tasks[which].clone();
            let response = self.answer(&base, &mut task).await;
            tasks[which] = task.clone();
            self.pause(0.5, 2.0).await;
            let check = json!({
                "question": task.question,
                "parts": [{ "id": task.part, "response": response }]
            });
            self.send(Kind::Check, Method::POST, &format!("{base}/check"), Some(check))
                .await;
            self.pause(2.0, 6.0).await;
            if self.chance.random_range(0..5) == 0 {
                self.send(Kind::Week, Method::GET, "/api/week", None).await;
                self.pause(1.0, 5.0).await;
                self.send(Kind::Board, Method::GET, &format!("{base}/board"), None)
                    .await;
            }
        }
    }

    /// Types an entry in a few goes, each read and the last kept; or picks a choice.
    async fn answer(&mut self, base: &str, task: &mut Task) -> Value {
        let response = if task.choices.is_empty() {
            let entry = self.entry();
            let letters: Vec<char> = entry.chars().collect();
            for go in 1..=3 {
                self.pause(0.4, 1.6).await;
                let so_far: String = letters.iter().take((letters.len() * go).div_ceil(3)).collect();
                let read = json!({ "question": task.question, "part": task.part, "entry": so_far });
                self.send(Kind::Read, Method::POST, &format!("{base}/read"), Some(read))
                    .await;
            }
            json!(entry)
        } else {
            self.pause(1.0, 3.0).await;
            let pick = self.chance.random_range(0..task.choices.len());
            json!([task.choices[pick]])
        };
        let draft = json!({
            "question": task.question, "set_number": 0, "part": task.part,
            "based_on": task.revision, "response": response
        });
        let kept = self
            .send(Kind::Draft, Method::PUT, &format!("{base}/drafts"), Some(draft))
            .await;
        if let Some(revision) = kept.as_ref().and_then(|k| k["revision"].as_i64()) {
            task.revision = revision;
        }
        response
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_board_is_read_part_by_part() {
        let board = json!({ "questions": [
            { "question": 0, "parts": [
                { "id": "a", "entry": { "type": "typed" }, "draft": { "revision": 3 } },
                { "id": "b", "entry": { "type": "choice", "choices": [{ "id": "x" }, { "id": "y" }] }, "draft": null }
            ] },
            { "question": 1, "locked": "not yet", "parts": [] }
        ] });
        let found = tasks(&board);
        assert_eq!(found.len(), 2);
        assert_eq!((found[0].revision, found[0].choices.len()), (3, 0));
        assert_eq!(
            (found[1].part.as_str(), found[1].choices.as_slice()),
            ("b", &["x".to_owned(), "y".to_owned()][..])
        );
        assert!(tasks(&json!({})).is_empty());
    }
}
