//! The recordings that questions play, from inside the binary (in a development build, from `content/`).

use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../content/sounds"]
struct Sounds;

/// The bytes of a recording, MP3.
pub fn find_sound(file: &str) -> Option<Vec<u8>> {
    Sounds::get(file)
        .filter(|_| file.ends_with(".mp3"))
        .map(|f| f.data.into_owned())
}
