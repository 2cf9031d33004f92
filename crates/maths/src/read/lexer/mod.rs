//! Characters → tokens. Look-alikes that phones, word processors and PDFs produce are folded here.

mod glyphs;
mod numbers;

use std::sync::Arc;

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Zero;

use self::glyphs::{Glyph, fold, superscript_digit, vulgar};
use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::limits::MAX_CHARS;
use crate::read::names::Meaning;
use crate::read::{Caution, CautionKind, ReadOptions};
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
