//! Products: with a sign between the factors, and with nothing between them.

use num_traits::One;

use super::{Parser, Result, constant_name, signed};
use crate::error::{ReadError, ReadErrorKind as Kind, Span};
use crate::read::lexer::Tok;
use crate::read::{Caution, CautionKind};
use crate::tree::{Expr, Factor, Joint, Literal, LiteralStyle};

impl Parser<'_> {
    pub(super) fn product(&mut self) -> Result<Expr> {
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

    pub(super) fn signed_factor(&mut self) -> Result<Expr> {
        let sign = self.sign()?;
        let factor = self.factor()?;
        Ok(signed(sign, factor))
    }

    /// In the other reading `x^1/2` is `x^(1/2)`: the divisor joins the power before it.
    pub(super) fn other_power_division(&mut self, factors: &mut [Factor]) -> Result<Option<Expr>> {
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

    pub(super) fn note_division_after_power(&mut self, joint: Joint, factors: &[Factor], from: Span) {
        let unit_power = factors.last().is_some_and(
            |f| matches!(&f.expr, Expr::Power(_, e) if matches!(&**e, Expr::Number(l) if l.value.is_one())),
        );
        if joint == Joint::Over && unit_power && matches!(self.peek_at(1), Some(Tok::Number(_))) {
            self.pos += 2;
            self.caution(CautionKind::DivisionAfterPower, from);
            self.pos -= 2;
        }
    }

    pub(super) fn note_implied(&mut self, divided: bool, from: Span, factors: &[Factor]) {
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

    pub(super) fn peek_at_back(&self) -> Option<&Tok> {
        self.pos
            .checked_sub(1)
            .and_then(|p| self.tokens.get(p))
            .map(|t| &t.tok)
    }

    pub(super) fn append_implied(&self, factors: &mut Vec<Factor>, divided: bool, expr: Expr) {
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

    pub(super) fn starts_factor(&self) -> bool {
        match self.peek() {
            Some(Tok::Number(_) | Tok::Variable(_) | Tok::Constant(_) | Tok::Function(_) | Tok::Open(_)) => {
                true
            }
            Some(Tok::Bar) => self.open.last() != Some(&'|'),
            _ => false,
        }
    }

    /// Two things written side by side are multiplied, but not where a number follows a number or a letter.
    pub(super) fn check_side_by_side(&mut self) -> Result<()> {
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

    pub(super) fn is_mixed_shape(&self, whole: &Literal) -> bool {
        whole.style == LiteralStyle::Whole
            && matches!((self.peek(), self.peek_at(1), self.peek_at(2)),
                (Some(Tok::Number(a)), Some(Tok::Over), Some(Tok::Number(b)))
                    if a.style == LiteralStyle::Whole && b.style == LiteralStyle::Whole)
    }
}
