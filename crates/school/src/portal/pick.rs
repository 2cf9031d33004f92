//! Deep linking: a teacher picks assignments of their class for the portal.

use lti::{ContentItem, LineItem, deep_linking_response};
use store::PersonId;
use uuid::Uuid;

use super::arrive::{Arrival, ArrivalKind, look, take};
use super::keys::signing_key;
use crate::School;
use crate::error::SchoolError;
use crate::own::fresh_token;

/// An assignment that can be picked.
#[derive(Clone, Debug)]
pub struct Pickable {
    pub id: Uuid,
    pub title: String,
    pub due: time::OffsetDateTime,
    pub points: u32,
}

async fn class_of(school: &School, portal: Uuid, arrival: &Arrival) -> Result<(Uuid, Uuid), SchoolError> {
    let context = arrival.context.as_ref().ok_or(SchoolError::NotFound)?;
    let course = store::find_course(&school.pool, portal, &arrival.deployment, &context.id).await?;
    let course = course.ok_or(SchoolError::NotFound)?;
    Ok((course.id, course.class))
}

/// What can be picked by the teacher who came with this.
///
/// # Errors
/// `NotFound` where nothing waits for this browser, or they do not teach that class.
pub async fn pickable(
    school: &School,
    token: &str,
    teacher: PersonId,
) -> Result<(Arrival, Vec<Pickable>), SchoolError> {
    let (portal, arrival) = look(school, token).await?;
    if arrival.kind != ArrivalKind::Pick {
        return Err(SchoolError::NotFound);
    }
    let (_, class) = class_of(school, portal.id, &arrival).await?;
    store::find_class_taught(&school.pool, teacher, class)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let mut all = Vec::new();
    for column in store::sheet_columns(&school.pool, class).await? {
        if !column.given_out {
            continue;
        }
        let stored = school.assignment(column.id, None).await?;
        all.push(Pickable {
            id: column.id,
            title: column.title,
            due: column.settings.due,
            points: stored.assignment.items.iter().map(|i| i.points).sum(),
        });
    }
    Ok((arrival, all))
}

/// Where the answer goes, and the answer; each picked assignment has a line item from now on.
///
/// # Errors
/// As for [`pickable`].
pub async fn picked(
    school: &School,
    token: &str,
    teacher: PersonId,
    wanted: &[Uuid],
    base: &str,
) -> Result<(String, String), SchoolError> {
    let (_, there) = pickable(school, token, teacher).await?;
    let (portal, arrival) = take(school, token, ArrivalKind::Pick).await?;
    let settings = arrival.picking.clone().ok_or(SchoolError::NotFound)?;
    let (course, _) = class_of(school, portal.id, &arrival).await?;
    let mut items = Vec::new();
    for one in there.iter().filter(|p| wanted.contains(&p.id)) {
        // A portal that takes one is sent the first.
        if !items.is_empty() && !settings.accept_multiple {
            break;
        }
        let line_item = (one.points > 0).then(|| LineItem {
            label: one.title.clone(),
            score_maximum: f64::from(one.points),
            resource_id: one.id.to_string(),
        });
        items.push(ContentItem {
            title: one.title.clone(),
            url: format!("{base}/work/{}", one.id),
            custom: vec![("assignment".into(), one.id.to_string())],
            line_item: line_item.clone(),
            opens: None,
            due: Some(one.due),
        });
        if line_item.is_some() && settings.accept_line_item {
            store::put_line(&school.pool, course, one.id, None, school.now()).await?;
        }
    }
    let claims = deep_linking_response(
        &portal.issuer,
        &portal.client_id,
        &arrival.deployment,
        &settings,
        &items,
        &fresh_token()?,
        time::OffsetDateTime::now_utc(),
    );
    let key = signing_key(school).await?;
    let signed = key
        .sign(&claims)
        .map_err(|e| SchoolError::Inside(e.to_string()))?;
    Ok((settings.return_url, signed))
}
