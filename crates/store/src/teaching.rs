//! Who teaches whom: the one place where a teacher's reach is looked up.

use sqlx::PgExecutor;
use uuid::Uuid;

use crate::Result;
use crate::attachments::Attachment;
use crate::people::{Person, PersonId, Role};

/// Whether someone teaches the class of an assignment.
///
/// # Errors
/// What the database said.
pub async fn teaches(db: impl PgExecutor<'_>, person: PersonId, assignment: Uuid) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select exists(
            select 1 from assignments a
            join class_members m on m.class_id = a.class_id
            join people p on p.id = m.person_id
            where a.id = $1 and p.id = $2 and p.role = 'teacher') as "found!""#,
        assignment,
        person.0
    )
    .fetch_one(db)
    .await?;
    Ok(found)
}

/// The assignments of all classes that someone teaches, by class and title.
///
/// # Errors
/// What the database said.
pub async fn taught_by(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<Uuid>> {
    let ids = sqlx::query_scalar!(
        "select a.id from assignments a
         join class_members m on m.class_id = a.class_id
         join people p on p.id = m.person_id
         join classes c on c.id = a.class_id
         where p.id = $1 and p.role = 'teacher' order by c.title, a.title, a.id",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(ids)
}

/// The students who have begun an assignment, by name.
///
/// # Errors
/// What the database said.
pub async fn students_at(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<Person>> {
    let rows = sqlx::query!(
        "select p.id, p.user_name, p.display_name from works w join people p on p.id = w.student_id
         where w.assignment_id = $1 and p.role = 'student' order by p.display_name, p.id",
        assignment
    )
    .fetch_all(db)
    .await?;
    let student = |id, user_name, display_name| Person {
        id: PersonId(id),
        user_name,
        display_name,
        role: Role::Student,
    };
    Ok(rows
        .into_iter()
        .map(|r| student(r.id, r.user_name, r.display_name))
        .collect())
}

/// A file that belongs to work in a class that someone teaches.
///
/// # Errors
/// What the database said.
pub async fn find_attachment_taught(
    db: impl PgExecutor<'_>,
    teacher: PersonId,
    id: Uuid,
) -> Result<Option<Attachment>> {
    let found = sqlx::query_as!(
        Attachment,
        "select f.name, f.media_type, f.bytes from attachments f
         join works w on w.id = f.work_id
         join assignments a on a.id = w.assignment_id
         join class_members m on m.class_id = a.class_id
         join people p on p.id = m.person_id
         where f.id = $1 and p.id = $2 and p.role = 'teacher'",
        id,
        teacher.0
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}
