//! Small programs: what is to be run, and what came of it. Running them is for whoever has processes; here is only what is
//! said to them and what is made of it.

mod said;

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::rc::Rc;
use std::sync::OnceLock;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Characters of a program.
pub const LONGEST_PROGRAM: usize = 20_000;
/// Bytes of output that are kept of one case.
pub const LONGEST_OUTPUT: usize = 65_536;
/// Steps of one case where a question does not ask for fewer: a third of a second or so.
pub const MOST_STEPS: u64 = 20_000_000;
/// Bytes that one case may hold at a time where a question does not ask for fewer.
pub const MOST_MEMORY: u64 = 32 * 1024 * 1024;
/// Cases of one job.
pub const MOST_CASES: usize = 60;

/// A program with all that is to be tried with it. The same job always gives the same report, unless time runs out.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Job {
    pub source: String,
    /// What `readFile` gives, by name.
    pub files: BTreeMap<String, String>,
    /// For `random`.
    pub seed: u64,
    pub cases: Vec<Case>,
}

/// One run of a program from its first line; then, if asked for, a call of one of its functions.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Case {
    /// What `readLine` gives, line by line.
    pub input: String,
    pub call: Option<Call>,
    pub most_steps: Option<u64>,
    /// Bytes.
    pub most_memory: Option<u64>,
}

/// A function with what it is given, each as JSON.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Call {
    pub function: String,
    pub with: Vec<String>,
}

/// What came of a job.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Report {
    /// It does not start: it can't be read as a program.
    pub start: Option<ProgramError>,
    /// One a case, in order; fewer where it was ended.
    pub cases: Vec<CaseReport>,
    /// The whole was ended: time, or more memory than a process may have.
    pub ended: Option<ProgramError>,
}

#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct CaseReport {
    pub output: String,
    /// There was more of it than is kept.
    pub cut: bool,
    /// What the function gave, as JSON; `undefined` for nothing.
    pub returned: Option<String>,
    pub error: Option<ProgramError>,
    /// Counted in tens of thousands.
    pub steps: u64,
    /// Bytes at the end.
    pub memory: u64,
}

/// What went wrong in a program, and where.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct ProgramError {
    pub kind: ProgramFault,
    /// From 1.
    pub line: Option<u32>,
    pub column: Option<u32>,
    /// As the language says it; empty where it says nothing.
    pub message: String,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProgramFault {
    /// It can't be read as a program.
    Syntax,
    /// A name that stands for nothing.
    Name,
    /// Something is done to what it can't be done to.
    Type,
    /// A number out of its range.
    Range,
    /// Another error, or one the program threw itself.
    Thrown,
    /// Functions called each other too deep.
    Deep,
    Steps,
    Memory,
    Output,
    Time,
    /// There is no such function.
    NoFunction,
    /// The program could not be run; nothing to do with what stands in it.
    Runner,
}

impl ProgramError {
    pub fn new(kind: ProgramFault) -> Self {
        ProgramError {
            kind,
            line: None,
            column: None,
            message: String::new(),
        }
    }

    /// "Line 3: …" with what it means, for the student.
    pub fn words(&self) -> String {
        let said = self.message.trim_end_matches('.');
        let what = said::meaning(self.kind, said).unwrap_or_else(|| match self.kind {
            ProgramFault::Syntax => format!(
                "this can't be read as a program ({said}). Look for a missing bracket, quotation mark or comma, here or on the line before."
            ),
            ProgramFault::Name => format!("{said}. Check its spelling, and that it is declared before this line."),
            ProgramFault::Type => format!("{said}. Something here is not what the line takes it for; print it to see what it is."),
            ProgramFault::Range => format!("{said}. A number here is larger or smaller than it may be."),
            ProgramFault::Thrown => format!("the program stopped with an error: {said}."),
            ProgramFault::Deep => "functions call each other too deep. What ends the recursion is missing or is never reached.".into(),
            ProgramFault::Steps => "the program was stopped: it took more steps than it may. Does a loop here ever end?".into(),
            ProgramFault::Memory => "the program was stopped: it holds more memory than it may. Does a list or a text grow without end?".into(),
            ProgramFault::Output => "the program was stopped: it prints more than 64 kB. Does a loop print without end?".into(),
            ProgramFault::Time => "the program was stopped after two seconds.".into(),
            ProgramFault::NoFunction => format!("there is no function called {said}."),
            ProgramFault::Runner => "the program could not be run just now. Nothing was used up; try again.".into(),
        });
        match self.line {
            Some(line) => format!("Line {line}: {what}"),
            None => {
                let mut letters = what.chars();
                letters.next().map_or(String::new(), |first| {
                    first.to_uppercase().collect::<String>() + letters.as_str()
                })
            }
        }
    }
}

/// Runs jobs: in processes of their own, elsewhere.
pub type Runs = fn(&Job) -> Report;

static RUNS: OnceLock<Runs> = OnceLock::new();

/// Says who runs programs. Only the first time counts.
pub fn set_runs(runs: Runs) {
    RUNS.get_or_init(|| runs);
}

/// What came of jobs that were run before marking.
#[derive(Clone, Debug, Default)]
pub struct Reports(Vec<(Job, Report)>);

impl Reports {
    pub fn add(&mut self, job: Job, report: Report) {
        self.0.push((job, report));
    }

    fn find(&self, job: &Job) -> Option<&Report> {
        self.0
            .iter()
            .find(|(known, _)| known == job)
            .map(|(_, report)| report)
    }
}

/// Who runs jobs on a thread: nobody but those who were asked before, or somebody else than [`set_runs`] said.
type Here = Rc<dyn Fn(&Job) -> Report>;

thread_local! {
    static HERE: RefCell<Option<Here>> = const { RefCell::new(None) };
}

/// Gives back what was there before, whatever happens.
struct Before(Option<Here>);

impl Drop for Before {
    fn drop(&mut self) {
        let before = self.0.take();
        HERE.with(|here| *here.borrow_mut() = before);
    }
}

/// Works where jobs are run by `runs`.
pub fn with_runs<T>(runs: impl Fn(&Job) -> Report + 'static, work: impl FnOnce() -> T) -> T {
    let _before = Before(HERE.with(|here| here.borrow_mut().replace(Rc::new(runs))));
    work()
}

/// Works where nothing is started: what is not among the reports could not be run.
pub fn with_reports<T>(reports: Reports, work: impl FnOnce() -> T) -> T {
    with_runs(
        move |job| reports.find(job).cloned().unwrap_or_else(not_run),
        work,
    )
}

fn not_run() -> Report {
    Report {
        ended: Some(ProgramError::new(ProgramFault::Runner)),
        ..Report::default()
    }
}

/// What comes of a job; where nobody runs programs, that.
pub fn run(job: &Job) -> Report {
    if let Some(here) = HERE.with(|here| here.borrow().clone()) {
        return here(job);
    }
    RUNS.get().map_or_else(not_run, |runs| runs(job))
}
