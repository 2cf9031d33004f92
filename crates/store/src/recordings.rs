//! Recordings with stops, their media in pieces, and what was seen of them.

use coursework::{Stop, Stops, Watched};
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;

use crate::people::PersonId;
use crate::{Result, StoreError};

/// Bytes of one piece of a recording.
pub const PIECE: usize = 1024 * 1024;

/// A recording without its media.
#[derive(Clone, Debug, PartialEq)]
pub struct StoredRecording {
    pub id: Uuid,
    /// The name of one that ships.
    pub slug: Option<String>,
    pub title: String,
    pub media_type: String,
    pub size: u64,
    /// WebVTT.
    pub captions: String,
    pub stops: Stops,
    /// Grows with each change of title, captions or stops.
    pub version: i32,
}

/// What a recording is called, and where it halts.
#[derive(Clone, Debug, PartialEq)]
pub struct RecordingHead<'a> {
    /// Of one that ships; else a new one.
    pub id: Option<Uuid>,
    pub slug: Option<&'a str>,
    pub title: &'a str,
    pub media_type: &'a str,
    pub seconds: f64,
    pub captions: &'a str,
    pub stops: &'a [Stop],
    pub made_by: Option<PersonId>,
}

/// Makes a recording whose media follows in pieces; it is found once it is finished.
///
/// # Errors
/// What the database said.
pub async fn add_recording(
    db: impl PgExecutor<'_>,
    head: &RecordingHead<'_>,
    now: OffsetDateTime,
) -> Result<Uuid> {
    let id = head.id.unwrap_or_else(Uuid::now_v7);
    sqlx::query!(
        "insert into recordings (id, slug, title, media_type, size, seconds, captions, stops, made_by, made_at)
         values ($1, $2, $3, $4, 0, $5, $6, $7, $8, $9)",
        id,
        head.slug,
        head.title,
        head.media_type,
        head.seconds,
        head.captions,
        Json(head.stops) as _,
        head.made_by.map(|p| p.0),
        now
    )
    .execute(db)
    .await?;
    Ok(id)
}

/// Adds the next piece of a recording's media.
///
/// # Errors
/// What the database said.
pub async fn add_piece(db: impl PgExecutor<'_>, recording: Uuid, number: i32, bytes: &[u8]) -> Result<()> {
    let length = i64::try_from(bytes.len()).map_err(|_| StoreError::OutOfRange)?;
    sqlx::query!(
        "with added as (insert into recording_pieces (recording_id, number, bytes) values ($1, $2, $3))
         update recordings set size = size + $4 where id = $1",
        recording,
        number,
        bytes,
        length
    )
    .execute(db)
    .await?;
    Ok(())
}

/// All its pieces are there: from now on it is found.
///
/// # Errors
/// What the database said.
pub async fn finish_recording(db: impl PgExecutor<'_>, recording: Uuid) -> Result<()> {
    sqlx::query!("update recordings set whole = true where id = $1", recording)
        .execute(db)
        .await?;
    Ok(())
}

/// Drops uploads that began before this and were never finished.
///
/// # Errors
/// What the database said.
pub async fn drop_broken_uploads(db: impl PgExecutor<'_>, before: OffsetDateTime) -> Result<()> {
    sqlx::query!("delete from recordings where not whole and made_at < $1", before)
        .execute(db)
        .await?;
    Ok(())
}

/// The pieces of a recording's media from one on, up to another.
///
/// # Errors
/// What the database said.
pub async fn pieces(db: impl PgExecutor<'_>, recording: Uuid, from: i32, to: i32) -> Result<Vec<Vec<u8>>> {
    let found = sqlx::query_scalar!(
        "select bytes from recording_pieces where recording_id = $1 and number between $2 and $3 order by number",
        recording,
        from,
        to
    )
    .fetch_all(db)
    .await?;
    Ok(found)
}

/// A recording by its id, or the one that ships under a name.
///
/// # Errors
/// What the database said.
pub async fn find_recording(
    db: impl PgExecutor<'_>,
    id: Option<Uuid>,
    slug: Option<&str>,
) -> Result<Option<StoredRecording>> {
    let row = sqlx::query!(
        r#"select id, slug, title, media_type, size, seconds, captions, stops as "stops: Json<Vec<Stop>>", version
           from recordings where (id = $1 or slug = $2) and whole"#,
        id,
        slug
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| StoredRecording {
        id: r.id,
        slug: r.slug,
        title: r.title,
        media_type: r.media_type,
        size: r.size.cast_unsigned(),
        captions: r.captions,
        stops: Stops {
            seconds: r.seconds,
            stops: r.stops.0,
        },
        version: r.version,
    }))
}

/// All recordings by title: id, title, seconds, how many stops.
///
/// # Errors
/// What the database said.
pub async fn recordings(db: impl PgExecutor<'_>) -> Result<Vec<(Uuid, String, f64, usize)>> {
    let rows = sqlx::query!(
        r#"select id, title, seconds, jsonb_array_length(stops) as "stops!" from recordings where whole order by title, id"#
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (r.id, r.title, r.seconds, usize::try_from(r.stops).unwrap_or(0)))
        .collect())
}

/// Changes what a recording is called and where it halts, if nobody else has since `version`; says whether it was changed.
///
/// # Errors
/// What the database said.
pub async fn set_recording(
    db: impl PgExecutor<'_>,
    id: Uuid,
    version: i32,
    title: &str,
    captions: &str,
    stops: &[Stop],
) -> Result<bool> {
    let done = sqlx::query!(
        "update recordings set title = $3, captions = $4, stops = $5, version = version + 1
         where id = $1 and version = $2",
        id,
        version,
        title,
        captions,
        Json(stops) as _
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// What somebody saw of a recording, with the version that a change has to name; nothing seen is version 0.
///
/// # Errors
/// What the database said.
pub async fn watched(db: impl PgExecutor<'_>, recording: Uuid, person: PersonId) -> Result<(Watched, i64)> {
    let row = sqlx::query!(
        r#"select state as "state: Json<Watched>", version from watchings where recording_id = $1 and person_id = $2"#,
        recording,
        person.0
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map_or((Watched::default(), 0), |r| (r.state.0, r.version)))
}

/// Keeps what somebody saw, if nothing was kept since `version`; says whether it was kept.
///
/// # Errors
/// What the database said.
pub async fn put_watched(
    db: impl PgExecutor<'_>,
    recording: Uuid,
    person: PersonId,
    version: i64,
    watched: &Watched,
    done: bool,
    now: OffsetDateTime,
) -> Result<bool> {
    let kept = sqlx::query_scalar!(
        r#"with kept as (
            insert into watchings (recording_id, person_id, state, version, changed_at, done_at)
            select $1, $2, $3, 1, $5, case when $6 then $5::timestamptz end where $4::bigint = 0
               or exists (select 1 from watchings where recording_id = $1 and person_id = $2)
            on conflict (recording_id, person_id) do update
            set state = $3, version = watchings.version + 1, changed_at = $5,
                done_at = coalesce(watchings.done_at, excluded.done_at)
            where watchings.version = $4
            returning 1
           ), changed as (
            update people set beside_at = beside_at + 1 where id = $2 and exists (select 1 from kept)
           )
           select count(*) as "kept!" from kept"#,
        recording,
        person.0,
        Json(watched) as _,
        version,
        now,
        done
    )
    .fetch_one(db)
    .await?;
    Ok(kept == 1)
}

/// What somebody saw of every recording they began, by recording.
///
/// # Errors
/// What the database said.
pub async fn watched_by(db: impl PgExecutor<'_>, person: PersonId) -> Result<Vec<(Uuid, Stops, Watched)>> {
    let rows = sqlx::query!(
        r#"select w.recording_id, w.state as "state: Json<Watched>", r.seconds, r.stops as "stops: Json<Vec<Stop>>"
           from watchings w join recordings r on r.id = w.recording_id where w.person_id = $1"#,
        person.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| {
            let stops = Stops {
                seconds: r.seconds,
                stops: r.stops.0,
            };
            (r.recording_id, stops, r.state.0)
        })
        .collect())
}

/// Notes what somebody did at a place: paused, went back, left.
///
/// # Errors
/// What the database said.
pub async fn note_watch_act(
    db: impl PgExecutor<'_>,
    recording: Uuid,
    person: PersonId,
    did: &str,
    place: f64,
    now: OffsetDateTime,
) -> Result<()> {
    sqlx::query!(
        "insert into watch_acts (id, recording_id, person_id, at, did, place)
         select $1, $2, $3, $4, $5, $6
         where (select count(*) from watch_acts where recording_id = $2 and person_id = $3) < 2000",
        Uuid::now_v7(),
        recording,
        person.0,
        now,
        did,
        place
    )
    .execute(db)
    .await?;
    Ok(())
}

/// One student with a recording, as their teacher sees it.
#[derive(Clone, Debug, PartialEq)]
pub struct WatchedBy {
    pub person: PersonId,
    pub name: String,
    pub watched: Watched,
    pub changed_at: OffsetDateTime,
}

/// What the students of somebody's classes saw of a recording, by name.
///
/// # Errors
/// What the database said.
pub async fn watched_in_classes_of(
    db: impl PgExecutor<'_>,
    recording: Uuid,
    teacher: PersonId,
) -> Result<Vec<WatchedBy>> {
    let rows = sqlx::query!(
        r#"select p.id, p.display_name, w.state as "state: Json<Watched>", w.changed_at
           from watchings w join people p on p.id = w.person_id
           where w.recording_id = $1 and exists (
             select 1 from studies s join teaches t on t.class_id = s.class_id
             where s.person_id = p.id and t.person_id = $2 and s.left_at is null)
           order by p.display_name, p.id"#,
        recording,
        teacher.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| WatchedBy {
            person: PersonId(r.id),
            name: r.display_name,
            watched: r.state.0,
            changed_at: r.changed_at,
        })
        .collect())
}

/// What the students of somebody's classes did in a recording: what, and at which second.
///
/// # Errors
/// What the database said.
pub async fn watch_acts_in_classes_of(
    db: impl PgExecutor<'_>,
    recording: Uuid,
    teacher: PersonId,
) -> Result<Vec<(String, f64)>> {
    let rows = sqlx::query!(
        "select a.did, a.place from watch_acts a join people p on p.id = a.person_id
         where a.recording_id = $1 and exists (
             select 1 from studies s join teaches t on t.class_id = s.class_id
             where s.person_id = p.id and t.person_id = $2 and s.left_at is null)
         order by a.at, a.id",
        recording,
        teacher.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| (r.did, r.place)).collect())
}
