//! Starting the processes: as many at once as there are cores, the others wait in turn.

use std::io::{Read, Write};
use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::{Condvar, LazyLock, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use marking::program::{Job, ProgramError, ProgramFault, Report};
use quick_cache::sync::Cache;
use sha2::{Digest, Sha256};
use uuid::Uuid;

use crate::child::Line;

/// A process is ended after this.
const LONGEST: Duration = Duration::from_secs(2);
/// How often it is looked whether a process has ended.
const LOOK: Duration = Duration::from_millis(4);
/// Reports that are kept: some 64 kB each at most, mostly far less.
const KEPT: usize = 400;
/// Bytes of a report.
const LONGEST_REPORT: u64 = 8 * 1024 * 1024;
/// Programs that may wait. Who comes then is asked to try again.
const MOST_WAITING: usize = 200;

/// Of one person.
const MOST_OF_ONE: usize = 4;

/// How long a report is kept that a busy machine may have caused: as long as marking needs to find it.
const KEPT_IF_BUSY: Duration = Duration::from_secs(10);

/// What came of jobs, and when.
static REPORTS: LazyLock<Cache<[u8; 32], (Instant, Report)>> = LazyLock::new(|| Cache::new(KEPT));
static TURNS: LazyLock<Turns> = LazyLock::new(Turns::default);

#[derive(Default)]
struct Turns {
    state: Mutex<State>,
    free: Condvar,
}

#[derive(Default)]
struct State {
    running: usize,
    next: u64,
    /// Who waits, in turn: a number, and whose it is.
    waiting: Vec<(u64, Option<Uuid>)>,
}

fn cores() -> usize {
    std::thread::available_parallelism().map_or(2, usize::from)
}

/// A turn that was had; given back when it is dropped.
struct Turn;

impl Drop for Turn {
    fn drop(&mut self) {
        TURNS.held().running -= 1;
        TURNS.free.notify_all();
    }
}

impl Turns {
    fn held(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Waits for a turn; `None` where too many wait already.
    fn take(&self, whose: Option<Uuid>) -> Option<Turn> {
        let mut state = self.held();
        let of_theirs = state
            .waiting
            .iter()
            .filter(|(_, w)| whose.is_some() && *w == whose);
        if state.waiting.len() >= MOST_WAITING || of_theirs.count() >= MOST_OF_ONE {
            return None;
        }
        let mine = state.next;
        state.next += 1;
        state.waiting.push((mine, whose));
        loop {
            let first = state.waiting.first().is_some_and(|(n, _)| *n == mine);
            if first && state.running < cores() {
                state.waiting.remove(0);
                state.running += 1;
                drop(state);
                self.free.notify_all();
                return Some(Turn);
            }
            state = self.free.wait(state).unwrap_or_else(PoisonError::into_inner);
        }
    }
}

/// Where somebody's program stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Place {
    /// None of theirs waits: it runs, or there is none.
    NotWaiting,
    /// So many are before it.
    Waiting(usize),
}

/// How many programs are before somebody's.
pub fn place_of(whose: Uuid) -> Place {
    let state = TURNS.held();
    let found = state.waiting.iter().position(|(_, w)| *w == Some(whose));
    found.map_or(Place::NotWaiting, Place::Waiting)
}

/// What came of a job before, unless that may differ by now.
fn known(digest: [u8; 32]) -> Option<Report> {
    let (at, report) = REPORTS.get(&digest)?;
    let by_time = report
        .ended
        .as_ref()
        .is_some_and(|e| e.kind == ProgramFault::Time);
    (!by_time || at.elapsed() < KEPT_IF_BUSY).then_some(report)
}

fn digest(job: &Job) -> Option<[u8; 32]> {
    let text = serde_json::to_vec(job).ok()?;
    Some(Sha256::digest(text).into())
}

/// What comes of a job, from what is kept or from a run. Blocks for up to two seconds and its turn.
pub fn run(job: &Job) -> Report {
    run_for(job, None)
}

/// The same for somebody, on a thread of its own: others can ask how many are before it.
///
/// # Errors
/// If the thread ended.
pub async fn run_waiting(job: Job, whose: Uuid) -> Result<Report, tokio::task::JoinError> {
    if let Some(report) = digest(&job).and_then(known) {
        return Ok(report);
    }
    tokio::task::spawn_blocking(move || run_for(&job, Some(whose))).await
}

fn run_for(job: &Job, whose: Option<Uuid>) -> Report {
    let digest = digest(job);
    if let Some(report) = digest.and_then(known) {
        return report;
    }
    let Some(turn) = TURNS.take(whose) else {
        return ended(ProgramFault::Runner);
    };
    let report = start(job).unwrap_or_else(|_| ended(ProgramFault::Runner));
    drop(turn);
    // What the machine had no time for may go better another time.
    let may_differ = report
        .ended
        .as_ref()
        .is_some_and(|e| matches!(e.kind, ProgramFault::Runner));
    if let (Some(digest), false) = (digest, may_differ) {
        REPORTS.insert(digest, (Instant::now(), report.clone()));
    }
    report
}

fn ended(kind: ProgramFault) -> Report {
    Report {
        ended: Some(ProgramError::new(kind)),
        ..Report::default()
    }
}

/// The `green-slate` program: this one, or for a test the one beside it.
fn executable() -> std::io::Result<PathBuf> {
    let own = std::env::current_exe()?;
    let is_it = |path: &PathBuf| path.file_stem().is_some_and(|s| s == "green-slate") && path.exists();
    if is_it(&own) {
        return Ok(own);
    }
    // Another version was put in its place while this one runs: this one it stays.
    if own.to_string_lossy().ends_with("green-slate (deleted)") {
        return Ok(PathBuf::from("/proc/self/exe"));
    }
    let beside = own
        .ancestors()
        .skip(1)
        .take(2)
        .map(|folder| folder.join("green-slate"));
    let missing = || std::io::Error::new(std::io::ErrorKind::NotFound, "no green-slate beside this program");
    beside.into_iter().find(is_it).ok_or_else(missing)
}

fn start(job: &Job) -> std::io::Result<Report> {
    let folder = tempfile::Builder::new().prefix("green-slate-run-").tempdir()?;
    let mut child = Command::new(executable()?)
        .arg("run-program")
        .env_clear()
        .current_dir(folder.path())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()?;
    let text = serde_json::to_vec(job)?;
    let (stdin, stdout) = (child.stdin.take(), child.stdout.take());
    let heard = std::thread::scope(|scope| {
        // It reads all before it writes, so that neither waits for the other; threads, as it may do neither.
        scope.spawn(move || stdin.is_some_and(|mut to| to.write_all(&text).is_ok()));
        let heard = scope.spawn(move || {
            let mut said = Vec::new();
            if let Some(from) = stdout {
                let _ = from.take(LONGEST_REPORT).read_to_end(&mut said);
            }
            said
        });
        let until = Instant::now() + LONGEST;
        let mut in_time = true;
        let status = loop {
            if let Some(status) = child.try_wait()? {
                break status;
            }
            if Instant::now() >= until {
                in_time = false;
                child.kill()?;
                break child.wait()?;
            }
            std::thread::sleep(LOOK);
        };
        let said = heard.join().unwrap_or_default();
        Ok::<_, std::io::Error>((said, status, in_time))
    });
    let (said, status, in_time) = heard?;
    let mut report = Report::default();
    for line in said.split(|b| *b == b'\n').filter(|l| !l.is_empty()) {
        match serde_json::from_slice::<Line>(line) {
            Ok(line) => line.add_to(&mut report),
            Err(_) => break,
        }
    }
    if !status.success() {
        report.ended = Some(ProgramError::new(why(status, in_time)));
    }
    Ok(report)
}

/// Why a process did not end by itself: time, or what it asked of the machine.
fn why(status: std::process::ExitStatus, in_time: bool) -> ProgramFault {
    use std::os::unix::process::ExitStatusExt;
    /// Sent to who has used up their processor time.
    const SIGXCPU: i32 = 24;
    const SIGKILL: i32 = 9;
    match status.signal() {
        _ if !in_time => ProgramFault::Time,
        Some(SIGXCPU | SIGKILL) => ProgramFault::Time,
        Some(_) => ProgramFault::Memory,
        None => ProgramFault::Runner,
    }
}
