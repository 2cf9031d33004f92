//! The demo world: made-up people, classes and assignments, with dates relative to now.

use std::path::Path;

use coursework::{Command, MarkedPart, Settings, decide, fold};
use marking::{PartKind, Response};
use serde::Deserialize;
use sqlx::PgPool;
use store::{PersonId, Role};
use time::{Duration, OffsetDateTime, Time};
use uuid::Uuid;

use crate::auth::hash_password;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct World {
    school: String,
    people: Vec<WorldPerson>,
    classes: Vec<WorldClass>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct WorldPerson {
    user_name: String,
    password: String,
    name: String,
    role: WorldRole,
}

#[derive(Deserialize, Clone, Copy, PartialEq)]
#[serde(rename_all = "lowercase")]
enum WorldRole {
    Student,
    Teacher,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct WorldClass {
    title: String,
    members: Vec<String>,
    assignments: Vec<WorldAssignment>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct WorldAssignment {
    slug: String,
    title: String,
    opened_days_ago: i64,
    due_in_days: i64,
    /// Days between due and closing.
    #[serde(default)]
    late_days: i64,
    #[serde(default)]
    note: Option<String>,
    questions: Vec<String>,
    #[serde(default)]
    begun_by: Vec<Begun>,
}

/// Work that is partly done when the demo starts.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Begun {
    student: String,
    /// Questions answered rightly, from 1.
    right: Vec<usize>,
    /// Questions tried once with this entry.
    #[serde(default)]
    tried: Vec<(usize, String)>,
}

/// # Errors
/// What is wrong with the file.
pub fn read_world(path: &Path) -> Result<World, String> {
    let text = std::fs::read_to_string(path).map_err(|e| format!("{}: {e}", path.display()))?;
    serde_saphyr::from_str(&text).map_err(|e| format!("{}: {e}", path.display()))
}

/// The sign-ins of the world, for printing.
pub fn sign_ins(world: &World) -> String {
    let mut out = format!("{}\n", world.school);
    for p in &world.people {
        let role = if p.role == WorldRole::Teacher {
            "teacher"
        } else {
            "student"
        };
        out.push_str(&format!(
            "  {:<16} password {:<16} {} ({role})\n",
            p.user_name, p.password, p.name
        ));
    }
    out
}

/// Puts the world in the database. What is there stays; dates that have passed since are moved on by whole days.
///
/// # Errors
/// What could not be done.
pub async fn seed(pool: &PgPool, world: &World) -> Result<(), String> {
    let fail = |e: store::StoreError| e.to_string();
    let mut people: Vec<(&str, PersonId)> = Vec::new();
    for p in &world.people {
        let known = store::find_credentials(pool, &p.user_name).await.map_err(fail)?;
        let id = if let Some((person, _)) = known {
            person.id
        } else {
            let hash = hash_password(&p.password)?;
            let role = if p.role == WorldRole::Teacher {
                Role::Teacher
            } else {
                Role::Student
            };
            store::put_person(pool, &p.user_name, &p.name, &hash, role)
                .await
                .map_err(fail)?
        };
        people.push((&p.user_name, id));
    }
    let person = |name: &str| {
        people
            .iter()
            .find(|(n, _)| *n == name)
            .map(|(_, id)| *id)
            .ok_or_else(|| format!("there is no `{name}`"))
    };
    for class in &world.classes {
        let class_id = store::put_class(pool, &class.title).await.map_err(fail)?;
        for member in &class.members {
            store::add_member(pool, class_id, person(member)?)
                .await
                .map_err(fail)?;
        }
        for assignment in &class.assignments {
            let (id, is_new) = put_assignment(pool, class_id, assignment).await?;
            for begun in assignment.begun_by.iter().filter(|_| is_new) {
                begin(pool, id, person(&begun.student)?, begun).await?;
            }
            if !is_new {
                let member = class.members.first().ok_or("a class without members")?;
                move_on(pool, id, person(member)?).await?;
            }
        }
    }
    Ok(())
}

/// The last minute of the day that is so many days from now.
fn end_of_day(now: OffsetDateTime, days: i64) -> OffsetDateTime {
    let last_minute = Time::from_hms(23, 59, 0).unwrap_or(Time::MIDNIGHT);
    (now + Duration::days(days)).replace_time(last_minute)
}

async fn put_assignment(pool: &PgPool, class: Uuid, a: &WorldAssignment) -> Result<(Uuid, bool), String> {
    let now = OffsetDateTime::now_utc();
    let due = end_of_day(now, a.due_in_days);
    let mut settings = Settings::homework(now - Duration::days(a.opened_days_ago), due);
    settings.closes = due + Duration::days(a.late_days);
    settings.note.clone_from(&a.note);
    let mut questions = Vec::new();
    for slug in &a.questions {
        let found = store::find_question_by_slug(pool, slug)
            .await
            .map_err(|e| e.to_string())?;
        questions
            .push(found.ok_or_else(|| format!("assignment `{}`: there is no question `{slug}`", a.slug))?);
    }
    store::put_assignment(pool, class, &a.slug, &a.title, &settings, &questions)
        .await
        .map_err(|e| e.to_string())
}

/// Moves the dates of an assignment that has closed since the demo last ran, so that something is always due soon.
async fn move_on(pool: &PgPool, id: Uuid, member: PersonId) -> Result<(), String> {
    let fail = |e: store::StoreError| e.to_string();
    let now = OffsetDateTime::now_utc();
    let Some(stored) = store::find_assignment(pool, id, member).await.map_err(fail)? else {
        return Ok(());
    };
    let mut settings = stored.head.settings;
    if settings.closes > now {
        return Ok(());
    }
    let days = Duration::days((now - settings.due).whole_days() + 2);
    settings.due += days;
    settings.closes += days;
    store::set_settings(pool, id, &settings).await.map_err(fail)
}

async fn begin(pool: &PgPool, assignment_id: Uuid, student: PersonId, begun: &Begun) -> Result<(), String> {
    let fail = |e: store::StoreError| e.to_string();
    let Some(stored) = store::find_assignment(pool, assignment_id, student)
        .await
        .map_err(fail)?
    else {
        return Err("a student who is not in the class".into());
    };
    let assignment = crate::api::assignment_for(&stored);
    let work_id = store::start_work(pool, assignment_id, student)
        .await
        .map_err(fail)?;
    let seeds: Vec<u64> = (0..assignment.items.len())
        .map(|i| 1_000 + u64::try_from(i).unwrap_or(0))
        .collect();
    let mut commands = vec![Command::Open { seeds: seeds.clone() }];
    let entries = begun
        .right
        .iter()
        .map(|q| (*q, None))
        .chain(begun.tried.iter().map(|(q, e)| (*q, Some(e))));
    for (number, entry) in entries {
        let question = number.checked_sub(1).ok_or("questions count from 1")?;
        let (Some((_, source)), Some(seed)) = (stored.questions.get(question), seeds.get(question)) else {
            return Err(format!("there is no question {number}"));
        };
        let item = marking::render(source, *seed).map_err(|e| e.to_string())?;
        let parts = item.parts.iter().map(|part| {
            let response = match (&part.kind, entry) {
                (PartKind::Entry { .. }, Some(entry)) => Response::Text(entry.clone()),
                _ => part.key_response(),
            };
            MarkedPart {
                part: part.id.clone(),
                verdict: part.mark(&response),
                response,
            }
        });
        commands.push(Command::Check {
            question,
            parts: parts.collect(),
        });
    }
    let mut tx = pool.begin().await.map_err(|e| e.to_string())?;
    for command in commands {
        let now = OffsetDateTime::now_utc();
        let events = store::lock_work(&mut tx, work_id).await.map_err(fail)?;
        let work = fold(&assignment, &events);
        let happened = decide(&assignment, &work, &command, now).map_err(|e| e.to_string())?;
        for event in &happened {
            let drafts = match event {
                coursework::Event::Checked(c) => c
                    .parts
                    .iter()
                    .map(|p| (c.question, &p.part, &p.response))
                    .collect(),
                _ => Vec::new(),
            };
            for (question, part, response) in drafts {
                let draft = store::SaveDraft {
                    question,
                    set: 0,
                    part,
                    based_on: 0,
                    response,
                };
                store::save_draft(&mut *tx, work_id, &draft, now)
                    .await
                    .map_err(fail)?;
            }
        }
        store::append(&mut tx, work_id, work.last_event, &happened, now)
            .await
            .map_err(fail)?;
    }
    tx.commit().await.map_err(|e| e.to_string())
}
