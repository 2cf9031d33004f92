//! Writing, with what is attached to it: a tree of few kinds of nodes, no HTML.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bank::{Block, Inline};
use crate::response::ResponseFault;

/// Characters in one piece of writing: some ten pages.
pub const LONGEST_WRITING: usize = 30_000;
/// Files with one answer.
pub const MOST_FILES: usize = 6;
/// Links with one answer.
pub const MOST_LINKS: usize = 6;
const LONGEST_LINK: usize = 500;
const LONGEST_FILE_NAME: usize = 200;
/// Nodes in one piece of writing: a table of a thousand cells has three for each.
const MOST_NODES: usize = 6_000;
/// Lists in lists in cells; more is no writing.
const DEEPEST: usize = 14;

/// What was written, attached and linked.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = WrittenView)]
pub struct Written {
    /// Paragraphs, lists and tables, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub text: Vec<Node>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub files: Vec<AttachedFile>,
    /// Addresses, `http` or `https`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub links: Vec<String>,
}

/// A file that was kept with the work.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = AttachedFileView)]
pub struct AttachedFile {
    pub id: uuid::Uuid,
    pub name: String,
    pub media_type: String,
    /// In bytes.
    pub size: u64,
    /// Of a recording.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seconds: Option<u32>,
}

/// A piece of writing.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = WrittenNodeView)]
pub struct Node {
    #[serde(rename = "type")]
    pub kind: NodeKind,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(no_recursion)]
    pub content: Vec<Node>,
    /// The words of a text, or the entry of maths as it was typed.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub text: String,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<Mark>,
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "camelCase")]
#[schema(as = WrittenNodeKind)]
pub enum NodeKind {
    #[default]
    Paragraph,
    Heading,
    BulletList,
    OrderedList,
    ListItem,
    Table,
    TableRow,
    TableHeader,
    TableCell,
    Text,
    HardBreak,
    Maths,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "camelCase")]
#[schema(as = WrittenMark)]
pub enum Mark {
    Bold,
    Italic,
    Underline,
}

impl Node {
    pub(crate) fn of(kind: NodeKind, content: Vec<Node>) -> Self {
        Node {
            kind,
            content,
            ..Node::default()
        }
    }

    pub(crate) fn words(text: impl Into<String>) -> Self {
        Node {
            kind: NodeKind::Text,
            text: text.into(),
            ..Node::default()
        }
    }

    /// This node and all below it, with how deep each stands.
    fn walk(&self, depth: usize, see: &mut impl FnMut(&Node, usize) -> bool) -> bool {
        // Deeper than anything that is taken: it is looked at no further.
        see(self, depth) && (depth > DEEPEST || self.content.iter().all(|n| n.walk(depth + 1, see)))
    }

    fn is_line(&self) -> bool {
        matches!(self.kind, NodeKind::Paragraph | NodeKind::Heading)
    }

    fn flat(&self) -> String {
        match self.kind {
            NodeKind::Text => self.text.clone(),
            NodeKind::Maths => format!("`{}`", self.text),
            NodeKind::HardBreak => "\n".into(),
            _ => {
                let parts: Vec<String> = self.content.iter().map(Node::flat).collect();
                parts.join(if self.is_line() { "" } else { " " })
            }
        }
    }

    fn lines(&self, lines: &mut Vec<String>) {
        match self.kind {
            NodeKind::BulletList | NodeKind::OrderedList => {
                for (n, item) in (1..).zip(&self.content) {
                    let sign = match self.kind {
                        NodeKind::OrderedList => format!("{n}."),
                        _ => "-".into(),
                    };
                    lines.push(format!("{sign} {}", item.flat()));
                }
            }
            NodeKind::Table => {
                for row in &self.content {
                    let cells: Vec<String> = row.content.iter().map(Node::flat).collect();
                    lines.push(format!("| {} |", cells.join(" | ")));
                }
            }
            _ => lines.push(self.flat()),
        }
    }
}

impl Written {
    /// Text alone, as a model answer in a file gives it: paragraphs, lists and tables.
    pub(crate) fn of_blocks(blocks: &[Block]) -> Self {
        Written {
            text: blocks.iter().map(node_of).collect(),
            ..Written::default()
        }
    }

    pub fn is_empty(&self) -> bool {
        self.files.is_empty() && self.links.is_empty() && self.plain().trim().is_empty()
    }

    /// Words, as one counts them: what stands between blanks and has a letter or a digit in it. Maths is one.
    pub fn words(&self) -> usize {
        let plain = self.plain();
        plain
            .split_whitespace()
            .filter(|w| w.chars().any(char::is_alphanumeric))
            .count()
    }

    /// Without formatting, line by line.
    pub fn plain(&self) -> String {
        let mut lines = Vec::new();
        self.text.iter().for_each(|node| node.lines(&mut lines));
        lines.join("\n")
    }

    /// In words, with what is attached.
    pub fn in_words(&self) -> String {
        let files = self.files.iter().map(|f| format!("[{}]", f.name));
        let links = self.links.iter().map(|l| format!("[{l}]"));
        let text = Some(self.plain()).filter(|t| !t.trim().is_empty());
        text.into_iter()
            .chain(files)
            .chain(links)
            .collect::<Vec<_>>()
            .join("\n")
    }

    /// # Errors
    /// Which bound it breaks.
    pub(crate) fn within_bounds(mut self) -> Result<Self, ResponseFault> {
        if self.files.len() > MOST_FILES || self.links.len() > MOST_LINKS {
            return Err(ResponseFault::TooManyAttached);
        }
        let (mut nodes, mut chars, mut deep) = (0, 0, 0);
        let mut fits = |node: &Node, depth: usize| {
            nodes += 1;
            chars += node.text.chars().count();
            deep = deep.max(depth);
            nodes <= MOST_NODES && chars <= LONGEST_WRITING && deep <= DEEPEST
        };
        if !self.text.iter().all(|node| node.walk(0, &mut fits)) {
            return Err(ResponseFault::TooMuchWritten);
        }
        for link in &mut self.links {
            *link = link.trim().replace('\0', "");
            if !is_link(link) {
                return Err(ResponseFault::NoLink);
            }
        }
        for file in &mut self.files {
            file.name = file.name.replace('\0', "");
            let named = !file.name.trim().is_empty() && file.name.chars().count() <= LONGEST_FILE_NAME;
            if !named || file.media_type.len() > 100 || file.media_type.contains('\0') {
                return Err(ResponseFault::BadId);
            }
        }
        self.text.iter_mut().for_each(without_nul);
        Ok(self)
    }
}

/// An address that a browser can be sent to, and nothing that could run.
fn is_link(link: &str) -> bool {
    let rest = link
        .strip_prefix("https://")
        .or_else(|| link.strip_prefix("http://"));
    let clean = !link.chars().any(|c| c.is_whitespace() || c.is_control());
    rest.is_some_and(|r| !r.is_empty() && clean && link.len() <= LONGEST_LINK)
}

fn without_nul(node: &mut Node) {
    if node.text.contains('\0') {
        node.text = node.text.replace('\0', "");
    }
    node.content.iter_mut().for_each(without_nul);
}

fn node_of(block: &Block) -> Node {
    let paragraph = |line: &[Inline]| Node::of(NodeKind::Paragraph, line.iter().map(piece_of).collect());
    match block {
        Block::Paragraph { content } => paragraph(content),
        Block::List { ordered, items } => {
            let kind = if *ordered {
                NodeKind::OrderedList
            } else {
                NodeKind::BulletList
            };
            let item = |line: &Vec<Inline>| Node::of(NodeKind::ListItem, vec![paragraph(line)]);
            Node::of(kind, items.iter().map(item).collect())
        }
        Block::Table { head, rows } => {
            let row = |kind: NodeKind, cells: &[Vec<Inline>]| {
                let cell = |line: &Vec<Inline>| Node::of(kind, vec![paragraph(line)]);
                Node::of(NodeKind::TableRow, cells.iter().map(cell).collect())
            };
            let body = rows.iter().map(|cells| row(NodeKind::TableCell, cells));
            Node::of(
                NodeKind::Table,
                [row(NodeKind::TableHeader, head)]
                    .into_iter()
                    .chain(body)
                    .collect(),
            )
        }
        Block::Code { text } => Node::of(NodeKind::Paragraph, vec![Node::words(text)]),
        Block::Figure { drawing, .. } => Node::of(NodeKind::Paragraph, vec![Node::words(&drawing.alt)]),
        Block::Sound { recording } => Node::of(NodeKind::Paragraph, vec![Node::words(&recording.title)]),
    }
}

fn piece_of(piece: &Inline) -> Node {
    let marked = |text: &str, mark: Mark| Node {
        marks: vec![mark],
        ..Node::words(text)
    };
    match piece {
        Inline::Text(text) | Inline::Code(text) => Node::words(text),
        Inline::Strong(text) => marked(text, Mark::Bold),
        Inline::Emphasis(text) => marked(text, Mark::Italic),
        // What is typed in place of LaTeX; where there is none, the LaTeX says it.
        Inline::Math(latex) | Inline::DisplayMath(latex) => Node {
            kind: NodeKind::Maths,
            text: maths::entry_from_latex(latex).unwrap_or_else(|_| latex.clone()),
            ..Node::default()
        },
        Inline::Gap(gap) => Node::words(gap.content.iter().map(|p| piece_of(p).text).collect::<String>()),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn read(json: &str) -> Written {
        serde_json::from_str(json).unwrap()
    }

    const REPORT: &str = r#"{"text":[{"type":"paragraph","content":[{"type":"text","text":"The load is "},{"type":"maths","text":"3/4 t"},{"type":"text","text":" – safe.","marks":["bold"]}]},{"type":"bulletList","content":[{"type":"listItem","content":[{"type":"paragraph","content":[{"type":"text","text":"first"}]}]},{"type":"listItem","content":[{"type":"paragraph","content":[{"type":"text","text":"second"}]}]}]},{"type":"table","content":[{"type":"tableRow","content":[{"type":"tableHeader","content":[{"type":"paragraph","content":[{"type":"text","text":"t"}]}]},{"type":"tableCell","content":[{"type":"paragraph"}]}]}]}]}"#;

    #[test]
    fn writing_is_kept_as_it_came_and_said_without_its_formatting() {
        let report = read(REPORT);
        assert_eq!(serde_json::to_string(&report).unwrap(), REPORT);
        assert_eq!(
            report.plain(),
            "The load is `3/4 t` – safe.\n- first\n- second\n| t |  |"
        );
        // The dash is no word.
        assert_eq!(report.words(), 9);
        assert!(!report.is_empty());
        assert!(read(r#"{"text":[{"type":"paragraph"}]}"#).is_empty());
    }

    #[rstest]
    #[case::a_script(r#"{"text":[{"type":"script","text":"alert(1)"}]}"#)]
    #[case::an_attribute(r#"{"text":[{"type":"paragraph","attrs":{"onclick":"x"}}]}"#)]
    #[case::a_mark(r#"{"text":[{"type":"text","text":"x","marks":["link"]}]}"#)]
    #[case::a_file_without_an_id(r#"{"files":[{"name":"x","media_type":"image/png","size":1}]}"#)]
    fn what_is_no_writing_is_not_read(#[case] json: &str) {
        assert!(serde_json::from_str::<Written>(json).is_err());
    }

    fn nested(depth: usize) -> Written {
        let deep = (0..depth).fold(Node::words("x"), |n, _| Node::of(NodeKind::BulletList, vec![n]));
        Written {
            text: vec![deep],
            ..Written::default()
        }
    }

    fn linked(link: &str) -> Written {
        Written {
            links: vec![link.into()],
            ..Written::default()
        }
    }

    #[rstest]
    #[case::long(Written { text: vec![Node::words("x".repeat(LONGEST_WRITING + 1))], ..Written::default() })]
    #[case::deep(nested(DEEPEST + 1))]
    #[case::many(Written { text: vec![Node::default(); MOST_NODES + 1], ..Written::default() })]
    #[case::a_script(linked("javascript:alert(1)"))]
    #[case::no_address(linked("https://"))]
    #[case::two_addresses(linked("https://a https://b"))]
    #[case::data(linked("data:text/html,x"))]
    #[case::many_links(Written { links: vec!["https://a.example".into(); MOST_LINKS + 1], ..Written::default() })]
    fn writing_is_bounded(#[case] written: Written) {
        assert!(written.within_bounds().is_err());
    }

    #[rstest]
    #[case::a_page(linked("https://skerry.example/a?b=c#d"))]
    #[case::as_deep_as_it_may_be(nested(DEEPEST))]
    #[case::as_long_as_it_may_be(Written { text: vec![Node::words("é".repeat(LONGEST_WRITING))], ..Written::default() })]
    fn what_people_write_is_taken(#[case] written: Written) {
        assert_eq!(written.clone().within_bounds(), Ok(written));
    }
}
