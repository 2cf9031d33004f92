//! The web server: routes, sessions, and what is served to browsers. The rules are in the crates below.

mod access_log;
mod api;
mod assets;
mod auth;
pub mod bank;
mod clock;
mod error;
mod learner;
mod pages;
pub mod regrade;
pub mod seed;
mod skills;
mod slip_book;
mod time_up;

use std::net::SocketAddr;
use std::sync::Arc;

use actix_web::http::header::{self, HeaderValue};
use actix_web::middleware::{DefaultHeaders, from_fn};
use actix_web::{App, HttpServer, web};
use sqlx::PgPool;
use time::OffsetDateTime;
use tokio::sync::Semaphore;

pub use api::open_api;
pub use auth::hash_password;
pub use clock::Clock;

/// What every handler may use. Nothing in it would be missed by another process.
#[derive(Clone)]
pub struct Site {
    pub pool: PgPool,
    /// Markings at a time: they are pure computation, so no more than there are cores.
    marking: Arc<Semaphore>,
    clock: Clock,
}

impl Site {
    pub fn new(pool: PgPool) -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            pool,
            marking: Arc::new(Semaphore::new(cores)),
            clock: Clock::System,
        }
    }

    pub fn with_clock(self, clock: Clock) -> Self {
        Self { clock, ..self }
    }

    /// The instant that decides.
    pub(crate) fn now(&self) -> OffsetDateTime {
        self.clock.now()
    }

    /// Runs computation off the async threads, a bounded number at a time.
    async fn compute<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, error::ApiError> {
        let permit = self.marking.clone().acquire_owned().await;
        let result = web::block(work).await;
        drop(permit);
        result.map_err(|e| error::ApiError::Inside(e.to_string()))
    }
}

/// No script but our own files; styles may be inline, since the component library sets them.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data: blob:; font-src 'self' data:; connect-src 'self'; object-src 'none'; base-uri 'self'; \
    form-action 'self'; frame-ancestors 'none'";

/// All routes; the server and the tests use the same.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(
        web::scope("/api")
            .configure(api::routes)
            .default_service(web::to(api::no_such_route)),
    );
    config.default_service(web::to(assets::serve));
}

fn fixed_headers() -> DefaultHeaders {
    DefaultHeaders::new()
        .add((
            header::CONTENT_SECURITY_POLICY,
            HeaderValue::from_static(CONTENT_SECURITY_POLICY),
        ))
        .add((
            header::X_CONTENT_TYPE_OPTIONS,
            HeaderValue::from_static("nosniff"),
        ))
        .add((header::REFERRER_POLICY, HeaderValue::from_static("same-origin")))
}

/// The application as tests and the server build it.
pub fn app(
    site: Site,
) -> App<
    impl actix_web::dev::ServiceFactory<
        actix_web::dev::ServiceRequest,
        Config = (),
        Response = actix_web::dev::ServiceResponse<impl actix_web::body::MessageBody>,
        Error = actix_web::Error,
        InitError = (),
    >,
> {
    App::new()
        .app_data(web::Data::new(site))
        .app_data(error::json_config())
        .app_data(error::path_config())
        .app_data(error::payload_config())
        .wrap(from_fn(auth::refuse_foreign_writes))
        .wrap(fixed_headers())
        .wrap(from_fn(access_log::log))
        .configure(routes)
}

/// Serves until the process is asked to end.
///
/// # Errors
/// If the address cannot be used.
pub async fn serve(site: Site, address: SocketAddr) -> std::io::Result<()> {
    let ending = actix_web::rt::spawn(time_up::keep_ending(site.clone()));
    let served = HttpServer::new(move || app(site.clone()))
        .tcp_nodelay(true)
        .shutdown_timeout(3)
        .bind(address)?
        .run()
        .await;
    ending.abort();
    served
}
