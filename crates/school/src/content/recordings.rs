//! The recordings that ship with the application, from inside the binary (in a development build, from `content/`).

use coursework::Stop;
use rust_embed::RustEmbed;
use serde::Deserialize;
use uuid::Uuid;

#[derive(RustEmbed)]
#[folder = "../../content/recordings"]
struct Files;

/// A recording that ships, without its files.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Shipped {
    pub id: Uuid,
    pub slug: String,
    pub title: String,
    pub seconds: f64,
    pub stops: Vec<Stop>,
}

/// Every recording that ships, as its list has it.
///
/// # Errors
/// Where the list can't be read.
pub fn shipped_recordings() -> Result<Vec<Shipped>, String> {
    let list = Files::get("recordings.yaml").ok_or("there is no list of recordings")?;
    let text = String::from_utf8_lossy(&list.data).into_owned();
    serde_saphyr::from_str(&text).map_err(|e| e.to_string())
}

/// The media of one that ships, and its captions.
pub fn shipped_files(slug: &str) -> Option<(Vec<u8>, String)> {
    let media = Files::get(&format!("{slug}.webm"))?;
    let captions = Files::get(&format!("{slug}.vtt"))?;
    Some((
        media.data.into_owned(),
        String::from_utf8_lossy(&captions.data).into_owned(),
    ))
}

/// Whether a recording of this name or id ships.
pub fn ships(name: &str) -> bool {
    shipped_recordings().is_ok_and(|all| all.iter().any(|r| r.slug == name || r.id.to_string() == name))
}
