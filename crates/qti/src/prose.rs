//! Texts: a question's blocks as XHTML with MathML, and XHTML of other writers as the Markdown of a question.

use latex2mathml::{DisplayStyle, latex_to_mathml};
use marking::{Block, Inline};

use crate::xml::{Child, Node, element, escape};

/// Stands for a printed variable until the XML is written: a private character for each.
pub(crate) const FIRST_PRINTED: u32 = 0xE100;

/// Text in which printed variables may stand.
fn with_printed(text: &str, printed: &[String]) -> String {
    let mut out = String::new();
    for c in text.chars() {
        let at = u32::from(c).checked_sub(FIRST_PRINTED).map(|n| n as usize);
        match at.and_then(|n| printed.get(n)) {
            Some(name) => out.push_str(&element("qti-printed-variable", &[("identifier", name)], "")),
            None => out.push_str(&escape(&c.to_string())),
        }
    }
    out
}

/// Maths in MathML, with its LaTeX as an annotation (MathML 3, 5.2.1).
fn maths(latex: &str, display: bool, printed: &[String]) -> String {
    let style = if display {
        DisplayStyle::Block
    } else {
        DisplayStyle::Inline
    };
    let converted = latex_to_mathml(latex, style).ok().and_then(|xml| {
        let inner = xml.split_once('>')?.1.rsplit_once("</math>")?.0.to_owned();
        // What it could not convert it says in an error of its own.
        (!inner.contains("PARSE ERROR") && crate::xml::parse(xml.as_bytes()).is_ok()).then_some(inner)
    });
    let mut inner = converted.unwrap_or_else(|| element("mtext", &[], &escape(latex)));
    let mut source = escape(latex);
    for (n, name) in printed.iter().enumerate() {
        let Some(mark) = u32::try_from(n)
            .ok()
            .and_then(|n| char::from_u32(FIRST_PRINTED + n))
        else {
            continue;
        };
        for tag in ["mi", "mo", "mn", "mtext"] {
            inner = inner.replace(&format!("<{tag}>{mark}</{tag}>"), &format!("<mi>{name}</mi>"));
        }
        inner = inner.replace(mark, name);
        source = source.replace(mark, name);
    }
    let annotation = element("annotation", &[("encoding", "application/x-tex")], &source);
    let shown = if display { "block" } else { "inline" };
    format!(
        "<math xmlns=\"http://www.w3.org/1998/Math/MathML\" display=\"{shown}\"><semantics><mrow>{inner}</mrow>{annotation}\
         </semantics></math>"
    )
}

/// What stands at a gap of a passage.
pub(crate) type AtGap<'a> = &'a dyn Fn(&marking::Gap, &str) -> String;

pub(crate) struct Writer<'a> {
    pub printed: &'a [String],
    pub at_gap: Option<AtGap<'a>>,
    /// The name of the file of a figure.
    pub figure: &'a dyn Fn(&marking::Drawing) -> String,
}

impl Writer<'_> {
    pub fn line(&self, content: &[Inline]) -> String {
        content
            .iter()
            .map(|piece| match piece {
                Inline::Text(t) => with_printed(t, self.printed),
                Inline::Strong(t) => element("strong", &[], &with_printed(t, self.printed)),
                Inline::Emphasis(t) => element("em", &[], &with_printed(t, self.printed)),
                Inline::Code(t) => element("code", &[], &with_printed(t, self.printed)),
                Inline::Math(t) => maths(t, false, self.printed),
                Inline::DisplayMath(t) => maths(t, true, self.printed),
                Inline::Gap(gap) => {
                    let inside = self.line(&gap.content);
                    self.at_gap.map_or_else(|| inside.clone(), |at| at(gap, &inside))
                }
            })
            .collect()
    }

    pub fn blocks(&self, blocks: &[Block]) -> String {
        blocks.iter().map(|b| self.block(b)).collect()
    }

    fn block(&self, block: &Block) -> String {
        match block {
            Block::Paragraph { content } => element("p", &[], &self.line(content)),
            Block::List { ordered, items } => {
                let items: String = items.iter().map(|i| element("li", &[], &self.line(i))).collect();
                element(if *ordered { "ol" } else { "ul" }, &[], &items)
            }
            Block::Table { head, rows } => {
                let row = |cells: &[Vec<Inline>], tag: &str| {
                    let cells: String = cells.iter().map(|c| element(tag, &[], &self.line(c))).collect();
                    element("tr", &[], &cells)
                };
                let head = match head.iter().any(|c| !c.is_empty()) {
                    true => element("thead", &[], &row(head, "th")),
                    false => String::new(),
                };
                let rows: String = rows.iter().map(|r| row(r, "td")).collect();
                element("table", &[], &(head + &element("tbody", &[], &rows)))
            }
            Block::Code { text } => element("pre", &[], &with_printed(text, self.printed)),
            Block::Figure { drawing, .. } => self.picture(drawing),
            Block::Sound { recording } => {
                let words = format!("(A recording: {})", recording.title);
                element("p", &[], &escape(&words)) + &self.blocks(&recording.transcript)
            }
        }
    }

    pub fn picture(&self, drawing: &marking::Drawing) -> String {
        let (width, height) = (drawing.width.to_string(), drawing.height.to_string());
        let file = (self.figure)(drawing);
        let img = [
            ("src", file.as_str()),
            ("alt", &drawing.alt),
            ("width", &width),
            ("height", &height),
        ];
        element("p", &[], &element("img", &img, ""))
    }
}

/// Markdown's own signs in a text that is none.
fn plain(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        if matches!(
            c,
            '\\' | '*' | '_' | '`' | '[' | ']' | '<' | '>' | '$' | '|' | '#' | '{' | '}'
        ) {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

/// A MathML tree as LaTeX: its annotation where it has one, else the elements that questions use.
pub(crate) fn latex(node: &Node) -> String {
    let tex =
        |n: &&Node| n.name == "annotation" && n.attribute("encoding").is_some_and(|e| e.contains("tex"));
    if let Some(annotation) = node.walk().into_iter().find(tex) {
        return annotation.text();
    }
    let kids: Vec<&Node> = node.nodes().collect();
    let all = || kids.iter().map(|k| latex(k)).collect::<Vec<_>>().concat();
    let at = |n: usize| kids.get(n).map(|k| latex(k)).unwrap_or_default();
    match node.name.as_str() {
        "mfrac" => format!("\\frac{{{}}}{{{}}}", at(0), at(1)),
        "msup" => format!("{{{}}}^{{{}}}", at(0), at(1)),
        "msub" => format!("{{{}}}_{{{}}}", at(0), at(1)),
        "msubsup" => format!("{{{}}}_{{{}}}^{{{}}}", at(0), at(1), at(2)),
        "msqrt" => format!("\\sqrt{{{}}}", all()),
        "mroot" => format!("\\sqrt[{}]{{{}}}", at(1), at(0)),
        "mtext" => format!("\\text{{{}}}", node.text()),
        "mfenced" => format!(
            "\\left({}\\right)",
            kids.iter().map(|k| latex(k)).collect::<Vec<_>>().join(", ")
        ),
        "mspace" => "\\ ".into(),
        "mi" | "mn" | "mo" => symbol(&node.text()),
        "annotation" | "annotation-xml" => String::new(),
        _ if kids.is_empty() => node.text(),
        _ => all(),
    }
}

fn symbol(text: &str) -> String {
    let known = [
        ("×", "\\times "),
        ("·", "\\cdot "),
        ("⋅", "\\cdot "),
        ("÷", "\\div "),
        ("−", "-"),
        ("≤", "\\le "),
        ("≥", "\\ge "),
        ("≠", "\\ne "),
        ("±", "\\pm "),
        ("∞", "\\infty "),
        ("π", "\\pi "),
        ("α", "\\alpha "),
        ("β", "\\beta "),
        ("θ", "\\theta "),
        ("Δ", "\\Delta "),
        ("Ω", "\\Omega "),
        ("→", "\\to "),
        ("%", "\\%"),
    ];
    known
        .iter()
        .find(|(sign, _)| *sign == text)
        .map_or_else(|| text.to_owned(), |(_, tex)| (*tex).to_owned())
}

/// XHTML of any writer as Markdown. What has no place in it is named.
pub(crate) struct Marker<'a> {
    pub out: String,
    pub left_out: Vec<String>,
    /// What an element that is no text becomes: an interaction in a passage, a printed variable, a picture.
    pub other: &'a mut dyn FnMut(&Node) -> Option<String>,
}

impl Marker<'_> {
    fn line(&mut self, node: &Node) -> String {
        let mut out = String::new();
        for child in &node.children {
            match child {
                Child::Text(t) => {
                    let joined = t.split_whitespace().collect::<Vec<_>>().join(" ");
                    if t.starts_with(char::is_whitespace) {
                        out.push(' ');
                    }
                    out.push_str(&plain(&joined));
                    if t.ends_with(char::is_whitespace) && !joined.is_empty() {
                        out.push(' ');
                    }
                }
                Child::Node(n) => {
                    let inside = self.piece(n);
                    out.push_str(&inside);
                }
            }
        }
        out
    }

    fn piece(&mut self, node: &Node) -> String {
        if let Some(given) = (self.other)(node) {
            return given;
        }
        match node.name.as_str() {
            "strong" | "b" => format!("**{}**", self.line(node).trim()),
            "em" | "i" => format!("*{}*", self.line(node).trim()),
            "math" => format!("${}$", latex(node).trim()),
            "br" => " ".into(),
            "sup" => format!("$^{{\\text{{{}}}}}$", node.text()),
            "sub" => format!("$_{{\\text{{{}}}}}$", node.text()),
            "span" | "a" | "code" | "q" | "cite" | "abbr" | "small" | "u" | "label" | "kbd" | "var"
            | "tt" => self.line(node),
            "img" | "object" | "audio" | "video" | "picture" => {
                self.left_out.push("a picture or recording in the text".into());
                node.attribute("alt")
                    .map(|a| format!(" ({})", plain(a)))
                    .unwrap_or_default()
            }
            other => {
                self.left_out.push(format!("<{other}>"));
                self.line(node)
            }
        }
    }

    fn paragraph(&mut self, text: &str) {
        let text = text.trim();
        if !text.is_empty() {
            self.out.push_str(text);
            self.out.push_str("\n\n");
        }
    }

    /// The blocks in a node.
    pub fn blocks(&mut self, node: &Node) {
        let mut line = String::new();
        for child in &node.children {
            let Child::Node(n) = child else {
                if let Child::Text(t) = child {
                    let wrapped = Node {
                        children: vec![Child::Text(t.clone())],
                        ..Node::default()
                    };
                    line.push_str(&self.line(&wrapped));
                }
                continue;
            };
            let is_block = matches!(
                n.name.as_str(),
                "p" | "div"
                    | "ul"
                    | "ol"
                    | "table"
                    | "section"
                    | "blockquote"
                    | "pre"
                    | "h1"
                    | "h2"
                    | "h3"
                    | "h4"
                    | "figure"
                    | "article"
                    | "header"
                    | "footer"
                    | "dl"
                    | "hr"
                    | "rubric"
                    | "qti-rubric-block"
                    | "qti-prompt"
            );
            if !is_block {
                let piece = self.piece(n);
                line.push_str(&piece);
                continue;
            }
            let before = std::mem::take(&mut line);
            self.paragraph(&before);
            match n.name.as_str() {
                "p" | "pre" => {
                    let text = self.line(n);
                    self.paragraph(&text);
                }
                "h1" | "h2" | "h3" | "h4" => {
                    let text = self.line(n);
                    self.paragraph(&format!("**{}**", text.trim()));
                }
                "ul" | "ol" => {
                    for (at, item) in n.all("li").enumerate() {
                        let text = self.line(item);
                        let sign = if n.name == "ol" {
                            format!("{}.", at + 1)
                        } else {
                            "-".into()
                        };
                        self.out.push_str(&format!("{sign} {}\n", text.trim()));
                    }
                    self.out.push('\n');
                }
                "table" => self.table(n),
                "hr" => {}
                _ => self.blocks(n),
            }
        }
        self.paragraph(&line);
    }

    fn table(&mut self, table: &Node) {
        let rows: Vec<&Node> = table.walk().into_iter().filter(|n| n.name == "tr").collect();
        let has_head = rows.first().is_some_and(|r| r.nodes().all(|c| c.name == "th"));
        let wide = rows.iter().map(|r| r.nodes().count()).max().unwrap_or(0);
        let mut lines = Vec::new();
        if !has_head {
            lines.push(format!("|{}", " |".repeat(wide)));
            lines.push(format!("|{}", "---|".repeat(wide)));
        }
        for (at, row) in rows.iter().enumerate() {
            let cells: Vec<String> = row.nodes().map(|c| self.line(c).trim().to_owned()).collect();
            lines.push(format!("| {} |", cells.join(" | ")));
            if at == 0 && has_head {
                lines.push(format!("|{}", "---|".repeat(wide)));
            }
        }
        self.out.push_str(&lines.join("\n"));
        self.out.push_str("\n\n");
    }
}
