//! What somebody takes out: due dates to subscribe to (RFC 5545), and all that is kept about them.

use std::collections::BTreeSet;

use coursework::{score_visible, terms, verdicts_visible};
use icalendar::{Calendar, Component, Event};
use serde_json::{Value, json};
use store::PersonId;
use time::format_description::well_known::Rfc3339;
use time::macros::format_description;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

use crate::School;
use crate::compute::on_a_thread;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::sign_in::token_hash;
use crate::zip::{self, Files, Packed, Zip};

/// What was due is in a calendar for as long.
const STAYS: Duration = Duration::days(60);

/// A token of 256 bits, in hexadecimal.
///
/// # Errors
/// If the operating system gives no random bytes.
pub fn fresh_token() -> Result<String, SchoolError> {
    let mut random = [0u8; 32];
    getrandom::fill(&mut random).map_err(|e| SchoolError::Inside(e.to_string()))?;
    Ok(random.iter().map(|b| format!("{b:02x}")).collect())
}

/// Something that is due.
struct Due {
    assignment: Uuid,
    title: String,
    class: String,
    due: OffsetDateTime,
    /// Grows with every change.
    sequence: u32,
}

/// `20270301T225900Z`
fn utc(at: OffsetDateTime) -> String {
    let format = format_description!("[year][month][day]T[hour][minute][second]Z");
    at.to_offset(time::UtcOffset::UTC)
        .format(format)
        .unwrap_or_default()
}

/// The calendar behind an address: `None` where there is no such address (any more). `base` is where this is served from.
///
/// # Errors
/// What the database said.
pub async fn calendar(school: &School, token: &str, base: &str) -> Result<Option<String>, SchoolError> {
    let found = store::find_calendar(&school.pool, &token_hash(token)).await?;
    let Some((person, class)) = found else {
        return Ok(None);
    };
    let now = school.now();
    let (name, mut all) = match class {
        None => ("Green Slate".to_owned(), own_dues(school, person).await?),
        Some(class) => class_dues(school, person, class).await?,
    };
    all.retain(|d| d.due + STAYS > now);
    all.sort_by_key(|d| (d.due, d.assignment));
    let mut calendar = Calendar::new();
    calendar.name(&name);
    // A teacher finds the work in their class, a student on their desk.
    let address = |assignment: Uuid| match class {
        Some(class) => format!("{base}/classes/{class}/work/{assignment}"),
        None => format!("{base}/work/{assignment}"),
    };
    for due in all {
        let mut event = Event::new();
        event
            .uid(&format!("{}@green-slate", due.assignment))
            .summary(&format!("Due: {} ({})", due.title, due.class))
            .add_property("DTSTAMP", utc(now))
            .add_property("DTSTART", utc(due.due))
            .add_property("URL", address(due.assignment))
            .add_property("TRANSP", "TRANSPARENT")
            .sequence(due.sequence);
        calendar.push(event.done());
    }
    Ok(Some(calendar.done().to_string()))
}

async fn own_dues(school: &School, person: PersonId) -> Result<Vec<Due>, SchoolError> {
    let due = |g: &Glance| Due {
        assignment: g.stored.head.id,
        title: g.stored.head.title.clone(),
        class: g.stored.head.class_title.clone(),
        due: terms(&g.assignment, &g.work).due,
        sequence: sequence(g.stored.version).saturating_add(g.work.last_told),
    };
    Ok(Glance::all(school, person).await?.iter().map(due).collect())
}

fn sequence(version: i32) -> u32 {
    u32::try_from(version).unwrap_or(0)
}

async fn class_dues(
    school: &School,
    person: PersonId,
    class: Uuid,
) -> Result<(String, Vec<Due>), SchoolError> {
    let found = store::find_class_taught(&school.pool, person, class).await?;
    let class = found.ok_or(SchoolError::NotFound)?;
    let columns = store::sheet_columns(&school.pool, class.id).await?;
    let due = |c: store::SheetColumn| Due {
        assignment: c.id,
        title: c.title,
        class: class.title.clone(),
        due: c.settings.due,
        sequence: sequence(c.version),
    };
    let dues = columns.into_iter().filter(|c| c.given_out).map(due).collect();
    Ok((class.title.clone(), dues))
}

/// A class as its teacher takes it out: `class.json` with all that is kept of it, and what stands in it.
///
/// # Errors
/// What the database said.
pub async fn class_everything(
    school: &School,
    class: &store::Class,
    by: PersonId,
) -> Result<Zip, SchoolError> {
    let all = store::all_of_class(&school.pool, class.id).await?;
    let count = |name: &str| all[name].as_array().map_or(0, Vec::len);
    let about = format!(
        "# {}\n\nTaken out on {}.\n\n`class.json` has the class with its units, {} people, {} assignments with their settings and \
         the ids of their questions, {} works with their recorded scores, and {} events: everything that was checked, handed in, \
         given and corrected, each with its instant. Workings are in it where a student shares them.\n\nThe questions themselves are \
         in the bank's own zip, or in the QTI package of each assignment.\n",
        class.title,
        school.now().format(&Rfc3339).unwrap_or_default(),
        count("people"),
        count("assignments"),
        count("works"),
        count("events"),
    );
    zip::begin(school, by, move |files| async move {
        files.add(json_file("class.json", all).await).await;
        files.add(Ok(Packed::text("README.md", about))).await;
    })
    .await
}

/// Written off the async threads: a year of a class is large.
async fn json_file(name: &'static str, value: Value) -> Result<Packed, SchoolError> {
    let text = on_a_thread((), move || format!("{value:#}\n")).await?;
    Ok(Packed::text(name, text))
}

/// All that is kept about somebody, as a zip: `everything.json`, a summary, and their files. What the rules of an assignment
/// keep back until its results are out is kept back here, too, whether they may still work on it or not.
///
/// # Errors
/// [`SchoolError::Busy`] while another export of theirs goes on; what the database said.
pub async fn everything(school: &School, person: PersonId) -> Result<Zip, SchoolError> {
    let mine = school.clone();
    zip::begin(school, person, move |files| async move {
        if let Err(error) = put_everything(&mine, person, &files).await {
            files.add(Err(error)).await;
        }
    })
    .await
}

async fn put_everything(school: &School, person: PersonId, files: &Files) -> Result<(), SchoolError> {
    let (mut all, heads) = store::all_of(&school.pool, person).await?;
    keep_back(&mut all, &kept_back(school, person).await?);
    keep_placings_back(&mut all);
    let about = summary(&all);
    let at = school.now().format(&Rfc3339).unwrap_or_default();
    let kept = json!({"format": "green-slate/everything/1", "at": at, "kept": all});
    files.add(json_file("everything.json", kept).await).await;
    files.add(Ok(Packed::text("README.md", about))).await;
    for file in heads {
        // Names that people chose are no paths.
        let named = |c: char| {
            if c.is_alphanumeric() || ".-_ ".contains(c) {
                c
            } else {
                '_'
            }
        };
        let name: String = file.name.chars().map(named).collect();
        let Some(bytes) = store::own_file(&school.pool, person, file.id).await? else {
            continue;
        };
        let packed = Packed {
            name: format!("files/{}-{name}", file.id),
            bytes,
            is_text: false,
        };
        if !files.add(Ok(packed)).await {
            break;
        }
    }
    Ok(())
}

/// The works of somebody of which something is not out, each by the rules of its own assignment.
async fn kept_back(school: &School, person: PersonId) -> Result<BTreeSet<String>, SchoolError> {
    let mut kept = BTreeSet::new();
    for (work, assignment) in store::works_by(&school.pool, person).await? {
        let desk = Desk::load(school, assignment, person).await?;
        // While it goes on nothing is out, but each verdict was seen as it came.
        let seen = verdicts_visible(&desk.assignment, &desk.work, desk.now);
        let out = seen && score_visible(&desk.assignment, &desk.work, desk.now);
        if !seen || (desk.work.standing_hand_ins().next().is_some() && !out) {
            kept.insert(work.0.to_string());
        }
    }
    Ok(kept)
}

/// Of a starting point that goes on nothing is said of how it came out.
fn keep_placings_back(all: &mut Value) {
    for row in all["starting_points"].as_array_mut().into_iter().flatten() {
        if row["ended_at"].is_null() {
            row["picture"] = Value::Null;
            if !row["body"].is_null() {
                row["body"] = json!({"kind": row["body"]["kind"], "kept_back": "until it is ended"});
            }
        }
    }
}

/// Verdicts and scores whose time has not come are left out, and it is said.
fn keep_back(all: &mut Value, works: &BTreeSet<String>) {
    const UNTIL: &str = "until the results are out";
    let is_kept = |id: &Value| id.as_str().is_some_and(|id| works.contains(id));
    if let Some(events) = all["events"].as_array_mut() {
        for event in events.iter_mut().filter(|e| is_kept(&e["work_id"])) {
            let kind = event["body"]["kind"].clone();
            if [
                "checked",
                "handed_in",
                "scored_by_teacher",
                "key_corrected",
                "measured",
            ]
            .iter()
            .any(|k| kind == *k)
            {
                event["body"] = json!({"kind": kind, "kept_back": UNTIL});
            }
        }
    }
    if let Some(rows) = all["works"].as_array_mut() {
        for row in rows.iter_mut().filter(|w| is_kept(&w["id"])) {
            row["recorded_percent"] = json!(UNTIL);
        }
    }
}

/// What is in it, for people.
fn summary(all: &Value) -> String {
    let count = |table: &str| all[table].as_array().map_or(0, Vec::len);
    let person = &all["person"][0];
    let mut out = format!(
        "# All that is kept about {}\n\n`everything.json` holds it table by table; `files/` holds what was attached and drawn.\n\n",
        person["display_name"].as_str().unwrap_or_default()
    );
    out.push_str("| what | how many |\n|---|---|\n");
    for (table, words) in [
        ("classes", "classes"),
        ("works", "assignments begun"),
        ("events", "things that happened in them"),
        ("drafts", "answers that stand in fields"),
        ("workings", "workings"),
        ("practice", "steps of practice"),
        ("slip_notes", "notes in the slip book"),
        ("pages_read", "pages opened"),
        ("threads", "questions asked of teachers"),
        ("messages", "messages written"),
    ] {
        out.push_str(&format!("| {words} | {} |\n", count(table)));
    }
    out.push_str("\n## Assignments\n\n| class | assignment | recorded, % | minutes |\n|---|---|---|---|\n");
    for work in all["works"].as_array().into_iter().flatten() {
        let recorded = match &work["recorded_percent"] {
            Value::Null => "–".to_owned(),
            Value::String(words) => words.clone(),
            number => number.as_f64().map_or_else(String::new, |n| format!("{n:.0}")),
        };
        out.push_str(&format!(
            "| {} | {} | {recorded} | {} |\n",
            work["class"].as_str().unwrap_or_default().replace('|', "\\|"),
            work["assignment"]
                .as_str()
                .unwrap_or_default()
                .replace('|', "\\|"),
            (work["active_seconds"].as_i64().unwrap_or(0) + 30) / 60,
        ));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_out_yet_is_kept_back_and_said() {
        let mut all = json!({
            "works": [{"id": "a", "recorded_percent": 40.0}, {"id": "b", "recorded_percent": 60.0}],
            "events": [
                {"work_id": "a", "body": {"kind": "checked", "score": 1}},
                {"work_id": "a", "body": {"kind": "opened", "seeds": [1]}},
                {"work_id": "b", "body": {"kind": "checked", "score": 1}},
            ],
        });
        keep_back(&mut all, &BTreeSet::from(["a".to_owned()]));
        assert_eq!(all["events"][0]["body"]["score"], Value::Null);
        assert_eq!(all["events"][0]["body"]["kept_back"], "until the results are out");
        assert_eq!(all["events"][1]["body"]["seeds"], json!([1]));
        assert_eq!(all["events"][2]["body"]["score"], json!(1));
        assert_eq!(all["works"][0]["recorded_percent"], "until the results are out");
        assert_eq!(all["works"][1]["recorded_percent"], json!(60.0));
        assert!(summary(&all).contains("| until the results are out |"));
    }
}
