//! Which tools an assignment allows.

use serde::Serialize;
use utoipa::ToSchema;

#[derive(Serialize, ToSchema)]
pub(crate) struct ToolsView {
    pub calculator: bool,
    pub formula_sheet: bool,
    pub typing_guide: bool,
    pub reading: bool,
}

impl From<coursework::Tools> for ToolsView {
    fn from(tools: coursework::Tools) -> Self {
        ToolsView {
            calculator: tools.calculator,
            formula_sheet: tools.formula_sheet,
            typing_guide: tools.typing_guide,
            reading: tools.reading,
        }
    }
}
