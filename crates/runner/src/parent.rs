//! Starting the processes: as many at once as there are cores, one for each person; the others wait, and turns go round
//! between people.

use std::collections::HashMap;
use std::io::{Read, Write};
use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::{Condvar, LazyLock, Mutex, MutexGuard, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use marking::program::{Job, ProgramError, ProgramFault, Report};
use quick_cache::sync::Cache;
use sha2::{Digest, Sha256};
use uuid::Uuid;

use crate::child::Line;

/// A process is ended after this, whatever it waits for. A program that is slow is ended by its processor time before, so that
/// a busy machine does not decide what is right.
const LONGEST: Duration = Duration::from_secs(10);
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
/// How long whose program was ended by time waits for the next turn: others have the machine meanwhile.
const PAUSE: Duration = Duration::from_secs(3);

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

/// One person's programs never have two turns at a time, and turns go round between people.
#[derive(Default)]
struct State {
    /// Whose programs are running; nobody's stands for the command line.
    running: Vec<Option<Uuid>>,
    next: u64,
    /// Who waits: a number, and whose it is.
    waiting: Vec<(u64, Option<Uuid>)>,
    /// When somebody had their last turn, in numbers of `next`.
    had: HashMap<Uuid, u64>,
    paused: HashMap<Uuid, Instant>,
}

fn cores() -> usize {
    std::thread::available_parallelism().map_or(2, usize::from)
}

impl State {
    /// Who is to have the next turn: of those who have none, the one whose last was longest ago.
    fn next_up(&self, now: Instant) -> Option<u64> {
        let may = |whose: &Option<Uuid>| {
            whose.is_none_or(|w| {
                !self.running.contains(&Some(w)) && self.paused.get(&w).is_none_or(|until| *until <= now)
            })
        };
        let last = |whose: &Option<Uuid>| whose.and_then(|w| self.had.get(&w).copied()).unwrap_or(0);
        let waiting = self.waiting.iter().filter(|(_, whose)| may(whose));
        waiting
            .min_by_key(|(number, whose)| (last(whose), *number))
            .map(|(number, _)| *number)
    }

    fn forget_the_old(&mut self, now: Instant) {
        self.paused.retain(|_, until| *until > now);
        if self.had.len() > 4_096 {
            let (waiting, running) = (&self.waiting, &self.running);
            self.had.retain(|w, _| {
                running.contains(&Some(*w)) || waiting.iter().any(|(_, one)| *one == Some(*w))
            });
        }
    }
}

/// A turn that was had; given back when it is dropped.
struct Turn {
    whose: Option<Uuid>,
}

impl Turn {
    /// Whoever took all the time there is waits for a while.
    fn ended_by_time(&self) {
        if let Some(whose) = self.whose {
            TURNS.held().paused.insert(whose, Instant::now() + PAUSE);
        }
    }
}

impl Drop for Turn {
    fn drop(&mut self) {
        let mut state = TURNS.held();
        if let Some(place) = state.running.iter().position(|w| *w == self.whose) {
            state.running.swap_remove(place);
        }
        drop(state);
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
        let mine = state.next + 1;
        state.next = mine;
        state.waiting.push((mine, whose));
        loop {
            let now = Instant::now();
            state.forget_the_old(now);
            if state.running.len() < cores() && state.next_up(now) == Some(mine) {
                state.waiting.retain(|(number, _)| *number != mine);
                state.running.push(whose);
                let turn = state.next + 1;
                state.next = turn;
                if let Some(whose) = whose {
                    state.had.insert(whose, turn);
                }
                drop(state);
                self.free.notify_all();
                return Some(Turn { whose });
            }
            // A pause ends without anybody saying so.
            let until = whose.and_then(|w| state.paused.get(&w).copied());
            let wait = until.map_or(Duration::from_secs(1), |u| u.saturating_duration_since(now));
            let woken = self.free.wait_timeout(state, wait.max(LOOK));
            state = woken.unwrap_or_else(PoisonError::into_inner).0;
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
    let Some((mine, _)) = state.waiting.iter().find(|(_, w)| *w == Some(whose)) else {
        return Place::NotWaiting;
    };
    let last = |whose: &Option<Uuid>| whose.and_then(|w| state.had.get(&w).copied()).unwrap_or(0);
    let own = (last(&Some(whose)), *mine);
    let before = state
        .waiting
        .iter()
        .filter(|(n, w)| *w != Some(whose) && (last(w), *n) < own);
    Place::Waiting(before.count())
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

/// Why nothing came of a job. Nothing was run.
#[derive(Debug, thiserror::Error)]
pub enum NotRun {
    #[error("too many programs wait already")]
    Busy,
    #[error("its thread ended: {0}")]
    Ended(#[from] tokio::task::JoinError),
}

/// What comes of a job, from what is kept or from a run, for nobody in particular. Blocks for up to two seconds and its turn.
pub fn run(job: &Job) -> Report {
    run_for(job, None).unwrap_or_else(|_| ended(ProgramFault::Runner))
}

/// The same for somebody, on a thread of its own: others can ask how many are before it.
///
/// # Errors
/// [`NotRun`], where too much waits.
pub async fn run_waiting(job: Job, whose: Uuid) -> Result<Report, NotRun> {
    if let Some(report) = digest(&job).and_then(known) {
        return Ok(report);
    }
    tokio::task::spawn_blocking(move || run_for(&job, Some(whose))).await?
}

/// The same for somebody, on this thread.
pub fn run_as(job: &Job, whose: Uuid) -> Report {
    run_for(job, Some(whose)).unwrap_or_else(|_| ended(ProgramFault::Runner))
}

fn run_for(job: &Job, whose: Option<Uuid>) -> Result<Report, NotRun> {
    let digest = digest(job);
    if let Some(report) = digest.and_then(known) {
        return Ok(report);
    }
    let turn = TURNS.take(whose).ok_or(NotRun::Busy)?;
    let report = start(job).unwrap_or_else(|error| {
        tracing::error!(cause = %error, "a program could not be run");
        ended(ProgramFault::Runner)
    });
    let kind = report.ended.as_ref().map(|e| e.kind);
    if kind == Some(ProgramFault::Time) {
        turn.ended_by_time();
    }
    drop(turn);
    // What the machine had no time for may go better another time.
    if let (Some(digest), true) = (digest, kind != Some(ProgramFault::Runner)) {
        REPORTS.insert(digest, (Instant::now(), report.clone()));
    }
    Ok(report)
}

fn ended(kind: ProgramFault) -> Report {
    Report {
        ended: Some(ProgramError::new(kind)),
        ..Report::default()
    }
}

static THIS: OnceLock<PathBuf> = OnceLock::new();

/// Said by `green-slate` as it starts: programs run in processes of this file, whatever it is called.
pub fn this_is_green_slate() {
    // By way of the process, so that another version put in its place while this one runs is not taken for it.
    THIS.get_or_init(|| PathBuf::from("/proc/self/exe"));
}

/// The `green-slate` program: this one, or for a test the one beside it.
fn executable() -> std::io::Result<PathBuf> {
    if let Some(this) = THIS.get() {
        return Ok(this.clone());
    }
    let own = std::env::current_exe()?;
    let beside = own
        .ancestors()
        .skip(1)
        .take(2)
        .map(|folder| folder.join("green-slate"));
    let missing = || std::io::Error::new(std::io::ErrorKind::NotFound, "no green-slate beside this program");
    beside.into_iter().find(|path| path.exists()).ok_or_else(missing)
}

fn start(job: &Job) -> std::io::Result<Report> {
    let folder = tempfile::Builder::new().prefix("green-slate-run-").tempdir()?;
    let mut child = Command::new(executable()?)
        .arg("run-program")
        .env_clear()
        // Its allocator asks for a gigabyte of addresses at once otherwise, which it may not have.
        .env("MIMALLOC_ARENA_RESERVE", "16384")
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
    /// Sent to who asks the operating system for what the walls keep from it.
    const SIGSYS: i32 = 31;
    match status.signal() {
        Some(SIGSYS) => {
            tracing::error!("a program was ended by the walls around it: the engine may have a fault");
            ProgramFault::Memory
        }
        _ if !in_time => ProgramFault::Time,
        Some(SIGXCPU | SIGKILL) => ProgramFault::Time,
        Some(_) => ProgramFault::Memory,
        None => ProgramFault::Runner,
    }
}
