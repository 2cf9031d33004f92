//! The class sheet: where everybody stands in everything, in three statements.

use std::collections::BTreeMap;

use coursework::{SheetCell, fold, sheet_cell};
use store::{Derived, Member, MemberRole, SheetColumn};
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;

/// A student's line of the sheet.
pub struct SheetLine {
    pub member: Member,
    /// In the order of the columns; `None` where the assignment is not for this student.
    pub cells: Vec<Option<Cell>>,
}

/// Where one student stands in one assignment.
pub struct Cell {
    /// `None` before it was opened.
    pub at: Option<SheetCell>,
    pub active_seconds: i64,
}

pub struct Sheet {
    pub columns: Vec<SheetColumn>,
    pub lines: Vec<SheetLine>,
}

/// The sheet of a class, with the students who are in it. Drafts are left out.
///
/// # Errors
/// What the database said.
pub async fn sheet(school: &School, class: Uuid) -> Result<Sheet, SchoolError> {
    let pool = &school.pool;
    let mut columns = store::reading(|| store::sheet_columns(pool, class)).await?;
    columns.retain(|c| c.given_out);
    let members = store::reading(|| store::members_of(pool, class)).await?;
    let mut works: BTreeMap<(Uuid, Uuid), Cell> = BTreeMap::new();
    for row in store::reading(|| store::sheet_rows(pool, class)).await? {
        let at = match row.cell {
            Some(cell) => Some(cell),
            None => Some(anew(school, row.assignment, row.work).await?),
        };
        let cell = Cell {
            at,
            active_seconds: row.active_seconds,
        };
        works.insert((row.student, row.assignment), cell);
    }
    let students = members
        .into_iter()
        .filter(|m| m.role == MemberRole::Student && m.left_at.is_none());
    let line = |member: Member| {
        let person = member.person.id;
        let cells = columns.iter().map(|column| {
            let work = works.remove(&(person.0, column.id));
            let is_for = column.is_for(person, member.group.as_deref());
            work.or_else(|| {
                is_for.then_some(Cell {
                    at: None,
                    active_seconds: 0,
                })
            })
        });
        let cells = cells.collect();
        SheetLine { member, cells }
    };
    let lines = students.map(line).collect();
    Ok(Sheet { columns, lines })
}

/// A cell that was made with other settings is made again, and written down.
async fn anew(school: &School, assignment: Uuid, work: store::WorkId) -> Result<SheetCell, SchoolError> {
    let stored = school.assignment(assignment, None).await?;
    let events = store::reading(|| store::events_of(&school.pool, work)).await?;
    let state = fold(&stored.assignment, &events);
    let derived = Derived::of(&stored.assignment, &state);
    store::put_derived(&school.pool, work, stored.version, derived).await?;
    Ok(sheet_cell(&stored.assignment, &state))
}
