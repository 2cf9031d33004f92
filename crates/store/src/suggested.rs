//! Skills that teachers suggest, and that students wish for.

use std::collections::BTreeMap;

use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::Result;
use crate::people::PersonId;

/// A skill that a teacher would like some students to reach.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Suggestion {
    pub id: Uuid,
    pub class: Uuid,
    pub class_title: String,
    pub skill: String,
    /// For the whole class where there is neither a group nor a student.
    pub group: Option<String>,
    pub student: Option<PersonId>,
    pub why: String,
    /// The teacher's name.
    pub by: String,
    pub at: OffsetDateTime,
}

impl Suggestion {
    /// Whether it is for a student of its class.
    pub fn is_for(&self, person: PersonId, group: Option<&str>) -> bool {
        match (&self.group, self.student) {
            (Some(wanted), _) => group == Some(wanted.as_str()),
            (None, Some(student)) => student == person,
            (None, None) => true,
        }
    }
}

struct Row {
    id: Uuid,
    class_id: Uuid,
    title: String,
    skill: String,
    group_name: Option<String>,
    student_id: Option<Uuid>,
    why: String,
    by: String,
    at: OffsetDateTime,
}

impl Row {
    fn suggestion(self) -> Suggestion {
        Suggestion {
            id: self.id,
            class: self.class_id,
            class_title: self.title,
            skill: self.skill,
            group: self.group_name,
            student: self.student_id.map(PersonId),
            why: self.why,
            by: self.by,
            at: self.at,
        }
    }
}

/// For whom a skill is suggested.
#[derive(Clone, Copy, Debug)]
pub struct SuggestTo<'a> {
    pub class: Uuid,
    pub group: Option<&'a str>,
    pub student: Option<PersonId>,
}

/// # Errors
/// What the database said.
pub async fn suggest_skill(
    db: impl PgExecutor<'_>,
    to: SuggestTo<'_>,
    skill: &str,
    why: &str,
    by: PersonId,
    now: OffsetDateTime,
) -> Result<Uuid> {
    let id = Uuid::now_v7();
    sqlx::query!(
        "insert into suggested_skills (id, class_id, skill, group_name, student_id, why, by_id, at)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        id,
        to.class,
        skill,
        to.group,
        to.student.map(|s| s.0),
        why,
        by.0,
        now
    )
    .execute(db)
    .await?;
    Ok(id)
}

/// Takes a suggestion of a class back; says whether there was one.
///
/// # Errors
/// What the database said.
pub async fn drop_suggestion(db: impl PgExecutor<'_>, class: Uuid, id: Uuid) -> Result<bool> {
    let gone = sqlx::query!(
        "delete from suggested_skills where class_id = $1 and id = $2",
        class,
        id
    )
    .execute(db)
    .await?;
    Ok(gone.rows_affected() == 1)
}

/// What is suggested in a class, the newest first.
///
/// # Errors
/// What the database said.
pub async fn suggestions_in(db: impl PgExecutor<'_>, class: Uuid) -> Result<Vec<Suggestion>> {
    let rows = sqlx::query_as!(
        Row,
        r#"select s.id, s.class_id, c.title, s.skill, s.group_name, s.student_id, s.why, b.display_name as "by!", s.at
           from suggested_skills s join classes c on c.id = s.class_id join people b on b.id = s.by_id
           where s.class_id = $1 order by s.at desc, s.id desc"#,
        class
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Row::suggestion).collect())
}

/// What is suggested to somebody in the classes they are in, the newest first.
///
/// # Errors
/// What the database said.
pub async fn suggestions_for(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<Suggestion>> {
    let rows = sqlx::query_as!(
        Row,
        r#"select s.id, s.class_id, c.title, s.skill, s.group_name, s.student_id, s.why, b.display_name as "by!", s.at
           from class_members m
           join suggested_skills s on s.class_id = m.class_id
           join classes c on c.id = s.class_id
           join people b on b.id = s.by_id
           where m.person_id = $1 and m.left_at is null and m.role <> 'teacher'
             and (s.group_name is null or s.group_name = m.group_name)
             and (s.student_id is null or s.student_id = m.person_id)
           order by s.at desc, s.id desc"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Row::suggestion).collect())
}

/// The skills that somebody would like to work on.
///
/// # Errors
/// What the database said.
pub async fn wishes_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<String>> {
    let found = sqlx::query_scalar!(
        "select skill from wished_skills where person_id = $1 order by at, skill",
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// # Errors
/// What the database said.
pub async fn set_wish(
    db: impl PgExecutor<'_>,
    person: PersonId,
    skill: &str,
    on: bool,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "with gone as (delete from wished_skills where person_id = $1 and skill = $2 and not $3)
         insert into wished_skills (person_id, skill, at) select $1, $2, $4 where $3 on conflict do nothing",
        person.0,
        skill,
        on,
        now
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Who of a class's students wishes for which skill: names by skill.
///
/// # Errors
/// What the database said.
pub async fn wishes_in(db: impl PgExecutor<'_>, class: Uuid) -> Result<BTreeMap<String, Vec<String>>> {
    let rows = sqlx::query!(
        "select w.skill, p.display_name from wished_skills w
         join studies m on m.person_id = w.person_id join people p on p.id = w.person_id
         where m.class_id = $1 and m.left_at is null order by w.skill, p.display_name",
        class
    )
    .fetch_all(db)
    .await?;
    let mut all: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for row in rows {
        all.entry(row.skill).or_default().push(row.display_name);
    }
    Ok(all)
}
