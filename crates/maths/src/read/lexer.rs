//! Characters → tokens. Look-alikes that phones, word processors and PDFs produce are folded here.

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Zero;

use super::names::Meaning;
use super::{Caution, CautionKind, Comma, ReadOptions};
use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::limits::{MAX_CHARS, MAX_LITERAL_EXPONENT};
use crate::tree::{Constant, Function, Literal, LiteralStyle};

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Tok {
    Number(Literal),
    Variable(Arc<str>),
    Constant(Constant),
    Function(Function),
    Plus,
    Minus,
    Times,
    Over,
    Caret,
    /// A run of superscripts: sign, then digits; or letters are refused before.
    Raised(BigInt),
    Open(char),
    Close(char),
    Bar,
    Comma,
    Semicolon,
    Equals,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    PlusMinus,
    Bang,
    Percent,
    Degree,
    Underscore,
    Or,
    And,
    Union,
}

#[derive(Clone, Debug)]
pub(crate) struct Token {
    pub tok: Tok,
    pub span: Span,
    /// A blank stands before it.
    pub spaced: bool,
}

/// One character with the place it came from.
#[derive(Clone, Copy, Debug)]
struct Glyph {
    ch: char,
    at: usize,
}

pub(crate) struct Lexed {
    pub tokens: Vec<Token>,
    pub cautions: Vec<Caution>,
    /// Length of the text in characters.
    pub end: usize,
}

pub(crate) fn lex(text: &str, options: &ReadOptions) -> Result<Lexed, ReadError> {
    let end = text.chars().take(MAX_CHARS + 1).count();
    if end > MAX_CHARS {
        return Err(ReadError::new(Kind::TooLong, MAX_CHARS, MAX_CHARS));
    }
    let glyphs = fold(text);
    let chars: Vec<char> = glyphs.iter().map(|g| g.ch).collect();
    let mut lexer = Lexer {
        glyphs,
        chars,
        options,
        pos: 0,
        end,
        tokens: Vec::new(),
        cautions: Vec::new(),
        brackets: Vec::new(),
    };
    lexer.run()?;
    Ok(Lexed {
        tokens: lexer.tokens,
        cautions: lexer.cautions,
        end,
    })
}

/// Look-alikes → the character that is meant; invisible ones are dropped; blanks become `' '`.
fn fold(text: &str) -> Vec<Glyph> {
    let mut glyphs = Vec::with_capacity(text.len());
    for (at, c) in text.chars().enumerate() {
        let ch = match c {
            '−' | '–' | '—' | '‒' | '‐' | '‑' | '﹣' | '－' => '-',
            '×' | '·' | '⋅' | '∗' | '•' | '∙' | '✕' | '＊' => '*',
            '÷' | '∕' | '⁄' | '／' => '/',
            '＋' => '+',
            '＝' => '=',
            '（' => '(',
            '）' => ')',
            '［' => '[',
            '］' => ']',
            '｛' => '{',
            '｝' => '}',
            '，' => ',',
            '．' => '.',
            '＜' => '<',
            '＞' => '>',
            '∣' | '｜' | '❘' => '|',
            'ˆ' | '＾' => '^',
            '⩽' => '≤',
            '⩾' => '≥',
            '；' => ';',
            '！' => '!',
            '％' => '%',
            'º' | '˚' => '°',
            '′' | '’' | '‘' => '\'',
            '０'..='９' => char::from_u32('0' as u32 + (c as u32 - '０' as u32)).unwrap_or(c),
            'ａ'..='ｚ' => char::from_u32('a' as u32 + (c as u32 - 'ａ' as u32)).unwrap_or(c),
            'Ａ'..='Ｚ' => char::from_u32('A' as u32 + (c as u32 - 'Ａ' as u32)).unwrap_or(c),
            '\u{ad}'
            | '\u{200b}'..='\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}'
            | '\u{feff}' => {
                continue;
            }
            c if c.is_whitespace() => ' ',
            c => c,
        };
        if let Some(low) = subscript(ch) {
            let continues = glyphs.last().is_some_and(|g: &Glyph| {
                g.at + 1 == at && text.chars().nth(g.at).is_some_and(|p| subscript(p).is_some())
            });
            if !continues {
                glyphs.push(Glyph { ch: '_', at });
            }
            glyphs.push(Glyph { ch: low, at });
        } else {
            glyphs.push(Glyph { ch, at });
        }
    }
    glyphs
}

fn subscript(c: char) -> Option<char> {
    Some(match c {
        '₀'..='₉' => char::from_u32('0' as u32 + (c as u32 - '₀' as u32))?,
        'ₐ' => 'a',
        'ₑ' => 'e',
        'ₕ' => 'h',
        'ᵢ' => 'i',
        'ⱼ' => 'j',
        'ₖ' => 'k',
        'ₗ' => 'l',
        'ₘ' => 'm',
        'ₙ' => 'n',
        'ₒ' => 'o',
        'ₚ' => 'p',
        'ᵣ' => 'r',
        'ₛ' => 's',
        'ₜ' => 't',
        'ₓ' => 'x',
        _ => return None,
    })
}

fn superscript_digit(c: char) -> Option<u32> {
    Some(match c {
        '⁰' => 0,
        '¹' => 1,
        '²' => 2,
        '³' => 3,
        '⁴'..='⁹' => 4 + (c as u32 - '⁴' as u32),
        _ => return None,
    })
}

fn vulgar(c: char) -> Option<(i64, i64)> {
    Some(match c {
        '½' => (1, 2),
        '⅓' => (1, 3),
        '⅔' => (2, 3),
        '¼' => (1, 4),
        '¾' => (3, 4),
        '⅕' => (1, 5),
        '⅖' => (2, 5),
        '⅗' => (3, 5),
        '⅘' => (4, 5),
        '⅙' => (1, 6),
        '⅚' => (5, 6),
        '⅐' => (1, 7),
        '⅛' => (1, 8),
        '⅜' => (3, 8),
        '⅝' => (5, 8),
        '⅞' => (7, 8),
        '⅑' => (1, 9),
        '⅒' => (1, 10),
        '↉' => (0, 3),
        _ => return None,
    })
}

struct Lexer<'a> {
    glyphs: Vec<Glyph>,
    chars: Vec<char>,
    options: &'a ReadOptions<'a>,
    pos: usize,
    end: usize,
    tokens: Vec<Token>,
    cautions: Vec<Caution>,
    /// Open brackets, and whether a comma parts the values of a function in them.
    brackets: Vec<bool>,
}

impl Lexer<'_> {
    fn peek(&self, ahead: usize) -> Option<char> {
        self.chars.get(self.pos + ahead).copied()
    }

    fn place(&self, pos: usize) -> usize {
        self.glyphs.get(pos).map_or(self.end, |g| g.at)
    }

    fn span(&self, from: usize, to: usize) -> Span {
        let last = to
            .checked_sub(1)
            .and_then(|p| self.glyphs.get(p))
            .map_or(self.end, |g| g.at + 1);
        Span::new(self.place(from), last)
    }

    fn error<T>(&self, kind: Kind, from: usize, to: usize) -> Result<T, ReadError> {
        Err(ReadError {
            kind,
            span: self.span(from, to),
        })
    }

    fn push(&mut self, tok: Tok, from: usize) {
        let spaced = from > 0 && self.chars.get(from - 1) == Some(&' ');
        let span = self.span(from, self.pos);
        self.tokens.push(Token { tok, span, spaced });
    }

    fn run(&mut self) -> Result<(), ReadError> {
        while let Some(c) = self.peek(0) {
            let from = self.pos;
            if c == ' ' {
                self.pos += 1;
            } else if c.is_ascii_digit() || (c == '.' && self.peek(1).is_some_and(|d| d.is_ascii_digit())) {
                self.number()?;
            } else if c == '.' {
                if self.chars.iter().skip(self.pos + 1).all(|c| *c == ' ') && !self.tokens.is_empty() {
                    self.pos = self.chars.len();
                } else {
                    return self.error(Kind::LonePoint, from, from + 1);
                }
            } else if let Some((n, d)) = vulgar(c) {
                self.pos += 1;
                let value = BigRational::new(n.into(), d.into());
                self.push(
                    Tok::Number(Literal {
                        value,
                        typed: format!("{n}/{d}"),
                        style: LiteralStyle::Vulgar,
                    }),
                    from,
                );
            } else if superscript_digit(c).is_some() || c == '⁻' || c == '⁺' {
                self.raised()?;
            } else if c.is_alphabetic() || matches!(c, '√' | '∛' | '∞' | '∪') {
                self.name()?;
            } else {
                self.sign(c)?;
            }
        }
        Ok(())
    }

    fn raised(&mut self) -> Result<(), ReadError> {
        let from = self.pos;
        let negative = self.peek(0) == Some('⁻');
        if matches!(self.peek(0), Some('⁻' | '⁺')) {
            self.pos += 1;
        }
        let mut value = BigInt::zero();
        let mut digits = 0;
        while let Some(d) = self.peek(0).and_then(superscript_digit) {
            value = value * 10 + d;
            digits += 1;
            self.pos += 1;
        }
        if digits == 0 {
            return self.error(Kind::MissingAfter("the raised sign".into()), from, self.pos);
        }
        self.push(Tok::Raised(if negative { -value } else { value }), from);
        Ok(())
    }

    /// Digits with at most one point; commas in threes where they group; a power of ten.
    fn number(&mut self) -> Result<(), ReadError> {
        let from = self.pos;
        let mut typed = self.digits();
        let mut style = LiteralStyle::Whole;
        if self.groups_commas() {
            self.grouped_digits(from, &mut typed)?;
        } else if self.looks_grouped(typed.len()) {
            let span = self.span(from, self.pos + 4);
            self.cautions.push(Caution {
                kind: CautionKind::CommaParts,
                span,
            });
        }
        self.groups_after_blanks(&mut typed);
        let mut places: i64 = 0;
        if self.peek(0) == Some('.') {
            self.pos += 1;
            style = LiteralStyle::Decimal;
            let fraction = self.digits();
            places = i64::try_from(fraction.len()).unwrap_or(0);
            typed.push('.');
            typed.push_str(&fraction);
            if self.peek(0) == Some('.') && self.peek(1).is_some_and(|c| c.is_ascii_digit()) {
                return self.error(Kind::TwoPoints, from, self.pos + 2);
            }
            if self.groups_commas() && self.comma_then_digit() {
                return self.error(Kind::CommaInNumber, self.pos, self.pos + 1);
            }
        }
        let exponent = self.exponent(&mut typed, &mut style)?;
        let mantissa: String = typed
            .chars()
            .take_while(|c| *c != 'e')
            .filter(char::is_ascii_digit)
            .collect();
        let mut value = BigRational::from(mantissa.parse::<BigInt>().unwrap_or_default());
        let shift = exponent - places;
        let ten = num_traits::pow(
            BigInt::from(10),
            usize::try_from(shift.unsigned_abs()).unwrap_or(0),
        );
        value = if shift >= 0 { value * ten } else { value / ten };
        self.push(Tok::Number(Literal { value, typed, style }), from);
        Ok(())
    }

    fn digits(&mut self) -> String {
        let mut digits = String::new();
        while let Some(c) = self.peek(0).filter(char::is_ascii_digit) {
            digits.push(c);
            self.pos += 1;
        }
        digits
    }

    fn groups_commas(&self) -> bool {
        self.options.comma == Comma::Grouping && !self.brackets.iter().any(|b| *b)
    }

    fn comma_then_digit(&self) -> bool {
        self.peek(0) == Some(',') && self.peek(1).is_some_and(|c| c.is_ascii_digit())
    }

    fn three_digits_after_comma(&self) -> bool {
        self.comma_then_digit()
            && self.peek(2).is_some_and(|c| c.is_ascii_digit())
            && self.peek(3).is_some_and(|c| c.is_ascii_digit())
            && !self.peek(4).is_some_and(|c| c.is_ascii_digit())
    }

    fn looks_grouped(&self, leading: usize) -> bool {
        (1..=3).contains(&leading) && self.three_digits_after_comma()
    }

    fn grouped_digits(&mut self, from: usize, typed: &mut String) -> Result<(), ReadError> {
        let first_group_fits = (1..=3).contains(&typed.len()) && !typed.starts_with('0');
        while self.comma_then_digit() {
            if !first_group_fits || !self.three_digits_after_comma() {
                return self.error(Kind::CommaInNumber, self.pos, self.pos + 1);
            }
            self.pos += 1;
            typed.push_str(&self.digits());
        }
        let _ = from;
        Ok(())
    }

    /// `1 000`, where one number is asked for: a blank before each group of three (ISO 80000-1). Where only the last group
    /// could be the top of a proper fraction, `2 125/500`, it is a mixed number.
    fn groups_after_blanks(&mut self, typed: &mut String) {
        let one_number = self.options.mixed && self.groups_commas();
        if !one_number || !(1..=3).contains(&typed.len()) || typed.starts_with('0') {
            return;
        }
        let digit_at = |place: usize| self.peek(place).is_some_and(|c| c.is_ascii_digit());
        let mut groups = 0;
        while self.peek(4 * groups) == Some(' ')
            && (1..=3).all(|n| digit_at(4 * groups + n))
            && !digit_at(4 * groups + 4)
        {
            groups += 1;
        }
        if groups == 1 && self.is_proper_fraction_at(1) {
            return;
        }
        for _ in 0..groups {
            self.pos += 1;
            typed.push_str(&self.digits());
        }
    }

    /// Whether `3/8` and the like stands so many characters ahead.
    fn is_proper_fraction_at(&self, ahead: usize) -> bool {
        let rest = self.chars.get(self.pos + ahead..).unwrap_or_default();
        let digits = |from: usize| {
            let run: String = rest
                .iter()
                .skip(from)
                .take_while(|c| c.is_ascii_digit())
                .collect();
            run
        };
        let top = digits(0);
        if rest.get(top.len()) != Some(&'/') {
            return false;
        }
        let bottom = digits(top.len() + 1);
        matches!((top.parse::<u64>(), bottom.parse::<u64>()), (Ok(t), Ok(b)) if t < b)
    }

    fn exponent(&mut self, typed: &mut String, style: &mut LiteralStyle) -> Result<i64, ReadError> {
        if !matches!(self.peek(0), Some('e' | 'E')) || self.options.names.is_variable("e") {
            return Ok(0);
        }
        let signed = matches!(self.peek(1), Some('+' | '-'));
        let first = if signed { 2 } else { 1 };
        if !self.peek(first).is_some_and(|c| c.is_ascii_digit()) {
            return Ok(0);
        }
        let from = self.pos;
        let negative = signed && self.peek(1) == Some('-');
        self.pos += first;
        let digits = self.digits();
        if signed {
            let span = self.span(from, self.pos);
            self.cautions.push(Caution {
                kind: CautionKind::ExponentNotation,
                span,
            });
        }
        let size: i64 = digits.parse().unwrap_or(i64::MAX);
        if size > MAX_LITERAL_EXPONENT {
            return self.error(Kind::NumberTooLarge, from, self.pos);
        }
        typed.push('e');
        if negative {
            typed.push('-');
        }
        typed.push_str(&digits);
        *style = LiteralStyle::Exponent;
        Ok(if negative { -size } else { size })
    }

    fn name(&mut self) -> Result<(), ReadError> {
        let from = self.pos;
        if self.is_times_letter() {
            self.pos += 1;
            self.push(Tok::Times, from);
            return Ok(());
        }
        let rest = self.chars.get(from..).unwrap_or_default();
        let Some(found) = self.options.names.longest(rest, self.options.words) else {
            let length = rest
                .iter()
                .take_while(|c| c.is_alphabetic() || **c == '_')
                .count()
                .max(1);
            let name: String = rest.iter().take(length).collect();
            return self.error(Kind::UnknownName(name), from, from + length);
        };
        let typed: String = rest.iter().take(found.length).collect();
        self.pos += found.length;
        if let Some(read) = found.other_case {
            let span = self.span(from, self.pos);
            self.cautions.push(Caution {
                kind: CautionKind::OtherCase {
                    typed: typed.clone(),
                    read,
                },
                span,
            });
        }
        if matches!(found.meaning, Meaning::Constant(Constant::Infinity)) && !self.options.infinity {
            return self.error(Kind::InfinityHere, from, self.pos);
        }
        let tok = match found.meaning {
            Meaning::Variable(name) => {
                // `x_2` where only `x` is declared is a name of its own, not x followed by something.
                if self.peek(0) == Some('_') {
                    let tail = self.chars.get(self.pos..).unwrap_or_default();
                    let length = tail
                        .iter()
                        .take_while(|c| c.is_alphanumeric() || **c == '_')
                        .count();
                    let name = format!("{typed}{}", tail.iter().take(length).collect::<String>());
                    return self.error(Kind::UnknownName(name), from, self.pos + length);
                }
                Tok::Variable(name)
            }
            Meaning::Constant(c) => Tok::Constant(c),
            Meaning::Function(f) => Tok::Function(f),
            Meaning::Degree => Tok::Degree,
            Meaning::Or => Tok::Or,
            Meaning::And => Tok::And,
            Meaning::Union => Tok::Union,
        };
        self.push(tok, from);
        Ok(())
    }

    /// `1.5 x 10^3`, where x is no variable.
    fn is_times_letter(&self) -> bool {
        let names = self.options.names;
        if !matches!(self.peek(0), Some('x' | 'X')) || names.is_variable("x") || names.is_variable("X") {
            return false;
        }
        let after_operand = self.tokens.last().is_some_and(|t| {
            matches!(
                t.tok,
                Tok::Number(_) | Tok::Close(_) | Tok::Raised(_) | Tok::Constant(_) | Tok::Percent
            )
        });
        let next = self.chars.iter().skip(self.pos + 1).find(|c| **c != ' ');
        after_operand && next.is_some_and(|c| c.is_ascii_digit() || matches!(c, '.' | '(' | '-' | '√' | 'π'))
    }

    fn sign(&mut self, c: char) -> Result<(), ReadError> {
        let from = self.pos;
        let two = (c, self.peek(1));
        let (tok, length) = match two {
            ('*', Some('*')) => (Tok::Caret, 2),
            ('<', Some('=')) => (Tok::LessEqual, 2),
            ('=', Some('<')) => (Tok::LessEqual, 2),
            ('>', Some('=')) => (Tok::GreaterEqual, 2),
            ('=', Some('>')) => (Tok::GreaterEqual, 2),
            ('!', Some('=')) => (Tok::NotEqual, 2),
            ('<', Some('>')) if !self.options.angle_brackets => (Tok::NotEqual, 2),
            ('+', Some('-')) if self.options.plus_minus.is_some() => (Tok::PlusMinus, 2),
            ('+', Some('/')) if self.peek(2) == Some('-') && self.options.plus_minus.is_some() => {
                (Tok::PlusMinus, 3)
            }
            ('<', _) if self.options.angle_brackets => (Tok::Open('<'), 1),
            ('>', _) if self.options.angle_brackets => (Tok::Close('>'), 1),
            ('⟨' | '〈' | '‹', _) => (Tok::Open('<'), 1),
            ('⟩' | '〉' | '›', _) => (Tok::Close('>'), 1),
            ('+', _) => (Tok::Plus, 1),
            ('-', _) => (Tok::Minus, 1),
            ('*', _) => (Tok::Times, 1),
            ('/', _) => (Tok::Over, 1),
            ('^', _) => (Tok::Caret, 1),
            ('(' | '[' | '{', _) => (Tok::Open(c), 1),
            (')' | ']' | '}', _) => (Tok::Close(c), 1),
            ('|', _) => (Tok::Bar, 1),
            (',', _) => (Tok::Comma, 1),
            (';', _) => (Tok::Semicolon, 1),
            ('=', _) => (Tok::Equals, 1),
            ('≠', _) => (Tok::NotEqual, 1),
            ('<', _) => (Tok::Less, 1),
            ('>', _) => (Tok::Greater, 1),
            ('≤', _) => (Tok::LessEqual, 1),
            ('≥', _) => (Tok::GreaterEqual, 1),
            ('±', _) => (Tok::PlusMinus, 1),
            ('!', _) => (Tok::Bang, 1),
            ('%', _) => (Tok::Percent, 1),
            ('°', _) => (Tok::Degree, 1),
            ('_', _) => (Tok::Underscore, 1),
            ('\\' | '$', _) => return self.error(Kind::Latex, from, from + 1),
            _ => return self.error(Kind::UnknownCharacter(c), from, from + 1),
        };
        self.pos += length;
        match tok {
            Tok::Open(_) => {
                let previous = self.tokens.last().map(|t| &t.tok);
                let several = [Function::Root, Function::Min, Function::Max];
                self.brackets
                    .push(matches!(previous, Some(Tok::Function(f)) if several.contains(f)));
            }
            Tok::Close(_) => {
                self.brackets.pop();
            }
            _ => {}
        }
        self.push(tok, from);
        Ok(())
    }
}
