//! Coming from a portal and sending scores back, with the stand-in portal at the other end.

#[path = "../http/client.rs"]
#[allow(dead_code, unused_macros, unused_imports)]
mod client;

mod browser;
mod launches;
mod outbox;
mod roles;
mod roster;
mod scores;
mod site;
