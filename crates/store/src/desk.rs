//! Assignments as their teacher has them: drafts, settings, questions with points, and whom they are for.

use coursework::Settings;
use sqlx::types::Json;
use sqlx::{PgExecutor, PgPool};
use uuid::Uuid;

use crate::Result;
use crate::StoreError;
use crate::questions::QuestionId;
use crate::small::{from_stored, to_stored};

/// A question of an assignment.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SetQuestion {
    pub id: QuestionId,
    /// `None`: what the question itself says.
    pub points: Option<u32>,
}

/// An assignment as its teacher has it.
#[derive(Clone, Debug)]
pub struct SetAssignment {
    pub id: Uuid,
    pub class: Uuid,
    pub version: i32,
    pub title: String,
    pub settings: Settings,
    pub given_out: bool,
    pub for_groups: Vec<String>,
    pub for_people: Vec<Uuid>,
    pub questions: Vec<SetQuestion>,
    /// Students who have opened it, and who have handed something in.
    pub begun: usize,
    pub handed_in: usize,
}

/// What of it can be written.
#[derive(Clone, Debug)]
pub struct AssignmentChange<'a> {
    pub title: &'a str,
    pub settings: &'a Settings,
    pub for_groups: &'a [String],
    pub for_people: &'a [Uuid],
    pub questions: &'a [SetQuestion],
}

/// Makes a draft.
///
/// # Errors
/// What the database said.
pub async fn create_assignment(pool: &PgPool, class: Uuid, change: &AssignmentChange<'_>) -> Result<Uuid> {
    let id = Uuid::now_v7();
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "insert into assignments (id, class_id, slug, title, settings, given_out, for_groups, for_people)
         values ($1, $2, $3, $4, $5, false, $6, $7)",
        id,
        class,
        id.to_string(),
        change.title,
        serde_json::to_value(change.settings)?,
        change.for_groups,
        change.for_people
    )
    .execute(&mut *tx)
    .await?;
    put_questions(&mut tx, id, change.questions).await?;
    tx.commit().await?;
    Ok(id)
}

async fn put_questions(db: &mut sqlx::PgConnection, id: Uuid, questions: &[SetQuestion]) -> Result<()> {
    sqlx::query!("delete from assignment_questions where assignment_id = $1", id)
        .execute(&mut *db)
        .await?;
    let mut places = Vec::with_capacity(questions.len());
    let mut ids = Vec::with_capacity(questions.len());
    let mut points: Vec<Option<i32>> = Vec::with_capacity(questions.len());
    for (place, question) in questions.iter().enumerate() {
        places.push(to_stored(place)?);
        ids.push(question.id.0);
        let given = question.points.map(i32::try_from).transpose();
        points.push(given.map_err(|_| StoreError::OutOfRange)?);
    }
    sqlx::query!(
        "insert into assignment_questions (assignment_id, position, question_id, points)
         select $1, * from unnest($2::int[], $3::uuid[], $4::int[])",
        id,
        &places,
        &ids,
        &points as _
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Finds an assignment with what has been done on it.
///
/// # Errors
/// What the database said.
pub async fn find_set_assignment(db: impl PgExecutor<'_>, id: Uuid) -> Result<Option<SetAssignment>> {
    let row = sqlx::query!(
        r#"select a.id, a.class_id, a.version, a.title, a.settings as "settings: Json<Settings>", a.given_out,
            a.for_groups, a.for_people,
            array(select question_id from assignment_questions q where q.assignment_id = a.id order by position)
                as "questions!",
            array(select coalesce(points, 0) from assignment_questions q where q.assignment_id = a.id
                order by position) as "points!",
            (select count(*) from works w join studies s on s.person_id = w.student_id and s.class_id = a.class_id
             where w.assignment_id = a.id and w.last_event > 0) as "begun!",
            (select count(*) from works w join studies s on s.person_id = w.student_id and s.class_id = a.class_id
             where w.assignment_id = a.id and (w.sheet->>'hand_ins')::int > 0) as "handed_in!"
           from assignments a where a.id = $1"#,
        id
    )
    .fetch_optional(db)
    .await?;
    let Some(r) = row else { return Ok(None) };
    let mut questions = Vec::with_capacity(r.questions.len());
    for (id, points) in r.questions.into_iter().zip(r.points) {
        let points = u32::try_from(points).map_err(|_| StoreError::OutOfRange)?;
        questions.push(SetQuestion {
            id: QuestionId(id),
            points: Some(points).filter(|p| *p > 0),
        });
    }
    let count = |n: i64| from_stored(i32::try_from(n).map_err(|_| StoreError::OutOfRange)?);
    Ok(Some(SetAssignment {
        id: r.id,
        class: r.class_id,
        version: r.version,
        title: r.title,
        settings: r.settings.0,
        given_out: r.given_out,
        for_groups: r.for_groups,
        for_people: r.for_people,
        questions,
        begun: count(r.begun)?,
        handed_in: count(r.handed_in)?,
    }))
}

/// Writes an assignment, if it is still at the version it was looked at, and nobody has begun it since `begun` had.
///
/// # Errors
/// `Conflict` if not.
pub async fn save_assignment(
    pool: &PgPool,
    seen: &SetAssignment,
    change: &AssignmentChange<'_>,
) -> Result<()> {
    let mut tx = pool.begin().await?;
    // Whoever begins meanwhile waits for this row, and finds another version.
    let at = sqlx::query_scalar!(
        "select version from assignments where id = $1 for update",
        seen.id
    )
    .fetch_optional(&mut *tx)
    .await?;
    let now = find_set_assignment(&mut *tx, seen.id).await?;
    let same = |now: &SetAssignment| now.begun == seen.begun && now.handed_in == seen.handed_in;
    if at != Some(seen.version) || !now.is_some_and(|n| same(&n)) {
        return Err(StoreError::Conflict);
    }
    sqlx::query!(
        "update assignments set title = $2, settings = $3, for_groups = $4, for_people = $5, version = version + 1
         where id = $1",
        seen.id,
        change.title,
        serde_json::to_value(change.settings)?,
        change.for_groups,
        change.for_people
    )
    .execute(&mut *tx)
    .await?;
    if change.questions != seen.questions.as_slice() {
        put_questions(&mut tx, seen.id, change.questions).await?;
    }
    tx.commit().await?;
    Ok(())
}

/// Lets the class see a draft.
///
/// # Errors
/// What the database said.
pub async fn give_out(db: impl PgExecutor<'_>, id: Uuid) -> Result<()> {
    sqlx::query!(
        "update assignments set given_out = true, version = version + 1 where id = $1 and not given_out",
        id
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Deletes a draft that nobody has begun. Says whether it was there.
///
/// # Errors
/// What the database said.
pub async fn delete_draft(db: impl PgExecutor<'_>, id: Uuid) -> Result<bool> {
    let done = sqlx::query!(
        "delete from assignments a where a.id = $1 and not a.given_out and not exists (
            select 1 from works w join class_members m on m.person_id = w.student_id and m.class_id = a.class_id
            where w.assignment_id = a.id and m.role <> 'preview' and w.last_event > 0)",
        id
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// In how many assignments each question is used, by its id in the bank.
///
/// # Errors
/// What the database said.
pub async fn question_uses(db: impl PgExecutor<'_>) -> Result<Vec<(String, i64)>> {
    let rows = sqlx::query!(
        r#"select q.slug, count(distinct u.assignment_id) as "uses!"
           from assignment_questions u join questions q on q.id = u.question_id group by q.slug"#
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| (r.slug, r.uses)).collect())
}
