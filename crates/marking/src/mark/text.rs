use maths::{Caution, ReadError, ReadErrorKind, Span};

use unicode_normalization::UnicodeNormalization;

use super::Shown;
use super::entry::{is_blank, nothing_entered};
use crate::answer::{AnswerBlock, CaseRule, FaultyBlock, Key};
use crate::verdict::{Marking, Outcome};

/// How a word is marked.
pub(crate) struct TextRule {
    accepted: Vec<String>,
    exact_case: bool,
    close: bool,
}

impl TextRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let words = match &block.key {
            Key::Words(words) => words.clone(),
            other => vec![other.text()],
        };
        let exact_case = block.case == Some(CaseRule::Exact);
        let accepted: Vec<String> = words.iter().map(|w| folded(w, exact_case)).collect();
        if accepted.is_empty() || accepted.iter().any(String::is_empty) {
            return Err(FaultyBlock::NoWords);
        }
        Ok(Self {
            accepted,
            exact_case,
            close: block.close.is_some_and(|n| n > 0),
        })
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        if entry.chars().count() > maths::MAX_CHARS {
            return Err(ReadError {
                kind: ReadErrorKind::TooLong,
                span: Span::new(maths::MAX_CHARS, maths::MAX_CHARS),
            });
        }
        let words = entry.split_whitespace().collect::<Vec<_>>().join(" ");
        let escaped: String = words
            .chars()
            .filter(|c| !"\\{}$&#^_%~".contains(*c) && !c.is_control())
            .collect();
        let cautions: Vec<Caution> = Vec::new();
        Ok(Shown {
            latex: format!("\\text{{{escaped}}}"),
            speech: words,
            cautions,
        })
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let shown = match self.read(entry) {
            Ok(shown) => shown,
            Err(error) => return Marking::unreadable(&error),
        };
        let typed = folded(entry, self.exact_case);
        if self.accepted.contains(&typed) || self.accepted.iter().any(|w| w == typed.trim_end_matches('.')) {
            return shown.onto(Marking::new(Outcome::Correct));
        }
        if self.close && self.accepted.iter().any(|word| is_one_edit_away(word, &typed)) {
            let error = ReadError {
                kind: ReadErrorKind::SpellingClose,
                span: Span::new(0, entry.chars().count()),
            };
            return shown.onto(Marking::unreadable(&error));
        }
        shown.onto(Marking::new(Outcome::Incorrect))
    }
}

/// Blanks folded to one; case folded unless it counts.
fn folded(text: &str, exact_case: bool) -> String {
    // A letter with its mark is one letter, however it was typed.
    let text: String = text.nfc().collect();
    let text = text.replace(['’', '‘'], "'").replace(['‐', '‑', '–'], "-");
    let text: String = text
        .chars()
        .filter(|c| !matches!(c, '\u{200b}'..='\u{200f}' | '\u{2060}' | '\u{feff}' | '\u{ad}'))
        .collect();
    let words = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if exact_case { words } else { words.to_lowercase() }
}

/// One letter more, less, or other, or two neighbours swapped.
fn is_one_edit_away(a: &str, b: &str) -> bool {
    let (a, b): (Vec<char>, Vec<char>) = (a.chars().collect(), b.chars().collect());
    let start = a.iter().zip(&b).take_while(|(x, y)| x == y).count();
    let rest = |v: &[char], from: usize| v.get(from..).unwrap_or_default().to_vec();
    let (x, y) = (rest(&a, start), rest(&b, start));
    let (x1, y1) = (rest(&a, start + 1), rest(&b, start + 1));
    if x == y {
        return false;
    }
    let swapped = x.len() == y.len()
        && x.len() >= 2
        && x.first() == y.get(1)
        && x.get(1) == y.first()
        && rest(&a, start + 2) == rest(&b, start + 2);
    (x.len() == y.len() && x1 == y1) || x1 == y || x == y1 || swapped
}
