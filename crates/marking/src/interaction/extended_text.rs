//! Writing that a person marks, with files and links (QTI's extendedTextInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Known, Posed, PosedLine, Right, Shape, Shown, Spec, by_hand, check_replies, faulty};
use crate::bank::{Block, Drawn, FormatError, Inline, RenderError, Reply, Set};
use crate::response::Response;
use crate::rubric::RubricLine;
use crate::verdict::Marking;
use crate::written::{MOST_FILES, MOST_LINKS, Node, Written};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ExtendedText {
    pub label: String,
    /// What a good answer says; shown where the right answers are. Markdown.
    pub model: String,
    /// What the teacher looks for, line by line; the points of a part come from the lines that are met.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rubric: Vec<RubricLine>,
    /// A text or a table to begin with. Markdown.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub start: String,
    /// Words that are asked for, at least and at most.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least_words: Option<u32>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub most_words: Option<u32>,
    /// Files that can be attached.
    #[serde(default)]
    pub files: usize,
    /// Links that can be added.
    #[serde(default)]
    pub links: usize,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ExtendedTextView {
    label: String,
    /// What stands there to begin with.
    start: Vec<Node>,
    least_words: Option<u32>,
    most_words: Option<u32>,
    files: usize,
    links: usize,
}

impl Spec for ExtendedText {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        if self.label.trim().is_empty() || self.model.trim().is_empty() {
            return Err(faulty(
                part,
                "a text needs a label, and a model of what a good one says",
            ));
        }
        if self.files > MOST_FILES || self.links > MOST_LINKS {
            return Err(faulty(
                part,
                format!("at most {MOST_FILES} files and {MOST_LINKS} links"),
            ));
        }
        if let (Some(least), Some(most)) = (self.least_words, self.most_words)
            && least > most
        {
            return Err(faulty(part, "more words are asked for than may be written"));
        }
        // A person replies to it.
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
            kind: "extended_text",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        self.model.contains("{{")
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        Ok(Box::new(PosedText {
            view: ExtendedTextView {
                label: set.words(&self.label)?,
                start: Written::of_blocks(&set.prose(&self.start)?).text,
                least_words: self.least_words,
                most_words: self.most_words,
                files: self.files,
                links: self.links,
            },
            model: set.prose(&self.model)?,
            rubric: by_hand::pose_rubric(set, &self.rubric)?,
        }))
    }

    fn known(&self, _part: &str, _to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        Err(RenderError::unfit("a reply to writing"))
    }
}

struct PosedText {
    view: ExtendedTextView,
    model: Vec<Block>,
    rubric: Vec<PosedLine>,
}

impl Posed for PosedText {
    fn shown(&self) -> Shown {
        Shown::ExtendedText(self.view.clone())
    }

    fn is_by_hand(&self) -> bool {
        true
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        by_hand::mark(response)
    }

    fn key(&self) -> Response {
        Response::Written {
            written: Written::of_blocks(&self.model),
        }
    }

    fn right(&self) -> Right {
        by_hand::right(&self.model)
    }

    fn rubric(&self) -> &[PosedLine] {
        &self.rubric
    }

    fn unfinished(&self, response: &Response) -> Option<String> {
        let written = by_hand::written(response)?;
        let as_it_was = !self.view.start.is_empty() && written.text == self.view.start;
        if written.is_empty() || as_it_was && written.files.is_empty() && written.links.is_empty() {
            return Some("Nothing is written yet.".into());
        }
        // The words that stood there to begin with are not the student's.
        let start = Written {
            text: self.view.start.clone(),
            ..Written::default()
        };
        let own = written.words().saturating_sub(start.words());
        by_hand::too_few_words(own, self.view.least_words.unwrap_or(0))
    }

    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        by_hand::chosen(response)
    }

    fn in_words(&self, response: &Response) -> String {
        by_hand::in_words(response)
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        by_hand::parse_response(text)
    }

    /// Too little to earn much.
    fn mistaken(&self) -> Response {
        Response::Written {
            written: Written {
                text: self.key_nodes().into_iter().take(1).collect(),
                ..Written::default()
            },
        }
    }

    fn answer(&self) -> String {
        by_hand::in_words(&self.key())
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }

    fn faults(&self) -> Vec<String> {
        let words = Written::of_blocks(&self.model).words();
        let within = |bound: Option<u32>, ok: fn(usize, usize) -> bool| {
            bound.is_none_or(|b| ok(words, usize::try_from(b).unwrap_or(usize::MAX)))
        };
        let fits = within(self.view.least_words, |n, least| n >= least)
            && within(self.view.most_words, |n, most| n <= most);
        if fits {
            Vec::new()
        } else {
            vec![format!(
                "the model has {words} words, which is not what is asked for"
            )]
        }
    }
}

impl PosedText {
    fn key_nodes(&self) -> Vec<Node> {
        Written::of_blocks(&self.model).text
    }
}
