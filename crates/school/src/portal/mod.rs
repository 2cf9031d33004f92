//! Portals (LTI platforms): who comes from one, which class a course is, and scores on their way back.

mod arrive;
mod client;
mod keys;
mod outbox;
mod pick;
mod roster;

pub use arrive::{
    Arrival, ArrivalKind, Arrived, Begun, LaunchError, LoginRequest, begin, chose_class, land, launch, look,
    on_as_new, on_joined,
};
pub use client::{Client, Platform};
pub use keys::{make_key, published};
pub use outbox::{Deliver, Delivered, deliver_due, keep_delivering, keep_sending, send_due};
pub use pick::{Pickable, pickable, picked};
pub use roster::{Asked, Differs, ask_members, compare};

/// The name of a table of addresses that may be asked by plain http: what never leaves the machine.
fn is_loopback(address: &url::Url) -> bool {
    match address.host() {
        Some(url::Host::Domain(name)) => name == "localhost",
        Some(url::Host::Ipv4(ip)) => ip.is_loopback(),
        Some(url::Host::Ipv6(ip)) => ip.is_loopback(),
        None => false,
    }
}

/// Why an address of a portal can't be used; `None` if it can.
pub fn address_fault(address: &str) -> Option<String> {
    let Ok(read) = url::Url::parse(address) else {
        return Some(format!("{address} is no address"));
    };
    let safe = read.scheme() == "https" || (read.scheme() == "http" && is_loopback(&read));
    (!safe).then(|| format!("{address} has to begin with https://"))
}
