//! What the browser is told. Keys, which choice is right, and seeds never are.

use coursework::{Assignment, CheckedPart, QuestionState, Score, State, Work, state};
use marking::{Block, Inline, Item, ItemPart, Kind, Outcome, PartKind, Response, slip_words};
use serde::{Deserialize, Serialize};
use store::Draft;
use time::OffsetDateTime;
use utoipa::ToSchema;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StateView {
    NotOpened,
    UnderWay,
    HandedIn,
    Closed,
    ClosedNothingHandedIn,
}

pub(crate) fn state_view(assignment: &Assignment, work: &Work, now: OffsetDateTime) -> StateView {
    match state(assignment, work, now) {
        State::NotOpened => StateView::NotOpened,
        State::UnderWay => StateView::UnderWay,
        State::HandedIn => StateView::HandedIn,
        State::Closed { handed_in: true } => StateView::Closed,
        State::Closed { handed_in: false } => StateView::ClosedNothingHandedIn,
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ScoreView {
    pub percent: f64,
    pub points: f64,
    pub of: u32,
}

impl From<&Score> for ScoreView {
    fn from(s: &Score) -> Self {
        ScoreView {
            percent: s.percent(),
            points: s.points,
            of: s.of,
        }
    }
}

impl From<&coursework::RecordedScore> for ScoreView {
    fn from(s: &coursework::RecordedScore) -> Self {
        ScoreView {
            percent: s.percent(),
            points: s.points,
            of: s.of,
        }
    }
}

/// The state of a question in one look.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Stone {
    Untouched,
    /// Something is typed that was not checked.
    Typed,
    /// Checked, and nothing right yet.
    NotYet,
    Partly,
    Right,
    NoTriesLeft,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum BlockView {
    Paragraph {
        content: Vec<InlineView>,
    },
    List {
        ordered: bool,
        items: Vec<Vec<InlineView>>,
    },
    Table {
        head: Vec<Vec<InlineView>>,
        rows: Vec<Vec<Vec<InlineView>>>,
    },
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", content = "value", rename_all = "snake_case")]
pub(crate) enum InlineView {
    Text(String),
    Strong(String),
    Emphasis(String),
    /// LaTeX.
    Math(String),
    DisplayMath(String),
}

fn line(content: &[Inline]) -> Vec<InlineView> {
    let one = |i: &Inline| match i {
        Inline::Text(t) => InlineView::Text(t.clone()),
        Inline::Strong(t) => InlineView::Strong(t.clone()),
        Inline::Emphasis(t) => InlineView::Emphasis(t.clone()),
        Inline::Math(t) => InlineView::Math(t.clone()),
        Inline::DisplayMath(t) => InlineView::DisplayMath(t.clone()),
    };
    content.iter().map(one).collect()
}

fn prose(blocks: &[Block]) -> Vec<BlockView> {
    let cells = |row: &Vec<Vec<Inline>>| row.iter().map(|c| line(c)).collect();
    let one = |b: &Block| match b {
        Block::Paragraph { content } => BlockView::Paragraph {
            content: line(content),
        },
        Block::List { ordered, items } => BlockView::List {
            ordered: *ordered,
            items: cells(items),
        },
        Block::Table { head, rows } => BlockView::Table {
            head: cells(head),
            rows: rows.iter().map(cells).collect(),
        },
    };
    blocks.iter().map(one).collect()
}

#[derive(Serialize, ToSchema)]
pub(crate) struct QuestionView {
    /// From 0.
    pub question: usize,
    pub points: u32,
    pub points_so_far: f64,
    /// A, B, C…
    pub set: String,
    pub set_number: usize,
    pub max_tries: Option<u32>,
    pub tries_left: Option<u32>,
    pub sets_left: Option<u32>,
    pub stone: Stone,
    pub text: Vec<BlockView>,
    pub parts: Vec<PartView>,
    pub tries: Vec<TryView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PartView {
    pub id: String,
    pub prompt: Vec<BlockView>,
    pub entry: EntryView,
    pub draft: Option<DraftView>,
    pub verdict: Option<VerdictView>,
    pub right: bool,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum EntryView {
    Typed {
        label: String,
        /// Printed beside the field.
        unit: Option<String>,
        /// What is wanted, in a word or two: "an exact value", "2 decimals".
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
        // PostgreSQL keeps no NUL in JSON, and nobody means one.
        match r {
            ResponseView::Text(t) => Response::Text(t.replace('\0', "")),
            ResponseView::Choices(c) => {
                Response::Choices(c.into_iter().map(|id| id.replace('\0', "")).collect())
            }
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

#[derive(Serialize, ToSchema)]
pub(crate) struct DraftView {
    pub revision: i64,
    pub response: ResponseView,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum OutcomeView {
    Right,
    PartlyRight,
    NotYet,
    WrongForm,
    CannotRead,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct VerdictView {
    pub outcome: OutcomeView,
    pub response: ResponseView,
    /// LaTeX; empty where there is nothing to show.
    pub reads_as: String,
    pub speech: String,
    pub notes: Vec<String>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TryView {
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    pub used_a_try: bool,
    pub parts: Vec<TryPartView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TryPartView {
    pub id: String,
    pub verdict: VerdictView,
}

pub(crate) fn verdict_view(checked: &CheckedPart, show_slips: bool) -> VerdictView {
    let outcome = match checked.outcome {
        Outcome::Correct => OutcomeView::Right,
        Outcome::Partial => OutcomeView::PartlyRight,
        Outcome::Incorrect => OutcomeView::NotYet,
        Outcome::WrongForm => OutcomeView::WrongForm,
        Outcome::Unreadable => OutcomeView::CannotRead,
    };
    let mut notes = checked.notes.clone();
    if let Some(slip) = checked.slip {
        let words = slip_words(slip).to_owned();
        notes.retain(|n| *n != words);
        if show_slips {
            notes.push(words);
        }
    }
    VerdictView {
        outcome,
        response: (&checked.response).into(),
        reads_as: checked.reads_as.clone(),
        speech: checked.speech.clone(),
        notes,
    }
}

/// Set A, B, … Z, then by number.
pub(crate) fn set_name(number: usize) -> String {
    u32::try_from(number)
        .ok()
        .filter(|n| *n < 26)
        .and_then(|n| char::from_u32('A' as u32 + n))
        .map_or_else(|| (number + 1).to_string(), String::from)
}

/// What a question looks like from outside, given what is typed in it.
pub(crate) fn stone(state: &QuestionState, max_tries: Option<u32>, drafts: &[&Draft]) -> Stone {
    let Some(set) = state.current() else {
        return Stone::Untouched;
    };
    if set.is_right() {
        return Stone::Right;
    }
    let is_open = |part: &str| set.parts.iter().any(|p| p.id == part && !p.right);
    let unchecked = drafts
        .iter()
        .any(|d| !d.response.is_empty() && is_open(&d.part) && !set.has_tried(&d.part, &d.response));
    if set.tries_left(max_tries) == Some(0) {
        Stone::NoTriesLeft
    } else if set.parts.iter().any(|p| p.best > 0.0) {
        Stone::Partly
    } else if unchecked {
        Stone::Typed
    } else if set.tries.is_empty() {
        Stone::Untouched
    } else {
        Stone::NotYet
    }
}

pub(crate) fn drafts_for<'a>(drafts: &'a [Draft], question: usize, state: &QuestionState) -> Vec<&'a Draft> {
    let current = state.sets.len().saturating_sub(1);
    drafts
        .iter()
        .filter(|d| d.question == question && d.set == current)
        .collect()
}

/// Everything about one question that its page shows.
pub(crate) fn question_view(
    assignment: &Assignment,
    question: usize,
    state: &QuestionState,
    points_so_far: f64,
    item: &Item,
    drafts: &[Draft],
) -> Option<QuestionView> {
    let set = state.current()?;
    let max_tries = assignment.max_attempts(question);
    let mine = drafts_for(drafts, question, state);
    let set_number = state.sets.len() - 1;
    let show_slips = assignment.settings.show_slips;
    let part = |p: &ItemPart| {
        let part_state = set.parts.iter().find(|s| s.id == p.id);
        let draft = mine.iter().find(|d| d.part == p.id);
        PartView {
            id: p.id.clone(),
            prompt: prose(&p.prompt),
            entry: entry_view(p),
            draft: draft.map(|d| DraftView {
                revision: d.revision,
                response: (&d.response).into(),
            }),
            verdict: part_state
                .and_then(|s| s.last.as_ref())
                .map(|c| verdict_view(c, show_slips)),
            right: part_state.is_some_and(|s| s.right),
        }
    };
    let tries = set.tries.iter().map(|t| TryView {
        at: t.at,
        used_a_try: t.used_a_try,
        parts: t
            .parts
            .iter()
            .map(|p| TryPartView {
                id: p.part.clone(),
                verdict: verdict_view(p, show_slips),
            })
            .collect(),
    });
    let used_sets = u32::try_from(state.sets.len()).unwrap_or(u32::MAX);
    Some(QuestionView {
        question,
        points: assignment.items.get(question)?.points,
        points_so_far,
        set: set_name(set_number),
        set_number,
        max_tries,
        tries_left: set.tries_left(max_tries),
        sets_left: assignment.settings.max_sets.map(|m| m.saturating_sub(used_sets)),
        stone: stone(state, max_tries, &mine),
        text: prose(&item.text),
        parts: item.parts.iter().map(part).collect(),
        tries: tries.collect(),
    })
}

fn entry_view(part: &ItemPart) -> EntryView {
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

/// What the block asks for beyond being right, in a word or two.
fn wanted(block: &marking::AnswerBlock) -> Option<String> {
    use marking::Tolerance as T;
    let places = |n: u32| {
        if n == 1 {
            "one decimal".to_owned()
        } else {
            format!("{n} decimals")
        }
    };
    let rounding = match &block.tolerance {
        Some(T::Decimals(n)) => Some(places(*n)),
        Some(T::Significant(n)) => Some(format!("{n} significant figures")),
        Some(T::Absolute(_) | T::Relative(_)) => Some("a decimal will do".into()),
        None if block.kind == Kind::Number && block.form.is_none() => Some("an exact value".into()),
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
