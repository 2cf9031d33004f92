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

/// A skill a day: what comes next first, those most skills rest on before others; then, where fewer than five come next,
/// what was least certain of the known.
pub fn first_week(graph: &SkillGraph, known: &[f64]) -> Vec<DayPlan> {
    let strata = strata_after(graph, known);
    let all = |wanted: Stratum| {
        let of = strata.iter().enumerate().filter(move |(_, s)| **s == wanted);
        of.map(|(place, _)| place)
    };
    let mut next: Vec<usize> = all(Stratum::Next).collect();
    next.sort_by_key(|place| std::cmp::Reverse(graph.rest_on(*place)));
    let mut sure: Vec<usize> = all(Stratum::Known).collect();
    let p = |place: &usize| known.get(*place).copied().unwrap_or(0.0);
    sure.sort_by(|a, b| p(a).total_cmp(&p(b)));
    let plan = |make_sure| move |skill| DayPlan { skill, make_sure };
    let days = next
        .into_iter()
        .map(plan(false))
        .chain(sure.into_iter().map(plan(true)));
    days.take(FIRST_WEEK_DAYS).collect()
}
