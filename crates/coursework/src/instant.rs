//! Instants as they are written down in digests: microseconds since 1970, in 64 bits. PostgreSQL keeps no more of them.

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use time::OffsetDateTime;

fn micros(at: &OffsetDateTime) -> i64 {
    // Within a quarter of a million years; the calendar of `OffsetDateTime` ends before that.
    i64::try_from(at.unix_timestamp_nanos() / 1_000).unwrap_or(i64::MAX)
}

fn instant<E: serde::de::Error>(micros: i64) -> Result<OffsetDateTime, E> {
    OffsetDateTime::from_unix_timestamp_nanos(i128::from(micros) * 1_000).map_err(E::custom)
}

pub(crate) fn serialize<S: Serializer>(at: &OffsetDateTime, to: S) -> Result<S::Ok, S::Error> {
    micros(at).serialize(to)
}

pub(crate) fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<OffsetDateTime, D::Error> {
    instant(i64::deserialize(from)?)
}

pub(crate) mod option {
    use super::{Deserialize, Deserializer, OffsetDateTime, Serialize, Serializer, instant, micros};

    pub(crate) fn serialize<S: Serializer>(at: &Option<OffsetDateTime>, to: S) -> Result<S::Ok, S::Error> {
        at.as_ref().map(micros).serialize(to)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(
        from: D,
    ) -> Result<Option<OffsetDateTime>, D::Error> {
        Option::<i64>::deserialize(from)?.map(instant).transpose()
    }
}
