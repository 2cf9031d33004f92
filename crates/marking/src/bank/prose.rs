//! Markdown as a short list of blocks: no HTML ever reaches the browser as such.

use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::beside::Recording;
use crate::figure::Drawing;

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
#[schema(as = BlockView)]
pub enum Block {
    Paragraph {
        content: Vec<Inline>,
    },
    List {
        ordered: bool,
        items: Vec<Vec<Inline>>,
    },
    Table {
        head: Vec<Vec<Inline>>,
        rows: Vec<Vec<Vec<Inline>>>,
    },
    Figure {
        name: String,
        drawing: Drawing,
    },
    Sound {
        recording: Recording,
    },
    /// Lines of a program, or what one prints.
    Code {
        text: String,
    },
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = InlineView)]
#[serde(tag = "type", content = "value", rename_all = "snake_case")]
pub enum Inline {
    Text(String),
    Strong(String),
    Emphasis(String),
    Code(String),
    /// LaTeX.
    Math(String),
    DisplayMath(String),
    /// A place in a passage: something goes in here, or the words in it can be marked.
    Gap(Gap),
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = GapView)]
pub struct Gap {
    pub id: String,
    #[schema(no_recursion)]
    pub content: Vec<Inline>,
}

/// What was found that may not stand in a question's text.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0} can't be used in a question's text")]
pub struct Unfit(pub String);

/// What somebody wrote in a plain field, a paragraph a line: maths between dollar signs, and nothing else is markup. A
/// dollar sign that stands for money stays one.
pub fn note(text: &str) -> Vec<Block> {
    let paragraph = |line: &str| Block::Paragraph {
        content: with_maths(line),
    };
    text.lines()
        .map(str::trim)
        .filter(|line| !line.is_empty())
        .map(paragraph)
        .collect()
}

fn with_maths(line: &str) -> Vec<Inline> {
    let mut pieces = Vec::new();
    let mut plain = String::new();
    let mut rest = line;
    while let Some((before, after)) = rest.split_once('$') {
        plain.push_str(before);
        let ends = |(at, _): &(usize, &str)| {
            let inside = after.get(..*at).unwrap_or_default();
            let next = after.get(at + 1..).and_then(|r| r.chars().next());
            !inside.is_empty()
                && !inside.starts_with(char::is_whitespace)
                && !inside.ends_with(char::is_whitespace)
                && !next.is_some_and(|c| c.is_ascii_digit())
        };
        // The first dollar sign ends it, or nothing does.
        let end = after.match_indices('$').next().filter(ends);
        let Some((at, _)) = end else {
            plain.push('$');
            rest = after;
            continue;
        };
        if !plain.is_empty() {
            pieces.push(Inline::Text(std::mem::take(&mut plain)));
        }
        pieces.push(Inline::Math(after.get(..at).unwrap_or_default().to_owned()));
        rest = after.get(at + 1..).unwrap_or_default();
    }
    plain.push_str(rest);
    if !plain.is_empty() {
        pieces.push(Inline::Text(plain));
    }
    pieces
}

/// Text without markup: maths as LaTeX between dollar signs, lists and tables line by line.
pub fn plain(blocks: &[Block]) -> String {
    let line = |content: &[Inline]| {
        content
            .iter()
            .map(plain_inline)
            .collect::<String>()
            .trim()
            .to_owned()
    };
    let row = |cells: &Vec<Vec<Inline>>| {
        let cells: Vec<String> = cells.iter().map(|c| line(c)).collect();
        format!("| {} |", cells.join(" | "))
    };
    let one = |block: &Block| match block {
        Block::Paragraph { content } => line(content),
        Block::List { items, .. } => {
            let items: Vec<String> = items.iter().map(|i| format!("- {}", line(i))).collect();
            items.join("\n")
        }
        Block::Table { head, rows } => {
            let rule = format!("|{}", "---|".repeat(head.len()));
            let lines: Vec<String> = [row(head), rule]
                .into_iter()
                .chain(rows.iter().map(row))
                .collect();
            lines.join("\n")
        }
        Block::Figure { drawing, .. } => format!("[{}]", drawing.alt),
        Block::Sound { recording } => format!("[{}]\n\n{}", recording.title, plain(&recording.transcript)),
        Block::Code { text } => text.clone(),
    };
    blocks.iter().map(one).collect::<Vec<_>>().join("\n\n")
}

pub(crate) fn plain_inline(piece: &Inline) -> String {
    match piece {
        Inline::Text(t) | Inline::Strong(t) | Inline::Emphasis(t) | Inline::Code(t) => t.clone(),
        Inline::Math(m) => format!("${m}$"),
        Inline::DisplayMath(m) => format!("$${m}$$"),
        Inline::Gap(gap) if gap.content.is_empty() => "____".into(),
        Inline::Gap(gap) => gap.content.iter().map(plain_inline).collect(),
    }
}

/// Reads a passage: Markdown in which `[[id]]` is a gap and `[[id: words]]` something to be marked.
pub(crate) fn read_passage(markdown: &str) -> Result<Vec<Block>, Unfit> {
    let mut blocks = read(markdown)?;
    for line in lines_mut(&mut blocks) {
        *line = with_gaps(std::mem::take(line))?;
    }
    Ok(blocks)
}

/// Every line of text in the blocks, in reading order.
pub(crate) fn lines_mut(blocks: &mut [Block]) -> impl Iterator<Item = &mut Vec<Inline>> {
    blocks.iter_mut().flat_map(|block| match block {
        Block::Paragraph { content } => vec![content],
        Block::List { items, .. } => items.iter_mut().collect(),
        Block::Table { head, rows } => head.iter_mut().chain(rows.iter_mut().flatten()).collect(),
        Block::Figure { .. } | Block::Sound { .. } | Block::Code { .. } => Vec::new(),
    })
}

/// Every line of text in the blocks, in reading order.
pub(crate) fn lines(blocks: &[Block]) -> impl Iterator<Item = &Vec<Inline>> {
    blocks.iter().flat_map(|block| match block {
        Block::Paragraph { content } => vec![content],
        Block::List { items, .. } => items.iter().collect(),
        Block::Table { head, rows } => head.iter().chain(rows.iter().flatten()).collect(),
        Block::Figure { .. } | Block::Sound { .. } | Block::Code { .. } => Vec::new(),
    })
}

/// The gaps of a passage, in reading order.
pub(crate) fn gaps(blocks: &[Block]) -> impl Iterator<Item = &Gap> {
    lines(blocks).flatten().filter_map(|piece| match piece {
        Inline::Gap(gap) => Some(gap),
        _ => None,
    })
}

fn with_gaps(line: Vec<Inline>) -> Result<Vec<Inline>, Unfit> {
    let mut out: Vec<Inline> = Vec::new();
    let mut open: Option<Gap> = None;
    for piece in line {
        let (text, make): (String, fn(String) -> Inline) = match piece {
            Inline::Text(t) => (t, Inline::Text),
            Inline::Strong(t) => (t, Inline::Strong),
            Inline::Emphasis(t) => (t, Inline::Emphasis),
            other => {
                open.as_mut().map_or(&mut out, |g| &mut g.content).push(other);
                continue;
            }
        };
        let mut rest = text.as_str();
        loop {
            let sign = if open.is_some() { "]]" } else { "[[" };
            let (before, after) = rest.split_once(sign).map_or((rest, None), |(b, a)| (b, Some(a)));
            if !before.is_empty() {
                let into = open.as_mut().map_or(&mut out, |g| &mut g.content);
                into.push(make(before.to_owned()));
            }
            let Some(after) = after else { break };
            rest = after;
            match open.take() {
                Some(gap) => out.push(Inline::Gap(gap)),
                None => {
                    let end = after.find([':', ']']).unwrap_or(after.len());
                    let (id, tail) = after.split_at(end);
                    let id = id.trim().to_owned();
                    rest = tail.strip_prefix(':').map_or(tail, str::trim_start);
                    open = Some(Gap {
                        id,
                        content: Vec::new(),
                    });
                }
            }
        }
    }
    match open {
        Some(gap) => Err(Unfit(format!("`[[{}` without its `]]`", gap.id))),
        None => Ok(out),
    }
}

#[derive(Default)]
struct Reader {
    blocks: Vec<Block>,
    line: Vec<Inline>,
    items: Vec<Vec<Inline>>,
    ordered: bool,
    in_list: bool,
    head: Vec<Vec<Inline>>,
    rows: Vec<Vec<Vec<Inline>>>,
    row: Vec<Vec<Inline>>,
    strong: bool,
    emphasis: bool,
    /// The name of a figure in the paragraph that is being read.
    figure: Option<String>,
    /// Lines of code that are being read.
    code: Option<String>,
}

/// Reads Markdown: paragraphs, lists, tables, strong, emphasis, code, `$…$` and `$$…$$`.
pub(crate) fn read(markdown: &str) -> Result<Vec<Block>, Unfit> {
    let mut reader = Reader::default();
    for event in Parser::new_ext(markdown, Options::ENABLE_MATH | Options::ENABLE_TABLES) {
        reader.take(event)?;
    }
    Ok(reader.blocks)
}

impl Reader {
    fn take(&mut self, event: Event) -> Result<(), Unfit> {
        match event {
            Event::Text(t) => match &mut self.code {
                Some(code) => code.push_str(&t),
                None => self.text(&t),
            },
            Event::SoftBreak | Event::HardBreak => self.text(" "),
            Event::InlineMath(t) => self.line.push(Inline::Math(t.to_string())),
            Event::DisplayMath(t) => self.line.push(Inline::DisplayMath(t.to_string())),
            Event::Start(tag) => return self.start(&tag),
            Event::End(tag) => self.end(tag),
            Event::Html(_) | Event::InlineHtml(_) => return Err(Unfit("HTML".into())),
            Event::Code(t) => self.line.push(Inline::Code(t.to_string())),
            other => return Err(Unfit(format!("{other:?}"))),
        }
        Ok(())
    }

    fn text(&mut self, t: &str) {
        let make: fn(String) -> Inline = match (self.strong, self.emphasis) {
            (true, _) => Inline::Strong,
            (_, true) => Inline::Emphasis,
            _ => Inline::Text,
        };
        let fresh = make(t.to_owned());
        match (self.line.last_mut(), &fresh) {
            (Some(Inline::Text(last)), Inline::Text(more))
            | (Some(Inline::Strong(last)), Inline::Strong(more))
            | (Some(Inline::Emphasis(last)), Inline::Emphasis(more)) => last.push_str(more),
            _ => self.line.push(fresh),
        }
    }

    fn start(&mut self, tag: &Tag) -> Result<(), Unfit> {
        match tag {
            Tag::Paragraph | Tag::Item | Tag::TableCell | Tag::TableHead | Tag::TableRow | Tag::Table(_) => {}
            Tag::List(first) => {
                if self.in_list {
                    return Err(Unfit("a list inside a list".into()));
                }
                self.in_list = true;
                self.ordered = first.is_some();
            }
            Tag::CodeBlock(_) if !self.in_list => self.code = Some(String::new()),
            Tag::Strong => self.strong = true,
            Tag::Emphasis => self.emphasis = true,
            Tag::Image { dest_url, .. } if self.line.is_empty() && !self.in_list => {
                self.figure = Some(dest_url.to_string());
            }
            Tag::HtmlBlock => return Err(Unfit("HTML".into())),
            other => {
                return Err(Unfit(
                    format!("{other:?}")
                        .split(['(', ' '])
                        .next()
                        .unwrap_or_default()
                        .to_lowercase(),
                ));
            }
        }
        Ok(())
    }

    fn end(&mut self, tag: TagEnd) {
        match tag {
            TagEnd::Paragraph if !self.in_list => {
                let content = std::mem::take(&mut self.line);
                self.blocks.push(match self.figure.take() {
                    // Drawn once the set's numbers are known.
                    Some(name) => Block::Figure {
                        name,
                        drawing: Drawing::default(),
                    },
                    None => Block::Paragraph { content },
                });
            }
            TagEnd::Item => self.items.push(std::mem::take(&mut self.line)),
            TagEnd::List(_) => {
                self.in_list = false;
                let items = std::mem::take(&mut self.items);
                self.blocks.push(Block::List {
                    ordered: self.ordered,
                    items,
                });
            }
            TagEnd::TableCell => self.row.push(std::mem::take(&mut self.line)),
            TagEnd::TableHead => self.head = std::mem::take(&mut self.row),
            TagEnd::TableRow => self.rows.push(std::mem::take(&mut self.row)),
            TagEnd::Table => {
                let (head, rows) = (std::mem::take(&mut self.head), std::mem::take(&mut self.rows));
                self.blocks.push(Block::Table { head, rows });
            }
            TagEnd::CodeBlock => {
                let text = self.code.take().unwrap_or_default();
                self.blocks.push(Block::Code {
                    text: text.trim_end().to_owned(),
                });
            }
            TagEnd::Strong => self.strong = false,
            TagEnd::Emphasis => self.emphasis = false,
            _ => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[rstest::rstest]
    #[case::maths("half of $m g$ is missing", &["half of ", "$m g$", " is missing"])]
    #[case::nothing_else_is_markup("5*3*2 is _not_ `30`", &["5*3*2 is _not_ `30`"])]
    #[case::money("It costs $5 and $6.", &["It costs $5 and $6."])]
    #[case::more_money("between 5$ and 6$", &["between 5$ and 6$"])]
    #[case::a_price("$5, not $10", &["$5, not $10"])]
    #[case::two("$a$ and $b$", &["$a$", " and ", "$b$"])]
    #[case::unpaired("only $ one", &["only $ one"])]
    #[case::empty("an empty $$ pair", &["an empty $$ pair"])]
    fn a_note_is_plain_but_for_its_maths(#[case] text: &str, #[case] pieces: &[&str]) {
        let read = note(text);
        let [Block::Paragraph { content }] = &read[..] else {
            panic!("{read:?}")
        };
        assert_eq!(content.iter().map(plain_inline).collect::<Vec<_>>(), pieces);
    }

    #[test]
    fn a_note_has_a_paragraph_a_line() {
        assert_eq!(note("one\n\n two \nthree").len(), 3);
        assert!(note(" \n").is_empty());
    }

    #[test]
    fn plain_text_keeps_maths_lists_and_tables_readable() {
        let read =
            read("A **blade** of $x^2$ m:\n\n- one\n- two\n\n| a | b |\n|---|---|\n| 1 | $2$ |").unwrap();
        insta::assert_snapshot!(plain(&read), @r"
        A blade of $x^2$ m:

        - one
        - two

        | a | b |
        |---|---|
        | 1 | $2$ |
        ");
    }
}
