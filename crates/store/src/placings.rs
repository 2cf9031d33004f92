//! Starting points: who did which in which class, their events, and what they came to.

use std::collections::BTreeMap;

use coursework::{PlacingEvent, RecordedPlacing};
use marking::Response;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored, from_stored, to_stored};
use crate::{Result, StoreError};

/// Skills with what each requires.
pub type PlacedSkills = Vec<(String, Vec<String>)>;

/// A starting point of somebody in a class.
#[derive(Clone, Debug, PartialEq)]
pub struct StoredPlacing {
    pub id: Uuid,
    pub person: PersonId,
    pub salt: u64,
    pub skills: PlacedSkills,
    pub started_at: OffsetDateTime,
    pub ended_at: Option<OffsetDateTime>,
    pub picture: Option<Vec<(String, f64)>>,
    /// A teacher lets it be done again.
    pub again: bool,
}

/// What stands in the fields of the `number`th question and was not given yet.
#[derive(Clone, Debug, PartialEq)]
pub struct EnteredInPlacing {
    pub number: usize,
    pub revision: i64,
    pub parts: Vec<(String, Response)>,
}

/// A starting point that ended: what it says of each skill.
#[derive(Clone, Debug, PartialEq)]
pub struct StartFound {
    pub class: Uuid,
    pub class_title: String,
    pub at: OffsetDateTime,
    pub skills: Vec<(String, f64)>,
}

/// Begins a starting point, unless one is under way.
///
/// # Errors
/// What the database said.
pub async fn start_placing(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    skills: &PlacedSkills,
    salt: u64,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into placings (id, class_id, person_id, salt, skills, started_at) values ($1, $2, $3, $4, $5, $6)
         on conflict do nothing",
        Uuid::now_v7(),
        class,
        person.0,
        salt.cast_signed(),
        Json(skills) as _,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The newest starting point of each person of a class, or of one of them.
///
/// # Errors
/// What the database said.
pub async fn placings_in(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: Option<PersonId>,
) -> Result<Vec<StoredPlacing>> {
    let rows = sqlx::query!(
        r#"select distinct on (person_id) id, person_id, salt, skills as "skills: Json<PlacedSkills>", started_at, ended_at,
            picture as "picture: Json<Vec<(String, f64)>>", again_at
           from placings where class_id = $1 and ($2::uuid is null or person_id = $2)
           order by person_id, started_at desc, id desc"#,
        class,
        person.map(|p| p.0)
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| StoredPlacing {
            id: r.id,
            person: PersonId(r.person_id),
            salt: r.salt.cast_unsigned(),
            skills: r.skills.0,
            started_at: r.started_at,
            ended_at: r.ended_at,
            picture: r.picture.map(|p| p.0),
            again: r.again_at.is_some(),
        })
        .collect())
}

/// How far somebody is with the starting point of a class.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PlacingState {
    UnderWay,
    Done,
    /// Done, and let be done again.
    Again,
}

/// How far somebody is with the starting points of their classes, by class.
///
/// # Errors
/// What the database said.
pub async fn placings_by(db: impl PgExecutor<'_>, person: PersonId) -> Result<BTreeMap<Uuid, PlacingState>> {
    let rows = sqlx::query!(
        r#"select distinct on (class_id) class_id, ended_at is not null as "ended!", again_at is not null as "again!"
           from placings where person_id = $1 order by class_id, started_at desc, id desc"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    let state = |ended, again| match (ended, again) {
        (false, _) => PlacingState::UnderWay,
        (true, true) => PlacingState::Again,
        (true, false) => PlacingState::Done,
    };
    Ok(rows
        .into_iter()
        .map(|r| (r.class_id, state(r.ended, r.again)))
        .collect())
}

/// # Errors
/// What the database said.
pub async fn placing_events(db: impl PgExecutor<'_>, placing: Uuid) -> Result<Vec<RecordedPlacing>> {
    let rows = sqlx::query!(
        r#"select number, at, body as "body: Json<PlacingEvent>" from placing_events where placing_id = $1 order by number"#,
        placing
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(RecordedPlacing {
                number: event_from_stored(r.number)?,
                at: r.at,
                event: r.body.0,
            })
        })
        .collect()
}

/// Adds an event, as the one with this number.
///
/// # Errors
/// A conflict where another window was first.
pub async fn append_placing(
    tx: &mut PgConnection,
    placing: Uuid,
    number: u32,
    event: &PlacingEvent,
    now: OffsetDateTime,
) -> Result<()> {
    let done = sqlx::query!(
        "insert into placing_events (placing_id, number, at, body) values ($1, $2, $3, $4) on conflict do nothing",
        placing,
        event_to_stored(number)?,
        now,
        Json(event) as _
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict);
    }
    if let PlacingEvent::Ended { skills } = event {
        sqlx::query!(
            "with changed as (
                update people set beside_at = beside_at + 1 where id = (select person_id from placings where id = $1)
             )
             update placings set ended_at = $2, picture = $3, entered = null where id = $1",
            placing,
            now,
            Json(skills) as _
        )
        .execute(&mut *tx)
        .await?;
    }
    Ok(())
}

/// What somebody's starting points came to, the newest of each class, the oldest first.
///
/// # Errors
/// What the database said.
pub async fn starts_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<StartFound>> {
    let rows = sqlx::query!(
        r#"select distinct on (p.class_id) p.class_id, c.title, p.ended_at as "ended_at!",
            p.picture as "picture!: Json<Vec<(String, f64)>>"
           from placings p join classes c on c.id = p.class_id
           where p.person_id = $1 and p.ended_at is not null and p.picture is not null
           order by p.class_id, p.ended_at desc"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    let mut found: Vec<StartFound> = rows
        .into_iter()
        .map(|r| StartFound {
            class: r.class_id,
            class_title: r.title,
            at: r.ended_at,
            skills: r.picture.0,
        })
        .collect();
    found.sort_by_key(|f| f.at);
    Ok(found)
}

/// Lets one student of a class, or all of them, do it again. Gives how many it was for.
///
/// # Errors
/// What the database said.
pub async fn place_again(
    pool: &PgPool,
    class: Uuid,
    person: Option<PersonId>,
    now: OffsetDateTime,
) -> Result<u64> {
    let done = sqlx::query!(
        "update placings set again_at = $3
         where class_id = $1 and ($2::uuid is null or person_id = $2) and ended_at is not null and again_at is null",
        class,
        person.map(|p| p.0),
        now
    )
    .execute(pool)
    .await?;
    Ok(done.rows_affected())
}

/// # Errors
/// What the database said.
pub async fn entered_in_placing(db: impl PgExecutor<'_>, placing: Uuid) -> Result<Option<EnteredInPlacing>> {
    let row = sqlx::query!(
        r#"select entered as "entered: Json<Vec<(String, Response)>>", entered_number, entered_revision
           from placings where id = $1"#,
        placing
    )
    .fetch_one(db)
    .await?;
    let Some(entered) = row.entered else {
        return Ok(None);
    };
    Ok(Some(EnteredInPlacing {
        number: from_stored(row.entered_number)?,
        revision: row.entered_revision,
        parts: entered.0,
    }))
}

/// Keeps what stands in the fields, unless another window has written since the revision it is based on. Gives the new
/// revision.
///
/// # Errors
/// What the database said.
pub async fn put_entered_in_placing(
    db: impl PgExecutor<'_>,
    placing: Uuid,
    entered: &EnteredInPlacing,
) -> Result<Option<i64>> {
    let revision = sqlx::query_scalar!(
        "update placings set entered = $3, entered_number = $2,
            entered_revision = case when entered_number = $2 then entered_revision + 1 else 1 end
         where id = $1 and ended_at is null
           and (entered_number < $2 or (entered_number = $2 and entered_revision = $4))
         returning entered_revision",
        placing,
        to_stored(entered.number)?,
        Json(&entered.parts) as _,
        entered.revision
    )
    .fetch_optional(db)
    .await?;
    Ok(revision)
}
