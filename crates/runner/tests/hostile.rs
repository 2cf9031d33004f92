//! Programs that mean harm, or do it by mistake: each ends within its limits and says what happened, and nothing of it is
//! left behind.

use std::time::{Duration, Instant};

use marking::program::{Call, Case, Job, ProgramFault, Report};
use rstest::rstest;

fn job(source: &str) -> Job {
    Job {
        source: source.into(),
        cases: vec![Case::default()],
        ..Job::default()
    }
}

fn fault(report: &Report) -> Option<ProgramFault> {
    let of_case = report.cases.iter().find_map(|c| c.error.as_ref());
    report
        .start
        .as_ref()
        .or(report.ended.as_ref())
        .or(of_case)
        .map(|e| e.kind)
}

/// What a program prints, if it ends well.
fn printed(source: &str) -> String {
    let report = runner::run(&job(source));
    assert_eq!(fault(&report), None, "{source}: {report:?}");
    report.cases[0].output.clone()
}

#[rstest]
#[case::for_ever("while (true) {}", &[ProgramFault::Steps])]
#[case::for_ever_empty("for (;;);", &[ProgramFault::Steps])]
#[case::caught_for_ever("while (true) { try { while (true) {} } catch (e) {} }", &[ProgramFault::Steps])]
#[case::finally_for_ever("function f() { try { while (true) {} } finally { f(); } } f();", &[ProgramFault::Steps])]
#[case::generator("function* g() { while (true) yield 1; } for (const x of g()) {}", &[ProgramFault::Steps, ProgramFault::Time])]
#[case::sort_for_ever("const a = Array.from({length: 1000}, (_, i) => i); while (true) a.sort(() => 0.5 - random());", &[ProgramFault::Steps, ProgramFault::Time])]
#[case::list("const a = []; while (true) a.push(new Array(1000).fill(1));", &[ProgramFault::Memory, ProgramFault::Steps])]
#[case::text("let s = 'a'; while (true) s += s;", &[ProgramFault::Memory, ProgramFault::Range, ProgramFault::Thrown])]
#[case::buffer("const a = []; while (true) a.push(new ArrayBuffer(1e6));", &[ProgramFault::Memory])]
#[case::big_buffer("new ArrayBuffer(4e9);", &[ProgramFault::Memory, ProgramFault::Range])]
#[case::caught_memory("const a = []; while (true) { try { a.push(new ArrayBuffer(1e6)); } catch (e) {} }", &[ProgramFault::Steps, ProgramFault::Time, ProgramFault::Memory])]
#[case::large_numbers("let n = 2n; while (true) n = n * n;", &[ProgramFault::Memory, ProgramFault::Steps, ProgramFault::Time, ProgramFault::Range])]
#[case::flood("while (true) print('stop me');", &[ProgramFault::Output])]
#[case::caught_flood("while (true) { try { print('stop me'); } catch (e) {} }", &[ProgramFault::Output])]
#[case::many_long_words("print(...Array(95).fill('x'.repeat(1.4e7)));", &[ProgramFault::Output])]
#[case::words_that_print("print({toString() { print('x'.repeat(60000)); return 'y'.repeat(60000); }});", &[ProgramFault::Output])]
#[case::long_line("print('x'.repeat(10_000_000));", &[ProgramFault::Output])]
#[case::deep("function f(n) { return f(n + 1) + 1; } f(0);", &[ProgramFault::Deep])]
#[case::deep_caught("function f() { try { f(); } catch (e) { f(); } } f();", &[ProgramFault::Deep, ProgramFault::Steps, ProgramFault::Time])]
#[case::deep_json("let a = []; for (let i = 0; i < 100000; i++) a = [a]; JSON.stringify(a);", &[ProgramFault::Deep])]
#[case::deep_reading("JSON.parse('['.repeat(1000000));", &[ProgramFault::Deep, ProgramFault::Syntax])]
#[case::deep_writing("eval('('.repeat(100000));", &[ProgramFault::Deep, ProgramFault::Syntax])]
#[case::getter("const o = {get x() { return this.x; }}; o.x;", &[ProgramFault::Deep])]
#[case::proxy("const p = new Proxy({}, {get: (t, k, r) => r[k]}); p.x;", &[ProgramFault::Deep])]
#[case::pattern("/^(a+)+$/.test('a'.repeat(40) + '!');", &[ProgramFault::Steps, ProgramFault::Time, ProgramFault::Thrown])]
#[case::pattern_backwards("/(x+x+)+y/.exec('x'.repeat(60));", &[ProgramFault::Steps, ProgramFault::Time, ProgramFault::Thrown])]
#[case::ports("require('net').connect(80);", &[ProgramFault::Name])]
#[case::web("fetch('http://127.0.0.1:5432/');", &[ProgramFault::Name])]
#[case::socket("new WebSocket('ws://127.0.0.1/');", &[ProgramFault::Name])]
#[case::another_thread("new Worker('x.js');", &[ProgramFault::Name])]
#[case::environment("print(process.env.DATABASE_URL);", &[ProgramFault::Name])]
#[case::system("std.open('/etc/passwd', 'r');", &[ProgramFault::Name])]
#[case::operating_system("os.exec(['sh']);", &[ProgramFault::Name])]
#[case::files("print(readFile('/etc/passwd'));", &[ProgramFault::Thrown])]
#[case::files_above("print(readFile('../../etc/passwd'));", &[ProgramFault::Thrown])]
#[case::module("import('/etc/passwd').then(m => print(m)); throw new Error('no module');", &[ProgramFault::Thrown])]
#[case::import_above("import fs from 'fs';", &[ProgramFault::Syntax])]
#[case::strict_name("undeclared();", &[ProgramFault::Name])]
#[case::half_a_program("for (let i = 0; i < 3; i++ {", &[ProgramFault::Syntax])]
#[case::closing_the_wrap("} while (true) { ", &[ProgramFault::Syntax])]
#[case::closing_the_wrap_and_on("}); while (true) {} (function () {", &[ProgramFault::Syntax])]
#[case::thrown_nothing("throw null;", &[ProgramFault::Memory, ProgramFault::Thrown])]
#[case::thrown_odd("throw {get message() { throw 1; }};", &[ProgramFault::Thrown])]
#[case::nul("print('a'); \0", &[ProgramFault::Syntax])]
fn it_ends_within_limits_and_says_why(#[case] source: &str, #[case] may_be: &[ProgramFault]) {
    let begun = Instant::now();
    let report = runner::run(&job(source));
    let found = fault(&report).unwrap_or_else(|| panic!("{source} ended well: {report:?}"));
    assert!(may_be.contains(&found), "{source}: {found:?} {report:?}");
    // It is ended after two seconds; the rest is what a busy machine takes.
    assert!(begun.elapsed() < Duration::from_secs(20), "{source}");
    let error = report
        .start
        .or(report.ended)
        .or_else(|| report.cases.into_iter().find_map(|c| c.error))
        .unwrap();
    assert!(error.words().len() > 10, "{}", error.words());
}

#[test]
fn what_is_not_there_can_t_be_found() {
    let names = "['process', 'require', 'module', 'std', 'os', 'fetch', 'XMLHttpRequest', 'WebSocket', 'Worker', 'Deno', \
        'scriptArgs', 'setTimeout', 'load', 'gc'].filter(n => n in globalThis).join()";
    assert_eq!(printed(&format!("print({names});")), "\n");
}

#[test]
fn one_run_leaves_nothing_for_the_next() {
    let break_all = "Object.prototype.total = 13; Array.prototype.push = () => 0; globalThis.kept = 1; print = null; \
        Function.prototype.call = null; Object.defineProperty(globalThis, 'readLine', {value: 7});";
    let report = runner::run(&Job {
        source: format!("if (typeof kept !== 'undefined' || [].total) throw 'seen'; {break_all}"),
        cases: vec![Case::default(), Case::default()],
        ..Job::default()
    });
    assert_eq!(fault(&report), None, "{report:?}");
    assert_eq!(report.cases.len(), 2);
    assert_eq!(
        printed("print(typeof kept, [].total, [1].push(2), readLine());"),
        "undefined undefined 2 null\n"
    );
}

#[test]
fn a_function_keeps_no_hold_on_what_is_said_of_it() {
    // Neither an own way of being written as JSON nor a broken prototype gets past the comparison: text is all that leaves.
    let report = runner::run(&Job {
        source: "function f(x) { return {toJSON() { return x * 2; }}; }
            JSON.stringify = () => '99'; JSON.parse = () => 98;"
            .into(),
        cases: vec![Case {
            call: Some(Call {
                function: "f".into(),
                with: vec!["21".into()],
            }),
            ..Case::default()
        }],
        ..Job::default()
    });
    assert_eq!(report.cases[0].returned.as_deref(), Some("42"), "{report:?}");
}

#[test]
fn the_same_program_always_comes_to_the_same() {
    let source = "print(random(), Math.random(), Date.now(), new Date().toISOString(), new Date(0).getTime()); \
        print(Date(), typeof performance);";
    let at = |seed| {
        let report = runner::run(&Job { seed, ..job(source) });
        assert_eq!(fault(&report), None, "{report:?}");
        report.cases[0].output.clone()
    };
    assert_eq!(at(7), at(7));
    assert_ne!(at(7), at(8));
    assert!(at(7).contains("2027-03-01T08:00:00.000Z"), "{}", at(7));
}

#[test]
fn errors_say_their_line_and_what_it_means() {
    let words = |source: &str| {
        let report = runner::run(&job(source));
        let case = report.cases.into_iter().next();
        let error = report.start.or_else(|| case.and_then(|c| c.error)).unwrap();
        (error.line, error.words())
    };
    let (line, said) = words("const a = 1;\nprint(b);\n");
    assert_eq!(line, Some(2));
    assert!(said.starts_with("Line 2: b is not defined"), "{said}");
    let (line, said) = words("let a = 1;\nif (a {\n  print(a);\n}\n");
    assert_eq!(line, Some(2), "{said}");
    assert!(said.contains("“{” can't stand here"), "{said}");
    let (line, _) = words("let a = (1 + ;");
    assert_eq!(line, Some(1));
    let (line, said) = words("\n\nconst list = null;\nlist.push(3);");
    assert_eq!(line, Some(4));
    assert!(
        said.contains("“push” is asked of something that has no value"),
        "{said}"
    );
    let (line, said) = words("function area(r) {\n  return r.toFixed(200);\n}\nprint(area(2));");
    assert_eq!(line, Some(2), "{said}");
    let (line, said) = words("throw new Error('no wind');");
    assert_eq!(
        (line, said.as_str()),
        (Some(1), "Line 1: the program stopped with an error: no wind.")
    );
}

#[test]
fn input_files_calls_and_counts_are_there() {
    let report = runner::run(&Job {
        source: "let line, sum = 0; while ((line = readLine()) !== null) sum += Number(line);
            print('sum', sum); print(readFile('log.txt').split('\\n').length);
            const twice = x => 2 * x; function both(a, b) { return [a, b.name]; }"
            .into(),
        files: [("log.txt".to_owned(), "a\nb\nc".to_owned())].into(),
        cases: vec![
            Case {
                input: "3\n4\n".into(),
                ..Case::default()
            },
            Case {
                call: Some(Call {
                    function: "twice".into(),
                    with: vec!["21".into()],
                }),
                ..Case::default()
            },
            Case {
                call: Some(Call {
                    function: "both".into(),
                    with: vec!["1.5".into(), "{\"name\": \"K1\"}".into()],
                }),
                ..Case::default()
            },
            Case {
                call: Some(Call {
                    function: "missing".into(),
                    with: vec![],
                }),
                ..Case::default()
            },
            Case {
                most_steps: Some(50_000),
                ..Case::default()
            },
        ],
        ..Job::default()
    });
    let returned: Vec<Option<&str>> = report.cases.iter().map(|c| c.returned.as_deref()).collect();
    assert_eq!(
        returned,
        [None, Some("42"), Some("[1.5,\"K1\"]"), None, None],
        "{report:?}"
    );
    assert_eq!(report.cases[0].output, "sum 7\n3\n");
    let no_function = report.cases[3].error.as_ref().unwrap();
    assert_eq!(no_function.kind, ProgramFault::NoFunction);
    assert!(
        no_function
            .words()
            .starts_with("There is no function called missing")
    );
    assert_eq!(report.cases[4].error, None);
    let long = runner::run(&Job {
        source: "let n = 0; for (let i = 0; i < 200000; i++) n += i;".into(),
        cases: vec![
            Case::default(),
            Case {
                most_steps: Some(50_000),
                ..Case::default()
            },
        ],
        ..Job::default()
    });
    assert!(long.cases[0].steps > 50_000, "{long:?}");
    assert_eq!(long.cases[1].error.as_ref().unwrap().kind, ProgramFault::Steps);
}

/// What the operating system would let the process do, seen from inside it.
#[test]
fn folders_of_runs_are_gone_afterwards() {
    printed("print(1)");
    let left = std::fs::read_dir(std::env::temp_dir())
        .unwrap()
        .filter_map(Result::ok)
        .filter(|e| e.file_name().to_string_lossy().starts_with("green-slate-run-"))
        .filter(|e| {
            e.metadata()
                .and_then(|m| m.modified())
                .is_ok_and(|at| at.elapsed().is_ok_and(|age| age > Duration::from_secs(30)))
        })
        .count();
    assert_eq!(left, 0);
}

#[test]
fn many_at_once_wait_their_turn_and_all_come_to_an_end() {
    let sources: Vec<String> = (0..12)
        .map(|n| format!("print({n}); while (true) {{}} // at once"))
        .collect();
    let reports: Vec<Report> = std::thread::scope(|scope| {
        let threads: Vec<_> = sources
            .iter()
            .map(|s| scope.spawn(|| runner::run(&job(s))))
            .collect();
        threads.into_iter().map(|t| t.join().unwrap()).collect()
    });
    for (n, report) in reports.iter().enumerate() {
        // Each was stopped for itself, and what it printed before is there.
        let case = report.cases.first();
        let stopped = fault(report).unwrap();
        assert!(
            matches!(stopped, ProgramFault::Steps | ProgramFault::Time),
            "{report:?}"
        );
        if stopped == ProgramFault::Steps {
            assert_eq!(case.unwrap().output, format!("{n}\n"));
        }
    }
}
