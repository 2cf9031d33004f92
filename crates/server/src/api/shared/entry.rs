//! How a part is answered: its field with keys, or its choices. Nothing of the key shows.

use marking::{ItemPart, Kind, PartKind, Response};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::prose::{InlineView, line};

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum EntryView {
    Typed {
        label: String,
        /// Printed beside the field.
        unit: Option<String>,
        /// What is wanted, in a word or two: "an exact value", "2 decimal places".
        wanted: Option<String>,
        keys: Vec<KeyView>,
    },
    Choice {
        several: bool,
        choices: Vec<ChoiceView>,
    },
}

/// A key under the field: what it shows, what it types, and how far back the cursor goes.
#[derive(Serialize, ToSchema)]
pub(crate) struct KeyView {
    pub shows: String,
    pub says: String,
    pub types: String,
    pub back: usize,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ChoiceView {
    pub id: String,
    pub text: Vec<InlineView>,
}

/// What a student gives: text for a field, ids for choices.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub(crate) enum ResponseView {
    Text(String),
    Choices(Vec<String>),
}

impl From<ResponseView> for Response {
    fn from(r: ResponseView) -> Self {
        match r {
            ResponseView::Text(t) => Response::Text(t),
            ResponseView::Choices(c) => Response::Choices(c),
        }
    }
}

impl From<&Response> for ResponseView {
    fn from(r: &Response) -> Self {
        match r {
            Response::Text(t) => ResponseView::Text(t.clone()),
            Response::Choices(c) => ResponseView::Choices(c.clone()),
        }
    }
}

pub(crate) fn entry_view(part: &ItemPart) -> EntryView {
    match &part.kind {
        PartKind::Choice { shown, several, .. } => EntryView::Choice {
            several: *several,
            choices: shown
                .iter()
                .map(|c| ChoiceView {
                    id: c.id.clone(),
                    text: line(&c.text),
                })
                .collect(),
        },
        PartKind::Entry { block, label, .. } => EntryView::Typed {
            label: if label.is_empty() {
                "Your answer".into()
            } else {
                label.clone()
            },
            unit: if block.unit_shown {
                block.unit.clone()
            } else {
                None
            },
            wanted: wanted(block),
            keys: keys(block),
        },
    }
}

/// A field that asks for nothing but what is typed.
pub(crate) fn typed_entry_view(block: &marking::AnswerBlock, label: &str) -> EntryView {
    EntryView::Typed {
        label: label.to_owned(),
        unit: None,
        wanted: None,
        keys: keys(block),
    }
}

/// What the block asks for beyond being right, in a word or two.
fn wanted(block: &marking::AnswerBlock) -> Option<String> {
    use marking::Tolerance as T;
    let places = |n: u32| match n {
        0 => "to the nearest whole number".to_owned(),
        1 => "1 decimal place".to_owned(),
        n => format!("{n} decimal places"),
    };
    let counts = block.must_be.contains(&marking::MustBe::Whole);
    let rounding = match &block.tolerance {
        Some(T::Decimals(n)) => Some(places(*n)),
        Some(T::Significant(n)) => Some(format!("{n} significant figures")),
        Some(T::Absolute(_) | T::Relative(_)) => Some("a decimal will do".into()),
        // A count is exact anyway: nothing need be said.
        None if block.kind == Kind::Number && block.form.is_none() && !counts => {
            Some("an exact value".into())
        }
        None => None,
    };
    let form = block.form.map(|f| form_words(f).to_owned());
    let unit = (block.unit.is_some() && !block.unit_shown).then(|| "with its unit".to_owned());
    let solved = block.solved_for.as_ref().map(|name| format!("solved for {name}"));
    let all: Vec<String> = [rounding, form, unit, solved].into_iter().flatten().collect();
    (!all.is_empty()).then(|| all.join(", "))
}

fn form_words(form: marking::FormName) -> &'static str {
    use marking::FormName as F;
    match form {
        F::Integer => "a whole number",
        F::Decimal => "a decimal",
        F::Fraction => "a fraction",
        F::LowestTerms => "in lowest terms",
        F::Mixed => "a mixed number",
        F::Scientific => "in scientific notation",
        F::Expanded => "multiplied out",
        F::Factored => "factored as far as it goes",
        F::SingleFraction => "a single fraction",
        F::NoDecimals => "without decimals",
        F::SimplestRoot => "with the root simplified",
    }
}

fn keys(block: &marking::AnswerBlock) -> Vec<KeyView> {
    let key = |shows: &str, says: &str, types: &str, back: usize| KeyView {
        shows: shows.into(),
        says: says.into(),
        types: types.into(),
        back,
    };
    if block.kind == Kind::Text {
        return Vec::new();
    }
    let mut keys = vec![
        key("a/b", "fraction", "()/()", 4),
        key("xⁿ", "power", "^", 0),
        key("√", "square root", "sqrt()", 1),
    ];
    let brackets = key("( )", "brackets", "()", 1);
    match block.kind {
        Kind::Number | Kind::Expression | Kind::Equation => keys.extend([brackets, key("π", "pi", "pi", 0)]),
        Kind::Interval => {
            keys.extend([
                key("[ , )", "interval", "[,)", 2),
                key("≤", "less than or equal", "≤", 0),
                key("≥", "greater than or equal", "≥", 0),
                key("∪", "union", " ∪ ", 0),
                key("∞", "infinity", "∞", 0),
            ]);
        }
        Kind::Tuple => keys.push(key("( , )", "point", "(,)", 2)),
        Kind::Vector => keys.push(key("⟨ , ⟩", "vector", "<,>", 2)),
        Kind::Matrix => keys.extend([
            key("2×2", "matrix with two rows and two columns", "[[,],[,]]", 7),
            key(
                "3×3",
                "matrix with three rows and three columns",
                "[[,,],[,,],[,,]]",
                14,
            ),
            key(";", "next row", "; ", 0),
        ]),
        Kind::Set => keys.extend([key("{ , }", "set", "{,}", 2), key("±", "plus or minus", "±", 0)]),
        Kind::List => keys.push(key(",", "comma", ", ", 0)),
        Kind::Text => {}
    }
    if block.kind == Kind::Equation {
        keys.push(key("=", "equals", " = ", 0));
    }
    if block.complex {
        keys.push(key("i", "imaginary unit", "i", 0));
    }
    if block.up_to == Some(marking::UpTo::Constant) {
        keys.push(key("+ C", "constant of integration", " + C", 0));
    }
    if block.unit.is_some() {
        keys.extend([
            key("·", "times, between units", "·", 0),
            key("°", "degrees", "°", 0),
        ]);
    }
    let names = match (&block.variables, block.kind) {
        (Some(names), _) => names.clone(),
        (None, Kind::Expression | Kind::Equation) => vec!["x".into()],
        _ => Vec::new(),
    };
    for name in names.iter().filter(|n| n.len() > 1).take(4) {
        keys.push(key(name, name, name, 0));
    }
    keys
}
