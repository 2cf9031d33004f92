//! The clock: time limits, extra time, moved dates.

use super::*;

fn timed(minutes: u32) -> Bench {
    let mut bench = Bench::opened();
    bench.assignment.settings.time_limit = Some(minutes);
    bench
}

fn time_up(bench: &mut Bench, entries: &[(usize, &str, &str)]) -> Result<(), Refusal> {
    let marked = entries.iter().map(|(question, part, entry)| MarkedQuestion {
        question: *question,
        parts: vec![marked(part, entry)],
    });
    let marked = marked.collect();
    bench.run(&Command::TimeUp { marked })
}

#[test]
fn the_clock_hands_in_once_with_what_was_complete() {
    let mut bench = timed(30);
    assert_eq!(time_up(&mut bench, &[]), Err(Refusal::TimeNotUp));
    bench.now += Duration::minutes(30);
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::TimeUp));
    bench.now += Duration::hours(2);
    time_up(&mut bench, &[(0, "a", "5"), (1, "a", "3 +")]).unwrap();
    assert_eq!(time_up(&mut bench, &[]), Err(Refusal::TimeNotUp), "only once");
    let work = bench.work();
    let hand_in = work.counting_hand_in(&bench.assignment).unwrap();
    assert_eq!((hand_in.recorded.points, hand_in.by_time), (2.0, true));
    assert_eq!(
        work.questions[1].sets[0].tries.len(),
        0,
        "what can't be read is not marked"
    );
    assert_eq!(bench.state(), State::Marked);
}

#[test]
fn a_hand_in_before_the_end_stands() {
    let mut bench = timed(30);
    bench.check(0, &[("a", "5")]).unwrap();
    bench.hand_in().unwrap();
    bench.now += Duration::minutes(31);
    time_up(&mut bench, &[]).unwrap();
    assert_eq!(bench.work().hand_ins.len(), 1);
}

#[test]
fn extra_time_moves_the_end_even_after_it() {
    let mut bench = timed(40);
    bench.now += Duration::minutes(41);
    time_up(&mut bench, &[(0, "a", "5")]).unwrap();
    bench.add(Event::ExceptionGiven(Exception {
        time_percent: Some(150),
        ..Exception::default()
    }));
    bench.check(1, &[("a", "5")]).unwrap();
    bench.now += Duration::minutes(20);
    time_up(&mut bench, &[]).unwrap();
    assert_eq!(
        bench
            .work()
            .counting_hand_in(&bench.assignment)
            .unwrap()
            .recorded
            .points,
        4.0
    );
}

#[test]
fn time_never_runs_past_closing() {
    let mut bench = timed(60);
    bench.assignment.settings.due = noon() + Duration::minutes(10);
    bench.assignment.settings.closes = bench.assignment.settings.due;
    let ends = terms(&bench.assignment, &bench.work()).time_ends;
    assert_eq!(ends, Some(noon() + Duration::minutes(10)));
}

#[test]
fn a_check_that_came_before_the_end_counts_though_the_clock_was_first() {
    let mut bench = timed(30);
    bench.now += Duration::minutes(30);
    time_up(&mut bench, &[]).unwrap();
    bench.now -= Duration::seconds(1);
    bench.check(0, &[("a", "5")]).unwrap();
    let work = bench.work();
    assert_eq!(
        work.counting_hand_in(&bench.assignment).unwrap().recorded.points,
        2.0
    );
    assert_eq!(work.standing_hand_ins().count(), 1);
}

#[test]
fn a_moved_due_date_is_this_students_own() {
    let mut bench = Bench::opened();
    bench.assignment.settings.late = LateRule::PercentOff(50);
    bench.check(0, &[("a", "5")]).unwrap();
    bench.add(Event::ExceptionGiven(Exception {
        due: Some(noon() + Duration::days(6)),
        ..Exception::default()
    }));
    bench.now = noon() + Duration::days(5);
    bench.hand_in().unwrap();
    let hand_in = bench.work().hand_ins[0].clone();
    assert_eq!((hand_in.late, hand_in.recorded.points), (false, 2.0));
}

#[test]
fn more_hand_ins_add_to_what_is_allowed() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hand_ins = Some(1);
    bench.hand_in().unwrap();
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.hand_in(), Err(Refusal::NoHandInsLeft));
    bench.add(Event::ExceptionGiven(Exception {
        more_hand_ins: 1,
        ..Exception::default()
    }));
    bench.hand_in().unwrap();
}
