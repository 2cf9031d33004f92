//! The text of a page: maths as it is typed, put as LaTeX and in words.

use maths::{Names, ReadOptions};

use super::{PageBlock, PageFault};
use crate::answer::Kind;
use crate::bank::prose::{self, Block, Inline};
use crate::guide::read_for_guide;

pub(super) fn take_text(step: &str, text: &mut String, into: &mut Vec<PageBlock>) -> Result<(), PageFault> {
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
pub(super) fn read_maths(typed: &str) -> Option<(String, String)> {
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
