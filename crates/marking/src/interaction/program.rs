//! A small program that is run and checked (an interaction of our own; QTI would call it a customInteraction).

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Known, Posed, PosedLine, Right, Shape, Shown, Spec, by_hand, check_ids, check_replies, faulty};
use crate::bank::{Dice, Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::program::{
    Call, Case, CaseReport, Job, LONGEST_PROGRAM, MOST_CASES, ProgramError, ProgramFault, Report,
};
use crate::response::Response;
use crate::rubric::RubricLine;
use crate::verdict::{CheckLine, Marking, Outcome};

mod code;
mod compare;

/// Bytes of all files of a question.
const LONGEST_FILES: usize = 100_000;
/// Checks of one program.
const MOST_CHECKS: usize = 20;
/// Drawn inputs of one check.
const MOST_TIMES: usize = 20;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Program {
    pub label: String,
    /// What stands in the editor to begin with. `{{name}}` for a number of the set, here and below.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub start: String,
    /// Files that the program can read, by name.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub files: BTreeMap<String, String>,
    /// What stands in the box for input to begin with.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub input: String,
    /// A program that passes every check. What it prints and gives is what others are compared with.
    pub solution: String,
    /// A wrong program such as students write: `bank check` sees that it does not pass.
    pub wrong: String,
    pub checks: Vec<ProgramCheck>,
    /// What a person looks for beside the checks; then the points are theirs to give.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rubric: Vec<RubricLine>,
}

/// One thing that is looked for in a program. What it is is said by one of `prints`, `call`, `uses`, `avoids`,
/// `most_steps` and `most_memory`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ProgramCheck {
    pub id: String,
    /// What it looks for, for the student. One line.
    pub say: String,
    #[serde(default = "one")]
    pub share: u32,
    /// What it was tried with is not shown.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub hidden: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub prints: Option<Prints>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub call: Option<Called>,
    /// A word of the language that has to stand in it, or `loop`, `function`, `recursion`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub uses: Option<String>,
    /// One that must not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub avoids: Option<String>,
    /// Steps that each run may take, to ten thousand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most_steps: Option<u64>,
    /// Kilobytes that a run may hold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most_memory: Option<u64>,
}

fn one() -> u32 {
    1
}

/// What it prints is what the solution prints.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Prints {
    #[serde(default)]
    pub input: String,
    #[serde(default)]
    pub compare: Compare,
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Compare {
    #[default]
    Exact,
    /// Blanks and case make no difference.
    Loose,
}

/// A function gives what the solution's gives.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Called {
    pub function: String,
    /// What it is given: a list of arguments for each call, as JSON.
    #[serde(default)]
    pub with: Vec<String>,
    /// Arguments that are drawn: whole numbers from and to.
    #[serde(default)]
    pub draw: Vec<Drawing>,
    /// How often they are drawn.
    #[serde(default)]
    pub times: usize,
    /// Numbers may differ by so much; by default a billionth of their size.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub within: Option<f64>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drawing {
    pub from: i32,
    pub to: i32,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ProgramView {
    label: String,
    start: String,
    files: BTreeMap<String, String>,
    input: String,
    /// For `random`.
    #[schema(value_type = String)]
    #[serde(serialize_with = "as_text")]
    seed: u64,
    checks: Vec<ProgramCheckView>,
    /// A person gives the points; the checks stand beside.
    by_hand: bool,
}

fn as_text<S: serde::Serializer>(seed: &u64, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str(&seed.to_string())
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ProgramCheckView {
    id: String,
    say: String,
    share: u32,
    hidden: bool,
}

impl ProgramCheck {
    fn kinds(&self) -> usize {
        usize::from(self.prints.is_some())
            + usize::from(self.call.is_some())
            + usize::from(self.uses.is_some())
            + usize::from(self.avoids.is_some())
            + usize::from(self.most_steps.is_some())
            + usize::from(self.most_memory.is_some())
    }
}

impl Spec for Program {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        if self.label.trim().is_empty() {
            return Err(faulty(part, "a program needs a label"));
        }
        if self.checks.is_empty() || self.checks.len() > MOST_CHECKS {
            return Err(faulty(part, format!("a program has 1 to {MOST_CHECKS} checks")));
        }
        check_ids(part, self.checks.iter().map(|c| c.id.as_str()))?;
        for check in &self.checks {
            let id = &check.id;
            if check.kinds() != 1 {
                return Err(faulty(
                    part,
                    format!(
                        "check `{id}` says exactly one of prints, call, uses, avoids, most_steps and most_memory"
                    ),
                ));
            }
            if check.say.trim().is_empty() || !(1..=100).contains(&check.share) {
                return Err(faulty(
                    part,
                    format!("check `{id}` says what it looks for, and has a share from 1 to 100"),
                ));
            }
            if let Some(call) = &check.call {
                check_call(part, id, call)?;
            }
        }
        if self.files.values().map(String::len).sum::<usize>() > LONGEST_FILES {
            return Err(faulty(part, "its files have more than 100 kB"));
        }
        if self.cases() > MOST_CASES {
            return Err(faulty(
                part,
                format!("its checks need more than {MOST_CASES} runs"),
            ));
        }
        by_hand::check_rubric(part, &self.rubric)?;
        check_replies(part, replies, |_| false)
    }

    fn guess(&self, _typed: f64) -> f64 {
        0.0
    }

    fn is_by_hand(&self) -> bool {
        !self.rubric.is_empty()
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "program",
            ids: self.checks.iter().map(|c| c.id.clone()).collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        let drawn = self
            .checks
            .iter()
            .any(|c| c.call.as_ref().is_some_and(|c| c.times > 0));
        drawn || self.solution.contains("{{") || self.files.values().any(|f| f.contains("{{"))
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let seed = set.seed();
        let mut files = BTreeMap::new();
        for (name, text) in &self.files {
            files.insert(name.clone(), code::fill(text, set)?);
        }
        let mut checks = Vec::with_capacity(self.checks.len());
        for check in &self.checks {
            checks.push(PosedCheck {
                view: ProgramCheckView {
                    id: check.id.clone(),
                    say: set.words(&check.say)?,
                    share: check.share,
                    hidden: check.hidden,
                },
                looks: looks(check, set)?,
            });
        }
        Ok(Box::new(PosedProgram {
            view: ProgramView {
                label: set.words(&self.label)?,
                start: code::fill(&self.start, set)?,
                files,
                input: code::fill(&self.input, set)?,
                seed,
                checks: checks.iter().map(|c| c.view.clone()).collect(),
                by_hand: !self.rubric.is_empty(),
            },
            solution: code::fill(&self.solution, set)?,
            wrong: code::fill(&self.wrong, set)?,
            checks,
            rubric: by_hand::pose_rubric(set, &self.rubric)?,
        }))
    }

    fn known(&self, _part: &str, _to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        Err(RenderError::unfit("a reply to a program"))
    }
}

impl Program {
    fn cases(&self) -> usize {
        let of = |c: &ProgramCheck| match &c.call {
            Some(call) => call.with.len() + call.times,
            None => usize::from(c.prints.is_some()),
        };
        self.checks.iter().map(of).sum::<usize>().max(1)
    }
}

fn check_call(part: &str, id: &str, call: &Called) -> Result<(), FormatError> {
    if !code::is_name(&call.function) {
        return Err(faulty(
            part,
            format!("check `{id}` calls `{}`, which is no name", call.function),
        ));
    }
    if call.with.is_empty() && call.times == 0
        || call.times > MOST_TIMES
        || (call.times > 0) == call.draw.is_empty()
    {
        return Err(faulty(
            part,
            format!("check `{id}` calls with given arguments, or with drawn ones 1 to {MOST_TIMES} times"),
        ));
    }
    if call.draw.iter().any(|d| d.to < d.from) {
        return Err(faulty(
            part,
            format!("check `{id}` draws from a range that is empty"),
        ));
    }
    Ok(())
}

/// What a check looks at, with the set's numbers in place.
enum Looks {
    Prints {
        input: String,
        compare: Compare,
    },
    Calls {
        function: String,
        with: Vec<Vec<String>>,
        within: Option<f64>,
    },
    Uses(String),
    Avoids(String),
    Steps(u64),
    Memory(u64),
}

struct PosedCheck {
    view: ProgramCheckView,
    looks: Looks,
}

fn looks(check: &ProgramCheck, set: &mut Set) -> Result<Looks, RenderError> {
    if let Some(prints) = &check.prints {
        return Ok(Looks::Prints {
            input: code::fill(&prints.input, set)?,
            compare: prints.compare,
        });
    }
    if let Some(call) = &check.call {
        let mut with = Vec::new();
        for given in &call.with {
            let text = code::fill(given, set)?;
            with.push(code::arguments(&text).ok_or_else(|| {
                RenderError::unfit(&format!("`{text}`, which is no list of arguments in JSON,"))
            })?);
        }
        let mut dice = Dice::new(set.seed());
        for _ in 0..call.times {
            with.push(call.draw.iter().map(|d| drawn_from(*d, &mut dice)).collect());
        }
        return Ok(Looks::Calls {
            function: call.function.clone(),
            with,
            within: call.within,
        });
    }
    Ok(
        match (&check.uses, &check.avoids, check.most_steps, check.most_memory) {
            (Some(word), ..) => Looks::Uses(word.clone()),
            (_, Some(word), ..) => Looks::Avoids(word.clone()),
            (_, _, Some(steps), _) => Looks::Steps(steps),
            (_, _, _, Some(kilobytes)) => Looks::Memory(kilobytes.saturating_mul(1_024)),
            _ => return Err(RenderError::unfit("a check that looks for nothing")),
        },
    )
}

fn drawn_from(drawing: Drawing, dice: &mut Dice) -> String {
    let (from, to) = (i64::from(drawing.from), i64::from(drawing.to));
    let ways = u64::try_from(to - from + 1).unwrap_or(1);
    let drawn = i64::try_from(dice.below(ways)).unwrap_or(0);
    (from + drawn).to_string()
}

struct PosedProgram {
    view: ProgramView,
    solution: String,
    wrong: String,
    checks: Vec<PosedCheck>,
    rubric: Vec<PosedLine>,
}

fn source(response: &Response) -> Option<&str> {
    match response {
        Response::Program { program } => Some(program),
        _ => None,
    }
}

fn given(program: &str) -> Response {
    Response::Program {
        program: program.to_owned(),
    }
}

impl PosedProgram {
    /// What has to be run to check a program.
    fn job(&self, source: &str) -> Job {
        let mut cases = Vec::new();
        for check in &self.checks {
            match &check.looks {
                Looks::Prints { input, .. } => cases.push(Case {
                    input: input.clone(),
                    ..Case::default()
                }),
                Looks::Calls { function, with, .. } => cases.extend(with.iter().map(|with| Case {
                    call: Some(Call {
                        function: function.clone(),
                        with: with.clone(),
                    }),
                    ..Case::default()
                })),
                _ => {}
            }
        }
        if cases.is_empty() {
            cases.push(Case {
                input: self.view.input.clone(),
                ..Case::default()
            });
        }
        Job {
            source: source.to_owned(),
            files: self.view.files.clone(),
            seed: self.view.seed,
            cases,
        }
    }

    fn checked(&self, source: &str) -> Result<Vec<CheckLine>, ProgramError> {
        let job = self.job(source);
        let found = crate::program::run(&job);
        if let Some(error) = found.start {
            return Err(error);
        }
        let away = |report: &Report| report.ended.clone().filter(|e| e.kind == ProgramFault::Runner);
        if let Some(error) = away(&found) {
            return Err(error);
        }
        let wanted = crate::program::run(&self.job(&self.solution));
        if let Some(error) = away(&wanted) {
            return Err(error);
        }
        let hidden = self.hidden_cases();
        let mut place = 0;
        let mut lines = Vec::with_capacity(self.checks.len());
        for check in &self.checks {
            let count = match &check.looks {
                Looks::Prints { .. } => 1,
                Looks::Calls { with, .. } => with.len(),
                _ => 0,
            };
            let of = |report: &Report| -> Vec<CaseReport> {
                report.cases.iter().skip(place).take(count).cloned().collect()
            };
            let line = self.line(check, source, (&found, &hidden), &of(&found), &of(&wanted));
            place += count;
            lines.push(line);
        }
        Ok(lines)
    }

    /// Which cases of the job have input that is not shown.
    fn hidden_cases(&self) -> Vec<bool> {
        let mut hidden = Vec::new();
        for check in &self.checks {
            let cases = match &check.looks {
                Looks::Prints { .. } => 1,
                Looks::Calls { with, .. } => with.len(),
                _ => 0,
            };
            hidden.extend(std::iter::repeat_n(check.view.hidden, cases));
        }
        hidden
    }

    /// What one check found.
    fn line(
        &self,
        check: &PosedCheck,
        source: &str,
        (all, hidden): (&Report, &[bool]),
        found: &[CaseReport],
        wanted: &[CaseReport],
    ) -> CheckLine {
        let view = &check.view;
        let seen = match &check.looks {
            Looks::Prints { input, compare } => compare::prints(input, *compare, found, wanted, all),
            Looks::Calls {
                function,
                with,
                within,
            } => compare::calls(function, with, *within, found, wanted, all),
            Looks::Uses(word) => compare::word(word, code::uses(source, word), true),
            Looks::Avoids(word) => compare::word(word, code::uses(source, word), false),
            Looks::Steps(most) => compare::steps(*most, all, hidden),
            Looks::Memory(most) => compare::memory(*most, all, hidden),
        };
        CheckLine {
            id: view.id.clone(),
            say: view.say.clone(),
            share: view.share,
            met: seen.met,
            words: if view.hidden && !seen.met {
                "It was tried with input that is not shown. Think of what else could be given.".into()
            } else {
                seen.words
            },
            input: seen.input.filter(|_| !view.hidden),
            expected: seen.expected.filter(|_| !view.hidden),
            actual: seen.actual.filter(|_| !view.hidden),
        }
    }
}

impl Posed for PosedProgram {
    fn shown(&self) -> Shown {
        Shown::Program(self.view.clone())
    }

    fn is_by_hand(&self) -> bool {
        self.view.by_hand
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        let source = source(response)?;
        let lines = match self.checked(source) {
            Ok(lines) => lines,
            Err(error) => {
                if self.view.by_hand {
                    // A person can read it all the same.
                    return Some(Marking::new(Outcome::Waiting).note(error.words()));
                }
                let does_not_start = error.kind == ProgramFault::Syntax;
                let marking = Marking::new(Outcome::Unreadable).note(error.words());
                return Some(if does_not_start {
                    marking.note("A program that does not start gets no points.")
                } else {
                    marking
                });
            }
        };
        let all: u32 = lines.iter().map(|l| l.share).sum();
        let met: u32 = lines.iter().filter(|l| l.met).map(|l| l.share).sum();
        let passed = lines.iter().filter(|l| l.met).count();
        let marking = if self.view.by_hand {
            Marking::new(Outcome::Waiting)
        } else {
            Marking::shared(f64::from(met) / f64::from(all.max(1)))
        };
        let note = format!("{passed} of {} checks passed.", lines.len());
        Some(Marking {
            checks: lines,
            ..marking.note(note)
        })
    }

    fn job_of(&self, response: &Response) -> Vec<Job> {
        let jobs = |source: &str| vec![self.job(source), self.job(&self.solution)];
        source(response).map(jobs).unwrap_or_default()
    }

    fn key(&self) -> Response {
        given(&self.solution)
    }

    fn right(&self) -> Right {
        // One piece: its lines stand as they are.
        let code = Inline::Code(self.solution.trim_end().to_owned());
        Right {
            choices: vec![vec![code]],
            ..Right::default()
        }
    }

    fn rubric(&self) -> &[PosedLine] {
        &self.rubric
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let source = source(response)?;
        let bare = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
        let as_it_was = bare(source) == bare(&self.view.start);
        (as_it_was || source.trim().is_empty()).then(|| "Nothing is written yet.".into())
    }

    fn in_words(&self, response: &Response) -> String {
        source(response).unwrap_or_default().to_owned()
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        Some(given(text))
    }

    fn mistaken(&self) -> Response {
        given(&self.wrong)
    }

    fn answer(&self) -> String {
        // Other numbers may be in the calls alone.
        let calls = self.checks.iter().filter_map(|c| match &c.looks {
            Looks::Calls { with, .. } => Some(format!("{with:?}")),
            _ => None,
        });
        let files = self.view.files.values().cloned();
        [self.solution.clone()]
            .into_iter()
            .chain(calls)
            .chain(files)
            .collect::<Vec<_>>()
            .join("\n")
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        let mut faults = Vec::new();
        match self.checked(&self.solution) {
            Ok(lines) => faults.extend(
                lines
                    .iter()
                    .filter(|l| !l.met)
                    .map(|l| format!("its own solution does not pass check `{}`: {}", l.id, l.words)),
            ),
            Err(error) => faults.push(format!("its own solution does not run: {}", error.words())),
        }
        match self.checked(&self.wrong) {
            Ok(lines) if lines.iter().all(|l| l.met) => {
                faults.push("its wrong program passes every check".into());
            }
            Ok(_) => {}
            Err(error) => faults.push(format!("its wrong program does not run: {}", error.words())),
        }
        if !self.view.start.trim().is_empty()
            && let Ok(lines) = self.checked(&self.view.start)
            && lines.iter().all(|l| l.met)
        {
            faults.push("what stands there to begin with passes every check".into());
        }
        faults
    }

    fn is_readable(&self, response: &Response) -> bool {
        source(response).is_some_and(|s| s.chars().count() <= LONGEST_PROGRAM)
    }
}
