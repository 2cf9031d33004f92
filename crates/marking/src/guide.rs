//! The typing guide: how answers are entered, each example read by the reader that marks them.

use crate::answer::{AnswerBlock, Key, Kind};
use crate::mark::{Draft, Marker};

/// Something to enter, and examples of it.
#[derive(Clone, Copy, Debug)]
pub struct Topic {
    pub title: &'static str,
    pub words: &'static str,
    pub examples: &'static [Example],
}

/// What is typed, and what kind of answer it would be.
#[derive(Clone, Copy, Debug)]
pub struct Example {
    pub kind: Kind,
    pub typed: &'static str,
}

const fn n(typed: &'static str) -> Example {
    Example {
        kind: Kind::Number,
        typed,
    }
}

const fn x(typed: &'static str) -> Example {
    Example {
        kind: Kind::Expression,
        typed,
    }
}

const fn of(kind: Kind, typed: &'static str) -> Example {
    Example { kind, typed }
}

static GUIDE: &[Topic] = &[
    Topic {
        title: "Decimals",
        words: "Use a point. A comma may group thousands.",
        examples: &[n("3.5"), n(".5"), n("12,345.6")],
    },
    Topic {
        title: "Fractions",
        words: "Use a slash (/). Put brackets round a longer top or bottom.",
        examples: &[n("3/4"), x("(x+1)/(2x)"), n("2 1/3")],
    },
    Topic {
        title: "Powers of ten",
        words: "Scientific notation, in any of these ways.",
        examples: &[n("1.5*10^3"), n("1.5e3"), n("2.4 x 10^-6")],
    },
    Topic {
        title: "Times and divided by",
        words: "A times sign may be left out before a letter or a bracket.",
        examples: &[x("2x"), x("2(x+1)"), n("6*7"), n("6÷4")],
    },
    Topic {
        title: "Powers",
        words: "Use ^ or the raised digits of your keyboard. Brackets hold a longer power together.",
        examples: &[x("x^2"), x("x²"), x("2^(x+1)"), n("10^-3")],
    },
    Topic {
        title: "Roots",
        words: "sqrt for a square root, cbrt for a cube root, root(n, x) for others.",
        examples: &[n("sqrt(2)"), n("2√3"), x("cbrt(x)"), x("root(5, x)")],
    },
    Topic {
        title: "Pi, e and infinity",
        words: "By name, or by their sign.",
        examples: &[n("2pi"), n("π/3"), x("e^x"), of(Kind::Interval, "(-inf, 2]")],
    },
    Topic {
        title: "Angles",
        words: "With a degree sign or deg; without one an angle is in radians.",
        examples: &[n("sin(30°)"), n("cos(45 deg)"), n("tan(pi/4)")],
    },
    Topic {
        title: "Functions",
        words: "With brackets it is always clear what belongs to a function.",
        examples: &[x("sin(2x)"), x("ln(x)"), x("log_2(x)"), x("sin^2(x)"), x("|x-1|")],
    },
    Topic {
        title: "Intervals",
        words: "A round bracket excludes its end, a square one includes it; U joins two of them. An inequality is read as well.",
        examples: &[
            of(Kind::Interval, "[1, 3)"),
            of(Kind::Interval, "(-inf, 2] U (3, inf)"),
            of(Kind::Interval, "1 <= x < 3"),
        ],
    },
    Topic {
        title: "Equations",
        words: "With an equals sign between the two sides.",
        examples: &[of(Kind::Equation, "y = 2x + 1")],
    },
    Topic {
        title: "Points",
        words: "In round brackets, with a comma between.",
        examples: &[of(Kind::Tuple, "(2, -1)")],
    },
    Topic {
        title: "Vectors",
        words: "In pointed or round brackets.",
        examples: &[of(Kind::Vector, "<1, 2, 3>"), of(Kind::Vector, "(1, 2)")],
    },
    Topic {
        title: "Matrices",
        words: "Rows in square brackets, or a semicolon after each row.",
        examples: &[
            of(Kind::Matrix, "[[1, 2], [3, 4]]"),
            of(Kind::Matrix, "1, 2; 3, 4"),
        ],
    },
    Topic {
        title: "Several answers",
        words: "In any order, with commas or the word or; ± stands for two. No answer at all is: no solution.",
        examples: &[
            of(Kind::Set, "2, -3"),
            of(Kind::Set, "x = 2 or x = -3"),
            of(Kind::Set, "±3"),
            of(Kind::Set, "no solution"),
        ],
    },
    Topic {
        title: "Units",
        words: "After the number. Another unit of the same kind is converted.",
        examples: &[
            of(Kind::Number, "36 km/h"),
            of(Kind::Number, "2.5 kN"),
            of(Kind::Number, "9.81 m/s^2"),
        ],
    },
];

/// All topics, in the order in which they are shown.
///
/// ```
/// assert!(marking::typing_guide().iter().any(|topic| topic.title == "Fractions"));
/// ```
pub fn typing_guide() -> &'static [Topic] {
    GUIDE
}

fn block(kind: Kind, unit: Option<&str>) -> AnswerBlock {
    let key = match kind {
        Kind::Equation => "y = x",
        Kind::Interval => "(0, 1)",
        Kind::Tuple | Kind::Vector => "(1, 2)",
        Kind::Matrix => "[[1, 2], [3, 4]]",
        Kind::Set => "{1, 2}",
        Kind::List => "1, 2",
        _ => "1",
    };
    let mut block = AnswerBlock::plain(kind, key);
    if matches!(kind, Kind::Expression | Kind::Equation) {
        block.variables = Some(vec!["x".into(), "y".into()]);
    }
    if kind == Kind::Interval {
        block.variable = Some("x".into());
    }
    if let Some(unit) = unit {
        block.unit = Some(unit.to_owned());
        block.key = Key::Text("1".into());
    }
    block
}

/// Reads what is typed in the guide, as a field of that kind would. A number may carry a unit here.
pub fn read_for_guide(kind: Kind, entry: &str) -> Draft {
    let marker = |unit| Marker::new(&block(kind, unit)).map(|m| m.read(entry)).ok();
    let plain = marker(None);
    let readable = |d: &Option<Draft>| d.as_ref().is_some_and(|d| d.problem.is_none());
    if kind == Kind::Number && !readable(&plain) {
        let with_unit = marker(Some("m"));
        if readable(&with_unit) {
            return with_unit.unwrap_or_default();
        }
    }
    plain.unwrap_or_default()
}

/// Reads maths in a piece of writing, where any letter can stand for something.
pub fn read_in_writing(entry: &str) -> Draft {
    let mut block = match entry.contains('=') {
        true => AnswerBlock::plain(Kind::Equation, "x = 1"),
        false => AnswerBlock::plain(Kind::Expression, "1"),
    };
    let letters = entry.chars().filter(char::is_ascii_alphabetic).map(String::from);
    let names: std::collections::BTreeSet<String> = letters.chain(["x".to_owned()]).collect();
    block.variables = Some(
        names
            .into_iter()
            .filter(|n| !maths::is_reserved_name(n))
            .collect(),
    );
    Marker::new(&block).map(|m| m.read(entry)).unwrap_or_default()
}

/// Whether every character of a text is on a plain keyboard or in the guide.
pub fn can_be_typed(text: &str) -> bool {
    text.chars().all(|c| {
        c.is_ascii_graphic()
            || c == ' '
            || GUIDE.iter().flat_map(|t| t.examples).any(|e| e.typed.contains(c))
            || "±≤≥∪∞·".contains(c)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn maths_in_writing_is_read_with_whatever_letters_it_has() {
        for entry in [
            "3/4 t",
            "F = m a",
            "v^2 = u^2 + 2 a s",
            "sin(30°)",
            "2,4 kN",
            "R1",
        ] {
            let read = read_in_writing(entry);
            let odd = entry == "2,4 kN" || entry == "R1";
            assert!(odd || read.problem.is_none(), "{entry}: {read:?}");
            assert_eq!(read.problem.is_some(), read.reads_as.is_empty(), "{entry}");
        }
        assert!(read_in_writing("3/").problem.is_some());
    }

    #[test]
    fn every_example_of_the_guide_reads() {
        for topic in typing_guide() {
            for example in topic.examples {
                let draft = read_for_guide(example.kind, example.typed);
                assert_eq!(draft.problem, None, "{}: {}", topic.title, example.typed);
                assert!(
                    !draft.reads_as.is_empty() && !draft.speech.is_empty(),
                    "{}",
                    example.typed
                );
            }
        }
    }

    #[test]
    fn what_the_guide_cannot_read_says_why() {
        assert!(read_for_guide(Kind::Number, "3 +").problem.is_some());
        assert!(!can_be_typed("3 ≈ x"));
        assert!(can_be_typed("2√3 ± π"));
    }
}
