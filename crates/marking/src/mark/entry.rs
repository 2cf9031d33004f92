//! What stands around an answer: a name in front of it, a full stop behind it.

use maths::{ReadError, ReadErrorKind, Span};

/// Drops one name and one `=` in front (`x = 3`, `f(x) = x^2`, `= 5`). Gives the rest and how many characters went.
pub(crate) fn drop_name(entry: &str) -> (&str, usize) {
    let Some((head, rest)) = entry.split_once(['=', '＝']) else {
        return (entry, 0);
    };
    if rest.starts_with(['=', '<', '>']) || !is_answer_name(head.trim()) {
        return (entry, 0);
    }
    (rest, head.chars().count() + 1)
}

fn is_answer_name(head: &str) -> bool {
    if head.is_empty() {
        return true;
    }
    if head == "dy/dx" {
        return true;
    }
    let (name, argument) = match head.split_once('(') {
        Some((name, rest)) => match rest.trim_end().strip_suffix(')') {
            Some(inside) => (name.trim(), Some(inside)),
            None => return false,
        },
        None => (head, None),
    };
    let name = name.trim_end_matches(['\'', '’', '′']);
    is_plain_name(name)
        && !maths::is_reserved_name(name)
        && argument.is_none_or(|list| list.split(',').all(|a| is_plain_name(a.trim())))
}

fn is_plain_name(name: &str) -> bool {
    let mut chars = name.chars();
    chars.next().is_some_and(char::is_alphabetic) && chars.all(|c| c.is_alphanumeric() || c == '_')
}

/// An error of the part that was read, at its place in the whole entry.
pub(crate) fn shifted(mut error: ReadError, by: usize) -> ReadError {
    error.span = Span::new(error.span.start + by, error.span.end + by);
    error
}

/// Only blanks and invisible characters.
pub(crate) fn is_blank(entry: &str) -> bool {
    entry
        .chars()
        .all(|c| c.is_whitespace() || matches!(c, '\u{200b}'..='\u{200f}' | '\u{2060}' | '\u{feff}'))
}

pub(crate) fn nothing_entered() -> ReadError {
    ReadError {
        kind: ReadErrorKind::Empty,
        span: Span::new(0, 0),
    }
}
