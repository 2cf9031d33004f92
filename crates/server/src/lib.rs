//! The web server: routes, sessions, and what is served to browsers. What happens on a command is in `school`, the rules
//! are in the crates below.

mod api;
mod http;
mod lti;

use std::net::SocketAddr;

use actix_web::http::header::{self, HeaderValue};
use actix_web::middleware::{Compress, Condition, DefaultHeaders, from_fn};
use actix_web::{App, HttpServer, web};
use school::School;

pub use api::open_api;
pub use http::Settings;

/// No script but our own files; styles may be inline, since the component library sets them.
pub(crate) const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data: blob:; font-src 'self' data:; media-src 'self' blob:; connect-src 'self'; object-src 'none'; base-uri 'self'; \
    form-action 'self'; frame-ancestors 'self'";
/// Two years, as browsers ask for.
const STRICT_TRANSPORT_SECURITY: &str = "max-age=63072000; includeSubDomains";

/// All routes; the server and the tests use the same.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(
        web::scope("/api")
            .wrap(Compress::default())
            .wrap(from_fn(http::body::within_bounds))
            .wrap(DefaultHeaders::new().add((header::CACHE_CONTROL, HeaderValue::from_static("no-store"))))
            .configure(api::routes)
            .default_service(web::to(api::no_such_route)),
    );
    config.service(lti::scope());
    config.default_service(web::to(http::assets::serve));
}

fn fixed_headers() -> DefaultHeaders {
    let fixed = |name, value| (name, HeaderValue::from_static(value));
    DefaultHeaders::new()
        .add(fixed(header::CONTENT_SECURITY_POLICY, CONTENT_SECURITY_POLICY))
        .add(fixed(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .add(fixed(header::REFERRER_POLICY, "same-origin"))
}

fn only_https() -> DefaultHeaders {
    let value = HeaderValue::from_static(STRICT_TRANSPORT_SECURITY);
    DefaultHeaders::new().add((header::STRICT_TRANSPORT_SECURITY, value))
}

/// The application as tests and the server build it.
pub fn app(
    school: School,
    settings: Settings,
) -> App<
    impl actix_web::dev::ServiceFactory<
        actix_web::dev::ServiceRequest,
        Config = (),
        Response = actix_web::dev::ServiceResponse<impl actix_web::body::MessageBody>,
        Error = actix_web::Error,
        InitError = (),
    >,
> {
    let https = settings.always_https || !settings.proxies.is_empty();
    App::new()
        .app_data(web::Data::new(school))
        .app_data(web::Data::new(settings))
        .app_data(http::error::json_config())
        .app_data(http::error::path_config())
        .app_data(http::error::query_config())
        .app_data(http::error::payload_config())
        .wrap(from_fn(http::origin::refuse_foreign_writes))
        .wrap(fixed_headers())
        .wrap(Condition::new(https, only_https()))
        .wrap(from_fn(http::access_log::log))
        .configure(routes)
}

/// Reads skills and pages that were edited, here or by another server.
async fn keep_content(school: School) {
    let mut now_and_then = tokio::time::interval(std::time::Duration::from_secs(5));
    loop {
        now_and_then.tick().await;
        if let Err(error) = school::refresh_content(&school).await {
            tracing::warn!(cause = %error, "reading what was edited");
        }
    }
}

/// Serves until the process is asked to end.
///
/// # Errors
/// If the address cannot be used.
pub async fn serve(school: School, settings: Settings, address: SocketAddr) -> std::io::Result<()> {
    let ending = actix_web::rt::spawn(school::time_up::keep_ending(school.clone()));
    let reading = actix_web::rt::spawn(keep_content(school.clone()));
    let sending = actix_web::rt::spawn(school::portal::keep_sending(school.clone()));
    let lanes = school.lanes.clone();
    let served = HttpServer::new(move || app(school.clone(), settings.clone()))
        .tcp_nodelay(true)
        // A browser opens connections that it may need in a moment: one that was not used is no error.
        .client_request_timeout(std::time::Duration::from_secs(60))
        .shutdown_timeout(3)
        .bind(address)?
        .run()
        .await;
    ending.abort();
    reading.abort();
    sending.abort();
    lanes.give_back();
    served
}
