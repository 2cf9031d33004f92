//! Dates as a class's clock on the wall shows them, and instants. The rules of the zones (IANA) are compiled in.

use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use time::OffsetDateTime;

/// Why something is no date here.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CalendarFault {
    #[error("there is no time zone `{0}`")]
    NoZone(String),
    #[error("`{0}` is no date and time like 2027-03-01T23:59")]
    NoDate(String),
    #[error("this date is too far away")]
    TooFar,
}

fn zone_of(zone: &str) -> Result<TimeZone, CalendarFault> {
    TimeZone::get(zone).map_err(|_| CalendarFault::NoZone(zone.to_owned()))
}

/// Whether there is a time zone of this name.
pub fn is_zone(zone: &str) -> bool {
    zone_of(zone).is_ok()
}

fn offset(at: Timestamp) -> Result<OffsetDateTime, CalendarFault> {
    OffsetDateTime::from_unix_timestamp(at.as_second()).map_err(|_| CalendarFault::TooFar)
}

/// The instant at which a clock in the zone shows this (`2027-03-01T23:59`). Where it shows it twice, the first time; where
/// it never does, as much later as the clock was put forward.
///
/// # Errors
/// If there is no such zone, or this is no date and time.
///
/// ```
/// let at = coursework::from_local("2027-03-01T23:59", "Europe/Oslo").unwrap();
/// assert_eq!(coursework::to_local(at, "Etc/UTC").unwrap(), "2027-03-01T22:59");
/// ```
pub fn from_local(local: &str, zone: &str) -> Result<OffsetDateTime, CalendarFault> {
    let no_date = || CalendarFault::NoDate(local.to_owned());
    let local: DateTime = local.trim().parse().map_err(|_| no_date())?;
    let at = zone_of(zone)?
        .to_timestamp(local)
        .map_err(|_| CalendarFault::TooFar)?;
    offset(at)
}

/// What a clock in the zone shows at an instant, to the minute: `2027-03-01T23:59`.
///
/// # Errors
/// If there is no such zone.
pub fn to_local(at: OffsetDateTime, zone: &str) -> Result<String, CalendarFault> {
    let at = Timestamp::from_second(at.unix_timestamp()).map_err(|_| CalendarFault::TooFar)?;
    let local = zone_of(zone)?.to_datetime(at);
    Ok(local.strftime("%Y-%m-%dT%H:%M").to_string())
}

/// The same time on the wall so many days later, or earlier below nought.
///
/// # Errors
/// If there is no such zone, or the date leaves the calendar.
pub fn moved(at: OffsetDateTime, zone: &str, days: i64) -> Result<OffsetDateTime, CalendarFault> {
    let zone = zone_of(zone)?;
    let at = Timestamp::from_second(at.unix_timestamp()).map_err(|_| CalendarFault::TooFar)?;
    let days = i32::try_from(days).map_err(|_| CalendarFault::TooFar)?;
    let local = zone.to_datetime(at);
    let there = local
        .checked_add(days.days())
        .map_err(|_| CalendarFault::TooFar)?;
    offset(zone.to_timestamp(there).map_err(|_| CalendarFault::TooFar)?)
}
