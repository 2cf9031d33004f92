//! A school's portal, small and made up, to try a tool with: one course, its people, its links and its grade book. It follows
//! the specifications of 1EdTech (LTI Core 1.3, Security Framework 1.0, Assignment and Grade Services 2.0, Names and Role
//! Provisioning Services 2.0, Deep Linking 2.0) and nothing else, and shares no code with any tool. All it holds is lost when
//! it ends.

mod keys;
mod launch;
mod pages;
mod services;
mod state;

use std::net::SocketAddr;
use std::sync::Arc;

use actix_web::{App, HttpServer, web};

pub use keys::SigningKey;
pub use launch::claims;
pub use state::{Course, LineItem, Link, Person, Portal, Received, World};

/// Serves until the returned server is stopped.
///
/// # Errors
/// If the address can't be used.
pub fn serve(
    portal: Arc<Portal>,
    address: SocketAddr,
) -> std::io::Result<(SocketAddr, actix_web::dev::Server)> {
    let data = web::Data::from(portal);
    let server = HttpServer::new(move || {
        App::new()
            .app_data(data.clone())
            .configure(pages::routes)
            .configure(launch::routes)
            .configure(services::routes)
    })
    .workers(1)
    .disable_signals()
    .shutdown_timeout(1)
    .bind(address)?;
    let bound = server.addrs().first().copied().unwrap_or(address);
    Ok((bound, server.run()))
}
