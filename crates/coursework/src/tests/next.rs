//! What is next: due work, slips that came back and fading skills, weighed.

use proptest::prelude::*;

use super::*;

fn candidate((hours, left, counts, minutes): (i64, usize, bool, Option<i64>)) -> Candidate {
    Candidate {
        state: State::UnderWay,
        opens: noon() - Duration::days(9),
        due: noon() + Duration::hours(hours),
        closes: noon() + Duration::days(9),
        counts,
        late_accepted: true,
        questions: 30,
        questions_left: left,
        time_ends: minutes.map(|m| noon() + Duration::minutes(m)),
    }
}

fn back(count: usize, hours_ago: i64) -> Waiting {
    Waiting {
        slips_back: count,
        slips_since: Some(noon() - Duration::hours(hours_ago)),
        ..Waiting::default()
    }
}

fn faded(count: usize, hours_ago: i64) -> Waiting {
    Waiting {
        fading: count,
        fading_since: Some(noon() - Duration::hours(hours_ago)),
        ..Waiting::default()
    }
}

#[rstest]
#[case::clock_first(&[(4, 1, true, None), (1, 3, true, Some(20))], 1, Why::ClockRuns)]
#[case::only_hand_in(&[(1, 3, true, None), (1, 0, true, None)], 1, Why::OnlyHandIn)]
#[case::much_left_before_little_left(&[(96, 1, true, None), (97, 30, true, None)], 1, Why::DueFirst { left: 30, begun: true })]
#[case::overdue(&[(5, 2, true, None), (-1, 2, true, None)], 1, Why::Overdue { left: 2, begun: true })]
#[case::what_counts_first(&[(2, 2, false, None), (48, 2, true, None)], 1, Why::DueFirst { left: 2, begun: true })]
#[case::practice_when_nothing_else(&[(2, 2, false, None)], 0, Why::Practice { left: 2 })]
fn next_weighs_due_time_and_what_is_left(
    #[case] given: &[(i64, usize, bool, Option<i64>)],
    #[case] chosen: usize,
    #[case] why: Why,
) {
    let candidates: Vec<Candidate> = given.iter().copied().map(candidate).collect();
    let found = next(&candidates, &Waiting::default(), noon());
    assert_eq!(found, Some(Choice::Work(chosen, why)));
}

#[test]
fn nothing_is_next_when_nothing_waits() {
    assert_eq!(next(&[], &Waiting::default(), noon()), None);
}

fn begins(hours: i64, left: i64) -> OffsetDateTime {
    noon() + Duration::hours(hours) - Duration::minutes(8 * left)
}

#[test]
fn slips_that_came_back_come_before_work_that_has_days() {
    let work = [candidate((96, 5, true, None))];
    let found = next(&work, &back(3, 5), noon());
    let since = noon() - Duration::hours(5);
    let until = Some(begins(96, 5));
    assert_eq!(
        found,
        Some(Choice::SlipsBack {
            count: 3,
            since,
            until
        })
    );
}

#[test]
fn slips_wait_for_work_that_has_to_be_begun_within_hours_however_old_they_are() {
    let work = [candidate((10, 2, true, None))];
    let found = next(&work, &back(9, 24 * 30), noon());
    let why = Why::DueFirst { left: 2, begun: true };
    assert_eq!(found, Some(Choice::Work(0, why)));
}

#[rstest]
#[case::before_work_that_has_a_week(24 * 7, true)]
#[case::after_work_of_the_day(20, false)]
fn fading_skills_are_weighed_too(#[case] due_hours: i64, #[case] fading_first: bool) {
    let work = [candidate((due_hours, 1, true, None))];
    let found = next(&work, &faded(2, 24), noon());
    assert_eq!(
        matches!(found, Some(Choice::Fading { count: 2, .. })),
        fading_first
    );
}

#[test]
fn slips_come_before_skills_that_fade_and_both_before_practice_that_does_not_count() {
    let work = [candidate((2, 5, false, None))];
    let both = Waiting {
        fading: 1,
        fading_since: Some(noon() - Duration::hours(2)),
        ..back(1, 2)
    };
    assert!(matches!(
        next(&work, &both, noon()),
        Some(Choice::SlipsBack { until: None, .. })
    ));
    assert!(matches!(
        next(&work, &faded(1, 2), noon()),
        Some(Choice::Fading { until: None, .. })
    ));
}

fn any_candidate() -> impl Strategy<Value = Candidate> {
    (-50i64..200, 0usize..12, any::<bool>()).prop_map(|(h, left, counts)| candidate((h, left, counts, None)))
}

proptest! {
    /// Something is named whenever something waits, and it is a thing that waits.
    #[test]
    fn what_is_next_is_there_and_waits(
        work in proptest::collection::vec(any_candidate(), 0..6),
        slips in 0usize..4,
        fading in 0usize..4,
        hours in 0i64..400,
    ) {
        let beside = Waiting {
            slips_back: slips,
            slips_since: (slips > 0).then(|| noon() - Duration::hours(hours)),
            fading,
            fading_since: (fading > 0).then(|| noon() - Duration::hours(hours)),
        };
        let found = next(&work, &beside, noon());
        let waits = slips + fading > 0 || work.iter().any(|c| c.is_waiting(noon()));
        prop_assert_eq!(found.is_some(), waits);
        match found {
            Some(Choice::Work(place, _)) => prop_assert!(work[place].is_waiting(noon())),
            Some(Choice::SlipsBack { count, .. }) => prop_assert!(count == slips && slips > 0),
            Some(Choice::Fading { count, .. }) => prop_assert!(count == fading && fading > 0),
            None => {}
        }
    }
}
