//! One line a request: id, route, status, time. Nothing that was typed, and no name. Everything that is logged while a
//! request is answered carries its id.

use std::time::Instant;

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{HeaderName, HeaderValue};
use actix_web::middleware::Next;
use tracing::Instrument;
use uuid::Uuid;

pub(crate) async fn log<B: MessageBody>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<B>, Error> {
    let id = Uuid::now_v7();
    let (method, started) = (request.method().clone(), Instant::now());
    let span = tracing::error_span!("request", %id);
    async move {
        let mut response = next.call(request).await?;
        let route = response
            .request()
            .match_pattern()
            .unwrap_or_else(|| "asset".into());
        let millis = started.elapsed().as_secs_f64() * 1000.0;
        tracing::info!(%method, route, status = response.status().as_u16(), millis, "request");
        if let Ok(value) = HeaderValue::from_str(&id.to_string()) {
            response
                .headers_mut()
                .insert(HeaderName::from_static("x-request-id"), value);
        }
        Ok(response)
    }
    .instrument(span)
    .await
}
