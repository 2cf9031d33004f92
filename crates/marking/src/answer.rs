use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::fmt;

use num_rational::BigRational;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How one part of a question is marked. Every kind has a key; all the rest is optional.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AnswerBlock {
    pub kind: Kind,
    pub key: Key,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Tolerance>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub form: Option<FormName>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// The unit is printed beside the box; the entry may leave it out.
    #[serde(default, skip_serializing_if = "is_false")]
    pub unit_shown: bool,
    #[serde(default, skip_serializing_if = "is_false")]
    pub complex: bool,
    /// The names that may occur; `["x"]` for expressions and equations if left out, none for the rest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub variables: Option<Vec<String>>,
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub domain: BTreeMap<String, DomainSpec>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub up_to: Option<UpTo>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub constant_letter: Option<ConstantLetter>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub solved_for: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub same: Option<SameRule>,
    /// The variable of an inequality.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub variable: Option<String>,
    /// A share of the score for each right member.
    #[serde(default, skip_serializing_if = "is_false")]
    pub partial: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub basis: Option<Vec<String>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub case: Option<CaseRule>,
    /// What kind of number the key must be in every draw, for `green-slate bank check`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub must_be: Vec<MustBe>,
    /// Edits by which a word may differ from an accepted one and still cost nothing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub close: Option<u8>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
fn is_false(b: &bool) -> bool {
    !*b
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    Number,
    Expression,
    Equation,
    Interval,
    Tuple,
    Vector,
    Matrix,
    Set,
    List,
    Text,
}

impl Kind {
    pub fn name(self) -> &'static str {
        match self {
            Kind::Number => "number",
            Kind::Expression => "expression",
            Kind::Equation => "equation",
            Kind::Interval => "interval",
            Kind::Tuple => "tuple",
            Kind::Vector => "vector",
            Kind::Matrix => "matrix",
            Kind::Set => "set",
            Kind::List => "list",
            Kind::Text => "text",
        }
    }
}

/// A key in the notation students use; a list of accepted words for text. A plain number may be given bare.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Key {
    Text(String),
    Words(Vec<String>),
    Whole(i64),
    Decimal(f64),
}

impl Key {
    /// The key as one text.
    pub fn text(&self) -> String {
        match self {
            Key::Text(t) => t.clone(),
            Key::Words(words) => words.join(", "),
            Key::Whole(n) => n.to_string(),
            Key::Decimal(d) => d.to_string(),
        }
    }
}

/// How far a number may be off. Every bound is inclusive and worked on the decimals as typed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum Tolerance {
    Absolute(NumberText),
    Relative(NumberText),
    /// Within half a unit of this decimal place.
    Decimals(u32),
    /// Within half a unit of this significant figure of the key.
    Significant(u32),
}

/// A number that may be given as JSON or as text (`"pi/2"`).
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum NumberText {
    Text(String),
    Whole(i64),
    Decimal(f64),
}

impl NumberText {
    pub fn text(&self) -> String {
        match self {
            NumberText::Text(t) => t.clone(),
            NumberText::Whole(n) => n.to_string(),
            NumberText::Decimal(d) => d.to_string(),
        }
    }

    /// The exact value of the decimals as they were written.
    pub fn exact(&self) -> Option<BigRational> {
        let text = self.text();
        match text.strip_prefix('-') {
            Some(rest) => maths::read_rational(rest).map(|v| -v),
            None => maths::read_rational(&text),
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum FormName {
    Integer,
    Decimal,
    Fraction,
    LowestTerms,
    Mixed,
    Scientific,
    Expanded,
    Factored,
    SingleFraction,
    NoDecimals,
    /// A root with no square left in it and none below the fraction line: `9 sqrt(7)`, not `sqrt(567)`.
    SimplestRoot,
}

/// What the key of a number must be, whatever is drawn: half a person or a lift of minus two tonnes is a faulty question.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum MustBe {
    Whole,
    Positive,
    /// Both ends are allowed.
    Between(NumberText, NumberText),
}

impl MustBe {
    fn words(&self) -> String {
        match self {
            MustBe::Whole => "must be a whole number".into(),
            MustBe::Positive => "must be above zero".into(),
            MustBe::Between(low, high) => format!("must be from {} to {}", low.text(), high.text()),
        }
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum DomainSpec {
    Named(DomainName),
    Range(NumberText, NumberText),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum DomainName {
    Positive,
    Nonnegative,
    Integer,
    PositiveInteger,
    NonnegativeInteger,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum UpTo {
    Constant,
    Factor,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ConstantLetter {
    Required,
    Optional,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum SameRule {
    Multiple,
    Solutions,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum CaseRule {
    Ignore,
    Exact,
}

/// Why an answer block cannot be used, for its author.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FaultyBlock {
    #[error("`{option}` does not belong to the kind {kind}", kind = kind.name())]
    OptionOfOtherKind { option: &'static str, kind: Kind },
    #[error("the key `{key}` can't be read: {why}")]
    KeyUnreadable { key: String, why: String },
    #[error("the key `{key}` has no value")]
    KeyWithoutValue { key: String },
    #[error("`{name}` is no name for a variable")]
    BadName { name: String },
    #[error("`{name}` has a domain but is not among the variables")]
    DomainOfUnknown { name: String },
    #[error("the range of `{name}` is empty or can't be read")]
    BadRange { name: String },
    #[error("the tolerance is no number, or is below zero")]
    BadTolerance,
    #[error("significant figures of the key 0 mean nothing; use decimals or absolute")]
    SignificantOfZero,
    #[error("the unit `{unit}` is not known")]
    UnknownUnit { unit: String },
    #[error("the unit of the kind {kind} is printed beside the box: it needs `unit_shown`", kind = kind.name())]
    UnitNotShown { kind: Kind },
    #[error("`unit_shown` needs a `unit`")]
    UnitShownWithoutUnit,
    #[error("the form does not fit the kind {kind}", kind = kind.name())]
    FormOfOtherKind { kind: Kind },
    #[error("the key `{key}` is not in the form that is asked for")]
    KeyInOtherForm { key: String },
    #[error("the key of a text needs at least one word")]
    NoWords,
    #[error("{what}")]
    Other { what: String },
}

/// The kinds whose numbers may be measured in a unit.
const MEASURED: [Kind; 5] = [Kind::Number, Kind::Interval, Kind::Tuple, Kind::Set, Kind::List];

impl AnswerBlock {
    /// What of `must_be` the key breaks, in words for its author; nothing if it holds or the key can't be worked out.
    pub fn broken_bounds(&self) -> Vec<String> {
        let key = self.key.text();
        let number = |text: &str| {
            let names = maths::Names::new([]).ok()?;
            Some(
                maths::read_expression(text, &maths::ReadOptions::number(&names))
                    .ok()?
                    .tree,
            )
        };
        let Some(value) = number(&key) else {
            return Vec::new();
        };
        let order = |text: &str| {
            maths::compare_constants(&value, &number(text)?)
                .ok()
                .map(|(order, _)| order)
        };
        let breaks = |bound: &MustBe| match bound {
            MustBe::Whole => maths::exact_value(&value).is_none_or(|v| !v.is_integer()),
            MustBe::Positive => order("0").is_some_and(Ordering::is_le),
            MustBe::Between(low, high) => {
                order(&low.text()).is_some_and(Ordering::is_lt)
                    || order(&high.text()).is_some_and(Ordering::is_gt)
            }
        };
        self.must_be
            .iter()
            .filter(|b| breaks(b))
            .map(MustBe::words)
            .collect()
    }

    /// A block with a kind and a key and nothing else.
    pub fn plain(kind: Kind, key: impl fmt::Display) -> Self {
        AnswerBlock {
            kind,
            key: Key::Text(key.to_string()),
            tolerance: None,
            form: None,
            unit: None,
            unit_shown: false,
            complex: false,
            variables: None,
            domain: BTreeMap::new(),
            up_to: None,
            constant_letter: None,
            solved_for: None,
            same: None,
            variable: None,
            partial: false,
            basis: None,
            case: None,
            close: None,
            must_be: Vec::new(),
        }
    }

    /// # Errors
    /// The first option that the kind does not take.
    pub(crate) fn check_options(&self) -> Result<(), FaultyBlock> {
        use Kind as K;
        let is = |kinds: &[Kind]| kinds.contains(&self.kind);
        let given: [(&'static str, bool, bool); 15] = [
            ("tolerance", self.tolerance.is_some(), is(&[K::Number])),
            ("form", self.form.is_some(), is(&[K::Number, K::Expression])),
            ("unit", self.unit.is_some(), is(&MEASURED)),
            ("unit_shown", self.unit_shown, is(&MEASURED)),
            ("must_be", !self.must_be.is_empty(), is(&[K::Number])),
            ("complex", self.complex, is(&[K::Number, K::Expression])),
            ("domain", !self.domain.is_empty(), !is(&[K::Number, K::Text])),
            ("up_to", self.up_to.is_some(), is(&[K::Expression, K::Vector])),
            (
                "constant_letter",
                self.constant_letter.is_some(),
                is(&[K::Expression]),
            ),
            ("solved_for", self.solved_for.is_some(), is(&[K::Equation])),
            ("same", self.same.is_some(), is(&[K::Equation])),
            ("variable", self.variable.is_some(), is(&[K::Interval])),
            (
                "partial",
                self.partial,
                is(&[K::Tuple, K::Vector, K::Matrix, K::Set, K::List]),
            ),
            ("basis", self.basis.is_some(), is(&[K::Vector])),
            (
                "case",
                self.case.is_some() || self.close.is_some(),
                is(&[K::Text]),
            ),
        ];
        for (option, set, allowed) in given {
            if set && !allowed {
                return Err(FaultyBlock::OptionOfOtherKind {
                    option,
                    kind: self.kind,
                });
            }
        }
        if self.unit_shown && self.unit.is_none() {
            return Err(FaultyBlock::UnitShownWithoutUnit);
        }
        if self.unit.is_some() && !self.unit_shown && self.kind != K::Number {
            return Err(FaultyBlock::UnitNotShown { kind: self.kind });
        }
        let other = |what: &str| Err(FaultyBlock::Other { what: what.into() });
        if self.kind == K::Vector && self.up_to == Some(UpTo::Constant) {
            return other("a vector can be right up to a factor, not up to a constant");
        }
        if self.constant_letter.is_some() && self.up_to != Some(UpTo::Constant) {
            return other("`constant_letter` needs `up_to: constant`");
        }
        if self.tolerance.is_some() && self.complex {
            return other("a complex number has no tolerance here");
        }
        if self.close.is_some_and(|n| n > 1) {
            return other("`close` may be 0 or 1");
        }
        Ok(())
    }
}
