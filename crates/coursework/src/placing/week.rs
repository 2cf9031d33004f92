//! A first week of work after a starting point.

use super::{Stratum, graph::SkillGraph, strata_after};

/// Days that are proposed.
pub const FIRST_WEEK_DAYS: usize = 5;

/// One day of work: a skill to read about and to practise.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DayPlan {
    /// Its place in the graph.
    pub skill: usize,
    /// It counts as known already: a few questions make sure.
    pub make_sure: bool,
}

/// A skill a day: what comes next first, those most skills rest on before others; then what opens once that is learned;
/// then, where all is known, what was least certain.
pub fn first_week(graph: &SkillGraph, known: &[f64]) -> Vec<DayPlan> {
    let all = |known: &[f64], wanted: Stratum| -> Vec<usize> {
        let strata = strata_after(graph, known).into_iter().enumerate();
        strata
            .filter(|(_, s)| *s == wanted)
            .map(|(place, _)| place)
            .collect()
    };
    let plan = |make_sure| move |skill| DayPlan { skill, make_sure };
    let mut days = Vec::new();
    let mut by_then = known.to_vec();
    while days.len() < FIRST_WEEK_DAYS {
        let mut next = all(&by_then, Stratum::Next);
        if next.is_empty() {
            break;
        }
        next.sort_by_key(|place| std::cmp::Reverse(graph.rest_on(*place)));
        for place in &next {
            if let Some(learned) = by_then.get_mut(*place) {
                *learned = 1.0;
            }
        }
        days.extend(next.into_iter().map(plan(false)));
    }
    let mut sure = all(known, Stratum::Known);
    let p = |place: &usize| known.get(*place).copied().unwrap_or(0.0);
    sure.sort_by(|a, b| p(a).total_cmp(&p(b)));
    days.extend(sure.into_iter().map(plan(true)));
    days.truncate(FIRST_WEEK_DAYS);
    days
}
