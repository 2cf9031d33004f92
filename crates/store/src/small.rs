//! Numbers as PostgreSQL keeps them. What does not fit names nothing that is there: it must not wrap round to something
//! that is.

use crate::{Result, StoreError};

/// A place or a count from outside, as it is stored.
pub(crate) fn to_stored(n: usize) -> Result<i32> {
    i32::try_from(n).map_err(|_| StoreError::OutOfRange)
}

pub(crate) fn event_to_stored(n: u32) -> Result<i32> {
    i32::try_from(n).map_err(|_| StoreError::OutOfRange)
}

/// A stored place or count; the schema's checks keep them from being negative.
pub(crate) fn from_stored(n: i32) -> Result<usize> {
    usize::try_from(n).map_err(|_| StoreError::OutOfRange)
}

pub(crate) fn event_from_stored(n: i32) -> Result<u32> {
    u32::try_from(n).map_err(|_| StoreError::OutOfRange)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_does_not_fit_is_refused_and_never_another_number() {
        assert!(matches!(to_stored(usize::MAX), Err(StoreError::OutOfRange)));
        assert!(matches!(event_to_stored(u32::MAX), Err(StoreError::OutOfRange)));
        assert!(matches!(from_stored(-1), Err(StoreError::OutOfRange)));
        assert!(matches!(event_from_stored(-7), Err(StoreError::OutOfRange)));
        assert_eq!(to_stored(7).unwrap(), 7);
        assert_eq!(from_stored(7).unwrap(), 7);
    }
}
