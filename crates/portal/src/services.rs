//! What a tool asks the portal for by itself: access tokens, line items, scores, results, members; and the portal's keys.

use std::collections::BTreeSet;
use std::time::Duration;

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use serde::Deserialize;
use serde_json::{Value, json};
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;
use uuid::Uuid;

use crate::keys::published;
use crate::launch::from_tool;
use crate::state::{LineItem, Portal, Received};

const SCOPE: &str = "https://purl.imsglobal.org/spec/lti-ags/scope/";
const MEMBERS: &str = "https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly";
/// Members on one page of the list.
const ON_A_PAGE: usize = 5;

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(jwks)
        .service(token)
        .service(line_items)
        .service(add_line_item)
        .service(line_item)
        .service(scores)
        .service(results)
        .service(members);
}

/// What it is like just now: away, or slow.
async fn weather(portal: &Portal, what: &str) -> Option<HttpResponse> {
    let (away, slow) = {
        let held = portal.held();
        (held.away, held.slow)
    };
    if slow {
        tokio::time::sleep(Duration::from_secs(4)).await;
    }
    away.then(|| {
        portal.note(format!("{what}: 503, the portal is away"));
        HttpResponse::ServiceUnavailable().body("the portal is away")
    })
}

#[get("/jwks")]
async fn jwks(portal: web::Data<Portal>) -> HttpResponse {
    let keys = published(&portal.held().keys);
    HttpResponse::Ok().json(keys)
}

#[derive(Deserialize)]
struct TokenRequest {
    grant_type: String,
    client_assertion_type: String,
    client_assertion: String,
    scope: String,
}

#[post("/token")]
async fn token(portal: web::Data<Portal>, form: web::Form<TokenRequest>) -> HttpResponse {
    if let Some(away) = weather(&portal, "POST /token").await {
        return away;
    }
    let refuse = |why: String| {
        portal.note(format!("POST /token: 400, {why}"));
        HttpResponse::BadRequest().json(json!({ "error": "invalid_client", "error_description": why }))
    };
    if form.grant_type != "client_credentials"
        || form.client_assertion_type != "urn:ietf:params:oauth:client-assertion-type:jwt-bearer"
    {
        return refuse("another grant than client_credentials by a signed assertion".into());
    }
    let address = format!("{}/token", portal.base);
    let claims = match from_tool(&portal, &form.client_assertion, &[&address]).await {
        Ok(claims) => claims,
        Err(why) => return refuse(why),
    };
    let Some(jti) = claims["jti"]
        .as_str()
        .filter(|_| claims["sub"] == portal.client_id.as_str())
    else {
        return refuse("no jti, or another subject".into());
    };
    if !portal.held().used.insert(jti.to_owned()) {
        return refuse("an assertion that was used before".into());
    }
    let scopes: BTreeSet<String> = form
        .scope
        .split(' ')
        .filter(|s| s.starts_with(SCOPE) || *s == MEMBERS)
        .map(str::to_owned)
        .collect();
    let token = Uuid::new_v4().simple().to_string();
    portal.held().tokens.insert(token.clone(), scopes.clone());
    portal.note(format!("POST /token: 200, {} scopes", scopes.len()));
    let scope: Vec<String> = scopes.into_iter().collect();
    HttpResponse::Ok().json(json!({
        "access_token": token, "token_type": "Bearer", "expires_in": 600, "scope": scope.join(" "),
    }))
}

/// Whether a request may do what it asks for.
fn allowed(portal: &Portal, request: &HttpRequest, scope: &str) -> Option<HttpResponse> {
    let bearer = request
        .headers()
        .get(header::AUTHORIZATION)
        .and_then(|v| v.to_str().ok())
        .and_then(|v| v.strip_prefix("Bearer "));
    let held = portal.held();
    let scopes = bearer.and_then(|t| held.tokens.get(t));
    match scopes {
        Some(scopes) if scopes.contains(scope) => None,
        Some(_) => Some(HttpResponse::Forbidden().body("outside the scope of the token")),
        None => Some(HttpResponse::Unauthorized().body("no valid token")),
    }
}

fn scope(name: &str) -> String {
    format!("{SCOPE}{name}")
}

fn written(portal: &Portal, n: usize, item: &LineItem) -> Value {
    let course = portal.held().world.course.id.clone();
    let mut out = json!({
        "id": format!("{}/lineitems/{n}?course={course}", portal.base), "label": item.label, "scoreMaximum": item.maximum,
    });
    if let Some(id) = &item.resource_id {
        out["resourceId"] = json!(id);
    }
    if let Some(id) = &item.resource_link_id {
        out["resourceLinkId"] = json!(id);
    }
    if let Some(due) = &item.due {
        out["endDateTime"] = json!(due);
    }
    out
}

#[derive(Deserialize)]
struct Wanted {
    resource_id: Option<String>,
}

#[get("/lineitems")]
async fn line_items(
    portal: web::Data<Portal>,
    request: HttpRequest,
    wanted: web::Query<Wanted>,
) -> HttpResponse {
    if let Some(away) = weather(&portal, "GET /lineitems").await {
        return away;
    }
    if let Some(refusal) = allowed(&portal, &request, &scope("lineitem")) {
        return refusal;
    }
    let items = portal.held().line_items.clone();
    let all: Vec<Value> = items
        .iter()
        .enumerate()
        .filter(|(_, i)| wanted.resource_id.is_none() || i.resource_id == wanted.resource_id)
        .map(|(n, i)| written(&portal, n, i))
        .collect();
    HttpResponse::Ok()
        .content_type("application/vnd.ims.lis.v2.lineitemcontainer+json")
        .body(json!(all).to_string())
}

#[post("/lineitems")]
async fn add_line_item(portal: web::Data<Portal>, request: HttpRequest, body: web::Bytes) -> HttpResponse {
    if let Some(away) = weather(&portal, "POST /lineitems").await {
        return away;
    }
    if let Some(refusal) = allowed(&portal, &request, &scope("lineitem")) {
        return refusal;
    }
    let Ok(new) = serde_json::from_slice::<Value>(&body) else {
        return HttpResponse::BadRequest().body("no JSON");
    };
    let (Some(label), Some(maximum)) = (
        new["label"].as_str(),
        new["scoreMaximum"].as_f64().filter(|m| *m > 0.0),
    ) else {
        return HttpResponse::BadRequest().body("label and scoreMaximum are needed");
    };
    let item = LineItem {
        label: label.to_owned(),
        maximum,
        resource_id: new["resourceId"].as_str().map(str::to_owned),
        resource_link_id: new["resourceLinkId"].as_str().map(str::to_owned),
        due: new["endDateTime"].as_str().map(str::to_owned),
        results: Default::default(),
    };
    let n = {
        let mut held = portal.held();
        held.line_items.push(item.clone());
        held.line_items.len() - 1
    };
    portal.note(format!("POST /lineitems: 201, {label}"));
    HttpResponse::Created()
        .content_type("application/vnd.ims.lis.v2.lineitem+json")
        .body(written(&portal, n, &item).to_string())
}

#[get("/lineitems/{n}")]
async fn line_item(portal: web::Data<Portal>, request: HttpRequest, n: web::Path<usize>) -> HttpResponse {
    if let Some(refusal) = allowed(&portal, &request, &scope("lineitem")) {
        return refusal;
    }
    let found = portal.held().line_items.get(*n).cloned();
    match found {
        Some(item) => HttpResponse::Ok().json(written(&portal, *n, &item)),
        None => HttpResponse::NotFound().finish(),
    }
}

/// A score: AGS 2.0, 3.4.
fn read_score(body: &[u8]) -> Result<(String, Received), String> {
    let score: Value = serde_json::from_slice(body).map_err(|e| e.to_string())?;
    let text = |name: &str| {
        score[name]
            .as_str()
            .map(str::to_owned)
            .ok_or(format!("{name} is missing"))
    };
    let (activity, grading) = (text("activityProgress")?, text("gradingProgress")?);
    let activities = ["Initialized", "Started", "InProgress", "Submitted", "Completed"];
    let gradings = ["FullyGraded", "Pending", "PendingManual", "Failed", "NotReady"];
    if !activities.contains(&activity.as_str()) || !gradings.contains(&grading.as_str()) {
        return Err("unknown progress".into());
    }
    let timestamp = text("timestamp")?;
    if !timestamp.contains('.') {
        return Err("the timestamp has no fractions of a second".into());
    }
    let given = score["scoreGiven"].as_f64();
    let maximum = score["scoreMaximum"].as_f64();
    if given.is_some_and(|g| g < 0.0) || (given.is_some() && maximum.is_none_or(|m| m <= 0.0)) {
        return Err("scoreGiven needs a scoreMaximum above 0".into());
    }
    Ok((
        text("userId")?,
        Received {
            given,
            maximum,
            activity,
            grading,
            timestamp: OffsetDateTime::parse(&timestamp, &Rfc3339).map_err(|e| e.to_string())?,
        },
    ))
}

#[post("/lineitems/{n}/scores")]
async fn scores(
    portal: web::Data<Portal>,
    request: HttpRequest,
    n: web::Path<usize>,
    body: web::Bytes,
) -> HttpResponse {
    if let Some(away) = weather(&portal, "POST scores").await {
        return away;
    }
    if let Some(refusal) = allowed(&portal, &request, &scope("score")) {
        portal.note(format!("POST scores: {}", refusal.status()));
        return refusal;
    }
    let right_type = request
        .headers()
        .get(header::CONTENT_TYPE)
        .and_then(|v| v.to_str().ok())
        .is_some_and(|v| v.starts_with("application/vnd.ims.lis.v1.score+json"));
    if !right_type {
        return HttpResponse::UnsupportedMediaType().finish();
    }
    let (who, score) = match read_score(&body) {
        Ok(read) => read,
        Err(why) => {
            portal.note(format!("POST scores: 400, {why}"));
            return HttpResponse::BadRequest().body(why);
        }
    };
    let mut held = portal.held();
    if !held.world.people.iter().any(|p| p.id == who) {
        return HttpResponse::NotFound().body("nobody of that id");
    }
    let Some(item) = held.line_items.get_mut(*n) else {
        return HttpResponse::NotFound().body("no such line item");
    };
    let label = item.label.clone();
    // AGS 2.0, 3.4.9: what is not newer than what there is, is not taken.
    if item
        .results
        .get(&who)
        .is_some_and(|r| r.timestamp >= score.timestamp)
    {
        drop(held);
        portal.note(format!("score of {who} for {label}: 409, not newer"));
        return HttpResponse::Conflict().body("there is a newer score");
    }
    item.results.insert(who.clone(), score.clone());
    held.taken.push((*n, who.clone(), score.clone()));
    drop(held);
    let worth = match (score.given, score.maximum) {
        (Some(given), Some(of)) => format!("{given} of {of}"),
        _ => "no score".into(),
    };
    portal.note(format!("score of {who} for {label}: {worth}, {}", score.grading));
    HttpResponse::NoContent().finish()
}

#[get("/lineitems/{n}/results")]
async fn results(portal: web::Data<Portal>, request: HttpRequest, n: web::Path<usize>) -> HttpResponse {
    if let Some(away) = weather(&portal, "GET results").await {
        return away;
    }
    if let Some(refusal) = allowed(&portal, &request, &scope("result.readonly")) {
        return refusal;
    }
    let item = portal.held().line_items.get(*n).cloned();
    let Some(item) = item else {
        return HttpResponse::NotFound().finish();
    };
    let all: Vec<Value> = item
        .results
        .iter()
        .map(|(who, r)| {
            let given = r.given.zip(r.maximum).map(|(g, m)| g / m * item.maximum);
            let mut out = json!({
                "id": format!("{}/lineitems/{n}/results/{who}", portal.base),
                "scoreOf": format!("{}/lineitems/{n}", portal.base), "userId": who, "resultMaximum": item.maximum,
            });
            if let Some(given) = given {
                out["resultScore"] = json!(given);
            }
            out
        })
        .collect();
    HttpResponse::Ok()
        .content_type("application/vnd.ims.lis.v2.resultcontainer+json")
        .body(json!(all).to_string())
}

#[derive(Deserialize)]
struct Page {
    #[serde(default)]
    page: usize,
}

#[get("/members")]
async fn members(portal: web::Data<Portal>, request: HttpRequest, at: web::Query<Page>) -> HttpResponse {
    if let Some(away) = weather(&portal, "GET /members").await {
        return away;
    }
    if let Some(refusal) = allowed(&portal, &request, MEMBERS) {
        portal.note(format!("GET /members: {}", refusal.status()));
        return refusal;
    }
    let world = portal.held().world.clone();
    let all: Vec<Value> = world
        .people
        .iter()
        .filter(|p| !p.left)
        .map(|p| {
            let role = if p.teacher { "Instructor" } else { "Learner" };
            json!({
                "user_id": p.id, "name": p.name, "status": "Active",
                "roles": [format!("http://purl.imsglobal.org/vocab/lis/v2/membership#{role}")],
            })
        })
        .collect();
    let from = (at.page * ON_A_PAGE).min(all.len());
    let to = (from + ON_A_PAGE).min(all.len());
    portal.note(format!(
        "GET /members: 200, {} to {to} of {}",
        from + 1,
        all.len()
    ));
    let mut answer = HttpResponse::Ok();
    answer.content_type("application/vnd.ims.lti-nrps.v2.membershipcontainer+json");
    if to < all.len() {
        let next = format!(
            "{}/members?course={}&page={}",
            portal.base,
            world.course.id,
            at.page + 1
        );
        answer.insert_header((header::LINK, format!("<{next}>; rel=\"next\"")));
    }
    let page = all.get(from..to).unwrap_or_default();
    answer.body(
        json!({
            "id": format!("{}/members", portal.base),
            "context": { "id": world.course.id, "title": world.course.title }, "members": page,
        })
        .to_string(),
    )
}
