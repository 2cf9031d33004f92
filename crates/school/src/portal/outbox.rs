//! Sends scores to portals. They are noted by the database in the transaction that changes them; here they are taken by
//! whichever server is first, and tried with growing pauses for a week. A score carries the instant of its note: the portal
//! takes none that is older than what it has, so that nothing sent twice or late can do harm. Portals don't wait for each other.

use std::collections::BTreeSet;

use coursework::{fold, score_visible};
use futures_util::StreamExt;
use futures_util::future::join_all;
use futures_util::stream::FuturesUnordered;
use lti::{ActivityProgress, GradingProgress, Score};
use reqwest::Method;
use serde_json::{Value, json};
use store::{DueScore, Moved, Portal, PortalPlace};
use time::Duration;
use uuid::Uuid;

use super::client::Platform;
use crate::School;
use crate::error::SchoolError;

/// A score that is taken is somebody's for as long; longer than any portal is waited for.
const LEASE: Duration = Duration::seconds(90);
/// Scores taken at once.
const AT_ONCE: i64 = 20;
/// Until results that are not out are looked at again.
const HELD: Duration = Duration::minutes(5);
/// A score is tried for as long.
const GIVE_UP_AFTER: Duration = Duration::days(7);
/// A score is worth this at a portal that has no line item for its assignment.
const MAXIMUM: f64 = 100.0;

/// The pause after so many tries: ten seconds at first, an hour at most.
pub(crate) fn pause(tries: i32) -> Duration {
    let doubled = 1i64 << tries.clamp(0, 9);
    Duration::seconds((10 * doubled).min(3_600))
}

/// What came of handing a score over.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Delivered {
    /// Taken, or there is a newer one.
    There(String),
    /// The portal won't take it as it is.
    Refused(String),
    /// The portal does not answer.
    Away(String),
}

/// Hands scores over: the portal's services, or what stands for them in a test.
pub trait Deliver {
    /// Hands one over.
    fn deliver(
        &self,
        place: &PortalPlace,
        score: &Score,
    ) -> impl Future<Output = Result<Delivered, SchoolError>>;
}

/// Where a student's score stands.
struct Stands {
    /// Per cent; nothing where nothing is recorded (any more).
    percent: Option<f64>,
    waiting: bool,
    /// Points that it is of.
    of: f64,
    visible: bool,
}

async fn stands(school: &School, due: &DueScore) -> Result<Stands, SchoolError> {
    let assignment = due.place.assignment;
    let stored = school.assignment(assignment, None).await?;
    let events = match store::find_work(&school.pool, assignment, due.student).await? {
        Some(work) => store::events_of(&school.pool, work).await?,
        None => Vec::new(),
    };
    let work = fold(&stored.assignment, &events);
    let of: u32 = stored.assignment.items.iter().map(|i| i.points).sum();
    let counting = work.counting_hand_in(&stored.assignment);
    Ok(Stands {
        percent: counting.map(|h| h.recorded.percent()),
        waiting: counting.is_some_and(|h| h.recorded.waiting > 0.0),
        of: if of == 0 { MAXIMUM } else { f64::from(of) },
        visible: counting.is_none() || score_visible(&stored.assignment, &work, school.now()),
    })
}

fn hundredths(points: f64) -> f64 {
    (points * 100.0).round() / 100.0
}

fn score_of(due: &DueScore, stands: &Stands) -> Score {
    let grading = match (stands.percent, stands.waiting) {
        (None, _) => GradingProgress::NotReady,
        (Some(_), true) => GradingProgress::PendingManual,
        (Some(_), false) => GradingProgress::FullyGraded,
    };
    Score {
        user_id: due.subject.clone(),
        score_given: stands.percent.map(|p| hundredths(p / 100.0 * stands.of)),
        score_maximum: stands.percent.map(|_| stands.of),
        activity_progress: match stands.percent {
            Some(_) if stands.waiting => ActivityProgress::Submitted,
            Some(_) => ActivityProgress::Completed,
            None => ActivityProgress::InProgress,
        },
        grading_progress: grading,
        timestamp: due.wanted_at,
        comment: None,
    }
}

/// What a score says, for telling whether it was sent already.
fn state_of(score: &Score) -> String {
    match score.score_given.zip(score.score_maximum) {
        Some((given, of)) => format!("{given}/{of} {:?}", score.grading_progress),
        None => format!("none {:?}", score.grading_progress),
    }
}

async fn send(school: &School, to: &impl Deliver, due: &DueScore) -> Result<(), SchoolError> {
    let pool = &school.pool;
    let stands = stands(school, due).await?;
    if !stands.visible {
        let until = school.now() + HELD;
        return Ok(store::put_score_moved(pool, due, &Moved::Held { until }, school.now()).await?);
    }
    let score = score_of(due, &stands);
    let state = state_of(&score);
    if due.sent_state.as_ref() == Some(&state) {
        let moved = Moved::Sent {
            state: &state,
            answer: "as it was sent before",
        };
        return Ok(store::put_score_moved(pool, due, &moved, school.now()).await?);
    }
    store::score_leaves(pool, due).await?;
    let delivered = to.deliver(&due.place, &score).await?;
    let now = school.now();
    let ends = due.wanted_at + GIVE_UP_AFTER <= now;
    match &delivered {
        Delivered::There(answer) => {
            store::portal_answers(pool, due.place.portal).await?;
            let moved = Moved::Sent {
                state: &state,
                answer,
            };
            store::put_score_moved(pool, due, &moved, now).await?;
        }
        Delivered::Refused(answer) | Delivered::Away(answer) if ends => {
            tracing::warn!(line = %due.place.line, student = %due.student.0, answer, "a score was given up after a week");
            store::put_score_moved(pool, due, &Moved::GivenUp { answer }, now).await?;
        }
        Delivered::Refused(answer) => {
            tracing::warn!(line = %due.place.line, student = %due.student.0, answer, "the portal refused a score");
            store::portal_answers(pool, due.place.portal).await?;
            let at = now + pause(due.tries.saturating_add(3));
            store::put_score_moved(pool, due, &Moved::Later { at, answer }, now).await?;
        }
        Delivered::Away(answer) => {
            store::portal_away(pool, due.place.portal, pause, now).await?;
            let at = now;
            store::put_score_moved(pool, due, &Moved::Later { at, answer }, now).await?;
        }
    }
    Ok(())
}

/// Sends what is due at one portal now. Says how many were taken.
async fn deliver_at(school: &School, to: &impl Deliver, portal: Uuid) -> Result<usize, SchoolError> {
    let now = school.now();
    let until = now + LEASE;
    let due = store::take_due_scores(&school.pool, portal, now, until, AT_ONCE).await?;
    let mut is_away = false;
    for one in &due {
        // What a slow portal leaves no time for is free to be taken again.
        if school.now() >= until {
            break;
        }
        // The others of a portal that is away need not be tried one by one.
        if is_away {
            let moved = Moved::Later {
                at: school.now(),
                answer: "the portal is away",
            };
            store::put_score_moved(&school.pool, one, &moved, school.now()).await?;
            continue;
        }
        if let Err(error) = send(school, to, one).await {
            tracing::error!(cause = %error, line = %one.place.line, "sending a score");
        }
        is_away = store::is_portal_away(&school.pool, portal, now).await?;
    }
    Ok(due.len())
}

/// As [`deliver_at`], for a portal whose trouble is not another's.
async fn deliver_alone(school: &School, to: &impl Deliver, portal: Uuid) -> usize {
    match deliver_at(school, to, portal).await {
        Ok(some) => some,
        Err(error) => {
            tracing::error!(cause = %error, portal = %portal, "sending scores to a portal");
            0
        }
    }
}

/// Sends what is due now, to every portal at the same time. Says how many were taken.
///
/// # Errors
/// If what is due can't be asked for. What can't be sent waits.
pub async fn deliver_due(school: &School, to: &impl Deliver) -> Result<usize, SchoolError> {
    let portals = store::portals_due(&school.pool, school.now()).await?;
    let all = portals.into_iter().map(|p| deliver_alone(school, to, p));
    Ok(join_all(all).await.into_iter().sum())
}

/// Sends what is due now to the portals' own services. Says how many were taken.
///
/// # Errors
/// As for [`deliver_due`].
pub async fn send_due(school: &School) -> Result<usize, SchoolError> {
    deliver_due(school, &Services { school }).await
}

/// Hands over what is due, and goes on doing so. However long one portal takes, the others have theirs each second.
pub async fn keep_delivering(school: &School, to: &impl Deliver) {
    let mut every_second = every_second();
    let mut served = FuturesUnordered::new();
    let mut busy = BTreeSet::new();
    loop {
        tokio::select! {
            Some(portal) = served.next() => {
                busy.remove(&portal);
            }
            _ = every_second.tick() => match store::portals_due(&school.pool, school.now()).await {
                Err(error) => tracing::error!(cause = %error, "asking for which portals scores are due"),
                Ok(portals) => {
                    for portal in portals {
                        if busy.insert(portal) {
                            served.push(async move {
                                deliver_alone(school, to, portal).await;
                                portal
                            });
                        }
                    }
                }
            },
        }
    }
}

async fn keep_asking(school: &School) {
    let mut every_second = every_second();
    loop {
        every_second.tick().await;
        if let Err(error) = super::roster::ask_due(school).await {
            tracing::error!(cause = %error, "asking portals for class lists");
        }
    }
}

fn every_second() -> tokio::time::Interval {
    let mut ticks = tokio::time::interval(std::time::Duration::from_secs(1));
    ticks.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    ticks
}

/// Sends scores and asks for class lists, and goes on doing so.
pub async fn keep_sending(school: School) {
    let services = Services { school: &school };
    tokio::join!(keep_delivering(&school, &services), keep_asking(&school));
}

/// The portals' own services.
pub(crate) struct Services<'a> {
    pub school: &'a School,
}

impl Deliver for Services<'_> {
    async fn deliver(&self, place: &PortalPlace, score: &Score) -> Result<Delivered, SchoolError> {
        let portal = store::find_portal(&self.school.pool, place.portal).await?;
        let portal = portal.ok_or(SchoolError::NotFound)?;
        let sent = async {
            let url = line_url(self.school, &portal, place, score.score_maximum).await?;
            let address = lti::scores_url(&url).ok_or(Platform::Refused {
                status: 0,
                words: "the address of its line item can't be read".into(),
            })?;
            let body = serde_json::to_value(score).map_err(|e| SchoolError::Inside(e.to_string()))?;
            let call = (Method::POST, address.as_str(), lti::MEDIA_SCORE);
            self.school
                .portals
                .service(self.school, &portal, lti::SCOPE_SCORE, call, Some(&body))
                .await
        };
        match sent.await {
            Ok(answer) => Ok(Delivered::There(format!("taken ({})", answer.status))),
            Err(Platform::Refused { status: 409, .. }) => {
                Ok(Delivered::There("it has a newer one (409)".into()))
            }
            Err(Platform::Refused { status, words }) => Ok(Delivered::Refused(format!("{status}: {words}"))),
            Err(Platform::Away(words)) => Ok(Delivered::Away(words)),
            Err(Platform::School(error)) => Err(error),
        }
    }
}

/// Where the line item of an assignment is: as it is known, as the portal finds it, or made there.
async fn line_url(
    school: &School,
    portal: &Portal,
    place: &PortalPlace,
    maximum: Option<f64>,
) -> Result<String, Platform> {
    if let Some(url) = &place.line_url {
        return Ok(url.clone());
    }
    let items = place.line_items_url.as_deref().ok_or(Platform::Refused {
        status: 0,
        words: "it has not said where its line items are".into(),
    })?;
    let resource = place.assignment.to_string();
    let mut asked = url::Url::parse(items).map_err(|e| SchoolError::Inside(e.to_string()))?;
    asked.query_pairs_mut().append_pair("resource_id", &resource);
    let call = (Method::GET, asked.as_str(), lti::MEDIA_LINE_ITEMS);
    let found = school
        .portals
        .service(school, portal, lti::SCOPE_LINE_ITEM, call, None)
        .await?;
    let there = |v: &Value| serde_json::from_value::<lti::PlacedLineItem>(v.clone()).ok();
    let ours = found.body.as_array().and_then(|all| {
        all.iter()
            .filter_map(there)
            .find(|l| l.resource_id.as_ref() == Some(&resource))
    });
    let url = match ours {
        Some(line) => line.id,
        None => {
            let new = json!({
                "label": place.title, "scoreMaximum": maximum.unwrap_or(MAXIMUM), "resourceId": resource,
            });
            let call = (Method::POST, items, lti::MEDIA_LINE_ITEM);
            let made = school
                .portals
                .service(school, portal, lti::SCOPE_LINE_ITEM, call, Some(&new))
                .await?;
            there(&made.body)
                .ok_or(Platform::Refused {
                    status: made.status,
                    words: "the line item that it made can't be read".into(),
                })?
                .id
        }
    };
    store::set_line_url(&school.pool, place.line, &url).await?;
    Ok(url)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pauses_grow_to_an_hour() {
        let seconds: Vec<i64> = (0..12).map(|n| pause(n).whole_seconds()).collect();
        assert_eq!(
            seconds,
            [10, 20, 40, 80, 160, 320, 640, 1280, 2560, 3600, 3600, 3600]
        );
        assert_eq!(pause(-1), pause(0));
        assert_eq!(pause(i32::MAX), pause(9));
    }
}
