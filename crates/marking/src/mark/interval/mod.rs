//! Intervals, their unions, and inequalities.

mod conditions;
mod reading;
mod region;

use std::cmp::Ordering;

use maths::{Caution, Names, ReadError, compare_constants};

use self::conditions::{Condition, relation_latex};
use self::region::{End, Region, stretch_latex, stretch_speech};
use super::measure::Measure;
use super::{Shown, names_of, without_value, wrong_form};
use crate::answer::{AnswerBlock, FaultyBlock};
use crate::verdict::{Marking, Outcome, Slip};

/// What was typed, before it is compared.
enum Typed {
    Region {
        region: Region,
        infinity_closed: bool,
    },
    /// An inequality that is not solved: alternatives of conditions that all hold.
    Unsolved(Vec<Vec<Condition>>),
}

pub(crate) struct IntervalRule {
    plain: Names,
    with_variable: Names,
    variable: Option<String>,
    measure: Option<Measure>,
    key: Region,
}

impl IntervalRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let plain = names_of(&[], false)?;
        let with_variable = match &block.variable {
            Some(name) => names_of(std::slice::from_ref(name), false)?,
            None => names_of(&[], false)?,
        };
        let variable = with_variable.variables().first().map(ToString::to_string);
        let mut rule = Self {
            plain,
            with_variable,
            variable,
            measure: Measure::of(block)?,
            key: Vec::new(),
        };
        let text = block.key.text();
        let (typed, _) = rule.parse(&text).map_err(|e| FaultyBlock::KeyUnreadable {
            key: text.clone(),
            why: maths::error_words(&e.kind),
        })?;
        match typed {
            Typed::Region {
                region,
                infinity_closed: false,
            } => rule.key = region,
            Typed::Region { .. } => {
                return Err(FaultyBlock::KeyUnreadable {
                    key: text,
                    why: "infinity never belongs to an interval".into(),
                });
            }
            Typed::Unsolved(_) => {
                return Err(FaultyBlock::KeyUnreadable {
                    key: text,
                    why: "the inequality is not solved".into(),
                });
            }
        }
        Ok(rule)
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (typed, cautions) = self.parse(entry)?;
        Ok(self.show(&typed, &cautions))
    }

    fn show(&self, typed: &Typed, cautions: &[Caution]) -> Shown {
        let (latex, speech) = match typed {
            Typed::Region { region, .. } if region.is_empty() => {
                ("\\varnothing".into(), "no solution".into())
            }
            Typed::Region { region, .. } => {
                let latex: Vec<String> = region.iter().map(stretch_latex).collect();
                let speech: Vec<String> = region.iter().map(stretch_speech).collect();
                (latex.join(" \\cup "), speech.join(", or "))
            }
            Typed::Unsolved(alternatives) => {
                let one = |(a, r, b): &Condition| {
                    format!("{} {} {}", maths::latex(a), relation_latex(*r), maths::latex(b))
                };
                let all = |c: &Vec<Condition>| c.iter().map(one).collect::<Vec<_>>().join(" \\wedge ");
                let latex: Vec<String> = alternatives.iter().map(all).collect();
                (latex.join(" \\vee "), "an inequality that is not solved".into())
            }
        };
        Shown {
            latex,
            speech,
            cautions: cautions.to_vec(),
        }
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (typed, cautions) = match self.parse(entry) {
            Ok(read) => read,
            Err(error) => return super::measure::refused(&error),
        };
        let shown = self.show(&typed, &cautions);
        let marking = match &typed {
            Typed::Region {
                region,
                infinity_closed,
            } => {
                let ends = region
                    .iter()
                    .flat_map(|s| [&s.low, &s.high])
                    .filter_map(|e| e.value.as_ref());
                for end in ends {
                    if let Err(why) = maths::has_value(end) {
                        return shown.onto(without_value(why, entry.chars().count()));
                    }
                }
                self.judge(region, *infinity_closed)
            }
            Typed::Unsolved(alternatives) => {
                if self.has_these_solutions(alternatives) {
                    wrong_form("Solve it: say which values the variable may have.")
                } else {
                    Marking::new(Outcome::Incorrect)
                }
            }
        };
        shown.onto(marking)
    }

    fn judge(&self, region: &Region, infinity_closed: bool) -> Marking {
        let same_end = |a: &End, b: &End| match (&a.value, &b.value) {
            (None, None) => true,
            (Some(x), Some(y)) => compare_constants(x, y).is_ok_and(|(o, _)| o == Ordering::Equal),
            _ => false,
        };
        let values = region.len() == self.key.len()
            && region
                .iter()
                .zip(&self.key)
                .all(|(a, b)| same_end(&a.low, &b.low) && same_end(&a.high, &b.high));
        let closed = |e: &End| e.closed && e.value.is_some();
        let ends = region
            .iter()
            .zip(&self.key)
            .all(|(a, b)| closed(&a.low) == closed(&b.low) && closed(&a.high) == closed(&b.high));
        if values && ends {
            return if infinity_closed {
                wrong_form("Infinity is never reached: its end takes a round bracket.")
            } else {
                Marking::new(Outcome::Correct)
            };
        }
        Marking::new(Outcome::Incorrect).slipped((values && !region.is_empty()).then_some(Slip::Endpoint))
    }
}
