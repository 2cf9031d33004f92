//! One question as a QTI item.

use std::collections::BTreeMap;

use marking::{Drawing, Item, Question, Response, render};
use serde_json::Value;

use crate::ITEM;
use crate::formula::{expression, number};
use crate::prose::{FIRST_PRINTED, Writer};
use crate::xml::{element, escape};

/// An item, the figures that it shows, and what could not be said.
pub(crate) struct Written {
    pub xml: String,
    /// By their names.
    pub figures: BTreeMap<String, String>,
    pub losses: Vec<String>,
}

/// What a part comes to: its interaction, its declaration, and how its response is worth something.
struct PartXml {
    declaration: String,
    body: String,
    /// An expression between 0 and 1; nothing where a person marks it.
    score: Option<String>,
}

/// The figures of an item, each under one name.
struct Figures<'a> {
    id: &'a str,
    found: std::cell::RefCell<BTreeMap<String, String>>,
}

const FIGURE_STYLE: &str = "<style>path,circle{fill:none;stroke-linecap:round;stroke-linejoin:round}\
    .fig-faint{stroke:#ccc}.fig-line{stroke:#1c2523;stroke-width:1.6}.fig-main{stroke:#2f6b4a;stroke-width:2.6}\
    .fig-second{stroke:#2b5c7e;stroke-width:2.2}.fig-fill{fill:#fff;stroke:#1c2523;stroke-width:1.8}\
    .fig-shade{fill:#e4eee6;stroke:#2f6b4a}.fig-dashed{stroke-dasharray:5 5}.fig-full.fig-line{fill:#1c2523}\
    .fig-full.fig-main{fill:#2f6b4a}.fig-full.fig-second{fill:#2b5c7e}.fig-hollow{fill:#fff}\
    .fig-text{fill:#1c2523;font:15px sans-serif}</style>";

impl Figures<'_> {
    fn file(&self, drawing: &Drawing) -> String {
        let mut found = self.found.borrow_mut();
        let at = found.len() + 1;
        let svg = standalone(drawing);
        if let Some((name, _)) = found.iter().find(|(_, s)| **s == svg) {
            return format!("../{name}");
        }
        let name = format!("figures/{}-{at}.svg", self.id);
        found.insert(name.clone(), svg);
        format!("../{name}")
    }
}

/// A figure as a file of its own.
fn standalone(drawing: &Drawing) -> String {
    let svg = match drawing.svg.contains("xmlns=") {
        true => drawing.svg.clone(),
        false => drawing
            .svg
            .replacen("<svg ", "<svg xmlns=\"http://www.w3.org/2000/svg\" ", 1),
    };
    match svg.find('>') {
        Some(at) => format!("{}{FIGURE_STYLE}{}", &svg[..=at], &svg[at + 1..]),
        None => svg,
    }
}

fn response_id(part: &str) -> String {
    format!("RESPONSE_{}", part.to_uppercase().replace('-', "_"))
}

fn declaration(id: &str, cardinality: &str, base: &str, correct: &[String], mapping: &str) -> String {
    let values: String = correct
        .iter()
        .map(|v| element("qti-value", &[], &escape(v)))
        .collect();
    let correct = match correct.is_empty() {
        true => String::new(),
        false => element("qti-correct-response", &[], &values),
    };
    let attributes = [
        ("identifier", id),
        ("cardinality", cardinality),
        ("base-type", base),
    ];
    element("qti-response-declaration", &attributes, &(correct + mapping))
}

fn variable(id: &str) -> String {
    element("qti-variable", &[("identifier", id)], "")
}

/// 1 where the response is the correct one.
fn matches_correct(id: &str) -> String {
    let correct = element("qti-correct", &[("identifier", id)], "");
    element("qti-match", &[], &(variable(id) + &correct))
}

fn text(value: &Value, name: &str) -> String {
    value[name].as_str().unwrap_or_default().to_owned()
}

fn flag(value: &Value, name: &str) -> bool {
    value[name].as_bool().unwrap_or_default()
}

fn line_of(value: &Value) -> Vec<marking::Inline> {
    serde_json::from_value(value.clone()).unwrap_or_default()
}

fn blocks_of(value: &Value) -> Vec<marking::Block> {
    serde_json::from_value(value.clone()).unwrap_or_default()
}

fn list(value: &Value) -> &[Value] {
    value.as_array().map_or(&[], Vec::as_slice)
}

/// The value of a key that is a number.
fn value_of(key: &str) -> Option<f64> {
    let names = maths::Names::new(std::iter::empty()).ok()?;
    let read = maths::read_expression(key, &maths::ReadOptions::number(&names)).ok()?;
    maths::approximate(&read.tree).ok()
}

struct Parts<'a> {
    writer: &'a Writer<'a>,
    losses: &'a mut Vec<String>,
}

impl Parts<'_> {
    fn named(&self, tag: &str, all: &Value, more: &[(&str, &str)]) -> String {
        list(all)
            .iter()
            .map(|c| {
                let id = text(c, "id");
                let mut attributes = vec![("identifier", id.as_str())];
                attributes.extend_from_slice(more);
                element(tag, &attributes, &self.writer.line(&line_of(&c["text"])))
            })
            .collect()
    }

    fn lose(&mut self, part: &str, words: &str) {
        self.losses.push(format!("part {part}: {words}"));
    }

    fn picture(&self, shown: &Value) -> (String, Vec<(String, String, String)>) {
        let drawing: Drawing =
            serde_json::from_value(shown["picture"]["drawing"].clone()).unwrap_or_default();
        let (width, height) = (drawing.width.to_string(), drawing.height.to_string());
        let file = (self.writer.figure)(&drawing);
        let img = [
            ("src", file.as_str()),
            ("alt", &drawing.alt),
            ("width", &width),
            ("height", &height),
        ];
        let spots = list(&shown["picture"]["spots"])
            .iter()
            .map(|s| {
                let at = |name: &str| s[name].as_f64().unwrap_or_default().round();
                (
                    text(s, "id"),
                    text(s, "label"),
                    format!("{},{},14", at("x"), at("y")),
                )
            })
            .collect();
        (element("img", &img, ""), spots)
    }

    /// A field for a number: within a tolerance where the answer has one.
    fn number_field(
        &mut self,
        part: &str,
        id: &str,
        key: &Response,
        spec: &Value,
    ) -> (String, Option<String>) {
        let Response::Text(key) = key else {
            return (declaration(id, "single", "string", &[], ""), None);
        };
        let answer = &spec["answer"];
        let kind = answer["kind"].as_str().unwrap_or("number");
        let bare = answer["unit"]
            .as_str()
            .and_then(|u| key.strip_suffix(u))
            .unwrap_or(key)
            .trim();
        if kind == "number"
            && let Some(value) = value_of(bare)
        {
            let tolerance = &answer["tolerance"];
            let number_of = |name: &str| {
                let given = &tolerance[name];
                given.as_f64().or_else(|| value_of(given.as_str()?))
            };
            let within = if let Some(absolute) = number_of("absolute") {
                absolute
            } else if let Some(relative) = number_of("relative") {
                relative * value.abs()
            } else if let Some(places) = number_of("decimals") {
                0.5 * 10f64.powf(-places)
            } else if let Some(figures) = number_of("significant") {
                0.5 * 10f64.powf(value.abs().log10().floor() + 1.0 - figures)
            } else if (value * 1e6).fract() == 0.0 {
                1e-9 * value.abs().max(1.0)
            } else {
                // A value that no decimal is exactly: as near as anybody types it.
                1e-4 * value.abs()
            };
            if answer["form"].is_string() || answer["unit"].is_string() {
                self.lose(
                    part,
                    "a form or a unit that is asked for is not judged: a decimal number is",
                );
            }
            let tolerance = format!("{within} {within}");
            let correct = element("qti-correct", &[("identifier", id)], "");
            let equal = [("tolerance-mode", "absolute"), ("tolerance", tolerance.as_str())];
            let score = element("qti-equal", &equal, &(variable(id) + &correct));
            return (
                declaration(id, "single", "float", &[format!("{value}")], ""),
                Some(score),
            );
        }
        self.lose(part, "what is typed is compared as text, not as maths");
        let correct = element("qti-correct", &[("identifier", id)], "");
        let score = element(
            "qti-string-match",
            &[("case-sensitive", "false")],
            &(variable(id) + &correct),
        );
        (
            declaration(id, "single", "string", std::slice::from_ref(key), ""),
            Some(score),
        )
    }

    fn pairs(key: &Response) -> Vec<String> {
        match key {
            Response::Pairs { pairs } => pairs.iter().map(|(a, b)| format!("{a} {b}")).collect(),
            Response::Fields { fields } => fields
                .iter()
                .map(|(place, one)| format!("{one} {place}"))
                .collect(),
            _ => Vec::new(),
        }
    }

    fn part(&mut self, part: &marking::ItemPart, spec: &Value) -> PartXml {
        let id = response_id(&part.id);
        let shown = serde_json::to_value(part.posed.shown()).unwrap_or_default();
        let key = part.posed.key();
        let prompt = self.writer.blocks(&part.prompt);
        let with_prompt = |inside: &str| match prompt.is_empty() {
            true => inside.to_owned(),
            false => element("qti-prompt", &[], &prompt) + inside,
        };
        let plain = |declaration: String, body: String| PartXml {
            declaration,
            body,
            score: Some(matches_correct(&id)),
        };
        match text(&shown, "type").as_str() {
            "choice" => {
                let several = flag(&shown, "several");
                let most = if several { "0" } else { "1" };
                let correct = match &key {
                    Response::Choices(ids) => ids.clone(),
                    _ => Vec::new(),
                };
                let body = self.named("qti-simple-choice", &shown["choices"], &[]);
                let attributes = [
                    ("response-identifier", id.as_str()),
                    ("max-choices", most),
                    ("shuffle", "true"),
                ];
                let cardinality = if several { "multiple" } else { "single" };
                plain(
                    declaration(&id, cardinality, "identifier", &correct, ""),
                    element("qti-choice-interaction", &attributes, &with_prompt(&body)),
                )
            }
            "order" => {
                let Response::Ordered { order } = &key else {
                    return self.other(part, &id, &prompt);
                };
                if spec["after"].is_object() {
                    self.lose(&part.id, "only one of several right orders is taken");
                }
                let body = self.named("qti-simple-choice", &shown["steps"], &[]);
                let attributes = [("response-identifier", id.as_str()), ("shuffle", "true")];
                plain(
                    declaration(&id, "ordered", "identifier", order, ""),
                    element("qti-order-interaction", &attributes, &with_prompt(&body)),
                )
            }
            "match" | "place" | "group" => {
                let (rows, columns) = match text(&shown, "type").as_str() {
                    "group" => (&shown["items"], &shown["groups"]),
                    _ => (&shown["rows"], &shown["columns"]),
                };
                let correct = match (&key, text(&shown, "type").as_str()) {
                    (Response::Fields { fields }, _) => {
                        fields.iter().map(|(a, b)| format!("{a} {b}")).collect()
                    }
                    (key, _) => Self::pairs(key),
                };
                let one = text(&shown, "type") == "group"
                    || (text(&shown, "type") == "match" && !flag(&shown, "several"));
                let most = if one { "1" } else { "0" };
                let left = self.named("qti-simple-associable-choice", rows, &[("match-max", most)]);
                let right = self.named("qti-simple-associable-choice", columns, &[("match-max", "0")]);
                let sets = element("qti-simple-match-set", &[], &left)
                    + &element("qti-simple-match-set", &[], &right);
                let attributes = [
                    ("response-identifier", id.as_str()),
                    ("max-associations", "0"),
                    ("shuffle", "true"),
                ];
                plain(
                    declaration(&id, "multiple", "directedPair", &correct, ""),
                    element("qti-match-interaction", &attributes, &with_prompt(&sets)),
                )
            }
            "associate" => {
                let body = self.named(
                    "qti-simple-associable-choice",
                    &shown["items"],
                    &[("match-max", "1")],
                );
                let most = shown["pairs"].to_string();
                let attributes = [
                    ("response-identifier", id.as_str()),
                    ("max-associations", &most),
                    ("shuffle", "true"),
                ];
                plain(
                    declaration(&id, "multiple", "pair", &Self::pairs(&key), ""),
                    element("qti-associate-interaction", &attributes, &with_prompt(&body)),
                )
            }
            "gap_match" => {
                let most = if flag(&shown, "reuse") { "0" } else { "1" };
                let tiles = self.named("qti-gap-text", &shown["tiles"], &[("match-max", most)]);
                let at_gap = |gap: &marking::Gap, _: &str| element("qti-gap", &[("identifier", &gap.id)], "");
                let passage = Writer {
                    at_gap: Some(&at_gap),
                    ..*self.writer
                };
                let passage = passage.blocks(&blocks_of(&shown["passage"]));
                let several = list(&spec["gaps"]).is_empty()
                    && spec["gaps"]
                        .as_object()
                        .is_some_and(|g| g.values().any(Value::is_array));
                if several {
                    self.lose(&part.id, "only one of several right tiles in a gap is taken");
                }
                let attributes = [("response-identifier", id.as_str()), ("shuffle", "true")];
                plain(
                    declaration(&id, "multiple", "directedPair", &Self::pairs(&key), ""),
                    element(
                        "qti-gap-match-interaction",
                        &attributes,
                        &with_prompt(&(tiles + &passage)),
                    ),
                )
            }
            "hot_text" => {
                let correct = match &key {
                    Response::Choices(ids) => ids.clone(),
                    _ => Vec::new(),
                };
                let at_gap = |gap: &marking::Gap, inside: &str| {
                    element(
                        "qti-hottext",
                        &[("identifier", &gap.id)],
                        if inside.is_empty() { " " } else { inside },
                    )
                };
                let passage = Writer {
                    at_gap: Some(&at_gap),
                    ..*self.writer
                };
                let passage = passage.blocks(&blocks_of(&shown["passage"]));
                let attributes = [("response-identifier", id.as_str()), ("max-choices", "0")];
                plain(
                    declaration(&id, "multiple", "identifier", &correct, ""),
                    element("qti-hottext-interaction", &attributes, &with_prompt(&passage)),
                )
            }
            "inline" => self.inline(part, &shown, &key, spec, &prompt),
            "slider" => {
                let (declared, score) = self.number_field(&part.id, &id, &key, spec);
                let of = |name: &str| shown[name].as_f64().unwrap_or_default().to_string();
                let (from, to, step) = (of("from"), of("to"), of("step"));
                let attributes = [
                    ("response-identifier", id.as_str()),
                    ("lower-bound", &from),
                    ("upper-bound", &to),
                    ("step", &step),
                ];
                PartXml {
                    declaration: declared,
                    body: element("qti-slider-interaction", &attributes, &with_prompt("")),
                    score,
                }
            }
            "hotspot" | "graphic_order" => {
                let kind = text(&shown, "type");
                let (img, spots) = self.picture(&shown);
                let spots: String = spots
                    .iter()
                    .map(|(spot, label, coords)| {
                        let attributes = [
                            ("identifier", spot.as_str()),
                            ("shape", "circle"),
                            ("coords", coords),
                            ("hotspot-label", label),
                        ];
                        element("qti-hotspot-choice", &attributes, "")
                    })
                    .collect();
                let several = flag(&shown, "several");
                let (tag, cardinality, correct) = match (&key, kind.as_str()) {
                    (Response::Ordered { order }, _) => {
                        ("qti-graphic-order-interaction", "ordered", order.clone())
                    }
                    (Response::Choices(ids), _) if several => {
                        ("qti-hotspot-interaction", "multiple", ids.clone())
                    }
                    (Response::Choices(ids), _) => ("qti-hotspot-interaction", "single", ids.clone()),
                    _ => return self.other(part, &id, &prompt),
                };
                let mut attributes = vec![("response-identifier", id.as_str())];
                if tag == "qti-hotspot-interaction" {
                    attributes.push(("max-choices", if several { "0" } else { "1" }));
                }
                plain(
                    declaration(&id, cardinality, "identifier", &correct, ""),
                    element(tag, &attributes, &with_prompt(&(img + &spots))),
                )
            }
            "graphic_gap_match" => {
                let (img, spots) = self.picture(&shown);
                let most = if flag(&shown, "reuse") { "0" } else { "1" };
                let tiles = self.named("qti-gap-text", &shown["tiles"], &[("match-max", most)]);
                let spots: String = spots
                    .iter()
                    .map(|(spot, label, coords)| {
                        let attributes = [
                            ("identifier", spot.as_str()),
                            ("match-max", "1"),
                            ("shape", "circle"),
                            ("coords", coords),
                            ("hotspot-label", label),
                        ];
                        element("qti-associable-hotspot", &attributes, "")
                    })
                    .collect();
                let attributes = [("response-identifier", id.as_str())];
                plain(
                    declaration(&id, "multiple", "directedPair", &Self::pairs(&key), ""),
                    element(
                        "qti-graphic-gap-match-interaction",
                        &attributes,
                        &with_prompt(&(img + &tiles + &spots)),
                    ),
                )
            }
            "typed" | "fraction" => {
                let (declared, score) = self.number_field(&part.id, &id, &key, spec);
                let label = text(&shown, "label");
                let field = element("qti-text-entry-interaction", &[("response-identifier", &id)], "");
                let unit = shown["unit"]
                    .as_str()
                    .map(|u| format!(" {}", escape(u)))
                    .unwrap_or_default();
                let line = format!("{} {field}{unit}", escape(&label));
                PartXml {
                    declaration: declared,
                    body: prompt.clone() + &element("p", &[], &line),
                    score,
                }
            }
            "extended_text" => PartXml {
                declaration: declaration(&id, "single", "string", &[], ""),
                body: {
                    self.lose(
                        &part.id,
                        "a person marks it: the rubric and what can be attached are left out",
                    );
                    let attributes = [("response-identifier", id.as_str()), ("format", "plain")];
                    element("qti-extended-text-interaction", &attributes, &with_prompt(""))
                },
                score: None,
            },
            "recording" => PartXml {
                declaration: declaration(&id, "single", "file", &[], ""),
                body: {
                    self.lose(&part.id, "a recording is sent as a file, and a person marks it");
                    element(
                        "qti-upload-interaction",
                        &[("response-identifier", &id)],
                        &with_prompt(""),
                    )
                },
                score: None,
            },
            _ => self.other(part, &id, &prompt),
        }
    }

    fn inline(
        &mut self,
        part: &marking::ItemPart,
        shown: &Value,
        key: &Response,
        spec: &Value,
        prompt: &str,
    ) -> PartXml {
        let Response::Fields { fields } = key else {
            return self.other(part, &response_id(&part.id), prompt);
        };
        let gaps = list(&shown["gaps"]);
        let id_of = |gap: &str| {
            format!(
                "{}_{}",
                response_id(&part.id),
                gap.to_uppercase().replace('-', "_")
            )
        };
        let mut declarations = String::new();
        let mut scores = Vec::new();
        for gap in gaps {
            let name = text(gap, "id");
            let (id, right) = (id_of(&name), fields.get(&name).cloned().unwrap_or_default());
            if gap["field"].is_object() {
                let (declared, score) =
                    self.number_field(&part.id, &id, &Response::Text(right), &spec["gaps"][&name]);
                declarations += &declared;
                scores.extend(score);
            } else {
                declarations += &declaration(&id, "single", "identifier", &[right], "");
                scores.push(matches_correct(&id));
            }
        }
        let at_gap = |at: &marking::Gap, _: &str| {
            let found = gaps.iter().find(|g| text(g, "id") == at.id);
            let id = id_of(&at.id);
            match found {
                Some(gap) if gap["field"].is_object() => {
                    element("qti-text-entry-interaction", &[("response-identifier", &id)], "")
                }
                Some(gap) => {
                    let choices: String = list(&gap["choices"])
                        .iter()
                        .map(|c| {
                            let line = self.writer.line(&line_of(&c["text"]));
                            element("qti-inline-choice", &[("identifier", &text(c, "id"))], &line)
                        })
                        .collect();
                    element(
                        "qti-inline-choice-interaction",
                        &[("response-identifier", &id)],
                        &choices,
                    )
                }
                None => String::new(),
            }
        };
        let passage = Writer {
            at_gap: Some(&at_gap),
            ..*self.writer
        };
        let body = prompt.to_owned() + &passage.blocks(&blocks_of(&shown["passage"]));
        let score = element("qti-and", &[], &scores.concat());
        PartXml {
            declaration: declarations,
            body,
            score: (!scores.is_empty()).then_some(score),
        }
    }

    /// What no interaction of QTI is: asked for in words, and marked by a person.
    fn other(&mut self, part: &marking::ItemPart, id: &str, prompt: &str) -> PartXml {
        self.lose(
            &part.id,
            "QTI has no such interaction: it is asked for in words, and a person marks it",
        );
        let attributes = [("response-identifier", id), ("format", "plain")];
        let inside = match prompt.is_empty() {
            true => String::new(),
            false => element("qti-prompt", &[], prompt),
        };
        PartXml {
            declaration: declaration(id, "single", "string", &[], ""),
            body: element("qti-extended-text-interaction", &attributes, &inside),
            score: None,
        }
    }
}

/// A condition of a question's numbers as a QTI expression.
fn condition(text: &str, names: &[&str]) -> Option<String> {
    for (sign, tag) in [
        ("<=", "qti-lte"),
        (">=", "qti-gte"),
        ("!=", "not"),
        ("<", "qti-lt"),
        (">", "qti-gt"),
        ("=", "qti-equal"),
    ] {
        if let Some((left, right)) = text.split_once(sign) {
            let sides = expression(left, names)? + &expression(right, names)?;
            let equal = element("qti-equal", &[("tolerance-mode", "exact")], &sides);
            return Some(match tag {
                "not" => element("qti-not", &[], &equal),
                "qti-equal" => equal,
                tag => element(tag, &[], &sides),
            });
        }
    }
    None
}

/// The numbers of a question as template variables: their declarations and how they are drawn.
fn templates(question: &Question, names: &[&str]) -> Option<(String, String)> {
    let numbers = serde_json::to_value(&question.numbers).ok()?;
    let plain = |v: &Value| v.as_f64().or_else(|| value_of(v.as_str()?));
    let (mut declared, mut drawn, mut later) = (String::new(), String::new(), Vec::new());
    let is_whole = |v: f64| v.fract() == 0.0;
    for (name, spec) in numbers.as_object()? {
        let set = |value: &str| element("qti-set-template-value", &[("identifier", name)], value);
        let base = if let Some(all) = spec["one_of"].as_array() {
            let all: Vec<f64> = all.iter().map(plain).collect::<Option<_>>()?;
            let values: String = all.iter().map(|v| number(*v)).collect();
            drawn += &set(&element(
                "qti-random",
                &[],
                &element("qti-multiple", &[], &values),
            ));
            if all.iter().all(|v| is_whole(*v)) {
                "integer"
            } else {
                "float"
            }
        } else if let Some(formula) = spec["formula"].as_str() {
            later.push((name.as_str(), formula));
            "float"
        } else {
            let (from, to) = (plain(&spec["from"])?, plain(&spec["to"])?);
            let step = if spec["step"].is_null() {
                1.0
            } else {
                plain(&spec["step"])?
            };
            if spec
                .as_object()?
                .keys()
                .any(|k| !matches!(k.as_str(), "from" | "to" | "step"))
            {
                return None;
            }
            let whole = is_whole(from) && is_whole(to) && is_whole(step);
            let (min, max, by) = (from.to_string(), to.to_string(), step.to_string());
            if !whole {
                return None;
            }
            let range = [("min", min.as_str()), ("max", &max), ("step", &by)];
            drawn += &set(&element("qti-random-integer", &range, ""));
            "integer"
        };
        let attributes = [
            ("identifier", name.as_str()),
            ("cardinality", "single"),
            ("base-type", base),
            ("math-variable", "true"),
        ];
        declared += &element("qti-template-declaration", &attributes, "");
    }
    // What is worked out from others comes after them.
    let mut known: Vec<&str> = names
        .iter()
        .copied()
        .filter(|n| !later.iter().any(|(l, _)| l == n))
        .collect();
    while !later.is_empty() {
        let at = later.iter().position(|(_, f)| expression(f, &known).is_some())?;
        let (name, formula) = later.remove(at);
        drawn += &element(
            "qti-set-template-value",
            &[("identifier", name)],
            &expression(formula, &known)?,
        );
        known.push(name);
    }
    for text in &question.conditions {
        drawn += &element("qti-template-constraint", &[], &condition(text, &known)?);
    }
    Some((declared, drawn))
}

/// A question whose numbers are template variables, so that a text can be written once for all of them: its fields are
/// numbers or choices, and nothing in it is drawn from them. `None` where QTI can't say one of its formulas.
fn with_templates(
    question: &Question,
    parts_losses: &mut Vec<String>,
) -> Option<(Question, Vec<String>, String, String, String)> {
    let names: Vec<&str> = question.numbers.keys().map(String::as_str).collect();
    if names.is_empty()
        || !question.figures.is_empty()
        || !question.exhibits.is_empty()
        || !question.sounds.is_empty()
    {
        return None;
    }
    let whole = serde_json::to_value(question).ok()?;
    let (declared, mut drawn) = templates(question, &names)?;
    // In all texts a name becomes a sign of its own, which the written XML puts a printed variable for.
    let mut printed: Vec<String> = Vec::new();
    let mut fixed = whole.clone();
    fixed["numbers"] = Value::Object(Default::default());
    fixed["conditions"] = Value::Array(Vec::new());
    fixed.as_object_mut()?.remove("help");
    let mut correct = String::new();
    for (at, part) in list(&whole["parts"]).iter().enumerate() {
        if part.get("follow").is_some_and(|f| !f.is_null()) {
            parts_losses.push(format!(
                "part {}: an answer that follows from a wrong one earns nothing",
                text(part, "id")
            ));
        }
        let own = fixed["parts"][at].as_object_mut()?;
        own.remove("follow");
        own.remove("replies");
        own.remove("opens_after");
        own.remove("max_attempts");
        match text(part, "interaction").as_str() {
            "choice" => {
                if list(&part["choices"]).iter().any(|c| c["correct_if"].is_string()) {
                    return None;
                }
            }
            "text_entry" if part["answer"]["kind"] == "number" => {
                let key = part["answer"]["key"]
                    .as_str()
                    .map_or_else(|| part["answer"]["key"].to_string(), str::to_owned);
                let key = key.replace("{{", "(").replace("}}", ")");
                if key.contains('|') {
                    return None;
                }
                let value = expression(&key, &names)?;
                let id = response_id(&text(part, "id"));
                correct += &element("qti-set-correct-response", &[("identifier", &id)], &value);
                own["answer"]["key"] = Value::from("1");
                let relative = part["answer"]["tolerance"]["relative"].is_null()
                    && part["answer"]["tolerance"]["significant"].is_null();
                if !relative {
                    return None;
                }
                own["answer"].as_object_mut()?.remove("must_be");
            }
            _ => return None,
        }
    }
    mark_names(&mut fixed, &mut printed, true)?;
    drawn += &correct;
    let question: Question = serde_json::from_value(fixed).ok()?;
    Some((question, printed, declared, drawn, correct))
}

/// Puts a private sign for each `{{name}}`; what is printed rounded has a format of its own.
fn mark_names(value: &mut Value, printed: &mut Vec<String>, top: bool) -> Option<()> {
    match value {
        Value::String(text) => {
            while let Some(start) = text.find("{{") {
                // `{{{a}}}`: the first brace is LaTeX's.
                let start = if text.get(start..)?.starts_with("{{{") {
                    start + 1
                } else {
                    start
                };
                let end = start + text.get(start..)?.find("}}")?;
                let slot = text.get(start + 2..end)?.to_owned();
                if slot.is_empty()
                    || slot.contains('|')
                    || !slot.chars().all(|c| c.is_ascii_alphanumeric() || c == '_')
                {
                    return None;
                }
                let at = printed.iter().position(|p| *p == slot).unwrap_or_else(|| {
                    printed.push(slot.clone());
                    printed.len() - 1
                });
                let sign = char::from_u32(FIRST_PRINTED + u32::try_from(at).ok()?)?;
                text.replace_range(start..end + 2, &sign.to_string());
            }
        }
        Value::Array(all) => {
            for one in all {
                mark_names(one, printed, false)?;
            }
        }
        Value::Object(all) => {
            for (name, one) in all.iter_mut() {
                if !(top && (name == "id" || name == "numbers")) {
                    mark_names(one, printed, false)?;
                }
            }
        }
        _ => {}
    }
    Some(())
}

/// Writes a question as an item.
///
/// # Errors
/// What is wrong with the question, where its numbers can't be drawn.
pub(crate) fn write(question: &Question) -> Result<Written, String> {
    let mut losses = Vec::new();
    let with = with_templates(question, &mut losses);
    let drawn = !question.numbers.is_empty();
    let (shown, printed, declared, processing) = match with {
        Some((fixed, printed, declared, processing, _)) => (fixed, printed, declared, processing),
        None => {
            if drawn {
                losses.push(
                    "its numbers are fixed: QTI can't draw them, or what is made from them, as here".into(),
                );
            }
            (question.clone(), Vec::new(), String::new(), String::new())
        }
    };
    if !question.help.hints.is_empty() || !question.help.working.is_empty() {
        losses.push("hints, working and worked example are left out".into());
    }
    if question.parts.iter().any(|p| !p.replies.is_empty()) {
        losses.push("what is said to known wrong answers is left out".into());
    }
    if question
        .parts
        .iter()
        .any(|p| p.opens_after.is_some() || p.max_attempts.is_some())
    {
        losses.push("tries of a part, and parts that open after another, are left out".into());
    }
    let item: Item = render(&shown, 1).map_err(|e| e.to_string())?;
    let figures = Figures {
        id: &question.id,
        found: Default::default(),
    };
    let figure = |drawing: &Drawing| figures.file(drawing);
    let writer = Writer {
        printed: &printed,
        at_gap: None,
        figure: &figure,
    };
    let spec = serde_json::to_value(&shown).unwrap_or_default();
    let mut body = String::new();
    for exhibit in &item.exhibits {
        if let Some(name) = &exhibit.recording {
            losses.push(format!("the recording `{name}` beside it is left out"));
        }
        let title = element("h2", &[], &escape(&exhibit.title));
        body += &element(
            "div",
            &[("class", "exhibit")],
            &(title + &writer.blocks(&exhibit.text)),
        );
    }
    body += &writer.blocks(&item.text);
    let shares: u32 = item.parts.iter().map(|p| p.share).sum::<u32>().max(1);
    let (mut responses, mut rules, mut terms) = (String::new(), String::new(), String::new());
    let mut outcomes = String::new();
    let mut parts = Parts {
        writer: &writer,
        losses: &mut losses,
    };
    let mut by_hand = false;
    for (part, spec) in item.parts.iter().zip(list(&spec["parts"])) {
        let made = parts.part(part, spec);
        responses += &made.declaration;
        body += &made.body;
        let Some(score) = made.score else {
            by_hand = true;
            continue;
        };
        let points = f64::from(question.points) * f64::from(part.share) / f64::from(shares);
        let outcome = format!("SCORE_{}", part.id.to_uppercase().replace('-', "_"));
        let zero = element("qti-default-value", &[], &element("qti-value", &[], "0"));
        let attributes = [
            ("identifier", outcome.as_str()),
            ("cardinality", "single"),
            ("base-type", "float"),
        ];
        outcomes += &element("qti-outcome-declaration", &attributes, &zero);
        let value = element("qti-base-value", &[("base-type", "float")], &points.to_string());
        let set = element("qti-set-outcome-value", &[("identifier", &outcome)], &value);
        rules += &element(
            "qti-response-condition",
            &[],
            &element("qti-response-if", &[], &(score + &set)),
        );
        terms += &variable(&outcome);
    }
    let of = question.points.to_string();
    let most = element("qti-default-value", &[], &element("qti-value", &[], &of));
    let mut score = vec![
        ("identifier", "SCORE"),
        ("cardinality", "single"),
        ("base-type", "float"),
    ];
    if by_hand {
        score.push(("external-scored", "human"));
    }
    let outcome = element(
        "qti-outcome-declaration",
        &score,
        &element("qti-default-value", &[], &element("qti-value", &[], "0")),
    ) + &element(
        "qti-outcome-declaration",
        &[
            ("identifier", "MAXSCORE"),
            ("cardinality", "single"),
            ("base-type", "float"),
        ],
        &most,
    );
    if !terms.is_empty() {
        rules += &element(
            "qti-set-outcome-value",
            &[("identifier", "SCORE")],
            &element("qti-sum", &[], &terms),
        );
    }
    let template = match processing.is_empty() {
        true => String::new(),
        false => element("qti-template-processing", &[], &processing),
    };
    let attributes = [
        ("xmlns", ITEM),
        ("xmlns:xsi", "http://www.w3.org/2001/XMLSchema-instance"),
        (
            "xsi:schemaLocation",
            "http://www.imsglobal.org/xsd/imsqtiasi_v3p0 https://purl.imsglobal.org/spec/qti/v3p0/schema/xsd/imsqti_asiv3p0_v1p0.xsd",
        ),
        ("identifier", question.id.as_str()),
        ("title", &question.title),
        ("adaptive", "false"),
        ("time-dependent", "false"),
        ("xml:lang", "en-GB"),
        ("tool-name", "green-slate"),
    ];
    let rules = match rules.is_empty() {
        true => String::new(),
        false => element("qti-response-processing", &[], &rules),
    };
    // In the order that the schema asks for.
    let inside = responses
        + &outcome
        + &outcomes
        + &declared
        + &template
        + &element("qti-item-body", &[], &body)
        + &rules;
    let xml = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{}\n",
        element("qti-assessment-item", &attributes, &inside)
    );
    Ok(Written {
        xml,
        figures: figures.found.into_inner(),
        losses,
    })
}
