use std::collections::BTreeMap;

use coursework::Settings;
use marking::Question;
use sqlx::{PgExecutor, PgPool};
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::questions::QuestionId;

/// An assignment as a list shows it.
#[derive(Clone, Debug)]
pub struct AssignmentHead {
    pub id: Uuid,
    pub title: String,
    pub class_title: String,
    pub settings: Settings,
}

/// An assignment with its questions in order.
#[derive(Clone, Debug)]
pub struct StoredAssignment {
    pub head: AssignmentHead,
    pub questions: Vec<(QuestionId, Question)>,
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

/// The assignments of a person's classes.
pub async fn assignments_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<AssignmentHead>> {
    let rows = sqlx::query!(
        "select a.id, a.title, c.title as class_title, a.settings
         from assignments a
         join classes c on c.id = a.class_id
         join class_members m on m.class_id = c.id
         where m.person_id = $1",
        person.0
    )
    .fetch_all(db)
    .await?;
    let mut heads = Vec::with_capacity(rows.len());
    for r in rows {
        let settings = serde_json::from_value(r.settings)?;
        heads.push(AssignmentHead {
            id: r.id,
            title: r.title,
            class_title: r.class_title,
            settings,
        });
    }
    heads.sort_by_key(|h: &AssignmentHead| (h.settings.due, h.id));
    Ok(heads)
}

/// Every assignment of a person's classes with its questions, in two statements however many there are.
pub async fn whole_assignments_of(pool: &PgPool, person: PersonId) -> Result<Vec<StoredAssignment>> {
    let heads = assignments_of(pool, person).await?;
    let rows = sqlx::query!(
        "select aq.assignment_id, q.id, q.content
         from assignment_questions aq
         join questions q on q.id = aq.question_id
         join assignments a on a.id = aq.assignment_id
         join class_members m on m.class_id = a.class_id
         where m.person_id = $1 order by aq.assignment_id, aq.position",
        person.0
    )
    .fetch_all(pool)
    .await?;
    let mut questions: BTreeMap<Uuid, Vec<(QuestionId, Question)>> = BTreeMap::new();
    for r in rows {
        let question = (QuestionId(r.id), serde_json::from_value(r.content)?);
        questions.entry(r.assignment_id).or_default().push(question);
    }
    let whole = |head: AssignmentHead| StoredAssignment {
        questions: questions.remove(&head.id).unwrap_or_default(),
        head,
    };
    Ok(heads.into_iter().map(whole).collect())
}

/// An assignment, if this person is in its class.
pub async fn find_assignment(pool: &PgPool, id: Uuid, person: PersonId) -> Result<Option<StoredAssignment>> {
    let member = sqlx::query_scalar!(
        r#"select 1 as "one!" from assignments a join class_members m on m.class_id = a.class_id
           where a.id = $1 and m.person_id = $2"#,
        id,
        person.0
    )
    .fetch_optional(pool)
    .await?;
    match member {
        Some(_) => find_any_assignment(pool, id).await,
        None => Ok(None),
    }
}

/// An assignment, whoever asks.
pub async fn find_any_assignment(pool: &PgPool, id: Uuid) -> Result<Option<StoredAssignment>> {
    let head = sqlx::query!(
        "select a.id, a.title, c.title as class_title, a.settings
         from assignments a join classes c on c.id = a.class_id where a.id = $1",
        id
    )
    .fetch_optional(pool)
    .await?;
    let Some(head) = head else { return Ok(None) };
    let rows = sqlx::query!(
        "select q.id, q.content
         from assignment_questions aq join questions q on q.id = aq.question_id
         where aq.assignment_id = $1 order by aq.position",
        id
    )
    .fetch_all(pool)
    .await?;
    let mut questions = Vec::with_capacity(rows.len());
    for r in rows {
        questions.push((QuestionId(r.id), serde_json::from_value(r.content)?));
    }
    let settings = serde_json::from_value(head.settings)?;
    let head = AssignmentHead {
        id: head.id,
        title: head.title,
        class_title: head.class_title,
        settings,
    };
    Ok(Some(StoredAssignment { head, questions }))
}

/// Which versions of its questions an assignment uses, in order.
pub async fn question_versions(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<QuestionId>> {
    let ids = sqlx::query_scalar!(
        "select question_id from assignment_questions where assignment_id = $1 order by position",
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(ids.into_iter().map(QuestionId).collect())
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
    let one = |assignment, position, version| QuestionUse {
        assignment,
        position: usize::try_from(position).unwrap_or(0),
        version: QuestionId(version),
    };
    Ok(rows
        .into_iter()
        .map(|r| one(r.assignment_id, r.position, r.question_id))
        .collect())
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
        "update assignment_questions set question_id = $3 where assignment_id = $1 and position = $2",
        place.assignment,
        i32::try_from(place.position).unwrap_or(i32::MAX),
        version.0
    )
    .execute(db)
    .await?;
    Ok(())
}
