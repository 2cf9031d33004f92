//! All recorded scores, by class.

use actix_web::{HttpResponse, get, web};
use coursework::{quartiles, terms, tries_shown};
use school::{Glance, School};
use serde::Serialize;
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;
use utoipa::ToSchema;
use uuid::Uuid;

use super::classes::sheet::state_words;
use super::shared::hand_in::results_at;
use super::shared::kind::KindView;
use super::shared::state::{ScoreView, StateView, questions_left, recorded_view, state_view};
use super::shared::table::{cell, csv_file};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct ScoresView {
    classes: Vec<ClassScores>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ClassScores {
    title: String,
    /// Per cent of what counted and is out so far, by weight; `None` before the first.
    so_far: Option<f64>,
    /// Per cent of the class's grade that is out so far.
    weight_out: f64,
    rows: Vec<ScoreRow>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct ScoreRow {
    id: Uuid,
    title: String,
    kind: KindView,
    counts: bool,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    state: StateView,
    recorded: Option<ScoreView>,
    #[serde(with = "time::serde::rfc3339::option")]
    results_at: Option<OffsetDateTime>,
    late: bool,
    pass_mark: Option<u8>,
    /// Per cent of the class's grade.
    weight: f64,
    hand_ins: usize,
    receipts: Vec<u32>,
    minutes_spent: i64,
    tries_used: u32,
    questions: usize,
    questions_left: usize,
    /// The middle half of the class, where enough have handed in: lower and upper quartile, per cent.
    class_band: Option<Band>,
    corrected: bool,
}

/// Lower and upper quartile, per cent.
#[derive(Serialize, ToSchema)]
pub(crate) struct Band {
    low: f64,
    high: f64,
}

/// All recorded scores, by class.
#[utoipa::path(path = "/api/scores", responses((status = 200, body = ScoresView), (status = 401, body = Problem)))]
#[get("/scores")]
pub(crate) async fn get_scores(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<ScoresView>, ApiError> {
    Ok(web::Json(scores(&school, &who).await?))
}

/// All recorded scores, as a file.
#[utoipa::path(path = "/api/scores.csv",
    responses((status = 200, body = String, content_type = "text/csv"), (status = 401, body = Problem)))]
#[get("/scores.csv")]
pub(crate) async fn get_scores_csv(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<HttpResponse, ApiError> {
    let head = [
        "Class",
        "Assignment",
        "Due",
        "State",
        "Recorded %",
        "Late",
        "Of the grade %",
        "Minutes",
        "Tries",
    ];
    let mut rows = vec![head.map(str::to_owned).to_vec()];
    for class in scores(&school, &who).await?.classes {
        rows.extend(class.rows.iter().map(|r| {
            vec![
                cell(&class.title),
                cell(&r.title),
                r.due.format(&Rfc3339).unwrap_or_default(),
                state_words(r.state).to_owned(),
                r.recorded
                    .as_ref()
                    .map(|s| format!("{:.1}", s.percent))
                    .unwrap_or_default(),
                if r.late { "late".into() } else { String::new() },
                format!("{:.1}", r.weight),
                r.minutes_spent.to_string(),
                r.tries_used.to_string(),
            ]
        }));
    }
    csv_file("scores.csv", rows)
}

async fn scores(school: &School, who: &SignedIn) -> Result<ScoresView, ApiError> {
    let mut classes: Vec<ClassScores> = Vec::new();
    let desks = Glance::all(school, who.0.id).await?;
    let shown = |d: &&Glance| recorded_view(&d.assignment, &d.work, d.now).is_some();
    let out: Vec<Uuid> = desks.iter().filter(shown).map(|d| d.stored.head.id).collect();
    let of_class = store::recorded_scores(&school.pool, &out).await?;
    for desk in desks {
        let row = score_row(&desk, of_class.get(&desk.stored.head.id));
        match classes
            .iter_mut()
            .find(|c| c.title == desk.stored.head.class_title)
        {
            Some(class) => class.rows.push(row),
            None => classes.push(ClassScores {
                title: desk.stored.head.class_title.clone(),
                so_far: None,
                weight_out: 0.0,
                rows: vec![row],
            }),
        }
    }
    classes.sort_by(|a, b| a.title.cmp(&b.title));
    for class in &mut classes {
        let counting = |r: &&ScoreRow| r.counts;
        let all: f64 = class.rows.iter().filter(counting).map(|r| r.weight).sum();
        for row in &mut class.rows {
            row.weight = if row.counts && all > 0.0 {
                100.0 * row.weight / all
            } else {
                0.0
            };
        }
        // A closed one that nothing was handed in for counts as nothing.
        let out =
            |r: &&ScoreRow| r.counts && (r.recorded.is_some() || r.state == StateView::ClosedNothingHandedIn);
        // What the teacher has yet to decide on is neither won nor lost.
        let decided = |r: &ScoreRow| match &r.recorded {
            Some(s) if s.of > 0 => 1.0 - s.waiting / f64::from(s.of),
            _ => 1.0,
        };
        class.weight_out = class.rows.iter().filter(out).map(|r| r.weight * decided(r)).sum();
        let earned: f64 = class
            .rows
            .iter()
            .filter(out)
            .map(|r| r.weight * r.recorded.as_ref().map_or(0.0, |s| s.percent))
            .sum();
        class.so_far = (class.weight_out > 0.0).then(|| earned / class.weight_out);
    }
    Ok(ScoresView { classes })
}

fn score_row(desk: &Glance, of_class: Option<&Vec<f64>>) -> ScoreRow {
    let settings = &desk.assignment.settings;
    let recorded = recorded_view(&desk.assignment, &desk.work, desk.now);
    let class_band = of_class
        .and_then(|scores| quartiles(scores))
        .map(|(low, high)| Band { low, high });
    let counting = desk.work.counting_hand_in(&desk.assignment);
    ScoreRow {
        id: desk.stored.head.id,
        title: desk.stored.head.title.clone(),
        kind: settings.kind.into(),
        counts: settings.counts,
        due: terms(&desk.assignment, &desk.work).due,
        state: state_view(&desk.assignment, &desk.work, desk.now),
        corrected: recorded.is_some() && counting.is_some_and(|h| h.recorded != h.recorded_then),
        recorded,
        results_at: results_at(&desk.assignment, &desk.work, desk.now).filter(|_| counting.is_some()),
        late: counting.is_some_and(|h| h.late),
        pass_mark: settings.pass_mark,
        weight: f64::from(settings.weight),
        hand_ins: desk.work.standing_hand_ins().count(),
        receipts: desk.work.standing_hand_ins().map(|h| h.number).collect(),
        minutes_spent: (desk.head.active_seconds + 30) / 60,
        tries_used: tries_shown(&desk.assignment, &desk.work, desk.now),
        questions: desk.assignment.items.len(),
        questions_left: questions_left(&desk.assignment, &desk.work, &desk.drafts, desk.now),
        class_band,
    }
}
