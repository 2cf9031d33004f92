use super::*;

#[rstest]
#[case::winter("2027-01-10T23:59", "Europe/Oslo", "2027-01-10T23:59")]
#[case::the_hour_that_comes_twice("2027-10-31T02:30", "Europe/Oslo", "2027-10-31T02:30")]
#[case::the_hour_that_never_comes("2027-03-28T02:30", "Europe/Oslo", "2027-03-28T03:30")]
#[case::no_summer_time("2027-06-01T08:00", "Etc/UTC", "2027-06-01T08:00")]
fn a_clock_on_the_wall_and_back(#[case] local: &str, #[case] zone: &str, #[case] shown: &str) {
    let at = from_local(local, zone).unwrap();
    assert_eq!(to_local(at, zone).unwrap(), shown);
}

#[test]
fn a_date_moved_over_the_change_of_clocks_stays_at_its_time() {
    let at = from_local("2027-03-20T23:59", "Europe/Oslo").unwrap();
    let there = moved(at, "Europe/Oslo", 14).unwrap();
    assert_eq!(to_local(there, "Europe/Oslo").unwrap(), "2027-04-03T23:59");
    assert_eq!(there - at, Duration::days(14) - Duration::hours(1));
    assert_eq!(moved(there, "Europe/Oslo", -14).unwrap(), at);
}

#[test]
fn what_is_no_date_or_no_zone_is_said() {
    assert_eq!(
        from_local("tomorrow", "Etc/UTC"),
        Err(CalendarFault::NoDate("tomorrow".into()))
    );
    assert_eq!(
        from_local("2027-01-10T23:59", "Skerry/Sound"),
        Err(CalendarFault::NoZone("Skerry/Sound".into()))
    );
    assert_eq!(moved(noon(), "Etc/UTC", i64::MAX), Err(CalendarFault::TooFar));
    assert!(is_zone("Europe/Oslo") && !is_zone("") && !is_zone("../etc/passwd"));
}
