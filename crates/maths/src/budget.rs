//! A bound on the work that one entry may cost, whatever it is.
//!
//! Every step of evaluation and of the normal form is counted, weighted by about how long it takes; when the steps are
//! spent, nothing is decided any more and the entry is too hard to work out. Steps are counted, not timed, so that the
//! verdict is the same on every machine and in every run.

use std::cell::Cell;

thread_local! {
    static LEFT: Cell<u64> = const { Cell::new(u64::MAX) };
    static UNDECIDED: Cell<bool> = const { Cell::new(false) };
}

/// Steps that may be taken while it lives; without one, there is no bound. Budgets nest: the inner one never gives more
/// than the outer one has left.
pub struct Budget {
    given: u64,
    outer: u64,
}

impl Budget {
    /// ```
    /// let budget = maths::Budget::of(10);
    /// assert!(!maths::Budget::is_spent());
    /// ```
    #[must_use]
    pub fn of(steps: u64) -> Budget {
        let outer = LEFT.get();
        let given = steps.min(outer);
        LEFT.set(given);
        Budget { given, outer }
    }

    /// Steps taken since it was given.
    pub fn used(&self) -> u64 {
        self.given - LEFT.get().min(self.given)
    }

    /// Nothing more can be worked out.
    pub fn is_spent() -> bool {
        LEFT.get() == 0
    }
}

impl Drop for Budget {
    fn drop(&mut self) {
        let used = self.used();
        // Without an outer bound nothing is counted on.
        LEFT.set(if self.outer == u64::MAX {
            u64::MAX
        } else {
            self.outer - used.min(self.outer)
        });
    }
}

/// Takes steps; `false` once they are spent.
pub(crate) fn spend(steps: u64) -> bool {
    let left = LEFT.get();
    if left == u64::MAX {
        return true;
    }
    LEFT.set(left.saturating_sub(steps));
    left > steps
}

/// Notes that something could not be decided, for whoever watches.
pub fn note_undecided() {
    UNDECIDED.set(true);
}

/// Runs something and tells whether a comparison in it stayed undecided.
pub fn watching_decisions<T>(work: impl FnOnce() -> T) -> (T, bool) {
    let before = UNDECIDED.replace(false);
    let result = work();
    let undecided = UNDECIDED.replace(before);
    (result, undecided)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn steps_are_counted_and_end() {
        let budget = Budget::of(3);
        assert!(spend(2));
        assert!(!spend(2));
        assert!(Budget::is_spent());
        assert_eq!(budget.used(), 3);
    }

    #[test]
    fn without_a_budget_there_is_no_end() {
        assert!(spend(u64::MAX - 1));
        assert!(spend(u64::MAX - 1));
        assert!(!Budget::is_spent());
    }

    #[test]
    fn an_inner_budget_takes_from_the_outer_one() {
        let outer = Budget::of(10);
        {
            let inner = Budget::of(100);
            assert!(spend(4));
            assert_eq!(inner.used(), 4);
        }
        assert_eq!(outer.used(), 4);
        assert!(spend(5));
        assert!(!spend(5));
    }

    #[test]
    fn a_small_inner_budget_leaves_the_outer_one_its_rest() {
        let outer = Budget::of(10);
        {
            let _inner = Budget::of(2);
            assert!(!spend(5));
        }
        assert_eq!(outer.used(), 2);
        assert!(spend(3));
    }

    #[test]
    fn what_stays_undecided_is_told_once_and_to_the_one_who_watches() {
        let (inner, outer_saw) = watching_decisions(|| watching_decisions(note_undecided).1);
        assert!(inner);
        assert!(!outer_saw);
        assert!(!watching_decisions(|| ()).1);
    }
}
