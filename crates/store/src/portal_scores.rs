//! Scores on their way to portals: noted by a trigger in the transaction that changes them, taken by whichever server is
//! first.

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// Where a score is to go.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PortalPlace {
    pub line: Uuid,
    pub line_url: Option<String>,
    pub portal: Uuid,
    pub course: Uuid,
    pub line_items_url: Option<String>,
    pub assignment: Uuid,
    pub title: String,
}

/// A score that was taken to be sent.
#[derive(Clone, Debug, PartialEq)]
pub struct DueScore {
    pub place: PortalPlace,
    pub student: PersonId,
    /// What the portal calls them.
    pub subject: String,
    pub wanted: i64,
    /// Orders the scores of this student at this line.
    pub wanted_at: OffsetDateTime,
    pub sent_state: Option<String>,
    pub tries: i32,
}

/// The portals for which scores are due, but for those that are away.
///
/// # Errors
/// What the database said.
pub async fn portals_due(db: impl PgExecutor<'_>, now: OffsetDateTime) -> Result<Vec<Uuid>> {
    let found = sqlx::query_scalar!(
        "select distinct c.portal_id
         from portal_scores s
         join portal_lines l on l.id = s.line_id
         join portal_courses c on c.id = l.course_id
         join portals p on p.id = c.portal_id
         where s.wanted > s.sent and not s.given_up and s.next_at <= $1
            and (s.taken_until is null or s.taken_until <= $1)
            and p.ended_at is null and (p.away_until is null or p.away_until <= $1)
         order by c.portal_id",
        now
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// Takes scores that are due at a portal, until `until`: whoever is first has them. Those of a portal that is away stay.
///
/// # Errors
/// What the database said.
pub async fn take_due_scores(
    db: impl PgExecutor<'_>,
    portal: Uuid,
    now: OffsetDateTime,
    until: OffsetDateTime,
    most: i64,
) -> Result<Vec<DueScore>> {
    let rows = sqlx::query!(
        r#"with due as (
            select s.line_id, s.student_id, k.subject, l.url, l.course_id, l.assignment_id, c.portal_id, c.line_items_url, a.title
            from portal_scores s
            join portal_lines l on l.id = s.line_id
            join portal_courses c on c.id = l.course_id
            join portals p on p.id = c.portal_id
            join assignments a on a.id = l.assignment_id
            join lateral (select min(k.subject) as subject from portal_people k
                where k.portal_id = p.id and k.person_id = s.student_id) k on k.subject is not null
            where c.portal_id = $4 and s.wanted > s.sent and not s.given_up and s.next_at <= $1
                and (s.taken_until is null or s.taken_until <= $1)
                and p.ended_at is null and (p.away_until is null or p.away_until <= $1)
            order by s.wanted_at, s.line_id, s.student_id limit $3
            for update of s skip locked
           )
           update portal_scores s set taken_until = $2 from due d
           where s.line_id = d.line_id and s.student_id = d.student_id
           returning s.line_id, s.student_id, d.subject as "subject!", s.wanted, s.wanted_at, s.sent_state, s.tries,
            d.url, d.course_id, d.assignment_id, d.portal_id, d.line_items_url, d.title"#,
        now,
        until,
        most,
        portal
    )
    .fetch_all(db)
    .await?;
    let mut due: Vec<DueScore> = rows
        .into_iter()
        .map(|r| DueScore {
            place: PortalPlace {
                line: r.line_id,
                line_url: r.url,
                portal: r.portal_id,
                course: r.course_id,
                line_items_url: r.line_items_url,
                assignment: r.assignment_id,
                title: r.title,
            },
            student: PersonId(r.student_id),
            subject: r.subject,
            wanted: r.wanted,
            wanted_at: r.wanted_at,
            sent_state: r.sent_state,
            tries: r.tries,
        })
        .collect();
    due.sort_by_key(|d| d.wanted_at);
    Ok(due)
}

/// What came of sending a score.
#[derive(Clone, Debug, PartialEq)]
pub enum Moved<'a> {
    /// The portal has it, or one that is newer.
    Sent { state: &'a str, answer: &'a str },
    /// To be tried again then.
    Later { at: OffsetDateTime, answer: &'a str },
    /// The results are not out; to be looked at again then.
    Held { until: OffsetDateTime },
    /// It was tried for as long as it makes sense.
    GivenUp { answer: &'a str },
}

/// A score is about to be sent: what the portal has is not known for certain until it has answered.
///
/// # Errors
/// What the database said.
pub async fn score_leaves(db: impl PgExecutor<'_>, due: &DueScore) -> Result<()> {
    sqlx::query!(
        "update portal_scores set sent_state = null where line_id = $1 and student_id = $2",
        due.place.line,
        due.student.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Writes down what came of sending a score.
///
/// # Errors
/// What the database said.
pub async fn put_score_moved(
    db: impl PgExecutor<'_>,
    due: &DueScore,
    moved: &Moved<'_>,
    now: OffsetDateTime,
) -> Result<()> {
    let (line, student) = (due.place.line, due.student.0);
    match moved {
        Moved::Sent { state, answer } => {
            sqlx::query!(
                "update portal_scores set sent = $3, sent_at = $4, sent_stamp = $5, sent_state = $6, answer = $7, tries = 0,
                    taken_until = null, held = false
                 where line_id = $1 and student_id = $2 and sent < $3",
                line,
                student,
                due.wanted,
                now,
                due.wanted_at,
                state,
                answer
            )
            .execute(db)
            .await?;
        }
        Moved::Later { at, answer } => {
            sqlx::query!(
                "update portal_scores set tries = tries + 1, answer = $3, taken_until = null, held = false,
                    next_at = case when wanted = $5 then $4 else next_at end
                 where line_id = $1 and student_id = $2",
                line,
                student,
                answer,
                at,
                due.wanted
            )
            .execute(db)
            .await?;
        }
        Moved::Held { until } => {
            sqlx::query!(
                "update portal_scores set held = true, taken_until = null,
                    next_at = case when wanted = $4 then $3 else next_at end
                 where line_id = $1 and student_id = $2",
                line,
                student,
                until,
                due.wanted
            )
            .execute(db)
            .await?;
        }
        Moved::GivenUp { answer } => {
            sqlx::query!(
                "update portal_scores set given_up = wanted = $4, answer = $3, taken_until = null, held = false
                 where line_id = $1 and student_id = $2",
                line,
                student,
                answer,
                due.wanted
            )
            .execute(db)
            .await?;
        }
    }
    Ok(())
}

/// A portal does not answer: nothing is sent before `until`.
///
/// # Errors
/// What the database said.
pub async fn portal_away(
    db: impl PgExecutor<'_>,
    portal: Uuid,
    pause: impl Fn(i32) -> time::Duration,
    now: OffsetDateTime,
) -> Result<()> {
    // Eight pauses are more than ever differ.
    let pauses: Vec<f64> = (0..8).map(|n| pause(n).as_seconds_f64()).collect();
    sqlx::query!(
        "update portals set away_tries = away_tries + 1,
            away_until = $2::timestamptz + make_interval(secs => ($3::float8[])[least(away_tries, 7) + 1])
         where id = $1 and (away_until is null or away_until <= $2)",
        portal,
        now,
        &pauses
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A portal answers.
///
/// # Errors
/// What the database said.
pub async fn portal_answers(db: impl PgExecutor<'_>, portal: Uuid) -> Result<()> {
    sqlx::query!(
        "update portals set away_tries = 0, away_until = null where id = $1 and (away_tries > 0 or away_until is not null)",
        portal
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Where a student's recorded score stands on its way.
#[derive(Clone, Debug, PartialEq)]
pub struct ScoreInPortal {
    pub assignment: Uuid,
    pub portal: String,
    pub wanted: i64,
    pub wanted_at: OffsetDateTime,
    pub sent: i64,
    pub sent_at: Option<OffsetDateTime>,
    pub held: bool,
    pub given_up: bool,
}

/// Where somebody's recorded scores stand, in the portals that know them.
///
/// # Errors
/// What the database said.
pub async fn scores_in_portals(db: impl PgExecutor<'_>, student: PersonId) -> Result<Vec<ScoreInPortal>> {
    let rows = sqlx::query_as!(
        ScoreInPortal,
        "select l.assignment_id as assignment, p.name as portal, s.wanted, s.wanted_at, s.sent, s.sent_at, s.held, s.given_up
         from portal_scores s join portal_lines l on l.id = s.line_id join portal_courses c on c.id = l.course_id
         join portals p on p.id = c.portal_id
         where s.student_id = $1 and p.ended_at is null
            and exists (select 1 from portal_people k where k.portal_id = p.id and k.person_id = $1)
         order by p.name, l.assignment_id",
        student.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows)
}

/// A score that is not in the portal as it is here, as far as we know.
#[derive(Clone, Debug, PartialEq)]
pub struct UnsettledScore {
    pub line: Uuid,
    pub student: PersonId,
    pub name: String,
    pub assignment: Uuid,
    pub title: String,
    pub wanted_at: OffsetDateTime,
    pub sent_at: Option<OffsetDateTime>,
    pub held: bool,
    pub given_up: bool,
    /// The portal knows this student.
    pub known: bool,
    pub answer: Option<String>,
}

/// What of a class waits, was given up, or can't be sent, the oldest first.
///
/// # Errors
/// What the database said.
pub async fn unsettled_scores(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<UnsettledScore>> {
    let rows = sqlx::query!(
        r#"select s.line_id, s.student_id, q.display_name, l.assignment_id, a.title, s.wanted_at, s.sent_at, s.held, s.given_up,
            exists (select 1 from portal_people k where k.portal_id = c.portal_id and k.person_id = s.student_id) as "known!",
            s.answer
           from portal_scores s join portal_lines l on l.id = s.line_id join portal_courses c on c.id = l.course_id
           join portals p on p.id = c.portal_id join assignments a on a.id = l.assignment_id
           join people q on q.id = s.student_id
           join studies m on m.person_id = s.student_id and m.class_id = c.class_id
           where c.class_id = $1 and p.ended_at is null and s.wanted > s.sent
           order by s.wanted_at, q.display_name"#,
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| UnsettledScore {
            line: r.line_id,
            student: PersonId(r.student_id),
            name: r.display_name,
            assignment: r.assignment_id,
            title: r.title,
            wanted_at: r.wanted_at,
            sent_at: r.sent_at,
            held: r.held,
            given_up: r.given_up,
            known: r.known,
            answer: r.answer,
        })
        .collect())
}

/// Notes scores anew, so that they are sent whatever the portal was sent before: all of a class, or of one line and student.
///
/// # Errors
/// What the database said.
pub async fn note_scores_again(
    db: impl PgExecutor<'_>,
    class: Uuid,
    only: Option<(Uuid, PersonId)>,
    now: OffsetDateTime,
) -> Result<u64> {
    let (line, student) = only.map_or((None, None), |(line, student)| (Some(line), Some(student.0)));
    let done = sqlx::query!(
        "update portal_scores s set wanted = s.wanted + 1,
            wanted_at = greatest($4::timestamptz, s.wanted_at + interval '1 microsecond'),
            next_at = $4, tries = 0, given_up = false, sent_state = null
         from portal_lines l join portal_courses c on c.id = l.course_id
         where l.id = s.line_id and c.class_id = $1 and ($2::uuid is null or s.line_id = $2)
            and ($3::uuid is null or s.student_id = $3)",
        class,
        line,
        student,
        now
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected())
}
