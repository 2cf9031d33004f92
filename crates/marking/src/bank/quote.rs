//! A passage of a page that somebody marked, and finding it again once the page was corrected: what was marked with what
//! stood before and after it, as the Web Annotation Data Model's TextQuoteSelector has it (W3C, 2017).

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::page::{Page, PageBlock};
use super::prose::{Block, lines, plain_inline};

/// Characters of a marked passage, and of what is kept of its surroundings.
pub const LONGEST_QUOTE: usize = 1_000;
pub const LONGEST_AROUND: usize = 40;

/// What was marked. Maths in it stands as LaTeX between dollar signs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = QuoteView)]
pub struct Quote {
    pub exact: String,
    #[serde(default)]
    pub prefix: String,
    #[serde(default)]
    pub suffix: String,
}

/// Where a passage stands: step and block from 0, and characters of the block's text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = QuotePlace)]
pub struct Found {
    pub step: usize,
    pub block: usize,
    pub start: usize,
    pub end: usize,
}

/// The text of a block as it is marked in: its lines one after the other.
fn text_of(block: &Block) -> String {
    match block {
        Block::Code { text } => text.clone(),
        other => lines(std::slice::from_ref(other))
            .map(|line| line.iter().map(plain_inline).collect::<String>())
            .collect(),
    }
}

fn bare(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Characters that two texts have in common, from the end of the first or from its beginning.
fn common<'a>(a: impl Iterator<Item = char>, b: impl Iterator<Item = char> + 'a) -> usize {
    a.zip(b).take_while(|(a, b)| a == b).count()
}

impl Quote {
    /// Whether it is within bounds, and says something.
    pub fn is_sound(&self) -> bool {
        let short = |text: &str, most: usize| text.chars().count() <= most && !text.contains('\0');
        !bare(&self.exact).is_empty()
            && short(&self.exact, LONGEST_QUOTE)
            && short(&self.prefix, LONGEST_AROUND)
            && short(&self.suffix, LONGEST_AROUND)
    }
}

impl Page {
    /// The text of a block, in which passages are marked; nothing for a figure or a question.
    pub fn text_at(&self, step: usize, block: usize) -> Option<String> {
        match self.steps.get(step)?.blocks.get(block)? {
            PageBlock::Text { block, .. } => Some(text_of(block)),
            _ => None,
        }
    }

    /// Where a passage stands now: where it occurs more than once, the place whose surroundings are most alike. `None` where
    /// the text changed there.
    ///
    /// ```
    /// let page = marking::parse_page("## In short\n\nTwice the wind, eight times the power.").unwrap();
    /// let quote = marking::Quote { exact: "eight times".into(), prefix: "wind, ".into(), suffix: " the".into() };
    /// let found = page.find_quote(&quote).unwrap();
    /// assert_eq!((found.step, found.block, found.start), (0, 0, 16));
    /// ```
    pub fn find_quote(&self, quote: &Quote) -> Option<Found> {
        let wanted: Vec<char> = quote.exact.chars().collect();
        let mut best: Option<(usize, Found)> = None;
        for (step, one) in self.steps.iter().enumerate() {
            for block in 0..one.blocks.len() {
                let Some(text) = self.text_at(step, block) else {
                    continue;
                };
                let letters: Vec<char> = text.chars().collect();
                for start in 0..letters.len().saturating_sub(wanted.len().saturating_sub(1)) {
                    let end = start + wanted.len();
                    if wanted.is_empty() || letters.get(start..end) != Some(wanted.as_slice()) {
                        continue;
                    }
                    let before = letters.get(..start).unwrap_or_default().iter().rev().copied();
                    let after = letters.get(end..).unwrap_or_default().iter().copied();
                    let alike =
                        common(quote.prefix.chars().rev(), before) + common(quote.suffix.chars(), after);
                    let found = Found {
                        step,
                        block,
                        start,
                        end,
                    };
                    if best.is_none_or(|(most, _)| alike > most) {
                        best = Some((alike, found));
                    }
                }
            }
        }
        best.map(|(_, found)| found)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::parse_page;

    const PAGE: &str = "## Power

The wind's power grows with the **cube** of its speed. Power is work per second: $P = W/t$.

- Power in the wind
- Power of a shaft

## In short

Power is work per second.
";

    fn found(page: &str, exact: &str, prefix: &str, suffix: &str) -> Option<(usize, usize, usize)> {
        let quote = Quote {
            exact: exact.into(),
            prefix: prefix.into(),
            suffix: suffix.into(),
        };
        assert!(quote.is_sound());
        let found = parse_page(page).unwrap().find_quote(&quote)?;
        assert_eq!(found.end - found.start, exact.chars().count());
        Some((found.step, found.block, found.start))
    }

    #[rstest]
    #[case::across_bold("with the cube of", "grows ", " its", Some((0, 0, 23)))]
    #[case::with_maths("second: $P = \\frac{W}{t}$", "work per ", ".", Some((0, 0, 69)))]
    #[case::the_first_of_two("Power is work", "speed. ", " per", Some((0, 0, 51)))]
    #[case::the_second_of_two("Power is work per second", "", ".", Some((1, 0, 0)))]
    #[case::in_a_list("Power of a shaft", "the wind", "", Some((0, 1, 17)))]
    #[case::nothing_like_it("torque", "", "", None)]
    #[case::over_two_blocks("speed. Power is work per second: $P = W/t$.Power in", "", "", None)]
    fn a_passage_is_found_where_its_surroundings_are_alike(
        #[case] exact: &str,
        #[case] prefix: &str,
        #[case] suffix: &str,
        #[case] wanted: Option<(usize, usize, usize)>,
    ) {
        assert_eq!(found(PAGE, exact, prefix, suffix), wanted);
    }

    #[test]
    fn a_corrected_page_keeps_what_was_not_changed() {
        let corrected = PAGE.replace("## Power\n", "## Power\n\nA new first paragraph on power.\n");
        assert_eq!(
            found(&corrected, "with the cube of", "grows ", " its"),
            Some((0, 1, 23))
        );
        let changed = PAGE.replace("**cube**", "third power");
        assert_eq!(found(&changed, "with the cube of", "grows ", " its"), None);
    }

    #[test]
    fn what_is_empty_or_too_long_is_no_quote() {
        let quote = |exact: String, prefix: String| Quote {
            exact,
            prefix,
            suffix: String::new(),
        };
        assert!(!quote(" \n".into(), String::new()).is_sound());
        assert!(!quote("a".repeat(LONGEST_QUOTE + 1), String::new()).is_sound());
        assert!(!quote("a".into(), "b".repeat(LONGEST_AROUND + 1)).is_sound());
        assert!(!quote("a\0".into(), String::new()).is_sound());
        assert!(quote("a".repeat(LONGEST_QUOTE), "b".repeat(LONGEST_AROUND)).is_sound());
    }
}
