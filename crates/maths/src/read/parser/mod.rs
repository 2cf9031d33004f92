//! Tokens → tree, by precedence climbing.
//!
//! ```text
//! sum      = term { ("+" | "-") term }
//! term     = [sign] product                      one sign may start a term
//! product  = factor { ("*" | "/") [sign] factor | factor }      left to right, also where nothing stands between
//! factor   = postfix [ "^" [sign] factor ]       to the right: 2^3^2 = 2^(3^2)
//! postfix  = primary { "!" | "%" | "°" | raised }
//! primary  = number | mixed | name | constant | call | "(" sum ")" | "|" sum "|"
//! call     = function [ "^" power ] ( "(" sum { "," sum } ")" | [sign] argument )
//! argument = the factors written side by side, up to an operator, a bracket after a factor, or the next function
//! ```

mod calls;
mod implied;

use num_bigint::BigInt;

use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::limits::MAX_DEPTH;
use crate::read::lexer::{Tok, Token, lex};
use crate::read::{Caution, CautionKind, ReadOptions};
use crate::tree::{Constant, Expr, Function, Literal, LiteralStyle, Term};

type Result<T> = std::result::Result<T, ReadError>;

pub(crate) struct Parser<'a> {
    tokens: Vec<Token>,
    pos: usize,
    end: usize,
    options: &'a ReadOptions<'a>,
    cautions: Vec<Caution>,
    depth: usize,
    /// What is open around here, innermost last: a bracket, or `|`.
    open: Vec<char>,
}

impl<'a> Parser<'a> {
    pub fn new(text: &str, options: &'a ReadOptions<'a>) -> Result<Self> {
        let lexed = lex(text, options)?;
        if lexed.tokens.is_empty() {
            return Err(ReadError::new(Kind::Empty, 0, lexed.end));
        }
        Ok(Self {
            tokens: lexed.tokens,
            pos: 0,
            end: lexed.end,
            options,
            cautions: lexed.cautions,
            depth: 0,
            open: Vec::new(),
        })
    }

    pub fn into_cautions(self) -> Vec<Caution> {
        self.cautions
    }

    pub fn peek(&self) -> Option<&Tok> {
        self.peek_at(0)
    }

    pub fn peek_at(&self, ahead: usize) -> Option<&Tok> {
        self.tokens.get(self.pos + ahead).map(|t| &t.tok)
    }

    pub fn at_end(&self) -> bool {
        self.pos >= self.tokens.len()
    }

    pub fn eat(&mut self, tok: &Tok) -> bool {
        let found = self.peek() == Some(tok);
        if found {
            self.pos += 1;
        }
        found
    }

    pub fn here(&self) -> Span {
        self.tokens
            .get(self.pos)
            .map_or(Span::new(self.end, self.end), |t| t.span)
    }

    fn before(&self) -> Span {
        self.pos
            .checked_sub(1)
            .and_then(|p| self.tokens.get(p))
            .map_or(Span::new(0, 0), |t| t.span)
    }

    fn spaced(&self) -> bool {
        self.tokens.get(self.pos).is_some_and(|t| t.spaced)
    }

    pub fn fail<T>(&self, kind: Kind) -> Result<T> {
        Err(ReadError {
            kind,
            span: self.here(),
        })
    }

    fn caution(&mut self, kind: CautionKind, from: Span) {
        let span = Span::new(from.start, self.before().end.max(from.end));
        self.cautions.push(Caution { kind, span });
    }

    fn deeper(&mut self) -> Result<()> {
        self.depth += 1;
        if self.depth > MAX_DEPTH {
            self.fail(Kind::TooDeep)
        } else {
            Ok(())
        }
    }

    pub fn expect_end(&self) -> Result<()> {
        match self.peek() {
            None => Ok(()),
            Some(Tok::Close(c)) => self.fail(Kind::MissingOpening(*c)),
            Some(Tok::Equals) => self.fail(Kind::TwoAnswers),
            Some(Tok::Comma | Tok::Semicolon) => {
                let last = self.pos + 1 >= self.tokens.len();
                self.fail(if last {
                    Kind::StrayComma
                } else {
                    Kind::SeveralAnswers
                })
            }
            Some(Tok::Less | Tok::LessEqual | Tok::Greater | Tok::GreaterEqual | Tok::NotEqual) => {
                self.fail(Kind::InequalityHere)
            }
            Some(Tok::PlusMinus) => self.fail(Kind::PlusMinusHere),
            Some(Tok::Bar) => self.fail(Kind::MissingBar),
            Some(Tok::Or | Tok::And | Tok::Union) => self.fail(Kind::SeveralAnswers),
            Some(tok) => self.fail(Kind::Unexpected(shown(tok))),
        }
    }

    pub fn expression(&mut self) -> Result<Expr> {
        let first = self.term()?;
        let mut terms = vec![Term {
            minus: false,
            expr: first,
        }];
        loop {
            let minus = match self.peek() {
                Some(Tok::Plus) => false,
                Some(Tok::Minus) => true,
                Some(Tok::PlusMinus) => match self.options.plus_minus {
                    Some(minus) => minus,
                    None => return self.fail(Kind::PlusMinusHere),
                },
                _ => break,
            };
            self.pos += 1;
            let expr = self.term()?;
            terms.push(Term { minus, expr });
        }
        Ok(match (terms.len(), terms.pop()) {
            (1, Some(only)) => only.expr,
            (_, Some(last)) => {
                terms.push(last);
                Expr::Sum(terms)
            }
            (_, None) => return self.fail(Kind::Empty),
        })
    }

    fn term(&mut self) -> Result<Expr> {
        let sign = self.sign()?;
        let product = self.product()?;
        Ok(signed(sign, product))
    }

    /// One sign, if any: `Some(true)` is minus. A second one is refused.
    fn sign(&mut self) -> Result<Option<bool>> {
        let sign = match self.peek() {
            Some(Tok::Minus) => Some(true),
            Some(Tok::Plus) => Some(false),
            Some(Tok::PlusMinus) => match self.options.plus_minus {
                Some(minus) => Some(minus),
                None => return self.fail(Kind::PlusMinusHere),
            },
            _ => None,
        };
        if sign.is_some() {
            self.pos += 1;
            if matches!(self.peek(), Some(Tok::Plus | Tok::Minus | Tok::PlusMinus)) {
                return self.missing_operand();
            }
        }
        Ok(sign)
    }

    /// Nothing that a value could begin with stands here.
    fn missing_operand<T>(&self) -> Result<T> {
        let previous = self
            .pos
            .checked_sub(1)
            .and_then(|p| self.tokens.get(p))
            .map(|t| shown(&t.tok));
        let (start, end) = (self.before().start, self.here().end);
        let kind = match (previous, self.peek()) {
            (None, None) => Kind::Empty,
            (Some(p), None) => Kind::MissingAfter(p),
            (Some(p), Some(Tok::Close(c))) => {
                if self.pos > 0 && matches!(self.tokens.get(self.pos - 1).map(|t| &t.tok), Some(Tok::Open(_)))
                {
                    Kind::EmptyBrackets
                } else if self.open.is_empty() {
                    Kind::MissingOpening(*c)
                } else {
                    Kind::MissingAfter(p)
                }
            }
            (None, Some(Tok::Close(c))) => Kind::MissingOpening(*c),
            (None, Some(Tok::Comma | Tok::Semicolon)) | (Some(_), Some(Tok::Comma | Tok::Semicolon)) => {
                Kind::StrayComma
            }
            (None, Some(t)) => Kind::MissingBefore(shown(t)),
            (Some(p), Some(t)) => Kind::MissingBetween(p, shown(t)),
        };
        Err(ReadError::new(kind, start, end))
    }

    fn factor(&mut self) -> Result<Expr> {
        let start = self.here();
        let base = self.postfix()?;
        self.power_of(base, start)
    }

    fn power_of(&mut self, base: Expr, start: Span) -> Result<Expr> {
        if !self.eat(&Tok::Caret) {
            return Ok(base);
        }
        self.deeper()?;
        let sign = self.sign()?;
        let inner_start = self.here();
        let exponent = self.postfix()?;
        let exponent = if matches!(self.peek(), Some(Tok::Caret)) {
            if self.options.other_reading {
                self.depth -= 1;
                return self.power_of(
                    Expr::Group(Box::new(Expr::power(base, signed(sign, exponent)))),
                    start,
                );
            }
            let tower = self.power_of(exponent, inner_start)?;
            self.caution(CautionKind::PowerTower, start);
            tower
        } else {
            exponent
        };
        self.depth -= 1;
        Ok(Expr::power(base, signed(sign, exponent)))
    }

    fn postfix(&mut self) -> Result<Expr> {
        let mut expr = self.primary()?;
        let outside = self.depth;
        loop {
            expr = match self.peek() {
                Some(Tok::Bang) => {
                    if matches!(expr, Expr::Factorial(_)) {
                        return self.fail(Kind::DoubleFactorial);
                    }
                    Expr::Factorial(Box::new(expr))
                }
                Some(Tok::Percent) => Expr::Percent(Box::new(expr)),
                Some(Tok::Degree) => Expr::Degrees(Box::new(expr)),
                Some(Tok::Raised(n)) => Expr::power(expr, Expr::whole(n.clone())),
                _ => {
                    self.depth = outside;
                    return Ok(expr);
                }
            };
            // Each sign behind stands around what is before it, as a bracket would.
            self.deeper()?;
            self.pos += 1;
        }
    }

    fn primary(&mut self) -> Result<Expr> {
        match self.peek().cloned() {
            Some(Tok::Number(literal)) => self.number(literal),
            Some(Tok::Variable(name)) => {
                self.pos += 1;
                Ok(Expr::Variable(name))
            }
            Some(Tok::Constant(c)) => {
                self.pos += 1;
                Ok(Expr::Constant(c))
            }
            Some(Tok::Function(f)) => self.call(f),
            Some(Tok::Open(c)) => Ok(Expr::Group(Box::new(self.bracketed(c)?))),
            Some(Tok::Bar) if self.open.last() != Some(&'|') || self.bar_opens() => self.bars(),
            _ => self.missing_operand(),
        }
    }

    /// At a place where a value must begin, a bar can only open.
    fn bar_opens(&self) -> bool {
        !matches!(
            self.peek_at(1),
            None | Some(Tok::Close(_) | Tok::Times | Tok::Over | Tok::Caret | Tok::Comma)
        )
    }

    fn number(&mut self, literal: Literal) -> Result<Expr> {
        let previous_over = matches!(self.peek_at_back(), Some(Tok::Over | Tok::Caret));
        self.pos += 1;
        if literal.style == LiteralStyle::Whole {
            if let Some(Tok::Number(v)) = self.peek()
                && v.style == LiteralStyle::Vulgar
            {
                let fraction = v.value.clone();
                self.pos += 1;
                let whole = literal.value.to_integer();
                return Ok(Expr::Mixed(
                    whole,
                    fraction.numer().clone(),
                    fraction.denom().clone(),
                ));
            }
            if self.options.mixed && self.spaced() && self.is_mixed_shape(&literal) && !previous_over {
                return self.mixed(&literal);
            }
        }
        Ok(Expr::Number(literal))
    }

    fn mixed(&mut self, whole: &Literal) -> Result<Expr> {
        let start = self.before();
        let (Some(Tok::Number(top)), Some(Tok::Number(bottom))) =
            (self.peek().cloned(), self.peek_at(2).cloned())
        else {
            return self.fail(Kind::NumbersSideBySide);
        };
        self.pos += 3;
        let clashes =
            matches!(self.peek(), Some(Tok::Caret | Tok::Bang | Tok::Raised(_))) || self.starts_factor();
        if clashes {
            let span = Span::new(start.start, self.here().end);
            return Err(ReadError {
                kind: Kind::MixedNumberHere,
                span,
            });
        }
        if bottom.value.numer() == &BigInt::from(0) {
            return Err(ReadError {
                kind: Kind::NoValue,
                span: self.before(),
            });
        }
        Ok(Expr::Mixed(
            whole.value.to_integer(),
            top.value.to_integer(),
            bottom.value.to_integer(),
        ))
    }

    /// The sum between an opening bracket, which stands here, and its closing one.
    fn bracketed(&mut self, open: char) -> Result<Expr> {
        self.enter(open)?;
        let inner = self.expression()?;
        self.leave(open)?;
        Ok(inner)
    }

    pub fn enter(&mut self, open: char) -> Result<()> {
        self.deeper()?;
        self.pos += 1;
        self.open.push(open);
        if self.at_end() {
            return self.fail(Kind::MissingClosing(open));
        }
        Ok(())
    }

    pub fn leave(&mut self, open: char) -> Result<()> {
        match self.peek() {
            Some(Tok::Close(c)) if *c == closing(open) => {
                self.pos += 1;
                self.open.pop();
                self.depth -= 1;
                Ok(())
            }
            Some(Tok::Close(c)) => self.fail(Kind::Mismatched { open, close: *c }),
            None => self.fail(Kind::MissingClosing(open)),
            _ => self.expect_end(),
        }
    }

    fn bars(&mut self) -> Result<Expr> {
        self.deeper()?;
        let start = self.here();
        self.pos += 1;
        self.open.push('|');
        let inner = self.expression()?;
        if !self.eat(&Tok::Bar) {
            if let Some(Tok::Close(close)) = self.peek() {
                return self.fail(Kind::Mismatched {
                    open: '|',
                    close: *close,
                });
            }
            return Err(ReadError {
                kind: Kind::MissingBar,
                span: start,
            });
        }
        self.open.pop();
        self.depth -= 1;
        Ok(Expr::call(Function::Abs, inner))
    }
}

fn is_root(function: Function) -> bool {
    matches!(function, Function::Sqrt | Function::Cbrt)
}

fn signed(sign: Option<bool>, expr: Expr) -> Expr {
    match sign {
        Some(true) => Expr::Negative(Box::new(expr)),
        Some(false) => Expr::Positive(Box::new(expr)),
        None => expr,
    }
}

pub(crate) fn closing(open: char) -> char {
    match open {
        '(' => ')',
        '[' => ']',
        '{' => '}',
        '<' => '>',
        other => other,
    }
}

fn constant_name(c: Constant) -> &'static str {
    match c {
        Constant::Pi => "π",
        Constant::E => "e",
        Constant::I => "i",
        Constant::Infinity => "∞",
    }
}

/// A token as a student would recognise it in a message.
pub(crate) fn shown(tok: &Tok) -> String {
    match tok {
        Tok::Number(l) => l.typed.clone(),
        Tok::Variable(v) => v.to_string(),
        Tok::Constant(c) => constant_name(*c).into(),
        Tok::Function(f) => f.name().into(),
        Tok::Plus => "+".into(),
        Tok::Minus => "-".into(),
        Tok::Times => "*".into(),
        Tok::Over => "/".into(),
        Tok::Caret => "^".into(),
        Tok::Raised(n) => format!("^{n}"),
        Tok::Open(c) | Tok::Close(c) => c.to_string(),
        Tok::Bar => "|".into(),
        Tok::Comma => ",".into(),
        Tok::Semicolon => ";".into(),
        Tok::Equals => "=".into(),
        Tok::NotEqual => "≠".into(),
        Tok::Less => "<".into(),
        Tok::LessEqual => "≤".into(),
        Tok::Greater => ">".into(),
        Tok::GreaterEqual => "≥".into(),
        Tok::PlusMinus => "±".into(),
        Tok::Bang => "!".into(),
        Tok::Percent => "%".into(),
        Tok::Degree => "°".into(),
        Tok::Underscore => "_".into(),
        Tok::Or => "or".into(),
        Tok::And => "and".into(),
        Tok::Union => "U".into(),
    }
}
