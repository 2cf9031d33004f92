//! The units of a class, and what was heard in them.

use std::collections::BTreeSet;

use coursework::{Unit, UnitOrder};
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// The units of a class, with their version.
///
/// # Errors
/// What the database said.
pub async fn units_of(db: impl PgExecutor<'_>, class: Uuid) -> Result<(Vec<Unit>, i32)> {
    let row = sqlx::query!(
        r#"select units as "units: Json<Vec<Unit>>", units_version from classes where id = $1"#,
        class
    )
    .fetch_one(db)
    .await?;
    Ok((row.units.0, row.units_version))
}

/// The units whose order is asked for, in the classes that a student is in. Who only looks at it as a student is asked for
/// nothing.
///
/// # Errors
/// What the database said.
pub async fn asked_units_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<Unit>> {
    let found = sqlx::query_scalar!(
        r#"select c.units as "units: Json<Vec<Unit>>" from studies m join classes c on c.id = m.class_id
           where m.person_id = $1 and m.left_at is null
             and c.units @> '[{"order": "asked"}]' order by c.id"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    let units = found.into_iter().flat_map(|units| units.0);
    Ok(units.filter(|u| u.order == UnitOrder::Asked).collect())
}

/// Saves them, if nobody else has since `version`; says whether they were saved.
///
/// # Errors
/// What the database said.
pub async fn save_units(db: impl PgExecutor<'_>, class: Uuid, version: i32, units: &[Unit]) -> Result<bool> {
    let saved = sqlx::query!(
        "update classes set units = $3, units_version = units_version + 1 where id = $1 and units_version = $2",
        class,
        version,
        Json(units) as _
    )
    .execute(db)
    .await?;
    Ok(saved.rows_affected() == 1)
}

/// A class that somebody is in, as its members see it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ClassJoined {
    pub id: Uuid,
    pub title: String,
    pub word: String,
    pub starts_on: Option<time::Date>,
    pub ends_on: Option<time::Date>,
    /// By name.
    pub teachers: Vec<String>,
}

/// The classes that somebody is in as a student, by title.
///
/// # Errors
/// What the database said.
pub async fn classes_joined(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<ClassJoined>> {
    let found = sqlx::query_as!(
        ClassJoined,
        r#"select c.id, c.title, c.word, c.starts_on, c.ends_on,
            array(select p.display_name from teaches t join people p on p.id = t.person_id
                  where t.class_id = c.id order by p.display_name) as "teachers!"
           from class_members m join classes c on c.id = m.class_id
           where m.person_id = $1 and m.left_at is null and m.role <> 'teacher' order by c.title, c.id"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// The recordings of units that somebody has heard.
///
/// # Errors
/// What the database said.
pub async fn heard_by(db: impl PgExecutor<'_>, person: PersonId) -> Result<BTreeSet<Uuid>> {
    let found = sqlx::query_scalar!("select item_id from heard where person_id = $1", person.0)
        .fetch_all(db)
        .await?;
    Ok(found.into_iter().collect())
}

/// Notes that somebody has heard one.
///
/// # Errors
/// What the database said.
pub async fn put_heard(
    db: impl PgExecutor<'_>,
    person: PersonId,
    item: Uuid,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into heard (person_id, item_id, at) values ($1, $2, $3) on conflict do nothing",
        person.0,
        item,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}
