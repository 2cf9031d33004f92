//! How people come in: accounts, links that sign in once, and the first lines they read.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::{Person, PersonId, Role};

/// Adds somebody whose user name is free. `None` where it is not.
///
/// # Errors
/// What the database said.
pub async fn create_person(
    db: impl PgExecutor<'_>,
    user_name: &str,
    display_name: &str,
    password_hash: &str,
    role: Role,
) -> Result<Option<PersonId>> {
    let id = sqlx::query_scalar!(
        "insert into people (id, user_name, display_name, password_hash, role) values ($1, $2, $3, $4, $5)
         on conflict (user_name) do nothing returning id",
        Uuid::now_v7(),
        user_name,
        display_name,
        password_hash,
        role.name()
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(PersonId))
}

/// Whether nobody is here yet.
///
/// # Errors
/// What the database said.
pub async fn is_empty(db: impl PgExecutor<'_>) -> Result<bool> {
    let any = sqlx::query_scalar!(r#"select exists(select 1 from people) as "any!""#)
        .fetch_one(db)
        .await?;
    Ok(!any)
}

/// Sets a password, and ends every session and link of the person.
///
/// # Errors
/// What the database said.
pub async fn set_password(db: impl PgExecutor<'_>, person: PersonId, hash: &str) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sessions where person_id = $1),
         links as (delete from sign_in_links where person_id = $1),
         tokens as (delete from api_tokens where person_id = $1),
         addresses as (delete from calendars where person_id = $1)
         update people set password_hash = $2 where id = $1",
        person.0,
        hash
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The same by the person themselves: the session in which they do it goes on.
///
/// # Errors
/// What the database said.
pub async fn set_own_password(
    db: impl PgExecutor<'_>,
    person: PersonId,
    hash: &str,
    session: &[u8],
) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sessions where person_id = $1 and token_hash <> $3),
         links as (delete from sign_in_links where person_id = $1),
         tokens as (delete from api_tokens where person_id = $1),
         addresses as (delete from calendars where person_id = $1)
         update people set password_hash = $2 where id = $1",
        person.0,
        hash,
        session
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Ends all sessions of somebody but one. Says how many there were.
///
/// # Errors
/// What the database said.
pub async fn end_other_sessions(db: impl PgExecutor<'_>, person: PersonId, session: &[u8]) -> Result<u64> {
    let done = sqlx::query!(
        "delete from sessions where person_id = $1 and token_hash <> $2",
        person.0,
        session
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected())
}

/// The stored form of somebody's password.
///
/// # Errors
/// What the database said.
pub async fn find_password(db: impl PgExecutor<'_>, person: PersonId) -> Result<Option<String>> {
    let hash = sqlx::query_scalar!("select password_hash from people where id = $1", person.0)
        .fetch_optional(db)
        .await?;
    Ok(hash)
}

/// Keeps a link that signs somebody in once, in the place of earlier ones.
///
/// # Errors
/// What the database said.
pub async fn put_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    person: PersonId,
    now: OffsetDateTime,
    expires: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sign_in_links where person_id = $2 or expires_at < $3)
         insert into sign_in_links (token_hash, person_id, made_at, expires_at) values ($1, $2, $3, $4)",
        token_hash,
        person.0,
        now,
        expires
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whom a link signs in, if it was not used yet.
///
/// # Errors
/// What the database said.
pub async fn find_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<Person>> {
    let row = sqlx::query!(
        "select p.id, p.user_name, p.display_name, p.role
         from sign_in_links l join people p on p.id = l.person_id
         where l.token_hash = $1 and l.expires_at > $2",
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

/// Uses a link up. Whoever gets the person back was the one who used it.
///
/// # Errors
/// What the database said.
pub async fn use_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<PersonId>> {
    let id = sqlx::query_scalar!(
        "delete from sign_in_links where token_hash = $1 and expires_at > $2 returning person_id",
        token_hash,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(PersonId))
}

/// # Errors
/// What the database said.
pub async fn is_welcomed(db: impl PgExecutor<'_>, person: PersonId) -> Result<bool> {
    let welcomed = sqlx::query_scalar!("select welcomed from people where id = $1", person.0)
        .fetch_optional(db)
        .await?;
    Ok(welcomed.unwrap_or(true))
}

/// # Errors
/// What the database said.
pub async fn set_welcomed(db: impl PgExecutor<'_>, person: PersonId) -> Result<()> {
    sqlx::query!("update people set welcomed = true where id = $1", person.0)
        .execute(db)
        .await?;
    Ok(())
}
