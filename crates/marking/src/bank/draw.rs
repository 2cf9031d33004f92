use std::collections::BTreeMap;

use maths::{Expr, Names, ReadOptions, exact_value};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{Signed, ToPrimitive, Zero};

use super::format::{NumberSpec, Question, Steps};

/// Redraws before a condition counts as too tight.
const MAX_DRAWS: u32 = 1_000;

/// The numbers of one set of a question.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawn {
    pub values: BTreeMap<String, Expr>,
    /// Goes on where the numbers stopped: for the order of choices.
    pub(crate) rest: u64,
}

#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum DrawError {
    #[error("number `{0}`: the range is empty or can't be read")]
    BadRange(String),
    #[error("number `{0}`: the list is empty, or has something that is no number")]
    BadList(String),
    #[error("number `{name}`: the formula `{formula}` can't be worked out: {why}")]
    BadFormula {
        name: String,
        formula: String,
        why: String,
    },
    #[error("number `{0}` depends on itself, or on a number that is not there")]
    Circular(String),
    #[error("the condition `{0}` can't be read; it compares two sides with <, <=, >, >=, = or !=")]
    BadCondition(String),
    #[error("the condition `{0}` did not hold in 1,000 draws")]
    TooTight(String),
    #[error("`{0}` is no name for a number")]
    BadName(String),
}

/// SplitMix64 (Steele, Lea, Flood 2014): the same numbers from the same seed, on every machine.
#[derive(Clone, Debug)]
pub struct Dice(pub(crate) u64);

impl Dice {
    pub fn new(seed: u64) -> Self {
        Self(seed)
    }

    /// Evenly from 0 up to, not including, 1.
    pub fn share(&mut self) -> f64 {
        let top = u32::try_from(self.draw() >> 32).unwrap_or(0);
        f64::from(top) / 4_294_967_296.0
    }

    /// All 64 bits.
    pub fn draw(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// Evenly from 0 up to, not including, n (Lemire's multiplication; the bias is below 2^-32 for any list here).
    pub fn below(&mut self, n: u64) -> u64 {
        let wide = u128::from(self.draw()) * u128::from(n.max(1));
        u64::try_from(wide >> 64).unwrap_or(0)
    }
}

/// Draws the numbers of a question from a seed.
///
/// # Errors
/// What is wrong with the question's numbers or conditions.
pub fn draw(question: &Question, seed: u64) -> Result<Drawn, DrawError> {
    let names = Names::new(question.numbers.keys().map(String::as_str)).map_err(DrawError::BadName)?;
    let mut dice = Dice(seed);
    let mut failed = None;
    for _ in 0..MAX_DRAWS {
        let Some(values) = draw_once(question, &names, &mut dice)? else {
            continue;
        };
        failed = None;
        for condition in &question.conditions {
            if !holds(condition, &names, &values)? {
                failed = Some(condition.clone());
                break;
            }
        }
        if failed.is_none() {
            return Ok(Drawn {
                values,
                rest: dice.draw(),
            });
        }
    }
    Err(DrawError::TooTight(
        failed.unwrap_or_else(|| "distinct_from".into()),
    ))
}

/// The same set with some numbers replaced, and those that are worked out from them worked out anew.
///
/// # Errors
/// If a formula has no value for them.
pub(crate) fn redrawn(
    question: &Question,
    drawn: &Drawn,
    over: &[(String, Expr)],
) -> Result<Drawn, DrawError> {
    let names = Names::new(question.numbers.keys().map(String::as_str)).map_err(DrawError::BadName)?;
    let is_drawn = |name: &String| !matches!(question.numbers.get(name), Some(NumberSpec::Formula(_)));
    let kept = drawn.values.iter().filter(|(name, _)| is_drawn(name));
    let mut values: BTreeMap<String, Expr> = kept.map(|(n, v)| (n.clone(), v.clone())).collect();
    values.extend(over.iter().cloned());
    work_out(question, &names, &mut values)?;
    Ok(Drawn {
        values,
        rest: drawn.rest,
    })
}

/// `None` where two numbers that must differ came out the same.
fn draw_once(
    question: &Question,
    names: &Names,
    dice: &mut Dice,
) -> Result<Option<BTreeMap<String, Expr>>, DrawError> {
    let mut values: BTreeMap<String, Expr> = BTreeMap::new();
    for (name, spec) in &question.numbers {
        let value = match spec {
            NumberSpec::List(list) => {
                let texts: Vec<String> = list
                    .one_of
                    .iter()
                    .map(super::super::answer::NumberText::text)
                    .collect();
                let count = u64::try_from(texts.len()).unwrap_or(0);
                let pick = usize::try_from(dice.below(count)).unwrap_or(0);
                let text = texts.get(pick).ok_or_else(|| DrawError::BadList(name.clone()))?;
                read_number(text).ok_or_else(|| DrawError::BadList(name.clone()))?
            }
            NumberSpec::Range(steps) => pick_step(name, steps, dice)?,
            NumberSpec::Formula(_) => continue,
        };
        values.insert(name.clone(), value);
    }
    work_out(question, names, &mut values)?;
    for (name, spec) in &question.numbers {
        let NumberSpec::Range(steps) = spec else { continue };
        for other in &steps.distinct_from {
            let (Some(a), Some(b)) = (values.get(name), values.get(other)) else {
                return Err(DrawError::Circular(other.clone()));
            };
            if maths::compare_constants(a, b).is_ok_and(|(o, _)| o == std::cmp::Ordering::Equal) {
                return Ok(None);
            }
        }
    }
    Ok(Some(values))
}

fn read_number(text: &str) -> Option<Expr> {
    let names = Names::new([]).ok()?;
    let tree = maths::read_expression(text, &ReadOptions::number(&names))
        .ok()?
        .tree;
    Some(exact_value(&tree).map_or(tree, |v| Expr::rational(&v)))
}

fn pick_step(name: &str, steps: &Steps, dice: &mut Dice) -> Result<Expr, DrawError> {
    let bad = || DrawError::BadRange(name.to_owned());
    let (from, to) = (
        steps.from.exact().ok_or_else(bad)?,
        steps.to.exact().ok_or_else(bad)?,
    );
    let step = match &steps.step {
        Some(step) => step.exact().filter(Signed::is_positive).ok_or_else(bad)?,
        None => BigRational::from(BigInt::from(1)),
    };
    let count = ((&to - &from) / &step)
        .floor()
        .to_integer()
        .to_u64()
        .ok_or_else(bad)?;
    let at = |k: u64| &from + &step * BigInt::from(k);
    for _ in 0..64 {
        let value = at(dice.below(count.saturating_add(1)));
        if !(steps.nonzero && value.is_zero()) {
            return Ok(Expr::rational(&value));
        }
    }
    Err(bad())
}

/// Formulas, each as soon as the numbers it needs are there.
fn work_out(
    question: &Question,
    names: &Names,
    values: &mut BTreeMap<String, Expr>,
) -> Result<(), DrawError> {
    loop {
        let mut waiting = None;
        let mut moved = false;
        for (name, spec) in &question.numbers {
            let NumberSpec::Formula(f) = spec else { continue };
            if values.contains_key(name) {
                continue;
            }
            let bad = |why: String| DrawError::BadFormula {
                name: name.clone(),
                formula: f.formula.clone(),
                why,
            };
            let tree = maths::read_expression(&f.formula, &ReadOptions::new(names))
                .map_err(|e| bad(maths::error_words(&e.kind)))?
                .tree;
            if tree.variables().iter().any(|v| !values.contains_key(&**v)) {
                waiting = Some(name.clone());
                continue;
            }
            let value = put_in(&tree, values);
            maths::has_value(&value).map_err(|_| bad("it has no value".into()))?;
            let value = exact_value(&value).map_or(value, |v| Expr::rational(&v));
            values.insert(name.clone(), value);
            moved = true;
        }
        match waiting {
            None => return Ok(()),
            Some(name) if !moved => return Err(DrawError::Circular(name)),
            Some(_) => {}
        }
    }
}

fn put_in(tree: &Expr, values: &BTreeMap<String, Expr>) -> Expr {
    tree.variables().iter().fold(tree.clone(), |t, name| {
        values
            .get(&**name)
            .map_or(t.clone(), |value| t.substitute(name, value))
    })
}

impl Drawn {
    /// Whether a condition holds of these numbers.
    ///
    /// # Errors
    /// If it cannot be read.
    pub(crate) fn holds(&self, condition: &str) -> Result<bool, DrawError> {
        let names = Names::new(self.values.keys().map(String::as_str)).map_err(DrawError::BadName)?;
        holds(condition, &names, &self.values)
    }
}

fn holds(condition: &str, names: &Names, values: &BTreeMap<String, Expr>) -> Result<bool, DrawError> {
    use std::cmp::Ordering as O;
    let bad = || DrawError::BadCondition(condition.to_owned());
    let sign = ["<=", ">=", "!=", "<", ">", "="]
        .into_iter()
        .find(|s| condition.contains(s))
        .ok_or_else(bad)?;
    let (left, right) = condition.split_once(sign).ok_or_else(bad)?;
    let side = |text: &str| {
        let tree = maths::read_expression(text, &ReadOptions::new(names))
            .map_err(|_| bad())?
            .tree;
        Ok(put_in(&tree, values))
    };
    let (order, _) = match maths::compare_constants(&side(left)?, &side(right)?) {
        Ok(found) => found,
        // A side without a value does not satisfy anything: draw again.
        Err(_) => return Ok(false),
    };
    Ok(match sign {
        "<=" => order != O::Greater,
        ">=" => order != O::Less,
        "!=" => order != O::Equal,
        "<" => order == O::Less,
        ">" => order == O::Greater,
        _ => order == O::Equal,
    })
}
