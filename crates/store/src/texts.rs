//! Reading pages and skills as they were edited in the browser.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TextKind {
    /// A reading page, by its skill.
    Page,
    /// All skills; there is one such text.
    Skills,
}

impl TextKind {
    fn name(self) -> &'static str {
        match self {
            TextKind::Page => "page",
            TextKind::Skills => "skills",
        }
    }
}

/// A version of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TextVersion {
    pub body: String,
    pub by: Option<String>,
    pub at: OffsetDateTime,
}

/// Keeps a new version.
///
/// # Errors
/// What the database said.
pub async fn put_text(
    db: impl PgExecutor<'_>,
    kind: TextKind,
    slug: &str,
    body: &str,
    by: PersonId,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into texts (id, kind, slug, body, saved_by, at) values ($1, $2, $3, $4, $5, $6)",
        Uuid::now_v7(),
        kind.name(),
        slug,
        body,
        by.0,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The versions of a text, the newest first.
///
/// # Errors
/// What the database said.
pub async fn text_versions(db: impl PgExecutor<'_>, kind: TextKind, slug: &str) -> Result<Vec<TextVersion>> {
    let found = sqlx::query_as!(
        TextVersion,
        r#"select t.body, p.display_name as "by?", t.at from texts t left join people p on p.id = t.saved_by
           where t.kind = $1 and t.slug = $2 order by t.at desc, t.id desc"#,
        kind.name(),
        slug
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// The newest version of the skills, where they were edited, and of every page that was, by its skill.
///
/// # Errors
/// What the database said.
pub async fn newest_texts(db: impl PgExecutor<'_>) -> Result<(Option<String>, Vec<(String, String)>)> {
    let rows = sqlx::query!(
        "select distinct on (kind, slug) kind, slug, body from texts order by kind, slug, at desc, id desc"
    )
    .fetch_all(db)
    .await?;
    let mut skills = None;
    let mut pages = Vec::new();
    for row in rows {
        match row.kind.as_str() {
            "skills" => skills = Some(row.body),
            _ => pages.push((row.slug, row.body)),
        }
    }
    Ok((skills, pages))
}

/// The version of a text that was kept last: another one after every change.
///
/// # Errors
/// What the database said.
pub async fn newest_version(db: impl PgExecutor<'_>) -> Result<Option<Uuid>> {
    let newest = sqlx::query_scalar!("select id from texts order by at desc, id desc limit 1")
        .fetch_optional(db)
        .await?;
    Ok(newest)
}
