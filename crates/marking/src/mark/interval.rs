//! Intervals, their unions, and inequalities.

use std::cmp::Ordering;

use maths::{
    Caution, Comma, Constant, Expr, Names, ReadError, ReadErrorKind, ReadOptions, Span, compare_constants,
};
use num_bigint::BigInt;
use num_rational::BigRational;

use super::entry::{is_blank, nothing_entered, shifted};
use super::split::{Piece, check_brackets, inside, says_nothing, split, without_full_stop};
use super::{Shown, names_of, without_value, wrong_form};
use crate::answer::{AnswerBlock, FaultyBlock};
use crate::verdict::{Marking, Outcome, Slip};

/// One end of an interval: a value, or none for infinity.
#[derive(Clone, Debug)]
struct End {
    value: Option<Expr>,
    closed: bool,
}

#[derive(Clone, Debug)]
struct Stretch {
    low: End,
    high: End,
}

/// Stretches in order, none touching another.
type Region = Vec<Stretch>;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Relation {
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Equal,
    NotEqual,
}

/// What was typed, before it is compared.
enum Typed {
    Region {
        region: Region,
        infinity_closed: bool,
    },
    /// An inequality that is not solved: alternatives of conditions that all hold.
    Unsolved(Vec<Vec<(Expr, Relation, Expr)>>),
}

pub(crate) struct IntervalRule {
    plain: Names,
    with_variable: Names,
    variable: Option<String>,
    key: Region,
}

impl IntervalRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let plain = names_of(&[], false)?;
        let with_variable = match &block.variable {
            Some(name) => names_of(std::slice::from_ref(name), false)?,
            None => names_of(&[], false)?,
        };
        let variable = with_variable.variables().first().map(ToString::to_string);
        let mut rule = Self {
            plain,
            with_variable,
            variable,
            key: Vec::new(),
        };
        let text = block.key.text();
        let (typed, _) = rule.parse(&text).map_err(|e| FaultyBlock::KeyUnreadable {
            key: text.clone(),
            why: maths::error_words(&e.kind),
        })?;
        match typed {
            Typed::Region {
                region,
                infinity_closed: false,
            } => rule.key = region,
            Typed::Region { .. } => {
                return Err(FaultyBlock::KeyUnreadable {
                    key: text,
                    why: "infinity never belongs to an interval".into(),
                });
            }
            Typed::Unsolved(_) => {
                return Err(FaultyBlock::KeyUnreadable {
                    key: text,
                    why: "the inequality is not solved".into(),
                });
            }
        }
        Ok(rule)
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (typed, cautions) = self.parse(entry)?;
        Ok(self.show(&typed, &cautions))
    }

    fn show(&self, typed: &Typed, cautions: &[Caution]) -> Shown {
        let (latex, speech) = match typed {
            Typed::Region { region, .. } if region.is_empty() => {
                ("\\varnothing".into(), "no solution".into())
            }
            Typed::Region { region, .. } => {
                let latex: Vec<String> = region.iter().map(stretch_latex).collect();
                let speech: Vec<String> = region.iter().map(stretch_speech).collect();
                (latex.join(" \\cup "), speech.join(", or "))
            }
            Typed::Unsolved(alternatives) => {
                let one = |(a, r, b): &(Expr, Relation, Expr)| {
                    format!("{} {} {}", maths::latex(a), relation_latex(*r), maths::latex(b))
                };
                let all =
                    |c: &Vec<(Expr, Relation, Expr)>| c.iter().map(one).collect::<Vec<_>>().join(" \\wedge ");
                let latex: Vec<String> = alternatives.iter().map(all).collect();
                (latex.join(" \\vee "), "an inequality that is not solved".into())
            }
        };
        Shown {
            latex,
            speech,
            cautions: cautions.to_vec(),
        }
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (typed, cautions) = match self.parse(entry) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = self.show(&typed, &cautions);
        let marking = match &typed {
            Typed::Region {
                region,
                infinity_closed,
            } => {
                let ends = region
                    .iter()
                    .flat_map(|s| [&s.low, &s.high])
                    .filter_map(|e| e.value.as_ref());
                for end in ends {
                    if let Err(why) = maths::has_value(end) {
                        return shown.onto(without_value(why, entry.chars().count()));
                    }
                }
                self.judge(region, *infinity_closed)
            }
            Typed::Unsolved(alternatives) => {
                if self.has_these_solutions(alternatives) {
                    wrong_form("Solve it: say which values the variable may have.")
                } else {
                    Marking::new(Outcome::Incorrect)
                }
            }
        };
        shown.onto(marking)
    }

    fn judge(&self, region: &Region, infinity_closed: bool) -> Marking {
        let same_end = |a: &End, b: &End| match (&a.value, &b.value) {
            (None, None) => true,
            (Some(x), Some(y)) => compare_constants(x, y).is_ok_and(|(o, _)| o == Ordering::Equal),
            _ => false,
        };
        let values = region.len() == self.key.len()
            && region
                .iter()
                .zip(&self.key)
                .all(|(a, b)| same_end(&a.low, &b.low) && same_end(&a.high, &b.high));
        let closed = |e: &End| e.closed && e.value.is_some();
        let ends = region
            .iter()
            .zip(&self.key)
            .all(|(a, b)| closed(&a.low) == closed(&b.low) && closed(&a.high) == closed(&b.high));
        if values && ends {
            return if infinity_closed {
                wrong_form("Infinity is never reached: its end takes a round bracket.")
            } else {
                Marking::new(Outcome::Correct)
            };
        }
        Marking::new(Outcome::Incorrect).slipped((values && !region.is_empty()).then_some(Slip::Endpoint))
    }

    fn parse(&self, entry: &str) -> Result<(Typed, Vec<Caution>), ReadError> {
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
        let reading = maths::read_expression(piece.text, &options).map_err(|e| shifted(e, piece.at))?;
        cautions.extend(reading.cautions);
        Ok(reading.tree)
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

    fn chain(
        &self,
        piece: Piece,
        cautions: &mut Vec<Caution>,
    ) -> Result<Vec<(Expr, Relation, Expr)>, ReadError> {
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
            let reading = maths::read_expression(part.text, &options).map_err(|e| shifted(e, part.at))?;
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

    /// The region of `x < 3` or `3 > x`, the variable standing alone on one side.
    fn solved(&self, left: &Expr, relation: Relation, right: &Expr) -> Option<Region> {
        let alone = |e: &Expr| matches!(e.bare(), Expr::Variable(_));
        let (relation, value) = match (alone(left), alone(right)) {
            (true, false) if !right.has_variable() => (relation, right.clone()),
            (false, true) if !left.has_variable() => (mirrored(relation), left.clone()),
            _ => return None,
        };
        let end = |closed: bool| match infinite(&value) {
            Some(_) => open_end(),
            None => End {
                value: Some(value.clone()),
                closed,
            },
        };
        let below = |closed| Stretch {
            low: open_end(),
            high: end(closed),
        };
        let above = |closed| Stretch {
            low: end(closed),
            high: open_end(),
        };
        Some(match relation {
            Relation::Less => vec![below(false)],
            Relation::LessEqual => vec![below(true)],
            Relation::Greater => vec![above(false)],
            Relation::GreaterEqual => vec![above(true)],
            Relation::Equal => vec![Stretch {
                low: end(true),
                high: end(true),
            }],
            Relation::NotEqual => vec![below(false), above(false)],
        })
    }

    /// Holds the unsolved inequality against the key at the key's ends, between them, beside them and beyond.
    fn has_these_solutions(&self, alternatives: &[Vec<(Expr, Relation, Expr)>]) -> bool {
        let Some(variable) = &self.variable else {
            return false;
        };
        let mut places: Vec<Expr> = Vec::new();
        let ends: Vec<Expr> = self
            .key
            .iter()
            .flat_map(|s| [s.low.value.clone(), s.high.value.clone()])
            .flatten()
            .collect();
        for (i, end) in ends.iter().enumerate() {
            places.push(end.clone());
            for (n, d) in [
                (1i64, 1000i64),
                (-1, 1000),
                (1, 3),
                (-1, 3),
                (7, 2),
                (-7, 2),
                (50, 1),
                (-50, 1),
            ] {
                places.push(
                    end.clone()
                        .plus(Expr::rational(&BigRational::new(n.into(), d.into()))),
                );
            }
            if let Some(next) = ends.get(i + 1) {
                places.push(end.clone().plus(next.clone()).over(Expr::whole(2)));
            }
        }
        for n in -25..=25i64 {
            places.push(Expr::rational(&BigRational::new(
                BigInt::from(n * n * n * 7 + 1),
                BigInt::from(50),
            )));
        }
        places.iter().all(|at| {
            let holds = alternatives
                .iter()
                .any(|all| all.iter().all(|c| condition_holds(c, variable, at)));
            holds == contains(&self.key, at)
        })
    }
}

fn condition_holds((left, relation, right): &(Expr, Relation, Expr), variable: &str, at: &Expr) -> bool {
    let (a, b) = (left.substitute(variable, at), right.substitute(variable, at));
    let Ok((order, _)) = compare_constants(&a, &b) else {
        return false;
    };
    match relation {
        Relation::Less => order == Ordering::Less,
        Relation::LessEqual => order != Ordering::Greater,
        Relation::Greater => order == Ordering::Greater,
        Relation::GreaterEqual => order != Ordering::Less,
        Relation::Equal => order == Ordering::Equal,
        Relation::NotEqual => order != Ordering::Equal,
    }
}

fn contains(region: &Region, at: &Expr) -> bool {
    let order = |e: &Expr| {
        compare_constants(at, e)
            .map(|(o, _)| o)
            .unwrap_or(Ordering::Equal)
    };
    region.iter().any(|s| {
        let above = s.low.value.as_ref().is_none_or(|v| match order(v) {
            Ordering::Greater => true,
            Ordering::Equal => s.low.closed,
            Ordering::Less => false,
        });
        let below = s.high.value.as_ref().is_none_or(|v| match order(v) {
            Ordering::Less => true,
            Ordering::Equal => s.high.closed,
            Ordering::Greater => false,
        });
        above && below
    })
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

fn open_end() -> End {
    End {
        value: None,
        closed: false,
    }
}

/// `Some(true)` for plus infinity, `Some(false)` for minus.
fn infinite(e: &Expr) -> Option<bool> {
    match e.bare() {
        Expr::Constant(Constant::Infinity) => Some(true),
        Expr::Negative(inner) => infinite(inner).map(|plus| !plus),
        _ => None,
    }
}

fn mirrored(relation: Relation) -> Relation {
    match relation {
        Relation::Less => Relation::Greater,
        Relation::LessEqual => Relation::GreaterEqual,
        Relation::Greater => Relation::Less,
        Relation::GreaterEqual => Relation::LessEqual,
        same => same,
    }
}

/// Orders two lower ends (or two upper ones); infinity is outermost.
fn end_order(a: &End, b: &End, low: bool) -> Ordering {
    let outward = if low { Ordering::Less } else { Ordering::Greater };
    match (&a.value, &b.value) {
        (None, None) => Ordering::Equal,
        (None, _) => outward,
        (_, None) => outward.reverse(),
        (Some(x), Some(y)) => match compare_constants(x, y).map(|(o, _)| o).unwrap_or(Ordering::Equal) {
            Ordering::Equal if a.closed != b.closed => {
                if a.closed {
                    outward
                } else {
                    outward.reverse()
                }
            }
            order => order,
        },
    }
}

/// Whether nothing lies between: the second begins where the first has not ended, or right at its end.
fn touches(first: &Stretch, second: &Stretch) -> bool {
    match (&first.high.value, &second.low.value) {
        (None, _) | (_, None) => true,
        (Some(end), Some(start)) => match compare_constants(start, end)
            .map(|(o, _)| o)
            .unwrap_or(Ordering::Equal)
        {
            Ordering::Less => true,
            Ordering::Equal => first.high.closed || second.low.closed,
            Ordering::Greater => false,
        },
    }
}

fn is_void(s: &Stretch) -> bool {
    match (&s.low.value, &s.high.value) {
        (Some(a), Some(b)) => match compare_constants(a, b).map(|(o, _)| o).unwrap_or(Ordering::Less) {
            Ordering::Less => false,
            Ordering::Equal => !(s.low.closed && s.high.closed),
            Ordering::Greater => true,
        },
        _ => false,
    }
}

fn merged(mut region: Region) -> Region {
    region.retain(|s| !is_void(s));
    region.sort_by(|a, b| end_order(&a.low, &b.low, true));
    let mut out: Region = Vec::new();
    for next in region {
        match out.last_mut() {
            Some(last) if touches(last, &next) => {
                if end_order(&next.high, &last.high, false) == Ordering::Greater {
                    last.high = next.high;
                }
            }
            _ => out.push(next),
        }
    }
    out
}

fn intersection(a: &Region, b: &Region) -> Region {
    let mut out = Vec::new();
    for x in a {
        for y in b {
            let low = if end_order(&x.low, &y.low, true) == Ordering::Greater {
                &x.low
            } else {
                &y.low
            };
            let high = if end_order(&x.high, &y.high, false) == Ordering::Less {
                &x.high
            } else {
                &y.high
            };
            out.push(Stretch {
                low: low.clone(),
                high: high.clone(),
            });
        }
    }
    merged(out)
}

fn relation_latex(r: Relation) -> &'static str {
    match r {
        Relation::Less => "<",
        Relation::LessEqual => "\\le",
        Relation::Greater => ">",
        Relation::GreaterEqual => "\\ge",
        Relation::Equal => "=",
        Relation::NotEqual => "\\ne",
    }
}

fn stretch_latex(s: &Stretch) -> String {
    let value = |e: &End, infinity: &str| e.value.as_ref().map_or_else(|| infinity.to_owned(), maths::latex);
    let same = match (&s.low.value, &s.high.value) {
        (Some(a), Some(b)) => compare_constants(a, b).is_ok_and(|(o, _)| o == Ordering::Equal),
        _ => false,
    };
    if same {
        return format!("\\left\\{{{}\\right\\}}", value(&s.low, ""));
    }
    let open = if s.low.closed { "[" } else { "(" };
    let close = if s.high.closed { "]" } else { ")" };
    format!(
        "\\left{open}{},\\; {}\\right{close}",
        value(&s.low, "-\\infty"),
        value(&s.high, "\\infty")
    )
}

fn stretch_speech(s: &Stretch) -> String {
    let value = |e: &End, infinity: &str| {
        e.value
            .as_ref()
            .map_or_else(|| infinity.to_owned(), maths::speech)
    };
    let belongs = |e: &End| if e.closed { "included" } else { "not included" };
    format!(
        "from {}, {}, to {}, {}",
        value(&s.low, "minus infinity"),
        belongs(&s.low),
        value(&s.high, "infinity"),
        belongs(&s.high)
    )
}
