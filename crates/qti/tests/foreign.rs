//! Packages of other writers, and hostile ones: what can be taken is taken, everything else has a line, and nothing breaks.

use std::collections::BTreeMap;

use marking::{Response, render};
use qti::{Taken, XmlFault, import, parse};
use rstest::rstest;

fn manifest(items: &[&str]) -> String {
    let resources: String = items
        .iter()
        .enumerate()
        .map(|(n, href)| {
            format!("<cp:resource href=\"{href}\" type=\"imsqti_item_xmlv3p0\" identifier=\"r{n}\"><cp:file href=\"{href}\"/></cp:resource>")
        })
        .collect();
    format!(
        "<?xml version='1.0'?><cp:manifest xmlns:cp='http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1' identifier='m'>\
         <cp:resources>{resources}</cp:resources></cp:manifest>"
    )
}

fn package(items: &[(&str, String)]) -> BTreeMap<String, Vec<u8>> {
    let names: Vec<&str> = items.iter().map(|(n, _)| *n).collect();
    let mut files: BTreeMap<String, Vec<u8>> = items
        .iter()
        .map(|(n, x)| ((*n).to_owned(), x.clone().into_bytes()))
        .collect();
    files.insert("imsmanifest.xml".into(), manifest(&names).into_bytes());
    files
}

/// An item as another program might write it: with a prefix, attributes in another order, and extensions of its own.
fn item(declarations: &str, body: &str) -> String {
    format!(
        "<?xml version=\"1.0\"?>\n<!-- made elsewhere -->\n<q:qti-assessment-item xmlns:q=\"http://www.imsglobal.org/xsd/imsqtiasi_v3p0\" \
         xmlns:x=\"urn:x\" time-dependent=\"false\" x:flavour=\"1\" title=\"A foreign one\" adaptive=\"false\" \
         identifier=\"Item_7 (copy)\">{declarations}<q:qti-item-body>{body}</q:qti-item-body></q:qti-assessment-item>"
    )
}

fn declare(cardinality: &str, base: &str, values: &[&str]) -> String {
    let values: String = values
        .iter()
        .map(|v| format!("<q:qti-value>{v}</q:qti-value>"))
        .collect();
    format!(
        "<q:qti-response-declaration base-type=\"{base}\" identifier=\"R\" cardinality=\"{cardinality}\">\
         <q:qti-correct-response>{values}</q:qti-correct-response></q:qti-response-declaration>"
    )
}

fn taken(declarations: &str, body: &str) -> Taken {
    let mut files = package(&[("i/item 1.xml", item(declarations, body))]);
    files.insert(
        "i/map.png".into(),
        [0x89, b'P', b'N', b'G', 13, 10, 26, 10, 0, 0].to_vec(),
    );
    import(&files)
}

/// The kind of the one part, and that its key is right.
fn kind(taken: &Taken) -> String {
    let (question, _) = taken
        .questions
        .first()
        .unwrap_or_else(|| panic!("{:?}", taken.report));
    let drawn = render(question, 1).unwrap();
    for part in drawn.parts.iter().filter(|p| !p.posed.is_by_hand()) {
        assert_eq!(part.mark(&part.posed.key()).marking.score, 1.0, "{}", part.id);
    }
    let kinds: Vec<String> = question
        .parts
        .iter()
        .map(|p| {
            serde_json::to_value(&p.interaction).unwrap()["interaction"]
                .as_str()
                .unwrap()
                .to_owned()
        })
        .collect();
    kinds.join(" ")
}

const CHOICES: &str = "<q:qti-simple-choice identifier='A'>one <q:em>more</q:em></q:qti-simple-choice>\
    <q:qti-simple-choice identifier='B'><q:p>two</q:p></q:qti-simple-choice>";

#[rstest]
#[case::choice("single", "identifier", &["B"], "<q:qti-choice-interaction max-choices='1' response-identifier='R'><q:qti-prompt>Which?</q:qti-prompt>CHOICES</q:qti-choice-interaction>", "choice")]
#[case::choice_in_a_div("multiple", "identifier", &["A", "B"], "<q:div class='x'><q:div><q:qti-choice-interaction response-identifier='R'>CHOICES</q:qti-choice-interaction></q:div></q:div>", "choice")]
#[case::order("ordered", "identifier", &["B", "A"], "<q:qti-order-interaction response-identifier='R'>CHOICES</q:qti-order-interaction>", "order")]
#[case::number("single", "float", &["2.5"], "<q:p>Speed: <q:qti-text-entry-interaction response-identifier='R' expected-length='5'/> m/s</q:p>", "text_entry")]
#[case::whole_number("single", "integer", &["12"], "<q:p><q:qti-text-entry-interaction response-identifier='R'/></q:p>", "text_entry")]
#[case::word("single", "string", &["rotor"], "<q:p>The <q:qti-text-entry-interaction response-identifier='R'/> turns.</q:p>", "text_entry")]
#[case::inline_choice("single", "identifier", &["y"], "<q:p>It is <q:qti-inline-choice-interaction response-identifier='R'><q:qti-inline-choice identifier='y'>yes</q:qti-inline-choice><q:qti-inline-choice identifier='n'>no</q:qti-inline-choice></q:qti-inline-choice-interaction>.</q:p>", "inline")]
#[case::matching("multiple", "directedPair", &["a X", "b Y"], "<q:qti-match-interaction response-identifier='R'><q:qti-simple-match-set><q:qti-simple-associable-choice match-max='1' identifier='a'>1</q:qti-simple-associable-choice><q:qti-simple-associable-choice match-max='1' identifier='b'>2</q:qti-simple-associable-choice></q:qti-simple-match-set><q:qti-simple-match-set><q:qti-simple-associable-choice match-max='1' identifier='X'>x</q:qti-simple-associable-choice><q:qti-simple-associable-choice match-max='1' identifier='Y'>y</q:qti-simple-associable-choice></q:qti-simple-match-set></q:qti-match-interaction>", "match")]
#[case::associate("multiple", "pair", &["a b"], "<q:qti-associate-interaction response-identifier='R'><q:qti-simple-associable-choice match-max='1' identifier='a'>1</q:qti-simple-associable-choice><q:qti-simple-associable-choice match-max='1' identifier='b'>2</q:qti-simple-associable-choice><q:qti-simple-associable-choice match-max='1' identifier='c'>3</q:qti-simple-associable-choice></q:qti-associate-interaction>", "associate")]
#[case::gap_match("multiple", "directedPair", &["t1 G1"], "<q:qti-gap-match-interaction response-identifier='R'><q:qti-gap-text match-max='1' identifier='t1'>volt</q:qti-gap-text><q:qti-gap-text match-max='1' identifier='t2'>watt</q:qti-gap-text><q:p>Tension is in <q:qti-gap identifier='G1'/>.</q:p></q:qti-gap-match-interaction>", "gap_match")]
#[case::hot_text("multiple", "identifier", &["h2"], "<q:qti-hottext-interaction response-identifier='R' max-choices='0'><q:p>The <q:qti-hottext identifier='h1'>dog</q:qti-hottext> <q:qti-hottext identifier='h2'>barks</q:qti-hottext>.</q:p></q:qti-hottext-interaction>", "hot_text")]
#[case::slider("single", "integer", &["40"], "<q:qti-slider-interaction step='10' upper-bound='100' lower-bound='0' response-identifier='R'/>", "slider")]
#[case::hotspot("single", "identifier", &["s1"], "<q:qti-hotspot-interaction max-choices='1' response-identifier='R'><q:img src='map.png' alt='A map' width='200' height='100'/><q:qti-hotspot-choice shape='rect' coords='0,0,40,40' identifier='s1'/><q:qti-hotspot-choice shape='circle' coords='150,50,10' identifier='s2'/></q:qti-hotspot-interaction>", "hotspot")]
#[case::graphic_order("ordered", "identifier", &["s2", "s1"], "<q:qti-graphic-order-interaction response-identifier='R'><q:object data='map.png' type='image/png' width='200' height='100'/><q:qti-hotspot-choice shape='poly' coords='0,0,40,0,40,40' identifier='s1'/><q:qti-hotspot-choice shape='circle' coords='150,50,10' identifier='s2'/></q:qti-graphic-order-interaction>", "graphic_order")]
#[case::graphic_gap_match("multiple", "directedPair", &["t1 s1"], "<q:qti-graphic-gap-match-interaction response-identifier='R'><q:img src='map.png' width='200' height='100' alt='A map'/><q:qti-gap-text match-max='1' identifier='t1'>quay</q:qti-gap-text><q:qti-gap-text match-max='1' identifier='t2'>mast</q:qti-gap-text><q:qti-associable-hotspot match-max='1' shape='circle' coords='20,20,9' identifier='s1'/></q:qti-graphic-gap-match-interaction>", "graphic_gap_match")]
#[case::essay("single", "string", &[], "<q:qti-extended-text-interaction response-identifier='R'><q:qti-prompt>Describe it.</q:qti-prompt></q:qti-extended-text-interaction>", "extended_text")]
#[case::upload("single", "file", &[], "<q:qti-upload-interaction response-identifier='R'><q:qti-prompt>Send it.</q:qti-prompt></q:qti-upload-interaction>", "extended_text")]
fn every_interaction_of_another_writer(
    #[case] cardinality: &str,
    #[case] base: &str,
    #[case] values: &[&str],
    #[case] body: &str,
    #[case] expected: &str,
) {
    let body = format!(
        "<q:p>Look at <q:strong>this</q:strong>.</q:p>{}",
        body.replace("CHOICES", CHOICES)
    );
    let taken = taken(&declare(cardinality, base, values), &body);
    assert_eq!(kind(&taken), expected);
    let (question, _) = &taken.questions[0];
    assert_eq!(
        (question.id.as_str(), question.title.as_str()),
        ("item-7-copy", "A foreign one")
    );
    assert!(question.text.contains("**this**"), "{}", question.text);
}

#[test]
fn several_interactions_are_parts_with_the_words_before_them() {
    let second = "<q:qti-response-declaration identifier='S' cardinality='single' base-type='float'><q:qti-correct-response>\
        <q:qti-value>3</q:qti-value></q:qti-correct-response></q:qti-response-declaration>";
    let body = format!(
        "<q:p>First words.</q:p><q:qti-choice-interaction response-identifier='R'>{CHOICES}</q:qti-choice-interaction>\
         <q:p>Then this.</q:p><q:p>n = <q:qti-text-entry-interaction response-identifier='S'/></q:p>"
    );
    let taken = taken(&(declare("single", "identifier", &["A"]) + second), &body);
    assert_eq!(kind(&taken), "choice text_entry");
    let (question, _) = &taken.questions[0];
    assert_eq!(question.text.trim(), "First words.");
    assert_eq!(question.parts[1].prompt, "Then this.");
    assert_eq!(question.points, 2);
}

#[test]
fn maths_tables_and_lists_of_other_writers_are_read() {
    let body = "<q:p>Take <m:math xmlns:m='http://www.w3.org/1998/Math/MathML'><m:mfrac><m:mi>a</m:mi><m:msqrt><m:mn>2</m:mn></m:msqrt>\
        </m:mfrac><m:mo>×</m:mo><m:msup><m:mi>x</m:mi><m:mn>2</m:mn></m:msup></m:math> &amp; more: 3 &lt; 4, costs $5 or $6, a_b *not* [x].</q:p>\
        <q:ul><q:li>one</q:li><q:li>two</q:li></q:ul><q:table><q:tr><q:th>A</q:th><q:th>B</q:th></q:tr><q:tr><q:td>1</q:td><q:td>2</q:td></q:tr></q:table>\
        <q:p><q:qti-text-entry-interaction response-identifier='R'/></q:p>";
    let taken = taken(&declare("single", "float", &["1"]), body);
    let (question, _) = &taken.questions[0];
    let shown = marking::plain(&render(question, 1).unwrap().text);
    for said in [
        "\\frac{a}{\\sqrt{2}}\\times {x}^{2}",
        "& more: 3 < 4, costs $5 or $6, a_b *not* [x].",
        "one",
        "two",
    ] {
        assert!(shown.contains(said), "{said}: {shown}");
    }
}

#[test]
fn a_tolerance_and_other_spellings_are_kept() {
    let declaration = declare("single", "float", &["2.5"]);
    let processing = "<q:qti-response-processing><q:qti-response-condition><q:qti-response-if><q:qti-equal tolerance='0.1 0.1' \
        tolerance-mode='absolute'><q:qti-variable identifier='R'/><q:qti-correct identifier='R'/></q:qti-equal></q:qti-response-if>\
        </q:qti-response-condition></q:qti-response-processing>";
    let xml = item(
        &declaration,
        "<q:p><q:qti-text-entry-interaction response-identifier='R'/></q:p>",
    )
    .replace("</q:qti-item-body>", &format!("</q:qti-item-body>{processing}"));
    let taken = import(&package(&[("a.xml", xml)]));
    let drawn = render(&taken.questions[0].0, 1).unwrap();
    let score = |entry: &str| drawn.parts[0].mark(&Response::Text(entry.into())).marking.score;
    assert_eq!((score("2.58"), score("2.7")), (1.0, 0.0));
    let mapped = "<q:qti-response-declaration identifier='R' cardinality='single' base-type='string'><q:qti-correct-response>\
        <q:qti-value>grey</q:qti-value></q:qti-correct-response><q:qti-mapping default-value='0'><q:qti-map-entry mapped-value='1' map-key='grey'/>\
        <q:qti-map-entry mapped-value='1' map-key='gray'/><q:qti-map-entry mapped-value='0.5' map-key='silver'/></q:qti-mapping></q:qti-response-declaration>";
    let taken = self::taken(
        mapped,
        "<q:p>Colour: <q:qti-text-entry-interaction response-identifier='R'/></q:p>",
    );
    let drawn = render(&taken.questions[0].0, 1).unwrap();
    let score = |entry: &str| drawn.parts[0].mark(&Response::Text(entry.into())).marking.score;
    assert_eq!((score("gray"), score("grey"), score("silver")), (1.0, 1.0, 0.0));
    assert!(
        taken.report.iter().any(|t| t.words.contains("silver")),
        "{:?}",
        taken.report
    );
}

#[rstest]
#[case::other_interaction(
    "<q:qti-drawing-interaction response-identifier='R'/>",
    "<qti-drawing-interaction> has no counterpart"
)]
#[case::portable(
    "<q:qti-portable-custom-interaction response-identifier='R'/>",
    "has no counterpart"
)]
#[case::media("<q:qti-media-interaction response-identifier='R'/>", "has no counterpart")]
#[case::position(
    "<q:qti-position-object-interaction response-identifier='R'/>",
    "has no counterpart"
)]
#[case::end_attempt(
    "<q:qti-end-attempt-interaction response-identifier='R'/>",
    "has no counterpart"
)]
#[case::no_interaction("<q:p>Only text.</q:p>", "nothing in it that could be answered")]
#[case::no_right_answer(
    "<q:qti-choice-interaction response-identifier='UNDECLARED'><q:qti-simple-choice identifier='A'>a</q:qti-simple-choice><q:qti-simple-choice identifier='B'>b</q:qti-simple-choice></q:qti-choice-interaction>",
    "no right answer"
)]
#[case::no_picture(
    "<q:qti-hotspot-interaction response-identifier='R'><q:img src='gone.png'/><q:qti-hotspot-choice shape='circle' coords='1,1,1' identifier='A'/></q:qti-hotspot-interaction>",
    "picture of an interaction is not in the package"
)]
#[case::picture_outside(
    "<q:qti-hotspot-interaction response-identifier='R'><q:img src='../../../etc/passwd'/><q:qti-hotspot-choice shape='circle' coords='1,1,1' identifier='A'/></q:qti-hotspot-interaction>",
    "picture of an interaction is not in the package"
)]
#[case::picture_on_the_web(
    "<q:qti-hotspot-interaction response-identifier='R'><q:img src='https://elsewhere.example/x.png'/><q:qti-hotspot-choice shape='circle' coords='1,1,1' identifier='A'/></q:qti-hotspot-interaction>",
    "picture of an interaction is not in the package"
)]
#[case::empty_body("", "nothing in it that could be answered")]
fn what_cannot_be_taken_has_a_line(#[case] body: &str, #[case] words: &str) {
    let taken = taken(&declare("single", "identifier", &["A"]), body);
    assert!(taken.questions.is_empty());
    assert!(
        taken.report.iter().any(|t| t.words.contains(words)),
        "{words}: {:?}",
        taken.report
    );
}

#[test]
fn what_is_beside_the_question_is_left_out_with_a_line() {
    let xml = item(
        &declare("single", "identifier", &["A"]),
        &format!(
            "<q:p>See <q:video src='x.webm'/><x:gadget>this</x:gadget></q:p><q:script>alert(1)</q:script>\
             <q:qti-choice-interaction response-identifier='R'>{CHOICES}</q:qti-choice-interaction>"
        ),
    )
    .replace(
        "</q:qti-item-body>",
        "</q:qti-item-body><q:qti-modal-feedback identifier='f' outcome-identifier='o'><q:p>Well done</q:p></q:qti-modal-feedback>",
    );
    let taken = import(&package(&[("a.xml", xml)]));
    let (_, source) = &taken.questions[0];
    assert!(
        !source.contains("alert") && !source.contains("Well done"),
        "{source}"
    );
    for words in ["feedback", "picture or recording", "<gadget>"] {
        assert!(
            taken.report.iter().any(|t| t.words.contains(words)),
            "{words}: {:?}",
            taken.report
        );
    }
}

fn deep(n: usize) -> String {
    "<a>".repeat(n) + &"</a>".repeat(n)
}

#[rstest]
#[case::entities(
    "<!DOCTYPE x [<!ENTITY a \"aaaa\"><!ENTITY b \"&a;&a;\">]><x>&b;</x>",
    XmlFault::DocumentType
)]
#[case::external_entity(
    "<!DOCTYPE x [<!ENTITY a SYSTEM \"file:///etc/passwd\">]><x>&a;</x>",
    XmlFault::DocumentType
)]
#[case::external_dtd(
    "<!DOCTYPE x SYSTEM \"http://elsewhere.example/x.dtd\"><x/>",
    XmlFault::DocumentType
)]
#[case::unknown_entity("<x>&nobody;</x>", XmlFault::DocumentType)]
#[case::parameter_entity(
    "<!DOCTYPE x [<!ENTITY % p SYSTEM \"http://elsewhere.example/\">%p;]><x/>",
    XmlFault::DocumentType
)]
fn nothing_is_looked_up(#[case] xml: &str, #[case] fault: XmlFault) {
    assert_eq!(parse(xml.as_bytes()), Err(fault));
}

#[rstest]
#[case::empty(b"".to_vec())]
#[case::no_xml(b"hello".to_vec())]
#[case::cut_off(b"<a><b>".to_vec())]
#[case::crossed(b"<a><b></a></b>".to_vec())]
#[case::two_roots(b"<a/><b/>".to_vec())]
#[case::no_text(vec![0xff, 0xfe, 0x00, 0x41])]
#[case::binary(vec![0u8; 4096])]
#[case::attribute_twice(b"<a x='1' x='2'/>".to_vec())]
#[case::bad_reference(b"<a>&#xZZ;</a>".to_vec())]
#[case::too_deep(deep(500).into_bytes())]
#[case::too_many(("<a>".to_owned() + &"<b/>".repeat(70_000) + "</a>").into_bytes())]
#[case::too_long(("<a>".to_owned() + &"x".repeat(5_000_000) + "</a>").into_bytes())]
fn what_is_no_sound_xml_is_refused_with_a_reason(#[case] bytes: Vec<u8>) {
    let fault = parse(&bytes).unwrap_err();
    assert!(!fault.to_string().is_empty());
    // The same as an item of a package: a line, and nothing else.
    let mut files = package(&[("a.xml", String::new())]);
    files.insert("a.xml".into(), bytes.clone());
    let taken = import(&files);
    assert!(taken.questions.is_empty());
    assert_eq!(taken.report.len(), 1, "{:?}", taken.report);
    // And as the manifest.
    files.insert("imsmanifest.xml".into(), bytes);
    assert_eq!(import(&files).report.len(), 1);
}

#[rstest]
#[case::above("../../secret.xml", "outside the package")]
#[case::absolute("/etc/passwd", "outside the package")]
#[case::web("https://elsewhere.example/item.xml", "outside the package")]
#[case::backslash("..\\secret.xml", "outside the package")]
#[case::missing("items/gone.xml", "not in the package")]
fn a_manifest_names_only_what_is_in_the_package(#[case] href: &str, #[case] words: &str) {
    let mut files = package(&[]);
    files.insert("imsmanifest.xml".into(), manifest(&[href]).into_bytes());
    let taken = import(&files);
    assert!(taken.report[0].words.contains(words), "{:?}", taken.report);
}

#[test]
fn older_items_tests_and_other_resources_have_a_line() {
    let mut files = package(&[(
        "old.xml",
        "<assessmentItem xmlns='http://www.imsglobal.org/xsd/imsqti_v2p1'/>".into(),
    )]);
    let more = "<cp:resource identifier='w' type='webcontent' href='x.html'/><cp:resource identifier='l' type='imslti_xmlv1p3' href='l.xml'/>\
        <cp:resource identifier='t' type='imsqti_test_xmlv3p0' href='t.xml'/></cp:resources>";
    let text = String::from_utf8(files["imsmanifest.xml"].clone())
        .unwrap()
        .replace("</cp:resources>", more);
    files.insert("imsmanifest.xml".into(), text.into_bytes());
    let test = "<qti-assessment-test title='T'><qti-test-part><qti-assessment-section><qti-selection select='1'/>\
        <qti-assessment-item-ref href='old.xml' identifier='a'/></qti-assessment-section></qti-test-part></qti-assessment-test>";
    files.insert("t.xml".into(), test.as_bytes().to_vec());
    let taken = import(&files);
    let told: Vec<&str> = taken.report.iter().map(|t| t.words.as_str()).collect();
    for words in [
        "QTI 2: QTI 3.0 is read here",
        "was not taken",
        "<qti-selection> is left out",
        "imslti_xmlv1p3",
    ] {
        assert!(told.iter().any(|t| t.contains(words)), "{words}: {told:?}");
    }
    assert!(taken.tests[0].questions.is_empty());
}

#[test]
fn two_items_of_one_id_do_not_replace_each_other() {
    let body =
        format!("<q:qti-choice-interaction response-identifier='R'>{CHOICES}</q:qti-choice-interaction>");
    let one = item(&declare("single", "identifier", &["A"]), &body);
    let taken = import(&package(&[("a.xml", one.clone()), ("b.xml", one)]));
    assert_eq!(taken.questions.len(), 1);
    assert!(
        taken.report[0].words.contains("A second item"),
        "{:?}",
        taken.report
    );
}

#[test]
fn a_forged_file_beside_a_changed_item_is_not_believed() {
    let text = "id: q\ntitle: Q\npoints: 1\nfew_answers: true\ntext: x\nparts: [{id: a, interaction: text_entry, answer: {kind: number, key: '1'}}]\n";
    let question = marking::parse_question(text).unwrap();
    let mut files = qti::export(&[(question, text.to_owned())], &[]).files;
    let own = String::from_utf8(files["questions/q.yaml"].clone()).unwrap();
    files.insert(
        "questions/q.yaml".into(),
        own.replace("key: '1'", "key: '2'").into_bytes(),
    );
    // The file is taken as it stands beside its item: it is the writer's own. But an item that was changed is read itself.
    let item = String::from_utf8(files["items/q.xml"].clone()).unwrap();
    files.insert(
        "items/q.xml".into(),
        item.replace("<qti-value>1<", "<qti-value>3<").into_bytes(),
    );
    let taken = import(&files);
    let drawn = render(&taken.questions[0].0, 1).unwrap();
    assert_eq!(
        drawn.parts[0].mark(&Response::Text("3".into())).marking.score,
        1.0
    );
    assert!(taken.unchanged.is_empty());
}

proptest::proptest! {
    #[test]
    fn nothing_breaks_it(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..300), body in "[<>/a-z&;= \"'-]{0,120}") {
        let _ = parse(&bytes);
        let mut files = package(&[("a.xml", item(&declare("single", "identifier", &["A"]), &body))]);
        let _ = import(&files);
        files.insert("imsmanifest.xml".into(), bytes);
        let _ = import(&files);
    }
}
