//! What the operating system keeps from the process in which programs run, put up before it has read a word of its job. The
//! engine is C that reads what students write: a fault in its memory must not reach a file, a socket, another process or
//! the server's environment.
//!
//! In order: no new privileges; descriptors that were left open are closed; Landlock, where the kernel has it; limits; and
//! last a filter that ends the process at any call that the engine has no need of. From then on there is no way back.

use std::collections::BTreeMap;

use landlock::{ABI, Access, AccessFs, AccessNet, Ruleset, RulesetAttr};
use rustix::process::{DumpableBehavior, Resource, Rlimit, set_dumpable_behavior, setrlimit};
use seccompiler::{
    BpfProgram, SeccompAction, SeccompCmpArgLen, SeccompCmpOp, SeccompCondition, SeccompFilter, SeccompRule,
};

/// Bytes of address space: room for the program itself, its allocator and what a case may hold.
const ADDRESS_SPACE: u64 = 256 * 1024 * 1024;
/// Seconds of processor time.
const PROCESSOR_TIME: u64 = 2;

/// Why the walls can't be put up. Nothing is run then.
#[derive(Debug, thiserror::Error)]
pub enum WallError {
    #[error("the operating system refused: {0}")]
    System(#[from] rustix::io::Errno),
    #[error("no filter for this machine: {0}")]
    Filter(#[from] seccompiler::BackendError),
    #[error("the filter was not taken: {0}")]
    Seccomp(#[from] seccompiler::Error),
    #[error("the files could not be shut off: {0}")]
    Landlock(#[from] landlock::RulesetError),
}

/// What is behind everything else; `settle` is called while the process can still read nothing new, but is not yet ended
/// for trying.
pub(crate) fn put_up(settle: impl FnOnce()) -> Result<(), WallError> {
    let filter = filter()?;
    rustix::thread::set_no_new_privs(true)?;
    set_dumpable_behavior(DumpableBehavior::NotDumpable)?;
    close_from(3);
    // Nothing at all is allowed: no path, no port. Kernels without it have the filter below.
    Ruleset::default()
        .handle_access(AccessFs::from_all(ABI::V5))?
        .handle_access(AccessNet::from_all(ABI::V5))?
        .create()?
        .restrict_self()?;
    limit(Resource::As, ADDRESS_SPACE)?;
    limit(Resource::Cpu, PROCESSOR_TIME)?;
    limit(Resource::Fsize, 0)?;
    limit(Resource::Nofile, 3)?;
    limit(Resource::Nproc, 0)?;
    limit(Resource::Core, 0)?;
    settle();
    close_from(2);
    seccompiler::apply_filter(&filter)?;
    Ok(())
}

/// Nobody but the administrator looks into this process from now on: no other process of the same user reads its memory or
/// its environment, in which the database's password is.
///
/// # Errors
/// If the operating system refuses.
pub fn keep_to_myself() -> Result<(), WallError> {
    Ok(set_dumpable_behavior(DumpableBehavior::NotDumpable)?)
}

fn limit(what: Resource, to: u64) -> Result<(), rustix::io::Errno> {
    let limit = Rlimit {
        current: Some(to),
        maximum: Some(to),
    };
    setrlimit(what, limit)
}

/// Closes what the server, or whoever started it, left open. There are few, and their numbers are low.
fn close_from(first: i32) {
    for number in first..256 {
        let _ = nix::unistd::close(number);
    }
}

/// The filter: reading the job, writing the report, memory, the time, and ending. Everything else ends the process.
///
/// # Errors
/// On a machine for which there is none.
pub fn filter() -> Result<BpfProgram, WallError> {
    let arch = std::env::consts::ARCH.try_into().map_err(WallError::Filter)?;
    let at = |argument, value| {
        SeccompCondition::new(argument, SeccompCmpArgLen::Dword, SeccompCmpOp::Eq, value)
            .and_then(|c| SeccompRule::new(vec![c]))
    };
    let mut rules: BTreeMap<i64, Vec<SeccompRule>> = NEEDED.iter().map(|call| (*call, Vec::new())).collect();
    rules.insert(libc::SYS_read, vec![at(0, 0)?]);
    rules.insert(libc::SYS_write, vec![at(0, 1)?]);
    // Allocators name their memory by it; it can do nothing else so.
    const NAME_MEMORY: u64 = 0x5356_4d41;
    rules.insert(libc::SYS_prctl, vec![at(0, NAME_MEMORY)?]);
    let filter = SeccompFilter::new(rules, SeccompAction::KillProcess, SeccompAction::Allow, arch)?;
    Ok(filter.try_into()?)
}

/// Calls that are allowed whatever they are given.
const NEEDED: &[i64] = &[
    libc::SYS_mmap,
    libc::SYS_munmap,
    libc::SYS_mremap,
    libc::SYS_mprotect,
    libc::SYS_madvise,
    libc::SYS_brk,
    libc::SYS_futex,
    libc::SYS_clock_gettime,
    libc::SYS_gettimeofday,
    libc::SYS_getrandom,
    libc::SYS_sched_yield,
    libc::SYS_rt_sigaction,
    libc::SYS_rt_sigprocmask,
    libc::SYS_rt_sigreturn,
    libc::SYS_sigaltstack,
    libc::SYS_exit,
    libc::SYS_exit_group,
];
