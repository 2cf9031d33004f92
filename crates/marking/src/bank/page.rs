//! Reading pages: Markdown with maths in the notation that students type, figures, and questions to check oneself.
//!
//! A page is cut into steps at its `## ` headings; the last step, `## In short`, is the recap. A figure stands in a
//! paragraph of its own, `![what it shows](file.svg)`; a question of the bank in a fence:
//!
//! ````text
//! ```check
//! short-fraction
//! ```
//! ````
//!
//! ```
//! let page = marking::parse_page("## One half\n\nHalf of it is $x/2$.\n\n## In short\n\nDivide by two.").unwrap();
//! assert_eq!(page.steps.len(), 2);
//! ```

use std::sync::Arc;

use super::format::{Question, parse_question};
use super::prose::{self, Block, Inline, Unfit};
use super::render::render;
use crate::answer::Kind;
use crate::guide::read_for_guide;
use maths::{Names, ReadOptions};
use serde::Serialize;
use utoipa::ToSchema;

/// The heading of the recap.
const RECAP: &str = "In short";

#[derive(Clone, Debug, PartialEq)]
pub struct Page {
    pub steps: Vec<PageStep>,
    /// The words of the trade that it uses, with their meaning.
    pub terms: Vec<Term>,
}

/// A word of the trade.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = TermView)]
pub struct Term {
    pub term: String,
    /// One sentence, or part of one.
    pub meaning: String,
}

#[derive(Clone, Debug, PartialEq)]
pub struct PageStep {
    pub title: String,
    pub blocks: Vec<PageBlock>,
}

#[derive(Clone, Debug, PartialEq)]
pub enum PageBlock {
    /// `speech` is the block in words, for reading aloud.
    Text { block: Block, speech: String },
    /// A drawing that ships with the application; `alt` says what it shows.
    Figure { file: String, alt: String },
    /// A question of the bank, by its id.
    Check { question: String },
    /// A worked example to be walked: each step is a question of its own, to be filled in one at a time.
    Walk {
        about: Block,
        speech: String,
        steps: Vec<Arc<Question>>,
    },
}

/// What is wrong with a page.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PageFault {
    #[error("the page begins with text before its first `## ` heading")]
    TextBeforeHeading,
    #[error("the page needs a `## In short` as its last heading")]
    NoRecap,
    #[error("the step `{0}` is empty")]
    EmptyStep(String),
    #[error("in the step `{step}`: {unfit}")]
    Unfit { step: String, unfit: Unfit },
    #[error("in the step `{step}`: the maths `{maths}` can't be read as it would be typed")]
    Maths { step: String, maths: String },
    #[error("in the step `{step}`: the figure `{file}` does not say what it shows")]
    NoAlternativeText { step: String, file: String },
    #[error(
        "in the step `{step}`: a fence that is not closed, or neither a `check` with one question nor `terms`"
    )]
    Fence { step: String },
    #[error(
        "in the step `{step}`: a walk needs a line on what it is about, and steps with `:: ` and what comes there: `{line}`"
    )]
    Walk { step: String, line: String },
    #[error("the term `{0}` needs its meaning after a colon, and stands there once")]
    Term(String),
}

/// Reads a page.
///
/// # Errors
/// The first thing that is wrong with it.
pub fn parse_page(markdown: &str) -> Result<Page, PageFault> {
    let mut steps: Vec<(String, Vec<&str>)> = Vec::new();
    for line in markdown.lines() {
        match (line.strip_prefix("## "), steps.last_mut()) {
            (Some(title), _) => steps.push((title.trim().to_owned(), Vec::new())),
            (None, Some((_, lines))) => lines.push(line),
            (None, None) if line.trim().is_empty() => {}
            (None, None) => return Err(PageFault::TextBeforeHeading),
        }
    }
    if steps.last().is_none_or(|(title, _)| title != RECAP) {
        return Err(PageFault::NoRecap);
    }
    let mut terms = Vec::new();
    let steps: Result<Vec<PageStep>, PageFault> = steps
        .into_iter()
        .map(|(title, lines)| step(title, &lines, &mut terms))
        .collect();
    Ok(Page { steps: steps?, terms })
}

fn step(title: String, lines: &[&str], terms: &mut Vec<Term>) -> Result<PageStep, PageFault> {
    let mut blocks = Vec::new();
    let mut text = String::new();
    let mut lines = lines.iter();
    while let Some(line) = lines.next() {
        if line.trim_end() == "```" {
            // Lines of a program stand in the text as they are.
            text.push_str("```\n");
            loop {
                let fault = || PageFault::Fence { step: title.clone() };
                let line = lines.next().ok_or_else(fault)?;
                text.push_str(line);
                text.push('\n');
                if line.trim_end() == "```" {
                    break;
                }
            }
        } else if line.trim_end() == "```terms" {
            let fault = || PageFault::Fence { step: title.clone() };
            loop {
                let line = lines.next().ok_or_else(fault)?.trim();
                if line == "```" {
                    break;
                }
                if !line.is_empty() {
                    terms.push(term(line, terms)?);
                }
            }
        } else if line.trim_end() == "```walk" {
            take_text(&title, &mut text, &mut blocks)?;
            let fault = || PageFault::Fence { step: title.clone() };
            let mut inside = Vec::new();
            loop {
                let line = lines.next().ok_or_else(fault)?.trim();
                if line == "```" {
                    break;
                }
                if !line.is_empty() {
                    inside.push(line);
                }
            }
            blocks.push(walk(&title, &inside)?);
        } else if line.starts_with("```") {
            take_text(&title, &mut text, &mut blocks)?;
            let fault = || PageFault::Fence { step: title.clone() };
            let question = lines
                .next()
                .filter(|_| line.trim_end() == "```check")
                .ok_or_else(fault)?;
            lines.next().filter(|l| l.trim_end() == "```").ok_or_else(fault)?;
            blocks.push(PageBlock::Check {
                question: question.trim().to_owned(),
            });
        } else if let Some((alt, file)) = figure(line) {
            take_text(&title, &mut text, &mut blocks)?;
            let (alt, file) = (alt.trim().to_owned(), file.to_owned());
            if alt.is_empty() {
                return Err(PageFault::NoAlternativeText { step: title, file });
            }
            blocks.push(PageBlock::Figure { file, alt });
        } else {
            text.push_str(line);
            text.push('\n');
        }
    }
    take_text(&title, &mut text, &mut blocks)?;
    if blocks.is_empty() {
        return Err(PageFault::EmptyStep(title));
    }
    Ok(PageStep { title, blocks })
}

/// A worked example: what it is about, then a line a step, `what is done :: what comes`.
fn walk(step: &str, lines: &[&str]) -> Result<PageBlock, PageFault> {
    let fault = |line: &str| PageFault::Walk {
        step: step.to_owned(),
        line: line.to_owned(),
    };
    let (about, steps) = lines.split_first().ok_or_else(|| fault(""))?;
    if about.contains("::") || steps.is_empty() {
        return Err(fault(about));
    }
    let mut blocks = Vec::new();
    take_text(step, &mut (*about).to_owned(), &mut blocks)?;
    let Some(PageBlock::Text { block, speech }) = blocks.pop().filter(|_| blocks.is_empty()) else {
        return Err(fault(about));
    };
    let one = |line: &&str| walk_step(step, line).ok_or_else(|| fault(line)).map(Arc::new);
    Ok(PageBlock::Walk {
        about: block,
        speech,
        steps: steps.iter().map(one).collect::<Result<_, PageFault>>()?,
    })
}

/// One step as a question: a number, to as many decimals as it is written with, or an expression.
fn walk_step(step: &str, line: &str) -> Option<Question> {
    let (say, key) = line.split_once("::")?;
    let (say, key) = (say.trim(), key.trim());
    let mut blocks = Vec::new();
    take_text(step, &mut say.to_owned(), &mut blocks).ok()?;
    let text = match &blocks[..] {
        [PageBlock::Text { block, .. }] => prose::plain(std::slice::from_ref(block)),
        _ => return None,
    };
    let letters: Vec<String> = key
        .chars()
        .filter(char::is_ascii_alphabetic)
        .map(String::from)
        .collect();
    let answer = match key.split_once('.') {
        _ if !letters.is_empty() => {
            serde_json::json!({"kind": "expression", "key": key, "variables": letters})
        }
        Some((_, decimals)) => {
            serde_json::json!({"kind": "number", "key": key, "tolerance": {"decimals": decimals.len()}})
        }
        None => serde_json::json!({"kind": "number", "key": key}),
    };
    let part =
        serde_json::json!({"id": "a", "interaction": "text_entry", "label": "This step", "answer": answer});
    let whole =
        serde_json::json!({"id": "walk", "title": "A step", "points": 1, "text": text, "parts": [part]});
    let question = parse_question(&whole.to_string()).ok()?;
    // What is asked for can be given.
    let item = render(&question, 0).ok()?;
    let part = item.parts.first()?;
    (part.mark(&part.posed.key()).marking.score >= 1.0).then_some(question)
}

/// `term: meaning`.
fn term(line: &str, earlier: &[Term]) -> Result<Term, PageFault> {
    let fault = || PageFault::Term(line.split(':').next().unwrap_or_default().trim().to_owned());
    let (term, meaning) = line.split_once(':').ok_or_else(fault)?;
    let (term, meaning) = (term.trim(), meaning.trim());
    if term.is_empty() || meaning.is_empty() || earlier.iter().any(|t| t.term == term) {
        return Err(fault());
    }
    Ok(Term {
        term: term.to_owned(),
        meaning: meaning.to_owned(),
    })
}

/// `![alt](file)` alone on its line.
fn figure(line: &str) -> Option<(&str, &str)> {
    line.trim()
        .strip_prefix("![")?
        .strip_suffix(')')?
        .split_once("](")
}

fn take_text(step: &str, text: &mut String, into: &mut Vec<PageBlock>) -> Result<(), PageFault> {
    let read = prose::read(&std::mem::take(text)).map_err(|unfit| PageFault::Unfit {
        step: step.to_owned(),
        unfit,
    })?;
    for mut block in read {
        let mut words = Words::default();
        let mut line = |content: &mut Vec<Inline>| words.take(content);
        let done: Result<(), String> = match &mut block {
            Block::Paragraph { content } => line(content),
            Block::List { items, .. } => items.iter_mut().try_for_each(line),
            Block::Table { head, rows } => std::iter::once(head).chain(rows).flatten().try_for_each(line),
            Block::Code { text } => line(&mut vec![Inline::Code(text.clone())]),
            // Pages have pictures from files, which are read before.
            Block::Figure { name, .. } => Err(format!("the figure {name}")),
            Block::Sound { recording } => Err(format!("the sound {}", recording.title)),
        };
        done.map_err(|maths| PageFault::Maths {
            step: step.to_owned(),
            maths,
        })?;
        let speech = words.spoken;
        into.push(PageBlock::Text { block, speech });
    }
    Ok(())
}

/// The words of a block, line after line.
#[derive(Default)]
struct Words {
    spoken: String,
}

impl Words {
    /// Puts LaTeX in the place of what was typed, and adds the line in words. Gives back maths that cannot be read.
    fn take(&mut self, content: &mut Vec<Inline>) -> Result<(), String> {
        let mut line = String::new();
        for piece in content {
            match piece {
                Inline::Text(t) | Inline::Strong(t) | Inline::Emphasis(t) | Inline::Code(t) => {
                    line.push_str(t)
                }
                Inline::Math(m) | Inline::DisplayMath(m) => {
                    let (latex, speech) = read_maths(m).ok_or_else(|| m.clone())?;
                    line.push_str(&speech);
                    *m = latex;
                }
                // Pages have no gaps: their questions stand by themselves.
                Inline::Gap(_) => {}
            }
        }
        let line = line.trim();
        if !self.spoken.is_empty() && !line.is_empty() {
            let ends = self.spoken.ends_with(['.', ':', '?', ';', ',']);
            self.spoken.push_str(if ends { " " } else { ". " });
        }
        self.spoken.push_str(line);
        Ok(())
    }
}

/// Signs between the sides of a relation: typed, in LaTeX, in words. Longer ones first.
const RELATIONS: [(&str, &str, &str); 10] = [
    ("<=", r"\le", "is at most"),
    (">=", r"\ge", "is at least"),
    ("!=", r"\ne", "is not"),
    ("->", r"\to", "becomes"),
    ("≤", r"\le", "is at most"),
    ("≥", r"\ge", "is at least"),
    ("≈", r"\approx", "is about"),
    ("=", "=", "equals"),
    ("<", "<", "is less than"),
    (">", ">", "is greater than"),
];

/// LaTeX and words of maths as it is typed; relations may follow each other.
fn read_maths(typed: &str) -> Option<(String, String)> {
    let (mut latex, mut speech) = (String::new(), String::new());
    let mut rest = typed;
    loop {
        let found = RELATIONS
            .iter()
            .filter_map(|relation| Some((rest.find(relation.0)?, relation)))
            .min_by_key(|(at, relation)| (*at, std::cmp::Reverse(relation.0.len())));
        let (side, after) = match found {
            Some((at, relation)) => (
                rest.get(..at)?,
                Some((rest.get(at + relation.0.len()..)?, relation)),
            ),
            None => (rest, None),
        };
        let (side_latex, side_speech) = read_side(side.trim())?;
        latex.push_str(&side_latex);
        speech.push_str(&side_speech);
        let Some((further, (_, sign, words))) = after else {
            break;
        };
        latex.push_str(&format!(" {sign} "));
        speech.push_str(&format!(" {words} "));
        rest = further;
    }
    Some((latex, speech))
}

/// Every letter is a name in a page, and so is a letter with an index.
fn names_in(text: &str) -> Option<Names> {
    let mut names: Vec<String> = text
        .split(|c: char| !(c.is_alphanumeric() || c == '_'))
        .filter(|word| word.contains('_') && word.starts_with(char::is_alphabetic))
        .map(str::to_owned)
        .collect();
    names.extend(
        ('a'..='z')
            .chain('A'..='Z')
            .filter(|c| *c != 'e')
            .map(String::from),
    );
    names.extend(["alpha", "beta", "eta", "theta", "rho", "phi", "omega"].map(str::to_owned));
    Names::new(names.iter().map(String::as_str)).ok()
}

fn read_side(side: &str) -> Option<(String, String)> {
    let names = names_in(side)?;
    if let Ok(reading) = maths::read_expression(side, &ReadOptions::new(&names)) {
        return Some((maths::latex(&reading.tree), maths::speech(&reading.tree)));
    }
    [Kind::Matrix, Kind::Interval, Kind::Tuple]
        .into_iter()
        .map(|kind| read_for_guide(kind, side))
        .find(|draft| draft.problem.is_none() && !draft.reads_as.is_empty())
        .map(|draft| (draft.reads_as, draft.speech))
}

impl Page {
    /// The questions to check oneself, in order, by their ids.
    pub fn checks(&self) -> impl Iterator<Item = &str> {
        self.blocks().filter_map(|b| match b {
            PageBlock::Check { question } => Some(question.as_str()),
            _ => None,
        })
    }

    /// The steps of its nth worked example to be walked.
    pub fn walk(&self, nth: usize) -> Option<&[Arc<Question>]> {
        let mut walks = self.blocks().filter_map(|b| match b {
            PageBlock::Walk { steps, .. } => Some(steps.as_slice()),
            _ => None,
        });
        walks.nth(nth)
    }

    /// The files of its figures.
    pub fn figures(&self) -> impl Iterator<Item = &str> {
        self.blocks().filter_map(|b| match b {
            PageBlock::Figure { file, .. } => Some(file.as_str()),
            _ => None,
        })
    }

    /// Terms that no text of the page uses.
    pub fn unused_terms(&self) -> impl Iterator<Item = &str> {
        let text: String = self
            .steps
            .iter()
            .flat_map(|s| {
                let blocks = s.blocks.iter().map(|b| match b {
                    PageBlock::Text { speech, .. } | PageBlock::Walk { speech, .. } => speech.as_str(),
                    PageBlock::Figure { alt, .. } => alt.as_str(),
                    PageBlock::Check { .. } => "",
                });
                std::iter::once(s.title.as_str()).chain(blocks)
            })
            .collect::<Vec<_>>()
            .join(" ")
            .to_lowercase();
        let terms = self.terms.iter().map(|t| t.term.as_str());
        terms.filter(move |t| !text.contains(&t.to_lowercase()))
    }

    fn blocks(&self) -> impl Iterator<Item = &PageBlock> {
        self.steps.iter().flat_map(|s| &s.blocks)
    }

    /// About how long it takes to read, in whole minutes: 130 words a minute, and two minutes for each question.
    pub fn minutes(&self) -> usize {
        let words: usize = self
            .blocks()
            .map(|b| match b {
                PageBlock::Text { speech, .. } => speech.split_whitespace().count(),
                PageBlock::Figure { alt, .. } => alt.split_whitespace().count(),
                PageBlock::Check { .. } => 260,
                PageBlock::Walk { steps, .. } => 60 * steps.len(),
            })
            .sum();
        (words / 130).max(1)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const PAGE: &str = "## Half of it

A blade of **40 m** is cut: $x/2 = 20$.

![a bar, and half of it](half.svg)

- one part
- the other

```check
halves
```

## In short

Divide by two.
";

    #[test]
    fn a_page_has_steps_with_text_figures_and_checks() {
        let page = parse_page(PAGE).unwrap();
        let titles: Vec<&str> = page.steps.iter().map(|s| s.title.as_str()).collect();
        assert_eq!(titles, ["Half of it", "In short"]);
        assert_eq!(page.checks().collect::<Vec<_>>(), ["halves"]);
        assert_eq!(page.figures().collect::<Vec<_>>(), ["half.svg"]);
        assert_eq!(page.steps[0].blocks.len(), 4);
    }

    #[test]
    fn a_worked_example_is_walked_step_by_step() {
        let page = parse_page("## In short\n\n```walk\nA mast of $12$ m, a point 5 m from it.\nThe squares add up: $12^2 + 5^2$ is :: 169\nIts root is :: 13.0\nTwice $x$ is :: 2x\n```\n").unwrap();
        let steps = page.walk(0).unwrap();
        assert_eq!((steps.len(), page.walk(1)), (3, None));
        let marks = |nth: usize, entry: &str| {
            let item = render(&steps[nth], 0).unwrap();
            item.parts[0]
                .mark(&crate::Response::Text(entry.into()))
                .marking
                .score
        };
        assert_eq!(
            (
                marks(0, "169"),
                marks(0, "168"),
                marks(1, "13"),
                marks(2, "x + x")
            ),
            (1.0, 0.0, 1.0, 1.0)
        );
        assert!(steps[0].text.contains("12^{2}"), "{}", steps[0].text);
        for faulty in [
            "",
            "only what it is about",
            "no about :: 3",
            "about\nno key",
            "about\na key that is none :: 3 +",
        ] {
            let text = format!("## In short\n\nText\n\n```walk\n{faulty}\n```\n");
            assert!(
                matches!(parse_page(&text), Err(PageFault::Walk { .. })),
                "{faulty}"
            );
        }
    }

    #[test]
    fn terms_have_their_meaning_and_are_used_in_the_text() {
        let page = |terms: &str| {
            parse_page(&format!(
                "## In short\n\nThe blade's pitch.\n\n```terms\n{terms}\n```\n"
            ))
        };
        let read = page("pitch: the angle of a blade\n\nyaw: the turn of a nacelle").unwrap();
        assert_eq!(read.terms.len(), 2);
        assert_eq!(read.terms[0].meaning, "the angle of a blade");
        assert_eq!(read.unused_terms().collect::<Vec<_>>(), ["yaw"]);
        assert_eq!(page("pitch"), Err(PageFault::Term("pitch".into())));
        assert_eq!(page("pitch:"), Err(PageFault::Term("pitch".into())));
        assert_eq!(page("pitch: a\npitch: b"), Err(PageFault::Term("pitch".into())));
        let open = parse_page("## In short\n\nText\n\n```terms\npitch: a");
        assert_eq!(
            open,
            Err(PageFault::Fence {
                step: "In short".into()
            })
        );
    }

    #[test]
    fn lines_of_a_program_stand_as_they_are() {
        let page = parse_page("## In short\n\nSo:\n\n```\nlet a = 1;\n\nlet b = a;\n```\n\nAnd on.").unwrap();
        let PageBlock::Text { block, .. } = &page.steps[0].blocks[1] else {
            panic!("{page:?}")
        };
        assert_eq!(
            *block,
            Block::Code {
                text: "let a = 1;\n\nlet b = a;".into()
            }
        );
    }

    #[test]
    fn what_is_read_aloud_has_its_maths_in_words() {
        let page = parse_page(PAGE).unwrap();
        let speech = |n: usize| match &page.steps[0].blocks[n] {
            PageBlock::Text { speech, .. } => speech.clone(),
            other => format!("{other:?}"),
        };
        insta::assert_snapshot!(speech(0), @"A blade of 40 m is cut: x over 2 equals 20.");
        insta::assert_snapshot!(speech(2), @"one part. the other");
    }

    #[rstest]
    #[case::chain("3/4 = 6/8 = 0.75", r"\frac{3}{4} = \frac{6}{8} = 0.75")]
    #[case::index("R = R_1 + R_2", "R = R_{1} + R_{2}")]
    #[case::about("pi ≈ 3.14", r"\pi \approx 3.14")]
    #[case::between("-2 <= x < 3", r"-2 \le x < 3")]
    #[case::voltage("U = R I", r"U = R\,I")]
    #[case::greek("eta = P_2/P_1", r"\eta = \frac{P_{2}}{P_{1}}")]
    fn maths_in_a_page_is_typed_as_answers_are(#[case] typed: &str, #[case] latex: &str) {
        assert_eq!(read_maths(typed).map(|read| read.0).as_deref(), Some(latex));
    }

    #[rstest]
    #[case("[[1, 2], [3, 4]]")]
    #[case("[2, 5)")]
    #[case("(3, -1)")]
    fn matrices_intervals_and_points_read_too(#[case] typed: &str) {
        let (latex, speech) = read_maths(typed).unwrap();
        assert!(!latex.is_empty() && !speech.is_empty());
    }

    #[rstest]
    #[case::text_first("Hello\n\n## In short\n\nBye.", PageFault::TextBeforeHeading)]
    #[case::no_recap("## One\n\nText.", PageFault::NoRecap)]
    #[case::nothing("", PageFault::NoRecap)]
    #[case::empty_step("## One\n\n## In short\n\nText.", PageFault::EmptyStep("One".into()))]
    #[case::open_fence("## In short\n\n```check\nhalves", PageFault::Fence { step: "In short".into() })]
    #[case::other_fence("## In short\n\n```rust\nhalves\n```", PageFault::Fence { step: "In short".into() })]
    #[case::maths("## In short\n\nSo $3 +$.", PageFault::Maths { step: "In short".into(), maths: "3 +".into() })]
    #[case::blind("## In short\n\n![ ](a.svg)", PageFault::NoAlternativeText { step: "In short".into(), file: "a.svg".into() })]
    fn faults_of_pages_are_named(#[case] markdown: &str, #[case] fault: PageFault) {
        assert_eq!(parse_page(markdown), Err(fault));
    }

    #[test]
    fn html_is_no_part_of_a_page() {
        let fault = parse_page("## In short\n\n<script>x</script>").unwrap_err();
        assert_eq!(
            fault.to_string(),
            "in the step `In short`: HTML can't be used in a question's text"
        );
    }
}
