//! Runs small programs, each in a process of its own: an empty environment and folder, limits on address space, processor
//! time, files and processes, walls of the operating system around it ([`walls`]), ended after two seconds. What a program does never touches the server.
//!
//! [`child_main`] is the process; [`run`] and [`run_waiting`] start one and wait; what came of a job is kept for a while, as
//! the same job always comes to the same.

mod child;
mod parent;
pub mod walls;

pub use child::child_main;
pub use parent::{NotRun, Place, place_of, run, run_as, run_waiting, this_is_green_slate};
