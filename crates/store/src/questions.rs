use marking::Question;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct QuestionId(pub Uuid);

/// Keeps a question; the same content is kept once. Gives its id, and whether it is new.
pub async fn put_question(
    db: impl PgExecutor<'_>,
    question: &Question,
    digest: &[u8],
    now: OffsetDateTime,
) -> Result<(QuestionId, bool)> {
    let row = sqlx::query!(
        r#"insert into questions (id, slug, digest, content, loaded_at) values ($1, $2, $3, $4, $5)
           on conflict (digest) do update set slug = excluded.slug
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
