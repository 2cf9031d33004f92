//! The front end's files, from inside the binary (in a development build, from `web/dist`).

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// A file, or the page itself for every address that the front end knows how to show.
pub(crate) async fn serve(request: HttpRequest) -> HttpResponse {
    let path = request.path().trim_start_matches('/');
    let is_file = path.rsplit('/').next().is_some_and(|name| name.contains('.'));
    let name = if is_file { path } else { "index.html" };
    match Files::get(name) {
        Some(file) => {
            // Files under assets/ carry a digest in their names.
            let keep = if name.starts_with("assets/") {
                "public, max-age=31536000, immutable"
            } else {
                "no-cache"
            };
            HttpResponse::Ok()
                .insert_header((header::CONTENT_TYPE, file.metadata.mimetype().to_owned()))
                .insert_header((header::CACHE_CONTROL, keep))
                .body(file.data)
        }
        None if is_file => HttpResponse::NotFound().finish(),
        None => {
            HttpResponse::ServiceUnavailable().body("The front end is not built: run npm run build in web/.")
        }
    }
}
