//! The front end's files, from inside the binary (in a development build, from `web/dist`), compressed when they were built.

use actix_web::http::Method;
use actix_web::http::header::{self, AcceptEncoding, Encoding, Header};
use actix_web::{HttpRequest, HttpResponse, ResponseError};
use rust_embed::{EmbeddedFile, RustEmbed};

use super::error::ApiError;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// The ending of a compressed file beside the plain one, and its name in HTTP; the smaller one first.
const COMPRESSED: [(&str, &str); 2] = [("br", "br"), ("gz", "gzip")];

fn accepts(request: &HttpRequest, name: &str) -> bool {
    let Ok(accepted) = AcceptEncoding::parse(request) else {
        return false;
    };
    accepted.iter().any(|q| {
        q.quality > actix_web::http::header::Quality::ZERO
            && match &q.item {
                header::Preference::Any => false,
                header::Preference::Specific(Encoding::Known(known)) => known.as_str() == name,
                header::Preference::Specific(Encoding::Unknown(_)) => false,
            }
    })
}

/// The smallest form of a file that the browser takes, and its encoding.
fn find(request: &HttpRequest, name: &str) -> Option<(EmbeddedFile, Option<&'static str>)> {
    for (ending, encoding) in COMPRESSED {
        if accepts(request, encoding)
            && let Some(file) = Files::get(&format!("{name}.{ending}"))
        {
            return Some((file, Some(encoding)));
        }
    }
    Files::get(name).map(|file| (file, None))
}

/// A file, or the page itself for every address that the front end knows how to show.
pub(crate) async fn serve(request: HttpRequest) -> HttpResponse {
    if !matches!(*request.method(), Method::GET | Method::HEAD) {
        return ApiError::NoSuchMethod {
            allowed: "GET, HEAD".into(),
        }
        .error_response();
    }
    let path = request.path().trim_start_matches('/');
    // A file has an ending of letters; half a question, as in /question/1.5, is none.
    let has_ending = |name: &str| {
        let ending = name.rsplit_once('.').map(|(_, ending)| ending);
        ending.is_some_and(|e| e.is_empty() || e.starts_with(|c: char| c.is_ascii_alphabetic()))
    };
    let is_file = path.starts_with("assets/") || path.rsplit('/').next().is_some_and(has_ending);
    let name = if is_file { path } else { "index.html" };
    let hidden = name.split('/').any(|part| part.starts_with('.'));
    match find(&request, name).filter(|_| !hidden) {
        Some((file, encoding)) => {
            // Files under assets/ carry a digest in their names.
            let keep = if name.starts_with("assets/") {
                "public, max-age=31536000, immutable"
            } else {
                "no-cache"
            };
            let kind = Files::get(name).map_or_else(
                || "application/octet-stream".to_owned(),
                |plain| plain.metadata.mimetype().to_owned(),
            );
            let mut response = HttpResponse::Ok();
            response
                .insert_header((header::CONTENT_TYPE, kind))
                .insert_header((header::VARY, "accept-encoding"))
                .insert_header((header::CACHE_CONTROL, keep));
            if let Some(encoding) = encoding {
                response.insert_header((header::CONTENT_ENCODING, encoding));
            }
            response.body(file.data)
        }
        None if is_file => ApiError::NotFound.error_response(),
        None => {
            HttpResponse::ServiceUnavailable().body("The front end is not built: run npm run build in web/.")
        }
    }
}
