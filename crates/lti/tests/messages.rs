//! A platform's messages as they come, changed one thing at a time.

use std::sync::OnceLock;

use lti::{Expected, JwkSet, Message, Refusal, Role, ToolKey, judge, open};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};
use time::OffsetDateTime;

const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";
const NOW: i64 = 1_800_000_000;

fn key(kid: &'static str) -> &'static ToolKey {
    static KEYS: OnceLock<[ToolKey; 2]> = OnceLock::new();
    let keys =
        KEYS.get_or_init(|| ["one", "two"].map(|kid| ToolKey::read(kid, &ToolKey::make().unwrap()).unwrap()));
    keys.iter()
        .find(|k| k.public().kid.as_deref() == Some(kid))
        .unwrap()
}

fn published(kids: &[&'static str]) -> JwkSet {
    JwkSet {
        keys: kids.iter().map(|k| key(k).public().clone()).collect(),
    }
}

fn claims() -> Value {
    json!({
        "iss": "https://portal.example",
        "aud": "tool-7",
        "sub": "u-12",
        "exp": NOW + 300,
        "iat": NOW,
        "nonce": "n-1",
        "name": "Ebba Tornvik",
        format!("{CLAIM}deployment_id"): "d-1",
        format!("{CLAIM}version"): "1.3.0",
        format!("{CLAIM}message_type"): "LtiResourceLinkRequest",
        format!("{CLAIM}target_link_uri"): "https://slate.example/work/1",
        format!("{CLAIM}resource_link"): { "id": "r-1", "title": "Tower shadows" },
        format!("{CLAIM}context"): { "id": "c-1", "title": "Workshop" },
        format!("{CLAIM}roles"): ["http://purl.imsglobal.org/vocab/lis/v2/membership#Learner"],
        format!("{CLAIM}custom"): { "assignment": "1" },
        "https://purl.imsglobal.org/spec/lti-ags/claim/endpoint": {
            "scope": ["https://purl.imsglobal.org/spec/lti-ags/scope/score"],
            "lineitem": "https://portal.example/lineitems/4?x=1"
        }
    })
}

fn judged(claims: &Value) -> Result<lti::Launch, Refusal> {
    let deployments = ["d-1".to_owned(), "d-2".to_owned()];
    judge(
        claims,
        &Expected {
            issuer: "https://portal.example",
            client_id: "tool-7",
            deployments: &deployments,
            nonce: "n-1",
            base: "https://slate.example",
            now: OffsetDateTime::from_unix_timestamp(NOW).unwrap(),
        },
    )
}

#[test]
fn a_launch_is_read() {
    let token = key("one").sign(&claims()).unwrap();
    let launch = judged(&open(&token, &published(&["two", "one"])).unwrap()).unwrap();
    assert_eq!(launch.subject, "u-12");
    assert_eq!(launch.name.as_deref(), Some("Ebba Tornvik"));
    assert_eq!(launch.role, Role::Student);
    assert_eq!(launch.context.unwrap().id, "c-1");
    assert_eq!(launch.custom["assignment"], "1");
    let grades = launch.grades.unwrap();
    assert_eq!(
        lti::scores_url(&grades.line_item.unwrap()).unwrap(),
        "https://portal.example/lineitems/4/scores?x=1"
    );
    assert!(matches!(launch.message, Message::ResourceLink(link) if link.id == "r-1"));
}

#[rstest]
#[case::issuer("iss", json!("https://other.example"), Refusal::Issuer)]
#[case::issuer_missing("iss", Value::Null, Refusal::Issuer)]
#[case::audience("aud", json!("tool-8"), Refusal::Audience)]
#[case::audience_among_others("aud", json!(["tool-8", "tool-9"]), Refusal::Audience)]
#[case::audience_shared_without_azp("aud", json!(["tool-7", "tool-9"]), Refusal::Audience)]
#[case::audience_missing("aud", Value::Null, Refusal::Audience)]
#[case::another_party("azp", json!("tool-8"), Refusal::Audience)]
#[case::expired("exp", json!(NOW - 61), Refusal::Expired)]
#[case::expiry_missing("exp", Value::Null, Refusal::Unreadable)]
#[case::expiry_no_number("exp", json!("soon"), Refusal::Unreadable)]
#[case::issued_long_ago("iat", json!(NOW - 2 * 3600), Refusal::Expired)]
#[case::issued_in_the_future("iat", json!(NOW + 90), Refusal::NotYetValid)]
#[case::not_yet_valid("nbf", json!(NOW + 90), Refusal::NotYetValid)]
#[case::beyond_all_time("exp", json!(i64::MAX), Refusal::Unreadable)]
#[case::nonce("nonce", json!("n-2"), Refusal::Nonce)]
#[case::nonce_missing("nonce", Value::Null, Refusal::Nonce)]
#[case::no_subject("sub", Value::Null, Refusal::NoSubject)]
#[case::empty_subject("sub", json!("  "), Refusal::NoSubject)]
#[case::deployment("deployment_id", json!("d-3"), Refusal::Deployment)]
#[case::deployment_missing("deployment_id", Value::Null, Refusal::Deployment)]
#[case::version("version", json!("1.1"), Refusal::Version)]
#[case::message_type("message_type", json!("LtiSubmissionReviewRequest"), Refusal::MessageType)]
#[case::elsewhere("target_link_uri", json!("https://slate.example.evil.example/work/1"), Refusal::ElsewhereTarget)]
#[case::elsewhere_by_name("target_link_uri", json!("https://slate.example@evil.example/"), Refusal::ElsewhereTarget)]
#[case::elsewhere_by_scheme("target_link_uri", json!("javascript:alert(1)"), Refusal::ElsewhereTarget)]
#[case::elsewhere_by_port("target_link_uri", json!("https://slate.example:8443/"), Refusal::ElsewhereTarget)]
#[case::no_target("target_link_uri", Value::Null, Refusal::ElsewhereTarget)]
#[case::no_link("resource_link", Value::Null, Refusal::NoResourceLink)]
#[case::link_without_id("resource_link", json!({"title": "x"}), Refusal::NoResourceLink)]
#[case::no_role("roles", json!([]), Refusal::NoRole)]
#[case::role_outside_the_course("roles", json!(["http://purl.imsglobal.org/vocab/lis/v2/institution/person#Student"]), Refusal::NoRole)]
fn one_thing_is_wrong(#[case] claim: &str, #[case] value: Value, #[case] refusal: Refusal) {
    let mut changed = claims();
    let name = if changed.get(claim).is_some() || claim == "nbf" || claim == "azp" {
        claim.to_owned()
    } else {
        format!("{CLAIM}{claim}")
    };
    if value.is_null() {
        changed.as_object_mut().unwrap().remove(&name);
    } else {
        changed[name] = value;
    }
    assert_eq!(judged(&changed).unwrap_err(), refusal);
}

#[rstest]
#[case::several_with_azp("aud", json!(["tool-7", "tool-9"]))]
#[case::one_in_a_list("aud", json!(["tool-7"]))]
#[case::clock_a_little_ahead("iat", json!(NOW + 50))]
#[case::clock_a_little_behind("exp", json!(NOW - 50))]
#[case::fractions_of_seconds("exp", json!(NOW as f64 + 12.5))]
#[case::unknown_claims("https://elsewhere.example/claim", json!({"x": [1]}))]
fn what_the_specification_leaves_open_is_taken(#[case] claim: &str, #[case] value: Value) {
    let mut changed = claims();
    if value.as_array().is_some_and(|a| a.len() > 1) {
        changed["azp"] = json!("tool-7");
    }
    changed[claim] = value;
    judged(&changed).unwrap();
}

#[rstest]
#[case("http://purl.imsglobal.org/vocab/lis/v2/membership#Instructor", Role::Teacher)]
#[case(
    "http://purl.imsglobal.org/vocab/lis/v2/membership/Instructor#TeachingAssistant",
    Role::Teacher
)]
#[case(
    "http://purl.imsglobal.org/vocab/lis/v2/membership#Administrator",
    Role::Teacher
)]
#[case("Instructor", Role::Teacher)]
#[case("Learner", Role::Student)]
#[case(
    "http://purl.imsglobal.org/vocab/lis/v2/membership/Learner#NonCreditLearner",
    Role::Student
)]
fn roles_of_the_course(#[case] role: &str, #[case] expected: Role) {
    let mut changed = claims();
    changed[format!("{CLAIM}roles")] =
        json!(["http://purl.imsglobal.org/vocab/lis/v2/system/person#User", role]);
    assert_eq!(judged(&changed).unwrap().role, expected);
}

#[test]
fn only_a_published_key_and_rs256_are_believed() {
    let token = key("one").sign(&claims()).unwrap();
    assert_eq!(open(&token, &published(&["two"])), Err(Refusal::UnknownKey));
    assert_eq!(open(&token, &JwkSet::default()), Err(Refusal::UnknownKey));
    // Another key under the name of a published one.
    let mut swapped = published(&["two"]);
    swapped.keys[0].kid = Some("one".into());
    assert_eq!(open(&token, &swapped), Err(Refusal::Signature));
    // Signed once, changed after.
    let mut parts: Vec<&str> = token.split('.').collect();
    let other = key("one").sign(&json!({"sub": "somebody else"})).unwrap();
    let others: Vec<&str> = other.split('.').collect();
    parts[1] = others[1];
    assert_eq!(
        open(&parts.join("."), &published(&["one"])),
        Err(Refusal::Signature)
    );
    // A key for something else, or a short one, is none.
    let mut for_encryption = published(&["one"]);
    for_encryption.keys[0].for_use = Some("enc".into());
    assert_eq!(open(&token, &for_encryption), Err(Refusal::UnknownKey));
    let mut short = published(&["one"]);
    short.keys[0].n.truncate(170);
    assert_eq!(open(&token, &short), Err(Refusal::UnknownKey));
}

#[test]
fn no_signature_and_a_shared_secret_are_refused() {
    use jsonwebtoken::{Algorithm, EncodingKey, Header, encode};
    // eyJhbGciOiJub25lIn0 is {"alg":"none"}.
    let token = key("one").sign(&claims()).unwrap();
    let payload = token.split('.').nth(1).unwrap();
    for none in [
        format!("eyJhbGciOiJub25lIn0.{payload}."),
        format!("eyJhbGciOiJub25lIn0.{payload}.AAAA"),
    ] {
        assert_eq!(open(&none, &published(&["one"])), Err(Refusal::Algorithm));
    }
    // The public key as if it were a shared secret.
    let mut header = Header::new(Algorithm::HS256);
    header.kid = Some("one".into());
    let secret = EncodingKey::from_secret(key("one").public().n.as_bytes());
    let forged = encode(&header, &claims(), &secret).unwrap();
    assert_eq!(open(&forged, &published(&["one"])), Err(Refusal::Algorithm));
    let header = Header::new(Algorithm::HS256);
    let forged = encode(&header, &claims(), &secret).unwrap();
    assert_eq!(open(&forged, &published(&["one"])), Err(Refusal::Algorithm));
}

#[test]
fn a_token_without_a_key_name_is_refused() {
    use jsonwebtoken::{Algorithm, EncodingKey, Header, encode};
    let pem = ToolKey::make().unwrap();
    let own = ToolKey::read("x", &pem).unwrap();
    let signs = EncodingKey::from_rsa_pem(pem.as_bytes()).unwrap();
    let token = encode(&Header::new(Algorithm::RS256), &claims(), &signs).unwrap();
    let keys = JwkSet {
        keys: vec![own.public().clone()],
    };
    assert_eq!(open(&token, &keys), Err(Refusal::UnknownKey));
}

#[test]
fn deep_linking_sends_back_what_was_picked() {
    let mut asked = claims();
    asked[format!("{CLAIM}message_type")] = json!("LtiDeepLinkingRequest");
    asked
        .as_object_mut()
        .unwrap()
        .remove(&format!("{CLAIM}resource_link"));
    asked["https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings"] = json!({
        "deep_link_return_url": "https://portal.example/dl/return",
        "accept_types": ["link", "ltiResourceLink"],
        "accept_presentation_document_targets": ["iframe", "window"],
        "accept_multiple": true,
        "data": "csrf-9"
    });
    let launch = judged(&asked).unwrap();
    let Message::DeepLinking(settings) = launch.message else {
        panic!("a deep linking request");
    };
    let now = OffsetDateTime::from_unix_timestamp(NOW).unwrap();
    let item = |n: u32| lti::ContentItem {
        title: format!("Work {n}"),
        url: format!("https://slate.example/work/{n}"),
        custom: vec![("assignment".into(), n.to_string())],
        line_item: Some(lti::LineItem {
            label: format!("Work {n}"),
            score_maximum: 12.0,
            resource_id: n.to_string(),
        }),
        opens: None,
        due: Some(now),
    };
    let respond = |settings: &lti::DeepLinkingSettings| {
        lti::deep_linking_response(
            "https://portal.example",
            "tool-7",
            "d-1",
            settings,
            &[item(1), item(2)],
            "n-9",
            now,
        )
    };
    let claims = respond(&settings);
    assert_eq!(claims["aud"], "https://portal.example");
    assert_eq!(
        claims["https://purl.imsglobal.org/spec/lti-dl/claim/data"],
        "csrf-9"
    );
    let items = &claims["https://purl.imsglobal.org/spec/lti-dl/claim/content_items"];
    assert_eq!(items.as_array().unwrap().len(), 2);
    assert_eq!(
        items[1]["lineItem"],
        json!({"label": "Work 2", "scoreMaximum": 12.0, "resourceId": "2"})
    );
    assert_eq!(items[0]["submission"]["endDateTime"], "2027-01-15T08:00:00Z");
    // A portal that takes one, without a line item, is sent that.
    let one = lti::DeepLinkingSettings {
        accept_multiple: false,
        accept_line_item: false,
        ..settings
    };
    let items = &respond(&one)["https://purl.imsglobal.org/spec/lti-dl/claim/content_items"];
    assert_eq!(items.as_array().unwrap().len(), 1);
    assert!(items[0].get("lineItem").is_none());
    // What takes no links can't be answered.
    asked["https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings"]["accept_types"] =
        json!(["html"]);
    assert_eq!(judged(&asked).unwrap_err(), Refusal::Unreadable);
}

#[test]
fn a_score_is_written_as_the_specification_shows_it() {
    let score = lti::Score {
        user_id: "u-12".into(),
        score_given: Some(8.5),
        score_maximum: Some(12.0),
        activity_progress: lti::ActivityProgress::Completed,
        grading_progress: lti::GradingProgress::PendingManual,
        timestamp: OffsetDateTime::from_unix_timestamp(NOW).unwrap() + time::Duration::microseconds(1_500),
        comment: None,
    };
    assert_eq!(
        serde_json::to_value(&score).unwrap(),
        json!({
            "userId": "u-12", "scoreGiven": 8.5, "scoreMaximum": 12.0, "activityProgress": "Completed",
            "gradingProgress": "PendingManual", "timestamp": "2027-01-15T08:00:00.001500Z"
        })
    );
}

#[test]
fn members_are_read_whatever_their_platform_leaves_out() {
    let page = json!({
        "id": "https://portal.example/members", "context": {"id": "c-1"},
        "members": [
            {"user_id": "a", "name": "Ana Bee", "roles": ["Learner"], "status": "Active", "picture": "x"},
            {"user_id": "b", "given_name": "Ben", "family_name": "Cole", "roles": ["http://purl.imsglobal.org/vocab/lis/v2/membership#Instructor"]},
            {"user_id": "c", "roles": ["Mentor"], "status": "Inactive"},
            {"user_id": "d", "status": "Deleted"}
        ]
    });
    let members = lti::read_page(&page).unwrap();
    assert_eq!(members[1].name.as_deref(), Some("Ben Cole"));
    let roles: Vec<_> = members.iter().map(|m| m.role).collect();
    assert_eq!(roles, [Some(Role::Student), Some(Role::Teacher), None, None]);
    assert_eq!(members[3].status, lti::MemberStatus::Deleted);
    for bad in [
        json!({}),
        json!({"members": {}}),
        json!({"members": [{"name": "x"}]}),
    ] {
        assert!(lti::read_page(&bad).is_err());
    }
}

#[rstest]
#[case(
    r#"<https://p.example/m?page=2>; rel="next""#,
    Some("https://p.example/m?page=2")
)]
#[case(
    r#"<https://p.example/m?d=1>; rel=differences, <https://p.example/m?page=2>; rel=next"#,
    Some("https://p.example/m?page=2")
)]
#[case(r#"<https://p.example/m>; rel="self""#, None)]
#[case(r#"<file:///etc/passwd>; rel="next""#, None)]
#[case("nonsense <", None)]
#[case("", None)]
fn the_next_page(#[case] link: &str, #[case] expected: Option<&str>) {
    assert_eq!(lti::next_page(link).as_deref(), expected);
}

proptest! {
    #[test]
    fn nothing_that_comes_in_breaks_it(token in ".{0,200}", link in ".{0,80}") {
        prop_assert!(open(&token, &published(&["one"])).is_err());
        let _ = lti::next_page(&link);
        let _ = lti::scores_url(&link);
    }

    #[test]
    fn one_changed_character_is_noticed(at in 0usize..1200, to in "[A-Za-z0-9_-]") {
        let token = key("one").sign(&claims()).unwrap();
        let at = at % token.len();
        let mut changed = token.clone();
        changed.replace_range(at..=at, &to);
        // The last character of a part holds bits that are thrown away.
        let ends = changed.char_indices().filter(|(_, c)| *c == '.').map(|(i, _)| i);
        let at_an_end = ends.chain([changed.len()]).any(|i| i == at + 1) || token.as_bytes()[at] == b'.';
        prop_assume!(changed != token && !at_an_end);
        prop_assert!(open(&changed, &published(&["one"])).is_err());
    }
}
