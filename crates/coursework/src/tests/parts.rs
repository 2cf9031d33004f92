//! Parts that open once an earlier one is right, or has no tries left.

use super::*;

/// Part b of the second question opens after part a, which has two tries of its own.
fn waiting() -> Bench {
    let mut bench = Bench::opened();
    let parts = &mut bench.assignment.items[1].parts;
    parts[0].max_attempts = Some(2);
    parts[1].opens_after = Some("a".into());
    bench
}

fn waits(bench: &Bench) -> Option<String> {
    let work = bench.work();
    let set = work.questions[1].current().unwrap();
    waits_for(&bench.assignment, 1, set, "b").map(str::to_owned)
}

#[test]
fn a_part_that_waits_is_left_out_of_a_check_and_opens_when_the_earlier_one_is_right() {
    let mut bench = waiting();
    assert_eq!(waits(&bench).as_deref(), Some("a"));
    assert_eq!(bench.check(1, &[("b", "5")]), Err(Refusal::NothingEntered));
    bench.check(1, &[("a", "5"), ("b", "1")]).unwrap();
    let set = bench.work().questions[1].current().unwrap().clone();
    assert!(set.parts[1].last.is_none(), "b was marked before it was open");
    assert_eq!(waits(&bench), None);
    bench.check(1, &[("b", "5")]).unwrap();
    assert!(bench.work().questions[1].current().unwrap().is_right());
}

#[test]
fn it_opens_too_when_the_earlier_one_has_no_tries_left() {
    let mut bench = waiting();
    bench.check(1, &[("a", "1")]).unwrap();
    assert_eq!(waits(&bench).as_deref(), Some("a"));
    bench.check(1, &[("a", "2")]).unwrap();
    assert_eq!(waits(&bench), None);
    bench.check(1, &[("b", "5")]).unwrap();
}

#[test]
fn where_nothing_is_told_before_hand_in_every_part_is_open() {
    let mut bench = waiting();
    bench.assignment.settings.checking = Checking::Simultaneous;
    assert_eq!(waits(&bench), None);
}

#[test]
fn what_was_given_before_goes_along_for_what_follows_from_it() {
    let mut bench = waiting();
    bench.check(1, &[("a", "4")]).unwrap();
    bench.check(1, &[("a", "6")]).unwrap();
    let response = Response::Text("9".into());
    let wanted = prepare_check(
        &bench.assignment,
        &bench.work(),
        1,
        &[("b".into(), response)],
        noon(),
    )
    .unwrap();
    assert_eq!(wanted.earlier, [("a".to_owned(), Response::Text("6".into()))]);
    assert!(!wanted.at_end);
}
