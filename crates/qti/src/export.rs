//! A content package: its manifest, items, tests, figures, and the questions' own files.

use std::collections::BTreeMap;

use marking::Question;
use sha2::{Digest, Sha256};

use crate::item;
use crate::xml::element;
use crate::{ITEM, MANIFEST};

/// Something that the package can't say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loss {
    pub question: String,
    pub words: String,
}

/// An assignment.
#[derive(Clone, Debug)]
pub struct TestOut {
    /// Lower-case words with hyphens.
    pub id: String,
    pub title: String,
    /// Ids of questions, in their order.
    pub questions: Vec<String>,
    /// Tries at each; none where there is no end to them.
    pub attempts: Option<u32>,
    /// They come one after the other.
    pub linear: bool,
    /// Seconds for all of it.
    pub seconds: Option<u32>,
}

#[derive(Clone, Debug, Default)]
pub struct Package {
    /// By their names, in the order of names.
    pub files: BTreeMap<String, Vec<u8>>,
    pub losses: Vec<Loss>,
}

/// The digest by which an item is known to be unchanged.
pub(crate) fn digest(xml: &[u8]) -> String {
    Sha256::digest(xml).iter().map(|b| format!("{b:02x}")).collect()
}

fn test_xml(test: &TestOut) -> String {
    let refs: String = test
        .questions
        .iter()
        .enumerate()
        .map(|(n, id)| {
            let (name, href) = (format!("ref-{}-{id}", n + 1), format!("../items/{id}.xml"));
            element(
                "qti-assessment-item-ref",
                &[("identifier", &name), ("href", &href)],
                "",
            )
        })
        .collect();
    let section = [
        ("identifier", "section-1"),
        ("title", test.title.as_str()),
        ("visible", "true"),
    ];
    let mut inside = String::new();
    if let Some(most) = test.attempts {
        inside += &element(
            "qti-item-session-control",
            &[("max-attempts", &most.to_string())],
            "",
        );
    }
    inside += &element("qti-assessment-section", &section, &refs);
    let navigation = if test.linear { "linear" } else { "nonlinear" };
    let part = [
        ("identifier", "part-1"),
        ("navigation-mode", navigation),
        ("submission-mode", "individual"),
    ];
    let part = element("qti-test-part", &part, &inside);
    let limits = test.seconds.map_or_else(String::new, |s| {
        element("qti-time-limits", &[("max-time", &s.to_string())], "")
    });
    let attributes = [
        ("xmlns", ITEM),
        ("identifier", test.id.as_str()),
        ("title", &test.title),
        ("tool-name", "green-slate"),
    ];
    format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{}\n",
        element("qti-assessment-test", &attributes, &(limits + &part))
    )
}

fn file(href: &str) -> String {
    element("file", &[("href", href)], "")
}

/// Questions, each with the text of its file, and assignments of them, as a package.
pub fn export(questions: &[(Question, String)], tests: &[TestOut]) -> Package {
    let mut package = Package::default();
    let mut resources = String::new();
    for (question, source) in questions {
        let written = match item::write(question) {
            Ok(written) => written,
            Err(why) => {
                package.losses.push(Loss {
                    question: question.id.clone(),
                    words: format!("left out: {why}"),
                });
                continue;
            }
        };
        let lose = |words: String| Loss {
            question: question.id.clone(),
            words,
        };
        package.losses.extend(written.losses.into_iter().map(lose));
        let (name, own) = (
            format!("items/{}.xml", question.id),
            format!("questions/{}.yaml", question.id),
        );
        let mut files = file(&name) + &file(&own);
        for (figure, svg) in written.figures {
            files += &file(&figure);
            package.files.insert(figure, svg.into_bytes());
        }
        let xml = written.xml.into_bytes();
        let source = format!("# Of the item {}.\n{source}", digest(&xml));
        package.files.insert(own, source.into_bytes());
        package.files.insert(name.clone(), xml);
        let id = format!("item-{}", question.id);
        let attributes = [
            ("identifier", id.as_str()),
            ("type", "imsqti_item_xmlv3p0"),
            ("href", &name),
        ];
        resources += &element("resource", &attributes, &files);
    }
    for test in tests {
        let there = |id: &&String| package.files.contains_key(&format!("items/{id}.xml"));
        let test = TestOut {
            questions: test.questions.iter().filter(there).cloned().collect(),
            ..test.clone()
        };
        let name = format!("tests/{}.xml", test.id);
        let needed: String = test
            .questions
            .iter()
            .map(|id| element("dependency", &[("identifierref", &format!("item-{id}"))], ""))
            .collect();
        let id = format!("test-{}", test.id);
        let attributes = [
            ("identifier", id.as_str()),
            ("type", "imsqti_test_xmlv3p0"),
            ("href", &name),
        ];
        resources += &element("resource", &attributes, &(file(&name) + &needed));
        package.files.insert(name, test_xml(&test).into_bytes());
    }
    let metadata = element(
        "metadata",
        &[],
        &(element("schema", &[], "QTI Package") + &element("schemaversion", &[], "3.0.0")),
    );
    let inside = metadata + &element("organizations", &[], "") + &element("resources", &[], &resources);
    let attributes = [("xmlns", MANIFEST), ("identifier", "green-slate-package")];
    let manifest = element("manifest", &attributes, &inside);
    let manifest = format!("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n{manifest}\n");
    package
        .files
        .insert("imsmanifest.xml".into(), manifest.into_bytes());
    if !package.losses.is_empty() {
        let lines: String = package
            .losses
            .iter()
            .map(|l| format!("{}: {}\n", l.question, l.words))
            .collect();
        let text = format!(
            "What QTI can't say of these questions, and is in their own files beside them:\n\n{lines}"
        );
        package.files.insert("losses.txt".into(), text.into_bytes());
    }
    package
}
