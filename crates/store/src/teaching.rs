//! Who teaches whom: the one place where a teacher's reach is looked up.

use coursework::{Settings, SheetCell};
use sqlx::PgExecutor;
use sqlx::types::Json;
use uuid::Uuid;

use crate::Result;
use crate::attachments::Attachment;
use crate::people::{Person, PersonId, Role};
use crate::works::WorkId;

/// Whether someone teaches the class of an assignment.
///
/// # Errors
/// What the database said.
pub async fn teaches(db: impl PgExecutor<'_>, person: PersonId, assignment: Uuid) -> Result<bool> {
    let found = sqlx::query_scalar!(
        r#"select exists(
            select 1 from assignments a join teaches t on t.class_id = a.class_id
            where a.id = $1 and t.person_id = $2) as "found!""#,
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
         join teaches t on t.class_id = a.class_id
         join classes c on c.id = a.class_id
         where t.person_id = $1 and a.given_out order by c.title, a.title, a.id",
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
         join assignments a on a.id = w.assignment_id
         join studies s on s.person_id = w.student_id and s.class_id = a.class_id
         where w.assignment_id = $1 order by p.display_name, p.id",
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
         join teaches t on t.class_id = a.class_id
         where f.id = $1 and t.person_id = $2",
        id,
        teacher.0
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// An assignment as its class's sheet has it at its head.
#[derive(Clone, Debug)]
pub struct SheetColumn {
    pub id: Uuid,
    pub version: i32,
    pub title: String,
    pub settings: Settings,
    pub given_out: bool,
    pub for_groups: Vec<String>,
    pub for_people: Vec<Uuid>,
}

impl SheetColumn {
    /// Whether it is for a student of the class.
    pub fn is_for(&self, person: PersonId, group: Option<&str>) -> bool {
        (self.for_groups.is_empty() && self.for_people.is_empty())
            || group.is_some_and(|g| self.for_groups.iter().any(|f| f == g))
            || self.for_people.contains(&person.0)
    }
}

/// The assignments of a class, by when they are due.
///
/// # Errors
/// What the database said.
pub async fn sheet_columns(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<SheetColumn>> {
    let rows = sqlx::query!(
        r#"select id, version, title, settings as "settings: Json<Settings>", given_out, for_groups, for_people
           from assignments where class_id = $1"#,
        class
    )
    .fetch_all(db)
    .await?;
    let mut columns: Vec<SheetColumn> = rows
        .into_iter()
        .map(|r| SheetColumn {
            id: r.id,
            version: r.version,
            title: r.title,
            settings: r.settings.0,
            given_out: r.given_out,
            for_groups: r.for_groups,
            for_people: r.for_people,
        })
        .collect();
    columns.sort_by_key(|c| (c.settings.due, c.id));
    Ok(columns)
}

/// One student's work on one assignment, as the sheet has it.
#[derive(Clone, Debug)]
pub struct SheetRow {
    pub student: Uuid,
    pub assignment: Uuid,
    pub work: WorkId,
    /// `None` where it was made at another version of the assignment.
    pub cell: Option<SheetCell>,
    pub active_seconds: i64,
}

/// All work of the students of a class.
///
/// # Errors
/// What the database said.
pub async fn sheet_rows(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<SheetRow>> {
    let rows = sqlx::query!(
        r#"select w.id, w.student_id, w.assignment_id, w.active_seconds,
            case when w.sheet_version = a.version then w.sheet end as "cell: Json<SheetCell>"
           from assignments a
           join works w on w.assignment_id = a.id
           join studies s on s.person_id = w.student_id and s.class_id = a.class_id
           where a.class_id = $1 and w.last_event > 0"#,
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| SheetRow {
            student: r.student_id,
            assignment: r.assignment_id,
            work: WorkId(r.id),
            cell: r.cell.map(|c| c.0),
            active_seconds: r.active_seconds,
        })
        .collect())
}
