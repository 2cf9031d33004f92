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

use num_bigint::BigInt;
use num_traits::{One, Signed, ToPrimitive};

use super::lexer::{Tok, Token, lex};
use super::{Caution, CautionKind, ReadOptions};
use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::limits::MAX_DEPTH;
use crate::tree::{Constant, Expr, Factor, Function, Joint, Literal, LiteralStyle, Term};

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

    fn product(&mut self) -> Result<Expr> {
        let start = self.here();
        let first = self.factor()?;
        let mut factors = vec![Factor {
            joint: Joint::Times,
            expr: first,
        }];
        let mut divided = false;
        let mut run_from = start;
        loop {
            let joint = match self.peek() {
                Some(Tok::Times) => Joint::Times,
                Some(Tok::Over) => Joint::Over,
                _ if self.starts_factor() => Joint::Implied,
                _ => break,
            };
            if joint == Joint::Implied {
                self.check_side_by_side()?;
                self.note_implied(divided, run_from, &factors);
                let expr = self.factor()?;
                self.append_implied(&mut factors, divided, expr);
                continue;
            }
            self.note_division_after_power(joint, &factors, run_from);
            self.pos += 1;
            run_from = if joint == Joint::Over {
                self.before()
            } else {
                self.here()
            };
            divided = joint == Joint::Over;
            let expr = if self.options.other_reading && divided {
                self.other_power_division(&mut factors)?
            } else {
                Some(self.signed_factor()?)
            };
            if let Some(expr) = expr {
                factors.push(Factor { joint, expr });
            }
        }
        Ok(match (factors.len(), factors.pop()) {
            (1, Some(only)) => only.expr,
            (_, Some(last)) => {
                factors.push(last);
                Expr::Product(factors)
            }
            (_, None) => return self.fail(Kind::Empty),
        })
    }

    fn signed_factor(&mut self) -> Result<Expr> {
        let sign = self.sign()?;
        let factor = self.factor()?;
        Ok(signed(sign, factor))
    }

    /// In the other reading `x^1/2` is `x^(1/2)`: the divisor joins the power before it.
    fn other_power_division(&mut self, factors: &mut [Factor]) -> Result<Option<Expr>> {
        let divisor = self.signed_factor()?;
        if let Some(Factor {
            expr: Expr::Power(_, exponent),
            ..
        }) = factors.last_mut()
            && matches!(&**exponent, Expr::Number(l) if l.value.is_one())
        {
            let top = (**exponent).clone();
            **exponent = Expr::Group(Box::new(top.over(divisor)));
            return Ok(None);
        }
        Ok(Some(divisor))
    }

    fn note_division_after_power(&mut self, joint: Joint, factors: &[Factor], from: Span) {
        let unit_power = factors.last().is_some_and(
            |f| matches!(&f.expr, Expr::Power(_, e) if matches!(&**e, Expr::Number(l) if l.value.is_one())),
        );
        if joint == Joint::Over && unit_power && matches!(self.peek_at(1), Some(Tok::Number(_))) {
            self.pos += 2;
            self.caution(CautionKind::DivisionAfterPower, from);
            self.pos -= 2;
        }
    }

    fn note_implied(&mut self, divided: bool, from: Span, factors: &[Factor]) {
        self.pos += 1;
        if divided {
            self.caution(CautionKind::FactorAfterDivision, from);
        } else if let Some(Factor {
            expr: Expr::Power(_, exponent),
            ..
        }) = factors.last()
            && matches!(**exponent, Expr::Number(_) | Expr::Negative(_))
            && factors
                .last()
                .is_some_and(|f| matches!(&f.expr, Expr::Power(b, _) if !b.has_variable()))
            && !matches!(self.peek_at_back(), Some(Tok::Function(_) | Tok::Open(_)))
        {
            self.caution(CautionKind::FactorAfterPower, from);
        }
        self.pos -= 1;
    }

    fn peek_at_back(&self) -> Option<&Tok> {
        self.pos
            .checked_sub(1)
            .and_then(|p| self.tokens.get(p))
            .map(|t| &t.tok)
    }

    fn append_implied(&self, factors: &mut Vec<Factor>, divided: bool, expr: Expr) {
        let last = factors.last_mut().map(|f| &mut f.expr);
        if self.options.other_reading && divided {
            // The other reading: `1/2x` is `1/(2x)`.
            if let Some(last) = last {
                let inner = match std::mem::replace(last, Expr::whole(1)) {
                    Expr::Group(g) if matches!(&*g, Expr::Product(_)) => *g,
                    other => other,
                };
                let mut parts = match inner {
                    Expr::Product(parts) => parts,
                    single => vec![Factor {
                        joint: Joint::Times,
                        expr: single,
                    }],
                };
                parts.push(Factor {
                    joint: Joint::Implied,
                    expr,
                });
                *last = Expr::Group(Box::new(Expr::Product(parts)));
            }
            return;
        }
        if self.options.other_reading
            && let Some(Expr::Power(base, exponent)) = last
            && matches!(**exponent, Expr::Number(_) | Expr::Negative(_))
            && !base.has_variable()
        {
            // The other reading: `e^2x` is `e^(2x)`.
            let inside = std::mem::replace(&mut **exponent, Expr::whole(1));
            let product = Expr::Product(vec![
                Factor {
                    joint: Joint::Times,
                    expr: inside,
                },
                Factor {
                    joint: Joint::Implied,
                    expr,
                },
            ]);
            **exponent = Expr::Group(Box::new(product));
            return;
        }
        factors.push(Factor {
            joint: Joint::Implied,
            expr,
        });
    }

    fn starts_factor(&self) -> bool {
        match self.peek() {
            Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_) | Tok::Function(_) | Tok::Open(_)) => {
                true
            }
            Some(Tok::Bar) => self.open.last() != Some(&'|'),
            _ => false,
        }
    }

    /// Two things written side by side are multiplied, but not where a number follows a number or a letter.
    fn check_side_by_side(&mut self) -> Result<()> {
        let Some(Tok::Number(_)) = self.peek() else {
            return Ok(());
        };
        let previous = self.peek_at_back().cloned();
        let span = Span::new(self.before().start, self.here().end);
        match previous {
            Some(Tok::Close(_) | Tok::Bar) => {
                self.cautions.push(Caution {
                    kind: CautionKind::NumberAfterBracket,
                    span,
                });
                Ok(())
            }
            Some(Tok::Number(a)) if self.is_mixed_shape(&a) => Err(ReadError {
                kind: Kind::MixedNumberHere,
                span,
            }),
            Some(Tok::Variable(name)) => Err(ReadError {
                kind: Kind::NumberAfterLetter(name.to_string()),
                span,
            }),
            Some(Tok::Constant(c)) => Err(ReadError {
                kind: Kind::NumberAfterLetter(constant_name(c).into()),
                span,
            }),
            _ => Err(ReadError {
                kind: Kind::NumbersSideBySide,
                span,
            }),
        }
    }

    fn is_mixed_shape(&self, whole: &Literal) -> bool {
        whole.style == LiteralStyle::Whole
            && matches!((self.peek(), self.peek_at(1), self.peek_at(2)),
                (Some(Tok::Number(a)), Some(Tok::Over), Some(Tok::Number(b)))
                    if a.style == LiteralStyle::Whole && b.style == LiteralStyle::Whole)
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

    fn call(&mut self, function: Function) -> Result<Expr> {
        let start = self.here();
        self.pos += 1;
        self.deeper()?;
        let base = if function == Function::Log {
            self.log_base()?
        } else {
            None
        };
        let (function, power) = self.function_power(function)?;
        let bracketed = matches!(self.peek(), Some(Tok::Open(_) | Tok::Bar));
        let arguments = match self.peek() {
            Some(Tok::Open(open)) => {
                let open = *open;
                self.arguments(open)?
            }
            Some(Tok::Bar) if self.open.last() != Some(&'|') || self.bar_opens() => vec![self.bars()?],
            _ if matches!(function, Function::Root | Function::Min | Function::Max) => {
                return self.fail(Kind::FunctionNeedsArgument(function.name().into()));
            }
            _ => vec![self.run_on_argument(function, start)?],
        };
        self.depth -= 1;
        if let Some(split) = self.other_power(function, &base, &arguments, power.is_some() || bracketed) {
            return Ok(split);
        }
        let call = self.checked_call(function, base, arguments, start)?;
        Ok(match power {
            Some(power) => Expr::power(Expr::Group(Box::new(call)), power),
            None => call,
        })
    }

    /// In the other reading `sin x^2` is `(sin x)^2`.
    fn other_power(
        &self,
        function: Function,
        base: &Option<Expr>,
        args: &[Expr],
        settled: bool,
    ) -> Option<Expr> {
        if !self.options.other_reading || settled || base.is_some() {
            return None;
        }
        match args {
            [Expr::Power(inner, exponent)] => {
                let call = Expr::call(function, (**inner).clone());
                Some(Expr::power(Expr::Group(Box::new(call)), (**exponent).clone()))
            }
            _ => None,
        }
    }

    fn checked_call(
        &self,
        function: Function,
        base: Option<Expr>,
        mut args: Vec<Expr>,
        at: Span,
    ) -> Result<Expr> {
        let wanted = if function == Function::Root { 2 } else { 1 };
        let any_number = matches!(function, Function::Min | Function::Max);
        if args.len() != wanted && !any_number {
            let name = function.name().to_owned();
            return Err(ReadError {
                kind: Kind::WrongArgumentCount { name, wanted },
                span: at,
            });
        }
        Ok(match base {
            Some(base) => {
                args.insert(0, base);
                Expr::Call(Function::LogBase, args)
            }
            None => Expr::Call(function, args),
        })
    }

    /// `log_2`, `log_b`, `log_(1/2)`, and the run-on `log2(8)`, `log10 x`.
    fn log_base(&mut self) -> Result<Option<Expr>> {
        if self.eat(&Tok::Underscore) {
            return match self.peek().cloned() {
                Some(Tok::Number(l)) => {
                    self.pos += 1;
                    Ok(Some(Expr::Number(l)))
                }
                Some(Tok::Variable(v)) => {
                    self.pos += 1;
                    Ok(Some(Expr::Variable(v)))
                }
                Some(Tok::Constant(c)) => {
                    self.pos += 1;
                    Ok(Some(Expr::Constant(c)))
                }
                Some(Tok::Open(c)) => Ok(Some(Expr::Group(Box::new(self.bracketed(c)?)))),
                _ => self.missing_operand(),
            };
        }
        if let Some(Tok::Number(l)) = self.peek().cloned()
            && l.style == LiteralStyle::Whole
            && !self.spaced()
        {
            let opens = matches!(self.peek_at(1), Some(Tok::Open(_)));
            let apart = self.tokens.get(self.pos + 1).is_some_and(|t| t.spaced);
            let base_ten = l.value.to_integer() == BigInt::from(10) && apart;
            if opens || (base_ten && self.pos + 1 < self.tokens.len() && self.begins_operand(1)) {
                let from = self.before();
                self.pos += 1;
                self.caution(CautionKind::LogBaseRunOn, from);
                return Ok(Some(Expr::Number(l)));
            }
        }
        Ok(None)
    }

    fn begins_operand(&self, ahead: usize) -> bool {
        matches!(
            self.peek_at(ahead),
            Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_) | Tok::Function(_) | Tok::Open(_))
        )
    }

    /// `sin^2 x` is a power of the function, `sin^-1 x` its inverse; other negative powers are refused.
    fn function_power(&mut self, function: Function) -> Result<(Function, Option<Expr>)> {
        let start = self.here();
        let power = if let Some(Tok::Raised(n)) = self.peek().cloned() {
            self.pos += 1;
            Expr::whole(n)
        } else if self.eat(&Tok::Caret) {
            match self.peek().cloned() {
                Some(Tok::Open(c)) => self.bracketed(c)?,
                _ => {
                    let sign = self.sign()?;
                    let value = match self.peek().cloned() {
                        Some(Tok::Number(l)) => Expr::Number(l),
                        Some(Tok::Variable(v)) => Expr::Variable(v),
                        _ => return self.missing_operand(),
                    };
                    self.pos += 1;
                    signed(sign, value)
                }
            }
        } else {
            return Ok((function, None));
        };
        let refused = Err(ReadError {
            kind: Kind::FunctionPower(function.name().into()),
            span: start,
        });
        match crate::exact::exact_value(&power) {
            Some(v) if v == -num_rational::BigRational::one() => match function.inverse() {
                Some(inverse) => Ok((inverse, None)),
                None => refused,
            },
            Some(v) if v.is_negative() || !v.is_integer() || v.to_integer().to_u32().is_none() => refused,
            _ => Ok((function, Some(power))),
        }
    }

    pub fn arguments(&mut self, open: char) -> Result<Vec<Expr>> {
        self.enter(open)?;
        let mut args = vec![self.expression()?];
        while self.eat(&Tok::Comma) {
            args.push(self.expression()?);
        }
        self.leave(open)?;
        Ok(args)
    }

    /// The argument of a function that was typed without brackets.
    fn run_on_argument(&mut self, function: Function, start: Span) -> Result<Expr> {
        let sign = match self.peek() {
            Some(Tok::Minus) => Some(true),
            Some(Tok::Plus) => Some(false),
            _ => None,
        };
        if sign.is_some() {
            self.pos += 1;
        }
        if !(self.starts_factor() || matches!(self.peek(), Some(Tok::Bar))) {
            return self.fail(Kind::FunctionNeedsArgument(function.name().into()));
        }
        let in_function = matches!(self.peek(), Some(Tok::Function(_)));
        let mut factors = vec![Factor {
            joint: Joint::Times,
            expr: self.factor()?,
        }];
        while !in_function
            && matches!(
                self.peek(),
                Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_))
            )
            && !(self.options.other_reading && is_root(function))
        {
            self.check_side_by_side()?;
            factors.push(Factor {
                joint: Joint::Implied,
                expr: self.factor()?,
            });
        }
        let many = factors.len() > 1;
        let name = function.name().to_owned();
        if is_root(function) && (many || self.root_runs_on(in_function)) {
            self.caution(CautionKind::ProductInRoot, start);
        }
        let ends_in_power = matches!(
            factors.last(),
            Some(Factor {
                expr: Expr::Power(..),
                ..
            })
        );
        if ends_in_power {
            self.caution(CautionKind::PowerInFunction(name.clone()), start);
        }
        match self.peek() {
            Some(Tok::Over) => {
                self.pos += 1;
                self.caution(CautionKind::DivisionAfterFunction(name), start);
                self.pos -= 1;
            }
            Some(Tok::Open(_)) => {
                self.pos += 1;
                self.caution(CautionKind::BracketAfterFunction(name), start);
                self.pos -= 1;
            }
            _ => {}
        }
        if self.options.other_reading {
            return self.other_argument(factors, sign, ends_in_power);
        }
        let argument = match (factors.len(), factors.pop()) {
            (1, Some(only)) => only.expr,
            (_, Some(last)) => {
                factors.push(last);
                Expr::Product(factors)
            }
            (_, None) => return self.missing_operand(),
        };
        Ok(signed(sign, argument))
    }

    fn root_runs_on(&self, in_function: bool) -> bool {
        self.options.other_reading
            && !in_function
            && matches!(
                self.peek(),
                Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_))
            )
    }

    /// The other reading of a run-on argument: `sin x/2` is `sin(x/2)`, `sin x(x+1)` is `sin(x(x+1))`.
    fn other_argument(&mut self, mut factors: Vec<Factor>, sign: Option<bool>, power: bool) -> Result<Expr> {
        if !power {
            match self.peek() {
                Some(Tok::Over) => {
                    self.pos += 1;
                    let expr = self.signed_factor()?;
                    factors.push(Factor {
                        joint: Joint::Over,
                        expr,
                    });
                }
                Some(Tok::Open(_)) => {
                    let expr = self.factor()?;
                    factors.push(Factor {
                        joint: Joint::Implied,
                        expr,
                    });
                }
                _ => {}
            }
        }
        let argument = match (factors.len(), factors.pop()) {
            (1, Some(only)) => only.expr,
            (_, Some(last)) => {
                factors.push(last);
                Expr::Product(factors)
            }
            (_, None) => return self.missing_operand(),
        };
        Ok(signed(sign, argument))
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
