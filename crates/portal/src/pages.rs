//! Plain pages: who one is, the course with its links, the grade book, switches and the log.

use actix_web::cookie::{Cookie, SameSite};
use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, get, post, web};
use serde::Deserialize;

use crate::state::{Person, Portal};

const COOKIE: &str = "portal_person";

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(who)
        .service(sign_in)
        .service(course)
        .service(frame)
        .service(switch);
}

pub(crate) fn escape(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
}

pub(crate) fn page(title: &str, body: &str) -> HttpResponse {
    let style = "body{font:16px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#223}\
        h1{font-size:1.5rem}h2{font-size:1.15rem;margin-top:2rem}table{border-collapse:collapse}\
        td,th{border:1px solid #99a;padding:.3rem .6rem;text-align:left}li{margin:.5rem 0}form{display:inline}\
        pre{background:#f3f3f6;padding:1rem;white-space:pre-wrap}iframe{width:100%;height:30rem;border:2px solid #99a}";
    HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CACHE_CONTROL, "no-store"))
        .body(format!(
            "<!doctype html><html lang=en><meta charset=utf-8><title>{0}</title><style>{style}</style><main><h1>{0}</h1>\
             {body}</main></html>",
            escape(title)
        ))
}

/// Who is signed in to the portal.
pub(crate) fn signed_in(portal: &Portal, request: &HttpRequest) -> Option<Person> {
    let id = request.cookie(COOKIE)?.value().to_owned();
    portal.held().world.people.iter().find(|p| p.id == id).cloned()
}

fn see_other(to: &str) -> HttpResponse {
    HttpResponse::SeeOther()
        .insert_header((header::LOCATION, to))
        .finish()
}

#[get("/")]
async fn who(portal: web::Data<Portal>) -> HttpResponse {
    let world = portal.held().world.clone();
    let button = |p: &Person| {
        let role = if p.teacher { " (teacher)" } else { "" };
        format!(
            "<li><form method=post action=/sign-in><input type=hidden name=person value=\"{}\"><button>{}</button></form>{role}",
            escape(&p.id),
            escape(&p.name)
        )
    };
    let people: String = world.people.iter().filter(|p| !p.left).map(button).collect();
    page(
        &world.name,
        &format!("<p>A stand-in for a school's portal. Whom do you want to be?</p><ul>{people}</ul>"),
    )
}

#[derive(Deserialize)]
struct SignIn {
    person: String,
}

#[post("/sign-in")]
async fn sign_in(form: web::Form<SignIn>) -> HttpResponse {
    let cookie = Cookie::build(COOKIE, form.person.clone())
        .path("/")
        .http_only(true)
        .same_site(SameSite::Lax)
        .finish();
    HttpResponse::SeeOther()
        .cookie(cookie)
        .insert_header((header::LOCATION, "/course"))
        .finish()
}

fn grade_book(portal: &Portal, only: Option<&str>) -> String {
    let held = portal.held();
    let heads: String = held
        .line_items
        .iter()
        .map(|l| format!("<th>{} ({})", escape(&l.label), l.maximum))
        .collect();
    let mut rows = String::new();
    for person in held
        .world
        .people
        .iter()
        .filter(|p| !p.teacher && only.is_none_or(|id| id == p.id))
    {
        let cells: String = held
            .line_items
            .iter()
            .map(|l| match l.results.get(&person.id) {
                Some(r) => {
                    let worth = r
                        .given
                        .zip(r.maximum)
                        .map(|(g, m)| (g / m * l.maximum * 100.0).round() / 100.0);
                    let more = if r.grading == "PendingManual" {
                        ", to be marked"
                    } else {
                        ""
                    };
                    format!("<td>{}{more}", worth.map_or("–".into(), |w| w.to_string()))
                }
                None => "<td>".into(),
            })
            .collect();
        rows += &format!("<tr><th>{}{cells}", escape(&person.name));
    }
    format!("<table id=grades><tr><th>{heads}{rows}</table>")
}

#[get("/course")]
async fn course(portal: web::Data<Portal>, request: HttpRequest) -> HttpResponse {
    let Some(me) = signed_in(&portal, &request) else {
        return see_other("/");
    };
    let (world, away, slow) = {
        let held = portal.held();
        (held.world.clone(), held.away, held.slow)
    };
    let links: String = world
        .links
        .iter()
        .map(|l| {
            let (id, title) = (escape(&l.id), escape(&l.title));
            format!(
                "<li><a href=\"/open/{id}\">{title}</a> · <a href=\"/open/{id}\" target=_blank rel=noopener>in a new window</a> \
                 · <a href=\"/frame/{id}\">in a frame</a>"
            )
        })
        .collect();
    let mut body = format!(
        "<p>You are {}. <a href=/>Be somebody else</a></p><h2>Links</h2><ul>{links}</ul>",
        escape(&me.name)
    );
    if me.teacher {
        let press = |name: &str, words: &str, on: bool| {
            let (value, first) = if on { ("off", "Stop: ") } else { ("on", "") };
            format!(
                "<form method=post action=/switch><input type=hidden name=which value={name}><input type=hidden name=to \
                 value={value}><button>{first}{words}</button></form> "
            )
        };
        let log = portal
            .log()
            .iter()
            .rev()
            .take(100)
            .map(|l| escape(l))
            .collect::<Vec<_>>()
            .join("\n");
        body += &format!(
            "<p><a href=/pick>Add links from the tool</a></p><h2>Grade book</h2>{}<h2>Switches</h2>{}{}{}\
             <h2>What was exchanged</h2><pre>{log}</pre>",
            grade_book(&portal, None),
            press("away", "be away", away),
            press("slow", "answer slowly", slow),
            press("rotate", "sign with a new key", false),
        );
    } else {
        body += &format!("<h2>Your grades</h2>{}", grade_book(&portal, Some(&me.id)));
    }
    page(&world.course.title, &body)
}

#[get("/frame/{link}")]
async fn frame(link: web::Path<String>) -> HttpResponse {
    page(
        "In a frame",
        &format!(
            "<p><a href=/course>Back to the course</a></p><iframe title=\"The tool\" src=\"/open/{}\"></iframe>",
            escape(&link)
        ),
    )
}

#[derive(Deserialize)]
struct Switch {
    which: String,
    to: String,
}

#[post("/switch")]
async fn switch(portal: web::Data<Portal>, form: web::Form<Switch>) -> HttpResponse {
    let on = form.to == "on";
    match form.which.as_str() {
        "away" => portal.set_away(on),
        "slow" => portal.set_slow(on),
        "rotate" => {
            let rotating = portal.clone();
            let _ = web::block(move || rotating.rotate()).await;
        }
        _ => return HttpResponse::BadRequest().finish(),
    }
    see_other("/course")
}
