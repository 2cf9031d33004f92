//! A rubric: the lines a person looks for in an answer, and the points that come of them.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// One line of a rubric, as a question's file has it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RubricLine {
    /// What is looked for, in a few words. Inline Markdown.
    pub say: String,
    /// Its share of the part's points, beside the other lines.
    #[serde(default = "one")]
    #[schemars(range(min = 1, max = 100))]
    pub share: u32,
}

fn one() -> u32 {
    1
}

/// The points of a part worth `worth` points whose rubric has lines with these shares, where the lines `met` (from 0, in
/// any order, each counted once) were found. In hundredths of a point, rounded half up; all lines give exactly `worth`.
///
/// ```
/// use marking::rubric_points;
/// assert_eq!(rubric_points(&[2, 1, 1], &[0, 2], 6.0), 4.5);
/// assert_eq!(rubric_points(&[1, 1, 1], &[0, 1, 2], 4.0), 4.0);
/// ```
pub fn rubric_points(shares: &[u32], met: &[usize], worth: f64) -> f64 {
    let all: u64 = shares.iter().map(|s| u64::from(*s)).sum();
    let found: u64 = shares
        .iter()
        .enumerate()
        .filter(|(line, _)| met.contains(line))
        .map(|(_, s)| u64::from(*s))
        .sum();
    if all == 0 || found == 0 {
        return 0.0;
    }
    if found == all {
        return worth;
    }
    #[expect(clippy::cast_precision_loss, reason = "shares are small")]
    let part = found as f64 / all as f64;
    (worth * part * 100.0).round() / 100.0
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_line_more_never_takes_points_and_order_does_not_matter(
            shares in proptest::collection::vec(1u32..20, 1..12),
            met in proptest::collection::vec(0usize..12, 0..12),
            more in 0usize..12,
            halves in 1u32..60,
        ) {
            let worth = f64::from(halves) / 2.0;
            let points = rubric_points(&shares, &met, worth);
            prop_assert!((0.0..=worth).contains(&points));
            let mut turned = met.clone();
            turned.reverse();
            turned.extend(met.iter().copied());
            prop_assert_eq!(rubric_points(&shares, &turned, worth), points, "twice ticked counts once");
            turned.push(more);
            prop_assert!(rubric_points(&shares, &turned, worth) >= points);
            let every: Vec<usize> = (0..shares.len()).collect();
            prop_assert_eq!(rubric_points(&shares, &every, worth), worth);
            prop_assert_eq!(rubric_points(&shares, &[], worth), 0.0);
        }
    }

    #[test]
    fn without_lines_there_are_no_points() {
        assert_eq!(rubric_points(&[], &[0], 3.0), 0.0);
        assert_eq!(rubric_points(&[1, 2], &[7], 3.0), 0.0);
    }
}
