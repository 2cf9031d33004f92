//! How intervals, unions and inequalities are typed.

use std::cmp::Ordering;

use maths::{Caution, Comma, Expr, ReadError, ReadErrorKind, ReadOptions, Reading, Span, compare_constants};

use super::conditions::{Condition, Relation, infinite};
use super::region::{End, Region, Stretch, intersection, merged, open_end};
use super::{IntervalRule, Typed};
use crate::mark::entry::{is_blank, nothing_entered, shifted};
use crate::mark::split::{Piece, check_brackets, inside, says_nothing, split, without_full_stop};

impl IntervalRule {
    pub(super) fn parse(&self, entry: &str) -> Result<(Typed, Vec<Caution>), ReadError> {
        if is_blank(entry) {
            return Err(nothing_entered());
        }
        let length = entry.chars().count();
        if length > maths::MAX_CHARS {
            return Err(ReadError::new(
                ReadErrorKind::TooLong,
                maths::MAX_CHARS,
                maths::MAX_CHARS,
            ));
        }
        let text = without_full_stop(entry);
        let text = self.measure.as_ref().map_or(text, |m| m.without_outer(text));
        let done = |region: Region| {
            (
                Typed::Region {
                    region,
                    infinity_closed: false,
                },
                Vec::new(),
            )
        };
        if says_nothing(text) {
            return Ok(done(Vec::new()));
        }
        if says_everything(text) {
            return Ok(done(vec![Stretch {
                low: open_end(),
                high: open_end(),
            }]));
        }
        let related = text.contains(['<', '>', '≤', '≥', '≠', '⩽', '⩾', '＜', '＞']) || text.contains("!=");
        let bare_equal = text.contains('=') && !related;
        if related || (bare_equal && self.variable.is_some() && !text.contains(['[', ']'])) {
            return self.inequality(Piece::new(text));
        }
        let piece = self.without_membership(Piece::new(text));
        self.union(piece)
    }

    /// `x ∈ (1, 2)`, `x in [1, 2]`, `x = (1, 2)`: what stands in front is dropped.
    fn without_membership<'a>(&self, piece: Piece<'a>) -> Piece<'a> {
        for sign in ["∈", " in ", "="] {
            if let Some((head, rest)) = piece.text.split_once(sign)
                && head.trim().chars().all(char::is_alphanumeric)
            {
                let at = piece.at + head.chars().count() + sign.chars().count();
                return Piece { text: rest, at };
            }
        }
        piece
    }

    fn value(&self, piece: Piece, cautions: &mut Vec<Caution>) -> Result<Expr, ReadError> {
        let piece = piece.trimmed();
        if piece.text.is_empty() {
            return Err(piece.error(ReadErrorKind::StrayComma));
        }
        let options = ReadOptions {
            comma: Comma::Separator,
            infinity: true,
            ..ReadOptions::number(&self.plain)
        };
        let reading = self.number(piece, &options)?;
        cautions.extend(reading.cautions);
        Ok(reading.tree)
    }

    /// A number, with the unit that is printed beside the box or without.
    fn number(&self, piece: Piece, options: &ReadOptions) -> Result<Reading, ReadError> {
        match &self.measure {
            Some(measure) => measure.read(piece.text, options),
            None => maths::read_expression(piece.text, options),
        }
        .map_err(|e| shifted(e, piece.at))
    }

    fn union(&self, whole: Piece) -> Result<(Typed, Vec<Caution>), ReadError> {
        let mut cautions = Vec::new();
        let mut region = Vec::new();
        let mut infinity_closed = false;
        // ]1, 3[ turns brackets round, so pieces are cut at the joining words first.
        for piece in cut_at_joins(&whole) {
            let piece = piece.trimmed();
            if let Some(inner) = inside(&piece, &['{']) {
                for member in split(&inner, &[',', ';'], &[]) {
                    let value = self.value(member, &mut cautions)?;
                    let end = End {
                        value: Some(value),
                        closed: true,
                    };
                    region.push(Stretch {
                        low: end.clone(),
                        high: end,
                    });
                }
                continue;
            }
            let (stretch, at_infinity) = self.stretch(piece, &mut cautions)?;
            infinity_closed |= at_infinity;
            region.push(stretch);
        }
        Ok((
            Typed::Region {
                region: merged(region),
                infinity_closed,
            },
            cautions,
        ))
    }

    fn stretch(&self, piece: Piece, cautions: &mut Vec<Caution>) -> Result<(Stretch, bool), ReadError> {
        let first = piece.text.chars().next();
        let last = piece.text.chars().next_back();
        let low_closed = match first {
            Some('[') => true,
            Some('(' | ']' | '（') => false,
            Some(c) => return Err(piece.error(ReadErrorKind::MissingBefore(c.to_string()))),
            None => return Err(piece.error(ReadErrorKind::Empty)),
        };
        let high_closed = match last {
            Some(']') if piece.text.chars().count() > 1 => true,
            Some(')' | '[' | '）') if piece.text.chars().count() > 1 => false,
            _ => return Err(piece.error(ReadErrorKind::MissingClosing(first.unwrap_or('(')))),
        };
        let from = first.map_or(0, char::len_utf8);
        let to = piece.text.len() - last.map_or(0, char::len_utf8);
        let inner = Piece {
            text: piece.text.get(from..to).unwrap_or_default(),
            at: piece.at + 1,
        };
        check_brackets(inner, false)?;
        let parts = split(&inner, &[',', ';'], &[]);
        let [low, high] = parts.as_slice() else {
            return Err(piece.error(if parts.len() < 2 {
                ReadErrorKind::MissingAfter(inner.text.trim().to_owned())
            } else {
                ReadErrorKind::SeveralAnswers
            }));
        };
        let (low, high) = (self.value(*low, cautions)?, self.value(*high, cautions)?);
        let (low_end, high_end) = (infinite(&low), infinite(&high));
        let wrong = || Err(piece.error(ReadErrorKind::EndsInWrongOrder));
        if low_end == Some(true) || high_end == Some(false) {
            return wrong();
        }
        if low_end.is_none() && high_end.is_none() {
            let order = compare_constants(&low, &high);
            let fits = match order {
                Ok((Ordering::Less, _)) => true,
                Ok((Ordering::Equal, _)) => low_closed && high_closed,
                Ok((Ordering::Greater, _)) => false,
                Err(_) => true,
            };
            if !fits {
                return wrong();
            }
        }
        let at_infinity = (low_end.is_some() && low_closed) || (high_end.is_some() && high_closed);
        let end = |value: Expr, infinity: Option<bool>, closed: bool| match infinity {
            Some(_) => open_end(),
            None => End {
                value: Some(value),
                closed,
            },
        };
        Ok((
            Stretch {
                low: end(low, low_end, low_closed),
                high: end(high, high_end, high_closed),
            },
            at_infinity,
        ))
    }

    fn inequality(&self, whole: Piece) -> Result<(Typed, Vec<Caution>), ReadError> {
        if self.variable.is_none() {
            return Err(whole.error(ReadErrorKind::InequalityHere));
        }
        check_brackets(whole, false)?;
        let mut cautions = Vec::new();
        let mut alternatives = Vec::new();
        // Whether the conditions of an alternative are joined by a word or sign that means "and".
        let mut joined = Vec::new();
        for alternative in split(&whole, &['∪', '∨'], &["or", "U"]) {
            let mut conditions = Vec::new();
            joined.push(split(&alternative, &['∧', '&'], &["and"]).len() > 1);
            for chain in split(&alternative, &[',', ';', '∧', '&'], &["and"]) {
                conditions.extend(self.chain(chain.trimmed(), &mut cautions)?);
            }
            alternatives.push(conditions);
        }
        let mut region: Region = Vec::new();
        let mut solved = true;
        for (conditions, by_word) in alternatives.iter().zip(&joined) {
            let regions: Vec<Option<Region>> = conditions
                .iter()
                .map(|(left, relation, right)| self.solved(left, *relation, right))
                .collect();
            solved &= regions.iter().all(Option::is_some);
            let regions: Vec<Region> = regions.into_iter().flatten().collect();
            let everything = vec![Stretch {
                low: open_end(),
                high: open_end(),
            }];
            let both = regions
                .iter()
                .fold(everything, |part, next| intersection(&part, next));
            // `x < 1, x > 3` without a word between them: one or the other, since both can never hold.
            if both.is_empty() && !by_word && regions.len() > 1 {
                region.extend(regions.into_iter().flatten());
            } else {
                region.extend(both);
            }
        }
        if solved {
            return Ok((
                Typed::Region {
                    region: merged(region),
                    infinity_closed: false,
                },
                cautions,
            ));
        }
        Ok((Typed::Unsolved(alternatives), cautions))
    }

    fn chain(&self, piece: Piece, cautions: &mut Vec<Caution>) -> Result<Vec<Condition>, ReadError> {
        let mut parts: Vec<Piece> = Vec::new();
        let mut relations = Vec::new();
        let chars: Vec<(usize, char)> = piece.text.char_indices().collect();
        let (mut start, mut i) = (0, 0);
        while let Some((at, c)) = chars.get(i).copied() {
            let next = chars.get(i + 1).map(|(_, c)| *c);
            let found = match (c, next) {
                ('<', Some('=')) | ('=', Some('<')) => Some((Relation::LessEqual, 2)),
                ('>', Some('=')) | ('=', Some('>')) => Some((Relation::GreaterEqual, 2)),
                ('!', Some('=')) | ('<', Some('>')) => Some((Relation::NotEqual, 2)),
                ('<' | '＜', _) => Some((Relation::Less, 1)),
                ('>' | '＞', _) => Some((Relation::Greater, 1)),
                ('≤' | '⩽', _) => Some((Relation::LessEqual, 1)),
                ('≥' | '⩾', _) => Some((Relation::GreaterEqual, 1)),
                ('≠', _) => Some((Relation::NotEqual, 1)),
                ('=', _) => Some((Relation::Equal, 1)),
                _ => None,
            };
            if let Some((relation, length)) = found {
                let text = piece.text.get(start..at).unwrap_or_default();
                let before = piece.text.get(..start).map_or(0, |t| t.chars().count());
                parts.push(Piece {
                    text,
                    at: piece.at + before,
                });
                relations.push(relation);
                i += length;
                start = chars.get(i).map_or(piece.text.len(), |(at, _)| *at);
            } else {
                i += 1;
            }
        }
        let before = piece.text.get(..start).map_or(0, |t| t.chars().count());
        parts.push(Piece {
            text: piece.text.get(start..).unwrap_or_default(),
            at: piece.at + before,
        });
        if relations.is_empty() {
            return Err(piece.error(ReadErrorKind::WordsOnly));
        }
        let options = ReadOptions {
            infinity: true,
            ..ReadOptions::number(&self.with_variable)
        };
        let mut sides = Vec::with_capacity(parts.len());
        for part in parts {
            let part = part.trimmed();
            if part.text.is_empty() {
                return Err(ReadError {
                    kind: ReadErrorKind::MissingAfter("<, > or =".into()),
                    span: Span::new(part.at, part.at + 1),
                });
            }
            let reading = self.number(part, &options)?;
            cautions.extend(reading.cautions);
            sides.push(reading.tree);
        }
        Ok(relations
            .into_iter()
            .zip(sides.windows(2))
            .filter_map(|(r, pair)| match pair {
                [a, b] => Some((a.clone(), r, b.clone())),
                _ => None,
            })
            .collect())
    }
}

fn cut_at_joins<'a>(whole: &Piece<'a>) -> Vec<Piece<'a>> {
    // Brackets may be turned round, so depth says nothing here: the words alone part the pieces.
    let mut cuts = vec![];
    let text = whole.text;
    let mut start = 0;
    let piece = |from: usize, to: usize| {
        let before = text.get(..from).map_or(0, |t| t.chars().count());
        Piece {
            text: text.get(from..to).unwrap_or_default(),
            at: whole.at + before,
        }
    };
    let chars: Vec<(usize, char)> = text.char_indices().collect();
    let mut i = 0;
    while let Some((at, c)) = chars.get(i).copied() {
        let previous = i.checked_sub(1).and_then(|p| chars.get(p)).map(|(_, c)| *c);
        let apart = |c: Option<char>| c.is_none_or(|c| !c.is_alphabetic());
        let word = |w: &str| {
            text.get(at..at + w.len())
                .is_some_and(|t| t.eq_ignore_ascii_case(w))
                && apart(previous)
                && apart(text.get(at + w.len()..).and_then(|r| r.chars().next()))
        };
        let length = if matches!(c, '∪' | '⋃') {
            c.len_utf8()
        } else if word("or") {
            2
        } else {
            usize::from(word("u"))
        };
        if length > 0 {
            cuts.push(piece(start, at));
            start = at + length;
            while chars.get(i).is_some_and(|(p, _)| *p < start) {
                i += 1;
            }
        } else {
            i += 1;
        }
    }
    cuts.push(piece(start, text.len()));
    cuts
}

fn says_everything(text: &str) -> bool {
    let folded = text
        .split_whitespace()
        .collect::<Vec<_>>()
        .join(" ")
        .to_lowercase();
    matches!(
        folded.as_str(),
        "all reals"
            | "all real numbers"
            | "all real"
            | "r"
            | "ℝ"
            | "reals"
            | "the reals"
            | "all numbers"
            | "every real number"
    )
}
