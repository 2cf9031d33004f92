//! Recordings with stops: what is believed, and how far one may go.

use super::*;

fn stops() -> Stops {
    let stop = |id: &str, at: f64| Stop {
        id: id.into(),
        at,
        questions: vec!["q".into()],
    };
    Stops {
        seconds: 60.0,
        stops: vec![stop("one", 20.0), stop("two", 45.0)],
    }
}

fn at(seconds: i64) -> OffsetDateTime {
    noon() + Duration::seconds(seconds)
}

/// Plays from where one is, second by second, for so long.
fn play(watched: &mut Watched, from: f64, clock: &mut i64, seconds: i64) -> Result<(), WatchFault> {
    let mut here = from;
    for _ in 0..seconds / 5 {
        *clock += 5;
        watched.played(&stops(), here, here + 5.0, at(*clock))?;
        here += 5.0;
    }
    Ok(())
}

#[test]
fn it_is_seen_stop_by_stop_to_the_end() {
    let (stops, mut watched, mut clock) = (stops(), Watched::default(), 0);
    watched.go_to(&stops, 0.0, at(0)).unwrap();
    // It halts at the stop, however long it goes on.
    play(&mut watched, 0.0, &mut clock, 20).unwrap();
    assert_eq!((watched.at, stops.may_go_to(&watched)), (20.0, 20.0));
    assert_eq!(
        watched.played(&stops, 24.0, 28.0, at(clock + 5)),
        Err(WatchFault::Ahead)
    );
    assert_eq!(watched.go_to(&stops, 30.0, at(clock)), Err(WatchFault::Ahead));
    assert_eq!(watched.answer(&stops, "two", 0), Err(WatchFault::Ahead));
    watched.answer(&stops, "one", 0).unwrap();
    play(&mut watched, 20.0, &mut clock, 25).unwrap();
    assert!(!stops.is_done(&watched));
    watched.answer(&stops, "two", 0).unwrap();
    play(&mut watched, 45.0, &mut clock, 15).unwrap();
    assert!(stops.is_done(&watched));
    assert_eq!(stops.share(&watched), 1.0);
    // Now anywhere is free.
    watched.go_to(&stops, 50.0, at(clock)).unwrap();
}

#[test]
fn going_back_is_free_and_what_was_seen_twice_counts_once() {
    let (stops, mut watched, mut clock) = (stops(), Watched::default(), 0);
    watched.go_to(&stops, 0.0, at(0)).unwrap();
    play(&mut watched, 0.0, &mut clock, 15).unwrap();
    watched.go_to(&stops, 5.0, at(clock)).unwrap();
    play(&mut watched, 5.0, &mut clock, 10).unwrap();
    assert_eq!(watched.seen, [(0.0, 15.0)]);
    assert_eq!(stops.share(&watched), 0.25);
}

#[test]
fn a_claim_of_more_than_the_time_that_passed_is_not_believed() {
    let (stops, mut watched) = (stops(), Watched::default());
    watched.go_to(&stops, 0.0, at(0)).unwrap();
    assert_eq!(watched.played(&stops, 0.0, 20.0, at(5)), Err(WatchFault::TooFast));
    assert_eq!(watched.seen, []);
    // Twice as fast is as fast as it goes.
    watched.played(&stops, 0.0, 10.0, at(5)).unwrap();
    assert_eq!(
        watched.played(&stops, 10.0, 19.0, at(5)),
        Err(WatchFault::TooFast)
    );
    // Nor does time that passed long ago count: it is told while it plays.
    let mut late = Watched::default();
    late.go_to(&stops, 0.0, at(0)).unwrap();
    let long = Stops {
        seconds: 6_000.0,
        stops: Vec::new(),
    };
    assert_eq!(
        late.played(&long, 0.0, 3_000.0, at(86_400)),
        Err(WatchFault::TooFast)
    );
    // Who never said that it begins has no time that passed.
    assert_eq!(
        Watched::default().played(&stops, 0.0, 5.0, at(5)),
        Err(WatchFault::TooFast)
    );
}

#[rstest]
#[case(f64::NAN, 3.0)]
#[case(0.0, f64::INFINITY)]
#[case(-1.0, 3.0)]
#[case(5.0, 3.0)]
#[case(0.0, 90.0)]
fn nonsense_is_no_place(#[case] from: f64, #[case] to: f64) {
    let (stops, mut watched) = (stops(), Watched::default());
    watched.go_to(&stops, 0.0, at(0)).unwrap();
    assert_eq!(
        watched.played(&stops, from, to, at(500)),
        Err(WatchFault::NoSuchPlace)
    );
    assert_eq!(watched.seen, []);
}

proptest::proptest! {
    /// Whatever is claimed in whatever order: nothing is ever seen beyond a stop that waits, nor more than time allowed.
    #[test]
    fn no_claims_get_past_a_stop_or_the_clock(
        claims in proptest::collection::vec((0.0_f64..70.0, 0.0_f64..70.0, 0_i64..40, 0_u8..4), 1..60),
    ) {
        let (stops, mut watched, mut clock) = (stops(), Watched::default(), 0);
        for (from, to, passed, what) in claims {
            clock += passed;
            let _ = match what {
                0 => watched.go_to(&stops, from, at(clock)),
                1 => watched.answer(&stops, "one", 0),
                _ => watched.played(&stops, from, to, at(clock)),
            };
            let seen: f64 = watched.seen.iter().map(|(from, to)| to - from).sum();
            proptest::prop_assert!(seen <= clock as f64 * FASTEST + SLACK * 60.0);
            let limit = stops.waiting(&watched).map_or(60.0, |s| s.at);
            proptest::prop_assert!(watched.seen.iter().all(|(_, to)| *to <= limit + 1e-9));
            proptest::prop_assert!(watched.seen.windows(2).all(|w| w[0].1 < w[1].0));
            proptest::prop_assert!(!stops.is_done(&watched), "the second stop is never answered here");
        }
    }
}
