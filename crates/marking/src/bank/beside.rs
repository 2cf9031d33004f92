//! What lies beside a question: documents to look things up in, and what there is to listen to.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::format::{FormatError, Question};
use super::prose::{self, Block};
use super::render::{RenderError, Set};

/// A document beside a question: a load chart, a log, a plan. It can be opened, searched and compared with another.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Exhibit {
    pub id: String,
    /// What it is called on its tab, in a few words.
    pub title: String,
    /// Markdown with tables and figures; `{{name}}` puts a number in place. May be left out beside a recording.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub text: String,
    /// A recording with stops to watch there: one that ships, by its name, or one that was uploaded, by its id.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub recording: Option<String>,
}

/// Whether this can be the name or the id of a recording.
pub(super) fn is_recording(name: &str) -> bool {
    let fits = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    !name.is_empty() && name.len() <= 60 && name.chars().all(fits)
}

/// Something to listen to, of the files in `content/sounds`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Sound {
    /// The name of an MP3 file.
    pub file: String,
    pub title: String,
    /// All that is to be heard, in words; a paragraph for each voice or signal. Markdown.
    pub transcript: String,
}

/// An exhibit with a set's numbers in place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = ExhibitView)]
pub struct ShownExhibit {
    pub id: String,
    pub title: String,
    pub text: Vec<Block>,
    /// A recording with stops, by its name or id.
    pub recording: Option<String>,
}

/// A recording as it is shown in a text.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = SoundView)]
pub struct Recording {
    pub title: String,
    pub address: String,
    #[schema(no_recursion)]
    pub transcript: Vec<Block>,
}

impl Sound {
    /// As it is heard outside a question; `None` where numbers of a set are named in it.
    pub fn as_recording(&self) -> Option<Recording> {
        if self.title.contains("{{") || self.transcript.contains("{{") {
            return None;
        }
        Some(Recording {
            title: self.title.clone(),
            address: format!("/api/sounds/{}", self.file),
            transcript: prose::read(&self.transcript).ok()?,
        })
    }

    pub(super) fn shown(&self, set: &Set) -> Result<Recording, RenderError> {
        let transcript = prose::read(&set.words(&self.transcript)?)?;
        if transcript.iter().any(|b| matches!(b, Block::Figure { .. })) {
            return Err(RenderError::unfit("a figure in a transcript"));
        }
        Ok(Recording {
            title: set.words(&self.title)?,
            address: format!("/api/sounds/{}", self.file),
            transcript,
        })
    }
}

pub(super) fn shown_exhibits(question: &Question, set: &Set) -> Result<Vec<ShownExhibit>, RenderError> {
    let one = |exhibit: &Exhibit| {
        Ok(ShownExhibit {
            id: exhibit.id.clone(),
            title: set.words(&exhibit.title)?,
            text: set.prose(&exhibit.text)?,
            recording: exhibit.recording.clone(),
        })
    };
    question.exhibits.iter().map(one).collect()
}

/// # Errors
/// What is wrong with what lies beside a question.
pub(super) fn check(question: &Question, is_id: impl Fn(&str) -> bool) -> Result<(), FormatError> {
    let beside = |words: String| Err(FormatError::Beside(words));
    for (i, exhibit) in question.exhibits.iter().enumerate() {
        if !is_id(&exhibit.id) {
            return Err(FormatError::BadId(exhibit.id.clone()));
        }
        if question.exhibits.iter().take(i).any(|e| e.id == exhibit.id) {
            return beside(format!("the exhibit `{}` occurs twice", exhibit.id));
        }
        let is_empty = exhibit.text.trim().is_empty() && exhibit.recording.is_none();
        if exhibit.title.trim().is_empty() || is_empty {
            return beside(format!(
                "the exhibit `{}` needs a title, and a text or a recording",
                exhibit.id
            ));
        }
        if let Some(name) = exhibit.recording.as_ref().filter(|n| !is_recording(n)) {
            return beside(format!(
                "the exhibit `{}` names no recording: `{name}`",
                exhibit.id
            ));
        }
    }
    check_sounds(&question.sounds)
}

fn check_sounds(sounds: &BTreeMap<String, Sound>) -> Result<(), FormatError> {
    for (name, sound) in sounds {
        let stem = sound.file.strip_suffix(".mp3").unwrap_or_default();
        let words = if stem.is_empty() || !stem.chars().all(|c| c.is_ascii_alphanumeric() || c == '-') {
            format!("the sound `{name}` needs the name of an MP3 file in content/sounds")
        } else if sound.title.trim().is_empty() || sound.transcript.trim().is_empty() {
            format!("the sound `{name}` needs a title and a transcript: not everybody can hear it")
        } else {
            continue;
        };
        return Err(FormatError::Beside(words));
    }
    Ok(())
}
