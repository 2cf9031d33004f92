//! Portals (LTI platforms): who they are, whom they know, which of their courses is which class.

use serde_json::Value;
use sqlx::{PgExecutor, PgPool};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::{MemberRole, Person, PersonId, Role};

/// A portal that is registered here.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Portal {
    pub id: Uuid,
    pub name: String,
    pub issuer: String,
    pub client_id: String,
    pub authorization_url: String,
    pub token_url: String,
    pub token_audience: Option<String>,
    pub jwks_url: String,
    pub ended_at: Option<OffsetDateTime>,
    pub deployments: Vec<String>,
    /// Its teachers may make classes here.
    pub vouches_for_teachers: bool,
}

/// What is said when a portal is registered, or registered anew.
#[derive(Clone, Debug)]
pub struct PortalChange<'a> {
    pub name: &'a str,
    pub issuer: &'a str,
    pub client_id: &'a str,
    pub authorization_url: &'a str,
    pub token_url: &'a str,
    pub token_audience: Option<&'a str>,
    pub jwks_url: &'a str,
    pub deployments: &'a [String],
    /// Its teachers may make classes here.
    pub vouches_for_teachers: bool,
}

/// Registers a portal; one of the same issuer and client is changed, its deployments added to.
///
/// # Errors
/// What the database said.
pub async fn add_portal(pool: &PgPool, p: &PortalChange<'_>, now: OffsetDateTime) -> Result<Uuid> {
    let mut tx = pool.begin().await?;
    let id = sqlx::query_scalar!(
        "insert into portals (id, name, issuer, client_id, authorization_url, token_url, token_audience, jwks_url, made_at,
            vouches_for_teachers)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
         on conflict (issuer, client_id) do update set name = $2, authorization_url = $5, token_url = $6,
            token_audience = $7, jwks_url = $8, ended_at = null, vouches_for_teachers = $10
         returning id",
        Uuid::now_v7(),
        p.name,
        p.issuer,
        p.client_id,
        p.authorization_url,
        p.token_url,
        p.token_audience,
        p.jwks_url,
        now,
        p.vouches_for_teachers
    )
    .fetch_one(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into portal_deployments (portal_id, deployment) select $1, * from unnest($2::text[]) on conflict do nothing",
        id,
        p.deployments
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(id)
}

struct PortalRow {
    id: Uuid,
    name: String,
    issuer: String,
    client_id: String,
    authorization_url: String,
    token_url: String,
    token_audience: Option<String>,
    jwks_url: String,
    ended_at: Option<OffsetDateTime>,
    deployments: Vec<String>,
    vouches_for_teachers: bool,
}

impl From<PortalRow> for Portal {
    fn from(r: PortalRow) -> Self {
        Portal {
            id: r.id,
            name: r.name,
            issuer: r.issuer,
            client_id: r.client_id,
            authorization_url: r.authorization_url,
            token_url: r.token_url,
            token_audience: r.token_audience,
            jwks_url: r.jwks_url,
            ended_at: r.ended_at,
            deployments: r.deployments,
            vouches_for_teachers: r.vouches_for_teachers,
        }
    }
}

/// All portals, those that were ended too, by name.
///
/// # Errors
/// What the database said.
pub async fn portals_known(db: impl PgExecutor<'_>) -> Result<Vec<Portal>> {
    let rows = sqlx::query_as!(
        PortalRow,
        r#"select id, name, issuer, client_id, authorization_url, token_url, token_audience, jwks_url, ended_at, vouches_for_teachers,
            array(select d.deployment from portal_deployments d where d.portal_id = p.id order by 1) as "deployments!"
           from portals p order by name, id"#
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Portal::from).collect())
}

/// # Errors
/// What the database said.
pub async fn find_portal(db: impl PgExecutor<'_>, id: Uuid) -> Result<Option<Portal>> {
    let row = sqlx::query_as!(
        PortalRow,
        r#"select id, name, issuer, client_id, authorization_url, token_url, token_audience, jwks_url, ended_at, vouches_for_teachers,
            array(select d.deployment from portal_deployments d where d.portal_id = p.id order by 1) as "deployments!"
           from portals p where id = $1"#,
        id
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(Portal::from))
}

/// Nobody comes from it any more, and nothing is sent to it. Says whether there was one.
///
/// # Errors
/// What the database said.
pub async fn end_portal(db: impl PgExecutor<'_>, issuer: &str, now: OffsetDateTime) -> Result<bool> {
    let done = sqlx::query!(
        "update portals set ended_at = $2 where issuer = $1 and ended_at is null",
        issuer,
        now
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// Our keys, the newest first: their names, PEM, and when they were made.
///
/// # Errors
/// What the database said.
pub async fn keys_of_ours(db: impl PgExecutor<'_>) -> Result<Vec<(String, String, OffsetDateTime)>> {
    let rows = sqlx::query!("select kid, pem, made_at from lti_keys order by made_at desc, kid")
        .fetch_all(db)
        .await?;
    Ok(rows.into_iter().map(|r| (r.kid, r.pem, r.made_at)).collect())
}

/// Adds a key of ours, unless one was made since `unless_since`; keys older than `drop_before` go.
///
/// # Errors
/// What the database said.
pub async fn put_key_of_ours(
    pool: &PgPool,
    kid: &str,
    pem: &str,
    now: OffsetDateTime,
    unless_any: bool,
    drop_before: OffsetDateTime,
) -> Result<()> {
    let mut tx = pool.begin().await?;
    // Two servers that start side by side make one key.
    sqlx::query!("lock table lti_keys in share row exclusive mode")
        .execute(&mut *tx)
        .await?;
    let made = sqlx::query!(
        "insert into lti_keys (kid, pem, made_at) select $1, $2, $3
         where not $4 or not exists (select 1 from lti_keys)",
        kid,
        pem,
        now,
        unless_any
    )
    .execute(&mut *tx)
    .await?
    .rows_affected();
    if made > 0 {
        sqlx::query!(
            "delete from lti_keys where made_at < $1 and kid <> $2",
            drop_before,
            kid
        )
        .execute(&mut *tx)
        .await?;
    }
    tx.commit().await?;
    Ok(())
}

/// Keeps a sign-in that was begun; what has run out goes.
///
/// # Errors
/// What the database said.
pub async fn put_state(
    db: impl PgExecutor<'_>,
    state: &[u8],
    browser: &[u8],
    portal: Uuid,
    nonce: &str,
    now: OffsetDateTime,
    expires_at: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with old as (delete from lti_states where expires_at <= $5)
         insert into lti_states (state_hash, browser_hash, portal_id, nonce, expires_at) values ($1, $2, $3, $4, $6)",
        state,
        browser,
        portal,
        nonce,
        now,
        expires_at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes a sign-in that was begun: its portal and nonce, the first time this is asked for by the browser that began it.
///
/// # Errors
/// What the database said.
pub async fn take_state(
    db: impl PgExecutor<'_>,
    state: &[u8],
    browser: &[u8],
    now: OffsetDateTime,
) -> Result<Option<(Uuid, String)>> {
    let row = sqlx::query!(
        "delete from lti_states where state_hash = $1 and browser_hash = $2 and expires_at > $3
         returning portal_id, nonce",
        state,
        browser,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.portal_id, r.nonce)))
}

/// Keeps what came with a launch for the browser that came; what has run out goes.
///
/// # Errors
/// What the database said.
pub async fn put_arrival(
    db: impl PgExecutor<'_>,
    token: &[u8],
    portal: Uuid,
    body: &Value,
    now: OffsetDateTime,
    expires_at: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with old as (delete from portal_arrivals where expires_at <= $4)
         insert into portal_arrivals (token_hash, portal_id, body, expires_at) values ($1, $2, $3, $5)",
        token,
        portal,
        body,
        now,
        expires_at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// # Errors
/// What the database said.
pub async fn find_arrival(
    db: impl PgExecutor<'_>,
    token: &[u8],
    now: OffsetDateTime,
) -> Result<Option<(Uuid, Value)>> {
    let row = sqlx::query!(
        "select portal_id, body from portal_arrivals where token_hash = $1 and expires_at > $2",
        token,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.portal_id, r.body)))
}

/// As [`find_arrival`], the first time only.
///
/// # Errors
/// What the database said.
pub async fn take_arrival(
    db: impl PgExecutor<'_>,
    token: &[u8],
    now: OffsetDateTime,
) -> Result<Option<(Uuid, Value)>> {
    let row = sqlx::query!(
        "delete from portal_arrivals where token_hash = $1 and expires_at > $2 returning portal_id, body",
        token,
        now
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.portal_id, r.body)))
}

/// Whom a portal means.
///
/// # Errors
/// What the database said.
pub async fn find_in_portal(db: impl PgExecutor<'_>, portal: Uuid, subject: &str) -> Result<Option<Person>> {
    let row = sqlx::query!(
        "select p.id, p.user_name, p.display_name, p.role from portal_people k join people p on p.id = k.person_id
         where k.portal_id = $1 and k.subject = $2",
        portal,
        subject
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

/// Says who a portal means from now on. `false` where it means somebody else already.
///
/// # Errors
/// What the database said.
pub async fn link_in_portal(
    db: impl PgExecutor<'_>,
    portal: Uuid,
    subject: &str,
    person: PersonId,
    now: OffsetDateTime,
) -> Result<bool> {
    let linked = sqlx::query_scalar!(
        r#"with put as (
            insert into portal_people (portal_id, subject, person_id, made_at) values ($1, $2, $3, $4)
            on conflict (portal_id, subject) do nothing returning person_id
           )
           select coalesce((select person_id from put),
            (select person_id from portal_people where portal_id = $1 and subject = $2)) = $3 as "ours!""#,
        portal,
        subject,
        person.0,
        now
    )
    .fetch_one(db)
    .await?;
    Ok(linked)
}

/// Everybody whom a portal means, with what it calls them.
///
/// # Errors
/// What the database said.
pub async fn subjects_of(db: impl PgExecutor<'_>, portal: Uuid) -> Result<Vec<(String, PersonId)>> {
    let rows = sqlx::query!(
        "select subject, person_id from portal_people where portal_id = $1",
        portal
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (r.subject, PersonId(r.person_id)))
        .collect())
}

/// The names of the portals from which somebody comes.
///
/// # Errors
/// What the database said.
pub async fn portals_of_person(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<(Uuid, String)>> {
    let rows = sqlx::query!(
        "select distinct p.id, p.name from portal_people k join portals p on p.id = k.portal_id
         where k.person_id = $1 and p.ended_at is null order by p.name",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| (r.id, r.name)).collect())
}

/// A course of a portal, with the class that it is here.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PortalCourse {
    pub id: Uuid,
    pub portal: Uuid,
    pub portal_name: String,
    pub deployment: String,
    pub context: String,
    pub title: String,
    pub class: Uuid,
    pub memberships_url: Option<String>,
    pub line_items_url: Option<String>,
    pub asked_at: Option<OffsetDateTime>,
    pub asked_answer: Option<String>,
}

struct CourseRow {
    id: Uuid,
    portal_id: Uuid,
    portal_name: String,
    deployment: String,
    context: String,
    title: String,
    class_id: Uuid,
    memberships_url: Option<String>,
    line_items_url: Option<String>,
    asked_at: Option<OffsetDateTime>,
    asked_answer: Option<String>,
}

impl From<CourseRow> for PortalCourse {
    fn from(r: CourseRow) -> Self {
        PortalCourse {
            id: r.id,
            portal: r.portal_id,
            portal_name: r.portal_name,
            deployment: r.deployment,
            context: r.context,
            title: r.title,
            class: r.class_id,
            memberships_url: r.memberships_url,
            line_items_url: r.line_items_url,
            asked_at: r.asked_at,
            asked_answer: r.asked_answer,
        }
    }
}

/// # Errors
/// What the database said.
pub async fn find_course(
    db: impl PgExecutor<'_>,
    portal: Uuid,
    deployment: &str,
    context: &str,
) -> Result<Option<PortalCourse>> {
    let row = sqlx::query_as!(
        CourseRow,
        r#"select c.id, c.portal_id, p.name as portal_name, c.deployment, c.context, c.title, c.class_id, c.memberships_url,
            c.line_items_url, c.asked_at, c.asked_answer
           from portal_courses c join portals p on p.id = c.portal_id
           where c.portal_id = $1 and c.deployment = $2 and c.context = $3"#,
        portal,
        deployment,
        context
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(PortalCourse::from))
}

/// The courses that a class is.
///
/// # Errors
/// What the database said.
pub async fn courses_of_class(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<PortalCourse>> {
    let rows = sqlx::query_as!(
        CourseRow,
        r#"select c.id, c.portal_id, p.name as portal_name, c.deployment, c.context, c.title, c.class_id, c.memberships_url,
            c.line_items_url, c.asked_at, c.asked_answer
           from portal_courses c join portals p on p.id = c.portal_id
           where c.class_id = $1 and p.ended_at is null order by c.title, c.id"#,
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(PortalCourse::from).collect())
}

/// Takes courses whose members were not asked for since `before`, and marks them as asked now.
///
/// # Errors
/// What the database said.
pub async fn due_courses(
    db: impl PgExecutor<'_>,
    before: OffsetDateTime,
    now: OffsetDateTime,
) -> Result<Vec<PortalCourse>> {
    let rows = sqlx::query_as!(
        CourseRow,
        r#"with due as (
            select c.id from portal_courses c join portals p on p.id = c.portal_id
            where c.memberships_url is not null and (c.asked_at is null or c.asked_at < $1) and p.ended_at is null
                and (p.away_until is null or p.away_until <= $2)
            order by c.asked_at nulls first limit 4 for update of c skip locked
           )
           update portal_courses c set asked_at = $2 from due d, portals p where c.id = d.id and p.id = c.portal_id
           returning c.id, c.portal_id, p.name as portal_name, c.deployment, c.context, c.title, c.class_id, c.memberships_url,
            c.line_items_url, c.asked_at, c.asked_answer"#,
        before,
        now
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(PortalCourse::from).collect())
}

/// Says which class a course is.
///
/// # Errors
/// What the database said.
pub async fn put_course(
    db: impl PgExecutor<'_>,
    portal: Uuid,
    deployment: &str,
    context: &str,
    title: &str,
    class: Uuid,
) -> Result<Uuid> {
    let id = sqlx::query_scalar!(
        "insert into portal_courses (id, portal_id, deployment, context, title, class_id) values ($1, $2, $3, $4, $5, $6)
         on conflict (portal_id, deployment, context) do update set title = $5, class_id = $6 returning id",
        Uuid::now_v7(),
        portal,
        deployment,
        context,
        title,
        class
    )
    .fetch_one(db)
    .await?;
    Ok(id)
}

/// Where the services of a course are, as a launch says it; what it does not say stays.
///
/// # Errors
/// What the database said.
pub async fn set_course_urls(
    db: impl PgExecutor<'_>,
    course: Uuid,
    memberships: Option<&str>,
    line_items: Option<&str>,
) -> Result<()> {
    sqlx::query!(
        "update portal_courses set memberships_url = coalesce($2, memberships_url),
            line_items_url = coalesce($3, line_items_url)
         where id = $1",
        course,
        memberships,
        line_items
    )
    .execute(db)
    .await?;
    Ok(())
}

/// What came of asking for a course's members.
///
/// # Errors
/// What the database said.
pub async fn save_asked(
    db: impl PgExecutor<'_>,
    course: Uuid,
    answer: &str,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "update portal_courses set asked_at = $3, asked_answer = $2 where id = $1",
        course,
        answer,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A class is a course no longer; its scores are sent there no more.
///
/// # Errors
/// What the database said.
pub async fn drop_course(db: impl PgExecutor<'_>, class: Uuid, course: Uuid) -> Result<bool> {
    let done = sqlx::query!(
        "delete from portal_courses where id = $2 and class_id = $1",
        class,
        course
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// Somebody left a class by the portal's list. Says whether that changed anything.
///
/// # Errors
/// What the database said.
pub async fn set_left_by_portal(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    at: OffsetDateTime,
) -> Result<bool> {
    let done = sqlx::query!(
        "update class_members set left_at = $3, left_by_portal = true
         where class_id = $1 and person_id = $2 and left_at is null",
        class,
        person.0,
        at
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// Somebody is in a course of a portal: in its class from now on, as what the course says. Whom a teacher took out stays
/// out, and who was made a teacher of the class here stays one. Says whether they are new there, or back.
///
/// # Errors
/// What the database said.
pub async fn come_by_portal(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
    role: MemberRole,
) -> Result<bool> {
    let came = sqlx::query_scalar!(
        r#"with was as (select left_by_portal from class_members where class_id = $1 and person_id = $2),
         at_home as (update people set home_class = $1 where id = $2 and home_class is null),
         now as (
            insert into class_members as m (class_id, person_id, role, role_by_portal) values ($1, $2, $3, true)
            on conflict (class_id, person_id) do update set
                left_at = case when m.left_by_portal then null else m.left_at end,
                left_by_portal = false,
                role = case when m.role = 'teacher' and not m.role_by_portal then m.role else $3 end,
                role_by_portal = m.role_by_portal or m.role <> 'teacher'
            where m.left_by_portal or m.role <> $3)
         select coalesce((select left_by_portal from was), true) as "came!""#,
        class,
        person.0,
        role.name()
    )
    .fetch_one(db)
    .await?;
    Ok(came)
}

/// An assignment's column in a portal's grade book.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PortalLine {
    pub id: Uuid,
    pub course: Uuid,
    pub assignment: Uuid,
    pub title: String,
    pub url: Option<String>,
}

/// An assignment has a column in a course from now on: scores that were recorded before are noted, too.
///
/// # Errors
/// What the database said.
pub async fn put_line(
    db: impl PgExecutor<'_>,
    course: Uuid,
    assignment: Uuid,
    url: Option<&str>,
    now: OffsetDateTime,
) -> Result<Uuid> {
    let id = sqlx::query_scalar!(
        "with before as (
            select id from portal_lines where course_id = $2 and assignment_id = $3
         ), put as (
            insert into portal_lines as l (id, course_id, assignment_id, url) values ($1, $2, $3, $4)
            on conflict (course_id, assignment_id) do update set url = coalesce($4, l.url) returning id
         ), noted as (
            insert into portal_scores (line_id, student_id, wanted_at, next_at)
            select put.id, w.student_id, $5, $5 from put, works w
            where w.assignment_id = $3 and w.recorded_percent is not null and not exists (select from before)
            on conflict do nothing
         )
         select id from put",
        Uuid::now_v7(),
        course,
        assignment,
        url,
        now
    )
    .fetch_one(db)
    .await?;
    Ok(id)
}

/// # Errors
/// What the database said.
pub async fn set_line_url(db: impl PgExecutor<'_>, line: Uuid, url: &str) -> Result<()> {
    sqlx::query!("update portal_lines set url = $2 where id = $1", line, url)
        .execute(db)
        .await?;
    Ok(())
}

/// # Errors
/// What the database said.
pub async fn find_line(db: impl PgExecutor<'_>, line: Uuid) -> Result<Option<PortalLine>> {
    let row = sqlx::query_as!(
        PortalLine,
        "select l.id, l.course_id as course, l.assignment_id as assignment, a.title, l.url
         from portal_lines l join assignments a on a.id = l.assignment_id where l.id = $1",
        line
    )
    .fetch_optional(db)
    .await?;
    Ok(row)
}

/// The columns that a class's assignments have in portals.
///
/// # Errors
/// What the database said.
pub async fn lines_of_class(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<PortalLine>> {
    let rows = sqlx::query_as!(
        PortalLine,
        "select l.id, l.course_id as course, l.assignment_id as assignment, a.title, l.url
         from portal_lines l join portal_courses c on c.id = l.course_id join assignments a on a.id = l.assignment_id
         where c.class_id = $1 order by a.title, l.id",
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows)
}

/// Whether somebody has this name whom the portal does not know.
///
/// # Errors
/// What the database said.
pub async fn is_name_unlinked(db: impl PgExecutor<'_>, portal: Uuid, name: &str) -> Result<bool> {
    let there = sqlx::query_scalar!(
        r#"select exists (select 1 from people p where lower(p.display_name) = lower($2) and p.role <> 'preview'
            and not exists (select 1 from portal_people k where k.portal_id = $1 and k.person_id = p.id)) as "there!""#,
        portal,
        name
    )
    .fetch_one(db)
    .await?;
    Ok(there)
}

/// # Errors
/// What the database said.
pub async fn role_in_class(
    db: impl PgExecutor<'_>,
    class: Uuid,
    person: PersonId,
) -> Result<Option<MemberRole>> {
    let role = sqlx::query_scalar!(
        "select role from class_members where class_id = $1 and person_id = $2 and left_at is null",
        class,
        person.0
    )
    .fetch_optional(db)
    .await?;
    Ok(role.map(|r| MemberRole::of(&r)))
}

/// # Errors
/// What the database said.
pub async fn class_title(db: impl PgExecutor<'_>, class: Uuid) -> Result<Option<String>> {
    let title = sqlx::query_scalar!("select title from classes where id = $1", class)
        .fetch_optional(db)
        .await?;
    Ok(title)
}

/// # Errors
/// What the database said.
pub async fn is_assignment_of(db: impl PgExecutor<'_>, assignment: Uuid, class: Uuid) -> Result<bool> {
    let there = sqlx::query_scalar!(
        r#"select exists (select 1 from assignments where id = $1 and class_id = $2) as "there!""#,
        assignment,
        class
    )
    .fetch_one(db)
    .await?;
    Ok(there)
}

/// # Errors
/// What the database said.
pub async fn is_portal_away(db: impl PgExecutor<'_>, portal: Uuid, now: OffsetDateTime) -> Result<bool> {
    let away = sqlx::query_scalar!(
        r#"select exists (select 1 from portals where id = $1 and away_until > $2) as "away!""#,
        portal,
        now
    )
    .fetch_one(db)
    .await?;
    Ok(away)
}

/// The recorded scores of an assignment, per cent.
///
/// # Errors
/// What the database said.
pub async fn recorded_of(db: impl PgExecutor<'_>, assignment: Uuid) -> Result<Vec<(PersonId, f64)>> {
    let rows = sqlx::query!(
        r#"select student_id, recorded_percent as "percent!" from works
           where assignment_id = $1 and recorded_percent is not null"#,
        assignment
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (PersonId(r.student_id), r.percent))
        .collect())
}

/// The classes of this title.
///
/// # Errors
/// What the database said.
pub async fn classes_called(db: impl PgExecutor<'_>, title: &str) -> Result<Vec<Uuid>> {
    let ids = sqlx::query_scalar!("select id from classes where title = $1 order by id", title)
        .fetch_all(db)
        .await?;
    Ok(ids)
}
