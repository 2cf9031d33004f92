//! A recording by microphone that a person marks; without one, a file (QTI's uploadInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Known, Posed, PosedLine, Right, Shape, Shown, Spec, by_hand, check_replies, faulty};
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::rubric::RubricLine;
use crate::verdict::Marking;
use crate::written::{AttachedFile, Written};

/// Seconds that one recording may have: at the quality of a browser some 3 MB.
const LONGEST: u32 = 300;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Recorded {
    pub label: String,
    /// What a good answer says; shown where the right answers are. Markdown.
    pub model: String,
    /// What the teacher looks for, line by line; the points of a part come from the lines that are met.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rubric: Vec<RubricLine>,
    /// Seconds at most.
    #[serde(default = "two_minutes")]
    pub most_seconds: u32,
}

fn two_minutes() -> u32 {
    120
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[schema(as = RecordingView)]
pub struct RecordedView {
    label: String,
    most_seconds: u32,
}

impl Spec for Recorded {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        if self.label.trim().is_empty() || self.model.trim().is_empty() {
            return Err(faulty(
                part,
                "a recording needs a label, and a model of what a good one says",
            ));
        }
        if self.most_seconds < 5 || self.most_seconds > LONGEST {
            return Err(faulty(
                part,
                format!("a recording has from 5 to {LONGEST} seconds"),
            ));
        }
        by_hand::check_rubric(part, &self.rubric)?;
        check_replies(part, replies, |_| false)
    }

    fn guess(&self, typed: f64) -> f64 {
        typed
    }

    fn is_by_hand(&self) -> bool {
        true
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "recording",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        self.model.contains("{{")
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        Ok(Box::new(PosedRecording {
            view: RecordedView {
                label: set.words(&self.label)?,
                most_seconds: self.most_seconds,
            },
            model: set.prose(&self.model)?,
            rubric: by_hand::pose_rubric(set, &self.rubric)?,
        }))
    }

    fn known(&self, _part: &str, _to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        Err(RenderError::unfit("a reply to a recording"))
    }
}

struct PosedRecording {
    view: RecordedView,
    model: Vec<Block>,
    rubric: Vec<PosedLine>,
}

/// A recording that is nowhere: what stands for one in tests and in the demo.
fn some_recording(seconds: u32) -> Response {
    let file = AttachedFile {
        id: uuid::Uuid::nil(),
        name: "recording.webm".into(),
        media_type: "audio/webm".into(),
        size: u64::from(seconds) * 4_000,
        seconds: Some(seconds),
    };
    Response::Written {
        written: Written {
            files: vec![file],
            ..Written::default()
        },
    }
}

impl Posed for PosedRecording {
    fn shown(&self) -> Shown {
        Shown::Recording(self.view.clone())
    }

    fn is_by_hand(&self) -> bool {
        true
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        by_hand::mark(response)
    }

    fn key(&self) -> Response {
        some_recording(self.view.most_seconds / 2)
    }

    fn right(&self) -> Right {
        by_hand::right(&self.model)
    }

    fn rubric(&self) -> &[PosedLine] {
        &self.rubric
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let files = &by_hand::written(response)?.files;
        files.is_empty().then(|| "Nothing is recorded yet.".into())
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        by_hand::chosen(response)
    }

    fn in_words(&self, response: &Response) -> String {
        by_hand::in_words(response)
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        text.trim_start()
            .starts_with('{')
            .then(|| by_hand::parse_response(text))?
    }

    fn mistaken(&self) -> Response {
        some_recording(1)
    }

    fn answer(&self) -> String {
        crate::bank::plain(&self.model)
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }
}
