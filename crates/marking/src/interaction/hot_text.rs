//! Words or phrases that are marked in a passage (QTI's hottextInteraction).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::slots::{from_json, is_json};
use super::{
    Known, Member, Posed, Right, Shape, Shown, Spec, check_ids, check_replies, faulty, plain_line, share,
};
use crate::bank::{Block, Drawn, FormatError, Gap, Inline, RenderError, Reply, Set, gaps, lines_mut};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HotText {
    /// Markdown with `[[id: words]]` around what can be marked; with `by: word`, around what is right, and every word can
    /// be marked.
    pub passage: String,
    /// The ids of what is to be marked.
    pub correct: Vec<String>,
    #[serde(default)]
    pub by: By,
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum By {
    #[default]
    Phrase,
    Word,
}

#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct HotTextView {
    /// What can be marked is in its gaps.
    passage: Vec<Block>,
    /// Every word can be marked by itself.
    words: bool,
}

/// The ids between the brackets of a passage.
fn named(passage: &str) -> Vec<&str> {
    let pieces = passage.split("[[").skip(1);
    pieces
        .filter_map(|p| p.split([':', ']']).next().map(str::trim))
        .collect()
}

impl Spec for HotText {
    fn check(&self, part: &str, replies: &[Reply]) -> Result<(), FormatError> {
        let ids = named(&self.passage);
        check_ids(part, ids.iter().copied())?;
        check_ids(part, self.correct.iter().map(String::as_str))?;
        if self.correct.is_empty() {
            return Err(FormatError::NoneCorrect(part.to_owned()));
        }
        if let Some(id) = self.correct.iter().find(|id| !ids.contains(&id.as_str())) {
            return Err(faulty(part, format!("`{id}` is not in the passage")));
        }
        if self.by == By::Phrase && self.correct.len() == ids.len() {
            return Err(faulty(part, "everything that can be marked is right"));
        }
        check_replies(part, replies, |to| self.by == By::Phrase && ids.contains(&to))
    }

    fn guess(&self, _typed: f64) -> f64 {
        let places = match self.by {
            By::Phrase => named(&self.passage).len(),
            By::Word => self.passage.split_whitespace().count(),
        };
        0.5f64.powi(i32::try_from(places).unwrap_or(i32::MAX))
    }

    fn shape(&self) -> Shape {
        let by = match self.by {
            By::Phrase => Vec::new(),
            By::Word => vec![self.passage.clone()],
        };
        Shape {
            kind: "hot_text",
            ids: named(&self.passage)
                .into_iter()
                .map(str::to_owned)
                .chain(by)
                .collect(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        self.passage.contains("{{")
    }

    fn pose(&self, _part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        let mut passage = set.passage(&self.passage)?;
        let mut phrases = Vec::new();
        if self.by == By::Word {
            let mut count = 0;
            for line in lines_mut(&mut passage) {
                *line = by_words(std::mem::take(line), &mut count, &mut phrases);
            }
        } else {
            phrases.extend(gaps(&passage).map(|g| (g.id.clone(), vec![g.id.clone()])));
        }
        if let Some(gap) = gaps(&passage).find(|g| g.content.is_empty()) {
            return Err(RenderError::unfit(&format!("`[[{}]]` without words", gap.id)));
        }
        let right = phrases
            .into_iter()
            .filter(|(id, _)| self.correct.contains(id))
            .collect();
        Ok(Box::new(PosedHotText {
            passage,
            right,
            words: self.by == By::Word,
        }))
    }

    fn known(&self, _part: &str, to: &str, _drawn: &Drawn) -> Result<Known, RenderError> {
        let id = to.to_owned();
        Ok(Known {
            response: Response::Choices(vec![id.clone()]),
            is_it: Box::new(move |r| matches!(r, Response::Choices(chosen) if chosen.contains(&id))),
        })
    }
}

/// Every word by itself; the words of a phrase are noted under its id.
fn by_words(line: Vec<Inline>, count: &mut usize, phrases: &mut Vec<(String, Vec<String>)>) -> Vec<Inline> {
    let mut out = Vec::new();
    for piece in line {
        match piece {
            Inline::Gap(phrase) => {
                let before = *count;
                out.extend(by_words(phrase.content, count, phrases));
                let words = (before + 1..=*count).map(|n| format!("w{n}")).collect();
                phrases.push((phrase.id, words));
            }
            Inline::Text(text) => {
                for (i, word) in text.split(' ').enumerate() {
                    if i > 0 {
                        out.push(Inline::Text(" ".into()));
                    }
                    // A sign by itself is no word.
                    if word.chars().any(char::is_alphanumeric) {
                        out.push(next_word(count, Inline::Text(word.to_owned())));
                    } else if !word.is_empty() {
                        out.push(Inline::Text(word.to_owned()));
                    }
                }
            }
            other => out.push(next_word(count, other)),
        }
    }
    out
}

fn next_word(count: &mut usize, content: Inline) -> Inline {
    *count += 1;
    Inline::Gap(Gap {
        id: format!("w{count}"),
        content: vec![content],
    })
}

struct PosedHotText {
    passage: Vec<Block>,
    /// What is to be marked: a phrase, with its words.
    right: Vec<(String, Vec<String>)>,
    words: bool,
}

impl PosedHotText {
    /// Each phrase that is marked as a whole, and how many other stretches are marked.
    fn counted(&self, ids: &[String]) -> (usize, usize) {
        let whole = |words: &[String]| words.iter().all(|w| ids.contains(w));
        let right = self.right.iter().filter(|(_, words)| whole(words)).count();
        let (mut wrong, mut in_stretch) = (0, false);
        for gap in gaps(&self.passage) {
            let is_right = self.right.iter().any(|(_, words)| words.contains(&gap.id));
            let marked = ids.contains(&gap.id) && !is_right;
            // Wrong words side by side are one stretch.
            if marked && !(in_stretch && self.words) {
                wrong += 1;
            }
            in_stretch = marked;
        }
        (right, wrong)
    }
}

impl Posed for PosedHotText {
    fn shown(&self) -> Shown {
        Shown::HotText(HotTextView {
            passage: self.passage.clone(),
            words: self.words,
        })
    }

    /// A share for each right phrase, all of whose words are marked, less each wrong stretch, never below nothing.
    fn mark(&self, response: &Response) -> Option<Marking> {
        let Response::Choices(ids) = response else {
            return None;
        };
        if !gaps(&self.passage).any(|g| ids.contains(&g.id)) {
            return Some(Marking::new(Outcome::Unfinished).note("Nothing is marked yet."));
        }
        let (right, wrong) = self.counted(ids);
        let exact = right == self.right.len() && wrong == 0;
        let marking = Marking::shared(if exact {
            1.0
        } else {
            share(right, wrong, self.right.len())
        });
        let cut = self.words && right < self.right.len() && {
            let begun = |(_, words): &(String, Vec<String>)| {
                words.iter().any(|w| ids.contains(w)) && !words.iter().all(|w| ids.contains(w))
            };
            self.right.iter().any(begun)
        };
        Some(if cut {
            marking.note("A phrase counts once all of its words are marked.")
        } else {
            marking
        })
    }

    fn members(&self, response: &Response) -> Vec<Member> {
        let Response::Choices(ids) = response else {
            return Vec::new();
        };
        let one = |gap: &Gap| Member {
            id: gap.id.clone(),
            right: self.right.iter().any(|(_, words)| words.contains(&gap.id)),
            ..Member::default()
        };
        gaps(&self.passage)
            .filter(|g| ids.contains(&g.id))
            .map(one)
            .collect()
    }

    fn key(&self) -> Response {
        Response::Choices(self.right.iter().flat_map(|(_, words)| words.clone()).collect())
    }

    fn right(&self) -> Right {
        Right {
            choices: self.chosen(&self.key()),
            ..Right::default()
        }
    }

    /// What is marked, words that stand side by side in one line.
    fn chosen(&self, response: &Response) -> Vec<Vec<Inline>> {
        let Response::Choices(ids) = response else {
            return Vec::new();
        };
        let mut lines: Vec<Vec<Inline>> = Vec::new();
        let mut goes_on = false;
        for gap in gaps(&self.passage) {
            let marked = ids.contains(&gap.id);
            match lines.last_mut() {
                Some(line) if marked && goes_on && self.words => {
                    line.push(Inline::Text(" ".into()));
                    line.extend(gap.content.iter().cloned());
                }
                _ if marked => lines.push(gap.content.clone()),
                _ => {}
            }
            goes_on = marked;
        }
        lines
    }

    fn in_words(&self, response: &Response) -> String {
        self.chosen(response)
            .iter()
            .map(|l| plain_line(l))
            .collect::<Vec<_>>()
            .join("; ")
    }

    /// Ids with commas between them, or the response as JSON.
    fn parse_response(&self, text: &str) -> Option<Response> {
        if is_json(text) {
            return from_json(text).filter(|json| matches!(json, Response::Choices(_)));
        }
        let ids: Vec<String> = text.split(',').map(|id| id.trim().to_owned()).collect();
        let known = ids.iter().all(|id| gaps(&self.passage).any(|g| g.id == *id));
        known.then_some(Response::Choices(ids))
    }

    /// The first that is not to be marked.
    fn mistaken(&self) -> Response {
        let is_right = |id: &String| self.right.iter().any(|(_, words)| words.contains(id));
        let other = gaps(&self.passage).find(|g| !is_right(&g.id));
        Response::Choices(other.map(|g| g.id.clone()).into_iter().collect())
    }

    fn answer(&self) -> String {
        self.in_words(&self.key())
    }

    fn has_answer_of(&self, other: &dyn Posed) -> bool {
        self.answer() == other.answer()
    }
}
