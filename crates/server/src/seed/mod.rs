//! The demo world: made-up people, classes and assignments, with dates relative to its start, and work that is partly
//! done in it.

mod practice;
mod script;
mod world;

pub use world::{World, read_world, sign_ins};

use sqlx::PgPool;
use store::{PersonId, Role};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::auth::hash_password;
use world::{WorldAssignment, WorldPerson};

fn fail(e: store::StoreError) -> String {
    e.to_string()
}

/// Puts the world in the database. What is there stays; if it was put there on an earlier day, all dates are moved on
/// by the days between, so that something is always due soon, late, and just marked.
///
/// # Errors
/// What could not be done.
pub async fn seed(pool: &PgPool, world: &World) -> Result<(), String> {
    let now = OffsetDateTime::now_utc();
    let anchor = store::world_anchor(pool, now).await.map_err(fail)?;
    let days = i32::try_from((now - anchor).whole_days()).unwrap_or(0);
    if days > 0 {
        store::move_world(pool, days).await.map_err(fail)?;
    }
    let mut people: Vec<(&str, PersonId)> = Vec::new();
    for p in &world.people {
        people.push((&p.user_name, put_person(pool, p).await?));
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
            let (id, is_new) = put_assignment(pool, class_id, assignment, now).await?;
            for work in assignment.work.iter().filter(|_| is_new) {
                for student in &work.students {
                    script::play(pool, id, person(student)?, student, work, now)
                        .await
                        .map_err(|e| format!("assignment `{}`, `{student}`: {e}", assignment.slug))?;
                    if !work.practise.is_empty() {
                        let yesterday = now - time::Duration::days(1);
                        practice::practise_assignment(pool, id, person(student)?, &work.practise, yesterday)
                            .await
                            .map_err(|e| format!("assignment `{}`, `{student}`: {e}", assignment.slug))?;
                    }
                }
            }
        }
    }
    for script in &world.practice {
        let student = person(&script.student)?;
        let earlier = store::practice_of(pool, student).await.map_err(fail)?;
        // It is there already, or the student has gone on since.
        if earlier
            .iter()
            .any(|r| r.work.is_none() && practises(r, &script.skill))
        {
            continue;
        }
        practice::practise(pool, student, script, now)
            .await
            .map_err(|e| format!("practice of `{}`: {e}", script.student))?;
    }
    for script in &world.reading {
        let student = person(&script.student)?;
        if store::pages_of(pool, student).await.map_err(fail)?.is_empty() {
            practice::read(pool, student, script, now).await?;
        }
    }
    Ok(())
}

fn practises(run: &store::StoredRun, skill: &str) -> bool {
    let drawn = coursework::fold_run(&run.events).drawn;
    drawn.iter().any(|d| d.skill == skill)
}

async fn put_person(pool: &PgPool, p: &WorldPerson) -> Result<PersonId, String> {
    let known = store::find_credentials(pool, &p.user_name).await.map_err(fail)?;
    if let Some((person, _)) = known {
        return Ok(person.id);
    }
    // Nobody signs in as a classmate without a password: no password has this hash.
    let hash = match &p.password {
        Some(password) => hash_password(password)?,
        None => "none".to_owned(),
    };
    let role = if p.is_teacher() {
        Role::Teacher
    } else {
        Role::Student
    };
    store::put_person(pool, &p.user_name, &p.name, &hash, role)
        .await
        .map_err(fail)
}

async fn put_assignment(
    pool: &PgPool,
    class: Uuid,
    a: &WorldAssignment,
    now: OffsetDateTime,
) -> Result<(Uuid, bool), String> {
    let settings = a.settings(now)?;
    let mut questions = Vec::new();
    for slug in &a.questions {
        let found = store::find_question_by_slug(pool, slug).await.map_err(fail)?;
        questions
            .push(found.ok_or_else(|| format!("assignment `{}`: there is no question `{slug}`", a.slug))?);
    }
    store::put_assignment(pool, class, &a.slug, &a.title, &settings, &questions)
        .await
        .map_err(fail)
}
