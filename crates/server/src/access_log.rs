//! One line a request: id, route, status, time. Nothing that was typed, and no name.

use std::time::Instant;

use actix_web::Error;
use actix_web::HttpMessage;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{HeaderName, HeaderValue};
use actix_web::middleware::Next;
use uuid::Uuid;

/// The id of a request, in the log and in the answer.
#[derive(Clone, Copy)]
pub(crate) struct RequestId(pub Uuid);

pub(crate) async fn log<B: MessageBody>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<B>, Error> {
    let id = Uuid::now_v7();
    request.extensions_mut().insert(RequestId(id));
    let (method, started) = (request.method().clone(), Instant::now());
    let mut response = next.call(request).await?;
    let route = response
        .request()
        .match_pattern()
        .unwrap_or_else(|| "asset".into());
    let millis = started.elapsed().as_secs_f64() * 1000.0;
    tracing::info!(%id, %method, route, status = response.status().as_u16(), millis, "request");
    if let Ok(value) = HeaderValue::from_str(&id.to_string()) {
        response
            .headers_mut()
            .insert(HeaderName::from_static("x-request-id"), value);
    }
    Ok(response)
}
