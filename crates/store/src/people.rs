use sqlx::{PgExecutor, PgPool};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

use crate::Result;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PersonId(pub Uuid);

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    Student,
    Teacher,
}

impl Role {
    pub(crate) fn name(self) -> &'static str {
        match self {
            Role::Student => "student",
            Role::Teacher => "teacher",
        }
    }

    pub(crate) fn of(name: &str) -> Self {
        if name == "teacher" {
            Role::Teacher
        } else {
            Role::Student
        }
    }
}

/// What somebody is in one class, whatever they are in another.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MemberRole {
    Student,
    Teacher,
    /// A portal's test user: works as a student does, and stands in no statistics.
    Trial,
}

impl MemberRole {
    pub(crate) fn name(self) -> &'static str {
        match self {
            MemberRole::Student => "student",
            MemberRole::Teacher => "teacher",
            MemberRole::Trial => "trial",
        }
    }

    pub(crate) fn of(name: &str) -> Self {
        match name {
            "teacher" => MemberRole::Teacher,
            "trial" => MemberRole::Trial,
            _ => MemberRole::Student,
        }
    }
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Person {
    pub id: PersonId,
    pub user_name: String,
    pub display_name: String,
    /// Whether the desk is open to them: a teacher of any class, or somebody who may make one. What they are in a class
    /// is said by their membership.
    pub role: Role,
}

/// Adds a person, or brings name, password and role up to date.
pub async fn put_person(
    db: impl PgExecutor<'_>,
    user_name: &str,
    display_name: &str,
    password_hash: &str,
    role: Role,
) -> Result<PersonId> {
    let id = sqlx::query_scalar!(
        "insert into people (id, user_name, display_name, password_hash, role) values ($1, $2, $3, $4, $5)
         on conflict (user_name) do update set display_name = $3, password_hash = $4, role = $5
         returning id",
        Uuid::now_v7(),
        user_name,
        display_name,
        password_hash,
        role.name()
    )
    .fetch_one(db)
    .await?;
    Ok(PersonId(id))
}

/// The person of a user name with the hash of their password.
pub async fn find_credentials(db: impl PgExecutor<'_>, user_name: &str) -> Result<Option<(Person, String)>> {
    let row = sqlx::query!(
        "select id, user_name, display_name, password_hash, role from people where user_name = lower($1)",
        user_name
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| {
        let person = Person {
            id: PersonId(r.id),
            user_name: r.user_name,
            display_name: r.display_name,
            role: Role::of(&r.role),
        };
        (person, r.password_hash)
    }))
}

pub async fn create_session(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    person: PersonId,
    now: OffsetDateTime,
    lasts: Duration,
) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sessions where expires_at < $3)
         insert into sessions (token_hash, person_id, created_at, expires_at) values ($1, $2, $3, $4)",
        token_hash,
        person.0,
        now,
        now + lasts
    )
    .execute(db)
    .await?;
    Ok(())
}

pub async fn delete_session(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<()> {
    sqlx::query!(
        "with made_up as (
            delete from people p using sessions s
            where s.token_hash = $1 and p.id = s.acts_as and p.role = 'preview')
         delete from sessions where token_hash = $1",
        token_hash
    )
    .execute(db)
    .await?;
    Ok(())
}

pub async fn find_by_session(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<Person>> {
    let row = sqlx::query!(
        "select p.id, p.user_name, p.display_name, d.role as \"role!\"
         from sessions s join people p on p.id = coalesce(s.acts_as, s.person_id)
         join desk_roles d on d.person_id = p.id
         where s.token_hash = $1 and s.expires_at > $2",
        token_hash,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Person {
        id: PersonId(r.id),
        user_name: r.user_name,
        display_name: r.display_name,
        role: Role::of(&r.role),
    }))
}

/// How many tries a key may have, and for how long they count.
#[derive(Clone, Copy, Debug)]
pub struct TryLimit<'a> {
    pub key: &'a str,
    pub most: i32,
    pub lasts: Duration,
}

/// Counts a try to sign in under each key before the password is looked at, so that parallel ones count too. Gives when
/// the first key that is used up is free again; then nothing was counted.
pub async fn count_try(
    pool: &PgPool,
    limits: &[TryLimit<'_>],
    now: OffsetDateTime,
) -> Result<Option<OffsetDateTime>> {
    let mut tx = pool.begin().await?;
    // In one order, so that two tries never wait for each other.
    let mut sorted: Vec<&TryLimit<'_>> = limits.iter().collect();
    sorted.sort_by_key(|l| l.key);
    for limit in sorted {
        let row = sqlx::query!(
            "insert into sign_in_tries (key, since, tries) values ($1, $2, 1)
             on conflict (key) do update set
                since = case when sign_in_tries.since <= $3 then $2 else sign_in_tries.since end,
                tries = case when sign_in_tries.since <= $3 then 1 else sign_in_tries.tries + 1 end
             returning since, tries",
            limit.key,
            now,
            now - limit.lasts
        )
        .fetch_one(&mut *tx)
        .await?;
        if row.tries > limit.most {
            tx.rollback().await?;
            return Ok(Some(row.since + limit.lasts));
        }
    }
    tx.commit().await?;
    Ok(None)
}

/// Whether somebody came in from an address since.
///
/// # Errors
/// What the database said.
pub async fn is_right_address(db: impl PgExecutor<'_>, address: &str, since: OffsetDateTime) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select exists (select 1 from sign_in_addresses where address = $1 and right_at > $2) as "found!""#,
        address,
        since
    )
    .fetch_one(db)
    .await?;
    Ok(found)
}

/// Notes that somebody came in from an address. Once a day is enough.
///
/// # Errors
/// What the database said.
pub async fn note_right_address(db: impl PgExecutor<'_>, address: &str, now: OffsetDateTime) -> Result<()> {
    sqlx::query!(
        "with old as (delete from sign_in_addresses where right_at < $2::timestamptz - interval '60 days' and address <> $1)
         insert into sign_in_addresses as a (address, right_at) values ($1, $2)
         on conflict (address) do update set right_at = $2 where a.right_at < $2::timestamptz - interval '1 day'",
        address,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A key of ours, by name: the one that is kept, or from now on this one.
///
/// # Errors
/// What the database said.
pub async fn secret(db: &PgPool, name: &str, fresh: &[u8]) -> Result<Vec<u8>> {
    sqlx::query!(
        "insert into secrets (name, key) values ($1, $2) on conflict (name) do nothing",
        name,
        fresh
    )
    .execute(db)
    .await?;
    let key = sqlx::query_scalar!("select key from secrets where name = $1", name)
        .fetch_one(db)
        .await?;
    Ok(key)
}

/// A right password: its try no longer counts, under the keys of the person none does. Old tries are forgotten.
pub async fn forget_tries(
    db: impl PgExecutor<'_>,
    own: &[String],
    shared: &[String],
    older_than: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with less as (update sign_in_tries set tries = greatest(tries - 1, 0) where key = any($2))
         delete from sign_in_tries where key = any($1) or (since < $3 and not key = any($2))",
        own,
        shared,
        older_than
    )
    .execute(db)
    .await?;
    Ok(())
}

pub async fn put_class(db: impl PgExecutor<'_>, title: &str) -> Result<Uuid> {
    let id = sqlx::query_scalar!(
        r#"with known as (select id from classes where title = $2 limit 1),
         made as (insert into classes (id, title) select $1, $2 where not exists (select from known) returning id)
         select id as "id!" from known union all select id from made"#,
        Uuid::now_v7(),
        title
    )
    .fetch_one(db)
    .await?;
    Ok(id)
}

/// Puts someone in a class as what their account is: a student, or a teacher.
pub async fn add_member(db: impl PgExecutor<'_>, class: Uuid, person: PersonId) -> Result<()> {
    sqlx::query!(
        "with at_home as (update people set home_class = $1 where id = $2 and home_class is null)
         insert into class_members (class_id, person_id, role) select $1, p.id, p.role from people p where p.id = $2
         on conflict do nothing",
        class,
        person.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whether somebody is in a class as a student, or as a portal's test user.
///
/// # Errors
/// What the database said.
pub async fn studies(db: impl PgExecutor<'_>, person: PersonId) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select exists (select 1 from class_members
            where person_id = $1 and left_at is null and role <> 'teacher') as "found!""#,
        person.0
    )
    .fetch_one(db)
    .await?;
    Ok(found)
}

pub async fn find_person(db: impl PgExecutor<'_>, id: PersonId) -> Result<Option<Person>> {
    let row = sqlx::query!(
        "select id, user_name, display_name, role from people where id = $1",
        id.0
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Person {
        id: PersonId(r.id),
        user_name: r.user_name,
        display_name: r.display_name,
        role: Role::of(&r.role),
    }))
}

/// How often something of a person's beside their assignments has changed: practice, pages, notes.
pub async fn beside_at(db: impl PgExecutor<'_>, person: PersonId) -> Result<i64> {
    let number = sqlx::query_scalar!("select beside_at from people where id = $1", person.0)
        .fetch_optional(db)
        .await?;
    Ok(number.unwrap_or(0))
}
