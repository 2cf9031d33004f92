//! From an answer block to a marker, and from an entry to a verdict.

mod entry;
mod equation;
mod expression;
mod interval;
mod measure;
mod members;
mod number;
mod slips;
mod split;
#[cfg(test)]
mod tests;
mod text;

pub(crate) use number::power_of_ten;

use std::collections::BTreeMap;
use std::sync::Arc;

use maths::{Caution, Domain, Expr, Names, Range, ReadOptions, caution_words};
use num_rational::BigRational;

use crate::answer::{AnswerBlock, DomainName, DomainSpec, FaultyBlock, Kind};
use crate::verdict::{Marking, Outcome};

/// An answer block that has been checked, with its key read.
pub struct Marker {
    rule: Rule,
}

enum Rule {
    Number(number::NumberRule),
    Expression(expression::ExpressionRule),
    Equation(equation::EquationRule),
    Interval(interval::IntervalRule),
    Members(members::MembersRule),
    Text(text::TextRule),
}

/// An entry as it reads while it is typed, without a verdict.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Draft {
    /// LaTeX; empty if it cannot be read.
    pub reads_as: String,
    pub speech: String,
    pub cautions: Vec<String>,
    /// Why it cannot be read, and where: first character, and past the last.
    pub problem: Option<(String, usize, usize)>,
}

impl Marker {
    /// # Errors
    /// What is wrong with the block, for its author.
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        block.check_options()?;
        let rule = match block.kind {
            Kind::Number => Rule::Number(number::NumberRule::new(block)?),
            Kind::Expression => Rule::Expression(expression::ExpressionRule::new(block)?),
            Kind::Equation => Rule::Equation(equation::EquationRule::new(block)?),
            Kind::Interval => Rule::Interval(interval::IntervalRule::new(block)?),
            Kind::Tuple | Kind::Vector | Kind::Matrix | Kind::Set | Kind::List => {
                Rule::Members(members::MembersRule::new(block)?)
            }
            Kind::Text => Rule::Text(text::TextRule::new(block)?),
        };
        Ok(Self { rule })
    }

    /// The verdict on an entry. The same entry always gets the same verdict.
    pub fn mark(&self, entry: &str) -> Marking {
        let _budget = maths::Budget::of(maths::MAX_ENTRY_STEPS);
        let (marking, undecided) = maths::watching_decisions(|| self.mark_within(entry));
        let refused = matches!(marking.outcome, Outcome::Incorrect | Outcome::Partial);
        if undecided && refused {
            // What could not be decided is never held against the student.
            let mut undecided = without_value(maths::Undefined::Unknown, entry.chars().count());
            (undecided.reads_as, undecided.speech) = (marking.reads_as, marking.speech);
            undecided.evidence = Some(maths::Evidence::Undecided);
            return undecided;
        }
        marking
    }

    fn mark_within(&self, entry: &str) -> Marking {
        match &self.rule {
            Rule::Number(rule) => rule.mark(entry),
            Rule::Expression(rule) => rule.mark(entry),
            Rule::Equation(rule) => rule.mark(entry),
            Rule::Interval(rule) => rule.mark(entry),
            Rule::Members(rule) => rule.mark(entry),
            Rule::Text(rule) => rule.mark(entry),
        }
    }

    /// How an entry reads, whether or not it is right: nothing of the key shows in it.
    pub fn read(&self, entry: &str) -> Draft {
        let _budget = maths::Budget::of(maths::MAX_ENTRY_STEPS);
        let read = match &self.rule {
            Rule::Number(rule) => rule.read(entry),
            Rule::Expression(rule) => rule.read(entry),
            Rule::Equation(rule) => rule.read(entry),
            Rule::Interval(rule) => rule.read(entry),
            Rule::Members(rule) => rule.read(entry),
            Rule::Text(rule) => rule.read(entry),
        };
        match read {
            Ok(shown) => Draft {
                reads_as: shown.latex,
                speech: shown.speech,
                cautions: shown.cautions.iter().map(|c| caution_words(&c.kind)).collect(),
                problem: None,
            },
            Err(error) => Draft {
                reads_as: String::new(),
                speech: String::new(),
                cautions: Vec::new(),
                problem: Some((maths::error_words(&error.kind), error.span.start, error.span.end)),
            },
        }
    }
}

/// An entry as it was read, for showing.
pub(crate) struct Shown {
    pub latex: String,
    pub speech: String,
    pub cautions: Vec<Caution>,
}

impl Shown {
    fn of(tree: &Expr, cautions: &[Caution]) -> Self {
        Shown {
            latex: maths::latex(tree),
            speech: maths::speech(tree),
            cautions: cautions.to_vec(),
        }
    }

    /// Puts what was read on a verdict.
    fn onto(&self, mut marking: Marking) -> Marking {
        marking.reads_as.clone_from(&self.latex);
        marking.speech.clone_from(&self.speech);
        let mut notes: Vec<String> = self.cautions.iter().map(|c| caution_words(&c.kind)).collect();
        notes.append(&mut marking.notes);
        notes.dedup();
        marking.notes = notes;
        marking
    }
}

pub(crate) fn names_of(variables: &[String], complex: bool) -> Result<Names, FaultyBlock> {
    let names =
        Names::new(variables.iter().map(String::as_str)).map_err(|name| FaultyBlock::BadName { name })?;
    Ok(if complex { names.with_complex() } else { names })
}

/// Reads a key, which uses the students' notation.
pub(crate) fn read_key(key: &str, options: &ReadOptions, complex: bool) -> Result<Expr, FaultyBlock> {
    let reading = maths::read_expression(key, options).map_err(|e| FaultyBlock::KeyUnreadable {
        key: key.into(),
        why: maths::error_words(&e.kind),
    })?;
    let fault = || FaultyBlock::KeyWithoutValue { key: key.into() };
    if complex {
        let parts = maths::split_complex(&reading.tree).ok_or_else(fault)?;
        maths::has_value(&parts.re)
            .and_then(|()| maths::has_value(&parts.im))
            .map_err(|_| fault())?;
    } else {
        maths::has_value(&reading.tree).map_err(|_| fault())?;
    }
    Ok(reading.tree)
}

pub(crate) fn domain_of(block: &AnswerBlock, names: &Names) -> Result<Domain, FaultyBlock> {
    let mut ranges: BTreeMap<Arc<str>, Range> = BTreeMap::new();
    for (name, spec) in &block.domain {
        let declared = Names::new([name.as_str()]).map_err(|name| FaultyBlock::BadName { name })?;
        let canonical = declared
            .variables()
            .first()
            .cloned()
            .unwrap_or_else(|| Arc::from(name.as_str()));
        if !names.variables().contains(&canonical) {
            return Err(FaultyBlock::DomainOfUnknown { name: name.clone() });
        }
        let range = match spec {
            DomainSpec::Named(DomainName::Positive) => Range::Positive,
            DomainSpec::Named(DomainName::Nonnegative) => Range::Nonnegative,
            DomainSpec::Named(DomainName::Integer) => Range::Integer,
            DomainSpec::Named(DomainName::PositiveInteger) => Range::PositiveInteger,
            DomainSpec::Named(DomainName::NonnegativeInteger) => Range::NonnegativeInteger,
            DomainSpec::Range(low, high) => {
                let end = |n: &crate::answer::NumberText| range_end(&n.text());
                match (end(low), end(high)) {
                    (Some(low), Some(high)) if low < high => Range::Between(low, high),
                    _ => return Err(FaultyBlock::BadRange { name: name.clone() }),
                }
            }
        };
        ranges.insert(canonical, range);
    }
    Ok(Domain(ranges))
}

/// An end of a range: exact if rational, else a fraction close to it.
fn range_end(text: &str) -> Option<BigRational> {
    let names = Names::new([]).ok()?;
    let tree = maths::read_expression(text, &ReadOptions::number(&names))
        .ok()?
        .tree;
    if let Some(v) = maths::exact_value(&tree) {
        return Some(v);
    }
    BigRational::from_float(maths::approximate(&tree).ok()?)
}

/// The verdict on something that was read but has no value.
pub(crate) fn without_value(why: maths::Undefined, length: usize) -> Marking {
    let kind = match why {
        maths::Undefined::NoValue => maths::ReadErrorKind::NoValue,
        maths::Undefined::Unknown => maths::ReadErrorKind::TooHardToWorkOut,
    };
    Marking::unreadable(&maths::ReadError::new(kind, 0, length))
}

pub(crate) fn wrong_form(note: &str) -> Marking {
    Marking::new(Outcome::WrongForm).note(note)
}
