//! Tables as files (RFC 4180): what a spreadsheet could take for a formula is kept from being one.

use actix_web::HttpResponse;
use actix_web::http::header;
use actix_web::web::Bytes;
use futures_util::stream;

use crate::http::error::ApiError;

/// A text for a cell: never a formula for a spreadsheet.
pub(crate) fn cell(text: &str) -> String {
    // Full-width signs are read as their narrow ones.
    if text.starts_with(['=', '+', '-', '@', '\t', '\r', '\n', '＝', '＋', '－', '＠']) {
        format!("'{text}")
    } else {
        text.to_owned()
    }
}

/// A zip as a file to be saved under a name, sent as it is packed.
pub(crate) fn zip_file(zip: school::Zip, name: &str) -> HttpResponse {
    let chunks = stream::unfold(zip, |mut zip| async move {
        let chunk = zip.next().await?;
        Some((chunk.map(Bytes::from), zip))
    });
    HttpResponse::Ok()
        .content_type("application/zip")
        // It is packed already.
        .insert_header(header::ContentEncoding::Identity)
        .insert_header((
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .streaming(Box::pin(chunks))
}

/// Rows as a file to be saved under a name.
pub(crate) fn csv_file(
    name: &str,
    rows: impl IntoIterator<Item = Vec<String>>,
) -> Result<HttpResponse, ApiError> {
    let inside = |e: csv::Error| ApiError::Inside(e.to_string());
    let mut out = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .from_writer(Vec::new());
    for row in rows {
        out.write_record(&row).map_err(inside)?;
    }
    let body = out.into_inner().map_err(|e| ApiError::Inside(e.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .body(body))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_is_a_formula() {
        for text in [
            "=1+1", "+1", "-1", "@SUM(A1)", "\t=1", "\r=1", "＝1+1", "＋1", "－1", "＠SUM",
        ] {
            assert_eq!(cell(text), format!("'{text}"));
        }
        for text in ["", "a=1", "1-2", "é"] {
            assert_eq!(cell(text), text);
        }
    }
}
