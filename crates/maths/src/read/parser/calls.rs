//! Functions and what they are applied to: in brackets, or run on without.

use num_bigint::BigInt;
use num_traits::{One, Signed, ToPrimitive};

use super::{Parser, Result, is_root, signed};
use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::read::CautionKind;
use crate::read::lexer::Tok;
use crate::tree::{Expr, Factor, Function, Joint, LiteralStyle};

impl Parser<'_> {
    pub(super) fn call(&mut self, function: Function) -> Result<Expr> {
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
    pub(super) fn other_power(
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

    pub(super) fn checked_call(
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
    pub(super) fn log_base(&mut self) -> Result<Option<Expr>> {
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

    pub(super) fn begins_operand(&self, ahead: usize) -> bool {
        matches!(
            self.peek_at(ahead),
            Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_) | Tok::Function(_) | Tok::Open(_))
        )
    }

    /// `sin^2 x` is a power of the function, `sin^-1 x` its inverse; other negative powers are refused.
    pub(super) fn function_power(&mut self, function: Function) -> Result<(Function, Option<Expr>)> {
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
    pub(super) fn run_on_argument(&mut self, function: Function, start: Span) -> Result<Expr> {
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

    pub(super) fn root_runs_on(&self, in_function: bool) -> bool {
        self.options.other_reading
            && !in_function
            && matches!(
                self.peek(),
                Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_))
            )
    }

    /// The other reading of a run-on argument: `sin x/2` is `sin(x/2)`, `sin x(x+1)` is `sin(x(x+1))`.
    pub(super) fn other_argument(
        &mut self,
        mut factors: Vec<Factor>,
        sign: Option<bool>,
        power: bool,
    ) -> Result<Expr> {
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
