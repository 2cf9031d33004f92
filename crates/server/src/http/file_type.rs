//! What a file is by its content, and what it may be called.

use std::io::{Cursor, Read};

/// Characters of a file's name that are kept.
const LONGEST_NAME: usize = 120;

/// Kinds of files that are kept, by the media type found in them; some are known by another name than the finder's.
const KEPT: &[(&str, &str)] = &[
    ("image/png", "image/png"),
    ("image/jpeg", "image/jpeg"),
    ("application/pdf", "application/pdf"),
    ("application/msword", "application/msword"),
    ("application/vnd.ms-excel", "application/vnd.ms-excel"),
    ("application/vnd.ms-powerpoint", "application/vnd.ms-powerpoint"),
    // Browsers record sound into containers that can hold pictures too.
    ("video/webm", "audio/webm"),
    ("audio/ogg", "audio/ogg"),
    ("audio/x-wav", "audio/wav"),
    ("audio/mpeg", "audio/mpeg"),
    ("audio/m4a", "audio/mp4"),
    ("video/mp4", "audio/mp4"),
];

/// Office documents that are archives: what has to be in them, and their media type (ISO/IEC 29500, ISO/IEC 26300).
const OPEN_XML: &[(&str, &str)] = &[
    (
        "word/document.xml",
        "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
    ),
    (
        "xl/workbook.xml",
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ),
    (
        "ppt/presentation.xml",
        "application/vnd.openxmlformats-officedocument.presentationml.presentation",
    ),
];
const OPEN_DOCUMENT: &[&str] = &[
    "application/vnd.oasis.opendocument.text",
    "application/vnd.oasis.opendocument.spreadsheet",
    "application/vnd.oasis.opendocument.presentation",
];
/// Bytes of a document's list of types.
const LONGEST_TYPES: u64 = 1024 * 1024;
/// Entries of an archive that are looked at.
const MOST_ENTRIES: usize = 4_000;

/// The media type of an archive that is an office document without programs in it. Only its list of entries is read, and
/// the one line that says what an OpenDocument is: nothing is unpacked.
fn office_kind(bytes: &[u8]) -> Option<&'static str> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).ok()?;
    if archive.len() > MOST_ENTRIES {
        return None;
    }
    let has = |name: &str| archive.index_for_name(name).is_some();
    let programs = archive
        .file_names()
        .any(|n| n.is_ok_and(|n| n.to_lowercase().ends_with("vbaproject.bin")));
    if has("[Content_Types].xml") {
        let found = OPEN_XML.iter().find(|(name, _)| has(name)).map(|(_, kind)| *kind);
        // A document with programs says so among its types, whatever the programs are called.
        let mut types = String::new();
        let entry = archive.by_name("[Content_Types].xml").ok()?;
        entry.take(LONGEST_TYPES).read_to_string(&mut types).ok()?;
        let says_so = types.to_lowercase().contains("macroenabled");
        return found.filter(|_| !programs && !says_so);
    }
    let mut says = String::new();
    let entry = archive.by_name("mimetype").ok()?;
    entry.take(100).read_to_string(&mut says).ok()?;
    OPEN_DOCUMENT.iter().find(|kind| **kind == says.trim()).copied()
}

/// The ending of a kind of file, and others that it may have: what opens it by a double click opens just that kind.
const ENDINGS: &[(&str, &[&str])] = &[
    ("image/png", &["png"]),
    ("image/jpeg", &["jpg", "jpeg"]),
    ("application/pdf", &["pdf"]),
    ("application/msword", &["doc"]),
    ("application/vnd.ms-excel", &["xls"]),
    ("application/vnd.ms-powerpoint", &["ppt"]),
    (
        "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
        &["docx"],
    ),
    (
        "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        &["xlsx"],
    ),
    (
        "application/vnd.openxmlformats-officedocument.presentationml.presentation",
        &["pptx"],
    ),
    ("application/vnd.oasis.opendocument.text", &["odt"]),
    ("application/vnd.oasis.opendocument.spreadsheet", &["ods"]),
    ("application/vnd.oasis.opendocument.presentation", &["odp"]),
    ("audio/webm", &["webm"]),
    ("audio/ogg", &["ogg", "oga", "opus"]),
    ("audio/wav", &["wav"]),
    ("audio/mpeg", &["mp3"]),
    ("audio/mp4", &["m4a", "mp4"]),
    (
        "text/plain; charset=utf-8",
        &["txt", "csv", "md", "tex", "json", "yaml", "yml", "log", "tsv"],
    ),
];

/// A name with an ending that fits what the file is.
pub(crate) fn name_for(name: &str, media_type: &str) -> String {
    let endings = ENDINGS
        .iter()
        .find(|(kind, _)| *kind == media_type)
        .map(|(_, all)| *all);
    let Some([first, ..]) = endings else {
        return name.to_owned();
    };
    let ending = name.rsplit_once('.').map(|(_, e)| e.to_lowercase());
    let fits = ending.is_some_and(|e| endings.is_some_and(|all| all.contains(&e.as_str())));
    if fits {
        name.to_owned()
    } else {
        format!("{name}.{first}")
    }
}

/// The media type of a file, whatever it is called; `None` for what is not kept.
pub(crate) fn kind_of(bytes: &[u8]) -> Option<&'static str> {
    if bytes.starts_with(b"PK\x03\x04") {
        return office_kind(bytes);
    }
    match infer::get(bytes) {
        Some(found) => KEPT
            .iter()
            .find(|(name, _)| *name == found.mime_type())
            .map(|(_, kept)| *kept),
        None => is_text(bytes).then_some("text/plain; charset=utf-8"),
    }
}

/// UTF-8 without control characters, and nothing that a browser would take for a page.
fn is_text(bytes: &[u8]) -> bool {
    let Ok(text) = std::str::from_utf8(bytes) else {
        return false;
    };
    let marked_up = text
        .trim_start_matches(['\u{feff}', ' ', '\n', '\r', '\t'])
        .starts_with('<');
    let fits = |c: char| !c.is_control() || matches!(c, '\n' | '\r' | '\t');
    !marked_up && text.chars().all(fits)
}

/// A file's name without folders, and without what could be taken for something else.
pub(crate) fn plain_name(name: &str) -> String {
    let last = name.rsplit(['/', '\\']).next().unwrap_or_default();
    // Marks that turn the reading direction make `exe.png` of `gnp.exe`.
    let fits = |c: &char| {
        !c.is_control()
            && !matches!(c, '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
    };
    let name: String = last.chars().filter(fits).collect();
    let name = name.trim().trim_start_matches('.');
    if name.is_empty() {
        return "file".into();
    }
    let count = name.chars().count();
    if count <= LONGEST_NAME {
        return name.to_owned();
    }
    // The end says what it is.
    let end: String = name.chars().skip(count - 12).collect();
    let start: String = name.chars().take(LONGEST_NAME - 13).collect();
    format!("{start}…{end}")
}

#[cfg(test)]
mod tests {
    use std::io::Write;

    use rstest::rstest;

    use super::*;

    /// An archive of stored entries, in this order.
    fn zip(entries: &[(&str, &str)]) -> Vec<u8> {
        let mut writer = zip::ZipWriter::new(Cursor::new(Vec::new()));
        let stored =
            zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
        for (name, content) in entries {
            writer.start_file(*name, stored).unwrap();
            writer.write_all(content.as_bytes()).unwrap();
        }
        writer.finish().unwrap().into_inner()
    }

    const TYPES: (&str, &str) = ("[Content_Types].xml", "<Types/>");
    const WORD: &str = "application/vnd.openxmlformats-officedocument.wordprocessingml.document";
    const SHEET: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

    /// What a browser's recorder begins with.
    fn webm() -> Vec<u8> {
        let mut file =
            b"\x1a\x45\xdf\xa3\x9f\x42\x86\x81\x01\x42\xf7\x81\x01\x42\xf2\x81\x04\x42\xf3\x81\x08".to_vec();
        file.extend(b"\x42\x82\x84webm");
        file.resize(400, 0);
        file
    }

    #[rstest]
    #[case::png(b"\x89PNG\r\n\x1a\n0000".to_vec(), Some("image/png"))]
    #[case::jpeg(b"\xff\xd8\xff\xe0 and so on".to_vec(), Some("image/jpeg"))]
    #[case::pdf(b"%PDF-1.7\n".to_vec(), Some("application/pdf"))]
    #[case::text("Load: 2,4 t – checked\n".as_bytes().to_vec(), Some("text/plain; charset=utf-8"))]
    #[case::recording(webm(), Some("audio/webm"))]
    #[case::wav(b"RIFF\x24\0\0\0WAVEfmt ".to_vec(), Some("audio/wav"))]
    #[case::a_text(zip(&[TYPES, ("_rels/.rels", "<R/>"), ("word/document.xml", "<w/>")]), Some(WORD))]
    #[case::a_text_in_another_order(zip(&[("docProps/app.xml", ""), ("word/document.xml", "<w/>"), TYPES]), Some(WORD))]
    #[case::a_sheet(zip(&[TYPES, ("xl/workbook.xml", "<x/>")]), Some(SHEET))]
    #[case::a_sheet_with_programs(zip(&[TYPES, ("xl/workbook.xml", "<x/>"), ("xl/vbaProject.bin", "")]), None)]
    #[case::open_document(zip(&[("mimetype", OPEN_DOCUMENT[0]), ("content.xml", "")]), Some(OPEN_DOCUMENT[0]))]
    #[case::an_archive_that_says_so(zip(&[("mimetype", "application/epub+zip")]), None)]
    #[case::half_an_archive(zip(&[TYPES, ("word/document.xml", "<w/>")])[..60].to_vec(), None)]
    #[case::a_page(b"<!doctype html><script>alert(1)</script>".to_vec(), None)]
    #[case::a_page_after_blanks(b"\xef\xbb\xbf \n<html>".to_vec(), None)]
    #[case::a_drawing_that_could_run(b"<?xml version='1.0'?><svg onload='x'/>".to_vec(), None)]
    #[case::a_program(b"\x7fELF\x02\x01\x01\0\0\0\0\0\0\0\0\0\x02\0".to_vec(), None)]
    #[case::another_program(b"MZ\x90\0\x03\0\0\0".to_vec(), None)]
    #[case::an_archive(zip(&[("run.sh", "rm -rf")]), None)]
    #[case::bytes(vec![0, 1, 2, 3, 200], None)]
    fn a_file_is_what_its_content_says(#[case] bytes: Vec<u8>, #[case] kind: Option<&str>) {
        assert_eq!(kind_of(&bytes), kind);
    }

    #[rstest]
    #[case("report.pdf", "report.pdf")]
    #[case("../../etc/passwd", "passwd")]
    #[case("C:\\Users\\ebba\\photo.jpg", "photo.jpg")]
    #[case("a\r\nSet-Cookie: x.png", "aSet-Cookie: x.png")]
    #[case("photo\u{202e}gnp.exe", "photognp.exe")]
    #[case("  .hidden ", "hidden")]
    #[case("/", "file")]
    #[case("", "file")]
    fn a_name_is_a_name(#[case] given: &str, #[case] kept: &str) {
        assert_eq!(plain_name(given), kept);
    }

    #[test]
    fn a_long_name_keeps_its_end() {
        let kept = plain_name(&format!("{}.docx", "é".repeat(300)));
        assert_eq!(kept.chars().count(), LONGEST_NAME);
        assert!(kept.ends_with("….docx") || kept.ends_with(".docx"));
    }
}
