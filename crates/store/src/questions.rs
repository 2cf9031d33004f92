use marking::Question;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct QuestionId(pub Uuid);

/// Keeps a question; the same content is kept once, and is the newest again when it is loaded again. Gives its id, and whether it is new.
pub async fn put_question(
    db: impl PgExecutor<'_>,
    question: &Question,
    digest: &[u8],
    now: OffsetDateTime,
) -> Result<(QuestionId, bool)> {
    let row = sqlx::query!(
        r#"insert into questions (id, slug, digest, content, loaded_at) values ($1, $2, $3, $4, $5)
           on conflict (digest) do update set slug = excluded.slug, loaded_at = excluded.loaded_at
           returning id, (xmax = 0) as "is_new!""#,
        Uuid::now_v7(),
        question.id,
        digest,
        serde_json::to_value(question)?,
        now
    )
    .fetch_one(db)
    .await?;
    Ok((QuestionId(row.id), row.is_new))
}

/// The newest version of a question.
pub async fn find_question_by_slug(db: impl PgExecutor<'_>, slug: &str) -> Result<Option<QuestionId>> {
    let id = sqlx::query_scalar!(
        "select id from questions where slug = $1 order by loaded_at desc limit 1",
        slug
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(QuestionId))
}

/// The content of a version.
pub async fn find_question(db: impl PgExecutor<'_>, id: QuestionId) -> Result<Option<Question>> {
    let content = sqlx::query_scalar!("select content from questions where id = $1", id.0)
        .fetch_optional(db)
        .await?;
    Ok(content.map(serde_json::from_value).transpose()?)
}

/// The contents of several versions, those that are there.
pub async fn find_questions(db: impl PgExecutor<'_>, ids: &[Uuid]) -> Result<Vec<(QuestionId, Question)>> {
    let rows = sqlx::query!(
        r#"select id, content as "content: Json<Question>" from questions where id = any($1)"#,
        ids
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (QuestionId(r.id), r.content.0))
        .collect())
}

/// Which version of each question is the newest: its id, what it is called, and when it was loaded. Cheap to ask for:
/// what a server holds of the questions themselves never changes.
pub async fn newest_versions(db: impl PgExecutor<'_>) -> Result<Vec<QuestionId>> {
    let ids =
        sqlx::query_scalar!("select distinct on (slug) id from questions order by slug, loaded_at desc")
            .fetch_all(db)
            .await?;
    Ok(ids.into_iter().map(QuestionId).collect())
}

/// The ids and titles of the newest version of every question.
pub async fn question_titles(db: impl PgExecutor<'_>) -> Result<Vec<(String, String)>> {
    let rows = sqlx::query!(
        r#"select distinct on (slug) slug, content->>'title' as "title!"
           from questions order by slug, loaded_at desc"#
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| (r.slug, r.title)).collect())
}

/// The newest version of every question.
pub async fn newest_questions(db: impl PgExecutor<'_>) -> Result<Vec<(QuestionId, Question)>> {
    let rows =
        sqlx::query!("select distinct on (slug) id, content from questions order by slug, loaded_at desc")
            .fetch_all(db)
            .await?;
    let mut questions = Vec::with_capacity(rows.len());
    for r in rows {
        questions.push((QuestionId(r.id), serde_json::from_value(r.content)?));
    }
    Ok(questions)
}

/// Keeps the text that a version was written as, and who wrote it where that is known.
///
/// # Errors
/// What the database said.
pub async fn set_source(
    db: impl PgExecutor<'_>,
    id: QuestionId,
    source: &str,
    by: Option<PersonId>,
) -> Result<()> {
    sqlx::query!(
        "update questions set source = $2, saved_by = coalesce($3, saved_by) where id = $1",
        id.0,
        source,
        by.map(|p| p.0)
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A version of a question, and where it is used.
#[derive(Clone, Debug)]
pub struct QuestionVersion {
    pub id: QuestionId,
    pub at: OffsetDateTime,
    pub by: Option<String>,
    pub source: Option<String>,
    /// Titles of the assignments that use it, with their classes.
    pub uses: Vec<String>,
}

/// The versions of a question, the newest first.
///
/// # Errors
/// What the database said.
pub async fn versions_of(db: impl PgExecutor<'_>, slug: &str) -> Result<Vec<QuestionVersion>> {
    let rows = sqlx::query!(
        r#"select q.id, q.loaded_at, p.display_name as "by?", q.source,
            array(select distinct a.title || ' (' || c.title || ')' from assignment_questions u
                join assignments a on a.id = u.assignment_id join classes c on c.id = a.class_id
                where u.question_id = q.id order by 1) as "uses!"
           from questions q left join people p on p.id = q.saved_by
           where q.slug = $1 order by q.loaded_at desc"#,
        slug
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| QuestionVersion {
            id: QuestionId(r.id),
            at: r.loaded_at,
            by: r.by,
            source: r.source,
            uses: r.uses,
        })
        .collect())
}

/// The text that a version was written as, where it came with one.
///
/// # Errors
/// What the database said.
pub async fn source_of(db: impl PgExecutor<'_>, id: QuestionId) -> Result<Option<String>> {
    let source = sqlx::query_scalar!("select source from questions where id = $1", id.0)
        .fetch_optional(db)
        .await?;
    Ok(source.flatten())
}
