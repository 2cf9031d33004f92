use coursework::Settings;
use sqlx::types::Json;
use sqlx::{PgExecutor, PgPool};
use uuid::Uuid;

use crate::Result;
use crate::questions::QuestionId;
use crate::small::{from_stored, to_stored};

/// An assignment as a list shows it.
#[derive(Clone, Debug)]
pub struct AssignmentHead {
    pub id: Uuid,
    pub title: String,
    pub class_id: Uuid,
    pub class_title: String,
    pub settings: Settings,
}

/// An assignment with the versions of its questions in order.
#[derive(Clone, Debug)]
pub struct StoredAssignment {
    pub head: AssignmentHead,
    /// Another one after every change of settings or questions.
    pub version: i32,
    pub questions: Vec<QuestionId>,
    /// What each is worth here; 0 where the question itself says it.
    pub points: Vec<i32>,
}

/// Adds an assignment with its questions, or leaves one that is there alone. Gives its id, and whether it is new.
pub async fn put_assignment(
    pool: &PgPool,
    class: Uuid,
    slug: &str,
    title: &str,
    settings: &Settings,
    questions: &[QuestionId],
) -> Result<(Uuid, bool)> {
    let mut tx = pool.begin().await?;
    let known = sqlx::query_scalar!("select id from assignments where slug = $1 for update", slug)
        .fetch_optional(&mut *tx)
        .await?;
    if let Some(id) = known {
        return Ok((id, false));
    }
    let id = Uuid::now_v7();
    sqlx::query!(
        "insert into assignments (id, class_id, slug, title, settings) values ($1, $2, $3, $4, $5)",
        id,
        class,
        slug,
        title,
        serde_json::to_value(settings)?
    )
    .execute(&mut *tx)
    .await?;
    for (position, question) in (0i32..).zip(questions) {
        sqlx::query!(
            "insert into assignment_questions (assignment_id, position, question_id) values ($1, $2, $3)",
            id,
            position,
            question.0
        )
        .execute(&mut *tx)
        .await?;
    }
    tx.commit().await?;
    Ok((id, true))
}

/// An assignment as it stands, with its version.
pub async fn find_assignment(db: &PgPool, id: Uuid) -> Result<Option<StoredAssignment>> {
    Ok(find_assignments(db, &[id]).await?.pop())
}

/// The assignment of a class with a slug.
///
/// # Errors
/// What the database said.
pub async fn find_assignment_by_slug(
    db: impl PgExecutor<'_>,
    class: Uuid,
    slug: &str,
) -> Result<Option<Uuid>> {
    let found = sqlx::query_scalar!(
        "select id from assignments where class_id = $1 and slug = $2",
        class,
        slug
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// Several assignments as they stand, in no order; those that are not there are left out.
pub async fn find_assignments(db: &PgPool, ids: &[Uuid]) -> Result<Vec<StoredAssignment>> {
    let rows = sqlx::query!(
        r#"select a.id, a.title, a.class_id, c.title as class_title, a.settings as "settings: Json<Settings>", a.version,
            array(select question_id from assignment_questions where assignment_id = a.id order by position)
                as "questions!",
            array(select coalesce(points, 0) from assignment_questions where assignment_id = a.id order by position)
                as "points!"
           from assignments a join classes c on c.id = a.class_id where a.id = any($1)"#,
        ids
    )
    .fetch_all(db)
    .await?;
    let mut found = Vec::with_capacity(rows.len());
    for r in rows {
        found.push(StoredAssignment {
            head: AssignmentHead {
                id: r.id,
                title: r.title,
                class_id: r.class_id,
                class_title: r.class_title,
                settings: r.settings.0,
            },
            version: r.version,
            questions: r.questions.into_iter().map(QuestionId).collect(),
            points: r.points,
        });
    }
    Ok(found)
}

/// Where a question is used, in whatever version.
pub async fn uses_of(db: impl PgExecutor<'_>, slug: &str) -> Result<Vec<QuestionUse>> {
    let rows = sqlx::query!(
        "select aq.assignment_id, aq.position, aq.question_id
         from assignment_questions aq join questions q on q.id = aq.question_id
         where q.slug = $1 order by aq.assignment_id, aq.position",
        slug
    )
    .fetch_all(db)
    .await?;
    let one = |assignment, position, version| {
        let position = from_stored(position)?;
        Ok(QuestionUse {
            assignment,
            position,
            version: QuestionId(version),
        })
    };
    rows.into_iter()
        .map(|r| one(r.assignment_id, r.position, r.question_id))
        .collect()
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct QuestionUse {
    pub assignment: Uuid,
    pub position: usize,
    pub version: QuestionId,
}

/// Puts another version of a question in its place.
pub async fn set_version(db: impl PgExecutor<'_>, place: &QuestionUse, version: QuestionId) -> Result<()> {
    sqlx::query!(
        "with placed as (
            update assignment_questions set question_id = $3 where assignment_id = $1 and position = $2)
         update assignments set version = version + 1 where id = $1",
        place.assignment,
        to_stored(place.position)?,
        version.0
    )
    .execute(db)
    .await?;
    Ok(())
}
