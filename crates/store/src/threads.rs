//! What students ask of their teacher, and the answers; and a teacher's replies to wrong entries.

use marking::Likeness;
use sqlx::types::Json;
use sqlx::{PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;
use crate::small::{event_from_stored, event_to_stored, from_stored, to_stored};

/// A question that was asked.
#[derive(Clone, Debug)]
pub struct Thread {
    pub id: Uuid,
    pub class: Uuid,
    pub class_title: String,
    pub student: PersonId,
    pub student_name: String,
    pub assignment: Uuid,
    pub assignment_title: String,
    pub question: usize,
    pub set: usize,
    pub event: Option<u32>,
    pub is_query: bool,
    pub for_class: bool,
    pub hidden: bool,
    pub settled: Option<String>,
    pub opened_at: OffsetDateTime,
    /// The first words of its first message.
    pub begins: String,
    pub last_at: OffsetDateTime,
    /// Messages of others that the asking person has not read.
    pub unread: i64,
    /// The asking person teaches its class.
    pub taught: bool,
}

pub struct NewThread<'a> {
    pub assignment: Uuid,
    pub student: PersonId,
    pub question: usize,
    pub set: usize,
    pub event: Option<u32>,
    pub is_query: bool,
    pub for_class: bool,
    /// Who writes first: the student, or a teacher.
    pub by: PersonId,
    pub body: &'a str,
}

#[derive(Clone, Debug)]
pub struct Message {
    pub id: Uuid,
    pub by: PersonId,
    pub by_name: String,
    pub by_teacher: bool,
    pub at: OffsetDateTime,
    pub body: String,
    pub taken_back: bool,
    /// Somebody else has read it.
    pub read: bool,
}

/// Opens a thread with its first message.
///
/// # Errors
/// What the database said.
pub async fn open_thread(pool: &PgPool, new: &NewThread<'_>, now: OffsetDateTime) -> Result<Uuid> {
    let id = Uuid::now_v7();
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "insert into threads (id, class_id, student_id, assignment_id, question, set_number, event, kind, for_class, opened_at)
         select $1, a.class_id, $2, a.id, $4, $5, $6, $7, $8, $9 from assignments a where a.id = $3",
        id,
        new.student.0,
        new.assignment,
        to_stored(new.question)?,
        to_stored(new.set)?,
        new.event.map(event_to_stored).transpose()?,
        if new.is_query { "query" } else { "ask" },
        new.for_class,
        now
    )
    .execute(&mut *tx)
    .await?;
    add_message(&mut *tx, id, new.by, new.body, now).await?;
    tx.commit().await?;
    Ok(id)
}

/// # Errors
/// What the database said.
pub async fn add_message(
    db: impl PgExecutor<'_>,
    thread: Uuid,
    by: PersonId,
    body: &str,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into messages (id, thread_id, by_id, at, body) values ($1, $2, $3, $4, $5)",
        Uuid::now_v7(),
        thread,
        by.0,
        now,
        body
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The threads that somebody may see, those with the newest messages first; one of them, where it is named. A student sees
/// their own, and those of a class they are in that are meant for it; a teacher those of the classes they teach.
///
/// # Errors
/// What the database said.
pub async fn threads_of(
    db: impl PgExecutor<'_>,
    person: PersonId,
    only: Option<Uuid>,
) -> Result<Vec<Thread>> {
    let rows = sqlx::query!(
        r#"select t.id, t.class_id, c.title as class_title, t.student_id, s.display_name as student_name,
            t.assignment_id, a.title as assignment_title, t.question, t.set_number, t.event, t.kind, t.for_class,
            t.hidden, t.settled, t.opened_at,
            exists (select 1 from teaches h where h.class_id = t.class_id and h.person_id = $1) as "taught!",
            (select coalesce(left(m.body, 120), '') from messages m where m.thread_id = t.id and m.taken_back_at is null
             order by m.at limit 1) as begins,
            (select max(m.at) from messages m where m.thread_id = t.id) as "last_at!",
            (select count(*) from messages m where m.thread_id = t.id and m.by_id <> $1 and m.taken_back_at is null
             and m.at > coalesce((select r.read_at from threads_read r where r.thread_id = t.id and r.person_id = $1),
                '-infinity')) as "unread!"
           from threads t
           join classes c on c.id = t.class_id
           join people s on s.id = t.student_id
           join assignments a on a.id = t.assignment_id
           where ($2::uuid is null or t.id = $2) and (
               t.student_id = $1
               or exists (select 1 from teaches h where h.class_id = t.class_id and h.person_id = $1)
               or (t.for_class and not t.hidden and c.class_sees_messages and exists (
                   select 1 from may_work w where w.person_id = $1 and w.assignment_id = t.assignment_id)))
           order by "last_at!" desc limit 300"#,
        person.0,
        only
    )
    .fetch_all(db)
    .await?;
    let mut all = Vec::with_capacity(rows.len());
    for r in rows {
        all.push(Thread {
            id: r.id,
            class: r.class_id,
            class_title: r.class_title,
            student: PersonId(r.student_id),
            student_name: r.student_name,
            assignment: r.assignment_id,
            assignment_title: r.assignment_title,
            question: from_stored(r.question)?,
            set: from_stored(r.set_number)?,
            event: r.event.map(event_from_stored).transpose()?,
            is_query: r.kind == "query",
            for_class: r.for_class,
            hidden: r.hidden,
            settled: r.settled,
            opened_at: r.opened_at,
            begins: r.begins.unwrap_or_default(),
            last_at: r.last_at,
            unread: r.unread,
            taught: r.taught,
        });
    }
    Ok(all)
}

/// The messages of a thread, the oldest first.
///
/// # Errors
/// What the database said.
pub async fn messages_of(db: impl PgExecutor<'_>, thread: Uuid) -> Result<Vec<Message>> {
    let rows = sqlx::query!(
        r#"select m.id, m.by_id, p.display_name, m.by_id <> t.student_id as "by_teacher!", m.at, m.body, m.taken_back_at is not null as "taken_back!",
            exists(select 1 from threads_read r where r.thread_id = m.thread_id and r.person_id <> m.by_id
                and r.read_at >= m.at) as "read!"
           from messages m join people p on p.id = m.by_id join threads t on t.id = m.thread_id where m.thread_id = $1 order by m.at, m.id"#,
        thread
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Message {
            id: r.id,
            by: PersonId(r.by_id),
            by_name: r.display_name,
            by_teacher: r.by_teacher,
            at: r.at,
            body: r.body,
            taken_back: r.taken_back,
            read: r.read,
        })
        .collect())
}

/// # Errors
/// What the database said.
pub async fn set_thread_read(
    db: impl PgExecutor<'_>,
    thread: Uuid,
    person: PersonId,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into threads_read (thread_id, person_id, read_at) values ($1, $2, $3)
         on conflict (thread_id, person_id) do update set read_at = greatest(threads_read.read_at, $3)",
        thread,
        person.0,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes back a message of one's own that nobody else has read. Says whether it was.
///
/// # Errors
/// What the database said.
pub async fn take_message_back(
    db: impl PgExecutor<'_>,
    message: Uuid,
    by: PersonId,
    now: OffsetDateTime,
) -> Result<bool> {
    let done = sqlx::query!(
        "update messages m set taken_back_at = $3, body = ''
         where m.id = $1 and m.by_id = $2 and m.taken_back_at is null and not exists (
            select 1 from threads_read r
            where r.thread_id = m.thread_id and r.person_id <> m.by_id and r.read_at >= m.at)",
        message,
        by.0,
        now
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// # Errors
/// What the database said.
pub async fn set_thread(
    db: impl PgExecutor<'_>,
    thread: Uuid,
    hidden: bool,
    settled: Option<&str>,
) -> Result<()> {
    sqlx::query!(
        "update threads set hidden = $2, settled = coalesce($3, settled) where id = $1",
        thread,
        hidden,
        settled
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Messages of others that somebody has not read, in all threads of their own or of the classes they teach.
///
/// # Errors
/// What the database said.
pub async fn unread_messages(db: impl PgExecutor<'_>, person: PersonId) -> Result<i64> {
    let count = sqlx::query_scalar!(
        r#"select count(*) as "count!" from threads t join messages m on m.thread_id = t.id
           where (t.student_id = $1
               or exists (select 1 from teaches h where h.class_id = t.class_id and h.person_id = $1))
             and m.by_id <> $1 and m.taken_back_at is null
             and m.at > coalesce((select r.read_at from threads_read r where r.thread_id = t.id and r.person_id = $1),
                '-infinity')"#,
        person.0
    )
    .fetch_one(db)
    .await?;
    Ok(count)
}

/// What a teacher says to the next students who slip so.
#[derive(Clone, Debug)]
pub struct TeacherReply {
    pub assignment: Uuid,
    pub question: usize,
    pub part: String,
    pub like: Likeness,
    pub words: String,
}

/// Keeps a reply, in the place of an earlier one to the same. Whoever holds the assignment learns of it by its version.
///
/// # Errors
/// What the database said.
pub async fn put_reply(pool: &PgPool, reply: &TeacherReply, by: PersonId, now: OffsetDateTime) -> Result<()> {
    let like = serde_json::to_value(&reply.like)?;
    let mut tx = pool.begin().await?;
    sqlx::query!(
        "delete from teacher_replies where assignment_id = $1 and question = $2 and part = $3 and likeness = $4",
        reply.assignment,
        to_stored(reply.question)?,
        reply.part,
        like
    )
    .execute(&mut *tx)
    .await?;
    if !reply.words.is_empty() {
        sqlx::query!(
            "insert into teacher_replies (id, assignment_id, question, part, likeness, words, by_id, at)
             values ($1, $2, $3, $4, $5, $6, $7, $8)",
            Uuid::now_v7(),
            reply.assignment,
            to_stored(reply.question)?,
            reply.part,
            like,
            reply.words,
            by.0,
            now
        )
        .execute(&mut *tx)
        .await?;
    }
    sqlx::query!(
        "update assignments set version = version + 1 where id = $1",
        reply.assignment
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}

/// The replies in some assignments.
///
/// # Errors
/// What the database said.
pub async fn replies_in(db: impl PgExecutor<'_>, assignments: &[Uuid]) -> Result<Vec<TeacherReply>> {
    let rows = sqlx::query!(
        r#"select assignment_id, question, part, likeness as "likeness: Json<Likeness>", words
           from teacher_replies where assignment_id = any($1) order by at"#,
        assignments
    )
    .fetch_all(db)
    .await?;
    let mut all = Vec::with_capacity(rows.len());
    for r in rows {
        all.push(TeacherReply {
            assignment: r.assignment_id,
            question: from_stored(r.question)?,
            part: r.part,
            like: r.likeness.0,
            words: r.words,
        });
    }
    Ok(all)
}
