//! Reviews for a test: which questions were drawn, and what their numbers are drawn with. The newest few are kept, so that
//! one can be gone on with after a reload; nothing that is answered in them is.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// Reviews kept of one person.
const KEPT: i64 = 20;

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Review {
    pub id: Uuid,
    pub salt: u64,
    /// Ids of its questions, in their order.
    pub questions: Vec<String>,
}

pub async fn put_review(
    db: impl PgExecutor<'_>,
    person: PersonId,
    review: &Review,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with gone as (
            delete from reviews where id in (
                select id from reviews where person_id = $2 order by drawn_at desc offset $6))
         insert into reviews (id, person_id, salt, questions, drawn_at) values ($1, $2, $3, $4, $5)",
        review.id,
        person.0,
        i64::from_ne_bytes(review.salt.to_ne_bytes()),
        serde_json::to_value(&review.questions)?,
        now,
        KEPT - 1
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A review, if it is this person's.
pub async fn find_review(db: impl PgExecutor<'_>, id: Uuid, person: PersonId) -> Result<Option<Review>> {
    let row = sqlx::query!(
        "select salt, questions from reviews where id = $1 and person_id = $2",
        id,
        person.0
    )
    .fetch_optional(db)
    .await?;
    let Some(row) = row else { return Ok(None) };
    Ok(Some(Review {
        id,
        salt: u64::from_ne_bytes(row.salt.to_ne_bytes()),
        questions: serde_json::from_value(row.questions)?,
    }))
}
