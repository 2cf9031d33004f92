//! What the variables may be.

use std::collections::BTreeMap;
use std::sync::Arc;

use num_rational::BigRational;
use num_traits::Signed;

use crate::normal::Normaliser;

/// What a variable may be.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub enum Range {
    #[default]
    Real,
    Positive,
    Nonnegative,
    Integer,
    PositiveInteger,
    NonnegativeInteger,
    /// From the first to the second, both included.
    Between(BigRational, BigRational),
}

/// Ranges by variable; a variable without one is any real number.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Domain(pub BTreeMap<Arc<str>, Range>);

impl Domain {
    pub(crate) fn range(&self, name: &str) -> &Range {
        self.0.get(name).unwrap_or(&Range::Real)
    }

    pub(crate) fn is_whole(&self, name: &str) -> bool {
        matches!(
            self.range(name),
            Range::Integer | Range::PositiveInteger | Range::NonnegativeInteger
        )
    }

    fn is_positive(&self, name: &str) -> bool {
        match self.range(name) {
            Range::Positive | Range::Nonnegative | Range::PositiveInteger | Range::NonnegativeInteger => true,
            Range::Between(low, _) => !low.is_negative(),
            Range::Real | Range::Integer => false,
        }
    }

    pub(crate) fn normaliser(&self) -> Normaliser {
        let pick =
            |test: &dyn Fn(&str) -> bool| self.0.keys().filter(|n| test(n)).cloned().collect::<Vec<_>>();
        Normaliser::new(pick(&|n| self.is_positive(n)), pick(&|n| self.is_whole(n)))
    }
}
