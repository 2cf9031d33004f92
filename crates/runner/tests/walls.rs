//! The walls around the process in which programs run: a program in C tries what native code could.

use std::os::unix::process::ExitStatusExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use rstest::rstest;

const SIGSYS: i32 = 31;

/// The C program and a file with the filter, made in a folder of the test's.
fn tries(folder: &Path) -> (PathBuf, PathBuf) {
    let (program, filter) = (folder.join("tries"), folder.join("filter"));
    let made = Command::new("cc")
        .args(["-O1", "-o"])
        .arg(&program)
        .arg(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/walls/tries.c"))
        .status()
        .unwrap();
    assert!(made.success());
    let bytes: Vec<u8> = runner::walls::filter()
        .unwrap()
        .iter()
        .flat_map(|i| {
            let [a, b] = i.code.to_ne_bytes();
            let [c, d, e, f] = i.k.to_ne_bytes();
            [a, b, i.jt, i.jf, c, d, e, f]
        })
        .collect();
    std::fs::write(&filter, bytes).unwrap();
    (program, filter)
}

#[rstest]
#[case::the_environment_of_the_server("environment")]
#[case::a_file("file")]
#[case::a_new_file("new-file")]
#[case::a_socket("socket")]
#[case::a_local_socket("local-socket")]
#[case::being_traced("attach")]
#[case::a_signal("signal")]
#[case::another_process("fork")]
#[case::another_program("execute")]
#[case::another_descriptor("other-descriptor")]
#[case::the_memory_of_another("read-memory")]
fn what_native_code_could_try_ends_it(#[case] what: &str) {
    let folder = tempfile::tempdir().unwrap();
    let (program, filter) = tries(folder.path());
    let ran = |filter: &Path| {
        Command::new(&program)
            .arg(filter)
            .arg(what)
            .current_dir(folder.path())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status()
            .unwrap()
    };
    let walled = ran(&filter);
    assert_eq!(walled.signal(), Some(SIGSYS), "{what}: {walled}");
    assert_eq!(ran(Path::new("-")).signal(), None, "{what} without walls");
}

#[test]
fn what_the_process_has_to_say_it_can() {
    let folder = tempfile::tempdir().unwrap();
    let (program, filter) = tries(folder.path());
    let said = Command::new(&program).arg(&filter).arg("say").output().unwrap();
    assert_eq!((said.status.code(), said.stdout.as_slice()), (Some(0), &b"x"[..]));
}

/// What the operating system says of a process, by the name of the line.
fn status(pid: u32, name: &str) -> Option<String> {
    let all = std::fs::read_to_string(format!("/proc/{pid}/status")).ok()?;
    let line = all
        .lines()
        .find_map(|l| l.strip_prefix(name)?.strip_prefix(':'))?;
    Some(line.trim().to_owned())
}

#[test]
fn the_walls_stand_before_the_job_is_read() {
    let own = std::env::current_exe().unwrap();
    let program = own.ancestors().nth(2).unwrap().join("green-slate");
    let mut child = Command::new(program)
        .arg("run-program")
        .env_clear()
        .env("MIMALLOC_ARENA_RESERVE", "16384")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    // It has been told nothing yet, and waits.
    let begun = Instant::now();
    while status(child.id(), "Seccomp").as_deref() != Some("2") {
        assert!(begun.elapsed() < Duration::from_secs(30), "no filter");
        std::thread::sleep(Duration::from_millis(5));
    }
    assert_eq!(status(child.id(), "NoNewPrivs").as_deref(), Some("1"));
    let open = std::fs::read_dir(format!("/proc/{}/fd", child.id())).map(Iterator::count);
    if let Ok(open) = open {
        assert_eq!(open, 2, "its input and its output");
    }
    drop(child.stdin.take());
    assert!(!child.wait().unwrap().success(), "nothing is no job");
}
