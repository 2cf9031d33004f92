//! Recordings with stops: what somebody claims to have played is taken in as far as it may be believed.

use coursework::{Goal, WatchFault, Watched};
use store::{PIECE, PersonId, RecordingHead, StoreError, StoredRecording};
use uuid::Uuid;

use crate::School;
use crate::content::{shipped_files, shipped_recordings, ships};
use crate::error::SchoolError;

/// Times that a change is tried again because another window was first.
const MOST_TURNS: usize = 8;

/// # Errors
/// `NotFound` where there is no such recording.
pub async fn get_recording(school: &School, id: Uuid) -> Result<StoredRecording, SchoolError> {
    let found = store::reading(|| store::find_recording(&school.pool, Some(id), None)).await?;
    found.ok_or(SchoolError::NotFound)
}

/// A recording by what a page or a question calls it: the name of one that ships, or the id of any.
///
/// # Errors
/// `NotFound` where there is none.
pub async fn named_recording(school: &School, name: &str) -> Result<StoredRecording, SchoolError> {
    let id = Uuid::parse_str(name).ok();
    let found = store::reading(|| store::find_recording(&school.pool, id, Some(name))).await?;
    found.ok_or(SchoolError::NotFound)
}

/// Which of these names belong to no recording, neither one that ships nor one that was uploaded.
///
/// # Errors
/// What the database said.
pub async fn missing_recordings(
    school: &School,
    names: impl IntoIterator<Item = &str>,
) -> Result<Vec<String>, SchoolError> {
    let mut missing = Vec::new();
    for name in names.into_iter().filter(|n| !ships(n)) {
        match named_recording(school, name).await {
            Ok(_) => {}
            Err(SchoolError::NotFound) => missing.push(name.to_owned()),
            Err(other) => return Err(other),
        }
    }
    Ok(missing)
}

/// Changes what somebody saw of a recording, and gives it as it is afterwards. What is refused changes nothing.
///
/// # Errors
/// Where it is refused: why; else what the database said.
pub async fn change(
    school: &School,
    recording: &StoredRecording,
    person: PersonId,
    with: impl Fn(&mut Watched) -> Result<(), WatchFault>,
) -> Result<Result<Watched, WatchFault>, SchoolError> {
    for _ in 0..MOST_TURNS {
        let (mut watched, version) = store::watched(&school.pool, recording.id, person).await?;
        if let Err(fault) = with(&mut watched) {
            return Ok(Err(fault));
        }
        let done = recording.stops.is_done(&watched);
        let kept = store::put_watched(
            &school.pool,
            recording.id,
            person,
            version,
            &watched,
            done,
            school.now(),
        )
        .await?;
        if kept {
            return Ok(Ok(watched));
        }
    }
    Err(StoreError::Conflict.into())
}

/// Where seeing this recording was set as an assignment, it is handed in once it is done: there is nothing in it that could
/// still be changed.
///
/// # Errors
/// What the database said.
pub async fn hand_in_where_asked(
    school: &School,
    recording: Uuid,
    person: PersonId,
) -> Result<(), SchoolError> {
    crate::goals::hand_in_where(
        school,
        person,
        |_, goal| matches!(goal, Goal::Watch { recording: wanted, .. } if *wanted == recording),
    )
    .await
}

/// Puts the recordings that ship in the database; those that are there stay as they are.
///
/// # Errors
/// What the database said, or a file that is missing.
pub async fn put_shipped(school: &School) -> Result<usize, SchoolError> {
    let mut put = 0;
    for shipped in shipped_recordings().map_err(SchoolError::Inside)? {
        if store::find_recording(&school.pool, Some(shipped.id), Some(&shipped.slug))
            .await?
            .is_some()
        {
            continue;
        }
        let files = shipped_files(&shipped.slug);
        let missing = || SchoolError::Inside(format!("the recording {} has no files", shipped.slug));
        let (media, captions) = files.ok_or_else(missing)?;
        let pictures = media.windows(3).take(4_096).any(|w| w == b"V_V");
        let head = RecordingHead {
            id: Some(shipped.id),
            slug: Some(&shipped.slug),
            title: &shipped.title,
            media_type: if pictures { "video/webm" } else { "audio/webm" },
            seconds: shipped.seconds,
            captions: &captions,
            stops: &shipped.stops,
            made_by: None,
        };
        let mut tx = school.pool.begin().await?;
        let id = store::add_recording(&mut *tx, &head, school.now()).await?;
        for (number, piece) in (0..).zip(media.chunks(PIECE)) {
            store::add_piece(&mut *tx, id, number, piece).await?;
        }
        store::finish_recording(&mut *tx, id).await?;
        tx.commit().await?;
        put += 1;
    }
    Ok(put)
}
