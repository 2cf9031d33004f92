//! What a request may bring.

/// A picture.
pub(crate) const LARGEST_PICTURE: usize = 8 * 1024 * 1024;
