//! Classes: their terms, their members, and what a teacher did to them.

use sqlx::{PgExecutor, PgPool};
use time::{Date, OffsetDateTime};
use uuid::Uuid;

use crate::Result;
use crate::people::{MemberRole, Person, PersonId, Role};

#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Class {
    pub id: Uuid,
    pub title: String,
    pub starts_on: Option<Date>,
    pub ends_on: Option<Date>,
    pub time_zone: String,
    pub join_code: Option<String>,
    /// From the teacher, on the class's page.
    pub word: String,
    /// Students read what others ask for the class.
    pub class_sees_messages: bool,
}

/// What a class is called, and when and where it is.
#[derive(Clone, Debug)]
pub struct ClassTerms<'a> {
    pub title: &'a str,
    pub starts_on: Option<Date>,
    pub ends_on: Option<Date>,
    pub time_zone: &'a str,
    pub word: &'a str,
    pub class_sees_messages: bool,
}

/// Makes a class, with its first teacher.
///
/// # Errors
/// What the database said.
pub async fn create_class(pool: &PgPool, terms: &ClassTerms<'_>, teacher: PersonId) -> Result<Uuid> {
    let id = sqlx::query_scalar!(
        "with made as (
            insert into classes (id, title, starts_on, ends_on, time_zone, word, class_sees_messages)
            values ($1, $2, $3, $4, $5, $6, $8) returning id),
         joined as (insert into class_members (class_id, person_id, role) select id, $7, 'teacher' from made)
         select id from made",
        Uuid::now_v7(),
        terms.title,
        terms.starts_on,
        terms.ends_on,
        terms.time_zone,
        terms.word,
        teacher.0,
        terms.class_sees_messages
    )
    .fetch_one(pool)
    .await?;
    Ok(id)
}

/// # Errors
/// What the database said.
pub async fn set_class(db: impl PgExecutor<'_>, class: Uuid, terms: &ClassTerms<'_>) -> Result<()> {
    sqlx::query!(
        "update classes set title = $2, starts_on = $3, ends_on = $4, time_zone = $5, word = $6,
            class_sees_messages = $7 where id = $1",
        class,
        terms.title,
        terms.starts_on,
        terms.ends_on,
        terms.time_zone,
        terms.word,
        terms.class_sees_messages
    )
    .execute(db)
    .await?;
    Ok(())
}

/// # Errors
/// What the database said.
pub async fn set_join_code(db: impl PgExecutor<'_>, class: Uuid, code: Option<&str>) -> Result<()> {
    sqlx::query!("update classes set join_code = $2 where id = $1", class, code)
        .execute(db)
        .await?;
    Ok(())
}

/// The class that a code is for.
///
/// # Errors
/// What the database said.
pub async fn find_class_by_code(db: impl PgExecutor<'_>, code: &str) -> Result<Option<Class>> {
    let found = sqlx::query_as!(
        Class,
        "select id, title, starts_on, ends_on, time_zone, join_code, word, class_sees_messages from classes where join_code = $1",
        code
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// A class with how many students are in it, for the list of a teacher's classes.
#[derive(Clone, Debug)]
pub struct TaughtClass {
    pub class: Class,
    pub students: i64,
    pub assignments: i64,
    pub drafts: i64,
    /// Works of which a person still has to mark something.
    pub waiting: i64,
    /// Students who were never seen, or not since `since`.
    pub unseen: i64,
}

/// The classes that someone teaches, by title.
///
/// # Errors
/// What the database said.
pub async fn classes_taught(
    db: impl PgExecutor<'_>,
    teacher: PersonId,
    since: OffsetDateTime,
) -> Result<Vec<TaughtClass>> {
    let rows = sqlx::query!(
        r#"select c.id, c.title, c.starts_on, c.ends_on, c.time_zone, c.join_code, c.word, c.class_sees_messages,
            (select count(*) from studies s where s.class_id = c.id and s.left_at is null) as "students!",
            (select count(*) from assignments a where a.class_id = c.id and a.given_out) as "assignments!",
            (select count(*) from assignments a where a.class_id = c.id and not a.given_out) as "drafts!",
            (select count(*) from assignments a join works w on w.assignment_id = a.id
             join studies s on s.person_id = w.student_id and s.class_id = a.class_id
             where a.class_id = c.id and (w.sheet->>'waiting')::float8 > 0) as "waiting!",
            (select count(*) from studies m where m.class_id = c.id and m.left_at is null
               and not exists (select 1 from works w where w.student_id = m.person_id and w.active_at > $2)
               and not exists (select 1 from sessions s where s.person_id = m.person_id and s.created_at > $2))
                as "unseen!"
           from teaches t join classes c on c.id = t.class_id
           where t.person_id = $1 order by c.title, c.id"#,
        teacher.0,
        since
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| TaughtClass {
            class: Class {
                id: r.id,
                title: r.title,
                starts_on: r.starts_on,
                ends_on: r.ends_on,
                time_zone: r.time_zone,
                join_code: r.join_code,
                word: r.word,
                class_sees_messages: r.class_sees_messages,
            },
            students: r.students,
            assignments: r.assignments,
            drafts: r.drafts,
            waiting: r.waiting,
            unseen: r.unseen,
        })
        .collect())
}

/// A class, if this person teaches it.
///
/// # Errors
/// What the database said.
pub async fn find_class_taught(
    db: impl PgExecutor<'_>,
    teacher: PersonId,
    class: Uuid,
) -> Result<Option<Class>> {
    let found = sqlx::query_as!(
        Class,
        "select c.id, c.title, c.starts_on, c.ends_on, c.time_zone, c.join_code, c.word, c.class_sees_messages
         from teaches t join classes c on c.id = t.class_id where t.person_id = $1 and c.id = $2",
        teacher.0,
        class
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// Someone in a class, or who was.
#[derive(Clone, Debug)]
pub struct Member {
    pub person: Person,
    /// What they are in this class, whatever they are in another.
    pub role: MemberRole,
    pub group: Option<String>,
    pub left_at: Option<OffsetDateTime>,
    pub last_seen: Option<OffsetDateTime>,
    /// Their account was made here, so that a teacher of this class may set a new password.
    pub at_home: bool,
    /// They have a password, and can sign in by themselves.
    pub has_password: bool,
}

/// Everybody of a class, by name; those who were taken out, too.
///
/// # Errors
/// What the database said.
pub async fn members_of(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<Member>> {
    let rows = sqlx::query!(
        r#"select p.id, p.user_name, p.display_name, d.role as "desk_role!", m.role, m.group_name, m.left_at,
            coalesce(p.home_class = m.class_id, false) as "at_home!",
            p.password_hash <> 'none' as "has_password!",
            greatest(
                (select max(w.active_at) from works w where w.student_id = p.id),
                (select max(s.created_at) from sessions s where s.person_id = p.id)) as last_seen
           from class_members m join people p on p.id = m.person_id join desk_roles d on d.person_id = m.person_id
           where m.class_id = $1 and m.role <> 'preview' order by p.display_name, p.id"#,
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Member {
            person: Person {
                id: PersonId(r.id),
                user_name: r.user_name,
                display_name: r.display_name,
                role: Role::of(&r.desk_role),
            },
            role: MemberRole::of(&r.role),
            group: r.group_name,
            left_at: r.left_at,
            last_seen: r.last_seen,
            at_home: r.at_home,
            has_password: r.has_password,
        })
        .collect())
}

/// Puts someone in a class, or brings them back. Who teaches it goes on teaching it.
///
/// # Errors
/// What the database said.
pub async fn join_class(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    role: MemberRole,
    group: Option<&str>,
) -> Result<()> {
    sqlx::query!(
        "with at_home as (update people set home_class = $1 where id = $2 and home_class is null)
         insert into class_members as m (class_id, person_id, group_name, role) values ($1, $2, $3, $4)
         on conflict (class_id, person_id) do update
            set left_at = null, group_name = coalesce($3, m.group_name), role_by_portal = false,
                role = case when m.role = 'teacher' and m.left_at is null then m.role else $4 end",
        class,
        person.0,
        group,
        role.name()
    )
    .execute(db)
    .await?;
    Ok(())
}

/// # Errors
/// What the database said.
pub async fn set_group(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    group: Option<&str>,
) -> Result<()> {
    sqlx::query!(
        "update class_members set group_name = $3 where class_id = $1 and person_id = $2",
        class,
        person.0,
        group
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes someone out of a class, or brings them back where `at` is `None`. Nothing of theirs is lost.
///
/// # Errors
/// What the database said.
pub async fn set_left(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    at: Option<OffsetDateTime>,
) -> Result<()> {
    sqlx::query!(
        "update class_members set left_at = $3 where class_id = $1 and person_id = $2",
        class,
        person.0,
        at
    )
    .execute(db)
    .await?;
    Ok(())
}
