//! What somebody gives to other programs: addresses of calendars, and tokens; and all that is kept about them.

use serde_json::{Map, Value};
use sqlx::{PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::{Person, PersonId, Role};
use crate::works::WorkId;

/// A calendar's address that is in use.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Calendar {
    /// Nothing for one's own due dates.
    pub class: Option<Uuid>,
    pub made_at: OffsetDateTime,
}

/// # Errors
/// What the database said.
pub async fn calendars_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<Calendar>> {
    let found = sqlx::query_as!(
        Calendar,
        "select class_id as class, made_at from calendars where person_id = $1 order by made_at",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// Puts an address in the place of the one there was.
///
/// # Errors
/// What the database said.
pub async fn put_calendar(
    db: impl PgExecutor<'_>,
    person: PersonId,
    class: Option<Uuid>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into calendars (id, person_id, class_id, token_hash, made_at) values ($1, $2, $3, $4, $5)
         on conflict (person_id, (coalesce(class_id, '00000000-0000-0000-0000-000000000000'::uuid)))
         do update set token_hash = excluded.token_hash, made_at = excluded.made_at",
        Uuid::now_v7(),
        person.0,
        class,
        token_hash,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Ends an address.
///
/// # Errors
/// What the database said.
pub async fn drop_calendar(db: impl PgExecutor<'_>, person: PersonId, class: Option<Uuid>) -> Result<()> {
    sqlx::query!(
        "delete from calendars where person_id = $1 and class_id is not distinct from $2",
        person.0,
        class
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whose an address is, and of which class; of a class that its person does not teach any more there is none.
///
/// # Errors
/// What the database said.
pub async fn find_calendar(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> Result<Option<(PersonId, Option<Uuid>)>> {
    let found = sqlx::query!(
        "select c.person_id, c.class_id from calendars c
         where c.token_hash = $1 and (c.class_id is null or exists (
            select 1 from teaches t where t.class_id = c.class_id and t.person_id = c.person_id))",
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(found.map(|r| (PersonId(r.person_id), r.class_id)))
}

/// A personal token, without itself.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ApiToken {
    pub id: Uuid,
    pub name: String,
    pub scopes: Vec<String>,
    pub made_at: OffsetDateTime,
    pub used_at: Option<OffsetDateTime>,
}

/// # Errors
/// What the database said.
pub async fn api_tokens_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<ApiToken>> {
    let found = sqlx::query_as!(
        ApiToken,
        "select id, name, scopes, made_at, used_at from api_tokens where person_id = $1 order by made_at, id",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// # Errors
/// What the database said.
pub async fn put_api_token(
    db: impl PgExecutor<'_>,
    person: PersonId,
    token: &ApiToken,
    token_hash: &[u8],
) -> Result<()> {
    sqlx::query!(
        "insert into api_tokens (id, person_id, name, token_hash, scopes, made_at) values ($1, $2, $3, $4, $5, $6)",
        token.id,
        person.0,
        token.name,
        token_hash,
        &token.scopes,
        token.made_at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Ends one of somebody's tokens; says whether there was one.
///
/// # Errors
/// What the database said.
pub async fn drop_api_token(db: impl PgExecutor<'_>, person: PersonId, id: Uuid) -> Result<bool> {
    let gone = sqlx::query!(
        "delete from api_tokens where person_id = $1 and id = $2",
        person.0,
        id
    )
    .execute(db)
    .await?;
    Ok(gone.rows_affected() == 1)
}

/// Whose a token is, and what it allows; notes that it was used.
///
/// # Errors
/// What the database said.
pub async fn use_api_token(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
    now: OffsetDateTime,
) -> Result<Option<(Person, Vec<String>)>> {
    let found = sqlx::query!(
        r#"update api_tokens t set used_at = $2 from people p join desk_roles d on d.person_id = p.id
         where t.token_hash = $1 and p.id = t.person_id
         returning p.id, p.user_name, p.display_name, d.role as "role!", t.scopes"#,
        token_hash,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(found.map(|r| {
        let person = Person {
            id: PersonId(r.id),
            user_name: r.user_name,
            display_name: r.display_name,
            role: Role::of(&r.role),
        };
        (person, r.scopes)
    }))
}

/// A file that somebody attached or drew.
#[derive(Clone, Debug)]
pub struct OwnFile {
    pub id: Uuid,
    pub name: String,
}

/// All that is kept about somebody, table by table, and their files. No password, no hash and nothing of anybody else's.
///
/// # Errors
/// What the database said.
pub async fn all_of(pool: &PgPool, person: PersonId) -> Result<(Value, Vec<OwnFile>)> {
    let mut all = Map::new();
    for (name, rows) in OWN {
        let query = format!("select coalesce(jsonb_agg(to_jsonb(r)), '[]') from ({rows}) r");
        let rows: Value = sqlx::query_scalar(sqlx::AssertSqlSafe(query))
            .bind(person.0)
            .fetch_one(pool)
            .await?;
        all.insert((*name).to_owned(), rows);
    }
    let files = sqlx::query_as!(
        OwnFile,
        r#"select f.id as "id!", f.name as "name!" from attachments f join works w on w.id = f.work_id
             where w.student_id = $1
           union all
           select p.id, p.id::text || '.png' from pictures p join works w on w.id = p.work_id
             where w.student_id = $1
           order by 1"#,
        person.0
    )
    .fetch_all(pool)
    .await?;
    Ok((Value::Object(all), files))
}

/// The bytes of a file that somebody attached or drew.
///
/// # Errors
/// What the database said.
pub async fn own_file(db: impl PgExecutor<'_>, person: PersonId, id: Uuid) -> Result<Option<Vec<u8>>> {
    let found = sqlx::query_scalar!(
        r#"select f.bytes as "bytes!" from attachments f join works w on w.id = f.work_id
             where w.student_id = $1 and f.id = $2
           union all
           select p.bytes from pictures p join works w on w.id = p.work_id where w.student_id = $1 and p.id = $2"#,
        person.0,
        id
    )
    .fetch_optional(db)
    .await?;
    Ok(found)
}

/// Bytes of the files and pictures that are kept of somebody.
///
/// # Errors
/// What the database said.
pub async fn bytes_kept(db: impl PgExecutor<'_>, person: PersonId) -> Result<i64> {
    let bytes = sqlx::query_scalar!(
        r#"select (coalesce((select sum(octet_length(f.bytes)) from attachments f join works w on w.id = f.work_id
                where w.student_id = $1), 0)
            + coalesce((select sum(octet_length(p.bytes)) from pictures p join works w on w.id = p.work_id
                where w.student_id = $1), 0))::bigint as "bytes!""#,
        person.0
    )
    .fetch_one(db)
    .await?;
    Ok(bytes)
}

/// All work of somebody, also on what they may not work on any more, with its assignment.
///
/// # Errors
/// What the database said.
pub async fn works_by(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<(WorkId, Uuid)>> {
    let rows = sqlx::query!(
        "select id, assignment_id from works where student_id = $1 order by id",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (WorkId(r.id), r.assignment_id))
        .collect())
}

/// All that is kept of a class `$1`, for those who teach it.
///
/// # Errors
/// What the database said.
pub async fn all_of_class(pool: &PgPool, class: uuid::Uuid) -> Result<Value> {
    let mut all = Map::new();
    for (name, rows) in OF_CLASS {
        let query = format!("select coalesce(jsonb_agg(to_jsonb(r)), '[]') from ({rows}) r");
        let rows: Value = sqlx::query_scalar(sqlx::AssertSqlSafe(query))
            .bind(class)
            .fetch_one(pool)
            .await?;
        all.insert((*name).to_owned(), rows);
    }
    Ok(Value::Object(all))
}

const OF_CLASS: &[(&str, &str)] = &[
    (
        "class",
        "select title, starts_on, ends_on, time_zone, word, units from classes where id = $1",
    ),
    (
        "people",
        "select p.id, p.user_name, p.display_name, m.role, m.group_name, m.left_at
         from class_members m join people p on p.id = m.person_id
         where m.class_id = $1 and m.role <> 'preview' order by p.display_name, p.id",
    ),
    (
        "assignments",
        "select a.id, a.title, a.settings, a.given_out,
            array(select q.slug from assignment_questions aq join questions q on q.id = aq.question_id
                where aq.assignment_id = a.id order by aq.position) as questions
         from assignments a where a.class_id = $1 order by a.title, a.id",
    ),
    (
        "works",
        "select w.id, w.assignment_id, w.student_id, w.recorded_percent, w.active_seconds, w.question_seconds
         from works w join assignments a on a.id = w.assignment_id
         join studies s on s.person_id = w.student_id and s.class_id = a.class_id
         where a.class_id = $1 order by w.assignment_id, w.student_id",
    ),
    (
        "events",
        "select e.work_id, e.number, e.at, e.body from events e join works w on w.id = e.work_id
         join assignments a on a.id = w.assignment_id
         join studies s on s.person_id = w.student_id and s.class_id = a.class_id
         where a.class_id = $1 order by e.work_id, e.number",
    ),
    (
        // Only where the student lets their teacher see them.
        "workings",
        "select k.work_id, k.question, k.notes, k.ink from workings k join works w on w.id = k.work_id
         join assignments a on a.id = w.assignment_id where a.class_id = $1 and w.shares_workings",
    ),
    (
        "starting_points",
        "select p.person_id, p.started_at, p.ended_at, p.picture from placings p
         join studies o on o.person_id = p.person_id and o.class_id = p.class_id
         where p.class_id = $1 order by p.started_at, p.id",
    ),
    (
        "messages",
        "select t.id as thread, t.student_id, t.assignment_id, t.question, m.by_id, m.at, m.body
         from messages m join threads t on t.id = m.thread_id join assignments a on a.id = t.assignment_id
         where a.class_id = $1 and m.taken_back_at is null order by m.at",
    ),
    (
        "done",
        "select t.at, t.did, t.why, t.by_id, t.student_id, t.assignment_id from acts t where t.class_id = $1 order by t.at",
    ),
];

/// What is told of each table, of the person `$1`.
const OWN: &[(&str, &str)] = &[
    (
        "person",
        "select id, user_name, display_name, role, welcomed from people where id = $1",
    ),
    (
        "classes",
        "select c.title, m.role, m.group_name, m.left_at from class_members m join classes c on c.id = m.class_id
         where m.person_id = $1 order by c.title",
    ),
    (
        "works",
        "select w.id, a.title as assignment, c.title as class, w.active_seconds, w.question_seconds, w.shares_workings,
            w.recorded_percent
         from works w join assignments a on a.id = w.assignment_id join classes c on c.id = a.class_id
         where w.student_id = $1 order by c.title, a.title",
    ),
    (
        "events",
        // Why a teacher did something is told only where they wish it.
        "select e.work_id, e.number, e.at,
            case when e.body->>'kind' = 'key_corrected'
                or (e.body->>'kind' = 'exception_given' and not coalesce((e.body->>'tell_why')::boolean, false))
            then e.body - 'why' else e.body end as body
         from events e join works w on w.id = e.work_id where w.student_id = $1 order by e.work_id, e.number",
    ),
    (
        "drafts",
        "select d.* from drafts d join works w on w.id = d.work_id where w.student_id = $1",
    ),
    (
        "workings",
        "select k.* from workings k join works w on w.id = k.work_id where w.student_id = $1",
    ),
    (
        "paper",
        "select k.* from paper_ink k join works w on w.id = k.work_id where w.student_id = $1",
    ),
    (
        "portals",
        "select p.name, k.subject, k.made_at from portal_people k join portals p on p.id = k.portal_id where k.person_id = $1",
    ),
    (
        "practice",
        "select r.id, r.started_at, e.number, e.at, e.body from practice_runs r join practice_events e on e.run_id = r.id
         where r.person_id = $1 order by r.started_at, e.number",
    ),
    (
        "starting_points",
        "select c.title as class, p.id, p.started_at, p.ended_at, p.picture, e.number, e.at, e.body
         from placings p join classes c on c.id = p.class_id left join placing_events e on e.placing_id = p.id
         where p.person_id = $1 order by p.started_at, e.number",
    ),
    ("slip_notes", "select * from slip_notes where person_id = $1"),
    ("pages_read", "select * from pages_read where person_id = $1"),
    ("term_cards", "select skill, term, missed, in_row, at from term_cards where person_id = $1"),
    ("page_marks", "select skill, quote, note, made_at, changed_at from page_marks where person_id = $1 order by made_at"),
    (
        "recordings_watched",
        "select r.title, w.state, w.changed_at, w.done_at from watchings w join recordings r on r.id = w.recording_id
         where w.person_id = $1 order by r.title",
    ),
    (
        "done_in_recordings",
        "select r.title, a.at, a.did, a.place from watch_acts a join recordings r on r.id = a.recording_id
         where a.person_id = $1 order by a.at",
    ),
    ("typing_done", "select * from typing_done where person_id = $1"),
    ("recordings_heard", "select * from heard where person_id = $1"),
    ("wished_skills", "select skill, at from wished_skills where person_id = $1"),
    (
        "messages",
        "select m.thread_id, m.at, m.body, m.taken_back_at from messages m where m.by_id = $1 order by m.at",
    ),
    (
        "threads",
        "select t.id, a.title as assignment, t.question, t.kind, t.for_class, t.settled, t.opened_at
         from threads t join assignments a on a.id = t.assignment_id where t.student_id = $1 order by t.opened_at",
    ),
    (
        "done_by_teachers",
        "select t.at, t.did from acts t where t.student_id = $1 order by t.at",
    ),
    ("calendars", "select class_id, made_at from calendars where person_id = $1"),
    (
        "api_tokens",
        "select name, scopes, made_at, used_at from api_tokens where person_id = $1",
    ),
    ("sessions", "select created_at, expires_at from sessions where person_id = $1"),
];
