//! The process in which programs run: one job from standard input, one report to standard output.

use std::cell::{Cell, RefCell};
use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::rc::Rc;

use marking::program::{
    Case, CaseReport, Job, LONGEST_OUTPUT, MOST_CASES, MOST_MEMORY, MOST_STEPS, ProgramError, ProgramFault,
    Report,
};
use rquickjs::context::EvalOptions;
use rquickjs::prelude::Rest;
use rquickjs::{
    CatchResultExt, CaughtError, Coerced, Context, Ctx, Exception, Function, Object, Runtime, Value,
};

use crate::walls;

/// The engine asks whether to go on after every so many steps.
const STEPS_A_TURN: u64 = 10_000;
/// Bytes of stack; far less than the process has.
const STACK: usize = 512 * 1024;
/// Bytes of a job.
const LONGEST_JOB: u64 = 4 * 1024 * 1024;
/// What the engine calls what is run.
const NAME: &str = "eval_script";

/// Reads a job, runs it and writes the report. For a process that was started for it.
pub fn child_main() -> std::process::ExitCode {
    if walls::put_up(settle).is_err() {
        return std::process::ExitCode::FAILURE;
    }
    let mut text = String::new();
    if std::io::stdin()
        .take(LONGEST_JOB)
        .read_to_string(&mut text)
        .is_err()
    {
        return std::process::ExitCode::FAILURE;
    }
    let Ok(job) = serde_json::from_str::<Job>(&text) else {
        return std::process::ExitCode::FAILURE;
    };
    let mut out = std::io::stdout().lock();
    // A line a case, as it ends: what came before is known whatever becomes of the next.
    let mut say = |line: &Line| -> bool {
        serde_json::to_string(line).is_ok_and(|text| writeln!(out, "{text}").is_ok()) && out.flush().is_ok()
    };
    if let Some(error) = does_not_start(&job) {
        return exit(say(&Line::Start(error)));
    }
    for case in job.cases.iter().take(MOST_CASES) {
        if !say(&Line::Case(run_case(&job, case))) {
            return std::process::ExitCode::FAILURE;
        }
    }
    exit(true)
}

fn exit(well: bool) -> std::process::ExitCode {
    if well {
        std::process::ExitCode::SUCCESS
    } else {
        std::process::ExitCode::FAILURE
    }
}

/// What a child says, line by line.
#[derive(serde::Serialize, serde::Deserialize)]
pub(crate) enum Line {
    Start(ProgramError),
    Case(CaseReport),
}

impl Line {
    pub(crate) fn add_to(self, report: &mut Report) {
        match self {
            Line::Start(error) => report.start = Some(error),
            Line::Case(case) => report.cases.push(case),
        }
    }
}

/// The engine asks the C library for the time zone once, which looks for a file: it is asked while that finds none, but
/// ends nothing yet.
fn settle() {
    let read = Runtime::new().and_then(|r| Context::full(&r));
    let _ = read.map(|context| context.with(|ctx| ctx.eval::<f64, _>("new Date(0).getTimezoneOffset()")));
}

/// Reads it without running it.
fn does_not_start(job: &Job) -> Option<ProgramError> {
    if let Some(line) = job.source.lines().position(|l| l.contains('\0')) {
        return Some(ProgramError {
            line: u32::try_from(line + 1).ok(),
            message: "a character that no program has".into(),
            ..ProgramError::new(ProgramFault::Syntax)
        });
    }
    let runtime = Runtime::new().ok()?;
    runtime.set_max_stack_size(STACK);
    runtime.set_memory_limit(usize::try_from(MOST_MEMORY).unwrap_or(usize::MAX));
    let context = Context::full(&runtime).ok()?;
    context.with(|ctx| {
        let mut options = EvalOptions::default();
        options.strict = false;
        // All of it is read before any of it runs, and what runs first ends it.
        let begun = format!("{END_AT_ONCE}{}", job.source);
        let read: Result<Value, CaughtError> = ctx.eval_with_options(begun, options).catch(&ctx);
        let Err(CaughtError::Exception(exception)) = &read else {
            return None;
        };
        let error = error_of(&CaughtError::Exception(exception.clone()));
        let column = match error.line {
            Some(1) => error.column.map(|c| c.saturating_sub(BEFORE_IT).max(1)),
            _ => error.column,
        };
        Some(ProgramError {
            kind: ProgramFault::Syntax,
            column,
            ..error
        })
    })
}

const END_AT_ONCE: &str = "throw 0;";
/// Its characters.
const BEFORE_IT: u32 = 8;

/// Why a case was stopped from outside.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Stopped {
    Steps,
    Output,
}

#[derive(Default)]
struct Out {
    text: RefCell<String>,
    cut: Cell<bool>,
    stopped: Cell<Option<Stopped>>,
    steps: Cell<u64>,
}

fn run_case(job: &Job, case: &Case) -> CaseReport {
    let mut report = CaseReport::default();
    let out = Rc::new(Out::default());
    let Ok(runtime) = Runtime::new() else {
        report.error = Some(ProgramError::new(ProgramFault::Memory));
        return report;
    };
    runtime.set_max_stack_size(STACK);
    let memory = case.most_memory.unwrap_or(MOST_MEMORY).min(MOST_MEMORY);
    runtime.set_memory_limit(usize::try_from(memory).unwrap_or(usize::MAX));
    let most = case.most_steps.unwrap_or(MOST_STEPS).min(MOST_STEPS);
    let counted = out.clone();
    runtime.set_interrupt_handler(Some(Box::new(move || {
        counted.steps.set(counted.steps.get() + STEPS_A_TURN);
        if counted.steps.get() > most && counted.stopped.get().is_none() {
            counted.stopped.set(Some(Stopped::Steps));
        }
        counted.stopped.get().is_some()
    })));
    let Ok(context) = Context::full(&runtime) else {
        report.error = Some(ProgramError::new(ProgramFault::Memory));
        return report;
    };
    context.with(|ctx| {
        let ran = furnish(&ctx, job, case, &out)
            .and_then(|()| {
                let mut options = EvalOptions::default();
                options.strict = false;
                ctx.eval_with_options::<Value, _>(job.source.as_str(), options)
            })
            .catch(&ctx)
            .map(drop)
            .map_err(|caught| error_of(&caught));
        let ran = ran.and_then(|()| match &case.call {
            Some(call) => called(&ctx, &call.function, &call.with).map(Some),
            None => Ok(None),
        });
        match ran {
            Ok(returned) => report.returned = returned,
            Err(error) => report.error = Some(error),
        }
    });
    report.steps = out.steps.get();
    report.memory = u64::try_from(runtime.memory_usage().malloc_size).unwrap_or(0);
    if let Some(stopped) = out.stopped.get() {
        let kind = match stopped {
            Stopped::Steps => ProgramFault::Steps,
            Stopped::Output => ProgramFault::Output,
        };
        let at = report.error.take();
        report.error = Some(ProgramError {
            line: at.as_ref().and_then(|e| e.line),
            column: at.as_ref().and_then(|e| e.column),
            ..ProgramError::new(kind)
        });
    }
    report.cut = out.cut.get();
    report.output = out.text.take();
    report
}

/// What a program finds there: `print`, `readLine`, `readFile`, `random` and a clock that stands still.
fn furnish<'js>(ctx: &Ctx<'js>, job: &Job, case: &Case, out: &Rc<Out>) -> rquickjs::Result<()> {
    let globals = ctx.globals();
    let to = out.clone();
    let print = Function::new(ctx.clone(), move |ctx: Ctx<'js>, values: Rest<Value<'js>>| {
        let mut line = String::new();
        let mut fits = true;
        for (place, value) in values.0.iter().enumerate() {
            if place > 0 {
                line.push(' ');
            }
            // One after the other: what is to be printed is never held as a whole. Working one out may print, too.
            let word = value.get::<Coerced<String>>()?.0;
            let room = LONGEST_OUTPUT.saturating_sub(to.text.borrow().len() + line.len() + 1);
            fits = word.len() <= room;
            let kept = word
                .char_indices()
                .take_while(|(at, c)| at + c.len_utf8() <= room);
            line.extend(kept.map(|(_, c)| c));
            if !fits {
                break;
            }
        }
        let mut text = to.text.borrow_mut();
        text.push_str(&line);
        if fits && text.len() < LONGEST_OUTPUT {
            text.push('\n');
            return Ok(());
        }
        to.cut.set(true);
        to.stopped.set(Some(Stopped::Output));
        Err(Exception::throw_range(&ctx, "more output than is kept"))
    })?;
    globals.set("print", print.clone())?;
    let console = Object::new(ctx.clone())?;
    console.set("log", print)?;
    globals.set("console", console)?;
    let lines: RefCell<std::collections::VecDeque<String>> =
        RefCell::new(case.input.lines().map(str::to_owned).collect());
    let read_line = Function::new(ctx.clone(), move |ctx: Ctx<'js>| {
        match lines.borrow_mut().pop_front() {
            Some(line) => rquickjs::String::from_str(ctx, &line).map(|l| l.into_value()),
            None => Ok(Value::new_null(ctx)),
        }
    })?;
    globals.set("readLine", read_line)?;
    let files: BTreeMap<String, String> = job.files.clone();
    let read_file = Function::new(ctx.clone(), move |ctx: Ctx<'js>, name: String| {
        files
            .get(&name)
            .cloned()
            .ok_or_else(|| Exception::throw_message(&ctx, &format!("there is no file called {name}")))
    })?;
    globals.set("readFile", read_file)?;
    let dice = RefCell::new(marking::Dice::new(job.seed));
    let random = Function::new(ctx.clone(), move || dice.borrow_mut().share())?;
    globals.set("random", random.clone())?;
    let math: Object = globals.get("Math")?;
    math.set("random", random)?;
    ctx.eval::<(), _>(CLOCK)
}

/// Monday 1 March 2027, 08:00 UTC, and it stays that.
const CLOCK: &str = "{
  const There = Date, now = 1803888000000;
  const Fixed = function Date(...given) {
    if (!new.target) return new There(now).toString();
    return given.length === 0 ? new There(now) : new There(...given);
  };
  Fixed.prototype = There.prototype;
  Object.assign(Fixed, {now: () => now, UTC: There.UTC, parse: There.parse});
  There.prototype.constructor = Fixed;
  globalThis.Date = Fixed;
  delete globalThis.performance;
}";

/// Calls a function of the program and gives what it returns, as JSON.
fn called(ctx: &Ctx<'_>, name: &str, with: &[String]) -> Result<String, ProgramError> {
    let none = || ProgramError {
        message: name.to_owned(),
        ..ProgramError::new(ProgramFault::NoFunction)
    };
    // A name alone, so that `const` and `let` are found too.
    let is_name = name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_') && !name.is_empty();
    if !is_name {
        return Err(none());
    }
    let found: Result<Value, CaughtError> = ctx
        .eval(format!("typeof {name} === 'function' ? {name} : undefined"))
        .catch(ctx);
    let function = found.ok().and_then(Value::into_function).ok_or_else(none)?;
    let mut given = Vec::with_capacity(with.len());
    for one in with {
        let value: Result<Value, CaughtError> = ctx.json_parse(one.as_str()).catch(ctx);
        given.push(value.map_err(|caught| error_of(&caught))?);
    }
    let returned: Result<Value, CaughtError> = function.call((Rest(given),)).catch(ctx);
    let returned = returned.map_err(|caught| error_of(&caught))?;
    let text: Result<Option<rquickjs::String>, CaughtError> = ctx.json_stringify(returned).catch(ctx);
    let text = text.map_err(|caught| error_of(&caught))?;
    Ok(match text.map(|t| t.to_string()) {
        Some(Ok(text)) => text,
        _ => "undefined".into(),
    })
}

fn error_of(caught: &CaughtError<'_>) -> ProgramError {
    match caught {
        CaughtError::Exception(exception) => {
            let message = exception.message().unwrap_or_default();
            let stack = exception.stack().unwrap_or_default();
            let name: String = exception.as_object().get("name").unwrap_or_default();
            let kind = match name.as_str() {
                "SyntaxError" => ProgramFault::Syntax,
                "ReferenceError" => ProgramFault::Name,
                "TypeError" => ProgramFault::Type,
                "InternalError" if message.contains("out of memory") => ProgramFault::Memory,
                "InternalError" | "RangeError" if message.contains("stack") => ProgramFault::Deep,
                "RangeError" => ProgramFault::Range,
                _ => ProgramFault::Thrown,
            };
            let (line, column) = place(&stack);
            ProgramError {
                kind,
                line,
                column,
                message: short(&message),
            }
        }
        // Out of memory comes as nothing at all.
        CaughtError::Value(value) if value.is_null() => ProgramError::new(ProgramFault::Memory),
        CaughtError::Value(value) => ProgramError {
            message: short(&value.get::<Coerced<String>>().map(|c| c.0).unwrap_or_default()),
            ..ProgramError::new(ProgramFault::Thrown)
        },
        CaughtError::Error(error) => ProgramError {
            message: short(&error.to_string()),
            ..ProgramError::new(ProgramFault::Thrown)
        },
    }
}

fn short(message: &str) -> String {
    message.chars().take(300).collect()
}

/// The first line of a stack that is in the program: `at name (eval_script:3:5)`.
fn place(stack: &str) -> (Option<u32>, Option<u32>) {
    let mark = format!("{NAME}:");
    for line in stack.lines() {
        let Some((_, rest)) = line.split_once(&mark) else {
            continue;
        };
        let mut numbers = rest
            .split(|c: char| !c.is_ascii_digit())
            .filter(|n| !n.is_empty())
            .map(|n| n.parse().ok());
        if let Some(Some(line)) = numbers.next() {
            return (Some(line), numbers.next().flatten());
        }
    }
    (None, None)
}
