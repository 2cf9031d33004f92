//! A teacher's session that acts as a made-up student.

use sqlx::{PgExecutor, PgPool};
use uuid::Uuid;

use crate::Result;

/// Makes a new student of a class's who stands for nobody, in the place of an earlier one, and lets a session act as them.
/// Others whose sessions are gone go, too.
///
/// # Errors
/// What the database said.
pub async fn act_as_student(pool: &PgPool, class: Uuid, token_hash: &[u8], name: &str) -> Result<()> {
    let mut tx = pool.begin().await?;
    let user_name = format!("~{}", Uuid::now_v7());
    sqlx::query!(
        "delete from people p where p.role = 'preview' and not exists (
            select 1 from sessions s where s.acts_as = p.id and s.token_hash <> $1)",
        token_hash
    )
    .execute(&mut *tx)
    .await?;
    let id = sqlx::query_scalar!(
        "insert into people (id, user_name, display_name, password_hash, role, welcomed)
         values ($1, $2, $3, 'none', 'preview', true) returning id",
        Uuid::now_v7(),
        user_name,
        name
    )
    .fetch_one(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into class_members (class_id, person_id, role) values ($1, $2, 'preview')",
        class,
        id
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update sessions set acts_as = $2 where token_hash = $1",
        token_hash,
        id
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}

/// Ends it: the made-up student goes, with all they did.
///
/// # Errors
/// What the database said.
pub async fn act_as_oneself(pool: &PgPool, token_hash: &[u8]) -> Result<bool> {
    let mut tx = pool.begin().await?;
    let acted = sqlx::query_scalar!(
        r#"with was as (select acts_as from sessions where token_hash = $1 for update),
         now as (update sessions set acts_as = null where token_hash = $1)
         select acts_as as "acts_as?" from was"#,
        token_hash
    )
    .fetch_optional(&mut *tx)
    .await?
    .flatten();
    if let Some(id) = acted {
        sqlx::query!("delete from people where id = $1 and role = 'preview'", id)
            .execute(&mut *tx)
            .await?;
    }
    tx.commit().await?;
    Ok(acted.is_some())
}

/// Whether a session acts as a made-up student.
///
/// # Errors
/// What the database said.
pub async fn acts_as_student(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<bool> {
    let acts = sqlx::query_scalar!(
        r#"select acts_as is not null as "acts!" from sessions where token_hash = $1"#,
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(acts.unwrap_or(false))
}

/// Whether somebody is a made-up student by whom a teacher looks at things.
///
/// # Errors
/// What the database said.
pub async fn is_preview(db: impl PgExecutor<'_>, person: crate::people::PersonId) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select exists(select 1 from people where id = $1 and role = 'preview') as "found!""#,
        person.0
    )
    .fetch_one(db)
    .await?;
    Ok(found)
}
