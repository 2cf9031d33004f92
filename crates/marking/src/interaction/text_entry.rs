//! Something typed into a field (QTI's textEntryInteraction): every kind of `docs/marking.md`.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Known, Posed, Right, Shape, Shown, Spec};
use crate::answer::{AnswerBlock, FormName, Key, Kind, MustBe, Tolerance, UpTo};
use crate::bank::{Drawn, FormatError, RenderError, Reply, Set, by_hand, fill_key, tidy_signs};
use crate::guide::can_be_typed;
use crate::mark::{Draft, Marker};
use crate::response::Response;
use crate::verdict::{Marking, Outcome};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TextEntry {
    /// Keys and text may hold `{{name}}`.
    pub answer: Box<AnswerBlock>,
    /// What the box is called for a screen reader, if the prompt does not say it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub label: String,
}

/// A field with the keys under it.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
#[schema(as = FieldView)]
pub struct Field {
    label: String,
    /// Printed beside the field.
    unit: Option<String>,
    /// What is wanted, in a word or two: "an exact value", "2 decimal places".
    pub(super) wanted: Option<String>,
    keys: Vec<KeyView>,
}

/// A key under the field: what it shows, what it types, and how far back the cursor goes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct KeyView {
    pub shows: String,
    pub says: String,
    pub types: String,
    pub back: usize,
}

impl Shown {
    /// A field that asks for nothing but what is typed.
    pub fn typed(block: &AnswerBlock, label: &str) -> Shown {
        Shown::Typed(Field {
            label: label.to_owned(),
            unit: None,
            wanted: None,
            keys: keys(block),
        })
    }
}

impl Spec for TextEntry {
    fn check(&self, _part: &str, _replies: &[Reply]) -> Result<(), FormatError> {
        Ok(())
    }

    fn guess(&self, typed: f64) -> f64 {
        typed
    }

    fn is_typed(&self) -> bool {
        true
    }

    fn shape(&self) -> Shape {
        Shape {
            kind: "text_entry",
            ids: Vec::new(),
            shuffled: false,
        }
    }

    fn may_vary(&self) -> bool {
        true
    }

    fn pose(&self, part: &str, set: &mut Set) -> Result<Box<dyn Posed>, RenderError> {
        Ok(Box::new(self.posed(part, set)?))
    }

    fn known(&self, part: &str, to: &str, drawn: &Drawn) -> Result<Known, RenderError> {
        let formula = fill_key(to, drawn)?;
        let block = reply_block(&self.answer, &formula);
        let typed = with_unit(&self.answer, by_hand(&block, &formula));
        let marker = marker(part, &block)?;
        let equal = move |response: &Response| match response {
            Response::Text(entry) => marker.mark(entry).outcome == Outcome::Correct,
            _ => false,
        };
        Ok(Known {
            is_it: Box::new(equal),
            response: Response::Text(typed),
        })
    }
}

impl TextEntry {
    /// With the numbers of a set in place.
    pub(super) fn posed(&self, part: &str, set: &Set) -> Result<PosedTextEntry, RenderError> {
        let block = self.filled(set)?;
        Ok(PosedTextEntry {
            marker: marker(part, &block)?,
            block,
            label: set.words(&self.label)?,
        })
    }

    fn filled(&self, set: &Set) -> Result<AnswerBlock, RenderError> {
        let mut block = (*self.answer).clone();
        block.key = match block.key {
            Key::Text(t) => Key::Text(set.key(&t)?),
            Key::Words(words) => Key::Words(words.iter().map(|w| set.words(w)).collect::<Result<_, _>>()?),
            other => other,
        };
        Ok(block)
    }
}

fn marker(part: &str, block: &AnswerBlock) -> Result<Marker, RenderError> {
    Marker::new(block).map_err(|fault| RenderError::Block {
        part: part.to_owned(),
        fault,
    })
}

/// What is typed, with its unit where that is not printed beside the box.
fn with_unit(block: &AnswerBlock, typed: String) -> String {
    match &block.unit {
        Some(unit) if !block.unit_shown => format!("{typed} {unit}"),
        _ => typed,
    }
}

/// What a reply waits for: in any form, with the part's tolerance, and where it has none and the number has no end, rounded
/// to three figures, as a student would type it.
fn reply_block(answer: &AnswerBlock, entry: &str) -> AnswerBlock {
    let mut block = AnswerBlock {
        key: Key::Text(entry.to_owned()),
        form: None,
        must_be: Vec::new(),
        ..answer.clone()
    };
    if block.kind == Kind::Number && block.tolerance.is_none() && !block.complex && !is_whole(entry) {
        block.tolerance = Some(Tolerance::Significant(3));
    }
    block
}

fn is_whole(number: &str) -> bool {
    let Ok(names) = maths::Names::new([]) else {
        return false;
    };
    let read = maths::read_expression(number, &maths::ReadOptions::number(&names));
    read.is_ok_and(|r| maths::exact_value(&r.tree).is_none_or(|v| v.is_integer()))
}

pub(super) struct PosedTextEntry {
    marker: Marker,
    block: AnswerBlock,
    label: String,
}

impl Posed for PosedTextEntry {
    fn shown(&self) -> Shown {
        Shown::Typed(self.field())
    }

    fn mark(&self, response: &Response) -> Option<Marking> {
        match response {
            Response::Text(entry) => Some(self.marker.mark(entry)),
            _ => None,
        }
    }

    fn key(&self) -> Response {
        Response::Text(match (&self.block.unit, &self.block.key) {
            (Some(unit), key) if !self.block.unit_shown => format!("{} {unit}", key.text()),
            (_, Key::Words(words)) => words.first().cloned().unwrap_or_default(),
            (_, key) => key.text(),
        })
    }

    /// Worked out, rounded as asked for, with its unit.
    fn typed_key(&self) -> Response {
        if self.block.kind == Kind::Text {
            return self.key();
        }
        let typed = by_hand(&self.block, &self.block.key.text());
        Response::Text(with_unit(&self.block, typed))
    }

    fn right(&self) -> Right {
        let typed = match self.best_key() {
            Response::Text(typed) => typed,
            _ => return Right::default(),
        };
        let unit = self
            .block
            .unit
            .as_ref()
            .filter(|_| self.block.unit_shown && self.block.kind == Kind::Number);
        let read = self
            .marker
            .read(&unit.map_or(typed.clone(), |u| format!("{typed} {u}")));
        Right {
            latex: read.reads_as,
            speech: read.speech,
            choices: Vec::new(),
        }
    }

    fn in_words(&self, response: &Response) -> String {
        match response {
            Response::Text(text) => text.clone(),
            _ => String::new(),
        }
    }

    fn read(&self, entry: &str) -> Option<Draft> {
        Some(self.marker.read(entry))
    }

    /// With its unit, if one is asked for, or without.
    fn value(&self, response: &Response) -> Option<maths::Expr> {
        let Response::Text(entry) = response else {
            return None;
        };
        let names = maths::Names::new([]).ok()?;
        let read = |text: &str| maths::read_expression(text, &maths::ReadOptions::number(&names)).ok();
        let unit = self.block.unit.as_deref().unwrap_or_default();
        let bare = entry.trim().strip_suffix(unit).unwrap_or(entry);
        let tree = read(entry).or_else(|| read(bare))?.tree;
        maths::has_value(&tree).ok()?;
        Some(maths::exact_value(&tree).map_or(tree, |v| maths::Expr::rational(&v)))
    }

    fn is_readable(&self, response: &Response) -> bool {
        match response {
            Response::Text(entry) => self.marker.read(entry).problem.is_none(),
            _ => false,
        }
    }

    /// As this part would mark the one by the other, in any form.
    fn is_same_answer(&self, a: &Response, b: &Response) -> bool {
        let (Response::Text(of), Response::Text(entry)) = (a, b) else {
            return false;
        };
        if a.is_same(b) {
            return true;
        }
        let block = AnswerBlock {
            key: Key::Text(of.clone()),
            form: None,
            must_be: Vec::new(),
            tolerance: None,
            unit: None,
            unit_shown: false,
            ..self.block.clone()
        };
        Marker::new(&block).is_ok_and(|m| m.mark(entry).outcome == Outcome::Correct)
    }

    fn parse_response(&self, text: &str) -> Option<Response> {
        Some(Response::Text(text.to_owned()))
    }

    fn mistaken(&self) -> Response {
        match self.best_key() {
            Response::Text(right) => Response::Text(close_to(&right)),
            other => other,
        }
    }

    /// What a number comes to, in nine figures; anything else as it stands.
    fn answer(&self) -> String {
        let key = self.block.key.text();
        let number = maths::Names::new([]).ok().and_then(|names| {
            let read = maths::read_expression(&key, &maths::ReadOptions::number(&names));
            maths::approximate(&read.ok()?.tree).ok()
        });
        number.map_or(key, |n| format!("{n:.8e}"))
    }

    fn faults(&self) -> Vec<String> {
        let key = self.block.key.text();
        let bounds = self.block.broken_bounds().into_iter();
        let mut faults: Vec<String> = bounds
            .map(|bound| format!("its key {bound}: {} is not", tidy_signs(&key)))
            .collect();
        if let Response::Text(text) = self.key()
            && self.block.kind != Kind::Text
            && !can_be_typed(&text)
        {
            faults.push("its key holds a sign that the typing guide does not show".into());
        }
        faults
    }
}

impl PosedTextEntry {
    /// As a student's page shows it.
    pub(super) fn field(&self) -> Field {
        Field {
            label: if self.label.is_empty() {
                "Your answer".into()
            } else {
                self.label.clone()
            },
            unit: self.block.unit.clone().filter(|_| self.block.unit_shown),
            wanted: wanted(&self.block),
            keys: keys(&self.block),
        }
    }

    /// As a student would type it, where that is still right.
    pub(super) fn best_key(&self) -> Response {
        let typed = self.typed_key();
        let right = self.mark(&typed).is_some_and(|m| m.score >= 1.0);
        if right { typed } else { self.key() }
    }
}

/// A sign turned round, or the first number one off: the commonest slips.
fn close_to(right: &str) -> String {
    if let Some((head, tail)) = right.split_once(" + ") {
        return format!("{head} - {tail}");
    }
    if let Some((head, tail)) = right.split_once(" - ") {
        return format!("{head} + {tail}");
    }
    let digits = |c: char| c.is_ascii_digit();
    let start = right.find(digits).unwrap_or(right.len());
    let (head, rest) = right.split_at(start);
    let end = rest.find(|c| !digits(c)).unwrap_or(rest.len());
    let (number, tail) = rest.split_at(end);
    number
        .parse::<u64>()
        .map_or_else(|_| format!("{right}?"), |n| format!("{head}{}{tail}", n + 1))
}

/// What the block asks for beyond being right, in a word or two.
fn wanted(block: &AnswerBlock) -> Option<String> {
    use Tolerance as T;
    let places = |n: u32| match n {
        0 => "to the nearest whole number".to_owned(),
        1 => "1 decimal place".to_owned(),
        n => format!("{n} decimal places"),
    };
    let counts = block.must_be.contains(&MustBe::Whole);
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

fn form_words(form: FormName) -> &'static str {
    use FormName as F;
    match form {
        F::Integer => "a whole number",
        F::Decimal => "a decimal",
        F::Fraction => "a fraction",
        F::LowestTerms => "in lowest terms",
        F::Mixed => "a mixed number",
        F::Scientific => "in scientific notation",
        F::Expanded => "multiplied out",
        F::Factored => "fully factorised",
        F::SingleFraction => "a single fraction",
        F::NoDecimals => "without decimals",
        F::SimplestRoot => "with the root simplified",
    }
}

fn keys(block: &AnswerBlock) -> Vec<KeyView> {
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
    if block.up_to == Some(UpTo::Constant) {
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

#[cfg(test)]
mod tests {
    use super::close_to;

    #[test]
    fn what_is_close_looks_typed() {
        assert_eq!(close_to("y = 3x + 4"), "y = 3x - 4");
        assert_eq!(close_to("(x - 4)(x + 5)"), "(x - 4)(x - 5)");
        assert_eq!(close_to("114.3 m"), "115.3 m");
        assert_eq!(close_to("[3, 7)"), "[4, 7)");
    }
}
