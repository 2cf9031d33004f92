//! Typing practice: ten short tasks, each to type what is shown. They teach the notation, not the maths.

use std::sync::OnceLock;

use crate::answer::{AnswerBlock, Kind};
use crate::mark::{Draft, Marker};
use crate::verdict::Outcome;

/// One task: to type what is shown.
#[derive(Clone, Debug)]
pub struct TypingTask {
    pub id: &'static str,
    pub title: &'static str,
    /// How it is done.
    pub words: &'static str,
    /// One way to type it.
    pub typed: &'static str,
    /// Other ways that read a little differently and are as good.
    also: &'static [&'static str],
    pub block: AnswerBlock,
}

/// What became of an attempt.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Typed {
    /// It reads as what is shown.
    AsShown,
    /// It has the same value, in another form.
    SameValue,
    /// It reads as something else.
    Otherwise,
    Unreadable,
    Empty,
}

fn task(
    id: &'static str,
    title: &'static str,
    words: &'static str,
    kind: Kind,
    typed: &'static str,
) -> TypingTask {
    let mut block = AnswerBlock::plain(kind, typed);
    if matches!(kind, Kind::Expression | Kind::Equation) {
        block.variables = Some(vec!["x".into(), "y".into()]);
    }
    if kind == Kind::Interval {
        block.variable = Some("x".into());
    }
    TypingTask {
        id,
        title,
        words,
        typed,
        also: &[],
        block,
    }
}

fn also(of: TypingTask, also: &'static [&'static str]) -> TypingTask {
    TypingTask { also, ..of }
}

fn with_unit(mut of: TypingTask, value: &'static str, unit: &'static str) -> TypingTask {
    of.block = AnswerBlock::plain(Kind::Number, value);
    of.block.unit = Some(unit.to_owned());
    of
}

/// The ten tasks, in order.
pub fn typing_tasks() -> &'static [TypingTask] {
    static TASKS: OnceLock<Vec<TypingTask>> = OnceLock::new();
    TASKS.get_or_init(|| {
        vec![
            task(
                "fraction",
                "A fraction",
                "Type the top, a stroke, the bottom.",
                Kind::Number,
                "3/4",
            ),
            task(
                "long-fraction",
                "A longer fraction",
                "Put a top or bottom of several terms in brackets: (…)/(…).",
                Kind::Expression,
                "(x+1)/(2x-3)",
            ),
            task(
                "power",
                "A power",
                "Type ^ before the exponent. The key xⁿ does the same.",
                Kind::Expression,
                "x^5",
            ),
            task(
                "long-power",
                "A longer exponent",
                "Brackets keep a longer exponent together: ^(…).",
                Kind::Expression,
                "2^(x+1)",
            ),
            task(
                "root",
                "A root",
                "Type sqrt and brackets, or use the key √.",
                Kind::Number,
                "3sqrt(2)",
            ),
            task(
                "pi",
                "Pi",
                "Type pi. No times sign is needed after a number.",
                Kind::Number,
                "2pi/3",
            ),
            also(
                task(
                    "scientific",
                    "A power of ten",
                    "Type a times sign and 10^ with the exponent, or e with it.",
                    Kind::Number,
                    "4.2*10^-3",
                ),
                &["4.2e-3"],
            ),
            task(
                "interval",
                "An interval",
                "A square bracket takes its end in, a round one leaves it out; a comma between.",
                Kind::Interval,
                "[2, 7)",
            ),
            task(
                "matrix",
                "A matrix",
                "Each row in square brackets with commas, and all rows in one more pair; or use the key 2×2.",
                Kind::Matrix,
                "[[1, 0], [-2, 5]]",
            ),
            also(
                with_unit(
                    task(
                        "unit",
                        "A number with its unit",
                        "Type the unit after the number, powers with ^.",
                        Kind::Number,
                        "9.81 m/s^2",
                    ),
                    "9.81",
                    "m/s^2",
                ),
                &["9.81 m/s²"],
            ),
        ]
    })
}

impl TypingTask {
    fn marker(&self) -> Option<Marker> {
        Marker::new(&self.block).ok()
    }

    /// An entry as a field of this kind reads it.
    pub fn read(&self, entry: &str) -> Draft {
        self.marker().map(|m| m.read(entry)).unwrap_or_default()
    }

    /// What is to be typed, as it reads.
    pub fn shown(&self) -> Draft {
        self.read(self.typed)
    }

    /// Whether an entry reads as what is shown.
    ///
    /// ```
    /// use marking::{Typed, typing_tasks};
    /// let fraction = &typing_tasks()[0];
    /// assert_eq!(fraction.judge("3/4"), Typed::AsShown);
    /// assert_eq!(fraction.judge("0.75"), Typed::SameValue);
    /// ```
    pub fn judge(&self, entry: &str) -> Typed {
        if entry.trim().is_empty() {
            return Typed::Empty;
        }
        let read = self.read(entry);
        if read.problem.is_some() {
            return Typed::Unreadable;
        }
        let ways = std::iter::once(&self.typed).chain(self.also);
        if ways
            .into_iter()
            .any(|way| self.read(way).reads_as == read.reads_as)
        {
            return Typed::AsShown;
        }
        let outcome = self.marker().map(|m| m.mark(entry).outcome);
        match outcome {
            // A missing unit is a form too, and no other way to write the same.
            Some(Outcome::WrongForm) if self.block.unit.is_some() => Typed::Otherwise,
            Some(Outcome::Correct | Outcome::WrongForm) => Typed::SameValue,
            Some(Outcome::Unreadable) | None => Typed::Unreadable,
            Some(_) => Typed::Otherwise,
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn find(id: &str) -> &'static TypingTask {
        typing_tasks().iter().find(|t| t.id == id).unwrap()
    }

    #[test]
    fn there_are_ten_tasks_and_each_can_be_done_as_it_says() {
        assert_eq!(typing_tasks().len(), 10);
        for task in typing_tasks() {
            let shown = task.shown();
            assert_eq!(shown.problem, None, "{}", task.id);
            assert!(
                !shown.reads_as.is_empty() && !shown.speech.is_empty(),
                "{}",
                task.id
            );
            assert_eq!(task.judge(task.typed), Typed::AsShown, "{}", task.id);
        }
    }

    #[rstest]
    #[case("long-fraction", " ( x + 1 ) / ( 2 x - 3 ) ", Typed::AsShown)]
    #[case("long-fraction", "x+1/2x-3", Typed::Otherwise)]
    #[case("power", "x⁵", Typed::AsShown)]
    #[case("power", "x5", Typed::Unreadable)]
    #[case("power", "x*x^4", Typed::SameValue)]
    #[case("long-power", "2^x+1", Typed::Otherwise)]
    #[case("root", "3√2", Typed::AsShown)]
    #[case("root", "sqrt(18)", Typed::SameValue)]
    #[case("pi", "2π/3", Typed::AsShown)]
    #[case("pi", "2.0944", Typed::Otherwise)]
    #[case("scientific", "4.2e-3", Typed::AsShown)]
    #[case("scientific", "0.0042", Typed::SameValue)]
    #[case("interval", "2 <= x < 7", Typed::AsShown)]
    #[case("interval", "[2, 7]", Typed::Otherwise)]
    #[case("matrix", "1, 0; -2, 5", Typed::AsShown)]
    #[case("matrix", "[[1, 0], [2, 5]]", Typed::Otherwise)]
    #[case("unit", "9.81 m/s²", Typed::AsShown)]
    #[case("unit", "981 cm/s^2", Typed::SameValue)]
    #[case("unit", "9.81", Typed::Otherwise)]
    #[case("fraction", "", Typed::Empty)]
    #[case("fraction", "3/", Typed::Unreadable)]
    fn an_attempt_is_judged_by_how_it_reads(#[case] id: &str, #[case] entry: &str, #[case] judged: Typed) {
        assert_eq!(find(id).judge(entry), judged);
    }
}
