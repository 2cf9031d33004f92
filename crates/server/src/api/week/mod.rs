//! The home page: what is due, what is next, what happened, what waits.

mod action;
mod entry;
mod next;
mod notices;
mod waiting;

use std::sync::Arc;

use actix_web::{get, web};
use coursework::{Candidate, LateRule, Waiting, state, terms};
use school::{Book, Glance, Learner, School};
use serde::Serialize;
use time::{Duration, OffsetDateTime};
use utoipa::ToSchema;

use self::entry::{WeekEntry, week_entry};
use self::next::{NextView, next_view};
use self::notices::{NoticeView, notices_of};
use self::waiting::{FadingView, WeekSlips, fading, week_slips};
use super::shared::state::questions_left;
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

/// How long what has closed stays on Week, if there is nothing to tell of it.
const STAYS: Duration = Duration::days(28);

#[derive(Serialize, ToSchema)]
pub(crate) struct WeekView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    assignments: Vec<WeekEntry>,
    /// Those that closed long ago and are left out: they stand under Scores.
    earlier: usize,
    /// How many need doing now.
    to_do: usize,
    next: Option<NextView>,
    /// What happened and was not looked at yet, newest first.
    notices: Vec<NoticeView>,
    slips: WeekSlips,
    /// Skills that are fading, the one that faded first before the others.
    fading: Vec<FadingView>,
}

/// The home page.
#[utoipa::path(path = "/api/week", responses((status = 200, body = WeekView), (status = 401, body = Problem)))]
#[get("/week")]
pub(crate) async fn week(school: web::Data<School>, who: SignedIn) -> Result<web::Json<WeekView>, ApiError> {
    let now = school.now();
    let mut earlier = 0;
    let mut assignments = Vec::new();
    let mut candidates = Vec::new();
    let mut told = Vec::new();
    let mut desks = Glance::all(&school, who.0.id).await?;
    let learner = Learner::of(&school, who.0.id, &desks).await?;
    let book = Book::of(&desks, &learner);
    let mut firsts = school::units::firsts(&school, who.0.id, &desks, &learner).await?;
    for desk in &mut desks {
        let notices = notices_of(desk);
        if notices.is_empty() && terms(&desk.assignment, &desk.work).closes + STAYS < now {
            earlier += 1;
            continue;
        }
        if let Some(progress) = learner.progress(desk.stored.head.class_id, &desk.assignment, desk.work_id) {
            Arc::make_mut(&mut desk.work).progress = Some(progress);
        }
        let left = match &desk.work.progress {
            Some(progress) => progress.left(),
            None => questions_left(&desk.assignment, &desk.work, &desk.drafts, now),
        };
        let candidate = candidate(desk, left);
        told.extend(notices);
        let first = firsts.remove(&desk.stored.head.id);
        assignments.push(week_entry(desk, left, candidate.is_waiting(now), first));
        candidates.push(candidate);
    }
    told.sort_by_key(|n| std::cmp::Reverse(n.at));
    let fading = fading(&learner);
    let beside = Waiting {
        fading: fading.len(),
        fading_since: fading.first().map(|f| f.since),
        ..book.waiting(now)
    };
    let next = coursework::next(&candidates, &beside, now)
        .and_then(|choice| next_view(&assignments, &fading, choice));
    assignments.sort_by_key(|a| (a.due, a.id));
    Ok(web::Json(WeekView {
        now,
        to_do: assignments.iter().filter(|a| a.waiting).count(),
        assignments,
        earlier,
        next,
        notices: told,
        slips: week_slips(&school, &book, now).await?,
        fading,
    }))
}

fn candidate(desk: &Glance, questions_left: usize) -> Candidate {
    let settings = &desk.assignment.settings;
    let terms = terms(&desk.assignment, &desk.work);
    Candidate {
        state: state(&desk.assignment, &desk.work, desk.now),
        opens: terms.opens,
        due: terms.due,
        closes: terms.closes,
        counts: settings.counts,
        late_accepted: settings.late != LateRule::NotAccepted,
        questions: desk.assignment.items.len(),
        questions_left,
        time_ends: terms.time_ends,
    }
}
