//! XML as a small tree, within bounds and without a document type: no entity is ever looked up.

use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};

/// Bytes of one file.
const LONGEST: usize = 4 * 1024 * 1024;
const DEEPEST: usize = 60;
const MOST_NODES: usize = 60_000;

/// Why a file is not read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum XmlFault {
    #[error("it is longer than 4 MB")]
    TooLong,
    #[error("it is nested too deeply, or has too many elements")]
    TooMuch,
    #[error("it declares a document type or entities, which are not read")]
    DocumentType,
    #[error("it is no well-formed XML: {0}")]
    NotWellFormed(String),
}

/// An element: names are without their prefix, in lower case as QTI has them.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Node {
    pub name: String,
    pub attributes: Vec<(String, String)>,
    pub children: Vec<Child>,
}

#[derive(Clone, Debug, PartialEq)]
pub enum Child {
    Node(Node),
    Text(String),
}

impl Node {
    pub fn attribute(&self, name: &str) -> Option<&str> {
        self.attributes
            .iter()
            .find(|(n, _)| n == name)
            .map(|(_, v)| v.as_str())
    }

    pub fn nodes(&self) -> impl Iterator<Item = &Node> {
        self.children.iter().filter_map(|c| match c {
            Child::Node(n) => Some(n),
            Child::Text(_) => None,
        })
    }

    pub fn child(&self, name: &str) -> Option<&Node> {
        self.nodes().find(|n| n.name == name)
    }

    pub fn all<'a>(&'a self, name: &'a str) -> impl Iterator<Item = &'a Node> {
        self.nodes().filter(move |n| n.name == name)
    }

    /// It and everything below it, in the order of the file.
    pub fn walk(&self) -> Vec<&Node> {
        let mut found = vec![self];
        for node in self.nodes() {
            found.extend(node.walk());
        }
        found
    }

    /// All text below, with blanks as one.
    pub fn text(&self) -> String {
        fn add(node: &Node, to: &mut String) {
            for child in &node.children {
                match child {
                    Child::Text(t) => to.push_str(t),
                    Child::Node(n) => add(n, to),
                }
            }
        }
        let mut all = String::new();
        add(self, &mut all);
        all.split_whitespace().collect::<Vec<_>>().join(" ")
    }
}

fn fault(e: impl std::fmt::Display) -> XmlFault {
    XmlFault::NotWellFormed(e.to_string())
}

fn local(name: &str) -> String {
    name.rsplit(':').next().unwrap_or(name).to_owned()
}

fn opened(start: &BytesStart<'_>) -> Result<Node, XmlFault> {
    let mut attributes = Vec::new();
    for attribute in start.attributes() {
        let attribute = attribute.map_err(fault)?;
        let raw = attribute.key.as_ref();
        if raw == "xmlns" || raw.starts_with("xmlns:") {
            continue;
        }
        let value = quick_xml::escape::unescape(&attribute.value)
            .map_err(fault)?
            .into_owned();
        attributes.push((local(raw), value));
    }
    Ok(Node {
        name: local(start.name().as_ref()),
        attributes,
        children: Vec::new(),
    })
}

/// # Errors
/// Why it is not read.
pub fn parse(bytes: &[u8]) -> Result<Node, XmlFault> {
    if bytes.len() > LONGEST {
        return Err(XmlFault::TooLong);
    }
    let text = std::str::from_utf8(bytes).map_err(|_| fault("it is not UTF-8"))?;
    let mut reader = Reader::from_str(text.trim_start_matches('\u{feff}'));
    let mut open: Vec<Node> = Vec::new();
    let mut root = None;
    let mut count = 0;
    loop {
        let event = reader.read_event().map_err(fault)?;
        let done = match event {
            Event::DocType(_) => return Err(XmlFault::DocumentType),
            Event::Start(start) => {
                count += 1;
                if open.len() >= DEEPEST || count > MOST_NODES {
                    return Err(XmlFault::TooMuch);
                }
                open.push(opened(&start)?);
                None
            }
            Event::Empty(start) => {
                count += 1;
                if count > MOST_NODES {
                    return Err(XmlFault::TooMuch);
                }
                Some(opened(&start)?)
            }
            Event::End(_) => Some(open.pop().ok_or_else(|| fault("an end without a beginning"))?),
            Event::Text(t) => {
                let piece = t.to_string();
                add_text(&mut open, &piece);
                None
            }
            Event::CData(t) => {
                let piece = t.to_string();
                add_text(&mut open, &piece);
                None
            }
            Event::GeneralRef(name) => {
                let name: &str = &name;
                let piece = quick_xml::escape::unescape(&format!("&{name};"))
                    .map_err(|_| XmlFault::DocumentType)?
                    .into_owned();
                add_text(&mut open, &piece);
                None
            }
            Event::Eof => break,
            Event::Comment(_) | Event::PI(_) | Event::Decl(_) => None,
        };
        if let Some(node) = done {
            match open.last_mut() {
                Some(parent) => parent.children.push(Child::Node(node)),
                None if root.is_none() => root = Some(node),
                None => return Err(fault("more than one root")),
            }
        }
    }
    if !open.is_empty() {
        return Err(fault("it ends too early"));
    }
    root.ok_or_else(|| fault("there is nothing in it"))
}

fn add_text(open: &mut [Node], piece: &str) {
    let Some(parent) = open.last_mut() else { return };
    match parent.children.last_mut() {
        Some(Child::Text(before)) => before.push_str(piece),
        _ => parent.children.push(Child::Text(piece.to_owned())),
    }
}

/// Text as it stands in XML.
pub(crate) fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            // Not allowed in XML 1.0.
            c if c.is_control() && !matches!(c, '\n' | '\t' | '\r') => {}
            c => out.push(c),
        }
    }
    out
}

/// `<name a="b">inside</name>`; `inside` is XML already.
pub(crate) fn element(name: &str, attributes: &[(&str, &str)], inside: &str) -> String {
    let attributes: String = attributes
        .iter()
        .map(|(n, v)| format!(" {n}=\"{}\"", escape(v)))
        .collect();
    if inside.is_empty() {
        format!("<{name}{attributes}/>")
    } else {
        format!("<{name}{attributes}>{inside}</{name}>")
    }
}
