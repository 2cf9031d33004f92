//! Parts of a body: players jump in a recording by asking for them (RFC 9110, one range at a time).

use actix_web::http::StatusCode;
use actix_web::http::header::{self, Header, Range};
use actix_web::{HttpRequest, HttpResponse, HttpResponseBuilder};

/// A response to be finished: the whole, or the one range that was asked for.
pub(crate) struct Ranged {
    builder: HttpResponseBuilder,
    body: Vec<u8>,
}

impl Ranged {
    pub fn insert_header(&mut self, header: impl header::TryIntoHeaderPair) -> &mut Self {
        self.builder.insert_header(header);
        self
    }

    pub fn finish(&mut self) -> HttpResponse {
        self.builder.body(std::mem::take(&mut self.body))
    }
}

/// The bytes, or those of them that were asked for.
pub(crate) fn in_ranges(request: &HttpRequest, bytes: Vec<u8>) -> Ranged {
    let length = bytes.len() as u64;
    let one = match Range::parse(request) {
        Ok(Range::Bytes(specs)) if specs.len() == 1 => specs.first().cloned(),
        // Several at once, or other units: the whole, as the standard allows.
        _ => None,
    };
    let (builder, body) = match one.map(|spec| spec.to_satisfiable_range(length)) {
        None => (HttpResponse::Ok(), bytes),
        Some(None) => {
            let mut builder = HttpResponse::build(StatusCode::RANGE_NOT_SATISFIABLE);
            builder.insert_header((header::CONTENT_RANGE, format!("bytes */{length}")));
            (builder, Vec::new())
        }
        Some(Some((from, to))) => {
            let mut builder = HttpResponse::PartialContent();
            builder.insert_header((header::CONTENT_RANGE, format!("bytes {from}-{to}/{length}")));
            let place = |n: u64| usize::try_from(n).unwrap_or(usize::MAX);
            let part = bytes.get(place(from)..=place(to)).unwrap_or_default().to_vec();
            (builder, part)
        }
    };
    let mut ranged = Ranged { builder, body };
    ranged.insert_header((header::ACCEPT_RANGES, "bytes"));
    // A compressed range is no range of the file.
    ranged.insert_header((header::CONTENT_ENCODING, "identity"));
    ranged
}

#[cfg(test)]
mod tests {
    use actix_web::body::to_bytes;
    use actix_web::test::TestRequest;

    use super::*;

    async fn asked(range: Option<&str>) -> (u16, String, String) {
        let mut request = TestRequest::get();
        if let Some(range) = range {
            request = request.insert_header((header::RANGE, range));
        }
        let response = in_ranges(&request.to_http_request(), b"0123456789".to_vec()).finish();
        let status = response.status().as_u16();
        let of = response.headers().get(header::CONTENT_RANGE);
        let of = of.map_or_else(String::new, |v| v.to_str().unwrap().to_owned());
        let body = to_bytes(response.into_body()).await.unwrap();
        (status, of, String::from_utf8(body.to_vec()).unwrap())
    }

    #[actix_web::test]
    async fn a_part_is_what_was_asked_for_of_what_is_there() {
        let part = |status, of: &str, body: &str| (status, of.to_owned(), body.to_owned());
        assert_eq!(asked(None).await, part(200, "", "0123456789"));
        assert_eq!(asked(Some("bytes=2-4")).await, part(206, "bytes 2-4/10", "234"));
        assert_eq!(asked(Some("bytes=7-")).await, part(206, "bytes 7-9/10", "789"));
        assert_eq!(asked(Some("bytes=-3")).await, part(206, "bytes 7-9/10", "789"));
        assert_eq!(
            asked(Some("bytes=5-99")).await,
            part(206, "bytes 5-9/10", "56789")
        );
        assert_eq!(asked(Some("bytes=10-")).await, part(416, "bytes */10", ""));
        assert_eq!(asked(Some("bytes=0-1,4-5")).await, part(200, "", "0123456789"));
        assert_eq!(asked(Some("pages=1-2")).await, part(200, "", "0123456789"));
        assert_eq!(asked(Some("bytes=4-2")).await.0, 200);
    }
}
