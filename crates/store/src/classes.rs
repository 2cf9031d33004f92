//! Classes: their terms, their members, and what a teacher did to them.

use sqlx::{PgExecutor, PgPool};
use time::{Date, OffsetDateTime};
use uuid::Uuid;

use crate::Result;
use crate::people::{Person, PersonId, Role};

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
}

/// What a class is called, and when and where it is.
#[derive(Clone, Debug)]
pub struct ClassTerms<'a> {
    pub title: &'a str,
    pub starts_on: Option<Date>,
    pub ends_on: Option<Date>,
    pub time_zone: &'a str,
    pub word: &'a str,
}

/// Makes a class, with its first teacher.
///
/// # Errors
/// What the database said.
pub async fn create_class(pool: &PgPool, terms: &ClassTerms<'_>, teacher: PersonId) -> Result<Uuid> {
    let id = sqlx::query_scalar!(
        "with made as (
            insert into classes (id, title, starts_on, ends_on, time_zone, word)
            values ($1, $2, $3, $4, $5, $6) returning id),
         joined as (insert into class_members (class_id, person_id) select id, $7 from made)
         select id from made",
        Uuid::now_v7(),
        terms.title,
        terms.starts_on,
        terms.ends_on,
        terms.time_zone,
        terms.word,
        teacher.0
    )
    .fetch_one(pool)
    .await?;
    Ok(id)
}

/// # Errors
/// What the database said.
pub async fn set_class(db: impl PgExecutor<'_>, class: Uuid, terms: &ClassTerms<'_>) -> Result<()> {
    sqlx::query!(
        "update classes set title = $2, starts_on = $3, ends_on = $4, time_zone = $5, word = $6 where id = $1",
        class,
        terms.title,
        terms.starts_on,
        terms.ends_on,
        terms.time_zone,
        terms.word
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
        "select id, title, starts_on, ends_on, time_zone, join_code, word from classes where join_code = $1",
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
        r#"select c.id, c.title, c.starts_on, c.ends_on, c.time_zone, c.join_code, c.word,
            (select count(*) from class_members m join people p on p.id = m.person_id
             where m.class_id = c.id and m.left_at is null and p.role = 'student') as "students!",
            (select count(*) from assignments a where a.class_id = c.id and a.given_out) as "assignments!",
            (select count(*) from assignments a where a.class_id = c.id and not a.given_out) as "drafts!",
            (select count(*) from assignments a join works w on w.assignment_id = a.id
             join people p on p.id = w.student_id
             where a.class_id = c.id and p.role = 'student' and (w.sheet->>'waiting')::float8 > 0) as "waiting!",
            (select count(*) from class_members m join people p on p.id = m.person_id
             where m.class_id = c.id and m.left_at is null and p.role = 'student'
               and not exists (select 1 from works w where w.student_id = p.id and w.active_at > $2)
               and not exists (select 1 from sessions s where s.person_id = p.id and s.created_at > $2))
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
        "select c.id, c.title, c.starts_on, c.ends_on, c.time_zone, c.join_code, c.word
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
        r#"select p.id, p.user_name, p.display_name, p.role, m.group_name, m.left_at,
            coalesce(p.home_class = m.class_id, false) as "at_home!",
            p.password_hash <> 'none' as "has_password!",
            greatest(
                (select max(w.active_at) from works w where w.student_id = p.id),
                (select max(s.created_at) from sessions s where s.person_id = p.id)) as last_seen
           from class_members m join people p on p.id = m.person_id
           where m.class_id = $1 and p.role <> 'preview' order by p.display_name, p.id"#,
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
                role: Role::of(&r.role),
            },
            group: r.group_name,
            left_at: r.left_at,
            last_seen: r.last_seen,
            at_home: r.at_home,
            has_password: r.has_password,
        })
        .collect())
}

/// Puts someone in a class, or brings them back.
///
/// # Errors
/// What the database said.
pub async fn join_class(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    group: Option<&str>,
) -> Result<()> {
    sqlx::query!(
        "with at_home as (update people set home_class = $1 where id = $2 and home_class is null)
         insert into class_members (class_id, person_id, group_name) values ($1, $2, $3)
         on conflict (class_id, person_id) do update
            set left_at = null, group_name = coalesce($3, class_members.group_name)",
        class,
        person.0,
        group
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

/// Adds somebody whose user name is free. `None` where it is not.
///
/// # Errors
/// What the database said.
pub async fn create_person(
    db: impl PgExecutor<'_>,
    user_name: &str,
    display_name: &str,
    password_hash: &str,
    role: Role,
) -> Result<Option<PersonId>> {
    let id = sqlx::query_scalar!(
        "insert into people (id, user_name, display_name, password_hash, role) values ($1, $2, $3, $4, $5)
         on conflict (user_name) do nothing returning id",
        Uuid::now_v7(),
        user_name,
        display_name,
        password_hash,
        role.name()
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(PersonId))
}

/// Whether nobody is here yet.
///
/// # Errors
/// What the database said.
pub async fn is_empty(db: impl PgExecutor<'_>) -> Result<bool> {
    let any = sqlx::query_scalar!(r#"select exists(select 1 from people) as "any!""#)
        .fetch_one(db)
        .await?;
    Ok(!any)
}

/// Sets a password, and ends every session and link of the person.
///
/// # Errors
/// What the database said.
pub async fn set_password(db: impl PgExecutor<'_>, person: PersonId, hash: &str) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sessions where person_id = $1),
         links as (delete from sign_in_links where person_id = $1)
         update people set password_hash = $2 where id = $1",
        person.0,
        hash
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Keeps a link that signs somebody in once, in the place of earlier ones.
///
/// # Errors
/// What the database said.
pub async fn put_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    person: PersonId,
    now: OffsetDateTime,
    expires: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from sign_in_links where person_id = $2 or expires_at < $3)
         insert into sign_in_links (token_hash, person_id, made_at, expires_at) values ($1, $2, $3, $4)",
        token_hash,
        person.0,
        now,
        expires
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whom a link signs in, if it was not used yet.
///
/// # Errors
/// What the database said.
pub async fn find_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<Person>> {
    let row = sqlx::query!(
        "select p.id, p.user_name, p.display_name, p.role
         from sign_in_links l join people p on p.id = l.person_id
         where l.token_hash = $1 and l.expires_at > $2",
        token_hash,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Person {
        id: PersonId(r.id),
        user_name: r.user_name,
        display_name: r.display_name,
        role: Role::of(&r.role),
    }))
}

/// Uses a link up. Whoever gets the person back was the one who used it.
///
/// # Errors
/// What the database said.
pub async fn use_link(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<PersonId>> {
    let id = sqlx::query_scalar!(
        "delete from sign_in_links where token_hash = $1 and expires_at > $2 returning person_id",
        token_hash,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(PersonId))
}

/// # Errors
/// What the database said.
pub async fn is_welcomed(db: impl PgExecutor<'_>, person: PersonId) -> Result<bool> {
    let welcomed = sqlx::query_scalar!("select welcomed from people where id = $1", person.0)
        .fetch_optional(db)
        .await?;
    Ok(welcomed.unwrap_or(true))
}

/// # Errors
/// What the database said.
pub async fn set_welcomed(db: impl PgExecutor<'_>, person: PersonId) -> Result<()> {
    sqlx::query!("update people set welcomed = true where id = $1", person.0)
        .execute(db)
        .await?;
    Ok(())
}

/// Makes a new student of a class's who stands for nobody, in the place of an earlier one, and lets a session act as them.
///
/// # Errors
/// What the database said.
pub async fn act_as_student(pool: &PgPool, class: Uuid, token_hash: &[u8], name: &str) -> Result<()> {
    let mut tx = pool.begin().await?;
    let user_name = format!("~{}", Uuid::now_v7());
    sqlx::query!(
        "delete from people p using sessions s where s.token_hash = $1 and p.id = s.acts_as and p.role = 'preview'",
        token_hash
    )
    .execute(&mut *tx)
    .await?;
    let id = sqlx::query_scalar!(
        "insert into people (id, user_name, display_name, password_hash, role, welcomed)
         values ($1, $2, $3, 'none', 'preview', true) returning id",
        Uuid::now_v7(),
        user_name,
        name
    )
    .fetch_one(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into class_members (class_id, person_id) values ($1, $2)",
        class,
        id
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update sessions set acts_as = $2 where token_hash = $1",
        token_hash,
        id
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}

/// Ends it: the made-up student goes, with all they did.
///
/// # Errors
/// What the database said.
pub async fn act_as_oneself(pool: &PgPool, token_hash: &[u8]) -> Result<bool> {
    let mut tx = pool.begin().await?;
    let acted = sqlx::query_scalar!(
        r#"with was as (select acts_as from sessions where token_hash = $1 for update),
         now as (update sessions set acts_as = null where token_hash = $1)
         select acts_as as "acts_as?" from was"#,
        token_hash
    )
    .fetch_optional(&mut *tx)
    .await?
    .flatten();
    if let Some(id) = acted {
        sqlx::query!("delete from people where id = $1 and role = 'preview'", id)
            .execute(&mut *tx)
            .await?;
    }
    tx.commit().await?;
    Ok(acted.is_some())
}

/// Whether a session acts as a made-up student.
///
/// # Errors
/// What the database said.
pub async fn acts_as_student(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<bool> {
    let acts = sqlx::query_scalar!(
        r#"select acts_as is not null as "acts!" from sessions where token_hash = $1"#,
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(acts.unwrap_or(false))
}

/// What a teacher did that touches a student.
#[derive(Clone, Debug)]
pub struct Act<'a> {
    pub class: Uuid,
    pub assignment: Option<Uuid>,
    pub student: Option<PersonId>,
    pub by: PersonId,
    pub did: &'a str,
    pub why: &'a str,
}

/// # Errors
/// What the database said.
pub async fn put_act(db: impl PgExecutor<'_>, act: &Act<'_>, at: OffsetDateTime) -> Result<()> {
    sqlx::query!(
        "insert into acts (id, class_id, assignment_id, student_id, by_id, at, did, why)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        Uuid::now_v7(),
        act.class,
        act.assignment,
        act.student.map(|s| s.0),
        act.by.0,
        at,
        act.did,
        act.why
    )
    .execute(db)
    .await?;
    Ok(())
}

/// An act, with names.
#[derive(Clone, Debug)]
pub struct NamedAct {
    pub at: OffsetDateTime,
    pub by: String,
    pub did: String,
    pub why: String,
    pub student: Option<String>,
    pub assignment: Option<String>,
}

/// The latest acts in a class, the newest first.
///
/// # Errors
/// What the database said.
pub async fn acts_in(db: impl PgExecutor<'_>, class: Uuid, most: i64) -> Result<Vec<NamedAct>> {
    let rows = sqlx::query_as!(
        NamedAct,
        r#"select t.at, b.display_name as "by!", t.did as "did!", t.why as "why!",
            s.display_name as "student?", a.title as "assignment?"
           from acts t join people b on b.id = t.by_id
           left join people s on s.id = t.student_id
           left join assignments a on a.id = t.assignment_id
           where t.class_id = $1 order by t.at desc, t.id desc limit $2"#,
        class,
        most
    )
    .fetch_all(db)
    .await?;
    Ok(rows)
}
