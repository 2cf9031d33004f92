//! The one place where kinds become words, for a reader of about fifteen.

use crate::error::ReadErrorKind as K;
use crate::read::CautionKind as C;

/// Why an entry could not be read, and what to do about it.
pub fn error_words(kind: &K) -> String {
    match kind {
        K::Empty => "Nothing entered yet.".into(),
        K::TooLong => "This is too long to be an answer: at most 2,000 characters are read.".into(),
        K::TooDeep => "Too many brackets or powers are inside one another to be read.".into(),
        K::NumberTooLarge => "This number is too large to work with. Check the power of ten.".into(),
        K::NoValue => {
            "This has no value: look for a division by zero, or a root or logarithm that does not exist."
                .into()
        }
        K::TooHardToWorkOut => "This is too large to work out. Check the powers and factorials.".into(),
        K::UnknownCharacter(c) if c.is_control() => {
            "There is an invisible character here that cannot be read. Delete it and type on.".into()
        }
        K::UnknownCharacter(':') => "Write a ratio or a division with a slash: 3/4.".to_owned(),
        K::UnknownCharacter(c) => format!("The character {c} can't be read here."),
        K::Latex => "Type the answer as on a calculator, without \\ or $: sqrt(2), x^2, 3/4.".into(),
        K::UnknownName(name) => {
            format!("There is no {name} in this question. Check the letter, or the name of the function.")
        }
        K::MissingBetween(a, b) => format!("Something is missing between {a} and {b}."),
        K::MissingAfter(a) => format!("Something is missing after {a}."),
        K::MissingBefore(b) => format!("Something is missing before {b}."),
        K::MissingClosing(open) => format!("A closing bracket is missing: {open} is never closed."),
        K::MissingOpening(close) => format!("An opening bracket is missing: {close} closes nothing."),
        K::Mismatched { open: '|', close } => {
            format!("The bar | is still open where {close} closes a bracket.")
        }
        K::Mismatched { open, close } => format!("The brackets do not match: {open} is closed by {close}."),
        K::EmptyBrackets => "There is nothing inside these brackets.".into(),
        K::MissingBar => "A bar | is missing: |x| needs one on each side.".into(),
        K::NumbersSideBySide => {
            "There are two numbers next to each other. Put a sign between them: 2*3, 2+3.".into()
        }
        K::MixedNumberHere => "A mixed number can't stand here. Write 2 1/3 as 7/3, or as (2+1/3).".into(),
        K::NumberAfterLetter(name) => format!(
            "A number stands right after {name}. Write 2{name} for a product or {name}^2 for a power."
        ),
        K::TwoPoints => "This number has two decimal points.".into(),
        K::LonePoint => "There is a point here without a number.".into(),
        K::CommaInNumber => {
            "Use a point for decimals: 3.5. A comma may only separate thousands: 1,234.".into()
        }
        K::StrayComma => "There is a comma with nothing after it, or nothing before it.".into(),
        K::SeveralAnswers => "Only one answer is asked for here.".into(),
        K::TwoAnswers => "There are two answers here, one on each side of =. Give just one.".into(),
        K::EqualsMissing => "An equation is asked for: it needs a sign =.".into(),
        K::NotAnEquation => "This is not an equation with one sign =.".into(),
        K::InequalityHere => "A sign such as < or > can't be used in this answer.".into(),
        K::DoubleFactorial => "Two signs ! stand side by side. Use brackets if you mean (n!)!.".into(),
        K::FunctionNeedsArgument(name) => format!("{name} needs something to work on: {name}(…)."),
        K::FunctionPower(name) => format!("This power of {name} can't be read. Write ({name}(x))^n instead."),
        K::WrongArgumentCount { name, wanted: 1 } => format!("{name} takes one value."),
        K::WrongArgumentCount { name, wanted } => {
            format!("{name} takes {wanted} values, with a comma between them.")
        }
        K::PlusMinusHere => "The sign ± stands for two answers; only one is asked for here.".into(),
        K::InfinityHere => "Infinity can't be used in this answer.".into(),
        K::UnitOfOther(unit) => format!("{unit} does not measure what is asked for."),
        K::UnitUnknown(unit) => format!("There is no unit {unit}. Check how it is written."),
        K::WordAfterNumber(name) => format!("Only the number is needed here: leave {name} out."),
        K::PowerOfTenRunOn => "Write the exponent with ^: 5.4 x 10^-3.".into(),
        K::UnitBroken => "The unit can't be read. Write it like m/s or kg m^2.".into(),
        K::EndsInWrongOrder => {
            "The ends of this interval are in the wrong order: put the smaller one first.".into()
        }
        K::RowsUneven => "The rows are not all the same length.".into(),
        K::SpellingClose => "Nearly: check your spelling.".into(),
        K::WordsOnly => "This can't be read as an answer here.".into(),
        K::Unexpected(what) => format!("{what} can't stand here."),
    }
}

/// How a place that may surprise was read.
pub fn caution_words(kind: &C) -> String {
    match kind {
        C::FactorAfterDivision => {
            "Read from left to right: 1/2x is ½·x. Use brackets if you mean 1/(2x).".into()
        }
        C::DivisionAfterFunction(f) => {
            format!("Read as ({f} …) divided by what follows. Use brackets if you mean {f}(…/…).")
        }
        C::BracketAfterFunction(f) => {
            format!("Read as ({f} …) times the bracket. Use brackets if the bracket belongs inside {f}.")
        }
        C::PowerInFunction(f) => {
            format!("The power is read as inside: {f}(x^2). Write ({f} x)^2 if you mean the other.")
        }
        C::ProductInRoot => {
            "The root covers the whole product: sqrt 2x is sqrt(2x). Use brackets if you mean sqrt(2)·x."
                .into()
        }
        C::PowerTower => "Powers are read from the right: 2^3^2 is 2^(3^2).".into(),
        C::FactorAfterPower => {
            "Only the number is in the power: e^2x is (e^2)·x. Use brackets if you mean e^(2x).".into()
        }
        C::DivisionAfterPower => {
            "Only the number is in the power: x^1/2 is (x^1)/2. Use brackets if you mean x^(1/2).".into()
        }
        C::LogBaseRunOn => "The number after log is read as its base.".into(),
        C::OtherCase { typed, read } => format!("{typed} is read as {read}."),
        C::NumberAfterBracket => "The number after the bracket multiplies it.".into(),
        C::ExponentNotation => "Read as a power of ten: 2e-3 is 0.002.".into(),
        C::CommaParts => "The comma parts two values here: 1,234 is read as 1 and 234.".into(),
        C::UnitCase { typed, read } => format!("The unit {typed} is read as {read}."),
    }
}
