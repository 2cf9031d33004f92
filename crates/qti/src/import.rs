//! Packages of any writer: what of them becomes questions, and a line for each thing that does not.

use std::collections::{BTreeMap, BTreeSet};

use marking::Question;
use serde_json::{Map, Value, json};

use crate::export::digest;
use crate::formula;
use crate::prose::{Marker, latex};
use crate::xml::{Child, Node, parse};

/// Items of one package.
pub const MOST_ITEMS: usize = 500;
/// Bytes of a picture that is taken into a question.
const LARGEST_PICTURE: usize = 30_000;

/// A line of the report.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Told {
    /// As it stands in the package.
    pub file: String,
    pub words: String,
}

/// An assignment of a package.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TakenTest {
    pub title: String,
    /// Ids of questions, in their order.
    pub questions: Vec<String>,
    pub attempts: Option<u32>,
    pub linear: bool,
    pub seconds: Option<u32>,
}

#[derive(Clone, Debug, Default)]
pub struct Taken {
    /// With the text of the question's file.
    pub questions: Vec<(Question, String)>,
    /// Ids of those that come back as they went out, by their own files.
    pub unchanged: BTreeSet<String>,
    pub tests: Vec<TakenTest>,
    pub report: Vec<Told>,
}

type Files = BTreeMap<String, Vec<u8>>;

/// A file named from another one, within the package; nothing for one outside it.
fn resolve(from: &str, href: &str) -> Option<String> {
    let href = href.split(['#', '?']).next()?;
    if href.contains("://") || href.starts_with('/') || href.contains('\\') || href.contains('\0') {
        return None;
    }
    let mut path: Vec<&str> = from.split('/').collect();
    path.pop();
    for piece in href.split('/') {
        match piece {
            "" | "." => {}
            ".." => {
                path.pop()?;
            }
            piece => path.push(piece),
        }
    }
    Some(path.join("/").replace("%20", " "))
}

/// An id of a question, of an identifier of any writer.
fn id_of(identifier: &str) -> String {
    let mut id = String::new();
    for c in identifier.chars() {
        if c.is_ascii_alphanumeric() {
            id.push(c.to_ascii_lowercase());
        } else if !id.ends_with('-') && !id.is_empty() {
            id.push('-');
        }
    }
    let id: String = id.trim_end_matches('-').chars().take(60).collect();
    if id.is_empty() { "item".into() } else { id }
}

/// An id of a choice or a gap.
fn inner_id(identifier: &str) -> String {
    let id: String = identifier
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() || c == '-' || c == '_' {
                c
            } else {
                '_'
            }
        })
        .take(60)
        .collect();
    if id.is_empty() { "x".into() } else { id }
}

/// Reads a package, as far as it can be read.
pub fn import(files: &Files) -> Taken {
    let mut taken = Taken::default();
    let tell = |taken: &mut Taken, file: &str, words: String| {
        taken.report.push(Told {
            file: file.to_owned(),
            words,
        });
    };
    let Some(manifest) = files.get("imsmanifest.xml") else {
        tell(
            &mut taken,
            "imsmanifest.xml",
            "There is no manifest, so this is no QTI package.".into(),
        );
        return taken;
    };
    let manifest = match parse(manifest) {
        Ok(node) => node,
        Err(fault) => {
            tell(
                &mut taken,
                "imsmanifest.xml",
                format!("The manifest is not read: {fault}."),
            );
            return taken;
        }
    };
    let all = manifest.walk();
    let resources: Vec<&Node> = all.iter().filter(|n| n.name == "resource").copied().collect();
    let of_type = |wanted: &str| {
        let fits = move |n: &&&Node| n.attribute("type").is_some_and(|t| t.contains(wanted));
        resources
            .iter()
            .filter(fits)
            .filter_map(|n| n.attribute("href"))
            .map(str::to_owned)
            .collect::<Vec<_>>()
    };
    let mut ids: BTreeMap<String, String> = BTreeMap::new();
    let mut used = BTreeSet::new();
    let items = of_type("imsqti_item");
    if items.len() > MOST_ITEMS {
        let words = format!("There are more than {MOST_ITEMS} items: the others are left out.");
        tell(&mut taken, "imsmanifest.xml", words);
    }
    for href in items.into_iter().take(MOST_ITEMS) {
        let Some(name) = resolve("imsmanifest.xml", &href) else {
            tell(
                &mut taken,
                &href,
                "It lies outside the package and is not read.".into(),
            );
            continue;
        };
        let Some(bytes) = files.get(&name) else {
            tell(
                &mut taken,
                &name,
                "The manifest names it, but it is not in the package.".into(),
            );
            continue;
        };
        match one(files, &name, bytes) {
            Ok((question, source, told, unchanged)) => {
                for words in told {
                    tell(&mut taken, &name, words);
                }
                if !used.insert(question.id.clone()) {
                    tell(
                        &mut taken,
                        &name,
                        format!("A second item has the id {}: it is left out.", question.id),
                    );
                    continue;
                }
                if unchanged {
                    taken.unchanged.insert(question.id.clone());
                }
                ids.insert(name, question.id.clone());
                taken.questions.push((question, source));
            }
            Err(why) => {
                for words in why {
                    tell(&mut taken, &name, words);
                }
            }
        }
    }
    for href in of_type("imsqti_test") {
        let found = resolve("imsmanifest.xml", &href).and_then(|name| Some((files.get(&name)?, name)));
        let Some((bytes, name)) = found else {
            tell(
                &mut taken,
                &href,
                "The manifest names it, but it is not in the package.".into(),
            );
            continue;
        };
        match parse(bytes) {
            Ok(node) => {
                let (test, told) = test(&node, &name, &ids);
                for words in told {
                    tell(&mut taken, &name, words);
                }
                taken.tests.push(test);
            }
            Err(fault) => tell(&mut taken, &name, format!("It is not read: {fault}.")),
        }
    }
    for other in resources.iter().filter(|r| {
        r.attribute("type").is_none_or(|t| {
            !t.contains("imsqti_item")
                && !t.contains("imsqti_test")
                && t != "webcontent"
                && !t.contains("associatedcontent")
        })
    }) {
        let kind = other.attribute("type").unwrap_or("nothing");
        let name = other
            .attribute("href")
            .or(other.attribute("identifier"))
            .unwrap_or("a resource");
        tell(
            &mut taken,
            name,
            format!("A resource of the type {kind} is left out."),
        );
    }
    taken
}

fn test(node: &Node, name: &str, ids: &BTreeMap<String, String>) -> (TakenTest, Vec<String>) {
    let all = node.walk();
    let mut told = Vec::new();
    let mut questions = Vec::new();
    for r in all.iter().filter(|n| n.name == "qti-assessment-item-ref") {
        let href = r.attribute("href").unwrap_or_default();
        match resolve(name, href).and_then(|p| ids.get(&p)) {
            Some(id) => questions.push(id.clone()),
            None => told.push(format!("The question {href} of this test was not taken.")),
        }
    }
    for odd in [
        "qti-selection",
        "qti-ordering",
        "qti-branch-rule",
        "qti-pre-condition",
    ] {
        if all.iter().any(|n| n.name == odd) {
            told.push(format!(
                "<{odd}> is left out: all questions come in the order in which they stand."
            ));
        }
    }
    let number = |tag: &str, attribute: &str| {
        let found = all.iter().find(|n| n.name == tag)?.attribute(attribute)?;
        found.parse::<f64>().ok().filter(|n| *n >= 1.0).map(|n| n as u32)
    };
    let test = TakenTest {
        title: node.attribute("title").unwrap_or("A test").to_owned(),
        questions,
        attempts: number("qti-item-session-control", "max-attempts"),
        linear: all
            .iter()
            .any(|n| n.attribute("navigation-mode") == Some("linear")),
        seconds: number("qti-time-limits", "max-time"),
    };
    (test, told)
}

/// One item: its question, the text of its file, and what was left out.
fn one(
    files: &Files,
    name: &str,
    bytes: &[u8],
) -> Result<(Question, String, Vec<String>, bool), Vec<String>> {
    // Unchanged since it was written here: its own file says it better.
    let stem = name
        .rsplit('/')
        .next()
        .and_then(|n| n.strip_suffix(".xml"))
        .unwrap_or_default();
    if let Some(own) = files.get(&format!("questions/{stem}.yaml"))
        && let Ok(text) = std::str::from_utf8(own)
        && let Some((first, source)) = text.split_once('\n')
        && first == format!("# Of the item {}.", digest(bytes))
        && let Ok(question) = marking::parse_question(source)
    {
        return Ok((question, source.to_owned(), Vec::new(), true));
    }
    let node = parse(bytes).map_err(|fault| vec![format!("It is not read: {fault}.")])?;
    if node.name != "qti-assessment-item" {
        return Err(vec![match node.name.as_str() {
            "assessmentItem" => "This item is of QTI 2: QTI 3.0 is read here.".into(),
            other => format!("This is no item of QTI 3.0: it begins with <{other}>."),
        }]);
    }
    let (value, told) = Reader::new(files, name, &node).read()?;
    let source = serde_saphyr::to_string(&value).map_err(|e| vec![e.to_string()])?;
    let question =
        marking::parse_question(&source).map_err(|e| vec![format!("No question can be made of it: {e}.")])?;
    marking::render(&question, 1).map_err(|e| vec![format!("No question can be made of it: {e}.")])?;
    Ok((question, source, told, false))
}

struct Reader<'a> {
    files: &'a Files,
    name: &'a str,
    item: &'a Node,
    declarations: BTreeMap<&'a str, &'a Node>,
    /// Template variables, by their identifiers.
    numbers: BTreeMap<String, Value>,
    told: Vec<String>,
    parts: Vec<Value>,
    /// Before the first part, and since the last one.
    text: String,
    between: String,
}

/// What a person marks needs a model; packages have none.
const NO_MODEL: &str = "No model answer came with this question.";

const BLOCKS: &[&str] = &[
    "qti-choice-interaction",
    "qti-order-interaction",
    "qti-match-interaction",
    "qti-associate-interaction",
    "qti-gap-match-interaction",
    "qti-hottext-interaction",
    "qti-slider-interaction",
    "qti-hotspot-interaction",
    "qti-graphic-order-interaction",
    "qti-graphic-gap-match-interaction",
    "qti-extended-text-interaction",
    "qti-upload-interaction",
];
const INLINE: &[&str] = &["qti-text-entry-interaction", "qti-inline-choice-interaction"];

fn is_unknown_interaction(node: &Node) -> bool {
    node.name.ends_with("-interaction")
        && !BLOCKS.contains(&node.name.as_str())
        && !INLINE.contains(&node.name.as_str())
}

impl<'a> Reader<'a> {
    fn new(files: &'a Files, name: &'a str, item: &'a Node) -> Self {
        let declarations = item
            .all("qti-response-declaration")
            .filter_map(|d| Some((d.attribute("identifier")?, d)))
            .collect();
        Reader {
            files,
            name,
            item,
            declarations,
            numbers: BTreeMap::new(),
            told: Vec::new(),
            parts: Vec::new(),
            text: String::new(),
            between: String::new(),
        }
    }

    fn tell(&mut self, words: impl Into<String>) {
        let words = words.into();
        if !self.told.contains(&words) {
            self.told.push(words);
        }
    }

    fn read(mut self) -> Result<(Value, Vec<String>), Vec<String>> {
        let conditions = self.templates();
        let body = self
            .item
            .child("qti-item-body")
            .ok_or_else(|| vec!["It has no item body.".to_owned()])?;
        self.body(body);
        if self.parts.is_empty() {
            let mut why = self.told;
            why.insert(0, "There is nothing in it that could be answered here.".into());
            return Err(why);
        }
        let title = self
            .item
            .attribute("title")
            .map(str::trim)
            .filter(|t| !t.is_empty());
        let title = title
            .or(self.item.attribute("identifier"))
            .unwrap_or("Item")
            .to_owned();
        for (tag, words) in [
            ("qti-modal-feedback", "feedback"),
            ("qti-stylesheet", "a style sheet"),
            ("qti-catalog-info", "a catalogue of alternatives"),
            ("qti-companion-materials-info", "companion materials"),
        ] {
            if self.item.child(tag).is_some() {
                self.tell(format!("{words} (<{tag}>) is left out."));
            }
        }
        if self.item.attribute("adaptive") == Some("true") {
            self.tell("It is adaptive: its tries are those of an assignment here.");
        }
        let most = self
            .item
            .all("qti-outcome-declaration")
            .find(|o| o.attribute("identifier") == Some("MAXSCORE"))
            .map(Node::text)
            .and_then(|t| t.parse::<f64>().ok())
            .filter(|p| *p >= 1.0)
            .map_or(u64::try_from(self.parts.len()).unwrap_or(1), |p| p.round() as u64);
        let text = match self.text.trim() {
            "" => title.clone(),
            text => text.to_owned(),
        };
        let mut question = json!({
            "id": id_of(self.item.attribute("identifier").unwrap_or_default()),
            "title": title, "points": most.min(100), "text": text, "parts": self.parts,
        });
        if !self.numbers.is_empty() {
            question["numbers"] = json!(self.numbers);
        } else {
            question["few_answers"] = json!(true);
        }
        if !conditions.is_empty() {
            question["conditions"] = json!(conditions);
        }
        Ok((question, self.told))
    }

    /// Template variables as numbers; the conditions that they have to fulfil.
    fn templates(&mut self) -> Vec<String> {
        let mut conditions = Vec::new();
        let Some(processing) = self.item.child("qti-template-processing") else {
            return conditions;
        };
        for rule in processing.nodes() {
            let inside = rule.nodes().next();
            match (rule.name.as_str(), inside) {
                ("qti-set-template-value", Some(value)) => {
                    let name = formula::name(rule.attribute("identifier").unwrap_or_default());
                    match drawn(value) {
                        Some(spec) => {
                            self.numbers.insert(name, spec);
                        }
                        None => self.tell(format!(
                            "how {name} is drawn (<{}>) has no counterpart here.",
                            value.name
                        )),
                    }
                }
                ("qti-template-constraint", Some(value)) => match compared(value) {
                    Some(condition) => conditions.push(condition),
                    None => self.tell("a condition on its numbers is left out."),
                },
                // With the part that it belongs to.
                ("qti-set-correct-response", _) => {}
                (other, _) => self.tell(format!("<{other}> is left out.")),
            }
        }
        conditions
    }

    /// XHTML as Markdown; interactions in it become gaps.
    fn markdown(&mut self, node: &Node, gaps: &mut Vec<Node>) -> String {
        let numbers: BTreeSet<String> = self.numbers.keys().cloned().collect();
        let mut other = |n: &Node| -> Option<String> {
            match n.name.as_str() {
                "qti-printed-variable" => {
                    let name = formula::name(n.attribute("identifier")?);
                    Some(format!("{{{{{name}}}}}"))
                }
                "math" => {
                    let mut tex = latex(n);
                    // A template variable in maths.
                    for mi in n.walk().into_iter().filter(|m| m.name == "mi") {
                        let name = formula::name(&mi.text());
                        if numbers.contains(&name) {
                            tex = replace_word(&tex, &mi.text(), &format!("{{{{{name}}}}}"));
                        }
                    }
                    Some(format!("${}$", tex.trim()))
                }
                "qti-gap" => Some(format!("[[{}]]", inner_id(n.attribute("identifier")?))),
                "qti-hottext" => Some(format!(
                    "[[{}: {}]]",
                    inner_id(n.attribute("identifier")?),
                    n.text()
                )),
                name if INLINE.contains(&name) => {
                    gaps.push(n.clone());
                    Some(format!("[[g{}]]", gaps.len()))
                }
                "qti-feedback-inline" | "qti-feedback-block" | "script" | "style" => Some(String::new()),
                _ => None,
            }
        };
        let mut marker = Marker {
            out: String::new(),
            left_out: Vec::new(),
            other: &mut other,
        };
        marker.blocks(node);
        let (out, left_out) = (marker.out, marker.left_out);
        for what in left_out {
            self.tell(format!("{what} is left out of a text."));
        }
        out.trim().to_owned()
    }

    /// The body: text, and interactions that become parts.
    fn body(&mut self, body: &Node) {
        let mut waiting: Vec<Child> = Vec::new();
        for child in &body.children {
            let Child::Node(node) = child else {
                waiting.push(child.clone());
                continue;
            };
            let holds = |wanted: &[&str]| node.walk().iter().any(|n| wanted.contains(&n.name.as_str()));
            if let Some(odd) = node.walk().into_iter().find(|n| is_unknown_interaction(n)) {
                self.tell(format!("<{}> has no counterpart here and is left out.", odd.name));
            } else if BLOCKS.contains(&node.name.as_str()) {
                self.flush(&mut waiting);
                self.block(node);
            } else if holds(BLOCKS) {
                self.flush(&mut waiting);
                self.body(node);
            } else if holds(INLINE) {
                self.flush(&mut waiting);
                self.fields(node);
            } else {
                waiting.push(child.clone());
            }
        }
        self.flush(&mut waiting);
    }

    /// Text that stands before an interaction.
    fn flush(&mut self, waiting: &mut Vec<Child>) {
        let node = Node {
            children: std::mem::take(waiting),
            ..Node::default()
        };
        let words = self.markdown(&node, &mut Vec::new());
        if words.is_empty() {
            return;
        }
        // Between two parts it belongs to the next one.
        let to = if self.parts.is_empty() {
            &mut self.text
        } else {
            &mut self.between
        };
        if !to.is_empty() {
            to.push_str("\n\n");
        }
        to.push_str(&words);
    }

    /// Adds a part, with what was said since the one before.
    fn add(&mut self, own: String, mut part: Value) {
        let n = u8::try_from(self.parts.len()).unwrap_or(25).min(25);
        part["id"] = json!(char::from(b'a' + n).to_string());
        let before = std::mem::take(&mut self.between);
        let prompt: Vec<String> = [before, own].into_iter().filter(|t| !t.is_empty()).collect();
        if !prompt.is_empty() {
            part["prompt"] = json!(prompt.join("\n\n"));
        }
        self.parts.push(part);
    }

    fn declared(&self, node: &Node) -> Option<&'a Node> {
        self.declarations
            .get(node.attribute("response-identifier")?)
            .copied()
    }

    fn correct(&self, node: &Node) -> Vec<String> {
        let values = |d: &Node| {
            d.child("qti-correct-response")
                .map(|c| c.all("qti-value").map(Node::text).collect::<Vec<_>>())
        };
        let declared = self.declared(node);
        let given = declared.and_then(values).unwrap_or_default();
        if !given.is_empty() {
            return given;
        }
        // Only a mapping: what is worth something.
        let mapping = declared.and_then(|d| d.child("qti-mapping"));
        let worth = |e: &&Node| {
            e.attribute("mapped-value")
                .and_then(|v| v.parse::<f64>().ok())
                .is_some_and(|v| v > 0.0)
        };
        mapping
            .map(|m| {
                m.all("qti-map-entry")
                    .filter(worth)
                    .filter_map(|e| e.attribute("map-key").map(str::to_owned))
                    .collect()
            })
            .unwrap_or_default()
    }

    /// The line of a choice.
    fn line(&mut self, node: &Node) -> String {
        let text = self
            .markdown(node, &mut Vec::new())
            .replace("\n\n", " ")
            .replace('\n', " ");
        if text.is_empty() {
            node.attribute("identifier").unwrap_or("?").to_owned()
        } else {
            text
        }
    }

    fn named(&mut self, node: &Node, tag: &str) -> Vec<Value> {
        let mut all = Vec::new();
        for choice in node.walk().into_iter().filter(|n| n.name == tag) {
            let text = self.line(choice);
            all.push(
                json!({"id": inner_id(choice.attribute("identifier").unwrap_or_default()), "text": text}),
            );
        }
        all
    }

    fn pairs(&self, node: &Node) -> Vec<(String, String)> {
        let both = |v: String| {
            let (a, b) = v.split_once(char::is_whitespace)?;
            Some((inner_id(a), inner_id(b.trim())))
        };
        self.correct(node).into_iter().filter_map(both).collect()
    }

    fn block(&mut self, node: &Node) {
        let prompt = match node.child("qti-prompt") {
            Some(prompt) => self.markdown(prompt, &mut Vec::new()),
            None => String::new(),
        };
        let shuffle = node.attribute("shuffle") == Some("true");
        let made = match node.name.as_str() {
            "qti-choice-interaction" => self.choice(node, shuffle),
            "qti-order-interaction" => {
                let steps = self.named(node, "qti-simple-choice");
                let order: Vec<String> = self.correct(node).iter().map(|i| inner_id(i)).collect();
                in_order(steps, &order).map(|steps| json!({"interaction": "order", "steps": steps}))
            }
            "qti-match-interaction" => self.matching(node, shuffle),
            "qti-associate-interaction" => {
                let items = self.named(node, "qti-simple-associable-choice");
                let pairs = self.pairs(node);
                (!pairs.is_empty()).then(|| json!({"interaction": "associate", "items": items, "pairs": pairs, "shuffle": shuffle}))
            }
            "qti-gap-match-interaction" => self.gap_match(node, shuffle),
            "qti-hottext-interaction" => {
                let passage = self.passage(node);
                let correct: Vec<String> = self.correct(node).iter().map(|i| inner_id(i)).collect();
                (!correct.is_empty())
                    .then(|| json!({"interaction": "hot_text", "passage": passage, "correct": correct}))
            }
            "qti-slider-interaction" => self.slider(node),
            "qti-hotspot-interaction" | "qti-graphic-order-interaction" => self.spots(node),
            "qti-graphic-gap-match-interaction" => self.graphic_gap_match(node),
            "qti-extended-text-interaction" => {
                Some(json!({"interaction": "extended_text", "label": "Answer", "model": NO_MODEL}))
            }
            "qti-upload-interaction" => Some(
                json!({"interaction": "extended_text", "label": "Answer", "files": 3, "model": NO_MODEL}),
            ),
            _ => None,
        };
        match made {
            Some(part) => self.add(prompt, part),
            None => {
                self.tell(format!(
                    "<{}> has no right answer that could be read: it is left out.",
                    node.name
                ));
            }
        }
    }

    fn choice(&mut self, node: &Node, shuffle: bool) -> Option<Value> {
        let correct = self.correct(node);
        let declared = self.declared(node)?;
        let several = declared.attribute("cardinality") == Some("multiple");
        let mut choices = Vec::new();
        for choice in node.all("qti-simple-choice") {
            let id = choice.attribute("identifier").unwrap_or_default();
            let mut one = json!({"id": inner_id(id), "text": self.line(choice)});
            if correct.iter().any(|c| c == id) {
                one["correct"] = json!(true);
            }
            if choice.attribute("fixed") == Some("true") {
                one["fixed"] = json!(true);
            }
            choices.push(one);
        }
        let one = !several && correct.len() == 1;
        (!correct.is_empty() && choices.len() > 1).then(|| {
            json!({"interaction": "choice", "choices": choices, "max_choices": u8::from(one), "shuffle": shuffle})
        })
    }

    fn matching(&mut self, node: &Node, shuffle: bool) -> Option<Value> {
        let sets: Vec<&Node> = node.all("qti-simple-match-set").collect();
        let [left, right] = sets.as_slice() else {
            return None;
        };
        let rows = self.named(left, "qti-simple-associable-choice");
        let columns = self.named(right, "qti-simple-associable-choice");
        let pairs = self.pairs(node);
        let rows: Vec<Value> = rows
            .into_iter()
            .map(|mut row| {
                let to: Vec<&str> = pairs
                    .iter()
                    .filter(|(a, _)| row["id"] == a.as_str())
                    .map(|(_, b)| b.as_str())
                    .collect();
                row["to"] = json!(to);
                row
            })
            .collect();
        let several = rows
            .iter()
            .any(|r| r["to"].as_array().is_none_or(|t| t.len() != 1));
        (!pairs.is_empty()).then(|| {
            json!({"interaction": "match", "rows": rows, "columns": columns, "several": several, "shuffle": shuffle})
        })
    }

    /// The text of an interaction without what is not part of its passage.
    fn passage(&mut self, node: &Node) -> String {
        let kept = |c: &&Child| match c {
            Child::Node(n) => !matches!(n.name.as_str(), "qti-prompt" | "qti-gap-text" | "qti-gap-img"),
            Child::Text(_) => true,
        };
        let inner = Node {
            children: node.children.iter().filter(kept).cloned().collect(),
            ..Node::default()
        };
        self.markdown(&inner, &mut Vec::new())
    }

    fn gap_match(&mut self, node: &Node, shuffle: bool) -> Option<Value> {
        if node.walk().iter().any(|n| n.name == "qti-gap-img") {
            self.tell("tiles that are pictures are left out.");
        }
        let tiles = self.named(node, "qti-gap-text");
        let passage = self.passage(node);
        let mut gaps: BTreeMap<String, Vec<String>> = BTreeMap::new();
        for (tile, gap) in self.pairs(node) {
            gaps.entry(gap).or_default().push(tile);
        }
        let reuse = node
            .walk()
            .iter()
            .any(|n| n.name == "qti-gap-text" && n.attribute("match-max") == Some("0"));
        (!gaps.is_empty()).then(|| {
            json!({"interaction": "gap_match", "passage": passage, "tiles": tiles, "gaps": gaps, "reuse": reuse, "shuffle": shuffle})
        })
    }

    fn slider(&mut self, node: &Node) -> Option<Value> {
        let number = |name: &str| node.attribute(name)?.parse::<f64>().ok();
        let (from, to) = (number("lower-bound")?, number("upper-bound")?);
        let step = number("step").unwrap_or(1.0);
        let answer = self.answer(node)?;
        Some(
            json!({"interaction": "slider", "from": from, "to": to, "step": step, "label": "Value", "answer": answer}),
        )
    }

    /// A picture of the package, as a figure of a question.
    fn picture(&mut self, node: &Node) -> Option<Value> {
        let img = node
            .walk()
            .into_iter()
            .find(|n| matches!(n.name.as_str(), "img" | "object" | "image"))?;
        let href = img
            .attribute("src")
            .or(img.attribute("data"))
            .or(img.attribute("href"))?;
        let file = resolve(self.name, href)?;
        let bytes = self.files.get(&file)?;
        let kind = match bytes.as_slice() {
            [0x89, b'P', b'N', b'G', ..] => "image/png",
            [0xff, 0xd8, 0xff, ..] => "image/jpeg",
            [b'G', b'I', b'F', b'8', ..] => "image/gif",
            _ if file.ends_with(".svg") && parse(bytes).is_ok_and(|n| n.name == "svg") => "image/svg+xml",
            _ => return None,
        };
        if bytes.len() > LARGEST_PICTURE {
            self.tell(format!("the picture {file} is larger than 30 kB."));
            return None;
        }
        let size = |name: &str| {
            img.attribute(name)
                .and_then(|v| v.trim_end_matches("px").parse::<f64>().ok())
        };
        let (width, height) = (size("width").unwrap_or(400.0), size("height").unwrap_or(300.0));
        let alt = img.attribute("alt").unwrap_or("a picture");
        Some(
            json!({"figure": "image", "kind": kind, "data": base64(bytes), "width": width, "height": height, "alt": alt}),
        )
    }

    /// The places on a picture: each at the middle of its shape.
    fn places(&mut self, node: &Node, tag: &str) -> Vec<Value> {
        let mut all = Vec::new();
        for (n, spot) in node.walk().into_iter().filter(|n| n.name == tag).enumerate() {
            let coords: Vec<f64> = spot
                .attribute("coords")
                .unwrap_or_default()
                .split([',', ' '])
                .filter_map(|c| c.trim().parse().ok())
                .collect();
            let at = match (spot.attribute("shape").unwrap_or("default"), coords.as_slice()) {
                ("circle" | "ellipse", [x, y, ..]) => (*x, *y),
                ("rect", [left, top, right, bottom]) => ((left + right) / 2.0, (top + bottom) / 2.0),
                ("poly", points) if points.len() >= 6 => {
                    let pairs: Vec<&[f64]> = points.chunks_exact(2).collect();
                    let count = f64::from(u32::try_from(pairs.len()).unwrap_or(1));
                    let sum = |k: usize| pairs.iter().filter_map(|p| p.get(k)).sum::<f64>() / count;
                    (sum(0), sum(1))
                }
                _ => (0.0, 0.0),
            };
            let label = spot
                .attribute("hotspot-label")
                .map_or_else(|| format!("place {}", n + 1), str::to_owned);
            let id = inner_id(spot.attribute("identifier").unwrap_or_default());
            all.push(json!({"id": id, "label": label, "at": [at.0, at.1]}));
        }
        all
    }

    fn spots(&mut self, node: &Node) -> Option<Value> {
        let Some(picture) = self.picture(node) else {
            self.tell(
                "the picture of an interaction is not in the package, or is of a kind that is not read.",
            );
            return None;
        };
        let spots = self.places(node, "qti-hotspot-choice");
        let correct: Vec<String> = self.correct(node).iter().map(|i| inner_id(i)).collect();
        if correct.is_empty() {
            return None;
        }
        Some(if node.name == "qti-graphic-order-interaction" {
            json!({"interaction": "graphic_order", "picture": picture, "spots": spots, "order": correct})
        } else {
            let one = correct.len() == 1 && node.attribute("max-choices") == Some("1");
            json!({"interaction": "hotspot", "picture": picture, "spots": spots, "correct": correct, "max_choices": u8::from(one)})
        })
    }

    fn graphic_gap_match(&mut self, node: &Node) -> Option<Value> {
        let picture = self.picture(node)?;
        let spots = self.places(node, "qti-associable-hotspot");
        let tiles = self.named(node, "qti-gap-text");
        let right: BTreeMap<String, String> = self
            .pairs(node)
            .into_iter()
            .map(|(tile, spot)| (spot, tile))
            .collect();
        (!right.is_empty() && !tiles.is_empty()).then(|| {
            json!({"interaction": "graphic_gap_match", "picture": picture, "spots": spots, "tiles": tiles, "right": right})
        })
    }

    /// The answer of a field, by its declaration and how it is compared.
    fn answer(&mut self, node: &Node) -> Option<Value> {
        let id = node.attribute("response-identifier")?;
        let declared = self.declared(node)?;
        let set = self
            .item
            .child("qti-template-processing")
            .and_then(|p| {
                p.all("qti-set-correct-response")
                    .find(|r| r.attribute("identifier") == Some(id))
            })
            .and_then(|r| r.nodes().next())
            .and_then(formula::formula);
        let correct = self.correct(node);
        if matches!(declared.attribute("base-type"), Some("float" | "integer")) {
            let key = match set {
                Some(formula) => {
                    let names: Vec<String> = self.numbers.keys().cloned().collect();
                    names
                        .iter()
                        .fold(formula, |f, n| replace_word(&f, n, &format!("{{{{{n}}}}}")))
                }
                None => correct.first()?.clone(),
            };
            let mut answer = json!({"kind": "number", "key": key});
            if let Some((mode, within)) = self.tolerance(id) {
                answer["tolerance"] = json!({ mode: within });
            }
            return Some(answer);
        }
        let first = correct.first()?.clone();
        let mut words = vec![first.clone()];
        words.extend(correct.into_iter().skip(1).filter(|w| *w != first));
        let mapping = declared.child("qti-mapping");
        if let Some(mapping) = mapping {
            let full: Vec<(&str, f64)> = mapping
                .all("qti-map-entry")
                .filter_map(|e| {
                    Some((
                        e.attribute("map-key")?,
                        e.attribute("mapped-value")?.parse().ok()?,
                    ))
                })
                .collect();
            let most = full.iter().map(|(_, v)| *v).fold(0.0, f64::max);
            for (word, value) in full {
                if value >= most && most > 0.0 && !words.iter().any(|w| w == word) {
                    words.push(word.to_owned());
                } else if value > 0.0 && value < most {
                    self.tell(format!(
                        "“{word}” is worth a part of the points there, and nothing here."
                    ));
                }
            }
        }
        Some(json!({"kind": "text", "key": words}))
    }

    /// How far a number may be off, as the processing says it.
    fn tolerance(&self, id: &str) -> Option<(&'static str, f64)> {
        let processing = self.item.child("qti-response-processing")?;
        let about = |n: &&Node| {
            n.name == "qti-equal"
                && n.walk()
                    .iter()
                    .any(|v| v.name == "qti-variable" && v.attribute("identifier") == Some(id))
        };
        let equal = processing.walk().into_iter().find(about)?;
        let within: f64 = equal
            .attribute("tolerance")?
            .split_whitespace()
            .next()?
            .parse()
            .ok()?;
        match equal.attribute("tolerance-mode")? {
            // Smaller than what is typed can be told apart by.
            "absolute" if within > 1e-8 => Some(("absolute", within)),
            // Per cent.
            "relative" if within > 0.0 => Some(("relative", within / 100.0)),
            _ => None,
        }
    }

    /// Fields in a line: one becomes a part of its own, several a passage with gaps.
    fn fields(&mut self, node: &Node) {
        let mut gaps = Vec::new();
        let wrapped = Node {
            children: vec![Child::Node(node.clone())],
            ..Node::default()
        };
        let passage = self.markdown(&wrapped, &mut gaps);
        let label = || {
            let words = node.text();
            let words = words.trim_end_matches([':', '=', ' ']).trim();
            let short: String = words.chars().take(60).collect();
            if short.is_empty() {
                "Answer".to_owned()
            } else {
                short
            }
        };
        if let [only] = gaps.as_slice()
            && only.name == "qti-text-entry-interaction"
        {
            match self.answer(only) {
                Some(answer) => {
                    let part = json!({"interaction": "text_entry", "label": label(), "answer": answer});
                    let around = passage.replace("[[g1]]", "…");
                    let around = if around.trim_matches(['…', ' ']).chars().count() > 60 {
                        around
                    } else {
                        String::new()
                    };
                    self.add(around, part);
                }
                None => self.tell("a field has no right answer that could be read: it is left out."),
            }
            return;
        }
        let mut made = Map::new();
        for (n, gap) in gaps.iter().enumerate() {
            let (id, label) = (format!("g{}", n + 1), format!("gap {}", n + 1));
            let one = if gap.name == "qti-inline-choice-interaction" {
                let choices = self.named(gap, "qti-inline-choice");
                let correct = self.correct(gap).first().map(|c| inner_id(c));
                correct.map(|c| json!({"label": label, "choices": choices, "correct": c}))
            } else {
                self.answer(gap).map(|a| json!({"label": label, "answer": a}))
            };
            let Some(one) = one else {
                self.tell("a gap has no right answer that could be read: its line is left out.");
                return;
            };
            made.insert(id, one);
        }
        self.add(
            String::new(),
            json!({"interaction": "inline", "passage": passage, "gaps": made}),
        );
    }
}

/// How a template variable is drawn.
fn drawn(node: &Node) -> Option<Value> {
    let number = |v: &str| {
        v.parse::<f64>().ok().map(|n| {
            if n.fract() == 0.0 {
                json!(n as i64)
            } else {
                json!(n)
            }
        })
    };
    match node.name.as_str() {
        "qti-random-integer" | "qti-random-float" => {
            let (from, to) = (
                number(node.attribute("min").unwrap_or("0"))?,
                number(node.attribute("max")?)?,
            );
            let mut spec = json!({"from": from, "to": to});
            if let Some(step) = node.attribute("step") {
                spec["step"] = number(step)?;
            } else if node.name == "qti-random-float" {
                spec["step"] = json!(0.01);
            }
            Some(spec)
        }
        "qti-random" => {
            let values: Vec<Value> = node
                .walk()
                .into_iter()
                .filter(|n| n.name == "qti-base-value")
                .map(|n| number(&n.text()))
                .collect::<Option<_>>()?;
            (!values.is_empty()).then(|| json!({ "one_of": values }))
        }
        "qti-base-value" => Some(json!({"one_of": [number(&node.text())?]})),
        _ => formula::formula(node).map(|f| json!({ "formula": f })),
    }
}

fn compared(node: &Node) -> Option<String> {
    let sides: Vec<String> = node
        .nodes()
        .map(formula::formula)
        .collect::<Option<Vec<_>>>()
        .unwrap_or_default();
    let joined = |sign: &str| match sides.as_slice() {
        [a, b] => Some(format!("{a} {sign} {b}")),
        _ => None,
    };
    match node.name.as_str() {
        "qti-lt" => joined("<"),
        "qti-lte" => joined("<="),
        "qti-gt" => joined(">"),
        "qti-gte" => joined(">="),
        "qti-equal" | "qti-match" => joined("="),
        "qti-not" => {
            let inner = compared(node.nodes().next()?)?;
            inner.contains(" = ").then(|| inner.replace(" = ", " != "))
        }
        _ => None,
    }
}

/// A name where it stands as a word of its own.
fn replace_word(text: &str, word: &str, by: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(word) {
        let (before, from) = rest.split_at(at);
        let after = &from[word.len()..];
        let joins = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '\\');
        let inside =
            joins(before.chars().next_back().or(out.chars().next_back())) || joins(after.chars().next());
        out.push_str(before);
        out.push_str(if inside { word } else { by });
        rest = after;
    }
    out + rest
}

/// Steps in the right order, where each has its place.
fn in_order(steps: Vec<Value>, order: &[String]) -> Option<Vec<Value>> {
    if order.len() != steps.len() {
        return None;
    }
    order
        .iter()
        .map(|id| steps.iter().find(|s| s["id"] == id.as_str()).cloned())
        .collect()
}

fn base64(bytes: &[u8]) -> String {
    const DIGITS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut out = String::new();
    for three in bytes.chunks(3) {
        let bits = three.iter().fold(0u32, |all, b| all << 8 | u32::from(*b)) << (8 * (3 - three.len()));
        for at in 0..4 {
            let digit = usize::try_from(bits >> (18 - 6 * at) & 63).unwrap_or(0);
            out.push(if at <= three.len() {
                char::from(DIGITS[digit])
            } else {
                '='
            });
        }
    }
    out
}
