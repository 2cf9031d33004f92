//! Browsers say where a request comes from: a write from another site is refused, besides the cookie staying away.

use actix_web::body::{EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::{Method, header};
use actix_web::middleware::Next;
use actix_web::{HttpRequest, ResponseError, web};

use super::error::ApiError;
use super::settings::Settings;

/// Whether a request was sent by a page of another site. What no browser sent says neither and carries no cookie of one.
fn is_foreign(request: &HttpRequest, settings: &Settings) -> bool {
    let text = |name: &str| request.headers().get(name).and_then(|v| v.to_str().ok());
    if let Some(site) = text("sec-fetch-site") {
        return site != "same-origin" && site != "none";
    }
    let Some(origin) = text(header::ORIGIN.as_str()) else {
        return false;
    };
    let Some((_, authority)) = origin.split_once("://") else {
        return true;
    };
    settings
        .host(request)
        .is_none_or(|host| !host.eq_ignore_ascii_case(authority))
}

/// What portals send through the browser: it carries no cookie of a session, and is judged by its signature.
const FROM_PORTALS: [&str; 2] = ["/lti/login", "/lti/launch"];

pub(crate) async fn refuse_foreign_writes<B: MessageBody>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, actix_web::Error> {
    let reads =
        matches!(*request.method(), Method::GET | Method::HEAD) || FROM_PORTALS.contains(&request.path());
    let settings = request.app_data::<web::Data<Settings>>().cloned();
    let foreign = settings.is_some_and(|s| is_foreign(request.request(), &s));
    if !reads && foreign {
        tracing::warn!("a write from another site was refused");
        let response = ApiError::ForeignOrigin.error_response();
        return Ok(request.into_response(response).map_into_right_body());
    }
    next.call(request).await.map(ServiceResponse::map_into_left_body)
}
