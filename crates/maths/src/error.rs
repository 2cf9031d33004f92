/// A stretch of the entry in characters (not bytes): `start..end`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Span {
    pub start: usize,
    pub end: usize,
}

impl Span {
    pub fn new(start: usize, end: usize) -> Self {
        Self { start, end }
    }
}

/// What could not be read, and where. [`crate::error_words`] says it in a student's words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ReadError {
    pub kind: ReadErrorKind,
    pub span: Span,
}

impl ReadError {
    pub fn new(kind: ReadErrorKind, start: usize, end: usize) -> Self {
        Self {
            kind,
            span: Span::new(start, end),
        }
    }
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ReadErrorKind {
    Empty,
    TooLong,
    TooDeep,
    NumberTooLarge,
    NoValue,
    TooHardToWorkOut,
    UnknownCharacter(char),
    Latex,
    UnknownName(String),
    MissingBetween(String, String),
    MissingAfter(String),
    MissingBefore(String),
    MissingClosing(char),
    MissingOpening(char),
    Mismatched {
        open: char,
        close: char,
    },
    EmptyBrackets,
    MissingBar,
    NumbersSideBySide,
    MixedNumberHere,
    NumberAfterLetter(String),
    TwoPoints,
    LonePoint,
    CommaInNumber,
    StrayComma,
    SeveralAnswers,
    TwoAnswers,
    EqualsMissing,
    NotAnEquation,
    InequalityHere,
    DoubleFactorial,
    FunctionNeedsArgument(String),
    FunctionPower(String),
    WrongArgumentCount {
        name: String,
        wanted: usize,
    },
    PlusMinusHere,
    InfinityHere,
    UnitUnknown(String),
    /// A unit that measures something else than what is wanted.
    UnitOfOther(String),
    UnitBroken,
    /// A word behind a number where the number alone is wanted.
    WordAfterNumber(String),
    /// `5.4 x 10-3`, where a power of ten is wanted.
    PowerOfTenRunOn,
    EndsInWrongOrder,
    RowsUneven,
    SpellingClose,
    WordsOnly,
    Unexpected(String),
}
