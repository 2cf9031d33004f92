//! The demo world: made-up people, classes and assignments, with dates relative to its start, and work that is partly
//! done in it.

mod practice;
mod script;
mod start;
mod units;
mod world;

pub use world::{World, read_world, sign_ins};

use sqlx::PgPool;
use store::{PersonId, Role};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::sign_in::hash_password;
use world::{WorldAssignment, WorldMessage, WorldPerson};

/// Why a world was not put in place.
#[derive(Debug, thiserror::Error)]
pub enum WorldError {
    #[error(transparent)]
    Store(#[from] store::StoreError),
    #[error(transparent)]
    School(#[from] crate::error::SchoolError),
    #[error(transparent)]
    Refused(#[from] coursework::Refusal),
    #[error(transparent)]
    Undrawable(#[from] marking::RenderError),
    /// What its file asks for cannot be done.
    #[error("{0}")]
    Script(String),
    #[error("{place}: {error}")]
    At { place: String, error: Box<WorldError> },
}

impl From<&str> for WorldError {
    fn from(words: &str) -> Self {
        WorldError::Script(words.to_owned())
    }
}

impl From<String> for WorldError {
    fn from(words: String) -> Self {
        WorldError::Script(words)
    }
}

impl From<sqlx::Error> for WorldError {
    fn from(error: sqlx::Error) -> Self {
        WorldError::Store(error.into())
    }
}

fn at(place: String) -> impl FnOnce(WorldError) -> WorldError {
    move |error| WorldError::At {
        place,
        error: Box::new(error),
    }
}

/// Puts the world in the database. What is there stays; if it was put there on an earlier day, all dates are moved on
/// by the days between, so that something is always due soon, late, and just marked.
///
/// # Errors
/// What could not be done.
pub async fn seed(school: &School, world: &World) -> Result<(), WorldError> {
    let pool = &school.pool;
    let now = OffsetDateTime::now_utc();
    let anchor = store::world_anchor(pool, now).await?;
    let days = i32::try_from((now - anchor).whole_days()).unwrap_or(0);
    if days > 0 {
        store::move_world(pool, days).await?;
    }
    crate::recordings::put_shipped(school).await?;
    let mut people: Vec<(&str, PersonId)> = Vec::new();
    for p in &world.people {
        people.push((&p.user_name, put_person(pool, p).await?));
    }
    let mut made: Vec<(&str, Uuid)> = Vec::new();
    let person = |name: &str| {
        people
            .iter()
            .find(|(n, _)| *n == name)
            .map(|(_, id)| *id)
            .ok_or_else(|| WorldError::Script(format!("there is no `{name}`")))
    };
    for class in &world.classes {
        let class_id = store::put_class(pool, &class.title).await?;
        for member in &class.members {
            store::add_member(pool, class_id, person(member)?).await?;
        }
        for assignment in &class.assignments {
            let (id, is_new) = put_assignment(pool, class_id, assignment, now).await?;
            if is_new {
                made.push((&assignment.slug, id));
            }
            for work in assignment.work.iter().filter(|_| is_new) {
                for student in &work.students {
                    script::play(school, id, person(student)?, student, work, now)
                        .await
                        .map_err(at(format!("assignment `{}`, `{student}`", assignment.slug)))?;
                    if !work.practise.is_empty() {
                        let yesterday = now - time::Duration::days(1);
                        practice::practise_assignment(
                            school,
                            id,
                            person(student)?,
                            &work.practise,
                            yesterday,
                        )
                        .await
                        .map_err(at(format!("assignment `{}`, `{student}`", assignment.slug)))?;
                    }
                }
            }
        }
    }
    for class in &world.classes {
        units::put_units(school, class, now)
            .await
            .map_err(at(format!("class `{}`", class.title)))?;
        let class_id = store::put_class(pool, &class.title).await?;
        for script in &class.starts {
            for name in &script.students {
                let found = store::find_person(pool, person(name)?).await?;
                let who = found.ok_or_else(|| WorldError::Script(format!("there is no `{name}`")))?;
                start::start(school, class_id, &class.title, &who, script)
                    .await
                    .map_err(at(format!("starting point of `{name}`")))?;
            }
        }
        units::suggest(school, class, person, now)
            .await
            .map_err(at(format!("class `{}`", class.title)))?;
    }
    for wish in &world.wishes {
        let student = person(&wish.student)?;
        for skill in &wish.skills {
            store::set_wish(pool, student, skill, true, now).await?;
        }
    }
    for message in &world.messages {
        // What was asked before is there already.
        let Some((_, id)) = made.iter().find(|(slug, _)| *slug == message.assignment) else {
            continue;
        };
        ask(school, *id, person(&message.student)?, message, now)
            .await
            .map_err(at(format!("message of `{}`", message.student)))?;
    }
    for script in &world.practice {
        let student = person(&script.student)?;
        let earlier = school.beside(student).await?;
        // It is there already, or the student has gone on since.
        if earlier
            .runs
            .iter()
            .any(|(_, work, run)| work.is_none() && run.drawn.iter().any(|d| d.skill == script.skill))
        {
            continue;
        }
        practice::practise(school, student, script, now)
            .await
            .map_err(at(format!("practice of `{}`", script.student)))?;
    }
    for script in &world.reading {
        let student = person(&script.student)?;
        if store::pages_of(pool, student).await?.is_empty() {
            practice::read(pool, student, script, now).await?;
        }
    }
    Ok(())
}

async fn put_person(pool: &PgPool, p: &WorldPerson) -> Result<PersonId, WorldError> {
    let known = store::find_credentials(pool, &p.user_name).await?;
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
    let id = store::put_person(pool, &p.user_name, &p.name, &hash, role).await?;
    // They are no newcomers.
    store::set_welcomed(pool, id).await?;
    Ok(id)
}

async fn put_assignment(
    pool: &PgPool,
    class: Uuid,
    a: &WorldAssignment,
    now: OffsetDateTime,
) -> Result<(Uuid, bool), WorldError> {
    let settings = a.settings(now)?;
    let mut questions = Vec::new();
    for slug in &a.questions {
        let found = store::find_question_by_slug(pool, slug).await?;
        questions
            .push(found.ok_or_else(|| format!("assignment `{}`: there is no question `{slug}`", a.slug))?);
    }
    store::put_assignment(pool, class, &a.slug, &a.title, &settings, &questions)
        .await
        .map_err(WorldError::from)
}

/// Asks what a student asks, about the last check of a question, and answers it.
async fn ask(
    school: &School,
    assignment: Uuid,
    student: PersonId,
    message: &WorldMessage,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    let desk = crate::Desk::load(school, assignment, student).await?;
    let question = message.question.checked_sub(1).ok_or("questions count from 1")?;
    let state = desk
        .work
        .questions
        .get(question)
        .ok_or("this student has not opened it")?;
    let tries = state
        .sets
        .iter()
        .enumerate()
        .flat_map(|(n, s)| s.tries.iter().map(move |t| (n, t.event)));
    let last = tries.max_by_key(|(_, event)| *event);
    let at = now - time::Duration::hours(message.hours_ago);
    let new = store::NewThread {
        assignment,
        student,
        question,
        set: last.map_or(0, |(set, _)| set),
        event: last.map(|(_, event)| event),
        is_query: message.query,
        for_class: message.for_class,
        by: student,
        body: &message.body,
    };
    let thread = store::open_thread(&school.pool, &new, at).await?;
    if let Some(answer) = &message.answer {
        let found = store::find_set_assignment(&school.pool, assignment).await?;
        let class = found.ok_or("an assignment has a class")?.class;
        let members = store::members_of(&school.pool, class).await?;
        let teacher = members.iter().find(|m| m.role == store::MemberRole::Teacher);
        let teacher = teacher.ok_or("a class has a teacher")?.person.id;
        let later = at + time::Duration::hours(2);
        store::set_thread_read(&school.pool, thread, teacher, later).await?;
        store::add_message(&school.pool, thread, teacher, answer, later).await?;
    }
    Ok(())
}
