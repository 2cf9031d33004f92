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

mod walk;
mod words;

use std::sync::Arc;

use serde::Serialize;
use utoipa::ToSchema;

use super::beside::is_recording;
use super::format::Question;
use super::prose::{Block, Unfit};
use walk::walk;
use words::take_text;

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
    /// A recording with stops: one that ships, by its name, or one that was uploaded, by its id.
    Recording { name: String },
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
        "in the step `{step}`: a fence that is not closed, or none of a `check` with one question, a `recording` with its name, \
         `walk` and `terms`"
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
        if let Some(fence) = line.strip_prefix("```") {
            let mut inside = Vec::new();
            loop {
                let fault = || PageFault::Fence { step: title.clone() };
                let line = *lines.next().ok_or_else(fault)?;
                if line.trim_end() == "```" {
                    break;
                }
                inside.push(line);
            }
            let fence = fence.trim_end();
            if fence.is_empty() {
                // Lines of a program stand in the text as they are.
                text.push_str(&format!("```\n{}\n```\n", inside.join("\n")));
                continue;
            }
            let mut said = inside.iter().map(|l| l.trim()).filter(|l| !l.is_empty());
            if fence == "terms" {
                for line in said {
                    terms.push(term(line, terms)?);
                }
                continue;
            }
            take_text(&title, &mut text, &mut blocks)?;
            if fence == "walk" {
                blocks.push(walk(&title, &said.collect::<Vec<_>>())?);
                continue;
            }
            blocks.push(match (fence, said.next(), said.next()) {
                ("check", Some(question), None) => PageBlock::Check {
                    question: question.to_owned(),
                },
                ("recording", Some(name), None) if is_recording(name) => PageBlock::Recording {
                    name: name.to_owned(),
                },
                _ => return Err(PageFault::Fence { step: title }),
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

    /// The recordings in it, by name or id.
    pub fn recordings(&self) -> impl Iterator<Item = &str> {
        self.blocks().filter_map(|b| match b {
            PageBlock::Recording { name } => Some(name.as_str()),
            _ => None,
        })
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
                    PageBlock::Check { .. } | PageBlock::Recording { .. } => "",
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

    /// About how long it takes to read, in whole minutes: 130 words a minute, and two minutes for each question or recording.
    pub fn minutes(&self) -> usize {
        let words: usize = self
            .blocks()
            .map(|b| match b {
                PageBlock::Text { speech, .. } => speech.split_whitespace().count(),
                PageBlock::Figure { alt, .. } => alt.split_whitespace().count(),
                PageBlock::Check { .. } | PageBlock::Recording { .. } => 260,
                PageBlock::Walk { steps, .. } => 60 * steps.len(),
            })
            .sum();
        (words / 130).max(1)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::words::read_maths;
    use super::*;
    use crate::bank::render::render;

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
    fn a_recording_stands_in_a_page_by_its_name_or_id() {
        let page =
            |inside: &str| parse_page(&format!("## In short\n\nSee:\n\n```recording\n{inside}\n```\n"));
        let id = "0197a000-0000-7000-8000-000000000001";
        for name in ["before-the-climb", id] {
            let read = page(name).unwrap();
            assert_eq!(read.recordings().collect::<Vec<_>>(), [name]);
            assert_eq!(read.steps[0].blocks.len(), 2);
        }
        let fault = Err(PageFault::Fence {
            step: "In short".into(),
        });
        for faulty in ["", "two\nnames", "../etc", "Before The Climb"] {
            assert_eq!(page(faulty), fault, "{faulty}");
        }
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
