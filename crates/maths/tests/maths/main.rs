//! What the crate promises: how entries are read, when two are equal, in which form they are, and what units they have.

mod breaks;
mod equality;
mod forms;
mod reading;
mod rewrites;
mod units;
