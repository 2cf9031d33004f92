//! Taking a typed collection apart: brackets around it, and its members.

use maths::{ReadError, ReadErrorKind, Span};

/// A piece of the entry with its place in characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Piece<'a> {
    pub text: &'a str,
    pub at: usize,
}

impl<'a> Piece<'a> {
    pub fn new(text: &'a str) -> Self {
        Piece { text, at: 0 }
    }

    fn part(&self, from: usize, to: usize) -> Piece<'a> {
        let text = self.text.get(from..to).unwrap_or_default();
        let before = self.text.get(..from).map_or(0, |t| t.chars().count());
        Piece {
            text,
            at: self.at + before,
        }
    }

    pub fn trimmed(&self) -> Piece<'a> {
        let start = self.text.len() - self.text.trim_start().len();
        let end = start + self.text.trim().len();
        self.part(start, end)
    }

    pub fn error(&self, kind: ReadErrorKind) -> ReadError {
        let end = self.at + self.text.chars().count();
        ReadError {
            kind,
            span: Span::new(self.at, end.max(self.at)),
        }
    }
}

fn closing(open: char) -> char {
    match open {
        '(' | '（' => ')',
        '[' => ']',
        '{' => '}',
        '<' | '⟨' => '>',
        other => other,
    }
}

fn same_closing(a: char, b: char) -> bool {
    let plain = |c: char| match c {
        '⟩' => '>',
        '）' => ')',
        other => other,
    };
    plain(a) == plain(b)
}

/// Every bracket has its partner.
///
/// # Errors
/// The first one that has none, or the wrong one.
pub(crate) fn check_brackets(piece: Piece, angles: bool) -> Result<(), ReadError> {
    let mut open: Vec<(char, usize)> = Vec::new();
    for (i, c) in piece.text.chars().enumerate() {
        let at = piece.at + i;
        let err = |kind| {
            Err(ReadError {
                kind,
                span: Span::new(at, at + 1),
            })
        };
        match c {
            '(' | '[' | '{' | '（' | '⟨' => open.push((c, at)),
            '<' if angles => open.push((c, at)),
            ')' | ']' | '}' | '）' | '⟩' | '>' => {
                if c == '>' && !angles {
                    continue;
                }
                match open.pop() {
                    None => return err(ReadErrorKind::MissingOpening(c)),
                    Some((o, _)) if !same_closing(closing(o), c) => {
                        return err(ReadErrorKind::Mismatched { open: o, close: c });
                    }
                    Some(_) => {}
                }
            }
            _ => {}
        }
    }
    match open.pop() {
        Some((o, at)) => Err(ReadError {
            kind: ReadErrorKind::MissingClosing(o),
            span: Span::new(at, at + 1),
        }),
        None => Ok(()),
    }
}

/// The inside of brackets that go round the whole piece, if they are among these.
pub(crate) fn inside<'a>(piece: &Piece<'a>, opens: &[char]) -> Option<Piece<'a>> {
    let piece = piece.trimmed();
    let first = piece.text.chars().next().filter(|c| opens.contains(c))?;
    let mut depth = 0i32;
    for (i, c) in piece.text.char_indices() {
        let angle = matches!(first, '<' | '⟨');
        match c {
            '(' | '[' | '{' | '⟨' => depth += 1,
            '<' if angle => depth += 1,
            ')' | ']' | '}' | '⟩' => depth -= 1,
            '>' if angle => depth -= 1,
            _ => {}
        }
        if depth == 0 {
            let last = i + c.len_utf8() == piece.text.len() && same_closing(closing(first), c);
            return last.then(|| piece.part(first.len_utf8(), i));
        }
    }
    None
}

/// Pieces between the separators that stand outside all brackets. Words (`or`) must stand alone.
pub(crate) fn split<'a>(piece: &Piece<'a>, signs: &[char], words: &[&str]) -> Vec<Piece<'a>> {
    let mut pieces = Vec::new();
    let (mut depth, mut start) = (0i32, 0);
    let text = piece.text;
    let mut skip_to = 0;
    for (i, c) in text.char_indices() {
        if i < skip_to {
            continue;
        }
        match c {
            '(' | '[' | '{' | '⟨' => depth += 1,
            ')' | ']' | '}' | '⟩' => depth -= 1,
            _ => {}
        }
        if depth != 0 {
            continue;
        }
        let rest = text.get(i..).unwrap_or_default();
        let word = words
            .iter()
            .find(|w| starts_with_word(rest, w, text.get(..i).unwrap_or_default()));
        let length = if signs.contains(&c) {
            c.len_utf8()
        } else {
            word.map_or(0, |w| w.len())
        };
        if length > 0 {
            pieces.push(piece.part(start, i));
            start = i + length;
            skip_to = start;
        }
    }
    pieces.push(piece.part(start, text.len()));
    pieces
}

fn starts_with_word(rest: &str, word: &str, before: &str) -> bool {
    let fits = rest
        .get(..word.len())
        .is_some_and(|head| head.eq_ignore_ascii_case(word));
    let apart = |c: Option<char>| c.is_none_or(|c| !c.is_alphabetic());
    fits && apart(before.chars().next_back()) && apart(rest.get(word.len()..).and_then(|r| r.chars().next()))
}

/// One of the ways to say that nothing solves it.
pub(crate) fn says_nothing(text: &str) -> bool {
    let folded: String = text.trim().trim_end_matches('.').to_lowercase();
    let folded = folded.split_whitespace().collect::<Vec<_>>().join(" ");
    matches!(
        folded.as_str(),
        "no solution"
            | "no solutions"
            | "none"
            | "{}"
            | "{ }"
            | "∅"
            | "ø"
            | "empty"
            | "empty set"
            | "the empty set"
    )
}

/// The entry without a final full stop.
pub(crate) fn without_full_stop(text: &str) -> &str {
    let trimmed = text.trim_end();
    match trimmed.strip_suffix('.') {
        Some(rest) if !rest.is_empty() && !rest.ends_with('.') => rest,
        _ => text,
    }
}
