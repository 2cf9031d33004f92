//! The slip book as a file: CSV (RFC 4180) or Markdown.

use actix_web::http::header;
use actix_web::{HttpResponse, get, web};
use coursework::{CheckedPart, SlipEntry, Standing};
use marking::{Item, plain};
use school::{Book, School};
use store::PersonId;
use time::format_description::well_known::Rfc3339;

use super::item::slip_item;
use crate::api::shared::table::cell;
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// Slips whose checks are read in one go.
const EXPORTED_AT_ONCE: usize = 500;

/// A slip in words.
struct Row {
    at: String,
    place: String,
    class: String,
    question: String,
    asked: String,
    typed: String,
    /// What the marker said to it.
    said: String,
    standing: &'static str,
    note: String,
}

async fn row(
    school: &School,
    person: PersonId,
    book: &Book,
    slip: &SlipEntry,
    wrong: &[CheckedPart],
) -> Result<Row, ApiError> {
    let source = book.source(slip)?;
    let (question, item) = slip_item(school, person, book, slip).await?;
    let attempt = &slip.attempt;
    let note = book
        .notes
        .iter()
        .find(|n| n.source == source.id && n.event == attempt.event);
    let at = attempt.at.format(&Rfc3339);
    Ok(Row {
        at: at.map_err(|e| ApiError::Inside(e.to_string()))?,
        place: source.title.clone(),
        class: source.class.clone().unwrap_or_default(),
        question: question.title.clone(),
        asked: asked(&item),
        typed: typed(&item, wrong),
        said: said(wrong, source.show_slips),
        standing: match slip.standing {
            Standing::Open => "open",
            Standing::Mended { .. } => "mended",
        },
        note: note.map(|n| n.note.clone()).unwrap_or_default(),
    })
}

/// The question with the prompts of its parts.
fn asked(item: &Item) -> String {
    let prompts = item.parts.iter().filter(|p| !p.prompt.is_empty());
    let prompts = prompts.map(|p| format!("({}) {}", p.id, plain(&p.prompt)));
    let all: Vec<String> = std::iter::once(plain(&item.text)).chain(prompts).collect();
    all.join("\n\n")
}

/// Before a part's entry where there are several.
fn part_name(item: &Item, part: &CheckedPart) -> String {
    if item.parts.len() > 1 {
        format!("({}) ", part.part)
    } else {
        String::new()
    }
}

fn typed(item: &Item, wrong: &[CheckedPart]) -> String {
    let one = |p: &CheckedPart| {
        let entry = item
            .find_part(&p.part)
            .map(|part| part.posed.in_words(&p.response))
            .unwrap_or_default();
        format!("{}{entry}", part_name(item, p))
    };
    wrong.iter().map(one).collect::<Vec<_>>().join("; ")
}

fn said(wrong: &[CheckedPart], show_slips: bool) -> String {
    let words = |p: &CheckedPart| {
        let slip = p
            .slip
            .filter(|_| show_slips)
            .map(|s| marking::slip_words(s).to_owned());
        p.notes.iter().cloned().chain(slip).collect::<Vec<_>>()
    };
    wrong.iter().flat_map(words).collect::<Vec<_>>().join(" ")
}

const HEAD: [&str; 9] = [
    "when",
    "where",
    "class",
    "question",
    "what was asked",
    "what I typed",
    "what was said",
    "standing",
    "my note",
];

fn csv(rows: &[Row]) -> Result<String, csv::Error> {
    let mut writer = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .from_writer(Vec::new());
    writer.write_record(HEAD)?;
    for r in rows {
        let cells = [
            r.at.as_str(),
            &r.place,
            &r.class,
            &r.question,
            &r.asked,
            &r.typed,
            &r.said,
            r.standing,
            &r.note,
        ];
        writer.write_record(cells.map(cell))?;
    }
    let bytes = writer
        .into_inner()
        .map_err(|e| csv::Error::from(e.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

fn markdown(rows: &[Row]) -> String {
    let entry = |r: &Row| {
        let class = if r.class.is_empty() {
            String::new()
        } else {
            format!(", {}", r.class)
        };
        let said = if r.said.is_empty() {
            String::new()
        } else {
            format!("\n- What was said: {}", r.said)
        };
        let note = if r.note.is_empty() {
            String::new()
        } else {
            format!("\n- My note: {}", r.note)
        };
        format!(
            "\n## {} ({})\n\n{}\n\n- {}{class}, {}\n- I typed: `{}`{said}{note}\n",
            r.question,
            r.standing,
            r.asked,
            r.place,
            r.at,
            r.typed.replace('`', "'")
        )
    };
    std::iter::once("# Slip book\n".to_owned())
        .chain(rows.iter().map(entry))
        .collect()
}

/// The slip book as a file.
#[utoipa::path(path = "/api/slips/export/{format}", params(("format" = String, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/slips/export/{format}")]
pub(crate) async fn export(
    school: web::Data<School>,
    who: SignedIn,
    format: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let book = Book::load(&school, who.0.id).await?;
    let mut rows = Vec::with_capacity(book.slips.len());
    for page in book.slips.chunks(EXPORTED_AT_ONCE) {
        let page: Vec<&SlipEntry> = page.iter().collect();
        let wrong = book.wrong_parts(&school, &page).await?;
        for (slip, wrong) in page.into_iter().zip(&wrong) {
            rows.push(row(&school, who.0.id, &book, slip, wrong).await?);
        }
    }
    let (kind, name, text) = match format.as_str() {
        "csv" => (
            "text/csv; charset=utf-8",
            "slip-book.csv",
            csv(&rows).map_err(|e| ApiError::Inside(e.to_string()))?,
        ),
        "md" => ("text/markdown; charset=utf-8", "slip-book.md", markdown(&rows)),
        _ => return Err(ApiError::NotFound),
    };
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header((
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .body(text))
}
