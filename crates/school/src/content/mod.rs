//! What ships with the application: skills, reading pages with their figures, formula sheets.

mod edited;
mod formulas;
mod pages;
mod recordings;
mod skills;
mod sounds;

pub use edited::refresh;
pub use formulas::{Formula, FormulaGroup, FormulaSheet, formula_sheets};
pub use pages::{find_figure, find_page, shipped_page};
pub use skills::{find_skill, shipped_skills, skills, title_of};
pub use sounds::find_sound;

pub use recordings::{shipped_files, shipped_recordings, ships};
