//! Launches: OpenID Connect's third-party initiated login (Security Framework 1.0, 5.1.1), and deep linking's way back.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use jsonwebtoken::jwk::JwkSet;
use jsonwebtoken::{Algorithm, DecodingKey, Validation, decode, decode_header};
use serde::Deserialize;
use serde_json::{Value, json};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::pages::{escape, page, signed_in};
use crate::state::{LineItem, Link, Portal};

pub(crate) const CLAIM: &str = "https://purl.imsglobal.org/spec/lti/claim/";
pub(crate) const DL: &str = "https://purl.imsglobal.org/spec/lti-dl/claim/";

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(begin)
        .service(begin_deep_linking)
        .service(authorize)
        .service(deep_linking_return);
}

/// The link that a hint names; deep linking where it names none.
const PICKING: &str = "pick";

fn login(portal: &Portal, who: &str, target: &str, hint: &str) -> String {
    let q = [
        ("iss", portal.base.as_str()),
        ("login_hint", who),
        ("target_link_uri", target),
        ("lti_message_hint", hint),
        ("client_id", portal.client_id.as_str()),
        ("lti_deployment_id", portal.deployment.as_str()),
    ];
    let mut request = reqwest::Url::parse(&portal.tool).ok();
    if let Some(url) = request.as_mut() {
        url.set_path("/lti/login");
        url.query_pairs_mut().extend_pairs(q);
    }
    request.map(String::from).unwrap_or_default()
}

fn target_of(portal: &Portal, link: &Link) -> String {
    match link.url.starts_with("http") {
        true => link.url.clone(),
        false => format!("{}/{}", portal.tool, link.url.trim_start_matches('/')),
    }
}

fn redirect(to: &str) -> HttpResponse {
    HttpResponse::Found()
        .insert_header((header::LOCATION, to))
        .insert_header((header::CACHE_CONTROL, "no-store"))
        .finish()
}

/// Opens a link as whoever is signed in.
#[get("/open/{link}")]
async fn begin(portal: web::Data<Portal>, request: HttpRequest, link: web::Path<String>) -> HttpResponse {
    let Some(who) = signed_in(&portal, &request) else {
        return redirect("/");
    };
    let found = portal.links().into_iter().find(|l| l.id == *link);
    let Some(link) = found else {
        return HttpResponse::NotFound().body("no such link");
    };
    portal.note(format!("{} opens {}", who.name, link.title));
    redirect(&login(&portal, &who.id, &target_of(&portal, &link), &link.id))
}

/// A teacher picks something of the tool.
#[get("/pick")]
async fn begin_deep_linking(portal: web::Data<Portal>, request: HttpRequest) -> HttpResponse {
    match signed_in(&portal, &request).filter(|p| p.teacher) {
        Some(who) => redirect(&login(&portal, &who.id, &portal.tool, PICKING)),
        None => redirect("/"),
    }
}

#[derive(Deserialize)]
struct Asked {
    scope: String,
    response_type: String,
    response_mode: String,
    prompt: String,
    client_id: String,
    redirect_uri: String,
    login_hint: String,
    lti_message_hint: String,
    state: String,
    nonce: String,
}

/// The claims of a launch: of a link, or of deep linking.
pub fn claims(portal: &Portal, who: &str, link: Option<&str>, nonce: &str) -> Value {
    let now = OffsetDateTime::now_utc().unix_timestamp();
    let held = portal.held();
    let person = held.world.people.iter().find(|p| p.id == who);
    let role = match person.is_some_and(|p| p.teacher) {
        true => "Instructor",
        false => "Learner",
    };
    let name = person.map(|p| p.name.clone()).unwrap_or_default();
    let (given, family) = name.split_once(' ').unwrap_or((name.as_str(), ""));
    let mut out = json!({
        "iss": portal.base, "aud": [portal.client_id], "sub": who, "iat": now, "exp": now + 300, "nonce": nonce,
        "name": name, "given_name": given, "family_name": family, "locale": "en-GB",
        format!("{CLAIM}version"): "1.3.0",
        format!("{CLAIM}deployment_id"): portal.deployment,
        format!("{CLAIM}roles"): [
            "http://purl.imsglobal.org/vocab/lis/v2/institution/person#Member",
            format!("http://purl.imsglobal.org/vocab/lis/v2/membership#{role}"),
        ],
        format!("{CLAIM}context"): {
            "id": held.world.course.id, "title": held.world.course.title,
            "type": ["http://purl.imsglobal.org/vocab/lis/v2/course#CourseOffering"],
        },
        format!("{CLAIM}tool_platform"): { "guid": portal.base, "name": held.world.name },
        "https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice": {
            "context_memberships_url": format!("{}/members?course={}", portal.base, held.world.course.id),
            "service_versions": ["2.0"],
        },
    });
    let mut endpoint = json!({
        "scope": [
            "https://purl.imsglobal.org/spec/lti-ags/scope/lineitem",
            "https://purl.imsglobal.org/spec/lti-ags/scope/result.readonly",
            "https://purl.imsglobal.org/spec/lti-ags/scope/score",
        ],
        "lineitems": format!("{}/lineitems?course={}", portal.base, held.world.course.id),
    });
    match link {
        Some(id) => {
            let link = held.world.links.iter().find(|l| l.id == id);
            if let Some(n) = link.and_then(|l| l.line_item) {
                endpoint["lineitem"] = json!(format!(
                    "{}/lineitems/{n}?course={}",
                    portal.base, held.world.course.id
                ));
            }
            out[format!("{CLAIM}message_type")] = json!("LtiResourceLinkRequest");
            out[format!("{CLAIM}resource_link")] =
                json!({ "id": id, "title": link.map(|l| l.title.clone()).unwrap_or_default() });
            let target = link.map(|l| target_of(portal, l));
            out[format!("{CLAIM}target_link_uri")] = json!(target.unwrap_or_else(|| portal.tool.clone()));
            out[format!("{CLAIM}custom")] = json!(link.map(|l| l.custom.clone()).unwrap_or_default());
            out[format!("{CLAIM}launch_presentation")] =
                json!({ "document_target": "window", "return_url": format!("{}/course", portal.base) });
        }
        None => {
            out[format!("{CLAIM}message_type")] = json!("LtiDeepLinkingRequest");
            out[format!("{CLAIM}target_link_uri")] = json!(portal.tool);
            out[format!("{DL}deep_linking_settings")] = json!({
                "deep_link_return_url": format!("{}/picked", portal.base),
                "accept_types": ["ltiResourceLink"], "accept_presentation_document_targets": ["window"],
                "accept_multiple": true, "accept_lineitem": true, "auto_create": true, "data": "picking-1",
            });
        }
    }
    out["https://purl.imsglobal.org/spec/lti-ags/claim/endpoint"] = endpoint;
    out
}

/// Where the tool sends the browser to learn who it is: the answer goes back as a form.
#[get("/authorize")]
async fn authorize(
    portal: web::Data<Portal>,
    request: HttpRequest,
    asked: web::Query<Asked>,
) -> HttpResponse {
    let refuse = |why: &str| {
        portal.note(format!("sign-in refused: {why}"));
        HttpResponse::BadRequest().body(why.to_owned())
    };
    if asked.client_id != portal.client_id {
        return refuse("another client");
    }
    if asked.redirect_uri != format!("{}/lti/launch", portal.tool) {
        return refuse("an address that is not registered");
    }
    let fixed = asked.scope == "openid"
        && asked.response_type == "id_token"
        && asked.response_mode == "form_post"
        && asked.prompt == "none";
    if !fixed || asked.state.is_empty() || asked.nonce.is_empty() {
        return refuse("not asked for as the specification says");
    }
    let Some(who) = signed_in(&portal, &request).filter(|p| p.id == asked.login_hint) else {
        return refuse("nobody of that name is signed in to the portal");
    };
    let link = (asked.lti_message_hint != PICKING).then_some(asked.lti_message_hint.as_str());
    let token = portal
        .sign(&claims(&portal, &who.id, link, &asked.nonce))
        .unwrap_or_default();
    let body = format!(
        "<form method=post action=\"{}\"><input type=hidden name=state value=\"{}\"><input type=hidden name=id_token \
         value=\"{token}\"><button>Go on</button></form><script>document.forms[0].submit()</script>",
        escape(&asked.redirect_uri),
        escape(&asked.state),
    );
    page("One moment", &body)
}

#[derive(Deserialize)]
struct Response {
    #[serde(rename = "JWT")]
    jwt: String,
}

/// The keys that the tool publishes.
pub(crate) async fn tool_keys(portal: &Portal) -> Option<JwkSet> {
    let address = format!("{}/lti/jwks", portal.tool);
    reqwest::get(address).await.ok()?.json().await.ok()
}

/// The claims of a token that the tool signed.
pub(crate) async fn from_tool(portal: &Portal, token: &str, audience: &[&str]) -> Result<Value, String> {
    let header = decode_header(token).map_err(|e| e.to_string())?;
    let keys = tool_keys(portal)
        .await
        .ok_or("the tool's keys can't be fetched")?;
    let kid = header.kid.ok_or("no key is named")?;
    let key = keys.find(&kid).ok_or("a key that the tool does not publish")?;
    let key = DecodingKey::from_jwk(key).map_err(|e| e.to_string())?;
    let mut validation = Validation::new(Algorithm::RS256);
    validation.set_audience(audience);
    validation.set_issuer(&[&portal.client_id]);
    validation.set_required_spec_claims(&["exp", "aud", "iss"]);
    let read = decode::<Value>(token, &key, &validation).map_err(|e| e.to_string())?;
    Ok(read.claims)
}

/// What a teacher picked comes back.
#[post("/picked")]
async fn deep_linking_return(portal: web::Data<Portal>, form: web::Form<Response>) -> HttpResponse {
    let claims = match from_tool(&portal, &form.jwt, &[portal.issuer()]).await {
        Ok(claims) => claims,
        Err(why) => {
            portal.note(format!("deep linking refused: {why}"));
            return HttpResponse::BadRequest().body(why);
        }
    };
    let fits = claims[format!("{CLAIM}message_type")] == "LtiDeepLinkingResponse"
        && claims[format!("{CLAIM}deployment_id")] == portal.deployment.as_str()
        && claims[format!("{DL}data")] == "picking-1"
        && claims["nonce"].is_string();
    if !fits {
        portal.note("deep linking refused: not an answer to what was asked".into());
        return HttpResponse::BadRequest().body("not an answer to what was asked");
    }
    let items = claims[format!("{DL}content_items")]
        .as_array()
        .cloned()
        .unwrap_or_default();
    for item in items.iter().filter(|i| i["type"] == "ltiResourceLink") {
        let text = |v: &Value| v.as_str().unwrap_or_default().to_owned();
        let id = Uuid::new_v4().simple().to_string();
        let mut held = portal.held();
        let line_item = item.get("lineItem").map(|l| {
            held.line_items.push(LineItem {
                label: l["label"]
                    .as_str()
                    .map_or_else(|| text(&item["title"]), str::to_owned),
                maximum: l["scoreMaximum"].as_f64().unwrap_or(100.0),
                resource_id: l["resourceId"].as_str().map(str::to_owned),
                resource_link_id: Some(id.clone()),
                due: item["submission"]["endDateTime"].as_str().map(str::to_owned),
                results: Default::default(),
            });
            held.line_items.len() - 1
        });
        let custom = item["custom"]
            .as_object()
            .map(|all| all.iter().map(|(k, v)| (k.clone(), text(v))).collect());
        held.world.links.push(Link {
            id,
            title: text(&item["title"]),
            url: text(&item["url"]),
            custom: custom.unwrap_or_default(),
            line_item,
            points: None,
        });
    }
    portal.note(format!("{} links were picked", items.len()));
    redirect("/course")
}
