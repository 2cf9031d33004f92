//! How a question of an assignment went, over all who worked on it.

use crate::work::Work;

/// Counts are of students, but for sets, checks and hints.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct QuestionWent {
    /// Had something judged in it.
    pub tried: u32,
    /// The first check on the first set was right.
    pub right_first: u32,
    /// A set was right in the end.
    pub right_in_the_end: u32,
    /// Sets on which something was judged.
    pub sets: u32,
    /// Checks in which something was judged.
    pub checks: u32,
    pub hints: u32,
}

/// The middle of what was spent, in seconds; where two stand in the middle, the lower. `None` where nobody spent any.
pub fn middle_seconds(mut spent: Vec<i64>) -> Option<i64> {
    spent.retain(|s| *s > 0);
    spent.sort_unstable();
    spent.get(spent.len().checked_sub(1)? / 2).copied()
}

/// How a question (its place from 0) went.
pub fn question_went<'a>(works: impl Iterator<Item = &'a Work>, question: usize) -> QuestionWent {
    let mut went = QuestionWent::default();
    for state in works.filter_map(|w| w.questions.get(question)) {
        let judged = |set: &crate::work::SetState| set.tries.iter().filter(|t| t.judged).count();
        let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
        went.hints += count(state.sets.iter().map(|s| s.hints).sum());
        if state.sets.iter().all(|s| judged(s) == 0) {
            continue;
        }
        went.tried += 1;
        let first = state.sets.first().and_then(|s| s.tries.iter().find(|t| t.judged));
        went.right_first += u32::from(first.is_some_and(|t| t.all_right));
        went.right_in_the_end += u32::from(state.sets.iter().any(crate::work::SetState::is_right));
        went.sets += count(state.sets.iter().filter(|s| judged(s) > 0).count());
        went.checks += count(state.sets.iter().map(judged).sum());
    }
    went
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_middle_is_of_those_who_spent_something() {
        assert_eq!(middle_seconds(vec![]), None);
        assert_eq!(middle_seconds(vec![0, 0]), None);
        assert_eq!(middle_seconds(vec![0, 90]), Some(90));
        assert_eq!(middle_seconds(vec![30, 400, 60]), Some(60));
        assert_eq!(middle_seconds(vec![400, 30, 60, 90]), Some(60));
    }
}
