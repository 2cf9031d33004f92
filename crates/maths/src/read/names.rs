use std::sync::Arc;

use crate::tree::{Constant, Function};

/// The names that may occur in an entry: the declared variables, and what is always known.
#[derive(Clone, Debug)]
pub struct Names {
    entries: Vec<Entry>,
    complex: bool,
    variables: Vec<Arc<str>>,
}

#[derive(Clone, Debug)]
struct Entry {
    pattern: Vec<char>,
    meaning: Meaning,
    /// A pattern that is matched in any case, and without a caution.
    any_case: bool,
}

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Meaning {
    Variable(Arc<str>),
    Constant(Constant),
    Function(Function),
    Degree,
    Or,
    And,
    Union,
}

pub(crate) struct Match {
    pub meaning: Meaning,
    pub length: usize,
    /// Set if the letter was declared in the other case only.
    pub other_case: Option<String>,
}

const GREEK: &[(&str, &[char])] = &[
    ("alpha", &['α']),
    ("beta", &['β']),
    ("gamma", &['γ']),
    ("delta", &['δ']),
    ("epsilon", &['ε', 'ϵ']),
    ("zeta", &['ζ']),
    ("eta", &['η']),
    ("theta", &['θ', 'ϑ']),
    ("iota", &['ι']),
    ("kappa", &['κ']),
    ("lambda", &['λ']),
    ("mu", &['μ', 'µ']),
    ("nu", &['ν']),
    ("xi", &['ξ']),
    ("rho", &['ρ', 'ϱ']),
    ("sigma", &['σ', 'ς']),
    ("tau", &['τ']),
    ("upsilon", &['υ']),
    ("phi", &['φ', 'ϕ']),
    ("chi", &['χ']),
    ("psi", &['ψ']),
    ("omega", &['ω']),
    ("Gamma", &['Γ']),
    ("Delta", &['Δ', '∆']),
    ("Theta", &['Θ']),
    ("Lambda", &['Λ']),
    ("Xi", &['Ξ']),
    ("Pi", &['Π']),
    ("Sigma", &['Σ']),
    ("Phi", &['Φ']),
    ("Psi", &['Ψ']),
    ("Omega", &['Ω', '\u{2126}']),
    ("pi", &['π']),
];

const FUNCTIONS: &[(&str, Function)] = &[
    ("sin", Function::Sin),
    ("cos", Function::Cos),
    ("tan", Function::Tan),
    ("sec", Function::Sec),
    ("csc", Function::Csc),
    ("cosec", Function::Csc),
    ("cot", Function::Cot),
    ("arcsin", Function::Arcsin),
    ("asin", Function::Arcsin),
    ("arccos", Function::Arccos),
    ("acos", Function::Arccos),
    ("arctan", Function::Arctan),
    ("atan", Function::Arctan),
    ("arcsec", Function::Arcsec),
    ("asec", Function::Arcsec),
    ("arccsc", Function::Arccsc),
    ("acsc", Function::Arccsc),
    ("arccot", Function::Arccot),
    ("acot", Function::Arccot),
    ("sinh", Function::Sinh),
    ("cosh", Function::Cosh),
    ("tanh", Function::Tanh),
    ("sech", Function::Sech),
    ("csch", Function::Csch),
    ("coth", Function::Coth),
    ("arsinh", Function::Arsinh),
    ("arcsinh", Function::Arsinh),
    ("asinh", Function::Arsinh),
    ("arcosh", Function::Arcosh),
    ("arccosh", Function::Arcosh),
    ("acosh", Function::Arcosh),
    ("artanh", Function::Artanh),
    ("arctanh", Function::Artanh),
    ("atanh", Function::Artanh),
    ("sqrt", Function::Sqrt),
    ("cbrt", Function::Cbrt),
    ("root", Function::Root),
    ("ln", Function::Ln),
    ("log", Function::Log),
    ("exp", Function::Exp),
    ("abs", Function::Abs),
    ("floor", Function::Floor),
    ("ceil", Function::Ceil),
    ("min", Function::Min),
    ("max", Function::Max),
];

/// A letter of the Greek alphabet by its sign, if the name has one: `theta` → `θ`.
pub(crate) fn greek_sign(name: &str) -> Option<char> {
    GREEK
        .iter()
        .find(|(n, _)| *n == name)
        .and_then(|(_, signs)| signs.first().copied())
}

/// The spelled name of a Greek sign.
pub(crate) fn greek_name(sign: char) -> Option<&'static str> {
    GREEK
        .iter()
        .find(|(_, signs)| signs.contains(&sign))
        .map(|(n, _)| *n)
}

/// Whether a word is the name of something always known (so it is not a name a student gives an answer).
pub fn is_reserved_name(word: &str) -> bool {
    let lower = word.to_lowercase();
    lower == "pi" || word == "π" || FUNCTIONS.iter().any(|(n, _)| *n == lower)
}

fn is_name(name: &str) -> bool {
    let mut chars = name.chars();
    chars.next().is_some_and(char::is_alphabetic)
        && chars.all(|c| c.is_alphanumeric() || c == '_')
        && !name.ends_with('_')
}

/// The canonical spelling of a declared name: Greek signs by name (`θ_1` → `theta_1`).
fn canonical(name: &str) -> String {
    name.chars()
        .map(|c| greek_name(c).map_or_else(|| c.to_string(), str::to_owned))
        .collect()
}

impl Names {
    /// # Errors
    /// The first name that is no name (`2x`, `a b`, an empty one).
    pub fn new<'a>(variables: impl IntoIterator<Item = &'a str>) -> Result<Self, String> {
        let mut names = Self {
            entries: Vec::new(),
            complex: false,
            variables: Vec::new(),
        };
        for declared in variables {
            if !is_name(declared) {
                return Err(declared.to_owned());
            }
            let name: Arc<str> = Arc::from(canonical(declared).as_str());
            for pattern in spellings(&name) {
                let meaning = Meaning::Variable(name.clone());
                names.entries.push(Entry {
                    pattern,
                    meaning,
                    any_case: false,
                });
            }
            names.variables.push(name);
        }
        names.add_plain_subscripts();
        for (name, function) in FUNCTIONS {
            names.always(name, Meaning::Function(*function));
        }
        names.always("√", Meaning::Function(Function::Sqrt));
        names.always("∛", Meaning::Function(Function::Cbrt));
        names.exactly("pi", Meaning::Constant(Constant::Pi));
        names.exactly("π", Meaning::Constant(Constant::Pi));
        names.exactly("e", Meaning::Constant(Constant::E));
        for word in ["inf", "infinity", "∞"] {
            names.always(word, Meaning::Constant(Constant::Infinity));
        }
        for word in ["deg", "degree", "degrees"] {
            names.always(word, Meaning::Degree);
        }
        names.always("or", Meaning::Or);
        names.always("and", Meaning::And);
        names.exactly("U", Meaning::Union);
        names.always("∪", Meaning::Union);
        Ok(names)
    }

    /// Where `x_1` is declared and `x1` is not, `x1` is what students type for it.
    fn add_plain_subscripts(&mut self) {
        let is_number = |tail: &str| !tail.is_empty() && tail.chars().all(|c| c.is_ascii_digit());
        let plain: Vec<Entry> = self
            .entries
            .iter()
            .filter_map(|entry| {
                let typed: String = entry.pattern.iter().collect();
                let (head, tail) = typed.split_once('_').filter(|(_, tail)| is_number(tail))?;
                let plain = format!("{head}{tail}");
                (!self.is_variable(&plain)).then(|| Entry {
                    pattern: plain.chars().collect(),
                    meaning: entry.meaning.clone(),
                    any_case: false,
                })
            })
            .collect();
        self.entries.extend(plain);
    }

    /// `i` is the imaginary unit.
    #[must_use]
    pub fn with_complex(mut self) -> Self {
        self.complex = true;
        if !self.is_variable("i") {
            self.exactly("i", Meaning::Constant(Constant::I));
        }
        self
    }

    pub fn variables(&self) -> &[Arc<str>] {
        &self.variables
    }

    pub fn is_complex(&self) -> bool {
        self.complex
    }

    pub(crate) fn is_variable(&self, name: &str) -> bool {
        self.variables.iter().any(|v| &**v == name)
    }

    fn always(&mut self, name: &str, meaning: Meaning) {
        if !self.is_variable(name) {
            self.entries.push(Entry {
                pattern: name.chars().collect(),
                meaning,
                any_case: true,
            });
        }
    }

    fn exactly(&mut self, name: &str, meaning: Meaning) {
        if !self.is_variable(name) {
            self.entries.push(Entry {
                pattern: name.chars().collect(),
                meaning,
                any_case: false,
            });
        }
    }

    /// The longest known name that the text begins with. Words of collections count only with `words`.
    pub(crate) fn longest(&self, text: &[char], words: bool) -> Option<Match> {
        let mut best: Option<(&Entry, usize)> = None;
        for entry in &self.entries {
            let is_word = matches!(entry.meaning, Meaning::Or | Meaning::And | Meaning::Union);
            if is_word && !words {
                continue;
            }
            let length = entry.pattern.len();
            if best.is_some_and(|(_, b)| b >= length) {
                continue;
            }
            if begins_with(text, &entry.pattern, entry.any_case) {
                best = Some((entry, length));
            }
        }
        let exact = best.map(|(e, length)| Match {
            meaning: e.meaning.clone(),
            length,
            other_case: None,
        });
        let other = self.longest_other_case(text);
        match (exact, other) {
            (Some(e), Some(o)) if o.length > e.length => Some(o),
            (Some(e), _) => Some(e),
            (None, o) => o,
        }
    }

    /// A declared name, `pi` or `e` typed in another case, if only one is meant.
    fn longest_other_case(&self, text: &[char]) -> Option<Match> {
        let mut found: Vec<(&Entry, usize)> = Vec::new();
        for entry in self
            .entries
            .iter()
            .filter(|e| !e.any_case && e.meaning != Meaning::Union)
        {
            let length = entry.pattern.len();
            if begins_with(text, &entry.pattern, true) && !begins_with(text, &entry.pattern, false) {
                found.push((entry, length));
            }
        }
        let longest = found.iter().map(|(_, n)| *n).max()?;
        let mut at_longest = found.into_iter().filter(|(_, n)| *n == longest);
        let (entry, length) = at_longest.next()?;
        if at_longest.any(|(e, _)| e.meaning != entry.meaning) {
            return None;
        }
        Some(Match {
            meaning: entry.meaning.clone(),
            length,
            other_case: Some(entry.pattern.iter().collect()),
        })
    }
}

/// A declared name as it may be typed: spelled out, and with its Greek signs.
fn spellings(name: &str) -> Vec<Vec<char>> {
    let mut all = vec![name.chars().collect::<Vec<_>>()];
    let (head, tail) = name.split_once('_').map_or((name, None), |(h, t)| (h, Some(t)));
    let heads = GREEK
        .iter()
        .find(|(n, _)| *n == head)
        .map_or(&[][..], |(_, signs)| signs);
    for sign in heads {
        let mut pattern = vec![*sign];
        if let Some(tail) = tail {
            pattern.push('_');
            pattern.extend(tail.chars());
        }
        all.push(pattern);
    }
    all
}

fn begins_with(text: &[char], pattern: &[char], any_case: bool) -> bool {
    text.len() >= pattern.len()
        && text
            .iter()
            .zip(pattern)
            .all(|(a, b)| a == b || (any_case && a.to_lowercase().eq(b.to_lowercase())))
}
