//! A question's text as the browser gets it: blocks, never markup.

use marking::{Block, Inline};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", rename_all = "snake_case")]
pub(crate) enum BlockView {
    Paragraph {
        content: Vec<InlineView>,
    },
    List {
        ordered: bool,
        items: Vec<Vec<InlineView>>,
    },
    Table {
        head: Vec<Vec<InlineView>>,
        rows: Vec<Vec<Vec<InlineView>>>,
    },
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "type", content = "value", rename_all = "snake_case")]
pub(crate) enum InlineView {
    Text(String),
    Strong(String),
    Emphasis(String),
    /// LaTeX.
    Math(String),
    DisplayMath(String),
}

pub(crate) fn line(content: &[Inline]) -> Vec<InlineView> {
    let one = |i: &Inline| match i {
        Inline::Text(t) => InlineView::Text(t.clone()),
        Inline::Strong(t) => InlineView::Strong(t.clone()),
        Inline::Emphasis(t) => InlineView::Emphasis(t.clone()),
        Inline::Math(t) => InlineView::Math(t.clone()),
        Inline::DisplayMath(t) => InlineView::DisplayMath(t.clone()),
    };
    content.iter().map(one).collect()
}

pub(crate) fn prose(blocks: &[Block]) -> Vec<BlockView> {
    blocks.iter().map(block_view).collect()
}

pub(crate) fn block_view(block: &Block) -> BlockView {
    let cells = |row: &Vec<Vec<Inline>>| row.iter().map(|c| line(c)).collect();
    match block {
        Block::Paragraph { content } => BlockView::Paragraph {
            content: line(content),
        },
        Block::List { ordered, items } => BlockView::List {
            ordered: *ordered,
            items: cells(items),
        },
        Block::Table { head, rows } => BlockView::Table {
            head: cells(head),
            rows: rows.iter().map(cells).collect(),
        },
    }
}
