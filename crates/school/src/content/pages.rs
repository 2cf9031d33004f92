//! The reading pages and their figures, from inside the binary (in a development build, from `content/`).

use std::collections::BTreeMap;
use std::sync::OnceLock;

use marking::{Page, parse_page};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../content/pages"]
struct Texts;

#[derive(RustEmbed)]
#[folder = "../../content/figures"]
struct Figures;

/// The page of a skill, as it was edited last.
pub fn find_page(skill: &str) -> Option<&'static Page> {
    super::edited::find_page(skill).or_else(|| find_shipped(skill))
}

/// The text of the page that ships for a skill.
pub fn shipped_page(skill: &str) -> Option<String> {
    let file = Texts::get(&format!("{skill}.md"))?;
    Some(String::from_utf8_lossy(&file.data).into_owned())
}

fn find_shipped(skill: &str) -> Option<&'static Page> {
    static READ: OnceLock<BTreeMap<String, Page>> = OnceLock::new();
    READ.get_or_init(read_all).get(skill)
}

fn read_all() -> BTreeMap<String, Page> {
    let mut pages = BTreeMap::new();
    for name in Texts::iter().filter(|name| name.ends_with(".md")) {
        let text = Texts::get(&name).map(|file| String::from_utf8_lossy(&file.data).into_owned());
        match parse_page(&text.unwrap_or_default()) {
            Ok(page) => {
                pages.insert(name.trim_end_matches(".md").to_owned(), page);
            }
            Err(fault) => tracing::error!(page = %name, %fault, "a reading page cannot be read"),
        }
    }
    pages
}

/// The bytes of a figure.
pub fn find_figure(file: &str) -> Option<Vec<u8>> {
    Figures::get(file)
        .filter(|_| file.ends_with(".svg"))
        .map(|f| f.data.into_owned())
}
