//! Numbers: digits, groups of them, decimal signs and exponents.

use num_bigint::BigInt;
use num_rational::BigRational;

use super::{Lexer, Tok};
use crate::error::{ReadError, ReadErrorKind as Kind};
use crate::limits::MAX_LITERAL_EXPONENT;
use crate::read::{Caution, CautionKind, Comma};
use crate::tree::{Literal, LiteralStyle};

impl Lexer<'_> {
    /// Digits with at most one point; commas in threes where they group; a power of ten.
    pub(super) fn number(&mut self) -> Result<(), ReadError> {
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

    pub(super) fn digits(&mut self) -> String {
        let mut digits = String::new();
        while let Some(c) = self.peek(0).filter(char::is_ascii_digit) {
            digits.push(c);
            self.pos += 1;
        }
        digits
    }

    pub(super) fn groups_commas(&self) -> bool {
        self.options.comma == Comma::Grouping && !self.brackets.iter().any(|b| *b)
    }

    pub(super) fn comma_then_digit(&self) -> bool {
        self.peek(0) == Some(',') && self.peek(1).is_some_and(|c| c.is_ascii_digit())
    }

    pub(super) fn three_digits_after_comma(&self) -> bool {
        self.comma_then_digit()
            && self.peek(2).is_some_and(|c| c.is_ascii_digit())
            && self.peek(3).is_some_and(|c| c.is_ascii_digit())
            && !self.peek(4).is_some_and(|c| c.is_ascii_digit())
    }

    pub(super) fn looks_grouped(&self, leading: usize) -> bool {
        (1..=3).contains(&leading) && self.three_digits_after_comma()
    }

    pub(super) fn grouped_digits(&mut self, from: usize, typed: &mut String) -> Result<(), ReadError> {
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
    pub(super) fn groups_after_blanks(&mut self, typed: &mut String) {
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
    pub(super) fn is_proper_fraction_at(&self, ahead: usize) -> bool {
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

    pub(super) fn exponent(
        &mut self,
        typed: &mut String,
        style: &mut LiteralStyle,
    ) -> Result<i64, ReadError> {
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
}
