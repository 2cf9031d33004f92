//! Deleting a person for good. Scores of a term that is over stay, without a name.

use coursework::{CheckedPart, Event};
use sqlx::PgPool;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// What was deleted and what stays.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Forgotten {
    pub works_deleted: u64,
    /// Of terms that are over: their scores stay, with nothing that was entered.
    pub works_kept: u64,
}

/// Empties what somebody entered out of what happened, so that its scores stay as they are.
fn emptied(event: Event) -> Event {
    let bare = |mut part: CheckedPart| {
        part.response = marking::Response::default();
        part.reads_as.clear();
        part.speech.clear();
        part.notes.clear();
        part.checks.clear();
        part.at = None;
        part
    };
    match event {
        Event::Checked(mut checked) => {
            checked.parts = checked.parts.into_iter().map(bare).collect();
            Event::Checked(checked)
        }
        Event::KeyCorrected(mut correction) => {
            for remark in &mut correction.remarked {
                remark.parts = std::mem::take(&mut remark.parts).into_iter().map(bare).collect();
            }
            correction.why.clear();
            Event::KeyCorrected(correction)
        }
        Event::ScoredByTeacher {
            question,
            points,
            by,
            parts,
            ..
        } => Event::ScoredByTeacher {
            question,
            points,
            note: String::new(),
            by,
            parts,
        },
        Event::ExceptionGiven(mut exception) => {
            exception.why.clear();
            Event::ExceptionGiven(exception)
        }
        other => other,
    }
}

/// Deletes somebody for good: their account and all they did. Works in classes whose term is over keep their scores, under
/// no name and with nothing that was entered. A teacher's name goes from what they did, which stays.
///
/// # Errors
/// What the database said.
pub async fn forget_person(pool: &PgPool, person: PersonId, now: OffsetDateTime) -> Result<Forgotten> {
    let mut tx = pool.begin().await?;
    let id = person.0;
    let deleted = sqlx::query!(
        "delete from works w using assignments a, classes c
         where w.student_id = $1 and a.id = w.assignment_id and c.id = a.class_id
           and (c.ends_on is null or c.ends_on >= $2::timestamptz::date)",
        id,
        now
    )
    .execute(&mut *tx)
    .await?
    .rows_affected();
    let kept = sqlx::query_scalar!("select id from works where student_id = $1", id)
        .fetch_all(&mut *tx)
        .await?;
    for work in &kept {
        let rows = sqlx::query!("select number, body from events where work_id = $1", work)
            .fetch_all(&mut *tx)
            .await?;
        for row in rows {
            let event: Event = serde_json::from_value(row.body)?;
            let body = serde_json::to_value(emptied(event))?;
            sqlx::query!(
                "update events set body = $3 where work_id = $1 and number = $2",
                work,
                row.number,
                body
            )
            .execute(&mut *tx)
            .await?;
        }
    }
    for table in [
        "drafts",
        "workings",
        "pictures",
        "attachments",
        "paper_ink",
        "work_digests",
    ] {
        let sql = format!("delete from {table} where work_id = any($1)");
        sqlx::query(sqlx::AssertSqlSafe(sql))
            .bind(&kept)
            .execute(&mut *tx)
            .await?;
    }
    for table in [
        "sessions",
        "sign_in_links",
        "practice_runs",
        "placings",
        "slip_notes",
        "pages_read",
        "typing_done",
        "term_cards",
        "page_marks",
        "watchings",
        "watch_acts",
        "reviews",
        "heard",
        "wished_skills",
        "calendars",
        "api_tokens",
        "threads_read",
        "portal_people",
    ] {
        let sql = format!("delete from {table} where person_id = $1");
        sqlx::query(sqlx::AssertSqlSafe(sql))
            .bind(id)
            .execute(&mut *tx)
            .await?;
    }
    for (table, column) in [
        ("threads", "student_id"),
        ("messages", "by_id"),
        ("suggested_skills", "student_id"),
        ("kept_marks", "student_id"),
        ("portal_scores", "student_id"),
        ("paper_copies", "student_id"),
    ] {
        let sql = format!("delete from {table} where {column} = $1");
        sqlx::query(sqlx::AssertSqlSafe(sql))
            .bind(id)
            .execute(&mut *tx)
            .await?;
    }
    // Who and what it was about goes from the record; that something was done stays.
    sqlx::query!("update acts set why = '' where student_id = $1", id)
        .execute(&mut *tx)
        .await?;
    sqlx::query!(
        "update class_members set left_at = coalesce(left_at, $2), group_name = null where person_id = $1",
        id,
        now
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "update people set user_name = $2, display_name = 'Somebody who left', password_hash = 'none', home_class = null,
            beside_at = beside_at + 1
         where id = $1",
        id,
        format!("gone-{}", Uuid::now_v7().simple())
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(Forgotten {
        works_deleted: deleted,
        works_kept: u64::try_from(kept.len()).unwrap_or(0),
    })
}
