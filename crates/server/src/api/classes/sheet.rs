//! The class sheet: students down, assignments across. As data, and as CSV.

use actix_web::{HttpResponse, get, web};
use coursework::{Kind, Settings, State};
use school::School;
use school::sheet::{Cell, Sheet, sheet};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::api::shared::state::{StateView, view_of};
use crate::api::shared::table::{cell, csv_file};
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct SheetView {
    class_title: String,
    assignments: Vec<SheetAssignment>,
    students: Vec<SheetStudent>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SheetAssignment {
    id: Uuid,
    title: String,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    counts: bool,
    pass_mark: Option<u8>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SheetStudent {
    id: Uuid,
    name: String,
    group: Option<String>,
    #[serde(with = "time::serde::rfc3339::option")]
    last_seen: Option<OffsetDateTime>,
    /// Not for a week, or never.
    unseen: bool,
    /// In the order of the assignments; nothing where one is not for this student.
    cells: Vec<Option<SheetCellView>>,
}

/// Where a student stands in an assignment.
#[derive(Serialize, ToSchema)]
pub(crate) struct SheetCellView {
    state: StateView,
    /// Per cent recorded; before a hand-in, nothing.
    recorded: Option<f64>,
    /// Per cent as the work stands.
    so_far: Option<f64>,
    /// Something of it waits for a person.
    waiting: bool,
    /// Handed in after the due date, or not handed in by then.
    late: bool,
    below_pass: bool,
    tries: u32,
    sets: u32,
    hints: u32,
    minutes: i64,
}

fn cell_view(cell: &Cell, settings: &Settings, now: OffsetDateTime) -> SheetCellView {
    let minutes = (cell.active_seconds + 59) / 60;
    let Some(at) = &cell.at else {
        let closed = now >= settings.closes;
        return SheetCellView {
            state: if closed {
                StateView::ClosedNothingHandedIn
            } else {
                StateView::NotOpened
            },
            recorded: None,
            so_far: None,
            waiting: false,
            late: !closed && now > settings.due,
            below_pass: false,
            tries: 0,
            sets: 0,
            hints: 0,
            minutes,
        };
    };
    let state = at.state(now);
    let overdue = now.unix_timestamp() > at.due;
    SheetCellView {
        state: view_of(state),
        recorded: at.recorded,
        so_far: (state != State::NotOpened).then_some(at.so_far),
        waiting: at.waiting > 0.0,
        late: match at.recorded {
            Some(_) => at.late,
            None => overdue && state != State::Closed,
        },
        below_pass: at
            .recorded
            .zip(settings.pass_mark)
            .is_some_and(|(r, p)| at.waiting == 0.0 && r < f64::from(p)),
        tries: at.tries,
        sets: at.sets,
        hints: at.hints,
        minutes,
    }
}

fn view(class_title: String, sheet: Sheet, now: OffsetDateTime) -> SheetView {
    let columns = sheet.columns;
    let students = sheet.lines.into_iter().map(|line| {
        let cells = line
            .cells
            .iter()
            .zip(&columns)
            .map(|(cell, column)| cell.as_ref().map(|c| cell_view(c, &column.settings, now)));
        let cells = cells.collect();
        let seen = line.member.last_seen;
        SheetStudent {
            id: line.member.person.id.0,
            name: line.member.person.display_name,
            group: line.member.group,
            last_seen: seen,
            unseen: seen.is_none_or(|at| at < now - super::NOT_SEEN_FOR),
            cells,
        }
    });
    let students = students.collect();
    SheetView {
        class_title,
        assignments: columns
            .into_iter()
            .map(|c| SheetAssignment {
                id: c.id,
                title: c.title,
                due: c.settings.due,
                counts: c.settings.counts && c.settings.kind != Kind::Reading,
                pass_mark: c.settings.pass_mark,
            })
            .collect(),
        students,
    }
}

/// Where everybody stands.
#[utoipa::path(path = "/api/classes/{id}/sheet", params(("id" = Uuid, Path)),
    responses((status = 200, body = SheetView), (status = 404, body = Problem)))]
#[get("/classes/{id}/sheet")]
pub(crate) async fn get_sheet(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<SheetView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let sheet = sheet(&school, class.id).await?;
    Ok(web::Json(view(class.title, sheet, school.now())))
}

pub(crate) fn state_words(state: StateView) -> &'static str {
    match state {
        StateView::NotOpened => "Not opened",
        StateView::UnderWay => "Under way",
        StateView::HandedIn => "Handed in",
        StateView::WithTheTeacher => "With the teacher",
        StateView::Marked => "Marked",
        StateView::ClosedNothingHandedIn => "Closed, nothing handed in",
    }
}

fn rows_of(sheet: &SheetView) -> Vec<Vec<String>> {
    let mut head = vec!["Name".to_owned(), "Group".to_owned()];
    for a in &sheet.assignments {
        let title = cell(&a.title);
        for what in ["state", "recorded %", "late", "tries", "minutes"] {
            head.push(format!("{title}: {what}"));
        }
    }
    let mut rows = vec![head];
    for student in &sheet.students {
        let mut row = vec![
            cell(&student.name),
            cell(student.group.as_deref().unwrap_or_default()),
        ];
        for at in &student.cells {
            match at {
                None => row.extend([
                    "not set".into(),
                    String::new(),
                    String::new(),
                    String::new(),
                    String::new(),
                ]),
                Some(c) => row.extend([
                    state_words(c.state).to_owned(),
                    c.recorded.map(|r| format!("{r:.1}")).unwrap_or_default(),
                    if c.late { "late".into() } else { String::new() },
                    c.tries.to_string(),
                    c.minutes.to_string(),
                ]),
            }
        }
        rows.push(row);
    }
    rows
}

/// The sheet as a file.
#[utoipa::path(path = "/api/classes/{id}/sheet.csv", params(("id" = Uuid, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/classes/{id}/sheet.csv")]
pub(crate) async fn get_sheet_csv(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<HttpResponse, ApiError> {
    let class = who.class(&school, *id).await?;
    let sheet = view(class.title, sheet(&school, class.id).await?, school.now());
    csv_file("class-sheet.csv", rows_of(&sheet))
}
