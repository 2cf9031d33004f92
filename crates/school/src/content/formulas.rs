//! The formula sheets that ship with the application, one a class.

use std::sync::OnceLock;

use serde::{Deserialize, Serialize};

/// One class's formulas.
#[derive(Clone, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
pub struct FormulaSheet {
    pub class: String,
    pub groups: Vec<FormulaGroup>,
}

#[derive(Clone, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
pub struct FormulaGroup {
    pub title: String,
    pub formulas: Vec<Formula>,
}

#[derive(Clone, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
pub struct Formula {
    /// LaTeX.
    pub latex: String,
    pub words: String,
}

static SHEETS: &str = include_str!("../../../../content/formulas.yaml");

/// The formula sheets that ship with the application.
pub fn formula_sheets() -> &'static [FormulaSheet] {
    static READ: OnceLock<Vec<FormulaSheet>> = OnceLock::new();
    READ.get_or_init(|| {
        serde_saphyr::from_str(SHEETS).unwrap_or_else(|e| {
            tracing::error!(cause = %e, "content/formulas.yaml");
            Vec::new()
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_class_of_the_demo_has_its_formula_sheet() {
        let sheets: Vec<FormulaSheet> = serde_saphyr::from_str(SHEETS).unwrap();
        let classes: Vec<&str> = sheets.iter().map(|s| s.class.as_str()).collect();
        assert_eq!(
            classes,
            [
                "Workshop Mathematics",
                "Forces and Motion",
                "Electrics and Control",
                "Site Practice"
            ]
        );
        assert!(
            sheets
                .iter()
                .flat_map(|s| &s.groups)
                .all(|g| !g.formulas.is_empty())
        );
    }
}
